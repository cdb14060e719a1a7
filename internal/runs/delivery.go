package runs

import (
	"context"
	"errors"
	"fmt"
	"time"

	"amberproof/core/passes"
	"amberproof/internal/deliver"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/pipeline"
	"amberproof/internal/proofs"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
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
// that. p is its picture where that is at hand. Cut off anywhere, it is begun
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
		if p == nil {
			if p, err = s.proofs.Film(ctx, id, 0); err != nil {
				return err
			}
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

// write writes the files of a run's film as a ticket says, unless a delivery of
// just that is there already. It returns the delivery's number.
func (s *Service) write(ctx context.Context, run *store.Run, as *ticket.Resolved, p *proofs.Proof) (number int, complete bool, err error) {
	started := run.Queued
	if run.Started != nil {
		started = *run.Started
	}
	words, err := s.jobs.Words(ctx, run.Job, as.Ticket.View.Name, run.Number, started)
	if err != nil {
		return 0, false, err
	}
	if complete, err = pipeline.Complete(p.Film, &run.Resolved); err != nil {
		return 0, false, err
	}
	m := deliver.Manifest{
		Software: s.version, Renderer: p.Renderer, Fingerprint: as.Fingerprint(), Film: run.Film, Sums: deliver.SumsOf(p.Film), Frame: p.Frame,
		Started: started, Finished: time.Now().UTC(), Seconds: run.Seconds, Samples: run.Samples, Complete: complete, Resolved: *as, Saved: p.Saved,
	}
	folder := s.files.Deliveries(run.ID)
	have, err := deliver.Numbers(folder)
	if err != nil {
		return 0, complete, err
	}
	for i := len(have) - 1; i >= 0; i-- {
		old, err := deliver.Read(s.files.Delivery(run.ID, have[i]))
		if err == nil && old.Same(&m) {
			return have[i], complete, nil
		}
		if m.Saved == 0 { // measured when it was rendered
			m.Saved = old.Saved
		}
	}
	films := passes.Of(p.Film)
	if n := as.Ticket.Quality.Denoise; n.On {
		if films, err = s.proofs.Films(ctx, p); err != nil {
			return 0, complete, err
		}
		films.Amount = float32(n.Amount / 100)
	}
	number = 1
	if len(have) > 0 {
		number = have[len(have)-1] + 1
	}
	for {
		err = deliver.Write(ctx, s.files.Delivery(run.ID, number), films, as.Ticket.List(p.Scene, run.Elements), words, &m)
		if !errors.Is(err, deliver.ErrExists) {
			return number, complete, err
		}
		number++
	}
}

// DeliverAgain delivers a run anew as its job's ticket says now, in the version
// that is named, without rendering: other names, formats, masks, exposure or crop. The
// ticket must ask for nothing that the film does not hold: fault.Input otherwise.
func (s *Service) DeliverAgain(ctx context.Context, who identity.Actor, id, version int64) (Detail, error) {
	if err := s.policy.May(who, identity.RunJobs); err != nil {
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
	p, err := s.proofs.Film(ctx, id, 0)
	if err != nil {
		return Detail{}, err
	}
	number, complete, err := s.write(ctx, &run, &plan.Resolved, p)
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
