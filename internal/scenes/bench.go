package scenes

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"

	"amberproof/core/geom"
	"amberproof/core/parallel"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// Bench is a scene with its set-up laid over it.
type Bench struct {
	Scene   Scene
	Subject ticket.Subject
	Version int64 // of the set-up
	// Found are parts that were found again by their place, as the set-up was just laid
	// over this scene.
	Found []setup.Found
}

// Bench opens a scene as it stands on the bench. Its contents must not be changed.
func (s *Service) Bench(ctx context.Context, who identity.Actor, id int64) (Bench, error) {
	row, v, err := s.Open(ctx, who, id)
	if err != nil {
		return Bench{}, err
	}
	u, version, err := s.store.Setup(ctx, id)
	if err != nil {
		return Bench{}, err
	}
	of, err := ticket.Of(ctx, ticket.SceneRef{Name: row.File, SHA256: row.SHA256}, v, u)
	return Bench{row, of, version, nil}, err
}

// SaveSetup saves a scene's set-up over the version it was made from; of another
// version it is fault.ErrChanged. What is wrong with it is told, and nothing is saved.
func (s *Service) SaveSetup(ctx context.Context, who identity.Actor, id, version int64, u setup.Setup) (Bench, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.SceneKind, id); err != nil {
		return Bench{}, err
	}
	u = u.With() // tidy, and nobody else's
	if f := ticket.CheckSetup(&u); len(f) > 0 {
		return Bench{}, &fault.Input{Message: "The set-up has faults", Faults: f}
	}
	_, v, err := s.Open(ctx, who, id)
	if err != nil {
		return Bench{}, err
	}
	u.Stage.Begin()
	// Under the keys of today, so that a newer file can be matched against them.
	u, found, err := u.Fitted(ctx, v)
	if err != nil {
		return Bench{}, err
	}
	placed, _, err := u.Apply(ctx, v)
	if err != nil {
		return Bench{}, err
	}
	if i := placed.FarOut(); i >= 0 && v.FarOut() < 0 {
		return Bench{}, fault.Bad("%s would lie absurdly far out; move it less far", placed.Parts[i].Name)
	}
	if n := placed.Triangles(); n > scene.MostTriangles && n > v.Triangles() {
		return Bench{}, fault.Bad("Smoothing makes %d triangles, more than the limit of %d; smooth fewer parts or less often", n, scene.MostTriangles)
	}
	if _, err := s.store.SaveSetup(ctx, id, version, u); err != nil {
		return Bench{}, err
	}
	b, err := s.Bench(ctx, who, id)
	b.Found = found
	return b, err
}

// SetupVersions tells of a set-up that could not be saved, and of the kept one.
type SetupVersions struct {
	Version int64    `json:"version" doc:"Of the kept one"`
	Mine    []string `json:"mine" nullable:"false" doc:"What the other set-up has changed since both were one, in words"`
	Theirs  []string `json:"theirs" nullable:"false" doc:"What the kept one has changed since then"`
}

// CompareSetup tells what a set-up that was made from base, and the kept one, have changed
// since.
func (s *Service) CompareSetup(ctx context.Context, who identity.Actor, id int64, mine, base setup.Setup) (SetupVersions, error) {
	b, err := s.Bench(ctx, who, id)
	if err != nil {
		return SetupVersions{}, err
	}
	// As they are saved, with places and lights in their tidy form.
	mine, base = mine.With(), base.With()
	since := func(u setup.Setup) []string {
		return ticket.Differences(&ticket.Resolved{Setup: &base}, &ticket.Resolved{Setup: &u})
	}
	return SetupVersions{b.Version, since(mine), since(b.Subject.Setup)}, nil
}

// TakeSetup lays the set-up of one scene over another, as over a newer file of the
// same product, in place of what it had. Bench.Subject.Lost tells what it has no part for, Bench.Found what
// it found under another key.
func (s *Service) TakeSetup(ctx context.Context, who identity.Actor, id, version, from int64) (Bench, error) {
	if err := s.guard.May(ctx, who, identity.EditScenes, identity.SceneKind, id); err != nil {
		return Bench{}, err
	}
	if err := s.guard.May(ctx, who, identity.See, identity.SceneKind, from); err != nil {
		return Bench{}, err
	}
	u, _, err := s.store.Setup(ctx, from)
	if err != nil {
		return Bench{}, err
	}
	return s.SaveSetup(ctx, who, id, version, u)
}

// Move is how a scene's parts come to be changed when they are moved as one, from where
// given changes have them.
func (s *Service) Move(ctx context.Context, who identity.Actor, id int64, begin []setup.Change, by *setup.Together) ([]setup.Change, error) {
	_, v, err := s.Open(ctx, who, id)
	if err != nil {
		return nil, err
	}
	u := setup.Setup{Parts: begin}
	if f := ticket.CheckSetup(&u); len(f) > 0 {
		return nil, &fault.Input{Message: "The parts cannot be moved from there", Faults: f}
	}
	have, _, err := s.store.Setup(ctx, id)
	if err != nil {
		return nil, err
	}
	if v, _, err = (&setup.Setup{File: have.File, Sets: have.Sets}).Apply(ctx, v); err != nil {
		return nil, err
	}
	out, err := setup.AsOne(v, begin, by)
	if err != nil {
		return nil, fault.Bad("%s", err.Error())
	}
	return out, nil
}

// Shape is a scene as its parts are shaped and told apart, without all else of its set-up;
// tag changes with it.
func (s *Service) Shape(ctx context.Context, who identity.Actor, id int64) (v *scene.Scene, tag string, err error) {
	row, v, err := s.Open(ctx, who, id)
	if err != nil {
		return nil, "", err
	}
	u, _, err := s.store.Setup(ctx, id)
	if err != nil {
		return nil, "", err
	}
	sum := sha256.Sum256(ticket.Encode(u.Sets))
	v, err = u.Parted(ctx, v)
	return v, row.SHA256 + "-" + hex.EncodeToString(sum[:8]), err
}

// SetOfFaces is a set of faces of a part, grown from where a point of the world, in metres,
// lies on it; nothing is saved.
func (s *Service) SetOfFaces(ctx context.Context, who identity.Actor, id int64, part string, at geom.Vec3, by string, angle float64) (g setup.Set, err error) {
	b, err := s.Bench(ctx, who, id)
	if err != nil {
		return g, err
	}
	v := b.Subject.Scene
	parts, err := partsOf(v, []string{part})
	if err != nil {
		return g, err
	}
	if v.Parts[parts[0]].Staged {
		return g, fault.Bad("What stands on the stage is no part of the product")
	}
	done, err := s.admitted(ctx, s.bench.Join(), scene.CutBytes(&v.Meshes[v.Parts[parts[0]].Mesh]))
	if err != nil {
		return g, err
	}
	defer done()
	var own *parallel.Panic
	g, err = setup.NewSet(ctx, v, parts[0], at, by, angle, v.Parts[parts[0]].Name+", faces")
	if err == nil || ctx.Err() != nil || errors.As(err, &own) {
		return g, err
	}
	return g, fault.Bad("%s", err.Error())
}
