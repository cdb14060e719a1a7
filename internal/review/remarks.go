package review

import (
	"context"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"time"

	"amberproof/core/names"
	"amberproof/core/surface"
	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/round"
	"amberproof/internal/store"
)

// Limits of remarks.
const (
	mostRemarks = 5000 // of a project
	mostLines   = 500  // of a remark
)

// Remark is a remark as it is seen in a proof.
type Remark struct {
	ID     int64             `json:"id"`
	Number int               `json:"number" doc:"Within the project, from 1; it keeps it in later rounds"`
	Round  int               `json:"round" doc:"Number of the round that it was made in"`
	Proof  int64             `json:"proof" doc:"It was made on"`
	View   string            `json:"view" doc:"Of that proof"`
	Part   string            `json:"part" doc:"Of the scene that it is about; empty for none"`
	Topic  string            `json:"topic" doc:"Setting of the ticket that it is about; empty for none"`
	State  round.RemarkState `json:"state" enum:"open,done,won't do"`
	Mark   round.Mark        `json:"mark" doc:"On the proof that it was made on"`
	// Seen and where tell about the proof that is looked at.
	Seen  surface.Sight `json:"seen" enum:"visible,hidden,outside,gone,unknown" doc:"In the proof that is looked at; unknown where that cannot be told"`
	X     float64       `json:"x" doc:"Where it is seen, share of the frame's width"`
	Y     float64       `json:"y" doc:"And of its height"`
	Lines []RemarkLine  `json:"lines" nullable:"false" doc:"The remark itself first"`
	Mine  bool          `json:"mine" doc:"Made by who looks, or names them"`
	// Settles says that who looks may bring it to another state.
	Settles bool `json:"settles" doc:"Who looks may say that it is done"`
	Shared  bool `json:"shared" doc:"Made by somebody who is asked in its round, and seen by whoever looks by a link"`
}

// RemarkLine is something said in a remark.
type RemarkLine struct {
	Name     string            `json:"name"`
	Words    string            `json:"words"`
	State    round.RemarkState `json:"state" enum:",open,done,won't do" doc:"It was brought to by this; empty: it stayed"`
	At       time.Time         `json:"at"`
	Mentions []string          `json:"mentions" nullable:"false" doc:"People named as @Name"`
}

// unknown says that a proof does not tell where a remark would be: it knows no surfaces, or
// the remark is on none.
const unknown surface.Sight = "unknown"

// Remarks are those of the project about the scene of a proof, by their numbers: where each is
// seen in that proof. Of later rounds there are none.
func (s *Service) Remarks(ctx context.Context, who identity.Actor, proof int64) ([]Remark, error) {
	v, p, err := s.lookedAt(ctx, who, identity.See, proof)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Remarks(ctx, v.all[0].Project)
	if err != nil {
		return nil, err
	}
	places, err := s.places.Get(ctx, p.SHA256)
	if err != nil {
		return nil, err
	}
	out := []Remark{}
	for i := range all {
		r, on := v.find(all[i].Proof)
		if on == nil || on.Scene != p.Scene || v.at[on.ID][0] > v.at[p.ID][0] {
			continue // of another scene, or of a later round
		}
		one := v.remark(who, &all[i], r, on)
		one.Seen, one.X, one.Y = seenIn(&all[i], on, p, places)
		out = append(out, one)
	}
	return out, nil
}

// seenIn tells where a remark on one proof is seen in another.
func seenIn(r *store.Remark, on, p *store.Proof, places *surface.Map) (what surface.Sight, x, y float64) {
	x, y = r.Mark.Anchor()
	switch {
	case on.ID == p.ID:
		return surface.Visible, x, y
	case r.Place == nil && on.View == p.View && on.Width*p.Height == p.Width*on.Height:
		return surface.Visible, x, y // it stays where it was in the frame
	case r.Place == nil || places == nil:
		return unknown, 0, 0
	}
	fx, fy, what := places.Find(*r.Place)
	return what, float64(fx) / float64(p.Width), float64(fy) / float64(p.Height)
}

