package brep_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"arete/core/brep"
	"arete/core/drawing"
	"arete/core/geom"
	"arete/core/planar"
)

// plate has straight and round edges.
func plate(t require.TestingT) *brep.Solid {
	chains := []drawing.Chain{{Layer: "O", Loop: planar.Rect(0, 0, 60, 40)}, {Layer: "H", Loop: planar.Circle(geom.V2{X: 30, Y: 20}, 9)}}
	out, err := drawing.Solids(chains, []drawing.Level{{Layer: "O", Depth: 10}, {Layer: "H", Depth: 4}})
	require.NoError(t, err)
	return out[0]
}

// rip takes the two faces at an edge apart: the second gets an edge of its own,
// cut in two somewhere, moved a little.
func rip(s *brep.Solid, e *brep.Edge, at, gap float64) {
	c := e.Uses[1]
	e.Uses = e.Uses[:1]
	moved := func(v *brep.Vertex) *brep.Vertex { return &brep.Vertex{P: v.P.Add(geom.V3{X: gap, Z: gap})} }
	mid := e.T0 + (e.T1-e.T0)*at
	m := &brep.Vertex{P: e.Curve.At(mid)}
	first := &brep.Edge{Curve: e.Curve, T0: e.T0, T1: mid, A: moved(e.A), B: m}
	second := &brep.Edge{Curve: e.Curve, T0: mid, T1: e.T1, A: m, B: moved(e.B)}
	s.Edges = append(s.Edges, first, second)
	c.Edge = first
	other := &brep.Coedge{Edge: second, Forward: c.Forward, Face: c.Face}
	first.Uses, second.Uses = []*brep.Coedge{c}, []*brep.Coedge{other}
	for k := range c.Face.Loops {
		l := &c.Face.Loops[k]
		for i, u := range l.Coedges {
			if u != c {
				continue
			}
			if c.Forward {
				i++
			}
			l.Coedges = append(l.Coedges[:i:i], append([]*brep.Coedge{other}, l.Coedges[i:]...)...)
			break
		}
	}
}

// One long edge against two short ones, any number of times, is sewn, and the
// solid is the one it was.
func TestLongEdgesAreSewnToShortOnes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := plate(t)
		want, _ := s.Mass()
		edges := append([]*brep.Edge{}, s.Edges...)
		n := rapid.IntRange(1, 6).Draw(t, "n")
		for k := 0; k < n; k++ {
			e := edges[rapid.IntRange(0, len(edges)-1).Draw(t, "edge")]
			if len(e.Uses) == 2 {
				rip(s, e, rapid.Float64Range(0.1, 0.9).Draw(t, "at"), rapid.Float64Range(0, 1e-4).Draw(t, "gap"))
			}
		}
		require.Positive(t, s.OpenEdges())
		s.Sew(1e-3)
		require.Positive(t, s.OpenEdges(), "end to end they do not match")
		require.Positive(t, s.SplitOpen(1e-3))
		s.Sew(1e-3)
		require.Zero(t, s.OpenEdges())
		got, _ := s.Mass()
		assert.InDelta(t, want, got, 1e-4*want)
		m, err := s.Tessellate(0.05)
		require.NoError(t, err)
		require.Zero(t, m.OpenEdges())
	})
}
