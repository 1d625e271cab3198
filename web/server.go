// Package web is the application in the browser: server-rendered pages, with htmx for
// the parts that change. A handler reads and checks the request, calls the core, stores
// and renders.
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
	"restbend/core/trade"
	"restbend/store"
)

//go:embed templates/*.html
var templateFiles embed.FS

//go:embed static
var staticFiles embed.FS

// App is the whole application: the pages of every part on one server.
type App struct {
	*playerPages
	library   *libraryPages
	handler   http.Handler
	routeList gin.RoutesInfo // for the tests of permissions
}

// New prepares the application; with no options it is for this machine alone.
func New(st *store.Store, cat *catalogue.Catalogue, rules *safety.Rules, norms *assess.Norms, tasks []catalogue.Task, templates []kinds.Template, options ...Options) (*App, error) {
	static, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	base, err := newServer(st, cat, rules, norms, tasks, templates, static, options...)
	if err != nil {
		return nil, err
	}
	people := newPeoplePages(base)
	s := &App{playerPages: newPlayerPages(newPlanningPages(people)), library: &libraryPages{Server: base}}
	if err := s.parseTemplates(); err != nil {
		return nil, err
	}
	if err := s.routes(); err != nil {
		return nil, err
	}
	return s, base.prepare(context.Background())
}

// Close stops the background work of the application.
func (s *App) Close() {
	s.stopAhead() // the database is closed after this
	s.stopSessions()
}

// ServeHTTP serves one request.
func (s *App) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

func (s *App) routes() error {
	gin.SetMode(gin.ReleaseMode)
	g := gin.New()
	g.HandleMethodNotAllowed = true
	if err := g.SetTrustedProxies(s.opt.Proxies); err != nil { // none: whoever calls is who is on the line
		return fmt.Errorf("proxy: %w", err)
	}
	g.Use(s.headers, s.recovered, cleanUp, s.formRead)
	g.GET("/static/*file", gin.WrapH(http.StripPrefix("/static/", s.assets)))
	g.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "alive") })
	g.GET("/readyz", s.ready)
	g.GET("/sign-in", s.signInPage)
	g.POST("/sign-in", s.signIn)
	g.GET("/first-run", s.firstRunPage)
	g.POST("/first-run", s.firstRun)

	in := g.Group("/", s.signedIn)
	s.Server.routes(in)
	s.library.routes(in)
	s.peoplePages.routes(in)
	s.planningPages.routes(in)
	s.playerPages.routes(in)
	in.GET("/", func(c *gin.Context) { c.Redirect(http.StatusSeeOther, "/today") })
	g.NoRoute(func(c *gin.Context) {
		s.fail(c, http.StatusNotFound, "There is no such page", "The address may be mistyped or the entry was deleted.")
	})
	g.NoMethod(func(c *gin.Context) {
		s.fail(c, http.StatusMethodNotAllowed, "That cannot be done here", "Nothing was changed.")
	})

	s.routeList = g.Routes()
	s.handler = s.around(g)
	return nil
}

func (s *App) parseTemplates() error {
	funcs := template.FuncMap{
		"join":     strings.Join,
		"minutes":  func(sec int) string { return fmt.Sprintf("%d:%02d", sec/60, sec%60) },
		"position": func(p any) string { return catalogue.PositionWords(trade.Position(fmt.Sprint(p))) },
		"on":       func(m map[trade.Side]trade.Verdict, side string) trade.Verdict { return m[trade.Side(side)] },
		"codes":    codeWords,
		"words":    func(s any) string { return strings.ReplaceAll(strings.ReplaceAll(fmt.Sprint(s), "-", " "), "_", " ") },
		"sign":     s.signWords,
		"capital":  capital,
		"mark":     func(v any) string { return verdictMark(trade.Verdict(fmt.Sprint(v))) },
		"version":  s.anyVersion,
		"shaking":  func(v *catalogue.Version) string { return catalogue.Shaking[v.Shaking] },
		"kitWords": kitWords,
		"lines":    joinLines,
		"saidLines": func(list []catalogue.Said) string {
			lines := make([]string, len(list))
			for i, s := range list {
				lines[i] = s.Line()
			}
			return joinLines(lines)
		},
		"sentence": func(s string) string { return strings.ToUpper(s[:1]) + strings.ReplaceAll(s[1:], "-", " ") },
		"still":    func(data string) template.URL { return template.URL(data) }, // our own drawing, already escaped
		"has":      catalogue.Has[string],
		"add":      func(a, b int) int { return a + b },
		"list":     func(a ...string) []string { return a },
		"families": s.familyNames,
		"dict":     dict,
		"degrees":  degrees,
		"loads":    loads,
		"demand":   demand,
		"detail": func(name, code string) safety.Detail {
			d, _ := s.Rules.Detail(name, code)
			return d
		},
		"quantity": s.Rules.Words.Words,
		"perweek":  perWeek,
		"prefers":  func(r safety.Rule) []string { return s.Rules.Wants(&r) },
		"amount":   s.Rules.Words.Amount,
		"inplace":  isPlace,
		"pick": func(on bool, yes, no string) string {
			if on {
				return yes
			}
			return no
		},
		"fieldwords": fieldWords,
		"testname":   testName,
		"day":        func(at string) string { return strings.Replace(strings.TrimSuffix(at, "Z"), "T", " ", 1) },
	}
	s.pages = map[string]*template.Template{}
	names, err := fs.Glob(templateFiles, "templates/*.html")
	if err != nil {
		return err
	}
	for _, n := range names {
		name := strings.TrimSuffix(strings.TrimPrefix(n, "templates/"), ".html")
		if name == "layout" {
			continue
		}
		t := template.New(name).Funcs(funcs)
		for _, file := range []string{"templates/layout.html", n} {
			text, err := templateFiles.ReadFile(file)
			if err != nil {
				return err
			}
			if t, err = t.Parse(s.assets.named(string(text))); err != nil {
				return fmt.Errorf("%s: %w", file, err)
			}
		}
		s.pages[name] = t
	}
	return nil
}
