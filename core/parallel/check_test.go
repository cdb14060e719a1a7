package parallel_test

import (
	"context"
	"errors"
	"math"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"amberproof/core/geom"
	"amberproof/core/lights"
	"amberproof/core/parallel"
	"amberproof/core/scene"
)

// countdown is a context that ends once it was asked a number of times.
type countdown struct {
	context.Context
	left, asked atomic.Int64
}

func (c *countdown) Err() error {
	c.asked.Add(1)
	if c.left.Add(-1) < 0 {
		return context.Canceled
	}
	return nil
}

// sheet is a wavy sheet of 2 n n triangles, with a picture laid over it.
func sheet(n int) *scene.Mesh {
	m := &scene.Mesh{}
	for y := range n + 1 {
		for x := range n + 1 {
			m.Positions = append(m.Positions, geom.V(float32(x), float32(math.Sin(float64(x*y))), float32(y)))
			m.UV[0] = append(m.UV[0], [2]float32{float32(x), float32(y)})
			if i := uint32(y*(n+1) + x); x < n && y < n {
				k := i + uint32(n) + 1
				m.Indices = append(m.Indices, i, k, i+1, i+1, k, k+1)
			}
		}
	}
	return m
}

// What takes long with a mesh or a picture gives up wherever it is: it looks at its context
// at least once in so many triangles or rows, and does not go on once that has ended.
func TestLongWorkGivesUpAnywhere(t *testing.T) {
	const n = 128
	m := sheet(n)
	smooth := *m
	smooth.Shaping = scene.Shaping{Levels: 1, Crease: 1}
	small := sheet(n / 4)
	apart := *small // every triangle by itself: all its sides are borders
	apart.Positions, apart.UV[0], apart.Indices = nil, nil, nil
	for k, i := range small.Indices {
		apart.Positions, apart.Indices = append(apart.Positions, small.Positions[i].Add(geom.V(0, float32(k/3), 0))), append(apart.Indices, uint32(k))
	}
	normal := *m
	normal.AddNormals(t.Context(), 1)
	pix := make([]float32, 512*256*3)
	for i := range pix {
		pix[i] = float32(i % 7)
	}
	top := scene.Cut{At: m.Positions[0], By: scene.ByAngle, Angle: 0.5}
	for name, c := range map[string]struct {
		least int64 // looks at the context
		do    func(ctx context.Context)
	}{
		"subdividing":       {60, func(ctx context.Context) { smooth.Shaped(ctx) }},
		"normals":           {40, func(ctx context.Context) { o := *m; o.AddNormals(ctx, 1) }},
		"tangents":          {8, func(ctx context.Context) { o := normal; o.AddTangents(ctx, 0) }},
		"edges":             {20, func(ctx context.Context) { m.Edges(ctx, 0.5, nil) }},
		"borders":           {n * n / 16, func(ctx context.Context) { apart.Edges(ctx, 0.5, nil) }},
		"a set of faces":    {30, func(ctx context.Context) { top.Parts(ctx, nil, m) }},
		"boxes around it":   {8, func(ctx context.Context) { m.BoxUV(ctx, 1) }},
		"a sampled picture": {1000, func(ctx context.Context) { lights.Picture(ctx, 512, 256, pix, 0, 1) }},
	} {
		t.Run(name, func(t *testing.T) {
			looks := func(most int64) (int64, error) {
				ctx := &countdown{Context: context.Background()}
				ctx.left.Store(most)
				var g parallel.Group
				g.Go(func() { c.do(ctx) })
				err := g.Wait()
				return ctx.asked.Load(), err
			}
			all, err := looks(math.MaxInt64)
			if err != nil || all < c.least {
				t.Fatalf("it looks at its context %d times, not %d: %v", all, c.least, err)
			}
			for _, at := range []int64{0, 1, all / 3, all / 2, all - 1} {
				// Workers side by side may each look once more.
				if n, err := looks(at); !errors.Is(err, context.Canceled) || n > at+64 {
					t.Errorf("ended after %d of %d looks, it looked %d times: %v", at, all, n, err)
				}
			}
		})
	}
}

// A mesh that was given up is not remembered as made.
func TestWhatWasGivenUpIsNotKept(t *testing.T) {
	memo := &scene.Memo{}
	ended, end := context.WithCancel(t.Context())
	end()
	make := func(ctx context.Context) (n int, err error) {
		defer parallel.Catch(&err)
		return scene.Once(memo, "edges", func() (int, int64) { return len(sheet(8).Edges(ctx, 0.5, nil)), 8 }), nil
	}
	if _, err := make(ended); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
	if n, err := make(t.Context()); n == 0 || err != nil {
		t.Error(n, err)
	}
}

// watched is a context that keeps the longest time between two looks at it.
type watched struct {
	context.Context
	mu    sync.Mutex
	last  time.Time
	worst time.Duration
}

func (w *watched) Err() error {
	w.mu.Lock()
	defer w.mu.Unlock()
	now := time.Now()
	w.worst, w.last = max(w.worst, now.Sub(w.last)), now
	return nil
}

// How long work of a million triangles, or of a picture of 8192 x 4096, may go on after its
// context has ended: the longest time between two looks, milliseconds.
func BenchmarkGivingUp(b *testing.B) {
	m := sheet(700)
	smooth, normal := *m, *m
	smooth.Shaping = scene.Shaping{Levels: 2, Crease: 1}
	normal.AddNormals(b.Context(), 1)
	pix := make([]float32, 8192*4096*3)
	for i := range pix {
		pix[i] = float32(i % 7)
	}
	for name, do := range map[string]func(ctx context.Context){
		"Subdividing": func(ctx context.Context) { smooth.Shaped(ctx) },
		"Normals":     func(ctx context.Context) { o := *m; o.AddNormals(ctx, 1) },
		"Tangents":    func(ctx context.Context) { o := normal; o.AddTangents(ctx, 0) },
		"Edges":       func(ctx context.Context) { m.Edges(ctx, 0.5, nil) },
		"Sets":        func(ctx context.Context) { scene.Cut{By: scene.ByAngle, Angle: 0.5}.Parts(ctx, nil, m) },
		"Boxes":       func(ctx context.Context) { m.BoxUV(ctx, 1) },
		"Picture":     func(ctx context.Context) { lights.Picture(ctx, 8192, 4096, pix, 0, 1) },
	} {
		b.Run(name, func(b *testing.B) {
			var worst time.Duration
			for b.Loop() {
				w := &watched{Context: context.Background(), last: time.Now()}
				do(w)
				worst = max(worst, w.worst, time.Since(w.last))
			}
			b.ReportMetric(worst.Seconds()*1000, "ms-between-looks")
		})
	}
}
