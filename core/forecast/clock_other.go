//go:build !linux

package forecast

import "time"

// working counts the time on the wall, where there is no clock of a thread's own.
func working() (spent func() time.Duration, done func()) {
	began := time.Now()
	return func() time.Duration { return time.Since(began) }, func() {}
}
