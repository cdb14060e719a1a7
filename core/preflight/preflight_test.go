package preflight_test

import (
	"context"
	"errors"
	"math"
	"reflect"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/preflight"
	"amberproof/core/scene"
)

// found runs the checks of a set.
func found(t *testing.T, s *set) []preflight.Finding {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	f, err := preflight.Run(t.Context(), s.subject(), nil)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// want is a finding as tests expect it.
type want struct {
	check      preflight.Check
	part       string
	value, tol float64
}

// Each check has a scene with its fault and one like it without. Lengths are metres,
// values millimetres where the check does not say otherwise.
func TestChecks(t *testing.T) {
	// stand is a cube of 100 mm whose underside is at a height over a floor.
	stand := func(floor scene.Mesh, height float32) func(*set) {
		return func(s *set) {
			s.put("floor", floor, geom.Vec3{}, 0, -1)
			s.put("cube", cuboid(0.1, 0.1, 0.1), geom.V(0, 0.05+height, 0), 0, -1)
		}
	}
	slab := cuboid(4, 0.2, 4)
	for k := range slab.Positions {
		slab.Positions[k].Y -= 0.1
	}
	two := func(apart, aside float32, a, b scene.Mesh, finish int) func(*set) {
		return func(s *set) {
			s.finish(glass())
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("left", a, geom.V(0, 0, 0), finish, -1)
			s.put("right", b, geom.V(0.1+apart, aside, aside), finish, -1)
		}
	}
	cube := cuboid(0.1, 0.1, 0.1)
	holed := cuboid(0.1, 0.1, 0.1)
	holed.Indices = holed.Indices[6:] // without its front
	for _, c := range []struct {
		name string
		make func(*set)
		want []want
	}{
		{"stands on a sheet", stand(sheet(4), 0), nil},
		{"stands on a slab", stand(slab, 0), nil},
		{"a tenth of a millimetre is contact", stand(sheet(4), 1e-4), nil},
		{"floats", stand(sheet(4), 0.004), []want{{preflight.Floats, "cube", 4, 0.001}}},
		{"floats over a slab", stand(slab, 0.004), []want{{preflight.Floats, "cube", 4, 0.001}}},
		{"floats over a sheet that looks down", stand(turnedOver(sheet(4)), 0.004), []want{{preflight.Floats, "cube", 4, 0.001}}},
		{"sinks", stand(sheet(4), -0.003), []want{{preflight.Sinks, "cube", 3, 0.001}}},
		{"sinks into a slab", stand(slab, -0.003), []want{{preflight.Sinks, "cube", 3, 0.001}}},
		{"sinks out of sight", stand(sheet(4), -0.104), []want{{preflight.Sinks, "cube", 104, 0.001}}},
		{"a room's ceiling is not sunk into", func(s *set) {
			s.put("room", turnedOver(cuboid(4, 3, 4)), geom.V(0, 1.5, 0), 0, -1)
			s.put("cube", cube, geom.V(0, 0.05, 0), 0, -1)
		}, nil},
		{"a ball by its lowest point", func(s *set) {
			s.put("floor", sheet(4), geom.Vec3{}, 0, -1)
			s.put("ball", ball(0.05), geom.V(0, 0.052, 0), 0, -1)
		}, []want{{preflight.Floats, "ball", 2, 0.001}}},
		{"a board over a post, no corner of which meets the other", func(s *set) {
			s.put("floor", sheet(8), geom.Vec3{}, 0, -1)
			s.put("post", cuboid(0.02, 0.2, 0.02), geom.V(0, 0.1, 0), 0, -1)
			s.put("board", cuboid(0.4, 0.02, 0.4), geom.V(0.03, 0.215, 0.01), 0, -1)
		}, []want{{preflight.Floats, "board", 5, 0.001}}},
		{"what holds to what stands does not float", func(s *set) {
			s.put("floor", sheet(8), geom.Vec3{}, 0, -1)
			s.put("post", cuboid(0.02, 0.2, 0.02), geom.V(0, 0.1, 0), 0, -1)
			s.put("arm", cuboid(0.2, 0.02, 0.02), geom.V(0.11, 0.15, 0), 0, -1)
			s.put("lamp shade", cuboid(0.06, 0.06, 0.06), geom.V(0.18, 0.11, 0), 0, -1)
		}, nil},
		{"without a floor the lowest is what stands", func(s *set) {
			s.put("cube", cube, geom.V(0, 0.05, 0), 0, -1)
			s.put("lid", cuboid(0.1, 0.01, 0.1), geom.V(0, 0.108, 0), 0, -1)
		}, []want{{preflight.Floats, "lid", 3, 0.001}}},
		{"a flame may stand in the air", func(s *set) {
			f := scene.NewFinish("flame")
			f.Emission = geom.Splat(5)
			s.put("floor", sheet(4), geom.Vec3{}, 0, -1)
			s.put("candle", cube, geom.V(0, 0.05, 0), 0, -1)
			s.put("flame", ball(0.01), geom.V(0, 0.125, 0), s.finish(f), -1)
		}, nil},
		{"side by side", two(0, 0, cube, cube, 0), nil},
		{"run through each other", two(-0.005, 0.001, cube, cube, 0), []want{{preflight.Through, "left", 5, 0.01}}},
		{"balls that run through each other", two(-0.006, 0, ball(0.05), ball(0.05), 0), []want{{preflight.Through, "left", 6, 0.2}}},
		{"what fills glass reaches into it", two(-0.005, 0.001, cube, cube, 1), nil},
		{"the same twice", two(-0.1, 0, cube, cube, 0), []want{{preflight.Doubled, "right", 2, 0}}},
		{"a label in the face it is stuck on", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cube, geom.Vec3{}, 0, -1)
			s.put("label", sheet(0.04), geom.V(0, 0.05, 0), 0, -1)
		}, []want{{preflight.Coincident, "box", 1600, 1}}}, // mm²
		{"a label a tenth of a millimetre before it", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cube, geom.Vec3{}, 0, -1)
			s.put("label", sheet(0.04), geom.V(0, 0.0501, 0), 0, -1)
		}, nil},
		{"one box on another", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cube, geom.Vec3{}, 0, -1)
			s.put("upper", cube, geom.V(0, 0.1, 0), 0, -1)
		}, nil},
		{"no finish", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cube, geom.Vec3{}, -1, -1)
		}, []want{{preflight.Bare, "box", 60000, 1}}}, // mm²
		{"closed glass", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("paperweight", cube, geom.Vec3{}, s.finish(glass()), -1)
		}, nil},
		{"glass with a hole", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("paperweight", holed, geom.Vec3{}, s.finish(glass()), -1)
		}, []want{{preflight.Open, "paperweight", 400, 0.01}}},
		{"a pane may be open", func(s *set) {
			f := glass()
			f.Thickness = 0
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("pane", holed, geom.Vec3{}, s.finish(f), -1)
		}, nil},
		{"glass inside out", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("paperweight", turnedOver(ball(0.05)), geom.Vec3{}, s.finish(glass()), -1)
		}, []want{{preflight.Inward, "paperweight", 1e6 * 4 * math.Pi * 0.05 * 0.05, 400}}}, // mm²
		{"a camera in a box", func(s *set) {
			s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cube, geom.Vec3{}, 0, -1)
			s.views = []scene.View{{Name: "front", Aspect: 1, Camera: geom.Translate(geom.V(0, 0, 0.03)), YFov: 0.5}}
		}, []want{{preflight.Inside, "box", 20, 4}}},
		{"past the edge of the floor", func(s *set) {
			s.put("floor", sheet(2), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cuboid(0.02, 0.1, 0.02), geom.Vec3{}, 0, -1)
			// From above, twice as wide and high as the floor: three quarters lie beyond it.
			s.views = []scene.View{{Name: "plan", Aspect: 1, Camera: geom.LookAt(geom.V(0, 3, 0), geom.Vec3{}, geom.V(0, 0, -1)), YMag: 2}}
		}, []want{{preflight.Edge, "floor", 75, 0.01}}}, // percent
		{"within the edge of the floor", func(s *set) {
			s.put("floor", sheet(2), geom.V(0, -0.05, 0), 0, -1)
			s.put("box", cuboid(0.02, 0.1, 0.02), geom.Vec3{}, 0, -1)
			s.views = []scene.View{{Name: "plan", Aspect: 1, Camera: geom.LookAt(geom.V(0, 3, 0), geom.Vec3{}, geom.V(0, 0, -1)), YMag: 0.5}}
		}, nil},
		{"a file in millimetres", func(s *set) { s.put("box", cuboid(100, 100, 100), geom.Vec3{}, 0, -1) }, []want{{preflight.Size, "", 100000, 1}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := plain()
			c.make(s)
			got := found(t, s)
			if len(got) != len(c.want) {
				t.Fatalf("%d findings, %d wanted: %+v", len(got), len(c.want), got)
			}
			for i, w := range c.want {
				f := got[i]
				name := ""
				if f.Part >= 0 {
					name = s.Parts[f.Part].Name
				}
				if f.Check != w.check || name != w.part || math.Abs(f.Value-w.value) > w.tol || f.Says == "" || f.Where.Empty() {
					t.Errorf("found %+v of %q, want %+v", f, name, w)
				}
			}
		})
	}
}

