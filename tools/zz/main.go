// Command screenshots starts the demo in this process and takes one picture per main
// view into docs/screenshots.
//
//	go run ./tools/screenshots [-dir DIR] [-only NAME]
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"restbend"
	"restbend/core/body"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/figure"
	"restbend/store"
	"restbend/tools/chrome"
	"restbend/web"
)

func main() {
	log.SetFlags(0)
	dir := flag.String("dir", "docs/screenshots", "where the pictures go")
	only := flag.String("only", "", "only views whose name contains this")
	contact := flag.Bool("contact", false, "only the contact sheet of all figures")
	flag.Parse()
	if *contact {
		if err := contactSheet(*dir); err != nil {
			log.Fatal(err)
		}
		return
	}
	if err := run(*dir, *only); err != nil {
		log.Fatal(err)
	}
}

// shot is one view: what to do and what to call the picture.
type shot struct {
	name          string
	width, height int64
	do            []chrome.Action
}

// practice is the demo's, on a database that is empty yet.
func practice(ctx context.Context, st *store.Store) (*web.Server, error) {
	cat, err := restbend.Catalogue()
	if err != nil {
		return nil, err
	}
	rules, err := restbend.Rules()
	if err != nil {
		return nil, err
	}
	tasks, err := restbend.Tasks()
	if err != nil {
		return nil, err
	}
	norms, err := restbend.Norms()
	if err != nil {
		return nil, err
	}
	kinds, err := restbend.Templates(cat)
	if err != nil {
		return nil, err
	}
	if err := demo.Fill(ctx, st, cat, rules, trade.DayOf(time.Now(), time.Local)); err != nil {
		return nil, err
	}
	s, err := web.New(st, cat, rules, norms, tasks, kinds)
	if err == nil {
		s.Demo = true
	}
	return s, err
}

