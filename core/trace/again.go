package trace

import (
	"cmp"
	"context"
	"image"
	"slices"

	"amberproof/core/lights"
	"amberproof/core/parallel"
	"amberproof/core/scene"
)

// Seen is the world from another camera, in a frame of another size: nothing is
// prepared anew. The worlds share all but that and can both be traced.
func (w *World) Seen(c Camera, width, height int) *World {
	v := *w
	v.opt.Camera, v.opt.Width, v.opt.Height, v.opt.Window = c, width, height, image.Rect(0, 0, width, height)
	v.camera = prepareCamera(&c, width, height)
	if v.twin != nil {
		v.twin = w.twin.Seen(c, width, height)
	}
	v.lines = w.lines.from(v.camera.origin)
	v.findFocus(&c)
	return &v
}

// layOut puts the parts into the layers, or takes a layer over from another world, or
// what of it is laid out flat, if the same lies in it in the same way.
func (w *World) layOut(ctx context.Context, from *World) error {
	var built [2]error
	err := parallel.Scope(func(g *parallel.Group) {
		for k, l := range []*layer{&w.passable, &w.solid} {
			var old *layer
			if from != nil {
				old = []*layer{&from.passable, &from.solid}[k]
				if slices.EqualFunc(l.stands, old.stands, stand.same) {
					w.takeLaid(l, from)
					*l = *old
					continue
				}
				if slices.EqualFunc(l.laidOut(), old.laidOut(), stand.same) {
					w.takeLaid(l, from)
					l.flat, l.prims = old.flat, old.prims
				}
			}
			if l.flat == nil {
				for _, s := range l.laidOut() {
					if ctx.Err() != nil {
						break
					}
					w.parts[s.part].lay(ctx)
				}
			}
			g.Go(func() { built[k] = l.build(ctx, w.parts, old) })
		}
	})
	return cmp.Or(err, ctx.Err(), built[0], built[1])
}

// takeLaid takes over the corners of a layer's parts from a world where they are the same.
func (w *World) takeLaid(l *layer, from *World) {
	for _, s := range l.laidOut() {
		w.parts[s.part].laid = from.parts[s.part].laid
	}
}

// same tells whether two parts are the same triangles in the same places: of meshes
// that were copied, it is enough that they share their corners.
func (s stand) same(o stand) bool {
	return s.part == o.part && s.world == o.world && s.once == o.once && slices.Equal(s.way, o.way) && sameMesh(s.mesh, o.mesh)
}

// smallMesh is how many indices a mesh has at most whose contents are compared: those
// of a stage are made anew each time.
const smallMesh = 4096

func sameMesh(a, b *scene.Mesh) bool {
	if a == b {
		return true
	}
	if a.Shaping != b.Shaping {
		return false
	}
	if len(a.Indices) <= smallMesh && len(a.Positions) <= smallMesh && slices.Equal(a.Indices, b.Indices) &&
		slices.Equal(a.Positions, b.Positions) && slices.Equal(a.Normals, b.Normals) {
		return true
	}
	return shares(a.Positions, b.Positions) && shares(a.Indices, b.Indices) && shares(a.Normals, b.Normals)
}

// shares tells whether two lists are the same memory.
func shares[T any](a, b []T) bool {
	return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0])
}

// chainOf is an image at all its sizes, if the world has made it of the same pixels;
// nil otherwise, as of no world.
func (w *World) chainOf(kind, image int, of *scene.Image) chain {
	if w == nil || image >= len(w.scene.Images) || !shares(w.scene.Images[image].Pix, of.Pix) {
		return nil
	}
	return w.chains[kind][image]
}

// surroundOf is the surround that the world has made of a picture, if it is the same;
// nil otherwise, as of no world.
func (w *World) surroundOf(o *Surround, colourless bool) *lights.Env {
	if w == nil || w.opt.Colourless != colourless || w.opt.Surround.Picture != o.Picture || w.opt.Surround.Sky != nil ||
		w.opt.Surround.Turn != o.Turn || w.opt.Surround.Strength != o.Strength || !w.opt.Surround.On {
		return nil
	}
	return w.env
}

// SameShapes tells whether the world has taken over all geometry of another.
func (w *World) SameShapes(o *World) bool {
	return w.solid.flat == o.solid.flat && w.passable.flat == o.passable.flat
}
