package planar

import "sort"

// Clip returns the parts of a chain of segments that lie inside the region,
// as chains in the direction of the original. A closed chain that lies wholly
// inside comes back as one.
func Clip(chain []Segment, r Region, tol float64) []Loop {
	var out []Loop
	var cur Loop
	flush := func() {
		if len(cur) > 0 {
			out = append(out, cur)
			cur = nil
		}
	}
	for _, s := range chain {
		for _, p := range split(s, r, tol) {
			if !r.Contains(p.At(0.5)) {
				flush()
				continue
			}
			cur = append(cur, p)
		}
	}
	flush()
	n := len(out)
	if n > 1 && len(chain) > 0 && chain[len(chain)-1].B.Dist(chain[0].A) <= tol {
		first, last := out[0], out[n-1]
		if first[0].A.Dist(chain[0].A) <= tol && last[len(last)-1].B.Dist(chain[0].A) <= tol {
			out[0] = append(last, first...)
			out = out[:n-1]
		}
	}
	return out
}

// split cuts a segment where it meets the region's boundary.
func split(s Segment, r Region, tol float64) []Segment {
	lo, hi := s.Bounds()
	var at []float64
	for _, l := range r {
		for _, t := range l {
			a, b := t.Bounds()
			if a.X > hi.X+tol || b.X < lo.X-tol || a.Y > hi.Y+tol || b.Y < lo.Y-tol {
				continue
			}
			for _, p := range meet(nil, s, t, tol) {
				at = append(at, s.fraction(s.Nearest(p)))
			}
		}
	}
	sort.Float64s(at)
	least := tol / (s.Len() + tol)
	var out []Segment
	for _, f := range at {
		if f > least && f < 1-least {
			p := s.At(f)
			if p.Dist(s.A) > tol && (len(out) == 0 || p.Dist(out[len(out)-1].A) > tol) {
				rest := s
				if len(out) > 0 {
					rest = out[len(out)-1]
					out = out[:len(out)-1]
				}
				out = append(out, Segment{rest.A, p, s.C, s.Turn}, Segment{p, s.B, s.C, s.Turn})
			}
		}
	}
	if len(out) == 0 {
		return []Segment{s}
	}
	return out
}

// Inside tells whether the whole segment lies inside the region or on its
// boundary.
func (r Region) Inside(s Segment, tol float64) bool {
	for _, p := range split(s, r, tol) {
		if p.Len() > 10*tol {
			if m := p.At(0.5); !r.Contains(m) && r.Dist(m) > 10*tol {
				return false
			}
		}
	}
	return true
}
