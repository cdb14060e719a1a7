package trace

import (
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
)

// Straight shadows through a solid block are never brighter than the bent truth:
// light that comes in by its sides does not go out by its bottom. They may be
// darker, where the block gathers light.
func TestStraightShadowsOfABlockAddNoLight(t *testing.T) {
	const size, block = 40, 10
	render := func(straight bool, samples int) *film.Film {
		b := newBench(size, size)
		b.opt.StraightShadows = straight
		b.part("floor", floor(6), b.finish(matte(0.5)))
		g := b.finish(glass(0))
		// One wide and 0.8 high, standing just off the floor.
		v := geom.V
		x, y, h := float32(0.5), float32(0.01), float32(0.8)
		for _, side := range [][3]geom.Vec3{
			{v(-x, y+h, x), v(2*x, 0, 0), v(0, 0, -2*x)}, {v(-x, y, -x), v(2*x, 0, 0), v(0, 0, 2*x)},
			{v(-x, y, x), v(2*x, 0, 0), v(0, h, 0)}, {v(x, y, -x), v(-2*x, 0, 0), v(0, h, 0)},
			{v(x, y, x), v(0, 0, -2*x), v(0, h, 0)}, {v(-x, y, -x), v(0, 0, 2*x), v(0, h, 0)},
		} {
			b.part("side", quad(side[0], side[1], side[2]), g)
		}
		panel := glow(6)
		panel.DoubleSided = true
		b.part("left", quad(v(-4, 0.5, -1.5), v(0, 2.5, 0), v(0, 0, 3)), b.finish(panel))
		b.part("top", quad(v(1.3, 4, -1), v(2, 0, 0), v(0, 0, 2)), b.finish(panel))
		b.opt.ClearBounces, b.opt.DiffuseBounces = 16, 1
		b.camera(v(0, 6, 0.001), geom.Vec3{}, 0.4)
		return b.render(t, samples)
	}
	straight, bent := render(true, 128), render(false, 1024)
	for by := 0; by < size; by += block {
		for bx := 0; bx < size; bx += block {
			var a, b float64
			for y := by; y < by+block; y++ {
				for x := bx; x < bx+block; x++ {
					s, i := straight.At(x, y)
					p, k := bent.At(x, y)
					c1, _ := s.Light(i)
					c2, _ := p.Light(k)
					a, b = a+float64(c1.Y), b+float64(c2.Y)
				}
			}
			// The means of a block are uncertain by about a hundredth; without the rule the
			// straight ones are brighter by up to a half.
			if a > 1.04*b {
				t.Errorf("the block at %d, %d is %.3f times as bright as the truth", bx, by, a/b)
			}
		}
	}
}
