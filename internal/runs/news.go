package runs

import (
	"sync/atomic"
	"time"

	"amberproof/internal/pipeline"
	"amberproof/internal/proofs"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// How often news is told and recorded.
const (
	tellEvery   = 250 * time.Millisecond
	recordEvery = 2 * time.Second
)

// news tells how a run goes, frame by frame. It belongs to the goroutine that renders, but
// for frame.
type news struct {
	s *Service
	e Progress // of the run

	// What the other frames of the run have come to, and how many of all come after this one.
	others store.Measure
	count  int
	after  int

	shot   *pipeline.Shot
	proof  *proofs.Proof
	began  time.Time
	before float64 // seconds spent on the frame in earlier goes
	start  int64   // samples of it of earlier goes
	told   time.Time
	frame  atomic.Pointer[Progress] // newest of the frame alone, to be recorded
}

func newNews(s *Service, run *store.Run) *news {
	return &news{s: s, began: time.Now(), e: Progress{
		Run: run.ID, Job: run.Job, Project: run.Project, State: ticket.Running, Background: run.Background, Seconds: run.Seconds, Note: "preparing the scene",
	}}
}

// goTo turns to a frame of the run.
func (n *news) goTo(frames []store.Frame, at int) {
	n.e.Frame, n.e.Note = frames[at].Number, "preparing the scene"
	n.before, n.count, n.after, n.others = frames[at].Seconds, len(frames), 0, store.Measure{}
	for i, f := range frames {
		if i == at {
			continue
		}
		n.others.Seconds += f.Seconds
		n.others.Share += f.Share
		if !f.Complete {
			n.after++
		}
	}
}

// follow tells from now on how a frame goes that is ready to be rendered.
func (n *news) follow(sh *pipeline.Shot, p *proofs.Proof) {
	n.shot, n.proof, n.e.Note = sh, p, ""
	n.began, n.start = time.Now(), sh.Progress().Samples
	n.frame.Store(nil)
}

// changed is called after every merge, and tells of some.
func (n *news) changed() error {
	if time.Since(n.told) >= tellEvery {
		n.tell()
	}
	return nil
}

func (n *news) tell() {
	n.told = time.Now()
	g := n.shot.Progress()
	e := &n.e
	e.measure(g)
	spent := time.Since(n.began).Seconds()
	own := n.before + spent
	e.Picture = n.proof.Changed()
	n.proof.Judge(n.shot.Left())
	e.Left = nil
	// A time left is told once there is work to judge by, and while there is any left. Frames
	// that come after take as long as this one.
	if gained := g.Samples - n.start; gained > 0 && e.Noise != nil && spent > 1 && g.Forecast > g.Samples {
		left := float64(g.Forecast-g.Samples) * spent / float64(gained)
		left += float64(n.after) * (own + left)
		e.Left = &left
	}
	frame := *e
	frame.Seconds = own
	n.frame.Store(&frame)
	e.Seconds = n.others.Seconds + own
	e.Share = (n.others.Share + frame.Share) / float64(n.count)
	now := n.s.hub.progress(*e)
	e.State, e.Intent = now.State, now.Intent
}
