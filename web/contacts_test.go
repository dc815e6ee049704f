package web_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A holder contact is listed in Prove, marked on the strip, and a click goes
// to where it happens.
func TestContactsAreShownWhereTheyHappen(t *testing.T) {
	url, desk := bench(t)
	ctx := context.Background()
	lib, err := desk.Library(ctx)
	require.NoError(t, err)
	for i := range lib.Tools {
		if lib.Tools[i].Position == 3 {
			lib.Tools[i].APMX, lib.Tools[i].Stickout = 8, 9
		}
	}
	require.NoError(t, desk.SaveLibrary(ctx, lib))
	b := newBrowser(t)
	b.open(url + "/parts/1/prove")
	b.proven()
	b.until(`document.querySelector('.contacts .jump')`)
	assert.Contains(t, b.text(".contacts"), "holder")
	assert.Positive(t, eval[int](b, `arete.state.events.filter(e => e.kind === 'contact').length`))
	b.click(".contacts .jump")
	b.until(`Math.abs(arete.strip.t - +document.querySelector('.contacts .jump').dataset.time) < 0.01`)
	assert.InDelta(t, eval[float64](b, `+document.querySelector('.contacts .jump').dataset.time`), eval[float64](b, `arete.view.time`), 0.01, "the stock and the tool stand at that moment")
}
