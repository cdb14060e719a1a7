package trace

import (
	"image"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/optics"
	"amberproof/core/scene"
)

// picture adds an image of w pixels a row to the bench and returns a texture of it.
func (b *bench) picture(w int, px ...[4]byte) scene.Texture {
	img := scene.Image{Name: "test", W: w, H: len(px) / w}
	for _, p := range px {
		img.Pix = append(img.Pix, p[:]...)
	}
	b.s.Images = append(b.s.Images, img)
	t := scene.NoTexture
	t.Image = len(b.s.Images) - 1
	return t
}

// wall is a square facing +Z whose texture coordinates run right and down.
func wall() scene.Mesh {
	m := quad(geom.V(-1, -1, 0), geom.V(2, 0, 0), geom.V(0, 2, 0))
	m.UV[0] = [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}}
	m.Normals = []geom.Vec3{{Z: 1}, {Z: 1}, {Z: 1}, {Z: 1}}
	return m
}

// facing looks straight at the wall so that it fills the frame, in even light.
func facing(b *bench) {
	b.opt.Camera = Camera{World: geom.Translate(geom.V(0, 0, 5)), YMag: 1}
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
}

// at reads a channel of the beauty at a pixel.
func at(f *film.Film, x, y, c int) float32 {
	p := f.Tiles[0].Pixel(y*f.Tiles[0].Rect.Dx() + x)
	return p[film.Beauty+c] / p[film.Weight]
}

func TestBaseTextureLiesTheRightWayRoundAndIsDecoded(t *testing.T) {
	b := newBench(16, 16)
	f := matte(1)
	f.BaseTexture = b.picture(2, [4]byte{255, 0, 0, 255}, [4]byte{0, 255, 0, 255}, [4]byte{0, 0, 255, 255}, [4]byte{128, 128, 128, 255})
	f.BaseTexture.WrapU, f.BaseTexture.WrapV = scene.Clamp, scene.Clamp
	b.part("wall", wall(), b.finish(f))
	facing(b)
	r := b.render(t, 16)
	// A flat white wall in an even surround of radiance one shows its albedo.
	for _, c := range []struct {
		x, y, ch int
		want     float32
	}{{1, 1, 0, 1}, {1, 1, 1, 0}, {14, 1, 1, 1}, {1, 14, 2, 1}, {14, 14, 0, colour.SRGB8[128]}} {
		if got := at(r, c.x, c.y, c.ch); geom.Abs(got-c.want) > 0.02 {
			t.Errorf("pixel %d,%d channel %d: expected %.3f, got %.3f", c.x, c.y, c.ch, c.want, got)
		}
	}
}

func TestWrapsAndTextureTransform(t *testing.T) {
	for _, c := range []struct {
		i    float32
		how  scene.Wrap
		want int
	}{
		{-1, scene.Repeat, 3}, {4, scene.Repeat, 0}, {9, scene.Repeat, 1}, {-1, scene.Clamp, 0}, {7, scene.Clamp, 3},
		{-1, scene.Mirror, 0}, {4, scene.Mirror, 3}, {5, scene.Mirror, 2}, {8, scene.Mirror, 0}, {3e38, scene.Repeat, 0},
	} {
		if got := wrap(c.i, 4, c.how); got != c.want {
			t.Errorf("texel %v of 4, wrap %d: %d, want %d", c.i, c.how, got, c.want)
		}
	}
	b := newBench(16, 16)
	f := matte(1)
	f.BaseTexture = b.picture(2, [4]byte{255, 255, 255, 255}, [4]byte{0, 0, 0, 255})
	f.BaseTexture.Transform = [6]float32{1, 0, 0.5, 0, 1, 0} // shifted by half: black comes first
	b.part("wall", wall(), b.finish(f))
	facing(b)
	r := b.render(t, 16)
	if l, q := at(r, 4, 8, 0), at(r, 12, 8, 0); l > 0.1 || q < 0.9 {
		t.Errorf("left %.2f and right %.2f, want dark and light", l, q)
	}
}

func TestMetalAndRoughnessComeFromBlueAndGreen(t *testing.T) {
	b := newBench(8, 8)
	f := scene.NewFinish("plate")
	f.Base, f.Metallic, f.Roughness = geom.V(0.9, 0.4, 0.2), 1, 1
	f.MetalRoughTexture = b.picture(1, [4]byte{255, 51, 0, 255})
	b.part("wall", wall(), b.finish(f))
	facing(b)
	w := b.world(t)
	pt := point{f: &w.finishes[0], colour: geom.Splat(1)}
	s := w.surface(&pt, 1)
	if s.Metallic != 0 || geom.Abs(s.Roughness-0.2) > 1e-3 {
		t.Errorf("metallic %v, roughness %v; want 0 and 0.2", s.Metallic, s.Roughness)
	}
}

