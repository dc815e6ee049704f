package brep

import (
	"math"
	"slices"

	"arete/core/geom"
)

// mostOpen is up to how many open edges each is held against each; a shell
// with more is not nearly closed.
const mostOpen = 4000

// SplitOpen divides open edges where the end of another open edge lies on
// them, and returns how many places that were: one long edge against two short
// ones can then be sewn.
func (s *Solid) SplitOpen(tol float64) int {
	var open []*Edge
	for _, e := range s.Edges {
		if len(e.Uses) == 1 {
			open = append(open, e)
		}
	}
	if len(open) > mostOpen {
		return 0
	}
	boxes := make([]geom.Box, len(open))
	for i, e := range open {
		boxes[i] = e.grow(geom.EmptyBox())
	}
	done := 0
	for i := 0; i < len(open); i++ {
		for k := range boxes {
			if k == i || k >= len(open) {
				continue
			}
			for _, v := range [2]*Vertex{open[k].A, open[k].B} {
				if !within(boxes[i], v.P, tol) {
					continue
				}
				if rest := open[i].splitAt(v.P, tol); rest != nil {
					s.Edges = append(s.Edges, rest)
					open = append(open, rest)
					boxes[i] = open[i].grow(geom.EmptyBox())
					boxes = append(boxes, rest.grow(geom.EmptyBox()))
					done++
				}
			}
		}
	}
	return done
}

func within(b geom.Box, p geom.V3, tol float64) bool {
	return p.X > b.Min.X-tol && p.X < b.Max.X+tol && p.Y > b.Min.Y-tol && p.Y < b.Max.Y+tol && p.Z > b.Min.Z-tol && p.Z < b.Max.Z+tol
}

// splitAt cuts an open edge at a point on it, not near its ends, and returns
// the later part, nil when the point is not there.
func (e *Edge) splitAt(p geom.V3, tol float64) *Edge {
	if p.Dist(e.A.P) < 2*tol || p.Dist(e.B.P) < 2*tol {
		return nil
	}
	t := e.Curve.Param(p)
	if period := e.Curve.Period(); period > 0 {
		t = e.T0 + math.Mod(t-e.T0+2*period, period)
	}
	if t <= e.T0 || t >= e.T1 || e.Curve.At(t).Dist(p) > tol {
		return nil
	}
	c := e.Uses[0]
	rest := &Edge{ID: e.ID, Curve: e.Curve, T0: t, T1: e.T1, A: &Vertex{e.Curve.At(t)}, B: e.B}
	next := &Coedge{Edge: rest, Forward: c.Forward, Face: c.Face}
	rest.Uses = []*Coedge{next}
	e.T1, e.B = t, rest.A
	for k := range c.Face.Loops {
		l := &c.Face.Loops[k]
		if i := slices.Index(l.Coedges, c); i >= 0 {
			if c.Forward {
				i++
			}
			l.Coedges = slices.Insert(l.Coedges, i, next)
		}
	}
	return rest
}
