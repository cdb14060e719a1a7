package denoise

import (
	"context"
	"errors"
	"image"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
)

// seen is what a made-up camera sees at a pixel: light by element, and its guide.
type seen struct {
	light [2]geom.Vec3
	guide film.Guide
}

// shoot makes a film of samples whose light is right in the mean and noisy by so many
// standard deviations of itself, each element by itself.
func shoot(w, h, samples int, noise float32, at func(x, y int) seen) *film.Film {
	return shootInto(film.NewLayout(true, film.ElementPlane(0, true), film.ElementPlane(1, true), film.GuidePlane), w, h, samples, noise, at)
}

// shootInto is shoot with a layout; elements beyond the second are black.
func shootInto(l film.Layout, w, h, samples int, noise float32, at func(x, y int) seen) *film.Film {
	f := film.New(image.Rect(20, 10, 20+w, 10+h), l)
	r := rand.New(rand.NewPCG(1, 2))
	for k := range f.Tiles {
		p := &film.Patch{Tile: k, To: samples, Sums: film.NewSums(f.Rect(k), f.Layout)}
		for i := range p.Rect.Dx() * p.Rect.Dy() {
			x, y := p.Rect.Min.X+i%p.Rect.Dx()-20, p.Rect.Min.Y+i/p.Rect.Dx()-10
			v := at(x, y)
			for s := range samples {
				m := film.Sample{Weight: 1, Even: s&1 == 0, Alpha: 1, Part: film.NoPart, Guide: v.guide}
				// Mostly dark and now and then bright, as light is.
				one := func(c geom.Vec3) geom.Vec3 { return c.Scale(1 + noise*float32(r.ExpFloat64()-1)) }
				m.Elements = append(m.Elements, one(v.light[0]), one(v.light[1]), geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{}, geom.Vec3{})
				m.Light = m.Elements[0].Add(m.Elements[1])
				p.Add(i, &m)
			}
		}
		if _, err := f.Take(p); err != nil {
			panic(err)
		}
	}
	return f
}

