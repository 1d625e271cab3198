package web_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/archive"
	"restbend/core/trade"
)

// attack tells whether the long form of the attacks runs (make attack).
func attack() bool { return os.Getenv("RESTBEND_ATTACK") != "" }

// Who may what: by route, with the person who must not. A route that is not here fails the test.
//
//	open    answers anybody
//	person  answers whoever is signed in, about what is theirs
//	keeper  only who keeps the practice
//	theirs  about one client, plan, session or version: only who may read it
var permissions = map[string]string{
	"GET /static/*file": "open", "GET /healthz": "open", "GET /readyz": "open", "GET /sign-in": "open", "POST /sign-in": "open", "GET /first-run": "open", "POST /first-run": "open",
	"POST /sign-out": "person", "GET /": "person", "GET /today": "person", "GET /clients": "person", "GET /clients/new": "person", "POST /clients/new": "person", "POST /clients/import": "person",
	"POST /clients/import/:key": "theirs", "GET /several": "person", "POST /several": "person", "GET /kinds": "person", "GET /kinds/:slug": "keeper", "POST /kinds/:slug": "keeper",
	"GET /beside": "person", "POST /preferences": "person", "GET /library": "person", "GET /library/compare": "person", "GET /library/model": "person", "GET /library/:slug": "person",
	"GET /library/:slug/revisions/:n": "person", "POST /library/:slug/copy": "person", "GET /limits": "person", "GET /limits/export": "person", "GET /limits/edit": "keeper",
	"POST /limits/preview": "keeper", "GET /limits/preview/:id": "keeper", "POST /limits/preview/:id/save": "keeper", "GET /practice": "person", "POST /practice/accounts": "keeper",
	"POST /practice/accounts/:id/close": "keeper", "POST /practice/keeper": "keeper", "POST /practice/idle": "keeper", "POST /practice/zone": "keeper", "POST /practice/minutes": "keeper", "POST /practice/events": "keeper",
	"POST /account/password": "person", "POST /account/sign-ins/:id/end": "theirs", "GET /bin": "person", "POST /bin/:kind/:id/:way": "theirs", "GET /own": "person", "POST /own/import": "person",
	"GET /own/:id": "theirs", "POST /own/:id": "theirs", "POST /own/:id/check": "theirs", "POST /own/:id/withdraw": "theirs", "GET /own/:id/export": "theirs",
	"GET /figures/:file": "person", "GET /figures/:file/film": "person", "GET /poses/:file": "person",
	"GET /clients/:id": "theirs", "GET /clients/:id/intake": "theirs", "GET /clients/:id/intake/:step": "theirs", "POST /clients/:id/intake/:step": "theirs", "POST /clients/:id/today": "theirs",
	"POST /clients/:id/overrides": "theirs", "GET /clients/:id/history": "theirs", "GET /clients/:id/tests": "theirs", "POST /clients/:id/tests": "theirs", "GET /clients/:id/export": "theirs",
	"POST /clients/:id/share": "theirs", "GET /clients/:id/delete": "theirs", "POST /clients/:id/delete": "theirs", "GET /clients/:id/verdicts": "theirs", "GET /clients/:id/verdicts/:slug": "theirs",
	"POST /clients/:id/plans": "theirs", "GET /clients/:id/course": "theirs", "POST /clients/:id/again": "theirs",
	"GET /plans/:id": "theirs", "POST /plans/:id/edit": "theirs", "POST /plans/:id/step/:way": "theirs", "POST /plans/:id/best": "theirs", "POST /plans/:id/rebuild": "theirs", "GET /plans/:id/others": "theirs",
	"POST /plans/:id/refresh": "theirs", "POST /plans/:id/day": "theirs", "POST /plans/:id/delete": "theirs", "GET /plans/:id/print": "theirs", "GET /plans/:id/start": "theirs", "POST /plans/:id/start": "theirs",
	"POST /plans/:id/confirm": "theirs", "GET /teach/:id": "theirs", "GET /teach/:id/data": "theirs", "POST /teach/:id/marks": "theirs", "GET /teach/:id/marks": "theirs", "POST /teach/:id/change": "theirs",
	"GET /teach/:id/offers": "theirs", "POST /teach/:id/correct": "theirs", "POST /teach/:id/next": "theirs", "GET /teach/:id/after": "theirs", "POST /teach/:id/after": "theirs", "POST /teach/:id/follow-up": "theirs",
}

