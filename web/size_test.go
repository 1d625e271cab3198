package web_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"runtime/debug"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/demo"
	"restbend/store"
)

// sized is a practice of so many clients with so many sessions each, made from the demo's second client: every one has
// the document, the sessions and a plan of theirs.
func sized(t testing.TB, clients, sessions int) (path string) {
	data, err := filled()
	require.NoError(t, err)
	path = filepath.Join(t.TempDir(), "restbend.db")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	st, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	defer st.Close()
	exec := func(q string, args ...any) {
		_, err := st.DB.Exec(q, args...)
		require.NoError(t, err, q)
	}
	st.DB.SetMaxOpenConns(1) // so that this holds for what follows
	exec(`PRAGMA synchronous = OFF`)
	exec(`PRAGMA journal_mode = OFF`)
	exec(`WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
		INSERT INTO clients (account_id, name, document, build, revision, updated_at, uid) SELECT account_id, printf('%s %05d', name, i), document, build, revision, updated_at, lower(hex(randomblob(16))) FROM clients, n WHERE clients.id = 2`, clients)
	exec(`DROP TRIGGER taught_added`) // one count for all of them
	exec(`CREATE TABLE days AS WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?), one AS (SELECT * FROM taught WHERE client_id = 2 AND ended_at IS NOT NULL ORDER BY id DESC LIMIT 1)
		SELECT date('2025-11-01', (-i) || ' days') AS day, one.plan, one.pain_start, one.pain_end, one.notes, one.ended_at, json_set(one.log, '$.date', date('2025-11-01', (-i) || ' days')) AS log, one.base FROM n, one`, sessions)
	exec(`INSERT INTO taught (client_id, plan_id, day, plan, pain_start, pain_end, notes, ended_at, log, base)
		SELECT c.id, NULL, d.day, d.plan, d.pain_start, d.pain_end, d.notes, d.ended_at, d.log, d.base FROM clients c, days d WHERE c.id > 4`)
	exec(`DROP TABLE days`)
	exec(`UPDATE clients SET log_rev = 1`)
	exec(`CREATE TRIGGER taught_added AFTER INSERT ON taught BEGIN UPDATE clients SET log_rev = log_rev + 1 WHERE id = NEW.client_id; END`)
	exec(`ANALYZE`)
	return path
}

