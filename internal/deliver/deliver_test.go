package deliver

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"image"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/internal/ticket"
	"amberproof/internal/whole"
)

// picture is a film of a region with one sample a pixel, its passes and a manifest.
func picture(change func(*ticket.Ticket)) (*film.Film, []passes.Pass, *Manifest) {
	t := ticket.New()
	t.View.Width, t.View.Height = 64, 48
	t.View.Region = ticket.Region{On: true, X: 25, Y: 25, Width: 50, Height: 50}
	t.Passes.Occlusion.On, t.Passes.Depth, t.Passes.Lights = true, true, true
	t.Quality.Denoise.On = false
	change(&t)
	elements := []string{"Key panel"}
	l := t.Wanted().Needs(elements)
	f := film.New(t.Window(), l)
	for k := range f.Tiles {
		for i := range f.Tiles[k].Heads {
			px := f.Tiles[k].Pixel(i)
			px[film.Weight], px[film.Alpha] = 1, 1
			copy(px[film.Beauty:], []float32{0.25, 0.5, 1})
			for plane, sums := range map[string][]float32{
				film.ElementName(0): {0.25, 0.5, 1}, passes.OcclusionPlane: {0.75}, passes.DepthPlane: {1.2345678, 1},
			} {
				if at, ok := l.Place(plane); ok {
					copy(px[at:], sums)
				}
			}
		}
	}
	r := ticket.Resolved{Ticket: t, Scene: ticket.SceneRef{Name: "lantern.glb"}}
	m := &Manifest{Software: "test", Resolved: r, Fingerprint: r.Fingerprint()}
	return f, passes.List(t.Wanted(), elements, &scene.Scene{}, func(int) bool { return false }), m
}

var words = ticket.Words{Project: "P", Scene: "S", View: "V", Run: 3}

func TestOneFileOfLayersAndAManifestThatIsTrue(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "delivery")
	f, list, m := picture(func(k *ticket.Ticket) { k.Output.PNG = "16" })
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(filepath.Join(dir, ticket.ManifestName))
	if err != nil {
		t.Fatal(err)
	}
	var got Manifest
	if err := json.Unmarshal(b, &got); err != nil {
		t.Fatal(err)
	}
	if got.Resolved.Fingerprint() != got.Fingerprint || len(got.Files) != 5 {
		t.Fatalf("manifest %+v", got)
	}
	for _, file := range got.Files {
		data, err := os.ReadFile(filepath.Join(dir, file.Path))
		if err != nil {
			t.Fatal(err)
		}
		sum := sha256.Sum256(data)
		if int64(len(data)) != file.Bytes || hex.EncodeToString(sum[:]) != file.SHA256 {
			t.Errorf("%s: size or checksum is wrong", file.Path)
		}
		if file.Format == "png" {
			img, err := png.Decode(bytes.NewReader(data))
			if err != nil || img.Bounds().Dx() != 32 {
				t.Errorf("%s: %v", file.Path, err)
			}
			continue
		}
		e, err := imageio.ReadEXR(data, imageio.DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		if e.Display != image.Rect(0, 0, 64, 48) || e.Window != image.Rect(16, 12, 48, 36) {
			t.Errorf("windows %v %v", e.Display, e.Window)
		}
		for name, want := range map[string]float32{"R": 0.25, "B": 1, "A": 1, "light.Key_panel.G": 0.5, "occlusion.Y": 0.75, "depth.Z": 1.2345678} {
			if c := e.Channel(name); c == nil || c.Data[7] != want {
				t.Errorf("channel %s: %v, want %v", name, c, want)
			}
		}
		if e.Channel("depth.Z").Type != imageio.Float || e.Channel("R").Type != imageio.Half || e.Text["proofFingerprint"] != got.Fingerprint {
			t.Error("types or header")
		}
	}
}

func TestAFileForEachPassNamesItsChannelsPlainly(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "delivery")
	f, list, m := picture(func(k *ticket.Ticket) {
		k.Output.Layers, k.Output.PNG, k.Output.Depth, k.Output.Compression = "each", "none", "float", "zips"
	})
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); err != nil {
		t.Fatal(err)
	}
	want := map[string]string{"beauty": "R", "light.Key_panel": "R", "occlusion": "Y", "depth": "Z"}
	if len(m.Files) != len(want) {
		t.Fatalf("%d files", len(m.Files))
	}
	for _, file := range m.Files {
		data, _ := os.ReadFile(filepath.Join(dir, file.Path))
		e, err := imageio.ReadEXR(data, imageio.DefaultLimits)
		if err != nil || e.Channel(want[file.Passes[0]]) == nil || e.Compression != imageio.ZIPS || e.Channels[0].Type != imageio.Float {
			t.Errorf("%s: %v", file.Path, err)
		}
	}
}

