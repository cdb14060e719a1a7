package parallel

import (
	"errors"
	"strings"
	"sync/atomic"
	"testing"
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
