package live

import (
	"context"
	"encoding/json"
	"image"
	"math"
	"slices"

	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/live"
	"amberproof/core/passes"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/shelf"
	"amberproof/core/trace"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

const (
	ballSide    = 96
	ballSamples = 16
	ballRings   = 48
	// ballBytes is how much of them is kept.
	ballBytes = 4 << 20
)

// Ball is a ball that wears a finish of a scene as it is on the bench, on a small stage
// of its own; a PNG.
func (s *Service) Ball(ctx context.Context, who identity.Actor, sceneID int64, name string) ([]byte, error) {
	b, err := s.scenes.Bench(ctx, who, sceneID)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(b.Subject.Scene.Finishes, func(f scene.Finish) bool { return f.Name == name })
	if at < 0 {
		return nil, fault.Bad("The scene has no finish %q", name)
	}
	return s.ball(ctx, b.Subject.Scene.Finishes[at], b.Subject.Scene.Images)
}

// ShelfBall is a ball that wears a finish that is made here. It is kept for the next who
// asks.
func (s *Service) ShelfBall(ctx context.Context, who identity.Actor, f setup.Finish) ([]byte, error) {
	if err := s.scenes.MaySee(who); err != nil {
		return nil, err
	}
	key, err := json.Marshal(&f)
	if err != nil {
		return nil, err
	}
	return s.balls.Get(ctx, string(key))
}

// shelfBall makes a ball of a finish, as JSON.
func (s *Service) shelfBall(ctx context.Context, finish string) ([]byte, error) {
	var f setup.Finish
	if err := json.Unmarshal([]byte(finish), &f); err != nil {
		return nil, err
	}
	u := setup.Setup{Finishes: []setup.Finish{f}}
	v, _, err := u.Apply(ctx, &scene.Scene{Pictures: func(name, _ string) (*scene.Image, error) { return shelf.Picture(name) }})
	if err != nil {
		return nil, err
	}
	return s.ball(ctx, v.Finishes[0], v.Images)
}

func (s *Service) ball(ctx context.Context, f scene.Finish, images []scene.Image) ([]byte, error) {
	v := ballScene(f, images)
	g, _ := setup.NewStage(v.Bounds(), []scene.View{ballView})
	g.Backdrop.Colour = setup.Colour{R: 0.5, G: 0.5, B: 0.5}
	u := setup.Setup{Stage: &g}
	v, _, err := u.Apply(ctx, v)
	if err != nil {
		return nil, err
	}
	o := ballOptions(v)
	o.Surround = trace.Surround{On: true, Tone: geom.Splat(0.35), Strength: 1}
	p, err := s.tracedBall(ctx, v, o)
	if err != nil {
		return nil, err
	}
	return encoded(p, finish.Finish{Exposure: 0.5, Transform: colour.Filmic})
}

// ballView is where balls are seen from.
var ballView = scene.View{Aspect: 1, YFov: 0.36, Camera: geom.LookAt(geom.V(0, 0.9, 7), geom.V(0, 0.98, 0), geom.V(0, 1, 0))}

// ballOptions are those of a picture of a ball, but for what lights it.
func ballOptions(v *scene.Scene) trace.Options {
	o := trace.Options{
		Width: ballSide, Height: ballSide, Window: image.Rect(0, 0, ballSide, ballSide), Filter: sampling.BlackmanHarris, FilterWidth: 3, Seed: 1,
		DiffuseBounces: 2, GlossyBounces: 3, ClearBounces: 8, StraightShadows: true,
		Camera: trace.Camera{World: ballView.Camera, YFov: ballView.YFov}, Finishes: v.Finishes,
		Layout: passes.Wanted{Denoise: true}.Needs(nil),
	}
	for i := range v.Parts {
		o.Wears = append(o.Wears, v.Parts[i].Finish)
	}
	return o
}

// tracedBall traces a small picture, one at a time, within the memory there is.
func (s *Service) tracedBall(ctx context.Context, v *scene.Scene, o trace.Options) (*finish.Picture, error) {
	select {
	case s.smallTurn <- struct{}{}:
		defer func() { <-s.smallTurn }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	back, err := s.memory.Try(trace.Forecast(v, &o))
	if err != nil {
		return nil, err
	}
	defer back()
	w, err := trace.Prepare(ctx, v, o)
	if err != nil {
		return nil, err
	}
	last, err := live.Once(ctx, live.Order{World: w, Workers: beside, Most: ballSamples})
	if err != nil {
		return nil, err
	}
	list := passes.List(passes.Wanted{Denoise: true}, w.Elements(), v, func(int) bool { return true })
	p, films := beauty(&last, list)
	return p.Picture(films, last.Film.Window), nil
}

// ballScene is a ball of a radius of one on the ground that wears a finish; its texture
// goes around it twice, so that what tiles is seen to.
func ballScene(f scene.Finish, images []scene.Image) *scene.Scene {
	var m scene.Mesh
	var uv [][2]float32
	for i := range ballRings + 1 {
		st, ct := math.Sincos(math.Pi * float64(i) / ballRings)
		for k := range 2*ballRings + 1 {
			sp, cp := math.Sincos(math.Pi * float64(k) / ballRings)
			n := geom.V(float32(st*sp), float32(ct), float32(st*cp))
			m.Positions, m.Normals = append(m.Positions, n.Add(geom.V(0, 1, 0))), append(m.Normals, n)
			uv = append(uv, [2]float32{2 * float32(k) / (2 * ballRings), float32(i) / ballRings})
		}
	}
	m.UV = [2][][2]float32{uv, uv}
	const row = 2*ballRings + 1
	for i := range uint32(ballRings) {
		for k := range uint32(2 * ballRings) {
			a := i*row + k
			m.Indices = append(m.Indices, a, a+row, a+row+1, a, a+row+1, a+1)
		}
	}
	return &scene.Scene{
		Meshes: []scene.Mesh{m}, Finishes: []scene.Finish{f}, Images: images,
		Objects: []scene.Object{{Name: "Ball", Parent: -1, Local: geom.Identity(), World: geom.Identity()}}, Parts: []scene.Part{{Name: "Ball"}},
	}
}
