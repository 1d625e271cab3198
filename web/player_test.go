package web_test

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/tools/chrome"
)

// complaints gathers what the browser complains about: errors of scripts, of the console, of what was loaded and of
// the policy of the page.
func (p *practice) complaints(ctx context.Context) func() []string {
	var mu sync.Mutex
	var out []string
	add := func(s string) { mu.Lock(); out = append(out, s); mu.Unlock() }
	require.NoError(p.t, chromedp.Listen(ctx, func(ev any) {
		switch e := ev.(type) {
		case *runtime.EventExceptionThrown:
			add("exception: " + e.ExceptionDetails.Text)
		case *runtime.EventConsoleAPICalled:
			if e.Type == "error" || e.Type == "warning" {
				add(fmt.Sprint("console: ", e.Type))
			}
		case *log.EventEntryAdded:
			if e.Entry.Level == "error" {
				add("log: " + e.Entry.Text + " " + e.Entry.URL)
			}
		}
	}))
	return func() []string { mu.Lock(); defer mu.Unlock(); return slices.Clone(out) }
}

// faster makes a page's time go on by so many milliseconds with every frame, keeps where the player was, and adds up
// what moved by itself.
func faster(ms int, drive string) string {
	return fmt.Sprintf(`if (location.pathname.startsWith("/teach/") && !location.pathname.endsWith("/after")) {
	let t = Date.now(); const raf = window.requestAnimationFrame.bind(window);
	window.seen = []; window.shifts = 0; window.moved = [];
	Date.now = () => t;
	new PerformanceObserver(l => { for (const e of l.getEntries()) if (!e.hadRecentInput) { window.shifts += e.value; for (const s of e.sources) window.moved.push((s.node && (s.node.id || s.node.className || s.node.nodeName)) + " " + Math.round(s.previousRect.y) + ">" + Math.round(s.currentRect.y) + " " + Math.round(s.previousRect.x) + ">" + Math.round(s.currentRect.x) + " at " + (window.restbend ? window.restbend.segment() : "-")); } }).observe({ type: "layout-shift", buffered: true });
	window.requestAnimationFrame = cb => raf(x => { t += %d; cb(x); const r = window.restbend; if (!r || r.segment() < 0) return; window.seen.push([t, r.position()]); const st = r.now(); %s });
}`, ms, drive)
}

// taught is a session as it is stored.
func (p *practice) taught(id string) (sc score.Score, marks []record.Mark) {
	p.t.Helper()
	t0, err := p.store.Teaching(context.Background(), 1, number(p.t, id))
	require.NoError(p.t, err)
	require.NoError(p.t, json.Unmarshal(t0.Score(), &sc))
	for _, m := range t0.Marks {
		var k record.Mark
		require.NoError(p.t, json.Unmarshal(m.Document, &k))
		marks = append(marks, k)
	}
	return sc, marks
}

// A whole session in the real page, sixty times as fast: it is where the score says second by second, nothing moves
// by itself, nobody complains, and drawing takes no time.
func TestTheScoreSecondBySecond(t *testing.T) {
	p := start(t, true).signIn()
	p.json("/preferences", `{"tones": {"start": true, "half": true, "last": true, "end": true}}`)
	id := p.teach("flow")
	ctx := p.browser()
	p.signInBrowser(ctx)
	said := p.complaints(ctx)
	p.run(ctx, chromedp.EmulateViewport(1920, 1080), chrome.First(faster(1000, "")), chromedp.Navigate(p.url+"/teach/"+id), untilWithin(4*time.Minute, `document.getElementById("sheet").textContent.includes("All done")`))
	var seen [][2]float64
	var shifts float64
	var frames []float64
	p.run(ctx, chrome.Value(`window.seen`, &seen), chrome.Value(`window.shifts`, &shifts), chrome.Value(`window.restbend.frames`, &frames))
	sc, marks := p.taught(id)
	require.NotEmpty(t, marks)
	began := float64(marks[0].At.UnixMilli())
	require.Greater(t, len(seen), int(sc.Seconds)-20, "a picture for every second")
	for _, s := range seen {
		require.InDelta(t, math.Min((s[0]-began)/1000, sc.Seconds), s[1], 0.01)
	}
	var moved []string
	p.run(ctx, chrome.Value(`window.moved.slice(0, 20)`, &moved))
	assert.Zero(t, shifts, "nothing moves by itself: %v", moved)
	assert.Empty(t, said(), "not one complaint in a whole session")
	slices.Sort(frames)
	t.Logf("script a frame: median %.2f ms, 95 %% within %.2f ms, 99 %% within %.2f ms, of %d frames", frames[len(frames)/2], frames[len(frames)*95/100], frames[len(frames)*99/100], len(frames))
	assert.Less(t, frames[len(frames)/2], 4.0)

	// A tab that sleeps for ten minutes is right when it wakes, and what nobody saw is marked.
	other := p.planned(3)
	_, page := p.do("POST", other+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}, "flow": {"yes"}})
	id = teachPath.FindStringSubmatch(page)[1]
	p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), until(playing))
	var at [2]float64
	p.run(ctx, chrome.Script(`(() => { const was = Date.now; let more = 0; Date.now = () => was() + more; more = 600000; })()`), chromedp.Sleep(300*time.Millisecond), chrome.Value(`[Date.now(), restbend.position()]`, &at), until(allStored))
	_, marks = p.taught(id)
	require.InDelta(t, (at[0]-float64(marks[0].At.UnixMilli()))/1000, at[1], 2.1, "within the frame that is under way, a second or two here")
	assert.True(t, slices.ContainsFunc(marks, func(m record.Mark) bool { return m.Kind == record.Unseen && len(m.To) > 0 }))
}

