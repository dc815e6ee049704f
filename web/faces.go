package web

import (
	"math"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"arete/core/brep"
	"arete/core/geom"
	"arete/shop"
)

// faces describes every face for the read-out.
func (s *Server) faces(c *echo.Context) error {
	_, st, err := s.ready(c)
	if err != nil {
		return err
	}
	g := st.Result.Geometry
	type row struct {
		Kind    string    `json:"kind"`
		Radius  float64   `json:"radius,omitempty"`
		Level   float64   `json:"level"`
		Flat    bool      `json:"flat"`
		Area    float64   `json:"area"`
		Feature string    `json:"feature"`
		Title   string    `json:"title"`
		ID      int       `json:"id"`
		Axis    []float64 `json:"axis,omitempty"` // X and Y of an upright axis
		Dir     []float64 `json:"dir,omitempty"`  // outward normal of a plane, axis of a round face
		At      []float64 `json:"at,omitempty"`   // a point of the plane or axis
		Colour  uint32    `json:"colour,omitempty"`
		Smooth  []int     `json:"smooth,omitempty"` // faces that go on without an edge
	}
	place := func(r *row, at, dir geom.V3) {
		r.At, r.Dir = []float64{at.X, at.Y, at.Z}, []float64{dir.X, dir.Y, dir.Z}
	}
	out := make([]row, len(g.Solid.Faces))
	smooth := smoothNeighbours(g.Solid)
	for i, f := range g.Solid.Faces {
		r := row{Kind: string(f.Surface.Kind()), Area: math.Round(f.Area()*100) / 100, ID: f.ID, Colour: f.Colour, Smooth: smooth[i]}
		if r.Colour == 0 {
			r.Colour = g.Solid.Colour
		}
		switch q := f.Surface.(type) {
		case brep.Plane:
			r.Flat = math.Abs(q.F.Z.Z) > 1-1e-9
			r.Level = math.Round(q.F.O.Z*1000) / 1000
			place(&r, q.F.O, f.NormalAt(q.F.O))
		case brep.Cylinder:
			r.Radius = math.Round(q.R*1000) / 1000
			if math.Abs(q.F.Z.Z) > 1-1e-9 {
				r.Axis = []float64{q.F.O.X, q.F.O.Y}
			}
			place(&r, q.F.O, q.F.Z)
		case brep.Cone:
			place(&r, q.F.O, q.F.Z)
		case brep.Torus:
			r.Radius = math.Round(q.Minor*1000) / 1000
			place(&r, q.F.O, q.F.Z)
		case brep.Sphere:
			r.Radius = math.Round(q.R*1000) / 1000
		}
		if k := g.Work.Features.Owner[i]; k >= 0 {
			r.Feature, r.Title = g.Work.Features.Features[k].ID, g.Work.Features.Features[k].Title()
		}
		out[i] = r
	}
	return c.JSON(http.StatusOK, out)
}

// smoothNeighbours lists for each face those that it runs into tangentially.
func smoothNeighbours(s *brep.Solid) [][]int {
	index := make(map[*brep.Face]int, len(s.Faces))
	for i, f := range s.Faces {
		index[f] = i
	}
	out := make([][]int, len(s.Faces))
	for _, e := range s.Edges {
		if len(e.Uses) != 2 || e.Uses[0].Face == e.Uses[1].Face || e.Shape() != brep.Smooth {
			continue
		}
		a, b := index[e.Uses[0].Face], index[e.Uses[1].Face]
		if !slices.Contains(out[a], b) {
			out[a], out[b] = append(out[a], b), append(out[b], a)
		}
	}
	return out
}