// content is a fingerprint of everything an account has: what a stranger's request must not change.
func (p *practice) content() string {
	sum := sha256.New()
	for _, table := range []string{"accounts", "clients", "plans", "plan_steps", "taught", "scores", "marks", "entries", "test_results", "client_history", "client_shares", "own_versions", "limit_changes", "templates", "settings"} {
		rows, err := p.store.DB.Query(`SELECT * FROM ` + table + ` ORDER BY 1, 2`)
		require.NoError(p.t, err)
		cols, err := rows.Columns()
		require.NoError(p.t, err)
		for rows.Next() {
			vals := make([]any, len(cols))
			for i := range vals {
				vals[i] = new(any)
			}
			require.NoError(p.t, rows.Scan(vals...))
			for _, v := range vals {
				fmt.Fprint(sum, *v.(*any), "|")
			}
		}
		require.NoError(p.t, rows.Close())
	}
	return fmt.Sprintf("%x", sum.Sum(nil)[:8])
}

// TestPermissions asks for every route as somebody who must not: signed out, a colleague, a colleague who does not keep
// the practice. Nothing is answered and nothing is changed.
func TestPermissions(t *testing.T) {
	p := start(t, true).signIn()
	p.do("POST", "/practice/accounts", url.Values{"name": {"lowen"}, "password": {"nine quiet herons"}})
	p.do("POST", "/library/bridge/copy", url.Values{})
	taught := p.teach()
	p.do("POST", "/clients/4/delete", url.Values{"confirm": {"delete"}})
	fill := strings.NewReplacer(":file", "bridge.svg", ":step", "person", ":slug", "bridge", ":n", "1", ":way", "undo", ":kind", "client", ":key", "ABCDEFGHJK")
	ids := map[string]string{"clients": "1", "plans": "1", "teach": taught, "own": "1", "limits": "1", "practice": "1", "account": "1", "bin": "4"}
	lowen, nobody := p.another(), p.another()
	code, _ := lowen.try("lowen", "nine quiet herons")
	require.Equal(t, 200, code)
	stay := func(q *practice) *http.Client {
		c := *q.http
		c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		return &c
	}
	ask := func(q *practice, method, path string) (int, string) {
		var body io.Reader
		if method == "POST" {
			body = strings.NewReader("confirm=delete&heir=1&to=2&pain_end=1&ended=done&clear=yes&pain=1&with=2&op=end&minutes=30&q=x")
		}
		r, err := http.NewRequest(method, p.url+path, body)
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		resp, err := stay(q).Do(r)
		require.NoError(t, err)
		defer resp.Body.Close()
		text, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, resp.Header.Get("Location") + string(text)
	}
	seen := map[string]bool{}
	for _, route := range p.server.Routes() {
		name := route.Method + " " + route.Path
		rule, ok := permissions[name]
		require.True(t, ok, "%s has no rule of who may ask for it", name)
		seen[name] = true
		path := fill.Replace(route.Path)
		if strings.Contains(route.Path, "/bin/") {
			path = "/bin/client/4/delete"
		}
		path = strings.Replace(path, ":id", ids[strings.Split(path, "/")[1]], 1)
		if rule == "open" {
			continue
		}
		before := p.content()
		code, answer := ask(nobody, route.Method, path)
		assert.True(t, code == 303 && strings.Contains(answer, "/sign-in") || code == 401, "%s signed out: %d", name, code)
		if rule == "theirs" || rule == "keeper" {
			code, answer = ask(lowen, route.Method, path)
			assert.Contains(t, []int{403, 404}, code, "%s as a colleague: %.200s", name, answer)
			for _, word := range []string{"Brinkwater", "Marlack", "Tolgarth"} {
				assert.NotContains(t, answer, word, name)
			}
		}
		assert.Equal(t, before, p.content(), "%s changed something", name)
	}
	for name := range permissions {
		assert.True(t, seen[name], "there is no route %s", name)
	}
}

