package preflight

import (
	"fmt"
	"math"
	"slices"

	"amberproof/core/accel"
	"amberproof/core/scene"
)

const (
	// pictureRays is how many rays look at the pictures on parts, along the longer side
	// of the frame, and leastRays how many have to hit one for it to be judged.
	pictureRays = 112
	leastRays   = 12
	// leastTexels is how many texels a pixel is to have of a picture, and mostTexels how
	// many at most anywhere before it is told to be larger than needed.
	leastTexels = 0.5
	mostTexels  = 8
	// vastPixels is the least size of a picture that is told to be too large.
	vastPixels = 2048 * 2048
)

// drawn is a picture on a part.
type drawn struct{ part, image int }

// pictures finds pictures on parts that are too small for a view, and those that are far
// larger than any view shows.
func (b *body) pictures() (out []Finding) {
	type worse struct {
		texels float64
		view   int
	}
	coarse := map[int]worse{}   // by part
	finest := map[int]float64{} // least texels a pixel of an image, over all that is seen of it
	wearer := map[int]int{}     // a part that shows an image
	st := accel.NewStack(b.all)
	for view := range b.of.Views {
		for d, texels := range b.lookAt(st, view) {
			if len(texels) < leastRays {
				continue
			}
			slices.Sort(texels)
			if m := texels[len(texels)/2]; m < leastTexels {
				if w, ok := coarse[d.part]; !ok || m < w.texels {
					coarse[d.part] = worse{m, view}
				}
			}
			least := texels[len(texels)/20]
			if f, ok := finest[d.image]; !ok || least < f {
				finest[d.image], wearer[d.image] = least, d.part
			}
		}
	}
	s := b.of.Scene
	for part := range s.Parts {
		w, ok := coarse[part]
		if !ok {
			continue
		}
		out = append(out, Finding{
			Check: Coarse, Part: part, Other: -1, View: w.view, Value: w.texels, Unit: "texels", Sure: Likely, Where: b.solids[part].box,
			Says: fmt.Sprintf("A picture on %s is too small for %s at %.0f lines: each of its texels covers %.2g pixels.",
				s.Parts[part].Name, b.of.Views[w.view].Name, b.of.lines(), 1/(w.texels*w.texels)),
		})
	}
	for i := range s.Images {
		least, ok := finest[i]
		if img := &s.Images[i]; ok && least > mostTexels && img.W*img.H >= vastPixels {
			mb := float64(img.W) * float64(img.H) * 4 / 1e6
			by := int(math.Exp2(math.Floor(math.Log2(least / 2))))
			out = append(out, Finding{
				Check: Vast, Part: wearer[i], Other: -1, View: -1, Value: mb, Unit: "MB", Sure: Perhaps, Where: b.solids[wearer[i]].box,
				Says: fmt.Sprintf("The picture %s, %d x %d, takes %.0f MB and is never seen finer than %.2g texels a pixel at %.0f lines; %d x %d would do.",
					pictureName(img, i), img.W, img.H, mb, least, b.of.lines(), img.W/by, img.H/by),
			})
		}
	}
	return out
}

func pictureName(img *scene.Image, i int) string {
	if img.Name != "" {
		return img.Name
	}
	return fmt.Sprintf("%d", i+1)
}

// lookAt tells for each picture on a part how many of its texels a pixel of a view has, in
// each direction, wherever a ray hits it.
func (b *body) lookAt(st *accel.Stack, view int) map[drawn][]float64 {
	w := &b.of.Views[view]
	nx, ny := grid(w, pictureRays)
	ahead := w.Camera.Axis(2).Neg().Unit()
	out := map[drawn][]float64{}
	for y := range ny {
		for x := range nx {
			o, d := w.Ray((float32(x)+0.5)/float32(nx)*2-1, 1-(float32(y)+0.5)/float32(ny)*2)
			h, ok := b.next(st, o, d, func(part int) bool {
				f := b.of.Scene.FinishOf(part)
				return !f.Clear()
			})
			if !ok {
				continue
			}
			pixel := 2 * float64(w.YMag) / b.of.lines() // metres across it, there
			if w.YFov > 0 {
				pixel = 2 * math.Tan(float64(w.YFov)/2) * float64(h.t*d.Dot(ahead)) / b.of.lines()
			}
			b.texels(h.part, int(h.tri), func(image int, perMetre float64) {
				k := drawn{h.part, image}
				out[k] = append(out[k], perMetre*pixel)
			})
		}
	}
	return out
}

// texels tells for each picture on a triangle of a part how many texels it has there for
// a metre, in the mean of both directions.
func (b *body) texels(part, tri int, each func(image int, perMetre float64)) {
	s := b.of.Scene
	f := s.FinishOf(part)
	m := &s.Meshes[s.Parts[part].Mesh]
	area := float64(across(&b.solids[part].tris[tri]).Len())
	for _, t := range f.Textures() {
		if t.Image < 0 || t.Set >= len(m.UV) || len(m.UV[t.Set]) == 0 || !(area > 0) {
			continue
		}
		uv := m.UV[t.Set]
		a, p, q := uv[m.Indices[3*tri]], uv[m.Indices[3*tri+1]], uv[m.Indices[3*tri+2]]
		drawn := math.Abs(float64((p[0]-a[0])*(q[1]-a[1]) - (p[1]-a[1])*(q[0]-a[0])))
		x := t.Transform
		img := &s.Images[t.Image]
		drawn *= math.Abs(float64(x[0]*x[4]-x[1]*x[3])) * float64(img.W) * float64(img.H)
		if drawn > 0 {
			each(t.Image, math.Sqrt(drawn/area))
		}
	}
}
