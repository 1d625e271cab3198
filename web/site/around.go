package site

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"restbend/exchange"
)

// What stands around the pages: who may be believed on the line, sessions, sizes, headers, files that are delivered as
// they are, and whether the program is well.

// Options are how a server is reached. Proxies are the addresses (CIDR) of proxies whose word on who calls is believed;
// Secure says that browsers reach it by TLS, through a proxy or its own certificate.
type Options struct {
	Proxies []string
	Secure  bool
}

// lifetime is how long somebody stays signed in at most (product default).
const lifetime = 12 * time.Hour

func (s *Site) startSessions() {
	s.Sessions = scs.New()
	ss := sqlite3store.NewWithCleanupInterval(s.Store.DB, 30*time.Minute)
	s.Sessions.Store, s.stop = ss, ss.StopCleanup
	s.Sessions.Lifetime = lifetime
	s.Sessions.HashTokenInStore = true
	s.Sessions.Cookie.Name = "restbend"
	s.Sessions.Cookie.HttpOnly = true
	s.Sessions.Cookie.SameSite = http.SameSiteLaxMode
	if s.Opt.Secure { // the prefix makes browsers refuse one that another host set
		s.Sessions.Cookie.Name, s.Sessions.Cookie.Secure, s.Sessions.Cookie.Path = "__Host-restbend", true, "/"
	}
	s.Sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		slog.Error("sessions", "path", r.URL.Path, "error", err)
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = fmt.Fprint(
			w,
			s.plainFailure(
				"The database cannot be used",
				"Nobody can be signed in until it can be read and written again. What was stored before is kept. Whoever keeps the program looks at the log and runs restbend doctor.",
			),
		)
	}
}

// plainFailure is the page of a failure for when nothing is known of who asks.
func (s *Site) plainFailure(what, kept string) string {
	var sb strings.Builder
	if err := s.Pages["error"].ExecuteTemplate(&sb, "layout",
		Page{Title: what, Demo: s.Demo, Cautions: s.Rules.Cautions, Data: failure{what, kept}}); err != nil {
		return what
	}
	return sb.String()
}

// Around puts sessions and compression around the pages.
func (s *Site) Around(g http.Handler) http.Handler {
	pages := http.NewCrossOriginProtection().Handler(s.Sessions.LoadAndSave(g))
	known := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch { // what has nothing to do with who is signed in works without a database
		case r.URL.Path == "/healthz", r.URL.Path == "/readyz", strings.HasPrefix(r.URL.Path, "/static/"):
			g.ServeHTTP(w, r)
		default:
			pages.ServeHTTP(w, r)
		}
	})
	packed := gzhttp.GzipHandler(known)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead { // answered as GET; the server leaves the body out
			r = r.Clone(r.Context())
			r.Method = http.MethodGet
		}
		packed.ServeHTTP(w, r)
	})
}

// Headers are sent with every answer.
func (s *Site) Headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set(
		"Content-Security-Policy",
		"default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'",
	)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("X-Frame-Options", "DENY")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
	h.Set("Cache-Control", "no-store")
	if s.Opt.Secure {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	c.Next()
}

// CleanUp takes away what an upload left in the temporary folder.
func CleanUp(c *gin.Context) {
	c.Next()
	if f := c.Request.MultipartForm; f != nil {
		if err := f.RemoveAll(); err != nil {
			slog.Error("temporary files", "error", err)
		}
	}
}

// allowance is how much may come in with a request of a route, bytes, and how long it may take to come in and to be
// answered; 0 is what the server allows every request (all product defaults).
type allowance struct {
	bytes       int64
	read, write time.Duration
}

// usual is what a request is allowed whose route is not named.
var usual = allowance{bytes: 1 << 20}

// allowances are the routes that need more, or less. A line of 200 kB a second carries the largest bundle in under six
// minutes, and what everything about a client with thousands of sessions makes in under half an hour.
var allowances = map[string]allowance{
	"POST /clients/import":     {exchange.MaxBundle + 1<<20, 12 * time.Minute, 15 * time.Minute},
	"GET /clients/:id/export":  {bytes: usual.bytes, write: 30 * time.Minute},
	"POST /preferences":        {bytes: 8 << 10},
	"POST /teach/:id/change":   {bytes: 8 << 10},
	"POST /account/password":   {bytes: mostDoor},
	"POST /practice/accounts":  {bytes: mostDoor},
	"POST /clients/:id/delete": {bytes: mostDoor},
}

