// Package review holds the use cases of approval rounds: what is put up, for whom, what they
// answered, and what follows.
package review

import (
	"context"
	"fmt"
	"slices"
	"time"

	"amberproof/core/names"
	"amberproof/core/surface"
	"amberproof/internal/cache"
	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/proofs"
	"amberproof/internal/round"
	"amberproof/internal/runs"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	store  *store.Store
	files  *store.Files
	guard  identity.Guard
	proofs *proofs.Service
	runs   *runs.Service
	jobs   *jobs.Service
	places *cache.Cache[string, *surface.Map] // of proofs, by their checksums
	// pictures are packed ones, as they were put up.
	pictures    *cache.Cache[pictureKey, []byte]
	differences *cache.Cache[pairKey, *compared]
	tiles       *cache.Cache[tileKey, []byte]
	full        chan struct{} // one entry for each picture that is read in full
	tiling      chan struct{} // and for each of which a tile is read
	now         func() time.Time
}

// mostFull is how many pictures are read in full at once: each takes memory for all its pixels.
const mostFull = 2

// mostTiling is how many tiles are made at once.
const mostTiling = 4

// inFull has f read pictures in full while few others do.
func (s *Service) inFull(ctx context.Context, f func() error) error { return fewAtOnce(ctx, s.full, f) }

// fewAtOnce calls f once there is room in places.
func fewAtOnce(ctx context.Context, places chan struct{}, f func() error) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case places <- struct{}{}:
	}
	defer func() { <-places }()
	return f()
}

// placesBytes is how much of them is kept open.
const placesBytes = 96 << 20

// New makes a service.
func New(st *store.Store, files *store.Files, guard identity.Guard, pr *proofs.Service, ru *runs.Service, jo *jobs.Service) *Service {
	s := &Service{store: st, files: files, guard: guard, proofs: pr, runs: ru, jobs: jo, now: time.Now,
		full: make(chan struct{}, mostFull), tiling: make(chan struct{}, mostTiling)}
	s.places = cache.New(placesBytes, func(m *surface.Map) int64 {
		if m == nil {
			return 100
		}
		return surface.Bytes(m.W, m.H, len(m.Parts))
	}, s.readPlaces)
	s.differences = cache.New(differenceBytes, func(c *compared) int64 { return int64(len(c.png)) + 4000 }, s.differ)
	s.pictures = cache.New(pictureBytes, func(b []byte) int64 { return int64(len(b)) + 300 }, s.pack)
	s.tiles = cache.New(tileBytes, func(b []byte) int64 { return int64(len(b)) + 500 }, s.tile)
	return s
}

// Sweep removes what a dead process left of proofs that were never put up. It is called
// before the service is used.
func (s *Service) Sweep(ctx context.Context) error {
	have, err := s.store.ProofSums(ctx)
	if err != nil {
		return err
	}
	return s.files.SweepProofs(have)
}

// Limits of what people write.
const (
	mostWords = 4000 // bytes of an answer
	mostAsked = 50
)

// day is the form of a date.
const day = "2006-01-02"

// Terms are what a round is made with.
type Terms struct {
	Kind  round.Kind `json:"kind" enum:"clay,light,finish,final,other"`
	Title string     `json:"title" maxLength:"120"`
	Due   string     `json:"due" maxLength:"10" doc:"A day, as 2031-03-12; empty for none"`
	Needs bool       `json:"needs" doc:"The round before has to be approved before anything is put up"`
	Note  string     `json:"note,omitempty" maxLength:"2000" doc:"For those who answer: what is new, what to look at"`
	Asked []int64    `json:"asked" nullable:"false" maxItems:"50" doc:"People who have to answer, by number"`
}

// mostNote bounds the note of a round, bytes.
const mostNote = 4000

// check reads terms into a row. Who is asked is of the project, or has been asked already.
func (s *Service) check(ctx context.Context, project int64, t *Terms, already []store.Person) (v store.Round, asked []int64, err error) {
	v = store.Round{Project: project, Kind: t.Kind, Needs: t.Needs, Note: names.Lines(t.Note)}
	if !slices.Contains(round.Kinds, t.Kind) {
		return v, nil, fault.Bad("A round is of clay, light, finish or final, or other with a title")
	}
	if v.Title, err = ticket.NameOf("A round", t.Title); err != nil {
		return v, nil, err
	}
	if len(v.Note) > mostNote {
		return v, nil, fault.Bad("The note of a round has at most %d bytes", mostNote)
	}
	if t.Due != "" {
		at, err := time.Parse(day, t.Due)
		if err != nil || at.Year() < 2000 || at.Year() > 2200 {
			return v, nil, fault.Bad("The day must be one of this and the next century, as 2031-03-12, and is %q", names.Cut(t.Due, 20))
		}
		v.Due = &at
	}
	members, err := s.store.Members(ctx, project)
	if err != nil {
		return v, nil, err
	}
	asked = []int64{}
	for _, id := range t.Asked {
		known := slices.ContainsFunc(members, func(m store.Member) bool { return m.ID == id }) ||
			slices.ContainsFunc(already, func(p store.Person) bool { return p.ID == id })
		if !known {
			return v, nil, fault.Bad("Only people of the project can be asked; take number %d into it first", id)
		}
		if !slices.Contains(asked, id) {
			asked = append(asked, id)
		}
	}
	if len(asked) > mostAsked {
		return v, nil, fault.Bad("At most %d people can be asked", mostAsked)
	}
	return v, asked, nil
}