// remark is one as it stands, before it is looked for.
func (v *showing) remark(who identity.Actor, r *store.Remark, in *store.RoundWhole, on *store.Proof) Remark {
	out := Remark{
		ID: r.ID, Number: r.Number, Round: in.Number, Proof: r.Proof, View: on.View, Topic: r.Topic, State: r.State, Mark: r.Mark, Seen: unknown,
		Lines: []RemarkLine{}, Mine: r.Maker == who.ID, Settles: settles(who, r),
		Shared: slices.ContainsFunc(in.Asked, func(p store.Person) bool { return p.ID == r.Maker }),
	}
	if r.Place != nil {
		out.Part = r.Place.Title
	}
	for _, l := range r.Lines {
		line := RemarkLine{Name: l.Name, Words: l.Words, State: l.State, At: l.Created, Mentions: round.Mentions(l.Words, maps.Values(v.people))}
		out.Mine = out.Mine || slices.Contains(line.Mentions, who.Name)
		out.Lines = append(out.Lines, line)
	}
	return out
}

// find finds a proof and its round.
func (v *showing) find(proof int64) (*store.RoundWhole, *store.Proof) {
	at, ok := v.at[proof]
	if !ok {
		return nil, nil
	}
	return &v.all[at[0]], &v.all[at[0]].Proofs[at[1]]
}

// lookedAt reads the rounds of a proof's project, if somebody may do something to it.
func (s *Service) lookedAt(ctx context.Context, who identity.Actor, do identity.Act, proof int64) (v showing, p *store.Proof, err error) {
	if err := s.guard.May(ctx, who, do, identity.ProofKind, proof); err != nil {
		return v, nil, err
	}
	project, _, err := s.store.Owner(ctx, string(identity.ProofKind), proof)
	if err != nil {
		return v, nil, err
	}
	if v, err = s.showing(ctx, project); err != nil {
		return v, nil, err
	}
	if _, p = v.find(proof); p == nil {
		err = fmt.Errorf("proof %d: %w", proof, fault.ErrNotFound)
	}
	return v, p, err
}

// readPlaces reads where the surfaces of a proof are, by its checksum; nil of one that does not
// know.
func (s *Service) readPlaces(_ context.Context, sum string) (*surface.Map, error) {
	doc, err := frozen.Read(s.files.Proofs(), sum)
	if err != nil {
		return nil, err
	}
	return doc.ReadPlaces(filepath.Join(s.files.Proofs(), sum))
}

// ToRemark is a remark to be made.
type ToRemark struct {
	Mark  round.Mark `json:"mark"`
	Words string     `json:"words" minLength:"1" maxLength:"4000"`
	Part  string     `json:"part,omitempty" maxLength:"400" doc:"Of the parts at the spot the one that it is about; empty: the first that is meant"`
	Topic string     `json:"topic,omitempty" maxLength:"400" doc:"Setting of the ticket that it is about, one of the proof's topics; empty for none"`
}

// Spot is what is at a point of a proof.
type Spot struct {
	Parts []string `json:"parts" nullable:"false" doc:"Names of the parts there: the one that is probably meant, then others"`
}

// AtSpot tells what a remark at a point of a proof would be about.
func (s *Service) AtSpot(ctx context.Context, who identity.Actor, proof int64, x, y float64) (Spot, error) {
	out := Spot{Parts: []string{}}
	_, p, err := s.lookedAt(ctx, who, identity.See, proof)
	if err != nil {
		return out, err
	}
	all, err := s.at(ctx, p, x, y)
	for _, m := range all {
		out.Parts = append(out.Parts, m.Title)
	}
	return out, err
}

// PartSpot is a part that is seen in a proof, and where: for those who name it rather than
// point at it.
type PartSpot struct {
	Part string  `json:"part"`
	X    float64 `json:"x" doc:"Share of the frame's width"`
	Y    float64 `json:"y" doc:"And of its height"`
}

// Parts are those that are seen in a proof; none where it does not know.
func (s *Service) Parts(ctx context.Context, who identity.Actor, proof int64) ([]PartSpot, error) {
	_, p, err := s.lookedAt(ctx, who, identity.See, proof)
	if err != nil {
		return nil, err
	}
	places, err := s.places.Get(ctx, p.SHA256)
	if err != nil {
		return nil, err
	}
	out := []PartSpot{}
	if places == nil {
		return out, nil
	}
	for _, v := range places.Shown() {
		out = append(out, PartSpot{v.Title, float64(v.X) / float64(p.Width), float64(v.Y) / float64(p.Height)})
	}
	return out, nil
}

// at finds the places at a point of a proof, the one that is probably meant first: what is
// behind glass, and of that, the product rather than what stands around it.
func (s *Service) at(ctx context.Context, p *store.Proof, x, y float64) ([]surface.Place, error) {
	places, err := s.places.Get(ctx, p.SHA256)
	if err != nil || places == nil {
		return nil, err
	}
	all := places.Spot(float32(x*float64(p.Width)), float32(y*float64(p.Height)))
	if len(all) == 2 && !all[1].Around {
		all[0], all[1] = all[1], all[0]
	}
	return all, nil
}

