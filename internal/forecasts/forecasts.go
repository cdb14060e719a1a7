// Package forecasts tells what a run of a job's ticket would take, before it is started.
package forecasts

import (
	"context"
	"encoding/json"
	"math"
	"runtime"
	"sync"
	"time"

	"amberproof/core/forecast"
	"amberproof/core/noise"
	"amberproof/core/parallel"
	"amberproof/core/trace"
	"amberproof/internal/budget"
	"amberproof/internal/cache"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/pipeline"
	"amberproof/internal/scenes"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	store   *store.Store
	jobs    *jobs.Service
	scenes  *scenes.Service
	threads int
	memory  *budget.Bytes
	line    *budget.Line                          // of probes: each takes all cores
	busy    func() bool                           // whether a run goes, beside which probes rest
	probes  *cache.Cache[string, *forecast.Probe] // by keyOf
	mu      sync.Mutex
	pace    time.Duration // of the newest probe that was made without a run beside it; 0: none was
}

// Options of a service.
type Options struct {
	Store   *store.Store
	Jobs    *jobs.Service
	Scenes  *scenes.Service
	Threads int   // that runs are rendered with; 0: one for each processor
	Memory  int64 // bytes for the pictures that probes are made of
	Busy    func() bool
}

// New makes a service.
func New(o Options) *Service {
	s := &Service{store: o.Store, jobs: o.Jobs, scenes: o.Scenes, threads: o.Threads, busy: o.Busy,
		memory: budget.NewBytes(o.Memory), line: budget.NewLine(1)}
	if s.threads < 1 {
		s.threads = runtime.GOMAXPROCS(0)
	}
	s.probes = cache.New(probeBytes, func(p *forecast.Probe) int64 { return p.Bytes() }, s.probe)
	return s
}

const (
	// probeBytes is for probes that are kept.
	probeBytes = 32 << 20
	// probeTime is how long a probe takes, on the clock, at most and about.
	probeTime = 3 * time.Second
	// settle is how long a probe waits before it begins: somebody who changes one thing after the
	// other, which drops it, gets the live picture first.
	settle = 700 * time.Millisecond
	// points is how many targets a curve is drawn through.
	points = 17
	// stricter is how many of them are below the ticket's own.
	stricter = 10
	// pastRuns is how many runs a forecast is corrected by.
	pastRuns = 40
)

// Forecast is what a run would take, with 80 % bars.
type Forecast struct {
	Version int64           `json:"version" doc:"Of the ticket that this is about"`
	Seconds forecast.Range  `json:"seconds" doc:"Of rendering, on this machine with nothing else to do"`
	Noise   *forecast.Range `json:"noise" doc:"Percent of display white, of the picture that the target is about; null where it cannot be told"`
	Samples float64         `json:"samples" doc:"Of a pixel, mean"`
	Reaches bool            `json:"reaches" doc:"The noise target is expected to be met before the most samples are"`
	Curve   []AtTarget      `json:"curve" nullable:"false" doc:"What other noise targets would take, strictest first"`
	Wait    *forecast.Range `json:"wait" doc:"Seconds until runs that are queued before are done; null where one of them was not forecast"`
	Whole   bool            `json:"whole" doc:"All of the picture was measured, not a part that stands for all"`
	Past    int             `json:"past" doc:"Earlier runs that it is corrected by"`
	Again   bool            `json:"again" doc:"A run of this job has made the same picture: its time and noise are what others are told by"`
	Within  *Within         `json:"within" doc:"What can be had in the time that was asked about; null where none was"`
}

// AtTarget is a noise target and what it would take.
type AtTarget struct {
	Target  float64         `json:"target"`
	Seconds forecast.Range  `json:"seconds"`
	Noise   *forecast.Range `json:"noise"`
	Samples float64         `json:"samples"`
}

// Of forecasts a run of a job's ticket, and what can be had in some seconds of rendering, if any are
// given. It may take some seconds itself, and ends with the context's error. What keeps the ticket
// from being run comes as a fault.Input.
func (s *Service) Of(ctx context.Context, who identity.Actor, job int64, seconds float64) (Forecast, error) {
	out := Forecast{Curve: []AtTarget{}}
	p, err := s.jobs.Resolve(ctx, who, job)
	if out.Version = p.Job.Version; err != nil {
		return out, err
	}
	k, err := keyOf(&p.Resolved)
	if err != nil {
		return out, err
	}
	probe, err := s.probes.Get(ctx, k)
	if err != nil {
		return out, err
	}
	t, err := s.teller(ctx, job, &p.Resolved, k, probe)
	if err != nil {
		return out, err
	}
	stop := p.Resolved.Ticket.Stop()
	at := func(target float64) AtTarget {
		stop := stop
		stop.Target = target
		o, f := t.at(stop)
		return AtTarget{target, f.Told, told(o.Noise), o.Samples}
	}
	now := at(stop.Target)
	out.Seconds, out.Noise, out.Samples, out.Whole, out.Past, out.Again = now.Seconds, now.Noise, now.Samples, probe.Whole, len(t.past), t.earlier != nil
	out.Reaches = stop.Target > 0 && now.Noise != nil && now.Noise.Mid <= stop.Target*reachSlack
	for _, target := range targets(stop.Target) {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		out.Curve = append(out.Curve, at(target))
	}
	if seconds > 0 {
		out.Within = within(seconds, &p.Resolved.Ticket, now, out.Curve, at)
	}
	return out, nil
}

