package shop_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"arete/core/workplan"
	"arete/demo"
	"arete/shop"
	"arete/store"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func desk(t *testing.T) (*shop.Desk, int64) {
	ctx := context.Background()
	st, err := store.Open(ctx, filepath.Join(t.TempDir(), "d.db"))
	require.NoError(t, err)
	lib, err := shop.ReadLibrary(demo.Library)
	require.NoError(t, err)
	require.NoError(t, st.SaveLibrary(ctx, lib))
	d := shop.NewDesk(st)
	t.Cleanup(func() { d.Close(); _ = st.Close() })
	data, err := os.ReadFile("../demo/parts/sensor-bracket.step")
	require.NoError(t, err)
	id, err := d.Import(ctx, shop.Part{Name: "Bracket", File: "b.step"}, data)
	require.NoError(t, err)
	return d, id
}

func TestAnEditIsSavedAtOnceAndProvenInTheBackground(t *testing.T) {
	ctx := context.Background()
	d, id := desk(t)
	first, err := d.Proven(ctx, id)
	require.NoError(t, err)
	assert.True(t, first.Proof.Clean())
	saved, err := d.Edit(ctx, id, "drop a drill", func(p *workplan.Plan) error {
		p.Steps = p.Steps[:len(p.Steps)-1]
		return nil
	})
	require.NoError(t, err)
	now, err := d.Plan(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, saved.Version, now.Version)
	st, err := d.Ready(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, saved.Version, st.Version)
	assert.Same(t, first.Proof, st.Proof, "the old proof stays until the new one is there")
	second, err := d.Proven(ctx, id)
	require.NoError(t, err)
	assert.False(t, second.Proof.Clean())
	undone, err := d.Undo(ctx, id)
	require.NoError(t, err)
	third, err := d.Proven(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, undone.Version, third.Proven)
	assert.True(t, third.Proof.Clean())
}

func TestStoppedWorkKeepsTheLastResult(t *testing.T) {
	ctx := context.Background()
	d, id := desk(t)
	before, err := d.Proven(ctx, id)
	require.NoError(t, err)
	_, err = d.Edit(ctx, id, "push", func(p *workplan.Plan) error { p.Push = 90; return nil })
	require.NoError(t, err)
	d.Stop(id)
	time.Sleep(50 * time.Millisecond)
	st, job, err := d.State(ctx, id)
	require.NoError(t, err)
	assert.False(t, job.Running)
	assert.Same(t, before.Proof, st.Proof)
	_, err = d.Edit(ctx, id, "push", func(p *workplan.Plan) error { p.Push = 80; return nil })
	require.NoError(t, err)
	_, err = d.Proven(ctx, id)
	assert.NoError(t, err, "the next edit goes on")
}

func TestALibraryChangeReachesTheParts(t *testing.T) {
	ctx := context.Background()
	d, id := desk(t)
	before, err := d.Proven(ctx, id)
	require.NoError(t, err)
	lib, err := d.Library(ctx)
	require.NoError(t, err)
	lib.Tools[0].DC = 0
	require.ErrorIs(t, d.SaveLibrary(ctx, lib), shop.ErrInput)
	lib, err = d.Library(ctx)
	require.NoError(t, err)
	lib.Tools[0].DC, lib.Tools[0].Name = 40, "Face mill 40"
	require.NoError(t, d.SaveLibrary(ctx, lib))
	st, err := d.Wait(ctx, id, func(s *shop.State) bool { return s.Result != before.Result })
	require.NoError(t, err)
	assert.Equal(t, "Face mill 40", st.Result.Steps[0].Tool.Name)
}

func TestLibrariesThatCannotBe(t *testing.T) {
	for say, change := range map[string][2]string{
		"both sit at":      {`"position": 2`, `"position": 1`},
		"cannot be read":   {`"tools": [`, `"tools": {`},
		"0 ≤ mc < 1":       {`"mc": 0.25`, `"mc": 4`},
		"decimals":         {`"decimals": 3`, `"decimals": 9`},
		"every limit must": {`"rapid": 24000`, `"rapid": 0`},
	} {
		_, err := shop.ReadLibrary([]byte(strings.Replace(string(demo.Library), change[0], change[1], 1)))
		require.Error(t, err, say)
		assert.Contains(t, err.Error(), say)
	}
}

func TestAbsentThingsAreNotFound(t *testing.T) {
	d, id := desk(t)
	ctx := context.Background()
	_, err := d.Part(ctx, 77)
	assert.ErrorIs(t, err, shop.ErrNotFound)
	_, _, err = d.State(ctx, 77)
	assert.ErrorIs(t, err, shop.ErrNotFound)
	require.NoError(t, d.Delete(ctx, id))
	parts, err := d.Parts(ctx)
	require.NoError(t, err)
	assert.Empty(t, parts)
}

// A file brought in while others ask for the part is there for all of them.
func TestAFileIsThereForEverybody(t *testing.T) {
	ctx := context.Background()
	d, id := desk(t)
	p, err := d.Part(ctx, id)
	require.NoError(t, err)
	data, err := os.ReadFile("../demo/parts/gauge-lid.step")
	require.NoError(t, err)
	stop := make(chan struct{})
	var asking sync.WaitGroup
	for range 4 {
		asking.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
					_, err := d.Model(ctx, p)
					assert.NoError(t, err)
				}
			}
		})
	}
	it, err := d.Attach(ctx, p, "stock.step", data)
	require.NoError(t, err)
	close(stop)
	asking.Wait()
	m, err := d.Model(ctx, p)
	require.NoError(t, err)
	require.Contains(t, m.Attached, it.File)
	assert.Equal(t, "stock.step", m.Attached[it.File].Name)
	_, err = d.Attach(ctx, p, "x.stl", []byte("nothing"))
	assert.ErrorIs(t, err, shop.ErrInput)
	_, err = d.Setup(ctx, id, "stock", func(s *workplan.Setup) error {
		s.Blank = workplan.Blank{Kind: workplan.Body, Item: it}
		return nil
	})
	require.NoError(t, err)
	st, err := d.Proven(ctx, id)
	require.NoError(t, err)
	assert.InDelta(t, 96, st.Result.Geometry.Work.Stock.Size().X, 1e-6)
}
