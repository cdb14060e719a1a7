// Package fault holds the errors that every use case answers with, so that
// whoever speaks to people (the HTTP interface, the command line) can tell what
// is theirs to mend from what is ours.
package fault

import (
	"errors"
	"fmt"
	"math"
	"time"
)

// Errors of use cases; decide with errors.Is.
var (
	ErrNotFound  = errors.New("not found")
	ErrTaken     = errors.New("the name is taken")
	ErrChanged   = errors.New("it was changed elsewhere in the meantime")
	ErrState     = errors.New("its state does not allow that")
	ErrForbidden = errors.New("not allowed")
	ErrSignedOut = errors.New("sign in first")
	ErrBusy      = errors.New("too much is asked at once; try again in a moment")
)

// Fault is one thing wrong with what a person gave, at its path in that.
type Fault struct {
	Path    string `json:"path"`
	Message string `json:"message"`
}

// At makes a Fault.
func At(path, message string) Fault { return Fault{path, message} }

func (f Fault) String() string { return f.Path + ": " + f.Message }

// Input is something wrong with what a person gave, in words for them. Nothing
// was changed.
type Input struct {
	Message string
	Faults  []Fault // by setting, where it is a ticket
}

func (e *Input) Error() string { return e.Message }

// Slow says that somebody has tried too often, and for how long to wait.
type Slow struct{ Wait time.Duration }

func (e *Slow) Error() string {
	return fmt.Sprintf("too many tries; wait %d seconds and try again", int(math.Ceil(e.Wait.Seconds())))
}

// Bad makes an Input of a sentence that says what is wrong and what to do.
func Bad(format string, a ...any) error { return &Input{Message: fmt.Sprintf(format, a...)} }

// Ticket makes an Input of the faults of a ticket.
func Ticket(faults []Fault) error { return &Input{"The ticket has faults", faults} }