// Allowed bounds what is read of a request, and for how long, by its route. It stands behind knowing who asks.
func Allowed(c *gin.Context) {
	a, special := allowances[c.Request.Method+" "+c.FullPath()]
	if !special {
		a = usual
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, a.bytes)
	line, now := http.NewResponseController(c.Writer), time.Now()
	var err error
	if a.read > 0 {
		err = line.SetReadDeadline(now.Add(a.read))
	}
	if a.write > 0 {
		err = errors.Join(err, line.SetWriteDeadline(now.Add(a.write)))
	}
	if err != nil && !errors.Is(err, http.ErrNotSupported) { // a line that has no deadlines has no need of more
		slog.Warn("deadlines", "path", c.Request.URL.Path, "error", err)
	}
}

// mostDoor is how much a form may hold that somebody sends who is not signed in, bytes (product default).
const mostDoor = 8 << 10

// DoorForm reads the form of somebody who is not signed in: a short one, and nothing that is uploaded.
func (s *Site) DoorForm(c *gin.Context) {
	if c.ContentType() != gin.MIMEPOSTForm {
		s.Fail(c, http.StatusUnsupportedMediaType, "The form could not be read", "Nothing was changed.")
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, mostDoor)
	s.FormRead(c)
}

// FormRead reads the form of a request before anybody uses it: one that cannot be read is refused in one place.
func (s *Site) FormRead(c *gin.Context) {
	if c.Request.Method != http.MethodPost || strings.HasPrefix(c.ContentType(), "application/json") {
		return
	}
	err := c.Request.ParseForm()
	if err == nil && c.ContentType() == gin.MIMEMultipartPOSTForm {
		err = c.Request.ParseMultipartForm(multipartMemory)
	}
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		s.Fail(c, http.StatusRequestEntityTooLarge, "This is more than a form may hold", "Nothing was changed.")
	case err != nil:
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
	}
}

// multipartMemory is how much of an upload is held in memory, bytes; the rest waits in the temporary folder.
const multipartMemory = 8 << 20

// Recovered turns a panic into a plain error page; the trace goes to the log only.
func (s *Site) Recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("panic", "path", c.Request.URL.Path, "error", p)
			s.Fail(
				c,
				http.StatusInternalServerError,
				"Something went wrong here",
				"What was saved before is kept. Go back and try again.",
			)
		}
	}()
	c.Next()
}

// askedAgain is how long an answer of whether the database is ready holds (product default).
const askedAgain = 500 * time.Millisecond

// readiness is what was found last of the database.
type readiness struct {
	mu  sync.Mutex
	at  time.Time
	err error
}

// Ready tells whether the database can be read and written.
func (s *Site) Ready(c *gin.Context) {
	s.readiness.mu.Lock()
	if time.Since(s.readiness.at) > askedAgain { // anybody may ask: the disk is not written for each
		s.readiness.at, s.readiness.err = time.Now(), s.Store.Ready(c)
		if s.readiness.err != nil {
			slog.Error("not ready", "error", s.readiness.err)
		}
	}
	err := s.readiness.err
	s.readiness.mu.Unlock()
	if err != nil {
		c.String(http.StatusServiceUnavailable, "not ready: the database cannot be read and written")
		return
	}
	c.String(http.StatusOK, "ready")
}

// assets are the files that are delivered as they are. Their addresses carry a name made from all of them: browsers
// keep them for a year, and a new program has new addresses.
type assets struct {
	files fs.FS
	name  string
}

func newAssets(files fs.FS) (assets, error) {
	sum := sha256.New()
	err := fs.WalkDir(files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(files, name)
		fmt.Fprintf(sum, "%s %d\n", name, len(data))
		sum.Write(data)
		return err
	})
	return assets{files, fmt.Sprintf("v%x", sum.Sum(nil)[:6])}, err
}

// Named gives the addresses in a text their name.
func (a assets) Named(text string) string {
	return strings.ReplaceAll(text, `"/static/`, `"/static/`+a.name+`/`)
}

func (a assets) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	name := strings.TrimPrefix(path.Clean("/"+r.URL.Path), "/")
	version, rest, _ := strings.Cut(name, "/")
	current := version == a.name
	if versioned(version) {
		name = rest
	}
	info, err := fs.Stat(a.files, name)
	if err != nil || info.IsDir() {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Cache-Control", "no-cache")
	if current {
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	kind := map[string]string{".js": "text/javascript", ".css": "text/css"}[path.Ext(name)]
	if kind != "" { // files name each other: within one program, under one name
		data, err := fs.ReadFile(a.files, name)
		if err != nil {
			http.NotFound(w, r)
			return
		}
		w.Header().Set("Content-Type", kind+"; charset=utf-8")
		_, _ = w.Write([]byte(a.Named(string(data))))
		return
	}
	http.ServeFileFS(w, r, a.files, name)
}

// versioned tells whether the first part of an address is a name made from files: v and twelve digits.
func versioned(part string) bool {
	return len(part) == 13 && part[0] == 'v' && strings.Trim(part[1:], "0123456789abcdef") == ""
}
