// Package demo makes the sample project: the storm lantern of Pellwick, a
// made-up maker, with its stage, lights and surround. Everything is built here
// and goes through the importer like any other file.
package demo

import (
	"bytes"
	"image"
	"image/color"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/imageio"
)

// Names of the demo's files.
const (
	SceneFile    = "pellwick-storm-lantern.glb"
	SurroundFile = "pellwick-studio.hdr"
)

func factor(r, g, b float64) []float64 { return []float64{r, g, b, 1} }

func (b *builder) finishes() {
	b.finish("Enamel, deep teal", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(0.004, 0.05, 0.058), "metallicFactor": 0, "roughnessFactor": 0.45},
		"extensions":           obj{"KHR_materials_clearcoat": obj{"clearcoatFactor": 1, "clearcoatRoughnessFactor": 0.06}},
	})
	b.finish("Brass, satin", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(0.83, 0.58, 0.26), "metallicFactor": 1, "roughnessFactor": 0.55,
			"metallicRoughnessTexture": b.texture("brass wear", brassWear())},
	})
	b.finish("Steel, blackened", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(0.18, 0.18, 0.19), "metallicFactor": 1, "roughnessFactor": 0.38},
	})
	b.finish("Steel, bright", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(0.66, 0.65, 0.63), "metallicFactor": 1, "roughnessFactor": 0.22},
	})
	b.finish("Chimney glass", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(1, 1, 1), "metallicFactor": 0, "roughnessFactor": 0},
		"extensions": obj{
			"KHR_materials_transmission": obj{"transmissionFactor": 1}, "KHR_materials_ior": obj{"ior": 1.5},
			"KHR_materials_volume": obj{"thicknessFactor": 0.002, "attenuationDistance": 0.03, "attenuationColor": []float64{0.86, 0.95, 0.92}},
		},
	})
	b.finish("Flame", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(0, 0, 0), "metallicFactor": 0, "roughnessFactor": 1}, "emissiveFactor": []float64{1, 0.54, 0.16},
		"extensions": obj{"KHR_materials_emissive_strength": obj{"emissiveStrength": 55}},
	})
	b.finish("Wick cotton", obj{"pbrMetallicRoughness": obj{"baseColorFactor": factor(0.33, 0.27, 0.2), "metallicFactor": 0, "roughnessFactor": 1}})
	b.finish("Cork", obj{"pbrMetallicRoughness": obj{"baseColorTexture": b.texture("cork grain", cork()), "metallicFactor": 0, "roughnessFactor": 0.85}})
	b.finish("Backdrop paper", obj{"pbrMetallicRoughness": obj{"baseColorFactor": factor(0.42, 0.385, 0.345), "metallicFactor": 0, "roughnessFactor": 0.95}})
	light := func(name string, r, g, bl, strength float64) {
		b.finish(name, obj{
			"pbrMetallicRoughness": obj{"baseColorFactor": factor(0, 0, 0), "metallicFactor": 0, "roughnessFactor": 1}, "emissiveFactor": []float64{r, g, bl},
			"extensions": obj{"KHR_materials_emissive_strength": obj{"emissiveStrength": strength}},
		})
	}
	light("Key panel light", 1, 0.93, 0.84, 8.5)
	light("Fill panel light", 0.82, 0.91, 1, 3.2)
}

// noise is a smooth value noise in 0..1, periodic over n cells.
func noise(x, y float64, n int, seed uint32) float64 {
	hash := func(i, j int) float64 {
		i, j = (i%n+n)%n, (j%n+n)%n
		h := uint32(i)*374761393 + uint32(j)*668265263 + seed*2246822519
		h = (h ^ h>>13) * 1274126177
		return float64((h^h>>16)&0xffff) / 0xffff
	}
	fx, fy := math.Floor(x), math.Floor(y)
	tx, ty := smooth(x-fx), smooth(y-fy)
	i, j := int(fx), int(fy)
	a := hash(i, j)*(1-tx) + hash(i+1, j)*tx
	c := hash(i, j+1)*(1-tx) + hash(i+1, j+1)*tx
	return a*(1-ty) + c*ty
}

func cork() image.Image {
	const n = 512
	img := image.NewNRGBA(image.Rect(0, 0, n, n))
	for y := 0; y < n; y++ {
		for x := 0; x < n; x++ {
			u, v := float64(x)/n, float64(y)/n
			g := 0.5*noise(u*16, v*16, 16, 1) + 0.3*noise(u*40, v*40, 40, 2) + 0.2*noise(u*100, v*100, 100, 3)
			dark := math.Pow(noise(u*28, v*28, 28, 9), 6)
			k := 0.55 + 0.45*g - 0.5*dark
			img.SetNRGBA(x, y, color.NRGBA{uint8(198 * k), uint8(150 * k), uint8(102 * k), 255})
		}
	}
	return img
}

