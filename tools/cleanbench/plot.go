package main

import (
	"fmt"
	"math"
	"strings"
)

// Size of the picture in its own units, and of its margins.
const (
	plotW, plotH = 760, 460
	plotLeft     = 60
	plotRight    = 150
	plotEdge     = 40
)

// plot draws errors against processor seconds, both in logarithms, as an SVG: a line for
// each set-up, thin for plain pictures and broken for the second binary.
func plot(curves []curve) string {
	lowX, highX, lowY, highY := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for _, c := range curves {
		for _, p := range c.points {
			lowX, highX = math.Min(lowX, p.seconds), math.Max(highX, p.seconds)
			lowY, highY = math.Min(lowY, p.rms), math.Max(highY, p.rms)
		}
	}
	place := func(v, low, high, from, to float64) float64 {
		return from + (to-from)*math.Log(v/low)/math.Max(1e-9, math.Log(high/low))
	}
	x := func(v float64) float64 { return place(v, lowX, highX, plotLeft, plotW-plotRight) }
	y := func(v float64) float64 { return place(v, lowY, highY, plotH-plotEdge, plotEdge) }
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" font-family="sans-serif" font-size="12">`+"\n", plotW, plotH)
	fmt.Fprintf(&b, `<rect width="%d" height="%d" fill="#f4f3f0"/>`+"\n", plotW, plotH)
	for _, t := range ticks(lowX, highX) {
		fmt.Fprintf(&b, `<path d="M%.1f %d V%d" stroke="#cfccc4"/><text x="%.1f" y="%d" text-anchor="middle">%g s</text>`+"\n",
			x(t), plotEdge, plotH-plotEdge, x(t), plotH-plotEdge+18, t)
	}
	for _, t := range ticks(lowY, highY) {
		fmt.Fprintf(&b, `<path d="M%d %.1f H%d" stroke="#cfccc4"/><text x="%d" y="%.1f" text-anchor="end">%g %%</text>`+"\n",
			plotLeft, y(t), plotW-plotRight, plotLeft-6, y(t)+4, t)
	}
	tones := []string{"#8a5a00", "#3d5a80", "#2f6b4f", "#8b3a3a", "#5b4b8a", "#555555"}
	setups := []string{}
	for _, c := range curves {
		at := -1
		for i, s := range setups {
			if s == c.setup {
				at = i
			}
		}
		if at < 0 {
			at = len(setups)
			setups = append(setups, c.setup)
		}
		dash, width := "", 0.8
		if c.binary > 0 {
			dash = ` stroke-dasharray="6 4"`
		}
		if c.denoised {
			width = 2
		}
		var d strings.Builder
		for i, p := range c.points {
			fmt.Fprintf(&d, "%c%.1f %.1f ", "ML"[min(i, 1)], x(p.seconds), y(p.rms))
		}
		fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="%s" stroke-width="%g"%s/>`+"\n", strings.TrimSpace(d.String()), tones[at%len(tones)], width, dash)
		if end := c.points[len(c.points)-1]; c.binary == 0 && c.denoised {
			fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" fill="%s">%s</text>`+"\n", x(end.seconds)+6, y(end.rms)+4, tones[at%len(tones)], c.setup)
		}
	}
	b.WriteString("</svg>\n")
	return b.String()
}

// ticks are the round numbers within a range: 1, 2 and 5 of each power of ten.
func ticks(low, high float64) (out []float64) {
	for e := math.Floor(math.Log10(low)); e <= math.Ceil(math.Log10(high)); e++ {
		for _, k := range []float64{1, 2, 5} {
			if v := k * math.Pow(10, e); v >= low*0.999 && v <= high*1.001 {
				out = append(out, v)
			}
		}
	}
	return out
}
