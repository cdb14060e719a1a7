package lights

import (
	"cmp"
	"slices"

	"amberproof/core/geom"
)

// fewLights is the number up to which every light is weighed; beyond, those
// with a place stand in a tree, so that choosing among hundreds costs little
// (Shirley, Wang & Zimmerman 1996; Conty & Kulla 2018).
const fewLights = 16

// tree chooses lights by what they are expected to give. Suns and surroundings
// have no place and are weighed one by one beside the root.
type tree struct {
	nodes  []branch
	leaf   []int32 // per light: its leaf, or -1
	remote []int32 // lights without a place
}

type branch struct {
	centre      geom.Vec3
	radius      float32
	power       float32 // irradiance at distance one
	left, right int32   // children, or -1
	parent      int32
	light       int32
}

// Ready must be called once all lights are added, before Choose.
func (s *Set) Ready() {
	if len(s.Lights) <= fewLights {
		return
	}
	t := &tree{leaf: make([]int32, len(s.Lights))}
	var placed []int32
	for i := range s.Lights {
		t.leaf[i] = -1
		switch s.Lights[i].Kind {
		case Sun, Environment:
			t.remote = append(t.remote, int32(i))
		default:
			placed = append(placed, int32(i))
		}
	}
	if len(placed) > 0 {
		t.grow(s, placed, -1)
	}
	s.tree = t
}

// power is the irradiance at distance one, square on.
func (l *Light) power() float32 { return l.reference(1) }

func (t *tree) grow(s *Set, lights []int32, parent int32) int32 {
	at := int32(len(t.nodes))
	box := geom.EmptyBox()
	b := branch{left: -1, right: -1, parent: parent, light: -1}
	for _, i := range lights {
		l := &s.Lights[i]
		e := geom.Splat(l.extent())
		box = box.Union(geom.Box{Min: l.P.Sub(e), Max: l.P.Add(e)})
		b.power += l.power()
	}
	b.centre, b.radius = box.Centre(), box.Radius()
	t.nodes = append(t.nodes, b)
	if len(lights) == 1 {
		t.nodes[at].light = lights[0]
		t.leaf[lights[0]] = at
		return at
	}
	size := box.Size()
	axis := 0
	if size.Y > size.X {
		axis = 1
	}
	if size.Z > max(size.X, size.Y) {
		axis = 2
	}
	slices.SortStableFunc(lights, func(a, b int32) int {
		return cmp.Compare(s.Lights[a].P.At(axis), s.Lights[b].P.At(axis))
	})
	mid := len(lights) / 2
	left := t.grow(s, lights[:mid], at)
	right := t.grow(s, lights[mid:], at)
	t.nodes[at].left, t.nodes[at].right = left, right
	return at
}

func (t *tree) weight(s *Set, n int32, r *Receiver) float32 {
	b := &t.nodes[n]
	if b.light >= 0 {
		// Never nothing: another light below the same branch may be all there is,
		// and a light with no share of its parent would make that a division by zero.
		return max(s.Expect(int(b.light), r), 1e-6*b.power/max(b.centre.Sub(r.P).Len2(), 1e-12))
	}
	return b.power / max(b.centre.Sub(r.P).Len2(), b.radius*b.radius, 1e-12)
}

// Choose draws a light for r with u in [0,1). chance is the
// probability of having drawn it, rest is u stretched back to [0,1). ok is
// false where no light is expected to give any.
func (s *Set) Choose(r *Receiver, u float32) (i int, chance, rest float32, ok bool) {
	if s.tree == nil {
		var total float32
		for i := range s.Lights {
			total += s.Expect(i, r)
		}
		return pick(len(s.Lights), total, u, func(i int) float32 { return s.Expect(i, r) })
	}
	t := s.tree
	tops := len(t.remote)
	if len(t.nodes) > 0 {
		tops++
	}
	top := func(i int) float32 {
		if i < len(t.remote) {
			return s.Expect(int(t.remote[i]), r)
		}
		return t.weight(s, 0, r)
	}
	var total float32
	for i := range tops {
		total += top(i)
	}
	i, chance, rest, ok = pick(tops, total, u, top)
	if !ok || i < len(t.remote) {
		if ok {
			i = int(t.remote[i])
		}
		return i, chance, rest, ok
	}
	n := int32(0)
	for t.nodes[n].light < 0 {
		left, right := t.nodes[n].left, t.nodes[n].right
		wl, wr := t.weight(s, left, r), t.weight(s, right, r)
		share := wl / (wl + wr)
		if rest < share {
			n, chance, rest = left, chance*share, rest/share
		} else {
			n, chance, rest = right, chance*(1-share), (rest-share)/(1-share)
		}
		rest = min(max(rest, 0), almostOne)
	}
	return int(t.nodes[n].light), chance, rest, true
}

const almostOne = 1 - 1.0/(1<<24)

func pick(n int, total, u float32, weight func(i int) float32) (i int, chance, rest float32, ok bool) {
	if !(total > 0) {
		return 0, 0, 0, false
	}
	x := u * total
	last := -1
	for i := range n {
		w := weight(i)
		if !(w > 0) {
			continue
		}
		last = i
		if x < w {
			return i, w / total, min(x/w, almostOne), true
		}
		x -= w
	}
	// Rounding ran past the end.
	return last, weight(last) / total, almostOne, true
}

// Chance is the probability with which Choose draws light i for r.
func (s *Set) Chance(i int, r *Receiver) float32 {
	if s.tree == nil {
		var total float32
		for k := range s.Lights {
			total += s.Expect(k, r)
		}
		if !(total > 0) {
			return 0
		}
		return s.Expect(i, r) / total
	}
	t := s.tree
	var total float32
	for _, k := range t.remote {
		total += s.Expect(int(k), r)
	}
	if len(t.nodes) > 0 {
		total += t.weight(s, 0, r)
	}
	if !(total > 0) {
		return 0
	}
	n := t.leaf[i]
	if n < 0 {
		return s.Expect(i, r) / total
	}
	chance := float32(1)
	for t.nodes[n].parent >= 0 {
		up := t.nodes[n].parent
		wl, wr := t.weight(s, t.nodes[up].left, r), t.weight(s, t.nodes[up].right, r)
		if n == t.nodes[up].left {
			chance *= wl / (wl + wr)
		} else {
			chance *= wr / (wl + wr)
		}
		n = up
	}
	return chance * t.weight(s, 0, r) / total
}
