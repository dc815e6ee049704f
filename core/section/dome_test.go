package section

import (
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/exchange/step"
	"arete/core/planar"
)

// Above any level a dome on a plate throws a round shadow.
func TestShadowOfADome(t *testing.T) {
	f, err := os.Open("../feature/testdata/dome.step")
	require.NoError(t, err)
	defer f.Close()
	m, err := step.Read(f)
	require.NoError(t, err)
	sh, err := New(m.Bodies[0].Solid, nil, nil, planar.DefaultTolerance)
	require.NoError(t, err)
	for z := 10.0; z < 30; z += 0.37 {
		r := sh.Above(z)
		want := math.Pi * (400 - (z-10)*(z-10))
		assert.InDelta(t, want, r.Area(), 0.01*2*math.Pi*20+0.001*want, "at %v", z)
		assert.Len(t, r, 1, "at %v", z)
	}
}
