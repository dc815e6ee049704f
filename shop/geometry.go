package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"

	"arete/core/brep"
	"arete/core/exchange/step"
	"arete/core/feature"
	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/section"
	"arete/core/workplan"
)

// Model is an imported part.
type Model struct {
	Hash     string // of the file
	Name     string // of the product, from the file
	Unit     string
	Bodies   []step.Body
	Problems []string
}

// Import reads the text of a STEP file. It is kept as long as the reading
// takes, not longer.
func Import(data []byte) (*Model, error) {
	m, err := step.Parse(data)
	if err != nil {
		return nil, err
	}
	h := sha256.Sum256(data)
	return &Model{Hash: hex.EncodeToString(h[:]), Name: m.Name, Unit: m.Unit, Bodies: m.Bodies, Problems: m.Problems}, nil
}

// Largest returns the body with the greatest volume: the one to cut.
func (m *Model) Largest() *brep.Solid {
	best, size := m.Bodies[0].Solid, math.Inf(-1)
	for _, b := range m.Bodies {
		if v, _ := b.Mass(); v > size {
			best, size = b.Solid, v
		}
	}
	return best
}

// Solids returns all bodies where they are placed.
func (m *Model) Solids() []*brep.Solid {
	out := make([]*brep.Solid, len(m.Bodies))
	for i, b := range m.Bodies {
		out[i] = b.Solid
	}
	return out
}

// BestUp returns the direction of the body to cut that should point to the
// spindle.
func BestUp(ctx context.Context, m *Model) ([3]float64, error) {
	d, err := feature.BestUp(ctx, m.Largest())
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
	body := m.Largest()
	frame := s.Frame(func(f geom.Frame) geom.Box { return body.Transform(f.Inverse()).Box() })
	g := &Geometry{Key: geometryKey(m, s), Frame: frame, Solid: body.Transform(frame.Inverse())}
	var err error
	if g.Mesh, err = g.Solid.Tessellate(Chord); err != nil {
		return nil, fmt.Errorf("the surface of the part cannot be filled with triangles: %w", err)
	}
	set, shadow, err := feature.Recognise(ctx, g.Solid)
	if err != nil {
		return nil, err
	}
	g.Shadow = shadow
	part := g.Solid.Box()
	g.Work = workplan.Work{Features: set, Part: part, Stock: s.Stock.Around(part)}
	return g, nil
}

// geometryKey names all that the geometry depends on.
func geometryKey(m *Model, s workplan.Setup) string {
	return hashOf(m.Hash, s.Up, s.Stock, s.Origin)
}

// hashOf returns a short hash of values in their printed form.
func hashOf(v ...any) string {
	h := sha256.New()
	for _, x := range v {
		fmt.Fprintf(h, "%#v\x00", x)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
