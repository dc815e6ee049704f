package brep

import (
	"math"

	"arete/core/geom"
)

// Props are the integral properties of a solid of density 1.
type Props struct {
	Volume  float64    // mm³; negative when the faces point inward
	Area    float64    // mm²
	Center  geom.V3    // centre of mass
	Inertia [6]float64 // about Center: xx, yy, zz, xy, yz, zx in mm⁵
}

// moments are the integrals of one face: area and those that the divergence
// theorem turns into volume, first and second moments.
type moments [11]float64

const (
	mArea = iota
	mVolume
	mX // first moments
	mY
	mZ
	mXX // second moments
	mYY
	mZZ
	mXY
	mYZ
	mZX
)

// Area returns the area of the face in mm².
func (f *Face) Area() float64 {
	m, err := f.moments(geom.V3{})
	if err != nil {
		return 0
	}
	return math.Abs(m[mArea])
}

// Mass returns volume (mm³) and surface area (mm²) of the solid.
func (s *Solid) Mass() (volume, area float64) {
	p := s.Props()
	return p.Volume, p.Area
}

// Props integrates over the faces by Green's theorem in their parameters:
// Gauss–Legendre sums along the exact edges, and along v from a fixed line to
// them. Exact to rounding on planes, cylinders and cones bounded by lines and
// circles; on other surfaces the sums converge with the eighth power of the
// steps and stay below 1e-6 of the whole.
func (s *Solid) Props() Props {
	c := s.vertexBox().Center()
	var sum moments
	for _, f := range s.Faces {
		m, err := f.moments(c)
		if err != nil {
			continue
		}
		m[mArea] = math.Abs(m[mArea])
		for i := range sum {
			sum[i] += m[i]
		}
	}
	p := Props{Volume: sum[mVolume], Area: sum[mArea]}
	if p.Volume == 0 {
		return p
	}
	d := geom.V3{X: sum[mX], Y: sum[mY], Z: sum[mZ]}.Mul(1 / p.Volume)
	p.Center = c.Add(d)
	xx, yy, zz := sum[mXX]-p.Volume*d.X*d.X, sum[mYY]-p.Volume*d.Y*d.Y, sum[mZZ]-p.Volume*d.Z*d.Z
	p.Inertia = [6]float64{yy + zz, zz + xx, xx + yy,
		p.Volume*d.X*d.Y - sum[mXY], p.Volume*d.Y*d.Z - sum[mYZ], p.Volume*d.Z*d.X - sum[mZX]}
	return p
}

// moments integrates one face about c.
func (f *Face) moments(c geom.V3) (moments, error) {
	rings, _, err := f.rings(math.Inf(1))
	if err != nil {
		return moments{}, err
	}
	var sum moments
	in := integrator{f: f, c: c, v0: rings[0].uv[0].Y, rule: gauss8}
	in.stops = in.breaks()
	if f.Surface.Kind() == KindSpline && len(in.stops) > 24 { // small spans: four points each will do
		in.rule = gauss4
	}
	for i, r := range rings {
		sign := -1.0
		if (r.area() > 0) != (i == 0) {
			sign = 1
		}
		if !f.Same {
			sign = -sign
		}
		part := in.around(r)
		for k := range sum {
			sum[k] += sign * part[k]
		}
	}
	return sum, nil
}

// integrator sums over the ring of one face.
type integrator struct {
	f     *Face
	c     geom.V3
	v0    float64
	rule  gaussRule
	stops []float64 // knots along v
}

// around returns ∮ (∫ f dv) du along the ring.
func (in *integrator) around(r ring) (sum moments) {
	n := len(r.uv)
	for i, st := range r.step {
		in.along(st, r.uv[i], r.uv[(i+1)%n], 0, &sum)
	}
	return sum
}

// along adds one step from a to b, in halves while the way bends much in the
// parameters.
func (in *integrator) along(st step, a, b geom.V2, depth int, sum *moments) {
	s := in.f.Surface
	pu, pv := s.Periods()
	if st.edge == nil && depth < 7 && pu > 0 && math.Abs(b.X-a.X) > pu/12 { // along a pole or a seam
		mid := a.Lerp(b, 0.5)
		in.along(st, a, mid, depth+1, sum)
		in.along(st, mid, b, depth+1, sum)
		return
	}
	if st.edge != nil && depth < 7 && s.Kind() != KindPlane {
		if mid := near(s, st.at(0.5), a.Lerp(b, 0.5), pu, pv); mid.Dist(a.Lerp(b, 0.5)) > 0.02*a.Dist(b) {
			t := (st.t0 + st.t1) / 2
			in.along(step{st.edge, st.t0, t}, a, mid, depth+1, sum)
			in.along(step{st.edge, t, st.t1}, mid, b, depth+1, sum)
			return
		}
	}
	for k, x := range in.rule.node {
		h := (x + 1) / 2
		uv, du := a.Lerp(b, h), b.X-a.X
		if st.edge != nil {
			t := st.t0 + (st.t1-st.t0)*h
			uv = near(s, st.edge.Curve.At(t), uv, pu, pv)
			su, sv := s.Diff(uv)
			du = solve2(su, sv, st.edge.Curve.Tangent(t)).X * (st.t1 - st.t0)
		}
		if du == 0 {
			continue
		}
		w := in.rule.weight[k] / 2 * du
		line := in.column(uv)
		for j := range sum {
			sum[j] += w * line[j]
		}
	}
}

