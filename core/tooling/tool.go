// Package tooling describes milling and drilling tools, holders and their
// assembly. Property names follow ISO 13399: DC cutting diameter, RE corner
// radius, APMX usable cutting length, ZEFF effective teeth, SIG point angle.
// Lengths are mm, angles degrees (as on the tool's label).
package tooling

import (
	"fmt"
	"math"

	"arete/core/quantity"
)

// Kind names what a tool is.
type Kind string

// The kinds of tools.
const (
	EndMill     Kind = "end_mill"
	BallNose    Kind = "ball_nose"
	BullNose    Kind = "bull_nose"
	FaceMill    Kind = "face_mill"
	Drill       Kind = "drill"
	SpotDrill   Kind = "spot_drill"
	ChamferMill Kind = "chamfer_mill"
)

// Substrate is what the cutting edge is made of.
type Substrate string

// Cutting materials (ISO 513 names carbide HW and HC; HSS stands outside it).
const (
	Carbide Substrate = "carbide"
	HSS     Substrate = "hss"
	Insert  Substrate = "insert"
)

// Segment is a stretch of a holder from the gauge end nearest the tip upward.
type Segment struct {
	D1     float64 `json:"d1"` // lower diameter
	D2     float64 `json:"d2"` // upper diameter
	Length float64 `json:"length"`
}

// Tool is a tool in its holder at one stickout: an assembly, as it sits in
// the magazine.
type Tool struct {
	ID        int       `json:"id" db:"id"`
	Name      string    `json:"name"`
	Kind      Kind      `json:"kind"`
	Substrate Substrate `json:"substrate"`
	DC        float64   `json:"dc"`
	RE        float64   `json:"re"`
	SIG       float64   `json:"sig"`  // included point angle of drills and chamfer mills
	Tip       float64   `json:"tip"`  // diameter of the flat at a pointed tip
	APMX      float64   `json:"apmx"` // usable cutting length
	ZEFF      int       `json:"zeff"`
	Shank     float64   `json:"shank"`    // diameter above the cutting length
	Stickout  float64   `json:"stickout"` // tip to holder
	Holder    []Segment `json:"holder"`
	Position  int       `json:"position"` // in the magazine: the T number
}

// Problem is one value that cannot be.
type Problem struct{ Field, Say string }

// Error names the field and what to do.
func (p Problem) Error() string { return p.Field + ": " + p.Say }

// Validate returns the first impossible value.
func (t Tool) Validate() error {
	switch {
	case t.Name == "":
		return Problem{"name", "give the tool a name"}
	case !(t.DC > 0) || t.DC > 500:
		return Problem{"diameter", "a tool needs a cutting diameter between 0 and 500 mm"}
	case t.ZEFF < 1 || t.ZEFF > 40:
		return Problem{"teeth", "a tool has 1 to 40 teeth"}
	case !(t.APMX > 0):
		return Problem{"cutting length", "must be more than 0"}
	case !(t.Stickout >= t.APMX):
		return Problem{"stickout", fmt.Sprintf("must be at least the cutting length, %s mm", quantity.Format(t.APMX, 3))}
	case t.RE < 0 || t.RE > t.DC/2+1e-9:
		return Problem{"corner radius", "must lie between 0 and half the diameter"}
	case t.Pointed() && !(t.SIG > 0 && t.SIG < 180):
		return Problem{"point angle", "must lie between 0 and 180°"}
	case !(t.Shank > 0):
		return Problem{"shank", "must be more than 0"}
	case t.Position < 1 || t.Position > 999:
		return Problem{"position", "the T number must lie between 1 and 999"}
	}
	for _, s := range t.Holder {
		if !(s.D1 > 0) || !(s.D2 > 0) || !(s.Length > 0) {
			return Problem{"holder", "every segment needs diameters and a length"}
		}
	}
	return nil
}

// Pointed tells whether the tool ends in a cone.
func (t Tool) Pointed() bool {
	return t.Kind == Drill || t.Kind == SpotDrill || t.Kind == ChamferMill
}

// R returns the cutting radius.
func (t Tool) R() float64 { return t.DC / 2 }

// PointLength returns the height of the conical tip up to full diameter:
// (DC − tip)/2 / tan(SIG/2).
func (t Tool) PointLength() float64 {
	if !t.Pointed() || t.SIG <= 0 {
		return 0
	}
	return (t.DC - t.Tip) / 2 / math.Tan(t.SIG*math.Pi/360)
}

// Profile returns the height of the cutting surface above the tip at a
// distance r ≤ R from the axis; it grows with r and is convex.
func (t Tool) Profile(r float64) float64 {
	switch {
	case t.Pointed():
		if r <= t.Tip/2 {
			return 0
		}
		return (r - t.Tip/2) / math.Tan(t.SIG*math.Pi/360)
	case t.Kind == BallNose:
		rad := t.R()
		return rad - math.Sqrt(math.Max(0, rad*rad-r*r))
	case t.RE > 0:
		d := r - (t.R() - t.RE)
		if d <= 0 {
			return 0
		}
		return t.RE - math.Sqrt(math.Max(0, t.RE*t.RE-d*d))
	}
	return 0
}

// Flat tells whether the whole end face lies at the tip's height.
func (t Tool) Flat() bool {
	return !t.Pointed() && t.Kind != BallNose && t.RE == 0
}

// CutsCentre tells whether the tool may plunge straight down.
func (t Tool) CutsCentre() bool { return t.Kind != FaceMill }

// Title is a short description, such as "End mill 10, 3 teeth".
func (t Tool) Title() string { return t.Name }

// ByPosition finds a tool by T number.
func ByPosition(tools []Tool, n int) *Tool {
	for i := range tools {
		if tools[i].Position == n {
			return &tools[i]
		}
	}
	return nil
}
