package web_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"arete/demo"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFromTheBenchToTheProgram(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url)
	assert.Contains(t, b.text("main"), "Gauge housing lid")
	b.click(`a[href="/parts/1/cut"]`)
	b.proven()
	assert.Contains(t, b.text("#sheet"), "Clear pocket")
	assert.Equal(t, "proven", b.text("#things"))

	// pick a face: its kind and level are read out, its feature lights up
	b.click(`[data-look="+z"]`)
	eval[any](b, `(arete.view.render(), arete.view.onpick(arete.view.pick({clientX: document.getElementById('canvas').getBoundingClientRect().x + arete.view.w/2 + 18*arete.view.zoom, clientY: document.getElementById('canvas').getBoundingClientRect().y + arete.view.h/2})), null)`)
	assert.Contains(t, b.text("#picked"), "plane at Z-13 ")
	assert.Contains(t, b.text(".led-row.on"), "Pocket 56 × 43")

	// what the pointer is over is read out when nothing is picked
	eval[any](b, `(arete.view.onpick(null), arete.view.onhover({face: arete.view.faces.findIndex(f => f.radius === 7), point: {x:0,y:0,z:0}}), null)`)
	assert.Contains(t, b.text("#picked"), "cylinder R7 · ")

	// set the origin to the centre of the stock
	b.click(`[data-station="hold"]`)
	b.until(`document.getElementById('at11')`)
	eval[any](b, `(document.getElementById('at11').dispatchEvent(new MouseEvent('click',{bubbles:true})), null)`)
	b.until(`document.querySelector('#sheet').innerText.includes('centre')`)
	b.proven()
	assert.InDelta(t, -50, eval[float64](b, `arete.state.stock[0]`), 1e-6)

	// and to the axis of a bolt hole, picked in the view
	eval[any](b, `(()=>{const f=arete.view.faces.findIndex(f=>f.radius===3.3); arete.view.onpick({face:f, point:{x:0,y:0,z:-19}}); return null})()`)
	b.click("#originhere")
	b.until(`document.querySelector('#sheet').innerText.includes('shifted')`)
	b.proven()
	holes := eval[[]float64](b, `arete.view.faces.filter(f=>f.radius===3.3).map(f=>Math.hypot(...f.axis))`)
	assert.InDelta(t, 0, min(holes[0], holes[1], holes[2], holes[3]), 1e-6, "the origin is on the axis")
	b.click("#undo")
	b.until(`!document.querySelector('#sheet').innerText.includes('shifted')`)
	b.proven()

	// edit a step with an expression; the source mark turns to typed
	b.click(`[data-station="cut"]`)
	b.until(`document.querySelector('.routerow')`)
	b.click(`.routerow[data-step="S2"]`)
	b.until(`document.getElementById('ae')`)
	before := eval[float64](b, `arete.view.path.n`)
	eval[any](b, `(()=>{ const old = arete.view.path; document.addEventListener('change', () => { window.t0 = performance.now(); }, { capture: true, once: true }); const f = () => { if (arete.view.pathDrawn !== old) window.took = performance.now() - window.t0; else setTimeout(f, 5); }; f(); return null })()`)
	b.fill("ae", "0.2*D")
	b.until(`window.took`)
	t.Logf("edit to new path: %.0f ms", eval[float64](b, `window.took`))
	b.until(`document.getElementById('ae').value === '2.4' && document.querySelector('#src-ae.s-typed')`)
	b.proven()
	assert.NotEqual(t, before, eval[float64](b, `arete.view.path.n`), "other passes, other moves")

	// undo with the keyboard, redo with the button
	eval[any](b, `(document.activeElement.blur(), dispatchEvent(new KeyboardEvent('keydown',{key:'z',ctrlKey:true})), null)`)
	b.until(`document.getElementById('ae').value === '4.8'`)
	b.click("#redo")
	b.until(`document.getElementById('ae').value === '2.4'`)
	b.click("#src-ae")
	b.until(`document.getElementById('ae').value === '4.8'`)
	b.proven()

	// scrub to both ends: the stock is whole at the start, the part at the end
	volume := `(()=>{const s=arete.view.stock; let v=0; for(let i=0;i<s.nx*s.ny;i++) v+=s.height(i, arete.strip.t)-s.bottom; return v*s.dx*s.dy})()`
	eval[any](b, `(arete.strip.set(0, true), null)`)
	assert.InDelta(t, 100*75*26, eval[float64](b, volume), 1)
	eval[any](b, `(arete.strip.set(arete.strip.total, true), null)`)
	left := eval[float64](b, volume)
	assert.InDelta(t, 100*75*7+90881, left, 0.03*90881+2000, "the part and the stock below it")
	eval[any](b, `(arete.strip.set(arete.strip.total/3, true), arete.strip.set(arete.strip.total, true), null)`)
	assert.Equal(t, left, eval[float64](b, volume), "back and forth is the same")
	assert.Contains(t, b.text("#codeline"), "N")

	// the cost of scrubbing, script alone
	cost := eval[float64](b, `(()=>{let most=0; const f=arete.view; f.moving=true; for(let k=0;k<60;k++){ const t0=performance.now(); f.coarse.show(arete.state.total*k/60); arete.strip.set(arete.state.total*k/60, false); most=Math.max(most, performance.now()-t0);} return most})()`)
	t.Logf("scrubbing: at most %.1f ms of script a frame", cost)

	// a value in compare
	b.click(`[data-station="prove"]`)
	b.click(`[data-overlay="compare"]`)
	b.until(`arete.view.compareMesh`)
	eval[any](b, `(arete.view.render(), arete.view.onpick(arete.view.pick({clientX: document.getElementById('canvas').getBoundingClientRect().x + arete.view.w/2 + 18*arete.view.zoom, clientY: document.getElementById('canvas').getBoundingClientRect().y + arete.view.h/2})), null)`)
	assert.Contains(t, b.text("#picked"), "in tolerance 0.00")

	// release: the program is the proven text
	b.click(`[data-station="release"]`)
	b.until(`document.getElementById('download')`)
	body := eval[string](b, `(()=>{const x=new XMLHttpRequest(); x.open('GET','/parts/1/program',false); x.send(); return x.status+' '+x.getResponseHeader('Content-Disposition')+' '+x.responseText})()`)
	assert.True(t, strings.HasPrefix(body, `200 attachment; filename="FIW-1204-Gauge-housing-lid.nc" %`), body[:80])
	assert.Contains(t, body, "M30")
	b.open(url + "/parts/1/sheet")
	assert.Contains(t, b.text("main"), "Stickout at least")
	lowest := 0.0 // what the sheet says of the drill against the code itself
	for _, line := range strings.Split(body[strings.Index(body, "DRILL D6.6"):], "\n") {
		if i := strings.Index(line, "G81"); i >= 0 {
			_, err := fmt.Sscanf(line[strings.Index(line, "Z")+1:], "%f", &lowest)
			require.NoError(t, err)
			break
		}
	}
	assert.InDelta(t, lowest, eval[float64](b, `+[...document.querySelectorAll('tr')].find(r => r.innerText.includes('Drill ⌀6.6')).cells[5].innerText`), 1e-3)
	for paper, in := range map[string][2]float64{"A4": {210 / 25.4, 297 / 25.4}, "Letter": {8.5, 11}} {
		pdf, err := chromedp.Run(b.ctx, chromedp.PrintToPDF(func(p *page.PrintToPDFParams) { p.PaperWidth, p.PaperHeight = in[0], in[1] }))
		require.NoError(t, err)
		assert.Len(t, regexp.MustCompile(`/Type\s*/Page\b`).FindAll(pdf, -1), 1, "one sheet of "+paper)
		box := regexp.MustCompile(`/MediaBox \[0 0 ([0-9.]+) ([0-9.]+)\]`).FindSubmatch(pdf)
		require.NotNil(t, box)
		for i := range in {
			pt, _ := strconv.ParseFloat(string(box[i+1]), 64)
			assert.InDelta(t, 72*in[i], pt, 1.5, paper)
		}
	}
	b.open(url + "/parts/1/code")
	b.proven()
	b.click("#L60")
	b.until(`document.querySelector('.cl.on')`)
}

