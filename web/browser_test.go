package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/demo"
	"restbend/tools/chrome"
)

// browser opens Debian's Chromium on a page of the practice.
func (p *practice) browser() context.Context {
	p.t.Helper()
	if testing.Short() {
		p.t.Skip("needs a browser")
	}
	if _, err := exec.LookPath("chromium"); err != nil {
		p.t.Fatal("the browser tests need Chromium; run: make chromium")
	}
	ctx, stop := chrome.Open(context.Background(), 1280, 800)
	p.t.Cleanup(stop)
	ctx, cancel := context.WithTimeout(ctx, 6*time.Minute)
	p.t.Cleanup(cancel)
	return ctx
}

// run does one action after the other. An action that asked for a node of a page which was
// replaced before it reached the node is done again on the page that is there now: such an
// error comes before any key or click is sent.
func (p *practice) run(ctx context.Context, actions ...chrome.Action) {
	p.t.Helper()
	for _, a := range actions {
		err := chromedp.Do(ctx, a)
		for end := time.Now().Add(20 * time.Second); err != nil && gone(err) && time.Now().Before(end); {
			time.Sleep(50 * time.Millisecond)
			err = chromedp.Do(ctx, a)
		}
		require.NoError(p.t, err)
	}
}

// gone tells whether Chromium refused because the node's page is no longer there.
func gone(err error) bool {
	for _, s := range []string{"No node with given id", "Could not find node", "Node does not belong", "Cannot find context with specified id", "Execution context was destroyed"} {
		if strings.Contains(err.Error(), s) {
			return true
		}
	}
	return false
}

func (p *practice) signInBrowser(ctx context.Context) {
	p.t.Helper()
	p.run(ctx, chromedp.Navigate(p.url+"/sign-in"), chromedp.SendKeys("#name", demo.Name), chromedp.SendKeys("#password", demo.Password), chromedp.Submit("#password"), shown("#asks"))
}

// axe runs axe-core on the open page and returns its violations.
func (p *practice) axe(ctx context.Context) []string {
	p.t.Helper()
	src, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(p.t, err)
	var out string
	p.run(ctx, chrome.Script(string(src)+";0"),
		chrome.Value(`axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]}).then(r => JSON.stringify(r.violations.map(v => v.id + ": " + v.help + " at " + v.nodes.map(n => n.target.join(" ")).slice(0, 4).join(", "))))`, &out, chromedp.EvalAwaitPromise))
	var v []string
	require.NoError(p.t, json.Unmarshal([]byte(out), &v))
	return v
}

// until waits for a condition on whatever page is open by then: unlike a query for nodes
// it survives the page being replaced meanwhile.
func until(js string) chrome.Action { return untilWithin(time.Minute, js) }

// shown waits until the page that is open by then has loaded and shows the element.
func shown(sel string) chrome.Action {
	return until(fmt.Sprintf(`document.readyState === "complete" && document.querySelector(%q)?.checkVisibility()`, sel))
}

func untilWithin(d time.Duration, js string) chrome.Action {
	return chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		ask := chromedp.Evaluate[bool]("!!(" + js + ")")
		for end := time.Now().Add(d); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
			if ok, err := ask(ctx, t); err == nil && ok {
				return nil
			}
		}
		return fmt.Errorf("never true: %s", js)
	})
}

