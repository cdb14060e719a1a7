package trace

import (
	"slices"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/scene"
)

// staged is a ball of glass and one of plaster on a floor under a panel and a picture.
func staged() *bench {
	b := newBench(40, 30)
	b.part("floor", floor(8), b.finish(matte(0.5)))
	b.part("plaster", ball(geom.V(-0.7, 0.5, 0), 0.5, 12), b.finish(matte(0.8)))
	b.part("glass", ball(geom.V(0.7, 0.5, 0), 0.5, 12), b.finish(glass(0)))
	b.part("panel", quad(geom.V(-1, 3, 1), geom.V(0, 0, -2), geom.V(2, 0, 0)), b.finish(glow(4)))
	sky := &imageio.HDR{W: 8, H: 4, Pix: make([]float32, 8*4*3)}
	for i := range sky.Pix {
		sky.Pix[i] = float32(i%7) * 0.2
	}
	b.opt.Surround = Surround{On: true, Picture: sky, Strength: 1}
	b.camera(geom.V(0, 1.5, 5), geom.V(0, 0.5, 0), 0.5)
	return b
}

func sums(t *testing.T, w *World) []float32 {
	t.Helper()
	f := film.New(w.Options().Window, w.Options().Layout)
	tracer := w.NewTracer()
	var out []float32
	for i := range f.Tiles {
		p, err := tracer.Render(t.Context(), f, Unit{Tile: i, To: 4})
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, p.Data...)
	}
	return out
}

// Whatever was changed, a world that takes over what is the same gives the pixels of
// one that was prepared from nothing; and what need not be built is not.
func TestPreparedAgainAsFromNothing(t *testing.T) {
	b := staged()
	before := b.world(t)
	for _, c := range []struct {
		name   string
		change func(b *bench)
		shapes bool // are taken over
	}{
		{"nothing", func(*bench) {}, true},
		{"a finish", func(b *bench) {
			b.opt.Finishes = slices.Clone(b.opt.Finishes)
			b.opt.Finishes[1].Base = geom.V(0.7, 0.1, 0.1)
		}, true},
		{"glass made of plaster", func(b *bench) { b.opt.Finishes = slices.Clone(b.opt.Finishes); b.opt.Finishes[2] = matte(0.3) }, false},
		{"a lamp's strength", func(b *bench) { s := AsInScene(); s.Strength = 3; b.opt.Lamps = []LightSetting{s} }, true},
		{"a lamp off", func(b *bench) { s := AsInScene(); s.On = false; b.opt.Lamps = []LightSetting{s} }, false},
		{"the surround turned", func(b *bench) { b.opt.Surround.Turn = 1 }, true},
		{"an even surround", func(b *bench) { b.opt.Surround.Picture = nil; b.opt.Surround.Tone = geom.Splat(0.4) }, true},
		{"a part moved", func(b *bench) {
			b.s.Parts = slices.Clone(b.s.Parts)
			by := geom.Translate(geom.V(0, 0.2, 0.3))
			b.s.Parts[1].Place = &by
		}, false},
		{"a part left out", func(b *bench) { b.opt.Wears = slices.Clone(b.opt.Wears); b.opt.Wears[1] = LeftOutOfPicture }, false},
		{"a mesh smoothed", func(b *bench) {
			b.s = *b.s.Reshaped([]scene.Shaping{{}, {Levels: 1, Crease: 1}, {}, {}})
		}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			changed := *b
			changed.opt = *before.Options()
			c.change(&changed)
			fresh, err := Prepare(t.Context(), &changed.s, changed.opt)
			if err != nil {
				t.Fatal(err)
			}
			again, err := PrepareAgain(t.Context(), &changed.s, changed.opt, before)
			if err != nil {
				t.Fatal(err)
			}
			if again.SameShapes(before) != c.shapes {
				t.Errorf("geometry was taken over: %v", !c.shapes)
			}
			if !slices.Equal(sums(t, again), sums(t, fresh)) {
				t.Error("other pixels than from nothing")
			}
		})
	}
}

// What is held apart can be moved, again and again, and only it is built; the light is
// that of a world where it is not held apart.
func TestHeldApart(t *testing.T) {
	b := staged()
	by := geom.Translate(geom.V(0, 0.2, 0.3))
	b.s.Parts[1].Place = &by
	b.s.Parts[3].Staged = true
	b.opt.Apart = true
	before := b.world(t)
	if n := len(before.solid.parts); n != 2 {
		t.Fatalf("%d parts are held apart", n)
	}
	moved := *b
	moved.opt = *before.Options()
	moved.s.Parts, moved.s.Meshes = slices.Clone(b.s.Parts), slices.Clone(b.s.Meshes)
	further, higher := geom.Translate(geom.V(0.1, 0.4, 0.3)), geom.Translate(geom.V(0, 0.5, 0))
	moved.s.Parts[1].Place, moved.s.Parts[3].Place = &further, &higher
	panel := &moved.s.Meshes[3] // made anew, as that of a stage is
	panel.Positions, panel.Indices = slices.Clone(panel.Positions), slices.Clone(panel.Indices)
	fresh, err := Prepare(t.Context(), &moved.s, moved.opt)
	if err != nil {
		t.Fatal(err)
	}
	again, err := PrepareAgain(t.Context(), &moved.s, moved.opt, before)
	if err != nil {
		t.Fatal(err)
	}
	if !again.SameShapes(before) {
		t.Error("what was not moved was built again")
	}
	for mesh, h := range again.solid.meshes {
		was := false
		for _, o := range before.solid.meshes {
			was = was || o == h
		}
		if !was {
			t.Errorf("the mesh of %d faces was built again", mesh.Faces())
		}
	}
	if !slices.Equal(sums(t, again), sums(t, fresh)) {
		t.Error("other pixels than from nothing")
	}
	// Held apart or not: the same light, but for rounding.
	mean := func(apart bool) (sum float64) {
		o := moved.opt
		o.Apart = apart
		w, err := Prepare(t.Context(), &moved.s, o)
		if err != nil {
			t.Fatal(err)
		}
		f := film.New(o.Window, w.Options().Layout)
		tracer := w.NewTracer()
		for i := range f.Tiles {
			p, err := tracer.Render(t.Context(), f, Unit{Tile: i, To: 32})
			if err != nil {
				t.Fatal(err)
			}
			if _, err := f.Take(p); err != nil {
				t.Fatal(err)
			}
		}
		m, _ := meanOf(f, film.Beauty)
		return m
	}
	if a, b := mean(true), mean(false); a < 0.997*b || a > 1.003*b {
		t.Errorf("held apart it is %v bright, otherwise %v", a, b)
	}
}

// Another camera and size give the pixels of a world prepared for them.
func TestSeenFromElsewhere(t *testing.T) {
	b := staged()
	before := b.world(t)
	b.camera(geom.V(3, 1, 3), geom.V(0, 0.4, 0), 0.4)
	b.opt.Camera.Aperture, b.opt.Camera.FocusAt = 0.05, [2]float32{0.5, 0.5}
	b.opt.Width, b.opt.Height = 24, 32
	b.opt.Window.Max.X, b.opt.Window.Max.Y = 24, 32
	fresh := b.world(t)
	if !slices.Equal(sums(t, before.Seen(b.opt.Camera, 24, 32)), sums(t, fresh)) {
		t.Error("other pixels than from nothing")
	}
	if before.Options().Width != 40 || before.camera.lens != 0 {
		t.Error("the world itself was changed")
	}
}
