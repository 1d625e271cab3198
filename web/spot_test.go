package web_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/tools/chrome"
)

// running is a session of half an hour that has begun, and where the third repetition of its first sets lies.
func (p *practice) running() (id string, sc score.Score, item int, pos float64) {
	p.t.Helper()
	id = p.teach()
	sc, _ = p.taught(id)
	for i := range sc.Segments {
		if g := &sc.Segments[i]; g.Kind == score.Work && g.OfSets > 1 && g.Set == 1 && g.Rep == 3 {
			p.mark(id, sent("s", "start", 0, `, "pain": 2`))
			return id, sc, g.Item, g.Start + 0.5
		}
	}
	require.Fail(p.t, "no sets")
	return id, sc, 0, 0
}

// aligned holds that the plan that is kept is that of the newest score, and nothing in it is unsafe.
func (p *practice) aligned(id string) (sc score.Score) {
	p.t.Helper()
	sc, _ = p.taught(id)
	var made plan.Plan
	var text []byte
	require.NoError(p.t, p.store.DB.QueryRow(`SELECT plan FROM taught WHERE id = ?`, id).Scan(&text))
	require.NoError(p.t, json.Unmarshal(text, &made))
	require.Len(p.t, made.Items, len(sc.Items))
	cat, err := catalogueOnce()
	require.NoError(p.t, err)
	for i := range sc.Items {
		require.Equal(p.t, sc.Items[i].Version, made.Items[i].Version)
		v, ok := cat.Version(sc.Items[i].Version)
		require.True(p.t, ok)
		for _, ease := range sc.Items[i].Eases {
			require.NotNil(p.t, v.Ease(ease), "%s with %s", v.Slug, ease)
		}
		require.Equal(p.t, strings.Join(made.Items[i].Eases, " "), strings.Join(sc.Items[i].Eases, " "))
	}
	return sc
}

// A symptom caps the sets still to come, once, however often it is sent; taken back the rest is as it was. An older
// revision changes nothing, and a sign that ends the session makes no new rest.
func TestASymptomChangesTheRest(t *testing.T) {
	p := start(t, true).signIn()
	id, before, item, pos := p.running()
	symptom := func(key string, rev int, more string) string {
		return strings.Replace(sent(key, "symptom", pos, fmt.Sprintf(`, "item": %d, "side": "left", "set": 1, "rep": 3%s`, item, more)), `"rev": 1`, fmt.Sprintf(`"rev": %d`, rev), 1)
	}
	one := symptom("sy", 1, "")
	for range 2 {
		_, page := p.mark(id, one)
		assert.Contains(t, page, `"rev":2`)
	}
	after := p.aligned(id)
	assert.Equal(t, 2, after.Rev)
	require.NotNil(t, after.Items[item].Cap)
	assert.Equal(t, 2, after.Items[item].Cap.Reps)
	_, page := p.mark(id, symptom("more", 2, `, "of": "sy", "pain": 1, "where": "low-back"`))
	assert.Contains(t, page, `"rev":2`, "what is said of it later caps nothing again")
	_, page = p.mark(id, symptom("old", 1, ""))
	assert.Contains(t, page, `"rev":2`, "made in an older score")
	_, page = p.mark(id, strings.Replace(sent("un", "undo", pos, `, "of": "sy"`), `"rev": 1`, `"rev": 2`, 1))
	assert.Contains(t, page, `"rev":3`)
	back := p.aligned(id)
	assert.Equal(t, before.Segments, back.Segments, "undone, the rest is as it was")
	_, page = p.mark(id, symptom("urgent", 3, `, "numb_or_weak": true`))
	assert.Contains(t, page, `"rev":3`)
	assert.NotContains(t, page, `"do":[]`)
	_, page = p.mark(id, symptom("strong", 3, `, "pain": 7`))
	assert.Contains(t, page, "is left: pain 7")
	last := p.aligned(id)
	for i := range last.Segments {
		g := &last.Segments[i]
		assert.False(t, g.Item == item && g.Kind == score.Work && g.Start > pos, "left")
	}
}

