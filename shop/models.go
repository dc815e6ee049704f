package shop

import (
	"context"
	"fmt"
	"strings"

	"arete/core/workplan"
)

// Import reads a model, makes a first plan by rules, and puts the part on the
// bench.
func (d *Desk) Import(ctx context.Context, p Part, data []byte) (int64, error) {
	m, err := Import(data)
	if err != nil {
		return 0, fmt.Errorf("%w: %w", ErrInput, err)
	}
	lib, err := d.Library(ctx)
	if err != nil {
		return 0, err
	}
	plan := workplan.Default(lib.Machines[0].ID, lib.Materials[0].ID)
	if plan.Setup.Up, err = BestUp(ctx, m, plan.Setup); err != nil {
		return 0, err
	}
	if _, err := d.engine.Propose(ctx, m, &plan, lib); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrInput, err)
	}
	p.Hash = m.Hash
	if p.Name = strings.TrimSpace(p.Name); p.Name == "" {
		p.Name = m.Name
	}
	if p.Name == "" {
		p.Name = p.File
	}
	p.Lot = max(1, p.Lot)
	if p.ID, err = d.keep.AddPart(ctx, p, data, plan); err != nil {
		return 0, err
	}
	d.models.put(modelKey(p), m)
	return p.ID, nil
}

// modelKey names the model of a part: two parts may be of one file, and have
// other stock.
func modelKey(p Part) string { return fmt.Sprintf("%d %s", p.ID, p.Hash) }

// Attach keeps a file of stock or of a fixture with a part.
func (d *Desk) Attach(ctx context.Context, p Part, name string, data []byte) (workplan.Item, error) {
	a, err := Attach(name, data)
	if err != nil {
		return workplan.Item{}, fmt.Errorf("%w: %s: %w", ErrInput, name, err)
	}
	d.reading.Lock()
	defer d.reading.Unlock()
	if err := d.keep.AddFile(ctx, p.ID, File{Hash: a.Hash, Name: name, Data: data}); err != nil {
		return workplan.Item{}, err
	}
	d.models.drop(modelKey(p)) // read again with the file
	return workplan.Item{File: a.Hash, Name: name}, nil
}

// Model returns the imported model of a part.
func (d *Desk) Model(ctx context.Context, p Part) (*Model, error) {
	if m, ok := d.models.get(modelKey(p)); ok {
		return m, nil
	}
	d.reading.Lock()
	defer d.reading.Unlock()
	if m, ok := d.models.get(modelKey(p)); ok { // another was faster
		return m, nil
	}
	data, err := d.keep.Model(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	m, err := Import(data)
	if err != nil {
		return nil, err
	}
	files, err := d.keep.Files(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		if _, err := m.Attach(f.Name, f.Data); err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
	}
	d.models.put(modelKey(p), m)
	return m, nil
}
