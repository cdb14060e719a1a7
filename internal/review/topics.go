package review

import (
	"context"
	"slices"

	"amberproof/core/scene"
	"amberproof/core/surface"
	"amberproof/internal/fault"
	"amberproof/internal/frozen"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Topics are the settings that a remark on a proof can be about: its lights, the finishes that
// are seen, and what else a ticket sets. Proofs up to form 2 do not know their lights.
func (s *Service) Topics(ctx context.Context, who identity.Actor, proof int64) ([]string, error) {
	_, p, err := s.lookedAt(ctx, who, identity.See, proof)
	if err != nil {
		return nil, err
	}
	return s.topics(ctx, p)
}

func (s *Service) topics(ctx context.Context, p *store.Proof) ([]string, error) {
	doc, err := frozen.Read(s.files.Proofs(), p.SHA256)
	if err != nil {
		return nil, err
	}
	places, err := s.places.Get(ctx, p.SHA256)
	if err != nil {
		return nil, err
	}
	return ticket.Topics(doc.Lights, finishesOf(places)), nil
}

// finishesOf are the finishes of what is seen; nil of a proof that does not know.
func finishesOf(m *surface.Map) (out []string) {
	if m == nil {
		return nil
	}
	for _, p := range m.Parts {
		if p.Finish != "" && p.Finish != scene.NoFinish && !slices.Contains(out, p.Finish) {
			out = append(out, p.Finish)
		}
	}
	slices.Sort(out)
	return out
}

// checkTopic refuses a topic that the proof does not have; none is fine.
func (s *Service) checkTopic(ctx context.Context, p *store.Proof, topic string) error {
	if topic == "" {
		return nil
	}
	all, err := s.topics(ctx, p)
	if err == nil && !slices.Contains(all, topic) {
		err = fault.Bad("The picture has no setting of that name; choose one of the list")
	}
	return err
}

// Wanted is an open remark about a setting of a job's ticket.
type Wanted struct {
	ID      int64    `json:"id"`
	Number  int      `json:"number"`
	Round   int64    `json:"round" doc:"That it was made in"`
	Title   string   `json:"title" doc:"Of that round"`
	Proof   int64    `json:"proof" doc:"That it was made on"`
	Topic   string   `json:"topic" doc:"The setting"`
	Name    string   `json:"name" doc:"Of who made it"`
	Words   string   `json:"words"`
	Changed []string `json:"changed" nullable:"false" doc:"What the ticket has otherwise there than the proof; none where nothing"`
}

// Wanted are the open remarks about settings that were made on proofs of a job's scene, with
// what its ticket, as it is now, has otherwise than those proofs.
func (s *Service) Wanted(ctx context.Context, who identity.Actor, job int64) ([]Wanted, error) {
	plan, faulty := s.jobs.Resolve(ctx, who, job) // a ticket with faults is compared as far as it goes
	if plan.Job.ID == 0 {
		return nil, faulty
	}
	if err := s.guard.May(ctx, who, identity.See, identity.JobKind, job); err != nil {
		return nil, err
	}
	of, err := s.store.Scene(ctx, plan.Job.Scene)
	if err != nil {
		return nil, err
	}
	all, err := s.store.OpenOnTopics(ctx, plan.Job.Project)
	if err != nil || len(all) == 0 {
		return []Wanted{}, err
	}
	v, err := s.showing(ctx, plan.Job.Project)
	if err != nil {
		return nil, err
	}
	out := []Wanted{}
	differing := map[int64][]ticket.Difference{} // from the ticket of each proof
	for i := range all {
		r, on := v.find(all[i].Proof)
		if on == nil || on.Scene != of.Name {
			continue
		}
		if _, known := differing[on.ID]; !known {
			doc, err := frozen.Read(s.files.Proofs(), on.SHA256)
			if err != nil {
				return nil, err
			}
			differing[on.ID] = ticket.Differing(&doc.Resolved, &plan.Resolved)
		}
		first := &all[i].Lines[0]
		w := Wanted{all[i].ID, all[i].Number, r.ID, r.Title, on.ID, all[i].Topic, first.Name, first.Words, []string{}}
		for _, d := range differing[on.ID] {
			if d.Topic == w.Topic {
				w.Changed = append(w.Changed, d.Words)
			}
		}
		out = append(out, w)
	}
	return out, nil
}
