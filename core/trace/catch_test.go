package trace

import (
	"image"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/core/scene"
)

// catcher is a bench looking straight down, through a lens without perspective,
// at a floor that catches shadows: sixteen pixels a metre.
func catcher(width, height int, backing Backing) *bench {
	b := newBench(width, height)
	b.catches, b.opt.Backing = true, backing
	b.part("floor", floor(50), b.finish(matte(0.5)))
	b.opt.Catches = []bool{true}
	b.opt.Camera = Camera{World: geom.LookAt(geom.V(0, 9, 0), geom.Vec3{}, geom.V(0, 0, -1)), YMag: float32(height) / 32}
	return b
}

// meanCaught is the mean over all pixels of what catches shadows, and a bar.
func meanCaught(f *film.Film, of func(s *film.Sums, i int) float32) (mean, bar float64) {
	var sq, n float64
	for k := range f.Tiles {
		for i := range f.Tiles[k].Rect.Dx() * f.Tiles[k].Rect.Dy() {
			v := float64(of(f.Tiles[k].Sums, i))
			mean, sq, n = mean+v, sq+v*v, n+1
		}
	}
	mean /= n
	return mean, 4 * math.Sqrt(max(0, sq/n-mean*mean)/n)
}

func shadow(s *film.Sums, i int) float32 { return s.Shadow(i) }

// Under a plate that one of two lamps does not pass, the floor catches that lamp's
// share of the light; beside its shadow, nothing.
func TestAFloorCatchesTheShareOfTheLightThatIsBlocked(t *testing.T) {
	b := catcher(32, 16, BackClear)
	b.light(scene.Light{Name: "one", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 3}, geom.LookAt(geom.V(0, 1, 0), geom.Vec3{}, geom.V(1, 0, 0)))
	b.light(scene.Light{Name: "two", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 1}, geom.LookAt(geom.V(0, 1, 100), geom.Vec3{}, geom.V(0, 1, 0)))
	b.part("plate", quad(geom.V(-50, 1, 50), geom.V(50, 0, 0), geom.V(0, 0, -60)), b.finish(matte(0.5)))
	b.opt.Camera.World = geom.LookAt(geom.V(0, 0.9, 0), geom.Vec3{}, geom.V(0, 0, -1))
	f := b.render(t, 4)
	// The low sun shines under the plate; the high one makes 3 of 3.01 on the floor.
	low := 1 / math.Sqrt(1+100*100)
	for x := range 32 {
		s, i := f.At(x, 8)
		want := 0.0
		if x < 16 {
			want = 3 / (3 + low)
		}
		c, alpha := s.Light(i)
		if math.Abs(float64(s.Shadow(i))-want) > 1e-4 || math.Abs(float64(alpha)-want) > 1e-4 || !c.IsZero() {
			t.Fatalf("pixel %d: shadow %v, alpha %v, colour %v; want %v, as much, and black", x, s.Shadow(i), alpha, c, want)
		}
	}
}

// Beside a ball under an even sky, the floor misses what the ball covers of the
// cosine-weighted sky: (r/d)^2 times the cosine of its direction.
func TestAFloorUnderABallMissesItsFormFactor(t *testing.T) {
	for _, picture := range []bool{false, true} {
		b := catcher(4, 4, BackClear)
		b.part("ball", ball(geom.V(0.6, 1.2, 0), 0.5, 64), b.finish(matte(0.5)))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
		if picture {
			// As a picture of one tone but for a corner below the floor it is sampled as a light.
			b.opt.Surround.Picture = onesWithASpot()
		}
		b.opt.Camera.YMag = 0.001
		f := b.render(t, 4096)
		d2 := 0.6*0.6 + 1.2*1.2
		got, bar := meanCaught(f, shadow)
		expect(t, "shadow beside a ball", got, 0.25/d2*1.2/math.Sqrt(d2), bar+1e-3)
	}
}

