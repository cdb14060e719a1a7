package server_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/runs"
	"amberproof/internal/server"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// How long two hundred people who look at one round wait, and how much of its speed a run
// keeps meanwhile, turn about within one run. Each asks for the round, its remarks, the board
// and a tile of its picture, one after the other, and then looks for four seconds. They share
// the cores with the run and the server.
//
//	go test ./internal/server -run xxx -bench Reviewers -benchtime 3x
func BenchmarkReviewersBesideARun(b *testing.B) {
	a, j := testkit.App(b)
	sv, err := server.New(a, slog.New(slog.DiscardHandler))
	if err != nil {
		b.Fatal(err)
	}
	h := httptest.NewServer(sv.Handler())
	b.Cleanup(h.Close)
	testkit.Work(b, a)
	ctx, me := b.Context(), identity.Local
	start := func(samples int) int64 {
		b.Helper()
		t := j.Ticket
		t.View.Width, t.View.Height, t.Quality.Least, t.Quality.Most, t.Quality.Noise = 1600, 1200, 1, samples, 0
		t.Quality.Denoise.On, t.Passes = false, ticket.New().Passes // a run samples without rest
		var err error
		if j, err = a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, t); err != nil {
			b.Fatal(err)
		}
		r, err := a.Runs.Start(ctx, me, j.ID, j.Version)
		if err != nil {
			b.Fatal(err)
		}
		return r.ID
	}
	shown := start(2)
	for {
		r, err := a.Runs.Get(ctx, me, shown)
		if err != nil || r.Run.State == ticket.Failed {
			b.Fatal(r.Run.State, err)
		}
		if r.Run.State == ticket.Done {
			break
		}
		time.Sleep(20 * time.Millisecond)
	}
	rd, err := a.Review.Make(ctx, me, j.Project, review.Terms{Kind: round.Clay, Title: "Shape"})
	if err != nil {
		b.Fatal(err)
	}
	if rd, err = a.Review.PutUp(ctx, me, rd.ID, review.ToPutUp{Run: shown, Passes: []string{"beauty"}}); err != nil {
		b.Fatal(err)
	}
	beside := start(60000)
	samples := func() float64 {
		sub, going, err := a.Runs.Listen(me)
		if err != nil {
			b.Fatal(err)
		}
		defer sub.Close()
		i := slices.IndexFunc(going, func(e runs.Progress) bool { return e.Run == beside })
		if i < 0 {
			return 0
		}
		return going[i].Samples
	}
	for samples() < 1 {
		time.Sleep(20 * time.Millisecond)
	}
	p := &reviewers{url: h.URL, round: rd.ID, proof: rd.Proofs[0].ID, project: j.Project}
	end := p.come(ctx, 200)
	const turn = 12 * time.Second
	var with, without float64
	for b.Loop() {
		for _, on := range []bool{false, true} {
			p.looking.Store(on)
			before := samples()
			time.Sleep(turn)
			if on {
				with += samples() - before
			} else {
				without += samples() - before
			}
		}
	}
	end()
	slices.Sort(p.waits)
	at := func(share float64) float64 {
		return float64(p.waits[int(share*float64(len(p.waits)-1))].Milliseconds())
	}
	b.ReportMetric(with/without, "speed-kept")
	b.ReportMetric(float64(len(p.waits)), "answers")
	b.ReportMetric(float64(p.bad), "bad")
	b.ReportMetric(at(0.5), "median-ms")
	b.ReportMetric(at(0.95), "p95-ms")
	b.ReportMetric(at(1), "longest-ms")
}

// reviewers are people who look at a round.
type reviewers struct {
	url                   string
	round, proof, project int64
	looking               atomic.Bool
	mu                    sync.Mutex
	waits                 []time.Duration
	bad                   int
}

// come has n of them look while they are to; end sends them away.
func (p *reviewers) come(ctx context.Context, n int) (end func()) {
	ctx, leave := context.WithCancel(ctx)
	c := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: n}}
	var all sync.WaitGroup
	for k := range n {
		all.Go(func() {
			here := false
			for i := k; ctx.Err() == nil; i++ {
				pause := 50 * time.Millisecond
				switch looking := p.looking.Load(); {
				case looking && !here: // they do not come all at once
					pause = time.Duration(k) * 4 * time.Second / time.Duration(n)
					here = true
				case !looking:
					here = false
				default:
					for _, path := range []string{
						fmt.Sprintf("/api/rounds/%d", p.round), fmt.Sprintf("/api/proofs/%d/remarks", p.proof),
						fmt.Sprintf("/api/projects/%d/board", p.project), fmt.Sprintf("/api/proofs/%d/tile.png?pass=beauty&level=0&x=%d&y=%d", p.proof, i%6, i/6%4),
					} {
						p.ask(ctx, c, path)
					}
					pause = 4 * time.Second
				}
				select {
				case <-ctx.Done():
				case <-time.After(pause):
				}
			}
		})
	}
	return func() { leave(); all.Wait() }
}

func (p *reviewers) ask(ctx context.Context, c *http.Client, path string) {
	r, err := http.NewRequestWithContext(ctx, "GET", p.url+path, nil)
	if err != nil {
		panic(err)
	}
	began := time.Now()
	resp, err := c.Do(r)
	if err == nil {
		_, err = io.Copy(io.Discard, resp.Body)
		resp.Body.Close()
	}
	if ctx.Err() != nil {
		return // sent away meanwhile
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.waits = append(p.waits, time.Since(began))
	if err != nil || resp.StatusCode != http.StatusOK {
		p.bad++
	}
}