// Remark makes a remark on a proof.
func (s *Service) Remark(ctx context.Context, who identity.Actor, proof int64, w ToRemark) ([]Remark, error) {
	_, p, err := s.lookedAt(ctx, who, identity.Judge, proof)
	if err != nil {
		return nil, err
	}
	words, err := said(w.Words)
	if err != nil {
		return nil, err
	}
	if err := w.Mark.Fault(); err != nil {
		return nil, fault.Bad("%v", err)
	}
	project, _, err := s.store.Owner(ctx, string(identity.ProofKind), proof)
	if err != nil {
		return nil, err
	}
	if err := s.checkTopic(ctx, p, w.Topic); err != nil {
		return nil, err
	}
	x, y := w.Mark.Anchor()
	places, err := s.at(ctx, p, x, y)
	if err != nil {
		return nil, err
	}
	r := store.Remark{Project: project, Proof: proof, Mark: w.Mark, Topic: w.Topic, Maker: who.ID,
		Lines: []store.RemarkLine{{Person: who.ID, Name: who.Name, Words: words}}}
	for i := range places {
		if w.Part == "" || places[i].Title == w.Part {
			r.Place = &places[i]
			break
		}
	}
	_, ok, err := s.store.AddRemark(ctx, r, mostRemarks)
	if err == nil && !ok {
		err = fmt.Errorf("the project has %d remarks, and takes no more: %w", mostRemarks, fault.ErrState)
	}
	if err != nil {
		return nil, err
	}
	return s.Remarks(ctx, who, proof)
}

// said checks the words of a remark.
func said(words string) (string, error) {
	words = names.Lines(words)
	if words == "" || len(words) > mostWords {
		return "", fault.Bad("A remark has words, 1 to %d bytes", mostWords)
	}
	return words, nil
}

// Say is something to be said in a remark.
type Say struct {
	Words string            `json:"words,omitempty" maxLength:"4000"`
	State round.RemarkState `json:"state,omitempty" enum:",open,done,won't do" doc:"To bring it to; empty: it stays"`
	In    int64             `json:"in" doc:"Proof that is looked at, whose remarks are answered"`
}

// settles tells whether somebody may bring a remark to another state: who made it, and who may
// change what it is about.
func settles(who identity.Actor, r *store.Remark) bool {
	return r.Maker == who.ID || identity.May(who, identity.EditJobs, identity.Thing{Project: r.Project}) == nil
}

// SayIn adds to what is said in a remark, or says what became of it.
func (s *Service) SayIn(ctx context.Context, who identity.Actor, id int64, say Say) ([]Remark, error) {
	if err := s.guard.May(ctx, who, identity.Judge, identity.RemarkKind, id); err != nil {
		return nil, err
	}
	words := names.Lines(say.Words)
	if len(words) > mostWords || words == "" && say.State == "" {
		return nil, fault.Bad("Say something, in 1 to %d bytes, or what became of it", mostWords)
	}
	on, _, err := s.store.Owner(ctx, string(identity.RemarkKind), id)
	if err != nil {
		return nil, err
	}
	if in, _, err := s.store.Owner(ctx, string(identity.ProofKind), say.In); err != nil || in != on {
		return nil, fault.Bad("The proof that is looked at is not of the project of the remark")
	}
	err = s.store.InRemark(ctx, id, func(r *store.Remark) (*store.RemarkLine, error) {
		last := &r.Lines[len(r.Lines)-1]
		if last.Person == who.ID && last.Words == words && last.State == say.State {
			return nil, nil // a second click
		}
		if len(r.Lines) >= mostLines {
			return nil, fmt.Errorf("%d lines are enough for remark %d; make another one: %w", mostLines, r.Number, fault.ErrState)
		}
		if say.State != "" {
			if !settles(who, r) {
				return nil, fmt.Errorf("%w: who made remark %d says what becomes of it, or who works on the project", fault.ErrForbidden, r.Number)
			}
			if err := round.Settle(r.State, say.State, words); err != nil {
				return nil, fmt.Errorf("remark %d: %w: %w", r.Number, err, fault.ErrState)
			}
		}
		return &store.RemarkLine{Person: who.ID, Name: who.Name, Words: words, State: say.State}, nil
	})
	if err != nil {
		return nil, err
	}
	return s.Remarks(ctx, who, say.In)
}
