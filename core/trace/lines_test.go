package trace

import (
	"fmt"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// drawn is a picture of lines: how much of each pixel they take.
type drawn struct {
	b    *bench
	f    *film.Film
	at   int
	w, h int
}

func drawLines(t *testing.T, b *bench, l Lines, samples int) drawn {
	t.Helper()
	b.want = []passes.Kind{passes.Lines}
	l.Weight /= float32(b.opt.Height) // given in pixels
	b.opt.Lines, b.opt.DiffuseBounces, b.opt.GlossyBounces = &l, 0, 4
	f := b.render(t, samples)
	return drawn{b, f, b.at(t, passes.LinesPlane), b.opt.Width, b.opt.Height}
}

func (d *drawn) pixel(x, y int) float64 {
	s, i := d.f.At(x, y)
	p := s.Pixel(i)
	return float64(p[d.at] / p[film.Weight])
}

// total is the ink of all pixels that want is true of.
func (d *drawn) total(want func(x, y float64) bool) (sum float64) {
	for y := range d.h {
		for x := range d.w {
			if want == nil || want(float64(x)+0.5, float64(y)+0.5) {
				sum += d.pixel(x, y)
			}
		}
	}
	return sum
}

// segment is an edge as the camera sees it, in pixels.
type segment struct{ ax, ay, bx, by float64 }

func (s segment) length() float64 { return math.Hypot(s.bx-s.ax, s.by-s.ay) }

func (s segment) away(x, y float64) float64 {
	dx, dy := s.bx-s.ax, s.by-s.ay
	t := math.Min(1, math.Max(0, ((x-s.ax)*dx+(y-s.ay)*dy)/math.Max(dx*dx+dy*dy, 1e-12)))
	return math.Hypot(x-s.ax-t*dx, y-s.ay-t*dy)
}

// seen are edges between points of the world, as the camera sees them.
func (d *drawn) seen(points ...[2]geom.Vec3) (out []segment) {
	e := prepareCamera(&d.b.opt.Camera, d.w, d.h)
	for _, p := range points {
		ax, ay, _ := e.seen(p[0])
		bx, by, _ := e.seen(p[1])
		out = append(out, segment{float64(ax), float64(ay), float64(bx), float64(by)})
	}
	return out
}

func lengthOf(all []segment) (sum float64) {
	for _, s := range all {
		sum += s.length()
	}
	return sum
}

func awayFrom(all []segment, x, y float64) float64 {
	best := math.Inf(1)
	for _, s := range all {
		best = math.Min(best, s.away(x, y))
	}
	return best
}

// cube is a box whose normals are those of its corners, so that nothing of its shading
// tells where its edges are.
func cube(half float32) (m scene.Mesh) {
	for i := range 8 {
		p := geom.V(half, half, half)
		for k, bit := range []int{1, 2, 4} {
			if i&bit == 0 {
				switch k {
				case 0:
					p.X = -half
				case 1:
					p.Y = -half
				default:
					p.Z = -half
				}
			}
		}
		m.Positions, m.Normals = append(m.Positions, p), append(m.Normals, p.Unit())
	}
	for _, q := range [][4]uint32{{1, 3, 7, 5}, {0, 4, 6, 2}, {2, 6, 7, 3}, {0, 1, 5, 4}, {4, 5, 7, 6}, {0, 2, 3, 1}} {
		m.Indices = append(m.Indices, q[0], q[1], q[2], q[0], q[2], q[3])
	}
	return m
}

// tube is a closed cylinder of n flat sides with smooth normals around, standing on y = 0.
func tube(r, h float32, n int) (m scene.Mesh) {
	add := func(p, n geom.Vec3) uint32 {
		m.Positions, m.Normals = append(m.Positions, p), append(m.Normals, n)
		return uint32(len(m.Positions) - 1)
	}
	rim := func(i int) geom.Vec3 {
		a := 2 * math.Pi * float64(i%n) / float64(n)
		return geom.V(float32(math.Cos(a)), 0, float32(-math.Sin(a)))
	}
	up := geom.V(0, 1, 0)
	for i := range n {
		a, b := rim(i), rim(i+1)
		low, high := add(a.Scale(r), a), add(a.Scale(r).Add(up.Scale(h)), a)
		low2, high2 := add(b.Scale(r), b), add(b.Scale(r).Add(up.Scale(h)), b)
		m.Indices = append(m.Indices, low, low2, high2, low, high2, high)
		top, top2 := add(a.Scale(r).Add(up.Scale(h)), up), add(b.Scale(r).Add(up.Scale(h)), up)
		m.Indices = append(m.Indices, add(up.Scale(h), up), top, top2)
		foot, foot2 := add(a.Scale(r), up.Neg()), add(b.Scale(r), up.Neg())
		m.Indices = append(m.Indices, add(geom.Vec3{}, up.Neg()), foot2, foot)
	}
	return m
}

// Lines have the weight that was asked for, along straight edges and bent ones, at two
// sizes of the picture; and faces have none, though they are of several triangles.
func TestWeightOfLines(t *testing.T) {
	t.Parallel()
	long(t)
	for _, c := range []struct {
		side   int
		weight float64
	}{{80, 0.1}, {80, 0.5}, {80, 1}, {80, 3}, {160, 0.1}, {160, 0.5}, {160, 1}, {160, 3}} {
		samples := int(math.Max(6, 14/(c.weight*float64(c.side)/100)))
		t.Run(fmt.Sprintf("cube %v", c), func(t *testing.T) {
			b := newBench(c.side, c.side)
			b.part("cube", cube(0.5), b.finish(matte(0.6)))
			b.camera(geom.V(2.1, 1.7, 3.2), geom.Vec3{}, 0.5)
			d := drawLines(t, b, Lines{Creases: true, Outlines: true, Angle: 0.5, Weight: float32(c.weight)}, samples)
			v := b.s.Meshes[0].Positions
			var edges []segment // those that are seen: all but the three at the corner that is farthest away
			for _, e := range [][2]int{{1, 3}, {3, 7}, {7, 5}, {5, 1}, {7, 6}, {6, 2}, {2, 3}, {6, 4}, {4, 5}} {
				edges = append(edges, d.seen([2]geom.Vec3{v[e[0]], v[e[1]]})...)
			}
			want := c.weight * lengthOf(edges)
			if got := d.total(nil); math.Abs(got-want) > 0.05*want {
				t.Errorf("ink of %.2f pixels, want %.2f", got, want)
			}
			if stray := d.total(func(x, y float64) bool { return awayFrom(edges, x, y) > c.weight+1 }); stray != 0 {
				t.Errorf("%.3f pixels of ink away from all edges", stray)
			}
		})
		t.Run(fmt.Sprintf("tube %v", c), func(t *testing.T) {
			b := newBench(c.side, c.side)
			const n = 48
			b.part("tube", tube(0.5, 1, n), b.finish(matte(0.6)))
			b.camera(geom.V(0, 2.6, 4), geom.V(0, 0.5, 0), 0.5)
			d := drawLines(t, b, Lines{Creases: true, Angle: 0.5, Weight: float32(c.weight)}, samples)
			var rim []segment
			for i := range n {
				at := func(i int) geom.Vec3 {
					a := 2 * math.Pi * float64(i) / n
					return geom.V(float32(0.5*math.Cos(a)), 1, float32(-0.5*math.Sin(a)))
				}
				if a := 2 * math.Pi * (float64(i) + 0.5) / n; math.Sin(a) < -0.2 { // its front, where both faces are seen
					rim = append(rim, d.seen([2]geom.Vec3{at(i), at(i + 1)})...)
				}
			}
			// None of the sides of its triangles, around it and on its ends, is a line.
			if stray := d.total(func(x, y float64) bool {
				side := float64(c.side)
				return math.Abs(x-side/2) < side/8 && y > 0.55*side && y < 0.66*side
			}); stray != 0 {
				t.Errorf("%.3f pixels of ink on the wall", stray)
			}
			near := func(x, y float64) bool { return awayFrom(rim, x, y) <= 2+c.weight }
			want := c.weight * lengthOf(rim)
			low, high := rim[0], rim[len(rim)-1]
			inside := func(x, y float64) bool {
				return near(x, y) && x > math.Min(low.ax, high.bx) && x < math.Max(low.ax, high.bx)
			}
			if got := d.total(inside); math.Abs(got-want) > 0.05*want+0.5*c.weight {
				t.Errorf("ink of %.2f pixels, want %.2f", got, want)
			}
		})
	}
}

// The outline of a ball goes all the way round it, and nothing is on it: not the sides of
// its triangles, and not where it is seen at a grazing angle.
func TestOutlineOfABall(t *testing.T) {
	t.Parallel()
	for _, weight := range []float64{0.3, 1, 3} {
		b := newBench(120, 120)
		b.part("ball", ball(geom.Vec3{}, 0.5, 96), b.finish(matte(0.6)))
		b.camera(geom.V(0, 0, 4), geom.Vec3{}, 0.3)
		d := drawLines(t, b, Lines{Creases: true, Outlines: true, Borders: true, Boundaries: true, Angle: 0.4, Weight: float32(weight)}, 24)
		r := 60 * math.Tan(math.Asin(0.5/4)) / math.Tan(0.15)
		want := weight * 2 * math.Pi * r
		if got := d.total(nil); math.Abs(got-want) > 0.05*want {
			t.Errorf("weight %g: ink of %.1f pixels, want %.1f", weight, got, want)
		}
		var sectors [36]float64
		d.total(func(x, y float64) bool {
			a := math.Atan2(y-60, x-60)/(2*math.Pi) + 0.5
			ink := d.pixel(int(x), int(y))
			if ink > 0 && math.Abs(math.Hypot(x-60, y-60)-r) > weight+1.5 {
				t.Errorf("weight %g: ink at (%g, %g)", weight, x, y)
			}
			sectors[int(a*36)%36] += ink
			return false
		})
		for i, s := range sectors {
			if each := want / 36; s < 0.6*each || s > 1.4*each {
				t.Errorf("weight %g: sector %d has %.2f pixels of ink, want %.2f", weight, i, s, each)
			}
		}
	}
}

// bevelled is a box with a small chamfer around its top: creases of 45 degrees.
func bevelled() scene.Mesh {
	square := func(half, y float32) [4]geom.Vec3 {
		return [4]geom.Vec3{geom.V(-half, y, half), geom.V(half, y, half), geom.V(half, y, -half), geom.V(-half, y, -half)}
	}
	var m scene.Mesh
	rings := [][4]geom.Vec3{square(0.5, -0.5), square(0.5, 0.4), square(0.4, 0.5)}
	for _, r := range rings {
		m.Positions = append(m.Positions, r[:]...)
	}
	for k := range uint32(2) {
		for i := range uint32(4) {
			a, b := 4*k+i, 4*k+(i+1)%4
			m.Indices = append(m.Indices, a, b, b+4, a, b+4, a+4)
		}
	}
	m.Indices = append(m.Indices, 8, 9, 10, 8, 10, 11, 0, 2, 1, 0, 3, 2)
	return m
}

// Creases under the angle are none, and neither are the diagonals of faces.
func TestCreasesOverAnAngle(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		angle float64
		lines bool
	}{{40, true}, {50, false}} {
		b := newBench(160, 160)
		b.part("box", bevelled(), b.finish(matte(0.6)))
		b.camera(geom.V(0.3, 3, 3), geom.Vec3{}, 0.45)
		d := drawLines(t, b, Lines{Creases: true, Angle: float32(c.angle * math.Pi / 180), Weight: 1}, 32)
		p := b.s.Meshes[0].Positions
		front := d.seen([2]geom.Vec3{p[4], p[5]}, [2]geom.Vec3{p[8], p[9]}) // 45 degrees each
		mid := d.seen([2]geom.Vec3{p[8].Lerp(p[9], 0.1), p[8].Lerp(p[9], 0.9)}, [2]geom.Vec3{p[4].Lerp(p[5], 0.1), p[4].Lerp(p[5], 0.9)})
		got := d.total(func(x, y float64) bool { return awayFrom(mid, x, y) < 1.5 && x > mid[0].ax && x < mid[0].bx })
		want := 0.0
		if c.lines {
			want = lengthOf(d.seen([2]geom.Vec3{p[8].Lerp(p[9], 0.1), p[8].Lerp(p[9], 0.9)})) * 2
		}
		if math.Abs(got-want) > 0.05*want {
			t.Errorf("over %g degrees: ink of %.2f pixels along the chamfer, want %.2f", c.angle, got, want)
		}
		var all []segment
		for _, e := range [][2]int{{4, 5}, {5, 6}, {6, 7}, {7, 4}, {8, 9}, {9, 10}, {10, 11}, {11, 8}, {0, 1}, {1, 2}, {2, 3},
			{3, 0}, {0, 4}, {1, 5}, {2, 6}, {3, 7}, {4, 8}, {5, 9}, {6, 10}, {7, 11}} {
			all = append(all, d.seen([2]geom.Vec3{p[e[0]], p[e[1]]})...)
		}
		if stray := d.total(func(x, y float64) bool { return awayFrom(all, x, y) > 2 }); stray != 0 || len(front) != 2 {
			t.Errorf("over %g degrees: %.2f pixels of ink on faces", c.angle, stray)
		}
	}
}

