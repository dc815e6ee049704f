package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"

	"arete/core/brep"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/removal"
	"arete/core/section"
	"arete/core/workplan"
)

// BestUp returns the direction of the body to cut that should point to the
// spindle: of a flat drawing the one it is seen from.
func BestUp(ctx context.Context, m *Model, s workplan.Setup) ([3]float64, error) {
	if len(m.Chains) > 0 {
		return [3]float64{0, 0, 1}, nil
	}
	body, _, err := m.Target(s)
	if err != nil {
		return s.Up, err
	}
	d, err := feature.BestUp(ctx, body)
	return [3]float64{d.X, d.Y, d.Z}, err
}

// Chord is the tolerance of the mesh that is compared and shown, mm.
const Chord = 0.02

// Geometry is a part in the coordinates of a setup, with what follows from it.
type Geometry struct {
	Key    string
	Shape  string     // names the body with its changes: numbers of faces hold for it alone
	Frame  geom.Frame // setup → part coordinates
	Solid  *brep.Solid
	Mesh   *mesh.Mesh
	Shadow *section.Shadow
	Work   workplan.Work

	Fixtures []removal.Fixture
	Holding  *mesh.Mesh // of the fixtures
	Short    float64    // how far the part reaches out of stock that is no block, mm
}

// Place puts the model into a setup and finds its features.
func Place(ctx context.Context, m *Model, s workplan.Setup) (*Geometry, error) {
	if err := s.Validate(); err != nil {
		return nil, err
	}
	body, _, err := m.Target(s)
	if err != nil {
		return nil, err
	}
	stockBox, stock, err := m.blankFor(s)
	if err != nil {
		return nil, err
	}
	frame := s.Frame(func(f geom.Frame) (part, around geom.Box) {
		part = body.Transform(f.Inverse()).Box()
		if stockBox != nil {
			return part, stockBox(part, f)
		}
		return part, s.Stock.Around(part)
	})
	g := &Geometry{Key: geometryKey(m, s), Shape: hashOf(m.Hash, s.Body, s.Layers, s.Prepare), Frame: frame, Solid: body.Transform(frame.Inverse())}
	if g.Mesh, err = g.Solid.Tessellate(Chord); err != nil {
		return nil, fmt.Errorf("the surface of the part cannot be filled with triangles: %w", err)
	}
	set, shadow, err := feature.Recognise(ctx, g.Solid, s.Groups...)
	if err != nil {
		return nil, err
	}
	set.Amend(s.Amend)
	g.Shadow = shadow
	part := g.Solid.Box()
	g.Work = workplan.Work{Features: set, Part: part, Stock: s.Stock.Around(part)}
	if stock != nil {
		if g.Work.Blank, err = stock(part, frame); err != nil {
			return nil, fmt.Errorf("the stock cannot be used: %w", err)
		}
		g.Work.Stock = g.Work.Blank.Box
		g.Short = short(g.Mesh, g.Work.Blank)
	}
	if g.Fixtures, g.Holding, err = m.fixtures(s, frame); err != nil {
		return nil, err
	}
	g.Work.High = g.Work.Stock.Max.Z
	for _, f := range g.Fixtures {
		g.Work.High = math.Max(g.Work.High, f.Top)
	}
	return g, nil
}

// geometryKey names all that the geometry depends on.
func geometryKey(m *Model, s workplan.Setup) string {
	return hashOf(m.Hash, s.Body, s.Layers, s.Prepare, s.Groups, s.Amend, s.Up, s.Stock, s.Blank, s.Fixtures, s.Origin)
}

// hashOf returns a short hash of values in their printed form.
func hashOf(v ...any) string {
	h := sha256.New()
	for _, x := range v {
		fmt.Fprintf(h, "%#v\x00", x)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
