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
//
// Of a filter with lobes below zero, which lobe a sample is drawn from follows
// from its index alone, in an even sequence that begins above zero. So the
// weights of the first samples of a pixel, however few, add up to more than
// nothing, and no pixel is lost.
type Filter struct {
	radius float32
	above  Table   // of an axis, where the filter is above zero
	below  Table   // where it is below
	share  float64 // of the axis's absolute value that lies above
	weight float32 // of a sample, without its sign
}

// NewFilter makes a separable filter; width is its full support in pixels.
func NewFilter(kind FilterKind, width float64) *Filter {
	r := width / 2
	f := &Filter{radius: float32(r)}
	above, below := make([]float32, filterTableSize), make([]float32, filterTableSize)
	var up, down float64
	for i := range above {
		x := ((float64(i)+0.5)/filterTableSize*2 - 1) // -1..1 over the support
		if v := filterValue(kind, x, r); v >= 0 {
			above[i] = float32(v)
			up += v
		} else {
			below[i] = float32(-v)
			down -= v
		}
	}
	f.above, f.share = NewTable(above), up/(up+down)
	if down > 0 {
		f.below = NewTable(below)
	}
	norm := float32((up + down) / (up - down))
	f.weight = norm * norm
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

// golden is the step of the most even sequence of one dimension.
const golden = 0.61803398874989484820

// lobes tells for sample s whether it is drawn from below zero along either axis.
func (f *Filter) lobes(s int) (x, y bool) {
	if f.share == 1 {
		return false, false
	}
	_, at := math.Modf(float64(s) * golden)
	// Weighty ones first: both above, then both below, then the mixed ones, which count
	// against the rest.
	p, q := f.share, 1-f.share
	switch {
	case at < p*p:
		return false, false
	case at < p*p+q*q:
		return true, true
	case at < p*p+q*q+p*q:
		return true, false
	}
	return false, true
}

// Draw maps u, v of sample s of a pixel to an offset in pixels and the sample's
// weight, whose mean over all samples is one.
func (f *Filter) Draw(s int, u, v float32) (dx, dy, weight float32) {
	x, y := f.lobes(s)
	if weight = f.weight; x != y {
		weight = -weight
	}
	return f.axis(x, u), f.axis(y, v), weight
}

// axis draws an offset along one axis.
func (f *Filter) axis(below bool, u float32) float32 {
	t := &f.above
	if below {
		t = &f.below
	}
	i, _, rest := t.Draw(u)
	return ((float32(i)+rest)/filterTableSize*2 - 1) * f.radius
}
