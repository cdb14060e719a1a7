package cache

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"
)

func TestTheLastUsedStayWithinTheBytes(t *testing.T) {
	loads := map[int]int{}
	c := New(25, func(int) int64 { return 10 }, func(_ context.Context, k int) (int, error) {
		loads[k]++
		if k == 9 {
			return 0, errors.New("gone")
		}
		return k * 10, nil
	})
	for _, k := range []int{1, 2, 1, 3, 1, 2} { // 3 pushes 2 out, 2 pushes 3 out
		if v, err := c.Get(t.Context(), k); err != nil || v != k*10 {
			t.Fatalf("%d: %v %v", k, v, err)
		}
	}
	if loads[1] != 1 || loads[2] != 2 || loads[3] != 1 || c.Bytes() != 20 {
		t.Errorf("loads %v, %d bytes", loads, c.Bytes())
	}
	for range 2 {
		if _, err := c.Get(t.Context(), 9); err == nil {
			t.Fatal("no error")
		}
	}
	if loads[9] != 2 {
		t.Error("a failure was kept")
	}
	c.Drop(1)
	_, _ = c.Get(t.Context(), 1)
	if loads[1] != 2 {
		t.Error("what was dropped was not loaded again")
	}
	c.Put(2, 7)
	if v, _ := c.Get(t.Context(), 2); v != 7 || c.Bytes() != 20 {
		t.Errorf("put: %d, %d bytes", v, c.Bytes())
	}
}

func TestWhatIsLargerThanTheCacheIsNotKept(t *testing.T) {
	c := New(5, func(int) int64 { return 10 }, func(context.Context, int) (int, error) { return 1, nil })
	if v, err := c.Get(t.Context(), 1); v != 1 || err != nil || c.Bytes() != 0 {
		t.Errorf("%d %v, %d bytes", v, err, c.Bytes())
	}
}

func TestOneLoadForAllWhoAsk(t *testing.T) {
	var loads atomic.Int64
	gate := make(chan struct{})
	c := New(100, func(int) int64 { return 1 }, func(context.Context, int) (int, error) {
		loads.Add(1)
		<-gate
		return 5, nil
	})
	var wg sync.WaitGroup
	for range 50 {
		wg.Go(func() {
			if v, err := c.Get(t.Context(), 1); v != 5 || err != nil {
				t.Errorf("%d %v", v, err)
			}
		})
	}
	for loads.Load() == 0 {
		time.Sleep(time.Millisecond)
	}
	close(gate)
	wg.Wait()
	if loads.Load() != 1 {
		t.Errorf("%d loads", loads.Load())
	}
}

// A load that nobody waits for any more is cancelled, and who comes later gets
// one of their own.
func TestALoadEndsWithTheLastWhoWaits(t *testing.T) {
	started, ended := make(chan struct{}, 4), make(chan error, 4)
	var quick atomic.Bool
	c := New(100, func(int) int64 { return 1 }, func(ctx context.Context, _ int) (int, error) {
		if quick.Load() {
			return 3, nil
		}
		started <- struct{}{}
		<-ctx.Done()
		ended <- ctx.Err()
		return 0, ctx.Err()
	})
	ctx, cancel := context.WithCancel(t.Context())
	other, cancelOther := context.WithCancel(t.Context())
	var wg sync.WaitGroup
	for _, x := range []context.Context{ctx, other} {
		wg.Go(func() {
			if _, err := c.Get(x, 1); !errors.Is(err, context.Canceled) {
				t.Errorf("got %v", err)
			}
		})
	}
	<-started
	for { // until both wait
		c.mu.Lock()
		n := c.loading[1].waiting
		c.mu.Unlock()
		if n == 2 {
			break
		}
		time.Sleep(time.Millisecond)
	}
	cancel()
	select {
	case <-ended:
		t.Error("cancelled while somebody waited")
	case <-time.After(20 * time.Millisecond):
	}
	cancelOther()
	<-ended
	wg.Wait()
	quick.Store(true)
	if v, err := c.Get(t.Context(), 1); v != 3 || err != nil {
		t.Errorf("afterwards: %d %v", v, err)
	}
}

func TestWhatIsDroppedWhileItLoadsIsNotKept(t *testing.T) {
	gate := make(chan struct{})
	n := 0
	c := New(100, func(int) int64 { return 1 }, func(context.Context, int) (int, error) {
		n++
		<-gate
		return n, nil
	})
	got := make(chan int)
	go func() { v, _ := c.Get(t.Context(), 1); got <- v }()
	for {
		c.mu.Lock()
		going := c.loading[1] != nil
		c.mu.Unlock()
		if going {
			break
		}
		time.Sleep(time.Millisecond)
	}
	c.Drop(1)
	close(gate)
	if v := <-got; v != 1 {
		t.Errorf("got %d", v)
	}
	if v, _ := c.Get(t.Context(), 1); v != 2 {
		t.Errorf("the stale value %d was kept", v)
	}
}
