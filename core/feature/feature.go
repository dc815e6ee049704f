// Package feature finds in a solid what there is to cut: round holes,
// pockets, slots, steps, planar faces and the outside profile, in the terms of
// ISO 14649-10.
//
// Holes come from full inside cylinders and what joins them along one axis.
// The rest comes from the levels of the horizontal faces as seen from the
// spindle: at each level the part above throws a shadow (package section), and
// the connected pieces of the silhouette left open around a floor are what a
// tool has to clear (a level form of the delta volume of Vandenbrande and
// Requicha 1993).
//
// All lengths are mm in setup coordinates: the spindle comes from +Z.
package feature

import (
	"arete/core/geom"
	"arete/core/planar"
)

// Kind names a feature.
type Kind string

// The kinds of features.
const (
	PlanarFace     Kind = "planar_face"
	ClosedPocket   Kind = "closed_pocket"
	OpenPocket     Kind = "open_pocket"
	Slot           Kind = "slot"
	Step           Kind = "step"
	RoundHole      Kind = "round_hole"
	OutsideProfile Kind = "outside_profile"
	Chamfer        Kind = "chamfer"
	Boss           Kind = "boss"
	EdgeRound      Kind = "edge_round"
	FreeSurface    Kind = "free_surface"
	Undercut       Kind = "undercut"
	Engraving      Kind = "engraving"
)

// Feature is one thing to cut.
type Feature struct {
	ID        string
	Kind      Kind
	Approach  geom.V3 // out of the part towards the tool
	Faces     []int   // indices of the solid's faces
	Params    Params
	Reachable bool   // with the spindle of this setup and round tools
	Why       string // why not, or what stays
	Tool      Access // whether a round tool can do it from its own approach, whatever the setup

	Name       string    // given by somebody
	Leave      bool      // somebody decided not to cut it
	Neighbours []string  // features whose faces meet its own
	Directions []geom.V3 // it can be cut from, out of the part

	Slopes []int // those of its faces that level cuts leave: rounds at the floor, drafted walls and what stands on them

	Region planar.Region // of a milled feature: what is open at its floor
	Floor  planar.Region // the floor faces themselves
	Bound  planar.Region // the outer loop, filled
	Edge   Edge          // of a chamfer
}

// Access tells whether a tool can make a feature, and why not.
type Access struct {
	OK  bool
	Why string
}

// Params are the numbers a programmer would write on the drawing, mm and
// degrees; zero where they do not apply.
type Params struct {
	Diameter        float64
	Depth           float64
	Through         bool
	Bottom          string // flat, cone or open
	Center          geom.V3
	Counterbore     Counterbore
	Countersink     Countersink
	FloorZ, TopZ    float64
	MinInsideRadius float64
	Open            bool
	Islands         int
	Width, Length   float64
	PointAngle      float64     // of a conical bottom, included
	FloorRadius     float64     // between floor and walls
	Draft           float64     // of the walls against the approach, degrees
	Radius          float64     // of an edge round
	Back            Counterbore // of a through hole, at its far end
	Thread          string      // likely, by the diameter of its tap drill
}

// Counterbore is the wider mouth of a hole.
type Counterbore struct{ Diameter, Depth float64 }

// Countersink is the conical mouth of a hole; Angle is included, degrees.
type Countersink struct{ Diameter, Angle float64 }

// Edge is a bevelled rim: the region whose boundary is its lower edge, and the
// size of the bevel.
type Edge struct {
	Rim    []planar.Segment // lower edge, material on the right of travel
	Width  float64          // horizontal
	Height float64          // vertical
}

// Mouth returns diameter and depth of a hole's counterbore; of a hole without
// one its own.
func (p Params) Mouth() Counterbore {
	if p.Counterbore.Diameter > 0 {
		return p.Counterbore
	}
	return Counterbore{p.Diameter, p.Depth}
}

// Title is the name given, or a short one for lists, such as "Hole ⌀6.6
// through".
func (f *Feature) Title() string {
	if f.Name != "" {
		return f.Name
	}
	return title(f)
}

// Set is all that was found in one solid.
type Set struct {
	Features []*Feature
	Owner    []int // for each face of the solid: index of its feature, −1 for none
	Top      float64
	Bottom   float64
	Outline  planar.Region // the silhouette without its openings
	Patterns []Pattern     // groups of equal holes
	Notes    []string      // groups that could not be made, and why
}

// ByID returns the feature with the identifier, nil if there is none.
func (s *Set) ByID(id string) *Feature {
	for _, f := range s.Features {
		if f.ID == id {
			return f
		}
	}
	return nil
}
