package trace

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/scene"
)

// golden is a set-up of the regression renders: its name, what would go wrong
// in it first, and how it is built.
type golden struct {
	name, shows string
	build       func(b *bench)
}

func plain(name string, base geom.Vec3, rough float32) scene.Finish {
	f := scene.NewFinish(name)
	f.Base, f.Metallic, f.Roughness = base, 0, rough
	return f
}

func metal(name string, base geom.Vec3, rough float32) scene.Finish {
	f := plain(name, base, rough)
	f.Metallic = 1
	return f
}

// stageOf puts a panel above and a floor below what is looked at.
func stageOf(b *bench) {
	b.part("floor", floor(8), b.finish(plain("floor", geom.Splat(0.5), 0.9)))
	b.part("panel", quad(geom.V(-1.2, 3, 0.2), geom.V(2, 0, 0), geom.V(0, -0.6, 1.6)), b.finish(glow(9)))
	b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.25), Strength: 1}
}

// row puts balls of the given finishes side by side.
func row(b *bench, finishes ...scene.Finish) {
	stageOf(b)
	n := float32(len(finishes))
	r := 0.95 / n
	for i, f := range finishes {
		b.part("ball", ball(geom.V((float32(i)-(n-1)/2)*2*r, r+0.001, 0), r*0.96, 24), b.finish(f))
	}
}

// lathed turns an outline of radii and heights about an upright axis; it shares
// its vertices but along the seam, where the picture on it begins and ends.
func lathed(at geom.Vec3, sides int, outline [][2]float32) (m scene.Mesh) {
	n := uint32(len(outline))
	for k := range sides + 1 {
		sin, cos := math.Sincos(2 * math.Pi * float64(k%sides) / float64(sides))
		for j, o := range outline {
			m.Positions = append(m.Positions, at.Add(geom.V(o[0]*float32(cos), o[1], o[0]*float32(sin))))
			m.UV[0] = append(m.UV[0], [2]float32{4 * float32(k) / float32(sides), 2 * float32(j) / float32(n-1)})
		}
	}
	for k := range uint32(sides) {
		for j := range n - 1 {
			a := k*n + j
			m.Indices = append(m.Indices, a, a+1, a+n, a+1, a+n+1, a+n)
		}
	}
	return m
}

// wheel is spokes about the z axis.
func wheel(spokes int, r float32) (m scene.Mesh) {
	for k := range spokes {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / float64(spokes))
		out, across := geom.V(float32(cos), float32(sin), 0), geom.V(float32(-sin), float32(cos), 0).Scale(0.06*r)
		q := quad(out.Scale(0.15*r).Sub(across), across.Scale(2), out.Scale(0.8*r))
		for _, i := range q.Indices {
			m.Indices = append(m.Indices, i+uint32(len(m.Positions)))
		}
		m.Positions = append(m.Positions, q.Positions...)
	}
	return m
}

func withUV(m scene.Mesh) scene.Mesh {
	m.UV[0] = [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}}
	return m
}

// drawing adds a picture of the given size to the scene.
func drawing(b *bench, n int, at func(x, y int) [4]byte) scene.Texture {
	img := scene.Image{Name: "drawing", W: n, H: n}
	for y := range n {
		for x := range n {
			p := at(x, y)
			img.Pix = append(img.Pix, p[:]...)
		}
	}
	b.s.Images = append(b.s.Images, img)
	return scene.Texture{Image: len(b.s.Images) - 1, Transform: [6]float32{1, 0, 0, 0, 1, 0}}
}

// bumps is a normal map of round bumps in rows; down is -1 for green that points down.
func bumps(b *bench, down float64) scene.Texture {
	return drawing(b, 64, func(x, y int) [4]byte {
		u, v := (float64(x%16)-7.5)/8, (7.5-float64(y%16))/8
		r2 := u*u + v*v
		if r2 > 0.8 {
			return [4]byte{128, 128, 255, 255}
		}
		return [4]byte{byte(128 + 110*u), byte(128 + 110*v*down), byte(128 + 127*math.Sqrt(1-r2)), 255}
	})
}

