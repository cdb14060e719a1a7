package app

import (
	"errors"
	"math"
	"testing"

	"amberproof/internal/store"
)

func TestASlowListenerGetsTheNewestOfEachRun(t *testing.T) {
	h := newHub()
	s := h.Subscribe()
	defer s.Close()
	for i := 1; i <= 100; i++ {
		h.publish(Event{Run: 1, State: store.Running, Picture: int64(i)})
	}
	h.publish(Event{Run: 2, State: store.Done})
	<-s.Wake()
	got := map[int64]Event{}
	for _, e := range s.Take() {
		got[e.Run] = e
	}
	if len(got) != 2 || got[1].Picture != 100 || got[2].State != store.Done {
		t.Errorf("got %+v", got)
	}
	if len(s.Take()) != 0 {
		t.Error("events came twice")
	}
}

func TestALateListenerHearsWhatIsGoingButNotWhatHasEnded(t *testing.T) {
	h := newHub()
	h.publish(Event{Run: 1, State: store.Running, Picture: 7})
	h.publish(Event{Run: 2, State: store.Running})
	h.publish(Event{Run: 2, State: store.Done})
	s := h.Subscribe()
	defer s.Close()
	<-s.Wake()
	if e := s.Take(); len(e) != 1 || e[0].Run != 1 || e[0].Picture != 7 {
		t.Errorf("got %+v", e)
	}
	if _, ok := h.Last(2); ok {
		t.Error("an ended run is still going")
	}
}

func TestCacheKeepsTheLastUsedAndForgetsFailures(t *testing.T) {
	loads := map[int]int{}
	c := newCache(2, func(k int) (int, error) {
		loads[k]++
		if k == 9 {
			return 0, errors.New("gone")
		}
		return k * 10, nil
	})
	for _, k := range []int{1, 2, 1, 3, 1, 2} { // 3 pushes 2 out, 2 pushes 3 out
		if v, err := c.get(k); err != nil || v != k*10 {
			t.Fatalf("%d: %v %v", k, v, err)
		}
	}
	if loads[1] != 1 || loads[2] != 2 || loads[3] != 1 {
		t.Errorf("loads %v", loads)
	}
	for i := 0; i < 2; i++ {
		if _, err := c.get(9); err == nil {
			t.Fatal("no error")
		}
	}
	if loads[9] != 2 {
		t.Error("a failure was kept")
	}
	c.drop(1)
	_, _ = c.get(1)
	if loads[1] != 2 {
		t.Error("what was dropped was not loaded again")
	}
}

func TestNoiseThatCannotBeToldIsNull(t *testing.T) {
	if finite(math.Inf(1)) != nil || finite(math.NaN()) != nil || *finite(2) != 2 {
		t.Error("finite")
	}
}

func TestClock(t *testing.T) {
	for s, want := range map[float64]string{0.4: "0:00", 59.6: "1:00", 3725: "1:02:05"} {
		if got := clock(s); got != want {
			t.Errorf("%v: %s, want %s", s, got, want)
		}
	}
}