// edges describes the edges in the order in which model.bin draws them, with
// the number of chords of each.
func (s *Server) edges(c *echo.Context) error {
	_, st, err := s.ready(c)
	if err != nil {
		return err
	}
	type row struct {
		Kind   string  `json:"kind"`
		Length float64 `json:"length"`
		Radius float64 `json:"radius,omitempty"`
		Angle  float64 `json:"angle,omitempty"` // degrees
		Chords int     `json:"chords"`
		Loops  []int   `json:"loops"` // that it is part of
	}
	out := []row{}
	loops := loopsOf(st.Result.Geometry.Solid)
	for _, e := range drawnEdges(st.Result.Geometry.Solid) {
		r := row{Kind: "curve", Length: math.Round(e.Len()*1e4) / 1e4, Chords: len(e.Points(edgeChord)) - 1, Loops: loops[e]}
		switch k := e.Curve.(type) {
		case brep.Line:
			r.Kind = "line"
		case brep.Circle:
			r.Kind, r.Radius, r.Angle = "arc", math.Round(k.R*1e4)/1e4, math.Round((e.T1-e.T0)*180/math.Pi*1e3)/1e3
			if r.Angle > 359.999 {
				r.Kind = "circle"
			}
		}
		out = append(out, r)
	}
	return c.JSON(http.StatusOK, out)
}

// loopsOf numbers the loops of a solid and tells for each edge in which it is.
func loopsOf(s *brep.Solid) map[*brep.Edge][]int {
	out := map[*brep.Edge][]int{}
	n := 0
	for _, f := range s.Faces {
		for _, l := range f.Loops {
			for _, c := range l.Coedges {
				out[c.Edge] = append(out[c.Edge], n)
			}
			n++
		}
	}
	return out
}

// edgeChord is how far the drawn edges may lie off, mm.
const edgeChord = 0.02

// drawnEdges are those between two faces; seams are not shown.
func drawnEdges(s *brep.Solid) []*brep.Edge {
	var out []*brep.Edge
	for _, e := range s.Edges {
		if len(e.Uses) != 2 || e.Uses[0].Face != e.Uses[1].Face {
			out = append(out, e)
		}
	}
	return out
}

// bodies sends the meshes of all other bodies of the model in setup
// coordinates, each triangle with its body's number.
func (s *Server) bodies(c *echo.Context) error {
	r, m, err := s.computed(c)
	if err != nil {
		return err
	}
	setup := r.Plan.Setup
	all, err := m.All(setup)
	if err != nil {
		return err
	}
	_, cut, err := m.Body(setup)
	if err != nil {
		return err
	}
	to := r.Geometry.Frame.Inverse()
	var p packer
	for i, b := range all {
		if i == cut {
			continue
		}
		mesh, err := b.Tessellate(5 * shop.Chord)
		if err != nil {
			continue // it is only shown
		}
		for _, t := range mesh.Tris {
			for _, v := range t {
				q := to.ToWorld(mesh.Points[v])
				p.f32(q.X, q.Y, q.Z)
			}
			p.f32(float64(i + 1))
		}
	}
	return p.send(c)
}

// openChord is how far the lines of open chains may lie off, mm.
const openChord = 0.05

// openChains sends the chains of a drawing that do not close, as pairs of
// points on the part's top: each chain begins and ends with a point twice.
func (s *Server) openChains(c *echo.Context) error {
	r, m, err := s.computed(c)
	if err != nil {
		return err
	}
	to := r.Geometry.Frame.Inverse()
	var p packer
	put := func(q geom.V2) {
		v := to.ToWorld(q.At(0))
		p.f32(v.X, v.Y, v.Z)
	}
	for _, o := range m.Open {
		put(o.Chain[0].A)
		put(o.Chain[0].A)
		for _, g := range o.Chain {
			n := 1
			if g.IsArc() {
				n = max(1, int(math.Ceil(math.Abs(g.Sweep())/math.Sqrt(8*openChord/g.Radius()))))
			}
			for k := range n {
				put(g.At(float64(k) / float64(n)))
				put(g.At(float64(k+1) / float64(n)))
			}
		}
		end := o.Chain[len(o.Chain)-1].B
		put(end)
		put(end)
	}
	return p.send(c)
}
