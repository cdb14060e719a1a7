package secrets

import (
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"

	"amberproof/internal/fault"
)

// How often a password may be tried: some at once, then one in a while. An address may stand
// for a whole studio.
const (
	nameAtOnce, nameEvery       = 8, 20 * time.Second
	addressAtOnce, addressEvery = 40, 2 * time.Second
	mostKnown                   = 20000 // names and addresses that are remembered
)

// Tries counts what is tried by name and by address. Those that tried longest ago are
// forgotten where there are too many. It is safe for concurrent use.
type Tries struct {
	mu               sync.Mutex
	names, addresses *lru.Cache[string, *rate.Limiter]
}

// NewTries counts from nothing.
func NewTries() *Tries {
	names, _ := lru.New[string, *rate.Limiter](mostKnown) // it only fails for sizes under 1
	addresses, _ := lru.New[string, *rate.Limiter](mostKnown)
	return &Tries{names: names, addresses: addresses}
}

// Allow counts a try; a fault.Slow says that there were too many, and for how long to wait.
func (t *Tries) Allow(address, name string) error {
	t.mu.Lock()
	defer t.mu.Unlock()
	a, n := of(t.addresses, address, addressEvery, addressAtOnce), of(t.names, name, nameEvery, nameAtOnce)
	now := time.Now()
	for _, l := range [...]*rate.Limiter{a, n} {
		if has := l.TokensAt(now); has < 1 {
			return &fault.Slow{Wait: time.Duration((1 - has) / float64(l.Limit()) * float64(time.Second))}
		}
	}
	a.AllowN(now, 1)
	n.AllowN(now, 1)
	return nil
}

func of(c *lru.Cache[string, *rate.Limiter], key string, every time.Duration, atOnce int) *rate.Limiter {
	l, ok := c.Get(key)
	if !ok {
		l = rate.NewLimiter(rate.Every(every), atOnce)
		c.Add(key, l)
	}
	return l
}

// Forget lets a name try anew: its password was right.
func (t *Tries) Forget(name string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.names.Remove(name)
}
