// Package hub hands news to whoever listens. A slow listener misses some, never the newest of
// each thing.
package hub

import "sync"

// Hub hands on news of things, each of which has a number. The zero Hub is ready.
type Hub[E any] struct {
	mu   sync.Mutex
	subs map[*Subscription[E]]bool
}

// Subscription receives news; Close it when done.
type Subscription[E any] struct {
	hub     *Hub[E]
	sees    func(*E) bool
	wake    chan struct{}
	pending map[int64]E
}

// Subscribe starts listening to what a listener may see.
func (h *Hub[E]) Subscribe(sees func(*E) bool) *Subscription[E] {
	h.mu.Lock()
	defer h.mu.Unlock()
	s := &Subscription[E]{hub: h, sees: sees, wake: make(chan struct{}, 1), pending: map[int64]E{}}
	if h.subs == nil {
		h.subs = map[*Subscription[E]]bool{}
	}
	h.subs[s] = true
	return s
}

// Tell hands on news of a thing.
func (h *Hub[E]) Tell(thing int64, e E) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for s := range h.subs {
		if !s.sees(&e) {
			continue
		}
		s.pending[thing] = e
		select {
		case s.wake <- struct{}{}:
		default:
		}
	}
}

// Close stops listening.
func (s *Subscription[E]) Close() {
	s.hub.mu.Lock()
	defer s.hub.mu.Unlock()
	delete(s.hub.subs, s)
}

// Wake is signalled when Take has something.
func (s *Subscription[E]) Wake() <-chan struct{} { return s.wake }

// Take returns what came since the last call, the newest of each thing.
func (s *Subscription[E]) Take() []E {
	s.hub.mu.Lock()
	defer s.hub.mu.Unlock()
	out := make([]E, 0, len(s.pending))
	for _, e := range s.pending {
		out = append(out, e)
	}
	clear(s.pending)
	return out
}
