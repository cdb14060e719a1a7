package finish

import (
	"image"

	"amberproof/core/geom"
)

// Sure is how many standard errors of both pictures two pixels have to be apart to be taken for
// changed.
const Sure = 3

// seen is by how many of 255 displayed steps they have to be apart besides.
const seen = 3

// least is how many such pixels have to touch: noise that is left is apart here and there, what
// was changed is apart along its outline at least.
const least = 24

// Changed tells which pixels of two pictures of one size were changed from one to the other,
// row by row: those that are apart by more than their noise explains, and by more than is seen
// as they are displayed. ea and eb are the standard errors of their pixels; without them, nil,
// what is seen counts.
func (f Finish) Changed(a, b *Picture, ea, eb []float32) []bool {
	da, db := f.Shown(a), f.Shown(b)
	apart := make([]bool, a.W*a.H)
	for i := range apart {
		if !shownApart(da, db, i) {
			continue
		}
		if apart[i] = true; ea != nil && eb != nil {
			d := a.raw(i).Sub(b.raw(i))
			far := max(geom.Abs(d.X), geom.Abs(d.Y), geom.Abs(d.Z))
			apart[i] = far > Sure*geom.Sqrt(ea[i]*ea[i]+eb[i]*eb[i])
		}
	}
	dropSmall(apart, a.W, a.H)
	return apart
}

// dropSmall puts out groups of lit pixels that touch, also by their corners, if they are fewer.
func dropSmall(lit []bool, w, h int) {
	seen := make([]bool, len(lit))
	var group []int
	for i := range lit {
		if !lit[i] || seen[i] {
			continue
		}
		group = append(group[:0], i)
		seen[i] = true
		for k := 0; k < len(group); k++ {
			x, y := group[k]%w, group[k]/w
			for ny := max(0, y-1); ny <= min(h-1, y+1); ny++ {
				for nx := max(0, x-1); nx <= min(w-1, x+1); nx++ {
					if n := ny*w + nx; lit[n] && !seen[n] {
						seen[n] = true
						group = append(group, n)
					}
				}
			}
		}
		if len(group) < least {
			for _, k := range group {
				lit[k] = false
			}
		}
	}
}

// raw is a pixel as its planes have it.
func (p *Picture) raw(i int) geom.Vec3 {
	if p.G == nil {
		return geom.Splat(p.R[i])
	}
	return geom.V(p.R[i], p.G[i], p.B[i])
}

func shownApart(a, b *image.NRGBA, i int) bool {
	for c := range 4 {
		if d := int(a.Pix[4*i+c]) - int(b.Pix[4*i+c]); d >= seen || -d >= seen {
			return true
		}
	}
	return false
}
