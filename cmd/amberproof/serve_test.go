package main

import (
	"math"
	"runtime/debug"
	"testing"

	"amberproof/internal/pipeline"
)

// Go's memory limit is what was free when the server was started.
func TestTheCollectorKnowsWhatIsFree(t *testing.T) {
	was := debug.SetMemoryLimit(math.MaxInt64)
	t.Cleanup(func() { debug.SetMemoryLimit(was) })
	limitMemory()
	limit, free := debug.SetMemoryLimit(-1), pipeline.Available()
	if limit < free/2 || limit > 2*free { // others may have taken or given back some meanwhile
		t.Errorf("the limit is %d MB, %d MB are free", limit>>20, free>>20)
	}
}

// Nothing listens beyond loopback without saying under which name, and that over TLS.
func TestWhereItIsReached(t *testing.T) {
	for _, c := range []struct {
		listen, site string
		fine         bool
	}{
		{"127.0.0.1", "", true}, {"::1", "", true}, {"0.0.0.0", "", false}, {"192.0.2.7", "", false}, {"localhost", "", false},
		{"127.0.0.1", "https://proof.studio.example", true}, {"0.0.0.0", "https://proof.studio.example:8443/", true},
		{"127.0.0.1", "http://proof.studio.example", false}, {"127.0.0.1", "proof.studio.example", false},
		{"127.0.0.1", "https://proof.studio.example/path", false}, {"127.0.0.1", "https://me@proof.studio.example", false},
	} {
		if u, err := reachable(c.listen, c.site); (err == nil) != c.fine || (u != nil) != (c.fine && c.site != "") {
			t.Errorf("%q %q: %v %v", c.listen, c.site, u, err)
		}
	}
}
