package trace

import (
	"math"

	"amberproof/core/accel"
	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// point is where a ray met a surface, with what is needed to scatter there.
type point struct {
	p      geom.Vec3
	ng, ns geom.Vec3 // unit normals on the side of the ray's origin
	uv     [2][2]float32
	f      *finish
	part   uint32
	light  int32
	glow   int32
	back   bool // met from behind
	t      float32
	colour geom.Vec3
	alphaV float32
}

// fill computes the point of a hit.
func (w *World) fill(pt *point, h accel.Hit, pr *prim, r *geom.Ray) {
	p := &w.parts[pr.part]
	m := p.mesh
	i := m.Indices[pr.tri*3 : pr.tri*3+3 : pr.tri*3+3]
	b0 := 1 - h.U - h.V
	a, b, c := p.world.Point(m.Positions[i[0]]), p.world.Point(m.Positions[i[1]]), p.world.Point(m.Positions[i[2]])
	pt.p = a.Scale(b0).Add(b.Scale(h.U)).Add(c.Scale(h.V))
	pt.ng = b.Sub(a).Cross(c.Sub(a)).Unit()
	if p.mirror {
		pt.ng = pt.ng.Neg()
	}
	pt.ns = pt.ng
	if len(m.Normals) > 0 {
		n := m.Normals[i[0]].Scale(b0).Add(m.Normals[i[1]].Scale(h.U)).Add(m.Normals[i[2]].Scale(h.V))
		n = p.world.Normal(n)
		if p.mirror {
			n = n.Neg()
		}
		if n = n.Unit(); !n.IsZero() {
			pt.ns = n
		}
	}
	pt.f = &w.finishes[p.finish]
	pt.part, pt.light, pt.glow, pt.t = pr.part, p.light, pr.glow, h.T
	pt.colour, pt.alphaV = geom.Splat(1), 1
	if len(m.Colours) > 0 {
		var k [4]float32
		for j := range k {
			k[j] = m.Colours[i[0]][j]*b0 + m.Colours[i[1]][j]*h.U + m.Colours[i[2]][j]*h.V
		}
		pt.colour, pt.alphaV = geom.V(k[0], k[1], k[2]), k[3]
	}
	if pt.f.textured {
		for s := range m.UV {
			if uv := m.UV[s]; len(uv) > 0 {
				for j := 0; j < 2; j++ {
					pt.uv[s][j] = uv[i[0]][j]*b0 + uv[i[1]][j]*h.U + uv[i[2]][j]*h.V
				}
			}
		}
		if pt.f.NormalTexture.Image >= 0 {
			w.bumpNormal(pt, p, m, i, h)
		}
	}
	pt.back = pt.ng.Dot(r.D) > 0
	if pt.back {
		pt.ng, pt.ns = pt.ng.Neg(), pt.ns.Neg()
	}
	// A shading normal that faces away from the viewer would make the surface
	// black: it is bent back to just within sight.
	wo := r.D.Neg()
	if d := pt.ns.Dot(wo); d < 0.01 {
		pt.ns = pt.ns.MulAdd(wo, 0.01-d).Unit()
	}
}

// bumpNormal turns the shading normal by the normal map, in the tangent frame
// of the file or, where it has none, that of the texture coordinates.
func (w *World) bumpNormal(pt *point, p *part, m *scene.Mesh, i []uint32, h accel.Hit) {
	t := &pt.f.NormalTexture
	c, _ := w.texel(t, &pt.uv, false)
	n := geom.V((c.X*2-1)*pt.f.NormalScale, (c.Y*2-1)*pt.f.NormalScale, c.Z*2-1)
	var tangent, bitangent geom.Vec3
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
		bitangent = pt.ns.Cross(tangent).Scale(sign)
	} else if uv := m.UV[t.Set]; len(uv) > 0 {
		a, b, c := p.world.Point(m.Positions[i[0]]), p.world.Point(m.Positions[i[1]]), p.world.Point(m.Positions[i[2]])
		u1, v1 := uv[i[1]][0]-uv[i[0]][0], uv[i[1]][1]-uv[i[0]][1]
		u2, v2 := uv[i[2]][0]-uv[i[0]][0], uv[i[2]][1]-uv[i[0]][1]
		det := u1*v2 - u2*v1
		if det == 0 {
			return
		}
		e1, e2 := b.Sub(a), c.Sub(a)
		tangent = e1.Scale(v2).Sub(e2.Scale(v1)).Scale(1 / det)
		tangent = tangent.Sub(pt.ns.Scale(tangent.Dot(pt.ns))).Unit()
		// glTF texture coordinates run downwards, and its normal maps have green up.
		bitangent = e1.Scale(-u2).Add(e2.Scale(u1)).Scale(-1 / det)
		bitangent = bitangent.Sub(pt.ns.Scale(bitangent.Dot(pt.ns))).Unit()
	}
	if tangent.IsZero() || bitangent.IsZero() {
		return
	}
	if s := tangent.Scale(n.X).Add(bitangent.Scale(n.Y)).Add(pt.ns.Scale(n.Z)).Unit(); !s.IsZero() {
		pt.ns = s
	}
}