func TestStepsAreAddedMovedSwitchedOffAndDeleted(t *testing.T) {
	url, desk := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/2/cut")
	b.proven()
	names := func() []string {
		saved, err := desk.Plan(context.Background(), 2)
		require.NoError(t, err)
		var out []string
		for _, s := range saved.Plan.Steps {
			out = append(out, s.Name)
		}
		return out
	}
	n := len(names())
	b.click(`.led-row[data-feature="F3"]`)
	b.until(`!document.getElementById('addstep').hidden`)
	b.click("#addstep")
	b.until(`document.getElementById('act-delete')`)
	b.proven()
	assert.Len(t, names(), n+1)
	added := names()[n]
	b.click("#act-up")
	b.until(`document.querySelector('.steptitle .n').innerText === '` + itoa(n) + `'`)
	assert.Equal(t, added, names()[n-1])
	b.click("#act-off")
	b.until(`document.getElementById('act-off').innerText === 'switch on'`)
	b.click("#act-duplicate")
	b.until(`document.getElementById('name').value.endsWith('(copy)')`)
	assert.Len(t, names(), n+2)
	// a picked face's feature goes into the open step, and out again
	features := func() int {
		saved, err := desk.Plan(context.Background(), 2)
		require.NoError(t, err)
		i := saved.Plan.Find(eval[string](b, `document.querySelector('.sheetbody').dataset.step`))
		return len(saved.Plan.Steps[i].Features)
	}
	had := features()
	pick := `(()=>{arete.view.onpick({face: arete.view.faces.findIndex(f=>f.feature==='F2'), point:{x:0,y:0,z:0}}); return null})()`
	eval[any](b, pick)
	b.click("#usehere")
	b.until(`document.querySelector('.pick.on[data-feature="F2"]')`)
	assert.Equal(t, had+1, features())
	b.proven()
	b.until(`document.querySelector('.pick.on[data-feature="F2"]') && ` + pick + ` === null && document.getElementById('usehere').innerText === 'Take it out of this step'`)
	b.click("#usehere")
	b.until(`!document.querySelector('.pick.on[data-feature="F2"]')`)
	assert.Equal(t, had, features())

	b.click("#act-delete")
	b.until(`document.getElementById('route')`)
	assert.Len(t, names(), n+1)
	b.proven()
}

