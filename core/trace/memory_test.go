package trace

import (
	"context"
	"errors"
	"image"
	"runtime"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// sheet is a hilly mesh of 2 n n triangles.
func sheet(n int) scene.Mesh {
	var m scene.Mesh
	for j := range n + 1 {
		for i := range n + 1 {
			m.Positions = append(m.Positions, geom.V(float32(i)/float32(n), float32(i*j%7)*0.001, float32(j)/float32(n)))
		}
	}
	row := uint32(n + 1)
	for j := range uint32(n) {
		for i := range uint32(n) {
			a := j*row + i
			m.Indices = append(m.Indices, a, a+row, a+1, a+1, a+row, a+row+1)
		}
	}
	return m
}

// withDrawing gives a mesh texture coordinates, which are refined with it.
func withDrawing(m scene.Mesh) scene.Mesh {
	for _, p := range m.Positions {
		m.UV[0] = append(m.UV[0], [2]float32{p.X, p.Z})
	}
	return m
}

// The memory told beforehand is never less than what is really taken, nor
// half as much again: every allocation is counted while a scene is prepared.
func TestForecastOfMemoryHolds(t *testing.T) {
	long(t)
	for _, levels := range []int{0, 2} {
		b := newBench(512, 512)
		b.want = []passes.Kind{passes.Light, passes.Occlusion, passes.Normal, passes.Depth}
		m := withDrawing(sheet(500 >> levels))
		m.Shaping = scene.Shaping{Levels: levels, Crease: 1}
		b.part("sheet", m, b.finish(matte(0.5)))
		for range 6 {
			b.light(scene.Light{Name: "lamp", Colour: geom.Splat(1), Intensity: 1}, geom.Translate(geom.V(0, 1, 0)))
		}
		b.camera(geom.V(0.5, 1, 2), geom.V(0.5, 0, 0.5), 0.7)
		b.opt.Finishes, b.opt.Wears = b.s.Finishes, []int{0}
		told := Forecast(&b.s, &b.opt)
		sceneBytes := int64(len(b.s.Meshes[0].Positions))*12 + int64(len(b.s.Meshes[0].Indices))*4 // there before

		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		w, err := Prepare(context.Background(), &b.s, b.opt)
		if err != nil {
			t.Fatal(err)
		}
		f := film.New(b.opt.Window, w.Options().Layout)
		runtime.ReadMemStats(&after)
		taken := int64(after.TotalAlloc-before.TotalAlloc) + sceneBytes // nothing can have been freed that was not first taken
		t.Logf("subdivided %d times: told %d MB, taken %d MB in all", levels, told>>20, taken>>20)
		if taken > told {
			t.Errorf("subdivided %d times: %d bytes were taken, more than the %d told", levels, taken, told)
		}
		if told > taken*3/2 {
			t.Errorf("subdivided %d times: %d bytes were told, far more than the %d taken", levels, told, taken)
		}
		if per := w.solid.flat.Bytes() / b.s.Meshes[0].Faces(); per > 70 {
			t.Errorf("%d bytes a triangle in the hierarchy", per)
		}
		runtime.KeepAlive(f)
	}
}

// A texel takes what is told of it: four bytes, and its smaller sizes, once as
// colour and once as numbers where it is used as both.
func TestForecastOfTexelsHolds(t *testing.T) {
	const n = 1024
	told, taken := [2]int64{}, [2]int64{}
	for k := range told {
		b := newBench(8, 8)
		f := matte(0.5)
		if k == 1 {
			f.BaseTexture = drawing(b, n, func(x, y int) [4]byte { return [4]byte{byte(x), byte(y), 9, 255} })
			f.MetalRoughTexture = f.BaseTexture
		}
		b.part("sheet", withDrawing(sheet(2)), b.finish(f))
		b.opt.Finishes, b.opt.Wears = b.s.Finishes, []int{0}
		told[k] = Forecast(&b.s, &b.opt)
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		if _, err := Prepare(context.Background(), &b.s, b.opt); err != nil {
			t.Fatal(err)
		}
		runtime.ReadMemStats(&after)
		taken[k] = int64(after.TotalAlloc - before.TotalAlloc)
	}
	more := float64(taken[1]-taken[0])/(n*n) + 4 // the picture was there before
	per := float64(told[1]-told[0]) / (n * n)
	t.Logf("told %.2f bytes a texel, taken %.2f", per, more)
	if more > per+0.05 || per > 1.2*more || per > 6.7 {
		t.Errorf("told %.2f bytes a texel, taken %.2f", per, more)
	}
}

// Shaping gives up when the picture is no longer wanted.
func TestSubdivisionIsCancelled(t *testing.T) {
	b := newBench(8, 8)
	m := sheet(4)
	m.Shaping = scene.Shaping{Levels: 2, Crease: 1}
	b.part("sheet", m, b.finish(matte(0.5)))
	b.opt.Finishes, b.opt.Wears = b.s.Finishes, []int{0}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := Prepare(ctx, &b.s, b.opt); !errors.Is(err, context.Canceled) {
		t.Errorf("it went on: %v", err)
	}
}

// Five million triangles and a 4K frame with twenty passes are told to fit in
// far less than 12 GB; the hierarchy is forecast at its worst case.
func TestALargeSceneFits(t *testing.T) {
	m := scene.Mesh{Positions: make([]geom.Vec3, 2_500_000), Indices: make([]uint32, 15_000_000)}
	s := &scene.Scene{Meshes: []scene.Mesh{m}, Parts: []scene.Part{{}}, Objects: make([]scene.Object, 1), Finishes: []scene.Finish{matte(1)}}
	o := Options{Window: image.Rect(0, 0, 3840, 2160), Finishes: s.Finishes, Wears: []int{0}}
	o.Layout = passes.Wanted{Kinds: []passes.Kind{passes.Light, passes.Occlusion, passes.Normal, passes.Depth}}.Needs(make([]string, 14))
	if got := Forecast(s, &o); got > 6<<30 {
		t.Errorf("%d MB", got>>20)
	}
	if per := o.Layout.BytesPerPixel(); per > 256 {
		t.Errorf("%d bytes a pixel for eighteen passes", per)
	}
}

// A mesh with many places is held once, and looks as if it were laid out flat.
func TestSharedMeshesLookAsIfLaidOut(t *testing.T) {
	long(t)
	build := func(n int) (*bench, int64) {
		b := newBench(48, 48)
		b.opt.Layout = film.NewLayout(true)
		f := b.finish(matte(0.6))
		b.part("floor", floor(4), f)
		m := ball(geom.Vec3{}, 0.3, n)
		m.Finish = f
		b.s.Meshes = append(b.s.Meshes, m)
		for i := range 5 {
			place := geom.Compose(geom.V(float32(i)*0.7-1.4, 0.4, 0), [4]float32{0, 0, 0, 1}, geom.V(1, 1+0.1*float32(i), -1))
			b.s.Objects = append(b.s.Objects, scene.Object{Name: "ball", Parent: -1, World: place})
			b.s.Parts = append(b.s.Parts, scene.Part{Name: "ball", Object: len(b.s.Objects) - 1, Mesh: len(b.s.Meshes) - 1, Finish: f})
		}
		b.part("panel", quad(geom.V(-1, 3, 0), geom.V(2, 0, 0), geom.V(0, 0, 1)), b.finish(glow(6)))
		b.camera(geom.V(0, 1, 4), geom.V(0, 0.4, 0), 0.6)
		b.opt.Finishes, b.opt.Wears = b.s.Finishes, nil
		for _, p := range b.s.Parts {
			b.opt.Wears = append(b.opt.Wears, p.Finish)
		}
		return b, Forecast(&b.s, &b.opt)
	}
	few, _ := build(40) // 6400 triangles each: laid out
	many, told := build(120)
	w := many.world(t)
	if w.solid.shared.Empty() || !few.world(t).solid.shared.Empty() {
		t.Fatal("the large meshes should be shared, the small ones laid out")
	}
	if flat := int64(many.s.Triangles()) * 400; told > flat/2 || w.Bytes() > told {
		t.Errorf("told %d bytes, %d held; laid out it would be about %d", told, w.Bytes(), flat)
	}
	a, b := few.render(t, 64), many.render(t, 64)
	ma, ba := meanOf(a, film.Beauty)
	mb, bb := meanOf(b, film.Beauty)
	expect(t, "mean of shared balls against balls laid out", mb, ma, ba*0.05+bb*0.05+2e-3)
	for y := 4; y < 48; y += 8 {
		for x := 4; x < 48; x += 4 {
			sa, ia := a.At(x, y)
			sb, ib := b.At(x, y)
			for part := range uint32(len(few.s.Parts)) {
				is := func(p uint32) bool { return p == part }
				if ca, cb := sa.CoverOf(ia, is), sb.CoverOf(ib, is); geom.Abs(ca-cb) > 0.2*64 {
					t.Errorf("part %d covers %v of pixel %d, %d laid out, %v shared", part, ca, x, y, cb)
				}
			}
		}
	}
}
