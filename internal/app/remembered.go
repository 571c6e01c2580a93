package app

import (
	"strconv"
	"sync/atomic"

	"golang.org/x/sync/singleflight"
)

// remembered is something read from the database that serves until it is
// forgotten. What was being read when it was forgotten is of no use to anybody
// who asks later; those who ask at the same time wait for one reading. The zero
// value remembers nothing; it is safe for concurrent use.
type remembered[T any] struct {
	forgotten atomic.Int64 // times
	last      atomic.Pointer[reading[T]]
	reads     singleflight.Group
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
	value, err, _ := r.reads.Do(strconv.FormatInt(after, 10), func() (any, error) {
		value, err := read()
		if err != nil {
			return nil, err
		}
		// The number is taken before reading: if it was forgotten meanwhile, this
		// will not be used, whoever stores last.
		r.last.Store(&reading[T]{after, value})
		return value, nil
	})
	if err != nil {
		return nil, err
	}
	return value.(*T), nil
}

// times returns how often it was forgotten, and put remembers what was read since
// then by other means: if it was forgotten meanwhile, that is of no use.
func (r *remembered[T]) times() int64 { return r.forgotten.Load() }

func (r *remembered[T]) put(times int64, value *T) { r.last.Store(&reading[T]{times, value}) }

func (r *remembered[T]) forget() { r.forgotten.Add(1) }
