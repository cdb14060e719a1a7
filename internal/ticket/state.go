package ticket

import "fmt"

// State is where a run stands.
type State string

// A run waits, renders, and writes its files; it can be stopped on the way and
// resumed from there.
const (
	Queued     State = "queued"
	Running    State = "running"
	Stopping   State = "stopping"   // was asked to stop; its intent says what for
	Delivering State = "delivering" // writes its files
	Stopped    State = "stopped"    // can be resumed or kept
	Done       State = "done"       // delivered at its target
	Kept       State = "kept"       // delivered before its target
	Failed     State = "failed"
	Cancelled  State = "cancelled" // given up; its samples are thrown away
)

// Going tells whether somebody works on a run in this state.
func (s State) Going() bool { return s == Running || s == Stopping || s == Delivering }

// Intent is what somebody wants of a run.
type Intent string

// The intents. A run that is being stopped remembers its own.
const (
	NoIntent Intent = ""
	Stop     Intent = "stop"   // go on later
	Keep     Intent = "keep"   // deliver what is there
	Cancel   Intent = "cancel" // throw away what is there
	Resume   Intent = "resume" // go on where it was
)

// Ask tells which state a run goes to at once when somebody wants something of
// it; whole says that every pixel has a sample. The error says why not.
func (s State) Ask(want Intent, whole bool) (State, error) {
	switch want {
	case Stop:
		switch s {
		case Queued:
			return Stopped, nil
		case Running, Stopping:
			return Stopping, nil
		}
	case Keep:
		switch s {
		case Running, Stopping:
			return Stopping, nil
		case Queued, Stopped, Failed:
			if !whole {
				return s, fmt.Errorf("the run is %s and has not a sample for every pixel yet; only then can it be kept", s)
			}
			return Delivering, nil
		}
	case Cancel:
		switch s {
		case Queued, Stopped, Failed:
			return Cancelled, nil
		case Running, Stopping:
			return Stopping, nil
		}
	case Resume:
		switch s {
		case Stopped, Failed, Kept, Cancelled:
			return Queued, nil
		}
	}
	return s, fmt.Errorf("the run is %s; it cannot be asked to %s", s, want)
}

// Ended tells which state a run goes to that has ended, by itself or stopped for a
// reason: whole says that every pixel has a sample, complete that it is at its target.
// What is complete in the moment it is stopped is delivered, but for what was to be
// thrown away.
func (i Intent) Ended(whole, complete bool) State {
	switch {
	case i == Cancel:
		return Cancelled
	case complete || i == Keep && whole:
		return Delivering
	}
	return Stopped
}

// MostAttempts is how often a run may be begun without coming to an orderly end
// before it is given up.
const MostAttempts = 3
