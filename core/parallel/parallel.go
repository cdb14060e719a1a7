// Package parallel starts all goroutines of the core. A panic in one of them does not end
// the program: whoever waits for it gets it as an error, with the stack where it was met.
package parallel

import (
	"fmt"
	"runtime"
	"runtime/debug"
	"sync"
	"sync/atomic"
)

// Panic is a programming error that was met in a goroutine.
type Panic struct {
	What  string
	Stack string // of the goroutine that met it
}

func (p *Panic) Error() string {
	return "a programming error: " + p.What + "; the server's log has the details"
}

// caught is a recovered value as a *Panic; one that was handed on keeps its stack.
func caught(v any) *Panic {
	if p, ok := v.(*Panic); ok {
		return p
	}
	return &Panic{fmt.Sprint(v), string(debug.Stack())}
}

// Catch turns a panic of the function that defers it into the error it returns.
func Catch(err *error) {
	if v := recover(); v != nil {
		*err = caught(v)
	}
}

// Group waits for goroutines. The zero Group is ready; it must not be copied.
type Group struct {
	wg    sync.WaitGroup
	first atomic.Pointer[Panic]
}

// Go starts a goroutine.
func (g *Group) Go(f func()) {
	g.wg.Go(func() {
		defer func() {
			if v := recover(); v != nil {
				g.first.CompareAndSwap(nil, caught(v))
			}
		}()
		if probe := started.Load(); probe != nil {
			(*probe)()
		}
		f()
	})
}

// Wait waits for all and returns the first panic met, a *Panic, or nil.
func (g *Group) Wait() error {
	g.wg.Wait()
	if p := g.first.Load(); p != nil {
		return p
	}
	return nil
}

// Join is Wait for functions that return no error: the panic goes on in this goroutine.
func (g *Group) Join() {
	if err := g.Wait(); err != nil {
		panic(err)
	}
}

// Workers runs f in n goroutines, numbered from 0, and waits for them.
func Workers(n int, f func(worker int)) error {
	var g Group
	for k := range n {
		g.Go(func() { f(k) })
	}
	return g.Wait()
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
	if err := Ranges(n, piece, f); err != nil {
		panic(err)
	}
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
