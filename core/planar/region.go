package planar

import (
	"math"

	"arete/core/geom"
)

// Loop is a closed chain of segments: each begins where the one before ends.
type Loop []Segment

// Region is a set of loops with the inside on their left.
type Region []Loop

// Polygon returns the loop through the points in order.
func Polygon(p ...geom.V2) Loop {
	l := make(Loop, 0, len(p))
	for i := range p {
		if q := p[(i+1)%len(p)]; q != p[i] {
			l = append(l, Line(p[i], q))
		}
	}
	return l
}

// Rect returns the axis-parallel rectangle between two corners.
func Rect(x0, y0, x1, y1 float64) Loop {
	return Polygon(geom.V2{X: x0, Y: y0}, geom.V2{X: x1, Y: y0}, geom.V2{X: x1, Y: y1}, geom.V2{X: x0, Y: y1})
}

// Area returns the signed area of the loop, positive counter-clockwise.
func (l Loop) Area() float64 {
	if len(l) == 0 {
		return 0
	}
	o := l[0].A // near origin: less cancellation
	a := 0.0
	for _, s := range l {
		a += Segment{s.A.Sub(o), s.B.Sub(o), s.C.Sub(o), s.Turn}.area()
	}
	return a
}

// Len returns the length of the chain.
func (l Loop) Len() float64 {
	n := 0.0
	for _, s := range l {
		n += s.Len()
	}
	return n
}

// Reverse returns the chain run the other way.
func (l Loop) Reverse() Loop {
	r := make(Loop, len(l))
	for i, s := range l {
		r[len(l)-1-i] = s.Reverse()
	}
	return r
}

// Nearest returns the point of the chain closest to p, the index of its
// segment, and the distance.
func (l Loop) Nearest(p geom.V2) (q geom.V2, at int, dist float64) {
	dist = math.Inf(1)
	for i, s := range l {
		n := s.Nearest(p)
		if d := n.Dist(p); d < dist {
			q, at, dist = n, i, d
		}
	}
	return q, at, dist
}

// StartAt turns a closed loop so that it begins at the point of segment i
// nearest to p.
func (l Loop) StartAt(i int, p geom.V2) Loop {
	s := l[i]
	n := s.Nearest(p)
	out := make(Loop, 0, len(l)+1)
	if n.Dist(s.B) > 1e-9 {
		out = append(out, Segment{n, s.B, s.C, s.Turn})
	}
	out = append(out, l[i+1:]...)
	out = append(out, l[:i]...)
	if n.Dist(s.A) > 1e-9 {
		out = append(out, Segment{s.A, n, s.C, s.Turn})
	}
	return out
}

// Contains tells whether p lies inside a single loop, by winding number.
func (l Loop) Contains(p geom.V2) bool { return Region{l}.winding(p) != 0 }

// Area returns the area of the region.
func (r Region) Area() float64 {
	a := 0.0
	for _, l := range r {
		a += l.Area()
	}
	return a
}

// Perimeter returns the length of all boundaries.
func (r Region) Perimeter() float64 {
	n := 0.0
	for _, l := range r {
		n += l.Len()
	}
	return n
}

// Empty tells whether there is nothing inside.
func (r Region) Empty() bool { return len(r) == 0 }

// Bounds returns the corners of the box around the region.
func (r Region) Bounds() (lo, hi geom.V2) {
	i := math.Inf(1)
	lo, hi = geom.V2{X: i, Y: i}, geom.V2{X: -i, Y: -i}
	for _, l := range r {
		for _, s := range l {
			a, b := s.Bounds()
			lo = geom.V2{X: math.Min(lo.X, a.X), Y: math.Min(lo.Y, a.Y)}
			hi = geom.V2{X: math.Max(hi.X, b.X), Y: math.Max(hi.Y, b.Y)}
		}
	}
	return lo, hi
}

// Contains tells whether p lies inside; points on the boundary may go either way.
func (r Region) Contains(p geom.V2) bool { return r.winding(p) > 0 }

// Dist returns the distance of p from the boundary.
func (r Region) Dist(p geom.V2) float64 {
	d := math.Inf(1)
	for _, l := range r {
		for _, s := range l {
			d = math.Min(d, s.Dist(p))
		}
	}
	return d
}

// Nearest returns the point of the boundary closest to p.
func (r Region) Nearest(p geom.V2) geom.V2 {
	best, dist := geom.V2{}, math.Inf(1)
	for _, l := range r {
		if q, _, d := l.Nearest(p); d < dist {
			best, dist = q, d
		}
	}
	return best
}

// winding counts how often the loops run around p.
func (r Region) winding(p geom.V2) int {
	w := 0
	for _, l := range r {
		for _, s := range l {
			w += s.crossings(p)
		}
	}
	return w
}

// crossings counts signed crossings of the segment with the ray from p to +x.
// A chord is counted by the half-open rule; an arc adds one when p lies
// between the arc and its chord.
func (s Segment) crossings(p geom.V2) int {
	w := 0
	up, down := s.A.Y <= p.Y && s.B.Y > p.Y, s.B.Y <= p.Y && s.A.Y > p.Y
	if up || down {
		side := s.B.Sub(s.A).Cross(p.Sub(s.A))
		if up && side > 0 {
			w++
		} else if down && side < 0 {
			w--
		}
	}
	if s.Turn != 0 {
		side := s.B.Sub(s.A).Cross(p.Sub(s.A))
		if side == 0 { // as the half-open rule sees it: p a hair to +x, then +y
			side = 1
			if up || (s.A.Y == s.B.Y && (s.B.X < s.A.X) == (p.Y >= s.A.Y)) {
				side = -1
			}
		}
		if side*float64(s.Turn) < 0 && p.Dist(s.C) < s.Radius() {
			w += int(s.Turn)
		}
	}
	return w
}

// Parts splits the region into connected ones: an outer loop with its holes,
// largest first.
func (r Region) Parts() []Region {
	var outer []int
	for i, l := range r {
		if l.Area() > 0 {
			outer = append(outer, i)
		}
	}
	sortByAreaDown(r, outer)
	parts := make([]Region, len(outer))
	for k, i := range outer {
		parts[k] = Region{r[i]}
	}
	for _, l := range r {
		if l.Area() > 0 {
			continue
		}
		best := -1
		for k := len(outer) - 1; k >= 0; k-- { // smallest that holds the hole
			if parts[k][0].holds(l) {
				best = k
				break
			}
		}
		if best >= 0 {
			parts[best] = append(parts[best], l)
		}
	}
	return parts
}

// holds tells whether the hole m lies in the loop: most of a few of its
// points do (single ones may touch).
func (l Loop) holds(m Loop) bool {
	in, n := 0, 0
	for i, s := range m {
		if i%(1+len(m)/7) == 0 {
			n++
			if l.Contains(s.At(0.47)) {
				in++
			}
		}
	}
	return 2*in > n
}

func sortByAreaDown(r Region, idx []int) {
	for i := 1; i < len(idx); i++ {
		for j := i; j > 0 && r[idx[j]].Area() > r[idx[j-1]].Area(); j-- {
			idx[j], idx[j-1] = idx[j-1], idx[j]
		}
	}
}
