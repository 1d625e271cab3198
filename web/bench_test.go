package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"html/template"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/tools/chrome"
)

// stored is a plan as it is kept.
func (p *practice) stored(id int64) (plan.Plan, int64) {
	p.t.Helper()
	row, err := p.store.Plan(context.Background(), 1, id)
	require.NoError(p.t, err)
	var pl plan.Plan
	require.NoError(p.t, json.Unmarshal(row.Document, &pl))
	return pl, row.Version
}

func slugs(p plan.Plan) (out []string) {
	for _, it := range p.Items {
		out = append(out, it.Version)
	}
	return out
}

// A good session stands at once, the best replaces it, and nobody's own change is lost.
func TestTheBestReplacesTheQuickSession(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	_, page := p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	assert.Contains(t, page, "the best one is being worked out")
	quick, _ := p.stored(1)
	code, page := p.do("POST", "/plans/1/best", url.Values{}, "HX-Request", "true")
	assert.Equal(t, 200, code)
	assert.False(t, strings.Contains(page, "<html"))
	best, v := p.stored(1)
	assert.GreaterOrEqual(t, best.Score, quick.Score)
	p.do("POST", "/plans/1/edit", url.Values{"do": {"remove:1"}, "version": {fmt.Sprint(v)}})
	p.do("POST", "/plans/1/best", url.Values{}, "HX-Request", "true")
	mine, _ := p.stored(1)
	assert.Len(t, mine.Items, len(best.Items)-1, "a session shaped by hand stays")
}

// Every change is stored, checked and can be undone; only what changed comes back.
func TestTheBenchThroughTheServer(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/best", url.Values{})
	edit := func(do string, more ...string) (int, string) {
		_, v := p.stored(1)
		f := url.Values{"do": {do}, "version": {fmt.Sprint(v)}, "view": {"here"}}
		for i := 0; i+1 < len(more); i += 2 {
			f.Set(more[i], more[i+1])
		}
		return p.do("POST", "/plans/1/edit", f, "HX-Request", "true")
	}
	parts := func(page string) (out []string) {
		for _, m := range regexp.MustCompile(`id="(bench-[a-z]+)"`).FindAllStringSubmatch(page, -1) {
			out = append(out, m[1])
		}
		return out
	}
	before, _ := p.stored(1)
	_, page := edit("lock:2")
	assert.Len(t, parts(page), 6, "nothing was sent to this view yet")
	_, page = edit("lock:3", "at", "3")
	assert.NotContains(t, parts(page), "bench-facts", "locking changes no rule, aim or direction")
	locked, _ := p.stored(1)
	assert.True(t, locked.Items[2].Locked && locked.Items[3].Locked)

	code, page := edit("down:0")
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "broken", "the opener is no longer first")
	assert.Contains(t, page, "Begin with", "a mend is offered")
	p.do("POST", "/plans/1/step/undo", url.Values{})
	undone, _ := p.stored(1)
	assert.Equal(t, slugs(before), slugs(undone))
	p.do("POST", "/plans/1/step/redo", url.Values{})
	redone, _ := p.stored(1)
	assert.Equal(t, before.Items[0].Version, redone.Items[1].Version)
	code, page = p.do("POST", "/plans/1/step/redo", url.Values{})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "nothing to redo")
	_, page = edit("arrange")
	arranged, _ := p.stored(1)
	assert.ElementsMatch(t, slugs(before), slugs(arranged))
	assert.False(t, strings.Contains(page, "broken"), "every rule holds again")

	code, page = edit("swap:1:crunch-breaths")
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "does not suit")
	assert.NotContains(t, page, "with:", "fields of the program are not named")
	code, page = edit("add::")
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Choose an exercise first.")
	code, page = edit("fly:1")
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "allowed: up, down")
	code, page = p.do("POST", "/plans/1/edit", url.Values{"do": {"remove:1"}, "version": {"1"}}, "HX-Request", "true")
	assert.Equal(t, 422, code, "a second tab with the old state")
	assert.Contains(t, page, "changed elsewhere")
	code, _ = p.do("POST", "/plans/1/edit", url.Values{"do": {"remove:1"}, "version": {"1"}})
	assert.Equal(t, 409, code)

	gone := arranged.Items[4].Version
	edit("ban:4")
	_, page = p.do("POST", "/plans/1/rebuild", url.Values{"minutes": {"40"}, "template": {""}})
	assert.Contains(t, page, "Taken out")
	longer, _ := p.stored(1)
	assert.Equal(t, 40, longer.Minutes)
	assert.NotContains(t, slugs(longer), gone, "what was taken out stays out")
	for _, it := range locked.Items[2:4] {
		assert.Contains(t, slugs(longer), it.Version, "what was locked stays in")
	}
	code, page = p.do("POST", "/plans/1/rebuild", url.Values{"minutes": {"90"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "allowed: a whole number from 2 to 60")
}

// The place and the slot that were asked for hold when the best session replaces the quick one.
func TestTheBestKeepsWhatWasAskedFor(t *testing.T) {
	p := start(t, true).signIn()
	code, page := p.do("POST", "/practice/minutes", url.Values{"minutes_mean": {"slot"}})
	require.Equal(t, 200, code)
	assert.Contains(t, page, "are the whole slot")
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}, "place": {"upright"}})
	_, page = p.do("POST", "/plans/1/best", url.Values{})
	best, _ := p.stored(1)
	assert.Equal(t, "upright", best.Place)
	assert.Equal(t, "upright", best.Where)
	assert.Equal(t, 23, best.Minutes)
	assert.Equal(t, 30*60, best.SlotS)
	assert.Contains(t, page, "of 23:00 of work")
	p.do("POST", "/practice/minutes", url.Values{"minutes_mean": {""}})
	p.do("POST", "/plans/1/rebuild", url.Values{"minutes": {"30"}, "template": {""}, "place": {"upright"}})
	work, _ := p.stored(1)
	assert.Equal(t, 30, work.Minutes)
	assert.Zero(t, work.SlotS)
}

