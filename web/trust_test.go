package web_test

import (
	"context"
	"fmt"
	"html"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/demo"
	"restbend/store"
	"restbend/web/site"
)

// another is somebody else at the same server, with cookies of their own.
func (p *practice) another() *practice {
	jar, _ := cookiejar.New(nil)
	q := *p
	q.http = &http.Client{Jar: jar}
	return &q
}

// try signs in with any name and password.
func (p *practice) try(name, password string, header ...string) (int, string) {
	return p.do("POST", "/sign-in", url.Values{"name": {name}, "password": {password}}, header...)
}

// The first account is made once, with the code that only the console showed, whoever else asks at the same moment.
func TestFirstRunMakesOneAccount(t *testing.T) {
	p := start(t, false)
	_, page := p.do("GET", "/clients", nil)
	assert.Contains(t, page, "Make your account")
	form := func(code, name, password string) url.Values {
		return url.Values{"code": {code}, "name": {name}, "password": {password}}
	}
	right := p.server.FirstRunCode()
	require.Len(t, right, 10)
	for _, c := range []struct{ code, name, password, want string }{
		{"", "ada", "seven pale otters", "Code: it stands where"}, {"WRONGWRONG", "ada", "seven pale otters", "Code: it stands where"},
		{right, "ada", "short", "at least 10 characters"}, {right, "ada", "password12", "too common"}, {right, "ada", "1234567890", "too common"},
		{right, "ada", "aaaaaaaaaa", "too common"}, {right, "ada", "          ", "too common"}, {right, "ada", strings.Repeat("x7", 600), "at most 1000"},
		{right, "a\u202ead", "seven pale otters", "nobody sees"}, {right, "\u200b", "seven pale otters", "up to 80"}, {right, "", "seven pale otters", "up to 80"},
	} {
		code, page := p.do("POST", "/first-run", form(c.code, c.name, c.password))
		assert.Equal(t, 422, code, c)
		assert.Contains(t, page, c.want, c)
	}
	var wg sync.WaitGroup
	for i := range 6 {
		wg.Go(func() {
			q := p.another()
			q.do("POST", "/first-run", form(right, fmt.Sprint("ada", i), "seven pale otters"))
		})
	}
	wg.Wait()
	n, err := p.store.Accounts(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	code, _ := p.do("POST", "/first-run", form(right, "eve", "seven pale otters"))
	assert.Equal(t, 403, code)
}

// Guessing is held back by name, by place and over all, whatever a request says of where it comes from; a restart
// forgets none of it, and wrong names and passwords are answered alike.
func TestGuessingIsHeldBack(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	held := func(p *practice, n int, name func(i int) string, header func(i int) []string) (refused int) {
		for i := range n {
			if code, page := p.try(name(i), "wrong-wrong-wrong", header(i)...); code == 429 {
				refused++
				assert.Contains(t, page, "Wait half a minute")
			} else {
				assert.Equal(t, 401, code)
				assert.Contains(t, page, "Name or password is not right.")
			}
		}
		return refused
	}
	none := func(int) []string { return nil }
	p := start(t, true)
	assert.GreaterOrEqual(t, held(p, 20, func(int) string { return demo.Name }, func(i int) []string {
		return []string{"X-Forwarded-For", fmt.Sprintf("10.9.8.%d", i), "X-Real-Ip", fmt.Sprintf("10.9.7.%d", i)}
	}), 14, "a header changes nothing")
	code, _ := p.try(demo.Name, demo.Password)
	assert.Equal(t, 429, code)
	again := practiceOn(t, p.store)
	code, _ = again.try(demo.Name, demo.Password)
	assert.Equal(t, 429, code, "a restart forgets nothing")
	q := start(t, true)
	assert.GreaterOrEqual(t, held(q, 50, func(i int) string { return fmt.Sprint("nobody", i) }, none), 18, "many names from one place")
	// Behind a proxy that may be believed it is the caller who counts.
	r := start(t, true)
	behind := practiceOn(t, r.store, site.Options{Proxies: []string{"127.0.0.1/32"}, Secure: true})
	assert.Zero(t, held(behind, 8, func(i int) string { return fmt.Sprint("nobody", i%2) }, func(i int) []string { return []string{"X-Forwarded-For", fmt.Sprintf("10.9.8.%d", i)} }))
	resp, err := behind.http.PostForm(behind.url+"/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, "max-age=31536000", resp.Header.Get("Strict-Transport-Security"))
	first, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).PostForm(behind.url+"/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	require.NoError(t, err)
	first.Body.Close()
	names := map[string]bool{}
	for _, cookie := range first.Cookies() {
		names[cookie.Name] = true
		assert.True(t, cookie.Secure && cookie.HttpOnly && strings.HasPrefix(cookie.Name, "__Host-") && cookie.Path == "/" && cookie.Domain == "", cookie.String())
	}
	assert.Equal(t, map[string]bool{"__Host-restbend": true, "__Host-device": true}, names)
}

// Strangers shut nobody out who comes with a device that signed in before, and gain nothing by making one up; the
// addresses of one network of the newer kind are one place; own passwords are guessed at no faster.
func TestStrangersShutNobodyOut(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true)
	behind := practiceOn(t, p.store, site.Options{Proxies: []string{"127.0.0.1/32"}})
	from := func(place string) []string { return []string{"X-Forwarded-For", place} }
	owner := behind.another()
	code, _ := owner.try(demo.Name, demo.Password, from("192.0.2.10")...)
	require.Equal(t, 200, code)
	for i := range 24 {
		behind.another().try(demo.Name, "wrong-wrong-wrong", from(fmt.Sprintf("198.51.100.%d", i%6))...)
	}
	code, _ = behind.another().try(demo.Name, demo.Password, from("192.0.2.10")...)
	assert.Equal(t, 429, code, "a device nobody knows waits with the strangers")
	owner.do("POST", "/sign-out", url.Values{})
	code, page := owner.try(demo.Name, demo.Password, from("192.0.2.10")...)
	assert.Equal(t, 200, code)
	assert.NotContains(t, page, "Too many attempts")
	// A device that is made up is none, and one that is known has its own bound.
	made := behind.another()
	at, err := url.Parse(behind.url)
	require.NoError(t, err)
	made.http.Jar.SetCookies(at, []*http.Cookie{{Name: "device", Value: "AAAAAAAAAAAAAAAAAAAAAAAAAA"}})
	code, _ = made.try(demo.Name, demo.Password, from("192.0.2.11")...)
	assert.Equal(t, 429, code)
	owner.do("POST", "/sign-out", url.Values{})
	held := 0
	for range 14 {
		code, _ = owner.try(demo.Name, "wrong-wrong-wrong", from("192.0.2.10")...)
		held += map[int]int{429: 1}[code]
	}
	assert.GreaterOrEqual(t, held, 3, "who has the device guesses no faster")

	// One network, many addresses.
	q := start(t, true)
	near := practiceOn(t, q.store, site.Options{Proxies: []string{"127.0.0.1/32"}})
	held = 0
	for i := range 36 {
		code, _ = near.another().try(fmt.Sprint("nobody", i), "wrong-wrong-wrong", from(fmt.Sprintf("2001:db8:1:2:%x::%x", i, i))...)
		held += map[int]int{429: 1}[code]
	}
	assert.Positive(t, held, "a network is one place")
	code, _ = near.another().try("nobody", "wrong-wrong-wrong", from("2001:db8:1:3::1")...)
	assert.Equal(t, 401, code, "another network is another place")

	// The own password.
	r := start(t, true).signIn()
	held = 0
	for range 9 {
		code, _ = r.do("POST", "/account/password", url.Values{"now": {"wrong-wrong-wrong"}, "password": {"seven pale otters"}})
		held += map[int]int{429: 1}[code]
	}
	assert.GreaterOrEqual(t, held, 3)
	events, err := r.store.Events(context.Background(), 1, 20)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(events, func(e store.Event) bool { return e.What == "gave a wrong password of now" }), "it is recorded")
}

