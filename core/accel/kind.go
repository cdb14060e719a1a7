package accel

import "runtime"

// Kind names what rays are traced with here. Pictures are the same to the bit on
// processors of one kind; between kinds they differ by rounding.
func Kind() string {
	if useSIMD {
		return runtime.GOARCH + " eight wide"
	}
	return runtime.GOARCH + " portable"
}
