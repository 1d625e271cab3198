package web_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/assess"
	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/store"
	"restbend/web"
	"restbend/web/site"
)

// practice is a running server with demo data and a browser-like client.
type practice struct {
	t      testing.TB
	url    string
	http   *http.Client
	store  *store.Store
	server *web.Server
}

// content is what the program carries, read once.
type content struct {
	cat   *catalogue.Catalogue
	rules *safety.Rules
	tasks []catalogue.Task
	norms *assess.Norms
	kinds []kinds.Template
}

var carried = sync.OnceValues(func() (c content, err error) {
	if c.cat, err = restbend.Catalogue(); err != nil {
		return c, err
	}
	if c.rules, err = restbend.Rules(); err != nil {
		return c, err
	}
	if c.tasks, err = restbend.Tasks(); err != nil {
		return c, err
	}
	if c.norms, err = restbend.Norms(); err != nil {
		return c, err
	}
	c.kinds, err = restbend.Templates(c.cat)
	return c, err
})

// serverOn prepares a server over a store, as a start of the program does.
func serverOn(t testing.TB, st *store.Store, options ...site.Options) *web.Server {
	t.Helper()
	c, err := carried()
	require.NoError(t, err)
	s, err := web.New(st, c.cat, c.rules, c.norms, c.tasks, c.kinds, options...)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// filled is a database with the demo's data, made once.
var filled = sync.OnceValues(func() ([]byte, error) {
	c, err := carried()
	if err != nil {
		return nil, err
	}
	dir, err := os.MkdirTemp("", "restbend-filled-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "restbend.db")
	st, err := store.Open(context.Background(), path)
	if err != nil {
		return nil, err
	}
	if err := demo.Fill(context.Background(), st, c.cat, c.rules, trade.DayOf(time.Now(), time.Local)); err != nil {
		return nil, err
	}
	copied := filepath.Join(dir, "copy.db")
	if err := errors.Join(st.Backup(context.Background(), copied), st.Close()); err != nil {
		return nil, err
	}
	return os.ReadFile(copied)
})

func start(t testing.TB, full bool) *practice {
	t.Helper()
	path := filepath.Join(t.TempDir(), "restbend.db")
	if full {
		data, err := filled()
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(path, data, 0o600))
	}
	st, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	return practiceOn(t, st)
}

// practiceOn is a server on a database, with nobody signed in.
func practiceOn(t testing.TB, st *store.Store, options ...site.Options) *practice {
	t.Helper()
	s := serverOn(t, st, options...)
	srv := httptest.NewServer(s)
	t.Cleanup(srv.Close)
	jar, _ := cookiejar.New(nil)
	return &practice{t, srv.URL, &http.Client{Jar: jar}, st, s}
}

func (p *practice) do(method, path string, form url.Values, header ...string) (int, string) {
	p.t.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r, err := http.NewRequest(method, p.url+path, body)
	require.NoError(p.t, err)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	return p.send(r)
}

func (p *practice) send(r *http.Request) (int, string) {
	resp, err := p.http.Do(r)
	require.NoError(p.t, err)
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	require.NoError(p.t, err)
	assert.NotContains(p.t, string(b), "goroutine ", "a stack trace")
	return resp.StatusCode, string(b)
}

func (p *practice) json(path, body string) (int, string) {
	r, err := http.NewRequest("POST", p.url+path, strings.NewReader(body))
	require.NoError(p.t, err)
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Accept", "application/json")
	return p.send(r)
}

func (p *practice) signIn() *practice {
	p.t.Helper()
	code, page := p.do("POST", "/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	require.Equal(p.t, 200, code)
	require.Contains(p.t, page, "How was it afterwards?")
	return p
}

// record takes a new client through every step of the intake, every position confirmed,
// and returns the number in the client's address.
func (p *practice) record(v url.Values) string {
	p.t.Helper()
	v.Set("asked", "yes")
	for _, pos := range []string{"floor", "supine", "prone", "side_left", "side_right", "kneel", "hands", "floor_sit", "stand_free"} {
		if _, given := v["positions."+pos]; !given {
			v.Set("positions."+pos, "yes")
		}
	}
	if v["surfaces"] == nil {
		v["surfaces"] = []string{"mat", "chair", "wall"}
	}
	code, page := p.do("POST", "/clients/new", v)
	require.Equal(p.t, 200, code)
	m := regexp.MustCompile(`action="/clients/(\d+)/intake/person"`).FindStringSubmatch(page)
	require.NotNil(p.t, m, page)
	for _, step := range []string{"person", "conditions", "clearances", "pain", "positions", "place", "aims", "schools"} {
		code, page = p.do("POST", "/clients/"+m[1]+"/intake/"+step, v)
		require.Equal(p.t, 200, code, "%s: %s", step, page)
	}
	require.NotContains(p.t, page, "The intake is not finished")
	return m[1]
}

func TestSecurityHeaders(t *testing.T) {
	p := start(t, true)
	resp, err := p.http.Get(p.url + "/sign-in")
	require.NoError(t, err)
	resp.Body.Close()
	csp := resp.Header.Get("Content-Security-Policy")
	assert.Contains(t, csp, "default-src 'none'")
	assert.NotContains(t, csp, "unsafe")
	assert.Equal(t, "nosniff", resp.Header.Get("X-Content-Type-Options"))
	assert.Equal(t, "DENY", resp.Header.Get("X-Frame-Options"))
}

func TestNothingIsServedWithoutSigningIn(t *testing.T) {
	p := start(t, true)
	for _, path := range []string{"/clients", "/clients/1", "/clients/1/intake", "/plans/1", "/teach/1", "/figures/bridge.svg", "/clients/1/verdicts"} {
		_, page := p.do("GET", path, nil)
		assert.Contains(t, page, "Password", path)
		assert.NotContains(t, page, "Brinkwater", path)
	}
	code, _ := p.json("/teach/1/marks", `{}`)
	assert.Equal(t, 401, code)
}

func TestRequestsFromOtherSitesAreRefused(t *testing.T) {
	p := start(t, true).signIn()
	code, _ := p.do("POST", "/clients/1/delete", url.Values{"confirm": {"delete"}}, "Sec-Fetch-Site", "cross-site", "Origin", "https://elsewhere.example")
	assert.Equal(t, 403, code)
	code, _ = p.do("GET", "/clients/1", nil)
	assert.Equal(t, 200, code)
}

func TestBadInputNamesTheFieldAndLosesNothing(t *testing.T) {
	p := start(t, true).signIn()
	code, page := p.do("POST", "/clients/new", url.Values{"name": {"Runa <b>"}, "consent.date": {"2026-02-31"}})
	assert.Equal(t, 422, code)
	for _, want := range []string{"confirm that every question was asked", "Runa &lt;b&gt;", `value="2026-02-31"`, "Not saved yet"} {
		assert.Contains(t, page, want)
	}
	code, _ = p.do("POST", "/clients/new", url.Values{"name": {"Runa Tidewell"}, "asked": {"yes"}})
	assert.Equal(t, 200, code)
	for _, c := range []struct {
		step string
		form url.Values
		want []string
	}{
		{"person", url.Values{"born": {"nineteen"}, "complaint": {"stiff <hip>"}}, []string{"born", `found &#34;nineteen&#34;, allowed: a number`, "stiff &lt;hip&gt;", `value="nineteen"`}},
		{"person", url.Values{"height_cm": {"1.65"}}, []string{"height cm", "found 1.65, allowed: 120 or more", `value="1.65"`}},
		{"conditions", url.Values{"conditions": {"spinal-fusion"}, "condition.spinal-fusion.date": {"2026-02-31"}}, []string{"spinal fusion, date", "allowed: a real date", `value="2026-02-31"`}},
		{"conditions", url.Values{"conditions": {"spondylolisthesis"}, "condition.spondylolisthesis.grade": {"7"}}, []string{"spondylolisthesis, grade", "found 7, allowed: 5 or less"}},
		{"clearances", url.Values{"clearance.0.date": {"2026-05-01"}}, []string{"clearance, by", "is missing", "clearance, covers"}},
		{"pain", url.Values{"pain.now": {"12"}}, []string{"pain, now", "found 12, allowed: 10 or less", `value="12"`}},
		{"positions", url.Values{"positions.floor": {"maybe"}}, []string{"positions, floor", "allowed: yes, help"}},
		{"place", url.Values{"kit": {"towel"}}, []string{"tick at least one place"}},
		{"aims", url.Values{"aims.balance": {"much"}, "tasks": {"climb the tower"}}, []string{"aims, balance", "found &#34;much&#34;, allowed: less, normal, more", "climb the tower"}},
		{"schools", url.Values{"effort_cap": {"11"}}, []string{"effort cap", "allowed: 10 or less"}},
	} {
		code, page := p.do("POST", "/clients/5/intake/"+c.step, c.form)
		assert.Equal(t, 422, code, c.step)
		for _, want := range append(c.want, "Not saved yet") {
			assert.Contains(t, page, want, c.step)
		}
	}
	_, page = p.do("GET", "/clients/5", nil)
	assert.Contains(t, page, "The intake is not finished")
	code, page = p.do("POST", "/clients/5/plans", url.Values{"minutes": {"30"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Finish the intake first")
	id := p.record(url.Values{"name": {"Ferrin Slate"}, "conditions": {"spinal-fusion"}, "condition.spinal-fusion.date": {"2026-02-28"}})
	_, page = p.do("GET", "/clients/"+id, nil)
	assert.Contains(t, page, "fused spine needs a clearance record first")

	for _, path := range []string{"/clients/99", "/clients/x", "/clients/-1", "/plans/1", "/plans/zz/start", "/teach/77", "/nowhere", "/clients/1/verdicts/none", "/figures/none.svg", "/figures/bridge.svg?side=up"} {
		code, page := p.do("GET", path, nil)
		assert.Equal(t, 404, code, path)
		assert.NotEmpty(t, page)
	}
	for _, minutes := range []string{"", "ten", "1", "61", "99999999999999999999"} {
		code, page := p.do("POST", "/clients/1/plans", url.Values{"minutes": {minutes}})
		assert.Equal(t, 422, code, minutes)
		assert.Contains(t, page, "2 to 60", minutes)
	}
	code, _ = p.do("PUT", "/clients/1", url.Values{})
	assert.Equal(t, 405, code)
}

var teachPath = regexp.MustCompile(`data-session="(\d+)"`)

// teach plans and starts a session for the second client.
// teach begins a session; what is given is asked for besides.
func (p *practice) teach(more ...string) string {
	p.t.Helper()
	code, _ := p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	require.Equal(p.t, 200, code)
	asked := url.Values{"clear": {"yes"}, "pain": {"2"}}
	for _, name := range more {
		asked.Set(name, "yes")
	}
	code, page := p.do("POST", "/plans/1/start", asked)
	require.Equal(p.t, 200, code)
	m := teachPath.FindStringSubmatch(page)
	require.NotNil(p.t, m, page)
	return m[1]
}

func TestTheWarningQuestionComesBeforeTeaching(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	code, page := p.do("POST", "/plans/1/start", url.Values{"pain": {"2"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "warning signs first")
	code, page = p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"8"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Pain of 8 at the start")
	_, page = p.do("POST", "/plans/1/start", url.Values{"red_flags": {"bladder-bowel"}})
	assert.Contains(t, page, "Urgent medical help now")
	code, page = p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "No session can be planned")
	code, _ = p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"2"}})
	assert.Equal(t, 422, code, "an old plan cannot be taught while a red flag is open")
}

// sent is a mark as the player sends it, made now.
func sent(key, kind string, pos float64, more string) string {
	return fmt.Sprintf(`{"key": %q, "device": "d", "at": %q, "rev": 1, "pos": %g, "kind": %q%s}`, key, time.Now().UTC().Format(time.RFC3339Nano), pos, kind, more)
}

// mark sends marks of a running session.
func (p *practice) mark(id string, marks ...string) (int, string) {
	return p.json("/teach/"+id+"/marks", `{"marks": [`+strings.Join(marks, ",")+`]}`)
}

// done says that a set of the first side of an item was done.
func done(key string, item int, side string, reps int) string {
	return sent(key, "set", 0, fmt.Sprintf(`, "item": %d, "side": %q, "set": 1, "done": {"sets": 1, "reps": %d}`, item, side, reps))
}

// While the line was down an exercise was left after pain, and the session went on: the seconds are those that ran.
func TestWhatWasLeftWithoutTheLineIsLeftOnce(t *testing.T) {
	for _, left := range []bool{true, false} {
		t.Run(fmt.Sprint(left), func(t *testing.T) {
			p := start(t, true).signIn()
			id := p.teach()
			read := func() (s score.Score) {
				var d struct{ Score *score.Score }
				d.Score = &s
				_, page := p.do("GET", "/teach/"+id+"/data", nil)
				require.NoError(t, json.Unmarshal([]byte(page), &d))
				return s
			}
			before := read()
			begins, ends := 0.0, 0.0
			for _, g := range before.Segments {
				if g.Item == 1 && g.Kind == score.Work && begins == 0 {
					begins = g.Start
				}
				if g.Item == 1 && g.Kind != score.Finish {
					ends = g.End
				}
			}
			require.Greater(t, ends, begins+10)
			marks := []string{
				sent("s", "start", 0, ""),
				sent("g", "seek", 1, fmt.Sprintf(`, "to": %g`, begins)),
				sent("p", "felt", begins+5, `, "item": 1, "felt": "pain", "pain": 7`),
				sent("r", "resume", begins+6, ""),
			}
			if left {
				marks = append(marks, sent("l", "change", begins+7, fmt.Sprintf(`, "item": 1, "what": "skip", "to": %g`, ends)))
			}
			_, page := p.mark(id, marks...)
			assert.NotContains(t, page, `"refused":[{`)
			after := read()
			if left {
				assert.Equal(t, before.Seconds, after.Seconds, "nothing is left to leave")
				assert.Equal(t, before.Rev, after.Rev)
				return
			}
			assert.Equal(t, before.Rev+1, after.Rev)
			assert.InDelta(t, begins+6, after.ChangedS, 0.5, "what ran since stays")
			assert.False(t, after.Remains(after.ChangedS+0.01, 1))
		})
	}
}

func TestMarksAreCheckedStoredOnceAndFolded(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	code, page := p.json("/teach/"+id+"/marks", `{`)
	assert.Equal(t, 400, code, page)
	for mark, want := range map[string]string{
		sent("a", "dance", 0, ""):                                              `kind: found \"dance\"`,
		sent("a", "felt", 0, `, "item": 99, "felt": "tiring"`):                 "item: found 99",
		sent("", "go", 0, ""):                                                  "key:",
		sent("a", "felt", 0, `, "item": 0, "felt": "pain", "pain": 12`):        "pain: found 12",
		sent("a", "go", 99999, ""):                                             "pos: found",
		sent("a", "set", 0, `, "item": 0, "done": {"reps": 1099511627776}`):    "done.reps: found",
		sent("a", "felt", 0, `, "item": 0, "felt": "funny"`):                   "felt: found",
		sent("a", "correct", 0, `, "item": 0, "field": "done.reps", "to": -5`): "item: not in this session",
	} {
		code, page := p.mark(id, mark)
		assert.Equal(t, 200, code, "the others in the same request are taken")
		assert.Contains(t, page, want)
		assert.Contains(t, page, `"stored":[]`)
	}
	for range 2 {
		_, page := p.mark(id, sent("s", "start", 0, `, "pain": 2`), done("k1", 0, "none", 9))
		assert.Contains(t, page, `"stored":["s","k1"]`)
	}
	p.mark(id, sent("k2", "felt", 0, `, "item": 1, "side": "none", "felt": ["pain"], "pain": 4, "where": "back"`))
	_, page = p.do("GET", "/teach/"+id+"/after", nil)
	assert.Contains(t, page, "pain 4, back")
	code, page = p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"x"}, "notes": {"kept words"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Pain at the end: found")
	assert.Contains(t, page, "kept words")
	code, page = p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"2"}, "peak": {"1"}, "settled": {"24"}, "notes": {"calm"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "What is recorded")
	_, page = p.do("GET", "/clients/2", nil)
	assert.Contains(t, page, "calm")
	assert.Contains(t, page, ">down<")
	assert.Contains(t, page, "/teach/"+id+"/after", "past sessions are links")
	var stored int
	require.NoError(t, p.store.DB.QueryRow(`SELECT count(*) FROM marks WHERE taught_id = ?`, id).Scan(&stored))
	assert.Equal(t, 3+3, stored, "the end, the notes and the follow-up among them")
}

func TestAPlanMadeBeforeTheLimitsChangedIsMarkedStale(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	row, err := p.store.Client(context.Background(), 1, 2)
	require.NoError(t, err)
	var doc map[string]any
	require.NoError(t, json.Unmarshal(row.Document, &doc))
	doc["conditions"] = []map[string]string{{"code": "stenosis"}, {"code": "shoulder-pain"}}
	row.Document, _ = json.Marshal(doc)
	require.NoError(t, p.store.UpdateClient(context.Background(), 1, row))
	_, page := p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, "older than what is known")
	code, _ := p.do("GET", "/plans/1/print", nil)
	assert.Equal(t, 409, code, "nothing stale is printed")
	code, page = p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Mend it first")
	_, page = p.do("POST", "/plans/1/edit", url.Values{"do": {"lock:1"}})
	assert.Contains(t, page, "older than what is known", "a change by hand does not make it new")
	_, page = p.do("POST", "/plans/1/refresh", url.Values{})
	assert.NotContains(t, page, "older than what is known")
	_, page = p.do("POST", "/plans/1/step/undo", url.Values{})
	assert.Contains(t, page, "older than what is known", "what was before the mend is old again")
	_, page = p.do("POST", "/plans/1/step/redo", url.Values{})
	assert.NotContains(t, page, "older than what is known")
	code, page = p.do("GET", "/plans/1/print", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "Not medical advice", "the cautions are on the page")
}

// A plan that waited too long is old although nobody changed anything: after an absence the
// log takes work back.
func TestAPlanIsStaleAfterAnAbsence(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	_, page := p.do("GET", "/plans/1", nil)
	assert.NotContains(t, page, "older than what is known")
	p.server.Today = func() trade.Day { return trade.DayOf(time.Now(), time.Local).AddDays(45) }
	_, page = p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, "older than what is known")
}

