package trace

import (
	"context"
	"errors"
	"math"
	"sync"
	"testing"
	"time"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// asked is a context that ends after it was asked so often whether it has, and knows the
// longest time that it was not.
type asked struct {
	context.Context
	mu    sync.Mutex
	left  int
	last  time.Time
	worst time.Duration
}

func (c *asked) Err() error {
	c.mu.Lock()
	defer c.mu.Unlock()
	now := time.Now()
	if !c.last.IsZero() {
		c.worst = max(c.worst, now.Sub(c.last))
	}
	c.last = now
	if c.left--; c.left < 0 {
		return context.Canceled
	}
	return nil
}

// waves is a wavy sheet of n x n quads.
func waves(n int) (m scene.Mesh) {
	for y := range n + 1 {
		for x := range n + 1 {
			u, v := float64(x)/float64(n), float64(y)/float64(n)
			m.Positions = append(m.Positions, geom.V(float32(u), float32(0.05*math.Sin(40*u)*math.Cos(31*v)), float32(v)))
			m.Normals = append(m.Normals, geom.V(0, 1, 0))
		}
	}
	for y := range uint32(n) {
		for x := range uint32(n) {
			a := y*uint32(n+1) + x
			b := a + uint32(n+1)
			m.Indices = append(m.Indices, a, b, b+1, a, b+1, a+1)
		}
	}
	return m
}

// Preparing a large mesh stops wherever it is: it asks often whether it is still wanted,
// and what is not is not gone on with.
func TestPreparationStopsWhereverItIs(t *testing.T) {
	long(t)
	b := newBench(32, 32)
	b.part("sheet", waves(600), b.finish(matte(0.5)))
	b.camera(geom.V(0, 3, 0.001), geom.Vec3{}, 0.4)
	s, o := b.order()
	c := &asked{Context: t.Context(), left: math.MaxInt}
	start := time.Now()
	if _, err := Prepare(c, s, o); err != nil {
		t.Fatal(err)
	}
	all, questions := time.Since(start), math.MaxInt-c.left
	// A machine that is busy elsewhere may hold any one step up: no step is a large share.
	if c.worst > all/3 {
		t.Errorf("of %v it did not ask for %v", all, c.worst)
	}
	if questions < 500 {
		t.Errorf("it asked %d times", questions)
	}
	for _, at := range []int{0, 1, questions / 7, questions / 2, questions - 2} {
		c := &asked{Context: t.Context(), left: at}
		if w, err := Prepare(c, s, o); !errors.Is(err, context.Canceled) || w != nil {
			t.Errorf("cancelled at question %d of %d: %v", at, questions, err)
		}
		// What runs beside each other each asks once more, and so does each caller.
		if more := -c.left; more > 200 {
			t.Errorf("cancelled at question %d of %d it went on for %d more", at, questions, more)
		}
	}
}
