// Package trace computes pictures: it prepares a scene for tracing, follows
// paths of light through it and fills units of the film.
package trace

import (
	"image"
	"math"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// Backing is what is seen behind the product.
type Backing int

const (
	BackEnvironment Backing = iota // the surround itself
	BackTone                       // one flat tone
	BackClear                      // nothing: alpha zero
)

// Camera looks along the -Z axis of World.
type Camera struct {
	World geom.Affine
	YFov  float32 // radians over the full height; 0 for orthographic
	YMag  float32 // metres, half height, orthographic only
}

// Surround is what lights the product from all round.
type Surround struct {
	On       bool
	Picture  *imageio.HDR // nil: an even tone
	Tone     geom.Vec3    // radiance of the even tone, nits
	Strength float32
	Turn     float32 // radians
}

// LightSetting overrides a light of the scene by its place in Lamps order.
type LightSetting struct {
	On       bool
	Strength float32 // factor
}

// Options is everything a picture needs besides the scene.
type Options struct {
	Width, Height int             // the whole frame, pixels
	Window        image.Rectangle // the part of it to compute
	Camera        Camera
	Finishes      []scene.Finish // worn by the parts
	Wears         []int          // per part: index into Finishes, or LeftOutOfPicture
	Lamps         []LightSetting // per lamp, see LampsOf; missing ones are on at strength 1
	Surround      Surround
	Backing       Backing
	BackingTone   geom.Vec3

	Filter      sampling.FilterKind
	FilterWidth float64 // pixels
	Seed        uint32

	DiffuseBounces, GlossyBounces, ClearBounces int
	Clamp                                       float32 // radiance limit of indirect light; 0 is none
	// StraightShadows lets shadow rays through smooth clear parts along a
	// straight line, tinted and dimmed, instead of leaving that light to paths
	// that find it by chance.
	StraightShadows bool

	Layout         film.Layout // Elements is filled in by Prepare
	Apart          bool        // keep every light apart
	AOSamples      int         // occlusion rays per camera sample
	AOReach        float32     // metres
	AOSeeThrough   bool
	MaskSeeThrough bool
}

// LeftOutOfPicture as a part's finish leaves the part out.
const LeftOutOfPicture = -1

// Ray makes the camera ray through the point (x, y) of the frame, in pixels
// from its upper left corner.
func (o *Options) ray(x, y float32) geom.Ray {
	// Square pixels: the frame's height spans the field of view, its width follows.
	sy := 1 - 2*y/float32(o.Height)
	sx := (2*x/float32(o.Width) - 1) * float32(o.Width) / float32(o.Height)
	w := &o.Camera.World
	right, up, back := w.Axis(0).Unit(), w.Axis(1).Unit(), w.Axis(2).Unit()
	inf := float32(math.Inf(1))
	if o.Camera.YFov == 0 {
		p := w.Origin().MulAdd(right, sx*o.Camera.YMag).MulAdd(up, sy*o.Camera.YMag)
		return geom.Ray{O: p, D: back.Neg(), TMax: inf}
	}
	t := float32(math.Tan(float64(o.Camera.YFov) / 2))
	d := right.Scale(sx * t).Add(up.Scale(sy * t)).Sub(back)
	return geom.Ray{O: w.Origin(), D: d.Unit(), TMax: inf}
}
