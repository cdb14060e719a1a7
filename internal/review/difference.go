package review

import (
	"cmp"
	"context"
	"fmt"
	"image"
	"image/color"
	"path/filepath"
	"slices"

	"amberproof/core/finish"
	"amberproof/core/surface"
	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
)

// Difference is what changed in the first picture of a proof since the same view was put up
// before: what is apart by more than three standard errors of both pictures' noise.
type Difference struct {
	Why      string      `json:"why" doc:"Why that cannot be told; empty where it can"`
	Measured bool        `json:"measured" doc:"The noise of both is known; without that, whatever is seen counts"`
	Share    float64     `json:"share" doc:"Of the picture, 0 to 1"`
	Parts    []PartShare `json:"parts" nullable:"false" doc:"Of what is seen of each part, those that changed most first"`
}

// PartShare is how much of what is seen of a part has changed.
type PartShare struct {
	Part  string  `json:"part"`
	Share float64 `json:"share" doc:"0 to 1"`
}

// compared is a difference with its picture.
type compared struct {
	Difference
	png []byte
}

// pairKey names two proofs by their checksums.
type pairKey struct{ before, now string }

// differenceBytes is how much of differences is kept.
const differenceBytes = 32 << 20

// leastShare is how much of a part has to be changed to be told.
const leastShare = 0.002

// mostShares is how many parts are told.
const mostShares = 20

// Differ tells what changed in the picture since the same view was put up before.
func (s *Service) Differ(ctx context.Context, who identity.Actor, proof int64) (Difference, error) {
	c, err := s.compared(ctx, who, proof)
	if err != nil || c == nil {
		return Difference{Why: "It is the first of its view.", Parts: []PartShare{}}, err
	}
	return c.Difference, nil
}

// DifferencePicture is the picture, dark but for what changed, as PNG; fault.ErrState where
// that cannot be told.
func (s *Service) DifferencePicture(ctx context.Context, who identity.Actor, proof int64) ([]byte, error) {
	c, err := s.compared(ctx, who, proof)
	if err == nil && (c == nil || c.png == nil) {
		err = fmt.Errorf("what changed in the picture of proof %d cannot be told: %w", proof, fault.ErrState)
	}
	if err != nil {
		return nil, err
	}
	return c.png, nil
}

func (s *Service) compared(ctx context.Context, who identity.Actor, proof int64) (*compared, error) {
	v, p, err := s.lookedAt(ctx, who, identity.See, proof)
	if err != nil {
		return nil, err
	}
	old := before(v.all, p)
	if old == nil {
		return nil, nil
	}
	return s.differences.Get(ctx, pairKey{old.SHA256, p.SHA256})
}

// differ compares two proofs.
func (s *Service) differ(ctx context.Context, k pairKey) (c *compared, err error) {
	err = s.inFull(ctx, func() error {
		c, err = s.differFully(k)
		return err
	})
	return c, err
}

func (s *Service) differFully(k pairKey) (*compared, error) {
	out := &compared{Difference: Difference{Parts: []PartShare{}}}
	type side struct {
		doc    *frozen.Proof
		pass   *frozen.Pass
		v      *finish.Picture
		errs   []float32
		places *surface.Map
	}
	read := func(sum string) (a side, err error) {
		dir := filepath.Join(s.files.Proofs(), sum)
		if a.doc, err = frozen.Read(s.files.Proofs(), sum); err == nil {
			a.pass, err = a.doc.Pass("")
		}
		if err == nil {
			a.v, a.errs, err = frozen.Measured(dir, a.pass)
		}
		if err == nil {
			a.places, err = a.doc.ReadPlaces(dir)
		}
		return a, err
	}
	a, err := read(k.before)
	if err != nil {
		return nil, err
	}
	b, err := read(k.now)
	if err != nil {
		return nil, err
	}
	switch {
	case a.v.W != b.v.W || a.v.H != b.v.H || a.doc.Window != b.doc.Window:
		out.Why = fmt.Sprintf("The pictures have different sizes: %d × %d and %d × %d pixels.", a.v.W, a.v.H, b.v.W, b.v.H)
		return out, nil
	case a.pass.Data || b.pass.Data:
		out.Why = "It is a picture of numbers and not of light."
		return out, nil
	}
	look := b.doc.Resolved.Ticket.Finish()
	lit := look.Changed(a.v, b.v, a.errs, b.errs)
	out.Measured = a.errs != nil && b.errs != nil
	n := 0
	for _, on := range lit {
		if on {
			n++
		}
	}
	out.Share = float64(n) / float64(len(lit))
	if b.places != nil {
		out.Parts = shares(b.places, lit, b.v.W, b.v.H)
	}
	img := dimmed(look.Shown(b.v), lit)
	out.png, err = frozen.PNG(img)
	return out, err
}

// shares tells how much of each part has changed, by the cells in which it is seen first.
func shares(m *surface.Map, lit []bool, w, h int) []PartShare {
	seen, changed := make([]int, len(m.Parts)), make([]int, len(m.Parts))
	for i := range lit {
		x, y := i%w, i/w
		part := m.Front.Part[min(m.H-1, y*m.H/h)*m.W+min(m.W-1, x*m.W/w)]
		if part == 0 {
			continue
		}
		if seen[part-1]++; lit[i] {
			changed[part-1]++
		}
	}
	out := []PartShare{}
	for i := range m.Parts {
		if changed[i] > 0 && float64(changed[i]) >= leastShare*float64(seen[i]) {
			out = append(out, PartShare{m.Parts[i].Title, float64(changed[i]) / float64(seen[i])})
		}
	}
	slices.SortStableFunc(out, func(a, b PartShare) int { return cmp.Compare(b.Share, a.Share) })
	return out[:min(len(out), mostShares)]
}

// dimmed is a picture in dark grey but for what changed, which is in amber.
func dimmed(img *image.NRGBA, lit []bool) *image.NRGBA {
	out := image.NewNRGBA(img.Rect)
	for i, on := range lit {
		x, y := i%img.Rect.Dx(), i/img.Rect.Dx()
		g := color.GrayModel.Convert(img.NRGBAAt(x, y)).(color.Gray).Y
		c := color.NRGBA{g / 3, g / 3, g / 3, 255}
		if on {
			c = color.NRGBA{uint8(90 + 165*int(g)/255), uint8(60 + 120*int(g)/255), uint8(10 + 30*int(g)/255), 255}
		}
		out.SetNRGBA(x, y, c)
	}
	return out
}
