package brep

import "sort"

// maxDegree bounds the degree of splines that can be used.
const maxDegree = 25

// basis evaluates the B-spline basis functions of one direction (Piegl and
// Tiller, The NURBS Book, 1997, chapter 2).
type basis struct {
	degree int
	knots  []float64 // with multiplicities: number of poles + degree + 1
}

// domain returns the range of the parameter.
func (b basis) domain() (lo, hi float64) {
	return b.knots[b.degree], b.knots[len(b.knots)-b.degree-1]
}

// span returns k with knots[k] ≤ t < knots[k+1], within the domain.
func (b basis) span(t float64) int {
	n := len(b.knots) - b.degree - 2 // last pole
	if t >= b.knots[n+1] {
		k := n
		for k > b.degree && b.knots[k] == b.knots[k+1] {
			k--
		}
		return k
	}
	k := sort.SearchFloat64s(b.knots, t)
	for k < len(b.knots) && b.knots[k] <= t {
		k++
	}
	return max(b.degree, min(k-1, n))
}

// eval returns the values and first derivatives of the degree+1 functions
// that are not zero at t; they belong to the poles span−degree … span.
func (b basis) eval(span int, t float64, val, der *[maxDegree + 1]float64) {
	var left, right [maxDegree + 1]float64
	p := b.degree
	val[0] = 1
	der[0] = 0
	for j := 1; j <= p; j++ {
		left[j], right[j] = t-b.knots[span+1-j], b.knots[span+j]-t
		saved, dsaved := 0.0, 0.0
		for r := 0; r < j; r++ {
			w := val[r] / (right[r+1] + left[j-r])
			if j == p {
				der[r] = dsaved - float64(p)*w
				dsaved = float64(p) * w
			}
			val[r] = saved + right[r+1]*w
			saved = left[j-r] * w
		}
		val[j] = saved
		if j == p {
			der[j] = dsaved
		}
	}
}

// breaks returns the distinct knots of the domain.
func (b basis) breaks() []float64 {
	lo, hi := b.domain()
	out := []float64{lo}
	for _, k := range b.knots {
		if k > out[len(out)-1] && k <= hi {
			out = append(out, k)
		}
	}
	return out
}

// reversed returns the basis of the curve run the other way.
func (b basis) reversed() basis {
	n := len(b.knots)
	out := basis{b.degree, make([]float64, n)}
	lo, hi := b.knots[0], b.knots[n-1]
	for i, k := range b.knots {
		out.knots[n-1-i] = lo + hi - k
	}
	return out
}
