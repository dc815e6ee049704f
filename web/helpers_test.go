package web_test

import (
	"arete/demo"
	"arete/shop"
	"arete/store"
	"arete/web"
	"context"
	"fmt"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// bench starts the application with the demo data.
func bench(t *testing.T) (url string, desk *shop.Desk) {
	ctx := context.Background()
	st, err := store.Open(ctx, filepath.Join(t.TempDir(), "t.db"))
	require.NoError(t, err)
	lib, err := shop.ReadLibrary(demo.Library)
	require.NoError(t, err)
	require.NoError(t, st.SaveLibrary(ctx, lib))
	desk = shop.NewDesk(st)
	for _, p := range demo.Bench {
		data, err := demo.Parts.ReadFile("parts/" + p.File + ".step")
		require.NoError(t, err)
		_, err = desk.Import(ctx, shop.Part{Name: p.Name, Number: p.Number, Revision: p.Revision, Lot: p.Lot, File: p.File + ".step"}, data)
		require.NoError(t, err)
	}
	h, err := web.Handler(desk)
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(func() {
		srv.CloseClientConnections()
		srv.Close()
		desk.Close()
		_ = st.Close()
	})
	return srv.URL, desk
}

// browser opens a tab that fails the test on any error of a script.
type browser struct {
	t   *testing.T
	ctx context.Context
}

func newBrowser(t *testing.T) *browser {
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.Flag("enable-unsafe-swiftshader", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-quic", true), chromedp.WindowSize(1280, 800))
	actx, stop := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(actx)
	var mu sync.Mutex
	var errs []string
	require.NoError(t, chromedp.Listen(ctx, func(ev any) {
		if e, ok := ev.(*runtime.EventExceptionThrown); ok {
			mu.Lock()
			defer mu.Unlock()
			errs = append(errs, fmt.Sprintf("%s %+v", e.ExceptionDetails.Text, e.ExceptionDetails.Exception))
		}
	}))
	t.Cleanup(func() {
		mu.Lock()
		defer mu.Unlock()
		require.Empty(t, errs, "errors of scripts")
	})
	t.Cleanup(func() { cancel(); stop() })
	require.NoError(t, chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)))
	return &browser{t, ctx}
}

func (b *browser) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 40*time.Second)
	defer cancel()
	require.NoError(b.t, chromedp.Do(ctx, steps...))
}

func (b *browser) open(url string) { b.t.Helper(); b.do(chromedp.Navigate(url)) }

// proven waits until the current plan is proven and drawn.
func (b *browser) proven() {
	b.t.Helper()
	b.until(`!!document.body.dataset.ready && !!document.body.dataset.drawn && arete.state.proven === arete.state.version && document.body.dataset.ready === arete.state.token && arete.state.proven >= +(document.querySelector('.sheetbody')?.dataset.version ?? 0)`)
}

// until asks again and again, also across a change of pages.
func (b *browser) until(js string) {
	b.t.Helper()
	deadline := time.Now().Add(40 * time.Second)
	for time.Now().Before(deadline) {
		if ok, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool]("!!("+js+")")); err == nil && ok {
			return
		}
		time.Sleep(20 * time.Millisecond)
	}
	require.Fail(b.t, "never true: "+js)
}

func eval[T any](b *browser, js string) T {
	b.t.Helper()
	v, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](js))
	require.NoError(b.t, err, js)
	return v
}

func (b *browser) text(sel string) string {
	b.t.Helper()
	return eval[string](b, `document.querySelector(`+quote(sel)+`)?.innerText ?? ''`)
}

func quote(s string) string { return "'" + strings.ReplaceAll(s, "'", `\'`) + "'" }

// click waits until an element is there, enabled, and on top at its middle,
// and clicks it in the same instant, so that no refresh comes between.
func (b *browser) click(sel string) {
	b.t.Helper()
	b.until(`(()=>{const e=document.querySelector(` + quote(sel) + `); if(!e||e.disabled||document.querySelector('.htmx-request')) return false;
		e.scrollIntoView({block:'nearest'}); const r=e.getBoundingClientRect(), top=document.elementFromPoint(r.x+r.width/2, r.y+r.height/2);
		if(!top||!(e.contains(top)||top.contains(e))) return false; e.click(); return true})()`)
}

// fill types into a field of the sheet and leaves it.
func (b *browser) fill(id, value string) {
	b.t.Helper()
	b.until(`document.getElementById(` + quote(id) + `) && !document.querySelector('.htmx-request')`)
	b.do(chromedp.Sleep(200 * time.Millisecond)) // a hand is not faster
	eval[any](b, `(()=>{const f=document.getElementById(`+quote(id)+`); f.focus(); f.value=`+quote(value)+`; f.dispatchEvent(new Event('change',{bubbles:true})); return null})()`)
}
