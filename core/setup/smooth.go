package setup

import (
	"math"

	"amberproof/core/scene"
)

// smoothCrease is the angle above which edges of a part that is smoothed stay sharp.
const smoothCrease = 40 * math.Pi / 180

// MostSmooth is how many times a part can be smoothed.
const MostSmooth = 4

// smooth has the parts shaped that are to be smoothed.
func (u *Setup) smooth(s *scene.Scene) {
	shapes := make([]scene.Shaping, len(s.Parts))
	for i := range s.Parts {
		shapes[i] = s.Meshes[s.Parts[i].Mesh].Shaping
	}
	some := false
	for k, i := range u.Match(s) {
		if n := u.Parts[k].Smooth; i >= 0 && n > 0 {
			shapes[i], some = scene.Shaping{Levels: n, Crease: smoothCrease}, true
		}
	}
	if some {
		*s = *s.Reshaped(shapes)
	}
}
