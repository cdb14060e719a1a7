// Package cache keeps what is costly to load, within a number of bytes.
package cache

import (
	"container/list"
	"context"
	"sync"

	"amberproof/core/parallel"
)

// Cache keeps the last used values up to a size. Whoever asks for what is being
// loaded waits for that one load. It is safe for concurrent use; values must be.
type Cache[K comparable, V any] struct {
	most int64
	size func(V) int64
	load func(context.Context, K) (V, error)

	mu      sync.Mutex
	bytes   int64
	order   *list.List // of *entry, last used in front
	have    map[K]*list.Element
	loading map[K]*flight[V]
}

type entry[K comparable, V any] struct {
	key   K
	value V
	bytes int64
}

// flight is a load that is under way.
type flight[V any] struct {
	done    chan struct{}
	value   V
	err     error
	waiting int
	cancel  context.CancelFunc
	stale   bool // dropped while it was loaded: not to be kept
}

// New makes a cache of at most so many bytes, by what size says of a value. load
// gets a context that ends when nobody waits for it any more. What is larger than
// the whole cache is handed out and not kept.
func New[K comparable, V any](most int64, size func(V) int64, load func(context.Context, K) (V, error)) *Cache[K, V] {
	return &Cache[K, V]{most: most, size: size, load: load, order: list.New(), have: map[K]*list.Element{}, loading: map[K]*flight[V]{}}
}

// Get returns the value of a key, loaded if need be. It gives up with the
// context's error; the load goes on for as long as somebody else waits.
func (c *Cache[K, V]) Get(ctx context.Context, k K) (V, error) {
	c.mu.Lock()
	if e, ok := c.have[k]; ok {
		c.order.MoveToFront(e)
		v := e.Value.(*entry[K, V]).value
		c.mu.Unlock()
		return v, nil
	}
	f, ok := c.loading[k]
	if !ok {
		mine, cancel := context.WithCancel(context.WithoutCancel(ctx))
		f = &flight[V]{done: make(chan struct{}), cancel: cancel}
		c.loading[k] = f
		go c.fly(mine, k, f)
	}
	f.waiting++
	c.mu.Unlock()
	select {
	case <-f.done:
		return f.value, f.err
	case <-ctx.Done():
		c.mu.Lock()
		defer c.mu.Unlock()
		if f.waiting--; f.waiting == 0 {
			f.cancel()
			if c.loading[k] == f { // who asks now must not get the cancelled load
				delete(c.loading, k)
			}
		}
		var none V
		return none, ctx.Err()
	}
}

func (c *Cache[K, V]) fly(ctx context.Context, k K, f *flight[V]) {
	f.value, f.err = c.safely(ctx, k)
	f.cancel()
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.loading[k] == f {
		delete(c.loading, k)
		if f.err == nil && !f.stale {
			c.add(k, f.value)
		}
	}
	close(f.done)
}

// safely loads; a panic is the error of those who wait.
func (c *Cache[K, V]) safely(ctx context.Context, k K) (v V, err error) {
	defer parallel.Catch(&err)
	return c.load(ctx, k)
}

// Peek returns the value of a key if it is there.
func (c *Cache[K, V]) Peek(k K) (v V, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	e, ok := c.have[k]
	if ok {
		c.order.MoveToFront(e)
		v = e.Value.(*entry[K, V]).value
	}
	return v, ok
}

// Put keeps a value that was made elsewhere.
func (c *Cache[K, V]) Put(k K, v V) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.remove(k)
	c.add(k, v)
}

// Drop forgets a key; a load that is under way is not kept.
func (c *Cache[K, V]) Drop(k K) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.remove(k)
	if f := c.loading[k]; f != nil {
		f.stale = true
	}
}

// DropAll forgets all keys that which picks, as Drop does.
func (c *Cache[K, V]) DropAll(which func(K) bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for k := range c.have {
		if which(k) {
			c.remove(k)
		}
	}
	for k, f := range c.loading {
		if which(k) {
			f.stale = true
		}
	}
}

// Bytes is what the cache holds.
func (c *Cache[K, V]) Bytes() int64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.bytes
}

func (c *Cache[K, V]) add(k K, v V) {
	n := c.size(v)
	if n > c.most {
		return
	}
	c.have[k] = c.order.PushFront(&entry[K, V]{k, v, n})
	for c.bytes += n; c.bytes > c.most; {
		c.remove(c.order.Back().Value.(*entry[K, V]).key)
	}
}

func (c *Cache[K, V]) remove(k K) {
	if e, ok := c.have[k]; ok {
		c.bytes -= e.Value.(*entry[K, V]).bytes
		c.order.Remove(e)
		delete(c.have, k)
	}
}
