package jobs

import (
	"context"
	"errors"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNewerTaskReplacesOlder(t *testing.T) {
	p := NewPool(2)
	defer p.Close()
	started, cancelled := make(chan struct{}), make(chan struct{})
	var finished atomic.Int32
	p.Start("k", func(ctx context.Context, _ func(int, int, string)) error {
		close(started)
		<-ctx.Done()
		close(cancelled)
		return ctx.Err()
	}, func(error) { finished.Add(1) })
	<-started
	done := make(chan error, 1)
	p.Start("k", func(context.Context, func(int, int, string)) error { return nil }, func(err error) { done <- err })
	<-cancelled
	assert.NoError(t, <-done)
	assert.Zero(t, finished.Load(), "a replaced task does not report")
	assert.False(t, p.Status("k").Running)
}

func TestPanicBecomesAnError(t *testing.T) {
	p := NewPool(1)
	defer p.Close()
	done := make(chan error, 1)
	p.Start("k", func(context.Context, func(int, int, string)) error { panic("broken") }, func(err error) { done <- err })
	assert.ErrorContains(t, <-done, "broken")
	p.Start("k", func(context.Context, func(int, int, string)) error { return errors.New("no") }, func(err error) { done <- err })
	assert.EqualError(t, <-done, "no", "the worker goes on")
}
