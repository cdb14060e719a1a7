package runs

import (
	"math"
	"testing"

	"amberproof/internal/ticket"
)

func TestASlowListenerGetsTheNewestOfEachRun(t *testing.T) {
	h := newHub()
	s, _ := h.Subscribe(func(*Progress) bool { return true })
	defer s.Close()
	for i := 1; i <= 100; i++ {
		h.publish(Progress{Run: 1, State: ticket.Running, Picture: int64(i)})
	}
	h.publish(Progress{Run: 2, State: ticket.Done})
	<-s.Wake()
	got := map[int64]Progress{}
	for _, e := range s.Take() {
		got[e.Run] = e
	}
	if len(got) != 2 || got[1].Picture != 100 || got[2].State != ticket.Done {
		t.Errorf("got %+v", got)
	}
	if len(s.Take()) != 0 {
		t.Error("events came twice")
	}
}

func TestALateListenerHearsWhatIsGoingButNotWhatHasEnded(t *testing.T) {
	h := newHub()
	h.publish(Progress{Run: 1, State: ticket.Running, Picture: 7})
	h.publish(Progress{Run: 2, State: ticket.Running})
	h.publish(Progress{Run: 2, State: ticket.Done})
	s, going := h.Subscribe(func(*Progress) bool { return true })
	defer s.Close()
	if len(going) != 1 || going[0].Run != 1 || going[0].Picture != 7 {
		t.Errorf("got %+v", going)
	}
	if _, ok := h.Last(2); ok {
		t.Error("an ended run is still going")
	}
}

// News of progress that was made before a run was asked to stop does not tell that it runs.
func TestAskedStateIsNotLostToProgress(t *testing.T) {
	h := newHub()
	h.publish(Progress{Run: 1, State: ticket.Running, Samples: 3})
	h.row(Progress{Run: 1, State: ticket.Stopping, Intent: ticket.Keep, Samples: 2})
	e := h.progress(Progress{Run: 1, State: ticket.Running, Samples: 4})
	if last, _ := h.Last(1); e != last || e.State != ticket.Stopping || e.Intent != ticket.Keep || e.Samples != 4 {
		t.Errorf("%+v", e)
	}
	h.row(Progress{Run: 1, State: ticket.Kept, Samples: 5})
	if _, going := h.Last(1); going {
		t.Error("an ended run goes")
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

// What goes on while a run's files are made is told as far as it is; of one that renders,
// or is over, nothing is.
func TestTheTakingOutOfNoiseIsTold(t *testing.T) {
	s := &Service{hub: newHub()}
	s.hub.publish(Progress{Run: 1, State: ticket.Delivering, Samples: 7})
	s.hub.publish(Progress{Run: 2, State: ticket.Running})
	for share, want := range map[float64]string{0: "taking out the noise, 0 %", 0.43: "taking out the noise, 40 %",
		0.999: "taking out the noise, 95 %", 1: "writing the files"} {
		for run := range int64(3) {
			s.cleaning(run+1, share)
		}
		if e, _ := s.hub.Last(1); e.Note != want || e.Samples != 7 {
			t.Errorf("%v: %+v", share, e)
		}
	}
	if e, _ := s.hub.Last(2); e.Note != "" {
		t.Errorf("one that renders: %q", e.Note)
	}
	if _, ok := s.hub.Last(3); ok {
		t.Error("news of a run that is not going")
	}
}
