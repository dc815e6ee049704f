package shop

import (
	"context"
	"errors"
	"math"
	"slices"

	"arete/core/brep"
	"arete/core/feature"
	"arete/core/prepare"
	"arete/core/workplan"
)

// Target returns the body that a setup cuts, with its changes made, and its
// place among all.
func (m *Model) Target(s workplan.Setup) (*brep.Solid, int, error) {
	body, n, err := m.Body(s)
	if err != nil || len(s.Prepare) == 0 {
		return body, n, err
	}
	body, _, err = prepare.Apply(body, s.Prepare)
	return body, n, said(err)
}

// said makes a value's problem of a change's.
func said(err error) error {
	var p prepare.Problem
	if errors.As(err, &p) {
		return workplan.Problem{Field: "prepare", Say: p.Say}
	}
	return err
}

// Prepare changes the list of changes of the body. Steps, names and kept
// selections follow the faces that stay; what loses all of its faces goes. The
// faces that the change names are those of a shape: when somebody else was
// faster it is refused.
func (d *Desk) Prepare(ctx context.Context, part int64, label, shape string, change func([]prepare.Change) []prepare.Change) (Saved, error) {
	m, _, err := d.partAndLibrary(ctx, part)
	if err != nil {
		return Saved{}, err
	}
	return d.Edit(ctx, part, label, func(pl *workplan.Plan) error {
		old := pl.Setup
		list := change(slices.Clone(old.Prepare))
		before, err := d.shaped(ctx, m, old, shape)
		if err != nil {
			return err
		}
		now, err := facesAfter(m, old, list)
		if err != nil {
			return err
		}
		pl.Setup.Prepare = list
		pl.Setup.Groups = groupsAfter(old.Groups, now)
		pl.Setup.Amend = amendAfter(old.Amend, now)
		pl.Setup.Picks = picksAfter(old.Picks, now)
		after, err := d.engine.Geometry(ctx, m, pl.Setup)
		if err != nil {
			return err
		}
		follow(pl, before.Work.Features, after.Work.Features, now)
		return nil
	})
}

// shaped returns the geometry of a setup when it has the shape.
func (d *Desk) shaped(ctx context.Context, m *Model, s workplan.Setup, shape string) (*Geometry, error) {
	g, err := d.engine.Geometry(ctx, m, s)
	if err == nil && g.Shape != shape {
		err = workplan.Problem{Field: "prepare", Say: "the part has changed since this was selected: select again"}
	}
	return g, err
}

// facesAfter tells for each face of the body as a setup cuts it which face it
// is when other changes are made instead, −1 for none.
func facesAfter(m *Model, s workplan.Setup, list []prepare.Change) ([]int, error) {
	body, _, err := m.Body(s)
	if err != nil {
		return nil, err
	}
	same := 0
	for same < min(len(list), len(s.Prepare)) && equalChange(list[same], s.Prepare[same]) {
		same++
	}
	base, _, err := prepare.Apply(body, list[:same])
	if err != nil {
		return nil, said(err)
	}
	_, before, err := prepare.Apply(base, s.Prepare[same:])
	if err != nil {
		return nil, said(err)
	}
	_, after, err := prepare.Apply(base, list[same:])
	if err != nil {
		return nil, said(err)
	}
	now := make([]int, len(before))
	for i, f := range before {
		now[i] = -1
		if f >= 0 {
			now[i] = slices.Index(after, f)
		}
	}
	return now, nil
}

func equalChange(a, b prepare.Change) bool {
	return a.Act == b.Act && a.Size == b.Size && a.Colour == b.Colour && slices.Equal(a.Faces, b.Faces) && slices.Equal(a.Edges, b.Edges)
}

// moved maps faces and leaves out those that are gone.
func moved(faces, now []int) []int {
	var out []int
	for _, f := range faces {
		if f >= 0 && f < len(now) && now[f] >= 0 {
			out = append(out, now[f])
		}
	}
	return out
}

