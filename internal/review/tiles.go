package review

import (
	"context"
	"fmt"
	"image"
	"math"
	"path/filepath"

	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/core/scene"
	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// Tile is a part of a picture of a proof, as it is looked at.
type Tile struct {
	Pass        string // empty: the first
	Level, X, Y int
	Display     colour.Transform // empty: as it was put up
	Stops       float64          // of exposure, beside those it was put up with
	// Less is a proof that is taken off: what is seen is the difference, times Gain. 0: none.
	Less     int64
	LessPass string
	Gain     float32
}

// tileBytes is how much of packed tiles is kept.
const tileBytes = 64 << 20

// tileKey is a tile by the checksums of its proofs.
type tileKey struct {
	sum, less string
	Tile
}

// Tile is a part of a picture of a proof, as PNG; what lies beyond the picture is not found.
func (s *Service) Tile(ctx context.Context, who identity.Actor, proof int64, t Tile) ([]byte, error) {
	sums, err := s.sumsOf(ctx, who, proof, t.Less)
	if err != nil {
		return nil, err
	}
	if t.Less == 0 {
		t.LessPass, t.Gain = "", 1
	}
	t.Less = 0 // known by its checksum
	return s.tiles.Get(ctx, tileKey{sums[0], sums[1], t})
}

// sumsOf are the checksums of proofs that may be seen; of number 0 there is none.
func (s *Service) sumsOf(ctx context.Context, who identity.Actor, proofs ...int64) ([]string, error) {
	sums := make([]string, len(proofs))
	for i, id := range proofs {
		if id == 0 {
			continue
		}
		if err := s.guard.May(ctx, who, identity.See, identity.ProofKind, id); err != nil {
			return nil, err
		}
		p, err := s.store.Proof(ctx, id)
		if err != nil {
			return nil, err
		}
		sums[i] = p.SHA256
	}
	return sums, nil
}

// opened is a picture of a proof that parts are read of.
type opened struct {
	*frozen.Proof
	*frozen.Parts
	dir  string
	pass *frozen.Pass
}

// tile makes a tile.
func (s *Service) tile(ctx context.Context, k tileKey) (out []byte, err error) {
	a, err := s.find(k.sum, k.Pass)
	if err != nil {
		return nil, err
	}
	places := s.tiling
	var b *opened
	if k.less != "" {
		if b, err = s.find(k.less, k.LessPass); err != nil {
			return nil, err
		}
	}
	if len(a.pass.Tiles) == 0 || b != nil && len(b.pass.Tiles) == 0 {
		places = s.full
	}
	err = fewAtOnce(ctx, places, func() error {
		out, err = draw(k, a, b)
		return err
	})
	return out, err
}

// find finds a picture of a proof, which is not open yet.
func (s *Service) find(sum, pass string) (*opened, error) {
	doc, err := frozen.Read(s.files.Proofs(), sum)
	if err != nil {
		return nil, err
	}
	p, err := doc.Pass(pass)
	return &opened{Proof: doc, dir: filepath.Join(s.files.Proofs(), sum), pass: p}, err
}

func draw(k tileKey, a, b *opened) ([]byte, error) {
	for _, o := range []*opened{a, b} {
		if o == nil {
			continue
		}
		var err error
		if o.Parts, err = o.pass.Open(o.dir); err != nil {
			return nil, err
		}
		defer o.Close() // only read
	}
	r := image.Rect(0, 0, frozen.TileSide, frozen.TileSide).Add(image.Pt(k.X, k.Y).Mul(frozen.TileSide))
	v, err := a.Part(k.Level, r)
	if err == nil && v == nil {
		err = fmt.Errorf("tile %d, %d of level %d: %w", k.X, k.Y, k.Level, fault.ErrNotFound)
	}
	if err != nil {
		return nil, err
	}
	look := k.look(a)
	if b == nil {
		return frozen.PNG(look.Shown(v))
	}
	if v.Data != b.pass.Data {
		return nil, fault.Bad("A picture of numbers and one of light cannot be taken off each other")
	}
	other, err := b.under(a, k.Level, r.Min, v.W, v.H)
	if err != nil {
		return nil, err
	}
	return frozen.PNG(look.Apart(v, other, k.Gain))
}

// look is how a tile is displayed.
func (k *tileKey) look(of *opened) finish.Finish {
	f := of.Resolved.Ticket.Finish()
	if k.Display != "" {
		f = finish.Finish{Transform: k.Display}
	}
	f.Exposure += k.Stops
	return f
}

// under is b as it lies under w x h pixels of a at a level, from the pixel at from.
func (b *opened) under(a *opened, level int, from image.Point, w, h int) (*finish.Picture, error) {
	lay := over(a.Proof, b.Proof)
	sa, sb := a.Resolved.Ticket.Size(), b.Resolved.Ticket.Size()
	step := float64(int(1) << level)
	// Pixels of b's computed part where one of a is.
	x := place{float64(sa.X), lay.X, lay.Width, float64(sb.X), float64(b.Window[0])}
	y := place{float64(sa.Y), lay.Y, lay.Height, float64(sb.Y), float64(b.Window[1])}
	fx, fy := float64(a.Window[0])+float64(from.X)*step, float64(a.Window[1])+float64(from.Y)*step
	x0, x1 := x.of(fx), x.of(fx+float64(w)*step)
	y0, y1 := y.of(fy), y.of(fy+float64(h)*step)
	// The smallest size of b that still has a pixel for each of a.
	fine := math.Log2(min((x1-x0)/float64(w), (y1-y0)/float64(h)))
	use := max(0, min(16, int(math.Floor(fine+0.01))))
	scale := float64(int(1) << use)
	x0, x1, y0, y1 = x0/scale, x1/scale, y0/scale, y1/scale
	const far = 1 << 20 // beyond any picture
	whole := func(v float64) int { return int(max(-far, min(far, v))) }
	r := image.Rect(whole(x0)-2, whole(y0)-2, whole(x1)+3, whole(y1)+3)
	r = r.Intersect(image.Rectangle{Max: b.Size(use)})
	v, err := b.Part(use, r)
	if err != nil {
		return nil, err
	}
	if v == nil {
		v = &finish.Picture{Data: b.pass.Data}
	}
	return v.Laid(x0-float64(r.Min.X), y0-float64(r.Min.Y), (x1-x0)/float64(w), (y1-y0)/float64(h), w, h), nil
}

// place brings pixels of one frame along a side to those of the computed part of another.
type place struct {
	side       float64 // of the one frame, pixels
	at, length float64 // of the other in it, shares
	other      float64 // side of the other, pixels
	start      float64 // of its computed part
}

func (p place) of(v float64) float64 { return (v/p.side-p.at)/p.length*p.other - p.start }

// Lay is where the frame of a proof lies in that of another.
type Lay struct {
	X      float64 `json:"x" doc:"From the left, as a share of the other's width"`
	Y      float64 `json:"y" doc:"From the top, as a share of its height"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Same   bool    `json:"same" doc:"Both look from one place into one direction: what they show lies over each other"`
}

// Over is where the frame of other lies in that of proof.
func (s *Service) Over(ctx context.Context, who identity.Actor, proof, other int64) (Lay, error) {
	sums, err := s.sumsOf(ctx, who, proof, other)
	if err != nil {
		return Lay{}, err
	}
	a, err := frozen.Read(s.files.Proofs(), sums[0])
	if err != nil {
		return Lay{}, err
	}
	b, err := frozen.Read(s.files.Proofs(), sums[1])
	if err != nil {
		return Lay{}, err
	}
	l := over(a, b)
	return Lay{l.X, l.Y, l.Width, l.Height, l.Same}, nil
}

func over(a, b *frozen.Proof) scene.Lay {
	va, vb := viewOf(a), viewOf(b)
	l := va.Over(&vb)
	l.Same = l.Same && a.Scene == b.Scene
	return l
}

func viewOf(p *frozen.Proof) scene.View {
	size := p.Resolved.Ticket.Size()
	return ticket.View{Camera: p.Resolved.Camera}.Framed(float32(size.X) / float32(size.Y))
}