// counted counts what is read of it.
type counted struct {
	left int64
	read atomic.Int64
}

func (c *counted) Read(p []byte) (int, error) {
	if c.left <= 0 {
		return 0, io.EOF
	}
	n := min(int64(len(p)), c.left)
	c.left -= n
	c.read.Add(n)
	return int(n), nil
}

// Of somebody nobody knows no body is read: an upload is refused before it came, and leaves nothing on the disk; at the
// door a short form is read, and nothing else.
func TestABodyWaitsForWhoSendsIt(t *testing.T) {
	p := start(t, true)
	left := func() int {
		list, err := filepath.Glob(filepath.Join(os.TempDir(), "multipart-*"))
		require.NoError(t, err)
		return len(list)
	}
	before := left()
	for _, path := range []string{"/clients/import", "/own/import", "/account/password", "/plans/1/edit"} {
		body := &counted{left: 40 << 20}
		r, err := http.NewRequest("POST", p.url+path, body)
		require.NoError(t, err)
		r.ContentLength = body.left
		r.Header.Set("Content-Type", "multipart/form-data; boundary=x")
		client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		if resp, err := client.Do(r); err == nil { // the line may be cut while the rest is sent
			resp.Body.Close()
			assert.Contains(t, []int{303, 413}, resp.StatusCode, path)
		}
		assert.Less(t, body.read.Load(), int64(8<<20), "%s: what the line holds, and no more", path)
		assert.Equal(t, before, left(), path)
	}
	for _, path := range []string{"/sign-in", "/first-run"} {
		code, _ := p.do("POST", path, url.Values{"name": {demo.Name}, "password": {strings.Repeat("x", 9000)}})
		assert.Equal(t, 413, code, path)
		r, err := http.NewRequest("POST", p.url+path, strings.NewReader("--x--"))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "multipart/form-data; boundary=x")
		resp, err := p.http.Do(r)
		require.NoError(t, err)
		resp.Body.Close()
		assert.Equal(t, 415, resp.StatusCode, path)
	}
}

