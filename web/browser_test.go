package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/demo"
)

// browser opens Debian's Chromium on a page of the practice.
func (p *practice) browser() context.Context {
	p.t.Helper()
	if _, err := exec.LookPath("chromium"); err != nil {
		p.t.Fatal("the browser tests need Chromium; run: make chromium")
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.DisableGPU, chromedp.Flag("disable-quic", true), chromedp.WindowSize(1280, 800))
	ctx, cancel := chromedp.NewExecAllocator(context.Background(), opts...)
	p.t.Cleanup(cancel)
	ctx, cancel = chromedp.NewContext(ctx)
	p.t.Cleanup(cancel)
	ctx, cancel = context.WithTimeout(ctx, 100*time.Second)
	p.t.Cleanup(cancel)
	return ctx
}

func (p *practice) run(ctx context.Context, actions ...chromedp.Action) {
	p.t.Helper()
	require.NoError(p.t, chromedp.Run(ctx, actions...))
}

func (p *practice) signInBrowser(ctx context.Context) {
	p.t.Helper()
	p.run(ctx, chromedp.Navigate(p.url+"/sign-in"), chromedp.SendKeys("#name", demo.Name), chromedp.SendKeys("#password", demo.Password), chromedp.Submit("#password"), chromedp.WaitVisible(".people"))
}

// axe runs axe-core on the open page and returns its violations.
func (p *practice) axe(ctx context.Context) []string {
	p.t.Helper()
	src, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(p.t, err)
	var out string
	p.run(ctx, chromedp.Evaluate(string(src)+";0", nil),
		chromedp.Evaluate(`axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]}).then(r => JSON.stringify(r.violations.map(v => v.id + ": " + v.help + " at " + v.nodes.map(n => n.target.join(" ")).slice(0, 4).join(", "))))`,
			&out, func(e *runtime.EvaluateParams) *runtime.EvaluateParams { return e.WithAwaitPromise(true) }))
	var v []string
	require.NoError(p.t, json.Unmarshal([]byte(out), &v))
	return v
}

func click(sel string) chromedp.Action { return chromedp.Click(sel, chromedp.ByQuery) }

// TestAxeFindsNothing looks at every page, light and dark.
func TestAxeFindsNothing(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	p.do("POST", "/library/clam/copy", url.Values{})
	ctx := p.browser()
	p.run(ctx, chromedp.Navigate(p.url+"/sign-in"))
	assert.Empty(t, p.axe(ctx), "sign-in")
	p.signInBrowser(ctx)
	for _, scheme := range []string{"light", "dark"} {
		p.run(ctx, emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}))
		for _, path := range []string{"/clients", "/clients/new", "/clients/1", "/clients/1/intake", "/clients/1/delete", "/clients/1/verdicts", "/clients/1/verdicts/cat-cow", "/clients/1/verdicts/clam",
			"/plans/1", "/plans/1?swap=1", "/plans/1/start", "/teach/" + id, "/teach/" + id + "/after", "/nowhere", "/library?q=bridge", "/library/bird-dog", "/library/compare?a=plank&b=plank-knees", "/library/model", "/library/clock-cross/revisions/1", "/own", "/own/1"} {
			p.run(ctx, chromedp.Navigate(p.url+path), chromedp.Sleep(300*time.Millisecond))
			assert.Empty(t, p.axe(ctx), scheme+" "+path)
		}
	}
	empty := start(t, false)
	p.run(ctx, chromedp.Navigate(empty.url+"/first-run"))
	assert.Empty(t, p.axe(ctx), "first run")
}

