package web_test

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/demo"
	"restbend/web/site"
)

// disk is how much a database takes up with its log, bytes.
func (p *practice) disk() (n int64) {
	for _, end := range []string{"", "-wal"} {
		if info, err := os.Stat(p.store.Path() + end); err == nil {
			n += info.Size()
		}
	}
	return n
}

// However often strangers try, what is held back leaves nothing, stalls no save, and the owner comes in with a device
// of theirs: 100,000 tries by names and places in make attack, 2,000 here.
func TestManyTriesAreHeldBack(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tries, bar := 2000, time.Second // other tests run beside it
	if attack() {
		tries, bar = 100000, 50*time.Millisecond
	}
	base := start(t, true)
	p := practiceOn(t, base.store, site.Options{Proxies: []string{"127.0.0.1/32"}})
	owner := p.another()
	code, _ := owner.try(demo.Name, demo.Password, "X-Forwarded-For", "192.0.2.10")
	require.Equal(t, 200, code)
	busy := p.another()
	busy.try(demo.Name, demo.Password, "X-Forwarded-For", "192.0.2.11")
	id := busy.teach()
	owner.do("POST", "/sign-out", url.Values{})
	guess := func(q *practice, name, from string) int {
		r, err := http.NewRequest("POST", p.url+"/sign-in", bytes.NewReader([]byte(url.Values{"name": {name}, "password": {"wrong-wrong-wrong"}}.Encode())))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("X-Forwarded-For", from)
		resp, err := http.DefaultTransport.RoundTrip(r)
		if err != nil {
			return 0
		}
		_, _ = io.Copy(io.Discard, resp.Body)
		resp.Body.Close()
		return resp.StatusCode
	}
	for i := range 60 { // until the name, and one place, have had their share
		guess(p, demo.Name, fmt.Sprintf("198.51.100.%d", i%6))
		guess(p, fmt.Sprint("nobody", i), "203.0.113.7")
	}
	_, err := p.store.DB.Exec(`PRAGMA wal_checkpoint(TRUNCATE)`)
	require.NoError(t, err)
	before := p.disk()
	answers := map[int]int{}
	var mu sync.Mutex
	attack := func(tries, from int) <-chan struct{} {
		var attackers sync.WaitGroup
		for k := range 4 {
			attackers.Go(func() {
				own := map[int]int{}
				for i := from; i < from+tries/4; i++ {
					if k%2 == 0 {
						own[guess(p, demo.Name, fmt.Sprintf("198.51.%d.%d", i/250%250, i%250))]++ // one name, ever new places
					} else {
						own[guess(p, fmt.Sprint("nobody", k, "-", i), "203.0.113.7")]++ // one place, ever new names
					}
				}
				mu.Lock()
				for c, n := range own {
					answers[c] += n
				}
				mu.Unlock()
			})
		}
		over := make(chan struct{})
		go func() { attackers.Wait(); close(over) }()
		return over
	}
	begun := time.Now()
	<-attack(tries, 0)
	grew := p.disk() - before
	took := []time.Duration{}
	for over, on := attack(tries/5, tries), true; on; { // and somebody works meanwhile
		at := time.Now()
		code, page := busy.mark(id, sent(fmt.Sprint("save", len(took)), "note", 0, `, "text": "calm"`))
		took = append(took, time.Since(at))
		require.Equal(t, 200, code, "%.200s", page)
		select {
		case <-over:
			on = false
		case <-time.After(5 * time.Millisecond):
		}
	}
	slices.Sort(took)
	p99 := took[len(took)*99/100]
	t.Logf("%d tries in %s, answered %v; the database grew %d kB; a save takes %s (p50), %s (p99 of %d)", tries*6/5, time.Since(begun).Round(time.Second), answers, grew>>10, took[len(took)/2], p99, len(took))
	assert.Less(t, grew, int64(1<<20), "what is held back is not kept")
	assert.Less(t, p99, bar)
	assert.Greater(t, answers[429], tries*9/10)
	code, page := owner.try(demo.Name, demo.Password, "X-Forwarded-For", "192.0.2.10")
	assert.Equal(t, 200, code)
	assert.NotContains(t, page, "Too many attempts")
}

