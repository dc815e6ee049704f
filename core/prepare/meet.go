package prepare

import (
	"math"

	"arete/core/brep"
	"arete/core/geom"
)

// tolerance is the distance, mm, below which points count as one.
const tolerance = 1e-6

// level returns the signed distance of p from an unbounded surface, or nearly:
// zero on it and of one sign on each side. It is not known of free forms.
func level(s brep.Surface, p geom.V3) (d float64, known bool) {
	switch s := s.(type) {
	case brep.Plane:
		return s.F.ToLocal(p).Z, true
	case brep.Cylinder:
		return s.F.ToLocal(p).XY().Len() - s.R, true
	case brep.Cone:
		q := s.F.ToLocal(p)
		return (q.XY().Len() - math.Abs(s.RadiusAt(q.Z))) * math.Cos(s.Half), true
	case brep.Sphere:
		return s.F.ToLocal(p).Len() - s.R, true
	case brep.Torus:
		q := s.F.ToLocal(p)
		return math.Hypot(q.XY().Len()-s.Major, q.Z) - s.Minor, true
	}
	return 0, false
}

// on tells whether p lies on the surface.
func on(s brep.Surface, p geom.V3) bool {
	d, known := level(s, p)
	return known && math.Abs(d) < 10*tolerance
}

// hits lists the parameters, from t0 on in the direction dir and by their
// distance, at which a curve meets a surface, up to reach mm away.
func hits(c brep.Curve, t0, dir, reach float64, s brep.Surface) []float64 {
	speed := c.Tangent(t0).Len()
	span := reach / speed
	if p := c.Period(); p > 0 {
		span = math.Min(span, p-1e-9)
	}
	const steps = 720
	at := func(k float64) float64 { return t0 + dir*span*k/steps }
	f := func(t float64) float64 { d, _ := level(s, c.At(t)); return d }
	if _, known := level(s, c.At(t0)); !known {
		return nil
	}
	var out []float64
	last, touching := 0.0, false
	for k := 0.0; k <= steps; k++ {
		d := f(at(k))
		switch touches := math.Abs(d) < tolerance; {
		case touches && !touching:
			out = append(out, at(k))
		case !touches && !touching && last*d < 0:
			out = append(out, zero(f, at(k-1), at(k)))
		}
		last, touching = d, math.Abs(d) < tolerance
	}
	return out
}

// zero finds where f changes sign between a and b.
func zero(f func(float64) float64, a, b float64) float64 {
	fa := f(a)
	for range 80 {
		m := (a + b) / 2
		if fm := f(m); fa*fm <= 0 {
			b = m
		} else {
			a, fa = m, fm
		}
	}
	return (a + b) / 2
}

// meet returns the curve along which two surfaces meet through p, where it is
// a line, a circle or an ellipse.
func meet(a, b brep.Surface, p geom.V3) (brep.Curve, bool) {
	if _, flat := a.(brep.Plane); !flat {
		a, b = b, a
	}
	pa, flat := a.(brep.Plane)
	if !flat {
		return meetRound(a, b, p)
	}
	n := pa.F.Z
	switch s := b.(type) {
	case brep.Plane:
		d := n.Cross(s.F.Z)
		return brep.Line{P: p, D: d.Unit()}, d.Len() > 1e-6
	case brep.Sphere:
		o := s.F.O.Sub(n.Mul(s.F.O.Sub(pa.F.O).Dot(n)))
		return around(o, n, p), true
	}
	f, ok := axisOf(b)
	if !ok {
		return nil, false
	}
	along := math.Abs(f.Z.Dot(n))
	if along > 1-1e-9 { // square to the axis
		return around(f.O.Add(f.Z.Mul(p.Sub(f.O).Dot(f.Z))), f.Z, p), true
	}
	switch s := b.(type) {
	case brep.Cylinder:
		if along < 1e-9 {
			return brep.Line{P: p, D: f.Z}, true
		}
		o := f.O.Add(f.Z.Mul(pa.F.O.Sub(f.O).Dot(n) / f.Z.Dot(n)))
		return slanted(o, n, f.Z, s.R), true
	case brep.Cone:
		if d := s.Apex().Sub(p); math.Abs(s.Apex().Sub(pa.F.O).Dot(n)) < tolerance && d.Len() > tolerance {
			return brep.Line{P: p, D: d.Unit()}, true
		}
	}
	return nil, false
}