// A product put together by setting parts into each other is not told of every
// joint, but of a part that lies half within another, and of one that was moved.
func TestJoints(t *testing.T) {
	s := plain()
	s.put("floor", sheet(4), geom.V(0, -0.05, 0), 0, -1)
	product := s.under("product", -1)
	s.put("body", cuboid(0.6, 0.1, 0.1), geom.Vec3{}, 0, product)
	for i := range 6 {
		s.put("pin", cuboid(0.01, 0.04, 0.01), geom.V(-0.25+0.1*float32(i), 0.067, 0), 0, product)
	}
	if got := found(t, s); len(got) != 0 {
		t.Fatalf("joints are told of: %+v", got)
	}
	stray := s.put("stray", cuboid(0.03, 0.03, 0.03), geom.V(0.02, 0.05, 0), 0, product)
	got := found(t, s)
	if len(got) != 1 || got[0].Check != preflight.Through || got[0].Other != stray {
		t.Fatalf("a part half within another: %+v", got)
	}
	s.Parts = s.Parts[:stray]
	moved := geom.Translate(geom.V(0, -0.004, 0))
	s.Parts[3].Place = &moved
	if got := found(t, s); len(got) != 1 || got[0].Other != 3 {
		t.Fatalf("a pin that was pushed in: %+v", got)
	}
}