// hostile are values that a form does not expect.
var hostile = []string{"", " ", "0", "-1", "1", "7", "1e9", "1e308", "NaN", "-5", "99999999999999999999", "2026-11-20", "2999-01-01", "0001-01-01", "2026-02-30", "left", "yes", "no", "even", "banana", "<script>alert(1)</script>",
	"'; DROP TABLE clients; --", "../../../etc/passwd", "\x00", "\u202e", strings.Repeat("x", 5000), strings.Repeat("9", 400), "bridge", "clam", "own-x", "osteoporosis", "{}", "[]", `{"a":1}`, "%s%s%n", "🦴", "true", "null", "2", "3.7", "mat", "remove:0", "swap:1:clam", "dose:0:9", "up:999", "add", "same", "not", "all", "default", "draft"}

var formField = regexp.MustCompile(`name="([^"]+)"`)

// TestFuzzedRequests sends drawn values to every form and end point, as somebody who may: nothing fails in the program,
// and what it answers holds nothing unescaped.
func TestFuzzedRequests(t *testing.T) {
	n := 700
	if attack() {
		n = 10000
	} else if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	p.do("POST", "/library/bridge/copy", url.Values{})
	taught := p.teach()
	rng := rand.New(rand.NewPCG(11, 17))
	fields := []string{"name", "document"}
	for _, path := range []string{"/clients/new", "/clients/1/intake/person", "/clients/1/intake/conditions", "/clients/1/intake/clearances", "/clients/1/intake/pain", "/clients/1/intake/positions", "/clients/1/intake/aims", "/clients/1", "/clients/1/tests", "/plans/1", "/plans/1/start",
		"/teach/" + taught + "/after", "/own/1", "/kinds/new", "/limits/edit?key=stenosis/lumbar.extension.loaded", "/practice", "/several", "/clients/1/verdicts/saw"} {
		_, page := p.do("GET", path, nil)
		for _, m := range formField.FindAllStringSubmatch(page, -1) {
			if f := html.UnescapeString(m[1]); !slices.Contains(fields, f) {
				fields = append(fields, f)
			}
		}
	}
	require.Greater(t, len(fields), 150)
	value := func() string { return hostile[rng.IntN(len(hostile))] }
	routes := p.server.Routes()
	ids := []string{"1", "2", "3", taught, "99", "0", "-1", "x", "1.5", "99999999999999999999"}
	counts := map[int]int{}
	for range n {
		route := routes[rng.IntN(len(routes))]
		if strings.Contains(route.Path, "password") || strings.Contains(route.Path, "sign-") || strings.HasPrefix(route.Path, "/first-run") || strings.Contains(route.Path, "static") || strings.HasSuffix(route.Path, "/delete") || strings.Contains(route.Path, "/bin") || strings.Contains(route.Path, "/close") || strings.Contains(route.Path, "keeper") {
			continue
		}
		path := regexp.MustCompile(`[:*]\w+`).ReplaceAllStringFunc(route.Path, func(name string) string {
			switch name {
			case ":id":
				return ids[rng.IntN(len(ids))]
			case ":slug":
				return []string{"bridge", "clam", "saw", "none", "sacroiliac", "own-bridge-1", url.PathEscape(value() + "z")}[rng.IntN(7)]
			case ":step":
				return []string{"person", "conditions", "clearances", "pain", "positions", "place", "aims", "schools", "none"}[rng.IntN(9)]
			case ":file":
				return []string{"bridge.svg", "saw.svg", "standing.svg", "none.svg"}[rng.IntN(4)]
			}
			return []string{"undo", "redo", "1", "2", "x"}[rng.IntN(5)]
		})
		form := url.Values{}
		for range rng.IntN(12) {
			f := fields[rng.IntN(len(fields))]
			form.Add(f, value())
		}
		if rng.IntN(3) == 0 {
			path += "?" + form.Encode()
		}
		var body io.Reader
		kind := "application/x-www-form-urlencoded"
		if route.Method == "POST" {
			text := form.Encode()
			switch rng.IntN(5) {
			case 0:
				kind, text = "application/json", []string{"{}", "[]", "{", `{"marks": [{}]}`, `{"marks": [{"key": "k", "kind": "symptom", "pos": 1e300}]}`, `{"what": "repeat", "pos": -1, "rev": 1}`, strings.Repeat("[", 2000)}[rng.IntN(7)]
			case 1:
				text = "%zz=%"
			case 2:
				kind = "multipart/form-data; boundary=x"
			}
			body = strings.NewReader(text)
		}
		r, err := http.NewRequest(route.Method, p.url+path, body)
		if err != nil {
			continue
		}
		if body != nil {
			r.Header.Set("Content-Type", kind)
		}
		if rng.IntN(4) == 0 {
			r.Header.Set("HX-Request", "true")
		}
		at := time.Now()
		code, answer := p.send(r)
		counts[code]++
		if !assert.Less(t, code, 500, "%s %s: %s\n%.300s", route.Method, path, form.Encode(), answer) {
			return
		}
		assert.NotContains(t, answer, "<script>alert(1)", path)
		assert.Less(t, time.Since(at), 20*time.Second, "%s %s", route.Method, path)
	}
	t.Logf("%d requests, by answer: %v", n, counts)
	code, _ := p.do("GET", "/clients", nil)
	assert.Equal(t, 200, code)
	p.comesBack()
}

