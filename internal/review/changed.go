package review

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"amberproof/core/geom"
	"amberproof/core/surface"
	"amberproof/core/units"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Compared says what changed of a proof since the one before of the same view.
type Compared struct {
	Before *Proof   `json:"before" doc:"Null where it is the first"`
	Round  int      `json:"round" doc:"Number of the round that one is of"`
	Words  []string `json:"words" nullable:"false" doc:"What their tickets disagree on; none where nothing was changed"`
	Parts  []string `json:"parts" nullable:"false" doc:"What was done to parts, by their geometry; none where nothing was"`
	Topics []string `json:"topics" nullable:"false" doc:"Settings that Words are about, as remarks name them"`
	Known  bool     `json:"known" doc:"Both proofs know their parts; without that Parts tells nothing"`
}

// Compare says what changed since the same view was put up before.
func (s *Service) Compare(ctx context.Context, who identity.Actor, proof int64) (Compared, error) {
	out := Compared{Words: []string{}, Parts: []string{}, Topics: []string{}}
	v, p, err := s.lookedAt(ctx, who, identity.See, proof)
	if err != nil {
		return out, err
	}
	old := before(v.all, p)
	if old == nil {
		return out, nil
	}
	out.Before, out.Round = v.earlier(old)
	a, err := frozen.Read(s.files.Proofs(), old.SHA256)
	if err != nil {
		return out, err
	}
	b, err := frozen.Read(s.files.Proofs(), p.SHA256)
	if err != nil {
		return out, err
	}
	for _, d := range ticket.Differing(&a.Resolved, &b.Resolved) {
		out.Words = append(out.Words, d.Words)
		if d.Topic != "" && !slices.Contains(out.Topics, d.Topic) {
			out.Topics = append(out.Topics, d.Topic)
		}
	}
	then, err := s.places.Get(ctx, old.SHA256)
	if err != nil {
		return out, err
	}
	now, err := s.places.Get(ctx, p.SHA256)
	if err != nil || then == nil || now == nil {
		return out, err
	}
	changes := surface.Changes(then.Parts, now.Parts)
	out.Known, out.Parts = true, partWords(changes)
	// What is said of a part by its geometry is not said again as it was set.
	out.Words = slices.DeleteFunc(out.Words, func(w string) bool {
		return slices.ContainsFunc(changes, func(c surface.Change) bool { return strings.HasPrefix(w, ticket.OfPart(c.Key)) })
	})
	return out, nil
}

// Up is a proof that is up in a round, with the same view as it was before.
type Up struct {
	Proof
	Before *Proof // nil where it is the first of its view
	Round  int    // number of the round that one is of
}

// WithBefore is a round with what is up in it: the newest proofs, each with the one before.
func (s *Service) WithBefore(ctx context.Context, who identity.Actor, id int64) (Round, []Up, error) {
	v, i, err := s.seen(ctx, who, id)
	if err != nil {
		return Round{}, nil, err
	}
	r := v.round(i)
	var up []Up
	for k := range r.Proofs {
		if !r.Proofs[k].Newest {
			continue
		}
		u := Up{Proof: r.Proofs[k]}
		if old := before(v.all, &v.all[i].Proofs[k]); old != nil {
			u.Before, u.Round = v.earlier(old)
		}
		up = append(up, u)
	}
	return r, up, nil
}

// earlier is a proof as it is shown, and the number of its round.
func (v *showing) earlier(p *store.Proof) (*Proof, int) {
	r, _ := v.find(p.ID)
	j := judge(r)
	was := v.proof(r, &j, p)
	return &was, r.Number
}

// mostNamed is how many parts are named that the same was done to.
const mostNamed = 3

// partWords says what was done to parts; those that the same was done to share a line.
func partWords(all []surface.Change) []string {
	var lines []string
	of := map[string][]string{}
	for i := range all {
		w := changeWords(&all[i])
		if of[w] == nil {
			lines = append(lines, w)
		}
		of[w] = append(of[w], all[i].Title)
	}
	out := []string{}
	for _, w := range lines {
		names := of[w]
		if n := len(names) - mostNamed; n > 1 {
			names = append(slices.Clone(names[:mostNamed]), fmt.Sprintf("%d more", n))
		}
		who := names[0]
		if n := len(names) - 1; n > 0 {
			who = strings.Join(names[:n], ", ") + " and " + names[n]
		}
		out = append(out, who+" "+w)
	}
	return out
}

// changeWords says what was done to a part, without its name.
func changeWords(c *surface.Change) string {
	switch c.What {
	case surface.Added:
		return "added"
	case surface.Removed:
		return "removed"
	case surface.Finished:
		return fmt.Sprintf("in %s, was %s", orNone(c.Finish), orNone(c.Wore))
	case surface.Reshaped:
		return "reshaped" + sizeWords(c)
	case surface.Scaled:
		return "scaled" + sizeWords(c)
	case surface.Turned:
		return fmt.Sprintf("turned %.3g degrees%s", c.Turn*180/math.Pi, alsoMoved(c))
	}
	return "moved " + wayWords(c.By)
}

func orNone(finish string) string {
	if finish == "" {
		return "no finish"
	}
	return finish
}

// alsoMoved says how far the middle of a part went that was turned.
func alsoMoved(c *surface.Change) string {
	if c.By.Len() < c.Size.Len()/1000 {
		return ""
	}
	return ", moved " + wayWords(c.By)
}

// wayWords says how far and along which axes.
func wayWords(by geom.Vec3) string {
	far := by.Len()
	var along []string
	for k, axis := range [...]string{"x", "y", "z"} {
		v := by.At(k)
		if geom.Abs(v) < far/200 {
			continue
		}
		sign := "+"
		if v < 0 {
			sign = "−"
		}
		along = append(along, axis+" "+sign+units.Length(math.Abs(float64(v))*1000))
	}
	if len(along) == 1 {
		return along[0]
	}
	return fmt.Sprintf("%s (%s)", units.Length(float64(far)*1000), strings.Join(along, ", "))
}

// sizeWords says how large a part is and was, where that changed.
func sizeWords(c *surface.Change) string {
	if c.Size.Sub(c.Was).Len() < c.Was.Len()/10000 {
		return ""
	}
	say := func(v geom.Vec3) string {
		var out []string
		for k := range 3 {
			out = append(out, units.Length(float64(v.At(k))*1000))
		}
		return strings.Join(out, " × ")
	}
	return fmt.Sprintf(", %s, was %s", say(c.Size), say(c.Was))
}
