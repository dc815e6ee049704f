package shop

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"arete/core/workplan"
	"arete/jobs"
)

// ErrNotFound is the class of requests for things that are not there.
var ErrNotFound = errors.New("not found")

// ErrInput is the class of values that cannot be used.
var ErrInput = errors.New("cannot be used")

// Part is a part on the bench.
type Part struct {
	ID       int64
	Name     string
	Number   string
	Revision string
	Lot      int
	File     string
	Hash     string
}

// File is kept with a part beside its model: stock or a fixture.
type File struct {
	Hash, Name string
	Data       []byte
}

// Saved is the current plan of a part as kept.
type Saved struct {
	Plan             workplan.Plan
	Version          int
	Label            string
	CanUndo, CanRedo bool
}

// Keeper keeps parts and plans. A save is atomic.
type Keeper interface {
	Parts(ctx context.Context) ([]Part, error)
	Part(ctx context.Context, id int64) (Part, error)
	Model(ctx context.Context, id int64) ([]byte, error)
	Files(ctx context.Context, part int64) ([]File, error)
	AddFile(ctx context.Context, part int64, f File) error
	AddPart(ctx context.Context, p Part, model []byte, plan workplan.Plan) (int64, error)
	DeletePart(ctx context.Context, id int64) error
	Plan(ctx context.Context, part int64) (Saved, error)
	SavePlan(ctx context.Context, part int64, label string, change func(*workplan.Plan) error) (Saved, error)
	Step(ctx context.Context, part int64, by int) (Saved, error)
	Library(ctx context.Context) (*Library, int, error)
	SaveLibrary(ctx context.Context, l *Library) error
}

// Desk is where the programmer works: it answers the pages. Computations run
// in the background; what was computed last stays until the next is ready.
type Desk struct {
	keep    Keeper
	engine  *Engine
	pool    *jobs.Pool
	mu      sync.Mutex
	models  *memo[*Model] // by modelKey
	reading sync.Mutex    // held while a model is read, or gets a file
	states  map[int64]*State
}

// State is the latest computation of a part. It is replaced, never changed.
type State struct {
	Version int // of the plan that Result belongs to
	Result  *Result
	Proof   *Proof // nil until proven; may lag one version behind
	Proven  int    // version of the plan that Proof belongs to
	Err     error
	changed chan struct{} // closed when a newer state is there
}

// keptModels is how many models are kept in memory; others are read again.
const keptModels = 32

// NewDesk opens the desk on a keeper.
func NewDesk(k Keeper) *Desk {
	return &Desk{keep: k, engine: NewEngine(), pool: jobs.NewPool(2), models: newMemo[*Model](keptModels), states: map[int64]*State{}}
}

// Close stops all computations.
func (d *Desk) Close() { d.pool.Close() }

// Parts lists the parts on the bench.
func (d *Desk) Parts(ctx context.Context) ([]Part, error) { return d.keep.Parts(ctx) }

// Part returns one part.
func (d *Desk) Part(ctx context.Context, id int64) (Part, error) { return d.keep.Part(ctx, id) }

// Library returns the shop library.
func (d *Desk) Library(ctx context.Context) (*Library, error) {
	l, _, err := d.keep.Library(ctx)
	return l, err
}

// SaveLibrary checks and saves the library; every part is computed anew when
// it is next looked at.
func (d *Desk) SaveLibrary(ctx context.Context, l *Library) error {
	if err := l.Validate(); err != nil {
		return fmt.Errorf("%w: %w", ErrInput, err)
	}
	if err := d.keep.SaveLibrary(ctx, l); err != nil {
		return err
	}
	parts, err := d.keep.Parts(ctx)
	if err != nil {
		return err
	}
	d.mu.Lock()
	var seen []int64
	for _, p := range parts {
		if d.states[p.ID] != nil {
			seen = append(seen, p.ID)
		}
	}
	d.mu.Unlock()
	for _, id := range seen {
		if saved, err := d.keep.Plan(ctx, id); err == nil {
			d.start(id, saved)
		}
	}
	return nil
}

