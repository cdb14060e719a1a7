package store_test

import (
	"slices"
	"testing"

	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// The course of a run's noise is kept in the order of its samples, the later of two at the same
// samples; with what a cancelled run has rendered it is thrown away.
func TestTheCourseOfNoise(t *testing.T) {
	s, j := seed(t)
	ids := add(t, s, j, 2)
	want := []store.NoisePoint{{Seconds: 1, Samples: 4, Noise: 8}, {Seconds: 3, Samples: 9, Noise: 5}, {Seconds: 9, Samples: 32, Noise: 2}}
	for _, k := range []int{2, 0, 1} {
		if err := s.AddNoisePoint(ctx, ids[0], 0, want[k]); err != nil {
			t.Fatal(err)
		}
	}
	want[1].Noise = 4.5
	if err := s.AddNoisePoint(ctx, ids[0], 0, want[1]); err != nil {
		t.Fatal(err)
	}
	if got, err := s.Course(ctx, ids[0], 0); err != nil || !slices.Equal(got, want) {
		t.Errorf("%v, %v", got, err)
	}
	for of, at := range map[string][2]int64{"another run": {ids[1], 0}, "another frame": {ids[0], 1}} {
		if got, err := s.Course(ctx, at[0], int(at[1])); err != nil || len(got) != 0 {
			t.Errorf("of %s: %v, %v", of, got, err)
		}
	}
	if _, is, err := s.Ask(ctx, ids[0], ticket.Cancel); err != nil || is != ticket.Cancelled {
		t.Fatalf("%s, %v", is, err)
	}
	if got, err := s.Course(ctx, ids[0], 0); err != nil || len(got) != 0 {
		t.Errorf("a cancelled run has %v, %v", got, err)
	}
}
