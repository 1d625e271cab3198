package web_test

import (
	"fmt"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/trade"
	"restbend/tools/chrome"
)

// sheetButtons are what the question offers.
const sheetButtons = `[...document.querySelectorAll("#sheet button")].map(b => b.textContent)`

// pressed presses a button of the question by how it begins, once it is there.
func pressed(words string) chrome.Action {
	return until(fmt.Sprintf(`(() => { const b = [...document.querySelectorAll("#sheet:not([hidden]) button")].find(b => b.textContent.startsWith(%q)); if (b) b.click(); return !!b; })()`, words))
}

// A question acts on the exercise it was asked of, and on no other: pain that ends an exercise, a symptom before it
// began, a sign by mistake. What is recorded is what somebody reckons who watched.
func TestQuestionsActOnWhatTheyName(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	ctx := p.browser()
	p.signInBrowser(ctx)
	asks := func(words string) chrome.Action {
		return until(fmt.Sprintf(`document.getElementById("sheet").textContent.includes(%q)`, words))
	}
	working := func(item int) chrome.Action {
		return until(fmt.Sprintf(`restbend.now().segment.kind === "work" && restbend.now().item === %d && restbend.now().state === "running"`, item))
	}
	onward := func(item int) chrome.Action { // to the work of an exercise
		return chrome.Script(fmt.Sprintf(`(async () => { for (let i = 0; i < 20 && !(restbend.now().segment.kind === "work" && restbend.now().item === %d); i++) { document.getElementById("forward").click(); await new Promise(d => setTimeout(d, 120)); } })(); 0`, item))
	}
	var buttons []string
	var item, rev float64
	p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), until(playing), onward(0), working(0))

	// Pain of 6: the server leaves the exercise; the question then offers only what is left.
	p.run(ctx, chromedp.KeyEvent("p"), asks("pain, how much?"), chromedp.KeyEvent("6"), asks("is left"), chrome.Value(sheetButtons, &buttons), until(allStored))
	assert.Equal(t, []string{"Go on", "End here", "Undo"}, buttons)
	p.run(ctx, chrome.Value(`restbend.now().item`, &item), pressed("Go on"), until(`restbend.now().state === "running" && restbend.now().item === 1`))
	assert.InDelta(t, 1, item, 0, "the next exercise stands, and is not left")

	// A symptom in a set-up waits for its answer.
	p.run(ctx, until(`restbend.now().segment.kind === "setup" && !restbend.now().countingIn`), chrome.Value(`restbend.rev()`, &rev),
		chromedp.KeyEvent("s"), asks("before it began"), until(allStored), chromedp.Sleep(300*time.Millisecond))
	var after float64
	p.run(ctx, chrome.Value(`restbend.rev()`, &after))
	assert.InDelta(t, rev, after, 0, "nothing follows until it is answered")

	// A sign by mistake is taken back when the client was asked again, with everything that followed.
	p.run(ctx, pressed("travels"), asks("Stop that exercise"), until(allStored), pressed("It was marked"), asks("Ask again"),
		pressed("Asked again"), asks("with what followed from it"), until(allStored), pressed("Go on"), until(`restbend.now().state === "running" && !restbend.now().countingIn`))

	// A symptom in the first repetition leaves the exercise, and taking it back brings it again.
	p.run(ctx, onward(1), working(1), chromedp.KeyEvent("s"), asks("is left"), until(allStored), chrome.Value(sheetButtons, &buttons))
	assert.NotContains(t, buttons, "Leave this exercise", "it is left already")
	assert.Contains(t, buttons, "Go on")
	p.run(ctx, pressed("Undo"), asks("with what followed from it"), until(allStored), until(`restbend.now().item === 1 && restbend.now().segment.kind === "work"`), pressed("Go on"), until(`!restbend.now().countingIn && restbend.now().state === "running"`))

	// In the rest before a set the next thing is that set.
	p.run(ctx, chrome.Script(`(async () => { for (let i = 0; i < 40 && restbend.now().segment.kind !== "rest"; i++) { document.getElementById("forward").click(); await new Promise(d => setTimeout(d, 150)); } })(); 0`),
		until(`restbend.now().segment.kind === "rest" && /^Next: set 2 of/.test(document.getElementById("next").textContent)`), until(allStored))
	rested := 0.0
	p.run(ctx, chrome.Value(`restbend.now().item`, &rested))

	p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"2"}, "ended": {"time"}})
	sc, marks := p.taught(id)
	log := p.last(2)
	lines := record.Lines(&sc, marks)
	of := func(item int) (out []int) {
		for i, l := range lines {
			if l.Item == item {
				out = append(out, i)
			}
		}
		return out
	}
	for _, i := range of(0) {
		require.NotNil(t, log.Items[i].Pain)
		assert.InDelta(t, 6, *log.Items[i].Pain, 0)
		assert.Empty(t, log.Items[i].Where, "nobody said where")
	}
	for _, i := range of(1) {
		assert.Empty(t, log.Items[i].Signs(), "what was taken back is no symptom")
		assert.Empty(t, log.Items[i].Felt)
	}
	require.Len(t, log.TakenBack, 1)
	assert.Contains(t, log.TakenBack[0], "travelling down a limb. Asked again, no sign")
	assert.False(t, slices.ContainsFunc(marks, func(m record.Mark) bool { return m.Kind == record.Change && m.What == "skip" }), "nothing was left but by the pain")
}