// Against a tone the floor is that tone, dimmed, and the elements still add up;
// what stands on the floor is as it would be on a floor that shows.
func TestCaughtShadowsAddUpOverATone(t *testing.T) {
	long(t)
	var b *bench
	take := func(catches bool) *film.Film {
		b = catcher(32, 32, BackTone)
		b.opt.BackingTone = geom.V(0.3, 0.4, 0.5)
		b.opt.Catches[0] = catches
		b.want = []passes.Kind{passes.Light}
		b.part("ball", ball(geom.V(0, 0.4, 0), 0.4, 32), b.finish(plain("ball", geom.V(0.7, 0.2, 0.1), 0.2)))
		b.part("panel", quad(geom.V(-2, 3, -0.5), geom.V(1, 0, 0), geom.V(0, 0, 1)), b.finish(glow(5)))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.4), Strength: 1}
		return b.render(t, 64)
	}
	f := take(true)
	darkest := float32(1)
	for y := range 32 {
		for x := range 32 {
			s, i := f.At(x, y)
			px := s.Pixel(i)
			c, alpha := s.Light(i)
			sum := s.Seen(i)
			for e := range ElementsOf(&b.s, &b.opt) {
				at := b.at(t, film.ElementName(e))
				sum = sum.Add(geom.V(px[at], px[at+1], px[at+2]).Scale(1 / px[film.Weight]))
			}
			if d := sum.Sub(c); geom.Abs(d.X)+geom.Abs(d.Y)+geom.Abs(d.Z) > 1e-5 || geom.Abs(alpha-1) > 1e-5 {
				t.Fatalf("pixel %d, %d: elements %v, beauty %v, alpha %v", x, y, sum, c, alpha)
			}
			if px[b.at(t, film.CaughtPlane.Name)+film.Caught] == px[film.Weight] { // nothing but floor
				open := 1 - s.Shadow(i)
				if geom.Abs(c.X-0.3*open)+geom.Abs(c.Y-0.4*open)+geom.Abs(c.Z-0.5*open) > 1e-5 {
					t.Fatalf("pixel %d, %d: %v is not the tone at %v", x, y, c, open)
				}
				darkest = min(darkest, open)
			}
		}
	}
	if darkest > 0.6 {
		t.Errorf("the darkest shadow lets %v through", darkest)
	}
	shown := take(false)
	for _, at := range []image.Point{{16, 16}, {18, 14}} {
		a, i := f.At(at.X, at.Y)
		p, j := shown.At(at.X, at.Y)
		ca, _ := a.Light(i)
		cp, _ := p.Light(j)
		if ca != cp {
			t.Errorf("the ball is %v on the floor that catches shadows, %v on one that shows", ca, cp)
		}
	}
}

// A wall that belongs to the floor throws no shadow on it: they are one backdrop.
func TestWhatCatchesShadowsThrowsNoneOnItself(t *testing.T) {
	b := catcher(8, 8, BackClear)
	b.part("wall", quad(geom.V(-5, 0, -1), geom.V(10, 0, 0), geom.V(0, 5, 0)), 0)
	b.opt.Catches = []bool{true, true}
	b.light(scene.Light{Name: "behind", Kind: scene.PointLight, Colour: geom.Splat(1), Intensity: 9}, geom.Translate(geom.V(0, 2, -3)))
	got, _ := meanCaught(b.render(t, 4), shadow)
	expect(t, "shadow of the wall on its floor", got, 0, 1e-6)
}

// A coarse bulging floor with smooth normals is not in its own shadow, nor in that
// of the very lamp that lights it: rays begin above its facets.
func TestACoarseBulgingFloorIsUnshadowed(t *testing.T) {
	b := newBench(16, 16)
	b.catches, b.opt.Backing = true, BackClear
	b.part("dome", ball(geom.Vec3{}, 1, 6), b.finish(matte(0.5)))
	b.opt.Catches = []bool{true}
	b.part("panel", quad(geom.V(-0.2, 1.6, -0.2), geom.V(0.4, 0, 0), geom.V(0, 0, 0.4)), b.finish(glow(5)))
	unseen := AsInScene()
	unseen.Camera = false
	b.opt.Lamps = []LightSetting{unseen}
	b.opt.Camera = Camera{World: geom.LookAt(geom.V(0, 5, 0), geom.Vec3{}, geom.V(0, 0, -1)), YMag: 0.3}
	got, _ := meanCaught(b.render(t, 16), shadow)
	expect(t, "shadow on a bare dome", got, 0, 1e-6)
}

// The lens can be focused on such a floor, which is there though it does not show.
func TestTheLensFocusesOnAFloorThatCatchesShadows(t *testing.T) {
	b := catcher(8, 8, BackClear)
	b.camera(geom.V(0, 3, 0.0001), geom.Vec3{}, 0.3)
	b.opt.Camera.Aperture, b.opt.Camera.FocusAt = 0.01, [2]float32{0.5, 0.5}
	b.part("ball", ball(geom.V(5, 20, 0), 0.3, 8), b.finish(matte(0.5)))
	expect(t, "focus", float64(b.world(t).camera.focus), 3, 1e-3)
}

// onesWithASpot is an environment of one tone but for a spot straight below.
func onesWithASpot() *imageio.HDR {
	p := &imageio.HDR{W: 16, H: 8}
	for i := range 16 * 8 {
		v := float32(1)
		if i == 16*8-1 {
			v = 3
		}
		p.Pix = append(p.Pix, v, v, v)
	}
	return p
}
