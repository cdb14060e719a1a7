package main

import (
	"math"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/sampling"
)

const side = 512 // of the square picture the primary rays make

// shoot traces a picture's camera rays in blocks of 8 x 8, as a renderer does,
// and sends cosine-weighted rays on from where they arrive.
func shoot(b *accel.BVH, tris []accel.Triangle) map[string][]geom.Ray {
	cam := geom.LookAt(geom.V(3.2, 2.6, 4.4), geom.V(0, 0.4, 0), geom.V(0, 1, 0))
	var primary []geom.Ray
	for block := range side * side / 64 {
		for k := range 64 {
			x, y := block%(side/8)*8+k%8, block/(side/8)*8+k/8
			d := geom.V((float32(x)+0.5)/side-0.5, 0.5-(float32(y)+0.5)/side, -1)
			primary = append(primary, geom.Ray{O: cam.Origin(), D: cam.Vector(d).Unit(), TMax: float32(math.Inf(1))})
		}
	}
	first := bounce(b, tris, primary, 1)
	second := bounce(b, tris, first, 2)
	short := bounce(b, tris, primary, 3)
	for i := range short {
		short[i].TMax = 0.3
	}
	return map[string][]geom.Ray{"primary": primary, "bounce1": first, "bounce2": second, "short": short}
}

func bounce(b *accel.BVH, tris []accel.Triangle, rays []geom.Ray, seed uint32) []geom.Ray {
	s := accel.NewStack(b)
	var out []geom.Ray
	for i := range rays {
		h, ok := b.Closest(s, &rays[i])
		if !ok {
			continue
		}
		t := &tris[h.Prim]
		n := t.B.Sub(t.A).Cross(t.C.Sub(t.A)).Unit()
		if n.Dot(rays[i].D) > 0 {
			n = n.Neg()
		}
		p := t.A.Scale(1 - h.U - h.V).Add(t.B.Scale(h.U)).Add(t.C.Scale(h.V))
		rng := sampling.NewStream(i, 0, 0, seed)
		u, v := rng.Two(0)
		f := geom.NewFrame(n)
		out = append(out, geom.Ray{O: geom.OffsetOrigin(p, n), D: f.ToWorld(sampling.CosineHemisphere(u, v)), TMax: float32(math.Inf(1))})
	}
	return out
}
