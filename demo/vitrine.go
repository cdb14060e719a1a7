package demo

import (
	"image"
	"image/color"
	"math"

	"amberproof/core/geom"
)

// VitrineFile is the name of the second scene: the shop window of the same maker.
const VitrineFile = "pellwick-shop-window.glb"

func (b *builder) vitrineFinishes() {
	paint := func(name string, r, g, bl, rough, coat float64) {
		b.finish(name, obj{
			"pbrMetallicRoughness": obj{"baseColorFactor": factor(r, g, bl), "metallicFactor": 0, "roughnessFactor": rough},
			"extensions":           obj{"KHR_materials_clearcoat": obj{"clearcoatFactor": coat, "clearcoatRoughnessFactor": 0.12}},
		})
	}
	paint("Frame paint, bottle green", 0.012, 0.05, 0.032, 0.5, 0.6)
	paint("Board paint, chalk", 0.66, 0.61, 0.5, 0.9, 0)
	paint("Enamel, cream", 0.72, 0.66, 0.5, 0.4, 1)
	paint("Enamel, poppy", 0.42, 0.028, 0.016, 0.4, 1)
	paint("Plaster", 0.36, 0.33, 0.29, 1, 0)
	paint("Paving", 0.19, 0.18, 0.17, 0.9, 0)
	paint("Card", 0.8, 0.77, 0.68, 0.9, 0)
	metal := func(name string, r, g, bl, rough float64) {
		b.finish(name, obj{"pbrMetallicRoughness": obj{"baseColorFactor": factor(r, g, bl), "metallicFactor": 1, "roughnessFactor": rough}})
	}
	metal("Brass, satin", 0.83, 0.58, 0.26, 0.28)
	metal("Copper", 0.78, 0.4, 0.26, 0.24)
	metal("Steel, blackened", 0.18, 0.18, 0.19, 0.38)
	glass := func(name string, thick float64, tint []float64) {
		b.finish(name, obj{
			"pbrMetallicRoughness": obj{"baseColorFactor": factor(1, 1, 1), "metallicFactor": 0, "roughnessFactor": 0},
			"extensions": obj{
				"KHR_materials_transmission": obj{"transmissionFactor": 1}, "KHR_materials_ior": obj{"ior": 1.5},
				"KHR_materials_volume": obj{"thicknessFactor": thick, "attenuationDistance": 0.06, "attenuationColor": tint},
			},
		})
	}
	glass("Window glass", 0.004, []float64{0.84, 0.95, 0.9})
	glass("Globe glass", 0.002, []float64{0.95, 0.93, 0.86})
	b.finish("Oak", obj{"pbrMetallicRoughness": obj{"baseColorTexture": b.texture("oak", oak()), "metallicFactor": 0, "roughnessFactor": 0.55}})
	b.finish("Linen, striped", obj{"pbrMetallicRoughness": obj{"baseColorTexture": b.texture("linen", linen()), "metallicFactor": 0, "roughnessFactor": 1}})
	b.finish("Flame", obj{
		"pbrMetallicRoughness": obj{"baseColorFactor": factor(0, 0, 0), "metallicFactor": 0, "roughnessFactor": 1}, "emissiveFactor": []float64{1, 0.54, 0.16},
		"extensions": obj{"KHR_materials_emissive_strength": obj{"emissiveStrength": 420}},
	})
}

// oak is planks' grain, two metres to a side along it.
func oak() image.Image {
	const n = 1024
	img := image.NewNRGBA(image.Rect(0, 0, n, n))
	for y := range n {
		for x := range n {
			u, v := float64(x)/n, float64(y)/n
			bend := 0.5 * noise(u*4, v*6, 12, 21)
			rings := 0.5 + 0.5*math.Sin(2*math.Pi*(v*28+bend*5+noise(u*3, v*9, 9, 4)))
			pores := math.Pow(noise(u*40, v*420, 420, 7), 4)
			k := 0.78 + 0.16*rings + 0.1*noise(u*10, v*90, 90, 5) - 0.35*pores
			img.SetNRGBA(x, y, color.NRGBA{uint8(186 * k), uint8(138 * k), uint8(88 * k), 255})
		}
	}
	return img
}