// Kinds are told apart: a box on a table touches it, a sheet ends, and each is there only
// if it was asked for; where two meet, a line is no wider.
func TestKindsOfLines(t *testing.T) {
	t.Parallel()
	look := func(l Lines) drawn {
		b := newBench(110, 110)
		m := b.finish(matte(0.6))
		b.part("table", floor(30), m)
		b.part("box", cube(0.5), m)
		for i := range b.s.Meshes[1].Positions {
			b.s.Meshes[1].Positions[i].Y += 0.5
		}
		b.part("sheet", quad(geom.V(-0.3, 1.4, 0), geom.V(0.6, 0, 0), geom.V(0, 0.6, 0)), m)
		b.camera(geom.V(0, 2.2, 5), geom.V(0, 0.9, 0), 0.5)
		l.Angle, l.Weight = 0.5, 1
		return drawLines(t, b, l, 16)
	}
	foot := [2]geom.Vec3{geom.V(-0.45, 0, 0.5), geom.V(0.45, 0, 0.5)}
	brow := [2]geom.Vec3{geom.V(-0.45, 1, 0.5), geom.V(0.45, 1, 0.5)}
	hem := [2]geom.Vec3{geom.V(-0.25, 2, 0), geom.V(0.25, 2, 0)}
	back := [2]geom.Vec3{geom.V(0.35, 1, -0.5), geom.V(0.45, 1, -0.5)} // of the box, before the table
	for _, c := range []struct {
		name string
		l    Lines
		want [4]bool
	}{
		{"creases", Lines{Creases: true}, [4]bool{false, true, false, false}},
		{"outlines", Lines{Outlines: true}, [4]bool{false, false, true, true}},
		{"borders", Lines{Borders: true}, [4]bool{false, false, true, false}},
		{"boundaries", Lines{Boundaries: true}, [4]bool{true, false, false, false}},
		{"all", Lines{Creases: true, Outlines: true, Borders: true, Boundaries: true}, [4]bool{true, true, true, true}},
	} {
		d := look(c.l)
		for i, e := range [][2]geom.Vec3{foot, brow, hem, back} {
			s := d.seen(e)
			got := d.total(func(x, y float64) bool { return s[0].away(x, y) < 2 && x > s[0].ax && x < s[0].bx })
			want := 0.0
			if c.want[i] {
				want = s[0].length()
			}
			if math.Abs(got-want) > 0.08*want+0.6 {
				t.Errorf("%s: %s has ink of %.2f pixels, want %.2f", c.name, []string{"foot", "brow", "hem", "back"}[i], got, want)
			}
		}
	}
}

