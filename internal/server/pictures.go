package server

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/internal/identity"
)

// LookQuery says how a picture is looked at.
type LookQuery struct {
	Exposure float64 `query:"ev" minimum:"-20" maximum:"20"`
	Display  string  `query:"display" enum:"filmic,plain" default:"filmic"`
	Amount   float64 `query:"amount" minimum:"-1" maximum:"100" default:"-1" doc:"Share of noise taken out of a denoised pass, percent; -1 is as the ticket says"`
}

// amount is the share of noise to take out.
func (q LookQuery) amount() float32 { return float32(q.Amount / 100) }

// look is the query in the core's terms.
func (q LookQuery) look() finish.Finish {
	return finish.Finish{Exposure: q.Exposure, Transform: colour.Transform(q.Display)}
}

// pictures are bytes with a tag of what they show: a browser that has one asks whether it
// still holds, and no picture is made for that.
func (s *Server) pictures(g *gin.RouterGroup) {
	g.GET("/scenes/:id/shape", s.sceneShape)
	g.GET("/scenes/:id/picture.png", s.scenePicture)
	g.GET("/scenes/:id/live", s.livePicture)
	g.GET("/runs/:id/picture/:pass", s.picture)
}

// pathID is the number in a request's path; no row has the number 0, so what is
// none is not found.
func pathID(c *gin.Context) int64 {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		return 0
	}
	return id
}

// secondsSince is how long ago t was.
func secondsSince(t time.Time) float64 { return time.Since(t).Seconds() }

// unchanged answers a request for what the browser has already.
func unchanged(c *gin.Context, tag string) bool {
	c.Header("ETag", tag)
	if c.GetHeader("If-None-Match") != tag {
		return false
	}
	c.Status(http.StatusNotModified)
	return true
}

// sceneShape sends a scene's triangles; its content's checksum is its tag, as content
// never changes under a name.
func (s *Server) sceneShape(c *gin.Context) {
	ctx := c.Request.Context()
	sc, tag, err := s.app.Scenes.Shape(ctx, identity.From(ctx), pathID(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "no-cache") // sets of faces come and go
	if !unchanged(c, `"shape-3-`+tag+`"`) {
		c.Data(http.StatusOK, "application/octet-stream", shapeOf(sc))
	}
}

// scenePicture is a scene as it is shaped, without its light: /picture.png?view=Hero
func (s *Server) scenePicture(c *gin.Context) {
	ctx := c.Request.Context()
	png, tag, err := s.app.Scenes.Shaded(ctx, identity.From(ctx), pathID(c), c.Query("view"))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "no-cache")
	if !unchanged(c, tag) {
		c.Data(http.StatusOK, "image/png", png)
	}
}

// picture serves a pass as a PNG: /picture/beauty.png?ev=0&display=filmic&side=800; of a
// denoised pass, amount is the share of noise taken out in percent.
func (s *Server) picture(c *gin.Context) {
	q := LookQuery{Display: c.DefaultQuery("display", "filmic")}
	var err1, err2, err3, err4 error
	q.Exposure, err1 = strconv.ParseFloat(c.DefaultQuery("ev", "0"), 64)
	side, err2 := strconv.Atoi(c.DefaultQuery("side", "0"))
	frame, err3 := strconv.Atoi(c.DefaultQuery("frame", "0"))
	q.Amount, err4 = strconv.ParseFloat(c.DefaultQuery("amount", "-1"), 64)
	if err1 != nil || err2 != nil || err3 != nil || err4 != nil || !(q.Amount >= -1 && q.Amount <= 100) ||
		!(q.Exposure >= -20 && q.Exposure <= 20) || side < 0 || side > 1<<16 || frame < 0 || q.Display != "filmic" && q.Display != "plain" {
		refuse(c, http.StatusBadRequest, "ev must be between -20 and 20, side a size in pixels, frame a number, "+
			"display filmic or plain, amount a percentage, or -1 as the ticket says.")
		return
	}
	ctx := c.Request.Context()
	p, err := s.app.Proofs.Open(ctx, identity.From(ctx), pathID(c), frame)
	if err != nil {
		s.fail(c, err)
		return
	}
	pass := strings.TrimSuffix(c.Param("pass"), ".png")
	c.Header("Cache-Control", "no-cache")
	if c.Query("v") != "" { // the address changes with the picture
		c.Header("Cache-Control", "private, max-age=3600")
	}
	// The version counts what the film has gained, so the tag is known before the picture is.
	if unchanged(c, fmt.Sprintf(`"%d-%d-%d-%q-%v-%s-%d-%v"`, p.Run, p.Frame, p.Version(), pass, q.Exposure, q.Display, side, q.Amount)) {
		return
	}
	png, err := s.app.Proofs.PNG(ctx, p, pass, q.look(), side, q.amount())
	if err != nil {
		// The headers of the picture that could not be made must not stay with the error.
		c.Header("Cache-Control", "no-store")
		c.Header("ETag", "")
		s.fail(c, err)
		return
	}
	c.Data(http.StatusOK, "image/png", png)
}
