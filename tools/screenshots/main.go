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
	shots := []shot{
		{"01-sign-in", 1280, 800, []chrome.Action{at("/sign-in"), wait}},
		{"02-clients", 1280, 800, []chrome.Action{chromedp.SendKeys("#name", demo.Name),
			chromedp.SendKeys("#password", demo.Password), press("form .btn-primary"), wait, at("/clients"), wait}},
		{"03-client", 1280, 1000, []chrome.Action{at("/clients/4"), wait}},
		{"04-intake", 1280, 800, []chrome.Action{at("/clients/4/intake/conditions"), wait}},
		{"05-verdicts", 1280, 800, []chrome.Action{at("/clients/1/verdicts"), wait}},
		{"06-verdict", 1280, 1000, []chrome.Action{at("/clients/1/verdicts/cat-cow"), wait}},
		{"07-plan", 1280, 1000, []chrome.Action{at("/clients/2"), press("form .btn-primary"), wait, wait,
			at("/plans/1?at=4"), wait}},
		{"08-before", 1280, 800, []chrome.Action{at("/plans/1/start"), wait}},
		{"09-teach", 1280, 800, []chrome.Action{press("input[name=clear]"), press("input[name=pain][value='2']"),
			press(".save .btn-primary"), wait,
			chromedp.Sleep(2 * time.Second), press("#forward"), press("#forward"), press("#forward"), press("#forward"),
			press("#forward"), chromedp.Sleep(2500 * time.Millisecond)}},
		{"10-after", 1280, 800, []chrome.Action{at("/teach/11/after"), wait}},
		{"12-library", 1280, 800, []chrome.Action{at("/library"), wait, wait}},
		{"13-entry", 1280, 1000, []chrome.Action{at("/library/bird-dog"), wait}},
		{"14-compare", 1280, 800, []chrome.Action{at("/library/compare?a=plank-knees&b=plank"), wait}},
		{"15-own", 1280, 1000, []chrome.Action{at("/library/clam"), press("form[action$='/copy'] button"), wait}},
		{"17-limits", 1280, 800, []chrome.Action{at("/limits#osteoporosis"), wait}},
		{"19-course", 1280, 800, []chrome.Action{at("/clients/1/course"), wait}},
		{"18-tests", 1280, 800, []chrome.Action{at("/clients/1/tests"), wait}},
		{"11-today-phone", 390, 844, []chrome.Action{at("/today"), wait}},
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
