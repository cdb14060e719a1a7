package demo_test

import (
	"bytes"
	"image"
	"math"
	"testing"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/surface"
	"amberproof/core/trace"
)

// viewsAround makes worlds of a scene, seen from so many sides of the product.
func viewsAround(t *testing.T, s *scene.Scene, n, side int) []*trace.World {
	t.Helper()
	lamp := map[int]bool{}
	for _, l := range trace.LampsOf(s) {
		lamp[l.Part] = true
	}
	box := s.Focus(func(i int) bool { return lamp[i] })
	mid, size := box.Centre(), box.Radius()
	o := trace.Options{Width: side, Height: side, Window: image.Rect(0, 0, side, side), FilterWidth: 1, Finishes: s.Finishes, Seed: 1}
	for i := range s.Parts {
		o.Wears = append(o.Wears, max(0, s.Parts[i].Finish))
	}
	var out []*trace.World
	for k := range n {
		turn := 2 * math.Pi * float64(k) / float64(n) * 0.9
		eye := mid.Add(geom.V(float32(math.Sin(turn)), 0.15+0.08*float32(k%4), float32(math.Cos(turn))).Unit().Scale(size * (4 + float32(k%3))))
		o.Camera = trace.Camera{World: geom.LookAt(eye, mid, geom.V(0, 1, 0)), YFov: 0.45}
		w, err := trace.Prepare(t.Context(), s, o)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, w)
	}
	return out
}

// straight tells by rays whether a place is seen, with nothing in front of it; sure is false
// within a few pixels of outlines and on faces seen edge-on, where either answer is right.
func straight(w *trace.World, tr *trace.Tracer, at, normal geom.Vec3) (visible, sure bool) {
	o := w.Options()
	x, y, ok := o.Camera.Seen(at, o.Width, o.Height)
	if !ok || x < 1 || y < 1 || x > float32(o.Width)-1 || y > float32(o.Height)-1 {
		return false, false
	}
	slant := -normal.Dot(at.Sub(o.Camera.World.Origin()).Unit())
	pixel := o.Camera.Footprint(at, o.Width, o.Height)
	s, hit := tr.Sight(x, y, false)
	sure = geom.Abs(slant) > 0.25
	for _, d := range [...][2]float32{{-4, 0}, {4, 0}, {0, -4}, {0, 4}, {-3, -3}, {3, 3}, {3, -3}, {-3, 3}} {
		q, ok := tr.Sight(x+d[0], y+d[1], false)
		sure = sure && ok && hit && q.Part == s.Part && q.At.Sub(s.At).Len() < 30*pixel
	}
	return hit && slant > 0 && s.At.Sub(at).Len() < 0.2*pixel, sure
}

// aside is how many pixels off a point of the frame the place is seen, at the front or behind
// clear parts; infinite where it is not within three.
func aside(w *trace.World, tr *trace.Tracer, x, y float32, part int, at geom.Vec3) float32 {
	o := w.Options()
	best := float32(math.Inf(1))
	pixel := o.Camera.Footprint(at, o.Width, o.Height)
	way := at.Sub(o.Camera.World.Origin()).Unit()
	for dy := float32(-2); dy <= 2; dy += 0.5 {
		for dx := float32(-2); dx <= 2; dx += 0.5 {
			for _, through := range [...]bool{false, true} {
				s, ok := tr.Sight(x+dx, y+dy, through)
				if !ok || s.Part != part {
					continue
				}
				d := s.At.Sub(at)
				deep := d.Dot(way)
				if across := d.Sub(way.Scale(deep)).Len() / pixel; geom.Abs(deep) < 20*pixel && across < 3 {
					best = min(best, max(geom.Sqrt(dx*dx+dy*dy), across))
				}
			}
		}
	}
	return best
}

// Spots of one picture of each of the demo's scenes are found in nine others from all sides:
// within two pixels where they are seen, and told hidden where they are hidden.
func TestPlacesAreFoundAgainFromAllSides(t *testing.T) {
	const side = 600
	hero, _ := lantern(t)
	for name, s := range map[string]*scene.Scene{"lantern": hero, "shop window": vitrine(t)} {
		t.Run(name, func(t *testing.T) {
			worlds := viewsAround(t, s, 10, side)
			var maps []*surface.Map
			for _, w := range worlds {
				m, err := surface.Of(t.Context(), w)
				if err != nil {
					t.Fatal(err)
				}
				m.SetParts(surface.PartsOf(s, func(int) bool { return false }, make([]bool, len(s.Parts))))
				var file bytes.Buffer
				if err := m.Write(&file); err != nil {
					t.Fatal(err)
				}
				if m, err = surface.Read(file.Bytes()); err != nil { // as it is found again years later
					t.Fatal(err)
				}
				maps = append(maps, m)
			}
			var seen, hidden int
			worst := float32(0)
			for y := float32(20.3); y < side; y += 24 {
				for x := float32(20.7); x < side; x += 24 {
					for _, p := range maps[0].Spot(x, y) {
						if p.Through { // whose truth is bent aside
							continue
						}
						for k := 1; k < len(worlds); k++ {
							tr := worlds[k].NewTracer()
							part := indexOf(maps[k], p.Part)
							world := maps[k].Parts[part].World
							at := world.Point(geom.V(p.At[0], p.At[1], p.At[2]))
							n := world.Normal(geom.V(p.Normal[0], p.Normal[1], p.Normal[2])).Unit()
							visible, sure := straight(worlds[k], tr, at, n)
							fx, fy, what := maps[k].Find(p)
							switch {
							case what == surface.Visible:
								seen++
								d := aside(worlds[k], tr, fx, fy, part, at)
								if d > 2 {
									t.Errorf("%s from side %d, told at %.1f, %.1f: not seen within two pixels", p.Title, k, fx, fy)
								}
								worst = max(worst, d)
							case !sure:
							case visible:
								t.Errorf("%s from side %d: %s, and it is seen", p.Title, k, what)
							default:
								hidden++
							}
						}
					}
				}
			}
			t.Logf("%d seen, %d hidden, at worst %.2f pixels aside", seen, hidden, worst)
			if seen < 300 || hidden < 300 {
				t.Errorf("only %d seen and %d hidden", seen, hidden)
			}
			if worst > 2 {
				t.Errorf("at worst %.2f pixels aside", worst)
			}
		})
	}
}

func indexOf(m *surface.Map, key string) int {
	for i := range m.Parts {
		if m.Parts[i].Key == key {
			return i
		}
	}
	return -1
}