var goldens = []golden{
	{"corner", "Bounced colour, soft shadow, no light through the seams of the walls.", func(b *bench) {
		b.part("floor", quad(geom.V(-1, 0, 1), geom.V(2, 0, 0), geom.V(0, 0, -2)), b.finish(matte(0.7)))
		b.part("back", quad(geom.V(-1, 0, -1), geom.V(2, 0, 0), geom.V(0, 2, 0)), b.finish(matte(0.7)))
		b.part("left", quad(geom.V(-1, 0, 1), geom.V(0, 0, -2), geom.V(0, 2, 0)), b.finish(plain("red", geom.V(0.6, 0.1, 0.05), 1)))
		b.part("right", quad(geom.V(1, 0, -1), geom.V(0, 0, 2), geom.V(0, 2, 0)), b.finish(plain("blue", geom.V(0.08, 0.2, 0.6), 1)))
		b.part("lamp", quad(geom.V(-0.3, 1.95, -0.3), geom.V(0.6, 0, 0), geom.V(0, 0, 0.6)), b.finish(glow(12)))
		b.part("ball", ball(geom.V(0.3, 0.3, -0.2), 0.3, 24), b.finish(plain("ball", geom.Splat(0.6), 0.3)))
	}},
	{"polish", "Metal from mirror to rough: energy kept, no dark rims, no fireflies.", func(b *bench) {
		gold := geom.V(1, 0.71, 0.29)
		row(b, metal("0", gold, 0), metal("1", gold, 0.25), metal("2", gold, 0.5), metal("3", gold, 1))
	}},
	{"enamel", "Gloss over colour, with and without a coat.", func(b *bench) {
		coat := plain("coat", geom.V(0.02, 0.12, 0.1), 0.7)
		coat.Clearcoat, coat.ClearcoatRoughness = 1, 0.05
		row(b, plain("dull", geom.V(0.02, 0.12, 0.1), 0.7), plain("gloss", geom.V(0.02, 0.12, 0.1), 0.1), coat)
	}},
	{"special", "Sheen, a brushed metal, a thin film.", func(b *bench) {
		cloth := plain("cloth", geom.V(0.1, 0.02, 0.05), 1)
		cloth.Sheen, cloth.SheenRoughness = geom.V(0.9, 0.6, 0.7), 0.4
		brushed := metal("brushed", geom.Splat(0.8), 0.25)
		brushed.Anisotropy = 0.8
		bubble := plain("film", geom.Splat(0.02), 0.05)
		bubble.Iridescence, bubble.FilmIOR, bubble.FilmThick = 1, 1.35, 420
		row(b, cloth, brushed, bubble)
	}},
	{"glass", "Bent shadows: the caustic under clear and frosted glass.", func(b *bench) {
		b.opt.StraightShadows = false
		row(b, glass(0), glass(0.3))
	}},
	{"window", "Straight shadows: tinted, and a shell that hardly dims.", func(b *bench) {
		tinted := glass(0)
		tinted.AttenuationColour, tinted.AttenuationDistance = geom.V(0.3, 0.8, 0.5), 0.4
		shell := glass(0)
		shell.Thickness = 0
		row(b, tinted, shell)
	}},
	{"drink", "A liquid a little into its glass: the glass wins, no air between.", func(b *bench) {
		stageOf(b)
		g := glass(0)
		g.Priority = 1
		l := liquid(0)
		l.AttenuationColour, l.AttenuationDistance = geom.V(0.9, 0.4, 0.05), 0.3
		gi, li := b.finish(g), b.finish(l)
		outer, inner := ball(geom.V(0, 0.75, 0), 0.7, 32), ball(geom.V(0, 0.75, 0), 0.6, 32)
		for i := range inner.Normals { // the cavity of the glass faces inwards
			inner.Normals[i] = inner.Normals[i].Neg()
		}
		for k := 0; k < len(inner.Indices); k += 3 {
			inner.Indices[k], inner.Indices[k+1] = inner.Indices[k+1], inner.Indices[k]
		}
		b.part("glass", outer, gi)
		b.part("cavity", inner, gi)
		b.part("drink", ball(geom.V(0, 0.75, 0), 0.62, 32), li)
	}},
	{"prism", "Dispersion: a coloured edge, and white where all colours meet.", func(b *bench) {
		b.opt.StraightShadows = false
		f := glass(0)
		f.Dispersion, f.IOR = 1.5, 1.6
		row(b, f)
		b.part("bar", quad(geom.V(-0.15, 0, -2), geom.V(0.3, 0, 0), geom.V(0, 3, 0)), b.finish(glow(4)))
	}},
	{"floorboards", "A fine pattern to the horizon: neither sparkling nor mush.", func(b *bench) {
		b.camera(geom.V(0, 0.5, 3), geom.V(0, 0.3, 0), 0.6)
		f := plain("tiles", geom.Splat(1), 1)
		f.BaseTexture = drawing(b, 64, func(x, y int) [4]byte {
			if (x/32+y/32)%2 == 0 {
				return [4]byte{230, 225, 210, 255}
			}
			return [4]byte{40, 60, 70, 255}
		})
		f.BaseTexture.Transform = [6]float32{40, 0, 0, 0, 40, 0}
		b.part("floor", withUV(quad(geom.V(-20, 0, 20), geom.V(40, 0, 0), geom.V(0, 0, -40))), b.finish(f))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.7), Strength: 1}
	}},
	{"relief", "Normal maps of both green conventions look alike, and never go black.", func(b *bench) {
		b.camera(geom.V(0, 0.7, 4.2), geom.V(0, 0.6, 0), 0.5)
		up, dn := plain("up", geom.Splat(0.6), 0.4), plain("down", geom.Splat(0.6), 0.4)
		up.NormalTexture, dn.NormalTexture, dn.GreenDown = bumps(b, 1), bumps(b, -1), true
		for i, f := range []scene.Finish{up, dn} {
			m := withUV(quad(geom.V(float32(i)*1.05-1.02, 0.1, 0), geom.V(1, 0, 0), geom.V(0, 1, -0.1)))
			b.part("board", m, b.finish(f))
		}
		b.part("panel", quad(geom.V(-1, 3, 0), geom.V(2, 0, 0), geom.V(0, -0.6, 1.6)), b.finish(glow(12)))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.2), Strength: 1}
	}},
	{"lacquer", "A coat that lies smooth over bumps; a coat with bumps of its own over a smooth ground; glass " +
		"whose gloss is dull, and glass whose gloss is red.", func(b *bench) {
		b.camera(geom.V(0, 0.7, 4.2), geom.V(0, 0.6, 0), 0.5)
		coated := func(name string) scene.Finish {
			f := plain(name, geom.V(0.25, 0.05, 0.03), 0.6)
			f.Clearcoat, f.ClearcoatRoughness = 1, 0.12
			return f
		}
		over, own := coated("over"), coated("own")
		over.NormalTexture, own.CoatNormalTexture = bumps(b, 1), bumps(b, 1)
		for i, f := range []scene.Finish{over, own} {
			m := withUV(quad(geom.V(float32(i)*1.05-1.02, 0.45, -0.1), geom.V(1, 0, 0), geom.V(0, 0.8, -0.35)))
			b.part("board", m, b.finish(f))
		}
		dull, red := glass(0), glass(0)
		dull.Specular, red.SpecularColour = 0.05, geom.V(9, 0.4, 0.4)
		b.part("dull", ball(geom.V(-0.5, 0.25, 0.3), 0.22, 32), b.finish(dull))
		b.part("red", ball(geom.V(0.5, 0.25, 0.3), 0.22, 32), b.finish(red))
		b.part("panel", quad(geom.V(-1, 3, 0), geom.V(2, 0, 0), geom.V(0, -0.6, 1.6)), b.finish(glow(12)))
		b.part("floor", floor(8), b.finish(plain("floor", geom.Splat(0.5), 0.9)))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.2), Strength: 1}
	}},
	{"facets", "A coarse ball with smooth normals under a small lamp: no staircase where the shadow begins.", func(b *bench) {
		b.part("floor", floor(8), b.finish(matte(0.5)))
		b.part("ball", ball(geom.V(0, 0.8, 0), 0.8, 7), b.finish(matte(0.7)))
		b.light(scene.Light{Name: "lamp", Colour: geom.Splat(1), Intensity: 40, Radius: 0.05}, geom.Translate(geom.V(-3, 2.2, 1)))
		b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.05), Strength: 1}
	}},
	{"lens", "Depth of field with six blades: hexagons from the small lights.", func(b *bench) {
		stageOf(b)
		b.opt.Camera.Aperture, b.opt.Camera.Blades, b.opt.Camera.Focus = 0.12, 6, 4.2
		b.part("near", ball(geom.V(0.2, 0.4, 0), 0.4, 24), b.finish(metal("steel", geom.Splat(0.7), 0.2)))
		for i := range 5 {
			b.part("spark", ball(geom.V(float32(i)*0.5-1, 1.3, -4), 0.02, 8), b.finish(glow(600)))
		}
	}},
	{"leaves", "Cut-out and thinned surfaces, and their shadows.", func(b *bench) {
		stageOf(b)
		ring := func(x, y int) [4]byte {
			d := math.Hypot(float64(x)-15.5, float64(y)-15.5)
			return [4]byte{90, 150, 60, byte(255 * max(0, min(1, 14-d)))}
		}
		cut, thin := plain("cut", geom.Splat(1), 0.8), plain("thin", geom.Splat(1), 0.8)
		cut.BaseTexture, cut.AlphaMode, cut.DoubleSided = drawing(b, 32, ring), scene.Mask, true
		thin.BaseTexture, thin.AlphaMode, thin.Alpha, thin.DoubleSided = cut.BaseTexture, scene.Blend, 0.5, true
		b.part("cut", withUV(quad(geom.V(-1, 0.3, 0), geom.V(0.9, 0, 0), geom.V(0, 0.8, -0.4))), b.finish(cut))
		b.part("thin", withUV(quad(geom.V(0.1, 0.3, 0), geom.V(0.9, 0, 0), geom.V(0, 0.8, -0.4))), b.finish(thin))
	}},
	{"noon", "A sky with its sun: blue shade, warm light, one sharp shadow.", func(b *bench) {
		b.part("floor", floor(8), b.finish(matte(0.5)))
		b.part("ball", ball(geom.V(0, 0.6, 0), 0.6, 24), b.finish(matte(0.6)))
		b.opt.Surround = Surround{On: true, Strength: 2.5e-5, Turn: 1, Sky: &lights.Sky{Height: 0.9, Turbidity: 3}}
	}},
	{"swing", "A wheel that turns, a lamp and a glowing ball that move: even blur, soft ends, shadows and light that move with them.", func(b *bench) {
		stageOf(b)
		paint := plain("paint", geom.V(0.55, 0.09, 0.06), 0.4)
		paint.DoubleSided = true
		b.part("wheel", wheel(5, 0.55), b.finish(paint))
		turn := &scene.Curve{Times: []float32{0, 1}, Values: [][4]float32{about(geom.V(0, 0, 1), 0), about(geom.V(0, 0, 1), 30)}}
		b.moving(line(geom.V(-0.5, 0.6, 0), geom.V(-0.5, 0.6, 0)), turn, nil)
		b.part("glow", ball(geom.Vec3{}, 0.12, 12), b.finish(glow(6)))
		b.moving(line(geom.V(0.3, 0.14, 0.5), geom.V(1, 0.14, 0.5)), nil, nil)
		b.part("post", ball(geom.V(0.75, 0.7, -0.2), 0.2, 24), b.finish(plain("post", geom.Splat(0.6), 0.3)))
		b.light(scene.Light{Name: "lamp", Kind: scene.PointLight, Colour: geom.Splat(1), Intensity: 3}, geom.Identity())
		b.moving(line(geom.V(0.6, 1.6, 1.2), geom.V(1.2, 1.6, 1.2)), nil, nil)
	}},
	{"rounded", "A coarse ring, a cup with sharp rims and a box, subdivided: round where they should be, sharp where edges are kept, textures in place.",
		func(b *bench) {
			stageOf(b)
			shaped := func(name string, m scene.Mesh, f int) {
				m.Shaping = scene.Shaping{Levels: 4, Crease: 50 * math.Pi / 180}
				b.part(name, m, f)
			}
			lines := plain("lines", geom.Splat(0.8), 0.3)
			lines.BaseTexture = drawing(b, 64, func(x, y int) [4]byte {
				if x%8 == 0 || y%8 == 0 {
					return [4]byte{40, 60, 90, 255}
				}
				return [4]byte{235, 225, 205, 255}
			})
			shaped("ring", lathed(geom.V(-0.5, 0.16, 0.2), 8,
				[][2]float32{{0.5, 0}, {0.45, 0.11}, {0.34, 0.16}, {0.23, 0.11}, {0.18, 0}, {0.23, -0.11}, {0.34, -0.16}, {0.45, -0.11}, {0.5, 0}}), b.finish(lines))
			shaped("cup", lathed(geom.V(0.3, 0.001, 0.3), 8,
				[][2]float32{{0.0, 0}, {0.2, 0}, {0.32, 0.35}, {0.27, 0.8}, {0.25, 0.8}, {0.25, 0.8}, {0.29, 0.35},
					{0, 0.05}}), b.finish(plain("cup", geom.V(0.4, 0.12, 0.08), 0.25)))
			box := quad(geom.V(0.55, 0.001, -0.3), geom.V(0.5, 0, -0.2), geom.V(0, 0.5, 0))
			back := quad(geom.V(1.05, 0.001, -0.5), geom.V(-0.1, 0, -0.5), geom.V(0, 0.5, 0))
			top := quad(geom.V(0.55, 0.501, -0.3), geom.V(0.5, 0, -0.2), geom.V(-0.1, 0, -0.5))
			for _, q := range []scene.Mesh{back, top} {
				for _, k := range q.Indices {
					box.Indices = append(box.Indices, k+uint32(len(box.Positions)))
				}
				box.Positions = append(box.Positions, q.Positions...)
			}
			shaped("box", box, b.finish(metal("box", geom.V(0.8, 0.7, 0.5), 0.35)))
		}},
	{"floating", "A floor that shows nothing but shadows, over a tone: no edge where it ends, coloured glass and its shadow, its bounce on the ball.",
		func(b *bench) {
			b.catches, b.opt.Backing, b.opt.BackingTone = true, BackTone, geom.V(0.55, 0.6, 0.66)
			b.part("floor", floor(300), b.finish(plain("floor", geom.Splat(0.5), 0.9)))
			b.opt.Catches = []bool{true}
			b.part("panel", quad(geom.V(-1.2, 3, 0.2), geom.V(2, 0, 0), geom.V(0, -0.6, 1.6)), b.finish(glow(9)))
			b.opt.Surround = Surround{On: true, Tone: geom.Splat(0.4), Strength: 1}
			b.part("ball", ball(geom.V(-0.45, 0.4, 0), 0.4, 32), b.finish(plain("ball", geom.V(0.6, 0.35, 0.1), 0.2)))
			tint := glass(0)
			tint.AttenuationColour, tint.AttenuationDistance = geom.V(0.2, 0.6, 0.4), 0.4
			b.part("glass", ball(geom.V(0.5, 0.35, 0.3), 0.35, 32), b.finish(tint))
		}},
	{"garland", "A hundred and twenty small lights, one chosen at a time.", func(b *bench) {
		b.part("floor", floor(8), b.finish(matte(0.6)))
		b.part("ball", ball(geom.V(0, 0.6, 0), 0.6, 24), b.finish(plain("ball", geom.Splat(0.5), 0.25)))
		for i := range 120 {
			s, c := math.Sincos(float64(i) / 120 * 2 * math.Pi)
			tone := geom.V(0.5+0.5*float32(s), 0.6, 0.5-0.5*float32(s))
			b.light(scene.Light{Name: "bulb", Colour: tone, Intensity: 0.05, Radius: 0.02},
				geom.Translate(geom.V(float32(1.2*c), 0.15+0.1*float32(i%2), float32(1.2*s))))
		}
	}},
}