// Make makes the next round of a project.
func (s *Service) Make(ctx context.Context, who identity.Actor, project int64, t Terms) (Round, error) {
	if err := s.guard.In(who, identity.EditRounds, project); err != nil {
		return Round{}, err
	}
	v, asked, err := s.check(ctx, project, &t, nil)
	if err != nil {
		return Round{}, err
	}
	id, err := s.store.AddRound(ctx, personOf(who), v, asked)
	if err != nil {
		return Round{}, err
	}
	return s.Get(ctx, who, id)
}

// Change gives a round other terms, over the version that was seen. One that is approved stays
// as it is, and who has answered stays asked.
func (s *Service) Change(ctx context.Context, who identity.Actor, id, version int64, t Terms) (Round, error) {
	project, err := s.project(ctx, who, identity.EditRounds, id)
	if err != nil {
		return Round{}, err
	}
	was, err := s.store.Round(ctx, id)
	if err != nil {
		return Round{}, err
	}
	v, asked, err := s.check(ctx, project, &t, was.Asked) // of the version that is changed, or nothing is
	if err != nil {
		return Round{}, err
	}
	err = s.store.InRound(ctx, personOf(who), id, func(r *store.RoundWhole) (c store.RoundChange, err error) {
		if r.Version != version {
			return c, fmt.Errorf("the round was seen in version %d and is in version %d by now: %w", version, r.Version, fault.ErrChanged)
		}
		if err := open(r); err != nil {
			return c, err
		}
		for _, a := range r.Answers {
			was := slices.ContainsFunc(r.Asked, func(p store.Person) bool { return p.ID == a.Person })
			if was && !slices.Contains(asked, a.Person) {
				return c, fault.Bad("%s has answered in this round and stays asked", a.Name)
			}
		}
		v.Anyway = r.Anyway
		return store.RoundChange{Round: &v, Asked: asked}, nil
	})
	if err != nil {
		return Round{}, err
	}
	return s.Get(ctx, who, id)
}

// personOf is who acts as rows know them.
func personOf(who identity.Actor) store.Person { return store.Person{ID: who.ID, Name: who.Name} }

// project is that of a round, if somebody may do something to it.
func (s *Service) project(ctx context.Context, who identity.Actor, do identity.Act, id int64) (int64, error) {
	if err := s.guard.May(ctx, who, do, identity.RoundKind, id); err != nil {
		return 0, err
	}
	project, _, err := s.store.Owner(ctx, string(identity.RoundKind), id)
	return project, err
}

// open refuses what would shift an approved round.
func open(r *store.RoundWhole) error {
	if v := judge(r).verdict; v.Approves() {
		return fmt.Errorf("round %d is %s, and stays so; what comes next belongs into the next round: %w", r.Number, v, fault.ErrState)
	}
	return nil
}

// Remove removes a round in which nothing was put up.
func (s *Service) Remove(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.May(ctx, who, identity.EditRounds, identity.RoundKind, id); err != nil {
		return err
	}
	return s.store.InRound(ctx, personOf(who), id, func(r *store.RoundWhole) (c store.RoundChange, err error) {
		if len(r.Proofs) > 0 {
			return c, fmt.Errorf("something was put up in round %d, which stays: %w", r.Number, fault.ErrState)
		}
		return store.RoundChange{Remove: true}, nil
	})
}

// Begin lets things be put up in a round although the one before is not approved, and keeps
// why.
func (s *Service) Begin(ctx context.Context, who identity.Actor, id int64, why string) (Round, error) {
	if err := s.guard.May(ctx, who, identity.EditRounds, identity.RoundKind, id); err != nil {
		return Round{}, err
	}
	why = names.Lines(why)
	if why == "" || len(why) > mostWords {
		return Round{}, fault.Bad("Say why it begins before the round before is approved, in 1 to %d bytes", mostWords)
	}
	err := s.store.InRound(ctx, personOf(who), id, func(r *store.RoundWhole) (c store.RoundChange, err error) {
		if r.Anyway != "" {
			return c, fmt.Errorf("it was begun already: %w", fault.ErrState)
		}
		v := r.Round
		v.Anyway = why
		return store.RoundChange{Round: &v}, nil
	})
	if err != nil {
		return Round{}, err
	}
	return s.Get(ctx, who, id)
}

