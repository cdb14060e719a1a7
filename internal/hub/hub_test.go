package hub

import (
	"slices"
	"testing"
)

type news struct{ thing, at int }

func TestASlowListenerGetsTheNewestOfEachThing(t *testing.T) {
	var h Hub[news]
	s := h.Subscribe(func(n *news) bool { return n.thing != 3 })
	for i := range 100 {
		h.Tell(1, news{1, i})
	}
	h.Tell(2, news{2, 7})
	h.Tell(3, news{3, 7}) // is not seen
	<-s.Wake()
	got := s.Take()
	slices.SortFunc(got, func(a, b news) int { return a.thing - b.thing })
	if !slices.Equal(got, []news{{1, 99}, {2, 7}}) {
		t.Errorf("got %v", got)
	}
	if len(s.Take()) != 0 {
		t.Error("news came twice")
	}
	s.Close()
	h.Tell(1, news{1, 100})
	if len(s.Take()) != 0 {
		t.Error("who listens no more is told")
	}
}
