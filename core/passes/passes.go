// Package passes turns the sums of a film into output images. docs/rendering.md
// defines each by formula.
package passes

import (
	"context"
	"image"
	"math"
	"slices"

	"amberproof/core/film"
	"amberproof/core/imageio"
	"amberproof/core/names"
	"amberproof/core/scene"
)

// Kind says what a pass shows.
type Kind string

const (
	Beauty     Kind = "beauty"
	Light      Kind = "light"
	Occlusion  Kind = "occlusion"
	PartMask   Kind = "part"
	FinishMask Kind = "finish"
	Normal     Kind = "normal"
	Depth      Kind = "depth"
	Motion     Kind = "motion"
	Shadow     Kind = "shadow"
	IDs        Kind = "ids"
)

// Pass is one output image.
type Pass struct {
	Key   string `json:"key" doc:"Unique name, used in addresses and file names"`
	Title string `json:"title" doc:"Name for people"`
	Kind  Kind   `json:"kind" enum:"beauty,light,occlusion,part,finish,normal,depth,motion,shadow,ids"`
	index int    // element, or place in the list of parts or finishes
	parts map[uint32]bool
	ids   map[uint32]string // of an ID pass: each part's name
	back  bool              // the light that is seen behind what catches shadows
}

// Data reports whether the pass holds numbers that are not light.
func (p *Pass) Data() bool { return p.Kind != Beauty && p.Kind != Light }

// Wanted is what to make.
type Wanted struct {
	Lights, Occlusion, PartMasks, FinishMasks, Normal, Depth, Motion, Shadow, IDs bool
	// Catches says that a floor catches shadows, and Behind names the element that
	// is seen behind it.
	Catches bool
	Behind  string
}

// Needs returns the film layout for what is wanted; the elements are counted
// later. Coverage is always kept: a proof tells which part lies under the pointer.
func (w Wanted) Needs() film.Layout {
	return film.Layout{AO: w.Occlusion, Normal: w.Normal, Depth: w.Depth, Motion: w.Motion, Caught: w.Catches, Cover: true}
}

// List names the passes of a picture in their fixed order. bare tells the parts
// that get no mask: lamps of the stage, and what catches shadows.
func List(w Wanted, elements []string, s *scene.Scene, bare func(part int) bool) []Pass {
	out := []Pass{{Key: "beauty", Title: "Beauty", Kind: Beauty}}
	if w.Lights {
		for i, e := range elements {
			out = append(out, Pass{Key: "light." + Slug(e), Title: e, Kind: Light, index: i, back: w.Catches && e == w.Behind})
		}
	}
	if w.Occlusion {
		out = append(out, Pass{Key: "occlusion", Title: "Ambient occlusion", Kind: Occlusion})
	}
	if w.Normal {
		out = append(out, Pass{Key: "normal", Title: "Normal", Kind: Normal})
	}
	if w.Depth {
		out = append(out, Pass{Key: "depth", Title: "Depth", Kind: Depth})
	}
	if w.Motion {
		out = append(out, Pass{Key: "motion", Title: "Motion", Kind: Motion})
	}
	if w.Shadow {
		out = append(out, Pass{Key: "shadow", Title: "Caught shadow", Kind: Shadow})
	}
	if w.IDs {
		byPart, byFinish := map[uint32]string{}, map[uint32]string{}
		for i, k := range s.Keys() {
			if !bare(i) {
				byPart[uint32(i)], byFinish[uint32(i)] = k, s.FinishName(i)
			}
		}
		out = append(out, Pass{Key: "ids_part", Title: "ID matte by part", Kind: IDs, ids: byPart},
			Pass{Key: "ids_finish", Title: "ID matte by finish", Kind: IDs, ids: byFinish})
	}
	if w.FinishMasks {
		by := map[string]*Pass{}
		var order []string
		for i := range s.Parts {
			if bare(i) {
				continue
			}
			n := s.FinishName(i)
			if by[n] == nil {
				by[n] = &Pass{Key: "finish." + Slug(n), Title: n, Kind: FinishMask, parts: map[uint32]bool{}}
				order = append(order, n)
			}
			by[n].parts[uint32(i)] = true
		}
		for _, n := range order {
			out = append(out, *by[n])
		}
	}
	if w.PartMasks {
		for i, k := range s.Keys() {
			if !bare(i) {
				out = append(out, Pass{Key: "part." + Slug(k), Title: k, Kind: PartMask, parts: map[uint32]bool{uint32(i): true}})
			}
		}
	}
	keys := make([]string, len(out))
	for i := range out {
		keys[i] = out[i].Key
	}
	for i, k := range (names.Style{Join: "_"}).Unique(keys) {
		out[i].Key = k
	}
	return out
}

