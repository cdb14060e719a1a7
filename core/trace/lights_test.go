package trace

import (
	"fmt"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/lights"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

func disk(c geom.Vec3, r float32, n int) scene.Mesh {
	m := scene.Mesh{Positions: []geom.Vec3{c}}
	for i := range n {
		s, k := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		m.Positions = append(m.Positions, c.Add(geom.V(r*float32(k), 0, r*float32(s))))
		m.Indices = append(m.Indices, 0, uint32(i+1), uint32((i+1)%n+1))
	}
	return m
}

// A disk of radiance L and radius r, h above a white floor, gives it L r^2/(r^2+h^2).
func TestDiskLightAgainstItsClosedForm(t *testing.T) {
	const r, h = 0.7, 1.5
	b := newBench(8, 8)
	b.part("disk", disk(geom.V(0, h, 0), r, 512), b.finish(glow(4)))
	if l := LampsOf(&b.s); len(l) != 1 || l[0].Kind != "disk" {
		t.Fatalf("lamps: %+v", l)
	}
	got, bar := b.plane(t, 1024, film.Beauty)
	expect(t, "radiance under a disk", got, 4*r*r/(r*r+h*h), bar+1e-3)
}

// At twice the size a light keeps its power or its brightness, as asked.
func TestStrengthWithSize(t *testing.T) {
	far := geom.V(0, 40, 0)
	for kind, add := range map[string]func(b *bench){
		"rectangle": func(b *bench) {
			b.part("panel", quad(far, geom.V(0.2, 0, 0), geom.V(0, 0, 0.2)), b.finish(glow(4e4)))
		},
		"disk": func(b *bench) { b.part("disk", disk(far, 0.1, 64), b.finish(glow(4e4))) },
		"sphere": func(b *bench) {
			b.light(scene.Light{Name: "ball", Colour: geom.Splat(1), Intensity: 1600, Radius: 0.1}, geom.Translate(far))
		},
	} {
		var got [3]float64
		for i, c := range []struct {
			size  float32
			power bool
		}{{1, true}, {2, true}, {2, false}} {
			b := newBench(8, 8)
			st := AsInScene()
			st.Camera, st.Size, st.KeepsPower = false, c.size, c.power
			b.opt.Lamps = []LightSetting{st}
			add(b)
			got[i], _ = b.plane(t, 256, film.Beauty)
		}
		if got[0] < 0.1 {
			t.Fatalf("%s: no light", kind)
		}
		expect(t, kind+" of twice the size at the same power", got[1]/got[0], 1, 0.01)
		expect(t, kind+" of twice the size at the same brightness", got[2]/got[0], 4, 0.04)
	}
}

// What each flag takes away, seen in a mirror, by the camera and in a shadow.
func TestLightFlags(t *testing.T) {
	look := func(surface scene.Finish, eye geom.Vec3, st LightSetting, screen bool) float64 {
		b := newBench(8, 8)
		b.opt.Lamps = []LightSetting{st}
		b.part("panel", quad(geom.V(-1, 3, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), b.finish(glow(2)))
		b.part("floor", floor(50), b.finish(surface))
		if screen {
			b.part("screen", quad(geom.V(-20, 2, -20), geom.V(40, 0, 0), geom.V(0, 0, 40)), b.finish(matte(0)))
		}
		b.camera(eye, geom.V(0, 0, 0.001), 0.002)
		got, _ := meanOf(b.render(t, 256), film.Beauty)
		return got
	}
	mirror := scene.NewFinish("mirror")
	mirror.Roughness = 0
	satin := scene.NewFinish("satin")
	satin.Roughness = 0.5
	below, above := geom.V(0, 1, 0), geom.V(0, 6, 0)
	on, unseen, unmirrored, shadowless := AsInScene(), AsInScene(), AsInScene(), AsInScene()
	unseen.Camera, unmirrored.Reflections, shadowless.Shadows = false, false, false
	expect(t, "mirror image", look(mirror, below, on, false), 2, 1e-3)
	expect(t, "mirror image of a light not in reflections", look(mirror, below, unmirrored, false), 0, 0)
	expect(t, "mirror image of a light the camera does not see", look(mirror, below, unseen, false), 2, 1e-3)
	expect(t, "gloss of a light not in reflections", look(satin, below, unmirrored, false), 0, 0)
	lit := look(matte(1), below, on, false)
	expect(t, "matte under a light not in reflections", look(matte(1), below, unmirrored, false), lit, 0.02*lit)
	expect(t, "matte seen through a hidden light from above", look(matte(1), above, unseen, false), lit, 0.03*lit)
	expect(t, "in the shadow of a screen", look(matte(1), below, on, true), 0, 0)
	expect(t, "behind a screen under a light without shadows", look(matte(1), below, shadowless, true), lit, 0.02*lit)
	expect(t, "in the open under a light without shadows", look(matte(1), below, shadowless, false), lit, 0.02*lit)
	near := AsInScene()
	near.Reach = 2
	expect(t, "beyond a light's reach", look(matte(1), below, near, false), 0, 0)
}

// A light that is not in reflections is not in the way of other light either:
// under an even picture of radiance one a white floor stays white.
func TestALightNotInReflectionsIsNotInTheWay(t *testing.T) {
	px := make([]float32, 16*8*3)
	for i := range px {
		px[i] = 1
	}
	for name, m := range map[string]scene.Mesh{
		"rectangle": quad(geom.V(-1, 1.5, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)),
		"disk":      disk(geom.V(0, 1.5, 0), 1, 48),
	} {
		b := newBench(8, 8)
		st := AsInScene()
		st.Reflections, st.Camera, st.Strength = false, false, 1e-6
		b.opt.Lamps = []LightSetting{st}
		b.opt.Surround = Surround{On: true, Strength: 1, Picture: &imageio.HDR{W: 16, H: 8, Pix: px}}
		b.part("lamp", m, b.finish(glow(1)))
		got, bar := b.plane(t, 1024, film.Beauty)
		expect(t, "white floor under a "+name, got, 1, bar+3e-3)
	}
}

// Data passes pass a light that the camera does not see, as the beauty does.
func TestDataPassesLookThroughAHiddenLight(t *testing.T) {
	for _, hidden := range []bool{false, true} {
		b := newBench(8, 8)
		st := AsInScene()
		st.Camera = !hidden
		b.opt.Lamps = []LightSetting{st}
		b.want = []passes.Kind{passes.Depth}
		b.part("panel", quad(geom.V(-1, 3, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), b.finish(glow(2)))
		b.part("floor", floor(50), b.finish(matte(1)))
		b.camera(geom.V(0, 6, 0), geom.V(0, 0, 0.001), 0.002)
		s, i := b.render(t, 4).At(4, 4)
		p, want, part := s.Pixel(i), 3.0, uint32(0)
		if hidden {
			want, part = 6, 1
		}
		at := b.at(t, passes.DepthPlane)
		expect(t, fmt.Sprintf("depth, light hidden %v", hidden), float64(p[at]/p[at+1]), want, 1e-3)
		if c := s.CoverOf(i, func(k uint32) bool { return k == part }); c != 4 {
			t.Errorf("hidden %v: part %d covers %v of 4 samples", hidden, part, c)
		}
	}
}

// More samples of a light where the camera looks change its noise, not its mean.
func TestSamplesOfALight(t *testing.T) {
	var mean, spread [2]float64
	for i, n := range []int{1, 16} {
		b := newBench(16, 16)
		st := AsInScene()
		st.Samples, st.Camera = n, false
		b.opt.Lamps = []LightSetting{st}
		b.opt.DiffuseBounces = 0
		b.part("panel", quad(geom.V(-1, 2, -1), geom.V(2, 0, 0), geom.V(0, 0, 2)), b.finish(glow(1)))
		b.part("edge", quad(geom.V(-9, 1, -9), geom.V(9, 0, 0), geom.V(0, 0, 18)), b.finish(matte(0)))
		mean[i], spread[i] = b.plane(t, 4, film.Beauty)
	}
	expect(t, "mean with 16 samples of the light", mean[1], mean[0], spread[0]+spread[1])
	if spread[1] > spread[0]/2 {
		t.Errorf("error bars: %v with 1 sample, %v with 16", spread[0], spread[1])
	}
}

// Two hundred lamps, chosen by a tree, give a floor the sum of what each gives
// alone: candela over squared distance, times the cosine.
func TestManyLightsAddUp(t *testing.T) {
	b := newBench(8, 8)
	want := 0.0
	for i := range 200 {
		s, c := math.Sincos(float64(i) * 0.7)
		r := 0.2 + 0.02*float64(i)
		p := geom.V(float32(r*c), 0.5+float32(i%7)*0.4, float32(r*s))
		b.light(scene.Light{Name: fmt.Sprint("lamp", i), Colour: geom.Splat(1), Intensity: float32(1 + i%3)}, geom.Translate(p))
		d2 := float64(p.Len2())
		want += float64(1+i%3) / d2 * float64(p.Y) / math.Sqrt(d2) / math.Pi
	}
	got, bar := b.plane(t, 1024, film.Beauty)
	expect(t, "radiance under two hundred lamps", got, want, bar+1e-3*want)
}

// The level floor under a sky gets what the model says, integrated here again
// on another grid; and the brightest place of the sky is where its sun stands,
// whatever the turn.
func TestSky(t *testing.T) {
	long(t)
	sky := &lights.Sky{Height: 0.9, Turbidity: 3}
	want := float64(sky.Sunlight().Y * sky.Sun().Y)
	const n = 400
	for j := range n {
		for i := range 2 * n {
			th, ph := (float64(j)+0.5)/n*math.Pi/2, (float64(i)+0.5)/n*math.Pi
			d := geom.V(float32(math.Sin(th)*math.Cos(ph)), float32(math.Cos(th)), float32(math.Sin(th)*math.Sin(ph)))
			want += float64(sky.Radiance(d).Y) * math.Sin(th) * math.Cos(th) * math.Pi / 2 / n * math.Pi / n
		}
	}
	for _, turn := range []float32{0, 2} {
		b := newBench(8, 8)
		b.opt.DiffuseBounces = 0
		b.opt.Surround = Surround{On: true, Strength: 1, Turn: turn, Sky: sky}
		got, bar := b.plane(t, 2048, film.Beauty+1)
		expect(t, "level floor under a sky", got, want/math.Pi, bar+0.01*want/math.Pi)

		w := b.world(t)
		var sun, env *lights.Light
		for i := range w.set.Lights {
			if l := &w.set.Lights[i]; l.Kind == lights.Sun {
				sun = l
			} else {
				env = l
			}
		}
		at := func(d geom.Vec3) (v float32) {
			w.set.Escaped(d, func(i int, c geom.Vec3, _ float32) {
				if &w.set.Lights[i] == env {
					v = c.Y
				}
			})
			return v
		}
		to := sun.N.Neg()
		other := geom.V(-to.Z, to.Y, to.X)
		if at(to) < 3*at(other) {
			t.Errorf("turn %v: %v nits at the sun, %v a quarter turn away", turn, at(to), at(other))
		}
	}
}

// A light's reach dims it once, by 1 - (d/r)^4, however its light is found: by
// drawing the light from a matte or by a glossy ray that hits it.
func TestReachDimsOnce(t *testing.T) {
	const h, reach = 2.0, 3.0
	want := 1 - math.Pow(h/reach, 4)
	satin := scene.NewFinish("satin")
	satin.Roughness = 0.25
	for name, light := range map[string]func(b *bench){
		"point": func(b *bench) {
			b.light(scene.Light{Name: "l", Colour: geom.Splat(1), Intensity: 9}, geom.Translate(geom.V(0, h, 0)))
		},
		"sphere": func(b *bench) {
			b.light(scene.Light{Name: "l", Colour: geom.Splat(1), Intensity: 9, Radius: 0.02}, geom.Translate(geom.V(0, h, 0)))
		},
		"rectangle": func(b *bench) {
			b.part("panel", quad(geom.V(-0.02, h, -0.02), geom.V(0.04, 0, 0), geom.V(0, 0, 0.04)), b.finish(glow(900)))
		},
	} {
		for surface, f := range map[string]scene.Finish{"matte": matte(1), "satin": satin} {
			t.Run(name+" on "+surface, func(t *testing.T) {
				var got [2]float64
				for i, r := range []float32{0, reach} {
					b := newBench(4, 4)
					st := AsInScene()
					st.Camera, st.Reach = false, r
					b.opt.Lamps = []LightSetting{st}
					light(b)
					b.part("floor", floor(50), b.finish(f))
					b.camera(geom.V(0, 1, 0), geom.V(0, 0, 0.001), 0.002)
					got[i], _ = meanOf(b.render(t, 256), film.Beauty)
				}
				expect(t, "dimmed over undimmed", got[1]/got[0], want, 0.01)
			})
		}
	}
}
