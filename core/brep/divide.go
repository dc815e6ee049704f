package brep

import (
	"math"

	"arete/core/geom"
)

// maxTurn bounds the angle between neighbouring chords of an edge.
const maxTurn = math.Pi / 6

// fineness is how far chords may depart from a curve or surface, mm, and how
// much it may turn along one, radians.
type fineness struct{ chord, turn float64 }

func within30(chord float64) fineness { return fineness{chord, maxTurn} }

// divide returns parameters from T0 to T1 such that the chords between them
// keep to the fineness.
func (e *Edge) divide(f fineness) []float64 {
	switch c := e.Curve.(type) {
	case Line:
		return []float64{e.T0, e.T1}
	case Circle:
		n := arcSteps(c.R, e.T1-e.T0, f)
		out := make([]float64, n+1)
		for k := range out {
			out[k] = e.T0 + (e.T1-e.T0)*float64(k)/float64(n)
		}
		return out
	}
	stops := e.stops()
	out := []float64{e.T0}
	for i := 1; i < len(stops); i++ {
		out = bisect(e.Curve, stops[i-1], stops[i], f, 0, out)
	}
	return out
}

// Points returns the polyline that stands for the edge within chord.
func (e *Edge) Points(chord float64) []geom.V3 { return e.polyline(e.divide(within30(chord))) }

func (e *Edge) polyline(ts []float64) []geom.V3 {
	out := make([]geom.V3, len(ts))
	for i, t := range ts {
		out[i] = e.Curve.At(t)
	}
	out[0], out[len(out)-1] = e.A.P, e.B.P
	return out
}

// stops returns the ends and the breaks of the curve between them; a closed
// curve is also stopped at its quarters.
func (e *Edge) stops() []float64 {
	out := []float64{e.T0}
	add := func(t float64) {
		if last := out[len(out)-1]; t > last+1e-9*(e.T1-e.T0) && t < e.T1-1e-9*(e.T1-e.T0) {
			out = append(out, t)
		}
	}
	period := e.Curve.Period()
	breaks := e.Curve.Breaks()
	switch {
	case period > 0 && len(breaks) == 0:
		for k := 1.0; k < 4; k++ {
			add(e.T0 + (e.T1-e.T0)*k/4)
		}
	case period > 0:
		for k := 0.0; k < 2; k++ {
			for _, t := range breaks {
				add(t + k*period)
			}
		}
	default:
		for _, t := range breaks {
			add(t)
		}
	}
	return append(out, e.T1)
}

// bisect appends the parameters after t0 up to t1.
func bisect(c Curve, t0, t1 float64, fine fineness, depth int, out []float64) []float64 {
	a, b := c.At(t0), c.At(t1)
	bent := depth < 14 && turned(c.Tangent(t0), c.Tangent(t1)) > fine.turn
	for _, f := range [3]float64{0.25, 0.5, 0.75} {
		if bent || depth >= 14 {
			break
		}
		bent = offChord(c.At(t0+(t1-t0)*f), a, b) > fine.chord || turned(c.Tangent(t0), c.Tangent(t0+(t1-t0)*f)) > fine.turn
	}
	if !bent {
		return append(out, t1)
	}
	mid := (t0 + t1) / 2
	return bisect(c, mid, t1, fine, depth+1, bisect(c, t0, mid, fine, depth+1, out))
}

// offChord returns the distance of p from the segment a–b.
func offChord(p, a, b geom.V3) float64 {
	d := b.Sub(a)
	t := 0.0
	if l := d.Dot(d); l > 0 {
		t = math.Max(0, math.Min(1, p.Sub(a).Dot(d)/l))
	}
	return p.Dist(a.Add(d.Mul(t)))
}

// turned returns the angle between two directions; 0 when one has no length.
func turned(a, b geom.V3) float64 {
	x := a.Cross(b).Len()
	d := a.Dot(b)
	if x == 0 && d == 0 {
		return 0
	}
	return math.Atan2(x, d)
}

// arcSteps returns how many chords keep to the fineness along the arc.
func arcSteps(r, sweep float64, f fineness) int {
	step := f.turn
	if f.chord < r {
		step = math.Min(step, 2*math.Acos(1-f.chord/r))
	}
	return max(1, int(math.Ceil(sweep/step-1e-9)))
}