// ... and when the practice has changed the kind of session it was made as.
func TestAPlanIsStaleWhenItsKindChanged(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/3/plans", url.Values{"minutes": {"20"}, "template": {"chair-only"}})
	code, page := p.do("POST", "/plans/1/best", url.Values{})
	require.Equal(t, 200, code)
	assert.NotContains(t, page, "older than what is known")
	code, _ = p.do("POST", "/kinds/chair-only", url.Values{"name": {"Chair only"}, "reason": {"for a tired week"}, "minutes": {"20"}, "positions": {"sitting"}, "effort_cap": {"2"}})
	assert.Equal(t, 200, code)
	_, page = p.do("GET", "/plans/1", nil)
	assert.Contains(t, page, "older than what is known")
	assert.NotContains(t, page, "proven best")
	_, page = p.do("POST", "/plans/1/refresh", url.Values{})
	assert.NotContains(t, page, "older than what is known")
}

func TestDeletingAClientAsksFirst(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/1/delete", url.Values{})
	code, _ := p.do("GET", "/clients/1", nil)
	assert.Equal(t, 200, code, "not without the confirmation")
	_, page := p.do("POST", "/clients/1/delete", url.Values{"confirm": {"delete"}})
	assert.Contains(t, page, "lies in the")
	_, page = p.do("GET", "/clients", nil)
	assert.NotContains(t, page, "Brinkwater")
}

