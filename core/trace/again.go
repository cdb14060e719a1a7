package trace

import (
	"context"
	"image"
	"slices"
	"sync"

	"amberproof/core/lights"
	"amberproof/core/scene"
)

// Seen is the world from another camera, in a frame of another size: nothing is
// prepared anew. The worlds share all but that and can both be traced.
func (w *World) Seen(c Camera, width, height int) *World {
	v := *w
	v.opt.Camera, v.opt.Width, v.opt.Height, v.opt.Window = c, width, height, image.Rect(0, 0, width, height)
	v.eye = newEye(&c, width, height)
	v.findFocus(&c)
	return &v
}

// layOut puts the parts into the layers, or takes a layer over from another world
// if the same lies in it in the same way.
func (w *World) layOut(ctx context.Context, from *World) error {
	var wg sync.WaitGroup
	defer wg.Wait()
	for k, l := range []*layer{&w.passable, &w.solid} {
		if from != nil {
			if old := []*layer{&from.passable, &from.solid}[k]; slices.EqualFunc(l.stands, old.stands, stand.same) {
				for _, s := range l.stands {
					w.parts[s.part].laid = from.parts[s.part].laid
				}
				*l = *old
				continue
			}
		}
		for _, s := range l.stands {
			if err := ctx.Err(); err != nil {
				return err
			}
			if !s.once {
				w.parts[s.part].lay()
			}
		}
		wg.Go(func() { l.build(w.parts) })
	}
	return nil
}

// same tells whether two parts are the same triangles in the same places: of meshes
// that were copied, it is enough that they share their corners.
func (s stand) same(o stand) bool {
	return s.part == o.part && s.world == o.world && s.once == o.once && slices.Equal(s.way, o.way) && sameMesh(s.mesh, o.mesh)
}

func sameMesh(a, b *scene.Mesh) bool {
	return a == b || shares(a.Positions, b.Positions) && shares(a.Indices, b.Indices) && shares(a.Normals, b.Normals) && a.Shaping == b.Shaping
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
func (w *World) surroundOf(o *Surround) *lights.Env {
	if w == nil || w.opt.Surround.Picture != o.Picture || w.opt.Surround.Sky != nil || w.opt.Surround.Turn != o.Turn || w.opt.Surround.Strength != o.Strength || !w.opt.Surround.On {
		return nil
	}
	return w.env
}

// SameShapes tells whether the world has taken over all geometry of another.
func (w *World) SameShapes(o *World) bool {
	return w.solid.flat == o.solid.flat && w.passable.flat == o.passable.flat
}
