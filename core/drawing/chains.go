// Package drawing makes a solid of a flat drawing: its curves are joined to
// closed chains, each layer is given a top and a depth, and the chains bound
// the levels of the part.
//
// Lengths are mm. The outermost chain is the outline of the part and its
// layer's top and depth are the part's; a chain inside another is a pocket, an
// opening or a boss in it.
package drawing

import (
	"fmt"
	"math"
	"sort"

	"arete/core/exchange/dxf"
	"arete/core/geom"
	"arete/core/planar"
)

// JoinWithin is the gap, mm, across which ends are joined.
const JoinWithin = 0.05

// Chain is a closed curve on a layer, counter-clockwise.
type Chain struct {
	Layer string
	Loop  planar.Loop
}

// Open is a chain whose ends do not meet.
type Open struct {
	Layer string
	Chain planar.Loop
}

// Join puts curves of each layer together where their ends lie within the gap.
// Curves drawn twice count once.
func Join(curves []dxf.Curve, gap float64) (closed []Chain, open []Open) {
	for _, layer := range layers(curves) {
		j := &joiner{gap: gap, ends: map[[2]int64][]end{}, known: map[[4]int64][]planar.Loop{}}
		for _, c := range curves {
			if c.Layer != layer || len(c.Chain) == 0 || j.drawn(c.Chain) {
				continue
			}
			if c.Closed || c.Chain[0].A.Dist(c.Chain[len(c.Chain)-1].B) < 1e-6 && len(c.Chain) > 1 {
				closed = append(closed, Chain{layer, turned(shut(c.Chain))})
				continue
			}
			j.add(c.Chain)
		}
		for _, l := range j.join() {
			if l[0].A.Dist(l[len(l)-1].B) <= gap && len(l) > 1 {
				closed = append(closed, Chain{layer, turned(shut(l))})
			} else {
				open = append(open, Open{layer, l})
			}
		}
	}
	return closed, open
}

// layers lists the layers in order of name.
func layers(curves []dxf.Curve) []string {
	var out []string
	seen := map[string]bool{}
	for _, c := range curves {
		if !seen[c.Layer] {
			seen[c.Layer] = true
			out = append(out, c.Layer)
		}
	}
	sort.Strings(out)
	return out
}

// shut closes the last gap: by moving the end when that is rounding, else by
// a line.
func shut(l planar.Loop) planar.Loop {
	last := &l[len(l)-1]
	switch d := last.B.Dist(l[0].A); {
	case d == 0:
	case d < 1e-4:
		last.B = l[0].A
	default:
		l = append(l, planar.Line(last.B, l[0].A))
	}
	return l
}

// turned runs a loop counter-clockwise.
func turned(l planar.Loop) planar.Loop {
	if l.Area() < 0 {
		return l.Reverse()
	}
	return l
}

// end is one end of a piece.
type end struct {
	piece int
	last  bool
}

type joiner struct {
	gap    float64
	pieces []planar.Loop
	ends   map[[2]int64][]end
	known  map[[4]int64][]planar.Loop // by where they lie
}

// drawn tells whether the same curve has come before.
func (j *joiner) drawn(l planar.Loop) bool {
	lo, hi := planar.Region{l}.Bounds()
	key := [4]int64{}
	for i, v := range [4]float64{lo.X, lo.Y, hi.X, hi.Y} {
		key[i] = int64(math.Round(v * 1e4))
	}
	for _, k := range j.known[key] {
		same := len(k) == len(l)
		for i := 0; same && i < len(l); i++ {
			a, b := k[i], l[i]
			r := k[len(l)-1-i].Reverse()
			same = alike(a, b) || alike(r, b)
		}
		if same {
			return true
		}
	}
	j.known[key] = append(j.known[key], l)
	return false
}

func alike(a, b planar.Segment) bool {
	return a.A.Dist(b.A) < 1e-6 && a.B.Dist(b.B) < 1e-6 && a.At(0.5).Dist(b.At(0.5)) < 1e-6
}

func (j *joiner) cell(p geom.V2) [2]int64 {
	return [2]int64{int64(math.Floor(p.X / j.gap)), int64(math.Floor(p.Y / j.gap))}
}

func (j *joiner) add(l planar.Loop) {
	n := len(j.pieces)
	j.pieces = append(j.pieces, l)
	for _, last := range [2]bool{false, true} {
		c := j.cell(j.at(end{n, last}))
		j.ends[c] = append(j.ends[c], end{n, last})
	}
}

func (j *joiner) at(e end) geom.V2 {
	l := j.pieces[e.piece]
	if e.last {
		return l[len(l)-1].B
	}
	return l[0].A
}

// join walks from piece to piece by the nearest free end.
func (j *joiner) join() []planar.Loop {
	used := make([]bool, len(j.pieces))
	var out []planar.Loop
	for i := range j.pieces {
		if used[i] {
			continue
		}
		used[i] = true
		l := append(planar.Loop{}, j.pieces[i]...)
		for range 2 { // on from its end, then from its start
			for l[0].A.Dist(l[len(l)-1].B) > j.gap || len(l) == 1 {
				e, ok := j.nearest(l[len(l)-1].B, used)
				if !ok {
					break
				}
				used[e.piece] = true
				next := j.pieces[e.piece]
				if e.last {
					next = next.Reverse()
				}
				l = bridged(l, next)
			}
			if l[0].A.Dist(l[len(l)-1].B) <= j.gap && len(l) > 1 {
				break
			}
			l = l.Reverse()
		}
		out = append(out, l)
	}
	return out
}

// bridged appends a chain, across the gap between.
func bridged(l, next planar.Loop) planar.Loop {
	switch d := l[len(l)-1].B.Dist(next[0].A); {
	case d < 1e-4:
		l[len(l)-1].B = next[0].A
	default:
		l = append(l, planar.Line(l[len(l)-1].B, next[0].A))
	}
	return append(l, next...)
}

func (j *joiner) nearest(p geom.V2, used []bool) (best end, ok bool) {
	c, d := j.cell(p), j.gap
	for i := int64(-1); i <= 1; i++ {
		for k := int64(-1); k <= 1; k++ {
			for _, e := range j.ends[[2]int64{c[0] + i, c[1] + k}] {
				if q := j.at(e).Dist(p); !used[e.piece] && q <= d {
					best, d, ok = e, q, true
				}
			}
		}
	}
	return best, ok
}

// Where names the ends of an open chain.
func (o Open) Where() string {
	a, b := o.Chain[0].A, o.Chain[len(o.Chain)-1].B
	return fmt.Sprintf("layer %s: a chain is open between X%.3f Y%.3f and X%.3f Y%.3f", o.Layer, a.X, a.Y, b.X, b.Y)
}
