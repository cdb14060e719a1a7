package runs

import (
	"math"
	"sync"

	"amberproof/core/render"
	"amberproof/internal/hub"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Progress is how a run goes.
type Progress struct {
	Run        int64         `json:"run"`
	Job        int64         `json:"job"`
	Project    int64         `json:"-"` // who may see it
	Frame      int           `json:"frame" doc:"That is rendered now; a still is frame 0"`
	State      ticket.State  `json:"state" enum:"queued,running,stopping,delivering,stopped,done,kept,failed,cancelled,removed"`
	Intent     ticket.Intent `json:"intent"`
	Background bool          `json:"background"`
	Share      float64       `json:"share" doc:"Finished share of the forecast samples, 0 to 1"`
	Samples    float64       `json:"samples" doc:"Mean samples per pixel"`
	Least      int           `json:"least" doc:"Samples of the pixel with fewest"`
	Noise      *float64      `json:"noise" doc:"Percent of display white; null before it can be told"`
	Seconds    float64       `json:"seconds" doc:"Time used"`
	Left       *float64      `json:"left" doc:"Seconds left, as well as can be told; null before that"`
	Ending     *float64      `json:"ending" doc:"Noise that it is expected to end at, percent, where that is above its target for want of samples; else null"`
	Needs      int           `json:"needs" doc:"Most samples that would do then; else 0"`
	Settled    int           `json:"settled" doc:"Tiles that are clean enough"`
	Tiles      int           `json:"tiles"`
	Picture    int64         `json:"picture" doc:"Grows whenever the picture changes"`
	Note       string        `json:"note" doc:"What is going on before the first samples, or what went wrong"`
}

// Removed is the state in the last event of a run that was removed.
const Removed ticket.State = "removed"

// eventOf is the news that a run's row holds.
func eventOf(r *store.RunLine) Progress {
	return Progress{
		Run: r.ID, Job: r.Job, Project: r.Project, State: r.State, Intent: r.Intent, Background: r.Background, Share: r.Share, Samples: r.Samples, Least: r.Least,
		Noise: r.Noise, Seconds: r.Seconds, Note: r.Fault,
	}
}

// finite returns nil for a number that cannot be told.
func finite(x float64) *float64 {
	if math.IsInf(x, 0) || math.IsNaN(x) {
		return nil
	}
	return &x
}

// measure takes in how far a frame is.
func (e *Progress) measure(g render.Progress) {
	e.Samples, e.Least, e.Noise, e.Settled, e.Tiles = g.Mean, g.Least, finite(g.Noise), g.Settled, g.Tiles
	e.Ending, e.Needs = nil, g.Needs
	if g.Ending > 0 {
		e.Ending = finite(g.Ending)
	}
	e.Share = 0
	if g.Forecast > 0 {
		e.Share = min(1, float64(g.Samples)/float64(g.Forecast))
	}
}

func (e *Progress) measured() store.Measure {
	return store.Measure{Seconds: e.Seconds, Samples: e.Samples, Least: e.Least, Share: e.Share, Noise: e.Noise}
}

// Hub hands on how runs go, and knows what is going.
type Hub struct {
	mu        sync.Mutex
	listeners hub.Hub[Progress]
	last      map[int64]Progress // of runs that are going
}

func newHub() *Hub { return &Hub{last: map[int64]Progress{}} }

// Subscribe starts listening to what a listener may see. It returns the newest of each run
// that is going: whatever the listener knew of others before is over.
func (h *Hub) Subscribe(sees func(*Progress) bool) (*hub.Subscription[Progress], []Progress) {
	h.mu.Lock()
	defer h.mu.Unlock()
	s := h.listeners.Subscribe(sees)
	going := make([]Progress, 0, len(h.last))
	for _, e := range h.last {
		if sees(&e) {
			going = append(going, e)
		}
	}
	return s, going
}

func (h *Hub) publish(e Progress) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.tell(e)
}

// progress publishes how far a run is, in the state that was told last: who asked it to
// stop meanwhile has said so. It returns what was published.
func (h *Hub) progress(e Progress) Progress {
	h.mu.Lock()
	defer h.mu.Unlock()
	if last, ok := h.last[e.Run]; ok {
		e.State, e.Intent = last.State, last.Intent
	}
	h.tell(e)
	return e
}

// row publishes what the row of a run holds; of one that is going, what is known of its
// progress is newer than the row.
func (h *Hub) row(e Progress) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if last, ok := h.last[e.Run]; ok && e.State.Going() {
		last.State, last.Intent = e.State, e.Intent
		e = last
	}
	h.tell(e)
}

// amend publishes the newest event of a run that is going anew as f changes it, if f
// returns true.
func (h *Hub) amend(run int64, f func(*Progress) bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if e, ok := h.last[run]; ok && f(&e) {
		h.tell(e)
	}
}

// tell is publish, with the lock held.
func (h *Hub) tell(e Progress) {
	if e.State.Going() {
		h.last[e.Run] = e
	} else {
		delete(h.last, e.Run)
	}
	h.listeners.Tell(e.Run, e)
}

// Last is the newest event of a run that is going.
func (h *Hub) Last(run int64) (Progress, bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	e, ok := h.last[run]
	return e, ok
}
