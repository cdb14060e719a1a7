package setup

import (
	"context"
	"fmt"
	"math"
	"slices"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/scene"
)

// Map is a picture that says a value of a finish all over the surface.
type Map struct {
	Picture  Drawn   `json:"picture"`
	Set      int     `json:"set" min:"0" max:"1" step:"1" def:"0"`
	Tiling   float64 `json:"tiling" unit:"x" min:"0.001" max:"1000" step:"0.1" def:"1"`
	Turn     float64 `json:"turn" unit:"deg" min:"-360" max:"360" step:"5" def:"0"`
	Strength float64 `json:"strength" unit:"%" min:"0" max:"1000" step:"5" def:"100"`
}

// Drawn names a picture by file name and content.
type Drawn struct {
	Name   string `json:"name" maxlen:"200"`
	SHA256 string `json:"sha256" maxlen:"64" def:""`
}

// NewMap is a map as it begins.
func NewMap(p Drawn) Map { return Map{Picture: p, Tiling: 1, Strength: 100} }

// UnmarshalJSON gives what a map leaves out its default.
func (m *Map) UnmarshalJSON(b []byte) error {
	type plain Map
	p := plain(NewMap(Drawn{}))
	err := strictly(b, &p)
	if err == nil {
		*m = Map(p)
	}
	return err
}

// maps are all that a finish may have.
func (f *Finish) maps() []*Map {
	return slices.DeleteFunc([]*Map{f.BaseMap, f.RoughMap, f.MetalMap, f.GlowMap, f.NormalMap, f.HeightMap}, func(m *Map) bool { return m == nil })
}

// MissingPictures are the names of pictures that the set-up's finishes show and a scene
// cannot find.
func (u *Setup) MissingPictures(s *scene.Scene) (out []string) {
	for i := range u.Finishes {
		for _, m := range u.Finishes[i].maps() {
			if _, err := m.Picture.Find(s); err != nil && !slices.Contains(out, m.Picture.Name) {
				out = append(out, m.Picture.Name)
			}
		}
	}
	return out
}

// Find is a picture by its name and content, from where a scene finds its pictures.
func (p *Drawn) Find(s *scene.Scene) (*scene.Image, error) {
	if s.Pictures == nil {
		return nil, fmt.Errorf("there is no picture %q here", p.Name)
	}
	img, err := s.Pictures(p.Name, p.SHA256)
	if err != nil {
		return nil, fmt.Errorf("there is no picture %q here", p.Name)
	}
	return img, nil
}

// hundredthSteep is how high white stands over black at full strength, by the picture's width.
const hundredthSteep = 0.01

// draw puts the maps of a change onto a finish of a scene whose list of images may be
// appended to.
func (f *Finish) draw(ctx context.Context, to *scene.Finish, s *scene.Scene) error {
	if len(f.maps()) == 0 {
		return nil
	}
	// bake makes a picture of others once, however often the set-up is laid over the scene.
	bake := func(use string, maps []*Map, paint func(src []*scene.Image) scene.Image) (scene.Texture, error) {
		src := make([]*scene.Image, len(maps))
		key := use
		for i, m := range maps {
			if m == nil {
				continue
			}
			var err error
			if src[i], err = m.Picture.Find(s); err != nil {
				return scene.NoTexture, err
			}
			key += fmt.Sprintf("\n%d %s %s %g", i, m.Picture.Name, m.Picture.SHA256, m.Strength)
		}
		made := scene.Once(s.Memo, bakedAs(key), func() (*scene.Image, int64) {
			img := paint(src)
			return &img, int64(len(img.Pix))
		})
		at := len(s.Images)
		s.Images = append(s.Images, *made)
		return maps[0].placed(at), nil
	}
	for _, p := range []struct {
		maps  []*Map
		use   string
		to    *scene.Texture
		paint func(src []*scene.Image) scene.Image
	}{
		{[]*Map{f.BaseMap}, "colour", &to.BaseTexture, func(src []*scene.Image) scene.Image { return towardsWhite(ctx, src[0], f.BaseMap.Strength) }},
		{[]*Map{f.GlowMap}, "colour", &to.EmissionTexture, func(src []*scene.Image) scene.Image { return towardsWhite(ctx, src[0], f.GlowMap.Strength) }},
		{[]*Map{f.RoughMap, f.MetalMap}, "values", &to.MetalRoughTexture, func(src []*scene.Image) scene.Image {
			return inChannels(ctx, src, f.RoughMap, f.MetalMap)
		}},
		{[]*Map{f.NormalMap}, "as it is", &to.NormalTexture, func(src []*scene.Image) scene.Image { return *src[0] }},
		{[]*Map{f.HeightMap}, "heights", &to.NormalTexture, func(src []*scene.Image) scene.Image { return slopes(ctx, src[0], f.HeightMap.Strength) }},
	} {
		if p.maps[0] == nil {
			p.maps = slices.Clone(p.maps)
			slices.Reverse(p.maps) // a metal map by itself is placed as it says
			p.use += ", reversed"
			if p.maps[0] == nil {
				continue
			}
			p.paint = func(src []*scene.Image) scene.Image {
				return inChannels(ctx, []*scene.Image{nil, src[0]}, nil, f.MetalMap)
			}
		}
		t, err := bake(p.use, p.maps, p.paint)
		if err != nil {
			return err
		}
		*p.to = t
	}
	if f.NormalMap != nil {
		to.NormalScale = float32(f.NormalMap.Strength / 100)
	}
	if f.HeightMap != nil {
		to.NormalScale, to.GreenDown = 1, false
	}
	return nil
}

// bakedAs is the key of a picture that was made of others.
type bakedAs string

