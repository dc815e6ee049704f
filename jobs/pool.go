// Package jobs runs work in the background: a few workers, one running task a
// key. A newer task for a key cancels and replaces the older one. It knows no
// domain type.
package jobs

import (
	"context"
	"fmt"
	"runtime/debug"
	"sync"
)

// Task is a piece of work. It must return soon after ctx is cancelled.
type Task func(ctx context.Context, progress func(done, total int, what string)) error

// Status is how far a key's task is.
type Status struct {
	Running     bool
	Done, Total int
	What        string
	Err         error // of the last finished task, nil when it went well
}

// Pool is a set of workers.
type Pool struct {
	slots chan struct{}
	mu    sync.Mutex
	jobs  map[string]*job
	wg    sync.WaitGroup
	ctx   context.Context
	stop  context.CancelFunc
}

type job struct {
	status Status
	cancel context.CancelFunc
	serial int
}

// NewPool starts a pool with n workers.
func NewPool(n int) *Pool {
	ctx, stop := context.WithCancel(context.Background())
	return &Pool{slots: make(chan struct{}, n), jobs: map[string]*job{}, ctx: ctx, stop: stop}
}

// Start queues a task under a key and cancels the one before it. finished is
// called with the task's error unless it has been replaced.
func (p *Pool) Start(key string, t Task, finished func(error)) {
	ctx, cancel := context.WithCancel(p.ctx)
	p.mu.Lock()
	j := p.jobs[key]
	if j == nil {
		j = &job{}
		p.jobs[key] = j
	} else if j.cancel != nil {
		j.cancel()
	}
	j.serial++
	serial := j.serial
	j.cancel = cancel
	j.status = Status{Running: true}
	p.mu.Unlock()
	p.wg.Add(1)
	go func() {
		defer p.wg.Done()
		defer cancel()
		err := p.run(ctx, j, serial, t)
		p.mu.Lock()
		current := j.serial == serial
		if current {
			j.status = Status{Err: err}
		}
		p.mu.Unlock()
		if current && finished != nil {
			finished(err)
		}
	}()
}

func (p *Pool) run(ctx context.Context, j *job, serial int, t Task) (err error) {
	select {
	case p.slots <- struct{}{}:
		defer func() { <-p.slots }()
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("the computation broke off: %v", r)
			debug.PrintStack()
		}
	}()
	return t(ctx, func(done, total int, what string) {
		p.mu.Lock()
		defer p.mu.Unlock()
		if j.serial == serial {
			j.status = Status{Running: true, Done: done, Total: total, What: what}
		}
	})
}

// Status returns how far a key's task is.
func (p *Pool) Status(key string) Status {
	p.mu.Lock()
	defer p.mu.Unlock()
	if j := p.jobs[key]; j != nil {
		return j.status
	}
	return Status{}
}

// Cancel stops a key's task.
func (p *Pool) Cancel(key string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if j := p.jobs[key]; j != nil && j.cancel != nil {
		j.cancel()
	}
}

// Close cancels everything and waits for it.
func (p *Pool) Close() {
	p.stop()
	p.wg.Wait()
}
