package feature

import (
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/planar"
)

// classify names a milled feature by the walls around its floor.
func (r *recogniser) classify(f *Feature) {
	p := &f.Params
	p.Islands = len(f.Region) - 1
	p.Length, p.Width = extent(f.Bound)
	p.Depth = p.TopZ - p.FloorZ
	around := f.besideFloor(f.Bound[0])
	open, runs := r.openEdges(around)
	walls := len(around) - open
	p.Open = open > 0
	p.MinInsideRadius = r.tightest(f)
	width, facing := r.facingWalls(around)
	switch {
	case p.Islands == 0 && (walls == 0 || p.Depth < 1e-6):
		f.Kind = PlanarFace
	case open > 0 && facing && runs > 0:
		f.Kind, p.Width = Slot, width
	case open > 0 && walls == 0:
		f.Kind = Step // around islands that stand on it
	case open > 0 && runs == 1 && walls <= 2:
		f.Kind = Step
	case open > 0 && runs == 2:
		f.Kind = Step
	case open > 0:
		f.Kind = OpenPocket
	case p.Islands == 0 && evenWidth(f.Bound) > 0:
		f.Kind, p.Width = Slot, evenWidth(f.Bound)
		p.Length = f.Bound.Perimeter()/2 - (math.Pi/2-1)*p.Width
	default:
		f.Kind = ClosedPocket
	}
	if r.floorIsTop(f) {
		f.Kind = PlanarFace
		p.TopZ, p.Depth = p.FloorZ, 0
	}
	if f.Kind != PlanarFace && p.MinInsideRadius == 0 && r.sharp(f) {
		f.Reachable = false
		f.Why = sharpCorner
	}
}

// extent returns length and width of the smallest rectangle around a region
// that lies along one of its longer straight sides.
func extent(r planar.Region) (length, width float64) {
	directions := []geom.V2{{X: 1}}
	longest := 0.0
	for _, l := range r {
		for _, s := range l {
			if !s.IsArc() {
				longest = math.Max(longest, s.Len())
			}
		}
	}
	for _, l := range r {
		for _, s := range l {
			if !s.IsArc() && s.Len() > 0.3*longest && len(directions) < 32 {
				directions = append(directions, s.TangentA())
			}
		}
	}
	area := math.Inf(1)
	for i, d := range directions {
		if i == 0 && len(directions) > 1 {
			continue // the axes count only without straight sides
		}
		lo, hi := r.Map(func(p geom.V2) geom.V2 { return p.Rotate(d.X, -d.Y) }).Bounds()
		if e := hi.Sub(lo); e.X*e.Y < area*(1-1e-9) {
			area, length, width = e.X*e.Y, math.Max(e.X, e.Y), math.Min(e.X, e.Y)
		}
	}
	return length, width
}

const sharpCorner = "sharp inside corner: a round tool leaves its own radius there"

// floorIsTop tells whether the floor has no wall at all, such as the top of an
// island in a pocket: every edge of the floor falls away.
func (r *recogniser) floorIsTop(f *Feature) bool {
	if f.Floor.Empty() {
		return false
	}
	above := r.shadow.Above(f.Params.FloorZ)
	for _, l := range f.Floor {
		for _, s := range l {
			if p := s.At(0.5); above.Contains(p) || above.Dist(p) < 1e-4 {
				return false
			}
		}
	}
	return true
}

// openEdges counts the segments of a loop that lie on the part's outline,
// and the runs of neighbouring ones.
func (r *recogniser) openEdges(l planar.Loop) (open, runs int) {
	is := func(s planar.Segment) bool { return r.set.Outline.Dist(s.At(0.5)) < 1e-4 }
	last := is(l[len(l)-1])
	for _, s := range l {
		now := is(s)
		if now {
			open++
			if !last {
				runs++
			}
		}
		last = now
	}
	if open == len(l) {
		runs = 1
	}
	return open, runs
}

// tightest returns the smallest radius of an inside corner of the region's
// walls: 0 with a sharp one, or when there is none.
func (r *recogniser) tightest(f *Feature) float64 {
	if r.sharp(f) {
		return 0
	}
	least := math.Inf(1)
	for _, l := range f.Region {
		for _, s := range l {
			if s.Turn > 0 && r.set.Outline.Dist(s.At(0.5)) > 1e-4 {
				least = math.Min(least, s.Radius())
			}
		}
	}
	if math.IsInf(least, 1) {
		return 0
	}
	return least
}

// sharp tells whether two walls of the region meet in an inside corner.
func (r *recogniser) sharp(f *Feature) bool {
	for _, l := range f.Region {
		for i, s := range l {
			t := l[(i+1)%len(l)]
			if s.TangentB().Cross(t.TangentA()) < 0.02 {
				continue
			}
			if r.set.Outline.Dist(s.At(0.5)) > 1e-4 && r.set.Outline.Dist(t.At(0.5)) > 1e-4 {
				return true
			}
		}
	}
	return false
}

