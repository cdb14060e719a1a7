package server

import (
	"net"
	"net/http"
	"net/url"
	"runtime/debug"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"amberproof/core/parallel"
)

// recovered answers a programming error without telling its inside.
func (s *Server) recovered(c *gin.Context, err any) {
	stack := string(debug.Stack())
	if p, ok := err.(*parallel.Panic); ok { // raised in another goroutine
		stack = p.Stack
	}
	s.log.Error("a request failed by a programming error", "path", c.Request.URL.Path, "error", err, "stack", stack)
	refuse(c, http.StatusInternalServerError, "Something went wrong inside; the server's log says what.")
}

// observe counts requests.
func (s *Server) observe(c *gin.Context) {
	began := time.Now()
	c.Next()
	route := c.FullPath()
	if route == "" {
		route = "other"
	}
	s.requests.WithLabelValues(route, http.StatusText(c.Writer.Status())).Inc()
	s.seconds.WithLabelValues(route).Observe(time.Since(began).Seconds())
	if c.Writer.Status() >= 500 {
		s.log.Warn("request", "method", c.Request.Method, "path", c.Request.URL.Path, "status", c.Writer.Status())
	}
}

// sameSite refuses requests that a page of another site makes in the user's
// browser: those with a foreign Host (DNS rebinding) or Origin.
func (s *Server) sameSite(c *gin.Context) {
	if !loopback(c.Request.Host) && (s.site == nil || c.Request.Host != s.site.Host) {
		refuse(c, http.StatusForbidden, "This server does not answer under that name.")
		return
	}
	// A page of another site may lead here, but not fetch, show or start anything: a GET
	// sends no Origin, and may ask for work that takes minutes.
	if from := c.GetHeader("Sec-Fetch-Site"); (from == "cross-site" || from == "same-site") && !leadsHere(c.Request) {
		refuse(c, http.StatusForbidden, "Requests from other sites are not answered.")
		return
	}
	if o := c.GetHeader("Origin"); o != "" {
		if u, err := url.Parse(o); err != nil || u.Host != c.Request.Host {
			refuse(c, http.StatusForbidden, "Requests from other sites are not answered.")
			return
		}
	}
}

// here answers on this machine only, whoever is signed in.
func (s *Server) here(c *gin.Context) {
	if !loopback(c.Request.Host) {
		c.AbortWithStatus(http.StatusNotFound)
	}
}

// leadsHere reports whether a request opens a page of ours, as a link does.
func leadsHere(r *http.Request) bool {
	return r.Method == http.MethodGet && r.Header.Get("Sec-Fetch-Mode") == "navigate" && r.Header.Get("Sec-Fetch-Dest") == "document" &&
		!strings.HasPrefix(r.URL.Path, "/api/")
}

// loopback reports whether a Host header names this machine. Names are not resolved:
// an attacker's may resolve to 127.0.0.1.
func loopback(hostport string) bool {
	host, _, err := net.SplitHostPort(hostport)
	if err != nil {
		host = hostport
	}
	if host == "localhost" {
		return true
	}
	ip := net.ParseIP(strings.Trim(host, "[]"))
	return ip != nil && ip.IsLoopback()
}

// protect says what a browser may do with an answer.
func (s *Server) protect(c *gin.Context) {
	h := c.Writer.Header()
	if s.site != nil {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; frame-ancestors 'none'")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
}