// TestJourney goes from the intake of a new client to the next session, in the browser.
func TestJourney(t *testing.T) {
	p := start(t, true)
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.Navigate(p.url+"/clients/new"), click("input[name=asked]"), chromedp.SendKeys("#name", "Runa Tidewell"), chromedp.SendKeys("#complaint", "Stiff low back in the morning"),
		click("input[name=conditions][value=stenosis]"))
	// A reload in the middle of the intake loses nothing.
	var name string
	p.run(ctx, chromedp.Reload(), chromedp.Value("#name", &name))
	assert.Equal(t, "Runa Tidewell", name)
	for _, pos := range []string{"floor", "supine", "side_left", "side_right", "kneel", "hands", "stand_free"} {
		p.run(ctx, click(fmt.Sprintf(`input[name="positions.%s"][value=yes]`, pos)))
	}
	p.run(ctx, click("input[name=surfaces][value=counter]"), chromedp.SendKeys(`[name="aims.deep-core"]`, "3"), chromedp.SendKeys(`[name="aims.hip-strength"]`, "2"), click(".save .btn-primary"), chromedp.WaitVisible(".rose"))

	// What suits, and why: arching is out for a narrow canal.
	var path, text string
	p.run(ctx, chromedp.Location(&path), chromedp.Navigate(p.urlOf(ctx)+"/verdicts/cow-neutral"), chromedp.Text("main", &text))
	assert.Contains(t, text, "adapt")
	assert.Contains(t, text, "arching narrows the canal")
	assert.Contains(t, text, "Round and back to level")

	// Plan, and shape it by hand; only the bench returns.
	var items, after int
	p.run(ctx, chromedp.Navigate(path), click("form[action$='/plans'] .btn-primary"), chromedp.WaitVisible("#bench"), chromedp.Evaluate(`document.querySelectorAll(".item").length`, &items),
		click(`.item:nth-child(2) .tools form:last-child button`), chromedp.Sleep(600*time.Millisecond), chromedp.Evaluate(`document.querySelectorAll(".item").length`, &after))
	assert.Equal(t, items-1, after)

	// Teach: log by key, reload in the middle, finish.
	p.run(ctx, click(`a[href$="/start"]`), click("input[name=clear]"), click("input[name=pain][value='1']"), click(".save .btn-primary"), chromedp.WaitVisible("#film svg"))
	var first, second, count string
	p.run(ctx, chromedp.Text("#name", &first), chromedp.KeyEvent("e"), chromedp.KeyEvent("p"), chromedp.KeyEvent("2"), chromedp.Sleep(1500*time.Millisecond),
		click("#forward"), click("#forward"), chromedp.Sleep(400*time.Millisecond), click("#forward"), chromedp.Sleep(600*time.Millisecond), chromedp.Text("#name", &second), chromedp.Text("#count", &count))
	assert.NotEmpty(t, count)
	var seg1, seg2 string
	place := `JSON.parse(localStorage.getItem("place " + document.body.dataset.session)).segment + ""`
	p.run(ctx, chromedp.Evaluate(place, &seg1), chromedp.Reload(), chromedp.WaitVisible("#film svg"), chromedp.Sleep(400*time.Millisecond), chromedp.Evaluate(place, &seg2))
	assert.Equal(t, seg1, seg2, "a reload resumes where it was")
	var saved string
	p.run(ctx, chromedp.Sleep(500*time.Millisecond), chromedp.Text("#saved", &saved), chromedp.Location(&path))
	assert.Equal(t, "saved", saved)
	for range 120 { // skip to the end
		var here string
		p.run(ctx, chromedp.Location(&here))
		if strings.HasSuffix(here, "/after") {
			break
		}
		p.run(ctx, chromedp.KeyEvent("k"), chromedp.Sleep(60*time.Millisecond))
	}
	p.run(ctx, chromedp.WaitVisible("#pain_end"), chromedp.Text("main", &text))
	assert.Contains(t, text, "eased")
	assert.Contains(t, text, first)
	p.run(ctx, chromedp.SendKeys("#pain_end", "1"), chromedp.SendKeys("#peak", "1"), chromedp.SendKeys("#settled", "10"), click(".save .btn-primary"), chromedp.WaitVisible(".decision"))

	// The next session is planned from the log.
	p.run(ctx, chromedp.Navigate(p.url+"/clients/4"), click("form[action$='/plans'] .btn-primary"), chromedp.WaitVisible("#bench"), chromedp.Text("#bench", &text))
	assert.Contains(t, text, "Every rule holds")
	assert.Regexp(t, "Stay|Up|Down|Cap", text)
}

func (p *practice) urlOf(ctx context.Context) string {
	var u string
	p.run(ctx, chromedp.Location(&u))
	return strings.TrimSuffix(u, "/")
}

// Nothing a page loads comes from another machine, and no script error occurs.
func TestNoRequestLeavesTheMachine(t *testing.T) {
	p := start(t, true)
	ctx := p.browser()
	p.signInBrowser(ctx)
	for _, path := range []string{"/clients", "/clients/1", "/clients/1/verdicts/clam"} {
		var outside []string
		p.run(ctx, chromedp.Navigate(p.url+path), chromedp.Sleep(500*time.Millisecond),
			chromedp.Evaluate(`performance.getEntriesByType("resource").map(e => e.name).filter(n => !n.startsWith(location.origin))`, &outside))
		assert.Empty(t, outside, path)
	}
}