// TestAtSize measures the pages of the daily path with 2,000 clients of 200 sessions each (set RESTBEND_SIZE), or a
// tenth of it: first and again, beside a bare handler that sends as many bytes; then 30,000 requests (a tenth) without
// growth.
func TestAtSize(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	clients, sessions, requests := 200, 60, 3000
	whole := os.Getenv("RESTBEND_SIZE") != ""
	if whole {
		clients, sessions, requests = 2000, 200, 30000
	}
	at := time.Now()
	path := sized(t, clients, sessions)
	t.Logf("%d clients of %d sessions made in %s", clients, sessions, time.Since(at).Round(time.Second))
	at = time.Now()
	st, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	p := practiceOn(t, st)
	t.Logf("opened and ready in %s", time.Since(at).Round(time.Millisecond))
	assert.Less(t, time.Since(at), 2*time.Second, "start")
	p.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	code, _ := p.do("POST", "/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	require.Equal(t, http.StatusSeeOther, code)
	p.http.CheckRedirect = nil
	var id string
	get := func(path string) func() (int, string) {
		return func() (int, string) { return p.do("GET", path, nil) }
	}
	visits := []struct {
		name string
		do   func() (int, string)
	}{
		{"today", get("/today")},
		{"clients", get("/clients")},
		{"clients, page 3", get("/clients?page=3")},
		{"clients found", get("/clients?q=00" + strconv.Itoa(clients/2))},
		{"several", get("/several")},
		{"client", get("/clients/9")},
		{"verdicts", get("/clients/9/verdicts")},
		{"course", get("/clients/9/course")},
		{"plan made", func() (int, string) {
			code, page := p.do("POST", "/clients/9/plans", url.Values{"minutes": {"30"}})
			id = regexp.MustCompile(`/plans/\d+`).FindString(page)
			return code, page
		}},
		{"plan", func() (int, string) { return p.do("GET", id, nil) }},
		{"before the session", func() (int, string) { return p.do("GET", id+"/start", nil) }},
		{"library", get("/library")},
		{"limits", get("/limits")},
	}
	var body atomic.Pointer[string]
	bare := gin.New()
	bare.GET("/", func(c *gin.Context) { c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(*body.Load())) })
	other := httptest.NewServer(bare)
	t.Cleanup(other.Close)
	for _, v := range visits {
		at := time.Now()
		code, page := v.do()
		cold := time.Since(at)
		require.Equal(t, http.StatusOK, code, "%s: %.300s", v.name, page)
		if at = time.Now(); v.name == "today" { // everybody's standing is worked out beside the pages, once a day
			for p.server.Working() {
				time.Sleep(20 * time.Millisecond)
			}
			t.Logf("what holds for everybody was worked out beside the pages in %s", time.Since(at).Round(time.Second))
		}
		body.Store(&page)
		warm := median(func() { v.do() })
		empty := median(func() {
			resp, err := http.Get(other.URL)
			require.NoError(t, err)
			_, _ = io.Copy(io.Discard, resp.Body)
			resp.Body.Close()
		})
		t.Logf("%-20s %4d kB  first %6.1f ms, then %5.1f ms: %4.0f times a bare handler (%.2f ms)", v.name, len(page)>>10, ms(cold), ms(warm), float64(warm)/float64(empty), ms(empty))
		slack := time.Duration(1)
		if !whole {
			slack = 6 // other tests run beside it
		}
		if v.name == "plan made" { // it is a search, and a page after it
			slack *= 8
		}
		if cold > slack*100*time.Millisecond || warm > slack*20*time.Millisecond {
			t.Errorf("%s: first %s (bar 100 ms), then %s (bar 20 ms)", v.name, cold, warm)
		}
	}
	ask := func(n int) uint64 {
		var all sync.WaitGroup
		for k := range 4 {
			all.Go(func() {
				for i := k; i < n; i += 4 {
					code, page := 0, ""
					switch i % 10 {
					case 0:
						code, page = visits[(i/10)%7].do()
					case 1:
						code, page = p.do("GET", fmt.Sprint("/clients/", 5+i/40%clients), nil) // somebody else every fourth time
					case 2:
						code, page = p.do("GET", "/clients/9", nil)
					case 3:
						code, page = p.do("GET", "/clients?page="+strconv.Itoa(1+i%40), nil)
					case 4, 5:
						code, page = p.do("GET", "/library/bridge", nil)
					case 6:
						code, page = p.do("GET", "/figures/bridge.svg", nil)
					default:
						code, page = p.do("GET", "/today", nil)
					}
					if !assert.Equal(t, http.StatusOK, code, "%.200s", page) {
						return
					}
				}
			})
		}
		all.Wait()
		runtime.GC()
		debug.FreeOSMemory()
		return memory(t)
	}
	first := ask(requests / 10)
	last := ask(requests * 9 / 10)
	t.Logf("%d MB held after %d requests, %d MB after %d", first>>20, requests/10, last>>20, requests)
	if whole {
		assert.LessOrEqual(t, last>>20, uint64(150), "MB held")
		assert.Less(t, int64(last>>20)-int64(first>>20), int64(20), // what is kept fills up
			"MB grown over %d requests", requests*9/10)
	}
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// median is how long something takes, of eleven times.
func median(do func()) time.Duration {
	took := make([]time.Duration, 11)
	for i := range took {
		at := time.Now()
		do()
		took[i] = time.Since(at)
	}
	slices.Sort(took)
	return took[len(took)/2]
}
