package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"html"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/trade"
	"restbend/demo"
)

// An intake is resumed at the step it was left at; what was saved stays.
func TestIntakeIsResumedWhereItWasLeft(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("POST", "/clients/new", url.Values{"name": {"Sefa Lorne"}, "asked": {"yes"}, "consent.date": {"2026-11-01"}, "go": {"client"}})
	assert.Contains(t, page, "/clients/5/intake/person", "the client page leads back")
	p.do("POST", "/clients/5/intake/person", url.Values{"complaint": {"neck and desk"}, "born": {"1990"}})
	_, page = p.do("GET", "/clients", nil)
	assert.Contains(t, page, "intake waits at: Conditions")
	_, page = p.do("GET", "/clients/5/intake", nil)
	assert.Contains(t, page, "step 3 of 9")
	p.do("POST", "/clients/5/intake/conditions", url.Values{"conditions": {"low-back-pain", "disc-sciatica"}, "condition.low-back-pain.phase": {"persistent"}})
	// The pain step asks for directions only because of these conditions, and leaves the rest.
	_, page = p.do("GET", "/clients/5/intake/pain", nil)
	assert.Contains(t, page, "What provokes the low back pain?")
	p.do("POST", "/clients/5/intake/pain", url.Values{"provoked_by": {"flexion"}, "preference": {"extension"}, "pain.now": {"3"}})
	_, page = p.do("GET", "/clients/5/intake/conditions", nil)
	assert.Regexp(t, `value="persistent" selected`, page)
	_, page = p.do("GET", "/clients/5/history", nil)
	for _, want := range []string{"low-back-pain (phase persistent)", "disc-sciatica (preference extension)", "now 3", demo.Name, "date 2026-11-01"} {
		assert.Contains(t, page, want)
	}
}

func TestAChangeKeepsItsReasonInTheHistory(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/3/intake/positions", url.Values{"positions.floor": {"help"}, "positions.supine": {"yes"}, "floor_transfers_max": {"1"}, "why": {"practised with his daughter"}, "go": {"client"}})
	_, page := p.do("GET", "/clients/3/history", nil)
	assert.Contains(t, page, "practised with his daughter")
	assert.Regexp(t, `floor help`, page)
	assert.Regexp(t, `floor no`, page, "and what it was before")
}