// blocked tells whether a round waits for the one before it.
func blocked(all []store.RoundWhole, i int) bool {
	r := &all[i]
	return i > 0 && r.Needs && r.Anyway == "" && !judge(&all[i-1]).verdict.Approves()
}

// ToPutUp is what to put up.
type ToPutUp struct {
	Run    int64    `json:"run"`
	Frame  int      `json:"frame,omitempty" minimum:"0" maximum:"100000"`
	Passes []string `json:"passes" nullable:"false" minItems:"1" maxItems:"8" doc:"Keys of passes; the first is the picture that is judged"`
}

// mostPasses is how many pictures a proof has.
const mostPasses = 8

// PutUp freezes pictures of a run and puts them up in a round. An earlier proof of the same
// view stays, superseded by this one. One that is approved is not superseded in its own
// round; other views can join it there, and are waited for then.
func (s *Service) PutUp(ctx context.Context, who identity.Actor, id int64, w ToPutUp) (Round, error) {
	project, err := s.project(ctx, who, identity.EditRounds, id)
	if err != nil {
		return Round{}, err
	}
	run, err := s.runs.Get(ctx, who, w.Run)
	if err != nil {
		return Round{}, err
	}
	if own, _, err := s.store.Owner(ctx, string(identity.RunKind), w.Run); err != nil || own != project {
		return Round{}, fault.Bad("The run is of another project than the round")
	}
	if st := run.Run.State; st != ticket.Done && st != ticket.Kept {
		return Round{}, fmt.Errorf("the run is %s; a proof is put up once its run is done or kept: %w", st, fault.ErrState)
	}
	all, err := s.store.Rounds(ctx, project)
	if err != nil {
		return Round{}, err
	}
	i := slices.IndexFunc(all, func(r store.RoundWhole) bool { return r.ID == id })
	if i < 0 {
		return Round{}, fmt.Errorf("round %d: %w", id, fault.ErrNotFound)
	}
	if blocked(all, i) {
		return Round{}, fmt.Errorf("round %d needs round %d approved; say why it begins anyway, or wait: %w", all[i].Number, all[i-1].Number, fault.ErrState)
	}
	doc, sum, err := s.freeze(ctx, who, &run, &w)
	if err != nil {
		return Round{}, err
	}
	err = s.store.InRound(ctx, personOf(who), id, func(r *store.RoundWhole) (c store.RoundChange, err error) {
		size := doc.Resolved.Ticket.Size()
		p := &store.Proof{
			Scene: doc.Scene, View: doc.Resolved.Ticket.View.Name, Run: w.Run, SHA256: sum, Slug: doc.Slug,
			Width: size.X, Height: size.Y, Area: doc.Window, Maker: who.ID,
		}
		for _, v := range doc.Passes {
			p.Passes = append(p.Passes, store.ProofPass{Key: v.Key, Title: v.Title, Data: v.Data})
		}
		j := judge(r)
		for k := range r.Proofs {
			switch old := &r.Proofs[k]; {
			case sightOf(old) != sightOf(p) || !j.newest[old.ID]:
			case j.of[old.ID].Verdict.Approves():
				return c, fmt.Errorf("%s is %s in round %d, and stays so; what comes after that belongs into the next round: %w",
					p.View, j.of[old.ID].Verdict, r.Number, fault.ErrState)
			case old.SHA256 == sum:
				return c, fmt.Errorf("just that is up already, as proof %d of the round: %w", old.Number, fault.ErrTaken)
			}
		}
		return store.RoundChange{Proof: p}, nil
	})
	if err != nil {
		return Round{}, err
	}
	return s.Get(ctx, who, id)
}

// freeze writes the pictures of a run and all that they came about by.
func (s *Service) freeze(ctx context.Context, who identity.Actor, run *runs.Detail, w *ToPutUp) (*frozen.Proof, string, error) {
	if len(w.Passes) == 0 || len(w.Passes) > mostPasses {
		return nil, "", fault.Bad("A proof shows 1 to %d passes", mostPasses)
	}
	p, err := s.proofs.Open(ctx, who, w.Run, w.Frame)
	if err != nil {
		return nil, "", err
	}
	scene, err := s.store.Scene(ctx, run.Run.Scene)
	if err != nil {
		return nil, "", err
	}
	doc := &frozen.Proof{
		Scene: scene.Name, Job: run.Run.JobName, Run: run.Run.Number, Frame: w.Frame, Slug: run.Slug,
		Lights: p.Lights(), Renderer: p.Renderer, Film: p.State(), Fingerprint: run.Fingerprint, Window: run.Window, Resolved: run.Resolved,
	}
	var shown []frozen.Shown
	for i, key := range w.Passes {
		if slices.Contains(w.Passes[:i], key) {
			return nil, "", fault.Bad("Pass %s stands twice", names.Cut(key, 80))
		}
		title, picture, errs, err := s.proofs.Whole(ctx, p, key)
		if err != nil {
			return nil, "", err
		}
		shown = append(shown, frozen.Shown{Key: key, Title: title, Picture: picture, Errors: errs})
	}
	places, err := s.proofs.Places(ctx, p)
	if err != nil {
		return nil, "", err
	}
	sum, err := frozen.Write(ctx, s.files.Proofs(), doc, shown, places)
	return doc, sum, err
}

