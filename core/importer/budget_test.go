package importer

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"runtime"
	"strings"
	"testing"
)

// peak runs f and returns how many bytes it allocated in all.
func peak(f func()) uint64 {
	var a, b runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&a)
	f()
	runtime.ReadMemStats(&b)
	return b.TotalAlloc - a.TotalAlloc
}

// refusedWithin asserts that files are refused before so many bytes were allocated.
func refusedWithin(t *testing.T, b Bundle, most uint64) {
	t.Helper()
	var err error
	if n := peak(func() { _, err = Import(context.Background(), b, DefaultLimits) }); n > most {
		t.Errorf("%d MB were allocated", n>>20)
	}
	if !errors.Is(err, ErrRefused) {
		t.Errorf("got %v", err)
	}
}

// archive packs one OBJ file: so many times the same.
func archive(t *testing.T, piece []byte, times int) []byte {
	t.Helper()
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	f, err := w.Create("a.obj")
	for range times {
		if err == nil {
			_, err = f.Write(piece)
		}
	}
	if err := errors.Join(err, w.Close()); err != nil {
		t.Fatal(err)
	}
	return z.Bytes()
}

// Three hundred sets of faces over one accessor that has no data: a few
// kilobytes that would be gigabytes.
func TestAnAccessorWithoutDataCannotGrow(t *testing.T) {
	doc, bin := square()
	const n = 3 << 20
	doc["accessors"] = []any{object{"componentType": 5126, "count": n, "type": "VEC3"}, object{"componentType": 5126, "count": n, "type": "VEC4"}}
	prims := []any{}
	for range 300 {
		prims = append(prims, object{"attributes": object{"POSITION": 0, "NORMAL": 0, "TANGENT": 1}})
	}
	at(doc, "meshes", 0)["primitives"] = prims
	b := Bundle{"a.glb": glb(doc, bin)}
	if b.size() > 40_000 {
		t.Fatalf("the file has %d bytes", b.size())
	}
	refusedWithin(t, b, 600<<20)
}

// Primitives that share their accessors share what was read of them.
func TestSharedAccessorsAreReadOnce(t *testing.T) {
	doc, bin := square()
	prims := []any{}
	for range 200 {
		prims = append(prims, at(doc, "meshes", 0)["primitives"].([]any)[0])
	}
	at(doc, "meshes", 0)["primitives"] = prims
	s, err := load(t, doc, bin)
	if err != nil || len(s.Parts) != 200 {
		t.Fatalf("%v", err)
	}
	if &s.Meshes[0].Indices[0] != &s.Meshes[199].Indices[0] {
		t.Error("the indices were read twice")
	}
}

func TestAPictureCannotGrow(t *testing.T) {
	if testing.Short() {
		t.Skip("measures memory, of which the race detector takes its share")
	}
	var b bytes.Buffer
	img := image.NewPaletted(image.Rect(0, 0, 16000, 16000), color.Palette{color.Black})
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	r := newReader(Bundle{"a.png": b.Bytes()}, DefaultLimits)
	n := peak(func() {
		if r.picture("flat", b.Bytes()) >= 0 {
			t.Error("it was taken")
		}
	})
	if n > 64<<20 || len(r.s.LeftOut) != 1 || !strings.Contains(r.s.LeftOut[0].What, "memory") {
		t.Errorf("%d MB, notes %v", n>>20, r.s.LeftOut)
	}
}

// An archive is refused by what its directory says, before it is unpacked, and
// by how much it would grow.
func TestAnArchiveCannotGrow(t *testing.T) {
	if testing.Short() {
		t.Skip("measures memory, of which the race detector takes its share")
	}
	z := archive(t, make([]byte, 1<<20), 1200)
	n := peak(func() {
		if err := (Bundle{}).AddZip(z, DefaultLimits); !errors.Is(err, ErrRefused) {
			t.Errorf("got %v", err)
		}
	})
	if n > 16<<20 {
		t.Errorf("%d MB were unpacked", n>>20)
	}
}

func TestManyLightsAreLeftOut(t *testing.T) {
	doc, bin := square()
	nodes := []any{}
	for i := range 6000 {
		nodes = append(nodes, object{"name": fmt.Sprint("lamp ", i), "extensions": object{"KHR_lights_punctual": object{"light": 0}}})
	}
	doc["extensions"] = object{"KHR_lights_punctual": object{"lights": []any{object{"type": "point"}}}}
	doc["nodes"] = append(doc["nodes"].([]any), nodes...)
	delete(doc, "scenes")
	delete(doc, "scene")
	s, err := load(t, doc, bin)
	if err != nil || len(s.Lights) != DefaultLimits.Lights || len(s.LeftOut) != 1 {
		t.Fatalf("%d lights, %v", len(s.Lights), err)
	}
}

func TestImportingStopsWhenAsked(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	doc, bin := square()
	for _, b := range []Bundle{{"a.glb": glb(doc, bin)}, {"a.obj": []byte(strings.Repeat("v 0 0 0\n", 5000))}} {
		if _, err := Import(ctx, b, DefaultLimits); !errors.Is(err, context.Canceled) {
			t.Errorf("got %v", err)
		}
	}
}

// Text that packs well is held against what came in, and not against what came out.
func TestPackedTextCannotGrow(t *testing.T) {
	if testing.Short() {
		t.Skip("measures memory, of which the race detector takes its share")
	}
	z := archive(t, bytes.Repeat([]byte("v 0 0 0\n"), 1<<20), 40)
	lim := DefaultLimits.Packed(int64(len(z)))
	b := Bundle{}
	if err := b.AddZip(z, lim); err != nil {
		t.Fatal(err) // 320 MB are within what any archive may hold
	}
	if _, err := Import(context.Background(), b, lim); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), "memory") {
		t.Errorf("got %v", err)
	}
}

// A document of nothing but empty objects.
func TestADocumentCannotGrow(t *testing.T) {
	doc := []byte(`{"asset":{"version":"2.0"},"nodes":[{}` + strings.Repeat(",{}", 4<<20) + `]}`)
	refusedWithin(t, Bundle{"a.gltf": doc}, 64<<20)
}

func TestTheListOfWhatIsLeftOutEnds(t *testing.T) {
	r := newReader(Bundle{}, DefaultLimits)
	for i := range 3 * mostNotes {
		r.note(fmt.Sprint("line ", i), "left out")
	}
	if n := len(r.s.LeftOut); n != mostNotes+1 || r.s.LeftOut[n-1].Where != "the file" {
		t.Errorf("%d notes, the last %v", n, r.s.LeftOut[n-1])
	}
}
