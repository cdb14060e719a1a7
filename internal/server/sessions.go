package server

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"amberproof/internal/accounts"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

// sessionLife is how long a browser stays signed in.
const sessionLife = 30 * 24 * time.Hour

// newSessions keeps sessions in the database, their tokens hashed. Requests from other sites
// are refused before anything (see sameSite), and the cookie is not sent with them either. Without
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

// What a session keeps: who is signed in, and by which password.
const personKey, stampKey = "person", "stamp"

// signedOut are what somebody may ask for who is not signed in. Links let their bearers in.
var signedOut = map[string]bool{
	"POST /api/passkey": true, "PUT /api/passkey": true,
	"PUT /api/session": true, "DELETE /api/session": true, "POST /api/invitation": true, "PUT /api/invitation": true,
}

// identify finds out who acts: the person of the browser's session, or who the page opens
// for as long as nobody has a password. Nobody acts outside of the interface.
func (s *Server) identify(c *gin.Context) {
	route := c.FullPath()
	if !strings.HasPrefix(route, "/api/") {
		return
	}
	if strings.HasPrefix(route, guestPath) {
		s.identifyGuest(c)
		return
	}
	ctx, who, err := s.acting(c.Request.Context(), c.Request)
	if err == nil && who.ID == 0 && !signedOut[c.Request.Method+" "+route] {
		err = fault.ErrSignedOut
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Request = c.Request.WithContext(identity.With(ctx, who))
}

// acting is who acts by a request's cookie as things are now, and the context with their
// session; ctx has none yet, or that one would be taken.
func (s *Server) acting(ctx context.Context, r *http.Request) (context.Context, identity.Actor, error) {
	token := ""
	if k, err := r.Cookie(s.sessions.Cookie.Name); err == nil {
		token = k.Value
	}
	ctx, err := s.sessions.Load(ctx, token)
	if err != nil {
		return ctx, identity.Actor{}, err
	}
	by := accounts.Session{Person: s.sessions.GetInt64(ctx, personKey), Stamp: s.sessions.GetInt64(ctx, stampKey)}
	who, err := s.app.Accounts.Acting(ctx, by)
	return ctx, who, err
}

// enter makes a browser's session that of f, under a new token.
func (s *Server) enter(c *gin.Context, f func(ctx context.Context, who identity.Actor) (accounts.Session, error)) {
	ctx := c.Request.Context()
	by, err := f(ctx, identity.From(ctx))
	if err == nil {
		err = s.sessions.RenewToken(ctx)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.Put(ctx, personKey, by.Person)
	s.sessions.Put(ctx, stampKey, by.Stamp)
	token, until, err := s.sessions.Commit(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.WriteSessionCookie(ctx, c.Writer, token, until)
	c.Status(http.StatusNoContent)
}

// mostSaid bounds the body of a request for a session, in bytes.
const mostSaid = 4 << 10

// said reads the body of a request for a session; ok is false if it was refused, with how it
// should be.
func said[T any](c *gin.Context, should string) (body T, ok bool) {
	return saidUpTo[T](c, mostSaid, should)
}

// saidUpTo is said of so many bytes at most.
func saidUpTo[T any](c *gin.Context, most int64, should string) (body T, ok bool) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
	if err := c.ShouldBindJSON(&body); err != nil {
		refuse(c, http.StatusUnprocessableEntity, "Send "+should+".")
		return body, false
	}
	return body, true
}

// doors are how people come in and go. They set the session's cookie, which operations that
// are described do not.
func (s *Server) doors(g *gin.RouterGroup) {
	g.PUT("/me", func(c *gin.Context) { // acts as somebody in the open house
		body, ok := said[struct {
			Person int64 `json:"person" binding:"required"`
		}](c, `who, by number: {"person": 1}`)
		if ok {
			s.enter(c, func(ctx context.Context, who identity.Actor) (accounts.Session, error) {
				return s.app.Accounts.ActAs(ctx, who, body.Person)
			})
		}
	})
	g.PUT("/session", func(c *gin.Context) {
		body, ok := said[struct {
			Name     string `json:"name" binding:"required"`
			Password string `json:"password" binding:"required"`
		}](c, `a name and a password: {"name": "", "password": ""}`)
		if ok {
			c.Set(namedKey, body.Name)
			s.enter(c, func(ctx context.Context, _ identity.Actor) (accounts.Session, error) {
				return s.app.Accounts.SignIn(ctx, c.ClientIP(), body.Name, body.Password)
			})
		}
	})
	g.DELETE("/session", s.leave)
	g.PUT("/me/password", func(c *gin.Context) {
		body, ok := said[struct {
			Was      string `json:"was"`
			Password string `json:"password" binding:"required"`
		}](c, `the password that was and the new one: {"was": "", "password": ""}`)
		if ok {
			s.enter(c, func(ctx context.Context, who identity.Actor) (accounts.Session, error) {
				return s.app.Accounts.SetPassword(ctx, who, c.ClientIP(), body.Was, body.Password)
			})
		}
	})
	type invited struct {
		Token    string `json:"token" binding:"required"`
		Password string `json:"password"`
	}
	g.POST("/invitation", func(c *gin.Context) {
		body, ok := said[invited](c, `the token of the link: {"token": ""}`)
		if !ok {
			return
		}
		name, err := s.app.Accounts.Invited(c.Request.Context(), c.ClientIP(), body.Token)
		if err != nil {
			s.fail(c, err)
			return
		}
		c.JSON(http.StatusOK, gin.H{"name": name})
	})
	g.PUT("/invitation", func(c *gin.Context) {
		body, ok := said[invited](c, `the token of the link and a password: {"token": "", "password": ""}`)
		if ok {
			s.enter(c, func(ctx context.Context, _ identity.Actor) (accounts.Session, error) {
				return s.app.Accounts.Accept(ctx, c.ClientIP(), body.Token, body.Password)
			})
		}
	})
}

// leave signs a browser out.
func (s *Server) leave(c *gin.Context) {
	ctx := c.Request.Context()
	if err := s.sessions.Destroy(ctx); err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.WriteSessionCookie(ctx, c.Writer, "", time.Time{})
	c.Status(http.StatusNoContent)
}