// A dose is typed on the bench, for both sides or for one with a reason; what is out of range is said.
func TestADoseIsTypedOnTheBench(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/edit", url.Values{"do": {"add"}, "add": {"clam"}})
	q, _ := p.stored(1)
	n := slices.Index(slugs(q), "clam")
	require.GreaterOrEqual(t, n, 0)
	typed := func(f url.Values) (int, string) {
		f.Set("do", fmt.Sprintf("dose:%d", n))
		return p.do("POST", "/plans/1/edit", f, "HX-Request", "true")
	}
	code, page := typed(url.Values{"dose_sets": {"2"}, "dose_reps": {"9"}, "dose_hold": {""}})
	require.Equal(t, 200, code)
	assert.Contains(t, page, "→ 2 x 9")
	q, _ = p.stored(1)
	assert.Equal(t, []int{2, 9}, []int{q.Items[n].Dose.Sets, q.Items[n].Dose.Reps})
	code, page = typed(url.Values{"dose_reps": {"12"}, "dose_side": {"left"}, "dose_why": {"the weaker one"}})
	require.Equal(t, 200, code)
	assert.Contains(t, page, "Sides dosed apart: the weaker one")
	q, _ = p.stored(1)
	assert.Equal(t, 12, q.Items[n].DoseLeft.Reps)
	for _, f := range []url.Values{{"dose_reps": {"many"}}, {"dose_reps": {"999"}}, {"dose_reps": {"12"}, "dose_side": {"left"}}} {
		code, page = typed(f)
		assert.Equal(t, 422, code, "%v", f)
		assert.Contains(t, page, "alert")
	}
}