// Equal names at once make one account, and everybody is answered.
func TestEqualNamesAtOnce(t *testing.T) {
	p := start(t, true).signIn()
	var wg sync.WaitGroup
	codes := make([]int, 6)
	for i := range codes {
		wg.Go(func() {
			codes[i], _ = p.do("POST", "/practice/accounts", url.Values{"name": {[]string{"Tamsin", "tamsin"}[i%2]}, "password": {"seven pale otters"}})
		})
	}
	wg.Wait()
	slices.Sort(codes)
	assert.Equal(t, []int{200, 422, 422, 422, 422, 422}, codes)
}

// Three hundred sign-ins at once hash four passwords at a time, and somebody who is signed in is served meanwhile.
func TestASignInFlood(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	before := memory(t)
	most, slowest := before, time.Duration(0)
	done := make(chan struct{})
	go func() {
		defer close(done)
		var wg sync.WaitGroup
		for i := range 300 {
			wg.Go(func() { p.another().try(fmt.Sprint("nobody", i), "wrong-wrong-wrong") })
		}
		wg.Wait()
	}()
	for running := true; running; {
		select {
		case <-done:
			running = false
		default:
			at := time.Now()
			code, _ := p.do("GET", "/practice", nil)
			require.Equal(t, 200, code)
			slowest, most = max(slowest, time.Since(at)), max(most, memory(t))
		}
	}
	t.Logf("memory grew by %d MB, the slowest page took %s", (most-before)>>20, slowest)
	assert.Less(t, most-before, uint64(300<<20))
	assert.Less(t, slowest, 2*time.Second) // 500 ms alone on the machine; here other tests run beside it
}

// memory is what this process holds of the machine's memory, bytes.
func memory(t *testing.T) uint64 {
	data, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		t.Skip("no /proc here")
	}
	var size, resident uint64
	_, err = fmt.Sscan(string(data), &size, &resident)
	require.NoError(t, err)
	return resident * uint64(os.Getpagesize())
}

