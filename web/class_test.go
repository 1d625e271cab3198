package web_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/plan"
	"restbend/core/score"
	"restbend/tools/chrome"
)

// A small class: everybody is asked first, does what suits them inside the host's seconds, and has a record of their
// own: what is marked of one is theirs, what names nobody is everybody's.
func TestASmallClass(t *testing.T) {
	p := start(t, true).signIn()
	_, err := p.store.DB.Exec(`UPDATE taught SET log = json_remove(log, '$.soreness', '$.follow_up') WHERE client_id = 1`)
	require.NoError(t, err)
	at := p.planned(2)
	_, page := p.do("GET", at+"/start", nil)
	assert.Contains(t, page, "Together with others")
	assert.Contains(t, page, "was not asked yet", "a member is asked about the last session too")
	ready := url.Values{"clear": {"yes"}, "pain": {"1"}, "with": {"1", "4"}, "clear.1": {"yes"}, "pain.1": {"1"}, "clear.4": {"yes"}, "pain.4": {"2"}}
	for field, want := range map[string]string{"clear.1": "Ask Oda Brinkwater", "pain.4": "Wenna Tolgarth, pain now"} {
		v := url.Values{}
		for k, x := range ready {
			if k != field {
				v[k] = x
			}
		}
		code, page := p.do("POST", at+"/start", v)
		assert.Equal(t, 422, code)
		assert.Contains(t, page, want)
	}
	strong := url.Values{}
	for k, x := range ready {
		strong[k] = x
	}
	strong["pain.4"] = []string{"6"}
	_, page = p.do("POST", at+"/start", strong)
	assert.Contains(t, page, "gentle work alone")
	_, page = p.do("POST", at+"/start", ready)
	require.Regexp(t, teachPath, page)
	id := teachPath.FindStringSubmatch(page)[1]
	var d struct {
		Class []struct {
			ID, Name string
			Items    map[string]struct {
				Version string
				Rests   bool
			}
		}
		Score struct{ Seconds float64 }
	}
	_, data := p.do("GET", "/teach/"+id+"/data", nil)
	require.NoError(t, json.Unmarshal([]byte(data), &d))
	require.Len(t, d.Class, 3)
	assert.Equal(t, id, d.Class[0].ID)
	host, _ := p.taught(id)
	differ := 0
	for _, m := range d.Class[1:] {
		sc, _ := p.taught(m.ID)
		assert.Equal(t, host.Seconds, sc.Seconds, "the host's seconds")
		require.Len(t, sc.Items, len(host.Items))
		var made plan.Plan
		var text []byte
		require.NoError(t, p.store.DB.QueryRow(`SELECT plan FROM taught WHERE id = ?`, m.ID).Scan(&text))
		require.NoError(t, json.Unmarshal(text, &made))
		for i := range sc.Items {
			if sc.Items[i].Version != host.Items[i].Version || m.Items[fmt.Sprint(i)].Rests {
				differ++
			}
			assert.Equal(t, host.Items[i].Position, sc.Items[i].Position)
		}
	}
	assert.Positive(t, differ, "not everybody may do everything")
	oda := d.Class[1].ID
	p.mark(id, sent("s", "start", 0, `, "mode": "flowing"`), sent("sy", "symptom", 100, fmt.Sprintf(`, "member": %q, "item": 1, "rep": 2`, oda)), sent("w", "note", 100, `, "text": "warm room"`))
	code, page := p.json("/teach/"+id+"/change", `{"key": "x", "device": "d", "at": "2026-11-20T09:31:04Z", "rev": 1, "pos": 100, "what": "repeat"}`)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "in a class the plan stays")
	p.mark(id, sent("e", "end", host.Seconds, `, "because": "done"`))
	_, page = p.do("GET", "/teach/"+id+"/after", nil)
	assert.Contains(t, page, "Of the same class")
	for i, m := range d.Class {
		code, _ := p.do("POST", "/teach/"+m.ID+"/after", url.Values{"pain_end": {"1"}, "ended": {"done"}, "notes": {"warm room"}})
		require.Equal(t, 200, code)
		s := p.last([]int64{2, 1, 4}[i])
		assert.Equal(t, "done", s.Ended, m.Name)
		assert.Contains(t, s.Notes, "warm room", m.Name)
		signs := 0
		for k := range s.Items {
			if s.Items[k].EndedBy == "symptom" {
				signs++
			}
		}
		assert.Equal(t, i == 1, signs > 0, "%s: a symptom is of who had it", m.Name)
	}
	// While somebody's session is open no class begins with them.
	p.do("POST", p.planned(1)+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	_, page = p.do("POST", p.planned(2)+"/start", ready)
	assert.Contains(t, page, "still open")
}