// reachSlack is by how much noise may be above a target that is met: tiles stop at theirs, and
// the frame's is that of its noisiest.
const reachSlack = 1.05

// told is noise that can be written down.
func told(r forecast.Range) *forecast.Range {
	if math.IsInf(r.Mid, 0) || math.IsInf(r.High, 0) || math.IsNaN(r.Mid) {
		return nil
	}
	return &r
}

// targets are those that a curve is drawn through, about one of its own.
func targets(own float64) (out []float64) {
	if own <= 0 {
		own = 1
	}
	for k := range points {
		t := own * math.Pow(2, float64(k-stricter)/4)
		out = append(out, math.Round(t*100)/100)
	}
	low := 0
	for low < points-1 && out[low] < leastTarget {
		low++
	}
	return out[low:]
}

// leastTarget is the strictest noise target that a curve has, percent.
const leastTarget = 0.1

// Seconds are how long the rendering of a run takes.
type Seconds struct {
	Told     forecast.Range
	Measured forecast.Range // before earlier runs corrected it
}

// Known is the forecast of a job's ticket if a probe of its picture is there already.
func (s *Service) Known(ctx context.Context, job int64, r *ticket.Resolved) (f Seconds, ok bool) {
	k, err := keyOf(r)
	if err != nil {
		return f, false
	}
	p, ok := s.probes.Peek(k)
	if !ok {
		return f, false
	}
	f, err = s.seconds(ctx, job, p, r, k)
	return f, err == nil
}

// Forecast forecasts a job's ticket, for which it makes a probe if there is none.
func (s *Service) Forecast(ctx context.Context, job int64, r *ticket.Resolved) (f Seconds, err error) {
	k, err := keyOf(r)
	if err != nil {
		return f, err
	}
	p, err := s.probes.Get(ctx, k)
	if err != nil {
		return f, err
	}
	return s.seconds(ctx, job, p, r, k)
}

func (s *Service) seconds(ctx context.Context, job int64, p *forecast.Probe, r *ticket.Resolved, key string) (f Seconds, err error) {
	t, err := s.teller(ctx, job, r, key, p)
	if err != nil {
		return f, err
	}
	_, f = t.at(r.Ticket.Stop())
	return f, nil
}

// keyOf is the resolved ticket of a picture, JSON, as all have it whose samples are the same.
func keyOf(r *ticket.Resolved) (string, error) {
	c := r.Picture(drawnFor)
	b, err := json.Marshal(&c)
	return string(b), err
}

// drawnFor is what the squares of a probe are drawn for: one probe answers for all targets.
var drawnFor = noise.Stop{Least: 16, Most: 512, Target: 1.5}

// probe makes the probe of a picture.
func (s *Service) probe(ctx context.Context, key string) (*forecast.Probe, error) {
	r, err := ticket.RestoreResolved([]byte(key))
	if err != nil {
		return nil, err
	}
	v, err := s.scenes.SubjectOf(ctx, &r)
	if err != nil {
		return nil, err
	}
	t := r.Ticket
	surround, err := s.scenes.Picture(ctx, &t)
	if err != nil {
		return nil, err
	}
	select {
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-time.After(settle):
	}
	done, err := s.line.Join().Wait(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	staged := r.Staged(v)
	o := r.Options(staged, surround)
	back, err := s.memory.Take(ctx, trace.Forecast(staged, &o))
	if err != nil {
		return nil, err
	}
	defer back()
	busy := s.busy()
	ctx = parallel.Beside(ctx, s.busy)
	w, err := trace.Prepare(ctx, staged, o)
	if err != nil {
		return nil, err
	}
	p, err := pipeline.Probe(ctx, w, &r.Ticket, s.threads, probeTime*time.Duration(s.threads), 1)
	if err == nil {
		s.atRest(p, busy || s.busy())
	}
	return p, err
}

// atRest has a probe tell what a run takes on a machine that has nothing else to do. Of one that
// was made beside a run of ours, which is over when this one comes, its times are brought to the
// pace that the machine has without.
func (s *Service) atRest(p *forecast.Probe, beside bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if !beside {
		s.pace = p.Pace
		return
	}
	p.Crowded = 1
	if s.pace > 0 && p.Pace > s.pace {
		p.Slowed = float64(p.Pace) / float64(s.pace)
	}
}