// The own password is changed with the one of now; places where one is signed in are listed and ended; who leaves is
// closed; nothing of it is for others.
func TestOwnAccount(t *testing.T) {
	p := start(t, true).signIn()
	other := p.another()
	code, _ := other.try(demo.Name, demo.Password)
	require.Equal(t, 200, code)
	_, page := p.do("GET", "/practice", nil)
	assert.Equal(t, 1, strings.Count(page, "End it"), "one other place")
	id := regexp.MustCompile(`/account/sign-ins/(\d+)/end`).FindStringSubmatch(page)[1]
	code, _ = p.do("POST", "/account/sign-ins/"+id+"/end", url.Values{})
	require.Equal(t, 200, code)
	_, page = other.do("GET", "/clients", nil)
	assert.Contains(t, page, "Sign in", "ended from elsewhere")
	other.try(demo.Name, demo.Password)
	for _, c := range []struct{ now, next, want string }{
		{"wrong", "seven pale otters", "of now is not right"}, {demo.Password, "password12", "too common"}, {demo.Password, "short", "at least 10"},
	} {
		code, page = p.do("POST", "/account/password", url.Values{"now": {c.now}, "password": {c.next}})
		assert.Equal(t, 422, code)
		assert.Contains(t, page, c.want)
	}
	code, page = p.do("POST", "/account/password", url.Values{"now": {demo.Password}, "password": {"seven pale otters"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "The new password holds")
	_, page = other.do("GET", "/clients", nil)
	assert.Contains(t, page, "Sign in")
	code, _ = p.do("GET", "/clients", nil)
	assert.Equal(t, 200, code, "here it goes on")
	code, _ = other.try(demo.Name, demo.Password)
	assert.Equal(t, 401, code)
	// Somebody comes, keeps a client, and leaves.
	p.do("POST", "/practice/accounts", url.Values{"name": {"lowen"}, "password": {"nine quiet herons"}})
	lowen := p.another()
	code, _ = lowen.try("lowen", "nine quiet herons")
	require.Equal(t, 200, code)
	lowen.do("POST", "/clients/new", url.Values{"name": {"Runa Vey"}, "step": {"start"}})
	members, err := p.store.Members(context.Background(), 0)
	require.NoError(t, err)
	var me, them store.Member
	for _, m := range members {
		if m.Name == "lowen" {
			them = m
		} else {
			me = m
		}
	}
	for _, path := range []string{fmt.Sprintf("/practice/accounts/%d/close", me.ID), "/practice/keeper", "/practice/idle", "/practice/accounts"} {
		code, _ = lowen.do("POST", path, url.Values{"heir": {fmt.Sprint(them.ID)}, "to": {fmt.Sprint(them.ID)}})
		assert.Equal(t, 403, code, path)
	}
	code, _ = p.do("POST", fmt.Sprintf("/practice/accounts/%d/close", them.ID), url.Values{"heir": {fmt.Sprint(me.ID)}})
	assert.Equal(t, 200, code)
	_, page = lowen.do("GET", "/clients", nil)
	assert.Contains(t, page, "Sign in", "out at once")
	code, page = p.do("POST", "/practice/accounts", url.Values{"name": {"LOWEN"}, "password": {"nine quiet herons"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "or was")
	_, page = p.do("GET", "/practice", nil)
	assert.Contains(t, page, "closed an account: lowen", "it is kept who did what")
}

// Left alone somebody is signed out, but not while a session is taught.
func TestIdle(t *testing.T) {
	p := start(t, true).signIn()
	code, page := p.do("POST", "/practice/idle", url.Values{"idle_minutes": {"1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "allowed: 5 to 720")
	p.do("POST", "/practice/idle", url.Values{"idle_minutes": {"10"}})
	ago := func(minutes int) {
		_, err := p.store.DB.Exec(`UPDATE sign_ins SET seen_at = ?`, time.Now().UTC().Add(-time.Duration(minutes)*time.Minute).Format(time.RFC3339))
		require.NoError(t, err)
	}
	ago(9)
	_, page = p.do("GET", "/clients", nil)
	assert.NotContains(t, page, "Sign in")
	id := p.teach()
	ago(600)
	_, page = p.do("GET", "/teach/"+id, nil)
	assert.Contains(t, page, "data-session", "while teaching nobody is put out")
	p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"1"}, "ended": {"wish"}})
	ago(11)
	_, page = p.do("GET", "/clients", nil)
	assert.Contains(t, page, "Sign in")
}

// What is removed lies in the bin, comes back whole, or is deleted for good; nobody else reaches it.
func TestTheBin(t *testing.T) {
	p := start(t, true).signIn()
	_, before := p.do("GET", "/clients/2", nil)
	_, page := p.do("POST", "/clients/2/delete", url.Values{"confirm": {"delete"}})
	assert.Contains(t, page, "lies in the <a href=\"/bin\">bin</a>")
	assert.Contains(t, page, `action="/bin/client/2/return"`, "the next page offers it back")
	_, page = p.do("GET", "/clients", nil)
	assert.NotContains(t, page, `action="/bin/client/2/return"`, "once")
	code, _ := p.do("GET", "/clients/2", nil)
	assert.Equal(t, 404, code)
	p.do("POST", "/practice/accounts", url.Values{"name": {"lowen"}, "password": {"nine quiet herons"}})
	lowen := p.another()
	lowen.try("lowen", "nine quiet herons")
	for _, way := range []string{"return", "delete"} {
		code, _ = lowen.do("POST", "/bin/client/2/"+way, url.Values{})
		assert.Equal(t, 404, code)
	}
	code, after := p.do("POST", "/bin/client/2/return", url.Values{})
	assert.Equal(t, 200, code)
	assert.Equal(t, strings.Count(before, "<h2>"), strings.Count(after, "<h2>"))
	p.do("POST", "/clients/2/delete", url.Values{"confirm": {"delete"}, "for_good": {"yes"}})
	code, _ = p.do("POST", "/bin/client/2/return", url.Values{})
	assert.Equal(t, 404, code)
	_, page = p.do("GET", "/bin", nil)
	assert.Contains(t, page, "Nothing was removed")
	code, _ = p.do("POST", "/bin/account/1/delete", url.Values{})
	assert.Equal(t, 404, code)
}

// The program says whether it is alive, and whether its database is; files that do not change are kept by browsers
// under a name of this program, and no folder is listed.
func TestAroundThePages(t *testing.T) {
	p := start(t, true)
	for path, want := range map[string]string{"/healthz": "200 alive", "/readyz": "200 ready"} {
		code, body := p.do("GET", path, nil)
		assert.Equal(t, want, fmt.Sprint(code, " ", body))
		code, body = p.do("HEAD", path, nil)
		assert.Equal(t, "200 ", fmt.Sprint(code, " ", body))
	}
	_, page := p.do("GET", "/sign-in", nil)
	css := regexp.MustCompile(`/static/v[0-9a-f]{12}/app\.css`).FindString(page)
	require.NotEmpty(t, css)
	get := func(path string, header ...string) *http.Response {
		r, err := http.NewRequest("GET", p.url+path, nil)
		require.NoError(t, err)
		for i := 0; i+1 < len(header); i += 2 {
			r.Header.Set(header[i], header[i+1])
		}
		resp, err := (&http.Client{Transport: &http.Transport{DisableCompression: true}}).Do(r)
		require.NoError(t, err)
		t.Cleanup(func() { resp.Body.Close() })
		return resp
	}
	assert.Contains(t, get(css).Header.Get("Cache-Control"), "immutable")
	assert.Equal(t, "gzip", get(css, "Accept-Encoding", "gzip").Header.Get("Content-Encoding"))
	assert.Equal(t, "no-cache", get("/static/app.css").Header.Get("Cache-Control"))
	assert.Equal(t, "no-cache", get("/static/v000000000000/app.css").Header.Get("Cache-Control"), "another program's name")
	script, err := io.ReadAll(get(strings.Replace(css, "app.css", "teach.js", 1)).Body)
	require.NoError(t, err)
	assert.Contains(t, string(script), strings.Replace(css, "app.css", "score.js", 1), "modules are of one program")
	for _, path := range []string{"/static/", "/static/lib/", css[:len(css)-len("app.css")], "/static/../server.go", "/static/none.js"} {
		assert.Equal(t, 404, get(path).StatusCode, path)
	}
	require.NoError(t, p.store.Close())
	time.Sleep(600 * time.Millisecond) // what was found last holds for half a second
	code, body := p.do("GET", "/readyz", nil)
	assert.Equal(t, 503, code)
	assert.Contains(t, body, "not ready")
	code, _ = p.do("GET", "/healthz", nil)
	assert.Equal(t, 200, code, "alive all the same")
	code, body = p.do("GET", "/clients", nil)
	assert.GreaterOrEqual(t, code, 500)
	assert.Contains(t, body, "kept")
}

// A form that was opened before somebody else changed the same client undoes nothing: other fields of theirs stay, and
// where both changed one both are shown; a second save is one's own word.
func TestTwoFormsAtOnce(t *testing.T) {
	p := start(t, true).signIn()
	base := func(path string) string {
		_, page := p.do("GET", path, nil)
		m := regexp.MustCompile(`name="base" value="([^"]*)"`).FindStringSubmatch(page)
		require.NotNil(t, m, path)
		return html.UnescapeString(m[1])
	}
	doc := func() string {
		row, err := p.store.Client(context.Background(), 1, 2)
		require.NoError(t, err)
		return string(row.Document)
	}
	aims, person := base("/clients/2/intake/person"), base("/clients/2/intake/person")
	form := func(base, complaint string) url.Values {
		return url.Values{"base": {base}, "name": {"Teo Marlack"}, "born": {"1981"}, "sex": {"male"}, "complaint": {complaint}, "build": {"ash"}, "consent.date": {"2026-01-05"}, "go": {"client"}}
	}
	// Somebody else changes the conditions: the person form, opened before, does not touch them.
	code, page := p.do("POST", "/clients/2/intake/conditions", url.Values{"base": {base("/clients/2/intake/conditions")}, "go": {"client"}})
	require.Equal(t, 200, code, page)
	require.Contains(t, doc(), `"conditions":[]`)
	code, page = p.do("POST", "/clients/2/intake/person", form(person, "a stiff morning"))
	require.Equal(t, 200, code, page)
	assert.Contains(t, doc(), `"conditions":[]`, "not brought back by an old form")
	assert.Contains(t, doc(), "a stiff morning")
	// Both change the same field.
	code, page = p.do("POST", "/clients/2/intake/person", form(aims, "a stiff evening"))
	assert.Equal(t, 409, code)
	assert.Contains(t, page, "Somebody changed this meanwhile")
	assert.Contains(t, page, "a stiff morning")
	assert.Contains(t, page, "a stiff evening")
	assert.Contains(t, doc(), "a stiff morning", "nothing was saved")
	m := regexp.MustCompile(`name="base" value="([^"]*)"`).FindStringSubmatch(page)
	code, _ = p.do("POST", "/clients/2/intake/person", form(html.UnescapeString(m[1]), "a stiff evening"))
	assert.Equal(t, 200, code)
	assert.Contains(t, doc(), "a stiff evening")
	code, _ = p.do("POST", "/clients/2/intake/person", form("{", "x"))
	assert.Equal(t, 400, code)
	// After the session: an empty form of before erases nothing.
	p.do("POST", "/clients/2/intake/conditions", url.Values{"base": {base("/clients/2/intake/conditions")}, "go": {"client"}})
	id := p.teach()
	after := func(v url.Values) (int, string) { return p.do("POST", "/teach/"+id+"/after", v) }
	first := url.Values{"base_notes": {""}, "base_ended": {""}, "base_pain_end": {""}, "pain_end": {"2"}, "ended": {"wish"}, "notes": {"towel under the knee"}}
	code, page = after(first)
	require.Equal(t, 200, code, page)
	code, _ = after(url.Values{"base_notes": {""}, "base_ended": {""}, "base_pain_end": {""}, "pain_end": {""}, "ended": {""}, "notes": {""}})
	assert.Equal(t, 200, code)
	s := p.last(2)
	assert.Contains(t, s.Notes, "towel under the knee")
	require.NotNil(t, s.PainEnd)
	assert.Equal(t, "wish", s.Ended)
	code, page = after(url.Values{"base_notes": {""}, "base_ended": {""}, "base_pain_end": {""}, "pain_end": {"5"}, "ended": {"wish"}, "notes": {"a longer rest"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "somebody changed it meanwhile")
	assert.Contains(t, page, "a longer rest", "what was typed stands there")
}

// A session that was open when the program was renewed, of before there were scores: its record is kept, what was
// marked stands in it, and it can be closed with what is said at its end; it blocks no new session.
func TestAnOpenSessionAtAnUpgrade(t *testing.T) {
	p := start(t, true)
	_, err := p.store.DB.Exec(`INSERT INTO taught (id, client_id, day, plan, state) SELECT 901, 2, '2026-11-30', document, '{}' FROM plans UNION ALL SELECT 901, 2, '2026-11-30', '{"items": [{"version": "bridge", "dose": {"sets": 1, "reps": 6}}]}', '{}' LIMIT 1`)
	require.NoError(t, err)
	_, err = p.store.DB.Exec(`INSERT INTO entries (taught_id, key, kind, document, at) VALUES (901, 'a', 'symptom', '{"key": "a", "kind": "symptom", "item": 0, "rep": 4}', '2026-11-30T09:00:00Z')`)
	require.NoError(t, err)
	p = practiceOn(t, p.store).signIn() // the new program starts on it
	code, page := p.do("GET", "/teach/901", nil)
	assert.Equal(t, 200, code, "%.300s", page)
	code, page = p.do("GET", "/teach/901/after", nil)
	require.Equal(t, 200, code)
	assert.Contains(t, page, "Bridge")
	code, page = p.do("POST", "/teach/901/after", url.Values{"pain_end": {"4"}, "ended": {"symptom"}, "notes": {"closed after the renewal"}})
	require.Equal(t, 200, code, "%.300s", page)
	row, err := p.store.Taught(context.Background(), 1, 901)
	require.NoError(t, err)
	assert.True(t, row.EndedAt.Valid)
	for _, want := range []string{`"symptom_at_rep":4`, `"pain_end":4`, "closed after the renewal", `"ended_by":"symptom"`} {
		assert.Contains(t, string(row.Log), want)
	}
	code, page = p.do("GET", "/clients/2", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "2026-11-30")
	p.comesBack()
	code, _ = p.do("POST", "/teach/901/correct", url.Values{"line": {"0"}, "done.reps": {"3"}, "why": {"three were done"}})
	assert.Equal(t, 200, code, "and corrected afterwards")
}
