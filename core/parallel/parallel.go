// Package parallel starts all goroutines of the core. A panic in one of them does not end
// the program: whoever waits for it gets it as an error, with the stack where it was raised.
package parallel

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"
	"sync"
	"sync/atomic"
)

// Panic is a programming error in a goroutine.
type Panic struct {
	What  string
	Stack string // of the goroutine it was raised in
}

func (p *Panic) Error() string {
	return "a programming error: " + p.What + "; the server's log has the details"
}

// ended is what Check panics with: work is given up because its context has ended.
type ended struct{ error }

// checked is how many steps of a loop are done between two looks at its context: some
// tenths of a millisecond.
const checked = 1 << 12

// Check gives up the work of the calling goroutine once its context has ended, by a panic
// that Catch and Group turn into the context's error. It is for long loops deep inside of
// what is computed, which call it with the number k of their step.
func Check(ctx context.Context, k int) {
	if k%checked != 0 {
		return
	}
	if err := ctx.Err(); err != nil {
		panic(ended{err})
	}
}

// caught is a recovered value as an error: that of an ended context, or a *Panic. One that
// was handed on keeps its stack.
func caught(v any) error {
	switch v := v.(type) {
	case ended:
		return v.error
	case *Panic:
		return v
	}
	return &Panic{fmt.Sprint(v), string(debug.Stack())}
}

// Catch turns a panic of the function that defers it into the error it returns; where Check
// gave up, that is the context's.
func Catch(err *error) {
	if v := recover(); v != nil {
		*err = caught(v)
	}
}

// Group waits for goroutines. The zero Group is ready; it must not be copied. The core
// has one from Scope only.
type Group struct {
	wg    sync.WaitGroup
	first atomic.Pointer[error]
}

// Go starts a goroutine.
func (g *Group) Go(f func()) {
	g.wg.Go(func() {
		g.guarded(func() {
			if probe := started.Load(); probe != nil {
				(*probe)()
			}
			f()
		})
	})
}

// guarded calls f and keeps its panic if it is the first.
func (g *Group) guarded(f func()) {
	defer func() {
		if v := recover(); v != nil {
			err := caught(v)
			g.first.CompareAndSwap(nil, &err)
		}
	}()
	f()
}

// Wait waits for all and returns the first panic, a *Panic, the error of an ended
// context where Check gave up, or nil.
func (g *Group) Wait() error {
	g.wg.Wait()
	if err := g.first.Load(); err != nil {
		return *err
	}
	return nil
}

// Scope calls f, which starts goroutines by its group, and waits for all of them, also
// where f itself panics: none may outlive what it works on. It returns what Wait does.
func Scope(f func(g *Group)) error {
	var g Group
	g.guarded(func() { f(&g) })
	return g.Wait()
}

// MustScope is Scope for functions that return no error: a panic goes on in this goroutine.
func MustScope(f func(g *Group)) { goOn(Scope(f)) }

// Join is Wait for functions that return no error: the panic goes on in this goroutine.
func (g *Group) Join() { goOn(g.Wait()) }

// goOn has an error that Wait returned go on as a panic in this goroutine.
func goOn(err error) {
	switch err := err.(type) {
	case nil:
	case *Panic:
		panic(err)
	default:
		panic(ended{err})
	}
}

// Workers runs f in n goroutines, numbered from 0, and waits for them.
func Workers(n int, f func(worker int)) error {
	return Scope(func(g *Group) {
		for k := range n {
			g.Go(func() { f(k) })
		}
	})
}

// Ranges calls f for [from, to) until 0 to n-1 are covered, pieces at a time, on all cores.
func Ranges(n, piece int, f func(from, to int)) error {
	var next atomic.Int64
	return Workers(min(runtime.GOMAXPROCS(0), (n+piece-1)/piece), func(int) {
		for {
			to := int(next.Add(int64(piece)))
			if to-piece >= n {
				return
			}
			f(to-piece, min(to, n))
		}
	})
}

// MustRanges is Ranges for functions that return no error: a panic goes on in this goroutine.
func MustRanges(n, piece int, f func(from, to int)) {
	goOn(Ranges(n, piece, f))
}

// started is what tests have called at the start of each goroutine.
var started atomic.Pointer[func()]

// OnStart has f called at the start of each goroutine from now on, to find out what
// happens where it panics; nil: nothing. For tests only.
func OnStart(f func()) {
	if f == nil {
		started.Store(nil)
		return
	}
	started.Store(&f)
}
