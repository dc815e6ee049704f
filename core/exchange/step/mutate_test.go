package step

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A file with some characters changed, cut or doubled either still holds a
// closed solid or gives one line of a known class; it never panics.
func TestDamagedFilesGiveOneLine(t *testing.T) {
	good, err := os.ReadFile(filepath.Join(parts, "sensor-bracket.step"))
	require.NoError(t, err)
	classes := []error{ErrSyntax, ErrReference, ErrUnsupported, ErrNoSolid, ErrTopology}
	rapid.Check(t, func(t *rapid.T) {
		text := append([]byte(nil), good...)
		for i, n := 0, rapid.IntRange(1, 6).Draw(t, "n"); i < n; i++ {
			at := rapid.IntRange(0, len(text)-20).Draw(t, "at")
			switch rapid.IntRange(0, 3).Draw(t, "how") {
			case 0:
				text[at] = byte(rapid.IntRange(32, 126).Draw(t, "c"))
			case 1:
				text = append(text[:at:at], text[at+rapid.IntRange(1, 15).Draw(t, "cut"):]...)
			case 2:
				text = append(text[:at:at], append([]byte("9"), text[at:]...)...)
			default:
				text = text[:len(text)-rapid.IntRange(0, 40).Draw(t, "short")]
			}
		}
		m, err := Read(strings.NewReader(string(text)))
		if err == nil {
			for _, s := range m.Bodies {
				if mesh, err := s.Tessellate(0.5); err == nil {
					require.Zero(t, mesh.OpenEdges())
				}
			}
			return
		}
		known := false
		for _, c := range classes {
			known = known || errors.Is(err, c)
		}
		require.True(t, known, "%v", err)
		require.NotContains(t, err.Error(), "\n")
		var e *Error
		require.ErrorAs(t, err, &e)
		require.NotEmpty(t, e.Do, "says what to do")
	})
}