// Other proposals stand one tap away, each with what it is worth beside the best; taking one is an edit
// like any other, and the best one can be taken again.
func TestOtherProposals(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/best", url.Values{})
	best, _ := p.stored(1)
	_, page := p.do("GET", "/plans/1/others", nil)
	assert.Contains(t, page, "More mobility")
	assert.Contains(t, page, "less than the best")
	take := func(character string) plan.Plan {
		code, _ := p.do("POST", "/plans/1/rebuild", url.Values{"minutes": {"30"}, "template": {""}, "character": {character}})
		require.Equal(t, 200, code)
		q, _ := p.stored(1)
		return q
	}
	more := take("more-mobility")
	assert.Equal(t, "more-mobility", more.Character)
	assert.NotEqual(t, slugs(best), slugs(more))
	_, page = p.do("GET", "/plans/1/others", nil)
	assert.Contains(t, page, `value="best"`, "back again is one tap")
	assert.Equal(t, slugs(best), slugs(take("best")))
	_, page = p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, "Other proposals")
	_, page = p.do("POST", "/clients/2/plans", url.Values{"minutes": {"20"}, "template": {"short-holds-trio"}})
	assert.NotContains(t, page, "Other proposals", "the kind sets what it holds")
	code, page := p.do("POST", "/plans/1/rebuild", url.Values{"minutes": {"30"}, "template": {""}, "character": {"louder"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "louder")
}

// The whole bench by keyboard: choose, move, lengthen, lock, swap, undo, rebuild.
func TestTheBenchByKeyboardAlone(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/best", url.Values{})
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.Navigate(p.url+"/plans/1"), until(`document.querySelector("#view").value`))
	said := func(words string) chrome.Action {
		return until(fmt.Sprintf(`document.querySelector("#said").textContent.includes(%q)`, words))
	}
	here := func(n int) chrome.Action {
		return until(fmt.Sprintf(`document.querySelector("#stop-%d[aria-current]") && document.querySelector("#row-%d[aria-current]")`, n, n))
	}
	before, _ := p.stored(1)
	p.run(ctx, chromedp.KeyEvent(kb.ArrowRight), here(1), chromedp.KeyEvent(kb.ArrowRight), here(2))
	p.run(ctx, chromedp.KeyEvent("k"), said("locked"))
	p.run(ctx, chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(kb.ModifierShift)), said("comes later"), here(3))
	moved, _ := p.stored(1)
	assert.Equal(t, before.Items[2].Version, moved.Items[3].Version)
	assert.True(t, moved.Items[3].Locked)
	p.run(ctx, chromedp.KeyEvent("u"), said("Undone"))
	undone, _ := p.stored(1)
	assert.Equal(t, slugs(before), slugs(undone))
	p.run(ctx, chromedp.KeyEvent("y"), said("Done again"))
	p.run(ctx, chromedp.KeyEvent("u"), said("Undone"), chromedp.KeyEvent("b"), said("rebuilt"))
	rebuilt, _ := p.stored(1)
	assert.Contains(t, slugs(rebuilt), before.Items[2].Version, "what is locked stays")
	// Focus is never lost to the top of the page, and is seen.
	var tag, outline string
	p.run(ctx, chromedp.KeyEvent(kb.ArrowRight), here(1), chrome.Value(`document.activeElement.id`, &tag), chrome.Value(`getComputedStyle(document.activeElement.querySelector(".thumb")).strokeWidth`, &outline))
	assert.Equal(t, "stop-1", tag)
	assert.Equal(t, "3px", outline)
	p.run(ctx, chromedp.KeyEvent("w"), chrome.Value(`document.activeElement.closest(".swap-list") !== null ? "swaps" : ""`, &tag))
	assert.Equal(t, "swaps", tag)
	p.run(ctx, chromedp.KeyEvent(kb.Enter), said("in place of"))
	swapped, _ := p.stored(1)
	assert.NotEqual(t, rebuilt.Items[1].Version, swapped.Items[1].Version)
	p.run(ctx, chromedp.KeyEvent("?"), until(`document.querySelector("#keys[open]")`), chrome.Into(chromedp.Text("#keys"), &tag))
	assert.Contains(t, tag, "Rebuild")
}

// Dragging a picture along the line moves the exercise.
func TestDraggingOnTheLine(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/best", url.Values{})
	ctx := p.browser()
	p.signInBrowser(ctx)
	before, _ := p.stored(1)
	var at []float64
	p.run(ctx, chromedp.Navigate(p.url+"/plans/1"), until(`document.querySelector("#view").value`),
		chrome.Value(`["#stop-1 .thumb", "#stop-4 .thumb"].flatMap(s => { const r = document.querySelector(s).getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; })`, &at))
	p.run(ctx, chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, at[0], at[1], chromedp.ButtonLeft), chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, (at[0]+at[2])/2, at[1], chromedp.ButtonLeft),
		chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at[2]+12, at[1], chromedp.ButtonLeft), chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, at[2]+12, at[1], chromedp.ButtonLeft),
		until(`document.querySelector("#said").textContent.includes("comes later")`))
	after, _ := p.stored(1)
	assert.Equal(t, before.Items[1].Version, after.Items[4].Version)
}

// An exercise is added from the drawn staircases: what is in says so, what waits says why.
func TestAddingFromTheStaircases(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/best", url.Values{})
	before, _ := p.stored(1)
	_, page := p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, `/clients/2/verdicts?session=1&amp;verdict=suits`)
	_, page = p.do("GET", "/clients/2/verdicts?session=1", nil)
	assert.Contains(t, page, "in the session")
	assert.Contains(t, page, "waits: ")
	m := regexp.MustCompile(`name="do" value="(add::([a-z0-9-]+))"`).FindStringSubmatch(page)
	require.NotNil(t, m)
	for _, slug := range slugs(before) {
		assert.NotContains(t, page, `value="add::`+slug+`"`, "not twice")
	}
	_, page = p.do("POST", "/plans/1/edit", url.Values{"do": {m[1]}})
	after, _ := p.stored(1)
	assert.Contains(t, slugs(after), m[2])
	assert.Len(t, after.Items, len(before.Items)+1)
	assert.Contains(t, page, "Session for")
	code, _ := p.do("GET", "/clients/1/verdicts?session=1", nil)
	assert.Equal(t, 404, code, "a session of somebody else")
	code, _ = p.do("GET", "/clients/2/verdicts?session=x", nil)
	assert.Equal(t, 404, code)
	_, plain := p.do("GET", "/clients/2/verdicts", nil)
	assert.NotContains(t, plain, "add::")
}

