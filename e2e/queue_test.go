package e2e

import (
	"testing"

	"amberproof/internal/wait"
)

// Before a run is moved in the queue it is told what that does to the others.
func TestWhatMovingARunDoes(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := benchJob(t, s, "65536")
	p.fill("Width", "480") // of which a run takes many minutes on any machine
	p.fill("Height", "360")
	p.saved()
	for range 3 {
		p.run()
	}
	type queue struct {
		Runs []struct {
			ID    int64
			State string
			Ends  *struct{ Mid float64 }
		}
	}
	var q queue
	wait.Until(t, "three runs to be forecast", func() bool {
		s.get("/api/queue", &q)
		return len(q.Runs) == 3 && q.Runs[0].State == "running" && q.Runs[2].Ends != nil
	}, nil)
	for i, r := range q.Runs[1:] {
		if took := r.Ends.Mid - q.Runs[i].Ends.Mid; took < 40 {
			t.Fatalf("a run takes %.0f s: too little to be told of", took)
		}
	}
	p.press(p.see("a", "Queue"))
	p.see("[data-testid=ends]", "done")
	front := p.find("button[aria-label$='3 to the front']")
	front.MustFocus()
	p.see("[data-testid=then]", "later")
	p.see("[data-testid=then]", "sooner")
	p.press(front)
	wait.Until(t, "the third run to be first", func() bool {
		s.get("/api/queue", &q)
		return len(q.Runs) == 3 && q.Runs[1].ID == 3
	}, nil)
}