func amendAfter(list []feature.Amendment, now []int) []feature.Amendment {
	var out []feature.Amendment
	for _, a := range list {
		if at := moved([]int{a.Face}, now); len(at) == 1 {
			a.Face = at[0]
			out = append(out, a)
		}
	}
	return out
}

func groupsAfter(list []feature.Group, now []int) []feature.Group {
	var out []feature.Group
	for _, g := range list {
		if g.Faces = moved(g.Faces, now); len(g.Faces) > 0 {
			out = append(out, g)
		}
	}
	return out
}

// Regroup changes which faces make a feature. Steps follow the faces; a group
// that cannot be made is refused.
func (d *Desk) Regroup(ctx context.Context, part int64, label, shape string, change func([]feature.Group) []feature.Group) (Saved, error) {
	m, _, err := d.partAndLibrary(ctx, part)
	if err != nil {
		return Saved{}, err
	}
	return d.Edit(ctx, part, label, func(pl *workplan.Plan) error {
		before, err := d.shaped(ctx, m, pl.Setup, shape)
		if err != nil {
			return err
		}
		pl.Setup.Groups = change(slices.Clone(pl.Setup.Groups))
		after, err := d.engine.Geometry(ctx, m, pl.Setup)
		if err != nil {
			return err
		}
		if notes := after.Work.Features.Notes; len(notes) > len(before.Work.Features.Notes) {
			return workplan.Problem{Field: "prepare", Say: notes[len(notes)-1]}
		}
		now := make([]int, len(after.Solid.Faces))
		for i := range now {
			now[i] = i
		}
		follow(pl, before.Work.Features, after.Work.Features, now)
		return nil
	})
}

// picksAfter maps kept selections; edges are numbered anew by every change and
// are dropped.
func picksAfter(list []workplan.Pick, now []int) []workplan.Pick {
	var out []workplan.Pick
	for _, p := range list {
		if p.Faces, p.Edges = moved(p.Faces, now), nil; len(p.Faces) > 0 {
			out = append(out, p)
		}
	}
	return out
}

// follow gives the steps the features that have the faces of those they had. A
// step that loses all of its features goes.
func follow(p *workplan.Plan, before, after *feature.Set, now []int) {
	p.Steps = slices.DeleteFunc(p.Steps, func(s workplan.Step) bool { return len(s.Features) > 0 && len(heirs(s, before, after, now)) == 0 })
	for i := range p.Steps {
		p.Steps[i].Features = heirs(p.Steps[i], before, after, now)
	}
}

func heirs(s workplan.Step, before, after *feature.Set, now []int) []string {
	var out []string
	for _, id := range s.Features {
		f := before.ByID(id)
		if f == nil {
			continue
		}
		if h := heir(f, after, moved(f.Faces, now), s.Choice["part"] == "counterbore"); h != "" && !slices.Contains(out, h) {
			out = append(out, h)
		}
	}
	return out
}

// heir finds the feature of the same kind with most of the faces, or one of
// another kind; without faces that of the same kind. A hole goes to one of its
// diameter, or of its counterbore's.
func heir(f *feature.Feature, after *feature.Set, faces []int, counterbore bool) string {
	best, id := 0, ""
	d := f.Params.Diameter
	if counterbore {
		d = f.Params.Counterbore.Diameter
	}
	for _, g := range after.Features {
		n := 0
		for _, i := range g.Faces {
			if slices.Contains(faces, i) {
				n += 2
			}
		}
		if g.Kind == f.Kind && (n > 0 || len(f.Faces) == 0) {
			n++
		}
		if n > 0 && d > 0 && (math.Abs(g.Params.Diameter-d) < 1e-6 || counterbore && math.Abs(g.Params.Counterbore.Diameter-d) < 1e-6) {
			n += 2 * len(faces)
		}
		if n > best {
			best, id = n, g.ID
		}
	}
	return id
}
