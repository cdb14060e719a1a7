package accel

import (
	"unsafe"

	"golang.org/x/sys/unix"
)

// huge asks for huge pages for the interior of a large, still untouched slice:
// rays jump about in it, and most of what they wait for then is the translation
// of addresses. A refusal costs only speed.
func huge[T any](s []T) {
	const page = 2 << 20
	n := uintptr(len(s)) * unsafe.Sizeof(*new(T))
	if n < 4*page {
		return
	}
	p := unsafe.Pointer(unsafe.SliceData(s))
	skip := -uintptr(p) & (page - 1)
	_ = unix.Madvise(unsafe.Slice((*byte)(unsafe.Add(p, skip)), (n-skip)&^(page-1)), unix.MADV_HUGEPAGE)
}
