package removal

import (
	"math"
	"slices"

	"arete/core/geom"
	"arete/core/mesh"
)

// At returns the heights of all cells at time t, s; without a log, or for a
// time past its end, as they are now.
func (g *Grid) At(t float64) []float32 {
	out := slices.Clone(g.Z)
	if g.Log == nil {
		return out
	}
	for cell := range out {
		e := g.Log.Head[cell]
		for e >= 0 && float64(g.Log.Time[e]) > t {
			e = g.Log.Prev[e]
		}
		if e >= 0 {
			out[cell] = g.Log.Z[e]
		} else if g.Log.Head[cell] >= 0 {
			out[cell] = g.start(cell)
		}
	}
	return out
}

func (g *Grid) start(cell int) float32 {
	if g.Start == nil {
		return float32(g.Top)
	}
	return g.Start[cell]
}

// Mesh returns the stock of the given heights as the columns that it is: a
// closed mesh of exactly their volume. Walls between columns are divided where
// others meet them, so that every side has its neighbour.
func (g *Grid) Mesh(heights []float32) *mesh.Mesh {
	b := &columns{g: g, z: heights, m: &mesh.Mesh{}, at: map[corner]int32{}}
	for j := range g.NY {
		for i := range g.NX {
			top := b.height(i, j)
			if top <= g.Bottom {
				continue
			}
			b.quad(b.point(i, j, top), b.point(i+1, j, top), b.point(i+1, j+1, top), b.point(i, j+1, top))
			b.quad(b.point(i, j, g.Bottom), b.point(i, j+1, g.Bottom), b.point(i+1, j+1, g.Bottom), b.point(i+1, j, g.Bottom))
		}
	}
	for j := range g.NY {
		for i := range g.NX + 1 {
			b.wall(b.height(i-1, j), b.height(i, j), [2]int{i, j}, [2]int{i, j + 1})
		}
	}
	for j := range g.NY + 1 {
		for i := range g.NX {
			b.wall(b.height(i, j-1), b.height(i, j), [2]int{i + 1, j}, [2]int{i, j})
		}
	}
	b.m.Face = make([]int32, len(b.m.Tris))
	return b.m
}

// corner is a grid point at a height.
type corner struct {
	i, j int
	z    float64
}

type columns struct {
	g  *Grid
	z  []float32
	m  *mesh.Mesh
	at map[corner]int32
}

// height is the top of a column, the bottom outside the grid and where cut
// through.
func (b *columns) height(i, j int) float64 {
	if i < 0 || j < 0 || i >= b.g.NX || j >= b.g.NY {
		return b.g.Bottom
	}
	return math.Max(b.g.Bottom, float64(b.z[j*b.g.NX+i]))
}

func (b *columns) point(i, j int, z float64) int32 {
	k := corner{i, j, z}
	n, ok := b.at[k]
	if !ok {
		n = int32(len(b.m.Points))
		b.m.Points = append(b.m.Points, geom.V3{X: b.g.Min.X + float64(i)*b.g.DX, Y: b.g.Min.Y + float64(j)*b.g.DY, Z: z})
		b.at[k] = n
	}
	return n
}

func (b *columns) quad(p, q, r, s int32) {
	b.m.Tris = append(b.m.Tris, [3]int32{p, q, r}, [3]int32{p, r, s})
}

// wall closes the step between two columns. Seen from the lower side of a drop
// from before to after, p is on the left.
func (b *columns) wall(before, after float64, p, q [2]int) {
	if before == after {
		return
	}
	if after > before {
		p, q = q, p
	}
	lo, hi := math.Min(before, after), math.Max(before, after)
	left, right := b.post(p, lo, hi), b.post(q, lo, hi)
	for i, j := 0, 0; i < len(left)-1 || j < len(right)-1; { // zip the two posts
		l, r := b.point(p[0], p[1], left[i]), b.point(q[0], q[1], right[j])
		if j == len(right)-1 || i < len(left)-1 && left[i+1] <= right[j+1] {
			i++
			b.m.Tris = append(b.m.Tris, [3]int32{l, r, b.point(p[0], p[1], left[i])})
		} else {
			j++
			b.m.Tris = append(b.m.Tris, [3]int32{l, r, b.point(q[0], q[1], right[j])})
		}
	}
}

// post returns the heights at which columns around a grid point end between lo
// and hi, both included.
func (b *columns) post(at [2]int, lo, hi float64) []float64 {
	out := []float64{lo, hi}
	for _, d := range [4][2]int{{-1, -1}, {0, -1}, {-1, 0}, {0, 0}} {
		if z := b.height(at[0]+d[0], at[1]+d[1]); z > lo && z < hi {
			out = append(out, z)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
