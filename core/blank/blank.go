// Package blank is the stock as it comes: a block, or any body such as a
// casting, a forging or a bar. It answers what the strategies, the simulation
// and the comparison ask of stock that is no block.
//
// Tools come from +Z, so what lies under the stock's surface as seen from there
// counts as material, whether or not the body is hollow below. Lengths are mm,
// in setup coordinates.
package blank

import (
	"math"
	"sync"

	"arete/core/brep"
	"arete/core/geom"
	"arete/core/mesh"
	"arete/core/planar"
	"arete/core/section"
)

// Blank is stock that is no block.
type Blank struct {
	Mesh   *mesh.Mesh
	Box    geom.Box
	shadow *section.Shadow // of a solid; a mesh alone has contours
	relief *Relief
	near   *proximity
	mu     sync.Mutex
	cache  map[float64]planar.Region
}

// reliefCells is how many cells a relief has along its longer side.
const reliefCells = 400

// New makes stock of a mesh, with the solid that it is of when there is one.
func New(m *mesh.Mesh, s *brep.Solid) (*Blank, error) {
	b := &Blank{Mesh: m, Box: m.Box(), cache: map[float64]planar.Region{}}
	size := b.Box.Size()
	b.relief = NewRelief(m, math.Max(0.1, math.Max(size.X, size.Y)/reliefCells))
	b.near = newProximity(m)
	if s == nil {
		return b, nil
	}
	var err error
	b.shadow, err = section.New(s, nil, nil, planar.DefaultTolerance)
	return b, err
}

// Above returns the region in which stock rises above z.
func (b *Blank) Above(z float64) planar.Region {
	if b.shadow != nil {
		return b.shadow.Above(z)
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	r, ok := b.cache[z]
	if !ok {
		r = b.relief.Contour(z)
		b.cache[z] = r
	}
	return r
}

// Outside returns the signed distance of p from the stock's surface, positive
// outside, as far as reach.
func (b *Blank) Outside(p geom.V3, reach float64) float64 { return b.near.distance(p, reach) }