// linen is a woven cloth with stripes across, a tenth of a metre to a side.
func linen() image.Image {
	const n = 1024
	img := image.NewNRGBA(image.Rect(0, 0, n, n))
	for y := range n {
		for x := range n {
			u := float64(x) / n
			weave := 0.9 + 0.05*math.Sin(2*math.Pi*float64(x)/8) + 0.05*math.Sin(2*math.Pi*float64(y)/8)
			c := [3]float64{214, 205, 186}
			if s := math.Mod(u*3, 1); s > 0.62 && s < 0.78 || s > 0.84 && s < 0.88 {
				c = [3]float64{58, 92, 104}
			}
			img.SetNRGBA(x, y, color.NRGBA{uint8(c[0] * weave), uint8(c[1] * weave), uint8(c[2] * weave), 255})
		}
	}
	return img
}

// What most of the shop window wears.
const green, chalk, wood, copper = "Frame paint, bottle green", "Board paint, chalk", "Oak", "Copper"

// at puts a node somewhere, millimetres.
func (b *builder) at(n int, x, y, z float64) int {
	b.nodes[n].(obj)["translation"] = []float64{x / 1000, y / 1000, z / 1000}
	return n
}

func (b *builder) turned(n int, axis int, angle float64) int {
	b.nodes[n].(obj)["rotation"] = turnAbout(axis, angle)
	return n
}

func (b *builder) shaped(name string, s *shape, finish string) int {
	return b.part(name, prim{s, finish})
}

func (b *builder) box(name string, w, h, d, bevel, x, y, z float64, finish string) int {
	return b.at(b.shaped(name, block(w, h, d, bevel), finish), x, y, z)
}

func (b *builder) round(name string, k []knot, seg int, finish string) int {
	return b.shaped(name, lathe(rounded(k, false), seg, nil), finish)
}

// Vitrine is the second scene as a .glb file: a shop window with three products behind its
// pane, a sun outside and a small lamp inside.
func Vitrine() ([]byte, error) {
	b := &builder{title: "Pellwick shop window"}
	b.vitrineFinishes()
	c := b.showcase()
	hardware, plate := b.hardware()
	goods := []int{b.handLamp()}
	goods = append(goods, b.canAndFunnel()...)
	goods = append(goods, b.onTheShelf()...)
	// Four faults of the kind that clay finds.
	tag := b.box("Price card", 62, 40, 1.2, 0.3, -60, 189+20+4, 130, "Card") // floats 4 mm
	stopper := b.at(b.round("Stopper", []knot{{0, 0, 0}, {11, 0, 1}, {8.5, 22, 1}, {13, 25, 2}, {13, 34, 3}, {0, 35, 0}}, 64, ""), -235, 569, -200)
	again := b.at(b.node(obj{"name": "Hinge plate 1 copy", "mesh": plate}), 477, 320, 240.5)
	fitting := b.group("Fitting",
		b.at(b.round("Lamp socket", []knot{{0, 10, 0}, {10, 10, 0.6}, {12, 16, 2}, {12, 34, 3}, {5, 40, 2}, {0, 41, 0}}, 48, brass), 100, 900, -20),
		b.shaped("Lamp cord", tube([][3]float64{{100, 942.8, -20}, {100, 950, -20}, {100, 958.2, -20}}, 1.8, 14, false), dark),
	)
	street, lights := b.street()
	views := b.vitrineViews()
	b.roots = []any{
		b.group("Case", append([]int{b.group("Frame", c.frame...), b.group("Boards", c.boards...)}, c.within...)...),
		b.group("Hardware", append(hardware, again)...),
	}
	for _, n := range append(goods, tag, stopper, fitting) {
		b.roots = append(b.roots, n)
	}
	for _, l := range lights {
		street = append(street, b.node(l))
	}
	b.roots = append(b.roots, b.group("Street", street...), b.group("Views", views...))
	return b.bytes()
}

