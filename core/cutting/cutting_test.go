package cutting

import (
	"math"
	"testing"

	"arete/core/machine"
	"arete/core/material"
	"arete/core/tooling"
	"github.com/stretchr/testify/assert"
)

var mill = tooling.Tool{Kind: tooling.EndMill, DC: 10, ZEFF: 3, APMX: 22, Stickout: 30, Shank: 10, Substrate: tooling.Carbide}

func TestSpeedsFollowTheDefinition(t *testing.T) {
	assert.InDelta(t, 9549.3, RPM(300, 10), 0.1)
	assert.InDelta(t, 300, Speed(RPM(300, 10), 10), 1e-9)
}

func TestEngagementAndChip(t *testing.T) {
	assert.InDelta(t, math.Pi/2, Engagement(5, 10), 1e-12)
	assert.InDelta(t, math.Pi, Engagement(10, 10), 1e-12)
	assert.InDelta(t, 0.1*2/math.Pi, MeanChip(0.1, 10, 10), 1e-12, "full slot: mean of the sine")
	assert.InDelta(t, 0.1, MaxChip(0.1, 5, 10), 1e-12)
	assert.InDelta(t, 0.06, MaxChip(0.1, 1, 10), 1e-12, "2·√(0.1·0.9)")
	assert.InDelta(t, 1/0.6, ThinningFactor(1, 10), 1e-12)
}

// Worked by hand: ap 5, ae 5, fz 0.05, n 9549, kc1.1 700, mc 0.25.
func TestMillingPower(t *testing.T) {
	n := RPM(300, 10)
	vf := 0.05 * 3 * n
	l := Milling(mill, material.Material{Kc11: 700, MC: 0.25}, machine.Machine{Efficiency: 0.8}, 5, 5, n, vf)
	hm := 0.05 * 1 / (math.Pi / 2)
	kc := 700 * math.Pow(hm, -0.25)
	assert.InDelta(t, 5*5*vf*kc/60e6/0.8, l.Power, 1e-9)
	assert.InDelta(t, l.Power*9549/n, l.Torque, 1e-9)
}

func TestDeflectionOfAPlainBarIsTheCantilever(t *testing.T) {
	bar := mill
	bar.APMX, bar.Stickout = 30, 30
	i := math.Pi * math.Pow(8, 4) / 64
	assert.InDelta(t, 100*27000/(3*600e3*i), Deflection(bar, 100), 1e-12)
}
