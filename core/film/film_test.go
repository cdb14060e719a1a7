package film

import (
	"errors"
	"image"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"amberproof/core/geom"
)

var full = NewLayout(true, CaughtPlane, Plane{Name: "depth", Values: 2, Halves: true, Of: FirstDepth}, Plane{Name: "spare", Values: 5})

func patchOf(f *Film, tile, from, to int) *Patch {
	r := rand.New(rand.NewPCG(uint64(tile), uint64(from)))
	p := &Patch{Tile: tile, From: from, To: to, Sums: NewSums(f.Rect(tile), f.Layout)}
	for i := range p.Data {
		p.Data[i] = r.Float32()
	}
	for i := range p.Heads {
		for k := 0; k < 3; k++ {
			p.AddCover(i, uint32(r.IntN(5)), r.Float32())
		}
	}
	return p
}

func same(a, b *Film) bool {
	for i := range a.Tiles {
		x, y := &a.Tiles[i], &b.Tiles[i]
		if x.Samples != y.Samples || x.Stopped != y.Stopped || !slices.Equal(x.Data, y.Data) || !slices.Equal(x.Heads, y.Heads) ||
			!slices.Equal(x.Entries, y.Entries) {
			return false
		}
	}
	return true
}

func TestPlacesDoNotOverlap(t *testing.T) {
	next := basic
	for i, p := range full.planes {
		at, ok := full.Place(p.Name)
		if !ok || at != next {
			t.Fatalf("plane %d, %s, is at %d, want %d", i, p.Name, at, next)
		}
		next += p.size()
	}
	if full.Channels() != next {
		t.Fatalf("%d channels, %d in use", full.Channels(), next)
	}
	if _, ok := full.Place("nothing of that name"); ok {
		t.Error("a plane that is not there has a place")
	}
}

// Each plane gets its own values by weight, and the even samples once more in
// those that keep halves.
func TestSamplesAddToTheirPlanes(t *testing.T) {
	s := NewSums(image.Rect(0, 0, 2, 1), full)
	for k := range 4 {
		m := Sample{Weight: 2, Even: k%2 == 0, Light: geom.V(1, 2, 3), Alpha: 1, Part: int32(k % 3), First: k != 2, Depth: float32(k)}
		m.Catch[Lit] = float32(k)
		s.Add(1, &m)
	}
	s.Add(1, &Sample{Weight: -1, Part: NoPart})
	want := make([]float32, full.Channels())
	copy(want, []float32{7, 4, 8, 16, 24, 8, 4, 8, 12})
	depth, _ := full.Place("depth")
	caught, _ := full.Place(CaughtPlane.Name)
	want[depth], want[depth+2], want[depth+1], want[depth+3] = 2*(0+1+3), 2*0, 6, 2
	want[caught+Lit], want[caught+CaughtSums+Lit] = 2*(0+1+2+3), 2*(0+2)
	if got := s.Pixel(1); !slices.Equal(got, want) {
		t.Errorf("got  %v\nwant %v", got, want)
	}
	if got := s.Pixel(0); slices.ContainsFunc(got, func(v float32) bool { return v != 0 }) {
		t.Errorf("the pixel beside has %v", got)
	}
	if w := s.CoverOf(1, func(p uint32) bool { return p == 0 }); w != 4 {
		t.Errorf("part 0 covers %v, want 4", w)
	}
}

func TestTwoPlanesOfOneNameAreAMistake(t *testing.T) {
	defer func() {
		if recover() == nil {
			t.Error("two planes of one name are accepted")
		}
	}()
	NewLayout(false, CaughtPlane, CaughtPlane)
}

func TestAnyOrderOfArrivalGivesTheSameBytes(t *testing.T) {
	window := image.Rect(10, 20, 90, 75)
	ranges := [][2]int{{0, 1}, {1, 2}, {2, 4}, {4, 8}, {8, 24}}
	make1 := func(shuffle bool) *Film {
		f := New(window, full)
		var all []*Patch
		for i := range f.Tiles {
			for _, r := range ranges {
				all = append(all, patchOf(f, i, r[0], r[1]))
			}
		}
		if shuffle {
			rand.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
			all = append(all, all[:len(all)/3]...) // some units done twice
		}
		for _, p := range all {
			if _, err := f.Take(p); err != nil {
				t.Fatal(err)
			}
		}
		return f
	}
	a, b := make1(false), make1(true)
	if !same(a, b) {
		t.Fatal("the order of arrival shows in the sums")
	}
	if a.Samples() != int64(window.Dx()*window.Dy()*24) {
		t.Fatalf("%d samples", a.Samples())
	}
}