// A symptom is taken back with everything that followed from it and from what was said of it later, sent together or
// one after the other; what was changed otherwise since stays, and that is said.
func TestTakingBackTakesWhatFollowed(t *testing.T) {
	for _, together := range []bool{true, false} {
		p := start(t, true).signIn()
		id, before, item, pos := p.running()
		made := func(key, kind string, rev int, more string) string {
			return strings.Replace(sent(key, kind, pos, more), `"rev": 1`, fmt.Sprintf(`"rev": %d`, rev), 1)
		}
		where := fmt.Sprintf(`, "item": %d, "side": "left", "set": 1, "rep": 3`, item)
		p.mark(id, made("sy", "symptom", 1, where))
		_, page := p.mark(id, made("pain", "symptom", 2, where+`, "of": "sy", "pain": 7`))
		require.Contains(t, page, "is left: pain 7")
		require.Equal(t, 3, p.aligned(id).Rev)
		child, root := made("u1", "undo", 3, `, "of": "pain"`), made("u2", "undo", 3, `, "of": "sy"`)
		if together {
			_, page = p.mark(id, child, root)
		} else {
			p.mark(id, child)
			_, page = p.mark(id, strings.Replace(root, `"rev": 3`, `"rev": 4`, 1))
		}
		assert.Contains(t, page, "taken back")
		after := p.aligned(id)
		assert.Equal(t, before.Segments, after.Segments, "together %v", together)
		assert.Nil(t, after.Items[item].Cap)
		var marks []record.Mark
		after, marks = p.taught(id)
		log := record.Replay(&after, trade.MustDay("2026-12-01"), marks)
		for i := range log.Items {
			assert.Empty(t, log.Items[i].Signs())
			assert.Nil(t, log.Items[i].Pain)
		}
	}
	// An urgent sign stands until the client was asked again.
	p := start(t, true).signIn()
	id, _, item, pos := p.running()
	where := fmt.Sprintf(`, "item": %d, "side": "left", "set": 1, "rep": 3`, item)
	p.mark(id, sent("numb", "symptom", pos, where+`, "numb_or_weak": true`), sent("u1", "undo", pos, `, "of": "numb"`))
	sc, marks := p.taught(id)
	refers := func(marks []record.Mark) (n int) {
		for _, it := range record.Replay(&sc, trade.MustDay("2026-12-01"), marks).Items {
			n += len(it.Felt)
		}
		return n
	}
	assert.Equal(t, 1, refers(marks), "it stands")
	p.mark(id, sent("u2", "undo", pos, `, "of": "numb", "why": "asked-again"`))
	sc, marks = p.taught(id)
	assert.Zero(t, refers(marks))
	assert.Len(t, record.Replay(&sc, trade.MustDay("2026-12-01"), marks).TakenBack, 1, "and leaves a line")
}

// Whatever is offered can be taken, each is a new revision with its plan, and it can be taken back at once.
func TestOffersOnTheSpot(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	id, sc, item, pos := p.running()
	rev := 1
	ask := func(what string, more string) (int, string) {
		code, page := p.json("/teach/"+id+"/change", fmt.Sprintf(`{"key": "%s-%d-%d", "device": "d", "at": %q, "rev": %d, "pos": %g, "what": %q%s}`, what, rev, time.Now().UnixNano(), time.Now().UTC().Format(time.RFC3339Nano), rev, pos, what, more))
		var answer struct{ Rev int }
		if code == 200 {
			require.NoError(t, json.Unmarshal([]byte(page), &answer))
			rev = answer.Rev
		}
		return code, page
	}
	taken := 0
	for _, what := range []string{"hard", "easy", "late", "next", "add"} {
		_, page := p.do("GET", fmt.Sprintf("/teach/%s/offers?what=%s&pos=%g&q=", id, what, pos), nil)
		var list struct{ Offers []spot.Offer }
		require.NoError(t, json.Unmarshal([]byte(page), &list), what)
		for _, o := range list.Offers {
			more := ""
			if o.Item >= 0 {
				more = fmt.Sprintf(`, "item": %d`, o.Item)
			}
			if o.What != "trial" {
				more += fmt.Sprintf(`, "version": %q, "ease": %q, "surface": %q`, o.Version, o.Ease, o.Surface)
			}
			code, page := ask(o.What, more)
			require.Equal(t, 200, code, "%+v: %s", o, page)
			changed := p.aligned(id)
			assert.Equal(t, sc.Segments[:sc.Running(pos)], changed.Segments[:sc.Running(pos)])
			code, page = ask("undo", "")
			require.Equal(t, 200, code, page)
			assert.Equal(t, sc.Segments, p.aligned(id).Segments, "taken back: %+v", o)
			taken++
		}
	}
	assert.Greater(t, taken, 10)
	for what, want := range map[string]string{"swap": "not a version", "next": "was begun already", "add": "in this session already", "dance": "allowed: ease"} {
		code, page := ask(what, fmt.Sprintf(`, "item": %d, "version": %q`, item, map[string]string{"swap": "moon-walk", "add": sc.Items[item].Version}[what]))
		assert.Equal(t, 422, code)
		assert.Contains(t, page, want)
	}
	code, _ := p.do("GET", "/teach/"+id+"/offers?what=luck&pos=3", nil)
	assert.Equal(t, 422, code)
	code, _ = p.do("GET", "/teach/"+id+"/offers?what=hard&pos=x", nil)
	assert.Equal(t, 422, code)
	p.do("POST", "/teach/"+id+"/after", url.Values{})
	code, page := p.do("GET", "/teach/"+id+"/offers?what=hard&pos=3", nil)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "has ended")
}

