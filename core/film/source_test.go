package film

import (
	"image"
	"testing"

	"amberproof/core/geom"
)

// Every source is kept as often as any other, in any area of some tiles, also left of the frame.
func TestSourcesTakeTurns(t *testing.T) {
	for _, n := range []int{1, 2, 5, 8, 13, 24, 64} {
		for _, at := range []image.Point{{}, {-32, -16}, {997, 311}} {
			kept := make([]int, n)
			for y := range 2 * TileSize {
				for x := range 4 * TileSize {
					kept[SourceAt(at.X+x, at.Y+y, n)]++
				}
			}
			mean := 8 * TileSize * TileSize / n
			for s, k := range kept {
				if k < mean*8/10-2 || k > mean*12/10+2 {
					t.Errorf("%d sources from %v: source %d is kept by %d pixels, the mean is %d", n, at, s, k, mean)
				}
			}
		}
	}
}

// A pixel keeps the luminance of its own source alone, by halves.
func TestAPixelKeepsItsSource(t *testing.T) {
	l := NewLayout(false, SourcePlane(2))
	if l.Sources() != 6 || l.Asks()&AskPaths == 0 {
		t.Fatalf("%d sources, asks %b", l.Sources(), l.Asks())
	}
	s := NewSums(image.Rect(0, 0, 1, 1), l)
	paths := []Contribution{
		{Element: 1, Way: Direct, Light: geom.Splat(2)}, {Element: 0, Way: Direct, Light: geom.Splat(4)},
		{Way: ByMatte, Light: geom.Splat(8)}, {Way: Looked, Light: geom.Splat(16)}, {Way: ByClear, Light: geom.Splat(32)},
	}
	want := map[Source]float32{SourceLooked: 16, SourceMatte: 8, SourceGloss: 0, SourceClear: 32, SourceDirect: 4, SourceDirect + 1: 2}
	at, _ := l.Place(SourceName)
	for of, v := range want {
		s.Reset()
		for k := range 3 {
			s.Add(0, &Sample{Weight: 1, Even: k == 0, Paths: paths, Part: NoPart, Source: of})
		}
		if px := s.Pixel(0); px[at] != 3*v || px[at+1] != v {
			t.Errorf("source %d: %v and %v of half A, want %v and %v", of, px[at], px[at+1], 3*v, v)
		}
	}
}