// meetRound is meet for two surfaces about one axis.
func meetRound(a, b brep.Surface, p geom.V3) (brep.Curve, bool) {
	fa, oka := axisOf(a)
	fb, okb := axisOf(b)
	if !oka || !okb || math.Abs(fa.Z.Dot(fb.Z)) < 1-1e-9 {
		return nil, false
	}
	if d := fb.O.Sub(fa.O); d.Sub(fa.Z.Mul(d.Dot(fa.Z))).Len() > tolerance {
		_, ca := a.(brep.Cylinder)
		_, cb := b.(brep.Cylinder)
		return brep.Line{P: p, D: fa.Z}, ca && cb // side by side
	}
	return around(fa.O.Add(fa.Z.Mul(p.Sub(fa.O).Dot(fa.Z))), fa.Z, p), true
}

// axisOf returns the frame of a surface of revolution.
func axisOf(s brep.Surface) (geom.Frame, bool) {
	switch s := s.(type) {
	case brep.Cylinder:
		return s.F, true
	case brep.Cone:
		return s.F, true
	case brep.Torus:
		return s.F, true
	}
	return geom.Frame{}, false
}

// around is the circle about o through p.
func around(o, axis, p geom.V3) brep.Circle {
	return brep.Circle{F: geom.NewFrame(o, axis, p.Sub(o)), R: p.Dist(o)}
}

// slanted is the ellipse in which a plane with normal n through o cuts the
// cylinder of radius r about axis through o.
func slanted(o, n, axis geom.V3, r float64) brep.Ellipse {
	long := axis.Sub(n.Mul(axis.Dot(n)))
	return brep.Ellipse{F: geom.NewFrame(o, n, long), A: r / math.Abs(axis.Dot(n)), B: r}
}

// same tells whether two surfaces are one.
func same(a, b brep.Surface) bool {
	switch a := a.(type) {
	case brep.Plane:
		b, ok := b.(brep.Plane)
		return ok && math.Abs(a.F.Z.Dot(b.F.Z)) > 1-1e-10 && on(a, b.F.O)
	case brep.Cylinder:
		b, ok := b.(brep.Cylinder)
		return ok && math.Abs(a.R-b.R) < tolerance && math.Abs(a.F.Z.Dot(b.F.Z)) > 1-1e-10 && offAxis(a.F, b.F.O) < tolerance
	case brep.Cone:
		b, ok := b.(brep.Cone)
		return ok && a.Apex().Dist(b.Apex()) < 10*tolerance && math.Abs(a.F.Z.Dot(b.F.Z)) > 1-1e-10 && math.Abs(math.Abs(a.Half)-math.Abs(b.Half)) < 1e-9
	case brep.Sphere:
		b, ok := b.(brep.Sphere)
		return ok && math.Abs(a.R-b.R) < tolerance && a.F.O.Dist(b.F.O) < tolerance
	case brep.Torus:
		b, ok := b.(brep.Torus)
		return ok && math.Abs(a.Major-b.Major) < tolerance && math.Abs(a.Minor-b.Minor) < tolerance &&
			math.Abs(a.F.Z.Dot(b.F.Z)) > 1-1e-10 && a.F.O.Dist(b.F.O) < tolerance
	}
	return false
}

// offAxis is the distance of p from the z axis of a frame.
func offAxis(f geom.Frame, p geom.V3) float64 { return f.ToLocal(p).XY().Len() }

// follows tells whether curve b runs along curve a.
func follows(a, b brep.Curve, t0, t1 float64) bool {
	for k := range 5 {
		p := b.At(t0 + (t1-t0)*float64(k)/4)
		if a.At(a.Param(p)).Dist(p) > 10*tolerance {
			return false
		}
	}
	return true
}
