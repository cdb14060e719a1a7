package denoise

import (
	"image"
	"math"

	"amberproof/core/film"
)

// Margins around a tile, in pixels.
const (
	near     = 2                                     // how far where it is to be quick
	window   = 7                                     // how far pixels are looked for that look alike
	patch    = 1                                     // around each of two pixels that are held against each other
	steady   = 2                                     // around a pixel whose variance is estimated
	judged   = 3                                     // around a pixel whose error is estimated
	blended  = 3                                     // around a pixel whose choice of weights is softened
	doubted  = 2                                     // around a pixel whose change is held against its noise
	balanced = 5                                     // around a pixel whose light is to be kept
	choice   = judged + blended + balanced + doubted // that weights are computed beyond the tile
	margin   = choice + patch + steady + among       // and as far as is looked
)

// Reach is how far from a pixel the light is, in pixels, that what becomes of it depends on.
const Reach = margin + window

// band is how many rows are computed together, so that what is computed of them stays in
// the cache; bandRows is how many rows of scratch that takes.
const (
	band     = 8
	bandRows = 2*(1+band+2*patch) + 2*len(ways)*band*(2*window+1)
)

// plane is one value of every pixel of a tile and its margins.
type plane []float32

// rgb is three planes that lie one after the other.
type rgb [3]plane

// run is all three.
func (c *rgb) run() []float32 { return c[0][:3*len(c[0])] }

// tile is the scratch of one worker. Its planes reach over the pixels loaded; beyond the
// edges of the picture the nearest pixel is repeated.
type tile struct {
	o       *Order
	picture image.Rectangle
	r       image.Rectangle // pixels to make
	ext     image.Rectangle // pixels loaded
	area    image.Rectangle // pixels that weights are computed for
	reach   int             // how far the window goes
	stride  int
	plane   int       // values of one
	room    []float32 // of all planes

	alpha    plane    // or less than nothing where there are no samples
	evens    plane    // share of the weight that half A has
	kept     [2]plane // share of the light of either half that is no spark
	all      rgb      // light of all samples
	a, b     rgb      // and of either half; in one piece with
	variance rgb      // that of a half
	guide    [film.GuideValues]plane
	tight    [film.GuideValues]plane // one over the square of what a guide may differ by
	change   [film.GuideValues]plane // half of what guides differ by between the halves
	mixed    plane                   // how much the samples of a pixel see different things
	elements []element

	tries  [len(ways)]try
	seen   plane // how much a squared error counts
	doubt  plane
	choose [len(ways) + 1]plane // how much of each try, and of the picture as it is
	made   rgb                  // the light as it was chosen, in the room of the first try
	halfA  rgb                  // and half A of it
	tmp    [2]plane
	// Of the pairs at one offset, over a band: how unlike the colours of either half are,
	// before and after that is summed across patches.
	row, across [2][]float32
	weights     [len(ways)][2][]float32 // of a row of offsets, by place
}

// element is the light of one element, by halves, and what becomes of it: at last in made,
// which has the room of outA.
type element struct{ all, a, b, outA, outB, made rgb }

// try is the picture with weights of one strictness.
type try struct {
	a, b       rgb
	sumA, sumB plane // of the weights
	err        plane
}

// ScratchBytes is the memory that a worker takes.
func ScratchBytes(elements int) int64 {
	const planes = 3 + 4*3 + 3*film.GuideValues + len(ways)*10 + 7
	n := int64(UsualSide + 2*(margin+window))
	return 4 * (n*n*int64(planes+15*elements) + n*int64(bandRows))
}

func newTile(o *Order, side int) *tile {
	t := &tile{o: o, picture: o.Film.Window, reach: window}
	if o.Quick {
		t.reach = near
	}
	t.stride = side + 2*(margin+t.reach)
	t.plane = t.stride * t.stride
	all := []*plane{&t.alpha, &t.evens, &t.mixed, &t.kept[0], &t.kept[1], &t.seen, &t.doubt, &t.choose[len(ways)]}
	three := func(c *rgb) { all = append(all, &c[0], &c[1], &c[2]) }
	for _, c := range []*rgb{&t.all, &t.a, &t.b, &t.variance} {
		three(c)
	}
	for k := range t.guide {
		all = append(all, &t.guide[k])
	}
	for k := range t.tight {
		all = append(all, &t.tight[k])
	}
	for k := range t.change {
		all = append(all, &t.change[k])
	}
	t.elements = make([]element, o.Elements)
	for i := range t.elements {
		e := &t.elements[i]
		for _, c := range []*rgb{&e.all, &e.a, &e.b, &e.outA, &e.outB} {
			three(c)
		}
	}
	for i := range t.tries {
		y := &t.tries[i]
		three(&y.a)
		three(&y.b)
		all = append(all, &y.sumA, &y.sumB, &y.err, &t.choose[i])
	}
	for k := range 2 {
		all = append(all, &t.tmp[k])
	}
	t.room = make([]float32, t.plane*len(all)+t.stride*bandRows)
	left := t.room
	take := func(n int) (p []float32) {
		p, left = left[:n], left[n:] // its capacity reaches over those that follow
		return p
	}
	for _, p := range all {
		*p = take(t.plane)
	}
	t.halfA, t.made = t.tries[0].a, t.tries[0].b
	for i := range t.elements {
		t.elements[i].made = t.elements[i].outA
	}
	for k := range 2 {
		t.row[k], t.across[k] = take(t.stride), take((band+2*patch)*t.stride)
		for i := range t.weights {
			t.weights[i][k] = take(band * (2*window + 1) * t.stride)
		}
	}
	return t
}

