package film

import (
	"encoding/json"
	"fmt"
	"slices"
)

// Plane is a sum that a film keeps for each pixel, beside those that every film
// has.
type Plane struct {
	Name   string   `json:"name"` // tells it apart within a layout
	Values int      `json:"values"`
	Of     Quantity `json:"of"` // what is summed
	// Element is the one of whose light, for ElementLight.
	Element int `json:"element,omitempty"`
	// Sources is how many sources are told apart, for SourceLight.
	Sources int `json:"sources,omitempty"`
	// Halves keeps the sum of half A as well, behind that of all samples.
	Halves bool `json:"halves,omitempty"`
	// Twin has the sum be that of the picture's twin.
	Twin bool `json:"twin,omitempty"`
}

// size is the number of places that the plane takes.
func (p *Plane) size() int {
	if p.Halves {
		return 2 * p.Values
	}
	return p.Values
}

// Places of the sums every film has. Half A is made of the even samples.
const (
	Weight  = 0
	WeightA = 1
	Beauty  = 2 // RGB
	Alpha   = 5
	BeautyA = 6 // RGB, half A
	basic   = 9
)

// Layout says which sums a film keeps for each pixel. They are interleaved by
// pixel: all of one pixel lie together. The zero Layout keeps those of every film.
type Layout struct {
	cover    bool
	planes   []Plane
	at       []int // place of each plane
	channels int
	asks     Asks
	catch    int // place of CaughtPlane, or 0
}

// NewLayout is a layout of planes in their order, and of coverage by part if so
// said. It panics if two planes have one name, which is a mistake of whoever
// declared them.
func NewLayout(cover bool, planes ...Plane) Layout {
	l := Layout{cover: cover, planes: slices.Clone(planes), channels: basic}
	for i := range planes {
		p := &planes[i]
		if _, ok := l.Place(p.Name); ok {
			panic(fmt.Sprintf("film: two planes are called %q", p.Name))
		}
		if p.Name == CaughtPlane.Name {
			l.catch = l.channels
		}
		l.at = append(l.at, l.channels)
		l.channels += p.size()
		if !p.Twin { // what is asked for is there of both
			l.asks |= asks[p.Of]
		}
	}
	return l
}

// layoutDoc is a layout as it is written down.
type layoutDoc struct {
	Cover  bool    `json:"cover"`
	Planes []Plane `json:"planes"`
}

// MarshalJSON writes a layout down.
func (l Layout) MarshalJSON() ([]byte, error) { return json.Marshal(layoutDoc{l.cover, l.planes}) }

// UnmarshalJSON reads a layout; one whose planes have one name, or no values or too many, is
// an error.
func (l *Layout) UnmarshalJSON(b []byte) error {
	var d layoutDoc
	if err := json.Unmarshal(b, &d); err != nil {
		return err
	}
	seen := map[string]bool{}
	for _, p := range d.Planes {
		if seen[p.Name] || p.Values < 1 || p.Values > mostValues || p.Element < 0 || p.Of == ElementLight && p.Values != 3 ||
			p.Sources < 0 || p.Of == SourceLight && p.Sources < 1 {
			return fmt.Errorf("film: the plane %q of a layout is not one", p.Name)
		}
		seen[p.Name] = true
	}
	*l = NewLayout(d.Cover, d.Planes...)
	return nil
}

// mostValues bounds the values of a plane that is read.
const mostValues = 64

// Place is where a plane's values begin among the sums of a pixel.
func (l *Layout) Place(plane string) (at int, ok bool) {
	for i := range l.at {
		if l.planes[i].Name == plane {
			return l.at[i], true
		}
	}
	return 0, false
}

// Planes are those of the layout, in order.
func (l *Layout) Planes() []Plane { return l.planes }

// Channels is the number of sums per pixel.
func (l *Layout) Channels() int { return max(l.channels, basic) }

// Cover reports whether coverage by part is kept.
func (l *Layout) Cover() bool { return l.cover }

// Asks is what the planes together ask of samples.
func (l *Layout) Asks() Asks { return l.asks }

// Same reports whether sums of one layout may be added to those of the other.
func (l *Layout) Same(o *Layout) bool {
	return l.cover == o.cover && slices.EqualFunc(l.planes, o.planes, func(a, b Plane) bool {
		return a.Name == b.Name && a.size() == b.size()
	})
}

// BytesPerPixel is the memory a film takes for each pixel: its sums, and for
// coverage a head and room for two entries, which is what pictures need on average.
func (l *Layout) BytesPerPixel() int {
	n := 4 * l.Channels()
	if l.cover {
		n += 4 + 2*12
	}
	return n
}
