package web_test

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A hole is taken off, an edge chamfered, both undone; the steps follow.
func TestAPartIsPrepared(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/part")
	b.proven()
	b.click("#prepare button[value=remove]")
	b.until(`document.querySelector('#sheet [role=alert]')?.innerText.includes('select the faces first')`)
	steps := eval[int](b, `arete.state.blocks.length`)
	faces := eval[int](b, `arete.view.faces.length`)
	b.click(`.led-row[data-feature="F9"]`)
	assert.Equal(t, "2 faces", b.text("#selected"))
	b.click("#prepare button[value=remove]")
	b.until(`document.querySelector('#changes')?.innerText.includes('Taken off: 2 faces')`)
	b.until(fmt.Sprintf(`arete.view.faces.length === %d`, faces-2))
	b.proven()
	assert.NotContains(t, b.text(".led"), "4.2")
	assert.Equal(t, steps-2, eval[int](b, `arete.state.blocks.length`), "its two steps went with it")
	b.until(`document.getElementById('things').innerText === 'proven'`)

	rim := eval[int](b, `arete.view.edges.findIndex((e) => e.kind === 'line' && e.length > 50)`)
	eval[any](b, fmt.Sprintf(`(arete.selection.set([], [%d]), null)`, rim))
	b.fill("bevel", "20")
	b.click("#prepare button[value=chamfer]")
	b.until(`document.querySelector('#sheet [role=alert]')`)
	assert.Contains(t, b.text("#sheet [role=alert]"), "have room for")
	assert.Equal(t, "20", eval[string](b, `document.getElementById('bevel').value`))
	b.fill("bevel", "1+1")
	b.click("#prepare button[value=chamfer]")
	b.until(`document.querySelector('.led').innerText.includes('Chamfer 2')`)
	b.until(fmt.Sprintf(`arete.view.faces.length === %d`, faces-2+8))

	b.click("#takeback")
	b.until(`!document.querySelector('.led').innerText.includes('Chamfer 2')`)
	b.proven()
	b.click("#undo")
	b.until(`document.querySelector('.led').innerText.includes('Chamfer 2')`)
	b.proven()
	for range 2 {
		b.click("#undo")
	}
	b.until(fmt.Sprintf(`!document.querySelector('#changes') && arete.view.faces.length === %d && arete.state.blocks.length === %d`, faces, steps))
}

// Faces and edges are selected one by one, by loop, by window, and kept.
func TestSelections(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/part")
	b.proven()
	b.click("[data-look='+z']")
	b.click("[data-overlay=stock]")
	at := func(x, y, z float64) (float64, float64) {
		p := eval[[]float64](b, fmt.Sprintf(`arete.view.render(), arete.view.screen([%g, %g, %g])`, x, y, z))
		return p[0], p[1]
	}
	selected := func(want string) {
		t.Helper()
		b.until(fmt.Sprintf(`document.getElementById('selected').innerText === %q`, want))
	}
	x, y := at(25, 12, -1)
	b.do(chromedp.MouseClickXY(x, y))
	selected("1 face")
	x, y = at(50, 25, -13)
	b.do(chromedp.MouseClickXY(x, y, chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	selected("2 faces")
	b.do(chromedp.MouseClickXY(x, y, chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	selected("1 face")
	x, y = at(50, 2.1, -1) // the edge of the top, in front
	b.do(chromedp.MouseClickXY(x, y, chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	selected("1 face, 1 edge")
	x, y = at(50, 2.2, -1)
	b.do(chromedp.MouseClickXY(x, y))
	b.until(`document.querySelector('#loops button')`)
	b.click("#loops button")
	selected("8 edges")
	b.fill("keepname", "rim")
	b.click("#keep button[name=keep]")
	b.until(`document.querySelector('.kept')?.innerText === 'rim'`)
	eval[any](b, `(arete.selection.set([]), null)`)
	selected("nothing selected yet")
	b.click(".kept")
	selected("8 edges")

	window := func(modifiers ...chromedp.Modifier) {
		x0, y0 := at(-1, 40, 0)
		x1, y1 := at(20, 80, 0)
		held := func(p *input.DispatchMouseEventParams) { p.Button, p.Buttons = input.MouseButtonLeft, 1 }
		b.do(chromedp.MouseEvent(chromedp.MousePressed, x0, y0, held, chromedp.ButtonModifiers(modifiers...)),
			chromedp.MouseEvent(chromedp.MouseMoved, x1, y1, held, chromedp.ButtonModifiers(modifiers...)),
			chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, held, chromedp.ButtonModifiers(modifiers...)))
	}
	eval[any](b, `(arete.selection.set([]), null)`)
	window(chromedp.ModifierCtrl)
	inside := eval[int](b, `arete.selection.faces.size`)
	assert.Equal(t, 4, inside, "counterbore: two walls and its floor; the corner of the outside")
	window(chromedp.ModifierCtrl, chromedp.ModifierShift)
	assert.Positive(t, eval[int](b, `arete.selection.edges.size`))
	require.Equal(t, inside, eval[int](b, `arete.selection.faces.size`))

	b.click("#keep button[name=keep]")
	b.until(`document.querySelector('#sheet [role=alert]')`)
	assert.Contains(t, b.text("#sheet [role=alert]"), "give them a name")
	b.click("#keep button[name=drop]")
	b.until(`!document.querySelector('.kept')`)
}

// The counterbore of a hole becomes a feature of its own: its milling stays
// with it, the drill with the hole; taken back, all is as it was.
func TestFeaturesAreSplitAndJoined(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/part")
	b.proven()
	steps := eval[int](b, `arete.state.blocks.length`)
	b.click("#joinfeatures")
	b.until(`document.querySelector('#sheet [role=alert]')?.innerText.includes('select the faces first')`)
	eval[any](b, `(arete.selection.set([arete.view.faces.findIndex((f) => f.radius === 5.5)]), null)`)
	b.click("#joinfeatures")
	b.until(`document.querySelector('#sheet [role=alert]')?.innerText.includes('two features or more')`)
	b.click("#ownfeature")
	b.until(`/Hole ⌀11 × 6[^]*Hole ⌀6.6 through\n/.test(document.querySelector('.led').innerText + '\n')`)
	b.proven()
	assert.Equal(t, steps, eval[int](b, `arete.state.blocks.length`))
	b.until(`document.getElementById('things').innerText === 'proven'`)
	b.click("#ungroup")
	b.until(`!document.querySelector('.led').innerText.includes('Hole ⌀11 × 6')`)
	b.proven()
	b.until(`document.getElementById('things').innerText === 'proven'`)
}
