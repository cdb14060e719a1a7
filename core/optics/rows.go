package optics

import "sync/atomic"

// rows is a table whose rows are made when they are first asked for: a scene needs few
// of the many that there are, and the first picture does not wait for the others. It
// is safe for concurrent use.
type rows[T any] struct {
	made []atomic.Pointer[T]
	fill func(i int) *T // makes a row; always the same
}

func newRows[T any](n int, fill func(i int) *T) *rows[T] {
	return &rows[T]{make([]atomic.Pointer[T], n), fill}
}

// row is row i. Two that ask for it at once may both make it.
func (r *rows[T]) row(i int) *T {
	if v := r.made[i].Load(); v != nil {
		return v
	}
	r.made[i].CompareAndSwap(nil, r.fill(i))
	return r.made[i].Load()
}
