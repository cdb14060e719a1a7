package ticket

import "testing"

// The whole table: what each state becomes when something is wanted of it.
func TestWhatARunBecomesWhenAsked(t *testing.T) {
	states := []State{Queued, Running, Stopping, Delivering, Stopped, Done, Kept, Failed, Cancelled}
	for _, c := range []struct {
		want  Intent
		whole bool
		to    map[State]State // absent: refused
	}{
		{Stop, true, map[State]State{Queued: Stopped, Running: Stopping, Stopping: Stopping}},
		{Keep, true, map[State]State{Running: Stopping, Stopping: Stopping, Queued: Delivering, Stopped: Delivering, Failed: Delivering}},
		{Keep, false, map[State]State{Running: Stopping, Stopping: Stopping}},
		{Cancel, false, map[State]State{Queued: Cancelled, Stopped: Cancelled, Failed: Cancelled, Running: Stopping, Stopping: Stopping}},
		{Resume, false, map[State]State{Stopped: Queued, Failed: Queued, Kept: Queued, Cancelled: Queued}},
		{"dance", true, nil},
	} {
		for _, s := range states {
			got, err := s.Ask(c.want, c.whole)
			want, ok := c.to[s]
			if ok != (err == nil) || ok && got != want || !ok && got != s {
				t.Errorf("%s a run that is %s (whole %v): %s, %v", c.want, s, c.whole, got, err)
			}
		}
	}
	// Without a sample for every pixel, with one, and at its target.
	for i, want := range map[Intent][3]State{
		Stop: {Stopped, Stopped, Delivering}, Keep: {Stopped, Delivering, Delivering}, Cancel: {Cancelled, Cancelled, Cancelled},
		NoIntent: {Stopped, Stopped, Delivering},
	} {
		for k, how := range [][2]bool{{false, false}, {true, false}, {true, true}} {
			if got := i.Ended(how[0], how[1]); got != want[k] {
				t.Errorf("%q ends as %s, want %s (whole, complete %v)", i, got, want[k], how)
			}
		}
	}
}
