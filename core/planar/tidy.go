package planar

import (
	"math"
	"sort"
)

// tidy joins neighbouring segments on one curve, drops spikes and loops
// thinner than the tolerance, and starts each loop at its lowest, then
// leftmost vertex, so that equal regions print equal.
func (r Region) tidy(tol float64) Region {
	var out Region
	for _, l := range r {
		l = l.joined(tol).withoutSpikes(tol).joined(tol)
		if len(l) < 2 || math.Abs(l.Area()) <= 4*tol*l.Len() {
			continue
		}
		out = append(out, l.fromLowest())
	}
	sort.SliceStable(out, func(i, j int) bool {
		a, b := out[i][0].A, out[j][0].A
		if a.Y != b.Y {
			return a.Y < b.Y
		}
		return a.X < b.X
	})
	return out
}

func (l Loop) fromLowest() Loop {
	k := 0
	for i, s := range l {
		if s.A.Y < l[k].A.Y || (s.A.Y == l[k].A.Y && s.A.X < l[k].A.X) {
			k = i
		}
	}
	return append(append(Loop{}, l[k:]...), l[:k]...)
}

// joined merges runs of segments that lie on one line or one circle and
// drops those shorter than the tolerance.
func (l Loop) joined(tol float64) Loop {
	var out Loop
	for _, s := range l {
		if n := len(out); n > 0 && out[n-1].B != s.A {
			s.A = out[n-1].B
		}
		if s.A.Dist(s.B) <= tol {
			continue
		}
		if s.Turn != 0 && s.Radius() < 16*tol { // its ends are rounding: a line is as good
			s = Line(s.A, s.B)
		}
		if n := len(out); n > 0 && canJoin(out[n-1], s, tol) {
			out[n-1].B = s.B
			continue
		}
		out = append(out, s)
	}
	if n := len(out); n > 0 {
		out[n-1].B = out[0].A
	}
	for len(out) > 2 && canJoin(out[len(out)-1], out[0], tol) {
		out[0].A = out[len(out)-1].A
		out = out[:len(out)-1]
	}
	return out
}

func canJoin(s, t Segment, tol float64) bool {
	if s.Turn != t.Turn {
		return false
	}
	if s.Turn != 0 {
		return s.C.Dist(t.C) <= 2*tol && math.Abs(s.Radius()-t.Radius()) <= 2*tol &&
			math.Abs(s.Sweep())+math.Abs(t.Sweep()) <= math.Pi*(1+1e-9)
	}
	d, e := s.B.Sub(s.A), t.B.Sub(t.A)
	return d.Dot(e) > 0 && Line(s.A, t.B).Dist(s.B) <= tol
}

// withoutSpikes removes places where the chain runs out and back along the
// same curve: slivers thinner than the tolerance.
func (l Loop) withoutSpikes(tol float64) Loop {
	for i := 0; i < len(l) && len(l) > 2; {
		k := (i + 1) % len(l)
		s, t := l[i], l[k]
		if !doublesBack(s, t, tol) {
			i++
			continue
		}
		if s.Len() > t.Len() { // keep what s has left over
			s.B = t.B
			l[i] = s
			l = append(l[:k:k], l[k+1:]...)
		} else {
			t.A = s.A
			l[k] = t
			l = append(l[:i:i], l[i+1:]...)
		}
		i = max(0, i-2)
		if n := len(l); n > 0 && l[i%n].Len() <= tol { // nothing left over
			l = append(l[:i%n:i%n], l[i%n+1:]...)
			i = max(0, i-1)
		}
	}
	return l
}

// doublesBack tells whether t runs back over s within the tolerance.
func doublesBack(s, t Segment, tol float64) bool {
	if s.TangentB().Dot(t.TangentA()) > -0.999 {
		return false
	}
	long, short := s, t.B
	if t.Len() >= s.Len() {
		long, short = t, s.A
	}
	mid := s.At(0.5)
	if t.Len() < s.Len() {
		mid = t.At(0.5)
	}
	return long.Dist(short) <= 4*tol && long.Dist(mid) <= 4*tol
}