// What is compared in the session is kept for the day and changes the rest.
func TestChecksInTheSession(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("POST", p.planned(4)+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	id := teachPath.FindStringSubmatch(page)[1]
	rev := 1
	check := func(name, value string) (int, string) {
		code, page := p.json("/teach/"+id+"/change", fmt.Sprintf(`{"key": "%s-%d", "device": "d", "at": "2026-11-20T09:31:04Z", "rev": %d, "pos": 60, "what": "check", "check": %q, "value": %s}`, name, rev, rev, name, value))
		var answer struct{ Rev int }
		if code == 200 {
			require.NoError(t, json.Unmarshal([]byte(page), &answer))
			rev = answer.Rev
		}
		return code, page
	}
	for _, c := range []struct{ name, value string }{{"sij_side", `"left"`}, {"tight_turn", `"right"`}, {"clock_hours", `[5, 4, 5]`}} {
		code, page := check(c.name, c.value)
		require.Equal(t, 200, code, page)
		p.aligned(id)
	}
	row, err := p.store.Client(t.Context(), 1, 4)
	require.NoError(t, err)
	var c struct {
		Today struct {
			SIJ   trade.Side `json:"sij_side"`
			Turn  trade.Side `json:"tight_turn"`
			Hours []int      `json:"clock_weak"`
		}
	}
	require.NoError(t, json.Unmarshal(row.Document, &c))
	assert.Equal(t, trade.Left, c.Today.SIJ)
	assert.Equal(t, trade.Right, c.Today.Turn)
	assert.Equal(t, []int{4, 5}, c.Today.Hours)
	for name, value := range map[string]string{"sij_side": `"up"`, "tight_turn": `7`, "clock_hours": `[13]`, "pulse": `1`} {
		code, _ := check(name, value)
		assert.Equal(t, 422, code, name)
	}
	p.do("POST", "/teach/"+id+"/after", url.Values{"ended": {"done"}})
	log := p.last(4)
	require.NotNil(t, log.Checks)
	assert.Equal(t, trade.Left, log.Checks.SIJSide)
	assert.Equal(t, []int{5, 4}, log.Checks.Clock)
}

// Two clients with two plans beside each other: each has a player of its own, the active one is large, a key changes
// between them, and what is marked goes to it. Nobody else may frame a player.
func TestTwoClientsBesideEachOther(t *testing.T) {
	p := start(t, true).signIn()
	a := p.teach()
	_, page := p.do("POST", p.planned(3)+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	b := teachPath.FindStringSubmatch(page)[1]
	_, page = p.do("GET", "/today", nil)
	assert.Contains(t, page, "side by side")
	for path, want := range map[string]string{"/teach/" + a: "DENY", "/teach/" + a + "?beside=1": "SAMEORIGIN", "/beside?a=" + a + "&b=" + b: "SAMEORIGIN", "/clients": "DENY"} {
		r, err := p.http.Get(p.url + path)
		require.NoError(t, err)
		r.Body.Close()
		assert.Equal(t, want, r.Header.Get("X-Frame-Options"), path)
	}
	for path, want := range map[string]int{"/beside?a=" + a + "&b=" + a: 422, "/beside?a=" + a + "&b=999": 404, "/beside?a=x": 404} {
		code, _ := p.do("GET", path, nil)
		assert.Equal(t, want, code, path)
	}
	if testing.Short() {
		return
	}
	ctx := p.browser()
	p.signInBrowser(ctx)
	inside := func(n int, js string) string {
		return fmt.Sprintf(`document.querySelectorAll("iframe")[%d].contentWindow.%s`, n, js)
	}
	p.run(ctx, chromedp.Navigate(p.url+"/beside?a="+a+"&b="+b), until(inside(0, `restbend?.segment() >= 0`)), until(inside(1, `restbend?.segment() >= 0`)), chrome.Click(".b-take"))
	assert.Empty(t, p.axe(ctx), "two beside each other")
	mark := func(n int) {
		p.run(ctx, chrome.Script(inside(n, `document.dispatchEvent(new KeyboardEvent("keydown", { key: "r", bubbles: true }))`)+`; 0`), until(inside(n, `document.getElementById("sheet").textContent.includes("Warning")`)))
	}
	mark(0)
	var said string
	p.run(ctx, chrome.Value(inside(0, `document.getElementById("sheet").textContent`), &said))
	assert.Contains(t, said, "Teo Marlack: Warning", "it says whose it is")
	p.run(ctx, chrome.Script(inside(0, `document.dispatchEvent(new KeyboardEvent("keydown", { key: "F8", bubbles: true }))`)+`; 0`), until(`document.querySelectorAll(".b-one")[1].classList.contains("b-active")`))
	mark(1)
	p.run(ctx, until(`!Object.keys(localStorage).some(k => k.startsWith("mark "))`))
	for id, name := range map[string]string{a: "Teo Marlack", b: "Imre Sollow"} {
		_, marks := p.taught(id)
		n := 0
		for _, m := range marks {
			if m.Kind == "warning" {
				n++
			}
		}
		assert.Equal(t, 1, n, "%s has a record of their own", name)
	}
}

// Ten events in the real page: each is one touch or key, says what it did, changes the rest, and is taken back.
func TestEventsInThePlayer(t *testing.T) {
	p := start(t, true).signIn()
	id, sc, _, pos := p.running()
	ctx := p.browser()
	p.signInBrowser(ctx)
	said := p.complaints(ctx)
	press := func(label string) string {
		return fmt.Sprintf(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === %q).click(); 0`, label)
	}
	p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), until(playing), chrome.Script(press("Take over here")))
	p.mark(id, sent("to", "seek", 5, fmt.Sprintf(`, "to": %g, "why": "device"`, pos)), sent("hold", "pause", pos, ""))
	p.run(ctx, until(fmt.Sprintf(`restbend.state() === "paused" && Math.abs(restbend.position() - %g) < 2`, pos)))
	rev := 1
	for _, e := range []struct {
		event, does string
		says        string
		undo        string // how it is taken back
	}{
		{"symptom", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "s" })); 0`, "at most", press("Undo")},
		{"warning", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "r" })); 0`, "at most", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "z" })); 0`},
		{"too hard, by its first offer", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "e" })); const w = setInterval(() => { const b = document.querySelector("#sheet .t-offers button"); if (b) { clearInterval(w); b.click(); } }, 50); 0`, "", press("Undo")},
		{"do next, by its first offer", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "i" })); const w2 = setInterval(() => { const b = document.querySelector("#sheet .t-offers button"); if (b) { clearInterval(w2); b.click(); } }, 50); 0`, "comes next", press("Undo")},
		{"do later", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "j" })); 0`, "comes later", press("Undo")},
		{"one more set", `document.querySelector("[data-do=set]").click(); 0`, "one more set", press("Undo")},
		{"a minute more", `document.querySelector("[data-do=minute]").click(); 0`, "more", press("Undo")},
		{"add from a search", `document.querySelector("[data-do=add]").click(); const s = document.getElementById("search"); s.value = "heel"; s.dispatchEvent(new Event("input")); const w3 = setInterval(() => { const b = [...document.querySelectorAll("#found button")].find(b => /heel/i.test(b.textContent)); if (b) { clearInterval(w3); b.click(); } }, 50); 0`, "is put in", press("Undo")},
		{"too easy, tried", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "y" })); const w4 = setInterval(() => { const b = document.querySelector("#sheet .t-offers button"); if (b) { clearInterval(w4); b.click(); } }, 50); 0`, "is tried", press("Undo")},
		{"pain over the limit", `document.dispatchEvent(new KeyboardEvent("keydown", { key: "p" })); document.dispatchEvent(new KeyboardEvent("keydown", { key: "7" })); 0`, "is left", press("Undo")},
	} {
		p.run(ctx, chrome.Script(e.does))
		rev++
		p.run(ctx, until(fmt.Sprintf(`restbend.rev() === %d && document.getElementById("sheet").textContent.includes(%q)`, rev, e.says)))
		changed := p.aligned(id)
		assert.NotEqual(t, sc.Segments, changed.Segments, e.event)
		p.run(ctx, until(`[...document.querySelectorAll("#sheet button")].some(b => b.textContent === "Undo")`), chrome.Script(e.undo))
		rev++
		p.run(ctx, until(fmt.Sprintf(`restbend.rev() === %d`, rev)))
		assert.Equal(t, sc.Segments, p.aligned(id).Segments, "%s, taken back", e.event)
	}
	assert.Empty(t, said())
}

