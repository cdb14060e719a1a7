package preflight_test

import (
	"math"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/preflight"
	"amberproof/core/scene"
)

// front looks at the origin from a distance, metres.
func front(distance float32) scene.View {
	return scene.View{Name: "front", Aspect: 1, Camera: geom.LookAt(geom.V(0, 0, distance), geom.Vec3{}, geom.V(0, 1, 0)), YFov: 0.3}
}

// picture is an image of one tone.
func picture(w, h int) scene.Image {
	return scene.Image{Name: "label", W: w, H: h, Pix: make([]byte, 4*w*h)}
}

// board is an upright square that shows an image once, of a side in metres.
func (s *set) board(side float32, f scene.Finish) {
	h := side / 2
	m := scene.Mesh{
		Positions: []geom.Vec3{geom.V(-h, -h, 0), geom.V(h, -h, 0), geom.V(h, h, 0), geom.V(-h, h, 0)},
		Indices:   []uint32{0, 1, 2, 0, 2, 3},
	}
	m.UV[0] = [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}}
	s.put("board", m, geom.Vec3{}, s.finish(f), -1)
}

// wears is a finish with an image as its colour.
func wears(image int) scene.Finish {
	f := scene.NewFinish("printed")
	f.BaseTexture.Image = image
	return f
}

// only are the findings of a check; anything else that was found fails the test.
func only(t *testing.T, s *set, check preflight.Check, lines int) []preflight.Finding {
	t.Helper()
	of := s.subject()
	of.Lines = lines
	got, err := preflight.Run(t.Context(), of, nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range got {
		if f.Check != check {
			t.Errorf("%s: %s", f.Check, f.Says)
		}
	}
	return got
}

// A picture that fills the frame has as many texels a pixel as it has texels to lines,
// however often it is repeated and however the camera is.
func TestTexels(t *testing.T) {
	for _, c := range []struct {
		texels, repeats int
		far             float32 // times as far as where it fills the frame
		found           bool
		value           float64
	}{
		{texels: 1000, repeats: 1, far: 1},
		{texels: 250, repeats: 1, far: 1, found: true, value: 0.25},
		{texels: 250, repeats: 4, far: 1},
		{texels: 250, repeats: 1, far: 3},
	} {
		s := plain()
		s.Images = []scene.Image{picture(c.texels, c.texels)}
		f := wears(0)
		f.BaseTexture.Transform[0], f.BaseTexture.Transform[4] = float32(c.repeats), float32(c.repeats)
		s.board(0.2, f)
		v := front(float32(0.1/math.Tan(0.15)) * c.far)
		flat := v
		flat.YFov, flat.YMag = 0, 0.1*c.far
		for _, v := range []scene.View{v, flat} {
			s.views = []scene.View{v}
			got := only(t, s, preflight.Coarse, 1000)
			if len(got) > 0 != c.found || c.found && math.Abs(got[0].Value-c.value) > 0.005 {
				t.Errorf("%+v: %+v", c, got)
			}
		}
	}
}

// A large picture is told of only where no view shows it fine.
func TestVastPictures(t *testing.T) {
	s := plain()
	s.Images = []scene.Image{picture(2048, 2048)}
	s.board(0.2, wears(0))
	away := float32(0.1 / math.Tan(0.15))
	s.views = []scene.View{front(away * 3)}
	got := only(t, s, preflight.Vast, 500)
	if len(got) != 1 || math.Abs(got[0].Value-16.777) > 0.01 {
		t.Errorf("found %+v", got)
	}
	s.views = append(s.views, front(away/2))
	if got := only(t, s, preflight.Vast, 500); len(got) > 0 {
		t.Errorf("one view comes near, and it was found: %+v", got)
	}
}

// reliefMap is the normal map of a hilly ground, periodic, encoded by a function.
func reliefMap(greenUp bool, encode func(x float64) byte) scene.Image {
	const n = 128
	img := picture(n, n)
	for y := range n {
		for x := range n {
			u, v := 2*math.Pi*float64(x)/n, 2*math.Pi*float64(y)/n
			// The slopes of sin(3u+2v) + sin(2u-5v) + sin(u)cos(4v), going right and going down.
			right := 0.12 * (3*math.Cos(3*u+2*v) + 2*math.Cos(2*u-5*v) + math.Cos(u)*math.Cos(4*v))
			down := 0.12 * (2*math.Cos(3*u+2*v) - 5*math.Cos(2*u-5*v) - 4*math.Sin(u)*math.Sin(4*v))
			green := down // green up: the slope going up is the other way, and the normal leans from it
			if !greenUp {
				green = -green
			}
			l := math.Sqrt(1 + right*right + green*green)
			for k, c := range []float64{-right / l, green / l, 1 / l} {
				img.Pix[4*(y*n+x)+k] = encode(c/2 + 0.5)
			}
		}
	}
	return img
}

func asData(x float64) byte { return byte(x*255 + 0.5) }

func TestNormalMaps(t *testing.T) {
	asColours := func(x float64) byte { return byte(colour.EncodeSRGB(float32(x))*255 + 0.5) }
	for _, c := range []struct {
		name  string
		image scene.Image
		down  bool // the finish has its green pointing down
		want  preflight.Check
	}{
		{"green up", reliefMap(true, asData), false, ""},
		{"green down, read so", reliefMap(false, asData), true, ""},
		{"green down", reliefMap(false, asData), false, preflight.Green},
		{"green up, read as down", reliefMap(true, asData), true, preflight.Green},
		{"saved as colours", reliefMap(true, asColours), false, preflight.Encoded},
		{"flat", func() scene.Image {
			img := picture(64, 64)
			for i := 0; i < len(img.Pix); i += 4 {
				copy(img.Pix[i:], []byte{128, 128, 255, 255})
			}
			return img
		}(), false, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := plain()
			s.Images = []scene.Image{c.image}
			f := scene.NewFinish("hills")
			f.NormalTexture.Image, f.GreenDown = 0, c.down
			s.board(0.2, f)
			got := only(t, s, c.want, 100)
			if (c.want == "") != (len(got) == 0) {
				t.Fatalf("found %+v", got)
			}
			if c.want == preflight.Green && (got[0].Fix == nil || got[0].Fix.Green[0] != 1 || got[0].Value < 95) {
				t.Errorf("found %+v", got)
			}
		})
	}
}

