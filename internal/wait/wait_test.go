package wait

import (
	"testing"
	"time"
)

// A wait goes on for as long as something moves, and ends soon after nothing does.
func TestAWaitEndsWhenNothingMoves(t *testing.T) {
	n := 0
	if _, ok := until(func() bool { n++; return n > 5 }, nil, time.Hour); !ok || n != 6 {
		t.Errorf("done after %d, %v", n, ok)
	}
	if last, ok := until(func() bool { return false }, func() any { return "unit 3" }, time.Millisecond); ok || last != "unit 3" {
		t.Errorf("given up at %q: %v", last, ok)
	}
	moves := 0
	_, ok := until(func() bool { return moves > 2 }, func() any { moves++; return moves }, 2*look)
	if !ok {
		t.Error("given up though it moved")
	}
}