func TestTakeRefusesWhatIsNotItsOwn(t *testing.T) {
	f := New(image.Rect(0, 0, 40, 40), full)
	other := New(image.Rect(0, 0, 40, 40), Layout{})
	for name, p := range map[string]*Patch{"other layout": patchOf(other, 0, 0, 1), "no such tile": {Tile: 9, To: 1}} {
		if _, err := f.Take(p); err == nil {
			t.Errorf("%s was taken", name)
		}
	}
	if _, err := f.Take(patchOf(f, 0, 0, 4)); err != nil {
		t.Fatal(err)
	}
	if _, err := f.Take(patchOf(f, 0, 2, 8)); err == nil {
		t.Error("overlapping samples were taken")
	}
}

func TestKeptFilmComesBackAfterACutAtAnyByte(t *testing.T) {
	path := filepath.Join(t.TempDir(), "film")
	window := image.Rect(0, 0, 50, 40)
	f := New(window, full)
	k, err := Keep(path, f, "picture one", 1)
	if err != nil {
		t.Fatal(err)
	}
	step := func(from, to int) {
		for i := range f.Tiles {
			if _, err := f.Take(patchOf(f, i, from, to)); err != nil {
				t.Fatal(err)
			}
			f.Tiles[i].Stopped = to == 4
			if err := k.Save(i); err != nil {
				t.Fatal(err)
			}
		}
	}
	step(0, 1)
	step(1, 2)
	step(2, 4)
	again := New(window, full)
	k2, err := Keep(path, again, "picture one", 1)
	if err != nil {
		t.Fatal(err)
	}
	if !same(f, again) {
		t.Fatal("the film came back changed")
	}
	_ = k2.Close()

	if _, err := Keep(path, New(window, full), "picture one", 2); !errors.Is(err, ErrOtherRevision) {
		t.Errorf("another revision of the renderer: %v", err)
	}
	shown := New(window, full)
	if rev, err := Load(path, shown, "picture one"); err != nil || rev != 1 || shown.Samples() != f.Samples() || shown.Samples() == 0 {
		t.Errorf("loaded %d samples of %d: %v", shown.Samples(), f.Samples(), err)
	}
	if _, err := Load(path, shown, "picture two"); !errors.Is(err, ErrOtherFilm) {
		t.Errorf("another picture was loaded: %v", err)
	}
	if _, err := Keep(path, New(window, full), "picture two", 1); !errors.Is(err, ErrOtherFilm) {
		t.Fatalf("another picture's film was taken: %v", err)
	}
	// A torn write: spoil the newest slot of tile 0; the one before must be found.
	whole, _ := os.ReadFile(path)
	newest := k.at(0, k.slot[0]^1)
	whole[newest+slotHead+100] ^= 0xff
	if err := os.WriteFile(path, whole, 0o600); err != nil {
		t.Fatal(err)
	}
	torn := New(window, full)
	if _, err := Keep(path, torn, "picture one", 1); err != nil {
		t.Fatal(err)
	}
	if torn.Tiles[0].Samples != 2 || torn.Tiles[1].Samples != 4 {
		t.Fatalf("tile 0 has %d samples, tile 1 %d; want 2 and 4", torn.Tiles[0].Samples, torn.Tiles[1].Samples)
	}
}

// A film that was kept in larger tiles is shown as it was, and not gone on with.
func TestFilmsOfLargerTilesAreStillShown(t *testing.T) {
	path := filepath.Join(t.TempDir(), "film")
	window := image.Rect(7, 3, 7+75, 3+50)
	old := olderGrid(New(window, full))
	for i := range old.Tiles {
		old.Tiles[i].Sums = NewSums(old.Rect(i), full)
	}
	k, err := Keep(path, old, "picture one", 9)
	if err != nil {
		t.Fatal(err)
	}
	for i := range old.Tiles {
		if i == 1 {
			continue // was cut off before it had any sample
		}
		if _, err := old.Take(patchOf(old, i, 0, i+1)); err != nil {
			t.Fatal(err)
		}
		old.Tiles[i].Stopped = i == 2
		if err := k.Save(i); err != nil {
			t.Fatal(err)
		}
	}
	if err := k.Close(); err != nil {
		t.Fatal(err)
	}
	now := New(window, full)
	if rev, err := Load(path, now, "picture one"); err != nil || rev != 9 {
		t.Fatalf("revision %d, %v", rev, err)
	}
	for y := window.Min.Y; y < window.Max.Y; y++ {
		for x := window.Min.X; x < window.Max.X; x++ {
			a, i := old.At(x, y)
			b, j := now.At(x, y)
			if !slices.Equal(a.Pixel(i), b.Pixel(j)) || old.SamplesAt(x, y) != now.SamplesAt(x, y) || old.tileAt(x, y).Stopped != now.tileAt(x, y).Stopped {
				t.Fatalf("(%d, %d) is another", x, y)
			}
			for part := range uint32(5) {
				one := func(p uint32) bool { return p == part }
				if a.CoverOf(i, one) != b.CoverOf(j, one) {
					t.Fatalf("part %d covers (%d, %d) by %v, was %v", part, x, y, b.CoverOf(j, one), a.CoverOf(i, one))
				}
			}
		}
	}
	if _, err := Keep(path, New(window, full), "picture one", 9); !errors.Is(err, ErrOtherRevision) {
		t.Errorf("it is gone on with: %v", err)
	}
	if _, err := Load(path, New(window, full), "picture two"); !errors.Is(err, ErrOtherFilm) {
		t.Errorf("another picture was loaded: %v", err)
	}
}

