package web_test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// A flat drawing becomes a part by typing depths; nonsense is told, undo works.
func TestADrawingGetsItsDepths(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	file, err := filepath.Abs("../demo/parts/clamp-plate.dxf")
	assert.NoError(t, err)
	b.open(url)
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#model"), []string{file}))
	b.click("#bring")
	b.until(`document.querySelector('#layers')`)
	b.proven()
	assert.Contains(t, b.text(".facts"), "110 × 70 × 10 mm")
	b.fill("layer-OUTLINE-depth", "16")
	b.until(`document.querySelector('.facts').innerText.includes('110 × 70 × 16 mm')`)
	b.fill("layer-THROUGH-depth", "16")
	b.fill("layer-POCKET-depth", "9")
	b.fill("layer-COUNTERBORE-depth", "6")
	b.until(`document.querySelector('.led').innerText.includes('Pocket 54 × 46, 9') && document.querySelector('.led').innerText.includes('counterbore ⌀10')`)
	b.proven()
	b.until(`document.getElementById('things').innerText === 'proven'`)

	b.fill("layer-POCKET-depth", "-3")
	b.until(`document.querySelector('#sheet [role=alert]')`)
	assert.Contains(t, b.text("#sheet [role=alert]"), "counted down from the top")
	assert.Equal(t, "-3", eval[string](b, `document.getElementById('layer-POCKET-depth').value`), "what was typed stays to be mended")
	b.fill("layer-POCKET-depth", "9")
	b.until(`!document.querySelector('#sheet [role=alert]')`)

	// one hole of the layer gets a depth of its own, and goes back to the layer's
	b.click("#ownlevel")
	b.until(`document.querySelector('#sheet [role=alert]')?.innerText.includes('select a wall')`)
	holes := eval[int](b, `arete.view.faces.filter((f) => f.radius === 4).length`)
	assert.Positive(t, holes)
	eval[any](b, `(arete.selection.set([arete.view.faces.findIndex((f) => f.radius === 4)]), null)`)
	b.click("#ownlevel")
	b.until(`document.querySelector('#layers').innerText.includes('THROUGH, chain')`)
	own := eval[string](b, `document.querySelector('#layers input.level[id*="-depth"][aria-label*="THROUGH"][id^="layer-THROUGH-"]:not(#layer-THROUGH-depth)').id`)
	b.fill(own, "5")
	b.until(`/Hole ⌀8 × 5/.test(document.querySelector('.led').innerText)`)
	b.click("#layers button")
	b.until(`!document.querySelector('#layers').innerText.includes('THROUGH, chain') && !/Hole ⌀8 × 5/.test(document.querySelector('.led').innerText)`)
}

// What was found can be renamed, called otherwise and left as it is.
func TestAFeatureIsAmended(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/part")
	b.proven()
	b.do(chromedp.MouseEvent("mouseMoved", 1150, 159))
	b.until(`arete.view.lit.size > 3`)
	assert.Empty(t, b.text(".led-row.on"), "a row under the pointer lights up without being chosen")
	b.click(`.led-row[data-feature="F3"]`)
	b.until(`document.querySelector('#led-detail')?.innerText.includes('Tightest inside corner')`)
	assert.Contains(t, b.text("#led-detail"), "7 mm")
	assert.Contains(t, b.text("#led-detail"), "Z-13")
	b.fill("fname", "Sensor well")
	b.until(`document.querySelector('.led-row[data-feature=F3]').innerText.includes('Sensor well')`)
	b.proven()
	steps := eval[int](b, `arete.state.blocks.length`)
	b.click("#fleave")
	b.until(`arete.state.blocks.length < ` + itoa(steps))
	b.proven()
	b.until(`document.querySelector('#led-detail').innerText.includes('left as it is')`)
	b.click("#undo")
	b.until(`arete.state.blocks.length === ` + itoa(steps))
}

// A drawing with a chain that does not close comes in, and shows where.
func TestOpenEndsAreShown(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	line := func(layer string, x0, y0, x1, y1 float64) string {
		return fmt.Sprintf("0\nLINE\n8\n%s\n10\n%g\n20\n%g\n11\n%g\n21\n%g\n", layer, x0, y0, x1, y1)
	}
	text := "0\nSECTION\n2\nENTITIES\n" + line("A", 0, 0, 60, 0) + line("A", 60, 0, 60, 40) + line("A", 60, 40, 0, 40) + line("A", 0, 40, 0, 0) +
		line("B", 10, 10, 30, 10) + line("B", 30, 10, 30, 30) + "0\nENDSEC\n0\nEOF\n"
	path := filepath.Join(t.TempDir(), "open.dxf")
	assert.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	b.open(url)
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#model"), []string{path}))
	b.click("#bring")
	b.until(`document.querySelector('#layers')`)
	b.proven()
	assert.Contains(t, b.text("#sheet"), "X10.000 Y10.000")
	b.until(`arete.view.openEnds?.length === 2`)
	ends := eval[[]float64](b, `arete.view.openEnds.flat()`)
	assert.InDelta(t, 20, ends[3]-ends[0], 1e-3)
	assert.InDelta(t, 20, ends[4]-ends[1], 1e-3)
	assert.Equal(t, 2+2+1, eval[int](b, `arete.view.groups.open.children[0].geometry.getAttribute('position').count / 2 + 1`))
}
