// Package farm hands units of work to workers and gathers what they send back.
// A Pool is where the workers are: Local is the one in this process.
package farm

import (
	"context"
	"time"

	"amberproof/core/film"
	"amberproof/core/trace"
	"amberproof/internal/ticket"
)

// Picture says what a worker must hold to do units of a picture, so that what it
// sends back is the same to the bit as from any other.
type Picture struct {
	Film      string // identity of the film, see ticket.Resolved.FilmKey
	Frame     int
	Revision  int          // of the renderer, trace.Revision
	Processor string       // kind, accel.Kind
	Needs     ticket.Needs // scene, set-up and pictures, by checksum
	Layout    film.Layout  // of the film
}

// Task is a piece of work that is given to a worker for a while: a unit of the
// film, or some pixels of its sketch.
type Task struct {
	Lease   int64 // tells answers to this giving out from answers to an earlier one
	Picture Picture
	Unit    trace.Unit
	Sketch  *Span // set for a piece of the sketch instead of a unit
}

// Span is a range of pixels of a sketch.
type Span struct{ From, To int }

// Result answers a task.
type Result struct {
	Task
	Patch  *film.Patch  // of a unit
	Pixels *film.Sketch // of a span: a sketch in which only those are computed
	Err    error        // the work was lost and can be given out again
}

// Pool does tasks of one picture. One goroutine gives tasks and takes results.
type Pool interface {
	// Picture is what the pool was opened for.
	Picture() Picture
	// Room is how many tasks may be out at a time.
	Room() int
	// Lease is for how long a task is given; one that is not answered by then is
	// given out again. 0 is for ever.
	Lease() time.Duration
	// Give hands a task out. It does not block while no more than Room are out.
	Give(Task)
	// Results brings the answers, in any order.
	Results() <-chan Result
	// Close ends the workers and waits for them. What is out is lost.
	Close()
}

// Opener opens a pool for a picture that is ready to be traced. Its workers end
// when ctx does.
type Opener func(ctx context.Context, w *trace.World, f *film.Film, p Picture) Pool
