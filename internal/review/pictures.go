package review

import (
	"context"
	"image"
	"path/filepath"

	"amberproof/core/finish"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
)

// Seen is how a picture of a proof is looked at; what is nil is as it was put up.
type Seen struct {
	Pass string // empty: the first
	Side int    // of its longer side, pixels at most; 0: all of it
	Look *finish.Finish
	JPEG bool   // for slow lines
	Mark string // watermark; empty: none
}

// pictureBytes is how much of packed pictures is kept.
const pictureBytes = 64 << 20

// pictureKey is a picture as it was put up.
type pictureKey struct {
	sum, pass string
	side      int
	jpeg      bool
}

// Picture is a picture of a proof as PNG or JPEG.
func (s *Service) Picture(ctx context.Context, who identity.Actor, proof int64, seen Seen) ([]byte, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.ProofKind, proof); err != nil {
		return nil, err
	}
	p, err := s.store.Proof(ctx, proof)
	if err != nil {
		return nil, err
	}
	if seen.Look == nil && seen.Mark == "" {
		return s.pictures.Get(ctx, pictureKey{p.SHA256, seen.Pass, seen.Side, seen.JPEG})
	}
	var out []byte
	err = s.inFull(ctx, func() error {
		img, err := s.drawn(p.SHA256, seen.Pass, seen.Side, seen.Look)
		if err == nil && seen.Mark != "" {
			img, err = frozen.Marked(img, seen.Mark)
		}
		if err == nil {
			out, err = frozen.PNG(img)
		}
		return err
	})
	return out, err
}

// pack makes a picture as it was put up: one that was packed then, if it is of that size.
func (s *Service) pack(ctx context.Context, k pictureKey) (out []byte, err error) {
	doc, err := frozen.Read(s.files.Proofs(), k.sum)
	if err != nil {
		return nil, err
	}
	pass, err := doc.Pass(k.pass)
	if err != nil {
		return nil, err
	}
	if k.side > 0 {
		if b, err := frozen.Packed(filepath.Join(s.files.Proofs(), k.sum), pass, k.side, k.jpeg); b != nil || err != nil {
			return b, err
		}
	}
	err = s.inFull(ctx, func() error {
		img, err := s.drawn(k.sum, k.pass, k.side, nil)
		if err != nil {
			return err
		}
		if k.jpeg {
			out, err = frozen.JPEG(img)
		} else {
			out, err = frozen.PNG(img)
		}
		return err
	})
	return out, err
}

// drawn is a picture as it is displayed; look is nil for as it was put up.
func (s *Service) drawn(sum, key string, side int, look *finish.Finish) (*image.NRGBA, error) {
	doc, err := frozen.Read(s.files.Proofs(), sum)
	if err != nil {
		return nil, err
	}
	pass, err := doc.Pass(key)
	if err != nil {
		return nil, err
	}
	picture, err := frozen.Picture(filepath.Join(s.files.Proofs(), sum), pass)
	if err != nil {
		return nil, err
	}
	f := doc.Resolved.Ticket.Finish()
	if look != nil {
		f = *look
	}
	img := f.Shown(picture)
	if side > 0 {
		img = frozen.Smaller(img, side)
	}
	return img, nil
}