func TestTheDemoShowsProgressAHeldAndASteppedBackLevel(t *testing.T) {
	p := start(t, true).signIn()
	all := ""
	for i := 1; i <= 3; i++ {
		_, page := p.do("GET", fmt.Sprintf("/clients/%d", i), nil)
		all += page
	}
	for _, d := range []string{">up<", ">stay<", ">down<", ">cap<"} {
		assert.Contains(t, all, d)
	}
}

func TestVerdictSearchAndFilter(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/clients/1/verdicts?q=angry+cat", nil)
	assert.Contains(t, page, "1 of 224 exercises")
	_, page = p.do("GET", "/clients/1/verdicts?verdict=leave-out", nil, "HX-Request", "true")
	assert.NotContains(t, page, "<html")
	assert.NotContains(t, page, `<li class="v-suits">`, "steps that do not match are only there for the staircase")
	assert.Contains(t, page, `<li class="v-leave-out">`)
	_, page = p.do("GET", "/clients/1/verdicts?condition=wrist-pain", nil)
	assert.Contains(t, page, `<a href="/clients/1/verdicts/plank-hand">`)
	assert.NotContains(t, page, `<a href="/clients/1/verdicts/clock-3-9">`)
	_, page = p.do("GET", "/clients/1/verdicts?q=zzz", nil)
	assert.Contains(t, page, "Nothing matches")
}

// What is no number is refused wherever a number is asked for: NaN would pass every
// comparison with a limit.
func TestWhatIsNoNumberIsRefusedEverywhere(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/clients/2/plans", url.Values{"minutes": {"30"}})
	for _, no := range []string{"NaN", "Inf", "-inf", "1e999"} {
		for path, form := range map[string]url.Values{
			"/plans/1/start":         {"clear": {"yes"}, "pain": {no}},
			"/clients/2/intake/pain": {"pain.now": {no}, "go": {"next"}},
			"/clients/2/tests":       {"height_cm": {no}},
			"/limits/preview":        {"key": {"stenosis/lumbar.extension.loaded"}, "value": {no}, "reason": {"as we were taught"}},
			"/kinds/bone-safe":       {"name": {"Bone-safe"}, "reason": {"for bones"}, "minutes": {"30"}, "aim balance": {no}},
		} {
			code, page := p.do("POST", path, form)
			assert.Equal(t, 422, code, "%s %s", path, no)
			assert.Contains(t, page, no, "%s: what was typed is named", path)
		}
	}
}
