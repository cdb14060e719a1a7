// Package film gathers samples. The film is a grid of tiles; a unit of work
// adds a range of samples to one tile, and the film takes the ranges of a tile
// in their order, whatever order they arrive in, so that the sums are the same
// to the bit on any number of workers.
package film

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"image"
	"iter"
	"slices"
	"sync"
)

// TileSize is the side of a tile in pixels; tiles at the right and lower edge are smaller.
// It is as small as noise can still be told of one: samples go where they are needed, and
// what is smooth beside an edge gets no more of them than what is smooth next door.
const TileSize = 16

// Cover is one part's share of a pixel; entries of a pixel form a chain.
type Cover struct {
	Part   uint32
	Next   int32
	Weight float32
}

// Sums are the sums of a rectangle of pixels over a range of samples.
type Sums struct {
	Rect    image.Rectangle
	Layout  Layout
	Data    []float32 // Rect.Dx()*Rect.Dy()*Layout.Channels()
	Heads   []int32   // per pixel: first entry, or -1
	Entries []Cover
}

// NewSums makes empty sums.
func NewSums(r image.Rectangle, l Layout) *Sums {
	s := &Sums{Rect: r, Layout: l, Data: make([]float32, r.Dx()*r.Dy()*l.Channels())}
	if l.cover {
		s.Heads = make([]int32, r.Dx()*r.Dy())
	}
	s.Reset()
	return s
}

// Reset empties the sums for use again.
func (s *Sums) Reset() {
	clear(s.Data)
	for i := range s.Heads {
		s.Heads[i] = -1
	}
	s.Entries = s.Entries[:0]
}

// Pixel is the slice of sums of the pixel with index i within the rectangle.
func (s *Sums) Pixel(i int) []float32 {
	c := s.Layout.Channels()
	return s.Data[i*c : (i+1)*c : (i+1)*c]
}

// AddCover adds to a part's share of pixel i.
func (s *Sums) AddCover(i int, part uint32, w float32) {
	for e := s.Heads[i]; e >= 0; e = s.Entries[e].Next {
		if s.Entries[e].Part == part {
			s.Entries[e].Weight += w
			return
		}
	}
	s.Entries = append(s.Entries, Cover{part, s.Heads[i], w})
	s.Heads[i] = int32(len(s.Entries) - 1)
}

// CoverOf sums the shares of pixel i for which want is true.
func (s *Sums) CoverOf(i int, want func(part uint32) bool) (w float32) {
	for e := s.Heads[i]; e >= 0; e = s.Entries[e].Next {
		if want(s.Entries[e].Part) {
			w += max(0, s.Entries[e].Weight)
		}
	}
	return w
}

// Covered is what the shares of pixel i are divided by: its weight, or all its
// shares together where those are more. Filters with lobes below zero can leave a
// part less than nothing, which counts as nothing, and others too much.
func (s *Sums) Covered(i int) float32 {
	var all float32
	for e := s.Heads[i]; e >= 0; e = s.Entries[e].Next {
		all += max(0, s.Entries[e].Weight)
	}
	return max(all, s.Pixel(i)[Weight])
}

// add adds t's sums to s.
func (s *Sums) add(t *Sums) {
	for i, v := range t.Data {
		s.Data[i] += v
	}
	for i := range t.Heads {
		s.addCovers(i, t, i)
	}
}

// addCovers adds the shares of t's pixel j to those of pixel i.
func (s *Sums) addCovers(i int, t *Sums, j int) {
	// The chain runs newest first; adding from its end keeps the order the
	// same as if the samples had been added one after the other.
	var chain [64]int32
	order := chain[:0]
	for e := t.Heads[j]; e >= 0; e = t.Entries[e].Next {
		order = append(order, e)
	}
	slices.Reverse(order)
	for _, e := range order {
		s.AddCover(i, t.Entries[e].Part, t.Entries[e].Weight)
	}
}

// Tile is a tile's sums and how many samples they hold.
type Tile struct {
	*Sums
	Samples int
	Stopped bool // has reached the noise target or the most samples
	pending map[int]*Patch
}

// place is the index of pixel (x, y) of the frame within a tile.
func (t *Tile) place(x, y int) int { return (y-t.Rect.Min.Y)*t.Rect.Dx() + x - t.Rect.Min.X }

// Patch is what a unit of work gives back: the sums of samples [From, To) of a tile.
type Patch struct {
	Tile, From, To int
	*Sums
}

// Film is all tiles of a picture. One goroutine changes it, through Take, Settle
// and Show; others may look at the same time, through Look. What it holds of a
// tile may be read without Look by the goroutine that changes it, or by anyone
// once nothing does.
type Film struct {
	mu sync.RWMutex // held for moments: while one tile is added to, or read

	Window image.Rectangle // the pixels rendered, within the frame
	Layout Layout
	Tiles  []Tile
	Cols   int
	Rows   int
	side   int // of tiles
	// Sketch stands in for tiles without samples, for looking only; or nil.
	Sketch *Sketch
}