// Six uploads at once of people nobody knows: nothing on the disk, and next to nothing held.
func TestUploadsOfStrangers(t *testing.T) {
	p := start(t, true)
	left := func() int {
		list, err := filepath.Glob(filepath.Join(os.TempDir(), "multipart-*"))
		require.NoError(t, err)
		return len(list)
	}
	files, held := left(), memory(t)
	var most uint64
	var all sync.WaitGroup
	for range 6 {
		all.Go(func() {
			body := &counted{left: 60 << 20}
			r, err := http.NewRequest("POST", p.url+"/clients/import", body)
			assert.NoError(t, err)
			r.ContentLength = body.left
			r.Header.Set("Content-Type", "multipart/form-data; boundary=x")
			client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
			if resp, err := client.Do(r); err == nil {
				resp.Body.Close()
				assert.Contains(t, []int{303, 413}, resp.StatusCode)
			}
			assert.Less(t, body.read.Load(), int64(8<<20))
		})
	}
	done := make(chan struct{})
	go func() { all.Wait(); close(done) }()
	for on := true; on; {
		select {
		case <-done:
			on = false
		case <-time.After(2 * time.Millisecond):
			most = max(most, memory(t))
		}
	}
	assert.Equal(t, files, left())
	grew := int64(most) - int64(held)
	t.Logf("%d kB held more", grew>>10)
	assert.Less(t, grew, int64(20<<20))
}

// timed is a line that notes what deadlines it is given.
type timed struct {
	*httptest.ResponseRecorder
	read, write time.Time
}

func (l *timed) SetReadDeadline(at time.Time) error  { l.read = at; return nil }
func (l *timed) SetWriteDeadline(at time.Time) error { l.write = at; return nil }

// What may come in, and how long it and its answer may take, is by route: the largest file over 200 kB a second comes
// through, what a client with thousands of sessions gives is not cut, and everything else has what every request has.
func TestSizesAndDeadlinesByRoute(t *testing.T) {
	p := start(t, true).signIn()
	at, err := url.Parse(p.url)
	require.NoError(t, err)
	for _, c := range []struct {
		method, path string
		size         int
		code         int
		read, write  time.Duration // at least (64 MB over 200 kB/s take 336 s), 0 for what every request has
	}{
		{"POST", "/clients/import", 3 << 20, 422, 340 * time.Second, 340 * time.Second},
		{"GET", "/clients/2/export", 0, 200, 0, 20 * time.Minute},
		{"POST", "/clients/2/intake/person", 3 << 20, 413, 0, 0},
		{"POST", "/preferences", 20 << 10, 400, 0, 0},
		{"POST", "/account/password", 20 << 10, 413, 0, 0},
		{"GET", "/clients/2", 0, 200, 0, 0},
	} {
		var body bytes.Buffer
		kind := "application/x-www-form-urlencoded"
		switch c.path {
		case "/clients/import":
			w := multipart.NewWriter(&body)
			f, err := w.CreateFormFile("file", "c.json")
			require.NoError(t, err)
			_, err = f.Write(bytes.Repeat([]byte("x"), c.size))
			require.NoError(t, err)
			require.NoError(t, w.Close())
			kind = w.FormDataContentType()
		case "/preferences":
			kind = "application/json"
			fmt.Fprintf(&body, `{"words": "full", "keys": {"a": %q}}`, bytes.Repeat([]byte("x"), c.size))
		default:
			body.WriteString("notes=")
			body.Write(bytes.Repeat([]byte("x"), c.size))
		}
		r := httptest.NewRequest(c.method, p.url+c.path, &body)
		if c.method == "POST" {
			r.Header.Set("Content-Type", kind)
		}
		for _, k := range p.http.Jar.Cookies(at) {
			r.AddCookie(k)
		}
		line, now := &timed{ResponseRecorder: httptest.NewRecorder()}, time.Now()
		p.server.ServeHTTP(line, r)
		assert.Equal(t, c.code, line.Code, c.path)
		for name, d := range map[string]struct {
			got  time.Time
			want time.Duration
		}{"read": {line.read, c.read}, "write": {line.write, c.write}} {
			if d.want > 0 {
				assert.Greater(t, d.got.Sub(now), d.want, "%s of %s", name, c.path)
			} else {
				assert.True(t, d.got.IsZero(), "%s of %s", name, c.path)
			}
		}
	}
}
