package job

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
	for i, want := range map[Intent][2]State{Stop: {Stopped, Stopped}, Keep: {Stopped, Delivering}, Cancel: {Cancelled, Cancelled}, NoIntent: {Stopped, Stopped}} {
		if i.Ended(false) != want[0] || i.Ended(true) != want[1] {
			t.Errorf("%q ends as %s and %s", i, i.Ended(false), i.Ended(true))
		}
	}
}
