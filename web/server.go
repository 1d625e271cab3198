// Package web puts the pages of the application together: templates, static files and addresses.
// Pages are rendered on the server, with htmx for the parts that change. A handler reads and checks
// the request, calls the core, stores and renders.
//
// Security model. Every page but sign-in needs a server-side session; rows are always
// read through the signed-in account. Nothing inline runs: the Content-Security-Policy
// allows scripts and styles from this origin only. Requests from other origins that
// would change anything are refused (http.CrossOriginProtection). Passwords are argon2id
// hashes and attempts are throttled. docs/security.md says what is promised.
package web

import (
	"context"
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/assess"
	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/safety"
	"restbend/core/say"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/library"
	"restbend/web/people"
	"restbend/web/planning"
	"restbend/web/player"
	"restbend/web/site"
)

//go:embed templates/*.html
var templateFiles embed.FS

//go:embed static
var staticFiles embed.FS

// Server is the whole application: the pages of every part on one server.
type Server struct {
	*player.Player
	library   *library.Library
	handler   http.Handler
	routeList gin.RoutesInfo // for the tests of permissions
}

// New prepares the application; with no options it is for this machine alone.
func New(
	st *store.Store,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	norms *assess.Norms,
	tasks []catalogue.Task,
	templates []kinds.Template,
	options ...site.Options,
) (*Server, error) {
	static, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	base, err := site.New(st, cat, rules, norms, tasks, templates, static, options...)
	if err != nil {
		return nil, err
	}
	people := people.New(base)
	s := &Server{Player: player.New(planning.New(people)), library: &library.Library{Site: base}}
	if err := s.parseTemplates(); err != nil {
		return nil, err
	}
	if err := s.routes(); err != nil {
		return nil, err
	}
	return s, base.Prepare(context.Background())
}

// Close stops the background work of the application.
func (s *Server) Close() {
	s.StopAhead() // the database is closed after this
	s.StopSessions()
}

// ServeHTTP serves one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

func (s *Server) routes() error {
	gin.SetMode(gin.ReleaseMode)
	g := gin.New()
	g.HandleMethodNotAllowed = true
	if err := g.SetTrustedProxies(s.Opt.Proxies); err != nil { // none: whoever calls is who is on the line
		return fmt.Errorf("proxy: %w", err)
	}
	g.Use(s.Headers, s.Recovered, site.CleanUp)
	g.GET("/static/*file", gin.WrapH(http.StripPrefix("/static/", s.Assets)))
	g.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "alive") })
	g.GET("/readyz", s.Ready)
	g.GET("/sign-in", s.SignInPage)
	g.POST("/sign-in", s.DoorForm, s.SignIn)
	g.GET("/first-run", s.FirstRunPage)
	g.POST("/first-run", s.DoorForm, s.FirstRun)

	in := g.Group("/", s.SignedIn, site.Allowed, s.FormRead, people.GiveBack) // nothing of a body is read before somebody is known
	s.Site.Routes(in)
	s.library.Routes(in)
	s.People.Routes(in)
	s.Planning.Routes(in)
	s.Player.Routes(in)
	in.GET("/", func(c *gin.Context) { c.Redirect(http.StatusSeeOther, "/today") })
	g.NoRoute(func(c *gin.Context) {
		s.Fail(c, http.StatusNotFound, "There is no such page", "The address may be mistyped or the entry was deleted.")
	})
	g.NoMethod(func(c *gin.Context) {
		s.Fail(c, http.StatusMethodNotAllowed, "That cannot be done here", "Nothing was changed.")
	})

	s.routeList = g.Routes()
	s.handler = s.Around(g)
	return nil
}

// words are what templates say things with.
func (s *Server) words() template.FuncMap {
	return template.FuncMap{
		"join":       strings.Join,
		"minutes":    func(sec int) string { return fmt.Sprintf("%d:%02d", sec/60, sec%60) },
		"position":   func(p any) string { return catalogue.PositionWords(trade.Position(fmt.Sprint(p))) },
		"on":         func(m map[trade.Side]trade.Verdict, side string) trade.Verdict { return m[trade.Side(side)] },
		"codes":      site.CodeWords,
		"words":      func(s any) string { return strings.ReplaceAll(strings.ReplaceAll(fmt.Sprint(s), "-", " "), "_", " ") },
		"sign":       s.SignWords,
		"capital":    site.Capital,
		"mark":       func(v any) string { return site.VerdictMark(trade.Verdict(fmt.Sprint(v))) },
		"version":    s.AnyVersion,
		"shaking":    func(v *catalogue.Version) string { return say.Shaking[v.Shaking] },
		"kitWords":   site.KitWords,
		"lines":      library.JoinLines,
		"saidLines":  func(list []say.Said) string { return linesOf(list) },
		"faultLines": func(list []say.Fault) string { return linesOf(list) },
		"sentence":   func(s string) string { return strings.ToUpper(s[:1]) + strings.ReplaceAll(s[1:], "-", " ") },
		"still":      func(data string) template.URL { return template.URL(data) }, // our own drawing, already escaped
		"has":        catalogue.Has[string],
		"add":        func(a, b int) int { return a + b },
		"list":       func(a ...string) []string { return a },
		"families":   s.FamilyNames,
		"dict":       site.Dict,
		"degrees":    site.Degrees,
		"loads":      site.Loads,
		"demand":     site.Demand,
		"detail": func(name, code string) safety.Detail {
			d, _ := s.Rules.Detail(name, code)
			return d
		},
		"quantity": s.Rules.Words.Words,
		"perweek":  planning.PerWeek,
		"prefers":  func(r safety.Rule) []string { return s.Rules.Wants(&r) },
		"amount":   s.Rules.Words.Amount,
		"eased": func(f safety.Finding) string {
			return s.Rules.Words.Eased(f.Quantity, f.Value, *f.Eased, f.Allowed)
		},
		"inplace": site.IsPlace,
		"pick": func(on bool, yes, no string) string {
			if on {
				return yes
			}
			return no
		},
		"fieldwords": site.FieldWords,
		"testname":   people.TestName,
		"day":        func(at string) string { return strings.Replace(strings.TrimSuffix(at, "Z"), "T", " ", 1) },
	}
}

// parseTemplates reads every page with the layout around it.
func (s *Server) parseTemplates() error {
	s.Pages = map[string]*template.Template{}
	names, err := fs.Glob(templateFiles, "templates/*.html")
	if err != nil {
		return err
	}
	parse := func(t *template.Template, file string) (*template.Template, error) {
		text, err := templateFiles.ReadFile(file)
		if err != nil {
			return nil, err
		}
		if t, err = t.Parse(s.Assets.Named(string(text))); err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
		return t, nil
	}
	const layout = "templates/layout.html"
	around, err := parse(template.New("layout").Funcs(s.words()), layout)
	if err != nil {
		return err
	}
	for _, n := range names {
		if n == layout {
			continue
		}
		t, err := around.Clone()
		if err != nil {
			return err
		}
		if t, err = parse(t, n); err != nil {
			return err
		}
		s.Pages[strings.TrimSuffix(strings.TrimPrefix(n, "templates/"), ".html")] = t
	}
	return nil
}

// linesOf are sentences with their codes, one a line, as they are typed.
func linesOf[S interface{ Line() string }](list []S) string {
	lines := make([]string, len(list))
	for i, s := range list {
		lines[i] = s.Line()
	}
	return library.JoinLines(lines)
}
