package server

import (
	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
)

// finishBody is a finish as it is on the bench: its values, and how it is drawn.
type finishBody struct {
	Name      string       `json:"name"`
	Base      setup.Colour `json:"base" doc:"Scene-linear; multiplies the picture, if it has one"`
	Pictured  bool         `json:"pictured" doc:"A picture colours it"`
	Metal     float32      `json:"metal"`
	Roughness float32      `json:"roughness"`
	Index     float32      `json:"index"`
	Clear     float32      `json:"clear"`
	Tint      setup.Colour `json:"tint"`
	TintDepth float32      `json:"tintDepth" doc:"Millimetres; 0: it has no tint"`
	Coat      float32      `json:"coat"`
	CoatRough float32      `json:"coatRoughness"`
	Glow      float32      `json:"glow" doc:"Nits of its brightest colour"`
	Drawn     [3]float32   `json:"drawn" nullable:"false" doc:"Its colour where pictures are not drawn, scene-linear"`
	Hue       [3]float32   `json:"hue" nullable:"false" doc:"Of its glow, the brightest colour at 1; nothing without one"`
	Seen      bool         `json:"seenThrough"`
}

func finishOf(s *scene.Scene, f *scene.Finish) finishBody {
	c := f.Base
	if f.BaseTexture.Image >= 0 { // its mean colour stands in
		c = c.Mul(s.Images[f.BaseTexture.Image].Mean())
	}
	b := finishBody{
		Name: f.Name, Base: colourOf(f.Base), Pictured: f.BaseTexture.Image >= 0, Metal: f.Metallic, Roughness: f.Roughness, Index: f.IOR, Clear: f.Transmission,
		Tint: colourOf(f.AttenuationColour), TintDepth: f.AttenuationDistance * 1000, Coat: f.Clearcoat, CoatRough: f.ClearcoatRoughness,
		Glow: f.Emission.Max(), Drawn: [3]float32{c.X, c.Y, c.Z}, Seen: f.Clear(),
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
