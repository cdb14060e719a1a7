package forecast

import (
	"math"

	"amberproof/core/noise"
)

// Past is what was told of a figure once, before anything corrected it, and what came. By what was
// corrected the next would lose its correction.
type Past struct {
	Told Range
	Came float64
}

const (
	// fewPast is how many must have come before a bar is drawn by them.
	fewPast = 9
	// leastBar is the least half-width of a bar that is a measure for others, as a logarithm.
	leastBar = 0.02
)

// By corrects a forecast by how earlier ones turned out on this machine: its middle by the
// median of what came as a multiple of what was told, its ends by the tenth and ninetieth
// percentile of by how many of their half-widths they were off (conformal prediction, Vovk et
// al. 2005). With few of them it stays as it is.
func (r Range) By(past []Past) Range {
	var off []float64
	for _, p := range past {
		if p.Told.Mid > 0 && p.Came > 0 {
			off = append(off, math.Log(p.Came/p.Told.Mid)/p.Told.width())
		}
	}
	if len(off) < fewPast || r.Mid <= 0 {
		return r
	}
	at := func(share float64) float64 {
		// Of n that are past, the next lies below the k-th with probability k/(n+1).
		k := share * float64(len(off)+1) / float64(len(off))
		return r.Mid * math.Exp(noise.Percentile(off, min(k, 1))*r.width())
	}
	return Range{Mid: at(0.5), Low: at(0.1), High: at(0.9)}
}

// width is half the width of a bar, as a logarithm.
func (r Range) width() float64 {
	if r.Low <= 0 || r.High <= r.Low {
		return leastBar
	}
	return max(leastBar, math.Log(r.High/r.Low)/2)
}

// Times is a figure so many times as large.
func (r Range) Times(k float64) Range { return Range{r.Mid * k, r.Low * k, r.High * k} }

// Crowded is a time on a machine that may have other work, or may not: k is how many times as
// long it took while it was measured.
func (r Range) Crowded(k float64) Range {
	k = max(1, k)
	return Range{r.Mid * math.Sqrt(k), r.Low, r.High * k}
}
