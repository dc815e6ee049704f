package feature

import (
	"math"
	"sort"

	"arete/core/brep"
	"arete/core/geom"
)

// bore is a stretch of a hole with one wall: a cylinder or a cone.
type bore struct {
	lo, hi   float64 // along the axis
	rLo, rHi float64
	faces    []int
}

// axis is a straight line shared by round faces.
type axis struct {
	p, d  geom.V3 // a point and the unit direction
	bores []bore
}

// holes returns the round holes of the solid in any direction. Those along Z
// whose mouth is up are reachable.
func holes(s *brep.View, tol float64) []*Feature {
	return holesOf(s, tol, func(int) bool { return true })
}

// holesOf returns the round holes whose walls are among some faces.
func holesOf(s *brep.View, tol float64, among func(int) bool) []*Feature {
	var out []*Feature
	for _, a := range axes(s, tol, among) {
		for _, chain := range a.joined(s, a.chains(tol)) {
			if f := a.hole(s, chain, tol); f != nil {
				out = append(out, f)
			}
		}
	}
	return out
}

// axes collects full inside cylinders and cones by their axis.
func axes(s *brep.View, tol float64, among func(int) bool) []*axis {
	var out []*axis
	for i, f := range s.Faces {
		frame, r, half, ok := roundInside(f)
		if !ok || !among(i) {
			continue
		}
		var a *axis
		for _, b := range out {
			off := frame.O.Sub(b.p)
			if frame.Z.Cross(b.d).Len() < 1e-6 && off.Sub(b.d.Mul(off.Dot(b.d))).Len() < 10*tol+1e-5 {
				a = b
				break
			}
		}
		if a == nil {
			d := frame.Z
			if d.Z < -1e-9 || (math.Abs(d.Z) < 1e-9 && (d.X < -1e-9 || (math.Abs(d.X) < 1e-9 && d.Y < 0))) {
				d = d.Mul(-1)
			}
			a = &axis{p: frame.O, d: d}
			out = append(out, a)
		}
		a.add(f, i, frame, r, half, tol)
	}
	return out
}

// roundInside tells whether the face is a cylinder or cone seen from inside.
func roundInside(f *brep.Face) (frame geom.Frame, r, half float64, ok bool) {
	switch s := f.Surface.(type) {
	case brep.Cylinder:
		return s.F, s.R, 0, !f.Same
	case brep.Cone:
		return s.F, s.R, s.Half, !f.Same
	}
	return
}

// add enters a face: into the stretch it completes, or a new one.
func (a *axis) add(f *brep.Face, i int, frame geom.Frame, r, half, tol float64) {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, l := range f.Loops {
		for _, c := range l.Coedges {
			for k := 0.0; k <= 4; k++ {
				t := c.Edge.Curve.At(c.Edge.T0 + (c.Edge.T1-c.Edge.T0)*k/4).Sub(a.p).Dot(a.d)
				lo, hi = math.Min(lo, t), math.Max(hi, t)
			}
		}
		if l.Point != nil {
			t := l.Point.P.Sub(a.p).Dot(a.d)
			lo, hi = math.Min(lo, t), math.Max(hi, t)
		}
	}
	o, sign := frame.O.Sub(a.p).Dot(a.d), 1.0
	if frame.Z.Dot(a.d) < 0 {
		sign = -1
	}
	at := func(t float64) float64 { return math.Max(0, r+(t-o)*sign*math.Tan(half)) }
	n := bore{lo, hi, at(lo), at(hi), []int{i}}
	for k := range a.bores {
		b := &a.bores[k]
		same := math.Abs(b.rLo-n.rLo) < 1e-4 && math.Abs(b.rHi-n.rHi) < 1e-4 || half == 0 && b.rLo == b.rHi && math.Abs(b.rLo-n.rLo) < 1e-4
		if same && n.lo <= b.hi+tol && n.hi >= b.lo-tol {
			if n.lo < b.lo {
				b.lo, b.rLo = n.lo, n.rLo
			}
			if n.hi > b.hi {
				b.hi, b.rHi = n.hi, n.rHi
			}
			b.faces = append(b.faces, i)
			return
		}
	}
	a.bores = append(a.bores, n)
}

// chains groups stretches that follow each other along the axis.
func (a *axis) chains(tol float64) [][]bore {
	sort.SliceStable(a.bores, func(i, j int) bool { return a.bores[i].lo < a.bores[j].lo })
	var out [][]bore
	for _, b := range a.bores {
		if n := len(out); n > 0 {
			last := out[n-1]
			if math.Abs(b.lo-last[len(last)-1].hi) < 1e-4 {
				out[n-1] = append(last, b)
				continue
			}
		}
		out = append(out, []bore{b})
	}
	return out
}