func itoa(n int) string {
	s := ""
	for ; n > 0; n /= 10 {
		s = string(rune('0'+n%10)) + s
	}
	return s
}

// Undo and redo in quick turn, while the page refreshes itself: none is lost.
func TestNoClickIsLostWhileThePageRefreshes(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/cut/S2")
	b.proven()
	for i := 1; i <= 6; i++ {
		b.fill("ae", fmt.Sprint(i))
		b.until(fmt.Sprintf(`document.getElementById('ae').value === '%d' && document.querySelector('#src-ae.s-typed')`, i))
	}
	b.proven()
	eval[any](b, `(async()=>{ for (let k = 0; k < 5; k++) { document.getElementById('undo').disabled = false; document.getElementById('undo').click(); htmx.ajax('GET', location.pathname, { target: '#sheet', swap: 'innerMorph' }); } return null })()`)
	b.until(`document.getElementById('ae').value === '1'`)
	b.proven()
	eval[any](b, `(async()=>{ for (let k = 0; k < 5; k++) { document.getElementById('redo').disabled = false; document.getElementById('redo').click(); } return null })()`)
	b.until(`document.getElementById('ae').value === '6'`)
	b.proven()
}

func TestBadInputIsToldInPlainWords(t *testing.T) {
	url, desk := bench(t)
	b := newBrowser(t)

	// a broken file
	bad := filepath.Join(t.TempDir(), "broken.step")
	good, err := demo.Parts.ReadFile("parts/gauge-lid.step")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(bad, good[:len(good)/3], 0o644))
	b.open(url)
	b.do(chromedp.SetUploadFiles(chromedp.CSS("#model"), []string{bad}))
	b.click("#bring")
	b.until(`document.querySelector('[role=alert]')`)
	assert.Contains(t, b.text("[role=alert]"), "broken.step: line")
	assert.Contains(t, b.text("[role=alert]"), "cut off")

	// nothing chosen
	b.open(url)
	b.click("#bring")
	b.until(`document.querySelector('[role=alert]')`)
	assert.Contains(t, b.text("[role=alert]"), "Choose a file first")

	// letters in a number field: what was typed stays, the plan too
	b.open(url + "/parts/1/cut/S2")
	b.proven()
	b.fill("ae", "wide")
	b.until(`document.querySelector('#sheet [role=alert]')`)
	assert.Contains(t, b.text("#sheet [role=alert]"), `"wide" is not known here`)
	assert.Equal(t, "wide", eval[string](b, `document.getElementById('ae').value`))
	b.fill("ae", "-5")
	b.until(`document.querySelector('#sheet [role=alert]')?.innerText.includes('between')`)
	saved, err := desk.Plan(context.Background(), 1)
	require.NoError(t, err)
	assert.Equal(t, 1, saved.Version, "nothing was saved")

	// a depth below the table
	b.open(url + "/parts/1/cut/S3")
	b.proven()
	b.fill("bottom", "-45")
	b.until(`document.querySelector('#sheet .say.wrong')`)
	assert.Contains(t, b.text("#sheet .say.wrong"), "below the stock: the tool would cut the table")
	b.open(url + "/parts/1/release")
	b.proven()
	b.until(`document.getElementById('withfindings')`)
	refused := eval[string](b, `(()=>{const x=new XMLHttpRequest(); x.open('GET','/parts/1/program',false); x.send(); return x.status+' '+x.responseText})()`)
	assert.True(t, strings.HasPrefix(refused, "422"), "a program with findings is not handed out")
	assert.Contains(t, refused, "release with findings")

	// a tool without a diameter
	b.open(url + "/tools/4")
	b.fill("diameter", "0")
	b.click("#savetool")
	b.until(`document.querySelector('[role=alert]')`)
	assert.Contains(t, b.text("[role=alert]"), "cutting diameter between 0 and 500")

	// a part that is gone, a page that never was
	b.open(url + "/parts/99/cut")
	assert.Contains(t, b.text("[role=alert]"), "no such part")
	b.open(url + "/nowhere")
	assert.Contains(t, b.text("[role=alert]"), "no such page")
}

func TestTheFirstPictureComesSoon(t *testing.T) {
	url, desk := bench(t)
	_, err := desk.Proven(context.Background(), 1)
	require.NoError(t, err)
	b := newBrowser(t)
	b.open(url + "/tools")
	eval[any](b, `(sessionStorage.at = Date.now(), null)`)
	b.open(url + "/parts/1/cut")
	b.until(`document.body.dataset.drawn`)
	t.Logf("first picture %.0f ms after the request", eval[float64](b, `performance.now()`))
}
