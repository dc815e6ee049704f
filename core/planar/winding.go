package planar

import (
	"math"

	"arete/core/geom"
)

// sides returns, for each piece in its stored direction, the winding numbers
// of both operands on its left and on its right.
//
// A ray from the middle of the piece, across its general direction, counts the
// pieces beyond. Pieces are monotone in x and y, so that each is crossed at
// most once, and the half-open rule on shared vertex coordinates makes every
// count consistent with its neighbours.
func (ar *arrangement) sides() (left, right [][2]int) {
	byY := newSlabs(ar, false)
	byX := newSlabs(ar, true)
	left, right = make([][2]int, len(ar.pieces)), make([][2]int, len(ar.pieces))
	for i, p := range ar.pieces {
		s := ar.seg(p)
		flat := math.Abs(s.B.X-s.A.X) > math.Abs(s.B.Y-s.A.Y)
		slab := byY
		if flat {
			slab = byX
		}
		beyond := slab.count(int32(i), s.At(0.5))
		forward := s.B.Y > s.A.Y // does the ray leave on the right?
		if flat {
			forward = s.B.X < s.A.X
		}
		for k := range beyond {
			if forward { // left side is before the piece
				right[i][k] = beyond[k]
				left[i][k] = beyond[k] + p.w[k]
			} else {
				left[i][k] = beyond[k]
				right[i][k] = beyond[k] - p.w[k]
			}
		}
	}
	return left, right
}

// slabs index the pieces by their extent across the ray.
type slabs struct {
	ar     *arrangement
	swap   bool // ray towards +y instead of +x
	lo, dx float64
	bins   [][]int32
	segs   []Segment
}

func newSlabs(ar *arrangement, swap bool) *slabs {
	s := &slabs{ar: ar, swap: swap, segs: make([]Segment, len(ar.pieces))}
	lo, hi := math.Inf(1), math.Inf(-1)
	for i, p := range ar.pieces {
		g := ar.seg(p)
		if swap { // mirror at the diagonal: x and y change places, turns flip
			g = Segment{flip(g.A), flip(g.B), flip(g.C), -g.Turn}
		}
		s.segs[i] = g
		lo, hi = math.Min(lo, math.Min(g.A.Y, g.B.Y)), math.Max(hi, math.Max(g.A.Y, g.B.Y))
	}
	n := max(1, len(ar.pieces))
	s.lo, s.dx = lo, (hi-lo)/float64(n)
	if s.dx <= 0 || math.IsInf(s.dx, 0) {
		s.dx = 1
	}
	s.bins = make([][]int32, n+1)
	for i, g := range s.segs {
		a, b := s.bin(math.Min(g.A.Y, g.B.Y)), s.bin(math.Max(g.A.Y, g.B.Y))
		for k := a; k <= b; k++ {
			s.bins[k] = append(s.bins[k], int32(i))
		}
	}
	return s
}

func flip(p geom.V2) geom.V2 { return geom.V2{X: p.Y, Y: p.X} }

func (s *slabs) bin(y float64) int {
	return max(0, min(len(s.bins)-1, int((y-s.lo)/s.dx)))
}

// count sums the windings of all pieces but self that the ray from p crosses.
func (s *slabs) count(self int32, p geom.V2) (w [2]int) {
	if s.swap {
		p = flip(p)
	}
	for _, i := range s.bins[s.bin(p.Y)] {
		g := s.segs[i]
		up := g.A.Y <= p.Y && g.B.Y > p.Y
		down := g.B.Y <= p.Y && g.A.Y > p.Y
		if i == self || !(up || down) || g.xAt(p.Y) <= p.X {
			continue
		}
		sign := 1
		if down {
			sign = -1
		}
		if s.swap {
			sign = -sign
		}
		w[0] += sign * s.ar.pieces[i].w[0]
		w[1] += sign * s.ar.pieces[i].w[1]
	}
	return w
}

// xAt returns the x of a monotone segment at height y within its extent.
func (s Segment) xAt(y float64) float64 {
	chord := s.A.X + (s.B.X-s.A.X)*(y-s.A.Y)/(s.B.Y-s.A.Y)
	if s.Turn == 0 {
		return chord
	}
	r, dy := s.Radius(), y-s.C.Y
	h := math.Sqrt(math.Max(0, (r-dy)*(r+dy)))
	x := s.C.X + h
	if s.A.X+s.B.X < 2*s.C.X {
		x = s.C.X - h
	}
	lo, hi := math.Min(s.A.X, s.B.X), math.Max(s.A.X, s.B.X)
	return math.Max(lo, math.Min(hi, x))
}