// An outline lies beside its arc by what the geometry of circles says, and is told from
// near only; smoothed as the fix says it is gone. What has edges is not told of.
func TestFacets(t *testing.T) {
	s := plain()
	s.put("ball", ball(0.05), geom.Vec3{}, 0, -1)
	away := float32(0.06 / math.Tan(0.15))
	s.views = []scene.View{front(away)}
	got := only(t, s, preflight.Facets, 1600)
	if len(got) != 1 {
		t.Fatalf("found %+v", got)
	}
	// Seen are the 24 edges of a meridian: 7.5 degrees each.
	arc := 0.05 * (1 - math.Cos(math.Pi/48)) * 1600 / 0.12
	if f := got[0]; math.Abs(f.Value/arc-1) > 0.1 || f.Fix == nil || f.Fix.Smooth < 1 {
		t.Errorf("found %g px, the arc lies %g px beside: %+v", f.Value, arc, f)
	}
	s.Meshes[0].Shaping = scene.Shaping{Levels: got[0].Fix.Smooth, Crease: 0.7}
	if got := only(t, s, preflight.Facets, 1600); len(got) > 0 {
		t.Errorf("smoothed, and found again: %+v", got)
	}
	s.Meshes[0].Shaping = scene.Shaping{}
	if got := only(t, s, preflight.Facets, 150); len(got) > 0 {
		t.Errorf("in a small picture: %+v", got)
	}
	// Behind a wall nobody sees it.
	s.put("wall", cuboid(0.3, 0.3, 0.01), geom.V(0, 0, 0.2), 0, -1)
	if got := only(t, s, preflight.Facets, 1600); len(got) > 0 {
		t.Errorf("behind a wall: %+v", got)
	}
	box := plain()
	box.put("box", cuboid(0.1, 0.1, 0.1), geom.Vec3{}, 0, -1)
	box.views = []scene.View{front(0.4)}
	only(t, box, "", 16000)
}

