package denoise

import "image"

const (
	// among is how far around a pixel is looked at what halves differ by.
	among = 3
	// where fewer than so many pixels there, itself included, have halves nearly as far
	// apart, that is not how the light is there but a spark.
	company = 4
	// apart is by how many times halves may be farther apart than the company-th there.
	apart = 4
	// unlike is the share of their light that halves may always be apart by: it is not seen.
	unlike = 0.05
)

// limit takes sparks for what they are: light that one half has seen and the other has not,
// by far more than halves differ all around. No mean of two hundred pixels makes it even, it
// only becomes a blot. It is brought down to where it is one of its company, in all elements
// alike; what that takes is light that the samples have not yet told anything about the place
// of, and the more there are of them the less it is. Of what both halves have seen alike
// nothing is taken, however bright and small. in are the pixels of the picture that are loaded; what
// lies less than among from their edge within the picture is not to be used.
func (t *tile) limit(in image.Rectangle) {
	less, off := t.tmp[0], t.tmp[1] // the darker half, and how far they are apart
	t.rows(in, func(from, to int) {
		for i := from; i < to; i++ {
			t.kept[0][i], t.kept[1][i] = 1, 1
			a, b := t.a[0][i]+t.a[1][i]+t.a[2][i], t.b[0][i]+t.b[1][i]+t.b[2][i]
			less[i], off[i] = min(a, b), a-b
		}
	})
	for y := in.Min.Y; y < in.Max.Y; y++ {
		for x := in.Min.X; x < in.Max.X; x++ {
			i := t.at(x, y)
			d, k := off[i], 0
			if d < 0 {
				d, k = -d, 1
			}
			if d <= unlike*less[i] || less[i]+d <= 0 {
				continue // not seen, or less than nothing, as filters with lobes below zero leave it
			}
			around := image.Rect(x-among, y-among, x+among+1, y+among+1).Intersect(in)
			if t.inCompany(around, d/apart) {
				continue
			}
			most := max(apart*t.apart(around), unlike*less[i])
			t.kept[k][i] = min(1, (max(0, less[i])+most)/(less[i]+d))
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

// inCompany reports whether enough pixels of r have halves that are so far apart.
func (t *tile) inCompany(r image.Rectangle, d float32) bool {
	n := 0
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for _, x := range t.tmp[1][t.at(r.Min.X, y):t.at(r.Max.X, y)] {
			if x >= d || x <= -d {
				if n++; n == company {
					return true
				}
			}
		}
	}
	return false
}

// apart is how far apart the halves are of the company-th pixel of r, the farthest first.
func (t *tile) apart(r image.Rectangle) float32 {
	var top [company]float32 // falling
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for _, x := range t.tmp[1][t.at(r.Min.X, y):t.at(r.Max.X, y)] {
			x = abs(x)
			for k := company - 1; k >= 0 && x > top[k]; k-- {
				if k+1 < company {
					top[k+1] = top[k]
				}
				top[k] = x
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