// outlineCorners sets the tightest inside corner of the outline: where the
// part's outside turns inward.
func outlineCorners(f *Feature) {
	least := math.Inf(1)
	for _, l := range f.Region {
		for i, s := range l {
			if s.Turn < 0 {
				least = math.Min(least, s.Radius())
			}
			if t := l[(i+1)%len(l)]; s.TangentB().Cross(t.TangentA()) < -0.02 {
				f.Params.MinInsideRadius = 0
				f.Reachable = false
				f.Why = sharpCorner
				return
			}
		}
	}
	if !math.IsInf(least, 1) {
		f.Params.MinInsideRadius = least
	}
}

// facingWalls finds the longest pair of parallel straight walls that face
// each other across the loop, and their distance.
func (r *recogniser) facingWalls(l planar.Loop) (width float64, ok bool) {
	var walls planar.Loop
	for _, s := range l {
		if r.set.Outline.Dist(s.At(0.5)) > 1e-4 {
			walls = append(walls, s)
		}
	}
	return facing(walls)
}

func facing(l planar.Loop) (width float64, ok bool) {
	best := 0.0
	for i, s := range l {
		for _, t := range l[i+1:] {
			if s.IsArc() || t.IsArc() {
				continue
			}
			d, e := s.TangentA(), t.TangentA()
			w := d.Left().Dot(t.A.Sub(s.A))
			if d.Dot(e) > -1+1e-9 || w <= 0 {
				continue
			}
			if run := math.Min(s.Len(), t.Len()); run > best && run > w*0.5 {
				best, width, ok = run, w, true
			}
		}
	}
	return width, ok
}

// evenWidth returns the width of a slot with half-round ends along any centre
// line, 0 for other regions: with the half width r such a region of perimeter
// P has the area r·P − π·r².
func evenWidth(r planar.Region) float64 {
	for _, s := range r[0] { // the ends are half circles of just that radius
		w := s.Radius()
		if s.IsArc() && s.Turn > 0 && r.Perimeter() > 2*math.Pi*w+w && math.Abs(r.Area()-(w*r.Perimeter()-math.Pi*w*w)) < 1e-5*r.Area() {
			return 2 * w
		}
	}
	return 0
}

// besideFloor returns the segments of a loop that run along the floor itself,
// in order: others bound deeper or higher places that are open as well.
func (f *Feature) besideFloor(l planar.Loop) planar.Loop {
	if f.Floor.Empty() {
		return l
	}
	var out planar.Loop
	for _, s := range l {
		for k := 0.5; k < 12; k++ {
			if p := s.At(k / 12); f.Floor.Dist(p) < 1e-3 || f.Floor.Contains(p) {
				out = append(out, s)
				break
			}
		}
	}
	if len(out) == 0 {
		return l
	}
	return out
}

func title(f *Feature) string {
	p := f.Params
	num := func(v float64) string { return fmt.Sprintf("%.4g", v) }
	switch f.Kind {
	case RoundHole:
		s := "Hole ⌀" + num(p.Diameter)
		if p.Through {
			s += " through"
		} else {
			s += " × " + num(p.Depth)
		}
		if p.Counterbore.Diameter > 0 {
			s += ", counterbore ⌀" + num(p.Counterbore.Diameter)
		}
		if p.Back.Diameter > 0 {
			s += ", back counterbore ⌀" + num(p.Back.Diameter)
		}
		if p.Countersink.Diameter > 0 {
			s += ", countersink ⌀" + num(p.Countersink.Diameter)
		}
		return s
	case ClosedPocket, OpenPocket:
		s := map[Kind]string{ClosedPocket: "Pocket ", OpenPocket: "Open pocket "}[f.Kind] + num(p.Length) + " × " + num(p.Width)
		if p.Through {
			return s + " through"
		}
		s += ", " + num(p.Depth) + " deep"
		if p.FloorRadius > 0 {
			s += ", R" + num(p.FloorRadius) + " at the floor"
		}
		if p.Draft > 0 {
			s += ", draft " + num(p.Draft) + "°"
		}
		return s
	case Engraving:
		return "Engraving " + num(p.Length) + " long, " + num(p.Depth) + " deep"
	case Slot:
		if p.Through {
			return "Slot " + num(p.Width) + " through"
		}
		return "Slot " + num(p.Width) + ", " + num(p.Depth) + " deep"
	case Step:
		return "Step, " + num(p.Depth) + " deep"
	case PlanarFace:
		switch {
		case f.Approach.Z < -0.5:
			return "Bottom face"
		case f.Approach.Z > 1-1e-6:
			if p.Open {
				return "Top face"
			}
			return "Island top at Z" + num(p.FloorZ)
		}
		return "Face toward " + Toward(f.Approach)
	case OutsideProfile:
		return "Outside profile " + num(p.Length) + " × " + num(p.Width)
	case Chamfer:
		return "Chamfer " + num(f.Edge.Width)
	case Boss:
		if p.Diameter > 0 {
			return "Boss ⌀" + num(p.Diameter) + ", " + num(p.Depth) + " high"
		}
		return "Boss " + num(p.Length) + " × " + num(p.Width) + ", " + num(p.Depth) + " high"
	case EdgeRound:
		return "Edge round R" + num(p.Radius)
	case FreeSurface:
		return "Free surface"
	}
	return "Undercut"
}