// Delete takes a part off the bench.
func (d *Desk) Delete(ctx context.Context, id int64) error {
	d.pool.Cancel(jobKey(id))
	d.mu.Lock()
	delete(d.states, id)
	d.mu.Unlock()
	return d.keep.DeletePart(ctx, id)
}

// Plan returns the current plan as saved.
func (d *Desk) Plan(ctx context.Context, part int64) (Saved, error) { return d.keep.Plan(ctx, part) }

// Edit changes the plan, saves it, and starts computing what follows.
func (d *Desk) Edit(ctx context.Context, part int64, label string, change func(*workplan.Plan) error) (Saved, error) {
	s, err := d.keep.SavePlan(ctx, part, label, change)
	if err != nil {
		return s, err
	}
	d.start(part, s)
	return s, nil
}

// Undo goes back one change, Redo forward one.
func (d *Desk) Undo(ctx context.Context, part int64) (Saved, error) { return d.step(ctx, part, -1) }

// Redo goes forward to what was undone.
func (d *Desk) Redo(ctx context.Context, part int64) (Saved, error) { return d.step(ctx, part, 1) }

func (d *Desk) step(ctx context.Context, part int64, by int) (Saved, error) {
	s, err := d.keep.Step(ctx, part, by)
	if err == nil {
		d.start(part, s)
	}
	return s, err
}

// Replan throws the steps away and proposes new ones by rules.
func (d *Desk) Replan(ctx context.Context, part int64) (Saved, []string, error) {
	m, lib, err := d.partAndLibrary(ctx, part)
	if err != nil {
		return Saved{}, nil, err
	}
	var notes []string
	s, err := d.Edit(ctx, part, "plan by rules", func(pl *workplan.Plan) error {
		var err error
		notes, err = d.engine.Propose(ctx, m, pl, lib)
		return err
	})
	return s, notes, err
}