func run(dir, only string) error {
	tmp, err := os.MkdirTemp("", "shots-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(tmp)
	ctx := context.Background()
	st, err := store.Open(ctx, filepath.Join(tmp, "restbend.db"))
	if err != nil {
		return err
	}
	defer st.Close()
	s, err := practice(ctx, st)
	if err != nil {
		return err
	}
	defer s.Close()
	srv := httptest.NewServer(s)
	defer srv.Close()

	bctx, cancel := chrome.Open(ctx, 1280, 800)
	defer cancel()
	if err := chromedp.Do(bctx); err != nil { // the browser outlives the time of its first picture
		return err
	}
	at := func(path string) chrome.Action { return chromedp.Navigate(srv.URL + path) }
	wait := chromedp.Sleep(900 * time.Millisecond)
	press := chrome.Click
	key := func(k string) chrome.Action { return chromedp.KeyEvent(k) }
	js := func(body string) chrome.Action { var out any; return chrome.Into(chromedp.Evaluate[any]("void "+body), &out) }
	_ = js
	login := []chrome.Action{at("/sign-in"), wait, chromedp.SendKeys("#name", demo.Name), chromedp.SendKeys("#password", demo.Password), press("form .btn-primary"), wait}
	shots := []shot{
		{"a-longer", 1280, 800, append(login, at("/clients/2"), press("form .btn-primary"), wait, wait, wait, at("/plans/1?at=2"), wait, key("+"), wait)},
		{"b-notapplied", 1280, 800, []chrome.Action{js(`(() => { const m = document.querySelector("#re-minutes"); m.value = "45"; m.dispatchEvent(new Event("change", {bubbles: true})); })()`), wait}},
		{"c-removed", 1280, 1400, []chrome.Action{key(""), at("/plans/1?at=3"), wait, press("#op-remove"), wait, wait}},
		{"c2-rebuilt", 1280, 900, []chrome.Action{press("#op-rebuild"), wait, wait, wait}},
		{"d-start", 1280, 900, []chrome.Action{at("/plans/1/start"), wait}},
		{"e-pain", 1280, 800, []chrome.Action{press("input[name=clear]"), press("input[name=pain][value='2']"), press(".save .btn-primary"), wait, chromedp.Sleep(2 * time.Second),
			press("#forward"), press("#forward"), chromedp.Sleep(4500 * time.Millisecond), key("p"), wait}},
		{"f-pain6", 1280, 800, []chrome.Action{key("6"), wait, wait, wait}},
		{"g-symptom-setup", 1280, 800, []chrome.Action{js(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "Go on").click()`), chromedp.Sleep(4 * time.Second), key("s"), wait, wait}},
		{"h-urgent", 1280, 800, []chrome.Action{js(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent.startsWith("travels")).click()`), wait, wait}},
		{"i-askagain", 1280, 800, []chrome.Action{js(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent.includes("mistake")).click()`), wait}},
		{"j-none", 1280, 800, []chrome.Action{js(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent.startsWith("Asked again")).click()`), wait, wait}},
		{"m-rest", 1280, 800, []chrome.Action{js(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent.startsWith("Go on")).click()`), chromedp.Sleep(4 * time.Second), js(`(async () => { for (let i = 0; i < 30 && restbend.now().segment.kind !== "rest"; i++) { document.getElementById("forward").click(); await new Promise(d => setTimeout(d, 250)); } })()`), chromedp.Sleep(6 * time.Second)}},
		{"m2-symptom-left", 1280, 800, []chrome.Action{js(`(async () => { for (let i = 0; i < 30 && !(restbend.now().segment.kind === "work" && restbend.now().segment.set === 1 && restbend.now().segment.rep === 1); i++) { document.getElementById("forward").click(); await new Promise(d => setTimeout(d, 250)); } })()`), chromedp.Sleep(5 * time.Second), key("s"), wait, wait}},
		{"k-after", 1280, 1100, []chrome.Action{at("/teach/11/after"), wait}},
		{"l-after-phone", 390, 844, []chrome.Action{at("/teach/11/after"), wait}},
	}
	for _, x := range shots {
		var png []byte
		acts := append([]chrome.Action{chromedp.EmulateViewport(x.width, x.height),
			chrome.Media("prefers-color-scheme", "light")}, x.do...)
		acts = append(acts, chrome.Into(chromedp.CaptureScreenshot(), &png))
		tctx, stop := context.WithTimeout(bctx, 30*time.Second)
		err := chromedp.Do(tctx, acts...)
		stop()
		if err != nil {
			return fmt.Errorf("%s: %w", x.name, err)
		}
		if strings.Contains(x.name, only) {
			if err := os.WriteFile(filepath.Join(dir, x.name+".png"), png, 0o644); err != nil {
				return err
			}
		}
	}
	return nil
}

// contactSheet pictures the effort position of every version, and the first one beside
// it, on one page.
func contactSheet(dir string) error {
	cat, err := restbend.Catalogue()
	if err != nil {
		return err
	}
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	var sb strings.Builder
	sb.WriteString(`<style>body{margin:8px;background:#fbf8f2;font:11px sans-serif;display:grid;grid-template-columns:repeat(10,1fr);gap:4px}div{border:1px solid #d8d0c0;border-radius:6px;padding:3px}p{margin:0}svg{width:100%;height:66px}</style>`)
	for _, v := range cat.Versions {
		q := d.Sequence(v, "")
		fmt.Fprintf(&sb, "<div><p>%s</p>%s</div>", v.Slug, q.Pair(figure.Options{}))
	}
	f, err := os.CreateTemp("", "sheet-*.html")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if _, err := f.WriteString(sb.String()); err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	ctx, cancel := chrome.Open(context.Background(), 1760, 2090)
	defer cancel()
	var png []byte
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(1760, 2090), chromedp.Navigate("file://"+f.Name()),
		chrome.Into(chromedp.CaptureScreenshot(), &png)); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, "16-figures.png"), png, 0o644)
}
