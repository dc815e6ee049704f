// Package removal cuts the stock: a grid of vertical dexels (Van Hook 1986),
// each holding the height to which material stands, lowered by every move of
// the tool. Tools come from +Z, so that one height a dexel is enough: stock
// that is no block is as high as seen from there, and counts as full below.
//
// A dexel is cut exactly: level lines and arcs in closed form, slopes by the
// minimum of a convex function. What the grid cannot show is anything between
// the dexels: a volume is right to within half a cell times the area of the
// walls, V ± (h/2)·ΣL·H. Lengths mm, times s.
package removal

import (
	"math"
	"slices"

	"arete/core/geom"
)

// Grid is the stock.
type Grid struct {
	Min    geom.V2 // lower left corner
	DX, DY float64 // spacing of the cells
	NX, NY int
	Top    float64
	Bottom float64
	Z      []float32 // height at the cell centres, row by row
	Start  []float32 // what Z began as, nil for a block
	Log    *Log      // when set, every lowering is recorded
}

// NewGrid returns a box of stock with dexels of the given spacing; the spacing
// shrinks a little so that whole cells fill the box.
func NewGrid(box geom.Box, cell float64) *Grid {
	size := box.Size()
	const most = 4000
	cell = math.Max(cell, math.Max(size.X, size.Y)/most)
	g := &Grid{Min: box.Min.XY(), Top: box.Max.Z, Bottom: box.Min.Z,
		NX: max(1, int(math.Ceil(size.X/cell-1e-9))), NY: max(1, int(math.Ceil(size.Y/cell-1e-9)))}
	g.DX, g.DY = size.X/float64(g.NX), size.Y/float64(g.NY)
	g.Z = make([]float32, g.NX*g.NY)
	for i := range g.Z {
		g.Z[i] = float32(g.Top)
	}
	return g
}

// Shape lowers the block to stock of another shape: heights at the centres of
// the cells, row by row.
func (g *Grid) Shape(heights []float64) {
	for i, z := range heights {
		g.Z[i] = float32(math.Max(g.Bottom, math.Min(g.Top, z)))
	}
	g.Start = slices.Clone(g.Z)
}

// Center returns the middle of cell (i, j).
func (g *Grid) Center(i, j int) geom.V2 {
	return geom.V2{X: g.Min.X + (float64(i)+0.5)*g.DX, Y: g.Min.Y + (float64(j)+0.5)*g.DY}
}

// Volume returns what is left, mm³.
func (g *Grid) Volume() float64 {
	v := 0.0
	for _, z := range g.Z {
		v += float64(z) - g.Bottom
	}
	return v * g.DX * g.DY
}

// Log records the life of every dexel, so that the stock at any time can be
// had in either direction of time.
type Log struct {
	Head []int32 // for each cell: its newest event, −1 for none
	Prev []int32
	Time []float32
	Z    []float32
}

// Record starts a log.
func (g *Grid) Record() {
	g.Log = &Log{Head: make([]int32, len(g.Z))}
	for i := range g.Log.Head {
		g.Log.Head[i] = -1
	}
}

// logStep is how much a dexel must drop, mm, or time pass, s, for an event of
// its own; smaller ones are folded into the last.
const (
	logDrop = 0.02
	logTime = 0.05
)

func (l *Log) add(cell int, t, z, old float32) {
	h := l.Head[cell]
	if h >= 0 && t-l.Time[h] < logTime && old-z < logDrop {
		l.Z[h] = z
		return
	}
	l.Head[cell] = int32(len(l.Time))
	l.Prev = append(l.Prev, h)
	l.Time = append(l.Time, t)
	l.Z = append(l.Z, z)
}
