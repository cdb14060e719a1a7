package trace

import (
	"math"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// point is where a ray hit a surface, with what is needed to scatter there.
type point struct {
	p      geom.Vec3
	lifted geom.Vec3 // where rays on the side of the normals begin
	slack  float32   // by which rounding in the triangle may misplace a ray from it
	ng, ns geom.Vec3 // unit normals on the side of the ray's origin
	// nv decides what is above the surface: the true normal or, of opaque bulging
	// smooth surfaces, that of the vertices.
	nv     geom.Vec3
	tex    place
	f      *preparedFinish
	part   uint32
	hit    accel.Hit // Prim is the triangle's place in the part's mesh
	light  int32
	back   bool // hit from behind
	t      float32
	colour geom.Vec3
	alphaV float32
	// coat is the normal of a clear coat, where it has one of its own.
	coat geom.Vec3
	// along is the first tangent of a surface with anisotropic gloss.
	along geom.Vec3
}

// frame is the shading frame: N the normal, S the tangent that gloss is drawn along.
func (pt *point) frame() geom.Frame {
	if pt.f.Anisotropy == 0 {
		return geom.NewFrame(pt.ns)
	}
	s := pt.along.Sub(pt.ns.Scale(pt.along.Dot(pt.ns))).Unit()
	if s.IsZero() {
		return geom.NewFrame(pt.ns)
	}
	return geom.Frame{S: s, T: pt.ns.Cross(s), N: pt.ns}
}

// fill computes the point of a hit of a ray of a certain width.
func (t *Tracer) fill(pt *point, h accel.Hit, pr *prim, r *geom.Ray, wide cone) {
	w := t.w
	p := t.part(pr.part)
	m := p.mesh
	h.Prim = pr.tri
	i := m.Indices[pr.tri*3 : pr.tri*3+3 : pr.tri*3+3]
	b0 := 1 - h.U - h.V
	corners := [3]corner{p.corner(i[0]), p.corner(i[1]), p.corner(i[2])}
	a, b, c := corners[0].p, corners[1].p, corners[2].p
	pt.p = a.Scale(b0).Add(b.Scale(h.U)).Add(c.Scale(h.V))
	across := b.Sub(a).Cross(c.Sub(a))
	twiceArea := across.Len()
	pt.ng = geom.Vec3{}
	if twiceArea > 0 {
		pt.ng = across.Scale(1 / twiceArea)
	}
	if p.mirror {
		pt.ng = pt.ng.Neg()
	}
	pt.ns = pt.ng
	if len(m.Normals) > 0 {
		n := corners[0].n.Scale(b0).Add(corners[1].n.Scale(h.U)).Add(corners[2].n.Scale(h.V))
		if n = n.Unit(); !n.IsZero() {
			pt.ns = n
		}
	}
	smooth := pt.ns
	pt.f = &w.finishes[p.finish]
	pt.part, pt.hit, pt.light, pt.t = pr.part, h, p.light, h.T
	pt.colour, pt.alphaV = geom.Splat(1), 1
	if len(m.Colours) > 0 {
		var k [4]float32
		for j := range k {
			k[j] = m.Colours[i[0]][j]*b0 + m.Colours[i[1]][j]*h.U + m.Colours[i[2]][j]*h.V
		}
		pt.colour, pt.alphaV = geom.V(k[0], k[1], k[2]), k[3]
	}
	pt.along, pt.coat = geom.Vec3{}, geom.Vec3{}
	if pt.f.textured || pt.f.Anisotropy > 0 {
		for s := range m.UV {
			if uv := m.UV[s]; len(uv) > 0 {
				for j := 0; j < 2; j++ {
					pt.tex.uv[s][j] = uv[i[0]][j]*b0 + uv[i[1]][j]*h.U + uv[i[2]][j]*h.V
				}
			}
		}
		pt.tex.cover(m, i, twiceArea, wide.at(h.T), geom.Abs(pt.ng.Dot(r.D)))
		if pt.f.tangents {
			w.relief(pt, p, m, i, h)
		}
	}
	pt.back = pt.ng.Dot(r.D) > 0
	if pt.back {
		pt.ng, pt.ns, smooth = pt.ng.Neg(), pt.ns.Neg(), smooth.Neg()
	}
	pt.slack = slackOf(pt.p, a, b, c)
	pt.lifted, pt.nv = pt.off(pt.ng), pt.ng
	if len(m.Normals) > 0 {
		pt.lift(&corners, [3]float32{b0, h.U, h.V}, smooth)
	}
	// A shading normal that faces away from the viewer would make the surface
	// black: it is bent back to just within sight.
	wo := r.D.Neg()
	pt.ns = within(pt.ns, wo)
	if !pt.coat.IsZero() {
		if pt.back {
			pt.coat = pt.coat.Neg()
		}
		pt.coat = within(pt.coat, wo)
	}
}

// slackOf is how far a ray that starts at p must be lifted off the triangle it
// stands on, beside what the place itself calls for: distances to a triangle are
// computed from its corners as the ray sees them, and rounded as those are. It is
// nothing next to the place's own offset but for triangles far larger than what
// stands on them.
func slackOf(p, a, b, c geom.Vec3) float32 {
	const roundings = 4.0 / (1 << 23)
	return roundings * geom.Sqrt(max(a.Sub(p).Len2(), b.Sub(p).Len2(), c.Sub(p).Len2()))
}

// off is where a ray begins that leaves the surface to the side of n.
func (pt *point) off(n geom.Vec3) geom.Vec3 {
	return geom.OffsetOrigin(pt.p.MulAdd(n, pt.slack), n)
}

// onSide turns a direction to the side of the surface that its normal n is on,
// by mirroring it there.
func onSide(wi, n geom.Vec3) geom.Vec3 {
	if d := wi.Dot(n); d < 0 {
		return wi.MulAdd(n, -2*d)
	}
	return wi
}

// within bends a normal to just within sight from wo.
func within(n, wo geom.Vec3) geom.Vec3 {
	if d := n.Dot(wo); d < 0.01 {
		return n.MulAdd(wo, 0.01-d).Unit()
	}
	return n
}

// lift moves the start of rays out to the smooth surface that the triangle
// stands for, where that bulges: else coarse smooth meshes shade themselves in
// stairs along the edge of a shadow (Hanika 2021).
func (pt *point) lift(corners *[3]corner, weights [3]float32, smooth geom.Vec3) {
	var out geom.Vec3
	for k := range corners {
		n := corners[k].n
		if pt.back {
			n = n.Neg()
		}
		if d := pt.p.Sub(corners[k].p).Dot(n); d < 0 {
			out = out.MulAdd(n, -d*weights[k])
		}
	}
	// Only outwards, and not for rounding's sake.
	if d := out.Dot(pt.ng); d > 1e-7*pt.t {
		pt.lifted = geom.OffsetOrigin(pt.p.Add(out).MulAdd(pt.ng, pt.slack), pt.ng)
		if pt.f.Transmission == 0 {
			pt.nv = smooth
		}
	}
}

// relief turns the shading normal by the normal map, finds the tangent of
// anisotropic gloss, and the normal of a coat that does not follow the map.
func (w *World) relief(pt *point, p *part, m *scene.Mesh, i []uint32, h accel.Hit) {
	f := pt.f
	tangent, bitangent, ok := tangents(pt.ns, p, m, i, h, f.tangentSet)
	if f.Anisotropy > 0 {
		if !ok {
			fr := geom.NewFrame(pt.ns)
			tangent, bitangent = fr.S, fr.T
		}
		turn := f.AnisotropyTurn
		sin, cos := geom.SinCosTurn(turn / (2 * math.Pi))
		x, y := cos, sin
		if t := &f.AnisotropyTexture; t.Image >= 0 {
			c, _ := w.texel(t, &pt.tex, false)
			dx, dy := c.X*2-1, c.Y*2-1
			x, y = cos*dx-sin*dy, sin*dx+cos*dy
		}
		pt.along = tangent.Scale(x).Add(bitangent.Scale(y))
	}
	if !ok {
		return
	}
	turned := func(t *scene.Texture, scale float32) geom.Vec3 {
		if t.Image < 0 {
			return pt.ns
		}
		c, _ := w.texel(t, &pt.tex, false)
		n := geom.V((c.X*2-1)*scale, (c.Y*2-1)*scale, c.Z*2-1)
		if f.GreenDown {
			n.Y = -n.Y
		}
		if s := tangent.Scale(n.X).Add(bitangent.Scale(n.Y)).Add(pt.ns.Scale(n.Z)).Unit(); !s.IsZero() {
			return s
		}
		return pt.ns
	}
	if f.Clearcoat > 0 {
		pt.coat = turned(&f.CoatNormalTexture, f.CoatNormalScale)
	}
	pt.ns = turned(&f.NormalTexture, f.NormalScale)
}

// tangents are the directions of the texture's u and (upwards) v on the surface:
// those of the file or of the importer, or else those of the triangle alone.
func tangents(ns geom.Vec3, p *part, m *scene.Mesh, i []uint32, h accel.Hit, set int) (tangent, bitangent geom.Vec3, ok bool) {
	if len(m.Tangents) > 0 {
		b0 := 1 - h.U - h.V
		var k [4]float32
		for j := range k {
			k[j] = m.Tangents[i[0]][j]*b0 + m.Tangents[i[1]][j]*h.U + m.Tangents[i[2]][j]*h.V
		}
		tangent = p.world.Vector(geom.V(k[0], k[1], k[2])).Unit()
		sign := float32(1)
		if (k[3] < 0) != p.mirror {
			sign = -1
		}
		bitangent = ns.Cross(tangent).Scale(sign)
	} else if uv := m.UV[set]; len(uv) > 0 {
		a, b, c := p.corner(i[0]).p, p.corner(i[1]).p, p.corner(i[2]).p
		u1, v1 := uv[i[1]][0]-uv[i[0]][0], uv[i[1]][1]-uv[i[0]][1]
		u2, v2 := uv[i[2]][0]-uv[i[0]][0], uv[i[2]][1]-uv[i[0]][1]
		det := u1*v2 - u2*v1
		if det == 0 {
			return
		}
		e1, e2 := b.Sub(a), c.Sub(a)
		tangent = e1.Scale(v2).Sub(e2.Scale(v1)).Scale(1 / det)
		tangent = tangent.Sub(ns.Scale(tangent.Dot(ns))).Unit()
		// glTF texture coordinates run downwards, and its normal maps have green up.
		bitangent = e1.Scale(-u2).Add(e2.Scale(u1)).Scale(-1 / det)
		bitangent = bitangent.Sub(ns.Scale(bitangent.Dot(ns))).Unit()
	}
	return tangent, bitangent, !tangent.IsZero() && !bitangent.IsZero()
}

// alphaAt is how much of the surface is there.
func (w *World) alphaAt(pt *point) float32 {
	a := pt.f.Alpha * pt.alphaV
	if t := &pt.f.BaseTexture; t.Image >= 0 {
		at := pt.tex
		if pt.f.AlphaMode == scene.Mask {
			at.span = [2]float32{} // a mean of texels would move the edge of the cut
		}
		_, ta := w.texel(t, &at, true)
		a *= ta
	}
	if pt.f.AlphaMode == scene.Mask {
		if a < pt.f.Cutoff {
			return 0
		}
		return 1
	}
	return a
}

// surface decides what a point is made of that lies in a medium of index of
// refraction around: its finish, with its textures, and what lies over them.
func (w *World) surface(pt *point, around float32) optics.Surface {
	f := pt.f
	s := optics.Surface{
		Base: f.Base.Mul(pt.colour), Metallic: f.Metallic, Roughness: f.Roughness, IOR: f.IOR,
		Specular: f.Specular, SpecularColour: f.SpecularColour, Anisotropy: f.Anisotropy,
		Transmission: f.Transmission, Thin: f.thin, Coat: f.Clearcoat, CoatRoughness: f.ClearcoatRoughness,
		Sheen: f.Sheen, SheenRoughness: f.SheenRoughness, Film: optics.Film{Share: f.Iridescence, IOR: f.FilmIOR, Thickness: f.FilmThick},
	}
	if around != 1 && f.IOR != 1 {
		s.IOR /= around
	}
	if f.textured {
		w.textured(pt, &s)
	}
	if f.over != nil {
		s = f.over(optics.Spot{P: pt.p, N: pt.ns, Part: int(pt.part)}, s)
	}
	return s
}

func (w *World) textured(pt *point, s *optics.Surface) {
	f := pt.f
	colour := func(t *scene.Texture, v *geom.Vec3) {
		if t.Image >= 0 {
			c, _ := w.texel(t, &pt.tex, true)
			*v = v.Mul(c)
		}
	}
	// value multiplies by one channel: 0 to 2 are red to blue, 3 is alpha.
	value := func(t *scene.Texture, channel int, v *float32) {
		if t.Image >= 0 {
			c, a := w.texel(t, &pt.tex, false)
			if channel == 3 {
				*v *= a
			} else {
				*v *= c.At(channel)
			}
		}
	}
	colour(&f.BaseTexture, &s.Base)
	value(&f.MetalRoughTexture, 2, &s.Metallic)
	value(&f.MetalRoughTexture, 1, &s.Roughness)
	value(&f.SpecularTexture, 3, &s.Specular)
	colour(&f.SpecColourTexture, &s.SpecularColour)
	value(&f.AnisotropyTexture, 2, &s.Anisotropy)
	value(&f.TransmissionTexture, 0, &s.Transmission)
	value(&f.CoatTexture, 0, &s.Coat)
	value(&f.CoatRoughTexture, 1, &s.CoatRoughness)
	colour(&f.SheenTexture, &s.Sheen)
	value(&f.SheenRoughTexture, 3, &s.SheenRoughness)
	value(&f.IridescenceTexture, 0, &s.Film.Share)
	if t := &f.FilmTexture; t.Image >= 0 {
		c, _ := w.texel(t, &pt.tex, false)
		s.Film.Thickness = f.FilmThin + (f.FilmThick-f.FilmThin)*c.Y
	}
}

// emission is the radiance a point gives towards its viewer.
func (w *World) emission(pt *point) geom.Vec3 {
	f := pt.f
	if w.parts[pt.part].element < 0 || pt.back && !f.DoubleSided {
		return geom.Vec3{}
	}
	e := f.Emission.Mul(w.parts[pt.part].gain)
	if f.EmissionTexture.Image >= 0 {
		c, _ := w.texel(&f.EmissionTexture, &pt.tex, true)
		return w.hue(e.Mul(c))
	}
	return e
}