// comesBack holds everything that was taken in against the reader of what comes in: nothing is kept that could not be
// brought in again.
func (p *practice) comesBack() {
	t := p.t
	ctx := context.Background()
	rules, err := restbend.Rules()
	require.NoError(t, err)
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	today := p.server.Today()
	problems, _, err := archive.Examine(ctx, p.store, cat, rules, today)
	require.NoError(t, err)
	assert.Empty(t, problems, "doctor")
	out, err := archive.Everything(ctx, p.store, rules)
	require.NoError(t, err)
	doc, err := json.Marshal(out)
	require.NoError(t, err)
	_, _, err = archive.Read(bytes.NewReader(doc), cat, rules, today)
	assert.NoError(t, err, "the own export")
}

// A full disk, a database that can only be read, a clock that jumps: pages say what is wrong, nothing is acknowledged
// that is not kept, and it works again afterwards.
func TestWhenTheMachineFails(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	id := p.teach()
	p.store.DB.SetMaxOpenConns(1)
	set := func(pragma string) {
		_, err := p.store.DB.Exec(pragma)
		require.NoError(t, err)
	}
	marks := func() (n int) {
		require.NoError(t, p.store.DB.QueryRow(`SELECT count(*) FROM marks`).Scan(&n))
		return n
	}
	var pages int
	require.NoError(t, p.store.DB.QueryRow(`PRAGMA page_count`).Scan(&pages))
	set(fmt.Sprintf(`PRAGMA max_page_count = %d`, pages))
	acknowledged, before := 0, marks()
	full := false
	for i := range 400 {
		code, answer := p.mark(id, sent(fmt.Sprint("full", i), "note", 0, `, "text": "`+strings.Repeat("x", 3000)+`"`))
		if code == 200 && strings.Contains(answer, fmt.Sprintf(`"full%d"`, i)) {
			acknowledged++
			continue
		}
		full = true
		assert.Equal(t, http.StatusServiceUnavailable, code)
		assert.Contains(t, answer, "disk is full")
		break
	}
	require.True(t, full, "the disk was never full")
	assert.Equal(t, before+acknowledged, marks(), "what was acknowledged is kept, and nothing else")
	code, page := p.do("GET", "/readyz", nil)
	assert.Contains(t, []int{200, 503}, code, page)
	set(`PRAGMA max_page_count = 1073741823`)
	code, _ = p.mark(id, sent("again", "note", 0, `, "text": "there is room"`))
	assert.Equal(t, 200, code, "it works again")
	set(`PRAGMA query_only = 1`)
	code, page = p.mark(id, sent("read", "note", 0, `, "text": "x"`))
	assert.Equal(t, 503, code)
	assert.Contains(t, page, "only be read")
	time.Sleep(600 * time.Millisecond) // what was found last holds for half a second
	code, _ = p.do("GET", "/readyz", nil)
	assert.Equal(t, 503, code)
	set(`PRAGMA query_only = 0`)
	time.Sleep(600 * time.Millisecond)
	code, _ = p.do("GET", "/readyz", nil)
	assert.Equal(t, 200, code)
	was := p.server.Today
	for _, day := range []string{"2031-02-01", "2001-01-01"} {
		p.server.Today = func() trade.Day { return trade.MustDay(day) }
		for _, path := range []string{"/today", "/clients", "/clients/2", "/clients/2/course", "/clients/2/verdicts", "/plans/1", "/teach/" + id, "/teach/" + id + "/after"} {
			code, page := p.do("GET", path, nil)
			assert.Less(t, code, 500, "%s on %s: %.200s", path, day, page)
		}
	}
	p.server.Today = was
}