// Parts are named for their passes; light is in the primaries asked for, data is
// left as it is.
func TestPartsInACEScg(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "delivery")
	f, list, m := picture(func(k *ticket.Ticket) {
		k.Output.Layers, k.Output.PNG, k.Output.Depth, k.Output.Compression, k.Output.Primaries = "multipart", "none", "float", "piz", "acescg"
	})
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); err != nil {
		t.Fatal(err)
	}
	if len(m.Files) != 1 || !strings.Contains(m.ColourSpace, "AP1") {
		t.Fatalf("%d files, %s", len(m.Files), m.ColourSpace)
	}
	data, err := os.ReadFile(filepath.Join(dir, m.Files[0].Path))
	if err != nil {
		t.Fatal(err)
	}
	got, err := imageio.ReadEXRParts(data, imageio.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	to, _ := colour.Between(colour.Rec709, colour.AP1)
	for i, e := range got {
		p := &list[i]
		if e.Name != p.Key || e.Compression != imageio.PIZ || !p.Data() && e.Chromaticities != colour.AP1 {
			t.Errorf("part %d: %q, compression %d, %v", i, e.Name, e.Compression, e.Chromaticities)
		}
		planes := p.Planes(passes.Of(f), f.Window)
		if p.Data() {
			if e.Channels[0].Data[7] != planes[0][7] {
				t.Errorf("%s was changed", p.Key)
			}
			continue
		}
		want := to.Apply(geom.V(planes[0][7], planes[1][7], planes[2][7]))
		if r, b := e.Channel("R").Data[7], e.Channel("B").Data[7]; r != want.X || b != want.Z {
			t.Errorf("%s: %v %v, want %v", p.Key, r, b, want)
		}
	}
	if len(got) != len(list) {
		t.Errorf("%d parts for %d passes", len(got), len(list))
	}
}

func TestWholeOrAbsentAndNeverOver(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "delivery")
	f, list, m := picture(func(*ticket.Ticket) {})
	// What an earlier process left half written is no obstacle.
	if err := os.MkdirAll(filepath.Join(filepath.Dir(dir), whole.Making+"1/old"), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); err != nil {
		t.Fatal(err)
	}
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); !errors.Is(err, whole.ErrExists) {
		t.Errorf("written over: %v", err)
	}
	f, list, m = picture(func(k *ticket.Ticket) { k.Output.Name = "same" })
	other := filepath.Join(t.TempDir(), "other")
	if err := Write(t.Context(), other, Still(Frame{}, passes.Of(f), list), words, m); err == nil || !strings.Contains(err.Error(), "{pass}") {
		t.Errorf("colliding names: %v", err)
	}
	if _, err := os.Stat(other); !os.IsNotExist(err) {
		t.Error("a refused delivery left something")
	}
}

// Many who deliver into one place at once: one delivery is there, whole, and all
// others are told.
func TestManyDeliverAtOnce(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "1")
	var wg sync.WaitGroup
	var written atomic.Int64
	for range 8 {
		wg.Go(func() {
			f, list, m := picture(func(k *ticket.Ticket) { k.Output.Layers, k.Output.PNG = "each", "8" })
			switch err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); {
			case err == nil:
				written.Add(1)
			case !errors.Is(err, whole.ErrExists):
				t.Error(err)
			}
		})
	}
	wg.Wait()
	m, err := Read(dir)
	if err != nil || written.Load() != 1 || len(m.Files) != 8 {
		t.Fatalf("%d were written, %d files, %v", written.Load(), len(m.Files), err)
	}
	for _, f := range m.Files {
		b, err := os.ReadFile(filepath.Join(dir, f.Path))
		if sum := sha256.Sum256(b); err != nil || hex.EncodeToString(sum[:]) != f.SHA256 {
			t.Errorf("%s: %v", f.Path, err)
		}
	}
	left, err := os.ReadDir(filepath.Dir(dir))
	if err != nil || len(left) != 1 {
		t.Errorf("%d entries beside it, %v", len(left)-1, err)
	}
}

func TestADeliveryThatIsGivenUpLeavesNothing(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "1")
	f, list, m := picture(func(*ticket.Ticket) {})
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if err := Write(ctx, dir, Still(Frame{}, passes.Of(f), list), words, m); !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
	if left, _ := os.ReadDir(filepath.Dir(dir)); len(left) != 0 {
		t.Errorf("%d entries are left", len(left))
	}
}