// brassWear varies roughness (green) in fine rings of polishing and a few blotches of handling.
func brassWear() image.Image {
	const n = 512
	img := image.NewNRGBA(image.Rect(0, 0, n, n))
	for y := 0; y < n; y++ {
		for x := 0; x < n; x++ {
			u, v := float64(x)/n, float64(y)/n
			r := 0.42 + 0.14*noise(u*6, v*6, 6, 4) + 0.12*noise(u*4, v*128, 128, 5)
			img.SetNRGBA(x, y, color.NRGBA{255, uint8(255 * math.Min(1, r)), 255, 255})
		}
	}
	return img
}

// bailHeight is that of the pivots of the bail, metres.
const bailHeight = 0.186

// seg is how many sides what is round has, usually.
const seg = 112

// What most parts of the lantern wear.
const enamel, brass, dark, bright = "Enamel, deep teal", "Brass, satin", "Steel, blackened", "Steel, bright"

// Scene is the demo's scene as a .glb file.
func Scene() ([]byte, error) {
	b := &builder{title: "Pellwick storm lantern"}
	b.finishes()
	body, burner, globe, top := b.body(), b.burner(), b.globe(), b.top()
	frame, bail := b.frame()
	guard, rivets := b.guard(), b.rivets()
	wrong := b.planted()
	lantern := b.group("Lantern",
		b.group("Body", body...),
		b.group("Burner", append(burner, wrong.feed)...),
		b.group("Globe", globe...),
		b.group("Top", slices.Insert(top, len(top)-1, wrong.gaskets...)...),
		b.group("Frame", append(frame, b.group("Guard", guard...))...),
		b.group("Rivets", rivets...),
	)
	// Turned a little, so that neither knob nor filler points at the camera.
	const turned = -0.44
	b.nodes[lantern].(obj)["rotation"] = turnAbout(1, turned)
	const quarter = math.Pi / 2
	b.animation("Turn on the spot", lantern, 6, turnAbout(1, turned), turnAbout(1, turned+quarter), turnAbout(1, turned+2*quarter),
		turnAbout(1, turned+3*quarter), turnAbout(1, turned+4*quarter))
	b.animation("Bail falls back", bail, 0.5, turnAbout(0, 0), turnAbout(0, -0.55), turnAbout(0, -1.5))

	stage, views := b.stage(), b.lanternViews()
	b.roots = []any{lantern, b.group("Kindling", wrong.kindling...), b.group("Stage", stage...), b.group("Views", views...)}
	return b.bytes()
}

// body makes the foot and the tank.
func (b *builder) body() []int {
	// The foot carries a ring of embossed lozenges.
	emboss := func(turn, y float64) float64 {
		if y < 3 || y > 13 {
			return 0
		}
		u := math.Mod(turn*36+36, 1) - 0.5
		d := math.Abs(u)*2.6 + math.Abs(y-8)/4.6
		return 0.9 * smooth((1-d)*3)
	}
	footPts := rounded([]knot{{0, 2, 0}, {60, 2, 1}, {62, 0, 1}, {71, 0, 1.6}, {71, 16, 2}, {64, 18, 1}, {63, 22, 0}}, false)
	foot := b.part("Foot ring", prim{lathe(footPts, 432, emboss), enamel})
	tank := b.part("Tank", prim{lathe(rounded([]knot{{63, 21, 0}, {66, 24, 2}, {67.5, 40, 30}, {66, 58, 12}, {58, 68, 8}, {42, 72, 4}, {40, 74, 0}},
		false), seg, nil), enamel})
	band := b.part("Tank band", prim{lathe(rounded([]knot{{66.8, 30, 0}, {68.6, 30.6, 0.5}, {68.6, 35.4, 0.5}, {66.8, 36, 0}}, false), seg, nil), brass})
	filler := b.node(obj{"name": "Filler cap",
		"mesh": b.mesh("Filler cap", prim{lathe(rounded([]knot{{10, -3, 0}, {10, 0, 0.6}, {8.6, 0.4, 0.3}, {8.6, 6.6, 0.8},
			{7.6, 7.8, 0.5}, {0, 8.4, 0}}, false), 192, knurl(30, 0.3, 0.8, 6.2)), brass}),
		"translation": []float64{0.036, 0.0695, 0.034}, "rotation": []float64{0.09, 0, -0.09, 0.992}})
	return []int{foot, tank, band, filler}
}