// Lines are seen through a pane and in a mirror if they are to be, and only then.
func TestLinesThroughAndMirrored(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name string
		put  func(b *bench)
		at   geom.Vec3
	}{
		{"pane", func(b *bench) {
			f := glass(0)
			f.Thickness = 0
			b.part("pane", quad(geom.V(-3, -3, 1), geom.V(6, 0, 0), geom.V(0, 6, 0)), b.finish(f))
		}, geom.Vec3{}},
		{"body", func(b *bench) {
			m := cube(3)
			for i := range m.Positions {
				m.Positions[i].Z = m.Positions[i].Z/20 + 1
			}
			m.Normals = nil
			b.part("body", m, b.finish(glass(0)))
		}, geom.Vec3{}},
		{"mirror", func(b *bench) {
			f := scene.NewFinish("mirror")
			f.Roughness = 0
			b.part("mirror", quad(geom.V(-3, -3, 2), geom.V(6, 0, 0), geom.V(0, 6, 0)), b.finish(f))
		}, geom.V(0, 0, 8)}, // behind the camera, that looks at the mirror
	} {
		for _, through := range []bool{false, true} {
			b := newBench(80, 80)
			box := cube(0.5)
			for i := range box.Positions {
				box.Positions[i] = box.Positions[i].Add(c.at)
			}
			b.part("cube", box, b.finish(matte(0.6)))
			c.put(b)
			b.camera(geom.V(0.3, 0.2, 5), geom.V(0, 0, 0), 0.9)
			d := drawLines(t, b, Lines{Creases: true, Outlines: true, Angle: 0.5, Weight: 1, Through: through}, 12)
			ink := d.total(func(x, y float64) bool { return math.Hypot(x-40, y-40) < 27 })
			if through && ink < 20 || !through && ink != 0 {
				t.Errorf("%s, through %v: %.2f pixels of ink", c.name, through, ink)
			}
		}
	}
}

