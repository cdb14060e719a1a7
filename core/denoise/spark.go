package denoise

import "image"

const (
	// among is how far around a pixel is looked for others as bright.
	among = 3
	// fewer than so many values of both halves there, itself included, do not make light
	// that one half alone has seen more than a spark.
	company = 4
	// brighter is by how many times a spark outshines the company-th brightest: less,
	// spread over the window, is not seen.
	brighter = 4
	// lonely is by how many times one half must outshine the other.
	lonely = 4
	// glimmer is what a spark must outshine where all is dark, the sum of its colours.
	glimmer = 0.3
)

// limit takes sparks for what they are: light that one half has seen and the other has not,
// far brighter than nearly all around. No mean of two hundred pixels makes it even, it
// only becomes a blot. It is brought down to where it is not seen, in all elements alike;
// what that takes is light that the samples have not yet told anything about the place of.
// Of what both halves have seen nothing is taken, however bright and small. in are the
// pixels of the picture that are loaded; what lies less than among from their edge within
// the picture is not to be used.
func (t *tile) limit(in image.Rectangle) {
	t.rows(in, func(from, to int) {
		for i := from; i < to; i++ {
			t.kept[0][i], t.kept[1][i] = 1, 1
			t.tmp[0][i] = t.a[0][i] + t.a[1][i] + t.a[2][i]
			t.tmp[1][i] = t.b[0][i] + t.b[1][i] + t.b[2][i]
		}
	})
	for y := in.Min.Y; y < in.Max.Y; y++ {
		for x := in.Min.X; x < in.Max.X; x++ {
			i := t.at(x, y)
			a, b := t.tmp[0][i], t.tmp[1][i]
			if a <= glimmer && b <= glimmer || a <= lonely*b && b <= lonely*a {
				continue
			}
			k := 0
			if b > a {
				k = 1
			}
			around := image.Rect(x-among, y-among, x+among+1, y+among+1).Intersect(in)
			if most := max(brighter*t.bright(around), glimmer); t.tmp[k][i] > most {
				t.kept[k][i] = most / t.tmp[k][i]
			}
		}
	}
	t.rows(in, func(from, to int) {
		for i := from; i < to; i++ {
			if t.kept[0][i] < 1 || t.kept[1][i] < 1 {
				t.dim(i)
			}
		}
	})
}

// bright is the company-th brightest of all values of either half in r.
func (t *tile) bright(r image.Rectangle) float32 {
	var top [company]float32 // falling
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for j := t.at(r.Min.X, y); j < t.at(r.Max.X, y); j++ {
			for _, p := range t.tmp {
				x := p[j]
				for k := company - 1; k >= 0 && x > top[k]; k-- {
					if k+1 < company {
						top[k+1] = top[k]
					}
					top[k] = x
				}
			}
		}
	}
	return top[company-1]
}

// dim takes from a pixel and its elements what is not kept of either half.
func (t *tile) dim(i int) {
	less := func(all, a, b *rgb) {
		for c := range 3 {
			da, db := a[c][i]*(1-t.kept[0][i]), b[c][i]*(1-t.kept[1][i])
			a[c][i] -= da
			b[c][i] -= db
			all[c][i] -= da*t.evens[i] + db*(1-t.evens[i])
		}
	}
	less(&t.all, &t.a, &t.b)
	for n := range t.elements {
		e := &t.elements[n]
		less(&e.all, &e.a, &e.b)
	}
}