// at is the place of a pixel of the frame in the planes.
func (t *tile) at(x, y int) int { return (y-t.ext.Min.Y)*t.stride + x - t.ext.Min.X }

// rows goes through the rows of r: the places of their pixels.
func (t *tile) rows(r image.Rectangle, do func(from, to int)) {
	for y := r.Min.Y; y < r.Max.Y; y++ {
		do(t.at(r.Min.X, y), t.at(r.Max.X, y))
	}
}

// load reads the pixels of r and its margins off the film.
func (t *tile) load(r image.Rectangle) {
	t.r, t.ext, t.area = r, r.Inset(-margin-t.reach), r.Inset(-choice).Intersect(t.picture)
	f := t.o.Film
	at, _ := f.Layout.Place(film.GuidePlane.Name)
	places := make([]int, len(t.elements))
	for i := range places {
		places[i], _ = f.Layout.Place(film.ElementName(i))
	}
	in := t.ext.Intersect(t.picture)
	f.Locked(func() {
		for y := in.Min.Y; y < in.Max.Y; y++ {
			for x := in.Min.X; x < in.Max.X; x++ {
				s, i := f.At(x, y)
				t.read(s, i, t.at(x, y), at, places)
			}
		}
	})
	t.limit(in)
	t.repeatEdges(in)
}

// read takes one pixel's sums apart into place j.
func (t *tile) read(s *film.Sums, i, j, guide int, elements []int) {
	light, alpha := s.Light(i)
	t.alpha[j] = max(0, alpha)
	if s.Pixel(i)[film.Weight] <= 0 {
		t.alpha[j] = -1
	}
	a, b, ok := s.Halves(i)
	if !ok { // nothing is known of its noise
		a, b = light, light
	}
	for c := range 3 {
		t.all[c][j], t.a[c][j], t.b[c][j] = light.At(c), a.At(c), b.At(c)
	}
	px := s.Pixel(i)
	whole, wa := px[film.Weight], px[film.WeightA]
	t.evens[j] = 0.5
	if ok {
		t.evens[j] = wa / whole
	}
	over := func(v, w float32) float32 {
		if w > 0 {
			return v / w
		}
		return 0
	}
	for k := range film.GuideValues {
		v := over(px[guide+k], whole)
		half := v
		if ok {
			half = over(px[guide+film.GuideValues+k], wa)
		}
		if k == film.GuideFar { // near or far, it is shares of the way that count
			v, half = nearness(v), nearness(half)
		}
		t.guide[k][j], t.tight[k][j] = v, half
	}
	for n, at := range elements {
		e := &t.elements[n]
		for c := range 3 {
			v := over(px[at+c], whole)
			e.all[c][j], e.a[c][j], e.b[c][j] = v, v, v
			if ok {
				e.a[c][j], e.b[c][j] = over(px[at+3+c], wa), over(px[at+c]-px[at+3+c], whole-wa)
			}
		}
		if n == t.o.Behind {
			seen := s.Seen(i)
			sa, sb := s.SeenHalves(i)
			for c := range 3 {
				e.all[c][j] += seen.At(c)
				if !ok {
					e.a[c][j], e.b[c][j] = e.all[c][j], e.all[c][j]
					continue
				}
				e.a[c][j] += sa.At(c)
				e.b[c][j] += sb.At(c)
			}
		}
	}
}

// nearness makes steps of distances that are shares of them.
func nearness(far float32) float32 { return float32(math.Log(float64(max(far, 1e-3)))) }

// repeatEdges fills what lies beyond the picture.
func (t *tile) repeatEdges(in image.Rectangle) {
	if in == t.ext {
		return
	}
	fill := func(p plane) {
		for y := t.ext.Min.Y; y < t.ext.Max.Y; y++ {
			from := min(max(y, in.Min.Y), in.Max.Y-1)
			for x := t.ext.Min.X; x < t.ext.Max.X; x++ {
				if !image.Pt(x, y).In(in) {
					p[t.at(x, y)] = p[t.at(min(max(x, in.Min.X), in.Max.X-1), from)]
				}
			}
		}
	}
	for c := range 3 {
		fill(t.all[c])
		fill(t.a[c])
		fill(t.b[c])
	}
	for k := range t.guide {
		fill(t.guide[k])
		fill(t.tight[k])
	}
}

