package store_test

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"arete/core/workplan"
	"arete/demo"
	"arete/shop"
	"arete/store"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func open(t *testing.T, path string) *store.Store {
	s, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func addPart(t *testing.T, s *store.Store) int64 {
	id, err := s.AddPart(context.Background(), shop.Part{Name: "Lid", Lot: 1, File: "lid.step", Hash: "h"}, []byte("model"), workplan.Default("m", "a"))
	require.NoError(t, err)
	return id
}

func setPush(n int) func(*workplan.Plan) error {
	return func(p *workplan.Plan) error { p.Push = n; return nil }
}

func TestUndoAndRedoWalkTheHistory(t *testing.T) {
	ctx, s := context.Background(), open(t, filepath.Join(t.TempDir(), "a.db"))
	id := addPart(t, s)
	for _, n := range []int{10, 20, 30} {
		_, err := s.SavePlan(ctx, id, "push", setPush(n))
		require.NoError(t, err)
	}
	var seen []int
	for _, by := range []int{-1, -1, 1, -1, -1, -1} {
		saved, err := s.Step(ctx, id, by)
		require.NoError(t, err)
		seen = append(seen, saved.Plan.Push)
	}
	assert.Equal(t, []int{20, 10, 20, 10, 50, 50}, seen, "undo stops at the beginning")
	saved, err := s.SavePlan(ctx, id, "push", setPush(77))
	require.NoError(t, err)
	assert.False(t, saved.CanRedo, "a new edit drops what was undone")
	assert.True(t, saved.CanUndo)
}

func TestARefusedChangeSavesNothing(t *testing.T) {
	ctx, s := context.Background(), open(t, filepath.Join(t.TempDir(), "a.db"))
	id := addPart(t, s)
	before, err := s.Plan(ctx, id)
	require.NoError(t, err)
	_, err = s.SavePlan(ctx, id, "bad", func(p *workplan.Plan) error { p.Push = 3; return assert.AnError })
	require.ErrorIs(t, err, assert.AnError)
	after, err := s.Plan(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

func TestTwoUsersAtOnceLoseNoEdit(t *testing.T) {
	ctx, s := context.Background(), open(t, filepath.Join(t.TempDir(), "a.db"))
	id := addPart(t, s)
	var wg sync.WaitGroup
	for u := 0; u < 2; u++ {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := 0; i < 25; i++ {
				_, err := s.SavePlan(ctx, id, "more", func(p *workplan.Plan) error { p.NextID++; return nil })
				assert.NoError(t, err)
			}
		}()
	}
	wg.Wait()
	saved, err := s.Plan(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, 51, saved.Plan.NextID)
}

func TestLibraryAndDeletion(t *testing.T) {
	ctx, s := context.Background(), open(t, filepath.Join(t.TempDir(), "a.db"))
	_, _, err := s.Library(ctx)
	require.ErrorIs(t, err, shop.ErrNotFound)
	lib, err := shop.ReadLibrary(demo.Library)
	require.NoError(t, err)
	require.NoError(t, s.SaveLibrary(ctx, lib))
	require.NoError(t, s.SaveLibrary(ctx, lib))
	got, version, err := s.Library(ctx)
	require.NoError(t, err)
	assert.Equal(t, 2, version)
	assert.Equal(t, lib, got)
	id := addPart(t, s)
	require.NoError(t, s.DeletePart(ctx, id))
	_, err = s.Plan(ctx, id)
	assert.ErrorIs(t, err, shop.ErrNotFound)
}

// A child process saves as fast as it can and says so after each save; it is
// killed with SIGKILL in the middle. Nothing it acknowledged may be lost.
func TestKillLosesNothingAcknowledged(t *testing.T) {
	if path := os.Getenv("STORE_TEST_DB"); path != "" {
		s, err := store.Open(context.Background(), path)
		require.NoError(t, err)
		for n := 1; ; n++ {
			_, err := s.SavePlan(context.Background(), 1, "n", func(p *workplan.Plan) error { p.NextID = n; return nil })
			require.NoError(t, err)
			fmt.Printf("saved %d\n", n)
		}
	}
	path := filepath.Join(t.TempDir(), "k.db")
	s, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	addPart(t, s)
	require.NoError(t, s.Close())
	for round := 0; round < 3; round++ {
		cmd := exec.Command(os.Args[0], "-test.run", "^TestKillLosesNothingAcknowledged$", "-test.v")
		cmd.Env = append(os.Environ(), "STORE_TEST_DB="+path)
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		last := 0
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			if strings.HasPrefix(lines.Text(), "saved ") {
				_, err := fmt.Sscanf(lines.Text(), "saved %d", &last)
				require.NoError(t, err)
				if last == 40+round*17 {
					require.NoError(t, cmd.Process.Kill())
				}
			}
		}
		_ = cmd.Wait()
		require.Positive(t, last)
		s, err := store.Open(context.Background(), path)
		require.NoError(t, err)
		saved, err := s.Plan(context.Background(), 1)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, saved.Plan.NextID, last)
		require.NoError(t, s.Close())
	}
}

func TestNotADatabaseIsAClearError(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.db")
	require.NoError(t, os.WriteFile(path, []byte(strings.Repeat("this is not a database ", 100)), 0o644))
	_, err := store.Open(context.Background(), path)
	require.Error(t, err)
	assert.Contains(t, err.Error(), "cannot be used")
}

func TestFilesAreKeptWithTheirPart(t *testing.T) {
	ctx := context.Background()
	path := filepath.Join(t.TempDir(), "f.db")
	s := open(t, path)
	id := addPart(t, s)
	require.NoError(t, s.AddFile(ctx, id, shop.File{Hash: "h", Name: "a.stl", Data: []byte{1, 2}}))
	require.NoError(t, s.AddFile(ctx, id, shop.File{Hash: "h", Name: "b.stl", Data: []byte{1, 2}}))
	files, err := s.Files(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, []shop.File{{Hash: "h", Name: "b.stl", Data: []byte{1, 2}}}, files)
	require.NoError(t, s.DeletePart(ctx, id))
	files, err = s.Files(ctx, id)
	require.NoError(t, err)
	assert.Empty(t, files)
	assert.Error(t, s.AddFile(ctx, id, shop.File{Hash: "h", Name: "c.stl", Data: nil}), "there is no such part")
}
