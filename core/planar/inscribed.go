package planar

import (
	"container/heap"
	"math"

	"arete/core/geom"
)

// Deepest returns the point of the region farthest from its boundary, to
// within precision, and that distance: the centre of the largest disc that
// fits. Cells of a quadtree are refined in the order of the best they could
// still hold.
func (r Region) Deepest(precision float64) (geom.V2, float64) {
	lo, hi := r.Bounds()
	if r.Empty() {
		return geom.V2{}, 0
	}
	size := math.Min(hi.X-lo.X, hi.Y-lo.Y)
	precision = math.Min(precision, size/20)
	size = math.Max(size, math.Max(hi.X-lo.X, hi.Y-lo.Y)/50)
	q := &cells{}
	var best cell
	push := func(c geom.V2, half float64) {
		d := r.Dist(c)
		if !r.Contains(c) {
			d = -d
		}
		k := cell{c, half, d, d + half*math.Sqrt2}
		if k.d > best.d {
			best = k
		}
		if k.max > best.d+precision {
			heap.Push(q, k)
		}
	}
	for x := lo.X; x < hi.X; x += size {
		for y := lo.Y; y < hi.Y; y += size {
			push(geom.V2{X: x + size/2, Y: y + size/2}, size/2)
		}
	}
	for q.Len() > 0 {
		k := heap.Pop(q).(cell)
		if k.max <= best.d+precision {
			break
		}
		for i := 0; i < 4; i++ {
			h := k.half / 2
			push(geom.V2{X: k.c.X + h*float64(2*(i&1)-1), Y: k.c.Y + h*float64(i&2-1)}, h)
		}
	}
	return best.c, best.d
}

type cell struct {
	c            geom.V2
	half, d, max float64
}

type cells []cell

func (c cells) Len() int           { return len(c) }
func (c cells) Less(i, j int) bool { return c[i].max > c[j].max }
func (c cells) Swap(i, j int)      { c[i], c[j] = c[j], c[i] }
func (c *cells) Push(x any)        { *c = append(*c, x.(cell)) }
func (c *cells) Pop() any {
	old := *c
	k := old[len(old)-1]
	*c = old[:len(old)-1]
	return k
}
