package server

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"amberproof/internal/guests"
	"amberproof/internal/identity"
	"amberproof/internal/review"
)

// guestPath is before all that a guest may ask for, and before nothing else.
const guestPath = "/api/link/"

type guestKey struct{}

// identifyGuest finds out who looks by a link. The session of a browser counts for nothing
// here, and what a guest shows counts for nothing elsewhere.
func (s *Server) identifyGuest(c *gin.Context) {
	// Nothing is left behind in the browser, or told to where links lead.
	c.Header("Cache-Control", "no-store")
	c.Header("Referrer-Policy", "no-referrer")
	c.Header("X-Robots-Tag", "noindex, nofollow")
	if c.FullPath() == guestPath+"open" {
		return
	}
	session, _ := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer ")
	g, err := s.app.Guests.Enter(c.Request.Context(), session)
	if err != nil {
		s.fail(c, err)
		return
	}
	ctx := context.WithValue(c.Request.Context(), guestKey{}, g)
	c.Request = c.Request.WithContext(identity.With(ctx, g.Actor()))
}

// forGuest has an operation done for who looks by a link.
func forGuest[In, Out any](f func(ctx context.Context, g *guests.Guest, in *In) (Out, error)) func(context.Context, identity.Actor, *In) (Out, error) {
	return func(ctx context.Context, _ identity.Actor, in *In) (Out, error) {
		return f(ctx, ctx.Value(guestKey{}).(*guests.Guest), in) // identifyGuest lets nobody else through
	}
}

// links are operations of the team on links to rounds.
func (s *Server) links() {
	handle(s, "GET", "/api/rounds/{id}/links", "list-links", "The links to a round, and when they were opened by whom",
		func(ctx context.Context, who identity.Actor, in *ByID) (list[guests.Link], error) {
			return listed(s.app.Guests.List(ctx, who, in.ID))
		})
	handle(s, "POST", "/api/rounds/{id}/links", "make-link", "Make a link by which somebody without an account looks at a round and answers in it",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body guests.Terms
		}) (guests.Link, error) {
			return s.app.Guests.Make(ctx, who, in.ID, in.Body)
		})
	perform(s, "DELETE", "/api/links/{id}", "revoke-link", "End a link at once", func(ctx context.Context, who identity.Actor, in *ByID) error {
		return s.app.Guests.Revoke(ctx, who, in.ID)
	})
}

// jpegReply is an answer that is a photograph.
type jpegReply struct {
	ContentType string `header:"Content-Type"`
	Body        []byte
}

// guests are operations of who looks by a link.
func (s *Server) guests() {
	handle(s, "GET", "/api/link/round", "link-round", "What is up in the round of the link",
		forGuest(func(ctx context.Context, g *guests.Guest, _ *nothing) (guests.Round, error) {
			return s.app.Guests.Round(ctx, g)
		}))
	handle(s, "GET", "/api/link/proofs/{id}/remarks", "link-remarks", "Remarks on a picture of the round",
		forGuest(func(ctx context.Context, g *guests.Guest, in *ByID) (list[review.Remark], error) {
			return listed(s.app.Guests.Remarks(ctx, g, in.ID))
		}))
	handle(s, "POST", "/api/link/proofs/{id}/remarks", "link-remark", "Make a remark on a picture of the round",
		forGuest(func(ctx context.Context, g *guests.Guest, in *struct {
			ByID
			Body review.ToRemark
		}) (list[review.Remark], error) {
			return listed(s.app.Guests.Remark(ctx, g, in.ID, in.Body))
		}))
	handle(s, "POST", "/api/link/remarks/{id}/lines", "link-say", "Answer in a remark, or say what became of it",
		forGuest(func(ctx context.Context, g *guests.Guest, in *struct {
			ByID
			Body review.Say
		}) (list[review.Remark], error) {
			return listed(s.app.Guests.SayIn(ctx, g, in.ID, in.Body))
		}))
	handle(s, "POST", "/api/link/answers", "link-answer", "Answer to pictures of the round, as they were seen",
		forGuest(func(ctx context.Context, g *guests.Guest, in *struct{ Body review.Said }) (guests.Round, error) {
			return s.app.Guests.Answer(ctx, g, in.Body)
		}))
	type OfPass struct {
		ByID
		Pass string `query:"pass" maxLength:"200" doc:"Its key; empty for the first"`
	}
	picture := huma.Operation{Method: "GET", Path: "/api/link/proofs/{id}/picture.jpg", OperationID: "link-picture",
		Summary: "A picture of the round, or what it was before"}
	huma.Register(s.api, picture, func(ctx context.Context, in *struct {
		OfPass
		Side int `query:"side" minimum:"0" maximum:"16384" doc:"Of its longer side, pixels at most; 0 for all of it"`
	}) (*jpegReply, error) {
		b, err := s.app.Guests.Picture(ctx, ctx.Value(guestKey{}).(*guests.Guest), in.ID, in.Pass, in.Side)
		if err != nil {
			return nil, s.problem(err)
		}
		return &jpegReply{"image/jpeg", b}, nil
	})
	original := huma.Operation{Method: "GET", Path: "/api/link/proofs/{id}/original.png", OperationID: "link-original",
		Summary: "A picture whole, where the link allows that"}
	huma.Register(s.api, original, func(ctx context.Context, in *OfPass) (*jpegReply, error) {
		b, err := s.app.Guests.Original(ctx, ctx.Value(guestKey{}).(*guests.Guest), in.ID, in.Pass)
		if err != nil {
			return nil, s.problem(err)
		}
		return &jpegReply{"image/png", b}, nil
	})
}

// openLink lets the bearer of a link in.
func (s *Server) openLink(c *gin.Context) {
	body, ok := said[struct {
		Token  string `json:"token" binding:"required"`
		Phrase string `json:"phrase"`
		Name   string `json:"name"`
	}](c, `the token of the link: {"token": ""}`)
	if !ok {
		return
	}
	c.Set(namedKey, body.Name)
	v, err := s.app.Guests.Open(c.Request.Context(), c.ClientIP(), body.Token, body.Phrase, body.Name)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, v)
}
