package blank

import (
	"math"

	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/planar"
)

// Relief is a mesh as heights over a grid: the highest point over the centre of
// each cell, −∞ where there is none.
type Relief struct {
	Min    geom.V2 // lower left corner
	Cell   float64
	NX, NY int
	Z      []float64 // row by row
	Top    float64
}

// NewRelief lays a grid over a mesh, with a cell to spare all around.
func NewRelief(m *mesh.Mesh, cell float64) *Relief {
	box := m.Box()
	size := box.Size()
	r := &Relief{Cell: cell, NX: int(math.Ceil(size.X/cell)) + 2, NY: int(math.Ceil(size.Y/cell)) + 2, Top: box.Max.Z}
	r.Min = box.Center().XY().Sub(geom.V2{X: float64(r.NX), Y: float64(r.NY)}.Mul(cell / 2))
	r.Z = Heights(m, r.Min, cell, cell, r.NX, r.NY)
	return r
}

// Heights returns the highest point of a mesh over the centres of a grid of
// cells, row by row, −∞ where there is none.
func Heights(m *mesh.Mesh, corner geom.V2, dx, dy float64, nx, ny int) []float64 {
	out := make([]float64, nx*ny)
	for i := range out {
		out[i] = math.Inf(-1)
	}
	for _, t := range m.Tris {
		a, b, c := m.Points[t[0]], m.Points[t[1]], m.Points[t[2]]
		area := b.XY().Sub(a.XY()).Cross(c.XY().Sub(a.XY()))
		if area == 0 {
			continue
		}
		lo := func(p, q, r, o, d float64) int { return max(0, int(math.Ceil((min(p, q, r)-o)/d-0.5))) }
		hi := func(p, q, r, o, d float64, n int) int {
			return min(n-1, int(math.Floor((max(p, q, r)-o)/d-0.5)))
		}
		for j := lo(a.Y, b.Y, c.Y, corner.Y, dy); j <= hi(a.Y, b.Y, c.Y, corner.Y, dy, ny); j++ {
			for i := lo(a.X, b.X, c.X, corner.X, dx); i <= hi(a.X, b.X, c.X, corner.X, dx, nx); i++ {
				p := geom.V2{X: corner.X + (float64(i)+0.5)*dx, Y: corner.Y + (float64(j)+0.5)*dy}
				u := b.XY().Sub(p).Cross(c.XY().Sub(p)) / area
				v := c.XY().Sub(p).Cross(a.XY().Sub(p)) / area
				if w := 1 - u - v; u >= -1e-12 && v >= -1e-12 && w >= -1e-12 {
					out[j*nx+i] = math.Max(out[j*nx+i], u*a.Z+v*b.Z+w*c.Z)
				}
			}
		}
	}
	return out
}

// at returns the height over a cell, −∞ beyond the grid.
func (r *Relief) at(i, j int) float64 {
	if i < 0 || j < 0 || i >= r.NX || j >= r.NY {
		return math.Inf(-1)
	}
	return r.Z[j*r.NX+i]
}

// Contour returns the region that rises above z, up to two cells larger and
// never smaller: a tool must not meet stock that it does not know of.
func (r *Relief) Contour(z float64) planar.Region {
	high := func(i, j int) bool { return r.at(i, j) > z+1e-6 }
	// Each high cell gives its four sides; sides between two high cells cancel.
	type corner struct{ i, j int }
	next := map[corner][]corner{}
	for j := range r.NY {
		for i := range r.NX {
			if !high(i, j) {
				continue
			}
			for _, s := range [4]struct {
				beside bool
				a, b   corner
			}{{high(i, j-1), corner{i, j}, corner{i + 1, j}}, {high(i+1, j), corner{i + 1, j}, corner{i + 1, j + 1}},
				{high(i, j+1), corner{i + 1, j + 1}, corner{i, j + 1}}, {high(i-1, j), corner{i, j + 1}, corner{i, j}}} {
				if !s.beside {
					next[s.a] = append(next[s.a], s.b)
				}
			}
		}
	}
	var out planar.Region
	for j := range r.NY + 1 {
		for i := range r.NX + 1 {
			for start := (corner{i, j}); len(next[start]) > 0; {
				var pts []geom.V2
				for c := start; len(next[c]) > 0; {
					n := next[c][len(next[c])-1]
					next[c] = next[c][:len(next[c])-1]
					pts = append(pts, r.Min.Add(geom.V2{X: float64(c.i), Y: float64(c.j)}.Mul(r.Cell)))
					if c = n; c == start {
						break
					}
				}
				if l := outline(pts, r.Cell); len(l) > 2 {
					out = append(out, l)
				}
			}
		}
	}
	return planar.Offset(planar.Normalize(out, planar.DefaultTolerance), r.Cell, planar.DefaultTolerance)
}

// outline makes a loop of a chain of cell corners, thinned to within three
// quarters of a cell (Douglas and Peucker 1973).
func outline(pts []geom.V2, cell float64) planar.Loop {
	if len(pts) < 4 {
		return nil
	}
	far := 0
	for i, p := range pts {
		if p.Dist(pts[0]) > pts[far].Dist(pts[0]) {
			far = i
		}
	}
	keep := append(thin(pts[:far+1], 0.75*cell), thin(append(append([]geom.V2{}, pts[far:]...), pts[0]), 0.75*cell)...)
	var l planar.Loop
	for i, p := range keep {
		if q := keep[(i+1)%len(keep)]; p.Dist(q) > 1e-9 {
			l = append(l, planar.Line(p, q))
		}
	}
	return l
}

// thin drops points that lie within tol of the chord; the last one is left to
// the next stretch.
func thin(p []geom.V2, tol float64) []geom.V2 {
	if len(p) < 3 {
		return p[:len(p)-1]
	}
	a, z := p[0], p[len(p)-1]
	d := z.Sub(a)
	worst, at := 0.0, 0
	for i := 1; i < len(p)-1; i++ {
		off := p[i].Dist(a)
		if l := d.Len(); l > 0 {
			off = math.Abs(d.Cross(p[i].Sub(a))) / l
		}
		if off > worst {
			worst, at = off, i
		}
	}
	if worst <= tol {
		return []geom.V2{a}
	}
	return append(thin(p[:at+1], tol), thin(p[at:], tol)...)
}
