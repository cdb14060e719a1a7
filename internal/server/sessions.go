package server

import (
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"amberproof/internal/identity"
)

// sessionLife is how long a browser stays signed in.
const sessionLife = 30 * 24 * time.Hour

// newSessions keeps sessions in the database, their tokens hashed. Requests from other sites
// are refused before anything (see localOnly), and the cookie is not sent with them either. Without
// a store they end with the process.
func newSessions(kept scs.Store) *scs.SessionManager {
	m := scs.New()
	if m.HashTokenInStore = true; kept != nil {
		m.Store = kept
	}
	m.Lifetime = sessionLife
	m.Cookie.Name, m.Cookie.SameSite = "amberproof", http.SameSiteStrictMode
	return m
}

// personKey is where a session keeps who is signed in.
const personKey = "person"

// identify finds out who acts: the person of the browser's session, or who the page opens
// for without one. Nobody acts outside of the interface.
func (s *Server) identify(c *gin.Context) {
	if !strings.HasPrefix(c.Request.URL.Path, "/api/") {
		return
	}
	token := ""
	if k, err := c.Request.Cookie(s.sessions.Cookie.Name); err == nil {
		token = k.Value
	}
	ctx, err := s.sessions.Load(c.Request.Context(), token)
	if err != nil {
		s.fail(c, err)
		return
	}
	who, err := s.app.Projects.Acting(ctx, s.sessions.GetInt64(ctx, personKey))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Request = c.Request.WithContext(identity.With(ctx, who))
}

// actAs makes a browser's session somebody's, under a new token.
func (s *Server) actAs(c *gin.Context) {
	var body struct {
		Person int64 `json:"person" binding:"required"`
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 1<<10)
	if err := c.ShouldBindJSON(&body); err != nil {
		refuse(c, http.StatusUnprocessableEntity, "Say who, by number: {\"person\": 1}.")
		return
	}
	ctx := c.Request.Context()
	err := s.app.Projects.ActAs(ctx, identity.From(ctx), body.Person)
	if err == nil {
		err = s.sessions.RenewToken(ctx)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.Put(ctx, personKey, body.Person)
	token, until, err := s.sessions.Commit(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.WriteSessionCookie(ctx, c.Writer, token, until)
	c.Status(http.StatusNoContent)
}
