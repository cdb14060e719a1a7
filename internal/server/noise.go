package server

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"net/http"

	"github.com/gin-gonic/gin"

	"amberproof/internal/identity"
	"amberproof/internal/proofs"
	"amberproof/internal/runs"
	"amberproof/internal/ticket"
)

// AreaQuery is an area of a picture.
type AreaQuery struct {
	Left   int `query:"left" minimum:"-100000" maximum:"100000" doc:"Of the area, pixels of the frame; all four 0: all that is rendered"`
	Top    int `query:"top" minimum:"-100000" maximum:"100000"`
	Right  int `query:"right" minimum:"-100000" maximum:"100000"`
	Bottom int `query:"bottom" minimum:"-100000" maximum:"100000"`
}

func (q *AreaQuery) rect() image.Rectangle { return image.Rect(q.Left, q.Top, q.Right, q.Bottom) }

// noise are operations on the noise of a run's picture: how much there is, what it comes from, how it
// fell, and going on to less of it.
func (s *Server) noise() {
	handle(s, "GET", "/api/runs/{id}/noise", "get-noise", "The noise of every tile of a picture",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Frame int `query:"frame" minimum:"0" maximum:"100000"`
		}) (proofs.NoiseMap, error) {
			p, err := s.app.Proofs.Open(ctx, who, in.ID, in.Frame)
			if err != nil {
				return proofs.NoiseMap{}, err
			}
			return s.app.Proofs.NoiseMap(ctx, p)
		})
	handle(s, "GET", "/api/runs/{id}/course", "get-course", "How the noise of a run fell over time",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Frame int `query:"frame" minimum:"0" maximum:"100000"`
		}) (runs.Course, error) {
			return s.app.Runs.Course(ctx, who, in.ID, in.Frame)
		})
	handle(s, "GET", "/api/runs/{id}/blame", "get-blame", "What the noise of a picture, or of an area of it, comes from",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			LookQuery
			Frame int `query:"frame" minimum:"0" maximum:"100000"`
			AreaQuery
		}) (proofs.Blame, error) {
			p, err := s.app.Proofs.Open(ctx, who, in.ID, in.Frame)
			if err != nil {
				return proofs.Blame{}, err
			}
			return s.app.Proofs.Blame(ctx, p, in.rect(), in.look())
		})
	handle(s, "GET", "/api/runs/{id}/further", "foretell-further", "What it would take to go on from a run's picture",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Noise float64 `query:"noise" minimum:"0" maximum:"100" doc:"Target, percent of display white; 0: the most samples everywhere"`
			Most  int     `query:"most" required:"true" minimum:"1" maximum:"65536" doc:"Samples that no pixel goes beyond"`
			AreaQuery
		}) (runs.Further, error) {
			return s.app.Runs.Foretell(ctx, who, in.ID, ticket.Further{Noise: in.Noise, Most: in.Most, Area: in.rect()})
		})
	handle(s, "POST", "/api/runs/{id}/further", "go-on", "Queue a run that goes on from this one's picture, to less noise or more samples",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				Noise float64 `json:"noise" minimum:"0" maximum:"100" doc:"Target, percent of display white; 0: the most samples everywhere"`
				Most  int     `json:"most" minimum:"1" maximum:"65536" doc:"Samples that no pixel goes beyond"`
				Area  [4]int  `json:"area" minItems:"4" maxItems:"4" nullable:"false" doc:"That goes on: left, top, right, bottom in pixels of the frame; all 0: the whole picture"`
			}
		}) (runs.Run, error) {
			b := &in.Body
			return s.app.Runs.GoOn(ctx, who, in.ID, ticket.Further{Noise: b.Noise, Most: b.Most, Area: image.Rect(b.Area[0], b.Area[1], b.Area[2], b.Area[3])})
		})
}

// noiseCSV sends the noise of every tile of a picture as a table.
func (s *Server) noiseCSV(c *gin.Context) {
	ctx, id := c.Request.Context(), pathID(c)
	p, err := s.app.Proofs.Open(ctx, identity.From(ctx), id, 0)
	if err != nil {
		s.fail(c, err)
		return
	}
	m, err := s.app.Proofs.NoiseMap(ctx, p)
	if err != nil {
		s.fail(c, err)
		return
	}
	var out bytes.Buffer
	if err := m.WriteCSV(&out); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="noise-run-%d.csv"`, id))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", out.Bytes())
}