func (b *builder) burner() []int {
	collar := b.part("Burner collar", prim{lathe(rounded([]knot{{41, 72.5, 0}, {42, 73, 0.6}, {42, 78, 1}, {36, 80, 1}, {35, 86, 1},
		{39.5, 89, 0.8}, {39.5, 93.5, 0.8}, {33, 94, 0.6}, {30, 92.5, 0}}, false), 288, knurl(72, 0.45, 73.6, 77.4)), brass})
	cone := b.part("Burner cone", prim{lathe(rounded([]knot{{30, 92.6, 0}, {27, 95, 2}, {17, 106, 6}, {8.5, 110.5, 1}, {7.4, 110, 0.4}, {7, 104, 0}},
		false), seg, nil), brass})
	wick := b.part("Wick", prim{lathe(rounded([]knot{{6.9, 100, 0}, {6.9, 105, 0.5}, {5.6, 107, 0.5}, {5.6, 112.6, 0.9}, {4, 114, 0.8}, {0, 114.2, 0}},
		false), 48, nil), "Wick cotton"})
	flame := b.part("Flame", prim{flameShape(), "Flame"})
	knobShaft := b.part("Wick knob shaft", prim{tube([][3]float64{{20, 83, 0}, {40, 83, 0}, {62, 83, 0}}, 1.5, 20, false), bright})
	knob := b.node(obj{"name": "Wick knob", "mesh": b.mesh("Wick knob",
		prim{lathe(rounded([]knot{{0, 0, 0}, {7.5, 0, 0.8}, {8.6, 1.2, 0.5}, {8.6, 4.6, 0.5}, {7.5, 5.8, 0.8}, {0, 6.2, 0}}, false),
			192, knurl(24, 0.35, 1.4, 4.4)), brass}),
		"translation": []float64{0.061, 0.083, 0}, "rotation": []float64{0, 0, -math.Sqrt2 / 2, math.Sqrt2 / 2}})
	return []int{collar, cone, wick, flame, knobShaft, knob}
}

func (b *builder) globe() []int {
	chimney := b.part("Chimney", prim{chimneyShape(), "Chimney glass"})
	seat := b.part("Chimney seat", prim{lathe(rounded([]knot{{30, 208.4, 0}, {30, 206, 0.6}, {41, 206, 0.8}, {43, 209, 0.8},
		{43, 212, 0.6}, {30, 212, 0.4}, {30, 208.4, 0}}, false), seg, nil), brass})
	return []int{chimney, seat}
}

func (b *builder) top() []int {
	cork := b.part("Cork lining", prim{lathe(rounded([]knot{{28, 212, 0}, {40.6, 212, 0.5}, {40.6, 217.4, 0.5}, {28, 217.4, 0}}, false), seg, nil), "Cork"})
	cap := b.part("Cap", prim{lathe(rounded([]knot{{26, 217.4, 0}, {47, 217.4, 0.8}, {50, 215.4, 0.8}, {51.4, 217, 0.7},
		{49, 223, 3}, {38, 232, 12}, {29, 246, 6}, {27, 254, 1}, {24, 254, 0}}, false), seg, nil), enamel})
	vent := b.part("Cap vent", prim{lathe(rounded([]knot{{23, 250, 0}, {25.4, 254.2, 0.4}, {25.4, 263, 0.6}, {30, 264, 0.6},
		{30.6, 266.4, 0.8}, {18, 272, 8}, {6, 276, 3}, {0, 277, 0}}, false), 256, slots(16, 2.0, 254.8, 262.6)), brass})
	finial := b.part("Finial", prim{lathe(rounded([]knot{{5, 275.6, 0}, {5, 278, 0.6}, {3, 280, 1.2}, {6, 284, 3}, {4.4, 288.4, 2}, {0, 289.4, 0}}, false),
		64, nil), brass})
	return []int{cork, cap, vent, finial}
}