// TestAxeFindsNothing looks at every page, light and dark.
func TestAxeFindsNothing(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	p.do("POST", "/library/clam/copy", url.Values{})
	p.do("POST", "/clients/1/overrides", url.Values{"version": {"seated-turn"}, "reason": {"agreed with her physician on Monday"}})
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	_, version := p.stored(2)
	code, _ := p.do("POST", "/plans/2/edit", url.Values{"do": {"add::seated-turn"}, "version": {fmt.Sprint(version)}})
	require.Contains(t, []int{200, 422}, code, "added, or in it already")
	limited := p.keep(func(c *intake.Client) {
		c.Conditions = []intake.Condition{{Code: "knee-pain", Side: "left"}}
		c.Clearances = []intake.Clearance{{Date: today.AddDays(-10), By: "physiotherapist", Covers: []string{"knee-pain"}, Limits: "nothing on the knees", Until: today.AddDays(5)}}
	})
	words := p.planned(limited)
	whole := p.whole()
	long := p.planned(whole)
	urgent := p.keep(func(c *intake.Client) { c.RedFlags = []intake.Flag{{Code: "chest-pain"}} })
	resting := p.keep(func(c *intake.Client) { c.Pain = &intake.Pain{Now: 8, Worst: 8} })
	ctx := p.browser()
	p.run(ctx, chromedp.Navigate(p.url+"/sign-in"))
	assert.Empty(t, p.axe(ctx), "sign-in")
	p.signInBrowser(ctx)
	for _, scheme := range []string{"light", "dark"} {
		p.run(ctx, chrome.Media("prefers-color-scheme", scheme))
		for _, path := range []string{"/today", "/clients", "/clients/new", "/clients/1", "/clients/1/intake/start", "/clients/2/intake/person", "/clients/4/intake/conditions", "/clients/4/intake/clearances", "/clients/2/intake/pain", "/clients/1/intake/positions", "/clients/1/intake/place", "/clients/1/intake/aims", "/clients/1/intake/schools",
			"/bin", "/clients/4", "/clients/1/tests", "/clients/1/history", "/limits", "/limits/edit?key=stenosis/lumbar.extension.loaded", "/practice", "/clients/1/verdicts/plank-hand", "/clients/1/verdicts/saw", "/clients/1/delete", "/clients/1/verdicts", "/clients/1/verdicts/cat-cow", "/clients/1/verdicts/clam",
			"/plans/1", "/plans/1?at=3", "/plans/1/others", "/plans/2", "/plans/2/start", "/clients/1/verdicts?session=1&q=bridge", "/plans/1/print", "/plans/1/start", "/clients/1/course", "/several", "/kinds", "/kinds/bone-safe", "/teach/" + id, "/teach/" + id + "/after", "/teach/1/after", "/nowhere", "/library?q=bridge", "/library/bird-dog", "/library/compare?a=plank&b=plank-knees", "/library/model", "/library/clock-cross/revisions/1", "/own", "/own/1",
			fmt.Sprintf("/clients/%d", whole), fmt.Sprintf("/clients/%d/verdicts", whole), fmt.Sprintf("/clients/%d/intake/conditions", whole), long, long + "/start", long + "/print",
			words, words + "/start", words + "/print", fmt.Sprintf("/clients/%d", limited), fmt.Sprintf("/clients/%d", urgent), fmt.Sprintf("/clients/%d", resting), fmt.Sprintf("/clients/%d/intake/clearances", limited)} {
			p.run(ctx, chromedp.Navigate(p.url+path), chromedp.Sleep(150*time.Millisecond))
			assert.Empty(t, p.axe(ctx), scheme+" "+path)
		}
	}
	for _, scheme := range []string{"light", "dark"} { // the player, with what it opens
		p.run(ctx, chrome.Media("prefers-color-scheme", scheme), chromedp.Navigate(p.url+"/teach/"+id), until(playing))
		for _, what := range []string{"", "symptom", "pain", "felt", "more", "likes", "end", "log", "breath"} {
			js := `for (const d of document.querySelectorAll("dialog[open]")) d.close();`
			if what != "" {
				js += fmt.Sprintf(`document.querySelector("[data-do=%s]").click();`, what)
			}
			p.run(ctx, chrome.Script(js+"0"), chromedp.Sleep(150*time.Millisecond))
			assert.Empty(t, p.axe(ctx), scheme+" player "+what)
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
	p.run(ctx, chromedp.Navigate(p.url+"/clients/new"), chrome.Click("input[name=asked]"), chromedp.SendKeys("#name", "Runa Tidewell"))
	// A reload in the middle of a step loses nothing.
	var name string
	p.run(ctx, chromedp.Reload(), chrome.Into(chromedp.Value("#name"), &name))
	assert.Equal(t, "Runa Tidewell", name)
	next := func(wait string, actions ...chrome.Action) {
		p.run(ctx, append(actions, chrome.Click(".save .btn-primary"), shown(wait))...)
	}
	next("#complaint")
	next("input[name=conditions]", chromedp.SendKeys("#complaint", "Stiff low back in the morning"))
	next(`[name="clearance.0.by"]`, chrome.Click("input[name=conditions][value=stenosis]"))
	next(`[name="pain.now"]`)
	next(".ask")
	var positions []chrome.Action
	for _, pos := range []string{"floor", "supine", "side_left", "side_right", "kneel", "hands", "stand_free"} {
		positions = append(positions, chrome.Click(fmt.Sprintf(`input[name="positions.%s"][value=yes]`, pos)))
	}
	next("input[name=surfaces]", positions...)
	next(`[name="aims.deep-core"]`, chrome.Click("input[name=surfaces][value=mat]"), chrome.Click("input[name=surfaces][value=chair]"), chrome.Click("input[name=surfaces][value=counter]"), chrome.Click("input[name=kit][value=towel]"), chrome.Click("input[name=kit][value=pillow]"))
	next(".school", chromedp.SendKeys(`[name="aims.deep-core"]`, "more"), chromedp.SendKeys(`[name="aims.hip-strength"]`, "normal"))
	next(".rose", chrome.Click("input[name=dose][value=short-holds]"))

	// What suits, and why: arching is out for a narrow canal.
	var path, text string
	p.run(ctx, chrome.Into(chromedp.Location(), &path), chromedp.Navigate(p.urlOf(ctx)+"/verdicts/cow-neutral"), chrome.Into(chromedp.Text("main"), &text))
	assert.Contains(t, text, "adapt")
	assert.Contains(t, text, "arching narrows the canal")
	assert.Contains(t, text, "Round and back to level")

	// Plan: a good session stands at once, the best replaces it; then shape it by hand.
	var items, after int
	p.run(ctx, chromedp.Navigate(path), chrome.Click("form[action$='/plans'] .btn-primary"), until(best), chrome.Value(`document.querySelectorAll(".rows li").length`, &items),
		chrome.Click("#row-1"), until(`document.querySelector("#row-1[aria-current]")`), chrome.Click("#op-remove"), until(`document.querySelector("#said").textContent.includes("removed")`), chrome.Value(`document.querySelectorAll(".rows li").length`, &after))
	assert.Equal(t, items-1, after)

	// Teach: mark by key, reload in the middle, finish.
	p.run(ctx, chrome.Click(`a[href$="/start"]`), chrome.Click("input[name=clear]"), chrome.Click("input[name=pain][value='1']"), chrome.Click(".save .btn-primary"), until(playing))
	var first, count string
	p.run(ctx, chrome.Into(chromedp.Text("#name"), &first), chromedp.KeyEvent("e"), chromedp.KeyEvent("p"), chromedp.KeyEvent("2"), until(atSegment(0)), chrome.Click("#forward"), until(atSegment(1)), chrome.Into(chromedp.Text("#count"), &count), until(allStored))
	assert.NotEmpty(t, count)
	p.run(ctx, chromedp.Reload(), until(playing), until(atSegment(1)))
	// The rest is played to its end, its seconds passing fifty times as fast.
	p.run(ctx, chrome.Script(`document.querySelector("[data-like=flowing]").click(); const real = Date.now.bind(Date), from = real(); Date.now = () => from + (real() - from) * 50; 0`),
		untilWithin(4*time.Minute, `document.getElementById("sheet").textContent.includes("All done")`), chrome.Click("#sheet button"), untilWithin(time.Minute, `location.pathname.endsWith("/after") && document.querySelector("input[name=pain_end]")`), chrome.Into(chromedp.Text("main"), &text))
	assert.Contains(t, text, "pain 2")
	assert.Contains(t, text, first)
	p.run(ctx, chrome.Script(`document.querySelector("input[name=pain_end][value='1']").click(); document.querySelector("details:has([name=peak])").open = true; document.querySelector("input[name=peak][value='1']").click(); document.querySelector("input[name=settled][value='8']").click(); 0`),
		chrome.Script(`window.before = true`), chrome.Click("#closing .btn-primary"), until(`!window.before`), shown(".decision"))

	// The next session is planned from the log: what comes back says what was decided.
	p.run(ctx, chromedp.Navigate(p.url+"/clients/5"), chrome.Click("form[action$='/plans'] .btn-primary"), until(best), chrome.Value(`document.querySelectorAll(".rows li").length`, &items), chrome.Into(chromedp.Text("#bench"), &text))
	assert.Contains(t, text, "Every rule holds")
	decided := 0
	for i := range items {
		p.run(ctx, chrome.Click(fmt.Sprintf("#row-%d", i)), until(fmt.Sprintf(`document.querySelector("#row-%d[aria-current]")`, i)), chrome.Into(chromedp.Text("#bench-panel"), &text))
		if regexp.MustCompile(`\. (Stay|Up|Down|Cap): `).MatchString(text) {
			decided++
		}
	}
	assert.Positive(t, decided)
}

// playing, best and atSegment are conditions to wait for: the player runs, the best session
// has replaced the quick one, the player has got to a segment.
const (
	playing   = `window.restbend && window.restbend.segment() >= 0 && document.querySelector("#film svg, #film img")`
	allStored = `document.getElementById("saved").textContent === "stored" && !Object.keys(localStorage).some(k => k.startsWith("mark "))`
	best      = `document.querySelector("#bench-list") && !document.querySelector(".best")`
)

func atSegment(n int) string {
	return fmt.Sprintf(`window.restbend && window.restbend.segment() === %d`, n)
}

func (p *practice) urlOf(ctx context.Context) string {
	var u string
	p.run(ctx, chrome.Into(chromedp.Location(), &u))
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
			chrome.Value(`performance.getEntriesByType("resource").map(e => e.name).filter(n => !n.startsWith(location.origin))`, &outside))
		assert.Empty(t, outside, path)
	}
}