// simulated is what the marks of a session say was done, worked out from wall time alone: the clock is run mark by
// mark as it stands in domain/08, and what it passed through is counted.
func simulated(sc *score.Score, marks []record.Mark) (reps map[string]map[string]bool, pos float64) {
	undone := map[string]bool{}
	for _, m := range marks {
		if m.Kind == record.Undo {
			undone[m.Of] = true
		}
	}
	slices.SortStableFunc(marks, func(a, b record.Mark) int { return a.At.Compare(b.At) })
	reps = map[string]map[string]bool{}
	led, stands, count, at := true, false, 0.0, time.Time{}
	last := map[string]int{} // the last segment of every repetition
	for i, g := range sc.Segments {
		if g.Kind == score.Work && !g.Extra {
			last[fmt.Sprint(g.Item, g.Set, g.Rep, g.Side)] = i
		}
	}
	segment := func(pos float64) int {
		for i := range sc.Segments {
			if sc.Segments[i].End > pos {
				return i
			}
		}
		return len(sc.Segments) - 1
	}
	done := func(i int) {
		g := sc.Segments[i]
		side := g.Side
		if sc.Items[g.Item].Side == trade.Alternate {
			side = trade.Alternate
		}
		key := fmt.Sprint(g.Item, " ", side)
		if reps[key] == nil {
			reps[key] = map[string]bool{}
		}
		reps[key][fmt.Sprint(g.Set, " ", g.Rep)] = true
	}
	run := func(dt float64) { // so many seconds
		if stands {
			return
		}
		used := math.Min(dt, count)
		count, dt = count-used, dt-used
		for dt > 1e-9 {
			i := segment(pos)
			g := sc.Segments[i]
			step := math.Min(dt, g.End-pos)
			if step <= 0 {
				return
			}
			pos, dt = pos+step, dt-step
			if pos >= g.End-1e-9 {
				pos = g.End
				if g.Kind == score.Work && !g.Cut && last[fmt.Sprint(g.Item, g.Set, g.Rep, g.Side)] == i {
					done(i)
				}
				if led && g.Wait {
					stands = true
					return
				}
			}
		}
	}
	for _, m := range marks {
		if undone[m.Key] || m.Kind == record.Undo {
			continue
		}
		if m.Kind == record.Start {
			at, led = m.At, m.Mode != score.Flowing
			continue
		}
		run(m.At.Sub(at).Seconds())
		at = m.At
		g := sc.Segments[segment(pos)]
		switch m.Kind {
		case record.Go:
			if !stands && g.Wait && pos < g.End {
				pos = g.End
			}
			stands, count = false, 3
		case record.Resume:
			stands, count = false, 3
		case record.Pause:
			stands = true
		case record.Talk, record.Break:
			if stands = m.On; !m.On {
				count = 3
			}
		case record.Tap:
			for i := segment(pos); i < len(sc.Segments); i++ {
				if o := sc.Segments[i]; o.Item != g.Item || o.Set != g.Set || o.Rep != g.Rep || o.Side != g.Side {
					break
				} else if pos = o.End; last[fmt.Sprint(o.Item, o.Set, o.Rep, o.Side)] == i {
					done(i)
				}
			}
		case record.End:
			return reps, pos
		case record.Unseen, record.Correct:
			continue
		}
		var to float64
		if len(m.To) > 0 && m.Kind != record.Go && json.Unmarshal(m.To, &to) == nil {
			pos, count = to, 0
		}
	}
	return reps, pos
}

