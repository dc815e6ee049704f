package web_test

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/core/drawing"
	"arete/core/exchange/stl"
	"arete/core/geom"
	"arete/core/planar"
)

// block writes a mesh file of a block.
func block(t *testing.T, name string, lo, hi geom.V3) string {
	s, err := drawing.Solids([]drawing.Chain{{Layer: "b", Loop: planar.Rect(lo.X, lo.Y, hi.X, hi.Y)}}, []drawing.Level{{Layer: "b", Top: hi.Z, Depth: hi.Z - lo.Z}})
	require.NoError(t, err)
	m, err := s[0].Tessellate(0.01)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, stl.WriteBinary(&b, m, name))
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	return path
}

// Stock is a bar, a file, a block again; a clamp from a file stands in the way
// and is taken away.
func TestStockAndFixtures(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/hold")
	b.proven()
	choose := func(id, value string) {
		t.Helper()
		eval[any](b, `(()=>{const s=document.getElementById('`+id+`'); s.value=[...s.options].find(o=>o.text.includes('`+value+`')).value; s.dispatchEvent(new Event('change',{bubbles:true}))})()`)
	}
	choose("blank", "round bar")
	b.until(`document.getElementById('diameter')?.value === '124'`)
	b.proven()
	b.until(`document.getElementById('things').innerText === 'proven'`)
	b.until(`arete.view.stock.start && arete.view.stock.height(0, 0) === arete.view.stock.bottom`)
	b.fill("diameter", "90")
	b.proven()
	b.until(`/things? to look at/.test(document.getElementById('things').innerText)`)
	b.fill("diameter", "-4")
	b.until(`document.querySelector('#sheet [role=alert]')?.innerText.includes('between 1 and 2000')`)
	b.fill("diameter", "140")
	b.until(`!document.querySelector('#sheet [role=alert]')`)

	b.do(chromedp.SetUploadFiles(chromedp.CSS("#file-blank"), []string{block(t, "sawn.stl", geom.V3{X: -4, Y: -4, Z: -9}, geom.V3{X: 100, Y: 75, Z: 19})}))
	b.until(`document.querySelector('#stock .figures').innerText.includes('104 × 79 × 28')`)
	b.proven()
	b.until(`document.getElementById('things').innerText === 'proven'`)

	junk := filepath.Join(t.TempDir(), "junk.stl")
	require.NoError(t, os.WriteFile(junk, []byte("not a mesh at all"), 0o600))
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#file-fix"), []string{junk}))
	b.until(`document.querySelector('#sheet [role=alert]')`)
	assert.Contains(t, b.text("#sheet [role=alert]"), "junk.stl")
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#file-fix"), []string{block(t, "clamp.stl", geom.V3{X: 30, Y: -20, Z: 19}, geom.V3{X: 50, Y: 10, Z: 35})}))
	b.until(`document.querySelector('#fixtures').innerText.includes('clamp.stl')`)
	b.proven()
	b.until(`/things? to look at/.test(document.getElementById('things').innerText) && arete.view.groups.fixtures.children.length === 1`)
	b.open(url + "/parts/1/prove")
	b.proven()
	b.until(`document.querySelector('#sheet').innerText.includes('the tool runs into clamp.stl')`)
	b.open(url + "/parts/1/hold")
	b.click(`#fixtures button`)
	b.until(`!document.querySelector('#fixtures').innerText.includes('clamp.stl ×') && arete.view.groups.fixtures.children.length === 0`)
	b.proven()
	b.until(`document.getElementById('things').innerText === 'proven'`)
	choose("blank", "block around")
	b.until(`document.getElementById('x_min')?.value === '2'`)
}