// New lays an empty film over a window of the frame.
func New(window image.Rectangle, l Layout) *Film {
	f := grid(window, l, TileSize)
	for i := range f.Tiles {
		f.Tiles[i].Sums = NewSums(f.Rect(i), l)
	}
	return f
}

// grid lays a film whose tiles have no sums yet.
func grid(window image.Rectangle, l Layout, side int) *Film {
	f := &Film{Window: window, Layout: l, side: side}
	f.Cols = (window.Dx() + side - 1) / side
	f.Rows = (window.Dy() + side - 1) / side
	f.Tiles = make([]Tile, f.Cols*f.Rows)
	return f
}

// Bytes is the memory New would take.
func Bytes(window image.Rectangle, l Layout) int64 {
	return int64(window.Dx()) * int64(window.Dy()) * int64(l.BytesPerPixel())
}

// Rect is the rectangle of tile i.
func (f *Film) Rect(i int) image.Rectangle {
	o := f.Window.Min.Add(image.Pt(i%f.Cols*f.side, i/f.Cols*f.side))
	return image.Rectangle{o, o.Add(image.Pt(f.side, f.side))}.Intersect(f.Window)
}

// tileAt is the tile of pixel (x, y) of the frame.
func (f *Film) tileAt(x, y int) *Tile {
	return &f.Tiles[(y-f.Window.Min.Y)/f.side*f.Cols+(x-f.Window.Min.X)/f.side]
}

// Near goes through the tiles that are at most so many away from tile i, itself included.
func (f *Film) Near(i, away int) iter.Seq[int] {
	x, y := i%f.Cols, i/f.Cols
	return func(yield func(int) bool) {
		for v := max(0, y-away); v <= min(f.Rows-1, y+away); v++ {
			for u := max(0, x-away); u <= min(f.Cols-1, x+away); u++ {
				if !yield(v*f.Cols + u) {
					return
				}
			}
		}
	}
}

// Take merges a patch into its tile, or keeps it until the samples before it
// are there. It returns how many samples the tile gained.
func (f *Film) Take(p *Patch) (int, error) {
	if p.Tile < 0 || p.Tile >= len(f.Tiles) {
		return 0, fmt.Errorf("the film has no tile %d", p.Tile)
	}
	t := &f.Tiles[p.Tile]
	if !p.Layout.Same(&f.Layout) || p.Rect != t.Rect {
		return 0, fmt.Errorf("the patch for tile %d belongs to another film", p.Tile)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	before := t.Samples
	if p.To <= t.Samples {
		return 0, nil // done twice is harmless
	}
	if p.From != t.Samples {
		if p.From < t.Samples {
			return 0, fmt.Errorf("samples %d to %d of tile %d overlap the %d it has", p.From, p.To, p.Tile, t.Samples)
		}
		if t.pending == nil {
			t.pending = map[int]*Patch{}
		}
		t.pending[p.From] = p
		return 0, nil
	}
	for p != nil {
		t.add(p.Sums)
		t.Samples = p.To
		p = t.pending[t.Samples]
		delete(t.pending, t.Samples)
	}
	return t.Samples - before, nil
}

// Settle marks a tile as one that gets no more samples.
func (f *Film) Settle(tile int) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.Tiles[tile].Stopped = true
}

// Reopen has the tiles that meet an area get more samples, those of an empty one all; of the others,
// those that have any get no more.
func (f *Film) Reopen(area image.Rectangle) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for i := range f.Tiles {
		t := &f.Tiles[i]
		t.Stopped = t.Samples > 0 && !area.Empty() && !t.Rect.Overlaps(area)
	}
}

// Show puts a sketch in place of tiles without samples.
func (f *Film) Show(s *Sketch) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.Sketch = s
}

// Locked runs read while nothing changes. It is for short reads, of some
// milliseconds: who adds samples waits for it.
func (f *Film) Locked(read func()) {
	f.mu.RLock()
	defer f.mu.RUnlock()
	read()
}

// Counts is the number of samples of every tile: with the film's identity it
// tells its sums.
func (f *Film) Counts() []int {
	out := make([]int, len(f.Tiles))
	f.Locked(func() {
		for i := range out {
			out[i] = f.Tiles[i].Samples
		}
	})
	return out
}

// State tells two states of one film apart: the SHA-256, in hex, of how many samples each tile has.
func (f *Film) State() string {
	var b []byte
	for _, n := range f.Counts() {
		b = binary.LittleEndian.AppendUint64(b, uint64(n))
	}
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}

// Samples is the number of samples of all pixels together.
func (f *Film) Samples() (n int64) {
	for i := range f.Tiles {
		t := &f.Tiles[i]
		n += int64(t.Samples) * int64(t.Rect.Dx()*t.Rect.Dy())
	}
	return n
}

// SamplesAt is the number of samples of a pixel of the frame within the window.
func (f *Film) SamplesAt(x, y int) int {
	return f.tileAt(x, y).Samples
}