// column integrates along v from v0 to uv.
func (in *integrator) column(uv geom.V2) (sum moments) {
	from := in.v0
	to := uv.Y
	sign := 1.0
	if to < from {
		from, to, sign = to, from, -1
	}
	at := from
	for _, stop := range in.stops {
		if stop > at && stop < to {
			in.piece(uv.X, at, stop, sign, &sum)
			at = stop
		}
	}
	in.piece(uv.X, at, to, sign, &sum)
	return sum
}

func (in *integrator) piece(u, v0, v1, sign float64, sum *moments) {
	for k, x := range in.rule.node {
		uv := geom.V2{X: u, Y: v0 + (v1-v0)*(x+1)/2}
		w := sign * in.rule.weight[k] / 2 * (v1 - v0)
		du, dv := in.f.Surface.Diff(uv)
		n := du.Cross(dv)
		p := in.f.Surface.At(uv).Sub(in.c)
		sum[mArea] += w * n.Len()
		sum[mVolume] += w * p.Dot(n) / 3
		sum[mX] += w * p.X * p.X * n.X / 2
		sum[mY] += w * p.Y * p.Y * n.Y / 2
		sum[mZ] += w * p.Z * p.Z * n.Z / 2
		sum[mXX] += w * p.X * p.X * p.X * n.X / 3
		sum[mYY] += w * p.Y * p.Y * p.Y * n.Y / 3
		sum[mZZ] += w * p.Z * p.Z * p.Z * n.Z / 3
		sum[mXY] += w * p.X * p.X * p.Y * n.X / 2
		sum[mYZ] += w * p.Y * p.Y * p.Z * n.Y / 2
		sum[mZX] += w * p.Z * p.Z * p.X * n.Z / 2
	}
}

// breaks returns where the sums along v are broken: at knots, and at every
// 60 degrees of an angle.
func (in *integrator) breaks() []float64 {
	_, v := in.f.Surface.Breaks()
	_, period := in.f.Surface.Periods()
	angular := period > 0 && len(v) < 2
	switch in.f.Surface.(type) {
	case Sphere, Torus: // their bounds are poles
		angular = true
	}
	if angular {
		v = nil
		for k := -12.0; k <= 12; k++ {
			v = append(v, k*math.Pi/3)
		}
		return v
	}
	v = finer(v, 8)
	if period == 0 || len(v) == 0 {
		return v
	}
	var out []float64
	for k := -2.0; k <= 2; k++ {
		for _, x := range v {
			out = append(out, x+k*period)
		}
	}
	return out
}

// finer divides few long spans into at least n in all.
func finer(v []float64, n int) []float64 {
	if len(v) < 2 || len(v) > n {
		return v
	}
	each := float64((n + len(v) - 2) / (len(v) - 1))
	var out []float64
	for i := 0; i+1 < len(v); i++ {
		for k := 0.0; k < each; k++ {
			out = append(out, v[i]+(v[i+1]-v[i])*k/each)
		}
	}
	return append(out, v[len(v)-1])
}

// gaussRule is a Gauss–Legendre rule on [−1, 1] (Abramowitz and Stegun,
// table 25.4).
type gaussRule struct{ node, weight []float64 }

var (
	gauss8 = gaussRule{
		[]float64{-0.960289856497536, -0.796666477413627, -0.525532409916329, -0.183434642495650,
			0.183434642495650, 0.525532409916329, 0.796666477413627, 0.960289856497536},
		[]float64{0.101228536290376, 0.222381034453374, 0.313706645877887, 0.362683783378362,
			0.362683783378362, 0.313706645877887, 0.222381034453374, 0.101228536290376}}
	gauss4 = gaussRule{
		[]float64{-0.861136311594053, -0.339981043584856, 0.339981043584856, 0.861136311594053},
		[]float64{0.347854845137454, 0.652145154862546, 0.652145154862546, 0.347854845137454}}
)
