package compare

import (
	"context"
	"math"
	"runtime"
	"sync"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
)

// Limits are the tolerances of the comparison, mm.
type Limits struct{ Overcut, Excess float64 }

// DefaultLimits are what a finished part may deviate.
var DefaultLimits = Limits{Overcut: 0.01, Excess: 0.05}

// State is what has become of a face.
type State string

// The states of a face or feature.
const (
	Uncut       State = "uncut"
	Left        State = "left"
	Finished    State = "finished"
	Overcut     State = "overcut"
	Unreachable State = "unreachable"
)

// Sample is one measured point on the part.
type Sample struct {
	P    geom.V3
	Dev  float64 // positive overcut, negative excess
	Step int32   // that came nearest
}

// Face is the result for one face of the part.
type Face struct {
	Overcut, Excess float64 // greatest, mm
	Left            float64 // share of the samples with excess beyond the limit
	Excused         bool    // excess only where no tool of the setup reaches
	State           State
	Samples         []Sample
}

// Excuse tells whether excess at a point of a face is named as unreachable.
type Excuse func(face int, p geom.V3) bool

// Faces measures every face of the part (in setup coordinates) on a raster of
// its triangles not wider than spacing. Work is spread over the processors;
// the result does not depend on how.
func Faces(ctx context.Context, s *brep.Solid, m *mesh.Mesh, f *Field, spacing float64, lim Limits, excused Excuse) ([]Face, error) {
	out := make([]Face, len(s.Faces))
	byFace := make([][]int, len(s.Faces))
	for i, k := range m.Face {
		byFace[k] = append(byFace[k], i)
	}
	work := make(chan int)
	var wg sync.WaitGroup
	for n := 0; n < runtime.GOMAXPROCS(0); n++ {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range work {
				out[i] = face(ctx, s.Faces[i], i, m, byFace[i], f, spacing, lim, excused)
			}
		}()
	}
	for i := range s.Faces {
		work <- i
	}
	close(work)
	wg.Wait()
	return out, ctx.Err()
}

// edgeInset keeps samples off the edges of a face, where two faces meet and
// the distance belongs to the other: mm.
const edgeInset = 0.02

func face(ctx context.Context, bf *brep.Face, index int, m *mesh.Mesh, tris []int, f *Field, spacing float64, lim Limits, excused Excuse) Face {
	var r Face
	over, under, excusedAll := 0, 0, true
	measure := func(p geom.V3) {
		p = onto(bf, p)
		d, step := f.Deviation(p)
		r.Samples = append(r.Samples, Sample{p, d, int32(step)})
		switch {
		case d > lim.Overcut:
			over++
			r.Overcut = math.Max(r.Overcut, d)
		case -d > lim.Excess && excused(index, p):
			r.Excused = true
		case -d > lim.Excess:
			excusedAll = false
			under++
			r.Excess = math.Max(r.Excess, -d)
		default:
			r.Overcut = math.Max(r.Overcut, d)
			r.Excess = math.Max(r.Excess, -d)
		}
	}
	for _, i := range tris {
		if ctx.Err() != nil {
			return r
		}
		t := m.Tris[i]
		raster(m.Points[t[0]], m.Points[t[1]], m.Points[t[2]], spacing, measure)
	}
	n := len(r.Samples)
	if n > 0 {
		r.Left = float64(under) / float64(n)
	}
	switch {
	case over > 0:
		r.State = Overcut
	case under > 0 && r.Left > 0.95 && r.Excess > 0.5:
		r.State = Uncut
	case under > 0:
		r.State = Left
	case r.Excused && excusedAll && allExcused(r, lim):
		r.State = Unreachable
	default:
		r.State = Finished
	}
	return r
}

// allExcused tells whether hardly any of the face was finished.
func allExcused(r Face, lim Limits) bool {
	bad := 0
	for _, s := range r.Samples {
		if -s.Dev > lim.Excess {
			bad++
		}
	}
	return bad*2 > len(r.Samples)
}

// raster calls f for points of a triangle, its rim left out.
func raster(a, b, c geom.V3, spacing float64, f func(geom.V3)) {
	u, v := b.Sub(a), c.Sub(a)
	area := u.Cross(v).Len() / 2
	longest := math.Max(u.Len(), math.Max(v.Len(), c.Sub(b).Len()))
	if area == 0 || longest == 0 {
		return
	}
	n := max(1, int(math.Ceil(longest/spacing)))
	height := 2 * area / longest
	rows := max(1, int(math.Ceil(height/spacing)))
	// Put the longest side along u.
	if c.Sub(b).Len() == longest {
		a, b, c = b, c, a
	} else if v.Len() == longest {
		a, b, c = c, a, b
	}
	for j := 0; j < rows; j++ {
		t := (float64(j) + 0.5) / float64(rows)
		t = math.Max(math.Min(edgeInset/height, 0.3), math.Min(t, 1-math.Min(edgeInset/height, 0.3)))
		p, q := a.Lerp(c, t), b.Lerp(c, t)
		k := max(1, int(math.Ceil(float64(n)*(1-t))))
		for i := 0; i < k; i++ {
			s := (float64(i) + 0.5) / float64(k)
			f(p.Lerp(q, s))
		}
	}
}

// onto moves a point of a triangle onto the face's exact surface.
func onto(f *brep.Face, p geom.V3) geom.V3 {
	if f.Surface.Kind() == brep.KindPlane {
		return p
	}
	return f.Surface.At(f.Surface.Param(p))
}
