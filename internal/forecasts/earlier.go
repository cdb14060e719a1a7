package forecasts

import (
	"context"
	"math"

	"amberproof/core/forecast"
	"amberproof/core/noise"
	"amberproof/internal/ticket"
)

// earlier is a run of the same picture that is done: what it took tells more of the next than a
// probe, which then says only how another target differs.
type earlier struct {
	stop    noise.Stop
	seconds float64 // of a frame
	noise   float64 // 0: not known
}

// Standard deviations of logarithms: of the time of a picture from one run to the next, and of that
// for each doubling beyond the earlier run or short of it.
const (
	sureAgain   = 0.08
	sureDoubled = 0.12
	tenth       = 1.2816 // of the normal distribution: one in ten lies beyond so many deviations
)

// earlierOf finds the newest run of a job that has made the picture of a key; nil where none has.
func (s *Service) earlierOf(ctx context.Context, job int64, key string) (*earlier, error) {
	all, err := s.store.DoneRuns(ctx, job, earlierRuns)
	if err != nil {
		return nil, err
	}
	for i := range all {
		r := &all[i]
		if r.Resolved.From != nil || r.Seconds <= 0 {
			continue
		}
		if k, err := keyOf(&r.Resolved); err != nil || k != key {
			continue
		}
		e := &earlier{stop: r.Resolved.Ticket.Stop(), seconds: r.Seconds / float64(max(1, r.Frames))}
		if r.Noise != nil {
			e.noise = *r.Noise
		}
		return e, nil
	}
	return nil, nil
}

// earlierRuns is how many of the newest runs of a job are looked at.
const earlierRuns = 8

// again is what a run takes that stops by some rule, by what an earlier one of its picture took: o
// is what the probe tells of it, and then what that tells of the earlier one.
func (e *earlier) again(o, then forecast.Outcome, stop noise.Stop) forecast.Outcome {
	if then.Seconds.Mid > 0 && o.Seconds.Mid > 0 {
		times := o.Seconds.Mid / then.Seconds.Mid
		bar := math.Exp(tenth * math.Hypot(sureAgain, sureDoubled*math.Log2(times)))
		mid := e.seconds * times
		o.Seconds = forecast.Range{Mid: mid, Low: mid / bar, High: mid * bar}
	}
	if e.noise > 0 && then.Noise.Mid > 0 && !math.IsInf(then.Noise.Mid, 0) && !math.IsInf(o.Noise.Mid, 0) {
		below := stop.Target > 0 && o.Noise.Mid <= stop.Target
		o.Noise = o.Noise.Times(e.noise / then.Noise.Mid)
		if below { // by the rule, no tile goes on below its target
			o.Noise = forecast.Range{Mid: min(o.Noise.Mid, stop.Target), Low: min(o.Noise.Low, stop.Target), High: min(o.Noise.High, stop.Target)}
		}
	}
	return o
}

// teller tells what a run of a ticket comes to at any target, from a probe, from an earlier run of
// its picture if there is one, and else from how forecasts of others turned out.
type teller struct {
	probe   *forecast.Probe
	threads int
	of      *ticket.Resolved
	earlier *earlier // or nil
	then    forecast.Outcome
	past    []forecast.Past
}

func (s *Service) teller(ctx context.Context, job int64, r *ticket.Resolved, key string, p *forecast.Probe) (*teller, error) {
	past, err := s.store.PastForecasts(ctx, pastRuns)
	if err != nil {
		return nil, err
	}
	t := &teller{probe: p, threads: s.threads, of: r, past: past}
	if t.earlier, err = s.earlierOf(ctx, job, key); err != nil {
		return nil, err
	}
	if t.earlier != nil {
		t.then = p.Outcome(t.earlier.stop, s.threads)
	}
	return t, nil
}

// at tells of a run that stops by a rule: what is said of it, and how long it takes by the probe
// alone, for all its frames.
func (t *teller) at(stop noise.Stop) (o forecast.Outcome, f Seconds) {
	o = t.probe.Outcome(stop, t.threads)
	frames := float64(t.of.Frames())
	f.Measured = o.Seconds.Crowded(t.probe.Crowded).Times(frames / t.probe.Slowed)
	if t.earlier == nil {
		f.Told = f.Measured.By(t.past)
		return o, f
	}
	o = t.earlier.again(o, t.then, stop)
	f.Told = o.Seconds.Times(frames)
	return o, f
}
