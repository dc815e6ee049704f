package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"arete/core/brep"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/mesh"
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
	Frame  geom.Frame // setup → part coordinates
	Solid  *brep.Solid
	Mesh   *mesh.Mesh
	Shadow *section.Shadow
	Work   workplan.Work
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
	frame := s.Frame(func(f geom.Frame) geom.Box { return body.Transform(f.Inverse()).Box() })
	g := &Geometry{Key: geometryKey(m, s), Frame: frame, Solid: body.Transform(frame.Inverse())}
	if g.Mesh, err = g.Solid.Tessellate(Chord); err != nil {
		return nil, fmt.Errorf("the surface of the part cannot be filled with triangles: %w", err)
	}
	set, shadow, err := feature.Recognise(ctx, g.Solid)
	if err != nil {
		return nil, err
	}
	set.Amend(s.Amend)
	g.Shadow = shadow
	part := g.Solid.Box()
	g.Work = workplan.Work{Features: set, Part: part, Stock: s.Stock.Around(part)}
	return g, nil
}

// geometryKey names all that the geometry depends on.
func geometryKey(m *Model, s workplan.Setup) string {
	return hashOf(m.Hash, s.Body, s.Layers, s.Prepare, s.Amend, s.Up, s.Stock, s.Origin)
}

// hashOf returns a short hash of values in their printed form.
func hashOf(v ...any) string {
	h := sha256.New()
	for _, x := range v {
		fmt.Fprintf(h, "%#v\x00", x)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
