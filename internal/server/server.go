// Package server is the HTTP interface: it decodes, calls a use case, and
// encodes. Nothing of the job is decided here.
package server

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"amberproof/internal/app"
	"amberproof/internal/job"
	"amberproof/internal/store"
	"amberproof/web"
)

// Server answers HTTP requests for an app.
type Server struct {
	app      *app.App
	log      *slog.Logger
	engine   *gin.Engine
	api      huma.API
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
}

// New makes a server.
func New(a *app.App, log *slog.Logger) (*Server, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &Server{app: a, log: log, engine: gin.New()}
	reg := prometheus.NewRegistry()
	s.requests = prometheus.NewCounterVec(prometheus.CounterOpts{Name: "amberproof_requests_total", Help: "HTTP requests by route and status."}, []string{"route", "status"})
	s.seconds = prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "amberproof_request_seconds", Help: "Time to answer, by route."}, []string{"route"})
	reg.MustRegister(s.requests, s.seconds, newRunCollector(a))
	s.engine.Use(gin.CustomRecovery(s.recovered), s.observe, localOnly)
	s.engine.MaxMultipartMemory = 32 << 20

	cfg := huma.DefaultConfig("Amber Proof", "0.1")
	cfg.DocsPath = "" // its page would load scripts from elsewhere
	cfg.SchemasPath = ""
	cfg.CreateHooks = nil
	s.api = humagin.New(s.engine, cfg)
	s.scenes()
	s.jobs()
	s.runs()
	s.raw()
	s.engine.GET("/metrics", gin.WrapH(promhttp.HandlerFor(reg, promhttp.HandlerOpts{})))
	s.engine.GET("/healthz", s.health)
	return s, s.frontEnd()
}

// Handler is the server as an http.Handler.
func (s *Server) Handler() http.Handler { return s.engine }

// OpenAPI is the description of the interface, as JSON.
func (s *Server) OpenAPI() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }

// recovered answers a programming error without telling its inside.
func (s *Server) recovered(c *gin.Context, err any) {
	s.log.Error("a request failed by a programming error", "path", c.Request.URL.Path, "error", err)
	c.AbortWithStatusJSON(http.StatusInternalServerError, gin.H{"title": "Internal error", "status": 500, "detail": "Something went wrong inside; the server's log says what."})
}

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
		c.AbortWithStatusJSON(http.StatusForbidden, gin.H{"title": "Forbidden", "status": 403, "detail": "This server answers on loopback addresses only."})
		return
	}
	if o := c.GetHeader("Origin"); o != "" {
		if u, err := url.Parse(o); err != nil || u.Host != c.Request.Host {
			c.AbortWithStatusJSON(http.StatusForbidden, gin.H{"title": "Forbidden", "status": 403, "detail": "Requests from other sites are not answered."})
			return
		}
	}
	h := c.Writer.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; frame-ancestors 'none'")
	h.Set("Referrer-Policy", "same-origin")
	c.Next()
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

func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := s.app.Store.Ping(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"status": "database down"})
		return
	}
	c.JSON(http.StatusOK, gin.H{"status": "ok"})
}

// problem turns an error into an HTTP one, in words for people (RFC 9457).
func (s *Server) problem(err error) error {
	var b *app.BadInputError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &b):
		var details []error
		for _, f := range b.Faults {
			details = append(details, &huma.ErrorDetail{Location: f.Path, Message: f.Message})
		}
		return huma.Error422UnprocessableEntity(b.Message, details...)
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(err.Error())
	case errors.Is(err, store.ErrChanged), errors.Is(err, store.ErrState), errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict(err.Error())
	case errors.Is(err, context.Canceled):
		return huma.NewError(499, "the request was given up")
	}
	s.log.Error("a request failed", "error", err)
	return huma.Error500InternalServerError("Something went wrong inside; the server's log says what.")
}

// frontEnd serves the built pages; every address that is not a file is the
// application's own and gets its page.
func (s *Server) frontEnd() error {
	dist, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		return err
	}
	files := http.FileServerFS(dist)
	s.engine.NoRoute(func(c *gin.Context) {
		p := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(p, "api/") {
			c.JSON(http.StatusNotFound, gin.H{"title": "Not found", "status": 404, "detail": "There is nothing at this address."})
			return
		}
		if f, err := fs.Stat(dist, p); err == nil && !f.IsDir() {
			if strings.HasPrefix(p, "assets/") { // named by content
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(c.Writer, c.Request)
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

// op describes an operation.
func op(method, path, id, summary string) huma.Operation {
	return huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary, MaxBodyBytes: 8 << 20}
}

// Reply is a JSON answer.
type Reply[T any] struct{ Body T }

func reply[T any](v T) *Reply[T] { return &Reply[T]{v} }

// ByID is the input of operations on one thing.
type ByID struct {
	ID int64 `path:"id"`
}

type settingsBody struct {
	Settings []job.Setting `json:"settings" nullable:"false"`
	Presets  []job.Preset  `json:"presets" nullable:"false"`
	Default  job.Ticket    `json:"default"`
	Version  string        `json:"version"`
}
