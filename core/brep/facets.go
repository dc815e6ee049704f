package brep

import (
	"fmt"
	"math"
	"sync"

	"arete/core/geom"
)

// Facets are the triangles of a solid's faces and the chords of its edges,
// each made once, when first asked for. It is safe for several goroutines.
type Facets struct {
	Solid *Solid
	mu    sync.Mutex
	b     *builder
	tris  map[int][][3]int32
	area  map[int]float64
}

// Facets prepares facets that depart from the solid by at most chord mm.
func (s *Solid) Facets(chord float64) *Facets {
	return &Facets{Solid: s, b: newBuilder(within30(chord)), tris: map[int][][3]int32{}, area: map[int]float64{}}
}

// View is the solid of some facets in the coordinates of a frame.
type View struct {
	*Solid
	facets *Facets
	to     geom.Frame // the frame's inverse: base → view
	index  map[*Edge]int
}

// View returns the solid as it is seen in the coordinates of a frame. Facets
// are not made anew for it, but moved.
func (f *Facets) View(frame geom.Frame) *View {
	v := &View{Solid: f.Solid, facets: f, to: frame.Inverse()}
	if frame != geom.Identity() {
		v.Solid = f.Solid.Transform(v.to)
	}
	return v
}

// Triangles returns the triangles of face i, counter-clockwise seen from
// outside. An error says that the face could not be filled.
func (v *View) Triangles(i int) ([][3]geom.V3, error) {
	f := v.facets
	f.mu.Lock()
	defer f.mu.Unlock()
	tris, err := f.face(i)
	if err != nil {
		return nil, err
	}
	out := make([][3]geom.V3, len(tris))
	for k, t := range tris {
		for c, id := range t {
			out[k][c] = v.to.ToWorld(f.b.m.Points[id])
		}
	}
	return out, nil
}

// face fills a face of the base solid unless that is done.
func (f *Facets) face(i int) ([][3]int32, error) {
	if tris, done := f.tris[i]; done {
		return tris, nil
	}
	face := f.Solid.Faces[i]
	for _, l := range face.Loops {
		for _, c := range l.Coedges {
			f.b.divideEdge(c.Edge)
		}
	}
	first := len(f.b.m.Tris)
	if err := f.b.fill(face, int32(i)); err != nil {
		return nil, fmt.Errorf("face #%d: %w", face.ID, err)
	}
	f.tris[i] = f.b.m.Tris[first:len(f.b.m.Tris):len(f.b.m.Tris)]
	return f.tris[i], nil
}

// Chords returns the points that the triangles have along an edge of the
// view's solid, from its start to its end.
func (v *View) Chords(e *Edge) []geom.V3 {
	f := v.facets
	f.mu.Lock()
	defer f.mu.Unlock()
	if v.Solid != f.Solid {
		if v.index == nil {
			v.index = make(map[*Edge]int, len(v.Edges))
			for i, e := range v.Edges {
				v.index[e] = i
			}
		}
		e = f.Solid.Edges[v.index[e]]
	}
	f.b.divideEdge(e)
	ids := f.b.edge[e].id
	out := make([]geom.V3, len(ids))
	for i, id := range ids {
		out[i] = v.to.ToWorld(f.b.m.Points[id])
	}
	return out
}

// Area returns the area of face i in mm², within a few parts in a thousand
// where its edges are round.
func (v *View) Area(i int) float64 {
	f := v.facets
	f.mu.Lock()
	defer f.mu.Unlock()
	a, known := f.area[i]
	if !known {
		a = f.Solid.Faces[i].roughArea()
		f.area[i] = a
	}
	return a
}

// roughArea measures planes, cylinders and cones by the polygons of their
// outline.
func (f *Face) roughArea() float64 {
	rings, _, err := f.rings(0.01)
	if err != nil {
		return 0
	}
	scale := 1.0
	switch s := f.Surface.(type) {
	case Plane:
	case Cylinder:
		scale = s.R
	case Cone:
		lo, hi := rings[0].bounds()
		scale = math.Abs(s.RadiusAt((lo.Y+hi.Y)/2)) / math.Cos(s.Half)
	default:
		return f.Area()
	}
	sum := 0.0
	for i, r := range rings {
		if a := math.Abs(r.area()); i == 0 {
			sum += a
		} else {
			sum -= a
		}
	}
	return sum * scale
}

// Box returns the box around the view: exact as the solid lies, otherwise
// within the chord where faces bulge.
func (v *View) Box() geom.Box {
	if v.Solid == v.facets.Solid {
		return v.Solid.Box()
	}
	b := geom.EmptyBox()
	for _, e := range v.Edges {
		b = e.grow(b)
	}
	for i, f := range v.Faces {
		if !bulges(f.Surface) {
			continue
		}
		tris, err := v.Triangles(i)
		if err != nil {
			continue // said where the face's shape is needed
		}
		for _, t := range tris {
			b = b.Add(t[0]).Add(t[1]).Add(t[2])
		}
	}
	return b
}
