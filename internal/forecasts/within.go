package forecasts

import (
	"math"

	"amberproof/core/forecast"
	"amberproof/internal/ticket"
)

// Within is what can be had in a time, nine times in ten: by another target at this size, or by
// another size at this target.
type Within struct {
	Seconds float64   `json:"seconds" doc:"Of rendering that there are"`
	Target  *AtTarget `json:"target" doc:"The strictest noise target that fits; null where not even the loosest does, or the ticket has none"`
	Most    int       `json:"most" doc:"Most samples that fit, of a ticket without a noise target; else 0"`
	Size    *AtScale  `json:"size" doc:"The largest size that fits; null where not even the smallest does"`
}

// AtScale is a size and what it would take.
type AtScale struct {
	Scale   int            `json:"scale" doc:"Percent"`
	Width   int            `json:"width" doc:"Pixels"`
	Height  int            `json:"height"`
	Seconds forecast.Range `json:"seconds"`
}

const (
	leastScale, mostScale = 1, 400
	// loosen is by how much a target is loosened that was read off the curve and does not fit after
	// all, and looks how often.
	loosen, looks = 1.03, 8
)

// within finds what can be had in some seconds: of a ticket that takes now, at its target, and of
// which at tells for any.
func within(seconds float64, t *ticket.Ticket, now AtTarget, curve []AtTarget, at func(target float64) AtTarget) *Within {
	w := &Within{Seconds: seconds, Size: largest(seconds, t, now.Seconds)}
	if t.Quality.Noise == 0 {
		if now.Seconds.High > 0 {
			w.Most = int(math.Min(float64(t.Quality.Most)*seconds/now.Seconds.High, ticket.MostSamples))
		}
		return w
	}
	for i, c := range curve { // the strictest first
		if c.Seconds.High > seconds {
			continue
		}
		if i > 0 {
			if b := between(curve[i-1], c, seconds); b < c.Target {
				for range looks {
					b = math.Ceil(b*100) / 100
					if p := at(b); p.Seconds.High <= seconds {
						c = p
						break
					}
					b *= loosen
				}
			}
		}
		w.Target = &c
		break
	}
	return w
}

// between reads the target off the curve from a slow one to a quick one that just takes some seconds.
func between(slow, quick AtTarget, seconds float64) float64 {
	u := math.Log(seconds/quick.Seconds.High) / math.Log(slow.Seconds.High/quick.Seconds.High)
	return quick.Target * math.Pow(slow.Target/quick.Target, min(max(u, 0), 1))
}

// largest is the largest size at which a picture takes some seconds: its time goes by its pixels.
func largest(seconds float64, t *ticket.Ticket, now forecast.Range) *AtScale {
	if now.High <= 0 {
		return nil
	}
	had := t.View.Scale
	for s := min(mostScale, int(float64(had)*math.Sqrt(seconds/now.High))); s >= leastScale; s-- {
		k := *t
		if k.View.Scale = s; k.Size().X > ticket.MostSide || k.Size().Y > ticket.MostSide {
			continue
		}
		size := k.Size()
		return &AtScale{s, size.X, size.Y, now.Times(float64(s*s) / float64(had*had))}
	}
	return nil
}
