package sampling

import "math"

// FilterKind names a pixel reconstruction filter.
type FilterKind string

const (
	Box             FilterKind = "box"
	Tent            FilterKind = "tent"
	Gaussian        FilterKind = "gaussian"
	Mitchell        FilterKind = "mitchell"
	BlackmanHarris  FilterKind = "blackman-harris"
	filterTableSize            = 1024
)

// Filter draws offsets from the pixel centre with density proportional to the
// filter's absolute value (Ernst et al. 2006), so that every sample belongs
// to exactly one pixel and tiles need no borders.
type Filter struct {
	radius float32
	table  Table
	sign   []float32
	norm   float32
}

// NewFilter makes a separable filter; width is its full support in pixels.
func NewFilter(kind FilterKind, width float64) *Filter {
	r := width / 2
	f := &Filter{radius: float32(r), sign: make([]float32, filterTableSize)}
	w := make([]float32, filterTableSize)
	var absolute, signed float64
	for i := range w {
		x := ((float64(i)+0.5)/filterTableSize*2 - 1) // -1..1 over the support
		v := filterValue(kind, x, r)
		w[i] = float32(math.Abs(v))
		f.sign[i] = 1
		if v < 0 {
			f.sign[i] = -1
		}
		absolute += math.Abs(v)
		signed += v
	}
	f.table = NewTable(w)
	f.norm = float32(absolute / signed)
	return f
}

// filterValue is the filter at x (in units of the radius r, itself in pixels).
func filterValue(kind FilterKind, x, r float64) float64 {
	a := math.Abs(x)
	switch kind {
	case Tent:
		return 1 - a
	case Gaussian:
		const alpha = 2.0 // exponent over the support, cut to zero at its edge
		d := a * 1.5
		return math.Exp(-alpha*d*d) - math.Exp(-alpha*1.5*1.5)
	case Mitchell:
		const b, c = 1.0 / 3, 1.0 / 3
		t := a * 2 // the published kernel has support 2
		if t < 1 {
			return ((12-9*b-6*c)*t*t*t + (-18+12*b+6*c)*t*t + (6 - 2*b)) / 6
		}
		return ((-b-6*c)*t*t*t + (6*b+30*c)*t*t + (-12*b-48*c)*t + (8*b + 24*c)) / 6
	case BlackmanHarris:
		p := math.Pi * (x + 1)
		return 0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p)
	}
	return 1
}

// Draw maps u, v to an offset in pixels and the sample's weight, whose mean is one.
func (f *Filter) Draw(u, v float32) (dx, dy, weight float32) {
	i, _, ru := f.table.Draw(u)
	j, _, rv := f.table.Draw(v)
	dx = ((float32(i)+ru)/filterTableSize*2 - 1) * f.radius
	dy = ((float32(j)+rv)/filterTableSize*2 - 1) * f.radius
	return dx, dy, f.sign[i] * f.sign[j] * f.norm * f.norm
}
