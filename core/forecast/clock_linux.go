package forecast

import (
	"runtime"
	"time"

	"golang.org/x/sys/unix"
)

// working starts to count the processor time of the calling goroutine, which keeps its thread
// until it has called done. Processor time, other than that of a clock on the wall, is the same
// beside other work.
func working() (spent func() time.Duration, done func()) {
	runtime.LockOSThread()
	now := func() time.Duration {
		var t unix.Timespec
		_ = unix.ClockGettime(unix.CLOCK_THREAD_CPUTIME_ID, &t) // a clock that every Linux has
		return time.Duration(t.Nano())
	}
	began := now()
	return func() time.Duration { return now() - began }, runtime.UnlockOSThread
}