// Each log key is one entry: form lost ends the set, a symptom stops the clock.
func TestOneKeyLogsWhileTeaching(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	ctx := p.browser()
	p.signInBrowser(ctx)
	segment := func() (n int) {
		p.run(ctx, chromedp.Evaluate(`JSON.parse(localStorage.getItem("place " + document.body.dataset.session)).segment`, &n))
		return n
	}
	var banner, pause string
	p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), chromedp.WaitVisible("#film svg"), chromedp.KeyEvent("\u001b"), chromedp.Click("#forward"), chromedp.Click("#forward"), chromedp.Sleep(300*time.Millisecond))
	before := segment()
	p.run(ctx, chromedp.KeyEvent("f"), chromedp.Sleep(400*time.Millisecond), chromedp.Text("#banner", &banner))
	assert.Equal(t, before+1, segment(), "the set is over")
	assert.Contains(t, banner, "first loss of form")
	p.run(ctx, chromedp.KeyEvent("s"), chromedp.Sleep(300*time.Millisecond), chromedp.Text("#banner", &banner), chromedp.Text("#pause", &pause))
	assert.Contains(t, banner, "spread down a limb")
	var a, b string
	p.run(ctx, chromedp.Text("#clock", &a), chromedp.Sleep(1300*time.Millisecond), chromedp.Text("#clock", &b))
	assert.Equal(t, a, b, "the clock stands still")
	p.run(ctx, chromedp.KeyEvent(" "), chromedp.KeyEvent("p"), chromedp.KeyEvent("6"), chromedp.Sleep(400*time.Millisecond), chromedp.Text("#banner", &banner))
	assert.Contains(t, banner, "Pain 6 is over this client's limit")
	got, err := p.store.Teaching(context.Background(), 1, 9)
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, e := range got.Entries {
		kinds[e.Kind]++
	}
	assert.Equal(t, 1, kinds["form"])
	assert.Equal(t, 1, kinds["symptom"])
	assert.Equal(t, 2, kinds["pain"], "the key at once, the number when it is known")
}

// The library narrows as one types, and an own version is looked at, spoilt, mended and
// used, all without losing what was typed.
func TestLibraryAndOwnInTheBrowser(t *testing.T) {
	p := start(t, true).signIn()
	ctx := p.browser()
	p.signInBrowser(ctx)
	var found, place string
	p.run(ctx, chromedp.Navigate(p.url+"/library"), chromedp.SendKeys("#q", "dead bug"), chromedp.Poll(`document.querySelector(".found").textContent.includes("in 1 fam")`, nil),
		chromedp.Text(".found", &found), chromedp.Location(&place))
	assert.Contains(t, found, "6 of 217")
	assert.Contains(t, place, "q=dead%20bug", "the address can be kept")
	var films int
	p.run(ctx, click(`a[href="/library/dead-bug-band"]`), chromedp.WaitVisible(".player svg"), chromedp.Evaluate(`document.querySelectorAll(".player svg path").length`, &films))
	assert.Greater(t, films, 10, "the figure plays")

	var checked, typed string
	p.run(ctx, click(`form[action$="/copy"] button`), chromedp.WaitVisible("#pose1"),
		chromedp.SetValue("#pose1", "from ready\nhip.right flexion 50\nknee.right swings 4"), click(`button[hx-post]`), chromedp.WaitVisible(".wrong-list"), chromedp.Text("#checked", &checked))
	assert.Contains(t, checked, "knee.right swings 4")
	p.run(ctx, chromedp.SetValue("#pose1", "from ready\nhip.right flexion 50\nknee.right flexion 24\nankle.right up 5\nlumbar flexion 0\nthoracic flexion 0"), click(`button[hx-post]`),
		chromedp.Poll(`document.querySelectorAll("#checked .stills img").length === 2 && !document.querySelector(".wrong-list")`, nil), chromedp.Text("#checked", &checked))
	assert.Contains(t, checked, "every check passes")
	p.run(ctx, chromedp.SetValue("#cue_image", "A slow oar through still water."), click(`button[value=use]`), chromedp.WaitVisible(".saved"), chromedp.Text("#checked", &checked), chromedp.Value("#cue_image", &typed))
	assert.Contains(t, checked, "In use as revision 1")
	assert.Equal(t, "A slow oar through still water.", typed)
	p.run(ctx, chromedp.Navigate(p.url+"/clients/1/verdicts?q=band+bicycle"), chromedp.Text(".found", &found))
	assert.Contains(t, found, "2 of 218")
}
