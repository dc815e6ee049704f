// Package shop holds the use cases: what a programmer can do with parts,
// setups, tools and plans. It knows the rules of the job only through core, and
// keeps things through interfaces that it declares itself.
package shop

import (
	"encoding/json"
	"errors"
	"fmt"

	"arete/core/machine"
	"arete/core/material"
	"arete/core/nc"
	"arete/core/tooling"
)

// Library is what the shop owns.
type Library struct {
	Tools     []tooling.Tool      `json:"tools"`
	Machines  []machine.Machine   `json:"machines"`
	Materials []material.Material `json:"materials"`
	Dialects  []nc.Dialect        `json:"dialects"`
}

// ReadLibrary reads and checks a library in JSON.
func ReadLibrary(data []byte) (*Library, error) {
	var l Library
	if err := json.Unmarshal(data, &l); err != nil {
		return nil, fmt.Errorf("the library cannot be read: %w; compare it with the built-in one", err)
	}
	return &l, l.Validate()
}

// Validate returns the first impossible entry.
func (l *Library) Validate() error {
	seen := map[int]string{}
	for _, t := range l.Tools {
		if err := t.Validate(); err != nil {
			return fmt.Errorf("tool %q: %w", t.Name, err)
		}
		if other, ok := seen[t.Position]; ok {
			return fmt.Errorf("tools %q and %q both sit at T%d: give one another position", other, t.Name, t.Position)
		}
		seen[t.Position] = t.Name
	}
	for _, m := range l.Machines {
		if err := m.Validate(); err != nil {
			return err
		}
	}
	for _, m := range l.Materials {
		if err := m.Validate(); err != nil {
			return err
		}
	}
	for _, d := range l.Dialects {
		if err := d.Validate(); err != nil {
			return err
		}
	}
	if len(l.Tools) == 0 || len(l.Machines) == 0 || len(l.Materials) == 0 || len(l.Dialects) == 0 {
		return errors.New("the library needs at least one tool, machine, material and dialect")
	}
	return nil
}

// ErrUnknown is the class of references to things that are not there.
var ErrUnknown = errors.New("not in the library")

// Machine finds a machine; the empty id means the first.
func (l *Library) Machine(id string) (machine.Machine, error) {
	for _, m := range l.Machines {
		if m.ID == id || id == "" {
			return m, nil
		}
	}
	return machine.Machine{}, fmt.Errorf("machine %q is %w", id, ErrUnknown)
}

// Material finds a material; the empty id means the first.
func (l *Library) Material(id string) (material.Material, error) {
	for _, m := range l.Materials {
		if m.ID == id || id == "" {
			return m, nil
		}
	}
	return material.Material{}, fmt.Errorf("material %q is %w", id, ErrUnknown)
}

// Dialect finds a dialect.
func (l *Library) Dialect(id string) (nc.Dialect, error) {
	for _, d := range l.Dialects {
		if d.ID == id {
			return d, nil
		}
	}
	return nc.Dialect{}, fmt.Errorf("dialect %q is %w", id, ErrUnknown)
}
