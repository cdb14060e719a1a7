package live

import (
	"bytes"
	"context"
	"errors"
	"image"
	"image/draw"
	"math"

	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// surroundBytes is how much of the pictures of surrounds is kept.
const surroundBytes = 4 << 20

// SurroundShown is what an environment picture looks like: a grey ball with a polished coat
// that it lights, and beside that the picture itself, unrolled; a PNG three times as wide as
// high. Both are shown as bright as has the picture's mean be mid grey.
func (s *Service) SurroundShown(ctx context.Context, who identity.Actor, sha256 string) ([]byte, error) {
	if err := s.scenes.SeesSurround(ctx, who, sha256); err != nil {
		return nil, err
	}
	return s.surrounds.Get(ctx, sha256)
}

// shownSurround makes the picture of a surround.
func (s *Service) shownSurround(ctx context.Context, sha256 string) ([]byte, error) {
	p, err := s.scenes.Surround(ctx, sha256)
	if err != nil {
		return nil, err
	}
	flat := unrolled(p, 2*ballSide, ballSide)
	f := finish.Finish{Exposure: toMidGrey(flat), Transform: colour.Filmic}
	v := ballScene(coatedGrey(), nil)
	o := ballOptions(v)
	o.Surround = trace.Surround{On: true, Picture: p, Strength: 1}
	o.Backing = trace.BackClear
	ball, err := s.tracedBall(ctx, v, o)
	if err != nil {
		return nil, err
	}
	all := image.NewNRGBA(image.Rect(0, 0, 3*ballSide, ballSide))
	draw.Draw(all, image.Rect(0, 0, ballSide, ballSide), f.Shown(ball), image.Point{}, draw.Src)
	draw.Draw(all, image.Rect(ballSide, 0, 3*ballSide, ballSide), f.Shown(flat), image.Point{}, draw.Src)
	var out bytes.Buffer
	err = imageio.WritePNG(&out, all)
	return out.Bytes(), err
}

// coatedGrey shows both how a surround lights and what it mirrors.
func coatedGrey() scene.Finish {
	f := scene.NewFinish("Grey")
	f.Base, f.Roughness, f.Clearcoat, f.ClearcoatRoughness = geom.Splat(0.45), 0.6, 1, 0.02
	return f
}

// StageShown is what a stage looks like: a ball with a polished coat stands on it in place of
// a product. stage is the stage as JSON.
func (s *Service) StageShown(ctx context.Context, who identity.Actor, stage []byte) ([]byte, error) {
	if err := s.scenes.MaySee(who); err != nil {
		return nil, err
	}
	return s.stages.Get(ctx, string(stage))
}

// shownStage makes the picture of a stage.
func (s *Service) shownStage(ctx context.Context, stage string) ([]byte, error) {
	g, faults := ticket.DecodeStage([]byte(stage))
	if len(faults) > 0 {
		return nil, fault.Ticket(faults)
	}
	r := float32(g.Radius / 1000 / 2)
	middle := geom.V(float32(g.Middle.X/1000), float32(g.Floor/1000)+r, float32(g.Middle.Z/1000)) // it stands on the floor
	v := ballScene(coatedGrey(), nil)
	for i, p := range v.Meshes[0].Positions { // of a radius of one, on the ground
		v.Meshes[0].Positions[i] = middle.Add(p.Sub(geom.V(0, 1, 0)).Scale(r))
	}
	u := setup.Setup{Stage: g}
	v, _, err := u.Apply(ctx, v)
	if err != nil {
		return nil, err
	}
	w := scene.View{Aspect: 1, YFov: 0.4, Camera: geom.LookAt(middle.Add(geom.V(0.35, 0.3, 1).Unit().Scale(r*11)), middle.Sub(geom.V(0, r/4, 0)), geom.V(0, 1, 0))}
	o := ballOptions(v)
	o.Camera = trace.Camera{World: w.Camera, YFov: w.YFov}
	o.Width, o.Height = stageSide, stageSide
	o.Window = image.Rect(0, 0, stageSide, stageSide)
	var exposure float64
	if b := g.Begins; b != nil {
		exposure = b.Exposure
		t := ticket.New()
		t.Stage.Surround = b.Surround
		if err := s.scenes.Pin(ctx, 0, &t); err != nil { // a stage of the library is no project's
			return nil, err
		}
		picture, err := s.scenes.Picture(ctx, &t)
		var gone *fault.Input // the picture that it names: what else there is of it can be seen
		if err != nil && !errors.As(err, &gone) {
			return nil, err
		}
		o.Surround = ticket.SurroundOf(&t.Stage.Surround, picture)
	}
	p, err := s.tracedBall(ctx, v, o)
	if err != nil {
		return nil, err
	}
	return encoded(p, finish.Finish{Exposure: exposure, Transform: colour.Filmic})
}

// stageSide is the side of the picture of a stage, pixels: twice what lists show it at.
const stageSide = 144

// unrolled is an environment picture of another size: each pixel the mean of what it covers.
func unrolled(p *imageio.HDR, w, h int) *finish.Picture {
	out := &finish.Picture{W: w, H: h, R: make([]float32, w*h), G: make([]float32, w*h), B: make([]float32, w*h)}
	for y := range h {
		y0, y1 := y*p.H/h, max(y*p.H/h+1, (y+1)*p.H/h)
		for x := range w {
			x0, x1 := x*p.W/w, max(x*p.W/w+1, (x+1)*p.W/w)
			var c geom.Vec3
			for v := y0; v < y1; v++ {
				for u := x0; u < x1; u++ {
					k := 3 * (v*p.W + u)
					c = c.Add(geom.V(p.Pix[k], p.Pix[k+1], p.Pix[k+2]))
				}
			}
			c = c.Scale(1 / float32((x1-x0)*(y1-y0)))
			i := y*w + x
			out.R[i], out.G[i], out.B[i] = c.X, c.Y, c.Z
		}
	}
	return out
}

// toMidGrey is how many stops bring the geometric mean of a picture's luminance to 0.18, as a
// photographer would expose for the whole of it (Reinhard et al. 2002).
func toMidGrey(p *finish.Picture) float64 {
	const least = 1e-4 // what is black does not decide
	sum := 0.0
	for i := range p.R {
		sum += math.Log2(float64(max(least, colour.Luminance(geom.V(p.R[i], p.G[i], p.B[i])))))
	}
	return min(max(math.Log2(0.18)-sum/float64(len(p.R)), -20), 20)
}
