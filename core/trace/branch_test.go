package trace

import (
	"fmt"
	"image"
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// sourced is a bench of few bounces.
func sourced() *bench {
	b := newBench(48, 48)
	b.opt.DiffuseBounces, b.opt.GlossyBounces, b.opt.ClearBounces = 3, 3, 4
	return b
}

// tell has the film tell the sources of a finished scene apart.
func (b *bench) tell(t *testing.T) *bench {
	t.Helper()
	b.opt.Layout = film.NewLayout(true, film.SourcePlane(len(b.world(t).Elements())))
	return b
}

// bounced is a white wall on a white floor, under a small panel.
func bounced(t *testing.T) *bench {
	b := sourced()
	white := b.finish(matte(0.8))
	b.part("floor", floor(4), white)
	b.part("wall", quad(geom.V(-1, 0, -1), geom.V(2, 0, 0), geom.V(0, 2, 0)), white)
	b.part("panel", hung(geom.V(0, 1.5, -0.5), 0.3), b.finish(glow(20)))
	b.camera(geom.V(0, 0.6, 3), geom.V(0, 0.5, -0.5), 0.6)
	return b.tell(t)
}

// brass is a ball of rough metal beside a lacquered board.
func brass(t *testing.T) *bench {
	b := sourced()
	m := scene.NewFinish("brass")
	m.Base, m.Roughness = geom.V(0.8, 0.6, 0.3), 0.4
	b.part("floor", floor(4), b.finish(matte(0.5)))
	b.part("ball", ball(geom.V(0, 0.4, 0), 0.4, 24), b.finish(m))
	lacquer := matte(0.5)
	lacquer.IOR, lacquer.Roughness, lacquer.Clearcoat, lacquer.ClearcoatRoughness = 1.5, 0.3, 1, 0
	b.part("box", quad(geom.V(-1, 0, -0.5), geom.V(0.7, 0, 0.2), geom.V(0, 1, 0)), b.finish(lacquer))
	b.part("panel", hung(geom.V(0.6, 1.5, 0.5), 0.5), b.finish(glow(8)))
	b.camera(geom.V(0, 0.6, 2.6), geom.V(0, 0.35, 0), 0.6)
	return b.tell(t)
}

// frosted is a frosted ball before a bright strip.
func frosted(t *testing.T) *bench {
	b := sourced()
	g := glass(0.35)
	b.part("ball", ball(geom.V(0, 0.5, 0), 0.45, 32), b.finish(g))
	b.part("floor", floor(4), b.finish(matte(0.5)))
	b.part("strip", quad(geom.V(-0.5, 0.2, -1.2), geom.V(1, 0, 0), geom.V(0, 0.5, 0)), b.finish(glow(4)))
	b.camera(geom.V(0, 0.6, 2.6), geom.V(0, 0.45, 0), 0.5)
	return b.tell(t)
}

// Branches change the noise of a picture and not the picture.
func TestBranchesAreTheSamePicture(t *testing.T) {
	long(t)
	for _, c := range []struct {
		name string
		of   func(t *testing.T) *bench
	}{{"corner", bounced}, {"brass", brass}, {"frosted", frosted}} {
		b := c.of(t)
		ref := b.render(t, 256)
		for kind := range 3 {
			b := c.of(t)
			b.opt.Branches[kind] = 5
			f := b.render(t, 64)
			var sum, off float64
			for y := range 48 {
				for x := range 48 {
					s, i := ref.At(x, y)
					r, j := f.At(x, y)
					pa, pb := s.Pixel(i), r.Pixel(j)
					a := colour.Luminance(geom.V(pa[2], pa[3], pa[4])) / pa[0]
					e := colour.Luminance(geom.V(pb[2], pb[3], pb[4])) / pb[0]
					d := float64(min(e, 4) - min(a, 4))
					sum, off = sum+d, off+d*d
					if got := pb[film.Alpha] / pb[film.Weight]; math.Abs(float64(got-1)) > 1e-5 {
						t.Fatalf("%s: alpha of %d, %d is %v", c.name, x, y, got)
					}
				}
			}
			n := 48. * 48
			mean, bar := sum/n, 4*math.Sqrt(off)/n
			t.Logf("%s, kind %d: differs by %.5f, bar %.5f", c.name, kind, mean, bar)
			if math.Abs(mean) > bar+1e-4 {
				t.Errorf("%s: five branches of kind %d differ by %.5f in the mean, bar %.5f", c.name, kind, mean, bar)
			}
		}
	}
}

// What is said of a source is what vanishes of the variance when it is sampled sixteen times as
// much, and all sources make up the whole.
func TestBlameBySource(t *testing.T) {
	long(t)
	mirror := func(t *testing.T) *bench { // a mirror that faces a rough wall
		b := sourced()
		chrome := scene.NewFinish("chrome")
		chrome.Base, chrome.Roughness = geom.Splat(0.9), 0
		b.part("mirror", quad(geom.V(-1, 0, 0), geom.V(2, 0, 0), geom.V(0, 2, 0)), b.finish(chrome))
		b.part("wall", quad(geom.V(2, 0, 4), geom.V(-4, 0, 0), geom.V(0, 3, 0)), b.finish(matte(0.7)))
		b.part("panel", hung(geom.V(0, 3, 3), 1), b.finish(glow(10)))
		b.camera(geom.V(0, 1, 3), geom.V(0, 1, 0), 0.5)
		return b.tell(t)
	}
	for _, c := range []struct {
		name string
		of   func(t *testing.T) *bench
		most film.Source // which brings most
		more func(o *Options)
	}{
		{"light bounced in a corner", bounced, film.SourceMatte, func(o *Options) { o.Branches[optics.Diffuse] = 16 }},
		{"a mirror that faces a rough wall", mirror, film.SourceGloss, nil},
		{"a strip behind a frosted ball", frosted, film.SourceClear, func(o *Options) { o.Branches[optics.Clear] = 16 }},
	} {
		v := noise.View{Transform: colour.Plain, Exposure: -1}
		all := image.Rect(0, 0, 48, 48)
		b := c.of(t)
		was := v.Blame(b.render(t, 16), all)
		var sum, bar float64
		most := film.Source(0)
		for i, s := range was.Sources {
			sum, bar = sum+s.Share, math.Hypot(bar, s.Error)
			if s.Share > was.Sources[most].Share {
				most = film.Source(i)
			}
		}
		t.Log(c.name, fmt.Sprintf("%+v", was.Sources), "sum", sum, "bar", bar)
		if most != c.most || math.Abs(sum-1) > 3*bar || bar > 0.1 {
			t.Errorf("%s: %v brings most, want %v; the shares %+v sum to %.3f, bar %.3f", c.name, most, c.most, was.Sources, sum, bar)
		}
		if c.more == nil {
			continue
		}
		c.more(&b.opt)
		now := v.Blame(b.render(t, 16), all)
		gone := 1 - now.Noise*now.Noise/(was.Noise*was.Noise)
		got := was.Sources[most]
		t.Logf("%s: %.3f, bar %.3f; %.3f vanishes", c.name, got.Share, got.Error, gone)
		// What differs from one first hit to the next does not vanish, and is the source's too.
		if gone > got.Share+0.05 || gone < got.Share-0.25 {
			t.Errorf("%s: said to bring %.3f of the variance, and %.3f vanishes", c.name, got.Share, gone)
		}
	}
}

// A stack of half clear panes makes as many paths more as there are branches, and not that many
// times as many for each pane.
func TestBranchesDoNotMultiply(t *testing.T) {
	b := sourced()
	b.opt.ClearBounces = 32
	pane := glass(0)
	pane.Transmission, pane.Base = 0.9, geom.Splat(1)
	finish := b.finish(pane)
	for k := range 6 {
		z := -0.2 * float32(k)
		b.cube(geom.V(-1, -1, z-0.1), geom.V(2, 2, 0.1), finish)
	}
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	b.camera(geom.V(0, 0, 3), geom.V(0, 0, 0), 0.4)
	b.tell(t)
	b.opt.Branches = [3]int{16, 16, 16}
	tracer := b.world(t).NewTracer()
	most := 0
	for k := range 64 {
		tracer.sample(24, 24, k)
		most = max(most, len(tracer.paths))
	}
	if most < 2 || most > 8 {
		t.Errorf("a sample has found light %d times", most)
	}
}
