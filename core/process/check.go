package process

import (
	"fmt"

	"arete/core/feature"
	"arete/core/workplan"
)

// The least width of cut, as a part of the tool's diameter, and the most
// depths of cut: what goes beyond is a slip of the finger, would take minutes
// to compute and days to cut.
const (
	leastWidth = 0.01
	mostDepths = 500
)

// check refuses numbers that no path can be made of, or only a dangerous one.
func (m *maker) check() error {
	lo, hi := m.in.Work.Stock.Min, m.in.Work.Stock.Max
	top, bottom, ap, ae := m.num("top"), m.num("bottom"), m.num("ap"), m.num("ae")
	refuse := func(field, format string, args ...any) error {
		return workplan.Problem{Field: field, Say: fmt.Sprintf(format, args...)}
	}
	switch {
	case top < bottom-1e-9:
		return refuse("bottom", "the bottom lies above the top: there is nothing to cut")
	case bottom < lo.Z-1e-6:
		return refuse("bottom", "the bottom lies %.2f mm below the stock: the tool would cut the table or the parallels", lo.Z-bottom)
	case m.num("clearance") < max(hi.Z, m.in.Work.High)+0.5:
		return refuse("clearance", "the clearance plane lies below Z%.2f: rapids across the work need half a millimetre over stock and fixtures", max(hi.Z, m.in.Work.High)+0.5)
	case m.in.Step.Op.Has("ap") && top-bottom > mostDepths*ap:
		return refuse("ap", "a depth of cut of %.3f mm would take more than %d passes: make it at least %.3f", ap, mostDepths, (top-bottom)/mostDepths)
	case m.in.Step.Op.Has("ae") && ae < leastWidth*m.in.Tool.DC:
		return refuse("ae", "a width of cut of %.3f mm only rubs with a tool of ⌀%.4g: make it at least %.3f", ae, m.in.Tool.DC, leastWidth*m.in.Tool.DC)
	}
	return m.belowFloor()
}

// belowFloor refuses a depth under the floor that a milling step is to make.
func (m *maker) belowFloor() error {
	op := m.in.Step.Op
	if op != workplan.Clearing && op != workplan.RestClearing && op != workplan.FloorFinishing && op != workplan.Profiling {
		return nil
	}
	for _, f := range m.features {
		if d := m.ownBottom(f) - m.num("bottom") - m.num("floor"); d > 1e-6 && !f.Params.Through && f.Kind != feature.PlanarFace {
			return workplan.Problem{Field: "bottom", Say: fmt.Sprintf("the bottom lies %.3f mm below the floor of %s: the part would be cut too deep", d, f.Title())}
		}
	}
	return nil
}