// Values beyond the largest half are written as that, and counted; floats keep them.
func TestValuesBeyondAHalfAreLimitedAndTold(t *testing.T) {
	for depth, want := range map[string]int{"half": 4, "float": 0} {
		dir := filepath.Join(t.TempDir(), "1")
		f, list, m := picture(func(k *ticket.Ticket) { k.Output.PNG, k.Output.Depth = "none", depth })
		px := f.Tiles[0].Pixel(7)
		copy(px[film.Beauty:], []float32{1e6, -1e6, 1})
		at, _ := f.Layout.Place(film.ElementName(0))
		copy(px[at:], []float32{1e6, 1e5, 65504})
		if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); err != nil {
			t.Fatal(err)
		}
		if m.Files[0].Limited != want {
			t.Errorf("%s: %d values were limited, want %d", depth, m.Files[0].Limited, want)
		}
		b, err := os.ReadFile(filepath.Join(dir, m.Files[0].Path))
		if err != nil {
			t.Fatal(err)
		}
		e, err := imageio.ReadEXR(b, imageio.DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range e.Channels {
			for _, v := range c.Data {
				if math.IsInf(float64(v), 0) {
					t.Fatalf("%s: channel %s holds an infinity", depth, c.Name)
				}
			}
		}
	}
}

// Before a second sample nothing tells the noise: the manifest says so.
func TestNoiseBeforeItCanBeTold(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "1")
	f, list, m := picture(func(*ticket.Ticket) {})
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Of(f), list), words, m); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(filepath.Join(dir, ticket.ManifestName))
	if err != nil || !strings.Contains(string(b), `"noisePercent": null`) {
		t.Errorf("%v: %s", err, b)
	}
}

// The attribute view means stereo in this format, and data has no primaries.
func TestHeadersSayWhatIsTrue(t *testing.T) {
	f, list, m := picture(func(k *ticket.Ticket) { k.Output.Layers, k.View.Name = "multipart", "Hero" })
	var all []*passes.Pass
	for i := range list {
		all = append(all, &list[i])
	}
	for i, p := range parts(passes.Of(f), all, &m.Resolved.Ticket, m) {
		if _, ok := p.Text["view"]; ok || p.Text["proofView"] != "Hero" {
			t.Errorf("%s: texts %v", p.Name, p.Text)
		}
		if has := p.Chromaticities != (colour.Primaries{}); has == list[i].Data() {
			t.Errorf("%s: primaries stated %v", p.Name, has)
		}
	}
}