// Withdraw takes down a proof that nobody has answered to or remarked on.
func (s *Service) Withdraw(ctx context.Context, who identity.Actor, proof int64) error {
	if err := s.guard.May(ctx, who, identity.EditRounds, identity.ProofKind, proof); err != nil {
		return err
	}
	p, err := s.store.Proof(ctx, proof)
	if err != nil {
		return err
	}
	return s.store.InRound(ctx, personOf(who), p.Round, func(r *store.RoundWhole) (c store.RoundChange, err error) {
		if slices.ContainsFunc(r.Answers, func(a store.Answer) bool { return a.Proof == proof }) {
			return c, fmt.Errorf("somebody has answered to it, so it stays; put up a later one instead: %w", fault.ErrState)
		}
		return store.RoundChange{Withdraw: proof}, nil
	})
}

// Said is an answer to proofs of a round, as they were seen.
type Said struct {
	Verdict round.Verdict `json:"verdict" enum:"approved,approved with remarks,changes asked"`
	Words   string        `json:"words,omitempty" maxLength:"4000"`
	Proofs  []SeenProof   `json:"proofs" nullable:"false" minItems:"1" maxItems:"500"`
}

// SeenProof is a proof with the checksum of what was seen.
type SeenProof struct {
	ID     int64  `json:"id"`
	SHA256 string `json:"sha256" maxLength:"64"`
}

// Answer records what somebody who is asked says to proofs of a round: to all of them, or to
// none if one cannot be answered to.
func (s *Service) Answer(ctx context.Context, who identity.Actor, id int64, said Said) (Round, error) {
	if err := s.guard.May(ctx, who, identity.Judge, identity.RoundKind, id); err != nil {
		return Round{}, err
	}
	said.Words = names.Lines(said.Words)
	switch {
	case !slices.Contains(round.Answers, said.Verdict):
		return Round{}, fault.Bad("An answer is approved, approved with remarks, or changes asked")
	case len(said.Words) > mostWords:
		return Round{}, fault.Bad("The words are too long: at most %d bytes", mostWords)
	case said.Verdict != round.Approved && said.Words == "":
		return Round{}, fault.Bad("Say what: %s needs words", said.Verdict)
	}
	err := s.store.InRound(ctx, personOf(who), id, func(r *store.RoundWhole) (c store.RoundChange, err error) {
		if !slices.ContainsFunc(r.Asked, func(p store.Person) bool { return p.ID == who.ID }) {
			return c, fmt.Errorf("%w: %s is not asked in this round", fault.ErrForbidden, who.Name)
		}
		j := judge(r)
		for _, seen := range said.Proofs {
			i := slices.IndexFunc(r.Proofs, func(p store.Proof) bool { return p.ID == seen.ID })
			switch {
			case i < 0:
				return c, fmt.Errorf("proof %d of the round: %w", seen.ID, fault.ErrNotFound)
			case r.Proofs[i].SHA256 != seen.SHA256 || !j.newest[seen.ID]:
				return c, fmt.Errorf("a later proof of %s is up; look at it first: %w", r.Proofs[i].View, fault.ErrChanged)
			case same(r.Answers, seen.ID, who.ID, &said) || same(c.Answers, seen.ID, who.ID, &said):
				continue // a second click, or named twice
			case j.of[seen.ID].Verdict.Approves():
				return c, fmt.Errorf("%s is %s, and stays so: %w", r.Proofs[i].View, j.of[seen.ID].Verdict, fault.ErrState)
			}
			c.Answers = append(c.Answers, store.Answer{
				Proof: seen.ID, Person: who.ID, Name: who.Name, Verdict: said.Verdict, Words: said.Words, SHA256: seen.SHA256,
			})
		}
		return c, nil
	})
	if err != nil {
		return Round{}, err
	}
	return s.Get(ctx, who, id)
}

// same tells whether the last that somebody said of a proof is just that.
func same(all []store.Answer, proof, person int64, said *Said) bool {
	for i := len(all) - 1; i >= 0; i-- {
		if a := &all[i]; a.Proof == proof && a.Person == person {
			return a.Verdict == said.Verdict && a.Words == said.Words
		}
	}
	return false
}
