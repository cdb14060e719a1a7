package forecast

import (
	"math"
	"time"
)

// gauge is a fixed piece of work, as tracing does it: arithmetic, and reads all over a table that
// fits no first cache. How long it takes tells how fast the machine is at the moment: processors
// that share a core or a cache with other work take longer for the same.
type gauge struct {
	table [1 << 16]float32
	sum   float32
}

const (
	gauged    = 1 << 17 // steps: about a millisecond
	gaugeMix  = 2654435761
	gaugeGain = 0.999
)

// run does the work and returns what it took by a clock.
func (g *gauge) run(clock func() time.Duration) time.Duration {
	before := clock()
	x, at := float32(0.5), uint32(1)
	for range gauged {
		at = at*gaugeMix + 1
		x = x*gaugeGain + g.table[at>>16] + float32(math.Sqrt(float64(x*x+1)))*1e-3
	}
	g.sum += x // so that it is not left out
	return clock() - before
}
