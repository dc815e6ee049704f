package step

import (
	"errors"
	"math"

	"arete/core/brep"
)

var (
	errDegree = errors.New("has an impossible degree")
	errKnots  = errors.New("has knots and multiplicities that do not agree")
)

// surface reads an unbounded or bounded surface; b.opposite tells whether the
// one returned looks the other way than the one written.
func (b *reader) surface(v value, from *instance, depth int) (brep.Surface, error) {
	in, err := b.get(v, from)
	if err != nil {
		return nil, err
	}
	if depth > maxChain {
		return nil, b.bad(in, "refers to itself")
	}
	if in.find("B_SPLINE_SURFACE", "B_SPLINE_SURFACE_WITH_KNOTS", "UNIFORM_SURFACE", "QUASI_UNIFORM_SURFACE", "BEZIER_SURFACE") != nil {
		return b.splineSurface(in)
	}
	r := &in.records[0]
	if len(r.params) < 2 {
		return nil, b.unsupported(in)
	}
	switch r.name {
	case "RECTANGULAR_TRIMMED_SURFACE", "CURVE_BOUNDED_SURFACE", "ORIENTED_SURFACE":
		return b.surface(r.params[1], in, depth+1)
	case "SURFACE_OF_LINEAR_EXTRUSION", "SURFACE_OF_REVOLUTION":
		return b.swept(in, r, depth)
	case "OFFSET_SURFACE":
		if len(r.params) < 3 {
			return nil, b.bad(in, "has no distance")
		}
		base, err := b.surface(r.params[1], in, depth+1)
		if err != nil {
			return nil, err
		}
		d := r.params[2].num * b.unit.length
		if b.opposite {
			d = -d
		}
		return brep.NewOffset(base, d), nil
	case "PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE", "SPHERICAL_SURFACE", "TOROIDAL_SURFACE", "DEGENERATE_TOROIDAL_SURFACE":
		return b.elementary(in, r)
	}
	return nil, b.unsupported(in)
}

func (b *reader) elementary(in *instance, r *record) (brep.Surface, error) {
	f, err := b.frame(r.params[1], in)
	if err != nil || r.name == "PLANE" {
		return brep.Plane{F: f}, err
	}
	if len(r.params) < 3 {
		return nil, b.bad(in, "has no radius")
	}
	radius := r.params[2].num * b.unit.length
	if !(radius > 0) && !(radius == 0 && r.name == "CONICAL_SURFACE") {
		return nil, b.bad(in, "has no positive radius")
	}
	switch r.name {
	case "CYLINDRICAL_SURFACE":
		return brep.Cylinder{F: f, R: radius}, nil
	case "SPHERICAL_SURFACE":
		return brep.Sphere{F: f, R: radius}, nil
	}
	if len(r.params) < 4 {
		return nil, b.bad(in, "has too few parameters")
	}
	if r.name == "CONICAL_SURFACE" {
		half := r.params[3].num * b.unit.angle
		if math.Abs(half) >= math.Pi/2 || math.IsNaN(half) {
			return nil, b.bad(in, "has an impossible angle")
		}
		if math.Abs(half) < 1e-9 {
			if radius == 0 {
				return nil, b.bad(in, "has neither radius nor angle")
			}
			return brep.Cylinder{F: f, R: radius}, nil
		}
		return brep.Cone{F: f, R: radius, Half: half}, nil
	}
	minor := r.params[3].num * b.unit.length
	if !(minor > 0) {
		return nil, b.bad(in, "has no positive minor radius")
	}
	inner := r.name == "DEGENERATE_TOROIDAL_SURFACE" && len(r.params) > 4 && !isTrue(r.params[4])
	return brep.Torus{F: f, Major: radius, Minor: minor, Inner: inner}, nil
}

// swept reads an extruded or revolved surface.
func (b *reader) swept(in *instance, r *record, depth int) (brep.Surface, error) {
	if len(r.params) < 3 {
		return nil, b.bad(in, "has too few parameters")
	}
	c, err := b.curve(r.params[1], in, depth+1)
	if err != nil {
		return nil, err
	}
	if r.name == "SURFACE_OF_LINEAR_EXTRUSION" {
		d, err := b.vector(r.params[2], in)
		if err != nil {
			return nil, err
		}
		s, opposite := brep.Extruded(c, d)
		b.opposite = opposite
		return s, nil
	}
	f, err := b.frame(r.params[2], in)
	if err != nil {
		return nil, err
	}
	s, opposite := brep.Revolved(f, c)
	b.opposite = opposite
	return s, nil
}
