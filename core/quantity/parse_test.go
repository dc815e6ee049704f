package quantity

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParse(t *testing.T) {
	env := map[string]float64{"D": 10}
	for in, want := range map[string]float64{
		"12.5": 12.5, "1/8in": 3.175, `3/64"`: 1.190625, "-2mm": -2, "0.6*D": 6, "0.6 * D + 1": 7, "(1+2)*D/3": 10,
		"2 in": 50.8, "1in - 0.4": 25, "12,5": 12.5, "10 thou": 0.254, "1.5cm": 15, "D/4": 2.5, "+3": 3, "--3": 3, "1/4 in": 6.35,
	} {
		got, err := Parse(in, 1, env)
		require.NoError(t, err, in)
		assert.InDelta(t, want, got, 1e-9, in)
	}
	got, err := Parse("1/2", 25.4, env)
	require.NoError(t, err)
	assert.InDelta(t, 12.7, got, 1e-9, "plain numbers count in the unit shown")
}

func TestParseSaysWhatIsWrong(t *testing.T) {
	for _, in := range []string{"", "abc", "1/0", "3 + ", "(2", "1e999", "2 3", "12mmm", "1..2", "D D", "((((((((((((((((((((((((((((((((((((((((((((((((((((((1"} {
		_, err := Parse(in, 1, map[string]float64{"D": 1})
		assert.ErrorIs(t, err, ErrExpression, in)
	}
}

func TestFormatAndClock(t *testing.T) {
	assert.Equal(t, "1.5", Format(1.5, 3))
	assert.Equal(t, "0", Format(-0.0001, 3))
	assert.Equal(t, "10:05", Clock(604.6))
	assert.Equal(t, "1:01:01", Clock(3661))
}

func FuzzParse(f *testing.F) {
	f.Add("1/8in")
	f.Add("0.6*D-(2")
	f.Fuzz(func(t *testing.T, s string) { _, _ = Parse(s, 1, map[string]float64{"D": 3}) })
}