// The course: planned and taught by week, repeated or taken one step on, several at once.
func TestTheCourseOverWeeks(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	_, page := p.do("GET", "/clients/1/course", nil)
	assert.Contains(t, page, "Take the last session one step on")
	assert.Contains(t, page, "Balance")
	code, page := p.do("POST", "/clients/1/again", url.Values{"progress": {"yes"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "Session for Oda Brinkwater")
	assert.Contains(t, page, ": up, ", "what changed is said")
	_, again := p.do("GET", "/plans/1", nil)
	assert.NotContains(t, again, ": up, ", "once")
	next, _ := p.stored(1)
	assert.Contains(t, slugs(next), "bridge-low")
	for _, k := range next.Checks {
		assert.True(t, k.OK || k.Rule != "safe" && k.Rule != "right-side" && k.Rule != "no-skipped-rung", "%s: %s", k.Rule, k.Detail)
	}
	day := time.Now().AddDate(0, 0, 3).Format(time.DateOnly)
	_, page = p.do("POST", "/plans/1/day", url.Values{"day": {day}})
	assert.Contains(t, page, day)
	code, page = p.do("POST", "/plans/1/day", url.Values{"day": {"someday"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "someday")

	code, page = p.do("POST", "/several", url.Values{"minutes": {"20"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "choose at least one")
	_, page = p.do("POST", "/several", url.Values{"minutes": {"20"}, "client": {"1", "3"}, "day": {day}})
	assert.Equal(t, 2, strings.Count(page, "/print"), "two sessions, ready to print")
	_, page = p.do("POST", "/plans/1/delete", url.Values{})
	assert.NotContains(t, page, `href="/plans/1"`)
}

// Kinds of session are data: changed, joined by own ones, and taken back.
func TestKindsOfSession(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/kinds", nil)
	for _, name := range []string{"Breath-led flow", "Daily trio of short holds", "Bone-safe, standing first", "Preparation, main, finish", "Fusion block", "Chair only", "Bed only", "Desk round", "Gentle first session"} {
		assert.Contains(t, page, name)
	}
	other := p.second(demo.Second, demo.Password)
	_, theirs := other.do("GET", "/kinds", nil)
	assert.NotContains(t, theirs, "/kinds/chair-only", "only who keeps the practice changes them")
	f := p.form("/kinds/chair-only")
	f.Set("effort_cap", "eleven")
	f.Set("need.0.least", "two")
	f.Set("need.0.of", "wings")
	code, page := p.do("POST", "/kinds/chair-only", f)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "effort_cap: found")
	assert.Contains(t, page, "need.0.least: found")
	assert.Contains(t, page, `value="wings"`, "nothing typed is lost")
	f.Set("effort_cap", "2")
	f.Del("need.0.of")
	f.Del("need.0.least")
	f["positions"], f["surfaces"] = []string{"sitting"}, []string{"chair"}
	_, page = p.do("POST", "/kinds/chair-only", f)
	assert.Contains(t, page, "changed here")
	p.do("POST", "/clients/3/plans", url.Values{"minutes": {"20"}, "template": {"chair-only"}})
	p.do("POST", "/plans/1/best", url.Values{})
	got, _ := p.stored(1)
	assert.Equal(t, "chair-only", got.Template)
	for _, it := range got.Items {
		assert.Equal(t, trade.Sitting, it.Position, it.Version)
		assert.LessOrEqual(t, it.Effort, 2, it.Version)
	}
	p.do("POST", "/kinds/chair-only", url.Values{"op": {"default"}})
	_, page = p.do("GET", "/kinds", nil)
	assert.NotContains(t, page, "changed here")
	// a routine of our own, picked by slug or by name, and what one need is replaced by
	own := url.Values{"name": {"Morning five"}, "reason": {"Every morning."}, "source": {"our own"}, "minutes": {"15"}, "routine": {"yes"}, "natural": {"yes"}, "own_content": {"yes"},
		"prepare": {"knee-hug-both", "Cat and cow", "bird-dog-arm", ""}, "finish": {"", ""}, "need.0.least": {"1"}, "need.0.of": {"bird-dog", ""}, "need.0.else": {"upper-back"}, "for": {"low-back-pain", ""}}
	own["prepare"][1] = p.name("cat-cow")
	code, page = p.do("POST", "/kinds/new", own)
	require.Equal(t, 200, code, page)
	again := p.form("/kinds/morning-five")
	assert.Equal(t, "cat-cow", again["prepare"][1])
	assert.Equal(t, []string{"upper-back"}, slices.DeleteFunc(again["need.0.else"], func(s string) bool { return s == "" }))
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"15"}, "template": {"morning-five"}})
	p.do("POST", "/plans/2/best", url.Values{})
	five, _ := p.stored(2)
	require.Len(t, five.Items, 3)
	assert.Equal(t, "bird-dog-arm", five.Items[2].Version, "in their order")
	_, page = p.do("GET", "/plans/2", nil)
	assert.Contains(t, page, htmlName(p.name("knee-hug-both")), "what does not suit is swapped in its place, and named")
	f.Set("name", "Rainy day")
	_, page = p.do("POST", "/kinds/new", f)
	assert.Contains(t, page, "Rainy day")
	code, page = p.do("POST", "/kinds/new", f)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "already a kind of that name")
}

// The printed session is one page, with its cautions, however long it is.
func TestTheSessionPrintsOnOnePage(t *testing.T) {
	p := start(t, true).signIn()
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.do("POST", "/clients/2/intake/conditions", url.Values{"conditions": {"knee-pain"}, "why": {"knelt on a stone"}, "go": {"client"}})
	for id, client := range []string{"1", "2", "3", "4"} {
		p.do("POST", "/clients/"+client+"/plans", url.Values{"minutes": {"50"}})
		p.do("POST", fmt.Sprintf("/plans/%d/best", id+1), url.Values{})
		eases := 0
		for _, slug := range []string{"bird-dog-arm", "bird-dog-slide", "cow-neutral", "blade-press"} {
			if client == "2" { // a line more each
				_, version := p.stored(int64(id + 1))
				code, _ := p.do("POST", fmt.Sprintf("/plans/%d/edit", id+1), url.Values{"do": {"add::" + slug}, "version": {fmt.Sprint(version)}})
				if code == 200 {
					eases++
				}
			}
		}
		var pdf []byte
		var text string
		p.run(ctx, chromedp.Navigate(fmt.Sprintf("%s/plans/%d/print", p.url, id+1)), shown(".print-items"), chrome.Into(chromedp.Text("main"), &text), chrome.Into(chromedp.PrintToPDF(chromedp.PDFPreferCSSPageSize()), &pdf))
		assert.Len(t, regexp.MustCompile(`/Type\s*/Page\b`).FindAll(pdf, -1), 1, "client %s", client)
		for _, words := range []string{"Not medical advice", "Stop:", "To fetch"} {
			assert.Contains(t, text, words)
		}
		assert.GreaterOrEqual(t, strings.Count(text, "Eased: "), eases)
		assert.True(t, client != "2" || eases > 1)
	}
}

// name is what an exercise is called.
func (p *practice) name(slug string) string {
	cat, err := restbend.Catalogue()
	require.NoError(p.t, err)
	v, ok := cat.Version(slug)
	require.True(p.t, ok, slug)
	return v.Name
}

func htmlName(s string) string { return template.HTMLEscapeString(s) }

// A plan of earlier rules says so in one line, is held to what is unsafe alone, and follows the rules of now
// once it is rebuilt; where little may be new at once, so many more are allowed with one tap.
func TestPlansOfEarlierRules(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	p.do("POST", "/plans/1/best", url.Values{})
	old, _ := p.stored(1)
	row, err := p.store.Plan(context.Background(), 1, 1)
	require.NoError(t, err)
	old.Rules = 0
	slices.Reverse(old.Items) // an order no school knows
	row.Document, err = json.Marshal(old)
	require.NoError(t, err)
	require.NoError(t, p.store.UpdatePlan(context.Background(), row, "made by an older release"))
	_, page := p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, "Made under earlier rules: rebuild it, or keep it as it is")
	assert.NotContains(t, page, `<li class="no"><span aria-hidden="true">!</span> <strong>order`, "only what is unsafe is named")
	p.do("POST", "/plans/1/rebuild", url.Values{"minutes": {"30"}, "template": {""}, "allow_new": {"5"}})
	_, page = p.do("GET", "/plans/1", nil)
	assert.NotContains(t, page, "Made under earlier rules")
	again, _ := p.stored(1)
	assert.Equal(t, plan.RulesNow, again.Rules)
	assert.Equal(t, 5, again.AllowNew)
}
