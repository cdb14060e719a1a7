package runs_test

import (
	"bytes"
	"context"
	"image/png"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/core/importer"
	"amberproof/demo"
	"amberproof/internal/app"
	"amberproof/internal/jobs"
	"amberproof/internal/runs"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// What lists cost beside ten thousand runs: a page of runs, the queue, the jobs,
// and a job's outlook.
//
//	go test ./internal/runs -run xxx -bench Lists
func BenchmarkListsBesideTenThousandRuns(b *testing.B) {
	st := testkit.Store(b)
	a, j := testkit.AppAt(b, st, b.TempDir())
	const n = 10000
	for i := range n {
		id, err := st.AddRun(ctx, store.NewRun{Job: j.ID, Maker: 1, Resolved: ticket.Resolved{Ticket: j.Ticket}, Frames: 1})
		if err != nil {
			b.Fatal(err)
		}
		if i < n-100 {
			if err := st.Move(ctx, id, ticket.Done, "", ticket.Queued); err != nil {
				b.Fatal(err)
			}
		}
	}
	for name, f := range map[string]func() error{
		"runs": func() error { return second(a.Runs.List(ctx, me, runs.Wanted{})) },
		"ended": func() error {
			return second(a.Runs.List(ctx, me, runs.Wanted{States: []ticket.State{ticket.Done, ticket.Failed}}))
		},
		"queue":   func() error { return second(a.Runs.Queue(ctx, me)) },
		"jobs":    func() error { return second(a.Jobs.List(ctx, me, jobs.Wanted{})) },
		"outlook": func() error { return second(a.Jobs.Outlook(ctx, me, j.ID)) },
	} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if err := f(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// How much of its speed a run keeps while a hundred and fifty look at it: samples
// a second with them over samples a second without, turn about within one run.
//
//	go test ./internal/runs -run xxx -bench Readers
func BenchmarkReadersBesideARun(b *testing.B) {
	a, run, end := endless(b, 1600, 1200)
	samples := func() float64 { return newest(b, a, run).Samples }
	var reading atomic.Bool
	var readers sync.WaitGroup
	read, enough := context.WithCancel(ctx)
	var pictures atomic.Int64
	for k := range 150 {
		readers.Go(func() {
			for read.Err() == nil {
				if !reading.Load() {
					time.Sleep(5 * time.Millisecond)
					continue
				}
				p, err := a.Proofs.Open(read, me, run, 0)
				if err != nil {
					continue
				}
				key := p.Passes[k%len(p.Passes)].Key
				if _, err := a.Proofs.PNG(read, p, key, finish.Finish{Transform: colour.Filmic}, 0, -1); err == nil {
					pictures.Add(1)
				}
			}
		})
	}
	const turn = 4 * time.Second
	var with, without float64
	for b.Loop() {
		for _, on := range []bool{false, true} {
			reading.Store(on)
			before := samples()
			time.Sleep(turn)
			if on {
				with += samples() - before
			} else {
				without += samples() - before
			}
		}
	}
	b.ReportMetric(with/without, "speed-kept")
	b.ReportMetric(float64(pictures.Load()), "pictures")
	enough()
	readers.Wait()
	end()
}

// How much of its speed a run keeps while one scene after the other is checked: samples a
// second with checks over samples a second without, turn about within one run.
//
//	go test ./internal/runs -run xxx -bench Preflights
func BenchmarkPreflightsBesideARun(b *testing.B) {
	a, run, end := endless(b, 160, 120)
	defer end()
	raw, err := demo.Vitrine()
	if err != nil {
		b.Fatal(err)
	}
	home, err := a.Projects.Ensure(ctx, me, "Pellwick")
	if err != nil {
		b.Fatal(err)
	}
	row, err := a.Scenes.ImportBundle(ctx, me, home.ID, importer.Bundle{"vitrine.glb": raw})
	if err != nil {
		b.Fatal(err)
	}
	j, err := a.Jobs.Create(ctx, me, row.ID, "Checked", nil)
	if err != nil {
		b.Fatal(err)
	}
	samples := func() float64 { return newest(b, a, run).Samples }
	speed := func(until func() bool) float64 { // samples a second
		began, before := time.Now(), samples()
		for !until() {
			time.Sleep(20 * time.Millisecond)
		}
		return (samples() - before) / time.Since(began).Seconds()
	}
	var with, without float64
	var checks int
	var took time.Duration
	for b.Loop() {
		rest := time.Now()
		without += speed(func() bool { return time.Since(rest) > 5*time.Second })
		t := j.Ticket
		t.View.Width += checks // which makes it another check
		began := time.Now()
		done := make(chan error, 1)
		go func() { _, err := a.Scenes.PreflightOf(ctx, me, row.ID, &t); done <- err }()
		with += speed(func() bool { return len(done) > 0 })
		if err := <-done; err != nil {
			b.Fatal(err)
		}
		took += time.Since(began)
		checks++
	}
	b.ReportMetric(with/without, "speed-kept")
	b.ReportMetric(took.Seconds()/float64(checks), "s/check")
}

// How long whoever looks at a run waits for a denoised picture of what is there so far,
// of a screen's size, while the run takes all cores.
//
//	go test ./internal/runs -run xxx -bench DenoisedLook
func BenchmarkDenoisedLookBesideARun(b *testing.B) {
	a, run, end := endless(b, 1600, 1200)
	p, err := a.Proofs.Open(ctx, me, run, 0)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		b.StopTimer()
		p.Changed()
		time.Sleep(8 * time.Second) // until it is this one's turn
		b.StartTimer()
		raw, err := a.Proofs.PNG(ctx, p, "beauty.denoised", p.Resolved.Ticket.Finish(), 1400, -1)
		if err != nil {
			b.Fatal(err)
		}
		c, err := png.DecodeConfig(bytes.NewReader(raw))
		if err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(float64(c.Width*c.Height), "pixels")
	}
	end()
}

// endless starts a run of so many pixels that does not end by itself, and waits until it
// has samples. end ends the work on it.
func endless(b *testing.B, width, height int) (a *app.App, run int64, end func()) {
	b.Helper()
	a, j := testkit.App(b)
	j, err := a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, func() ticket.Ticket {
		t := j.Ticket
		t.View.Width, t.View.Height, t.Quality.Most, t.Quality.Noise = width, height, 60000, 0
		return t
	}())
	if err != nil {
		b.Fatal(err)
	}
	work, stop := context.WithCancel(ctx)
	done := make(chan error, 1)
	go func() { done <- a.Runs.Work(work) }()
	r, err := a.Runs.Start(ctx, me, j.ID, j.Version)
	if err != nil {
		b.Fatal(err)
	}
	for newest(b, a, r.ID).Samples < 1 {
		time.Sleep(20 * time.Millisecond)
	}
	return a, r.ID, func() {
		stop()
		if err := <-done; err != nil {
			b.Fatal(err)
		}
	}
}
