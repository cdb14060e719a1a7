package trace

import (
	"amberproof/core/geom"
	"amberproof/core/optics"
)

// media are the clear solids that a ray lies in, in the order entered. Where
// solids overlap, as a drink does with its glass, the one of the highest
// priority is really there, and of equals the one entered last (Schmidt &
// Budge 2002). The zero value is air.
type media struct {
	in [8]*preparedFinish
	n  int
}

// top is the medium that is really there, or nil for air.
func (m *media) top() *preparedFinish {
	var t *preparedFinish
	for _, f := range m.in[:m.n] {
		if t == nil || f.Priority >= t.Priority {
			t = f
		}
	}
	return t
}

// without is what is there besides one entry of f.
func (m *media) without(f *preparedFinish) media {
	o := *m
	for i := o.n - 1; i >= 0; i-- {
		if o.in[i] == f {
			copy(o.in[i:o.n-1], o.in[i+1:o.n])
			o.n--
			break
		}
	}
	return o
}

// crossed is the media beyond a surface of f, hit from behind or not. More
// solids in each other than there is room for are not followed.
func (m *media) crossed(f *preparedFinish, back bool) media {
	if back {
		return m.without(f)
	}
	o := *m
	if o.n < len(o.in) {
		o.in[o.n] = f
		o.n++
	}
	return o
}

// hidden reports whether the surface of f is none, since a solid of higher
// priority is there on both sides.
func (m *media) hidden(f *preparedFinish) bool {
	if m.n == 0 {
		return false
	}
	t := m.top()
	return t != f && t.Priority > f.Priority
}

// around is the index of refraction outside a surface of f.
func (m *media) around(f *preparedFinish, back bool) float32 {
	o := m
	if back {
		rest := m.without(f)
		o = &rest
	}
	if t := o.top(); t != nil {
		return t.IOR
	}
	return 1
}

// bends is the relative index of refraction at a surface hit within media.
func (pt *point) bends(in *media) float32 {
	eta := pt.f.IOR / in.around(pt.f, pt.back)
	if pt.back {
		eta = 1 / eta
	}
	return eta
}

// dim is the share of light left after a distance.
func (m *media) dim(distance float32) geom.Vec3 {
	if m.n == 0 {
		return geom.Splat(1)
	}
	return optics.Transmitted(m.top().sigma, distance)
}
