package preflight

import (
	"fmt"
	"math"

	"amberproof/core/colour"
	"amberproof/core/scene"
)

const (
	// flatness is how far from one the lengths of a normal map's normals may be in the
	// mean, and how near they have to come when it is read as colours.
	flatness  = 0.08
	sameSlope = 0.3 // correlation from which a map's convention can be told
	// leastSlope is how strong slopes have to be for that.
	leastSlope = 1e-4
	bumpsTexel = 1 << 18 // texels that are looked at, at most
)

// bumps finds normal maps whose green points the other way, and those that were saved as
// if they were colours.
func (b *body) bumps() (out []Finding) {
	s := b.of.Scene
	wearer := map[int]int{} // the first part that wears a finish
	for i, v := range b.solids {
		if f := s.Parts[i].Finish; v != nil && f >= 0 {
			if _, ok := wearer[f]; !ok {
				wearer[f] = i
			}
		}
	}
	seen := map[int]*reliefs{}
	for k := range s.Finishes {
		f := &s.Finishes[k]
		part, worn := wearer[k]
		at := f.NormalTexture.Image
		if at < 0 {
			at = f.CoatNormalTexture.Image
		}
		if !worn || at < 0 {
			continue
		}
		r := seen[at]
		if r == nil {
			r = relief(&s.Images[at])
			seen[at] = r
		}
		found := func(c Check, value float64, sure Sure, fix *Fix, says string) {
			out = append(out, Finding{Check: c, Part: part, Other: -1, View: -1, Value: value, Unit: "%", Sure: sure, Where: b.solids[part].box, Says: says, Fix: fix})
		}
		if r.off > flatness && r.decoded < flatness && r.decoded < r.off/3 {
			found(Encoded, 100*r.off, Likely, nil,
				fmt.Sprintf("The normal map of %s was saved as if it were colours: its normals are off by %.0f %% of their length, by "+
					"%.0f %% once that is undone. Save it as data.", f.Name, 100*r.off, 100*r.decoded))
			continue // its slopes are not what they should be
		}
		agree := r.slopes
		if f.GreenDown {
			agree = -agree
		}
		if agree < -sameSlope {
			found(Green, -100*agree, Likely, &Fix{Says: "Flip its green channel", Green: []int{k}},
				fmt.Sprintf("The normal map of %s looks like one of the other convention, with green pointing the other way: its "+
					"slopes fit no surface as they are read, by %.0f %%.", f.Name, -100*agree))
		}
	}
	return out
}

// reliefs is what a normal map is like.
type reliefs struct {
	off, decoded float64 // mean departure of its normals' length from one, as saved and as if saved as colours
	// slopes is how the change of its slope across, going down, goes with that of its slope
	// down, going across: 1 for any surface if green points up, -1 if it points down. 0:
	// it cannot be told.
	slopes float64
}

// relief looks at a normal map. The slopes of a surface are the gradient of its height,
// which has no curl: the two mixed derivatives are one.
func relief(img *scene.Image) *reliefs {
	r := &reliefs{}
	if img.W < 3 || img.H < 3 {
		return r
	}
	step := max(1, int(math.Sqrt(float64(img.W)*float64(img.H)/bumpsTexel)))
	var n int
	normal := func(x, y int, read func(b byte) float64) (v [3]float64) {
		for k := range v {
			v[k] = 2*read(img.Pix[(y*img.W+x)*4+k]) - 1
		}
		return v
	}
	plain := func(b byte) float64 { return float64(b) / 255 }
	asColour := func(b byte) float64 { return float64(colour.SRGB8[b]) }
	length := func(v [3]float64) float64 { return math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2]) }
	// across and down are the height's slopes where green points up.
	slope := func(x, y int) (across, down float64) {
		v := normal(x, y, plain)
		z := max(v[2], 0.05)
		return -v[0] / z, v[1] / z
	}
	var ab, aa, bb float64
	for y := 1; y < img.H-1; y += step {
		for x := 1; x < img.W-1; x += step {
			n++
			r.off += math.Abs(length(normal(x, y, plain)) - 1)
			r.decoded += math.Abs(length(normal(x, y, asColour)) - 1)
			a0, _ := slope(x, y-1)
			a1, _ := slope(x, y+1)
			_, b0 := slope(x-1, y)
			_, b1 := slope(x+1, y)
			a, b := a1-a0, b1-b0
			ab, aa, bb = ab+a*b, aa+a*a, bb+b*b
		}
	}
	r.off, r.decoded = r.off/float64(n), r.decoded/float64(n)
	if aa > leastSlope*float64(n) && bb > leastSlope*float64(n) {
		r.slopes = ab / math.Sqrt(aa*bb)
	}
	return r
}