// A ticket that asks for less of the frame than the film has gets a crop of it, at
// its place in the frame; one that asks for more gets nothing.
func TestACropOfAFilm(t *testing.T) {
	f, list, m := picture(func(k *ticket.Ticket) { k.Output.PNG, k.Output.Depth = "8", "float" })
	for k := range f.Tiles {
		for i := range f.Tiles[k].Heads {
			f.Tiles[k].Pixel(i)[film.Beauty] = float32(100*k + i)
		}
	}
	root := t.TempDir()
	m.Resolved.Ticket.View.Region = ticket.Region{On: true, X: 50, Y: 50, Width: 12.5, Height: 25}
	want := image.Rect(32, 24, 40, 36)
	if err := Write(t.Context(), filepath.Join(root, "1"), Still(Frame{}, passes.Of(f), list), words, m); err != nil {
		t.Fatal(err)
	}
	for _, file := range m.Files {
		raw, err := os.ReadFile(filepath.Join(root, "1", file.Path))
		if err != nil {
			t.Fatal(err)
		}
		if file.Format == "png" {
			if c, err := png.DecodeConfig(bytes.NewReader(raw)); err != nil || c.Width != want.Dx() || c.Height != want.Dy() {
				t.Errorf("%s is %d x %d: %v", file.Path, c.Width, c.Height, err)
			}
			continue
		}
		e, err := imageio.ReadEXR(raw, imageio.DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		if e.Window != want || e.Display != image.Rect(0, 0, 64, 48) {
			t.Fatalf("the crop lies at %v of %v", e.Window, e.Display)
		}
		for k, v := range e.Channel("R").Data {
			x, y := want.Min.X+k%want.Dx(), want.Min.Y+k/want.Dx()
			if s, i := f.At(x, y); v != s.Pixel(i)[film.Beauty] {
				t.Fatalf("pixel %d, %d is %v, the film has %v", x, y, v, s.Pixel(i)[film.Beauty])
			}
		}
	}
	m.Resolved.Ticket.View.Region = ticket.Region{}
	if err := Write(t.Context(), filepath.Join(root, "2"), Still(Frame{}, passes.Of(f), list), words, m); err == nil {
		t.Error("more than the film has is delivered")
	}
	if left, _ := os.ReadDir(root); len(left) != 1 {
		t.Errorf("%d entries are left", len(left))
	}
}

// A manifest written before a setting was there says what was so then, and no difference.
func TestManifestsOfBefore(t *testing.T) {
	dir := t.TempDir()
	old := `{"fingerprint":"f","resolved":{"scene":{"name":"s"},"ticket":{"version":1,"quality":{"denoise":{"on":true,"amount":50}}}}}`
	if err := os.WriteFile(filepath.Join(dir, ticket.ManifestName), []byte(old), 0o600); err != nil {
		t.Fatal(err)
	}
	m, err := Read(dir)
	if d := m.Resolved.Ticket.Quality.Denoise; err != nil || m.Fingerprint != "f" || m.Resolved.Scene.Name != "s" ||
		d != (ticket.Denoise{On: true, Take: "noise", Amount: 50}) {
		t.Errorf("%+v, %v", m, err)
	}
	run, err := ticket.RestoreResolved([]byte(`{"scene":{"name":"s"},"ticket":{"version":1,"quality":{"denoise":{"on":true,"amount":50}}}}`))
	if diff := ticket.Differences(&run, &m.Resolved); err != nil || len(diff) > 0 {
		t.Errorf("differs from its run by %v, %v", diff, err)
	}
	if err := os.WriteFile(filepath.Join(dir, ticket.ManifestName), []byte(`{"fingerprint":"f"`), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Read(dir); err == nil {
		t.Error("half a manifest is read")
	}
}

// A crop is a file whose pixels are those of the whole picture where it lies.
func TestCropsAreCutOut(t *testing.T) {
	f, list, m := picture(func(t *ticket.Ticket) {
		t.View.Region.On = false
		t.Output.Crops = []ticket.Crop{{Name: "Post", Wide: 1, High: 1, Size: 50, X: 100, Y: 25}}
	})
	for y := range 48 {
		for x := range 64 {
			s, i := f.At(x, y)
			copy(s.Pixel(i)[film.Beauty:], []float32{float32(x) / 64, float32(y) / 48, 0.5})
		}
	}
	dir := filepath.Join(t.TempDir(), "out")
	if err := Write(t.Context(), dir, Still(Frame{}, passes.Films{Film: f}, list), words, m); err != nil {
		t.Fatal(err)
	}
	read := func(crop string) (img image.Image) {
		for _, p := range m.Files {
			if p.Format == "png" && p.Passes[0] == "beauty" && p.Crop == crop {
				b, err := os.ReadFile(filepath.Join(dir, p.Path))
				if err != nil {
					t.Fatal(err)
				}
				if img, err = png.Decode(bytes.NewReader(b)); err != nil {
					t.Fatal(err)
				}
				return img
			}
		}
		t.Fatalf("no file of the crop %q in %+v", crop, m.Files)
		return nil
	}
	whole, cut := read(""), read("Post")
	at := image.Rect(40, 6, 64, 30)
	if cut.Bounds().Size() != at.Size() || whole.Bounds().Size() != image.Pt(64, 48) {
		t.Fatalf("the crop is %v of %v", cut.Bounds(), whole.Bounds())
	}
	for y := range at.Dy() {
		for x := range at.Dx() {
			if cut.At(x, y) != whole.At(at.Min.X+x, at.Min.Y+y) {
				t.Fatalf("pixel %d, %d is %v, of the whole %v", x, y, cut.At(x, y), whole.At(at.Min.X+x, at.Min.Y+y))
			}
		}
	}
}

// What an earlier version delivered is read as a still of one frame.
func TestManifestOfAStillByAnEarlierVersion(t *testing.T) {
	dir := t.TempDir()
	old := `{"renderer": 9, "fingerprint": "ab", "filmSamples": "cd", "frame": 0, "seconds": 12,
		"samplesPerPixel": 64, "savedShare": 0.25, "noisePercent": 2.5, "complete": true, "files": []}`
	if err := os.WriteFile(filepath.Join(dir, ticket.ManifestName), []byte(old), 0o600); err != nil {
		t.Fatal(err)
	}
	m, err := Read(dir)
	if err != nil || len(m.Frames) != 1 {
		t.Fatalf("%+v %v", m, err)
	}
	if f := m.Frames[0]; f.Sums != "cd" || f.Samples != 64 || f.Noise == nil || *f.Noise != 2.5 || !f.Complete || f.Seconds != 12 {
		t.Errorf("its frame is %+v", f)
	}
	if got := m.Saved(); math.Abs(got-0.25) > 1e-12 {
		t.Errorf("it has saved %g", got)
	}
	if !m.Same(&Manifest{Renderer: 9, Fingerprint: "ab", Frames: []Frame{{Sums: "cd"}}}) ||
		m.Same(&Manifest{Renderer: 9, Fingerprint: "ab", Frames: []Frame{{Sums: "ce"}}}) {
		t.Error("it is not told apart by its samples")
	}
}
