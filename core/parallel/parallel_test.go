package parallel

import (
	"errors"
	"strings"
	"sync/atomic"
	"testing"
	"time"
)

func TestAPanicIsSomebodysError(t *testing.T) {
	var g Group
	var done atomic.Int32
	for k := range 8 {
		g.Go(func() {
			if k == 3 {
				thrown()
			}
			done.Add(1)
		})
	}
	err := g.Wait()
	var p *Panic
	if !errors.As(err, &p) || p.What != "no such row" || !strings.Contains(p.Stack, "parallel.thrown") || done.Load() != 7 {
		t.Errorf("%d done, %+v", done.Load(), err)
	}
	if err := Workers(4, func(int) {}); err != nil {
		t.Error(err)
	}
}

// Where the function that starts goroutines panics itself, it is waited for these first: they
// work on what belongs to its caller.
func TestNoGoroutineOutlivesItsScope(t *testing.T) {
	started, goOn := make(chan struct{}), make(chan struct{})
	var ended atomic.Bool
	returned := make(chan error, 1)
	go func() {
		returned <- Scope(func(g *Group) {
			g.Go(func() {
				close(started)
				<-goOn
				ended.Store(true)
			})
			<-started
			thrown()
		})
	}()
	<-started
	select {
	case err := <-returned:
		t.Fatalf("returned while a goroutine works: %v", err)
	case <-time.After(20 * time.Millisecond): // can only miss the fault, never see one that is not there
	}
	close(goOn)
	var p *Panic
	if err := <-returned; !errors.As(err, &p) || p.What != "no such row" || !ended.Load() {
		t.Errorf("ended: %v; %+v", ended.Load(), err)
	}
}

func thrown() { panic("no such row") }

// Handed on from goroutine to goroutine, it keeps the stack of where it was met.
func TestAPanicKeepsItsStack(t *testing.T) {
	outer := func() (err error) {
		defer Catch(&err)
		MustRanges(10, 3, func(from, _ int) {
			MustRanges(2, 1, func(int, int) {
				if from == 6 {
					thrown()
				}
			})
		})
		return nil
	}
	var p *Panic
	if err := outer(); !errors.As(err, &p) || !strings.Contains(p.Stack, "parallel.thrown") {
		t.Errorf("%v", err)
	}
}

func TestRangesCoverAll(t *testing.T) {
	for _, n := range []int{0, 1, 5, 64, 1000} {
		seen := make([]int, n)
		if err := Ranges(n, 7, func(from, to int) {
			for i := from; i < to; i++ {
				seen[i]++
			}
		}); err != nil {
			t.Fatal(err)
		}
		for i, k := range seen {
			if k != 1 {
				t.Fatalf("%d of %d was done %d times", i, n, k)
			}
		}
	}
}