// frame makes the tubes and the bail that hangs on them.
func (b *builder) frame() (parts []int, bail int) {
	side := func(sign float64) [][3]float64 {
		return curve([][3]float64{{sign * 60, 14, 0}, {sign * 72, 15, 0}, {sign * 78, 24, 0}, {sign * 79, 60, 0}, {sign * 79, 130, 0},
			{sign * 78, 190, 0}, {sign * 72, 212, 0}, {sign * 58, 222, 0}, {sign * 40, 226, 0}}, 14)
	}
	left := b.part("Frame tube left", prim{tube(side(-1), 4.2, 22, false), enamel})
	right := b.part("Frame tube right", prim{tube(side(1), 4.2, 22, false), enamel})
	// An arch that springs from the pivots, rounds upwards and leans back a little.
	arch := [][3]float64{{-74, 186, 0}, {-79, 186.2, 0}, {-84, 189, 0}, {-86.2, 196, -0.8}}
	for i := 3; i <= 93; i++ {
		h := math.Sin(math.Pi * float64(i) / 96)
		arch = append(arch, [3]float64{-87 * math.Cos(math.Pi*float64(i)/96), 184 + 170*math.Pow(h, 0.82), -46 * h})
	}
	arch = append(arch, [3]float64{86.2, 196, -0.8}, [3]float64{84, 189, 0}, [3]float64{79, 186.2, 0}, [3]float64{74, 186, 0})
	bailPath := curve(arch, 3)
	// Both hang on the pivots, about which they fold.
	hung := func(name string, p prim) int {
		return b.node(obj{"name": name, "mesh": b.mesh(name, p), "translation": []float64{0, -bailHeight, 0}})
	}
	bail = b.node(obj{"name": "Bail pivot", "translation": []float64{0, bailHeight, 0}, "children": []int{
		hung("Bail", prim{tube(bailPath, 1.9, 20, false), dark}), hung("Bail grip", prim{gripShape(bailPath), "Cork"}),
	}})
	return []int{left, right, bail}, bail
}

// guard makes the wires around the globe.
func (b *builder) guard() []int {
	wires := []int{
		b.part("Guard ring lower", prim{tube(circle(57, 128, 160), 1.5, 16, true), dark}),
		b.part("Guard ring upper", prim{tube(circle(55, 176, 160), 1.5, 16, true), dark}),
	}
	for i, a := range []float64{45, 135, 225, 315} {
		s, c := math.Sincos(a * math.Pi / 180)
		var p [][3]float64
		for _, q := range [][2]float64{{40, 91}, {50, 104}, {57, 128}, {58.6, 152}, {55, 176}, {47, 198}, {41, 210}} {
			p = append(p, [3]float64{q[0] * c, q[1], q[0] * s})
		}
		wires = append(wires, b.part("Guard stay "+string(rune('1'+i)), prim{tube(curve(p, 10), 1.3, 16, false), dark}))
	}
	return wires
}

// rivets are one mesh, many instances.
func (b *builder) rivets() []int {
	rivetMesh := b.mesh("Rivet", prim{lathe(rounded([]knot{{3.2, -0.4, 0}, {3.2, 0.3, 0.2}, {2.4, 1.4, 1.2}, {0, 1.9, 0}}, false), 28, nil), brass})
	var rivets []int
	rivet := func(x, y, z float64, q []float64) {
		rivets = append(rivets, b.node(obj{"name": "Rivet " + string(rune('A'+len(rivets))), "mesh": rivetMesh,
			"translation": []float64{x / 1000, y / 1000, z / 1000}, "rotation": q}))
	}
	for _, sign := range []float64{-1, 1} {
		rivet(sign*83.2, 186, 0, []float64{0, 0, -sign * math.Sqrt2 / 2, math.Sqrt2 / 2})
	}
	for i := 0; i < 10; i++ {
		a := 2 * math.Pi * (float64(i) + 0.5) / 10
		s, c := math.Sincos(a)
		// Standing on the band, pointing outwards: turn +Y to the radial direction.
		axis := []float64{s, 0, -c}
		rivet(68.5*c, 33, 68.5*s, []float64{axis[0] * math.Sqrt2 / 2, 0, axis[2] * math.Sqrt2 / 2, math.Sqrt2 / 2})
	}
	return rivets
}

// faults are what the preflight is to find, where no view shows it.
type faults struct {
	feed              int // has no finish
	gaskets, kindling []int
}

