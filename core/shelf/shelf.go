// Package shelf is a starter set of finishes, each with where its numbers come from.
package shelf

import (
	"fmt"

	"amberproof/core/geom"
	"amberproof/core/setup"
)

// Item is a finish on the shelf. Its name is that of the finish it makes.
type Item struct {
	Group  string       `json:"group"`
	Finish setup.Finish `json:"finish"`
	Source string       `json:"source" doc:"Where its numbers come from"`
}

const (
	noble     = "Optical constants of Johnson & Christy 1972, seen under white light"
	published = "Normal reflectance as published for the polished metal"
	maker     = "Index from the makers' data sheets"
	own       = "Measured by nobody: set by eye, within the reflectances that such surfaces have"
)

func of[T any](v T) *T { return &v }

func linear(v geom.Vec3) *setup.Colour {
	one := func(x float32) float64 { return float64(max(0, min(1, x))) }
	return &setup.Colour{R: one(v.X), G: one(v.Y), B: one(v.Z)}
}

// Items are all finishes of the shelf, by group.
func Items() (out []Item) {
	add := func(group, name, source string, f setup.Finish) {
		f.Name, f.Made = name, true
		out = append(out, Item{group, f, source})
	}
	metal := func(name string, base geom.Vec3, roughness float64, source string) {
		add("Metals", name, source, setup.Finish{Base: linear(base), Metal: of(1.0), Roughness: of(roughness)})
	}
	metal("Gold, polished", gold.base(), 0.05, noble)
	metal("Silver, polished", silver.base(), 0.05, noble)
	metal("Copper, polished", copper.base(), 0.08, noble)
	metal("Aluminium, satin", geom.V(0.912, 0.914, 0.920), 0.32, published)
	metal("Chromium, mirror", geom.V(0.549, 0.556, 0.554), 0.02, published)
	metal("Nickel, polished", geom.V(0.660, 0.609, 0.526), 0.1, published)
	metal("Titanium, satin", geom.V(0.542, 0.497, 0.449), 0.35, published)
	metal("Iron, ground", geom.V(0.562, 0.565, 0.578), 0.4, published)
	brushed := setup.Finish{Base: linear(geom.V(0.56, 0.57, 0.58)), Metal: of(1.0), Roughness: of(0.35), Brushed: of(0.75)}
	add("Metals", "Steel, brushed", published, brushed)
	tempered := setup.Finish{Base: linear(geom.V(0.56, 0.57, 0.58)), Metal: of(1.0), Roughness: of(0.15), Film: of(1.0), FilmIndex: of(2.4), FilmThick: of(60.0)}
	add("Metals", "Steel, tempered blue", "Film of iron oxide, index 2.4, over the reflectance of iron", tempered)

	clear := func(name string, index, abbe float64, tint geom.Vec3, depth float64, source string) {
		f := setup.Finish{Base: linear(geom.Splat(1)), Metal: of(0.0), Roughness: of(0.0), Index: of(index), Clear: of(1.0), Solid: of(true)}
		if depth > 0 {
			f.Tint, f.TintDepth = linear(tint), of(depth)
		}
		// Parting colours is left to who wants a spectrum: it costs many samples.
		add("Clear", name, fmt.Sprintf("%s; its Abbe number is %g", source, abbe), f)
	}
	clear("Crown glass", 1.517, 64.2, geom.Vec3{}, 0, maker)
	clear("Flint glass", 1.620, 36.4, geom.Vec3{}, 0, maker)
	clear("Window glass, green edge", 1.52, 59, geom.V(0.75, 0.93, 0.85), 60, "Index of soda-lime glass, its tint by eye")
	clear("Acrylic, clear", 1.491, 57.4, geom.Vec3{}, 0, maker)
	clear("Polycarbonate, clear", 1.585, 30, geom.Vec3{}, 0, maker)
	clear("Water", 1.333, 55.8, geom.Vec3{}, 0, "Index of water at 20 degrees")
	clear("Amber liquid", 1.36, 56, geom.V(0.85, 0.45, 0.08), 15, "Index of a spirit of forty percent, its tint by eye")
	clear("Sapphire", 1.768, 72, geom.Vec3{}, 0, maker)
	frosted := setup.Finish{Base: linear(geom.Splat(1)), Metal: of(0.0), Roughness: of(0.35), Index: of(1.517), Clear: of(1.0), Solid: of(true)}
	add("Clear", "Frosted glass", maker, frosted)

	paint := func(group, name string, base geom.Vec3, roughness, index float64, more func(f *setup.Finish)) {
		f := setup.Finish{Base: linear(base), Metal: of(0.0), Roughness: of(roughness), Index: of(index)}
		if more != nil {
			more(&f)
		}
		add(group, name, own, f)
	}
	lacquered := func(f *setup.Finish) { f.Coat, f.CoatRough = of(1.0), of(0.02) }
	paint("Paint and plastic", "Plastic, white satin", geom.Splat(0.8), 0.4, 1.49, nil)
	paint("Paint and plastic", "Plastic, black gloss", geom.Splat(0.02), 0.08, 1.53, nil)
	paint("Paint and plastic", "Plastic, grey textured", geom.Splat(0.22), 0.6, 1.53, nil)
	paint("Paint and plastic", "Rubber, black", geom.Splat(0.025), 0.75, 1.52, nil)
	paint("Paint and plastic", "Silicone, pale", geom.Splat(0.7), 0.55, 1.41, nil)
	paint("Paint and plastic", "Lacquer, deep red", geom.V(0.42, 0.015, 0.02), 0.5, 1.5, lacquered)
	paint("Paint and plastic", "Lacquer, ivory", geom.V(0.8, 0.74, 0.6), 0.5, 1.5, lacquered)
	paint("Paint and plastic", "Porcelain, glazed", geom.V(0.84, 0.83, 0.8), 0.6, 1.5, lacquered)
	board := func(name, picture string, roughness float64, more func(f *setup.Finish)) {
		drawn := setup.Drawn{Name: picture}
		base, grain := setup.NewMap(drawn), setup.NewMap(drawn)
		grain.Strength = 5
		f := setup.Finish{Base: linear(geom.Splat(1)), Metal: of(0.0), Roughness: of(roughness), Index: of(1.5), BaseMap: &base, HeightMap: &grain}
		if more != nil {
			more(&f)
		}
		add("Wood", name, "Grown by our own code; colours by eye", f)
	}
	board("Oak, oiled", "Oak, boards", 0.55, nil)
	board("Walnut, oiled", "Walnut, boards", 0.5, nil)
	board("Maple, raw", "Maple, boards", 0.75, nil)
	board("Pine, lacquered", "Pine, boards", 0.6, lacquered)
	paint("Paper and cloth", "Paper, uncoated", geom.V(0.82, 0.81, 0.78), 1, 1.3, nil)
	paint("Paper and cloth", "Card, kraft", geom.V(0.42, 0.29, 0.17), 0.95, 1.3, nil)
	cloth := func(sheen geom.Vec3) func(f *setup.Finish) {
		return func(f *setup.Finish) { f.Sheen, f.SheenRough = linear(sheen), of(0.45) }
	}
	paint("Paper and cloth", "Felt, charcoal", geom.Splat(0.045), 1, 1.3, cloth(geom.Splat(0.12)))
	paint("Paper and cloth", "Linen, natural", geom.V(0.56, 0.48, 0.36), 0.95, 1.3, cloth(geom.V(0.2, 0.18, 0.15)))
	paint("Paper and cloth", "Velvet, bottle green", geom.V(0.012, 0.05, 0.03), 1, 1.3, cloth(geom.V(0.25, 0.5, 0.35)))
	return out
}