// Today's jammed side holds for one day: tomorrow the check comes first again.
func TestTodaysCheck(t *testing.T) {
	p := start(t, true).signIn()
	verdict := func() string {
		_, page := p.do("GET", "/clients/4/verdicts/side-let-down", nil)
		return page
	}
	assert.Contains(t, verdict(), "s side check comes first")
	p.do("POST", "/clients/4/today", url.Values{"sij_side": {"left"}, "clock_weak": {"4", "5"}})
	page := verdict()
	assert.Regexp(t, `left <span[^>]*>.{1,60}suits</span>, right <span[^>]*>.{1,60}leave out</span>`, page)
	assert.Contains(t, page, "Lie on the right. The left, jammed today, is up and lets go.")
	code, page := p.do("POST", "/clients/4/today", url.Values{"sij_side": {"middle"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "allowed: [left right even]")
	p.server.Today = func() trade.Day { return trade.DayOf(time.Now(), time.Local).AddDays(1) }
	assert.Contains(t, verdict(), "s side check comes first")
}

func TestCurveSidesAreSaidAndPlanned(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/clients/4", nil)
	assert.Contains(t, page, "The right side is the long (convex) one and works; the left side is the short one and opens.")
	_, page = p.do("GET", "/clients/4/verdicts/curve-breathe-arc", nil)
	assert.Regexp(t, `left <span[^>]*>.{1,60}suits</span>, right <span[^>]*>.{1,60}leave out</span>`, page)
	assert.Contains(t, page, "Lie on the right. The left is up, the short side and opens.")
	assert.Contains(t, page, "Shown: left")
	_, page = p.do("GET", "/clients/4/verdicts/curve-side-bend-arc", nil)
	assert.Regexp(t, `left <span[^>]*>.{1,60}leave out</span>, right <span[^>]*>.{1,60}suits</span>`, page)
	assert.Contains(t, page, "Lie on the left. The right is up, the long side and works.")
}

func TestOverrides(t *testing.T) {
	p := start(t, true).signIn()
	post := func(v url.Values) (int, string) { return p.do("POST", "/clients/1/overrides", v) }
	code, page := post(url.Values{"version": {"saw"}, "reason": {"short"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "say in a sentence")
	code, page = post(url.Values{"version": {"saw"}, "reason": {"agreed with her physician on Monday"}, "until": {"2020-01-01"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Until: found &#34;2020-01-01&#34;")
	assert.Contains(t, page, "agreed with her physician on Monday", "nothing typed is lost")
	code, page = post(url.Values{"version": {"bridge-low"}, "reason": {"agreed with her physician on Monday"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Only an exercise that is left out")
	code, page = post(url.Values{"version": {"saw"}, "reason": {"agreed with her physician on Monday"}})
	assert.Equal(t, 200, code)
	until := time.Now().AddDate(0, 0, 42).Format(time.DateOnly)
	assert.Contains(t, page, "Override until "+until)
	assert.Contains(t, page, "leave out", "the verdict stays")
	for _, path := range []string{"/clients/1", "/clients/1/verdicts?q=saw", "/clients/1/history"} {
		_, page = p.do("GET", path, nil)
		assert.Contains(t, page, "agreed with her physician on Monday", path)
	}
	// It is said wherever the exercise appears: planned, before teaching, taught and printed.
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"30"}})
	_, page = p.do("GET", "/plans/1", nil)
	version := regexp.MustCompile(`name="version" value="(\d+)"`).FindStringSubmatch(page)[1]
	_, page = p.do("POST", "/plans/1/edit", url.Values{"do": {"add::saw"}, "version": {version}})
	require.Contains(t, page, "Saw")
	_, start := p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	_, data := p.do("GET", "/teach/"+teachPath.FindStringSubmatch(start)[1]+"/data", nil)
	for path, page := range map[string]string{"/plans/1": "", "/plans/1/start": "", "/plans/1/print": "", "player": data} {
		if page == "" {
			_, page = p.do("GET", path, nil)
		}
		assert.Contains(t, page, "Left out for this client; overridden until "+until+": agreed with her physician on Monday", path)
	}
	post(url.Values{"version": {"saw"}, "op": {"end"}})
	_, page = p.do("GET", "/clients/1/verdicts/saw", nil)
	assert.NotContains(t, page, "Override until")
}

// What fits only with an ease is planned, drawn, taught and printed with it, and its prop is
// fetched.
func TestEasesAreSaidWhereverTheExerciseAppears(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	code, _ := p.do("POST", "/clients/2/intake/conditions", url.Values{"conditions": {"knee-pain"}, "condition.knee-pain.side": {"left"}, "why": {"knelt on a stone"}, "go": {"client"}})
	require.Equal(t, 200, code)
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	_, page := p.do("GET", "/plans/1", nil)
	version := regexp.MustCompile(`name="version" value="(\d+)"`).FindStringSubmatch(page)[1]
	if !strings.Contains(page, "bird-dog-arm") {
		_, page = p.do("POST", "/plans/1/edit", url.Values{"do": {"add::bird-dog-arm"}, "version": {version}})
		require.Contains(t, page, "All-fours arm reach")
	}
	_, start := p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	require.Regexp(t, teachPath, start)
	_, data := p.do("GET", "/teach/"+teachPath.FindStringSubmatch(start)[1]+"/data", nil)
	assert.Contains(t, data, `"eases":["knees-padded"]`)
	for path, page := range map[string]string{"/plans/1": "", "/plans/1/start": "", "/plans/1/print": "", "player": data} {
		if page == "" {
			_, page = p.do("GET", path, nil)
		}
		assert.Contains(t, page, "Something soft lies under the knees and shins.", path)
		if path == "/plans/1" || path == "/plans/1/print" {
			assert.Contains(t, page, "ease=knees-padded", path)
			assert.Regexp(t, "(?s)[Tt]o fetch.*(pillow|cushion)", page)
		}
	}
	// So is what to mind although no limit is crossed.
	code, _ = p.do("POST", "/clients/4/intake/conditions", url.Values{"conditions": {"hip-replacement"}, "condition.hip-replacement.side": {"left"}, "condition.hip-replacement.date": {"2025-01-05"}, "condition.hip-replacement.approach": {"anterior"}, "why": {"told today"}, "go": {"client"}})
	require.Equal(t, 200, code)
	p.do("POST", "/clients/4/plans", url.Values{"minutes": {"30"}})
	_, at := p.stored(2)
	code, _ = p.do("POST", "/plans/2/edit", url.Values{"do": {"add::clam"}, "version": {fmt.Sprint(at)}})
	require.Contains(t, []int{200, 422}, code, "added, or in it already")
	for _, path := range []string{"/plans/2", "/plans/2/start", "/plans/2/print"} {
		_, page = p.do("GET", path, nil)
		assert.Contains(t, page, "Mind: a pillow between the knees.", path)
	}

	// An arm sweep between postures is eased too: with a sore shoulder only to shoulder height.
	code, _ = p.do("POST", "/clients/2/intake/conditions", url.Values{"conditions": {"shoulder-pain"}, "condition.shoulder-pain.side": {"left"}, "why": {"slept on it"}, "go": {"client"}})
	require.Equal(t, 200, code)
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}, "template": {"breath-led"}})
	_, page = p.do("GET", "/plans/3/print", nil)
	assert.Regexp(t, `, one breath <strong class="print-mind">Eased: [^<]*(below the shoulder|shoulder height)`, page)

	_, page = p.do("GET", "/library/bird-dog", nil)
	for _, ease := range []string{"on the fists so the wrist stays straight", "something soft under the knees and shins", "a rolled towel under the heels of the hands"} {
		assert.Equal(t, 1, strings.Count(page, ">"+ease+"</a>"), "each ease is listed once")
	}
	_, page = p.do("GET", "/library/bird-dog?ease=fists&side=left", nil)
	assert.Contains(t, page, "Shown with this ease: on the fists")
	assert.Contains(t, page, "/figures/bird-dog/film?ease=fists&amp;side=left", "and it moves with it")
	_, page = p.do("GET", "/library/levels-waist?surface=bed", nil)
	assert.Contains(t, page, "Shown on a bed: ")
	_, page = p.do("GET", "/library/bird-dog?ease=wings&surface=roof", nil)
	assert.NotContains(t, page, "Shown with this ease", "what is not there changes nothing")

	code, pose := p.do("GET", "/poses/half-kneeling-left.svg?build=rowan", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, pose, "<svg ", "a step of a change of position")
	code, _ = p.do("GET", "/poses/hanging.svg", nil)
	assert.Equal(t, 404, code)
	_, plain := p.do("GET", "/figures/bird-dog-arm.svg", nil)
	code, eased := p.do("GET", "/figures/bird-dog-arm.svg?ease=knees-padded", nil)
	assert.Equal(t, 200, code)
	assert.NotEqual(t, plain, eased)
	code, film := p.do("GET", "/figures/bird-dog-arm/film?ease=knees-padded", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, film, `"name":"reach"`)
	code, _ = p.do("GET", "/figures/bird-dog-arm.svg?ease=wings", nil)
	assert.Equal(t, 404, code)
}

// Each finding is drawn on the figure at the phase that breaks the limit.
func TestFindingsAreFrozenInThePicture(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/clients/1/verdicts/cat-cow", nil)
	m := regexp.MustCompile(`/figures/cat-cow\.svg\?([^"]*mark=[^"]*)"`).FindStringSubmatch(page)
	require.NotNil(t, m)
	_, svg := p.do("GET", "/figures/cat-cow.svg?"+html.UnescapeString(m[1]), nil)
	assert.Contains(t, svg, "whole trunk bends")
	assert.Contains(t, svg, "allowed 15°")
	_, plain := p.do("GET", "/figures/cat-cow.svg?phase=2", nil)
	assert.NotContains(t, plain, "<text")
	assert.Contains(t, page, "Frozen at round")
}

// A limit that a release renamed, or one whose stored value is none any more, does not stop
// the server: it is set aside and shown, and the delivered limit holds.
func TestAnUnknownLimitIsSetAsideAndShown(t *testing.T) {
	p := start(t, true)
	for _, key := range []string{"stenosis/lumbar.arching", "stenosis/lumbar.extension.loaded"} {
		_, err := p.store.DB.Exec(`INSERT INTO limit_changes (key, value, reason, who, at) VALUES (?, 999, 'from an older release', 'lowen', '2026-01-01T10:00:00Z')`, key)
		require.NoError(t, err)
	}
	next := httptest.NewServer(serverOn(t, p.store)) // a start after the update
	t.Cleanup(next.Close)
	p.url = next.URL
	_, page := p.signIn().do("GET", "/limits", nil)
	assert.Contains(t, page, "<strong>stenosis/lumbar.arching</strong>: no such limit")
	assert.Contains(t, page, "<strong>stenosis/lumbar.extension.loaded</strong>: found 999, allowed: 0 to 180")
	assert.Contains(t, page, "All as delivered", "neither is in force")
	_, page = p.do("POST", "/limits/preview", url.Values{"key": {"stenosis/lumbar.extension.unloaded"}, "value": {"6"}, "reason": {"as we were taught"}})
	save, _ := p.previewed(page)
	_, page = p.do("POST", save, url.Values{})
	assert.Contains(t, page, "1 changed in this practice", "the others can still be changed")
}

func TestAChangedLimitScreensEverybodyFirst(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	p.do("POST", "/clients/3/plans", url.Values{"minutes": {"20"}})
	key := "stenosis/lumbar.extension.loaded"
	code, page := p.do("POST", "/limits/preview", url.Values{"key": {key}, "value": {"x"}, "reason": {"as we were taught"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Value: found &#34;x&#34;, allowed: 0 to 180")
	_, both := p.do("POST", "/limits/preview", url.Values{"key": {key}, "value": {"x"}, "source": {"house rule"}})
	assert.Contains(t, both, "Value: found")
	assert.Contains(t, both, "Reason: say why", "every wrong field at once")
	assert.Contains(t, both, `value="house rule"`, "nothing typed is lost")
	code, page = p.do("POST", "/limits/preview", url.Values{"key": {key}, "value": {"400"}, "reason": {"as we were taught"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "allowed: 0 to 180")
	code, _ = p.do("GET", "/limits/edit?key=nothing", nil)
	assert.Equal(t, 404, code)
	_, page = p.do("POST", "/limits/preview", url.Values{"key": {key}, "value": {"12"}, "reason": {"as we were taught"}, "source": {"house rule"}})
	save, page := p.previewed(page)
	assert.Contains(t, page, "4 clients screened, 1 affected")
	assert.Contains(t, page, "Imre Sollow")
	assert.Contains(t, page, "looser: ")
	_, before := p.do("GET", "/clients/3/verdicts/cow-neutral-chair", nil)
	assert.NotContains(t, before, "No limit of this client is crossed", "not in force before it is saved")
	_, page = p.do("POST", save, url.Values{})
	assert.Contains(t, page, "1 changed in this practice")
	assert.Contains(t, page, "house rule")
	assert.Contains(t, page, "default 5°")
	_, after := p.do("GET", "/clients/3/verdicts/cow-neutral-chair", nil)
	assert.Contains(t, after, "No limit of this client is crossed")
	_, page = p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, "older than what is known", "plans made before are stale")
	_, file := p.do("GET", "/limits/export", nil)
	assert.Contains(t, file, "source: house rule")
	_, page = p.do("POST", "/limits/preview", url.Values{"key": {key}, "op": {"default"}, "reason": {"back to the book"}})
	save, _ = p.previewed(page)
	_, page = p.do("POST", save, url.Values{})
	assert.Contains(t, page, "All as delivered")
	_, page = p.do("GET", "/clients/3/history", nil)
	for _, want := range []string{"limit of the practice: Spinal stenosis", "as we were taught (house rule)", "back to the book"} {
		assert.Contains(t, page, want, "a limit of the practice is one of hers")
	}
	_, page = p.do("GET", "/clients/1/history", nil)
	assert.NotContains(t, page, "limit of the practice", "of somebody without that condition it is not")
}

// previewed waits until everybody is screened under a changed limit; it returns where the
// change is saved and the page that says who is affected.
func (p *practice) previewed(page string) (save, done string) {
	p.t.Helper()
	m := regexp.MustCompile(`/limits/preview/\d+`).FindString(page)
	require.NotEmpty(p.t, m, page)
	require.Eventually(p.t, func() bool {
		_, done = p.do("GET", m, nil)
		return strings.Contains(done, "Put it into force")
	}, time.Minute, 50*time.Millisecond)
	return m + "/save", done
}

// second signs another account in with a browser of its own.
func (p *practice) second(name, password string) *practice {
	p.t.Helper()
	jar, _ := cookiejar.New(nil)
	q := &practice{p.t, p.url, &http.Client{Jar: jar}, p.store, p.server}
	code, _ := q.do("POST", "/sign-in", url.Values{"name": {name}, "password": {password}})
	require.Equal(p.t, 200, code)
	return q
}

func TestASecondInstructorSeesOnlyWhatIsShared(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	q := p.second(demo.Second, demo.Password)
	_, page := q.do("GET", "/clients", nil)
	assert.Contains(t, page, "Imre Sollow")
	assert.Contains(t, page, "shared with you")
	assert.NotContains(t, page, "Oda Brinkwater")
	p.do("POST", "/clients/1/plans", url.Values{"minutes": {"20"}})
	for _, path := range []string{"/clients/1", "/clients/1/intake/pain", "/clients/1/verdicts", "/clients/1/tests", "/clients/1/history", "/clients/1/export", "/plans/1", "/plans/1/start"} {
		code, page := q.do("GET", path, nil)
		assert.Equal(t, 404, code, path)
		assert.NotContains(t, page, "Brinkwater", path)
	}
	code, _ := q.do("POST", "/clients/1/share", url.Values{"with": {"2"}})
	assert.Equal(t, 404, code)
	code, _ = q.do("POST", "/clients/3/share", url.Values{"with": {"1"}})
	assert.Equal(t, 422, code, "a shared client is not shared on, not even back")
	code, _ = q.do("POST", "/clients/3/delete", url.Values{"confirm": {"delete"}})
	assert.Equal(t, 404, code, "nor deleted")
	code, page = q.do("POST", "/clients/3/plans", url.Values{"minutes": {"20"}})
	assert.Equal(t, 200, code, "but taught")
	assert.Contains(t, page, "Imre Sollow")
	for _, path := range []string{"/limits/edit?key=stenosis/lumbar.extension.loaded"} {
		code, _ = q.do("GET", path, nil)
		assert.Equal(t, 403, code, path)
	}
	code, _ = q.do("POST", "/practice/accounts", url.Values{"name": {"eve"}, "password": {"long-enough-1"}})
	assert.Equal(t, 403, code)
	p.do("POST", "/clients/1/share", url.Values{"with": {"2"}})
	_, page = q.do("GET", "/clients/1", nil)
	assert.Contains(t, page, "Oda Brinkwater")
	p.do("POST", "/clients/1/share", url.Values{"with": {"2"}, "op": {"end"}})
	code, _ = q.do("GET", "/clients/1", nil)
	assert.Equal(t, 404, code)

	code, page = p.do("POST", "/practice/accounts", url.Values{"name": {demo.Second}, "password": {"long-enough-1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "an account of that name already")
	_, page = p.do("POST", "/practice/accounts", url.Values{"name": {"corra"}, "password": {"long-enough-1"}})
	assert.Contains(t, page, "corra can sign in now")
	_, page = p.second("corra", "long-enough-1").do("GET", "/clients", nil)
	assert.Contains(t, page, "Nobody here yet")
}

func TestTestsSetLimits(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/clients/1/tests", nil)
	assert.Contains(t, page, "Trunk rotation is left out", "not where bending is out")
	assert.Contains(t, page, "CDC STEADI")
	code, page := p.do("POST", "/clients/2/tests", url.Values{"tandem_s": {"eight"}, "height_cm": {"18"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "found &#34;eight&#34;, allowed: a number")
	assert.Contains(t, page, `value="eight"`)
	code, page = p.do("POST", "/clients/2/tests", url.Values{"height_cm": {"18"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "found 18, allowed: 120 or more")
	code, _ = p.do("POST", "/clients/2/tests", url.Values{})
	assert.Equal(t, 422, code, "an empty form is not a day of tests")
	p.do("POST", "/clients/2/tests", url.Values{"tandem_s": {"8"}, "one_leg_right_s": {"12 9 14"}, "one_leg_left_s": {"20"}, "turn_left": {"30"}, "turn_right": {"42"}, "clock.4": {"1"}})
	_, page = p.do("GET", "/clients/2", nil)
	assert.Contains(t, page, "Falls risk")
	assert.Regexp(t, `name="tight_turn" value="left" checked`, page)
	assert.Regexp(t, `name="clock_weak" value="4" checked`, page)
	_, page = p.do("GET", "/clients/2/verdicts/one-leg", nil)
	assert.Contains(t, page, "standing work keeps a hand hold")
	_, page = p.do("GET", "/clients/2/history", nil)
	assert.Contains(t, page, "tests of ")
	// Better balance later does not take the recorded risk away by itself.
	p.do("POST", "/clients/2/tests", url.Values{"tandem_s": {"10"}})
	_, page = p.do("GET", "/clients/2", nil)
	assert.Contains(t, page, "Falls risk")
}

// arrives uploads a file of clients.
func (p *practice) arrives(content string) (int, string) {
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	f, err := w.CreateFormFile("file", "c.json")
	require.NoError(p.t, err)
	_, err = f.Write([]byte(content))
	require.NoError(p.t, err)
	require.NoError(p.t, w.Close())
	r, err := http.NewRequest("POST", p.url+"/clients/import", &body)
	require.NoError(p.t, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	return p.send(r)
}

// A client goes out and comes into another practice whole. Here the same file changes nothing; when both differ, they
// are shown side by side and somebody chooses.
func TestOneClientOutAndIn(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	code, doc := p.do("GET", "/clients/2/export", nil)
	require.Equal(t, 200, code)
	assert.Contains(t, doc, `"format": "restbend.bundle/1"`)
	code, page := p.arrives(doc)
	assert.Equal(t, 200, code)
	assert.Equal(t, 1, strings.Count(page, "Teo Marlack"), "the same once more is nobody new")
	other := start(t, false)
	other.do("POST", "/first-run", url.Values{"name": {"lowen"}, "code": {other.server.FirstRunCode()}, "password": {"seven pale otters"}})
	code, page = other.arrives(doc)
	assert.Equal(t, 200, code)
	assert.Equal(t, 1, strings.Count(page, "Teo Marlack"))
	_, again := other.do("GET", "/clients/1/export", nil)
	assert.Equal(t, strings.Count(doc, `"kind"`), strings.Count(again, `"kind"`), "with every logged entry")
	sessions, err := other.store.TaughtSessions(context.Background(), 1, 99)
	require.NoError(t, err)
	assert.Len(t, sessions, 3)
	_, page = other.do("GET", "/clients/1/history", nil)
	assert.Contains(t, page, "came in with a document", "another practice's word")
	// Here something changes meanwhile.
	p.do("POST", "/clients/2/intake/conditions", url.Values{"why": {"all healed"}})
	differs := func() string {
		code, page := p.arrives(doc)
		require.Equal(t, 200, code)
		require.Contains(t, page, "here and differ")
		assert.Contains(t, page, "conditions")
		return regexp.MustCompile(`/clients/import/[A-Z0-9]+`).FindString(page)
	}
	key := differs()
	stranger := p.another()
	p.do("POST", "/practice/accounts", url.Values{"name": {"lowen"}, "password": {"nine quiet herons"}})
	stranger.try("lowen", "nine quiet herons")
	code, _ = stranger.do("POST", key, url.Values{})
	assert.Equal(t, 404, code, "somebody else's file")
	code, _ = p.do("POST", key, url.Values{"choice.0": {"banana"}})
	assert.Equal(t, 422, code)
	has := func() string {
		row, err := p.store.Client(context.Background(), 1, 2)
		require.NoError(t, err)
		return string(row.Document)
	}
	p.do("POST", key, url.Values{"choice.0": {"ours"}})
	assert.Contains(t, has(), `"conditions":[]`)
	_, page = p.do("POST", differs(), url.Values{"choice.0": {"beside"}})
	assert.Equal(t, 2, strings.Count(page, "Teo Marlack"))
	p.do("POST", differs(), url.Values{"choice.0": {"file"}})
	assert.Contains(t, has(), "disc-sciatica")
	_, page = p.do("GET", "/clients/2/history", nil)
	assert.Contains(t, page, "taken from a file")
	code, page = p.arrives(`{"format": "restbend.client/1", "name": "Quill", "conditions": [{"code": "sciatica"}]}`)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "disc-sciatica")
	code, _ = p.arrives(`{"format": "restbend.client/1", "name": "Quill Aster", "conditions": [{"code": "reflux"}]}`)
	assert.Equal(t, 200, code)
	code, page = p.arrives(`nonsense`)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "is not JSON")
	left, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	for _, f := range left {
		assert.NotContains(t, f.Name(), "multipart-", "an upload stayed in the temporary folder")
	}
}

// Every field of a client that a file says otherwise is shown, not only those that verdicts depend on, and so is what
// stands beside the document; nothing is taken that was not shown.
func TestAnImportShowsEveryDifference(t *testing.T) {
	p := start(t, true).signIn()
	_, doc := p.do("GET", "/clients/2/export", nil)
	var kept map[string]any
	require.NoError(t, json.Unmarshal([]byte(doc), &kept))
	one := func(v any) map[string]any { return v.(map[string]any)["clients"].([]any)[0].(map[string]any) }
	changed := func(change func(c map[string]any)) string {
		var v any
		require.NoError(t, json.Unmarshal([]byte(doc), &v))
		change(one(v))
		text, err := json.Marshal(v)
		require.NoError(t, err)
		return string(text)
	}
	set := func(field string, v any) func(map[string]any) {
		return func(c map[string]any) { c["client"].(map[string]any)[field] = v }
	}
	for name, c := range map[string]struct {
		change func(map[string]any)
		want   []string
	}{
		"name":              {set("name", "Teo Marlock"), []string{"Teo Marlock", "Teo Marlack"}},
		"born":              {set("born", 1944), []string{"born", "1944"}},
		"height":            {set("height_cm", 171), []string{"height cm", "171"}},
		"complaint":         {set("complaint", "cannot sit"), []string{"complaint", "cannot sit"}},
		"mass":              {set("mass_kg", 71), []string{"mass kg", "71"}},
		"sex":               {set("sex", "female"), []string{"sex", "female"}},
		"notes":             {set("notes", "rather quiet"), []string{"notes", "rather quiet"}},
		"history":           {set("history", "a fall"), []string{"history", "a fall"}},
		"next review":       {set("next_review", "2027-01-05"), []string{"next review", "2027-01-05"}},
		"confidence":        {set("confidence", 4), []string{"confidence"}},
		"drawn as":          {func(c map[string]any) { c["build"] = "birch" }, []string{"drawn as"}},
		"sessions per week": {set("sessions_per_week", 3), []string{"sessions per week"}},
		"a plan": {func(c map[string]any) {
			c["plans"] = append([]any{}, map[string]any{"id": 99, "created": "2026-11-01T10:00:00Z", "plan": map[string]any{"format": "restbend.plan/1", "minutes": 7, "items": []any{}}})
		}, []string{"plans", "1 that are not here"}},
		"a test": {func(c map[string]any) {
			c["results"] = []any{map[string]any{"format": "restbend.results/1", "date": "2026-11-02", "results": map[string]any{"hold_front_s": 11}}}
		}, []string{"tests"}},
		"a session less": {func(c map[string]any) { c["taught"] = c["taught"].([]any)[:1] }, nil},
		"a session marked": {func(c map[string]any) {
			marks := c["taught"].([]any)[0].(map[string]any)
			marks["marks"] = marks["marks"].([]any)[1:]
		}, []string{"sessions of both", "stay as they are here"}},
	} {
		code, page := p.arrives(changed(c.change))
		require.Equal(t, 200, code, "%s: %.300s", name, page)
		if c.want == nil {
			assert.NotContains(t, page, "here and differ", name)
			continue
		}
		if assert.Contains(t, page, "here and differ", name) {
			for _, w := range c.want {
				assert.Contains(t, page, w, name)
			}
		}
	}
	rows, err := p.store.TaughtSessions(context.Background(), 2, 99)
	require.NoError(t, err)
	assert.Len(t, rows, 3)
	_, page := p.arrives(changed(func(c map[string]any) {
		set("complaint", "cannot sit")(c)
		c["taught"] = append(c["taught"].([]any), c["taught"].([]any)[0])
	}))
	key := regexp.MustCompile(`/clients/import/[A-Z0-9]+`).FindString(page)
	seen := regexp.MustCompile(`name="seen.0" value="(\d+)"`).FindStringSubmatch(page)
	require.NotNil(t, seen)
	// A colleague saves meanwhile: it is shown, and not undone.
	p.do("POST", "/clients/2/intake/person", url.Values{"name": {"Teo Marlack"}, "complaint": {"sits again"}})
	code, page := p.do("POST", key, url.Values{"choice.0": {"file"}, "seen.0": {seen[1]}})
	assert.Equal(t, 409, code)
	assert.Contains(t, page, "Changed here since you looked")
	assert.Contains(t, page, "sits again")
	row, err := p.store.Client(context.Background(), 1, 2)
	require.NoError(t, err)
	assert.Contains(t, string(row.Document), "sits again")
	seen = regexp.MustCompile(`name="seen.0" value="(\d+)"`).FindStringSubmatch(page)
	var pressed sync.WaitGroup
	for range 4 { // a button pressed more than once
		pressed.Go(func() {
			code, _ := p.do("POST", key, url.Values{"choice.0": {"file"}, "seen.0": {seen[1]}})
			assert.Contains(t, []int{200, 404}, code)
		})
	}
	pressed.Wait()
	row, err = p.store.Client(context.Background(), 1, 2)
	require.NoError(t, err)
	assert.Contains(t, string(row.Document), "cannot sit")
	_, page = p.do("GET", "/clients/2/history", nil)
	assert.Contains(t, page, "cannot sit", "what a file changed stands in the history")
	rows, err = p.store.TaughtSessions(context.Background(), 2, 99)
	require.NoError(t, err)
	assert.Len(t, rows, 3, "a session that is here is not added again")
}

// The client page says through which day a clearance clears, or why it does not; a warning
// sign ticked after an old note still has to be seen.
func TestClearancesSayWhatTheyClear(t *testing.T) {
	p := start(t, true).signIn()
	fused := func(by, date string) string {
		return p.record(url.Values{"name": {"Ebba Quillon"}, "conditions": {"spinal-fusion"}, "condition.spinal-fusion.region": {"lumbar"}, "condition.spinal-fusion.date": {"2026-07-01"},
			"clearance.0.date": {date}, "clearance.0.by": {by}, "clearance.0.covers": {"spinal-fusion"}})
	}
	for _, c := range []struct{ by, date, says string }{
		{"coach", "2026-11-01", "Does not clear spinal fusion:</strong> it takes doctor, gp, specialist, surgeon, physiotherapist"},
		{"surgeon", "2026-06-01", "Does not clear spinal fusion:</strong> it was written before what it should clear"},
		{"Surgeon", "2026-11-01", "Clears spinal fusion through 2027-05-01"},
	} {
		_, page := p.do("GET", "/clients/"+fused(c.by, c.date), nil)
		assert.Contains(t, page, c.says)
		assert.Equal(t, strings.HasPrefix(c.says, "Does"), strings.Contains(page, "See a clinician before exercising"), c.says)
	}
	id := p.record(url.Values{"name": {"Ivo Tarn"}, "red_flags": {"fainting"}, "clearance.0.date": {"2026-01-10"}, "clearance.0.by": {"doctor"}, "clearance.0.covers": {"fainting"}})
	_, page := p.do("GET", "/clients/"+id, nil)
	assert.Contains(t, page, "Urgent medical help now", "raised today, the note is older")
}
