package forecast

import "math"

// curve tells how the noise of tiles falls with their samples: by a power that depends on how
// much of a tile's noise is left where it is taken out, and on how strong it is. It is the line
// of least squares through what the tiles of a probe have done between its first and its last
// measurement, drawn towards their mean.
type curve struct {
	mean            float64 // power
	byLeft, byLevel float64 // how it changes with the logarithms of these
	left, level     float64 // their means
}

const (
	// trusted is how far the line counts, against the mean.
	trusted = 0.75
	// Bounds of the power. Noise of independent samples falls by the root; a little more is left
	// for the error of what was measured.
	leastFall, mostFall = 0.1, 0.6
	usualFall           = 0.5
	// linesFrom is how many tiles a line is drawn through.
	linesFrom = 24
)

// logs are the means, over the measurements of a tile, of the logarithms of its noise and of
// the share that is left of it.
func (t *tile) logs() (level, left float64) {
	for k, n := range t.noise {
		level += math.Log(n)
		left += math.Log(n / max(t.plain[k], quiet))
	}
	k := float64(len(t.noise))
	return level / k, left / k
}

// fell is the power by which a tile's noise fell from the first measurement to the last.
func (t *tile) fell() float64 {
	k := len(t.noise) - 1
	return math.Log(t.noise[0]/t.noise[k]) / math.Log(float64(t.at[k])/float64(t.at[0]))
}

// fit finds the curve of a probe.
func (p *Probe) fit() curve {
	var n, sx, sy, sb, sxx, sxy, syy, sxb, syb float64
	for i := range p.squares {
		for k := range p.squares[i].tiles {
			t := &p.squares[i].tiles[k]
			if !t.told() || len(t.noise) < 2 {
				continue
			}
			level, left := t.logs()
			b := t.fell()
			n, sx, sy, sb = n+1, sx+left, sy+level, sb+b
			sxx, sxy, syy, sxb, syb = sxx+left*left, sxy+left*level, syy+level*level, sxb+left*b, syb+level*b
		}
	}
	if n == 0 {
		return curve{mean: usualFall}
	}
	c := curve{mean: min(max(sb/n, leastFall), mostFall), left: sx / n, level: sy / n}
	if n < linesFrom {
		return c
	}
	// Normal equations about the means, with a little more on the diagonal, so that what does
	// not vary says nothing.
	xx, yy, xy := sxx-sx*sx/n+ridge*n, syy-sy*sy/n+ridge*n, sxy-sx*sy/n
	xb, yb := sxb-sx*sb/n, syb-sy*sb/n
	det := xx*yy - xy*xy
	c.byLeft, c.byLevel = (xb*yy-yb*xy)/det, (yb*xx-xb*xy)/det
	return c
}

const ridge = 0.01

// of is the power of a tile.
func (c *curve) of(t *tile) float64 {
	level, left := t.logs()
	return min(max(c.mean+trusted*(c.byLeft*(left-c.left)+c.byLevel*(level-c.level)), leastFall), mostFall)
}
