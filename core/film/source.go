package film

// Source is what noise is put down to: light looked at, indirect light by how the first surface
// sends it on, and the direct light of each element.
type Source int

const (
	SourceLooked Source = iota
	SourceMatte
	SourceGloss
	SourceClear
	SourceDirect // of element 0; those of the others follow
)

// Element is the one whose direct light a source is; ok is false of others.
func (s Source) Element() (element int, ok bool) { return int(s - SourceDirect), s >= SourceDirect }

// Source is the one that a contribution belongs to.
func (c *Contribution) Source() Source {
	switch c.Way {
	case Direct:
		return SourceDirect + Source(c.Element)
	case Looked:
		return SourceLooked
	}
	return SourceMatte + Source(c.Way-ByMatte)
}

// SourceName is the name of the SourcePlane.
const SourceName = "source"

// SourcePlane keeps the luminance of one source in each pixel, of a picture with so many
// elements: pixels next to each other take turns, so that all sources are known of every area at
// the price of one.
func SourcePlane(elements int) Plane {
	return Plane{Name: SourceName, Values: 1, Halves: true, Of: SourceLight, Sources: int(SourceDirect) + elements}
}

// Sources is how many sources a layout tells apart; 0 where it keeps none.
func (l *Layout) Sources() int {
	for i := range l.planes {
		if n := l.planes[i].Sources; n > 0 {
			return n
		}
	}
	return 0
}

// golden is the golden ratio less one: rows are shifted against each other by that share of all
// sources, so that each is spread evenly.
const golden = 0.618034

// SourceAt is the source, of so many, that pixel (x, y) of the frame keeps.
func SourceAt(x, y, sources int) Source {
	at := (x + y*max(1, int(golden*float64(sources)))) % sources
	return Source((at + sources) % sources) // overscan lies left of 0
}
