package importer

import (
	"cmp"
	"fmt"
	"math"

	"amberproof/core/names"
	"amberproof/core/scene"
)

type gltfAnimation struct {
	Name     string
	Channels []struct {
		Sampler int
		Target  struct {
			Node *int
			Path string
		}
	}
	Samplers []struct {
		Input, Output int
		Interpolation string
	}
}

// motion reads an animation: the tracks that move nodes.
func (g *gltf) motion(i int) error {
	a := &g.doc.Animations[i]
	m := scene.Motion{Name: g.motionName(i)}
	moves := map[int]int{} // object to place in m.Moves
	for k := range a.Channels {
		c := &a.Channels[k]
		if c.Target.Node == nil {
			continue // left to extensions, which are noted
		}
		node := *c.Target.Node
		if node < 0 || node >= len(g.doc.Nodes) {
			return refuse("animation %q moves object %d, which is not there", m.Name, node)
		}
		object := g.objects[node]
		if object < 0 {
			continue // in another scene of the file
		}
		name := g.nameOf(node)
		width, ok := map[string]int{"translation": 3, "rotation": 4, "scale": 3}[c.Target.Path]
		if !ok {
			g.note(name, "what animation %q does to its %s is left out", m.Name, c.Target.Path)
			continue
		}
		if g.doc.Nodes[node].Matrix != nil {
			g.note(name, "animation %q moves it, but its place is given as a matrix; it stands still", m.Name)
			continue
		}
		curve, err := g.curve(i, c.Sampler, width)
		if err != nil {
			return err
		}
		at, ok := moves[object]
		if !ok {
			rest, err := placeOf(&g.doc.Nodes[node])
			if err != nil {
				return refuse("object %q: %v", name, err)
			}
			at = len(m.Moves)
			moves[object] = at
			m.Moves = append(m.Moves, scene.Move{Object: object, Rest: rest})
		}
		v := &m.Moves[at]
		switch c.Target.Path {
		case "translation":
			v.Shift = curve
		case "rotation":
			v.Turn = curve
		default:
			v.Scale = curve
		}
	}
	if len(m.Moves) > 0 {
		g.s.Motions = append(g.s.Motions, m)
	}
	return nil
}

// motionName is an animation's name, made unique.
func (g *gltf) motionName(i int) string {
	if g.motions == nil {
		all := make([]string, len(g.doc.Animations))
		for k := range all {
			all[k] = cmp.Or(nameFrom(g.doc.Animations[k].Name), fmt.Sprintf("animation %d", k+1))
		}
		g.motions = names.Style{Join: " ", Most: mostName}.Unique(all)
	}
	return g.motions[i]
}

// Bounds of an animation's keys.
const (
	mostKeys    = 1 << 22 // of all curves together
	longestTime = 1e6     // seconds
)

// curve reads a sampler whose values have so many numbers.
func (g *gltf) curve(animation, sampler, width int) (*scene.Curve, error) {
	a := &g.doc.Animations[animation]
	name := g.motionName(animation)
	if sampler < 0 || sampler >= len(a.Samplers) {
		return nil, refuse("animation %q names sampler %d, which is not there", name, sampler)
	}
	s := &a.Samplers[sampler]
	times, err := g.floats(s.Input, 1)
	if err != nil {
		return nil, err
	}
	values, err := g.floats(s.Output, width)
	if err != nil {
		return nil, err
	}
	for k, t := range times {
		if t < 0 || t > longestTime || k > 0 && t <= times[k-1] {
			return nil, refuse("animation %q has keys that are not in order of time, or beyond %g s", name, float64(longestTime))
		}
	}
	n := len(times)
	if g.keys += n; g.keys > mostKeys {
		return nil, refuse("the animations have more than %d keys; export fewer, or without animation", mostKeys)
	}
	each := 1
	if s.Interpolation == "CUBICSPLINE" {
		each = 3
	}
	if n == 0 || len(values) != n*width*each {
		return nil, refuse("animation %q has %d keys and %d values", name, n, len(values)/width)
	}
	c := &scene.Curve{Times: times, Stepped: s.Interpolation == "STEP"}
	pick := func(of int) [][4]float32 {
		out := make([][4]float32, n)
		for k := range out {
			copy(out[k][:], values[(k*each+of)*width:(k*each+of+1)*width])
		}
		return out
	}
	switch s.Interpolation {
	case "", "LINEAR", "STEP":
		c.Values = pick(0)
	case "CUBICSPLINE":
		c.In, c.Values, c.Out = pick(0), pick(1), pick(2)
	default:
		return nil, refuse("animation %q moves by %q, which is not a way this format has", name, s.Interpolation)
	}
	if width == 4 {
		for k, q := range c.Values {
			l := math.Sqrt(float64(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3]))
			if !(math.Abs(l-1) < 0.1) { // quantised turns are not quite of length one
				return nil, refuse("animation %q has a turn that is none (key %d)", name, k)
			}
			if each == 1 {
				for j := range q {
					c.Values[k][j] = float32(float64(q[j]) / l)
				}
			}
		}
	}
	return c, nil
}