// showcase is the case: a plinth, four posts, a cornice, boards at the back, a pane in front.
type showcase struct{ frame, boards, within []int }

func (b *builder) showcase() (c showcase) {
	c.frame = append(c.frame,
		b.box("Plinth", 1000, 150, 480, 3, 0, 75, 0, green),
		b.box("Plinth moulding", 1030, 22, 510, 6, 0, 160.5, 0, green),
		b.box("Floor board", 980, 18, 460, 2, 0, 180, 0, wood),
		b.box("Cornice", 1030, 34, 510, 7, 0, 977, 0, green),
		b.box("Fascia", 1000, 120, 480, 3, 0, 1053.5, 0, green),
		b.box("Top moulding", 1060, 26, 540, 9, 0, 1126, 0, green),
	)
	for i, p := range [][2]float64{{-477, 217}, {477, 217}, {-477, -217}, {477, -217}} {
		c.frame = append(c.frame, b.box("Post "+string(rune('1'+i)), 44, 772, 44, 3, p[0], 574.5, p[1], green))
	}
	c.frame = append(c.frame,
		b.box("Sash rail lower", 908, 30, 30, 3, 0, 204.5, 217, green),
		b.box("Sash rail upper", 908, 30, 30, 3, 0, 944.5, 217, green),
		b.box("Right wall", 14, 766, 388, 2, 478, 574.5, 0, chalk),
	)
	for i := range 8 {
		c.boards = append(c.boards, b.box("Back board "+string(rune('1'+i)), 113, 768, 12, 2.4, -398+113.8*float64(i), 575.5, -232, chalk))
	}
	pane := b.box("Pane", 906, 708, 4, 0.6, 0, 574.5, 217, "Window glass")
	side := b.box("Side pane", 4, 769, 386, 0.6, -477, 574, 0, "Window glass")
	shelf := b.box("Shelf", 906, 18, 236, 2, 0, 560, -107, wood)
	c.within = []int{pane, side, shelf}
	return c
}

// hardware makes brackets under the shelf, hinges and screws on the sash; plate is the mesh
// of a hinge.
func (b *builder) hardware() (hardware []int, plate int) {
	for i, x := range []float64{-300, 300} {
		n := string(rune('1' + i))
		hardware = append(hardware,
			b.box("Bracket arm "+n, 14, 6, 190, 1, x, 548.4, -128, brass),
			b.box("Bracket leg "+n, 14, 120, 6, 1, x, 488, -222.8, brass),
			b.shaped("Bracket stay "+n, tube(curve([][3]float64{{x, 440, -219}, {x, 470, -190}, {x, 520, -130}, {x, 547, -70}}, 12), 4, 18, false), brass),
		)
	}
	plate = b.mesh("Hinge plate", prim{block(34, 62, 3, 0.8), brass})
	screw := b.mesh("Screw", prim{lathe(rounded([]knot{{3.6, -1, 0}, {3.6, 0.4, 0.3}, {2.6, 1.5, 1}, {0, 1.9, 0}}, false), 28, nil), brass})
	for i, y := range []float64{320, 830} {
		n := string(rune('1' + i))
		hardware = append(hardware, b.at(b.node(obj{"name": "Hinge plate " + n, "mesh": plate}), 477, y, 240.5))
		for k, dy := range []float64{-20, 20} {
			hardware = append(hardware, b.at(b.turned(b.node(obj{"name": "Screw " + n + string(rune('a'+k)), "mesh": screw}), 0, math.Pi/2), 477, y+dy, 242.2))
		}
		pin := b.shaped("Hinge pin "+n, lathe(rounded([]knot{{0, -34, 0}, {3.4, -34, 1}, {4.2, -30, 0.6}, {4.2, 30, 0.6}, {3.4, 34, 1}, {0, 34, 0}}, false),
			32, nil), brass)
		hardware = append(hardware, b.at(pin, 457, y, 243))
	}
	catch := b.shaped("Catch knob", lathe(rounded([]knot{{0, -2, 0}, {4, -2, 0.4}, {4, 8, 1.5}, {8.5, 12, 3}, {8.5, 18, 4}, {0, 20, 0}}, false), 48, nil), brass)
	hardware = append(hardware, b.at(b.turned(catch, 0, math.Pi/2), -477, 575, 240.5))
	return hardware, plate
}

