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
