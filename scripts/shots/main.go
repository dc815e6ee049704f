// Command shots takes the pictures of docs/screenshots from a running demo.
// Usage: shots [-url http://127.0.0.1:8220] [-out docs/screenshots] [NAME...]
package main

import (
	"context"
	"flag"
	"log"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/chromedp/chromedp"
)

var pages = []struct {
	name, path string
	drawn      bool
	script     string
}{
	{"bench", "/", false, ""},
	{"part", "/parts/1/part", true, "document.querySelector('[data-overlay=stock]').click(); document.querySelector('[data-overlay=part]').click();" +
		"const floor = arete.view.faces.findIndex(f => f.flat && f.level === -13), top = arete.view.faces.findIndex(f => f.flat && f.level === -1);" +
		"arete.view.onpick({face: floor, thick: 6, point: {x: 30, y: 40, z: -13}}); arete.view.onpick({face: top, point: {x: 5, y: 40, z: -1}}, true)"},
	{"hold", "/parts/1/hold", true, "arete.strip.set(0, true)"},
	{"tools", "/parts/1/tools", true, ""},
	{"cut", "/parts/1/cut", true, "arete.strip.set(arete.strip.total * 0.21, true)"},
	{"step", "/parts/1/cut/S2", true, "arete.strip.set(arete.strip.total * 0.2, true)"},
	{"prove", "/parts/1/prove", true, "document.querySelector('[data-overlay=compare]').click()"},
	{"release", "/parts/1/release", true, ""},
	{"toolroom", "/tools/4", false, ""},
	{"code", "/parts/1/code", true, "arete.strip.set(arete.strip.total * 0.3, true)"},
	{"setupsheet", "/parts/1/sheet", false, ""},
	{"bracket", "/parts/2/cut", true, ""},
}

func main() {
	url := flag.String("url", "http://127.0.0.1:8220", "address of the demo")
	out := flag.String("out", "docs/screenshots", "folder")
	width := flag.Int("w", 1280, "width")
	height := flag.Int("h", 800, "height")
	dark := flag.Bool("dark", false, "as on a dark system")
	flag.Parse()
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.Flag("enable-unsafe-swiftshader", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-quic", true), chromedp.WindowSize(*width, *height))
	if *dark {
		opts = append(opts, chromedp.Flag("blink-settings", "preferredColorScheme=0"))
	}
	actx, stop := chromedp.NewExecAllocator(context.Background(), opts...)
	defer stop()
	ctx, cancel := chromedp.NewContext(actx)
	defer cancel()
	for _, p := range pages {
		if flag.NArg() > 0 && !slices.Contains(flag.Args(), p.name) {
			continue
		}
		png, err := shoot(ctx, *url+p.path, p.drawn, p.script, int64(*width), int64(*height))
		if err != nil {
			log.Fatalf("%s: %v", p.name, err)
		}
		if err := os.WriteFile(filepath.Join(*out, p.name+".png"), png, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}

// shoot opens a page, waits until it is drawn, runs a script and takes the
// picture when all has settled.
func shoot(ctx context.Context, url string, drawn bool, script string, w, h int64) ([]byte, error) {
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(w, h), chromedp.Navigate(url)); err != nil {
		return nil, err
	}
	if drawn {
		if _, err := chromedp.Run(ctx, chromedp.Poll[bool](`!!document.body.dataset.ready && arete.state.proven === arete.state.version`, chromedp.WithPollingTimeout(30*time.Second))); err != nil {
			return nil, err
		}
	}
	if script != "" {
		if _, err := chromedp.Run(ctx, chromedp.Evaluate[any]("void ("+`()=>{`+script+`}`+")()")); err != nil {
			return nil, err
		}
	}
	if err := chromedp.Do(ctx, chromedp.Sleep(1800*time.Millisecond)); err != nil {
		return nil, err
	}
	return chromedp.Run(ctx, chromedp.CaptureScreenshot())
}
