package main

import (
	"fmt"
	"math"
)

// point is a picture's error after so many processor seconds.
type point struct {
	samples        int
	seconds        float64
	rms, perceived float64
	// Of a denoised picture: tiles worse than they went in, and all; the error of its frame as
	// noise is told, and the noise told, percent.
	worse, tiles int
	frame, told  float64
}

// ofDenoised says in words how many tiles came out worse, and how right the noise is that is
// told.
func (p *point) ofDenoised() string {
	if p.tiles == 0 {
		return ""
	}
	return fmt.Sprintf("  told %.2f %%, %.2f of what is left  worse than plain in %d of %d tiles", p.told, p.told/p.frame, p.worse, p.tiles)
}

// curve is the errors of a set-up as a binary renders it.
type curve struct {
	setup    string
	binary   int
	denoised bool
	points   []point
}

// how tells a denoised curve in words.
func (c *curve) how() string {
	if c.denoised {
		return ", denoised"
	}
	return ""
}

// timeTo is when a curve of errors reaches one, in processor seconds. Between points it
// runs straight in logarithms; after the last it goes on as noise does, which falls with
// the square root of time. A picture that is better from the first point on took that
// long at most. how says which of these it was, if not the first.
func timeTo(curve []point, want float64) (seconds float64, how string) {
	if curve[0].rms <= want {
		return curve[0].seconds, "at most"
	}
	for i := 1; i < len(curve); i++ {
		a, b := curve[i-1], curve[i]
		if a.rms >= want && b.rms <= want && a.rms > b.rms {
			t := math.Log(a.rms/want) / math.Log(a.rms/b.rms)
			return a.seconds * math.Pow(b.seconds/a.seconds, t), ""
		}
	}
	end := curve[len(curve)-1]
	return end.seconds * (end.rms / want) * (end.rms / want), "by the square root"
}

// geometric is the geometric mean.
func geometric(x []float64) float64 {
	var sum float64
	for _, v := range x {
		sum += math.Log(v)
	}
	return math.Exp(sum / float64(len(x)))
}