// planted makes them.
func (b *builder) planted() faults {
	feed := b.part("Feed tube", prim{lathe(rounded([]knot{{6.2, 62, 0}, {6.7, 62, 0.2}, {6.7, 100.4, 0}}, false), 48, nil), ""})
	gasketMesh := b.mesh("Vent gasket", prim{lathe(rounded([]knot{{20, 250.4, 0}, {23.1, 250.4, 0.3}, {23.1, 252.4, 0.3}, {20, 252.4, 0}}, false),
		64, nil), "Cork"})
	gasket := b.node(obj{"name": "Vent gasket", "mesh": gasketMesh})
	again := b.node(obj{"name": "Vent gasket copy", "mesh": gasketMesh})
	stick := func(name, finish string, along, radius, x, y, z float64) int {
		n := b.part(name, prim{lathe(rounded([]knot{{0, 0, 0}, {radius, 0, 0.3}, {radius, along, 0.3}, {0, along, 0}}, false), 24, nil), finish})
		b.nodes[n].(obj)["translation"] = []float64{x, y, z}
		b.nodes[n].(obj)["rotation"] = turnAbout(2, math.Pi/2)
		return n
	}
	match := stick("Match", "Wick cotton", 44, 1.2, -0.01, 0.0042, -0.13)
	flint := stick("Flint", "Steel, blackened", 12, 2.5, -0.03, 0.0008, -0.15)
	return faults{feed, []int{gasket, again}, []int{match, flint}}
}

func (b *builder) stage() []int {
	drop := b.part("Backdrop", prim{sweep(rounded([]knot{{1600, 0, 0}, {-900, 0, 620}, {-1050, 2600, 0}}, false), 5200), "Backdrop paper"})

	target := geom.V(0, 0.16, 0)
	light := func(name, finish string, w, h float64, eye geom.Vec3) int {
		n := placed(name, eye, target)
		n["mesh"] = b.mesh(name, prim{panel(w, h), finish})
		return b.node(n)
	}
	key := light("Key panel", "Key panel light", 620, 900, geom.V(-1.05, 1.05, 0.95))
	fill := light("Fill panel", "Fill panel light", 700, 1000, geom.V(1.35, 0.62, 0.75))
	b.lights = append(b.lights, obj{"name": "Rim", "type": "spot", "color": []float64{1, 0.95, 0.88}, "intensity": 9,
		"spot": obj{"innerConeAngle": 0.12, "outerConeAngle": 0.19}, "extras": obj{"radius": 0.06}})
	rimNode := placed("Rim", geom.V(0.75, 0.95, -0.72), geom.V(0, 0.17, 0))
	rimNode["extensions"] = obj{"KHR_lights_punctual": obj{"light": 0}}
	rim := b.node(rimNode)
	return []int{drop, key, fill, rim}
}

func (b *builder) lanternViews() []int {
	hero := b.camera("Hero three-quarter", 85, geom.V(0.46, 0.36, 1.36), geom.V(0, 0.172, 0))
	front := b.camera("Front", 100, geom.V(0, 0.2, 2.05), geom.V(0, 0.172, 0))
	detail := b.camera("Burner detail", 120, geom.V(0.42, 0.26, 0.9), geom.V(0.004, 0.112, 0))
	return []int{hero, front, detail}
}

// refine puts points on long straight runs so that no two are further apart than step.
func refine(p []profilePoint, step float64) []profilePoint {
	out := p[:1:1]
	for i := 1; i < len(p); i++ {
		a, b := p[i-1], p[i]
		l := math.Hypot(b.x-a.x, b.y-a.y)
		if n := int(l / step); n > 1 && math.Abs(b.y-a.y) > step && math.Abs(a.nx-b.nx)+math.Abs(a.ny-b.ny) < 1e-9 {
			for k := 1; k < n; k++ {
				t := float64(k) / float64(n)
				out = append(out, profilePoint{a.x + (b.x-a.x)*t, a.y + (b.y-a.y)*t, a.nx, a.ny})
			}
		}
		out = append(out, b)
	}
	return out
}

// smooth rises from 0 to 1 between 0 and 1, level at both ends.
func smooth(t float64) float64 {
	t = math.Max(0, math.Min(1, t))
	return t * t * (3 - 2*t)
}

// knurl is a pattern of n ridges of the given depth between two heights.
func knurl(n int, depth, y0, y1 float64) func(turn, y float64) float64 {
	return func(turn, y float64) float64 {
		fade := smooth((y-y0)/0.9) * smooth((y1-y)/0.9)
		return -depth * fade * (0.5 + 0.5*math.Cos(2*math.Pi*turn*float64(n)))
	}
}

// slots presses n openings between two heights.
func slots(n int, depth, y0, y1 float64) func(turn, y float64) float64 {
	return func(turn, y float64) float64 {
		u := math.Abs(math.Mod(turn*float64(n)+float64(n), 1) - 0.5)
		return -depth * smooth((0.3-u)*8) * smooth((y-y0)/1.4) * smooth((y1-y)/1.4)
	}
}

