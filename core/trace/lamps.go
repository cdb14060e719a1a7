package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/names"
	"amberproof/core/scene"
)

// Lamp is a light of the scene that a ticket can switch: a punctual light of
// the file, or a glowing flat rectangle or disk, which is taken as an area light.
// Other glowing parts belong to the product and follow its finishes.
type Lamp struct {
	Name  string
	Kind  string // "point", "spot", "sun", "sphere", "rectangle" or "disk"
	Part  int    // of a rectangle or disk, else -1
	Light int    // of a punctual light, else -1
	shine scene.Shine
	rect  rectangle // of a disk only its place
}

type rectangle struct {
	p, n, s, t geom.Vec3
	w, h       float32
}

// LampsOf lists the lamps of a scene in a fixed order, with names made unique.
func LampsOf(s *scene.Scene) []Lamp {
	var out []Lamp
	add := func(l Lamp) { out = append(out, l) }
	for i, p := range s.Parts {
		f := s.FinishOf(i)
		if !f.Glowing() || f.EmissionTexture.Image >= 0 {
			continue
		}
		world := s.World(i)
		if r, ok := rectangleOf(&s.Meshes[p.Mesh], &world); ok {
			add(Lamp{Name: p.Name, Kind: "rectangle", Part: i, Light: -1, shine: p.Shine, rect: r})
		} else if r, ok := diskOf(&s.Meshes[p.Mesh], &world); ok {
			add(Lamp{Name: p.Name, Kind: "disk", Part: i, Light: -1, shine: p.Shine, rect: r})
		}
	}
	for i, l := range s.Lights {
		kind := [...]string{"point", "spot", "sun"}[l.Kind]
		if l.Radius > 0 && l.Kind != scene.SunLight {
			kind = "sphere"
		}
		add(Lamp{Name: l.Name, Kind: kind, Part: -1, Light: i, shine: l.Shine})
	}
	all := make([]string, len(out))
	for i := range out {
		all[i] = out[i].Name
	}
	for i, n := range (names.Style{Join: " "}).Unique(all) {
		out[i].Name = n
	}
	return out
}

// rectangleOf recognises a mesh of two triangles that make a flat rectangle.
func rectangleOf(m *scene.Mesh, world *geom.Affine) (r rectangle, ok bool) {
	if len(m.Indices) != 6 {
		return r, false
	}
	a, b, c := m.Indices[0], m.Indices[1], m.Indices[2]
	// The corner of the first triangle opposite to the shared edge starts the rectangle.
	other := func(x uint32) bool {
		p := m.Positions[x]
		for _, k := range m.Indices[3:] {
			if m.Positions[k] == p {
				return false
			}
		}
		return true
	}
	switch {
	case other(a):
	case other(b):
		a, b, c = b, c, a
	case other(c):
		a, b, c = c, a, b
	default:
		return r, false
	}
	o := world.Point(m.Positions[a])
	e, f := world.Point(m.Positions[b]).Sub(o), world.Point(m.Positions[c]).Sub(o)
	fourth := o.Add(e).Add(f)
	found := false
	tol := 1e-3 * (e.Len() + f.Len())
	for _, k := range m.Indices[3:] {
		found = found || world.Point(m.Positions[k]).Sub(fourth).Len() < tol
	}
	r.w, r.h = e.Len(), f.Len()
	if !found || r.w == 0 || r.h == 0 || geom.Abs(e.Dot(f)) > 1e-3*r.w*r.h {
		return r, false
	}
	r.s, r.t = e.Unit(), f.Unit()
	r.n = r.s.Cross(r.t)
	if world.Det() < 0 {
		r.n = r.n.Neg()
	}
	r.p = o.Add(e.Add(f).Scale(0.5))
	return r, true
}

// diskOf recognises a flat mesh of twelve corners or more that lie evenly far
// from their middle, with or without a corner there.
func diskOf(m *scene.Mesh, world *geom.Affine) (r rectangle, ok bool) {
	const fewest, most = 12, 1024
	if n := len(m.Positions); n < fewest || n > most || len(m.Indices) < 3*(fewest-2) {
		return r, false
	}
	box := geom.EmptyBox()
	pts := make([]geom.Vec3, len(m.Positions))
	for i, p := range m.Positions {
		pts[i] = world.Point(p)
		box = box.Extend(pts[i])
	}
	r.p = box.Centre()
	var area, flat geom.Vec3
	var size float32
	for k := 0; k+2 < len(m.Indices); k += 3 {
		a, b, c := pts[m.Indices[k]], pts[m.Indices[k+1]], pts[m.Indices[k+2]]
		n := b.Sub(a).Cross(c.Sub(a)).Scale(0.5)
		area, size = area.Add(n), size+n.Len()
	}
	r.n = area.Unit()
	if world.Det() < 0 {
		r.n = r.n.Neg()
	}
	radius := float32(0)
	for _, p := range pts {
		radius = max(radius, p.Sub(r.p).Len())
	}
	for _, p := range pts {
		d := p.Sub(r.p)
		flat = geom.Max3(flat, geom.Splat(geom.Abs(d.Dot(r.n))))
		if l := d.Len(); l > 0.02*radius && l < 0.98*radius {
			return r, false
		}
	}
	full := math.Pi * radius * radius
	return r, radius > 0 && flat.X < 1e-3*radius && area.Len() > 0.999*size && size > 0.9*full
}