// mostWord bounds a name's part of a key, so that file names stay short.
const mostWord = 80

// Slug turns a name into one that every file system and layer name takes:
// letters, digits and underscores, never empty.
func Slug(name string) string { return names.Word(name, mostWord) }

// Names of the channels of a pass within a file of many layers.
func (p *Pass) Channels() []string {
	switch p.Kind {
	case Beauty:
		return []string{"R", "G", "B", "A"}
	case Light:
		return []string{p.Key + ".R", p.Key + ".G", p.Key + ".B"}
	case Normal:
		return []string{"normal.X", "normal.Y", "normal.Z"}
	case Depth:
		return []string{"depth.Z"}
	case Motion:
		return []string{"motion.X", "motion.Y"}
	case IDs:
		return idChannels(p.layer())
	}
	return []string{p.Key + ".Y"}
}

// value computes the pass at one pixel.
func (p *Pass) value(t *film.Sums, i int) (v [mostValues]float32) {
	px := t.Pixel(i)
	w := px[film.Weight]
	if !(w > 0) {
		return v
	}
	l := &t.Layout
	rgb := func(at int) { v[0], v[1], v[2] = px[at]/w, px[at+1]/w, px[at+2]/w }
	switch p.Kind {
	case Beauty:
		c, alpha := t.Light(i)
		v[0], v[1], v[2], v[3] = c.X, c.Y, c.Z, min(1, max(0, alpha))
	case Light:
		rgb(l.ElementAt(p.index))
		if p.back {
			c := t.Seen(i)
			v[0], v[1], v[2] = v[0]+c.X, v[1]+c.Y, v[2]+c.Z
		}
	case Occlusion:
		v[0] = px[l.AOAt()] / w
	case Normal:
		rgb(l.NormalAt())
	case Depth:
		if c := px[l.DepthAt()+1]; c > 0 {
			v[0] = px[l.DepthAt()] / c
		}
	case Motion:
		if c := px[l.MotionAt()+2]; c > 0 {
			v[0], v[1] = px[l.MotionAt()]/c, px[l.MotionAt()+1]/c
		}
	case Shadow:
		v[0] = t.Shadow(i)
	case IDs:
		return p.ranks(t, i, t.Covered(i))
	default:
		v[0] = min(1, t.CoverOf(i, func(part uint32) bool { return p.parts[part] })/t.Covered(i))
	}
	return v
}

// Planes computes the pass over the film's window: one slice per channel, row by
// row. The film must not change meanwhile.
func (p *Pass) Planes(f *film.Film) [][]float32 {
	out, _, _ := p.gather(context.Background(), f, 1, func(read func()) { read() }) // never cancelled
	return out
}

// Stride is the step between the pixels that are looked at so that the longer
// side of a film's picture has at most so many; 0 asks for all.
func Stride(f *film.Film, side int) int {
	if side <= 0 {
		return 1
	}
	return max(1, (max(f.Window.Dx(), f.Window.Dy())+side-1)/side)
}

// Seen is Picture of a film that may change meanwhile, at one pixel in each block
// of stride x stride: the mean of a few of the block, in scene-linear light.
// Who renders waits for a few thousand pixels at most, and who looks waits for its
// turn a few dozen times and not at every row of every tile.
func (p *Pass) Seen(ctx context.Context, f *film.Film, stride int) (*imageio.Picture, error) {
	planes, size, err := p.gather(ctx, f, stride, f.Look)
	if err != nil {
		return nil, err
	}
	return p.picture(planes, size), nil
}

// mostInBlock is how many pixels of a block are looked at in each direction.
const mostInBlock = 3

// mostAtOnce is how many blocks are read in one look at the film: about a
// millisecond's work.
const mostAtOnce = 1 << 13

