package shop

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"math"
	"slices"

	"arete/core/blank"
	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/exchange/stl"
	"arete/core/fitting"
	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/planar"
	"arete/core/removal"
	"arete/core/workplan"
)

// Attached is a file kept with a part beside its model: stock as it comes, or
// a fixture, in the coordinates of the model.
type Attached struct {
	Hash, Name string
	Solids     []*brep.Solid // none of a mesh that is of no plain faces
	Mesh       *mesh.Mesh
}

// mostAttached is the largest that stock or a fixture may be across, mm.
const mostAttached = 20_000

// attachedChord is the tolerance of the meshes of stock and fixtures, mm.
const attachedChord = 0.005

// Attach reads a file of stock or of a fixture: what can be imported as a
// part, and any closed mesh.
func Attach(name string, data []byte) (*Attached, error) {
	a, err := attached(data)
	if err != nil {
		return nil, err
	}
	if size := a.Mesh.Box().Size(); !(size.Len() < mostAttached && size.X*size.Y*size.Z > 0) {
		return nil, fmt.Errorf("the body is %.4g × %.4g × %.4g mm large: check its unit", size.X, size.Y, size.Z)
	}
	h := sha256.Sum256(data)
	a.Hash, a.Name = hex.EncodeToString(h[:]), name
	return a, nil
}

func attached(data []byte) (*Attached, error) {
	a := &Attached{}
	if stl.Is(data) {
		var err error
		if a.Mesh, err = stl.Read(data); err != nil {
			return nil, err
		}
		if a.Mesh.OpenEdges() > 0 {
			return nil, fmt.Errorf("the mesh is not closed: %d edges have only one triangle; export it again as a closed body", a.Mesh.OpenEdges())
		}
		if solids, err := fitting.Solids(a.Mesh); err == nil {
			a.Solids = solids // the mesh was made of them, and is made finer
			a.Mesh, err = meshOf(solids)
			return a, err
		}
		return a, nil
	}
	m, err := Import(data)
	if err != nil {
		return nil, err
	}
	a.Solids = m.Solids()
	a.Mesh, err = meshOf(a.Solids)
	return a, err
}

// Attach keeps a file with the model.
func (m *Model) Attach(name string, data []byte) (*Attached, error) {
	a, err := Attach(name, data)
	if err != nil {
		return nil, err
	}
	all := maps.Clone(m.Attached)
	if all == nil {
		all = map[string]*Attached{}
	}
	all[a.Hash] = a
	m.Attached = all
	return a, nil
}

// meshOf is the mesh of several solids.
func meshOf(solids []*brep.Solid) (*mesh.Mesh, error) {
	out := &mesh.Mesh{}
	for _, s := range solids {
		m, err := s.Tessellate(attachedChord)
		if err != nil {
			return nil, fmt.Errorf("the surface of %q cannot be filled with triangles: %w", s.Name, err)
		}
		out.Append(m)
	}
	return out, nil
}

// thing is a body in the coordinates of the model.
type thing struct {
	name   string
	solids []*brep.Solid
	mesh   *mesh.Mesh
}

// thing finds what an item names.
func (m *Model) thing(s workplan.Setup, it workplan.Item) (thing, error) {
	if it.File != "" {
		a := m.Attached[it.File]
		if a == nil {
			return thing{}, workplan.Problem{Field: "item", Say: fmt.Sprintf("the file %s is not kept with this part: bring it in again", it.Name)}
		}
		return thing{a.Name, a.Solids, a.Mesh}, nil
	}
	all, err := m.All(s)
	if err != nil {
		return thing{}, err
	}
	_, cut, err := m.Body(s)
	if err != nil {
		return thing{}, err
	}
	if it.Body < 1 || it.Body > len(all) || it.Body == cut+1 {
		return thing{}, workplan.Problem{Field: "item", Say: "choose a body of the model that is not the one to cut"}
	}
	b := all[it.Body-1].Solid
	t := thing{name: b.Name, solids: []*brep.Solid{b}}
	if t.name == "" {
		t.name = fmt.Sprintf("body %d", it.Body)
	}
	t.mesh, err = meshOf(t.solids)
	return t, err
}

// blankFor prepares the stock of a setup that is no block: how its box lies in
// a system, and the stock itself once the setup's system is known. Both are
// nil for a block.
func (m *Model) blankFor(s workplan.Setup) (box func(part geom.Box, f geom.Frame) geom.Box, make func(part geom.Box, f geom.Frame) (*blank.Blank, error), err error) {
	switch s.Blank.Kind {
	case workplan.Bar:
		box = func(part geom.Box, _ geom.Frame) geom.Box { return barBox(part, s) }
		return box, func(part geom.Box, _ geom.Frame) (*blank.Blank, error) { return bar(barBox(part, s)) }, nil
	case workplan.Body:
		t, err := m.thing(s, s.Blank.Item)
		if err != nil {
			return nil, nil, err
		}
		box = func(_ geom.Box, f geom.Frame) geom.Box { return t.mesh.Transform(f.Inverse()).Box() }
		return box, func(_ geom.Box, f geom.Frame) (*blank.Blank, error) {
			var solid *brep.Solid
			if len(t.solids) == 1 {
				solid = t.solids[0].Transform(f.Inverse())
			}
			return blank.New(t.mesh.Transform(f.Inverse()), solid)
		}, nil
	}
	return nil, nil, nil
}

