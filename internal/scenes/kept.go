package scenes

import (
	"context"
	"encoding/json"
	"time"

	"amberproof/core/setup"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Kept is a live picture that was kept.
type Kept struct {
	ID      int64         `json:"id"`
	Scene   int64         `json:"scene"`
	Width   int           `json:"width" doc:"Pixels"`
	Height  int           `json:"height"`
	Samples int           `json:"samples" doc:"Of each pixel"`
	Camera  ticket.Camera `json:"camera"`
	Created time.Time     `json:"created"`
}

// KeptWhole is a kept picture with all that it was made of.
type KeptWhole struct {
	Kept
	Setup  setup.Setup   `json:"setup"`
	Ticket ticket.Ticket `json:"ticket"`
}

func keptOf(k store.Kept) (Kept, error) {
	out := Kept{ID: k.ID, Scene: k.Scene, Width: k.Width, Height: k.Height, Samples: k.Samples, Created: k.Created}
	return out, json.Unmarshal(k.Camera, &out.Camera)
}

// Keep keeps a live picture, a PNG, with what it was made of.
func (s *Service) Keep(ctx context.Context, who identity.Actor, k KeptWhole, png []byte) (Kept, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.SceneKind, k.Scene); err != nil {
		return Kept{}, err
	}
	row := store.Kept{Scene: k.Scene, Width: k.Width, Height: k.Height, Samples: k.Samples, Picture: png}
	for _, v := range []struct {
		doc any
		to  *json.RawMessage
	}{{k.Camera, &row.Camera}, {k.Setup, &row.Setup}, {k.Ticket, &row.Ticket}} {
		j, err := json.Marshal(v.doc)
		if err != nil {
			return Kept{}, err
		}
		*v.to = j
	}
	row, err := s.store.Keep(ctx, who.ID, row)
	if err != nil {
		return Kept{}, err
	}
	return keptOf(row)
}

// ListKept lists what was kept of a scene, oldest first.
func (s *Service) ListKept(ctx context.Context, who identity.Actor, id int64) ([]Kept, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.SceneKind, id); err != nil {
		return nil, err
	}
	rows, err := s.store.KeptOf(ctx, id)
	if err != nil {
		return nil, err
	}
	out := make([]Kept, len(rows))
	for i, r := range rows {
		if out[i], err = keptOf(r); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Kept reads a kept picture with all that it was made of.
func (s *Service) Kept(ctx context.Context, who identity.Actor, id int64) (out KeptWhole, err error) {
	if err := s.guard.May(ctx, who, identity.See, identity.KeptPictureKind, id); err != nil {
		return out, err
	}
	row, err := s.store.Kept(ctx, id)
	if err != nil {
		return out, err
	}
	if out.Kept, err = keptOf(row); err != nil {
		return out, err
	}
	if err := json.Unmarshal(row.Setup, &out.Setup); err != nil {
		return out, err
	}
	out.Ticket, err = ticket.Restore(row.Ticket)
	return out, err
}

// KeptPicture is the PNG of a kept picture.
func (s *Service) KeptPicture(ctx context.Context, who identity.Actor, id int64) ([]byte, error) {
	if err := s.guard.May(ctx, who, identity.See, identity.KeptPictureKind, id); err != nil {
		return nil, err
	}
	return s.store.KeptPicture(ctx, id)
}

// RemoveKept removes a kept picture for good.
func (s *Service) RemoveKept(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.KeptPictureKind, id); err != nil {
		return err
	}
	return s.store.RemoveKept(ctx, id)
}
