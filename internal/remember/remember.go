// Package remember keeps in memory what was read from the database, until it is
// forgotten.
package remember

import (
	"strconv"
	"sync/atomic"

	"golang.org/x/sync/singleflight"
)

// Value is something read from the database that serves until it is
// forgotten. What was being read when it was forgotten is of no use to anybody
// who asks later; those who ask at the same time wait for one reading. The zero
// value remembers nothing; it is safe for concurrent use.
type Value[T any] struct {
	forgotten atomic.Int64 // times
	last      atomic.Pointer[reading[T]]
	reads     singleflight.Group
}

// reading is what was read after so many times of forgetting.
type reading[T any] struct {
	after int64
	value *T
}

// Get returns what is remembered, or reads it.
func (r *Value[T]) Get(read func() (*T, error)) (*T, error) {
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

// Times returns how often it was forgotten.
func (r *Value[T]) Times() int64 { return r.forgotten.Load() }

// Put remembers what was read by other means since Times said so: if it was
// forgotten meanwhile, that is of no use.
func (r *Value[T]) Put(times int64, value *T) { r.last.Store(&reading[T]{times, value}) }

// Forget makes the next Get read anew.
func (r *Value[T]) Forget() { r.forgotten.Add(1) }