// A straight wall between small roundings stands for nothing round, however smooth its
// normals are; the same wall with as few edges around is told.
func TestWallsAreNoFacets(t *testing.T) {
	can := func(around int) scene.Mesh {
		m := scene.Mesh{}
		profile := [][2]float32{{0, -0.1}, {0.0495, -0.1}, {0.05, -0.0995}, {0.05, 0.0995}, {0.0495, 0.1}, {0, 0.1}}
		for _, p := range profile {
			for k := range around {
				sin, cos := math.Sincos(2 * math.Pi * float64(k) / float64(around))
				m.Positions = append(m.Positions, geom.V(p[0]*float32(sin), p[1], p[0]*float32(cos)))
			}
		}
		for i := range len(profile) - 1 {
			for k := range around {
				a, b := uint32(i*around+k), uint32(i*around+(k+1)%around)
				c, d := a+uint32(around), b+uint32(around)
				if profile[i][0] > 0 {
					m.Indices = append(m.Indices, a, b, c)
				}
				if profile[i+1][0] > 0 {
					m.Indices = append(m.Indices, b, d, c)
				}
			}
		}
		m.AddNormals(t.Context(), 0.9) // over the roundings
		return m
	}
	for around, found := range map[int]bool{200: false, 24: true} {
		s := plain()
		s.put("can", can(around), geom.Vec3{}, 0, -1)
		v := front(0.9)
		v.Camera = geom.LookAt(geom.V(0, 0.4, 0.8), geom.Vec3{}, geom.V(0, 1, 0))
		s.views = []scene.View{v}
		if got := only(t, s, preflight.Facets, 1600); len(got) > 0 != found {
			t.Errorf("%d around: %+v", around, got)
		}
	}
}

// half is a ball whose rear half is flat.
func half(r float32) scene.Mesh {
	m := ball(r)
	for i := range m.Positions {
		m.Positions[i].Z = max(m.Positions[i].Z, 0)
	}
	return m
}

func TestLyingOnItsSide(t *testing.T) {
	s := plain()
	s.put("bowl", half(0.05), geom.Vec3{}, 0, -1)
	got := only(t, s, preflight.Axis, 0)
	if len(got) != 1 || got[0].Fix == nil || got[0].Fix.Up != "z" || got[0].Value < 70 || got[0].Value > 80 { // a disk in its square
		t.Errorf("found %+v", got)
	}
	ball := plain()
	ball.put("ball", ballMesh, geom.Vec3{}, 0, -1)
	only(t, ball, "", 0)
	stands := plain()
	m := half(0.05)
	for i, p := range m.Positions {
		m.Positions[i] = geom.V(p.X, p.Z, -p.Y)
	}
	stands.put("bowl", m, geom.Vec3{}, 0, -1)
	only(t, stands, "", 0)
}

// Where the unit of a file was taken for another, the fix leads to a product's size.
func TestUnits(t *testing.T) {
	for _, c := range []struct{ side, by float64 }{{250, 0.001}, {35, 0.001}, {0.0003, 100}, {1e-6, 0}} {
		s := plain()
		k := float32(c.side)
		s.put("box", cuboid(k, k, k), geom.Vec3{}, 0, -1)
		got := only(t, s, preflight.Size, 0)
		if len(got) != 1 || (got[0].Fix == nil) != (c.by == 0) || c.by > 0 && got[0].Fix.Size != c.by {
			t.Errorf("%g m: %+v", c.side, got)
		}
	}
}
