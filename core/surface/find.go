package surface

import (
	"math"

	"amberproof/core/geom"
)

// Place is a place on a part, in the part's own space, so that it stays there when the part is
// moved.
type Place struct {
	Part   string     `json:"part"` // its key
	Title  string     `json:"title"`
	Shape  string     `json:"shape"`
	At     [3]float32 `json:"at"`     // metres
	Normal [3]float32 `json:"normal"` // on the side it was seen from
	// Through says that it was seen behind a clear part.
	Through bool `json:"through"`
	Around  bool `json:"around"` // the part stands around the product
}

// Spot tells what is at a point of the frame, in pixels from its upper left corner: what is
// seen first and, through it where that is clear, what is seen behind. It is empty where
// nothing is.
func (m *Map) Spot(fx, fy float32) (out []Place) {
	cx, cy := m.cell(fx, fy)
	if !m.inside(cx, cy) {
		return nil
	}
	i := int(cy)*m.W + int(cx)
	for _, l := range [...]*Layer{&m.Front, &m.Behind} {
		if l.Part[i] == 0 {
			continue
		}
		at := l.At[i]
		if l == &m.Front { // what is seen through others may be bent aside
			at = m.exactly(fx, fy, at, l.normal(i))
		}
		p := m.placeOn(int(l.Part[i])-1, at, l.normal(i))
		p.Through = l == &m.Behind
		out = append(out, p)
	}
	return out
}

// inside tells whether a point lies in the grid; what is not a number does not.
func (m *Map) inside(cx, cy float32) bool {
	return cx >= 0 && cy >= 0 && cx < float32(m.W) && cy < float32(m.H)
}

// exactly is where the ray through a point of the frame meets the plane of its cell: a cell may
// be wider than what was pointed at.
func (m *Map) exactly(fx, fy float32, at, normal geom.Vec3) geom.Vec3 {
	r := m.Camera.Through(fx, fy, m.Width, m.Height)
	slant := r.D.Dot(normal)
	if slant > -0.1 { // of surfaces seen at grazing angles the plane may be met anywhere
		return at
	}
	p := r.At(at.Sub(r.O).Dot(normal) / slant)
	if p.Sub(at).Len() > 4*m.step(at) {
		return at
	}
	return p
}

// step is how far apart cells are at a point, metres across the view.
func (m *Map) step(p geom.Vec3) float32 {
	return m.Camera.Footprint(p, m.Width, m.Height) * float32(m.Window.Dx()) / float32(m.W)
}

func (m *Map) placeOn(part int, at, normal geom.Vec3) Place {
	p := &m.Parts[part]
	own := Place{Part: p.Key, Title: p.Title, Shape: p.Shape, Around: p.Around}
	if back, ok := p.World.Inverse(); ok {
		at = back.Point(at)
		normal = back.Normal(normal)
	}
	n := normal.Unit()
	own.At, own.Normal = [3]float32{at.X, at.Y, at.Z}, [3]float32{n.X, n.Y, n.Z}
	return own
}

// Sight is what became of a place in a picture.
type Sight string

// What may have become of a place.
const (
	Visible Sight = "visible"
	Hidden  Sight = "hidden"  // something is in front of it, or it faces away
	Outside Sight = "outside" // it is not in the frame, or not in the part of it that was computed
	Gone    Sight = "gone"    // the part is not in the picture
)

// around is how many cells from where a place is expected it is looked for: what is seen
// through clear parts is bent aside.
const around = 12