// partAndLibrary returns what a plan is made from.
func (d *Desk) partAndLibrary(ctx context.Context, part int64) (*Model, *Library, error) {
	p, err := d.keep.Part(ctx, part)
	if err != nil {
		return nil, nil, err
	}
	m, err := d.Model(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	lib, err := d.Library(ctx)
	return m, lib, err
}

// Reshape changes what is cut, the body or the levels of a drawing, and plans
// anew: the features are others, and what was said of them is dropped.
func (d *Desk) Reshape(ctx context.Context, part int64, label string, change func(*workplan.Setup, *Model) error) (Saved, error) {
	m, lib, err := d.partAndLibrary(ctx, part)
	if err != nil {
		return Saved{}, err
	}
	return d.Edit(ctx, part, label, func(pl *workplan.Plan) error {
		if err := change(&pl.Setup, m); err != nil {
			return err
		}
		pl.Setup.Prepare, pl.Setup.Groups, pl.Setup.Amend, pl.Setup.Picks = nil, nil, nil, nil // they name faces of what was cut before
		if err := pl.Setup.Validate(); err != nil {
			return err
		}
		if pl.Setup.Up, err = BestUp(ctx, m, pl.Setup); err != nil {
			return err
		}
		_, err = d.engine.Propose(ctx, m, pl, lib)
		return err
	})
}

// proofDelay is how long a plan rests before it is proven.
const proofDelay = 250 * time.Millisecond

func jobKey(part int64) string { return fmt.Sprintf("part %d", part) }

// start computes and proves a plan in the background.
func (d *Desk) start(part int64, saved Saved) {
	d.pool.Start(jobKey(part), func(ctx context.Context, progress func(int, int, string)) error {
		return d.work(ctx, part, saved, progress)
	}, func(err error) {
		if err != nil && !errors.Is(err, context.Canceled) {
			d.publish(part, func(s *State) { s.Version, s.Err = saved.Version, err })
		}
	})
}

func (d *Desk) work(ctx context.Context, part int64, saved Saved, progress Progress) error {
	p, err := d.keep.Part(ctx, part)
	if err != nil {
		return err
	}
	m, err := d.Model(ctx, p)
	if err != nil {
		return err
	}
	lib, err := d.Library(ctx)
	if err != nil {
		return err
	}
	r, err := d.engine.Compute(ctx, m, saved.Plan, lib, progress)
	if err != nil {
		return err
	}
	d.publish(part, func(s *State) { s.Version, s.Result, s.Err = saved.Version, r, nil })
	select { // the page fetches the paths first; the next edit may follow at once
	case <-time.After(proofDelay):
	case <-ctx.Done():
		return ctx.Err()
	}
	proof, err := d.engine.Prove(ctx, r, lib, Options{Title: strings.TrimSpace(p.Number + " " + p.Name + " " + p.Revision), Number: int(part)}, progress)
	if err != nil {
		return err
	}
	d.publish(part, func(s *State) { s.Proof, s.Proven = proof, saved.Version })
	return nil
}

// publish replaces the state of a part and wakes those who wait for it.
func (d *Desk) publish(part int64, change func(*State)) {
	d.mu.Lock()
	defer d.mu.Unlock()
	old := d.states[part]
	next := &State{changed: make(chan struct{})}
	if old != nil {
		c := next.changed
		*next = *old
		next.changed = c
	}
	change(next)
	d.states[part] = next
	if old != nil {
		close(old.changed)
	}
}

// State returns the latest computation, starting one if there is none.
func (d *Desk) State(ctx context.Context, part int64) (*State, jobs.Status, error) {
	d.mu.Lock()
	s := d.states[part]
	if s == nil {
		s = &State{changed: make(chan struct{})}
		d.states[part] = s
		d.mu.Unlock()
		saved, err := d.keep.Plan(ctx, part)
		if err != nil {
			d.mu.Lock()
			delete(d.states, part)
			d.mu.Unlock()
			return nil, jobs.Status{}, err
		}
		d.start(part, saved)
		return s, d.pool.Status(jobKey(part)), nil
	}
	d.mu.Unlock()
	return s, d.pool.Status(jobKey(part)), nil
}

// Wait returns the state once ok says so, or the latest when ctx ends.
func (d *Desk) Wait(ctx context.Context, part int64, ok func(*State) bool) (*State, error) {
	for {
		s, _, err := d.State(ctx, part)
		if err != nil || ok(s) {
			return s, err
		}
		select {
		case <-s.changed:
		case <-ctx.Done():
			return s, nil
		}
	}
}

// Stop cancels the computation of a part; the last result stays.
func (d *Desk) Stop(part int64) { d.pool.Cancel(jobKey(part)) }

// Ready returns the result of the current plan, computing it if needed.
func (d *Desk) Ready(ctx context.Context, part int64) (*State, error) {
	saved, err := d.keep.Plan(ctx, part)
	if err != nil {
		return nil, err
	}
	s, err := d.Wait(ctx, part, func(s *State) bool { return s.Version >= saved.Version && (s.Result != nil || s.Err != nil) })
	if err == nil && s.Err != nil {
		err = s.Err
	}
	return s, err
}

// Proven returns the state with the proof of the current plan.
func (d *Desk) Proven(ctx context.Context, part int64) (*State, error) {
	saved, err := d.keep.Plan(ctx, part)
	if err != nil {
		return nil, err
	}
	s, err := d.Wait(ctx, part, func(s *State) bool { return s.Proven >= saved.Version || s.Version >= saved.Version && s.Err != nil })
	if err == nil && s.Err != nil {
		err = s.Err
	}
	return s, err
}

// Place puts a model into a setup, from the cache when it is there.
func (d *Desk) Place(ctx context.Context, m *Model, s workplan.Setup) (*Geometry, error) {
	return d.engine.Geometry(ctx, m, s)
}