// A search in the session: only what this exercise is set by and this client may have is offered, in small moves; the
// last clean one is where the next session begins, whatever was shaky after it.
func TestASearchOfASetting(t *testing.T) {
	p := start(t, true).signIn()
	var id string
	var data struct {
		Settings [][]spot.Setting
		Score    score.Score
	}
	item, client := -1, int64(0)
	for client = 1; client <= 8 && item < 0; client++ {
		code, page := p.do("POST", fmt.Sprintf("/clients/%d/plans", client), url.Values{"minutes": {"30"}})
		if code != 200 {
			continue
		}
		_, page = p.do("POST", regexp.MustCompile(`/plans/\d+`).FindString(page)+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
		m := teachPath.FindStringSubmatch(page)
		if m == nil {
			continue
		}
		id = m[1]
		_, text := p.do("GET", "/teach/"+id+"/data", nil)
		require.NoError(t, json.Unmarshal([]byte(text), &data))
		require.Len(t, data.Settings, len(data.Score.Items))
		item = slices.IndexFunc(data.Settings, func(s []spot.Setting) bool {
			return slices.ContainsFunc(s, func(x spot.Setting) bool { return x.Key == "surface_cm" })
		})
	}
	require.GreaterOrEqual(t, item, 0, "somebody leans on something")
	client--
	i := slices.IndexFunc(data.Score.Segments, func(g score.Segment) bool { return g.Item == item && g.Kind == score.Work })
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.EmulateViewport(1280, 800), chromedp.Navigate(p.url+"/teach/"+id), until(playing))
	p.mark(id, sent("jump", "seek", 1, fmt.Sprintf(`, "to": %g, "why": "skip"`, data.Score.Segments[i].Start+0.2)))
	press := func(label string) chrome.Action {
		return chrome.Script(fmt.Sprintf(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === %q).click(); 0`, label))
	}
	sheet := func(text string) chrome.Action {
		return until(fmt.Sprintf(`document.getElementById("sheet").textContent.includes(%q)`, text))
	}
	p.run(ctx, until(fmt.Sprintf("window.restbend.now().segment.item === %d", item)), chrome.Click("[data-do=more]"), chrome.Click("#more [data-do=setting]"), sheet("one small move"))
	assert.Empty(t, p.axe(ctx))
	p.run(ctx, press("height 10 cm higher"), press("height 2 cm higher"), press("clean"), sheet("Clean at"), press("height 2 cm lower"), press("shaky"), sheet("Shaky at"), press("enough for today"), sheet("the last clean one"), until(allStored))
	p.mark(id, sent("e", "end", data.Score.Seconds, `, "because": "done"`))
	code, _ := p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"1"}, "ended": {"done"}})
	require.Equal(t, 200, code)
	kept := 0.0
	for _, it := range p.last(client).Items {
		if it.Version == data.Score.Items[item].Version && it.Load != nil {
			kept = it.Load.SurfaceCM
		}
	}
	was := 0.0
	for _, s := range data.Settings[item] {
		was = max(was, s.Start)
	}
	if l := data.Score.Items[item].Load; l != nil {
		was = l.SurfaceCM
	}
	assert.Equal(t, max(was+12, 7), kept, "2 and 10 cm higher was clean, what came after was not")
}

// catalogueOnce is the catalogue as it is delivered.
var catalogueOnce = sync.OnceValues(restbend.Catalogue)