// handLamp stands on the left of the floor, lit.
func (b *builder) handLamp() int {
	lamp := b.group("Hand lamp",
		b.round("Lamp foot", []knot{{0, 0, 0}, {66, 0, 1.5}, {66, 7, 3}, {52, 13, 6}, {0, 13, 0}}, 128, "Enamel, poppy"),
		b.round("Lamp font", []knot{{30, 12.5, 0}, {34, 15, 2}, {56, 34, 26}, {54, 62, 16}, {30, 74, 6}, {28, 78, 0}}, 128, "Enamel, poppy"),
		b.round("Lamp burner", []knot{{27, 76, 0}, {30, 77, 0.6}, {30, 83, 1}, {24, 86, 1.2}, {24, 92, 1}, {31, 95, 0.8},
			{31, 99, 0.8}, {12, 101, 1}, {7, 106, 1}, {6, 104, 0}}, 128, brass),
		b.shaped("Lamp wick", lathe(rounded([]knot{{5.6, 97, 0}, {5.6, 108, 0.9}, {0, 109.5, 0}}, false), 40, nil), "Linen, striped"),
		b.at(b.shaped("Lamp flame", flameShape(), "Flame"), 0, -2.6, 0),
		b.at(b.shaped("Lamp globe", chimneyShape(), "Globe glass"), 0, 5.2, 0),
		b.shaped("Lamp handle", tube(curve([][3]float64{{-57, 36, 0}, {-72, 29, 0}, {-92, 34, 0}, {-96, 54, 0}, {-82, 66, 0}, {-70, 62, 0}, {-59, 56, 0}}, 12),
			3.6, 20, false), dark),
	)
	return b.at(lamp, -215, 189, 20)
}

// canAndFunnel stand on the right: a can for oil with a long spout, and a funnel that runs
// into it.
func (b *builder) canAndFunnel() []int {
	can := b.group("Oil can",
		b.round("Can body", []knot{{0, 0, 0}, {52, 0, 1.5}, {61, 11, 6}, {61, 96, 6}, {26, 134, 14}, {17, 150, 4}, {17, 156, 1.5}, {0, 157, 0}}, 128, copper),
		b.round("Can band", []knot{{60.6, 44, 0}, {62.4, 44.6, 0.6}, {62.4, 53.4, 0.6}, {60.6, 54, 0}}, 128, brass),
		b.round("Can cap", []knot{{0, 155, 0}, {14, 155, 0.6}, {14, 170, 2}, {6, 174, 3}, {6, 180, 2}, {0, 182, 0}}, 64, brass),
		b.shaped("Can spout", tube(curve([][3]float64{{-48, 70, 0}, {-78, 86, 0}, {-104, 128, 0}, {-124, 178, 0}, {-158, 206, 0}}, 14), 4.6, 22, false), copper),
		b.shaped("Can handle", tube(curve([][3]float64{{58, 30, 0}, {82, 36, 0}, {96, 70, 0}, {88, 112, 0}, {56, 124, 0}, {26, 132, 0}}, 14), 4.2, 20, false), dark),
	)
	b.at(b.turned(can, 1, 0.5), 215, 189, -20)
	funnel := b.round("Funnel", []knot{{4, 0, 0}, {5.4, 0, 0.4}, {6.4, 40, 6}, {34, 78, 8}, {35, 86, 0.6}, {33, 86, 0.6},
		{31.6, 79, 8}, {5, 42, 6}, {4, 0, 0}}, 96, brass)
	b.at(b.turned(funnel, 0, math.Pi), 286, 189+86, 33)
	return []int{can, funnel}
}

