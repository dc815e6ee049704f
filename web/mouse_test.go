package web_test

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// The view answers a real mouse: hover reads out, a click picks, a drag turns,
// the right button pans, the wheel zooms about the pointer.
func TestTheViewAnswersTheMouse(t *testing.T) {
	url, _ := bench(t)
	b := newBrowser(t)
	b.open(url + "/parts/1/part")
	b.proven()
	b.click(`[data-look="+z"]`)
	box := eval[[]float64](b, `(()=>{const r=document.getElementById('canvas').getBoundingClientRect(); return [r.x+r.width/2, r.y+r.height/2, r.width, r.height]})()`)
	x, y := box[0], box[1]
	shown := eval[[]float64](b, `arete.view.render(), arete.view.screen([arete.view.target.x + 18, arete.view.target.y, -13])`)
	b.do(chromedp.MouseEvent(chromedp.MouseMoved, shown[0], shown[1]))
	b.until(`document.getElementById('picked').innerText.includes('plane at Z-13')`)
	b.do(chromedp.MouseClickXY(shown[0], shown[1]))
	b.until(`document.querySelector('.led-row.on')?.innerText.includes('Pocket 56 × 43')`)

	// shift and click measures to a second face; all like one light up
	other := eval[[]float64](b, `arete.view.render(), arete.view.screen([arete.view.target.x - 40, arete.view.target.y + 32, 0])`)
	b.do(chromedp.MouseClickXY(other[0], other[1], chromedp.ButtonModifiers(chromedp.ModifierShift)))
	b.until(`document.getElementById('measured')?.innerText.includes('parallel, 12.000 mm apart')`)
	eval[any](b, `(arete.view.onpick({face: arete.view.faces.findIndex(f=>f.radius===3.3), point:{x:0,y:0,z:0}}), null)`)
	assert.Contains(t, b.text("#likethis"), "All 4 like this")
	b.click("#likethis button")
	assert.Equal(t, 4, eval[int](b, `arete.view.lit.size`))

	// an edge under the pointer is read out with its length, a floor with what is under it
	b.click(`[data-look="+z"]`)
	rim := eval[[]float64](b, `(()=>{ const e = arete.view.edges.findIndex(e => e.kind === 'line' && e.length > 60), i = arete.view.chordEdge.indexOf(e), l = arete.view.lines;
		arete.view.render(); return arete.view.screen([0,1,2].map(k => 0.5*(l[6*i+k]+l[6*i+3+k])+(k===1?0.1:0))) })()`)
	b.do(chromedp.MouseClickXY(rim[0], rim[1]))
	b.until(`/line edge, 7[0-9.]+ mm long/.test(document.getElementById('edge')?.innerText ?? '')`)
	b.do(chromedp.MouseClickXY(shown[0], shown[1]))
	b.until(`document.getElementById('under')?.innerText.includes('Z -13.000 · 6.000 mm of material under it')`)

	drag := func(from, to [2]float64, button input.MouseButton) {
		held := func(p *input.DispatchMouseEventParams) {
			p.Button, p.Buttons = button, map[input.MouseButton]int64{input.MouseButtonLeft: 1, input.MouseButtonRight: 2}[button]
		}
		b.do(chromedp.MouseEvent(chromedp.MousePressed, from[0], from[1], held))
		for k := 1.0; k <= 4; k++ {
			b.do(chromedp.MouseEvent(chromedp.MouseMoved, from[0]+(to[0]-from[0])*k/4, from[1]+(to[1]-from[1])*k/4, held))
		}
		b.do(chromedp.MouseEvent(chromedp.MouseReleased, to[0], to[1], held))
	}
	eye := func() []float64 {
		return eval[[]float64](b, `[arete.view.yaw, arete.view.pitch, arete.view.zoom, ...arete.view.target]`)
	}
	was := eye()
	drag([2]float64{x, y}, [2]float64{x + 80, y - 60}, input.MouseButtonLeft)
	now := eye()
	assert.InDelta(t, was[0]+0.64, now[0], 0.05, "a drag to the right turns")
	assert.InDelta(t, was[1]-0.48, now[1], 0.05, "a drag upwards tips")
	assert.Equal(t, was[2:], now[2:], "turning neither pans nor zooms")

	b.click(`[data-look="+z"]`)
	was = eye()
	at := eval[[]float64](b, `arete.view.render(), arete.view.screen([60, 40, 0])`)
	drag([2]float64{x, y}, [2]float64{x + 70, y + 40}, input.MouseButtonRight)
	moved := eval[[]float64](b, `arete.view.render(), arete.view.screen([60, 40, 0])`)
	assert.InDelta(t, at[0]+70, moved[0], 1, "what is seen follows the hand")
	assert.InDelta(t, at[1]+40, moved[1], 1)
	assert.Equal(t, was[:3], eye()[:3], "panning neither turns nor zooms")

	b.do(chromedp.MouseEvent(chromedp.MouseWheel, moved[0], moved[1], func(p *input.DispatchMouseEventParams) { p.DeltaX, p.DeltaY = 1e-6, -300 }))
	b.until(`arete.view.zoom > ` + fmt.Sprint(was[2]*1.2))
	after := eval[[]float64](b, `arete.view.render(), arete.view.screen([60, 40, 0])`)
	assert.InDelta(t, moved[0], after[0], 1, "the point under the pointer stays")
	assert.InDelta(t, moved[1], after[1], 1)
	b.click(`[data-look="fit"]`)
	assert.InDelta(t, was[2], eye()[2], 1e-9, "fit undoes it")
}