// gather computes the pass at every block of pixels. look is called around every
// read of the film, for some rows of blocks.
func (p *Pass) gather(ctx context.Context, f *film.Film, stride int, look func(func())) (out [][]float32, size image.Point, err error) {
	w := f.Window
	size = image.Pt((w.Dx()+stride-1)/stride, (w.Dy()+stride-1)/stride)
	out = make([][]float32, len(p.Channels()))
	for c := range out {
		out[c] = make([]float32, size.X*size.Y)
	}
	step := (stride + mostInBlock - 1) / mostInBlock
	rows := max(1, mostAtOnce/max(1, size.X))
	for top := 0; top < size.Y; top += rows {
		if err := ctx.Err(); err != nil {
			return nil, size, err
		}
		look(func() {
			for by := top; by < min(top+rows, size.Y); by++ {
				for bx := range size.X {
					p.block(f, image.Rect(bx*stride, by*stride, (bx+1)*stride, (by+1)*stride).Add(w.Min).Intersect(w), step, out, by*size.X+bx)
				}
			}
		})
	}
	return out, size, nil
}

// block writes the mean over some pixels of a block to place at of the planes.
func (p *Pass) block(f *film.Film, b image.Rectangle, step int, out [][]float32, at int) {
	n := float32(0)
	for y := b.Min.Y; y < b.Max.Y; y += step {
		for x := b.Min.X; x < b.Max.X; x += step {
			v := p.value(f.At(x, y))
			for c := range out {
				out[c][at] += v[c]
			}
			n++
			if p.Kind == IDs { // hashes have no mean
				return
			}
		}
	}
	if n > 1 {
		for c := range out {
			out[c][at] /= n
		}
	}
}

// At computes the pass at one pixel of the frame.
func (p *Pass) At(f *film.Film, x, y int) []float32 {
	v := p.value(f.At(x, y))
	return v[:len(p.Channels())]
}

// Picture makes a pass ready for a PNG: light as it is, normals from -1..1 to
// 0..1, depth with the nearest white and the farthest black, motion as red and
// green about a half, which stands still.
func (p *Pass) Picture(f *film.Film) *imageio.Picture {
	return p.picture(p.Planes(f), f.Window.Size())
}

func (p *Pass) picture(pl [][]float32, size image.Point) *imageio.Picture {
	if p.Kind == IDs {
		pl = colours(pl)
	}
	pic := &imageio.Picture{W: size.X, H: size.Y, R: pl[0], Data: p.Data()}
	switch p.Kind {
	case Beauty:
		pic.G, pic.B, pic.A = pl[1], pl[2], pl[3]
	case Light, IDs:
		pic.G, pic.B = pl[1], pl[2]
	case Normal:
		for _, c := range pl {
			for i := range c {
				c[i] = c[i]*0.5 + 0.5
			}
		}
		pic.G, pic.B = pl[1], pl[2]
	case Motion:
		most := float32(0)
		for _, c := range pl {
			for _, v := range c {
				most = max(most, v, -v)
			}
		}
		for _, c := range pl {
			for i := range c {
				c[i] = 0.5 + c[i]/(2*max(most, 1e-9))
			}
		}
		pic.G = pl[1]
		pic.B = slices.Repeat([]float32{0.5}, len(pl[0]))
	case Depth:
		near, far := float32(0), float32(0)
		for _, d := range pl[0] {
			if d > 0 && (near == 0 || d < near) {
				near = d
			}
			far = max(far, d)
		}
		for i, d := range pl[0] {
			if d > 0 && far > near {
				pl[0][i] = (far - d) / (far - near)
			}
		}
	}
	return pic
}

// colours shows the ranks of an ID pass: each name in a colour of its own, by coverage.
func colours(ranks [][]float32) [][]float32 {
	n := len(ranks[0])
	out := [][]float32{make([]float32, n), make([]float32, n), make([]float32, n)}
	for i := range n {
		for k := 0; k < len(ranks); k += 2 {
			cover := ranks[k+1][i]
			if cover == 0 {
				break
			}
			r, g, b := tint(math.Float32bits(ranks[k][i]))
			out[0][i] += r * cover
			out[1][i] += g * cover
			out[2][i] += b * cover
		}
	}
	return out
}

// PartAt is the part that covers most of a pixel of the frame, or ok false.
func PartAt(f *film.Film, x, y int) (part int, ok bool) {
	t, i := f.At(x, y)
	best := float32(0)
	for e := t.Heads[i]; e >= 0; e = t.Entries[e].Next {
		if c := t.Entries[e]; c.Weight > best {
			best, part, ok = c.Weight, int(c.Part), true
		}
	}
	return part, ok
}
