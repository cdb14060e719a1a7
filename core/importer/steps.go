package importer

import "context"

// Step names what an import is at.
type Step string

const (
	Finishes Step = "finishes" // with their pictures
	Shapes   Step = "shapes"
	Finer    Step = "finer" // directions that pictures on surfaces need, and checks
)

type watching struct{}

// Watched is a context in which an import tells which step it is at, and the share of it
// that is done, from 0 to 1. It is told by one goroutine, and often: the one who watches
// must be quick.
func Watched(ctx context.Context, watch func(step Step, share float64)) context.Context {
	return context.WithValue(ctx, watching{}, watch)
}

// tell tells whoever watches an import.
func tell(ctx context.Context, step Step, done, of int) {
	if watch, ok := ctx.Value(watching{}).(func(Step, float64)); ok {
		watch(step, float64(done)/float64(max(of, 1)))
	}
}