// texel looks a texture up, bilinear. srgb decodes colour; alpha is always linear.
func (w *World) texel(t *scene.Texture, uv *[2][2]float32, srgb bool) (geom.Vec3, float32) {
	img := &w.scene.Images[t.Image]
	u0, v0 := uv[t.Set][0], uv[t.Set][1]
	m := &t.Transform
	u := m[0]*u0 + m[1]*v0 + m[2]
	v := m[3]*u0 + m[4]*v0 + m[5]
	x, y := u*float32(img.W)-0.5, v*float32(img.H)-0.5
	fx, fy := float32(math.Floor(float64(x))), float32(math.Floor(float64(y)))
	tx, ty := x-fx, y-fy
	x0, x1 := wrap(fx, img.W, t.WrapU), wrap(fx+1, img.W, t.WrapU)
	y0, y1 := wrap(fy, img.H, t.WrapV), wrap(fy+1, img.H, t.WrapV)
	var c geom.Vec3
	var a float32
	for _, s := range [4]struct {
		x, y int
		w    float32
	}{{x0, y0, (1 - tx) * (1 - ty)}, {x1, y0, tx * (1 - ty)}, {x0, y1, (1 - tx) * ty}, {x1, y1, tx * ty}} {
		p := img.Pix[(s.y*img.W+s.x)*4:]
		p = p[:4:4]
		if srgb {
			c = c.Add(geom.V(colour.SRGB8[p[0]], colour.SRGB8[p[1]], colour.SRGB8[p[2]]).Scale(s.w))
		} else {
			c = c.Add(geom.V(float32(p[0]), float32(p[1]), float32(p[2])).Scale(s.w * (1.0 / 255)))
		}
		a += float32(p[3]) * s.w * (1.0 / 255)
	}
	return c, a
}

// wrap continues texel index f (a whole number) beyond the image.
func wrap(f float32, n int, how scene.Wrap) int {
	if !(geom.Abs(f) < 1e9) {
		return 0
	}
	i := int(f)
	switch how {
	case scene.Clamp:
		return min(max(i, 0), n-1)
	case scene.Mirror:
		i %= 2 * n
		if i < 0 {
			i += 2 * n
		}
		if i >= n {
			i = 2*n - 1 - i
		}
		return i
	}
	if i %= n; i < 0 {
		i += n
	}
	return i
}

// alphaAt is how much of the surface is there.
func (w *World) alphaAt(pt *point) float32 {
	a := pt.f.Alpha * pt.alphaV
	if t := &pt.f.BaseTexture; t.Image >= 0 {
		_, ta := w.texel(t, &pt.uv, true)
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

// surface applies the textures of a finish.
func (w *World) surface(pt *point) optics.Surface {
	f := pt.f
	s := optics.Surface{
		Base: f.Base.Mul(pt.colour), Metallic: f.Metallic, Roughness: f.Roughness, IOR: f.IOR,
		Transmission: f.Transmission, Thin: f.thin, Coat: f.Clearcoat, CoatRoughness: f.ClearcoatRoughness,
	}
	if !f.textured {
		return s
	}
	if f.BaseTexture.Image >= 0 {
		c, _ := w.texel(&f.BaseTexture, &pt.uv, true)
		s.Base = s.Base.Mul(c)
	}
	if f.MetalRoughTexture.Image >= 0 {
		c, _ := w.texel(&f.MetalRoughTexture, &pt.uv, false)
		s.Metallic *= c.Z
		s.Roughness *= c.Y
	}
	if f.TransmissionTexture.Image >= 0 {
		c, _ := w.texel(&f.TransmissionTexture, &pt.uv, false)
		s.Transmission *= c.X
	}
	if f.CoatTexture.Image >= 0 {
		c, _ := w.texel(&f.CoatTexture, &pt.uv, false)
		s.Coat *= c.X
	}
	if f.CoatRoughTexture.Image >= 0 {
		c, _ := w.texel(&f.CoatRoughTexture, &pt.uv, false)
		s.CoatRoughness *= c.Y
	}
	return s
}

// emission is the radiance a point gives towards its viewer.
func (w *World) emission(pt *point) geom.Vec3 {
	f := pt.f
	if w.parts[pt.part].element < 0 || pt.back && !f.DoubleSided {
		return geom.Vec3{}
	}
	if pt.light >= 0 && w.set.Lights[pt.light].Kind == lights.Rect {
		return w.set.Lights[pt.light].Colour // an area light, at its set strength
	}
	if f.EmissionTexture.Image >= 0 {
		c, _ := w.texel(&f.EmissionTexture, &pt.uv, true)
		return f.Emission.Mul(c)
	}
	return f.Emission
}
