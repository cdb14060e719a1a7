package forecast

// calibrated are the weights of squares that were drawn, brought as little as can be to what is
// known of the whole picture: its pixels, and the work that the glance lets expect of all of it
// (linear calibration, Deville and Särndal 1992).
func (p *Probe) calibrated(which []int) []float64 {
	out := make([]float64, len(which))
	// Normal equations of the two totals, each in units of itself.
	var a, b, c, pixels, work float64
	for k, i := range which {
		s := &p.squares[i]
		w, x, y := s.weight, float64(s.pixels)/float64(p.Pixels), p.share(s)
		out[k] = w
		a, b, c = a+w*x*x, b+w*x*y, c+w*y*y
		pixels, work = pixels+w*x, work+w*y
	}
	det := a*c - b*b
	if p.Whole || det <= 1e-9*a*c { // nothing to bring them to, or squares that are all alike
		for k := range out {
			out[k] /= pixels
		}
		return out
	}
	byPixels, byWork := ((1-pixels)*c-(1-work)*b)/det, ((1-work)*a-(1-pixels)*b)/det
	for k, i := range which {
		s := &p.squares[i]
		by := 1 + byPixels*float64(s.pixels)/float64(p.Pixels) + byWork*p.share(s)
		out[k] *= min(max(by, leastBy), 1/leastBy)
	}
	return out
}

// leastBy bounds by how much a weight is changed: few squares would be asked for too much.
const leastBy = 0.2

// share is a square's share of all work that is expected.
func (p *Probe) share(s *square) float64 {
	if p.expected <= 0 {
		return 0
	}
	return s.expected / p.expected
}