// A reduced film has the means of its blocks, whole ones and those at the edge.
func TestReducedFilmsAreMeans(t *testing.T) {
	f := New(image.Rect(10, 20, 61, 53), full)
	for i := range f.Tiles {
		if _, err := f.Take(patchOf(f, i, 0, 2)); err != nil {
			t.Fatal(err)
		}
	}
	all := func(string) bool { return true }
	for _, stride := range []int{1, 3, 4, 40, 100} {
		small := f.Reduced(stride, 3, all)
		if want := image.Rect(0, 0, (51+stride-1)/stride, (33+stride-1)/stride); small.Window != want {
			t.Fatalf("window %v, want %v", small.Window, want)
		}
		for _, at := range []image.Point{{}, small.Window.Max.Div(2), small.Window.Max.Sub(image.Pt(1, 1))} {
			want := make([]float64, full.Channels())
			for y := 20 + at.Y*stride; y < min(53, 20+(at.Y+1)*stride); y++ {
				for x := 10 + at.X*stride; x < min(61, 10+(at.X+1)*stride); x++ {
					s, i := f.At(x, y)
					for k, v := range s.Pixel(i) {
						want[k] += float64(v)
					}
				}
			}
			s, i := small.At(at.X, at.Y)
			for k, v := range s.Pixel(i) {
				if d := float64(v) - want[k]; math.Abs(d) > 1e-5*(1+want[k]) {
					t.Fatalf("stride %d, %v, sum %d: %v, want %v", stride, at, k, v, want[k])
				}
			}
		}
	}
	small := f.Reduced(4, 1, all)
	// With some planes only, the same is found under their names.
	for _, p := range full.planes {
		one := f.Reduced(4, 2, func(plane string) bool { return plane == p.Name })
		if len(one.Layout.planes) != 1 {
			t.Fatalf("%d planes are kept for %s", len(one.Layout.planes), p.Name)
		}
		from, _ := small.Layout.Place(p.Name)
		to, _ := one.Layout.Place(p.Name)
		a, i := small.At(7, 5)
		b, j := one.At(7, 5)
		if !slices.Equal(a.Pixel(i)[:basic], b.Pixel(j)[:basic]) || !slices.Equal(a.Pixel(i)[from:from+p.size()], b.Pixel(j)[to:]) {
			t.Errorf("%s alone differs", p.Name)
		}
	}
}

func TestBytesTellsTheMemory(t *testing.T) {
	w := image.Rect(0, 0, 64, 64)
	f := New(w, full)
	n := 0
	for i := range f.Tiles {
		for j := range f.Tiles[i].Heads {
			f.Tiles[i].AddCover(j, 1, 1)
			f.Tiles[i].AddCover(j, 2, 1)
		}
		n += 4*len(f.Tiles[i].Data) + 4*len(f.Tiles[i].Heads) + 12*len(f.Tiles[i].Entries)
	}
	if got := Bytes(w, full); got != int64(n) {
		t.Fatalf("told %d, taken %d", got, n)
	}
}

func TestTilesNearOne(t *testing.T) {
	f := New(image.Rect(5, 5, 5+4*TileSize, 5+3*TileSize), full)
	for _, c := range []struct {
		tile, away int
		want       []int
	}{{0, 1, []int{0, 1, 4, 5}}, {6, 0, []int{6}}, {7, 1, []int{2, 3, 6, 7, 10, 11}}, {5, 9, []int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}}} {
		if got := slices.Collect(f.Near(c.tile, c.away)); !slices.Equal(got, c.want) {
			t.Errorf("%d away from %d: %v, want %v", c.away, c.tile, got, c.want)
		}
	}
}