// A session of half an hour with twelve things happening in it, sixty times as fast: the log is what an independent
// reckoning from score and marks gives, and a decision rests on nothing else.
func TestASessionWithEvents(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	ctx := p.browser()
	p.signInBrowser(ctx)
	said := p.complaints(ctx)
	// Led: go is pressed wherever it waits; at these shares of the session something happens, twelve in all.
	press := func(what string) string { return fmt.Sprintf(`document.querySelector('[data-do=%s]').click();`, what) }
	sheet := func(label string) string {
		return fmt.Sprintf(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === %q)?.click();`, label)
	}
	events := []struct {
		share float64
		js    string
	}{
		{.06, press("form")}, {.065, `document.querySelector("#sheet button")?.click();`}, {.12, press("felt")}, {.121, sheet("tiring")}, {.18, press("pain")}, {.181, sheet("2")},
		{.24, press("talk")}, {.24, press("talk")}, {.30, press("break")}, {.30, press("break")}, {.36, press("symptom")}, {.36, `[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "None of it: go on" || b.textContent === "Go on")?.click();`},
		{.42, press("easy")}, {.48, press("skip")}, {.56, press("back")}, {.62, press("again")}, {.68, press("tap")}, {.69, press("tap")}, {.74, press("skip")}, {.745, press("undo")}, {.80, press("pause")}, {.80, press("pause")}, {.84, `document.querySelector('[data-because=time]').click();`},
	}
	var shares, acts []string
	for _, e := range events {
		shares = append(shares, fmt.Sprint(e.share))
		acts = append(acts, "() => {"+e.js+"}")
	}
	drive := fmt.Sprintf(`const shares = [%s], acts = [%s]; window.n ??= 0; window.pause_frames ??= 0;
		if (window.pause_frames-- > 0) return; window.pause_frames = 0;
		if (window.n < shares.length && r.position() >= shares[window.n] * %%s) { const share = shares[window.n]; acts[window.n++](); window.pause_frames = share === shares[window.n] ? 6 : 1; return; }
		if (st.waiting) { document.querySelector("[data-do=go]").click(); window.pause_frames = 2; }`, strings.Join(shares, ", "), strings.Join(acts, ", "))
	sc, _ := p.taught(id)
	p.run(ctx, chrome.First(faster(1000, fmt.Sprintf(drive, fmt.Sprint(sc.Seconds)))), chromedp.Navigate(p.url+"/teach/"+id), untilWithin(5*time.Minute, `location.pathname.endsWith("/after") && document.querySelector("input[name=pain_end]")`))
	assert.Empty(t, said())
	sc, marks := p.taught(id)
	kinds := map[string]int{}
	for _, m := range marks {
		kinds[cmp.Or(m.What, m.Kind)]++
	}
	for _, want := range []string{"form", "fault", "felt", "talk", "break", "symptom", "note", "skip", "seek", "tap", "undo", "pause", "end", "go"} {
		assert.Positive(t, kinds[want], "%s among %v", want, kinds)
	}
	p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"2"}, "ended": {"time"}})
	log := p.last(2)
	reps, pos := simulated(&sc, marks)
	lines := record.Lines(&sc, marks)
	require.Len(t, log.Items, len(lines))
	reached := 0
	for i, l := range lines {
		it := &log.Items[i]
		n := 0
		for range reps[fmt.Sprint(l.Item, " ", l.Side)] {
			n++
		}
		total := it.Done.Sets * it.Done.Reps
		if len(it.SetsDone) > 0 {
			total = 0
			for _, s := range it.SetsDone {
				total += s.Reps
			}
		}
		if it.Target.Reps > 1 || it.Target.HoldS+it.Target.HoldBreaths == 0 { // a single hold counts half done
			assert.Equal(t, n, total, "line %d: %s %s", i, it.Version, it.Side)
		}
		if it.Begun() {
			reached++
		}
		if it.EndedBy == progress.ByTarget {
			assert.True(t, *it.Confirmed)
		}
	}
	assert.Positive(t, reached)
	assert.Less(t, reached, len(lines), "what came after the end was not reached")
	assert.InDelta(t, marks[len(marks)-1].Pos, pos, 15, "where it was ended")
	assert.Greater(t, sc.Rev, 1, "the symptom capped the sets still to come")
	assert.Equal(t, "time", log.Ended)
	// The same record in another practice leads to the same decisions.
	_, doc := p.do("GET", "/clients/2/export", nil)
	other := start(t, false)
	other.do("POST", "/first-run", url.Values{"name": {"lowen"}, "code": {other.server.FirstRunCode()}, "password": {"seven pale otters"}})
	require.NoError(t, other.importBundle(doc))
	assert.NotEmpty(t, p.decisions(2))
	assert.Equal(t, p.decisions(2), other.decisions(1))
}

// line is a way to the server that can be slow, lossy, cut, or lose its answers.
type line struct {
	to    http.Handler
	delay time.Duration
	fail  atomic.Int64 // every so many-th request of marks is answered with an error
	lose  atomic.Bool  // requests of marks reach the server, their answers are lost
	cut   atomic.Bool
	n     atomic.Int64
}

func (l *line) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	marks := strings.HasSuffix(r.URL.Path, "/marks") && r.Method == http.MethodPost
	if l.cut.Load() && strings.HasPrefix(r.URL.Path, "/teach/") {
		panic(http.ErrAbortHandler)
	}
	if marks {
		time.Sleep(l.delay)
		if f := l.fail.Load(); f > 0 && l.n.Add(1)%f == 0 {
			w.WriteHeader(http.StatusBadGateway)
			return
		}
		if l.lose.Load() {
			l.to.ServeHTTP(httptest.NewRecorder(), r)
			panic(http.ErrAbortHandler)
		}
	}
	l.to.ServeHTTP(w, r)
}

// Whatever the line does, nothing marked is lost or doubled, and nothing is said to be stored before it is.
func TestNothingMarkedIsLost(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	way := &line{to: p.server, delay: 300 * time.Millisecond}
	way.fail.Store(20)
	srv := httptest.NewServer(way)
	defer srv.Close()
	direct := p.url
	p.url = srv.URL
	p.signIn()
	ctx := p.browser()
	p.signInBrowser(ctx)
	p.run(ctx, chromedp.Navigate(p.url+"/teach/"+id), until(playing))
	sent := 0
	press := func(n int) {
		for range n {
			sent++
			p.run(ctx, chrome.Script(`document.querySelector("[data-do=felt]").click(); [...document.querySelectorAll("#sheet button")].find(b => b.textContent === "tiring").click(); 0`))
		}
	}
	stored := func() (n int) {
		require.NoError(t, p.store.DB.QueryRow(`SELECT count(*) FROM marks WHERE taught_id = ? AND kind = 'felt'`, id).Scan(&n))
		return n
	}
	honest := func() { // what is not on the disk is said to wait
		var text string
		var waits int
		p.run(ctx, chrome.Value(`[document.getElementById("saved").textContent, 0][0]`, &text), chrome.Value(`Object.keys(localStorage).filter(k => k.startsWith("mark ")).length`, &waits))
		if waits == 0 {
			assert.Equal(t, sent, stored())
		}
		if text == "stored" && waits > 0 {
			p.run(ctx, chromedp.Sleep(50*time.Millisecond), chrome.Value(`document.getElementById("saved").textContent`, &text))
		}
	}
	press(12)
	honest()
	way.lose.Store(true) // the answers are lost: sent again, stored once
	press(4)
	p.run(ctx, chromedp.Sleep(2500*time.Millisecond))
	way.lose.Store(false)
	p.run(ctx, until(allStored))
	assert.Equal(t, sent, stored())
	way.cut.Store(true)
	press(6)
	p.run(ctx, until(`document.getElementById("saved").textContent.includes("not stored yet")`), chrome.Script(`const real = Date.now.bind(Date); Date.now = () => real() + 600000; 0`))
	press(1)
	// A second tab of the same browser marks too.
	way.cut.Store(false)
	tab, stop := chromedp.NewContext(ctx)
	defer stop()
	p.run(tab, chromedp.Navigate(p.url+"/teach/"+id), until(playing))
	for range 5 {
		sent += 2
		js := `document.querySelector("[data-do=felt]").click(); [...document.querySelectorAll("#sheet button")].find(b => b.textContent === "tiring").click(); 0`
		p.run(ctx, chrome.Script(js))
		p.run(tab, chrome.Script(js))
	}
	p.run(tab, until(allStored))
	p.run(ctx, until(allStored))
	assert.Equal(t, sent, stored(), "two tabs")
	stop()
	p.run(ctx, chrome.Front())
	// Another device follows, and takes over before it marks.
	phone, done := chrome.Open(context.Background(), 390, 844)
	defer done()
	q := &practice{t, direct, p.http, p.store, p.server}
	q.signInBrowser(phone)
	q.run(phone, chromedp.Navigate(direct+"/teach/"+id), until(playing), until(`document.getElementById("sheet").textContent.includes("Led on another device")`), chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "Take over here").click(); 0`), chromedp.Sleep(200*time.Millisecond))
	sent++
	q.run(phone, chrome.Script(`document.querySelector("[data-do=felt]").click(); [...document.querySelectorAll("#sheet button")].find(b => b.textContent === "tiring").click(); 0`), until(allStored))
	p.run(ctx, untilWithin(10*time.Second, fmt.Sprintf(`restbend.marks().filter(m => m.kind === "felt").length === %d`, sent)))
	// A sign on one device stops the other within five seconds.
	began := time.Now()
	sent++
	q.run(phone, chrome.Script(`document.querySelector("[data-do=felt]").click(); [...document.querySelectorAll("#sheet button")].find(b => b.textContent === "chest").click(); 0`))
	p.run(ctx, until(`document.querySelector("#sheet.urgent:not([hidden])") && restbend.state() === "paused"`))
	assert.Less(t, time.Since(began), 5*time.Second)
	// Taken back where it is seen, it alone goes, though another device marked it; it is marked again.
	p.run(ctx, chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "It was marked by mistake").click(); 0`), until(`document.getElementById("sheet").textContent.includes("Ask again")`),
		chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "Asked again: no sign").click(); 0`), until(allStored))
	var undone string
	require.NoError(t, p.store.DB.QueryRow(`SELECT json_extract(m.document, '$.felt[0]') FROM marks u JOIN marks m ON m.taught_id = u.taught_id AND m.key = json_extract(u.document, '$.of') WHERE u.taught_id = ? AND u.kind = 'undo' ORDER BY u.rowid DESC LIMIT 1`, id).Scan(&undone))
	assert.Equal(t, "chest", undone)
	sent++
	q.run(phone, chrome.Script(`document.querySelector("[data-do=felt]").click(); [...document.querySelectorAll("#sheet button")].find(b => b.textContent === "chest").click(); 0`))
	p.run(ctx, untilWithin(10*time.Second, `document.querySelector("#sheet.urgent:not([hidden])") && restbend.marks().filter(m => m.felt?.includes("chest")).length === 2`))
	// Offline at the end: the page waits for the line before it leaves.
	way.cut.Store(true)
	q.run(phone, chromedp.Navigate("about:blank"))
	p.run(ctx, chrome.Script(`[...document.querySelectorAll("#sheet button")].find(b => b.textContent === "End and refer").click(); 0`), until(`document.getElementById("sheet").textContent.includes("kept on this device")`))
	way.cut.Store(false)
	p.run(ctx, until(`location.pathname.endsWith("/after") && document.querySelector("#closing")`))
	assert.Equal(t, sent, stored())
	var waits int
	p.run(ctx, chrome.Value(`Object.keys(localStorage).filter(k => /^(mark|refused) /.test(k)).length`, &waits))
	assert.Zero(t, waits)
	var ended int
	require.NoError(t, p.store.DB.QueryRow(`SELECT count(*) FROM marks WHERE taught_id = ? AND kind = 'end'`, id).Scan(&ended))
	assert.Equal(t, 1, ended)
}