// Each key is one mark: form lost ends the set and asks which fault, a symptom stops the clock and asks, what was
// pressed wrongly is taken back.
func TestOneKeyMarksWhileTeaching(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	ctx := p.browser()
	p.signInBrowser(ctx)
	said := func(words string) chrome.Action {
		return until(fmt.Sprintf(`document.getElementById("sheet").textContent.includes(%q)`, words))
	}
	p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), until(playing), chromedp.KeyEvent("\u001b"), chrome.Click("#forward"), until(atSegment(1)), chrome.Click("#forward"), until(atSegment(2)),
		chromedp.KeyEvent("f"), said("Which fault?"), until(`!(`+atSegment(2)+`)`), // the set is over
		chrome.Click("#sheet button"), said("Form lost:"),
		chromedp.KeyEvent("s"), said("Does it do any of this?"), until(`document.getElementById("pause").textContent === "go on"`))
	var a, b float64
	p.run(ctx, chrome.Value(`restbend.position()`, &a), chromedp.Sleep(1300*time.Millisecond), chrome.Value(`restbend.position()`, &b))
	assert.InDelta(t, a, b, 0.05, "the clock stands still")
	p.run(ctx, chromedp.KeyEvent("z"), said("Taken back: symptom"), chromedp.KeyEvent(" "), chromedp.KeyEvent("p"), chromedp.KeyEvent("6"), said("Pain 6: this client stops"), until(allStored))
	got, err := p.store.Teaching(context.Background(), 1, 11)
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, m := range got.Marks {
		kinds[m.Kind]++
	}
	assert.Equal(t, map[string]int{"start": 1, "go": kinds["go"], "seek": kinds["seek"], "form": 1, "fault": 1, "symptom": 1, "undo": 1, "felt": 1, "pause": 2, "resume": 1}, kinds)
	_, page := p.do("GET", "/teach/"+id+"/after", nil)
	assert.Contains(t, page, "pain 6<")
	assert.NotContains(t, page, `"tag">symptom<`)
}

