package setup

import (
	"encoding/json"
	"math"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// The axis that is said to point up does, wherever it pointed; measures grow by the
// factor, and a camera sees what it saw.
func TestAFileIsCorrected(t *testing.T) {
	for axis, dir := range map[string]geom.Vec3{"y": geom.V(0, 1, 0), "z": geom.V(0, 0, 1), "x": geom.V(1, 0, 0),
		"-x": geom.V(-1, 0, 0), "-y": geom.V(0, -1, 0), "-z": geom.V(0, 0, -1)} {
		s := lamp()
		s.Lights = []scene.Light{{Name: "Bulb", Object: 0, Kind: scene.PointLight, Intensity: 10, Radius: 0.01, Range: 5}}
		s.Cameras = []scene.Camera{{Name: "Flat", Object: 0, YMag: 0.2}}
		u := Setup{File: &File{Up: axis, Turn: 30, Size: 0.5}}
		v := apply(t, u, s)
		is := v.Objects[2].World.Origin()
		if got := v.Frame.Vector(dir); !near(got, geom.V(0, 0.5, 0)) {
			t.Errorf("%s points to %v", axis, got)
		}
		if v.Frame.Det() <= 0 || !near(is, v.Frame.Point(s.Objects[2].World.Origin())) {
			t.Errorf("%s: the frame is %v", axis, v.Frame)
		}
		if l := v.Lights[0]; l.Intensity != 2.5 || l.Radius != 0.005 || l.Range != 2.5 || v.Cameras[0].YMag != 0.1 {
			t.Errorf("%s: light %+v, camera %+v", axis, l, v.Cameras[0])
		}
		eye := geom.LookAt(geom.V(1, 2, 3), geom.V(0.2, 0.3, 0.1), geom.V(0, 1, 0))
		w, mag := u.File.Camera(eye, 0.2)
		for _, p := range []geom.Vec3{geom.V(0.1, 0.7, -0.2), geom.V(2, -1, 0)} {
			a, b := seenFrom(eye, p), seenFrom(w, v.Frame.Point(p))
			if !near(a.Scale(0.5), b) || mag != 0.1 {
				t.Errorf("%s: %v is seen at %v, was %v", axis, p, b, a)
			}
		}
		if back, mag := u.File.Uncorrected(w, mag); !near(back.Origin(), eye.Origin()) || !near(back.Axis(2), eye.Axis(2)) || math.Abs(float64(mag)-0.2) > 1e-6 {
			t.Errorf("%s: back again it is %v", axis, back)
		}
	}
}

// seenFrom is a point in a camera's own space.
func seenFrom(camera geom.Affine, p geom.Vec3) geom.Vec3 {
	back, _ := camera.Inverse()
	return back.Point(p)
}

// What moves of a file that was corrected moves in the file's own space.
func TestMotionsOfACorrectedFile(t *testing.T) {
	s := lamp()
	s.Motions = []scene.Motion{{Name: "rise", Moves: []scene.Move{{
		Object: 0, Rest: scene.Place{Turn: [4]float32{0, 0, 0, 1}, Scale: geom.Splat(1)},
		Shift: &scene.Curve{Times: []float32{0, 1}, Values: [][4]float32{{}, {0, 0, 2}}},
	}}}}
	v := apply(t, Setup{File: &File{Up: "z", Size: 0.1}}, s)
	from, to := v.At(0, 0), v.At(0, 1)
	for i := range s.Objects {
		if d := to.Objects[i].World.Origin().Sub(from.Objects[i].World.Origin()); !near(d, geom.V(0, 0.2, 0)) {
			t.Errorf("object %d goes %v", i, d)
		}
		if got := from.Objects[i].World.Origin(); !near(got, v.Frame.Point(s.At(0, 0).Objects[i].World.Origin())) {
			t.Errorf("object %d begins at %v", i, got)
		}
	}
}

// A fix that says which way is up now leads there from whatever was set before.
func TestCorrectingAgain(t *testing.T) {
	for axis := range upright {
		for up, m := range upright {
			u := Setup{File: &File{Up: axis, Turn: 0, Size: 2}}
			f := u.Corrected(up, 3)
			got, want := f.turned(), m.Mul(u.File.turned())
			if f.Size != 6 || !sameTurn(&got, &want) {
				t.Errorf("%s, then %s upwards: %+v", axis, up, f)
			}
		}
	}
}

// Names, groups and smoothing come with a part; keys stay those of the file.
func TestNamesAndGroups(t *testing.T) {
	s := lamp()
	keys := s.Keys()
	u := Setup{Parts: []Change{{Part: "Shade", Scale: 1, Name: "Screen", Group: "Glass"}, {Part: "Screw", Scale: 1, Name: "Shade", Smooth: 2}}}
	v := apply(t, u, s)
	for i, k := range v.Keys() {
		if k != keys[i] {
			t.Errorf("part %d has the key %q, was %q", i, k, keys[i])
		}
	}
	if got := v.Titles(); got[1] != "Screen" || got[2] != "Shade" || got[3] != "Screw" {
		t.Errorf("titles %q", got)
	}
	n := v.Names()
	for pattern, want := range map[string][]int{"Screen": {1}, "shade": {1, 2}, "glass": {1}, "gla??": {1}, "*crew*": {2, 3}} {
		for i := range v.Parts {
			is := false
			for _, k := range want {
				is = is || k == i
			}
			if n.Match(i, pattern) != is {
				t.Errorf("%q on part %d: %v", pattern, i, !is)
			}
		}
	}
	if a, b := v.Meshes[v.Parts[2].Mesh].Shaping.Levels, v.Meshes[v.Parts[3].Mesh].Shaping.Levels; a != 2 || b != 0 {
		t.Errorf("smoothed %d and %d times", a, b)
	}
	doc, _ := json.Marshal(u)
	if back, err := Decode(doc); err != nil || back.Of("Shade") != u.Of("Shade") {
		t.Errorf("read again: %+v, %v", back, err)
	}
}