// In the picture, a line has its tone, the picture is opaque under it, and its light is an
// element of its own; apart, the picture is as it was.
func TestLinesInThePicture(t *testing.T) {
	look := func(l *Lines) (*bench, *film.Film) {
		b := newBench(64, 64)
		b.want = []passes.Kind{passes.Light, passes.Lines}
		b.part("ball", ball(geom.Vec3{}, 0.5, 48), b.finish(matte(0.6)))
		b.camera(geom.V(0, 0, 4), geom.Vec3{}, 0.3)
		b.opt.Surround, b.opt.Backing, b.opt.Lines = Surround{On: true, Tone: geom.Splat(1), Strength: 1}, BackClear, l
		return b, b.render(t, 16)
	}
	plain, without := look(nil)
	_, apart := look(&Lines{Outlines: true, Weight: 4. / 64, Tone: geom.Splat(0.1), Apart: true})
	with, in := look(&Lines{Outlines: true, Weight: 4. / 64, Tone: geom.Splat(0.1)})
	at, _ := with.opt.Layout.Place(passes.LinesPlane)
	line, _ := with.opt.Layout.Place(film.ElementName(1))
	inked := 0
	for y := range 64 {
		for x := range 64 {
			a, i := without.At(x, y)
			b, _ := apart.At(x, y)
			c, _ := in.At(x, y)
			p, q, r := a.Pixel(i), b.Pixel(i), c.Pixel(i)
			if p[film.Beauty] != q[film.Beauty] || p[film.Alpha] != q[film.Alpha] {
				t.Fatalf("apart, the picture at (%d, %d) is %v, was %v", x, y, q[film.Beauty], p[film.Beauty])
			}
			ink := r[at] / r[film.Weight]
			if ink < 1 {
				continue
			}
			inked++
			if e := r[film.Beauty] / r[film.Weight]; geom.Abs(e-0.1) > 1e-5 || geom.Abs(r[film.Alpha]/r[film.Weight]-1) > 1e-5 ||
				geom.Abs(r[line]/r[film.Weight]-0.1) > 1e-5 {
				t.Errorf("a line at (%d, %d) is %v, alpha %v, of its element %v", x, y, e, r[film.Alpha]/r[film.Weight], r[line]/r[film.Weight])
			}
		}
	}
	if inked < 50 || plain == nil {
		t.Errorf("only %d pixels are full of ink", inked)
	}
}

// Lines that fade are lighter at the far end of the product than at the near one.
func TestLinesFade(t *testing.T) {
	b := newBench(160, 160)
	m := b.finish(matte(0.6))
	for i := range 2 {
		box := cube(0.25)
		for k := range box.Positions {
			box.Positions[k] = box.Positions[k].Add(geom.V(float32(i)*1.2-0.6, 0, float32(-i)*4))
		}
		b.part("cube", box, m)
	}
	b.camera(geom.V(0, 1, 6), geom.V(0, 0, -1), 0.5)
	d := drawLines(t, b, Lines{Creases: true, Outlines: true, Angle: 0.5, Weight: 2, Fade: true}, 16)
	var most [2]float64
	d.total(func(x, y float64) bool {
		side := 0
		if x > 80 {
			side = 1
		}
		most[side] = math.Max(most[side], d.pixel(int(x), int(y)))
		return false
	})
	if !(most[0] > 0.7 && most[1] < 0.45 && most[1] > faintestLine) {
		t.Errorf("the near one has ink of %.2f, the far one of %.2f", most[0], most[1])
	}
}