// What happens to one of a class: who does less rests, no second moves, the others are as they were; taken back it is
// as before; a sign ends the one who has it, whatever the class does after.
func TestOneOfAClass(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("POST", p.planned(2)+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}, "with": {"1", "4"}, "clear.1": {"yes"}, "pain.1": {"1"}, "clear.4": {"yes"}, "pain.4": {"2"}})
	id := teachPath.FindStringSubmatch(page)[1]
	type member struct {
		ID, Name string
		StopFrom int `json:"stop_from"`
		Items    map[string]struct {
			Rests bool
			Cap   *score.Cap
		}
	}
	type playing struct {
		Class    []member
		ClassRev int `json:"class_rev"`
		Score    score.Score
	}
	data := func() (d playing) {
		_, text := p.do("GET", "/teach/"+id+"/data", nil)
		require.NoError(t, json.Unmarshal([]byte(text), &d))
		require.Len(t, d.Class, 3)
		return d
	}
	before := data()
	assert.Equal(t, 3, before.ClassRev)
	oda, wenna := before.Class[1], before.Class[2]
	theirs, _ := p.taught(oda.ID)
	at := slices.IndexFunc(theirs.Segments, func(g score.Segment) bool { return g.Kind == score.Work && g.Rep == 3 })
	require.Positive(t, at, "somebody repeats something")
	g := theirs.Segments[at]
	pos := (g.Start + g.End) / 2
	assert.Positive(t, oda.StopFrom)
	say := func(marks ...string) []string {
		code, text := p.mark(id, marks...)
		require.Equal(t, 200, code, text)
		var answer struct{ Say, Do []string }
		require.NoError(t, json.Unmarshal([]byte(text), &answer))
		return append(answer.Say, answer.Do...)
	}
	say(sent("s", "start", 0, `, "mode": "flowing"`))
	assert.Contains(t, fmt.Sprint(say(sent("w", "warning", pos, fmt.Sprintf(`, "member": %q, "item": %d, "rep": 3, "set": %d, "side": %q`, oda.ID, g.Item, g.Set, g.Side)))), "Oda Brinkwater")
	now := data()
	assert.Equal(t, before.Score, now.Score, "the class plays on as it was")
	assert.Equal(t, 4, now.ClassRev)
	require.True(t, now.Class[1].Items[fmt.Sprint(g.Item)].Cap != nil)
	assert.True(t, now.Class[2].Items[fmt.Sprint(g.Item)].Cap == nil, "nothing happened to the other")
	capped, _ := p.taught(oda.ID)
	assert.Equal(t, theirs.Seconds, capped.Seconds)
	for i := range capped.Segments {
		if i > 0 {
			require.Equal(t, capped.Segments[i-1].End, capped.Segments[i].Start)
		}
		if x := capped.Segments[i]; x.Item == g.Item && x.Start > pos && x.Kind == score.Work {
			assert.LessOrEqual(t, x.Rep, 3)
		}
	}
	assert.Contains(t, fmt.Sprint(say(sent("u", "undo", pos+2, `, "of": "w"`))), "taken back")
	same, _ := p.taught(oda.ID)
	assert.Equal(t, theirs.Segments, same.Segments)
	// They leave the exercise, the class does not.
	say(sent("k", "change", pos+3, fmt.Sprintf(`, "what": "skip", "member": %q, "item": %d`, oda.ID, g.Item)))
	left, _ := p.taught(oda.ID)
	assert.False(t, slices.ContainsFunc(left.Segments, func(x score.Segment) bool { return x.Item == g.Item && x.Kind == score.Work && x.Start > pos+3 }))
	// A sign: the one who has it ends, and stays ended when the class is done.
	assert.NotEmpty(t, say(sent("d", "symptom", pos+4, fmt.Sprintf(`, "member": %q, "item": %d, "numb_or_weak": true`, wenna.ID, g.Item))))
	say(sent("e", "end", pos+5, fmt.Sprintf(`, "member": %q, "because": "warning-sign", "item": %d`, wenna.ID, g.Item)), sent("z", "end", before.Score.Seconds, `, "because": "done"`))
	for i, client := range []int64{2, 1, 4} {
		code, _ := p.do("POST", "/teach/"+now.Class[i].ID+"/after", url.Values{"pain_end": {"1"}, "ended": {[]string{"done", "done", "warning-sign"}[i]}})
		require.Equal(t, 200, code)
		assert.Equal(t, []string{"done", "done", "warning-sign"}[i], p.last(client).Ended, now.Class[i].Name)
	}
	_, page = p.do("GET", "/clients/4", nil)
	assert.Contains(t, page, "seen", "the one who had the sign is seen first")
	_, page = p.do("GET", "/clients/1", nil)
	assert.Contains(t, page, "Plan a session")
}

