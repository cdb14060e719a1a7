// Package server is the HTTP interface: it decodes, calls a use case, and
// encodes. Nothing of the job is decided here. Who acts is put into the
// request's context by a chain of middleware; use cases ask what they may do.
package server

import (
	"context"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"reflect"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"amberproof/internal/app"
	"amberproof/internal/identity"
)

// Server answers HTTP requests for an app.
type Server struct {
	app       *app.App
	log       *slog.Logger
	engine    *gin.Engine
	api       huma.API
	requests  *prometheus.CounterVec
	seconds   *prometheus.HistogramVec
	sessions  *scs.SessionManager
	sockets   chan struct{} // one entry for each open web socket
	beatEvery time.Duration // how often each is looked after
	pictured  chan struct{} // and for each live picture
	site      *url.URL      // where people reach it from elsewhere; nil: nowhere
	names     map[string]string
}

// New makes a server.
func New(a *app.App, log *slog.Logger) (*Server, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &Server{app: a, log: log, engine: gin.New(), sockets: make(chan struct{}, mostSockets), beatEvery: beatEvery, pictured: make(chan struct{}, mostLive)}
	s.sessions = newSessions(a.Sessions())
	if err := s.engine.SetTrustedProxies(nil); err != nil {
		return nil, err
	}
	reg := prometheus.NewRegistry()
	s.requests = prometheus.NewCounterVec(prometheus.CounterOpts{Name: "amberproof_requests_total", Help: "HTTP requests by route and status."},
		[]string{"route", "status"})
	s.seconds = prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "amberproof_request_seconds", Help: "Time to answer, by route."}, []string{"route"})
	reg.MustRegister(s.requests, s.seconds, newRunCollector(a))
	// In this order: nothing is logged or counted twice, a foreign request is refused before
	// anything is read of it, every use case finds out who acts, and what is done is recorded.
	s.engine.Use(gin.CustomRecovery(s.recovered), s.observe, s.sameSite, s.protect, s.identify, s.record, patience)

	cfg := huma.DefaultConfig("Amber Proof", "0.1")
	cfg.DocsPath = "" // its page would load scripts from elsewhere
	cfg.SchemasPath = ""
	cfg.CreateHooks = nil
	cfg.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	s.api = humagin.New(s.engine, cfg)
	s.settings()
	s.projects()
	s.scenes()
	s.views()
	s.bench()
	s.stage()
	s.finishes()
	s.jobs()
	s.runs()
	s.library()
	s.rounds()
	s.audit()
	s.links()
	s.guests()
	s.mail()
	s.webhooks()
	s.names = s.operations()
	g := s.engine.Group("/api")
	s.doors(g)
	s.passkeys(g)
	g.GET("/audit.csv", s.auditCSV)
	g.GET("/runs/:id/noise.csv", s.noiseCSV)
	g.POST("/link/open", s.openLink)
	s.uploads(g)
	s.pictures(g)
	s.deliveries(g)
	g.GET("/live", s.live)
	s.engine.GET("/metrics", s.here, gin.WrapH(promhttp.HandlerFor(reg, promhttp.HandlerOpts{})))
	s.engine.GET("/healthz", s.health)
	return s, s.frontEnd()
}

// schemaName names a type in the description: by itself, or with its package
// where that says what it is of.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	if strings.HasSuffix(t.PkgPath(), "/guests") {
		return "Guest" + name
	}
	switch t.Name() {
	case "Page", "Line", "Last", "Entry", "Detail", "Versions", "Pass", "File":
		of := path.Base(t.PkgPath())
		return strings.ToUpper(of[:1]) + of[1:] + name
	}
	return name
}

// At has the server answer under the address at which people reach it from elsewhere, through
// a proxy on this machine that speaks TLS: cookies are sent over that only, and what the proxy
// says of whom it asks for is believed. It is called before the first request.
func (s *Server) At(site *url.URL) error {
	s.site = site
	s.sessions.Cookie.Secure = true
	return s.engine.SetTrustedProxies([]string{"127.0.0.1", "::1"})
}

// Handler is the server as an http.Handler.
func (s *Server) Handler() http.Handler { return s.engine }

// OpenAPI is the description of the interface, as JSON.
func (s *Server) OpenAPI() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }

// health tells whatever watches the server whether it can work: not without its database.
func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := s.app.Ping(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"status": "database down"})
		return
	}
	c.JSON(http.StatusOK, gin.H{"status": "ok"})
}

// mostBody bounds the body of a request that is not an upload, in bytes.
const mostBody = 8 << 20

// Reply is a JSON answer.
type Reply[T any] struct{ Body T }

// ByID is the input of operations on one thing.
type ByID struct {
	ID int64 `path:"id"`
}

// handle registers an operation: what it takes, who acts, and what it answers.
func handle[In, Out any](s *Server, method, path, id, summary string, f func(ctx context.Context, who identity.Actor, in *In) (Out, error)) {
	o := huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary, MaxBodyBytes: mostBody}
	huma.Register(s.api, o, func(ctx context.Context, in *In) (*Reply[Out], error) {
		v, err := f(ctx, identity.From(ctx), in)
		if err != nil {
			return nil, s.problem(err)
		}
		return &Reply[Out]{v}, nil
	})
}

// perform registers an operation that answers nothing.
func perform[In any](s *Server, method, path, id, summary string, f func(ctx context.Context, who identity.Actor, in *In) error) {
	o := huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary, MaxBodyBytes: mostBody}
	huma.Register(s.api, o, func(ctx context.Context, in *In) (*struct{}, error) {
		return nil, s.problem(f(ctx, identity.From(ctx), in))
	})
}

// pngReply is an answer that is a picture.
type pngReply struct {
	ContentType string `header:"Content-Type"`
	Cached      string `header:"Cache-Control"`
	Body        []byte
}

// cachedPNG lets a page keep a picture whose address changes with what it shows.
const cachedPNG = "private, max-age=3600"

// sendPNG registers an operation that answers with a picture.
func sendPNG[In any](s *Server, method, path, id, summary string, f func(ctx context.Context, who identity.Actor, in *In) ([]byte, error)) {
	o := huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary, MaxBodyBytes: mostBody}
	huma.Register(s.api, o, func(ctx context.Context, in *In) (*pngReply, error) {
		b, err := f(ctx, identity.From(ctx), in)
		if err != nil {
			return nil, s.problem(err)
		}
		return &pngReply{"image/png", cachedPNG, b}, nil
	})
}

// nothing is the input of operations that take none.
type nothing struct{}
