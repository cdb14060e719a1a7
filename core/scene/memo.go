package scene

import "sync"

// mostMade is how many bytes are remembered of what was made of a scene.
const mostMade = 512 << 20

// Memo remembers what was made of a scene's meshes and pictures, so that what is made
// again is the same: what was prepared of it is still good then. It is safe for concurrent
// use; nil remembers nothing.
type Memo struct {
	mu    sync.Mutex
	made  map[any]any
	bytes int64
}

// Once is what make makes under a key, or has made before; size is how many bytes that
// takes. Several that ask at one moment may all make it, and get the same one.
func Once[T any](m *Memo, key any, make func() (made T, size int64)) T {
	if m == nil {
		made, _ := make()
		return made
	}
	if have, ok := m.find(key); ok {
		return have.(T)
	}
	made, size := make()
	return m.keep(key, made, size).(T)
}

func (m *Memo) find(key any) (v any, ok bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	v, ok = m.made[key]
	return v, ok
}

// keep remembers something; where somebody else made it meanwhile, theirs is the one.
func (m *Memo) keep(key, v any, size int64) any {
	m.mu.Lock()
	defer m.mu.Unlock()
	if theirs, ok := m.made[key]; ok {
		return theirs
	}
	if m.made == nil || m.bytes+size > mostMade {
		m.made, m.bytes = map[any]any{}, 0
	}
	m.made[key] = v
	m.bytes += size + 256
	return v
}