// Find tells where in the frame a place is seen, in pixels from its upper left corner. Where it
// is hidden, it is where it would be.
func (m *Map) Find(p Place) (fx, fy float32, what Sight) {
	part, ok := m.places[p.Part]
	if !ok || m.Parts[part].Out {
		return 0, 0, Gone
	}
	of := &m.Parts[part]
	at := of.World.Point(geom.V(p.At[0], p.At[1], p.At[2]))
	normal := of.World.Normal(geom.V(p.Normal[0], p.Normal[1], p.Normal[2])).Unit()
	fx, fy, ok = m.Camera.Seen(at, m.Width, m.Height)
	if !ok {
		return 0, 0, Outside
	}
	cx, cy := m.cell(fx, fy)
	if !m.inside(cx, cy) {
		return fx, fy, Outside
	}
	w := wanted{part: uint32(part) + 1, at: at, normal: normal, way: m.way(at), reach: 1.5 * m.step(at)}
	if of.Shape != p.Shape { // where it was modelled anew, the place is the nearest to what it was
		w.reach = max(w.reach, of.Box.Radius()/10)
	} else if normal.Dot(w.way) > facesAway {
		return fx, fy, Hidden
	}
	if _, ok := m.nearest(&m.Front, &w, int(cx), int(cy), 1); ok {
		return fx, fy, Visible
	}
	if i, ok := m.nearest(&m.Behind, &w, int(cx), int(cy), around); ok {
		fx, fy = m.centre(i%m.W, i/m.W)
		return fx, fy, Visible
	}
	return fx, fy, Hidden
}

// facesAway is the cosine to the view from which on a place is on the far side: normals of
// smooth surfaces lean over their outlines a little.
const facesAway = 0.1

// way is the direction in which a point is looked at.
func (m *Map) way(p geom.Vec3) geom.Vec3 {
	if m.Camera.YFov == 0 {
		return m.Camera.World.Axis(2).Unit().Neg()
	}
	return p.Sub(m.Camera.World.Origin()).Unit()
}

// wanted is a place that is looked for in the grid.
type wanted struct {
	part            uint32
	at, normal, way geom.Vec3
	reach           float32 // metres across the view within which what is seen is the place
}

// nearest finds the cell within so many of (x, y) that shows what is nearest to a place, across
// the view, from the side of its normal.
func (m *Map) nearest(l *Layer, w *wanted, x, y, within int) (cell int, ok bool) {
	best := float32(0)
	for j := max(0, y-within); j <= min(m.H-1, y+within); j++ {
		for i := max(0, x-within); i <= min(m.W-1, x+within); i++ {
			k := j*m.W + i
			if l.Part[k] != w.part {
				continue
			}
			n := l.normal(k)
			d := l.At[k].Sub(w.at)
			deep := d.Dot(w.way)
			across := d.Sub(w.way.Scale(deep)).Len()
			// On a slanted surface what is beside lies farther off.
			slant := max(0.1, geom.Abs(n.Dot(w.way)))
			if n.Dot(w.normal) > 0 && across <= w.reach && geom.Abs(deep)*slant <= w.reach && (!ok || across < best) {
				cell, best, ok = k, across, true
			}
		}
	}
	return cell, ok
}

// Shown is a part that is seen, and where: the place on it that is nearest to the middle of all
// of them, in pixels of the frame from its upper left corner.
type Shown struct {
	Title string
	X, Y  float32
	Share float64 // of the cells
}

// Shown are the parts that are seen, at the front or behind clear ones, in their order.
func (m *Map) Shown() []Shown {
	type sum struct {
		x, y, n float64
		best    float64
		at      [2]int
	}
	sums := make([]sum, len(m.Parts))
	each := func(f func(s *sum, x, y int)) {
		for i := range m.W * m.H {
			for _, l := range [...]*Layer{&m.Front, &m.Behind} {
				if p := l.Part[i]; p != 0 {
					f(&sums[p-1], i%m.W, i/m.W)
				}
			}
		}
	}
	each(func(s *sum, x, y int) { s.x, s.y, s.n = s.x+float64(x), s.y+float64(y), s.n+1 })
	for i := range sums {
		sums[i].best = math.Inf(1)
	}
	each(func(s *sum, x, y int) {
		if d := math.Hypot(float64(x)-s.x/s.n, float64(y)-s.y/s.n); d < s.best {
			s.best, s.at = d, [2]int{x, y}
		}
	})
	out := []Shown{}
	for i, s := range sums {
		if s.n > 0 {
			x, y := m.centre(s.at[0], s.at[1])
			out = append(out, Shown{m.Parts[i].Title, x, y, s.n / float64(m.W*m.H)})
		}
	}
	return out
}