// The library narrows as one types, and an own version is looked at, spoilt, mended and
// used, all without losing what was typed.
func TestLibraryAndOwnInTheBrowser(t *testing.T) {
	p := start(t, true).signIn()
	ctx := p.browser()
	p.signInBrowser(ctx)
	var found, place string
	p.run(ctx, chromedp.Navigate(p.url+"/library"), chromedp.SendKeys("#q", "dead bug"), until(`document.querySelector(".found").textContent.includes("in 1 fam")`),
		chrome.Into(chromedp.Text(".found"), &found), chrome.Into(chromedp.Location(), &place))
	assert.Contains(t, found, "6 of 224")
	assert.Contains(t, place, "q=dead%20bug", "the address can be kept")
	var films int
	p.run(ctx, chrome.Click(`a[href="/library/dead-bug-band"]`), until(`document.querySelector(".player svg")`), chrome.Value(`document.querySelectorAll(".player svg path").length`, &films))
	assert.Greater(t, films, 10, "the figure plays")

	// It moves, it can be halted and set going; who wants less motion sees stills.
	const limbs = `[...document.querySelectorAll(".player svg path")].map(p => p.getAttribute("d")).join()`
	look := func() (d string) {
		p.run(ctx, chrome.Value(limbs, &d))
		return d
	}
	first := look()
	p.run(ctx, until(limbs+" !== "+strconv.Quote(first)), chrome.Click(".film-halt"), until(`document.querySelector(".film-halt").textContent === "Play"`))
	halted := look()
	p.run(ctx, chrome.Script(`new Promise(ok => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(ok))))`, chromedp.EvalAwaitPromise))
	assert.Equal(t, halted, look(), "it stays where it was halted")
	p.run(ctx, chrome.Click(".film-halt"), until(limbs+" !== "+strconv.Quote(halted)))
	var quiet bool
	p.run(ctx, chrome.Media("prefers-reduced-motion", "reduce"), chromedp.Reload(), shown(".player img"),
		chrome.Value(`!document.querySelector(".player svg")`, &quiet), chrome.Media("", ""))
	assert.True(t, quiet, "the still picture stays")

	var checked, typed string
	p.run(ctx, chrome.Click(`form[action$="/copy"] button`), shown("#pose1"),
		chromedp.SetValue("#pose1", "from ready\nhip.right flexion 50\nknee.right swings 4"), chrome.Click(`button[hx-post]`), shown(".wrong-list"), chrome.Into(chromedp.Text("#checked"), &checked))
	assert.Contains(t, checked, "knee.right swings 4")
	p.run(ctx, chromedp.SetValue("#pose1", "from ready\nhip.right flexion 50\nknee.right flexion 24\nankle.right up 5\nlumbar flexion 0\nthoracic flexion 0"), chrome.Click(`button[hx-post]`),
		until(`document.querySelectorAll("#checked .stills img").length === 2 && !document.querySelector(".wrong-list")`), chrome.Into(chromedp.Text("#checked"), &checked))
	assert.Contains(t, checked, "every check passes")
	p.run(ctx, chromedp.SetValue("#cue_image", "A slow oar through still water."), chrome.Click(`button[value=use]`), until(`document.readyState === "complete" && document.querySelector("#checked").textContent.includes("In use as")`), chrome.Into(chromedp.Text("#checked"), &checked), chrome.Into(chromedp.Value("#cue_image"), &typed))
	assert.Contains(t, checked, "In use as revision 1")
	assert.Equal(t, "A slow oar through still water.", typed)
	p.run(ctx, chromedp.Navigate(p.url+"/clients/1/verdicts?q=band+bicycle"), chrome.Into(chromedp.Text(".found"), &found))
	assert.Contains(t, found, "2 of 225")
}

