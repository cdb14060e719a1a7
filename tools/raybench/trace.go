package main

import (
	"context"
	"errors"
	"math"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/sys/unix"

	"amberproof/core/accel"
	"amberproof/core/geom"
)

func build(tris []accel.Triangle) (*accel.BVH, float64) {
	start := time.Now()
	b, err := accel.Build(context.Background(), tris)
	if err != nil {
		panic(err) // nobody cancels it
	}
	return b, float64(time.Since(start).Microseconds()) / 1000
}

type timing struct{ cpu, wall time.Duration }

// stretch is how many rays a thread takes at a time: some of a picture's rays
// cost far more than others, and no thread must wait for another.
const stretch = 512

// trace answers every ray. Each thread counts its own processor time.
func trace(b *accel.BVH, rays []geom.Ray, out []answer, anyHit bool, threads int) (timing, error) {
	var wg sync.WaitGroup
	spent := make([]time.Duration, threads)
	errs := make([]error, threads)
	runtime.GC() // not in the middle
	var next atomic.Int64
	start := time.Now()
	for k := range threads {
		wg.Go(func() {
			runtime.LockOSThread()
			defer runtime.UnlockOSThread()
			s := accel.NewStack(b)
			from, err := threadTime()
			for {
				first := int(next.Add(stretch)) - stretch
				if first >= len(rays) {
					break
				}
				end := min(first+stretch, len(rays))
				if anyHit {
					blocked(b, s, rays[first:end], out[first:end])
				} else {
					closest(b, s, rays[first:end], out[first:end])
				}
			}
			to, err2 := threadTime()
			spent[k], errs[k] = to-from, errors.Join(err, err2)
		})
	}
	wg.Wait()
	t := timing{wall: time.Since(start)}
	for _, d := range spent {
		t.cpu += d
	}
	return t, errors.Join(errs...)
}

func closest(b *accel.BVH, s *accel.Stack, rays []geom.Ray, out []answer) {
	for i := range rays {
		out[i] = answer{float32(math.Inf(1)), missed}
		if h, ok := b.Closest(s, &rays[i]); ok {
			out[i] = answer{h.T, h.Prim}
		}
	}
}

func blocked(b *accel.BVH, s *accel.Stack, rays []geom.Ray, out []answer) {
	for i := range rays {
		out[i] = answer{float32(math.Inf(1)), missed}
		if b.Blocked(s, &rays[i]) {
			out[i].t = 0
		}
	}
}

func threadTime() (time.Duration, error) {
	var ts unix.Timespec
	err := unix.ClockGettime(unix.CLOCK_THREAD_CPUTIME_ID, &ts)
	return time.Duration(ts.Nano()), err
}
