package denoise

import (
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/noise"
)

// add adds light to a pixel of a film that shoot made, to its first element: in half A
// alone, or in both.
func add(f *film.Film, x, y int, c geom.Vec3, both bool) {
	s, i := f.At(x+20, y+10)
	px := s.Pixel(i)
	at, _ := f.Layout.Place(film.ElementName(0))
	w := px[film.WeightA]
	film.AddRGB(px[film.BeautyA:], c, w)
	film.AddRGB(px[at+3:], c, w)
	if both {
		w = px[film.Weight]
	}
	film.AddRGB(px[film.Beauty:], c, w)
	film.AddRGB(px[at:], c, w)
}

// A spark that one half has seen leaves no blot, in the picture or an element, wherever it
// lies; of all others nothing is taken.
func TestSparksLeaveNoBlot(t *testing.T) {
	const w, h = 150, 100
	want := clean(t, shoot(w, h, 16, 0.3, even), 0, 2)
	f := shoot(w, h, 16, 0.3, even)
	at := [][2]int{{0, 0}, {149, 40}, {63, 99}, {32, 32}, {80, 50}, {81, 50}}
	for _, p := range at {
		add(f, p[0], p[1], geom.V(60, 50, 30), false)
	}
	got := clean(t, f, 0, 2)
	first, _ := got.Layout.Place(film.ElementName(0))
	second, _ := got.Layout.Place(film.ElementName(1))
	kept, _ := got.Layout.Place(film.KeptPlane)
	dimmed, touched := 0, 0
	each(got, func(x, y int, c geom.Vec3, px []float32) {
		s, i := want.At(x+20, y+10)
		like, _ := s.Light(i)
		// What is left of it, spread over the window, is a few percent; 60 times as bright it
		// would be half as much again.
		if d := c.Sub(like); d.Len() > 0.1*like.Len() {
			t.Errorf("(%d, %d): %v, without sparks %v", x, y, c, like)
		}
		for k := range 3 {
			if sum := px[first+k] + px[second+k]; math.Abs(float64(sum-c.At(k))) > 1e-5 {
				t.Errorf("(%d, %d): elements add up to %v, the picture is %v", x, y, sum, c.At(k))
			}
		}
		switch {
		case px[kept] < 0.05:
			dimmed++
		case px[kept] < 1, px[kept+1] < 1:
			touched++ // one that is noisier than others, as some are
		}
		if less := min(px[kept], px[kept+1]); less < 0.85 && (less >= 0.05 || px[kept+1] < 1) {
			t.Errorf("(%d, %d): %v and %v of the halves are kept", x, y, px[kept], px[kept+1])
		}
	})
	if dimmed != len(at) || touched > w*h/500 {
		t.Errorf("%d sparks are taken out of %d, and something of %d pixels", dimmed, len(at), touched)
	}
}

// What both halves have seen alike stays, however small and bright: a glint is no spark.
func TestGlintsStay(t *testing.T) {
	f := shoot(96, 96, 16, 0.3, even)
	add(f, 48, 48, geom.V(20, 20, 20), true)
	got := clean(t, f, 0, 2)
	s, i := got.At(68, 58)
	if c, _ := s.Light(i); c.Y < 18 {
		t.Errorf("a glint of 20 becomes %v", c)
	}
}

// Where one pixel in seven is bright in one half, that is how the light is: none is taken.
func TestGlitterIsNoSparks(t *testing.T) {
	f := shoot(128, 128, 16, 0.3, even)
	for y := range 128 {
		for x := range 128 {
			if (x*7+y*13)%7 == 0 {
				add(f, x, y, geom.V(4, 4, 4), false)
			}
		}
	}
	got := clean(t, f, 0, 2)
	kept, _ := got.Layout.Place(film.KeptPlane)
	each(got, func(x, y int, _ geom.Vec3, px []float32) {
		if inside := x > 2 && x < 125 && y > 2 && y < 125; inside && (px[kept] != 1 || px[kept+1] != 1) {
			t.Fatalf("(%d, %d): %v and %v are kept", x, y, px[kept], px[kept+1])
		}
	})
}

// Where nothing but sparks is taken out, all else is the picture as it was sampled, and
// elements still add up.
func TestSparksAlone(t *testing.T) {
	const w, h = 70, 50
	f := shoot(w, h, 16, 0.3, even)
	add(f, 30, 20, geom.V(60, 50, 30), false)
	o := Order{Film: f, Elements: 2, Behind: -1, Workers: 2, Sparks: true}
	got, err := o.Run(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	first, _ := got.Layout.Place(film.ElementName(0))
	second, _ := got.Layout.Place(film.ElementName(1))
	kept, _ := got.Layout.Place(film.KeptPlane)
	same := 0
	each(got, func(x, y int, c geom.Vec3, px []float32) {
		s, i := f.At(x+20, y+10)
		plain, _ := s.Light(i)
		if d := c.Sub(plain); px[kept] == 1 && px[kept+1] == 1 {
			if same++; d.Len() > 1e-6 {
				t.Errorf("(%d, %d): %v becomes %v", x, y, plain, c)
			}
		}
		for k := range 3 {
			if sum := px[first+k] + px[second+k]; math.Abs(float64(sum-c.At(k))) > 1e-5 {
				t.Errorf("(%d, %d): elements add up to %v, the picture is %v", x, y, sum, c.At(k))
			}
		}
		if x == 30 && y == 20 && c.Len() > 1 {
			t.Errorf("the spark is still %v", c)
		}
	})
	if same < w*h*99/100 {
		t.Errorf("%d of %d pixels are as they were", same, w*h)
	}
	if n := Doubt(got); n != 0 {
		t.Errorf("%v of it is held to be changed beyond noise", n)
	}
	// What is left is the noise of the same picture without the spark.
	view := noise.View{Transform: colour.Plain}
	calm := shoot(w, h, 16, 0.3, even)
	want := view.OfDenoisedFrame(calm, clean(t, calm, 0, 2), noise.Taken{})
	if left := view.OfDenoisedFrame(f, got, noise.Taken{Amount: 1, Sparks: true}); math.Abs(left/want-1) > 0.1 {
		t.Errorf("%.2f %% is said to be left, it was %.2f without the spark", left, want)
	}
}