// The whole intake by keyboard alone: Tab, space, arrows and Enter.
func TestIntakeByKeyboardAlone(t *testing.T) {
	p := start(t, true)
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.Navigate(p.url+"/clients/new"), chromedp.Sleep(200*time.Millisecond))
	tabTo := func(sel string) {
		t.Helper()
		for range 200 {
			var here bool
			p.run(ctx, chromedp.KeyEvent(kb.Tab), chrome.Value(`!!document.activeElement && document.activeElement.matches(`+fmt.Sprintf("%q", sel)+`)`, &here))
			if here {
				var outline string
				p.run(ctx, chrome.Value(`getComputedStyle(document.activeElement).outlineStyle`, &outline))
				assert.NotEqual(t, "none", outline, "focus is seen at %s", sel)
				return
			}
		}
		t.Fatalf("%s cannot be reached with Tab", sel)
	}
	press := func(keys string) { p.run(ctx, chromedp.KeyEvent(keys)) }
	on := func(wait string) {
		t.Helper()
		tabTo(`button[name="go"][value="next"]`)
		p.run(ctx, chromedp.KeyEvent(kb.Enter), shown(wait))
	}
	tabTo("#name")
	press("Hedra Calloway")
	tabTo("input[name=asked]")
	press(" ")
	on("#complaint")
	tabTo("#complaint")
	press("Stiff and careful since the winter")
	on("input[name=conditions]")
	tabTo("input[name=conditions][value=osteoporosis]")
	press(" ")
	tabTo(`[name="condition.osteoporosis.vertebral_fracture"]`)
	press("n")
	on(`[name="clearance.0.by"]`)
	on(`[name="pain.now"]`)
	tabTo(`[name="pain.now"]`)
	press("2")
	on(".ask")
	for _, pos := range []string{"floor", "supine", "stand_free"} {
		tabTo(fmt.Sprintf(`input[name="positions.%s"]`, pos)) // the marked one: not asked
		press(kb.ArrowRight)                                  // round to yes
	}
	on("input[name=surfaces]")
	tabTo("input[name=surfaces][value=mat]")
	press(" ")
	tabTo("input[name=surfaces][value=chair]")
	press(" ")
	on(`[name="aims.balance"]`)
	tabTo(`[name="aims.balance"]`)
	press("l")
	on(".school")
	tabTo(`button[name="go"]`)
	p.run(ctx, chromedp.KeyEvent(kb.Enter), shown(".rose"))
	row, err := p.store.Client(context.Background(), 1, 5)
	require.NoError(t, err)
	assert.Empty(t, row.Intake, "complete")
	for _, want := range []string{`"vertebral_fracture":false`, `"floor":"yes"`, `"stand_free":"yes"`, `"now":2`, `"balance":1`} {
		assert.Contains(t, string(row.Document), want)
	}
	assert.NotContains(t, string(row.Document), `"prone"`, "not asked is not recorded")
}