// The class on a wall: everybody with their own figure, name, dose and side; one tap chooses who the next mark is about.
func TestTheClassOnAWall(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("POST", p.planned(2)+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}, "with": {"1", "4"}, "clear.1": {"yes"}, "pain.1": {"1"}, "clear.4": {"yes"}, "pain.4": {"2"}})
	id := teachPath.FindStringSubmatch(page)[1]
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.EmulateViewport(1920, 1080), chromedp.Navigate(p.url+"/teach/"+id), until(playing), until(`document.querySelectorAll("#class button").length === 3`))
	assert.Empty(t, p.axe(ctx))
	var name string
	p.run(ctx, chrome.Script(`document.querySelectorAll("#class button")[1].click(); 0`), until(`document.querySelectorAll("#class button")[1].getAttribute("aria-pressed") === "true"`), chrome.Value(`document.querySelectorAll("#class button")[1].querySelector("b").textContent`, &name), chrome.Click("[data-do=form]"), until(allStored))
	assert.Equal(t, "Oda Brinkwater", name)
	var theirs, others int
	require.NoError(t, p.store.DB.QueryRow(`SELECT count(*) FROM marks m JOIN taught t ON t.id = m.taught_id WHERE m.kind = 'form' AND t.ended_at IS NULL AND t.client_id = 1`).Scan(&theirs))
	require.NoError(t, p.store.DB.QueryRow(`SELECT count(*) FROM marks m JOIN taught t ON t.id = m.taught_id WHERE m.kind = 'form' AND t.ended_at IS NULL AND t.client_id = 4`).Scan(&others))
	assert.Equal(t, 1, theirs)
	assert.Zero(t, others)
	// Whose symptom it is is asked before anything is marked; the count waits meanwhile, and no clock but theirs moves.
	var whose, sheet string
	p.run(ctx, chrome.Script(`document.querySelectorAll("#class button")[1].click(); 0`), until(`!document.querySelector("#class button[aria-pressed=true]")`), chrome.Click("[data-do=symptom]"), until(`document.getElementById("sheet").textContent.includes("Whose?")`),
		until(`window.restbend.state() === "paused"`), chrome.Value(`document.getElementById("sheet").textContent`, &whose), chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "Wenna Tolgarth").click(); 0`),
		until(`document.getElementById("sheet").textContent.includes("The count waits")`), chrome.Value(`document.getElementById("sheet").textContent`, &sheet))
	assert.Contains(t, whose, "Oda Brinkwater")
	p.run(ctx, chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "numb or weak").click(); 0`), until(`document.getElementById("sheet").textContent.includes("End for Wenna Tolgarth")`), until(allStored))
	p.run(ctx, chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent.startsWith("End for")).click(); 0`), until(`document.getElementById("sheet").textContent.includes("has ended and is seen first")`), until(allStored),
		chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "go on").click(); 0`), until(`window.restbend.state() === "running"`), until(`[...document.querySelectorAll("#class button")].some(b => b.textContent.includes("has ended"))`))
	assert.Empty(t, p.axe(ctx))
}
