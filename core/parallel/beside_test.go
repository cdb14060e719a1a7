package parallel

import (
	"context"
	"errors"
	"testing"
	"time"
)

// Beside other work half of the time is rested, by all at once; by itself none is.
func TestWorkBesideOtherRests(t *testing.T) {
	busy := true
	began := time.Unix(0, 0)
	b := &beside{Context: t.Context(), busy: func() bool { return busy }, woke: began}
	at := func(ms int) time.Time { return began.Add(time.Duration(ms) * time.Millisecond) }
	for _, c := range []struct {
		at, rest int // milliseconds
		busy     bool
	}{
		{16, 0, true},                 // too short
		{40, 40, true},                // forty worked
		{50, 30, true}, {79, 1, true}, // others that look meanwhile
		{90, 0, true}, {104, 24, true}, // since the rest's end at 80
		{200, 0, false}, {1000, 0, false}, // alone
		{1019, 0, true}, {1030, 30, true}, // what was worked alone does not count
		{5000, 1000, true}, // a long step rests no longer than this
		{5999, 1, true}, {6000, 0, true}, {6032, 32, true},
	} {
		busy = c.busy
		if got := b.rest(at(c.at)); got != time.Duration(c.rest)*time.Millisecond {
			t.Errorf("at %d ms, busy %v: %v, want %d ms", c.at, c.busy, got, c.rest)
		}
	}
}

// A rest ends with the context, whose error it is.
func TestARestEndsWithItsContext(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	looks := 0
	b := &beside{Context: ctx, busy: func() bool { looks++; cancel(); return true }, woke: time.Now().Add(-time.Hour)}
	if err := b.Err(); !errors.Is(err, context.Canceled) || looks != 1 {
		t.Errorf("%v after %d looks", err, looks)
	}
	if Beside(t.Context(), func() bool { return false }).Err() != nil {
		t.Error("a context that has not ended has an error")
	}
}
