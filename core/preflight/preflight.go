// Package preflight checks a scene before time is spent on it: whether it stands
// where it should, whether its parts fit each other and its meshes can be rendered
// as they are meant. Every finding has a number that was measured, how sure it is,
// and where it can be mended a fix.
package preflight

import (
	"cmp"
	"context"
	"slices"

	"amberproof/core/accel"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Check names what was found. Each has a file of its own here.
type Check string

const (
	Size       Check = "size"       // of the product: absurd
	Axis       Check = "axis"       // the product stands flat another way up
	Floats     Check = "floats"     // above what should carry it
	Sinks      Check = "sinks"      // into what should carry it
	Through    Check = "through"    // two parts run through each other
	Coincident Check = "coincident" // faces of two parts lie in each other and look the same way
	Doubled    Check = "doubled"    // the same mesh twice in one place
	Bare       Check = "bare"       // without a finish
	Open       Check = "open"       // a clear solid whose mesh has borders
	Inward     Check = "inward"     // a clear solid whose faces look inwards
	Inside     Check = "inside"     // a camera within a part
	Facets     Check = "facets"     // an outline shows its facets
	Coarse     Check = "coarse"     // a picture on a part is too small for a view
	Vast       Check = "vast"       // a picture is far larger than any view shows
	Green      Check = "green"      // a normal map is of the other convention
	Encoded    Check = "encoded"    // a normal map was saved as if it were colours
	Edge       Check = "edge"       // of the backdrop, seen from a view
	Clips      Check = "clips"      // much of the product is blown out
	Dark       Check = "dark"       // the product is far too dark
	Mirrors    Check = "mirrors"    // a mirror-like part shows nothing but black
	Faint      Check = "faint"      // a light does nothing
	Sole       Check = "sole"       // no other light counts beside one
)

// Checks are all of them, in the order in which findings are told.
var Checks = []Check{Size, Axis, Floats, Sinks, Through, Doubled, Coincident, Bare, Open, Inward, Inside, Facets, Coarse,
	Vast, Green, Encoded, Edge, Clips, Dark, Mirrors, Faint, Sole}

// Sure is how far a finding can be trusted.
type Sure string

const (
	Certain Sure = "certain" // it is so; whether it is meant is another matter
	Likely  Sure = "likely"
	Perhaps Sure = "perhaps" // it may well be meant
)

// Finding is one thing found.
type Finding struct {
	Check Check
	Part  int // -1 where it is of no part
	Other int // the part it has to do with, or -1
	View  int // the view that it is seen from, or -1
	Value float64
	Unit  string // of Value: "mm", "mm²", "%", "px", "texels" (a pixel), "MB" or "parts"
	Sure  Sure
	Says  string
	Where geom.Box // in the world, metres: what is to be looked at
	Fix   *Fix
}

// Fix is what would mend a finding.
type Fix struct {
	Says  string
	Parts []int
	Shift geom.Vec3 // of these parts in the world, metres
	Out   bool      // they are to be left out
	// Smooth is how many times more they are to be subdivided.
	Smooth int
	// Green are finishes whose normal maps have their green pointing the other way.
	Green []int
	// Up is the axis of the world that is to point up, and Size a factor on all measures:
	// of the whole file; empty and 0 leave them.
	Up   string
	Size float64
}

// Subject is what is checked.
type Subject struct {
	Scene *scene.Scene
	Lamp  func(part int) bool
	Views []scene.View
	// Lines is how many pixels high the pictures are to be; 0: as high as usual.
	Lines int
}

// usualLines is how high a picture is of which nothing else is known.
const usualLines = 1600

func (of *Subject) lines() float64 {
	if of.Lines > 0 {
		return float64(of.Lines)
	}
	return usualLines
}

// Bytes is about how much memory a check takes, in bytes: all triangles in the world,
// two hierarchies over them, and their edges.
func Bytes(s *scene.Scene) int64 {
	return int64(s.Triangles()) * (2*accel.BytesPerTriangle + 2*36 + 8 + 256)
}

// Run makes all checks. progress, if there, is told the share that is done, from 0
// to 1, by one goroutine at a time.
func Run(ctx context.Context, of Subject, progress func(share float64)) ([]Finding, error) {
	if progress == nil {
		progress = func(float64) {}
	}
	b, err := gather(ctx, of)
	if err != nil {
		return nil, err
	}
	progress(0.2)
	pairs, err := b.pairs(ctx, func(share float64) { progress(0.2 + 0.5*share) })
	if err != nil {
		return nil, err
	}
	groups := b.groups(pairs)
	if err := b.fall(ctx, groups, func(share float64) { progress(0.7 + 0.2*share) }); err != nil {
		return nil, err
	}
	var out []Finding
	out = append(out, b.size()...)
	out = append(out, b.axis()...)
	out = append(out, b.contact(groups)...)
	out = append(out, b.together(pairs)...)
	out = append(out, b.finishes()...)
	out = append(out, b.bumps()...)
	progress(0.93)
	out = append(out, b.views()...)
	progress(0.96)
	facets, err := b.facets(ctx)
	if err != nil {
		return nil, err
	}
	out = append(out, facets...)
	out = append(out, b.pictures()...)
	progress(1)
	Sort(out)
	return out, ctx.Err()
}

// Sort brings findings into the order in which they are told.
func Sort(found []Finding) {
	slices.SortStableFunc(found, func(x, y Finding) int {
		return cmp.Or(cmp.Compare(slices.Index(Checks, x.Check), slices.Index(Checks, y.Check)), cmp.Compare(y.Value, x.Value))
	})
}
