package report

import (
	"bytes"
	"image/png"
	"os"
	"testing"

	"arete/core/exchange/step"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The picture fills its frame without touching it, and the same part gives
// the same bytes.
func TestPictureShowsThePartWhole(t *testing.T) {
	f, err := os.Open("../demo/parts/gauge-lid.step")
	require.NoError(t, err)
	defer f.Close()
	m, err := step.Read(f)
	require.NoError(t, err)
	mesh, err := m.Bodies[0].Solid.Tessellate(0.1)
	require.NoError(t, err)
	a, err := Picture(m.Bodies[0].Solid, mesh, 180, 120)
	require.NoError(t, err)
	b, err := Picture(m.Bodies[0].Solid, mesh, 180, 120)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(a, b))
	img, err := png.Decode(bytes.NewReader(a))
	require.NoError(t, err)
	ground := img.At(0, 0)
	part, rim := 0, 0
	for y := 0; y < 120; y++ {
		for x := 0; x < 180; x++ {
			if img.At(x, y) != ground {
				part++
				if x == 0 || y == 0 || x == 179 || y == 119 {
					rim++
				}
			}
		}
	}
	assert.Greater(t, part, 180*120/4)
	assert.Zero(t, rim)
}