// joined puts chains together that are one hole with something across it:
// the same bore on both sides, open to what lies between, and no face there.
func (a *axis) joined(s *brep.View, chains [][]bore) [][]bore {
	var out [][]bore
	for _, c := range chains {
		if n := len(out); n > 0 {
			last := out[n-1]
			lower, upper := last[len(last)-1], c[0]
			below, _ := a.endOf(s, lower, true)
			above, _ := a.endOf(s, upper, false)
			if math.Abs(lower.rHi-upper.rLo) < 1e-4 && lower.rLo == lower.rHi && upper.rLo == upper.rHi &&
				below == endOpen && above == endOpen && !a.blocked(s, lower.hi, upper.lo) {
				lower.hi, lower.faces = upper.hi, append(append([]int{}, lower.faces...), upper.faces...)
				out[n-1] = append(append(last[:len(last)-1:len(last)-1], lower), c[1:]...)
				continue
			}
		}
		out = append(out, c)
	}
	return out
}

// blocked tells whether a planar face stands across the axis between lo and
// hi.
func (a *axis) blocked(s *brep.View, lo, hi float64) bool {
	for _, f := range s.Faces {
		p, ok := f.Surface.(brep.Plane)
		if !ok {
			continue
		}
		n := p.F.Z.Dot(a.d)
		if math.Abs(n) < 1e-6 {
			continue
		}
		t := p.F.O.Sub(a.p).Dot(p.F.Z) / n
		if t > lo-1e-6 && t < hi+1e-6 && f.Covers(a.p.Add(a.d.Mul(t))) {
			return true
		}
	}
	return false
}

// end describes how a chain ends.
type end int

const (
	endOpen end = iota
	endFlat
	endCone
)

// hole turns a chain into a feature, nil when it is not a hole: fewer than
// three quarters of the wall are there, or both ends are shut.
func (a *axis) hole(s *brep.View, chain []bore, tol float64) *Feature {
	chain = a.completeBores(s, chain)
	if len(chain) == 0 {
		return nil
	}
	lowEnd, lowFace := a.endOf(s, chain[0], false)
	highEnd, highFace := a.endOf(s, chain[len(chain)-1], true)
	if lowEnd != endOpen && highEnd != endOpen {
		return nil
	}
	up := highEnd == endOpen
	if lowEnd == endOpen && highEnd == endOpen {
		up = chain[len(chain)-1].rHi >= chain[0].rLo-1e-6 // from the wider side, else from above
	}
	f := &Feature{Kind: RoundHole, Approach: a.d}
	bottom, bottomFace := lowEnd, lowFace
	if !up {
		f.Approach = a.d.Mul(-1)
		chain = flipped(chain)
		bottom, bottomFace = highEnd, highFace
	}
	for _, b := range chain {
		f.Faces = append(f.Faces, b.faces...)
	}
	if bottomFace >= 0 {
		f.Faces = append(f.Faces, bottomFace)
	}
	f.Faces = append(f.Faces, shoulders(s, f.Faces)...)
	measure(f, a, chain, bottom)
	if f.Params.Back.Diameter > 0 {
		f.Slopes = append(f.Slopes, chain[0].faces...)
		for _, i := range f.Faces {
			if p, ok := s.Faces[i].Surface.(brep.Plane); ok && s.Faces[i].NormalAt(p.F.O).Dot(f.Approach) < 0 {
				f.Slopes = append(f.Slopes, i)
			}
		}
	}
	return f
}

// completeBores drops stretches whose wall is mostly missing.
func (a *axis) completeBores(s *brep.View, chain []bore) []bore {
	var out []bore
	for _, b := range chain {
		area := 0.0
		for _, i := range b.faces {
			area += s.Area(i)
		}
		h := b.hi - b.lo
		full := math.Pi * (b.rLo + b.rHi) * math.Hypot(h, b.rHi-b.rLo)
		if area > 0.75*full || a.ringed(s, b) {
			out = append(out, b)
		}
	}
	return out
}

// ringed tells whether both ends of the wall are whole circles, though
// something wide crosses it between them.
func (a *axis) ringed(s *brep.View, b bore) bool {
	low, high := 0.0, 0.0
	for _, i := range b.faces {
		for _, l := range s.Faces[i].Loops {
			for _, c := range l.Coedges {
				k, ok := c.Edge.Curve.(brep.Circle)
				if !ok || math.Abs(k.R-b.rLo) > 1e-4 || math.Abs(k.F.Z.Dot(a.d)) < 1-1e-9 {
					continue
				}
				switch at := k.F.O.Sub(a.p).Dot(a.d); {
				case math.Abs(at-b.lo) < 1e-4:
					low += c.Edge.T1 - c.Edge.T0
				case math.Abs(at-b.hi) < 1e-4:
					high += c.Edge.T1 - c.Edge.T0
				}
			}
		}
	}
	return math.Min(low, high) > 2*math.Pi-1e-3
}