// A normal map that leans right (red) turns the surface towards a light on the
// right, and one that leans up (green) towards a light above, whether the
// tangents come from the file or from the texture coordinates, and on a
// mirrored instance as well.
func TestNormalMapLeansTheRightWay(t *testing.T) {
	lean := func(px [4]byte, to geom.Vec3, tangents, mirrored bool) float64 {
		b := newBench(8, 8)
		f := matte(1)
		f.NormalTexture = b.picture(1, px)
		m := wall()
		if tangents {
			m.Tangents = [][4]float32{{1, 0, 0, 1}, {1, 0, 0, 1}, {1, 0, 0, 1}, {1, 0, 0, 1}}
		}
		b.part("wall", m, b.finish(f))
		if mirrored {
			// Mirrored in X, "right" in the texture is left in the world.
			b.s.Objects[0].World = geom.Compose(geom.Vec3{}, [4]float32{0, 0, 0, 1}, geom.V(-1, 1, 1))
			to.X = -to.X
		}
		b.light(scene.Light{Name: "sun", Kind: scene.SunLight, Colour: geom.Splat(1), Intensity: 3}, geom.LookAt(to, geom.Vec3{}, geom.V(0.1, 0.9, 0.2)))
		facing(b)
		b.opt.Surround.On = false
		b.opt.DiffuseBounces = 0
		v, _ := meanOf(b.render(t, 16), film.Beauty)
		return v
	}
	right, up := [4]byte{220, 128, 220, 255}, [4]byte{128, 220, 220, 255}
	for _, tangents := range []bool{false, true} {
		for _, mirrored := range []bool{false, true} {
			for name, c := range map[string]struct {
				px   [4]byte
				axis geom.Vec3
			}{"right": {right, geom.V(1, 0, 0.6)}, "up": {up, geom.V(0, 1, 0.6)}} {
				towards := lean(c.px, c.axis, tangents, mirrored)
				away := lean(c.px, geom.V(-c.axis.X, -c.axis.Y, c.axis.Z), tangents, mirrored)
				if !(towards > 2*away && towards > 0.5) {
					t.Errorf("%s, tangents %v, mirrored %v: %.3f from its side, %.3f from the other", name, tangents, mirrored, towards, away)
				}
			}
		}
	}
}

func TestMaskedHolesFollowTheTexture(t *testing.T) {
	b := newBench(16, 16)
	f := matte(0)
	f.AlphaMode, f.Cutoff = scene.Mask, 0.5
	f.BaseTexture = b.picture(2, [4]byte{0, 0, 0, 255}, [4]byte{0, 0, 0, 40})
	f.BaseTexture.WrapU = scene.Clamp
	b.part("wall", wall(), b.finish(f))
	facing(b)
	b.opt.Backing = BackClear
	r := b.render(t, 16)
	alpha := func(x int) float32 {
		p := r.Tiles[0].Pixel(8*16 + x)
		return p[film.Alpha] / p[film.Weight]
	}
	if alpha(2) != 1 || alpha(13) != 0 {
		t.Errorf("alpha %v left and %v right, want 1 and 0", alpha(2), alpha(13))
	}
}

// A mirrored instance shines and is lit on the same side as its original.
func TestMirroredGlowShinesOutwards(t *testing.T) {
	var got [2]float64
	for i, scale := range []geom.Vec3{geom.V(1, 1, 1), geom.V(-1, 1, 1)} {
		b := newBench(8, 8)
		b.part("glow", ball(geom.V(0, 2, 0), 0.5, 24), b.finish(glow(4)))
		b.s.Objects[0].World = geom.Compose(geom.Vec3{}, [4]float32{0, 0, 0, 1}, scale)
		got[i], _ = b.plane(t, 256, film.Beauty)
	}
	if got[0] < 0.1 {
		t.Fatalf("the floor is dark: %v", got[0])
	}
	expect(t, "floor under a mirrored lamp", got[1], got[0], 0.02*got[0])
}

// A region is the same pixels as the frame it is cut from, to the bit: samples
// are addressed by their place in the frame.
func TestARegionIsCutFromTheSameFrame(t *testing.T) {
	b := room(64)
	whole := b.render(t, 4)
	b.opt.Window = image.Rect(13, 21, 50, 60)
	part := b.render(t, 4)
	find := func(f *film.Film, x, y int) []float32 {
		for i := range f.Tiles {
			if tl := &f.Tiles[i]; image.Pt(x, y).In(tl.Rect) {
				return tl.Pixel((y-tl.Rect.Min.Y)*tl.Rect.Dx() + x - tl.Rect.Min.X)
			}
		}
		t.Fatalf("no tile holds %d,%d", x, y)
		return nil
	}
	for y := 21; y < 60; y++ {
		for x := 13; x < 50; x++ {
			a, c := find(whole, x, y), find(part, x, y)
			for k := range a {
				if a[k] != c[k] {
					t.Fatalf("pixel %d,%d sum %d: %v in the frame, %v in the region", x, y, k, a[k], c[k])
				}
			}
		}
	}
}

