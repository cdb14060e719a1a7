package setup

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// place is where a change puts a part in its object; false for a part that its
// object flattens, so that there is no way back into it.
func (c *Change) place(s *scene.Scene, part int) (*geom.Affine, bool) {
	world := s.World(part)
	back, ok := world.Inverse()
	if !ok {
		return nil, false
	}
	p := back.Mul(c.about(s.PartBounds(part).Centre()).Mul(world))
	if own := s.Parts[part].Place; own != nil {
		p = own.Mul(p)
	}
	return &p, p.Finite()
}

// about is what a change does in the world to a part with its middle at a point.
func (c *Change) about(mid geom.Vec3) geom.Affine {
	k := float32(c.Scale)
	scale := geom.Affine{k, 0, 0, 0, 0, k, 0, 0, 0, 0, k, 0}
	return geom.Translate(mid.Add(c.Shift.metres())).Mul(c.turned()).Mul(scale).Mul(geom.Translate(mid.Neg()))
}

// turned is the turn of a change.
func (c *Change) turned() geom.Affine {
	turn := geom.Identity()
	for axis, deg := range []float64{c.Turn.X, c.Turn.Y, c.Turn.Z} {
		turn = around(axis, deg).Mul(turn)
	}
	return turn
}

// around is a turn about an axis of the world, counter-clockwise.
func around(axis int, deg float64) geom.Affine {
	sin, cos := math.Sincos(deg * math.Pi / 180)
	s, c := float32(sin), float32(cos)
	switch axis {
	case 0:
		return geom.Affine{1, 0, 0, 0, 0, c, -s, 0, 0, s, c, 0}
	case 1:
		return geom.Affine{c, 0, s, 0, 0, 1, 0, 0, -s, 0, c, 0}
	}
	return geom.Affine{c, -s, 0, 0, s, c, 0, 0, 0, 0, 1, 0}
}