// onTheShelf makes a kettle, a cloth and a tin.
func (b *builder) onTheShelf() []int {
	kettle := b.group("Kettle",
		b.round("Kettle body", []knot{{0, 0, 0}, {84, 0, 4}, {92, 8, 6}, {90, 52, 40}, {62, 104, 26}, {46, 110, 3}, {44, 113, 0}}, 144, "Enamel, cream"),
		b.round("Kettle lid", []knot{{46, 111.4, 0}, {47.5, 111.4, 0.4}, {47.5, 114, 1}, {30, 124, 12}, {0, 128, 0}}, 128, "Enamel, cream"),
		b.round("Kettle knob", []knot{{0, 126, 0}, {5, 126.6, 0.4}, {4.4, 133, 2}, {11, 139, 4}, {9, 148, 5}, {0, 150, 0}}, 64, dark),
		b.shaped("Kettle spout", tube(curve([][3]float64{{70, 42, 0}, {96, 56, 0}, {112, 88, 0}, {124, 118, 0}, {142, 126, 0}}, 14), 10, 32, false), "Enamel, cream"),
		b.shaped("Kettle bail", tube(curve([][3]float64{{-70, 92, 0}, {-80, 120, 0}, {-70, 168, 0}, {-36, 196, 0}, {0, 203, 0},
			{36, 196, 0}, {70, 168, 0}, {80, 120, 0}, {70, 92, 0}}, 16), 3.4, 20, false), dark),
		b.shaped("Kettle grip", tube(curve([][3]float64{{-36, 196, 0}, {-16, 201.4, 0}, {0, 203, 0}, {16, 201.4, 0}, {36, 196, 0}}, 12), 8, 28, false), wood),
	)
	b.at(b.turned(kettle, 1, -0.35), -190, 569, -100)
	cloth := b.at(b.turned(b.shaped("Folded cloth", drape(210, 150, 4), "Linen, striped"), 1, 0.18), 95, 569, -105)
	tin := b.group("Tin",
		b.round("Tin body", []knot{{0, 0, 0}, {44, 0, 1.6}, {44, 104, 1.2}, {0, 104, 0}}, 112, "Enamel, poppy"),
		b.round("Tin lid", []knot{{44.4, 100.6, 0}, {45.8, 100.6, 0.5}, {45.8, 114, 1.6}, {38, 117, 2}, {0, 117, 0}}, 112, brass),
	)
	b.at(tin, 318, 569, -105)
	return []int{kettle, cloth, tin}
}

// street is what stands outside, and the lights.
func (b *builder) street() (parts []int, lights []obj) {
	wall := b.box("House wall", 4200, 3000, 60, 4, 0, 1480, -300, "Plaster")
	ground := b.box("Pavement", 4200, 40, 3400, 4, 0, -20, 1200, "Paving")

	b.lights = append(b.lights, obj{"name": "Sun", "type": "directional", "color": []float64{1, 0.9, 0.76}, "intensity": 7.5, "extras": obj{"angle": 0.53}})
	sunNode := placed("Sun", geom.V(-0.85, 1.45, 2.3), geom.V(0, 0.5, 0))
	sunNode["extensions"] = obj{"KHR_lights_punctual": obj{"light": 0}}
	b.lights = append(b.lights, obj{"name": "Inside lamp", "type": "point", "color": []float64{1, 0.82, 0.6}, "intensity": 0.16, "extras": obj{"radius": 0.014}})
	inside := obj{"name": "Inside lamp", "translation": []float64{0.1, 0.9, -0.02}, "extensions": obj{"KHR_lights_punctual": obj{"light": 1}}}
	return []int{wall, ground}, []obj{sunNode, inside}
}

func (b *builder) vitrineViews() []int {
	// A shift lens: the camera is level, so that the case stands upright, and the frame is lowered.
	front := b.camera("Shop window", 50, geom.V(-0.66, 0.74, 3.2), geom.V(0.0, 0.74, 0))
	b.cameras[len(b.cameras)-1].(obj)["extras"] = obj{"shift": []float64{0, -0.11}}
	lower := b.camera("Lamp and can", 100, geom.V(-0.5, 0.62, 2.05), geom.V(0.0, 0.32, 0))
	return []int{front, lower}
}
