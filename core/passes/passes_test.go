package passes

import (
	"encoding/json"
	"fmt"
	"image"
	"math"
	"strconv"
	"strings"
	"testing"

	"amberproof/core/film"
	"amberproof/core/scene"
)

func shop() *scene.Scene {
	s := &scene.Scene{Finishes: []scene.Finish{scene.NewFinish("Brass, satin"), scene.NewFinish("Glass")}, Objects: make([]scene.Object, 1)}
	for _, p := range []struct {
		name   string
		finish int
	}{{"Cap", 0}, {"Cap", 0}, {"Chimney", 1}, {"Lamp", 1}, {"Bare", -1}} {
		s.Parts = append(s.Parts, scene.Part{Name: p.name, Finish: p.finish})
	}
	return s
}

func TestListNamesEveryPassOnce(t *testing.T) {
	w := Wanted{Kinds: []Kind{Light, Occlusion, PartMask, FinishMask, Normal, Depth}}
	var keys []string
	seen := map[string]bool{}
	for _, p := range List(w, []string{"Key panel", "key  panel", "surround"}, shop(), func(i int) bool { return i == 3 }) {
		keys = append(keys, p.Key)
		if seen[p.Key] {
			t.Errorf("%q twice", p.Key)
		}
		seen[p.Key] = true
	}
	want := "beauty light.Key_panel light.key_panel_2 light.surround occlusion normal depth finish.Brass_satin " +
		"finish.Glass finish.no_finish part.Cap part.Cap_2 part.Chimney part.Bare"
	if got := strings.Join(keys, " "); got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestValuesAreMeansOverWeights(t *testing.T) {
	w := Wanted{Kinds: []Kind{Light, Occlusion, FinishMask, PartMask, Normal, Depth}}
	l := w.Needs([]string{"A", "B"})
	f := film.New(image.Rect(10, 20, 50, 60), l)
	tile := &f.Tiles[0]
	i := (25-20)*tile.Rect.Dx() + 12 - 10
	px := tile.Pixel(i)
	px[film.Weight] = 4
	copy(px[film.Beauty:], []float32{4, 8, 12, 2})
	for plane, sums := range map[string][]float32{
		film.ElementName(1): {1, 2, 4}, OcclusionPlane: {3}, NormalPlane: {0, 4, -2},
		DepthPlane: {6, 3}, // a quarter of the samples met nothing
	} {
		at, ok := l.Place(plane)
		if !ok {
			t.Fatalf("no plane %q", plane)
		}
		copy(px[at:], sums)
	}
	tile.AddCover(i, 0, 1)
	tile.AddCover(i, 1, 1.5)
	tile.AddCover(i, 2, 0.5)
	list := List(w, []string{"A", "B"}, shop(), func(i int) bool { return i == 3 })
	for key, want := range map[string][]float32{
		"beauty": {1, 2, 3, 0.5}, "light.B": {0.25, 0.5, 1}, "light.A": {0, 0, 0}, "occlusion": {0.75}, "normal": {0, 1, -0.5}, "depth": {2},
		"finish.Brass_satin": {0.625}, "finish.Glass": {0.125}, "part.Cap_2": {0.375},
	} {
		for k := range list {
			p := &list[k]
			if p.Key != key {
				continue
			}
			got := p.At(Of(f), 12, 25)
			planes := p.Planes(Of(f), f.Window)
			for c := range want {
				if got[c] != want[c] || planes[c][5*40+2] != want[c] {
					t.Errorf("%s channel %d: %v and %v, want %v", key, c, got[c], planes[c][5*40+2], want[c])
				}
			}
		}
	}
	if part, ok := PartAt(f, 12, 25); !ok || part != 1 {
		t.Errorf("most of the pixel is part %d", part)
	}
	if _, ok := PartAt(f, 11, 25); ok {
		t.Error("an empty pixel shows a part")
	}
}

func TestSlug(t *testing.T) {
	for in, want := range map[string]string{"Brass, satin": "Brass_satin", "  ": "unnamed", "../x": "x", "ünï": "ünï", "A1-b": "A1_b"} {
		if got := Slug(in); got != want {
			t.Errorf("%q: %q, want %q", in, got, want)
		}
	}
}

// The hash against published values.
func TestNameHash(t *testing.T) {
	for name, want := range map[string]uint32{
		"": 0, "hello": 0x248bfa47, "hello, world": 0x149bbb7f, "The quick brown fox jumps over the lazy dog": 0x2e4ff723,
	} {
		if got := murmur3(name); got != want {
			t.Errorf("%q: %08x, want %08x", name, got, want)
		}
	}
	for i := range 200000 {
		if v := math.Float32frombits(idOf(strconv.Itoa(i))); v != v || v-v != 0 || v != 0 && math.Abs(float64(v)) < 1.17549e-38 {
			t.Fatalf("the ID of %d is %v, no plain number", i, v)
		}
	}
}

func TestIDRanks(t *testing.T) {
	w := Wanted{Kinds: []Kind{IDs}}
	f := film.New(image.Rect(0, 0, 8, 8), w.Needs(nil))
	tile := &f.Tiles[0]
	tile.Pixel(9)[film.Weight] = 4
	for part, weight := range map[uint32]float32{0: 0.5, 1: 1, 2: 1.25, 3: 1, 4: -0.1} {
		tile.AddCover(9, part, weight)
	}
	list := List(w, nil, shop(), func(i int) bool { return i == 3 })
	if len(list) != 3 || list[1].Key != "ids_part" || list[2].Key != "ids_finish" {
		t.Fatalf("passes %+v", list)
	}
	check := func(p *Pass, want ...any) {
		t.Helper()
		got := p.At(Of(f), 1, 1)
		for k := range idRanks {
			id, cover := uint32(0), float32(0)
			if 2*k < len(want) {
				id, cover = idOf(want[2*k].(string)), float32(want[2*k+1].(float64))
			}
			if math.Float32bits(got[2*k]) != id || got[2*k+1] != cover {
				t.Errorf("%s rank %d: %08x %v, want %08x %v", p.Key, k, math.Float32bits(got[2*k]), got[2*k+1], id, cover)
			}
		}
	}
	check(&list[1], "Chimney", 0.3125, "Cap #2", 0.25, "Cap", 0.125) // the lamp and what is below nothing are out
	check(&list[2], "Brass, satin", 0.375, "Glass", 0.3125)
	m := list[1].Metadata()
	key := fmt.Sprintf("cryptomatte/%s/", fmt.Sprintf("%08x", murmur3("ids_part"))[:7])
	var manifest map[string]string
	if err := json.Unmarshal([]byte(m[key+"manifest"]), &manifest); err != nil || len(manifest) != 4 || manifest["Cap #2"] != fmt.Sprintf("%08x", idOf("Cap #2")) {
		t.Errorf("manifest %v: %v", manifest, err)
	}
	if m[key+"name"] != "ids_part" || m[key+"hash"] != "MurmurHash3_32" || m[key+"conversion"] != "uint32_to_float32" {
		t.Errorf("metadata %v", m)
	}
	if got := list[1].Channels(); len(got) != 12 || got[0] != "ids_part00.R" || got[11] != "ids_part02.A" {
		t.Errorf("channels %v", got)
	}
	if pic := list[1].Picture(Of(f), f.Window); pic.R[9] == 0 || pic.R[0] != 0 {
		t.Error("the picture for looking is empty, or not where it should be")
	}
}

// Tiles without samples show the sketch, others never.
func TestTheSketchStandsInForWhatIsNotThereYet(t *testing.T) {
	w := Wanted{Kinds: []Kind{PartMask}}
	f := film.New(image.Rect(4, 4, 4+2*film.TileSize+3, 4+film.TileSize), w.Needs(nil))
	f.Sketch = film.NewSketch(f)
	for i := range f.Sketch.Heads {
		px := f.Sketch.Pixel(i)
		px[film.Weight], px[film.Beauty], px[film.Alpha] = 2, float32(2*i), 2
		f.Sketch.AddCover(i, 2, 2)
	}
	f.Tiles[1].Samples = 1
	for i := range f.Tiles[1].Rect.Dx() * f.Tiles[1].Rect.Dy() {
		f.Tiles[1].Pixel(i)[film.Weight] = 1
	}
	list := List(w, nil, shop(), func(int) bool { return false })
	row := f.Sketch.Rect.Dx()
	for _, c := range []struct {
		x, y int
		want float32
	}{{4, 4, 0}, {4 + 15, 4 + 8, float32(row + 1)}, {4 + film.TileSize + 5, 10, 0}, {4 + 2*film.TileSize + 2, 4, 2 * film.TileSize / film.SketchStep}} {
		if got := list[0].At(Of(f), c.x, c.y)[0]; got != c.want {
			t.Errorf("at %d, %d: %v, want %v", c.x, c.y, got, c.want)
		}
	}
	if p, ok := PartAt(f, 5, 5); !ok || p != 2 {
		t.Errorf("part %d %v", p, ok)
	}
	if at := f.Sketch.Stands(row - 1); at != image.Pt(4+2*film.TileSize+2, 8) {
		t.Errorf("the last of the first row stands for %v", at)
	}
}

// Films that are kept know their sums by place alone: what is added goes behind.
func TestPlacesOfKeptFilmsStay(t *testing.T) {
	l := Wanted{Kinds: []Kind{Motion, Depth, Normal, Occlusion, Light, Shadow, IDs, PartMask, FinishMask}, Catches: true}.Needs([]string{"A", "B"})
	want := map[string]int{
		film.ElementName(0): 9, film.ElementName(1): 12, OcclusionPlane: 15, NormalPlane: 16, DepthPlane: 19, MotionPlane: 21, film.CaughtPlane.Name: 24,
	}
	for plane, at := range want {
		if got, ok := l.Place(plane); !ok || got != at {
			t.Errorf("%s is at %d, want %d", plane, got, at)
		}
	}
	if l.Channels() != 38 || !l.Cover() {
		t.Errorf("%d channels, coverage %v", l.Channels(), l.Cover())
	}
}

func TestTitlesSayWhatIsTakenOut(t *testing.T) {
	for title, w := range map[string]Wanted{"Beauty denoised": {Denoise: true}, "Beauty sparks out": {Denoise: true, Sparks: true}} {
		list := List(w, nil, shop(), func(int) bool { return false })
		if p := list[1]; p.Key != "beauty.denoised" || p.Title != title || !p.Denoised {
			t.Errorf("%s is titled %s, want %s", p.Key, p.Title, title)
		}
	}
}