// Ten real minutes of holds, flowing: every stretch begins within a fifth of a second of its time. Long, so only when
// it is asked for (make soak).
func TestTenMinutesOfHolds(t *testing.T) {
	if os.Getenv("SOAK") == "" {
		t.Skip("takes ten minutes; run: make soak")
	}
	p := start(t, true).signIn()
	id := p.teach("flow")
	ctx, stop := chrome.Open(context.Background(), 1280, 800)
	defer stop()
	p.signInBrowser(ctx)
	p.run(ctx, chrome.First(`window.begun = []; window.addEventListener("load", () => { let was = -1; const look = () => { const r = window.restbend; if (r && r.segment() !== was) { was = r.segment(); window.begun.push([Date.now(), was]); } requestAnimationFrame(look); }; look(); });`),
		chromedp.Navigate(p.url+"/teach/"+id), until(playing), chromedp.Sleep(10*time.Minute))
	var begun [][2]float64
	p.run(ctx, chrome.Value(`window.begun`, &begun))
	sc, marks := p.taught(id)
	began := float64(marks[0].At.UnixMilli())
	holds, worst := 0, 0.0
	for _, b := range begun {
		if b[1] < 1 {
			continue
		}
		g := sc.Segments[int(b[1])]
		late := math.Abs((b[0]-began)/1000 - g.Start)
		worst = math.Max(worst, late)
		if before := sc.Segments[int(b[1])-1]; before.Phase == score.Hold {
			holds++
		}
	}
	t.Logf("%d stretches, %d holds ended, the worst %.3f s off", len(begun), holds, worst)
	assert.Greater(t, holds, 10)
	assert.Less(t, worst, 0.2)
}