// Values grow with the scene, and nothing else changes: from a grain of a millimetre
// to a hall.
func TestScale(t *testing.T) {
	at := func(k float32) []preflight.Finding {
		s := plain()
		s.put("floor", sheet(4*k), geom.Vec3{}, 0, -1)
		s.put("cube", cuboid(0.1*k, 0.1*k, 0.1*k), geom.V(0, 0.054*k, 0), 0, -1)
		s.put("ball", ball(0.05*k), geom.V(0.2*k, 0.047*k, 0), 0, -1)
		return found(t, s)
	}
	base := at(1)
	if len(base) != 2 {
		t.Fatalf("found %+v", base)
	}
	for _, k := range []float32{0.05, 7, 100} {
		got := at(k)
		if len(got) != 2 {
			t.Fatalf("at %g: found %+v", k, got)
		}
		for i := range got {
			if got[i].Check != base[i].Check || math.Abs(got[i].Value/float64(k)/base[i].Value-1) > 1e-3 {
				t.Errorf("at %g: %+v, was %+v", k, got[i], base[i])
			}
		}
	}
}

// The same findings in the same order each time; a context that has ended ends it.
func TestAgainAndCancelled(t *testing.T) {
	s := plain()
	s.put("floor", sheet(4), geom.Vec3{}, 0, -1)
	for i := range 40 {
		x, z := float32(i%8), float32(i/8)
		s.put("ball", ball(0.05), geom.V(0.12*x-0.4, 0.05+0.003*float32(i%5), 0.12*z-0.3), 0, -1)
	}
	first := found(t, s)
	if len(first) != 32 {
		t.Fatalf("%d findings", len(first))
	}
	shares := []float64{}
	again, err := preflight.Run(t.Context(), s.subject(), func(share float64) { shares = append(shares, share) })
	if err != nil || !reflect.DeepEqual(first, again) {
		t.Fatalf("another answer the second time: %v", err)
	}
	for i := range shares {
		if i > 0 && shares[i] < shares[i-1] || shares[i] > 1 {
			t.Fatalf("progress %v", shares)
		}
	}
	ctx, stop := context.WithCancel(t.Context())
	stop()
	if _, err := preflight.Run(ctx, s.subject(), nil); !errors.Is(err, context.Canceled) {
		t.Fatalf("cancelled: %v", err)
	}
}

