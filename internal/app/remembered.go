package app

import "sync/atomic"

// remembered is something read from the database that serves until it is
// forgotten. What was being read when it was forgotten is of no use to anybody
// who asks later. The zero value remembers nothing; it is safe for concurrent
// use.
type remembered[T any] struct {
	forgotten atomic.Int64 // times
	last      atomic.Pointer[reading[T]]
}

// reading is what was read after so many times of forgetting.
type reading[T any] struct {
	after int64
	value *T
}

// get returns what is remembered, or reads it.
func (r *remembered[T]) get(read func() (*T, error)) (*T, error) {
	after := r.forgotten.Load()
	if last := r.last.Load(); last != nil && last.after == after {
		return last.value, nil
	}
	value, err := read()
	if err != nil {
		return nil, err
	}
	// The number is taken before reading: if it was forgotten meanwhile, this
	// will not be used, whoever stores last.
	r.last.Store(&reading[T]{after, value})
	return value, nil
}

func (r *remembered[T]) forget() { r.forgotten.Add(1) }
