package server

import (
	"context"
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/shelf"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

// finishBody is a finish as it is on the bench: its values, and how it is drawn.
type finishBody struct {
	Name       string       `json:"name"`
	Base       setup.Colour `json:"base" doc:"Scene-linear; multiplies the picture, if it has one"`
	Pictured   bool         `json:"pictured" doc:"A picture colours it"`
	Metal      float32      `json:"metal"`
	Roughness  float32      `json:"roughness"`
	Index      float32      `json:"index"`
	Clear      float32      `json:"clear"`
	Tint       setup.Colour `json:"tint"`
	TintDepth  float32      `json:"tintDepth" doc:"Millimetres; 0: it has no tint"`
	Coat       float32      `json:"coat"`
	CoatRough  float32      `json:"coatRoughness"`
	Solid      bool         `json:"solid"`
	Abbe       float32      `json:"abbe" doc:"1000 where it parts no colours"`
	Shadows    string       `json:"shadows" enum:"ticket,straight,bent"`
	Sheen      setup.Colour `json:"sheen"`
	SheenRough float32      `json:"sheenRoughness"`
	Film       float32      `json:"film"`
	FilmIndex  float32      `json:"filmIndex"`
	FilmThick  float32      `json:"filmThickness" doc:"Nanometres"`
	Brushed    float32      `json:"brushed"`
	BrushTurn  float32      `json:"brushTurn" doc:"Degrees"`
	Bumped     bool         `json:"bumped" doc:"It has a normal map"`
	GreenDown  bool         `json:"greenDown"`
	Mapped     bool         `json:"mapped" doc:"It has pictures"`
	Glow       float32      `json:"glow" doc:"Nits of its brightest colour"`
	Drawn      [3]float32   `json:"drawn" nullable:"false" doc:"Its colour where pictures are not drawn, scene-linear"`
	Hue        [3]float32   `json:"hue" nullable:"false" doc:"Of its glow, the brightest colour at 1; nothing without one"`
	Hatched    bool         `json:"hatched" doc:"It is no finish of the file: parts are drawn with stripes that have none"`
	Seen       bool         `json:"seenThrough"`
}

func finishOf(s *scene.Scene, f *scene.Finish) finishBody {
	c := f.Base
	if f.BaseTexture.Image >= 0 { // its mean colour stands in
		c = c.Mul(s.Images[f.BaseTexture.Image].Mean())
	}
	b := finishBody{
		Name: f.Name, Base: colourOf(f.Base), Pictured: f.BaseTexture.Image >= 0, Metal: f.Metallic, Roughness: f.Roughness, Index: f.IOR, Clear: f.Transmission,
		Tint: colourOf(f.AttenuationColour), TintDepth: f.AttenuationDistance * 1000, Coat: f.Clearcoat, CoatRough: f.ClearcoatRoughness,
		Solid: f.Thickness > 0, Abbe: 1000, Shadows: [...]string{"ticket", "straight", "bent"}[f.Shadows], Sheen: colourOf(f.Sheen), SheenRough: f.SheenRoughness,
		Film: f.Iridescence, FilmIndex: f.FilmIOR, FilmThick: f.FilmThick, Brushed: f.Anisotropy, BrushTurn: f.AnisotropyTurn * 180 / math.Pi,
		Bumped: f.NormalTexture.Image >= 0, GreenDown: f.GreenDown,
		Hatched: f.Name == scene.NoFinish, Glow: f.Emission.Max(), Drawn: [3]float32{c.X, c.Y, c.Z}, Seen: f.Clear(),
	}
	if f.Dispersion > 0 {
		b.Abbe = min(20/f.Dispersion, 1000)
	}
	for _, t := range f.Textures() {
		b.Mapped = b.Mapped || t.Image >= 0
	}
	if !geom.Splat(b.TintDepth).Finite() {
		b.TintDepth = 0
	}
	if b.Glow > 0 {
		h := f.Emission.Scale(1 / b.Glow)
		b.Hue = [3]float32{h.X, h.Y, h.Z}
	}
	return b
}

func colourOf(v geom.Vec3) setup.Colour {
	return setup.Colour{R: float64(v.X), G: float64(v.Y), B: float64(v.Z)}
}

// finishes are operations on what parts wear.
func (s *Server) finishes() {
	handle(s, "GET", "/api/shelf", "list-shelf", "A starter set of finishes, each with its source",
		func(context.Context, identity.Actor, *nothing) (list[shelf.Item], error) {
			return listed(shelf.Items(), nil)
		})
	sendPNG(s, "GET", "/api/shelf/{name}/ball.png", "get-shelf-ball", "A ball that wears a finish of the shelf",
		func(ctx context.Context, who identity.Actor, in *struct {
			Name string `path:"name" maxLength:"200"`
		}) ([]byte, error) {
			for _, item := range shelf.Items() {
				if item.Finish.Name == in.Name {
					return s.app.Live.ShelfBall(ctx, who, item.Finish)
				}
			}
			return nil, fault.Bad("There is no %q on the shelf", in.Name)
		})
	sendPNG(s, "GET", "/api/scenes/{id}/ball.png", "get-ball", "A ball that wears a finish of a scene, as it is on the bench",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Finish string `query:"finish" maxLength:"4096"`
		}) ([]byte, error) {
			return s.app.Live.Ball(ctx, who, in.ID, in.Finish)
		})
}
