package tooling

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func good() Tool {
	return Tool{Name: "x", Kind: EndMill, Substrate: Carbide, DC: 10, APMX: 22, ZEFF: 3, Shank: 10, Stickout: 30, Position: 1, Holder: []Segment{{20, 24, 30}}}
}

func TestImpossibleToolsSayWhichValue(t *testing.T) {
	require.NoError(t, good().Validate())
	for field, spoil := range map[string]func(*Tool){
		"name":           func(t *Tool) { t.Name = "" },
		"diameter":       func(t *Tool) { t.DC = 0 },
		"teeth":          func(t *Tool) { t.ZEFF = 0 },
		"cutting length": func(t *Tool) { t.APMX = -1 },
		"stickout":       func(t *Tool) { t.Stickout = 5 },
		"corner radius":  func(t *Tool) { t.RE = 6 },
		"point angle":    func(t *Tool) { t.Kind = Drill },
		"shank":          func(t *Tool) { t.Shank = math.NaN() },
		"position":       func(t *Tool) { t.Position = 0 },
		"holder":         func(t *Tool) { t.Holder[0].Length = 0 },
	} {
		x := good()
		spoil(&x)
		var p Problem
		require.ErrorAs(t, x.Validate(), &p, field)
		assert.Equal(t, field, p.Field)
	}
}

// The outline grows outward from the tip and is convex: strategies and
// simulations rely on it.
func TestProfilesAreConvex(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := good()
		x.Kind = rapid.SampledFrom([]Kind{EndMill, BallNose, BullNose, Drill, SpotDrill, ChamferMill}).Draw(t, "kind")
		x.SIG, x.Tip = rapid.Float64Range(30, 150).Draw(t, "sig"), rapid.Float64Range(0, 4).Draw(t, "tip")
		if x.Kind == BullNose {
			x.RE = rapid.Float64Range(0.1, 5).Draw(t, "re")
		}
		a, b := rapid.Float64Range(0, 5).Draw(t, "a"), rapid.Float64Range(0, 5).Draw(t, "b")
		require.LessOrEqual(t, x.Profile((a+b)/2), (x.Profile(a)+x.Profile(b))/2+1e-9)
		require.LessOrEqual(t, x.Profile(min(a, b)), x.Profile(max(a, b))+1e-12)
	})
}

func TestPointLengthByHand(t *testing.T) {
	d := Tool{Kind: Drill, DC: 10, SIG: 118}
	assert.InDelta(t, 3.0043, d.PointLength(), 1e-4)
	assert.InDelta(t, 4.5, Tool{Kind: ChamferMill, DC: 10, Tip: 1, SIG: 90}.PointLength(), 1e-12)
	assert.InDelta(t, d.PointLength(), d.Profile(5), 1e-12)
}