// endOf looks across the end circle of a stretch.
func (a *axis) endOf(s *brep.View, b bore, high bool) (end, int) {
	at, r := b.lo, b.rLo
	if high {
		at, r = b.hi, b.rHi
	}
	if r < 1e-6 {
		return endCone, -1
	}
	for _, i := range b.faces {
		for _, l := range s.Faces[i].Loops {
			for _, c := range l.Coedges {
				p, _ := c.Edge.Mid()
				m := c.Mate()
				if m == nil || math.Abs(p.Sub(a.p).Dot(a.d)-at) > 1e-4 {
					continue
				}
				if _, flat := m.Face.Surface.(brep.Plane); flat && c.Edge.Shape() == brep.Concave {
					return endFlat, faceIndex(s, m.Face)
				}
			}
		}
	}
	return endOpen, -1
}

func faceIndex(s *brep.View, f *brep.Face) int {
	for i, g := range s.Faces {
		if g == f {
			return i
		}
	}
	return -1
}

// shoulders returns the annular faces between the stretches of a hole: planes
// all of whose neighbours belong to it.
func shoulders(s *brep.View, faces []int) []int {
	in := map[*brep.Face]bool{}
	for _, i := range faces {
		in[s.Faces[i]] = true
	}
	var out []int
	for i, f := range s.Faces {
		if in[f] || f.Surface.Kind() != brep.KindPlane {
			continue
		}
		mine := true
		for _, l := range f.Loops {
			for _, c := range l.Coedges {
				m := c.Mate()
				mine = mine && m != nil && in[m.Face]
			}
		}
		if mine {
			out = append(out, i)
		}
	}
	return out
}

// flipped turns a chain end for end.
func flipped(chain []bore) []bore {
	out := make([]bore, len(chain))
	for i, b := range chain {
		out[len(chain)-1-i] = bore{-b.hi, -b.lo, b.rHi, b.rLo, b.faces}
	}
	return out
}

// measure fills in the numbers; the chain runs from the bottom to the mouth
// along the approach.
func measure(f *Feature, a *axis, chain []bore, bottom end) {
	p := &f.Params
	mouth := chain[len(chain)-1]
	p.Center = a.p.Add(f.Approach.Mul(mouth.hi))
	if f.Approach.Dot(a.d) < 0 {
		p.Center = a.p.Sub(a.d.Mul(mouth.hi))
	}
	p.TopZ = p.Center.Dot(f.Approach)
	shoulder := chain[0].lo
	p.Bottom = "open"
	switch bottom {
	case endFlat:
		p.Bottom = "flat"
	case endCone:
		p.Bottom = "cone"
	}
	for i, b := range chain { // a cone that closes the hole is its point
		if i == 0 && b.rLo < 1e-6 && len(chain) > 1 {
			shoulder = b.hi
			p.PointAngle = 2 * math.Atan2(b.rHi, b.hi-b.lo) * 180 / math.Pi
		}
	}
	main := -1
	for i, b := range chain {
		if b.rLo == b.rHi && (main < 0 || b.rLo < chain[main].rLo) {
			main = i
		}
	}
	if main < 0 {
		p.Diameter = 2 * math.Min(chain[0].rHi, mouth.rHi)
	} else {
		p.Diameter = 2 * chain[main].rLo
	}
	p.Through = bottom == endOpen
	p.Depth = mouth.hi - shoulder
	p.FloorZ = p.TopZ - p.Depth
	if p.Through && main > 0 {
		if b := chain[0]; b.rLo == b.rHi && b.rLo > chain[main].rLo+1e-6 {
			p.Back = Counterbore{2 * b.rLo, b.hi - b.lo}
		}
	}
	for i := len(chain) - 1; i > main && main >= 0; i-- {
		b := chain[i]
		switch {
		case b.rLo == b.rHi && p.Counterbore.Diameter == 0:
			p.Counterbore = Counterbore{2 * b.rLo, mouth.hi - b.lo}
		case b.rHi > b.rLo && p.Countersink.Diameter == 0:
			p.Countersink = Countersink{2 * b.rHi, 2 * math.Atan2(b.rHi-b.rLo, b.hi-b.lo) * 180 / math.Pi}
		}
	}
}
