package server

import (
	"context"
	"encoding/json"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"amberproof/internal/accounts"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

// origin is the address that a browser has the server open at. Requests whose own word of it
// is another were refused before.
func (s *Server) origin(c *gin.Context) string {
	if s.site != nil && c.Request.Host == s.site.Host {
		return "https://" + c.Request.Host
	}
	return "http://" + c.Request.Host
}

// passkeys are how people sign in by a passkey, and keep those they have. Options and answers
// are those of the browser's own interface.
func (s *Server) passkeys(g *gin.RouterGroup) {
	answer := func(c *gin.Context, v any, err error) {
		if err != nil {
			s.fail(c, err)
			return
		}
		c.JSON(http.StatusOK, v)
	}
	done := func(c *gin.Context, err error) {
		if err != nil {
			s.fail(c, err)
			return
		}
		c.Status(http.StatusNoContent)
	}
	who := func(c *gin.Context) (context.Context, identity.Actor) {
		ctx := c.Request.Context()
		return ctx, identity.From(ctx)
	}
	g.POST("/passkey", func(c *gin.Context) {
		v, err := s.app.Accounts.BeginSignIn(c.Request.Context(), c.ClientIP(), s.origin(c))
		answer(c, v, err)
	})
	g.PUT("/passkey", func(c *gin.Context) {
		if body, ok := saidUpTo[json.RawMessage](c, mostPasskeySaid, "what the browser says of the passkey"); ok {
			s.enter(c, func(ctx context.Context, _ identity.Actor) (accounts.Session, error) {
				return s.app.Accounts.SignInByPasskey(ctx, c.ClientIP(), s.origin(c), body)
			})
		}
	})
	g.GET("/me/passkeys", func(c *gin.Context) {
		v, err := s.app.Accounts.Passkeys(who(c))
		answer(c, v, err)
	})
	g.POST("/me/passkeys", func(c *gin.Context) {
		body, ok := said[struct {
			Password string `json:"password" binding:"required"`
		}](c, `your password: {"password": ""}`)
		if ok {
			ctx, me := who(c)
			v, err := s.app.Accounts.BeginPasskey(ctx, me, c.ClientIP(), s.origin(c), body.Password)
			answer(c, v, err)
		}
	})
	g.PUT("/me/passkeys", func(c *gin.Context) {
		body, ok := saidUpTo[struct {
			Name    string          `json:"name" binding:"required"`
			Passkey json.RawMessage `json:"passkey" binding:"required"`
		}](c, mostPasskeySaid, `a name and what the browser says of the passkey: {"name": "", "passkey": {}}`)
		if ok {
			ctx, me := who(c)
			done(c, s.app.Accounts.AddPasskey(ctx, me, s.origin(c), body.Name, body.Passkey))
		}
	})
	g.DELETE("/me/passkeys/:id", func(c *gin.Context) {
		id, err := strconv.ParseInt(c.Param("id"), 10, 64)
		if err != nil {
			s.fail(c, fault.Bad("A passkey has a number"))
			return
		}
		ctx, me := who(c)
		done(c, s.app.Accounts.RemovePasskey(ctx, me, id))
	})
}

// mostPasskeySaid bounds what a browser says of a passkey, in bytes.
const mostPasskeySaid = 32 << 10
