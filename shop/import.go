package shop

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/exchange/dxf"
	"arete/core/exchange/step"
	"arete/core/exchange/stl"
	"arete/core/fitting"
	"arete/core/geom"
	"arete/core/workplan"
)

// Model is an imported part.
type Model struct {
	Hash     string // of the file
	Name     string // of the product, from the file
	Unit     string
	Bodies   []step.Body
	Problems []string
	Chains   []drawing.Chain // of a flat drawing, which the setup's layers make a part of
	Open     []drawing.Open  // chains of the drawing whose ends do not meet
	levels   []drawing.Level // of its layers until they are set

	Attached map[string]*Attached // files of stock and fixtures, by hash
}

// Import reads a STEP file, a triangle mesh (STL) or a flat drawing (DXF): the
// content tells which. The text is kept as long as the reading takes, not
// longer.
func Import(data []byte) (*Model, error) {
	var m *Model
	var err error
	switch {
	case stl.Is(data):
		m, err = importMesh(data)
	case dxf.Is(data):
		m, err = importDrawing(data)
	case !bytes.Contains(data[:min(len(data), 4096)], []byte("ISO-10303")):
		err = errors.New("neither a STEP file nor a whole STL mesh nor a DXF drawing in text form; choose another file, or export it again if it was cut off")
	default:
		var s *step.Model
		if s, err = step.Parse(data); err == nil {
			m, err = fromSTEP(s)
		}
	}
	if err != nil {
		return nil, err
	}
	h := sha256.Sum256(data)
	m.Hash = hex.EncodeToString(h[:])
	return m, nil
}

// fromSTEP takes the bodies of a STEP file; of one that gives triangles alone
// the bodies that these were made of.
func fromSTEP(s *step.Model) (*Model, error) {
	m := &Model{Name: s.Name, Unit: s.Unit, Bodies: s.Bodies, Problems: s.Problems}
	triangles := 0
	for _, t := range s.Meshes {
		solids, err := fitting.Solids(t)
		if err != nil {
			return nil, err
		}
		triangles += len(t.Tris)
		m.Bodies = append(m.Bodies, placed(solids)...)
	}
	if triangles > 0 {
		faces := 0
		for _, b := range m.Bodies {
			faces += len(b.Faces)
		}
		m.Problems = append(m.Problems, fmt.Sprintf("the file gives its bodies as %d triangles alone; %d faces were found again in them", triangles, faces))
	}
	return m, nil
}

// importMesh finds the solids that a mesh was made of.
func importMesh(data []byte) (*Model, error) {
	mesh, err := stl.Read(data)
	if err != nil {
		return nil, err
	}
	solids, err := fitting.Solids(mesh)
	if err != nil {
		return nil, err
	}
	m := &Model{Unit: "mm", Bodies: placed(solids)}
	faces := 0
	for _, s := range solids {
		faces += len(s.Faces)
	}
	m.Problems = []string{fmt.Sprintf("the file is a mesh of %d triangles without a unit: taken as mm; %d faces were found again in it", len(mesh.Tris), faces)}
	return m, nil
}

// importDrawing joins the curves of a drawing and raises them by their layers'
// default levels.
func importDrawing(data []byte) (*Model, error) {
	d, err := dxf.Read(data)
	if err != nil {
		return nil, err
	}
	m := &Model{Unit: d.Unit, Problems: d.Notes}
	m.Chains, m.Open = drawing.Join(d.Curves, drawing.JoinWithin)
	for i, o := range m.Open {
		if i == 8 {
			m.Problems = append(m.Problems, fmt.Sprintf("%d more chains are open", len(m.Open)-i))
			break
		}
		m.Problems = append(m.Problems, o.Where())
	}
	if len(m.Chains) == 0 {
		say := ""
		if len(m.Open) > 0 {
			say = ": " + m.Open[0].Where()
		}
		return nil, errors.New("the drawing has no closed chain" + say + "; close the outline and export it again")
	}
	m.levels = drawing.DefaultLevels(m.Chains)
	solids, err := drawing.Solids(m.Chains, m.levels)
	if err != nil { // the outline alone, until layers that go together are switched on
		m.Problems = append(m.Problems, err.Error())
		drawing.OutlineOnly(m.Chains, m.levels)
		if solids, err = drawing.Solids(m.Chains, m.levels); err != nil {
			return nil, err
		}
	}
	m.Bodies = placed(solids)
	m.Problems = append(m.Problems, fmt.Sprintf("a flat drawing: %d mm thick and cut right through until the levels of its layers are set", drawing.Thickness))
	return m, nil
}

func placed(solids []*brep.Solid) []step.Body {
	out := make([]step.Body, len(solids))
	for i, s := range solids {
		out[i] = step.Body{Solid: s, Placement: geom.Identity()}
	}
	return out
}

// Levels returns the levels of a drawing's layers in a setup.
func (m *Model) Levels(s workplan.Setup) []drawing.Level {
	if len(s.Layers) > 0 || len(m.Chains) == 0 {
		return s.Layers
	}
	return m.levels
}

// All returns the bodies that a setup chooses from.
func (m *Model) All(s workplan.Setup) ([]step.Body, error) {
	if len(m.Chains) == 0 || len(s.Layers) == 0 {
		return m.Bodies, nil
	}
	solids, err := drawing.Solids(m.Chains, s.Layers)
	return placed(solids), err
}

// Body returns the body that a setup cuts and its place among all: the one
// chosen, or the one with the greatest volume.
func (m *Model) Body(s workplan.Setup) (*brep.Solid, int, error) {
	all, err := m.All(s)
	if err != nil {
		return nil, 0, err
	}
	if s.Body > len(all) {
		return nil, 0, workplan.Problem{Field: "body", Say: fmt.Sprintf("the model has %d bodies: choose one of them", len(all))}
	}
	if s.Body > 0 {
		return all[s.Body-1].Solid, s.Body - 1, nil
	}
	best, size := 0, math.Inf(-1)
	for i, b := range all {
		if v, _ := b.Mass(); v > size {
			best, size = i, v
		}
	}
	return all[best].Solid, best, nil
}

// Solids returns all bodies where they are placed.
func (m *Model) Solids() []*brep.Solid {
	out := make([]*brep.Solid, len(m.Bodies))
	for i, b := range m.Bodies {
		out[i] = b.Solid
	}
	return out
}
