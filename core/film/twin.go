package film

import "strings"

// A picture may have a twin: the same view at the same samples with other surfaces. What
// the film keeps of the twin are planes of their own, named after those that they are to
// the twin; data of the first surface in sight belong to both.

const twinOf = "twin "

// TwinLight keeps the light and the alpha of the twin, as every film keeps those of its
// picture.
var TwinLight = Plane{Name: twinOf + "light", Values: 4, Halves: true, Of: LightAndAlpha, Twin: true}

// TwinPlane is a plane of the twin.
func TwinPlane(p Plane) Plane {
	p.Name, p.Twin = twinOf+p.Name, true
	return p
}

// OfTwin reports whether a plane is one of a twin.
func OfTwin(plane string) bool { return strings.HasPrefix(plane, twinOf) }

// HasTwin reports whether sums of a twin are kept.
func (l *Layout) HasTwin() bool {
	_, ok := l.Place(TwinLight.Name)
	return ok
}

// Twin is a film of the twin alone, as it is now, without coverage; nil where there is none.
func (f *Film) Twin() *Film {
	light, ok := f.Layout.Place(TwinLight.Name)
	if !ok {
		return nil
	}
	var planes []Plane
	var from []int
	for i := range f.Layout.planes {
		p := f.Layout.planes[i]
		if name, is := strings.CutPrefix(p.Name, twinOf); is && p.Name != TwinLight.Name {
			p.Name, p.Twin = name, false
			planes, from = append(planes, p), append(from, f.Layout.at[i])
		}
	}
	out := grid(f.Window, NewLayout(false, planes...), f.side)
	for i := range out.Tiles {
		out.Tiles[i].Sums = NewSums(out.Rect(i), out.Layout)
		f.Locked(func() {
			t := &f.Tiles[i]
			out.Tiles[i].Samples, out.Tiles[i].Stopped = t.Samples, t.Stopped
			out.Tiles[i].twin(t.Sums, light, from)
		})
	}
	return out
}

// twin fills sums of the twin from those of a film that keeps both.
func (s *Sums) twin(of *Sums, light int, from []int) {
	for i := range s.Rect.Dx() * s.Rect.Dy() {
		a, b := of.Pixel(i), s.Pixel(i)
		b[Weight], b[WeightA] = a[Weight], a[WeightA]
		copy(b[Beauty:Beauty+3], a[light:])
		b[Alpha] = a[light+3]
		copy(b[BeautyA:BeautyA+3], a[light+4:])
		for k, at := range from {
			n := s.Layout.planes[k].size()
			copy(b[s.Layout.at[k]:s.Layout.at[k]+n], a[at:])
		}
	}
}

// PutTwin puts a film of a twin into one that keeps both; their tiles are alike.
func (f *Film) PutTwin(t *Film) {
	light, ok := f.Layout.Place(TwinLight.Name)
	if !ok {
		return
	}
	for i := range f.Tiles {
		a, b := f.Tiles[i].Sums, t.Tiles[i].Sums
		for k := range a.Rect.Dx() * a.Rect.Dy() {
			to, from := a.Pixel(k), b.Pixel(k)
			copy(to[light:], from[Beauty:Beauty+3])
			to[light+3] = from[Alpha]
			copy(to[light+4:], from[BeautyA:BeautyA+3])
			for j := range t.Layout.planes {
				p := &t.Layout.planes[j]
				if at, ok := f.Layout.Place(twinOf + p.Name); ok {
					copy(to[at:at+p.size()], from[t.Layout.at[j]:])
				}
			}
		}
	}
}
