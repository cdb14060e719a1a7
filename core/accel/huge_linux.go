package accel

import "golang.org/x/sys/unix"

// huge asks for huge pages for a stretch of still untouched ones. A refusal
// costs only speed.
func huge(b []byte) { _ = unix.Madvise(b, unix.MADV_HUGEPAGE) }
