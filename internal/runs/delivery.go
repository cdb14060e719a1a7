package runs

import (
	"context"
	"errors"
	"fmt"
	"iter"
	"time"

	"amberproof/core/passes"
	"amberproof/internal/deliver"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/pipeline"
	"amberproof/internal/proofs"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
	"amberproof/internal/whole"
)

// deliverAll writes the files of runs that wait for that, until ctx ends: of
// those that are kept, and of those that a dead process left in the middle.
func (r *runner) deliverAll(ctx context.Context) {
	for ctx.Err() == nil {
		var all []int64
		if err := r.insist(ctx, func() (err error) { all, err = r.s.store.In(ctx, ticket.Delivering); return err }); err != nil && ctx.Err() == nil {
			r.s.log.Error("what is to be delivered cannot be read", "error", err)
		}
		for _, id := range all {
			r.deliver(ctx, id, nil)
		}
		select {
		case <-ctx.Done():
		case <-r.wakeDelivery:
		case <-time.After(recheck):
		}
	}
}

// claim takes the files of a run in hand; false when somebody has.
func (r *runner) claim(id int64) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.writing[id] {
		return false
	}
	r.writing[id] = true
	return true
}

// claimAll takes the files of runs in hand; fault.ErrBusy, and none of them, where somebody
// has one of them.
func (r *runner) claimAll(all []int64) (release func(), err error) {
	var mine []int64
	release = func() {
		for _, id := range mine {
			r.release(id)
		}
	}
	for _, id := range all {
		if !r.claim(id) {
			release()
			return nil, fmt.Errorf("files of run %d are being written: %w", id, fault.ErrBusy)
		}
		mine = append(mine, id)
	}
	return release, nil
}

func (r *runner) release(id int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	delete(r.writing, id)
}

// deliver writes the files of a run that is in the state for it, and records
// that. p is the picture of its last frame where that is at hand. Cut off anywhere, it is begun
// again by the next process: a delivery that is in place is found again, and one
// that is not has left nothing.
func (r *runner) deliver(ctx context.Context, id int64, p *proofs.Proof) {
	if !r.claim(id) {
		return
	}
	defer r.release(id)
	s := r.s
	err := r.safely(id, func() error {
		if err := r.insist(ctx, func() error { return s.store.Begun(ctx, id) }); err != nil {
			return err
		}
		run, err := s.store.Run(ctx, id)
		if err != nil {
			return err
		}
		if run.State != ticket.Delivering {
			return nil // it was dealt with in the meantime
		}
		number, complete, err := s.write(ctx, &run, &run.Resolved, p)
		if err != nil {
			return err
		}
		return r.insist(ctx, func() error { return s.store.Delivered(ctx, id, number, complete) })
	})
	switch {
	case ctx.Err() != nil:
		return // the next process delivers it
	case err != nil:
		s.log.Error("a run cannot be delivered", "run", id, "error", err)
		why := "Its files could not be written: " + err.Error()
		if err := r.insist(ctx, func() error { return s.store.Move(ctx, id, ticket.Failed, why, ticket.Delivering) }); err != nil {
			s.log.Error("the end of a run cannot be recorded", "run", id, "error", err)
		}
	}
	_, _ = s.tell(ctx, id)
}

// write writes the files of a run's frames as a ticket says, unless a delivery of just that
// is there already; p is the picture of a frame where one is at hand. It returns the
// delivery's number, and whether all frames are at their target.
func (s *Service) write(ctx context.Context, run *store.Run, as *ticket.Resolved, p *proofs.Proof) (number int, complete bool, err error) {
	started := run.Queued
	if run.Started != nil {
		started = *run.Started
	}
	words, err := s.jobs.Words(ctx, run.Job, as.Ticket.View.Name, run.Number, started)
	if err != nil {
		return 0, false, err
	}
	m := deliver.Manifest{
		Software: s.version, Fingerprint: as.Fingerprint(), Film: run.Film, Started: started, Finished: time.Now().UTC(), Resolved: *as,
	}
	if err := s.describe(ctx, run, p, &m); err != nil {
		return 0, false, err
	}
	folder := s.files.Deliveries(run.ID)
	have, err := deliver.Numbers(folder)
	if err != nil {
		return 0, m.Complete, err
	}
	for i := len(have) - 1; i >= 0; i-- {
		old, err := deliver.Read(s.files.Delivery(run.ID, have[i]))
		if err != nil {
			continue
		}
		if old.Same(&m) {
			return have[i], m.Complete, nil
		}
		m.SavedAs(&old) // it is measured when a frame is rendered
	}
	number = 1
	if len(have) > 0 {
		number = have[len(have)-1] + 1
	}
	frames := s.pictures(ctx, run, as, p, m.Frames)
	for {
		err = deliver.Write(ctx, s.files.Delivery(run.ID, number), frames, words, &m)
		if !errors.Is(err, whole.ErrExists) {
			return number, m.Complete, err
		}
		number++
	}
}