func clean(t *testing.T, f *film.Film, side, workers int) *film.Film {
	t.Helper()
	out, err := (&Order{Film: f, Elements: 2, Behind: -1, Workers: workers, side: side}).Run(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// each goes through the pixels of a film, from (0, 0) on.
func each(f *film.Film, do func(x, y int, light geom.Vec3, px []float32)) {
	for y := f.Window.Min.Y; y < f.Window.Max.Y; y++ {
		for x := f.Window.Min.X; x < f.Window.Max.X; x++ {
			s, i := f.At(x, y)
			c, _ := s.Light(i)
			do(x-f.Window.Min.X, y-f.Window.Min.Y, c, s.Pixel(i))
		}
	}
}

// off is the root mean square of how far light is from the truth, as a share of it.
func off(f *film.Film, at func(x, y int) seen) float64 {
	var sum float64
	n := 0
	each(f, func(x, y int, c geom.Vec3, _ []float32) {
		v := at(x, y)
		want := v.light[0].Add(v.light[1])
		for k := range 3 {
			d := float64((c.At(k) - want.At(k)) / want.At(k))
			sum += d * d
			n++
		}
	})
	return math.Sqrt(sum / float64(n))
}

func even(int, int) seen {
	return seen{[2]geom.Vec3{geom.V(0.3, 0.2, 0.1), geom.V(0.1, 0.1, 0.2)}, film.Guide{Albedo: geom.Splat(0.5), Normal: geom.V(0, 0, 1), Far: 1}}
}

// step is two albedos under one light.
func step(x, y int) seen {
	v := even(x, y)
	if x >= 35 {
		for k := range v.light {
			v.light[k] = v.light[k].Scale(1.4)
		}
		v.guide.Albedo = v.guide.Albedo.Scale(1.4)
	}
	return v
}

// engraved is fine detail that only light shows, no guide.
func engraved(x, y int) seen {
	v := even(x, y)
	if x%6 == 3 {
		v.light[0] = v.light[0].Scale(0.5)
	}
	return v
}

func TestWhatIsConstantStaysSo(t *testing.T) {
	f := shoot(70, 50, 4, 0, even)
	each(clean(t, f, 0, 2), func(x, y int, c geom.Vec3, _ []float32) {
		if d := c.Sub(geom.V(0.4, 0.3, 0.3)); d.Len() > 1e-6 {
			t.Fatalf("(%d, %d): %v", x, y, c)
		}
	})
}

// The mean of a picture stays right, and little of its noise is left.
func TestNoiseGoesAndLightStays(t *testing.T) {
	f := shoot(96, 64, 16, 1, even)
	out := clean(t, f, 0, 2)
	before, after := off(f, even), off(out, even)
	if after > before/6 {
		t.Errorf("%.4f of %.4f is left", after, before)
	}
	var mean, was geom.Vec3
	each(f, func(_, _ int, c geom.Vec3, _ []float32) { was = was.Add(c) })
	each(out, func(_, _ int, c geom.Vec3, _ []float32) { mean = mean.Add(c) })
	if d := mean.Sub(was).Len() / was.Len(); d > 2e-3 {
		t.Errorf("light in all changed by %.4f", d)
	}
}

func TestAStepInAlbedoStaysAStep(t *testing.T) {
	f := shoot(70, 64, 64, 0.3, step)
	sums := map[int]geom.Vec3{}
	each(clean(t, f, 0, 2), func(x, _ int, c geom.Vec3, _ []float32) { sums[x] = sums[x].Add(c) })
	for x := 30; x < 40; x++ {
		v := step(x, 0)
		want := v.light[0].Add(v.light[1]).Scale(64)
		if d := sums[x].Sub(want).Len() / want.Len(); d > 0.01 {
			t.Errorf("column %d is off by %.4f", x, d)
		}
	}
}

// Detail that no guide tells stays where it stands out of the noise.
func TestDetailThatOnlyLightShowsStays(t *testing.T) {
	f := shoot(72, 64, 64, 0.4, engraved)
	out := clean(t, f, 0, 2)
	before, after := off(f, engraved), off(out, engraved)
	if after > before/2 {
		t.Errorf("%.4f of %.4f is left", after, before)
	}
	var lines, between geom.Vec3
	n, m := float32(0), float32(0)
	each(out, func(x, _ int, c geom.Vec3, _ []float32) {
		if x%6 == 3 {
			lines, n = lines.Add(c), n+1
		} else {
			between, m = between.Add(c), m+1
		}
	})
	if got, want := lines.X/n/(between.X/m), float32(0.25/0.4); geom.Abs(got/want-1) > 0.02 {
		t.Errorf("lines have %.3f of what is beside them, want %.3f", got, want)
	}
}

func TestElementsAddUpToTheBeauty(t *testing.T) {
	f := shoot(70, 50, 8, 1, step)
	out := clean(t, f, 0, 2)
	a, _ := out.Layout.Place(film.ElementName(0))
	b, _ := out.Layout.Place(film.ElementName(1))
	each(out, func(x, y int, c geom.Vec3, px []float32) {
		for k := range 3 {
			if sum := px[a+k] + px[b+k]; geom.Abs(sum-c.At(k)) > 2e-6*max(1, c.At(k)) {
				t.Fatalf("(%d, %d): elements are %v, beauty %v", x, y, sum, c.At(k))
			}
			if px[a+k] < 0 || px[b+k] < 0 {
				t.Fatalf("(%d, %d): light below zero", x, y)
			}
		}
	})
}

// What is seen behind a floor that catches shadows belongs to an element too.
func TestElementsAddUpOverACatchingFloor(t *testing.T) {
	l := film.NewLayout(true, film.ElementPlane(0, true), film.CaughtPlane, film.GuidePlane)
	f := film.New(image.Rect(0, 0, 40, 40), l)
	r := rand.New(rand.NewPCG(3, 4))
	for k := range f.Tiles {
		p := &film.Patch{Tile: k, To: 8, Sums: film.NewSums(f.Rect(k), f.Layout)}
		for i := range p.Heads {
			for s := range 8 {
				m := film.Sample{Weight: 1, Even: s&1 == 0, Part: film.NoPart, Elements: []geom.Vec3{geom.Splat(r.Float32() * 0.1)}}
				m.Light = m.Elements[0]
				m.Catch = [film.CaughtSums]float32{film.Caught: 1, film.Behind: 0.5, film.Behind + 1: 0.4, film.Behind + 2: 0.3,
					film.BehindAlpha: 1, film.Unlit: 1, film.Lit: r.Float32()}
				p.Add(i, &m)
			}
		}
		if _, err := f.Take(p); err != nil {
			t.Fatal(err)
		}
	}
	out, err := (&Order{Film: f, Elements: 1, Behind: 0, Workers: 2}).Run(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	at, _ := out.Layout.Place(film.ElementName(0))
	each(out, func(x, y int, c geom.Vec3, px []float32) {
		if c.X < 0.1 || geom.Abs(px[at]-c.X) > 2e-6 {
			t.Fatalf("(%d, %d): the element is %v, beauty %v", x, y, px[at], c.X)
		}
	})
}

func TestTilesAndWorkersDoNotShow(t *testing.T) {
	f := shoot(150, 110, 8, 1, step)
	want := clean(t, f, 4*film.TileSize, 1)
	for _, c := range []struct{ side, workers int }{{2 * film.TileSize, 3}, {3 * film.TileSize, 2}, {16 * film.TileSize, 1}} {
		got := clean(t, f, c.side, c.workers)
		for i := range want.Tiles {
			if !slices.Equal(want.Tiles[i].Data, got.Tiles[i].Data) {
				t.Fatalf("tiles of %d pixels by %d workers make other bytes", c.side, c.workers)
			}
		}
	}
}

// Rows in eight lanes compute what rows one by one do, to the bit.
func TestLanesAgree(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	const n = 37
	row := func() []float32 {
		x := make([]float32, n)
		for i := range x {
			x[i] = r.Float32()*3 - 1
		}
		return x
	}
	const plane = 40 // of which a row is read
	planes := func(many int) (x []float32) {
		for range many * plane {
			x = append(x, r.Float32()*3-1)
		}
		return x
	}
	a, b, c, d, e := row(), row(), row(), row(), row()
	long, many := planes(3), planes(3)
	lit, by := planes(colours), planes(colours)
	led, held := planes(film.GuideValues), planes(film.GuideValues)
	tight, loose := planes(film.GuideValues), planes(film.GuideValues)
	for i := range tight { // they are squares
		tight[i], loose[i] = tight[i]*tight[i], loose[i]*loose[i]
	}
	across := [2][]float32{planes(3), planes(3)}
	into := func(x, y []float32) *[len(ways)][2][]float32 {
		return &[len(ways)][2][]float32{{x, y}, {x[n:], y[n:]}, {x[2*n:], y[2*n:]}}
	}
	pairs := map[string][2]func(x, y []float32){
		"unlike": {func(x, y []float32) { unlikeRow(n, x, y, lit, by, plane) }, func(x, y []float32) { unlikeFrom(0, n, x, y, lit, by, plane) }},
		"tight":  {func(x, _ []float32) { tightRow(n, x, long[1:], plane) }, func(x, _ []float32) { tightFrom(0, n, x, long[1:], plane) }},
		"three":  {func(x, _ []float32) { threeRow(n, x, long) }, func(x, _ []float32) { threeFrom(0, n, x, long) }},
		"weigh": {
			func(x, y []float32) { weighRow(n, into(x, y), &across, plane, led, held, tight, loose, plane) },
			func(x, y []float32) { weighFrom(0, n, into(x, y), &across, plane, led, held, tight, loose, plane) },
		},
		"add":    {func(x, _ []float32) { addRow(n, x, many, 18, 3) }, func(x, _ []float32) { addFrom(0, n, x, many, 18, 3) }},
		"gather": {func(x, _ []float32) { gatherRow(n, x, long, plane, many, 18, 3) }, func(x, _ []float32) { gatherFrom(0, n, x, long, plane, many, 18, 3) }},
		"blend":  {func(x, _ []float32) { blendRow(n, x, a, b, c, d, e) }, func(x, _ []float32) { blendFrom(0, n, x, a, b, c, d, e) }},
	}
	for what, p := range pairs {
		x, y := planes(3), planes(3)
		u, v := slices.Clone(x), slices.Clone(y)
		p[0](x, y)
		p[1](u, v)
		if !slices.Equal(x, u) || !slices.Equal(y, v) {
			t.Errorf("%s: lanes make other bits", what)
		}
	}
}

// Of noise alone next to nothing is held to be changed beyond it; where detail had to
// be given up, it is told.
func TestChangesBeyondNoiseAreTold(t *testing.T) {
	f := shoot(96, 96, 16, 0.5, even)
	if share := Doubt(clean(t, f, 0, 2)); share > 0.01 {
		t.Errorf("%.3f of a picture of noise alone", share)
	}
	f = shoot(64, 64, 64, 0.1, engraved)
	w := newTile(&Order{Film: f, Behind: -1}, 64)
	w.load(f.Window)
	if !w.work(t.Context()) {
		t.Fatal("cancelled")
	}
	// As if all lines had been smoothed over.
	for k := range w.tries {
		for c := range 3 {
			for i := range w.tries[k].a[c] {
				w.tries[k].a[c][i], w.tries[k].b[c][i] = 0.35, 0.35
			}
		}
	}
	for i := range w.doubt {
		w.choose[0][i], w.choose[1][i], w.choose[2][i], w.choose[3][i] = 1, 0, 0, 0
	}
	w.look()
	w.settle(w.r)
	w.doubts(w.r)
	got, n := 0., 0
	for y := w.r.Min.Y + 3; y < w.r.Max.Y-3; y++ {
		for x := w.r.Min.X + 3; x < w.r.Max.X-3; x++ {
			got, n = got+float64(w.doubt[w.at(x, y)]), n+1
		}
	}
	// Lines of 0.25, 0.2 and 0.25 among 0.4, 0.3 and 0.3, one in six, seen as shares.
	var want float64
	for _, v := range [][2]float64{{0.25, 0.4}, {0.2, 0.3}, {0.25, 0.3}} {
		want += ((v[0]-0.35)*(v[0]-0.35) + 5*(v[1]-0.35)*(v[1]-0.35)) / 6 / 3 / (0.35*0.35 + 0.01)
	}
	if got /= float64(n); math.Abs(got/math.Sqrt(want)-1) > 0.15 {
		t.Errorf("%.4f is told, want %.4f", got, math.Sqrt(want))
	}
}

// With many samples there is little to take out, and no more than that is.
func TestManySamplesAreLeftAlone(t *testing.T) {
	fine := func(x, y int) seen {
		v := even(x, y)
		for k := range v.light {
			v.light[k] = v.light[k].Scale(1 + 0.3*float32(math.Sin(float64(x)*0.7)*math.Cos(float64(y)*0.9)))
		}
		return v
	}
	f := shoot(64, 64, 64, 0.02, fine) // as 100 000 samples with a noise of 0.8 each
	before, after := off(f, fine), off(clean(t, f, 0, 2), fine)
	if after > before {
		t.Errorf("error %.5f, was %.5f", after, before)
	}
}

func TestHolesStayHoles(t *testing.T) {
	f := shoot(64, 64, 4, 0.5, even)
	clear(f.Tiles[1].Data)
	out := clean(t, f, 0, 1)
	for _, v := range out.Tiles[1].Data {
		if v != 0 {
			t.Fatal("a tile without samples has light")
		}
	}
	each(out, func(x, y int, c geom.Vec3, px []float32) {
		if !c.Finite() || x < film.TileSize && px[film.Weight] != 1 {
			t.Fatalf("(%d, %d): %v of weight %v", x, y, c, px[film.Weight])
		}
	})
}

func TestItIsCancelledAndTellsHowFarItIs(t *testing.T) {
	f := shoot(7*film.TileSize-5, 2*film.TileSize, 2, 0.5, even)
	var told []float64
	ctx, cancel := context.WithCancel(t.Context())
	_, err := (&Order{Film: f, Behind: -1, Workers: 1, side: film.TileSize}).Run(ctx, func(share float64) {
		told = append(told, share)
		if len(told) == 3 {
			cancel()
		}
	})
	if !errors.Is(err, context.Canceled) || len(told) > 4 {
		t.Errorf("%v after %d tiles", err, len(told))
	}
	for i, s := range told {
		if want := float64(i+1) / 14; math.Abs(s-want) > 1e-9 {
			t.Errorf("tile %d: %.3f is done, want %.3f", i, s, want)
		}
	}
}

// The noise that is said to be left is about what the picture is off by, as far as that can
// be told: to a tenth of the plain noise. Rather more is said than less.
func TestNoiseThatIsLeftIsKnown(t *testing.T) {
	view := noise.View{Transform: colour.Plain}
	shown := func(c geom.Vec3) float64 { return float64(colour.EncodeSRGB(colour.Plain.Tone(colour.Luminance(c)))) }
	for name, at := range map[string]func(x, y int) seen{"even": even, "step": step, "engraved": engraved} {
		f := shoot(128, 128, 32, 0.5, at)
		out := clean(t, f, 0, 2)
		var plainly float64
		for _, amount := range []float64{0, 0.5, 1} {
			var said, sum float64
			for _, v := range view.OfDenoised(f, out, noise.Taken{Amount: amount}) {
				said += v * v / float64(len(f.Tiles))
			}
			each(out, func(x, y int, c geom.Vec3, _ []float32) {
				s, i := f.At(x+20, y+10)
				plain, _ := s.Light(i)
				v := at(x, y)
				d := shown(plain.Lerp(c, float32(amount))) - shown(v.light[0].Add(v.light[1]))
				sum += d * d / (128 * 128)
			})
			said, is := math.Sqrt(said), 100*math.Sqrt(sum)
			if amount == 0 {
				plainly = is
			}
			if said < is*0.75 || said > is*1.5+plainly/10 {
				t.Errorf("%s, %.0f %%: %.3f is said to be left, it is %.3f", name, 100*amount, said, is)
			}
		}
	}
}

func TestScratchIsWhatIsSaid(t *testing.T) {
	for _, n := range []int{0, 3} {
		w := newTile(&Order{Film: film.New(image.Rect(0, 0, 1, 1), film.Layout{}), Elements: n}, UsualSide)
		if got := 4 * int64(len(w.room)); got != ScratchBytes(n) {
			t.Errorf("%d elements take %d bytes, %d are said", n, got, ScratchBytes(n))
		}
	}
}

func TestOnlyWhatIsWantedIsMade(t *testing.T) {
	f := shoot(160, 96, 4, 0.5, even)
	want := clean(t, f, 0, 2)
	o := Order{Film: f, Elements: 2, Behind: -1, Workers: 2, Wanted: make([]bool, len(f.Tiles)), side: film.TileSize}
	o.Wanted[7] = true
	got, err := o.Run(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range got.Tiles {
		if made := got.Tiles[i].Samples > 0; made != (i == 7) {
			t.Errorf("tile %d: made %v", i, made)
		}
	}
	if !slices.Equal(got.Tiles[7].Data, want.Tiles[7].Data) {
		t.Error("it is another by itself")
	}
}

// The share that is done is told rising to all of it, whichever worker tells it.
func TestProgressRises(t *testing.T) {
	o := Order{Film: shoot(5*film.TileSize, 5*film.TileSize, 4, 0.5, even), Elements: 2, Behind: -1, Workers: 4, side: film.TileSize}
	var told []float64
	if _, err := o.Run(t.Context(), func(share float64) { told = append(told, share) }); err != nil {
		t.Fatal(err)
	}
	if len(told) != 25 || told[24] != 1 || !slices.IsSorted(told) {
		t.Errorf("told %v", told)
	}
}

// Pictures smaller than the window, and than a tile's margins.
func TestTinyPictures(t *testing.T) {
	for _, size := range []image.Point{{1, 1}, {2, 5}, {40, 1}} {
		f := shoot(size.X, size.Y, 8, 0.3, even)
		each(clean(t, f, 0, 2), func(x, y int, c geom.Vec3, px []float32) {
			if !c.Finite() || c.X < 0.2 || c.X > 0.8 || px[film.Weight] != 1 {
				t.Errorf("%v, pixel %d, %d: %v", size, x, y, c)
			}
		})
	}
}

// Where chance decides which of two surfaces a sample meets, as behind parts that blend, the
// guides' noise is none of the picture's detail.
func TestGuidesOfChanceLeaveNoGrain(t *testing.T) {
	f := film.New(image.Rect(20, 10, 20+96, 10+64), film.NewLayout(true, film.ElementPlane(0, true), film.ElementPlane(1, true), film.GuidePlane))
	r := rand.New(rand.NewPCG(5, 6))
	near, far := even(0, 0), even(0, 0)
	far.guide = film.Guide{Albedo: geom.Splat(0.1), Normal: geom.V(0, 1, 0), Far: 3}
	for k := range f.Tiles {
		p := &film.Patch{Tile: k, To: 16, Sums: film.NewSums(f.Rect(k), f.Layout)}
		for i := range p.Rect.Dx() * p.Rect.Dy() {
			for s := range 16 {
				v := near
				if r.Float32() < 0.5 {
					v = far
				}
				noisy := float32(1 + (r.ExpFloat64()-1)/2)
				m := film.Sample{Weight: 1, Even: s&1 == 0, Alpha: 1, Part: film.NoPart, Guide: v.guide}
				m.Elements = []geom.Vec3{v.light[0].Scale(noisy), v.light[1].Scale(noisy)}
				m.Light = m.Elements[0].Add(m.Elements[1])
				p.Add(i, &m)
			}
		}
		if _, err := f.Take(p); err != nil {
			t.Fatal(err)
		}
	}
	before, after := off(f, even), off(clean(t, f, 0, 2), even)
	if after > before/8 {
		t.Errorf("noise %.4f, was %.4f", after, before)
	}
}

// What is left in a tile is told by it and the tiles around it, whatever else was made: a run
// that was cut off while tiles were settled decides as it would have.
func TestWhatIsLeftIsToldByTheTilesAround(t *testing.T) {
	f := shoot(7*film.TileSize, 7*film.TileSize, 8, 0.5, engraved)
	view := noise.View{Transform: colour.Plain}
	left := func(ring int) float64 {
		o := Order{Film: f, Elements: 2, Behind: -1, Workers: 2, Wanted: make([]bool, len(f.Tiles)), side: film.TileSize}
		for i := range o.Wanted {
			x, y := i%7, i/7
			o.Wanted[i] = max(x-3, 3-x, y-3, 3-y) <= ring
		}
		out, err := o.Run(t.Context(), nil)
		if err != nil {
			t.Fatal(err)
		}
		return view.OfDenoised(f, out, noise.Taken{Amount: 1})[3*7+3]
	}
	if all, around, alone := left(3), left(1), left(0); around != all || alone == all {
		t.Errorf("%v is left by all tiles, %v by those around, %v by the tile alone", all, around, alone)
	}
}

// A pixel without any noise stays as it is to the digit, however noisy its neighbours are:
// a backing of one tone holds just what it was asked to.
func TestWhatHasNoNoiseStays(t *testing.T) {
	f := film.New(image.Rect(0, 0, 48, 48), film.NewLayout(false, film.GuidePlane))
	r := rand.New(rand.NewPCG(3, 4))
	for i := range f.Tiles {
		s := &f.Tiles[i]
		for k := range s.Rect.Dx() * s.Rect.Dy() {
			x, y := s.Rect.Min.X+k%s.Rect.Dx(), s.Rect.Min.Y+k/s.Rect.Dx()
			for n := range 8 {
				c := geom.Splat(0.7311)
				if x+y > 48 {
					c = geom.V(r.Float32(), r.Float32(), r.Float32()).Scale(1.4)
				}
				s.Add(k, &film.Sample{Weight: 1 + 0.3*float32(n%3), Even: n%2 == 0, Light: c, Alpha: 1})
			}
		}
		s.Samples = 8
	}
	clean, err := (&Order{Film: f, Behind: -1, Workers: 2}).Run(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	changed := 0
	for i := range 48 * 48 {
		x, y := i%48, i/48
		s, k := clean.At(x, y)
		c, _ := s.Light(k)
		p, j := f.At(x, y)
		was, _ := p.Light(j)
		if x+y > 48 {
			if c != was {
				changed++
			}
		} else if geom.Abs(c.X-0.7311) > 1e-6 {
			t.Fatalf("(%d, %d) is %v", x, y, c)
		}
	}
	if changed < 800 {
		t.Errorf("noise was taken out of %d pixels only", changed)
	}
}

// A pixel in which all of a few samples missed the light is taken for what is around it, and its elements still add up; with many samples it is held to be
// there.
func TestNoLonePixelSurvivesFewSamples(t *testing.T) {
	lone := func(x, y int) seen {
		v := even(x, y)
		if x%9 == 0 && y%11 == 0 || x%9 == 4 && (y%11 == 5 || y%22 == 6) { // some in pairs
			v.light = [2]geom.Vec3{}
		}
		return v
	}
	for _, samples := range []int{2, 4, 8, 16} {
		for _, noise := range []float32{0, 0.2} {
			worst := 0.0
			out := clean(t, shoot(72, 50, samples, noise, lone), 0, 2)
			at, _ := out.Layout.Place(film.ElementName(0))
			second, _ := out.Layout.Place(film.ElementName(1))
			each(out, func(x, y int, c geom.Vec3, px []float32) {
				worst = max(worst, math.Abs(float64(c.Mean()/(1.0/3)-1)))
				if sum := px[at] + px[second]; geom.Abs(sum-px[film.Beauty]) > 1e-5 {
					t.Fatalf("%d samples, (%d, %d): the elements add up to %v, the beauty is %v", samples, x, y, sum, px[film.Beauty])
				}
			})
			if worst > 0.45 {
				t.Errorf("%d samples, noise %v: a pixel is off by %.0f %%", samples, noise, 100*worst)
			}
		}
	}
	kept := 0
	each(clean(t, shoot(72, 50, 64, 0, lone), 0, 2), func(x, y int, c geom.Vec3, _ []float32) {
		if x%9 == 4 && y%11 == 5 && c.Mean() < 0.1 {
			kept++
		}
	})
	if kept < 30 {
		t.Errorf("with many samples %d of what is there stay", kept)
	}
}
