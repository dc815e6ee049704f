// Package cutting computes speeds, feeds, forces, power and deflection.
//
// Sources: n and vf by ISO 3002; chip thickness and engagement from the
// geometry of milling; cutting force kc = kc1.1·hm^(−mc) (Kienzle 1952);
// deflection as a stepped cantilever. Units: mm, rpm, mm/min, m/min, N, kW.
package cutting

import (
	"math"

	"arete/core/machine"
	"arete/core/material"
	"arete/core/tooling"
)

// RPM returns the spindle speed for a cutting speed vc (m/min) at the
// effective diameter d (mm).
func RPM(vc, d float64) float64 { return 1000 * vc / (math.Pi * d) }

// Speed returns the cutting speed in m/min at n rpm.
func Speed(n, d float64) float64 { return n * math.Pi * d / 1000 }

// Engagement returns the angle the tool is in the work, radians, for a width
// of cut ae.
func Engagement(ae, d float64) float64 {
	return math.Acos(1 - 2*math.Min(1, math.Max(0, ae/d)))
}

// MeanChip returns the mean chip thickness hm = fz·(2ae/D)/φ for κ = 90°.
func MeanChip(fz, ae, d float64) float64 {
	phi := Engagement(ae, d)
	if phi == 0 {
		return 0
	}
	return fz * 2 * math.Min(ae, d) / d / phi
}

// MaxChip returns the thickest chip hex: fz, or less for ae < D/2.
func MaxChip(fz, ae, d float64) float64 {
	q := math.Max(0, ae/d)
	if q >= 0.5 {
		return fz
	}
	return fz * 2 * math.Sqrt(q*(1-q))
}

// ThinningFactor tells how much fz may grow at a small ae to keep the chip;
// at most 3.
func ThinningFactor(ae, d float64) float64 {
	h := MaxChip(1, ae, d)
	if h <= 1.0/3 {
		return 3
	}
	return 1 / h
}

// EffectiveDiameter returns where a tool cuts fastest at depth ap.
func EffectiveDiameter(t tooling.Tool, ap float64) float64 {
	switch {
	case t.Kind == tooling.BallNose && ap < t.DC/2:
		return 2 * math.Sqrt(math.Max(1e-6, ap*(t.DC-ap)))
	case t.Kind == tooling.ChamferMill || t.Kind == tooling.SpotDrill:
		return math.Min(t.DC, math.Max(t.Tip+2*ap*math.Tan(t.SIG*math.Pi/360), 0.2*t.DC))
	}
	return t.DC
}

// Load is what a cut asks of tool and machine.
type Load struct {
	HM         float64 // mean chip thickness, mm
	Force      float64 // mean tangential force of all teeth in the work, N
	Power      float64 // at the motor, kW
	Torque     float64 // Nm
	Deflection float64 // of the tip, mm
}

// Milling returns the load of a milling cut.
func Milling(t tooling.Tool, m material.Material, mc machine.Machine, ap, ae, n, vf float64) Load {
	if n <= 0 || vf <= 0 || ap <= 0 || ae <= 0 {
		return Load{}
	}
	fz := vf / (n * float64(t.ZEFF))
	l := Load{HM: MeanChip(fz, ae, t.DC)}
	kc := m.Kc11 * math.Pow(math.Max(l.HM, 0.002), -m.MC)
	l.Power = ap * math.Min(ae, t.DC) * vf * kc / (60e6 * mc.Efficiency)
	l.Torque = l.Power * 9549 / n
	l.Force = l.Power * mc.Efficiency * 60000 / math.Max(Speed(n, t.DC), 1e-9)
	l.Deflection = Deflection(t, l.Force)
	return l
}

// Drilling returns the load of a drill at feed f per revolution.
func Drilling(t tooling.Tool, m material.Material, mc machine.Machine, n, vf float64) Load {
	if n <= 0 || vf <= 0 {
		return Load{}
	}
	f := vf / n
	h := f / 2 * math.Sin(t.SIG*math.Pi/360)
	kc := m.Kc11 * math.Pow(math.Max(h, 0.002), -m.MC)
	l := Load{HM: h}
	l.Torque = kc * f * t.DC * t.DC / 8000
	l.Power = l.Torque * n / 9549 / mc.Efficiency
	l.Force = kc * f * t.DC / 4
	return l
}

// Young's moduli in N/mm².
const (
	youngCarbide = 600e3
	youngSteel   = 210e3
)

// Deflection returns how far the tip gives under a side force F (N): the
// fluted length (core 0.8·DC) and the shank as a stepped cantilever from the
// holder, by Castigliano's theorem: δ = F/(3E)·Σ (b³ − a³)/I.
func Deflection(t tooling.Tool, force float64) float64 {
	e := youngCarbide
	if t.Substrate == tooling.HSS {
		e = youngSteel
	}
	inertia := func(d float64) float64 { return math.Pi * d * d * d * d / 64 }
	flute := math.Min(t.APMX, t.Stickout)
	sum := flute * flute * flute / inertia(0.8*t.DC)
	if t.Stickout > flute {
		sum += (t.Stickout*t.Stickout*t.Stickout - flute*flute*flute) / inertia(t.Shank)
	}
	return force / (3 * e) * sum
}
