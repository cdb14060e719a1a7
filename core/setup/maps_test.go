package setup

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// pictured is a scene with a finish, a part without places in pictures, and pictures to be
// found by name.
func pictured(pictures map[string]scene.Image) *scene.Scene {
	s := joined()
	for i := range s.Parts {
		s.Parts[i].Finish = 0
	}
	s.Pictures = func(name, _ string) (*scene.Image, error) {
		if img, ok := pictures[name]; ok {
			return &img, nil
		}
		return nil, errors.New("gone")
	}
	return s
}

// even is a picture of one colour.
func even(w, h int, r, g, b byte) scene.Image {
	return painted(context.Background(), w, h, func(_, _ int, px []byte) { px[0], px[1], px[2], px[3] = r, g, b, 255 })
}

func TestMapsAreWorn(t *testing.T) {
	s := pictured(map[string]scene.Image{"red": even(4, 2, 200, 10, 10), "grey": even(2, 2, 128, 128, 128), "dark": even(8, 8, 51, 51, 51)})
	m := func(name string, strength float64) *Map {
		out := NewMap(Drawn{Name: name})
		out.Strength, out.Tiling, out.Turn, out.Set = strength, 2, 90, 1
		return &out
	}
	u := Setup{Finishes: []Finish{{Name: "Grey", BaseMap: m("red", 50), RoughMap: m("grey", 100), MetalMap: m("dark", 50), NormalMap: m("grey", 250)},
		{Name: "Red", MetalMap: m("dark", 100), GlowMap: m("red", 100)}}}
	v := apply(t, u, s)
	f := v.Finishes[0]
	px := func(tex *scene.Texture) []byte { return v.Images[tex.Image].Pix[:4] }
	// Halfway from 0.578, linear, to white is 0.789, which is 229 as sRGB.
	if got := px(&f.BaseTexture); math.Abs(float64(got[0])-229) > 1 {
		t.Errorf("half red is %v", got)
	}
	if got := px(&f.MetalRoughTexture); got[1] != 128 || got[2] != 153 || v.Images[f.MetalRoughTexture.Image].W != 8 {
		t.Errorf("roughness and metal are %v", got)
	}
	if got := px(&v.Finishes[1].MetalRoughTexture); got[1] != 255 || got[2] != 51 {
		t.Errorf("metal alone is %v", got)
	}
	if f.NormalScale != 2.5 || f.BaseTexture.Set != 1 || v.Finishes[1].EmissionTexture.Image < 0 {
		t.Errorf("finish %+v", f)
	}
	if x := f.BaseTexture.Transform; math.Abs(float64(x[1])-2) > 1e-6 || math.Abs(float64(x[3])+2) > 1e-6 || math.Abs(float64(x[0])) > 1e-6 {
		t.Errorf("placed at %v", x)
	}
	// Laid over again it is the same memory.
	if w := apply(t, u, s); &w.Images[f.BaseTexture.Image].Pix[0] != &v.Images[f.BaseTexture.Image].Pix[0] || len(w.Images) != len(v.Images) {
		t.Error("the pictures were made again")
	}
	doc, _ := json.Marshal(u)
	back, err := Decode(doc)
	if err != nil || *back.Finishes[0].RoughMap != *u.Finishes[0].RoughMap {
		t.Errorf("read again: %+v, %v", back.Finishes, err)
	}
	lost := Setup{Finishes: []Finish{{Name: "Grey", BaseMap: m("nothing", 100)}}}
	if w, l := applied(t, &lost, s); len(l) != 1 || w.Finishes[0].BaseTexture.Image >= 0 {
		t.Errorf("a picture that is not there: %+v", l)
	}
}

// Heights become the slopes that they have: on a ramp of so many steps a pixel, and at
// once the other way; level ground stays level.
func TestHeights(t *testing.T) {
	const w = 64
	ramp := painted(context.Background(), w, w, func(x, y int, px []byte) {
		v := byte(2*x + y)
		px[0], px[1], px[2] = v, v, v
	})
	n := slopes(context.Background(), &ramp, 500)
	px := n.Pix[4*(20*w+20):]
	got := geom.V(float32(px[0])-128, float32(px[1])-128, float32(px[2])-128).Unit()
	// Five hundredths of the width for white: so many widths up in a width.
	across, down := 2.0/255*0.05*w, 1.0/255*0.05*w
	want := geom.V(float32(-across), float32(down), 1).Unit()
	if got.Sub(want).Len() > 0.015 {
		t.Errorf("normal %v, want %v", got, want)
	}
	level := even(8, 8, 90, 90, 90)
	for i, b := range slopes(context.Background(), &level, 1000).Pix {
		if want := [4]byte{128, 128, 255, 255}[i%4]; b != want {
			t.Fatalf("level ground has %d in channel %d", b, i%4)
		}
	}
}

// A mesh without places in pictures is wrapped at the same size in the world, whatever its
// own unit; one that has them keeps them.
func TestWrapping(t *testing.T) {
	s := pictured(map[string]scene.Image{"red": even(2, 2, 200, 10, 10)})
	s.Objects[1].World = geom.Affine{3, 0, 0, 0, 0, 3, 0, 0, 0, 0, 3, 0}
	m := NewMap(Drawn{Name: "red"})
	u := Setup{Finishes: []Finish{{Name: "Grey", BaseMap: &m}}}
	v := apply(t, u, s)
	for i := range v.Parts {
		mesh, world := &v.Meshes[v.Parts[i].Mesh], v.World(i)
		if len(mesh.UV[0]) != len(mesh.Positions) || len(mesh.Indices) != len(s.Meshes[s.Parts[i].Mesh].Indices) {
			t.Fatalf("part %d has %d places for %d corners", i, len(mesh.UV[0]), len(mesh.Positions))
		}
		for k := 0; k < len(mesh.Indices); k += 3 {
			a, b := mesh.Indices[k], mesh.Indices[k+1]
			along := world.Point(mesh.Positions[a]).Sub(world.Point(mesh.Positions[b])).Len() * 10 // in pictures
			du, dv := mesh.UV[0][a][0]-mesh.UV[0][b][0], mesh.UV[0][a][1]-mesh.UV[0][b][1]
			if got := float32(math.Hypot(float64(du), float64(dv))); math.Abs(float64(got-along)) > 1e-4 {
				t.Fatalf("part %d: an edge of %g pictures has %g", i, along, got)
			}
		}
	}
	has := s.Meshes[1]
	has.UV[0] = make([][2]float32, len(has.Positions))
	s.Meshes[1] = has
	if w := apply(t, u, s); w.Parts[1].Mesh != 1 {
		t.Error("places of the file were replaced")
	}
}

// Two pictures that are long in different directions do not make one of both lengths.
func TestPackedPicturesAreNoLargerThanTheirSources(t *testing.T) {
	strip := func(w, h int) *scene.Image { return &scene.Image{W: w, H: h, Pix: make([]byte, 4*w*h)} }
	for _, c := range []struct{ a, b, want *scene.Image }{
		{strip(1, 16384), strip(16384, 1), strip(1, 16384)},
		{strip(64, 32), strip(32, 64), strip(64, 64)},
		{strip(256, 256), nil, strip(256, 256)},
	} {
		got := inChannels(context.Background(), []*scene.Image{c.a, c.b}, &Map{Strength: 100}, &Map{Strength: 100})
		if got.W != c.want.W || got.H != c.want.H || len(got.Pix) != len(c.want.Pix) {
			t.Errorf("%d x %d, want %d x %d", got.W, got.H, c.want.W, c.want.H)
		}
	}
}
