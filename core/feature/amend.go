package feature

import "slices"

// Amendment is what somebody says of a feature that was found: another name,
// another kind, or that it is left as it is. The feature is told by one of its
// faces, so that it is the same one whichever way is up.
type Amendment struct {
	Face  int    `json:"face"` // index in the solid
	Name  string `json:"name,omitempty"`
	Kind  Kind   `json:"kind,omitempty"`
	Leave bool   `json:"leave,omitempty"`
}

// Milled lists the kinds that a milled feature can be called.
var Milled = []Kind{PlanarFace, ClosedPocket, OpenPocket, Slot, Step}

// LeftAsIs is why an amended feature is not cut.
const LeftAsIs = "it is left as it is: so decided"

// Amend applies amendments to what was found.
func (s *Set) Amend(list []Amendment) {
	for _, a := range list {
		if a.Face < 0 || a.Face >= len(s.Owner) || s.Owner[a.Face] < 0 {
			continue
		}
		f := s.Features[s.Owner[a.Face]]
		f.Name = a.Name
		if f.CanBe(a.Kind) {
			f.Kind = a.Kind
		}
		if a.Leave {
			f.Leave, f.Reachable, f.Why = true, false, LeftAsIs
		}
	}
}

// CanBe tells whether a feature may be called another kind: milled ones among
// themselves.
func (f *Feature) CanBe(k Kind) bool {
	return slices.Contains(Milled, k) && slices.Contains(Milled, f.Kind)
}