// placed is a map's place on the surface.
func (m *Map) placed(image int) scene.Texture {
	t := scene.NoTexture
	t.Image, t.Set = image, m.Set
	sin, cos := math.Sincos(m.Turn * math.Pi / 180)
	c, s := float32(m.Tiling*cos), float32(m.Tiling*sin)
	t.Transform = [6]float32{c, s, 0, -s, c, 0}
	return t
}

// painted is a picture of a size, made pixel by pixel.
func painted(ctx context.Context, w, h int, at func(x, y int, px []byte)) scene.Image {
	img := scene.Image{W: w, H: h, Pix: make([]byte, 4*w*h)}
	for y := range h {
		for x := range w {
			parallel.Check(ctx, y*w+x)
			at(x, y, img.Pix[4*(y*w+x):])
		}
	}
	return img
}

// towardsWhite is a picture of colours as strong as a percentage says: at 0 all is white.
func towardsWhite(ctx context.Context, src *scene.Image, percent float64) scene.Image {
	if percent == 100 {
		return *src
	}
	k := float32(percent / 100)
	var table [256]byte
	for b := range table {
		v := 1 + k*(colour.SRGB8[b]-1)
		table[b] = byte(colour.EncodeSRGB(min(1, max(0, v)))*255 + 0.5)
	}
	return painted(ctx, src.W, src.H, func(x, y int, px []byte) {
		from := src.Pix[4*(y*src.W+x):]
		px[0], px[1], px[2], px[3] = table[from[0]], table[from[1]], table[from[2]], from[3]
	})
}

// grey is the mean of a pixel's channels, from 0 to 1.
func grey(img *scene.Image, x, y int) float64 {
	px := img.Pix[4*(y*img.W+x):]
	return float64(int(px[0])+int(px[1])+int(px[2])) / (3 * 255)
}

// inChannels packs roughness into green and metal into blue, as finishes hold them; what
// is not there is one.
func inChannels(ctx context.Context, src []*scene.Image, rough, metal *Map) scene.Image {
	w, h := commonSize(src)
	value := func(k int, m *Map, x, y int) byte {
		if src[k] == nil {
			return 255
		}
		v := 1 + m.Strength/100*(grey(src[k], x*src[k].W/w, y*src[k].H/h)-1)
		return byte(min(1, max(0, v))*255 + 0.5)
	}
	return painted(ctx, w, h, func(x, y int, px []byte) {
		px[0], px[1], px[2], px[3] = 255, value(0, rough, x, y), value(1, metal, x, y), 255
	})
}

// commonSize is the size of a picture that holds several: as fine as each of them in either
// direction, unless that would take far more than the largest, whose size it is then. Two
// that are long in different directions would make one without bounds.
func commonSize(src []*scene.Image) (w, h int) {
	const most = 4
	large := &scene.Image{W: 1, H: 1}
	for _, s := range src {
		if s != nil {
			w, h = max(w, s.W), max(h, s.H)
			if s.W*s.H > large.W*large.H {
				large = s
			}
		}
	}
	if w*h > most*large.W*large.H {
		return large.W, large.H
	}
	return w, h
}

// slopes is the normal map of a picture of heights, which goes on where it ends (the
// derivatives of Sobel). 100 percent has white a hundredth of the picture's width over black.
func slopes(ctx context.Context, src *scene.Image, percent float64) scene.Image {
	w, h := src.W, src.H
	steep := percent / 100 * hundredthSteep * float64(w) / 8
	at := func(x, y int) float64 { return grey(src, (x+w)%w, (y+h)%h) }
	return painted(ctx, w, h, func(x, y int, px []byte) {
		dx := at(x+1, y-1) + 2*at(x+1, y) + at(x+1, y+1) - at(x-1, y-1) - 2*at(x-1, y) - at(x-1, y+1)
		dy := at(x-1, y+1) + 2*at(x, y+1) + at(x+1, y+1) - at(x-1, y-1) - 2*at(x, y-1) - at(x+1, y-1)
		n := geom.V(float32(-dx*steep), float32(dy*steep), 1).Unit()
		for k, v := range [3]float32{n.X, n.Y, n.Z} {
			px[k] = byte(v*127.5 + 128)
		}
		px[3] = 255
	})
}

// boxMM is how large a picture is on a mesh that has no places for one, millimetres.
const boxMM = 100

// wrap gives parts that wear a finish with a map, and whose meshes have no places for it,
// some: those of boxes around them.
func (u *Setup) wrap(ctx context.Context, s *scene.Scene) {
	mapped := map[string]bool{}
	for i := range u.Finishes {
		if len(u.Finishes[i].maps()) > 0 {
			mapped[u.Finishes[i].Name] = true
		}
	}
	if len(mapped) == 0 {
		return
	}
	type wrapped struct {
		mesh    *uint32
		perUnit float32
	}
	made := map[wrapped]int{}
	s.Meshes = slices.Clip(s.Meshes)
	for i := range s.Parts {
		p := &s.Parts[i]
		m := &s.Meshes[p.Mesh]
		if p.Staged || p.Finish < 0 || !mapped[s.Finishes[p.Finish].Name] || len(m.UV[0]) > 0 || len(m.Indices) < 3 {
			continue
		}
		w := s.World(i)
		size := float32(math.Cbrt(math.Abs(float64(w.Det()))))
		key := wrapped{&m.Indices[0], size * 1000 / boxMM}
		at, ok := made[key]
		if !ok {
			out := scene.Once(s.Memo, key, func() (*scene.Mesh, int64) {
				boxed := m.BoxUV(ctx, key.perUnit)
				return &boxed, (&scene.Scene{Meshes: []scene.Mesh{boxed}}).Bytes()
			})
			at = len(s.Meshes)
			made[key] = at
			s.Meshes = append(s.Meshes, *out)
		}
		p.Mesh = at
	}
}