// Every step of the intake fits a phone: nothing reaches beyond 390 px, targets are large
// enough to touch.
func TestIntakeOnAPhone(t *testing.T) {
	p := start(t, true)
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.EmulateViewport(390, 844))
	fits := func(where string) {
		t.Helper()
		var wide float64
		var small []string
		p.run(ctx, chromedp.Sleep(150*time.Millisecond), chrome.Value(`Math.max(document.documentElement.scrollWidth, ...[...document.querySelectorAll("main input, main select, main button, main label")].filter(e => e.offsetParent).map(e => e.getBoundingClientRect().right))`, &wide),
			chrome.Value(`[...document.querySelectorAll("main form label.tick, main form .form-select, main form .form-control, main form button")].filter(e => e.offsetParent && e.getBoundingClientRect().height < 43.5).map(e => e.outerHTML.slice(0, 80))`, &small))
		assert.LessOrEqual(t, wide, 390.0, where)
		assert.Empty(t, small, where)
	}
	p.run(ctx, chromedp.Navigate(p.url+"/clients/new"), shown("#name"), chromedp.SendKeys("#name", "Hedra Calloway"), chrome.Click("input[name=asked]"))
	fits("start")
	for _, step := range []string{"person", "conditions", "clearances", "pain", "positions", "place", "aims", "schools"} {
		p.run(ctx, chrome.Click(`button[name="go"][value="next"]`), shown(`form[action$="/`+step+`"]`))
		switch step {
		case "conditions":
			p.run(ctx, chrome.Click("input[value=scoliosis]"), chrome.Click("input[value=hip-replacement]"))
		case "place":
			p.run(ctx, chrome.Click("input[name=surfaces][value=chair]"))
		}
		fits(step)
	}
	p.run(ctx, chrome.Click(`button[name="go"]`), shown(".rose"))
	fits("client")
	p.run(ctx, chromedp.Navigate(p.url+"/clients/5/tests"), shown("form.tests"))
	fits("tests")
}

