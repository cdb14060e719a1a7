package server

import (
	"io/fs"
	"net"
	"net/http"
	"net/url"
	"path"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"amberproof/internal/identity"
	"amberproof/web"
)

// recovered answers a programming error without telling its inside.
func (s *Server) recovered(c *gin.Context, err any) {
	s.log.Error("a request failed by a programming error", "path", c.Request.URL.Path, "error", err)
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

// localOnly refuses requests that a page of another site makes in the user's
// browser: those with a foreign Host (DNS rebinding) or Origin.
func localOnly(c *gin.Context) {
	if !loopback(c.Request.Host) {
		refuse(c, http.StatusForbidden, "This server answers on loopback addresses only.")
		return
	}
	if o := c.GetHeader("Origin"); o != "" {
		if u, err := url.Parse(o); err != nil || u.Host != c.Request.Host {
			refuse(c, http.StatusForbidden, "Requests from other sites are not answered.")
			return
		}
	}
}

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
func protect(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; frame-ancestors 'none'")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
}

// identify says who acts: without accounts, the one person of this machine.
func identify(c *gin.Context) {
	c.Request = c.Request.WithContext(identity.With(c.Request.Context(), identity.Local))
}

// idle is how long a request may go without a byte being read or written.
const idle = 60 * time.Second

// patience cuts off who sends or takes nothing for too long. Handlers that move
// much data go on as long as some moves.
func patience(c *gin.Context) {
	w := &patientWriter{ResponseWriter: c.Writer, control: http.NewResponseController(c.Writer)}
	w.extend()
	c.Writer = w
	c.Request.Body = &patientBody{body: c.Request.Body, control: w.control}
}

type patientWriter struct {
	gin.ResponseWriter
	control *http.ResponseController
	until   time.Time
}

func (w *patientWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// extend moves both deadlines on; a writer without deadlines has none to move.
func (w *patientWriter) extend() {
	if now := time.Now(); w.until.Sub(now) < idle-time.Second {
		w.until = now.Add(idle)
		_ = w.control.SetWriteDeadline(w.until)
		_ = w.control.SetReadDeadline(w.until)
	}
}

func (w *patientWriter) Write(b []byte) (int, error) {
	w.extend()
	return w.ResponseWriter.Write(b)
}

func (w *patientWriter) WriteString(s string) (int, error) {
	w.extend()
	return w.ResponseWriter.WriteString(s)
}

// frontEnd serves the built pages: files as they are, and for what else a
// browser asks for as a page the application's own, which knows its addresses.
func (s *Server) frontEnd() error {
	dist, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		return err
	}
	files := http.FileServerFS(dist)
	s.engine.NoRoute(func(c *gin.Context) {
		p := strings.TrimPrefix(c.Request.URL.Path, "/")
		if f, err := fs.Stat(dist, p); err == nil && !f.IsDir() {
			if strings.HasPrefix(p, "assets/") { // named by content
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(c.Writer, c.Request)
			return
		}
		get := c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead
		if !get || strings.HasPrefix(p, "api/") || path.Ext(p) != "" || !strings.Contains(c.GetHeader("Accept"), "text/html") {
			refuse(c, http.StatusNotFound, "There is nothing at this address.")
			return
		}
		page, err := fs.ReadFile(dist, "index.html")
		if err != nil {
			c.String(http.StatusNotFound, "The front end has not been built; ./run builds it.")
			return
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", page)
	})
	return nil
}
