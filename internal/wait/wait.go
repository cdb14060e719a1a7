// Package wait lets tests wait for progress and not for the clock: machines differ fourfold
// in speed, and the race detector takes ten times as long. Only tests import it.
package wait

import (
	"fmt"
	"testing"
	"time"
)

// stalled is for how long nothing may move before a wait is given up. It is never waited
// for by a test that passes.
const stalled = 3 * time.Minute

// longest bounds a wait in which something moves for ever and what is waited for never comes.
const longest = 15 * time.Minute

const (
	poll     = 5 * time.Millisecond
	pollMost = 100 * time.Millisecond
	look     = time.Second // how often what moves is looked at
)

// Until waits until done reports true, for as long as anything that moves tells changes;
// the test fails once nothing has for some minutes. moves may be nil.
func Until(t testing.TB, what string, done func() bool, moves func() any) {
	t.Helper()
	if last, ok := until(done, moves, stalled); !ok {
		t.Fatalf("waiting for %s: nothing has moved for %v, or it moves for ever; it stands at %v", what, stalled, last)
	}
}

// Or is Until that returns false where that would fail the test, for who has more to tell.
func Or(done func() bool, moves func() any) bool {
	_, ok := until(done, moves, stalled)
	return ok
}

func until(done func() bool, moves func() any, stalled time.Duration) (last string, ok bool) {
	began, moved, looked, pause := time.Now(), time.Now(), time.Time{}, poll
	for !done() {
		if now := time.Now(); moves != nil && now.Sub(looked) > look {
			looked = now
			if at := fmt.Sprint(moves()); at != last {
				last, moved = at, time.Now()
			}
		}
		if time.Since(moved) > stalled || time.Since(began) > longest {
			return last, false
		}
		time.Sleep(pause)
		pause = min(2*pause, pollMost)
	}
	return last, true
}
