package denoise

import (
	"testing"

	"amberproof/core/geom"
)

// woven is a texture of stripes three pixels wide that the guides know, under even light.
func woven(x, y int) seen {
	v := even(x, y)
	if (x/3)%2 == 0 {
		for k := range v.light {
			v.light[k] = v.light[k].Scale(0.5)
		}
		v.guide.Albedo = v.guide.Albedo.Scale(0.5)
	}
	return v
}

// A texture that albedo tells keeps its contrast, at few samples too.
func TestTexturesKeepTheirContrast(t *testing.T) {
	for _, samples := range []int{4, 16, 64} {
		var dark, light geom.Vec3
		each(clean(t, shoot(96, 64, samples, 1, woven), 0, 2), func(x, _ int, c geom.Vec3, _ []float32) {
			switch {
			case x%3 != 1: // beside a border
			case (x/3)%2 == 0:
				dark = dark.Add(c)
			default:
				light = light.Add(c)
			}
		})
		contrast := (light.Y - dark.Y) / (light.Y + dark.Y) * 3 // of 1 to a half
		t.Logf("%d samples: %.3f of the contrast", samples, contrast)
		if contrast < 0.97 || contrast > 1.03 {
			t.Errorf("at %d samples a texture keeps %.2f of its contrast", samples, contrast)
		}
	}
}
