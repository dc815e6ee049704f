package planar

import (
	"container/heap"
	"math"
	"sort"

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

// Within returns a point inside the region, not close to its boundary: of the
// middles of the widest stretches on some lines across, the one farthest from
// the boundary. It takes a small part of Deepest's time.
func (r Region) Within() geom.V2 {
	const lines = 7
	lo, hi := r.Bounds()
	best, far := geom.V2{}, 0.0
	for k := 0; k < lines; k++ {
		y := lo.Y + (hi.Y-lo.Y)*(float64(k)+0.49)/lines
		xs := r.across(y)
		wide, mid := 0.0, 0.0
		for i := 1; i < len(xs); i++ {
			m := (xs[i-1] + xs[i]) / 2
			if w := xs[i] - xs[i-1]; w > wide && r.Contains(geom.V2{X: m, Y: y}) {
				wide, mid = w, m
			}
		}
		if wide == 0 {
			continue
		}
		if d := r.Dist(geom.V2{X: mid, Y: y}); d > far {
			best, far = geom.V2{X: mid, Y: y}, d
		}
	}
	if far == 0 {
		best, _ = r.Deepest(math.Min(hi.X-lo.X, hi.Y-lo.Y) / 20)
	}
	return best
}

// across returns where the boundary crosses a level line, in order.
func (r Region) across(y float64) []float64 {
	var xs []float64
	for _, l := range r {
		for _, s := range l {
			xs = append(xs, s.atHeight(y)...)
		}
	}
	sort.Float64s(xs)
	return xs
}

// atHeight returns the x of the points of a segment on a level line.
func (s Segment) atHeight(y float64) []float64 {
	if !s.IsArc() {
		if (s.A.Y <= y) == (s.B.Y <= y) {
			return nil
		}
		return []float64{s.A.X + (s.B.X-s.A.X)*(y-s.A.Y)/(s.B.Y-s.A.Y)}
	}
	var out []float64
	r, dy := s.Radius(), y-s.C.Y
	if math.Abs(dy) >= r {
		return nil
	}
	for _, h := range [2]float64{-1, 1} {
		p := geom.V2{X: s.C.X + h*math.Sqrt((r-dy)*(r+dy)), Y: y}
		if s.spans(p) {
			out = append(out, p.X)
		}
	}
	return out
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
