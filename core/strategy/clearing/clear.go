package clearing

import (
	"context"
	"fmt"
	"math"

	"arete/core/geom"
	"arete/core/motion"
	"arete/core/planar"
)

// Make returns the path that clears all levels, and the places it could not
// reach. Levels must run downward.
func Make(ctx context.Context, in Input, progress func(done, total int)) (motion.Path, []Problem, error) {
	c := &cutter{ctx: ctx, in: &in, b: motion.NewBuilder(in.Clear)}
	for i, lv := range in.Levels {
		if progress != nil {
			progress(i, len(in.Levels))
		}
		if !lv.Stock.Empty() {
			if err := c.level(lv); err != nil {
				return motion.Path{}, nil, err
			}
		}
	}
	c.b.Up()
	return c.b.Path, c.problems, nil
}

// cutter writes the path of one task.
type cutter struct {
	ctx      context.Context
	in       *Input
	b        *motion.Builder
	a        *area
	z        float64
	visited  []planar.Loop // curves already cut on this level
	open     planar.Region // centres clear of stock before this level began
	problems []Problem
}

func (c *cutter) level(lv Level) error {
	a, err := c.in.area(c.ctx, lv)
	if err != nil {
		return err
	}
	c.a, c.z, c.visited = a, lv.Z, nil
	if len(c.a.rings) == 0 {
		if lv.Stock.Area() > 1e-2 {
			c.problems = append(c.problems, Problem{lv.Z, c.tooWide()})
		}
		return nil
	}
	reach := planar.Offset(planar.Union(lv.Stock, lv.Material, c.in.Tol), c.in.Radius+0.02*c.in.Radius, c.in.Tol)
	c.open = planar.Difference(c.a.room, reach, c.in.Tol)
	for _, part := range c.a.rings[0].Parts() {
		c.part(part, 0)
	}
	return c.ctx.Err()
}

func (c *cutter) tooWide() string {
	_, d := c.a.lv.Stock.Deepest(0.05)
	return fmt.Sprintf("the tool is wider than the area: it takes at most ⌀%.2f less the allowance", 2*d)
}

// part cuts one connected piece of ring k: first what lies further in, then
// its own curves and the spots between.
func (c *cutter) part(q planar.Region, k int) {
	if c.ctx.Err() != nil {
		return
	}
	if k+1 < len(c.a.rings) {
		for _, next := range planar.Intersection(c.a.rings[k+1], q, c.in.Tol).Parts() {
			c.part(next, k+1)
		}
	}
	var curves []planar.Loop
	for _, s := range c.a.spots(k) {
		curves = append(curves, planar.Clip(s, q, c.in.Tol)...)
	}
	c.run(curves)
	c.run(c.a.curves(q))
}

// run cuts curves in the order of nearness.
func (c *cutter) run(curves []planar.Loop) {
	for len(curves) > 0 {
		best := 0
		for i := range curves {
			if distance(curves[i], c.b.At.XY()) < distance(curves[best], c.b.At.XY()) {
				best = i
			}
		}
		c.curve(curves[best])
		curves = append(curves[:best:best], curves[best+1:]...)
	}
}

// curve moves to a curve and cuts it.
func (c *cutter) curve(l planar.Loop) {
	here := c.b.At.XY()
	if isClosed(l) {
		l = nearestStart(l, here)
	}
	if !c.in.Climb {
		l = l.Reverse()
	}
	if !c.link(l[0].A) && !c.enter(l) {
		return
	}
	if isClosed(l) && l[0].A.Dist(c.b.At.XY()) > 1e-9 {
		l = nearestStart(l, c.b.At.XY())
		c.b.Line(l[0].A.At(c.z), c.in.Feed)
	}
	c.b.Follow(l, c.z, c.in.Feed)
	c.visited = append(c.visited, l)
}

// link goes straight to p at depth when the way lies in the room and is short.
func (c *cutter) link(p geom.V2) bool {
	here := c.b.At
	if here.Z > c.z+1e-9 || here.XY().Dist(p) > 3*c.in.Radius+c.in.AE {
		return false
	}
	if !c.a.room.Inside(planar.Line(here.XY(), p), c.in.Tol) {
		return false
	}
	c.b.Line(p.At(c.z), c.in.Feed)
	return true
}

// enter brings the tool to depth for a curve: where the work is open, where
// this level has been cut already, by a helix, or by a ramp along the curve.
func (c *cutter) enter(l planar.Loop) bool {
	start := l[0].A
	if q, ok := c.fromOpen(start); ok {
		c.b.Over(q, c.z+c.lift())
		c.b.Line(q.At(c.z), c.in.Feed)
		c.b.Line(start.At(c.z), c.in.Feed)
		return true
	}
	if q, ok := c.fromVisited(start); ok {
		c.b.Over(q, c.z+c.lift())
		c.b.Line(q.At(c.z), c.in.Feed)
		c.b.Line(start.At(c.z), c.in.Feed)
		return true
	}
	if c.helix(l) {
		return true
	}
	return c.ramp(l)
}

// lift is the height above a free spot down to which the tool moves at rapid.
func (c *cutter) lift() float64 { return math.Min(1, c.in.Clear-c.z) }

// fromOpen finds a spot clear of stock from which the way to p is free.
func (c *cutter) fromOpen(p geom.V2) (geom.V2, bool) {
	best, dist := geom.V2{}, math.Inf(1)
	if c.open.Contains(p) {
		return p, true
	}
	for _, l := range c.open {
		if q, _, d := l.Nearest(p); d < dist && c.a.room.Inside(planar.Line(q, p), c.in.Tol) {
			best, dist = q, d
		}
	}
	return best, !math.IsInf(dist, 1)
}

// fromVisited finds a spot on an earlier curve of this level likewise.
func (c *cutter) fromVisited(p geom.V2) (geom.V2, bool) {
	best, dist := geom.V2{}, math.Inf(1)
	for _, l := range c.visited {
		q, _, d := l.Nearest(p)
		if d < dist && d < 4*c.in.Radius && c.a.room.Inside(planar.Line(q, p), c.in.Tol) {
			best, dist = q, d
		}
	}
	return best, !math.IsInf(dist, 1)
}