func TestLampsAreFlatGlowingRectanglesOnly(t *testing.T) {
	b := newBench(8, 8)
	g := b.finish(glow(2))
	textured := glow(2)
	textured.EmissionTexture = b.picture(1, [4]byte{255, 255, 255, 255})
	tx := b.finish(textured)
	b.part("panel", quad(geom.V(1, 2, 3), geom.V(2, 0, 0), geom.V(0, 0, 1)), g)
	b.part("panel", quad(geom.V(1, 2, 3), geom.V(0, 0, 1), geom.V(2, 0, 0)), g)
	skew := quad(geom.V(0, 0, 0), geom.V(2, 0, 0), geom.V(1, 1, 0))
	b.part("skewed", skew, g)
	bent := quad(geom.V(0, 0, 0), geom.V(1, 0, 0), geom.V(0, 1, 0))
	bent.Positions[2].Z = 0.4
	b.part("bent", bent, g)
	b.part("screen", wall(), tx)
	b.part("bulb", ball(geom.Vec3{}, 1, 6), g)
	b.part("dark", wall(), b.finish(matte(1)))
	// The corners of a quad in any order, with its own vertices per triangle.
	loose := scene.Mesh{Positions: []geom.Vec3{{X: 1, Y: 1}, {Y: 1}, {}, {}, {X: 1}, {X: 1, Y: 1}}, Indices: []uint32{0, 1, 2, 3, 4, 5}}
	b.part("loose", loose, g)
	var names []string
	for _, l := range LampsOf(&b.s) {
		names = append(names, l.Name)
	}
	want := []string{"panel", "panel 2", "loose"}
	if len(names) != len(want) {
		t.Fatalf("lamps %v, want %v", names, want)
	}
	for i := range want {
		if names[i] != want[i] {
			t.Errorf("lamps %v, want %v", names, want)
		}
	}
	l := LampsOf(&b.s)
	if r := l[0].rect; r.w*r.h != 2 || r.p != geom.V(2, 2, 3.5) || r.n.Add(l[1].rect.n).Len() > 1e-6 {
		t.Errorf("rectangle %+v", r)
	}
	if r := l[2].rect; r.n.Z < 0.999 || r.w*r.h != 1 {
		t.Errorf("loose rectangle %+v", r)
	}
}

func TestSwitchingAndStrengthOfALamp(t *testing.T) {
	value := func(s LightSetting) float64 {
		b := newBench(8, 8)
		b.opt.Lamps = []LightSetting{s}
		b.part("panel", quad(geom.V(-0.5, 2, -0.5), geom.V(1, 0, 0), geom.V(0, 0, 1)), b.finish(glow(2)))
		v, _ := b.plane(t, 64, film.Beauty)
		return v
	}
	one := value(AsInScene())
	strong := AsInScene()
	strong.Strength = 3
	expect(t, "three times the strength", value(strong), 3*one, 1e-3)
	expect(t, "switched off", value(LightSetting{Strength: 1}), 0, 0)
}

// Orthographic views keep size with distance.
func TestOrthographicViewKeepsSize(t *testing.T) {
	for _, z := range []float32{0, -30} {
		b := newBench(32, 32)
		m := quad(geom.V(-0.5, -0.5, z), geom.V(1, 0, 0), geom.V(0, 1, 0))
		b.part("card", m, b.finish(matte(1)))
		b.opt.Camera = Camera{World: geom.Translate(geom.V(0, 0, 5)), YMag: 1}
		b.opt.Backing = BackClear
		got, _ := meanOf(b.render(t, 16), film.Alpha)
		expect(t, "share of the frame a card of half its size covers", got, 0.25, 0.01)
	}
}

// An override has the last word: over a wall whose mesh is red at its vertices it
// lays its own tone, and that by where the point is.
func TestOverridesHaveTheLastWord(t *testing.T) {
	b := newBench(16, 16)
	wall := quad(geom.V(-1, -1, 0), geom.V(2, 0, 0), geom.V(0, 2, 0))
	for range wall.Positions {
		wall.Colours = append(wall.Colours, [4]float32{1, 0, 0, 1})
	}
	b.part("wall", wall, b.finish(matte(1)))
	b.opt.Overrides = []optics.Override{func(at optics.Spot, s optics.Surface) optics.Surface {
		s.Base = geom.Splat(0.5)
		if at.P.X > 0 {
			s.Base = geom.Splat(0.25)
		}
		if at.N.Z < 0.99 || at.Part != 0 {
			s.Base = geom.Vec3{}
		}
		return s
	}}
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(1), Strength: 1}
	b.opt.DiffuseBounces = 0
	b.camera(geom.V(0, 0, 3), geom.Vec3{}, 0.3)
	f := b.render(t, 256)
	for x, want := range map[int]float32{3: 0.5, 12: 0.25} {
		for _, y := range []int{2, 8, 13} {
			s, i := f.At(x, y)
			if c, _ := s.Light(i); geom.Abs(c.X-want) > 1e-3 || geom.Abs(c.Y-want) > 1e-3 {
				t.Errorf("pixel %d, %d: %v, want %v", x, y, c, want)
			}
		}
	}
}