// Who leaves an exercise before the answer is there, because the line is slow or cut, leaves that exercise alone: the
// next one begins at its beginning.
func TestLeavingBeforeTheAnswerIsThere(t *testing.T) {
	for name, line := range map[string]string{
		"slow": `const plain = fetch; window.fetch = async (...a) => { const r = await plain(...a); if (String(a[0]).endsWith("/marks")) await new Promise(d => setTimeout(d, 700)); return r; }; window.mend = () => {}; 0`,
		"cut":  `const plain = fetch; window.fetch = () => Promise.reject(new Error("cut")); window.mend = () => { window.fetch = plain; }; 0`,
	} {
		t.Run(name, func(t *testing.T) {
			p := start(t, true).signIn()
			id := p.teach()
			ctx := p.browser()
			p.signInBrowser(ctx)
			var into, item float64
			p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), until(playing),
				chrome.Script(`(async () => { for (let i = 0; i < 20 && restbend.now().segment.kind !== "work"; i++) { document.getElementById("forward").click(); await new Promise(d => setTimeout(d, 120)); } })(); 0`),
				until(`restbend.now().segment.kind === "work" && restbend.now().item === 0 && restbend.now().state === "running"`), until(allStored),
				chrome.Script(line), chromedp.KeyEvent("p"), until(`document.getElementById("sheet").textContent.includes("pain, how much?")`), chromedp.KeyEvent("6"),
				pressed("Leave this exercise"), until(`document.getElementById("sheet").textContent.includes("eft")`),
				until(`restbend.now().item === 1 || document.getElementById("sheet").textContent.includes("left already")`),
				chrome.Script(`window.mend(); 0`), until(allStored), chromedp.Sleep(1500*time.Millisecond),
				chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "Go on")?.click(); 0`),
				until(`restbend.now().state === "running"`))
			p.run(ctx, chrome.Value(`restbend.now().pos - restbend.score().segments.find(s => s.item === 1).start`, &into), chrome.Value(`restbend.now().item`, &item))
			assert.InDelta(t, 1, item, 0)
			assert.InDelta(t, 0, into, 30, "the next exercise stands, and not its middle")
		})
	}
}

// Longer is longer and shorter is shorter at every item of a plan, at every step, until it is refused with the reason.
func TestLongerAtEveryStep(t *testing.T) {
	p := start(t, true).signIn()
	for client := 1; client <= 2; client++ {
		code, _ := p.do("POST", fmt.Sprintf("/clients/%d/plans", client), url.Values{"minutes": {"30"}})
		require.Equal(t, 200, code)
	}
	steps := 0
	for id := int64(1); id <= 2; id++ {
		q, _ := p.stored(id)
		for i := range q.Items {
			if q.Items[i].Role == trade.Reset {
				continue
			}
			for op, way := range map[string]int{"longer": 1, "shorter": -1} {
				for range 12 {
					before, _ := p.stored(id)
					code, page := p.do("POST", fmt.Sprintf("/plans/%d/edit", id), url.Values{"do": {fmt.Sprintf("%s:%d", op, i)}}, "HX-Request", "true")
					now, _ := p.stored(id)
					a, b := lasts(&before, i), lasts(&now, i)
					if code != 200 {
						assert.Equal(t, 422, code)
						assert.Contains(t, page, "dose", "the reason")
						assert.Equal(t, a, b)
						break
					}
					steps++
					assert.Positive(t, way*(b-a), "%s of %s: %d s, then %d s", op, now.Items[i].Version, a, b)
					assert.Contains(t, page, " "+op+". ", "it says so")
				}
			}
		}
	}
	assert.Greater(t, steps, 25)
}

func lasts(p *plan.Plan, i int) int { return p.Items[i].End - p.Items[i].Start }

// A plan with something that is not allowed is not taught without a word: it says what it is, with what mends it, and a
// reason overrides it, which is kept with the session. What a clinician's words or a sign say nobody overrides.
func TestWhatIsNotAllowedIsMendedOrOverridden(t *testing.T) {
	p := start(t, true).signIn()
	rises := 1
	client := p.keep(func(c *intake.Client) { c.FloorMax = &rises })
	p.do("POST", fmt.Sprintf("/clients/%d/plans", client), url.Values{"minutes": {"30"}})
	q, _ := p.stored(1)
	begin := func(more url.Values) (int, string) {
		asked := url.Values{"clear": {"yes"}, "pain": {"2"}}
		for k, v := range more {
			asked[k] = v
		}
		return p.do("POST", "/plans/1/start", asked)
	}
	for i := range q.Items { // something of the floor between what stands or sits: one rise too many
		it := &q.Items[i]
		if broken(&q, "floor-transfers") || it.Position == trade.Standing || it.Position == trade.Sitting {
			continue
		}
		p.do("POST", "/plans/1/edit", url.Values{"op": {"move"}, "item": {fmt.Sprint(i)}, "to": {fmt.Sprint(len(q.Items) - 2)}})
		q, _ = p.stored(1)
	}
	require.True(t, broken(&q, "floor-transfers"), "%v", q.Checks)
	code, page := begin(nil)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Not allowed as it stands")
	assert.Contains(t, page, "Mend it:")
	code, page = begin(url.Values{"override.floor-transfers": {"she gets up well today"}})
	require.Equal(t, 200, code, page)
	m := teachPath.FindStringSubmatch(page)
	require.NotNil(t, m)
	_, page = p.do("GET", "/teach/"+m[1]+"/after", nil)
	assert.Contains(t, page, "Why: she gets up well today")
}

func broken(p *plan.Plan, rule string) bool {
	return slices.ContainsFunc(p.Checks, func(k plan.Check) bool { return k.Rule == rule && !k.OK && k.Weight == plan.NotAllowed })
}

// A plan that was taught does not accuse anybody; one whose client changed since does.
func TestATaughtPlanAccusesNobody(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	p.mark(id, sent("s", "start", 0, ""), sent("e", "end", 60, `, "because": "time"`))
	p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"2"}, "ended": {"time"}})
	_, page := p.do("GET", "/plans/1", nil)
	assert.NotContains(t, page, "older than what is known")
	assert.Contains(t, page, "was taught as it stands here")
	code, page := p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"2"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "follows what that session decided")
}

// Choosing a kind of session proposes its minutes, and keeps those somebody chose; on the bench what is chosen and not
// applied yet says so.
func TestMinutesThatWereChosenAreKept(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	ctx := p.browser()
	p.signInBrowser(ctx)
	choose := func(id, value string) chrome.Action {
		return chrome.Script(fmt.Sprintf(`(() => { const s = document.getElementById(%q); s.value = %q; s.dispatchEvent(new Event("change", { bubbles: true })); })(); 0`, id, value))
	}
	var proposed, kept, note, applied string
	p.run(ctx, chromedp.Navigate(p.url+"/clients/2"), until(`document.getElementById("template")`), choose("template", "fusion-block"), chrome.Value(`document.getElementById("minutes").value`, &proposed),
		choose("minutes", "35"), choose("template", "comfort"), chrome.Value(`document.getElementById("minutes").value`, &kept))
	assert.Equal(t, "25", proposed)
	assert.Equal(t, "35", kept)
	p.run(ctx, chromedp.Navigate(p.url+"/plans/1"), until(`document.querySelector("#view").value`), choose("re-minutes", "45"), chrome.Value(`document.getElementById("not-applied").textContent`, &note),
		choose("re-template", "fusion-block"), chrome.Value(`document.getElementById("re-minutes").value`, &kept), choose("re-template", ""), choose("re-minutes", "30"), chrome.Value(`document.getElementById("not-applied").hidden + ""`, &applied))
	assert.Equal(t, "Chosen, not applied yet: minutes 45. Rebuild applies it.", note)
	assert.Equal(t, "45", kept)
	assert.Equal(t, "true", applied)
}
