// Package trace computes pictures: it prepares a scene for tracing, follows
// paths of light through it and fills units of the film.
package trace

import (
	"image"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/lights"
	"amberproof/core/optics"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// Backing is what is seen behind the product.
type Backing int

const (
	BackEnvironment Backing = iota // the surround itself
	BackTone                       // one flat tone
	BackClear                      // nothing: alpha zero
	BackGradient                   // from one colour to another over the frame
	BackPicture                    // a picture that covers the frame
)

// Surround is what lights the product from all round.
type Surround struct {
	On       bool
	Picture  *imageio.HDR // nil: an even tone
	Tone     geom.Vec3    // radiance of the even tone, nits
	Strength float32
	Turn     float32     // radians
	Sky      *lights.Sky // instead of a picture or a tone
}

// LightSetting overrides a light of the scene by its place in Lamps order.
type LightSetting struct {
	On       bool
	Strength float32 // factor
	Size     float32 // factor on a rectangle's, disk's or sphere's lengths
	// KeepsPower: at another size the light gives as much as before, and its
	// surface is as much dimmer as it is larger; else its surface stays as bright.
	KeepsPower                   bool
	Camera, Reflections, Shadows bool    // seen by the camera, seen in reflections, casts shadows
	Reach                        float32 // metres; 0 is as the scene says
	Samples                      int     // where the camera looks
}

// AsInScene leaves a light as the scene has it.
func AsInScene() LightSetting {
	return LightSetting{On: true, Strength: 1, Size: 1, KeepsPower: true, Camera: true, Reflections: true, Shadows: true, Samples: 1}
}

// Options is everything a picture needs besides the scene.
type Options struct {
	Width, Height int             // the whole frame, pixels
	Window        image.Rectangle // the part of it to compute
	Camera        Camera
	Finishes      []scene.Finish    // worn by the parts
	Overrides     []optics.Override // per finish; nil or missing ones do not
	Crevices      []*optics.Crevice // per finish; nil or missing ones have none
	Wears         []int             // per part: index into Finishes, or LeftOutOfPicture
	Catches       []bool            // per part: shows nothing but the shadows on it; missing ones do not
	Absent        []bool            // per part: throws its shadow, and is seen by nobody; missing ones are not
	Lamps         []LightSetting    // per lamp, see LampsOf; missing ones are on at strength 1
	Surround      Surround
	Colourless    bool // all light has its luminance, and no colour
	Shutter       Shutter
	Lines         *Lines // nil: none
	Backing       Backing
	BackingTone   geom.Vec3
	Gradient      Gradient
	Plate         *scene.Image // of BackPicture, sRGB
	PlateStrength float32

	Filter      sampling.FilterKind
	FilterWidth float64 // pixels
	Seed        uint32

	DiffuseBounces, GlossyBounces, ClearBounces int
	// Branches are by optics.Kind how many times as many directions are followed from the first
	// surface that turns a path, if it is no perfect mirror; 0 is 1.
	Branches [3]int
	Clamp    float32 // radiance limit of indirect light; 0 is none
	// StraightShadows lets shadow rays through smooth clear parts along a
	// straight line, tinted and dimmed, where these hardly turn light aside,
	// instead of leaving that light to paths that find it by chance.
	StraightShadows bool

	// Apart has parts that were put elsewhere, and lamps of the stage, held by themselves:
	// a little slower to trace, and when they are moved again nothing else is built.
	Apart bool

	// Twin is the same picture with other surfaces and light, whose sums the film keeps too;
	// of it, only what concerns these counts. nil: there is none.
	Twin *Options

	Layout         film.Layout // its element planes are those of ElementsOf
	AOSamples      int         // occlusion rays per camera sample
	AOReach        float32     // metres
	AOSeeThrough   bool
	MaskSeeThrough bool
}

// LeftOutOfPicture as a part's finish leaves the part out.
const LeftOutOfPicture = -1