// What was taken from a copy opens nothing: the tokens in a database are not those of the cookies.
func TestATokenFromACopyOpensNothing(t *testing.T) {
	p := start(t, true).signIn()
	rows, err := p.store.DB.Query(`SELECT token FROM sessions`)
	require.NoError(t, err)
	var tokens []string
	for rows.Next() {
		var token string
		require.NoError(t, rows.Scan(&token))
		tokens = append(tokens, token)
	}
	require.NoError(t, rows.Close())
	require.NotEmpty(t, tokens)
	for _, token := range tokens {
		r, err := http.NewRequest("GET", p.url+"/clients", nil)
		require.NoError(t, err)
		r.AddCookie(&http.Cookie{Name: "restbend", Value: token})
		resp, err := (&http.Client{}).Do(r)
		require.NoError(t, err)
		text, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.NotContains(t, string(text), "Brinkwater")
	}
}

// A plan that was made worse in the database than any document may be is a page that says so; the others go on.
func TestADamagedPlanEndsNothing(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	for name, change := range map[string]string{
		"plan":    `UPDATE plans SET document = json_set(document, '$.minutes', 1000000000, '$.items[0].dose.sets', 1000000000)`,
		"items":   `UPDATE plans SET document = json_set(document, '$.items', 'x')`,
		"session": `UPDATE taught SET plan = json_set(plan, '$.items[0].dose.sets', 1000000000, '$.items[1].dose.reps', 1000000000)`,
		"log":     `UPDATE taught SET log = json_set(log, '$.items', 'x') WHERE client_id = 1`,
		"client":  `UPDATE clients SET document = json_set(document, '$.conditions', 'x') WHERE id = 3`,
	} {
		_, err := p.store.DB.Exec(change)
		require.NoError(t, err, name)
		for _, path := range []string{"/plans/1", "/plans/1/start", "/teach/" + id + "/data", "/clients/2", "/clients/2/course", "/clients/1", "/clients/3"} {
			at := time.Now()
			p.do("GET", path, nil)
			assert.Less(t, time.Since(at), 3*time.Second, "%s: %s", name, path)
		}
		code, page := p.do("GET", "/library", nil)
		assert.Equal(t, 200, code, name)
		assert.Contains(t, page, "Library")
	}
}