func flameShape() *shape {
	var p []profilePoint
	const n = 40
	at := func(t float64) (r, y float64) {
		return 6.4 * math.Pow(math.Max(0, math.Sin(math.Pi*math.Pow(t, 0.62))), 0.85) * (1 - 0.25*t), 112 + 34*t
	}
	for i := 0; i <= n; i++ {
		t := float64(i) / n
		r, y := at(t)
		r0, y0 := at(math.Max(0, t-0.01))
		r1, y1 := at(math.Min(1, t+0.01))
		l := math.Hypot(r1-r0, y1-y0)
		if i == 0 || i == n {
			r = 0
		}
		p = append(p, profilePoint{r, y, (y1 - y0) / l, -(r1 - r0) / l})
	}
	return lathe(p, 48, nil)
}

// chimneyShape is a blown globe with a wall of two millimetres, closed at its rims.
func chimneyShape() *shape {
	outline := func(t float64) (r, y float64) {
		y = 94 + t*112
		r = 33.5 + 17.5*math.Pow(math.Max(0, math.Sin(math.Pi*math.Pow(math.Max(0, t), 0.86))), 1.35) + 1.2*t
		return
	}
	const n, wall = 52, 2.0
	var outer, inner []profilePoint
	for i := 0; i <= n; i++ {
		t := float64(i) / n
		r, y := outline(t)
		r0, y0 := outline(t - 0.004)
		r1, y1 := outline(t + 0.004)
		l := math.Hypot(r1-r0, y1-y0)
		nx, ny := (y1-y0)/l, -(r1-r0)/l
		outer = append(outer, profilePoint{r, y, nx, ny})
		inner = append(inner, profilePoint{r - nx*wall, y - ny*wall, -nx, -ny})
	}
	p := append([]profilePoint{}, outer...)
	// Fire-polished rims: half circles from outside to inside.
	rim := func(a, b profilePoint) {
		cx, cy := (a.x+b.x)/2, (a.y+b.y)/2
		start := math.Atan2(a.y-cy, a.x-cx)
		for k := 0; k <= 12; k++ {
			s, c := math.Sincos(start + math.Pi*float64(k)/12)
			p = append(p, profilePoint{cx + c*wall/2, cy + s*wall/2, c, s})
		}
	}
	rim(outer[n], inner[n])
	for i := n; i >= 0; i-- {
		p = append(p, inner[i])
	}
	rim(inner[0], outer[0])
	return lathe(p, 160, nil)
}

// gripShape is a turned grip around the top of the bail.
func gripShape(path [][3]float64) *shape {
	mid := len(path) / 2
	return tube(path[mid-48:mid+49], 5.6, 32, false)
}

// Surround is the demo's studio surround as a Radiance picture: a dim room
// with a long overhead bank and a soft window, so that metal has something to reflect.
func Surround() []byte {
	const w, h = 1024, 512
	p := &imageio.HDR{W: w, H: h, Pix: make([]float32, w*h*3)}
	soft := func(x, lo, hi, edge float64) float64 {
		return smooth((x-lo)/edge) * smooth((hi-x)/edge)
	}
	for y := 0; y < h; y++ {
		for x := 0; x < w; x++ {
			lon := (float64(x)+0.5)/w*360 - 180 // 0 is behind the product, seen from the camera
			lat := 90 - (float64(y)+0.5)/h*180
			base := 0.03 + 0.04*math.Max(0, math.Sin(lat*math.Pi/180)) + 0.02*math.Cos(lon*math.Pi/180)
			r, g, b := base, base*1.0, base*1.02
			bank := soft(lon, -65, 65, 14) * soft(lat, 58, 78, 7) * 1.9
			window := soft(lon, 118, 158, 6) * soft(lat, -6, 44, 6) * 1.25
			window *= 1 - 0.85*soft(lon, 136.6, 139.4, 1)*1
			strip := soft(lon, -122, -108, 5) * soft(lat, -20, 50, 10) * 1.5
			r += bank + window*0.9 + strip
			g += bank*0.98 + window*0.97 + strip*0.95
			b += bank*0.95 + window*1.06 + strip*0.86
			i := (y*w + x) * 3
			p.Pix[i], p.Pix[i+1], p.Pix[i+2] = float32(r), float32(g), float32(b)
		}
	}
	var out bytes.Buffer
	_ = imageio.WriteHDR(&out, p) // a Buffer never fails
	return out.Bytes()
}
