package main

import (
	"database/sql"
	"encoding/json"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"restbend/demo"
)

// A backup taken while the server writes restores to a state in which every session has
// its marks from the first on, without gaps.
func TestABackupOfABusyServerRestoresToAConsistentState(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir, copies := t.TempDir(), t.TempDir()
	cmd, u := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	post := func(path string, form url.Values) string {
		r, err := c.PostForm(u+path, form)
		require.NoError(t, err)
		r.Body.Close()
		return r.Request.URL.Path
	}
	post("/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	post("/clients/2/plans", url.Values{"minutes": {"30"}})
	taught := post("/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"2"}})
	stop := make(chan struct{})
	var busy sync.WaitGroup
	busy.Go(func() {
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
			}
			body := `{"marks":[{"key":"k` + itoa(i) + `","kind":"felt","felt":"tiring","item":0,"side":"none","pos":0,"at":"2026-11-20T09:31:04Z"}]}`
			if r, err := c.Post(u+taught+"/marks", "application/json", strings.NewReader(body)); err == nil {
				r.Body.Close()
			}
		}
	})
	var files []string
	for i := range 4 {
		to := filepath.Join(copies, "copy"+itoa(i)+".db")
		code, _, errs := run("", "backup", "--data", dir, "--to", to)
		require.Zero(t, code, errs)
		files = append(files, to)
	}
	close(stop)
	busy.Wait()
	code, _, errs := run("", "backup", "--data", dir, "--to", files[0])
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "exists already")
	code, _, errs = run("", "restore", "--data", dir, "--from", files[0])
	assert.Equal(t, 2, code, "not under a running server")
	assert.Contains(t, errs, "in use by a running server")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()

	last := -1
	for _, file := range files {
		back := t.TempDir()
		code, out, errs := run("", "restore", "--data", back, "--from", file)
		require.Zero(t, code, errs)
		assert.Contains(t, out, "Restored 4 clients")
		code, out, errs = run("", "doctor", "--data", back, "--json")
		require.Zero(t, code, out+errs)
		var report struct {
			Rows     map[string]int
			Problems []string
		}
		require.NoError(t, json.Unmarshal([]byte(out), &report))
		assert.Empty(t, report.Problems)
		db, err := sql.Open("sqlite", filepath.Join(back, databaseFile))
		require.NoError(t, err)
		var n, highest int
		require.NoError(t, db.QueryRow(`SELECT count(*), coalesce(max(CAST(substr(key, 2) AS INTEGER)), -1) FROM marks WHERE key LIKE 'k%' AND taught_id = (SELECT max(id) FROM taught)`).Scan(&n, &highest))
		require.NoError(t, db.Close())
		assert.Equal(t, highest+1, n, "no mark is missing in the middle")
		assert.GreaterOrEqual(t, n, last, "a later copy holds no less")
		last = n
	}
	assert.Positive(t, last, "the server was busy")
	code, out, _ := run("", "restore", "--data", dir, "--from", files[3])
	assert.Zero(t, code)
	assert.Contains(t, out, "is kept as")
	kept, err := filepath.Glob(filepath.Join(dir, databaseFile+".before-*"))
	require.NoError(t, err)
	assert.NotEmpty(t, kept)
}

func itoa(i int) string { b, _ := json.Marshal(i); return string(b) }

func TestDoctorAndRestoreRefuseWhatIsBroken(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir := t.TempDir()
	cmd, _ := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	code, out, _ := run("", "doctor", "--data", dir)
	assert.Zero(t, code, out)
	assert.Contains(t, out, "No problem found.")
	junk := filepath.Join(t.TempDir(), "junk.db")
	require.NoError(t, os.WriteFile(junk, []byte("not a database at all, but long enough to look like one"), 0o600))
	code, _, errs := run("", "restore", "--data", dir, "--from", junk)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "cannot be used")
	code, _, errs = run("", "restore", "--data", dir, "--from", "/nowhere.db")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "no such file")
	db, err := sql.Open("sqlite", filepath.Join(dir, databaseFile))
	require.NoError(t, err)
	_, err = db.Exec(`UPDATE clients SET document = json_set(document, '$.born', 'long ago') WHERE id = 2`)
	require.NoError(t, err)
	_, err = db.Exec(`UPDATE plans SET client_id = 99; PRAGMA foreign_keys = 0; INSERT INTO plans (client_id, document, client_revision, created_at) VALUES (99, '{}', 1, 't')`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	code, out, errs = run("", "doctor", "--data", dir)
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "Problem: client 2: born: found string, allowed: integer")
	assert.Contains(t, out, "points to a missing row of clients")
	assert.Contains(t, errs, "2 problems found")
	for _, c := range []string{"doctor", "export", "backup --to x"} {
		args := append(strings.Fields(c), "--data", t.TempDir())
		code, _, errs = run("", args...)
		assert.Equal(t, 2, code, c)
		assert.Contains(t, errs, "no database in", c)
	}
}

func TestExportAndImport(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir, other := t.TempDir(), t.TempDir()
	for _, d := range []string{dir, other} {
		cmd, _ := server(t, "demo", "--data", d, "--addr", "127.0.0.1:0")
		require.NoError(t, cmd.Process.Kill())
		_ = cmd.Wait()
	}
	code, one, errs := run("", "export", "--data", dir, "--client", "2")
	require.Zero(t, code, errs)
	assert.Contains(t, one, "Teo Marlack")
	assert.NotContains(t, one, "Oda Brinkwater")
	code, out, errs := run(one, "import", "--data", other, "--account", demo.Second)
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Added 1 clients to "+demo.Second)
	code, all, _ := run("", "export", "--data", other)
	require.Zero(t, code)
	assert.Equal(t, 2, strings.Count(all, `"name": "Teo Marlack"`))
	code, out, errs = run(one, "import", "--data", other, "--account", demo.Second)
	require.Zero(t, code, errs)
	assert.Contains(t, out, "Already here and left as they are: 1 clients")
	file := filepath.Join(t.TempDir(), "all.json")
	code, _, errs = run("", "export", "--data", other, "--to", file)
	require.Zero(t, code, errs)
	code, _, errs = run("", "export", "--data", dir, "--client", "77")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "there is no client 77")
	code, _, errs = run(one, "import", "--data", other, "--account", "nobody")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `no account is called "nobody"`)
	code, _, errs = run(`{"format": "restbend.bundle/1"}`, "import", "--data", other, "--account", demo.Name)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "clients: is missing")
}