// box writes the mean over (2n+1)² pixels around each pixel of r to out. Pixels outside
// within do not count.
func (t *tile) box(out, in plane, r, within image.Rectangle, n int) {
	tall := r
	tall.Min.Y, tall.Max.Y = max(r.Min.Y-n, within.Min.Y), min(r.Max.Y+n, within.Max.Y)
	// Columns around which nothing is cut off; none may be so.
	begin, end := max(r.Min.X, within.Min.X+n), min(r.Max.X, within.Max.X-n)
	wide := func(x int) (from, to int) { return max(x-n, within.Min.X), min(x+n+1, within.Max.X) }
	tmp := t.tmp[0]
	for y := tall.Min.Y; y < tall.Max.Y; y++ {
		sum := tmp[t.at(r.Min.X, y):][:r.Dx()]
		clear(sum)
		if begin < end {
			addRow(end-begin, sum[begin-r.Min.X:], in[t.at(begin-n, y):], 1, 2*n+1)
		}
		for x := r.Min.X; x < r.Max.X; x++ {
			if begin <= x && x < end {
				x = end - 1
				continue
			}
			from, to := wide(x)
			for _, v := range in[t.at(from, y):t.at(to, y)] {
				sum[x-r.Min.X] += v
			}
		}
	}
	for y := r.Min.Y; y < r.Max.Y; y++ {
		from, to := max(y-n, within.Min.Y), min(y+n+1, within.Max.Y)
		mean := out[t.at(r.Min.X, y):][:r.Dx()]
		clear(mean)
		addRow(r.Dx(), mean, tmp[t.at(r.Min.X, from):], t.stride, to-from)
		for i := range mean {
			left, right := wide(r.Min.X + i)
			mean[i] /= float32((right - left) * (to - from))
		}
	}
}

// settle puts together what was chosen, of the light of the pixels of r and of all elements.
func (t *tile) settle(r image.Rectangle) {
	keep := t.choose[len(ways)]
	t.rows(r, func(from, to int) {
		for i := from; i < to; i++ {
			for c := range 3 {
				made, half := keep[i]*t.all[c][i], keep[i]*t.a[c][i]
				for n := range t.tries {
					y, m := &t.tries[n], t.choose[n][i]
					made += m * (y.a[c][i] + y.b[c][i]) / 2
					half += m * y.a[c][i]
				}
				t.made[c][i], t.halfA[c][i] = made, half
				for n := range t.elements {
					e := &t.elements[n]
					e.made[c][i] = keep[i]*e.all[c][i] + (e.outA[c][i]+e.outB[c][i])/2
				}
			}
		}
	})
}

// store writes the tile's pixels into the film that is made.
func (t *tile) store(out *film.Film) {
	places := make([]int, len(t.elements))
	for i := range places {
		places[i], _ = out.Layout.Place(film.ElementName(i))
	}
	doubt, _ := out.Layout.Place(DoubtPlane)
	kept, _ := out.Layout.Place(film.KeptPlane)
	f := t.o.Film
	few := func(x, y int) bool {
		p := image.Pt(x, y).Sub(f.Window.Min).Div(film.TileSize)
		return !t.o.Sparks && f.Tiles[p.Y*f.Cols+p.X].Samples <= fewSamples
	}
	for y := t.r.Min.Y; y < t.r.Max.Y; y++ {
		for x := t.r.Min.X; x < t.r.Max.X; x++ {
			s, i := out.At(x, y)
			px, j := s.Pixel(i), t.at(x, y)
			if t.alpha[j] < 0 {
				continue
			}
			px[film.Weight], px[film.WeightA], px[film.Alpha] = 1, 0.5, t.alpha[j]
			px[doubt] = t.doubt[j]
			px[kept], px[kept+1] = t.kept[0][j], t.kept[1][j]
			from := [8]int{j}
			of := from[:1]
			if few(x, y) {
				if alike, n, lone := t.alone(x, y); lone { // by chance: it is what is around it
					from = alike
					of = from[:n]
				}
			}
			share := 1 / float32(len(of))
			for c := range 3 {
				var all, half float32
				for _, j := range of {
					all, half = all+t.made[c][j], half+t.halfA[c][j]
				}
				px[film.Beauty+c], px[film.BeautyA+c] = all*share, half*share/2
			}
			for n, at := range places {
				e := &t.elements[n]
				for c := range 3 {
					var v float32
					for _, j := range of {
						v += e.made[c][j]
					}
					px[at+c] = v * share
				}
			}
		}
	}
}
