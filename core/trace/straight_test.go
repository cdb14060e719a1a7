package trace

import (
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// cube adds the six sides of a block; low is its corner at the least x, y and z.
func (b *bench) cube(low, size geom.Vec3, finish int) {
	v := geom.V
	x, y, z := size.X, size.Y, size.Z
	far := low.Add(size)
	for _, side := range [][3]geom.Vec3{
		{v(low.X, far.Y, far.Z), v(x, 0, 0), v(0, 0, -z)}, {low, v(x, 0, 0), v(0, 0, z)},
		{v(low.X, low.Y, far.Z), v(x, 0, 0), v(0, y, 0)}, {v(far.X, low.Y, low.Z), v(-x, 0, 0), v(0, y, 0)},
		{v(far.X, low.Y, far.Z), v(0, 0, -z), v(0, y, 0)}, {low, v(0, 0, z), v(0, y, 0)},
	} {
		b.part("side", quad(side[0], side[1], side[2]), finish)
	}
}

// insideOut turns the faces of a mesh round.
func insideOut(m scene.Mesh) scene.Mesh {
	for i := range m.Normals {
		m.Normals[i] = m.Normals[i].Neg()
	}
	for i := 0; i < len(m.Indices); i += 3 {
		m.Indices[i], m.Indices[i+1] = m.Indices[i+1], m.Indices[i]
	}
	return m
}

// Straight shadows of clear bodies add no light to what bent ones give and lose
// none: what solids turn aside is left to paths. The floor is compared in blocks of
// pixels, each mean of which is uncertain by about a hundredth.
func TestStraightShadowsAgreeWithBentOnes(t *testing.T) {
	long(t)
	const size, block = 24, 8
	for _, c := range []struct {
		name string
		body func(b *bench, glass int)
	}{
		// Light that comes in by the sides of a block does not go out by its bottom.
		{"block", func(b *bench, g int) { b.cube(geom.V(-0.5, 0.01, -0.5), geom.V(1, 0.8, 1), g) }},
		{"ball", func(b *bench, g int) { b.part("ball", ball(geom.V(0, 0.6, 0), 0.55, 64), g) }},
		{"shell", func(b *bench, g int) {
			b.part("outside", ball(geom.V(0, 0.6, 0), 0.55, 64), g)
			b.part("inside", insideOut(ball(geom.V(0, 0.6, 0), 0.53, 64)), g)
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			render := func(straight bool, samples int) *film.Film {
				b := newBench(size, size)
				b.opt.StraightShadows = straight
				b.part("floor", floor(6), b.finish(matte(0.5)))
				c.body(b, b.finish(glass(0)))
				panel := glow(6)
				panel.DoubleSided = true
				b.part("left", quad(geom.V(-4, 0.5, -1.5), geom.V(0, 2.5, 0), geom.V(0, 0, 3)), b.finish(panel))
				b.part("top", quad(geom.V(1.3, 4, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), b.finish(panel))
				b.opt.ClearBounces, b.opt.DiffuseBounces = 16, 1
				b.camera(geom.V(0, 6, 0.001), geom.Vec3{}, 0.4)
				return b.render(t, samples)
			}
			straight, bent := render(true, 512), render(false, 1024)
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
					if math.Abs(a-b) > 0.05*b {
						t.Errorf("the block at %d, %d is %.3f times as bright as the truth", bx, by, a/b)
					}
				}
			}
		})
	}
}
