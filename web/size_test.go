package web_test

import (
	"context"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

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
	exec(`PRAGMA synchronous = OFF`)
	exec(`WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
		INSERT INTO clients (account_id, name, document, build, revision, updated_at, uid) SELECT account_id, printf('%s %05d', name, i), document, build, revision, updated_at, lower(hex(randomblob(16))) FROM clients, n WHERE clients.id = 2`, clients)
	exec(`DROP TRIGGER taught_added`) // one count for all of them
	exec(`WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?), one AS (SELECT * FROM taught WHERE client_id = 2 AND ended_at IS NOT NULL ORDER BY id DESC LIMIT 1)
		INSERT INTO taught (client_id, plan_id, day, plan, pain_start, pain_end, notes, ended_at, log, base)
		SELECT c.id, NULL, date('2025-11-01', (-i) || ' days'), one.plan, one.pain_start, one.pain_end, one.notes, one.ended_at, json_set(one.log, '$.date', date('2025-11-01', (-i) || ' days')), one.base
		FROM clients c, n, one WHERE c.id > 4`, sessions)
	exec(`UPDATE clients SET log_rev = 1`)
	exec(`CREATE TRIGGER taught_added AFTER INSERT ON taught BEGIN UPDATE clients SET log_rev = log_rev + 1 WHERE id = NEW.client_id; END`)
	exec(`ANALYZE`)
	return path
}

// TestAtSize measures the pages of the daily path with 2,000 clients of 200 sessions each (set RESTBEND_SIZE), or a
// tenth of it: first and again, milliseconds.
func TestAtSize(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	clients, sessions := 200, 60
	whole := os.Getenv("RESTBEND_SIZE") != ""
	if whole {
		clients, sessions = 2000, 200
	}
	at := time.Now()
	path := sized(t, clients, sessions)
	t.Logf("%d clients of %d sessions made in %s", clients, sessions, time.Since(at).Round(time.Second))
	st, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	p := practiceOn(t, st).signIn()
	var id string
	visits := []struct {
		name string
		do   func() (int, string)
	}{
		{"today", func() (int, string) { return p.do("GET", "/today", nil) }},
		{"clients", func() (int, string) { return p.do("GET", "/clients", nil) }},
		{"clients, page 3", func() (int, string) { return p.do("GET", "/clients?page=3", nil) }},
		{"clients found", func() (int, string) { return p.do("GET", "/clients?q=00"+strconv.Itoa(clients/2), nil) }},
		{"several", func() (int, string) { return p.do("GET", "/several", nil) }},
		{"client", func() (int, string) { return p.do("GET", "/clients/9", nil) }},
		{"verdicts", func() (int, string) { return p.do("GET", "/clients/9/verdicts", nil) }},
		{"course", func() (int, string) { return p.do("GET", "/clients/9/course", nil) }},
		{"plan made", func() (int, string) {
			code, page := p.do("POST", "/clients/9/plans", url.Values{"minutes": {"30"}})
			id = regexp.MustCompile(`/plans/\d+`).FindString(page)
			return code, page
		}},
		{"plan", func() (int, string) { return p.do("GET", id, nil) }},
		{"before the session", func() (int, string) { return p.do("GET", id+"/start", nil) }},
		{"library", func() (int, string) { return p.do("GET", "/library", nil) }},
	}
	for _, v := range visits {
		var took [3]time.Duration
		for i := range took {
			at := time.Now()
			code, page := v.do()
			took[i] = time.Since(at)
			require.Equal(t, http.StatusOK, code, "%s: %.300s", v.name, page)
		}
		warm := min(took[1], took[2])
		t.Logf("%-20s %5d ms, then %5d ms", v.name, took[0].Milliseconds(), warm.Milliseconds())
		slack := time.Duration(1)
		if !whole {
			slack = 3 // other tests run beside it
		}
		if took[0] > slack*500*time.Millisecond || warm > slack*150*time.Millisecond {
			t.Errorf("%s: first %s (bar 500 ms), then %s (bar 150 ms)", v.name, took[0], warm)
		}
	}
	t.Logf("%d MB held", memory(t)>>20)
}