// barBox is the box of a round bar: over the part by the margin at the top,
// about its middle.
func barBox(part geom.Box, s workplan.Setup) geom.Box {
	c, r, top := part.Center(), s.Blank.Diameter/2, part.Max.Z+s.Stock.ZMax
	return geom.Box{Min: geom.V3{X: c.X - r, Y: c.Y - r, Z: top - s.Blank.Length}, Max: geom.V3{X: c.X + r, Y: c.Y + r, Z: top}}
}

func bar(box geom.Box) (*blank.Blank, error) {
	const layer = "bar"
	solids, err := drawing.Solids([]drawing.Chain{{Layer: layer, Loop: planar.Circle(box.Center().XY(), box.Size().X/2)}},
		[]drawing.Level{{Layer: layer, Top: box.Max.Z, Depth: box.Size().Z}})
	if err != nil {
		return nil, err
	}
	m, err := meshOf(solids)
	if err != nil {
		return nil, err
	}
	return blank.New(m, solids[0])
}

// StockWords says what the stock of a computed plan is.
func StockWords(r *Result) string {
	b, size := r.Plan.Setup.Blank, r.Geometry.Work.Stock.Size()
	switch b.Kind {
	case workplan.Bar:
		return fmt.Sprintf("round bar ⌀%.4g × %.4g mm", b.Diameter, b.Length)
	case workplan.Body:
		return fmt.Sprintf("%s, %.4g × %.4g × %.4g mm", cmp.Or(b.Item.Name, "another body"), size.X, size.Y, size.Z)
	}
	return fmt.Sprintf("%.4g × %.4g × %.4g mm", size.X, size.Y, size.Z)
}

// fixtureCell is the raster on which tools are held against fixtures, mm.
const fixtureCell = 0.5

// fixtures places the fixtures of a setup.
func (m *Model) fixtures(s workplan.Setup, f geom.Frame) ([]removal.Fixture, *mesh.Mesh, error) {
	var out []removal.Fixture
	all := &mesh.Mesh{}
	for _, it := range s.Fixtures {
		t, err := m.thing(s, it)
		if err != nil {
			return nil, nil, err
		}
		placed := t.mesh.Transform(f.Inverse())
		size := placed.Box().Size()
		r := blank.NewRelief(placed, math.Max(fixtureCell, math.Max(size.X, size.Y)/1500))
		out = append(out, removal.Fixture{Name: t.name, Min: r.Min, Cell: r.Cell, NX: r.NX, NY: r.NY, Z: r.Z, Top: r.Top})
		all.Append(placed)
	}
	return out, all, nil
}

// short is how far the part reaches out of its stock, mm.
func short(part *mesh.Mesh, b *blank.Blank) float64 {
	d := 0.0
	for _, p := range part.Points {
		for _, reach := range []float64{0.1, 2, 50} {
			out := b.Outside(p, reach)
			if d = math.Max(d, out); out < reach {
				break
			}
		}
	}
	return d
}

// Setup changes how a part is held. Stock and fixtures are tried before they
// are saved, a bar that is chosen gets the least size that holds the part, and
// the jaws stay clear of the part.
func (d *Desk) Setup(ctx context.Context, part int64, label string, change func(*workplan.Setup) error) (Saved, error) {
	m, _, err := d.partAndLibrary(ctx, part)
	if err != nil {
		return Saved{}, err
	}
	return d.Edit(ctx, part, label, func(pl *workplan.Plan) error {
		s := &pl.Setup
		before, held := s.Blank, slices.Clone(s.Fixtures)
		if err := change(s); err != nil {
			return err
		}
		if s.Blank.Kind == workplan.Bar && s.Blank.Diameter == 0 {
			if err := m.leastBar(s); err != nil {
				return err
			}
		}
		if err := s.Validate(); err != nil {
			return err
		}
		if s.Blank == before && slices.Equal(held, s.Fixtures) {
			return nil
		}
		g, err := d.engine.Geometry(ctx, m, *s)
		if err != nil {
			return err
		}
		if below := g.Work.Part.Min.Z - g.Work.Stock.Min.Z; s.Blank != before && below < s.Grip {
			s.Grip = math.Max(0, below-1.5)
		}
		return nil
	})
}

// leastBar chooses a bar with 2 mm around the part, and the setup's margins
// over and under it.
func (m *Model) leastBar(s *workplan.Setup) error {
	body, _, err := m.Target(*s)
	if err != nil {
		return err
	}
	s.Frame(func(f geom.Frame) (part, stock geom.Box) {
		part = body.Transform(f.Inverse()).Box()
		size := part.Size()
		s.Blank.Diameter = math.Ceil(math.Hypot(size.X, size.Y)) + 4
		s.Blank.Length = math.Ceil(size.Z + s.Stock.ZMax + s.Stock.ZMin)
		return part, part
	})
	return nil
}