// frame is the picture of a frame of a run: the one at hand, or as it is kept.
func (s *Service) frame(ctx context.Context, run int64, number int, at *proofs.Proof) (*proofs.Proof, error) {
	if at != nil && at.Frame == number {
		return at, nil
	}
	return s.proofs.Film(ctx, run, number)
}

// describe fills in a manifest what is known of the frames of a run before they are written.
func (s *Service) describe(ctx context.Context, run *store.Run, at *proofs.Proof, m *deliver.Manifest) error {
	frames, err := s.store.Frames(ctx, run.ID)
	if err != nil {
		return err
	}
	m.Complete = true
	for _, f := range frames {
		p, err := s.frame(ctx, run.ID, f.Number, at)
		if err != nil {
			return err
		}
		complete, err := pipeline.Complete(p.Film, &run.Resolved)
		if err != nil {
			return err
		}
		if f.Complete && !complete { // its file was damaged
			if err := s.store.Complete(ctx, run.ID, f.Number, false); err != nil {
				return err
			}
		}
		m.Renderer, m.Complete = p.Renderer, m.Complete && complete
		m.Frames = append(m.Frames, deliver.Frame{
			Number: f.Number, Sums: p.Film.State(), Complete: complete, Seconds: f.Seconds, Samples: f.Samples, Saved: p.Saved,
		})
	}
	return nil
}

// pictures are the frames of a run as they are written, one after the other.
func (s *Service) pictures(ctx context.Context, run *store.Run, as *ticket.Resolved, at *proofs.Proof,
	frames []deliver.Frame) iter.Seq2[deliver.Picture, error] {
	return func(yield func(deliver.Picture, error) bool) {
		for _, f := range frames {
			p, err := s.frame(ctx, run.ID, f.Number, at)
			if err != nil {
				yield(deliver.Picture{}, err)
				return
			}
			films := passes.Of(p.Film)
			if n := as.Ticket.Quality.Denoise; n.On {
				if films, err = s.proofs.Films(ctx, p); err != nil {
					yield(deliver.Picture{}, err)
					return
				}
				films.Amount = float32(n.Amount / 100)
			}
			if !yield(deliver.Picture{Frame: f, Films: films, Passes: as.Ticket.List(p.Scene, run.Elements)}, nil) {
				return
			}
		}
	}
}

// DeliverAgain delivers a run anew as its job's ticket says now, in the version
// that is named, without rendering: other names, formats, masks, exposure or crop. The
// ticket must ask for nothing that the film does not hold: fault.Input otherwise.
func (s *Service) DeliverAgain(ctx context.Context, who identity.Actor, id, version int64) (Detail, error) {
	if err := s.guard.May(ctx, who, identity.RunJobs, identity.RunKind, id); err != nil {
		return Detail{}, err
	}
	run, err := s.store.Run(ctx, id)
	if err != nil {
		return Detail{}, err
	}
	plan, err := s.jobs.Resolve(ctx, who, run.Job)
	if err != nil {
		return Detail{}, err
	}
	switch {
	case version != plan.Job.Version:
		return Detail{}, changed(version, plan.Job.Version)
	case run.State.Going() || run.State == ticket.Queued || run.Least < 1:
		return Detail{}, fmt.Errorf("the run is %s; only one that has a picture and is not going can be delivered again: %w", run.State, fault.ErrState)
	case !run.Resolved.Serves(&plan.Resolved):
		return Detail{}, fault.Bad("The ticket asks for more than other files of this picture; run it to get that")
	}
	if !s.runner.claim(id) {
		return Detail{}, fmt.Errorf("its files are being written: %w", fault.ErrState)
	}
	defer s.runner.release(id)
	if run, err = s.store.Run(ctx, id); err != nil { // removed before its files were in our hands
		return Detail{}, err
	}
	number, complete, err := s.write(ctx, &run, &plan.Resolved, nil)
	if err != nil {
		return Detail{}, err
	}
	if err := s.store.Delivered(ctx, id, number, complete); err != nil {
		return Detail{}, err
	}
	if _, err := s.tell(ctx, id); err != nil {
		return Detail{}, err
	}
	return s.Get(ctx, who, id)
}