// On a phone the posture line keeps its size and moves under the finger; where it stands
// survives a change, and the page itself does not grow wider. Choosing a kind of session
// proposes its minutes.
func TestBenchOnAPhone(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	ctx := p.browser()
	p.signInBrowser(ctx)
	var minutes string
	p.run(ctx, chromedp.EmulateViewport(390, 844), chromedp.Navigate(p.url+"/clients/1"), shown("#template"),
		chrome.Value(`document.getElementById("template").value = "desk-round"; document.getElementById("template").dispatchEvent(new Event("change", {bubbles: true})); document.getElementById("minutes").value`, &minutes))
	assert.Equal(t, "5", minutes)
	last := `document.querySelector("#bench-list .rows li:last-child a")`
	seen := `(() => { const b = document.getElementById("bench-line").getBoundingClientRect(), a = document.querySelector(".stop-link[aria-current]").getBoundingClientRect(); return a.left >= b.left && a.right <= b.right + 1; })()`
	var wide, shown bool
	var page, before, after float64
	p.run(ctx, chromedp.Navigate(p.url+"/plans/1"), until(`document.querySelector(".stop-link[aria-current]") && !document.querySelector(".best")`),
		chrome.Value(`document.getElementById("bench-line").scrollWidth > 2 * document.getElementById("bench-line").clientWidth`, &wide),
		chrome.Value(`document.documentElement.scrollWidth`, &page),
		chrome.Script(last+`.click()`), until(last+`.hasAttribute("aria-current")`), chromedp.Sleep(200*time.Millisecond),
		chrome.Value(seen, &shown), chrome.Value(`document.getElementById("bench-line").scrollLeft`, &before))
	assert.True(t, wide, "the line keeps its size")
	assert.LessOrEqual(t, page, 390.0, "the page does not grow wider")
	assert.True(t, shown, "what is open is in sight")
	assert.Greater(t, before, 100.0)
	p.run(ctx, chrome.Script(`document.getElementById("op-lock").click()`), until(`document.querySelector(".stop-link .lock")`), chromedp.Sleep(200*time.Millisecond),
		chrome.Value(`document.getElementById("bench-line").scrollLeft`, &after))
	assert.InDelta(t, before, after, 1, "the line stays where it stood")
}

// What is typed and not saved is offered back with its time, comes back by itself after a reload, is nobody else's, and
// is gone after saving, leaving without saving, and signing out.
func TestDrafts(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/practice/accounts", url.Values{"name": {"lowen"}, "password": {"nine quiet herons"}})
	ctx := p.browser()
	p.signInBrowser(ctx)
	at := p.url + "/clients/2/intake/person"
	var text string
	value := func() string {
		p.run(ctx, chrome.Into(chromedp.Value("#complaint"), &text))
		return text
	}
	p.run(ctx, chromedp.Navigate(at), shown("#complaint"), chromedp.SendKeys("#complaint", " and a stiff morning"), chromedp.Navigate(p.url+"/clients/2"), chromedp.Navigate(at), shown(".draft"))
	assert.NotContains(t, value(), "stiff morning", "what is kept stands there")
	p.run(ctx, chrome.Click(".draft button"), until(`!document.querySelector(".draft")`))
	assert.Contains(t, value(), "stiff morning")
	p.run(ctx, chromedp.Reload(), shown("#complaint"))
	assert.Contains(t, value(), "stiff morning", "a reload loses nothing")
	assert.Empty(t, p.axe(ctx))
	p.run(ctx, chrome.Click("button[value=client]"), until(`location.pathname === "/clients/2"`), chromedp.Navigate(at), shown("#complaint"), until(`!document.querySelector(".draft")`))
	assert.Contains(t, value(), "stiff morning", "saved")
	p.run(ctx, chromedp.Navigate(p.url+"/clients/new"), shown("#name"), chromedp.SendKeys("#name", "Secret Client"), chrome.Click("a[data-without]"), until(`location.pathname === "/clients"`), chromedp.Navigate(p.url+"/clients/new"), shown("#name"), until(`!document.querySelector(".draft") && document.getElementById("name").value === ""`),
		chromedp.SendKeys("#name", "Secret Client"), chrome.Click("form[action='/sign-out'] button"), until(`location.pathname === "/sign-in"`))
	var kept int
	p.run(ctx, chrome.Value(`Object.keys(localStorage).concat(Object.keys(sessionStorage)).filter(k => !k.startsWith("htmx")).length`, &kept), chrome.Value(`Object.keys(localStorage).concat(Object.keys(sessionStorage)).join()`, &text))
	assert.Zero(t, kept, "nothing stays in the browser: %s", text)
	p.run(ctx, chromedp.SendKeys("#name", "lowen"), chromedp.SendKeys("#password", "nine quiet herons"), chromedp.Submit("#password"), until(`location.pathname === "/today"`), chromedp.Navigate(p.url+"/clients/new"), shown("#name"), until(`!document.querySelector(".draft") && document.getElementById("name").value === ""`))
}
