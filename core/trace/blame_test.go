package trace

import (
	"image"
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
	"amberproof/core/scene"
)

// hung is a square light that hangs at a place and shines down.
func hung(at geom.Vec3, side float32) scene.Mesh {
	h := side / 2
	return quad(at.Add(geom.V(-h, 0, -h)), geom.V(side, 0, 0), geom.V(0, 0, side))
}

// blamed is a bench whose film keeps lights apart by halves.
func blamed(width, height, lights int) *bench {
	b := newBench(width, height)
	var planes []film.Plane
	for i := range lights {
		planes = append(planes, film.ElementPlane(i, true))
	}
	b.opt.Layout = film.NewLayout(true, planes...)
	b.opt.DiffuseBounces, b.opt.GlossyBounces = 0, 0
	return b
}

// What is said of a light is what vanishes when that light is sampled sixteen times as much,
// within ten points; the shares of all make up the whole.
func TestBlameIsWhatMoreSamplesTakeAway(t *testing.T) {
	long(t)
	soft := func() *bench { // a large light throws a soft shadow, a tiny one a hard one
		b := blamed(64, 64, 2)
		b.part("floor", floor(4), b.finish(matte(0.6)))
		b.part("ball", ball(geom.V(0, 0.3, 0), 0.25, 24), b.s.Parts[0].Finish)
		b.part("large", hung(geom.V(0, 1.5, 0), 1.6), b.finish(glow(3)))
		b.part("tiny", hung(geom.V(0.4, 1.5, 0.3), 0.02), b.finish(glow(15000)))
		b.camera(geom.V(0, 3, 3), geom.V(0, 0, 0), 0.5)
		return b
	}
	brushed := func() *bench { // a strip is seen in brushed metal, beside a small lamp
		b := blamed(64, 64, 2)
		steel := scene.NewFinish("steel")
		steel.Base, steel.Roughness, steel.Anisotropy = geom.Splat(0.7), 0.45, 0.8
		b.part("sheet", floor(2), b.finish(steel))
		b.part("strip", quad(geom.V(-0.8, 0.5, -1.2), geom.V(1.6, 0, 0), geom.V(0, 0, 0.12)), b.finish(glow(6)))
		b.light(scene.Light{Name: "lamp", Intensity: 0.4, Colour: geom.Splat(1)}, geom.Translate(geom.V(0.5, 2, 0.5)))
		b.camera(geom.V(0, 1.2, 2.2), geom.V(0, 0, -0.2), 0.5)
		return b
	}
	for _, c := range []struct {
		name    string
		of      func() *bench
		element int // to blame: the lamps' order
		least   float64
	}{{"a large light and a tiny one", soft, 0, 0.7}, {"a strip in brushed metal", brushed, 0, 0.7}} {
		v := noise.View{Transform: colour.Plain, Exposure: -1}
		all := image.Rect(0, 0, 64, 64)
		b := c.of()
		was := v.Blame(b.render(t, 16), all)
		if len(was.Lights) != 3 {
			t.Fatalf("%s: %+v", c.name, was.Lights)
		}
		var sum float64
		for _, s := range was.Lights {
			sum += s.Share
		}
		rest := was.Lights[2].Share
		if math.Abs(sum-1) > 1e-9 || math.Abs(rest) > 1e-3 {
			t.Errorf("%s: the shares sum to %v, with a rest of %v", c.name, sum, rest)
		}
		for e := range 2 {
			b.opt.Lamps = []LightSetting{AsInScene(), AsInScene()}
			b.opt.Lamps[e].Samples = 16
			now := v.Blame(b.render(t, 16), all)
			gone := 1 - now.Noise*now.Noise/(was.Noise*was.Noise)
			got := was.Lights[e]
			t.Logf("%s, %s: %.3f of the variance, bar %.3f; %.3f vanishes", c.name, ElementsOf(&b.s, &b.opt)[e], got.Share, got.Error, gone)
			if math.Abs(got.Share-gone) > 0.1 || got.Error > 0.05 {
				t.Errorf("%s: light %d is said to bring %.3f (bar %.3f), and %.3f vanishes", c.name, e, got.Share, got.Error, gone)
			}
		}
		if got := was.Lights[c.element].Share; got < c.least {
			t.Errorf("%s: light %d brings only %.3f", c.name, c.element, got)
		}
	}
}
