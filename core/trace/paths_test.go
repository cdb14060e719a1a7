package trace

import (
	"fmt"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
)

// In a closed room whose walls glow evenly with radiance 1 and send back half of
// what they get, light that was turned n times is 0.5^n.
func TestLightIsToldByItsWay(t *testing.T) {
	const depths = 6
	b := newBench(8, 8)
	wall := matte(0.5)
	wall.Emission, wall.DoubleSided = geom.Splat(1), true
	b.cube(geom.Splat(-1), geom.Splat(2), b.finish(wall))
	b.camera(geom.V(0.3, 0.2, 0.1), geom.V(0.8, 0.1, -1), 1)
	b.opt.Layout = film.NewLayout(false,
		film.Plane{Name: "by depth", Values: 3 * depths, Halves: true, Of: film.LightByDepth},
		film.Plane{Name: "by way", Values: 15, Of: film.LightByWay})
	f := b.render(t, 512)
	byDepth, byWay := b.at(t, "by depth"), b.at(t, "by way")
	for n := range depths {
		got, bar := meanOf(f, byDepth+3*n)
		expect(t, fmt.Sprintf("light turned %d times", n), got, math.Pow(0.5, float64(n)), bar+1e-4)
	}
	for way, want := range []float64{film.Looked: 1, film.Direct: 0.5, film.ByMatte: 0.5, film.ByGloss: 0, film.ByClear: 0} {
		got, bar := meanOf(f, byWay+3*way)
		expect(t, fmt.Sprintf("light by way %d", way), got, want, bar+1e-4)
	}
	s, i := f.At(4, 4)
	if px := s.Pixel(i); px[byDepth+3*depths] != px[film.WeightA] {
		t.Errorf("half A has %v of what is looked at, and weighs %v", px[byDepth+3*depths], px[film.WeightA])
	}
}

// What the far face of a pane mirrors leaves it by the near one and is seen in every
// sample, not brightly in a few: both faces together mirror 2R/(1+R) (Stokes 1862).
func TestWhatAPaneMirrorsInsideIsNotLeftToChance(t *testing.T) {
	b := newBench(32, 32)
	b.cube(geom.V(-1, -1, -0.1), geom.V(2, 2, 0.1), b.finish(glass(0)))
	b.part("wall", quad(geom.V(-9, -9, -1), geom.V(18, 0, 0), geom.V(0, 18, 0)), b.finish(matte(0)))
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	b.camera(geom.V(0, 0, 5), geom.Vec3{}, 0.05)
	f := b.render(t, 1)
	got, bar := meanOf(f, film.Beauty)
	const r = 0.04
	expect(t, "mirrored by a pane before black", got, 2*r/(1+r), 0.003)
	if spread := bar / 4 * 32; spread > 0.4*got {
		t.Errorf("single samples spread by %.2f of their mean", spread/got)
	}
}
