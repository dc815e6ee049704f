package svg

import (
	"bytes"
	"encoding/xml"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/geom"
	"arete/core/planar"
)

func TestRegionsAsPaths(t *testing.T) {
	var b bytes.Buffer
	r := planar.Region{planar.Rect(0, 0, 40, 20), planar.Circle(geom.V2{X: 10, Y: 10}, 4).Reverse()}
	require.NoError(t, Write(&b, []Named{{"Pocket <1>", r}}))
	var file struct {
		ViewBox string `xml:"viewBox,attr"`
		Paths   []struct {
			D     string `xml:"d,attr"`
			Title string `xml:"title"`
		} `xml:"path"`
	}
	require.NoError(t, xml.Unmarshal(b.Bytes(), &file))
	assert.Equal(t, "-2.0000 -22.0000 44.0000 24.0000", file.ViewBox)
	require.Len(t, file.Paths, 1)
	assert.Equal(t, "Pocket <1>", file.Paths[0].Title)
	assert.Contains(t, file.Paths[0].D, "M0.0000 -0.0000L40.0000 -0.0000L40.0000 -20.0000L0.0000 -20.0000L0.0000 -0.0000Z")
	assert.Contains(t, file.Paths[0].D, "A4.0000 4.0000 0 0 1 ")
}
