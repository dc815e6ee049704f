package clearing

import "arete/core/planar"

// spots returns curves that clean what lies between ring k and the next one
// in: the inner side of ring k's sweep less the outer side of ring k+1's.
//
// With AE ≤ radius there is nothing: shrinking by the radius gives less than
// shrinking by AE, which is ring k+1 itself. Otherwise each spot is followed
// along its own boundary; a spot lies a radius inside the ring, so that the
// centre is allowed on it, and a disc on its boundary covers a radius of its
// inside. Larger ones are followed again one radius further in.
func (a *area) spots(k int) []planar.Loop {
	in := a.in
	if in.AE <= in.Radius*(1-1e-9) && k+1 < len(a.rings) {
		return nil
	}
	inner := planar.Offset(a.rings[k], -in.Radius, in.Tol)
	if k+1 < len(a.rings) {
		swept := planar.Offset(a.rings[k+1], in.Radius, in.Tol)
		inner = planar.Difference(inner, swept, in.Tol)
	}
	left := planar.Intersection(inner, a.lv.Stock, in.Tol)
	var out []planar.Loop
	for !left.Empty() {
		for _, l := range left {
			if l.Len() > 1e-3 {
				out = append(out, l)
			}
		}
		left = planar.Offset(left, -in.Radius*0.95, in.Tol)
	}
	return out
}