// Nothing at all, parts without faces or size, and parts left out are no faults.
func TestOddScenes(t *testing.T) {
	if got := found(t, plain()); len(got) != 0 {
		t.Fatalf("found %+v in nothing", got)
	}
	s := plain()
	s.put("floor", sheet(4), geom.Vec3{}, 0, -1)
	s.put("no faces", scene.Mesh{Positions: []geom.Vec3{{}}}, geom.V(0, 1, 0), 0, -1)
	flat := cuboid(0.1, 0.1, 0.1)
	for i := range flat.Positions {
		flat.Positions[i] = geom.V(0, 0, 0)
	}
	s.put("a point", flat, geom.V(0.1, 0, 0), 0, -1)
	out := s.put("out", cuboid(0.1, 0.1, 0.1), geom.V(0, 0.3, 0), -1, -1)
	s.Parts[out].Out = true
	s.put("cube", cuboid(0.1, 0.1, 0.1), geom.V(0, 0.05, 0), 0, -1)
	if got := found(t, s); len(got) != 0 {
		t.Fatalf("found %+v", got)
	}
}

// Parts go down onto what is under them, or up out of the floor, as one; where nothing
// is under them they stay.
func TestDrop(t *testing.T) {
	s := plain()
	floor := s.put("floor", sheet(8), geom.Vec3{}, 0, -1)
	post := s.put("post", cuboid(0.02, 0.2, 0.02), geom.V(0, 0.1, 0), 0, -1)
	board := s.put("board", cuboid(0.4, 0.02, 0.4), geom.V(0.03, 0.25, 0.01), 0, -1)
	cup := s.put("cup", ball(0.03), geom.V(0.1, 0.4, 0.05), 0, -1)
	sunk := s.put("sunk", cuboid(0.1, 0.1, 0.1), geom.V(1, 0.02, 0), 0, -1)
	for _, c := range []struct {
		name  string
		parts []int
		by    float64
		onto  int
	}{
		{"the board onto the post", []int{board}, -0.04, post},
		{"the board with what is on it", []int{board, cup, board}, -0.04, post},
		{"the cup onto the board", []int{cup}, -0.11, board},
		{"out of the floor", []int{sunk}, 0.03, floor},
		{"what stands stays", []int{post}, 0, floor},
		{"the floor itself", []int{floor}, 0, -1},
		{"nothing", nil, 0, -1},
	} {
		by, onto, err := preflight.Drop(t.Context(), s.subject(), c.parts)
		if err != nil || onto != c.onto || math.Abs(float64(by.Y)-c.by) > 1e-5 || by.X != 0 || by.Z != 0 {
			t.Errorf("%s: by %v onto %d, %v; want %v onto %d", c.name, by, onto, err, c.by, c.onto)
		}
	}
	two := plain()
	two.put("left", cuboid(0.1, 0.1, 0.1), geom.Vec3{}, 0, -1)
	right := two.put("right", cuboid(0.1, 0.1, 0.1), geom.V(0.2, 0.3, 0), 0, -1)
	if by, onto, err := preflight.Drop(t.Context(), two.subject(), []int{right}); err != nil || onto >= 0 || !by.IsZero() {
		t.Errorf("over nothing: by %v onto %d, %v", by, onto, err)
	}
}
