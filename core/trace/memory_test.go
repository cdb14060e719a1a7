package trace

import (
	"context"
	"image"
	"runtime"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
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

// The memory told beforehand is never less than what is really taken, nor
// half as much again: every allocation is counted while a scene is prepared.
func TestForecastOfMemoryHolds(t *testing.T) {
	b := newBench(512, 512)
	b.opt.Layout = film.Layout{AO: true, Normal: true, Depth: true, Cover: true}
	b.opt.Apart = true
	b.part("sheet", sheet(500), b.finish(matte(0.5)))
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
	t.Logf("told %d MB, taken %d MB in all", told>>20, taken>>20)
	if taken > told {
		t.Errorf("%d bytes were taken, more than the %d told", taken, told)
	}
	if told > taken*3/2 {
		t.Errorf("%d bytes were told, far more than the %d taken", told, taken)
	}
	if per := w.solid.Bytes() / (2 * 500 * 500); per > 70 {
		t.Errorf("%d bytes a triangle in the hierarchy", per)
	}
	runtime.KeepAlive(f)
}

// Five million triangles and a 4K frame with twenty passes are told to fit in
// far less than 12 GB; the hierarchy is forecast at its worst case.
func TestALargeSceneFits(t *testing.T) {
	m := scene.Mesh{Positions: make([]geom.Vec3, 2_500_000), Indices: make([]uint32, 15_000_000)}
	s := &scene.Scene{Meshes: []scene.Mesh{m}, Parts: []scene.Part{{}}, Objects: make([]scene.Object, 1), Finishes: []scene.Finish{matte(1)}}
	o := Options{Window: image.Rect(0, 0, 3840, 2160), Finishes: s.Finishes, Wears: []int{0}}
	o.Layout = film.Layout{AO: true, Normal: true, Depth: true, Cover: true, Elements: 14}
	if got := Forecast(s, &o); got > 6<<30 {
		t.Errorf("%d MB", got>>20)
	}
	if per := o.Layout.BytesPerPixel(); per > 256 {
		t.Errorf("%d bytes a pixel for eighteen passes", per)
	}
}
