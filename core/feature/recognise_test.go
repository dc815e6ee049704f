package feature

import (
	"context"
	"fmt"
	"os"
	"testing"

	"arete/core/exchange/step"
	"github.com/stretchr/testify/require"
)

func TestPrintAll(t *testing.T) {
	for _, n := range []string{"gauge-lid", "sensor-bracket", "valve-manifold"} {
		f, err := os.Open("../../demo/parts/" + n + ".step")
		require.NoError(t, err)
		m, err := step.Read(f)
		require.NoError(t, err)
		set, _, err := Recognise(context.Background(), m.Solids[0])
		require.NoError(t, err)
		fmt.Println(n, len(m.Solids[0].Faces))
		for _, f := range set.Features {
			fmt.Printf("%s %s [%s] top %.3f floor %.3f open %v walls r %.2f %v faces %v %s area %.1f\n", f.ID, f.Kind, f.Title(), f.Params.TopZ, f.Params.FloorZ, f.Params.Open, f.Params.MinInsideRadius, f.Reachable, f.Faces, f.Why, f.Region.Area())
		}
	}
}
