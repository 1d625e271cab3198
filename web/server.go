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
	"crypto/rand"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"restbend/core/assess"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/safety"
	"restbend/core/statics"
	"restbend/core/trade"
	"restbend/figure"
	"restbend/store"
	"restbend/teaching"
)

//go:embed templates/*.html
var templateFiles embed.FS

//go:embed static
var staticFiles embed.FS

// Server serves the application.
type Server struct {
	Store     *store.Store
	Cat       *catalogue.Catalogue
	Rules     *safety.Rules // the defaults; limits() are in force
	Norms     *assess.Norms
	Tasks     []catalogue.Task
	Templates []kinds.Template // kinds of session as delivered
	Today     func() trade.Day // in the practice's time zone
	Demo      bool
	sessions  *scs.SessionManager
	stop      func()
	drawer    *figure.Drawer
	pages     map[string]*template.Template
	opt       Options
	firstCode string // what the first account is made with, empty when there is one
	assets    assets
	own       ownVersions
	inForce   atomic.Pointer[safety.Rules]
	previews  previews
	sent      sentParts
	handler   http.Handler
	zone      atomic.Pointer[time.Location]
	standings *lru.Cache[int64, *standing]
	logs      *lru.Cache[int64, readLog]
	readiness readiness
	working   atomic.Bool // on standings, beside the pages
	closed    atomic.Bool
	arrivals  *lru.Cache[string, *arriving]     // files that wait for a choice
	routeList gin.RoutesInfo                    // for the tests of permissions
	extents   *lru.Cache[extent, record.Bounds] // of running sessions
}

// New prepares a server; with no options it is for this machine alone.
func New(st *store.Store, cat *catalogue.Catalogue, rules *safety.Rules, norms *assess.Norms, tasks []catalogue.Task, templates []kinds.Template, options ...Options) (*Server, error) {
	s := &Server{Store: st, Cat: cat, Rules: rules, Norms: norms, Tasks: tasks, Templates: templates, drawer: figure.NewDrawer(body.NewBody(body.Female, 0))}
	for _, o := range options {
		s.opt = o
	}
	s.own.cats = map[int64]*catalogue.Catalogue{}
	s.extents = bounded[extent, record.Bounds](500)
	s.standings, s.logs = bounded[int64, *standing](mostStandings), bounded[int64, readLog](mostLogs)
	s.arrivals = bounded[string, *arriving](4)
	changes, err := st.LimitChanges(context.Background())
	if err != nil {
		return nil, err
	}
	s.loadLimits(changes)
	s.startSessions()
	static, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	if s.assets, err = newAssets(static); err != nil {
		return nil, err
	}
	if err := s.parseTemplates(); err != nil {
		return nil, err
	}
	if err := s.routes(); err != nil {
		return nil, err
	}
	if n, err := st.Accounts(context.Background()); err != nil {
		return nil, err
	} else if n == 0 {
		s.firstCode = rand.Text()[:10]
	}
	if err := st.EmptyBin(context.Background(), time.Now()); err != nil {
		return nil, err
	}
	if err := teaching.Settle(context.Background(), st); err != nil {
		return nil, err
	}
	if err := s.loadZone(context.Background()); err != nil {
		return nil, err
	}
	return s, s.checkOwn(context.Background())
}

// Close stops the background work of the server.
func (s *Server) Close() {
	s.closed.Store(true)
	for s.working.Load() { // the database is closed after this
		time.Sleep(5 * time.Millisecond)
	}
	s.stop()
}

// ServeHTTP serves one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

func (s *Server) routes() error {
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
	in.POST("/sign-out", s.signOut)
	in.GET("/", func(c *gin.Context) { c.Redirect(http.StatusSeeOther, "/today") })
	in.GET("/today", s.startOfDay)
	in.GET("/clients", s.clients)
	in.GET("/clients/new", s.newClient)
	in.POST("/clients/new", s.saveIntake)
	in.POST("/clients/import", s.importClients)
	in.POST("/clients/import/:key", s.chooseImport)
	in.GET("/clients/:id", s.client)
	in.GET("/clients/:id/intake", s.intake)
	in.GET("/clients/:id/intake/:step", s.intake)
	in.POST("/clients/:id/intake/:step", s.saveIntake)
	in.POST("/clients/:id/today", s.saveToday)
	in.POST("/teach/:id/follow-up", s.saveFollowUp)
	in.POST("/plans/:id/confirm", s.confirm)
	in.POST("/clients/:id/overrides", s.saveOverride)
	in.GET("/clients/:id/history", s.history)
	in.GET("/clients/:id/tests", s.testsPage)
	in.POST("/clients/:id/tests", s.saveTests)
	in.GET("/clients/:id/export", s.exportClient)
	in.POST("/clients/:id/share", s.shareClient)
	in.GET("/clients/:id/delete", s.confirmDelete)
	in.POST("/clients/:id/delete", s.deleteClient)
	in.GET("/clients/:id/verdicts", s.verdicts)
	in.GET("/clients/:id/verdicts/:slug", s.verdict)
	in.POST("/clients/:id/plans", s.createPlan)
	in.GET("/plans/:id", s.plan)
	in.POST("/plans/:id/edit", s.editPlan)
	in.POST("/plans/:id/step/:way", s.stepPlan)
	in.POST("/plans/:id/best", s.bestPlan)
	in.POST("/plans/:id/rebuild", s.rebuildPlan)
	in.GET("/plans/:id/others", s.showOthers)
	in.POST("/plans/:id/refresh", s.refreshPlan)
	in.POST("/plans/:id/day", s.planDay)
	in.POST("/plans/:id/delete", s.deletePlan)
	in.GET("/plans/:id/print", s.printPlan)
	in.GET("/clients/:id/course", s.course)
	in.POST("/clients/:id/again", s.again)
	in.GET("/several", s.severalPage)
	in.POST("/several", s.several)
	in.GET("/kinds", s.kindsPage)
	in.GET("/kinds/:slug", s.keeperOnly, s.editKind)
	in.POST("/kinds/:slug", s.keeperOnly, s.saveKind)
	in.GET("/plans/:id/start", s.startPage)
	in.POST("/plans/:id/start", s.start)
	in.GET("/teach/:id", s.teach)
	in.GET("/beside", s.beside)
	in.GET("/teach/:id/data", s.teachData)
	in.POST("/teach/:id/marks", s.addMarks)
	in.GET("/teach/:id/marks", s.newMarks)
	in.POST("/teach/:id/change", s.change)
	in.GET("/teach/:id/offers", s.offers)
	in.POST("/teach/:id/correct", s.correct)
	in.POST("/teach/:id/next", s.nextWord)
	in.POST("/preferences", s.savePreferences)
	in.GET("/teach/:id/after", s.after)
	in.POST("/teach/:id/after", s.finish)
	in.GET("/library", s.library)
	in.GET("/library/compare", s.compare)
	in.GET("/library/model", s.model)
	in.GET("/library/:slug", s.entry)
	in.GET("/library/:slug/revisions/:n", s.revision)
	in.POST("/library/:slug/copy", s.copyVersion)
	in.GET("/limits", s.limitsPage)
	in.GET("/limits/export", s.exportLimits)
	in.GET("/limits/edit", s.keeperOnly, s.editLimit)
	in.POST("/limits/preview", s.keeperOnly, s.previewLimit)
	in.GET("/limits/preview/:id", s.keeperOnly, s.showPreview)
	in.POST("/limits/preview/:id/save", s.keeperOnly, s.saveLimit)
	in.GET("/practice", s.practice)
	in.POST("/practice/accounts", s.keeperOnly, s.addAccount)
	in.POST("/practice/accounts/:id/close", s.keeperOnly, s.closeAccount)
	in.POST("/practice/keeper", s.keeperOnly, s.moveKeeper)
	in.POST("/practice/idle", s.keeperOnly, s.saveIdle)
	in.POST("/account/password", s.changePassword)
	in.POST("/account/sign-ins/:id/end", s.endSignIn)
	in.GET("/bin", s.binPage)
	in.POST("/bin/:kind/:id/:way", s.bin)
	in.POST("/practice/zone", s.keeperOnly, s.saveZone)
	in.POST("/practice/minutes", s.keeperOnly, s.saveMinutes)
	in.GET("/own", s.ownList)
	in.POST("/own/import", s.ownImport)
	in.GET("/own/:id", s.ownEdit)
	in.POST("/own/:id", s.ownSave)
	in.POST("/own/:id/check", s.ownCheck)
	in.POST("/own/:id/withdraw", s.ownWithdraw)
	in.GET("/own/:id/export", s.ownExport)
	in.GET("/figures/:file", s.figure)
	in.GET("/figures/:file/film", s.film)
	in.GET("/poses/:file", s.pose)
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

// page is what every template gets.
type page struct {
	Title    string
	SignedIn bool
	Account  int64 // who is signed in, for what the browser keeps for each person
	Demo     bool
	Cautions []string
	Removed  *removed // what the page before removed
	Data     any
}

func (s *Server) parseTemplates() error {
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

// degrees says what the spine does in a phase, leaving out posture noise.
func degrees(p catalogue.SolvedPhase) string {
	var out []string
	m := p.Measures
	for _, r := range []struct {
		name string
		r    statics.Region
	}{{"low back", m.Lumbar}, {"upper back", m.Thoracic}, {"neck", m.Neck}} {
		for _, d := range []struct {
			v           float64
			plus, minus string
		}{{r.r.Flexion, "bends", "arches"}, {r.r.SideBend, "bends left", "bends right"}, {r.r.Rotation, "turns left", "turns right"}} {
			if d.v > catalogue.LoadNoise {
				out = append(out, fmt.Sprintf("%s %s %.0f°", r.name, d.plus, d.v))
			} else if d.v < -catalogue.LoadNoise {
				out = append(out, fmt.Sprintf("%s %s %.0f°", r.name, d.minus, -d.v))
			}
		}
	}
	if out == nil {
		return "spine long"
	}
	return strings.Join(out, ", ")
}

// fieldWords reads a field's path aloud: condition.scoliosis.degrees.
func fieldWords(path string) string {
	parts := strings.Split(path, ".")
	if len(parts) > 2 && (parts[0] == "clearance" || parts[0] == "operation") {
		parts[1] = "" // which row is seen beside the field
	}
	parts = slices.DeleteFunc(parts, func(p string) bool { return p == "" || p == "condition" })
	return strings.NewReplacer("_", " ", "-", " ").Replace(strings.Join(parts, ", "))
}

func dict(kv ...any) map[string]any {
	m := map[string]any{}
	for i := 0; i+1 < len(kv); i += 2 {
		m[fmt.Sprint(kv[i])] = kv[i+1]
	}
	return m
}

// render writes a page, or one named fragment of it.
func (s *Server) render(c *gin.Context, status int, name, fragment, title string, data any) {
	if fragment == "" {
		fragment = "layout"
	}
	var sb strings.Builder
	p := page{Title: title, SignedIn: s.account(c) != 0, Account: s.account(c), Demo: s.Demo, Cautions: s.Rules.Cautions, Data: data}
	if fragment == "layout" && p.SignedIn {
		p.Removed = s.justRemoved(c)
	}
	if err := s.pages[name].ExecuteTemplate(&sb, fragment, p); err != nil {
		slog.Error("template", "page", name, "error", err)
		c.String(http.StatusInternalServerError, "Something went wrong while drawing this page.")
		return
	}
	c.Data(status, "text/html; charset=utf-8", []byte(sb.String()))
}

type failure struct{ What, Kept string }

func (s *Server) fail(c *gin.Context, status int, what, kept string) {
	c.Abort()
	if strings.Contains(c.GetHeader("Accept"), "application/json") {
		c.JSON(status, gin.H{"error": what, "kept": kept})
		return
	}
	s.render(c, status, "error", "", what, failure{what, kept})
}

// failed answers for an error of the store or the core.
func (s *Server) failed(c *gin.Context, err error) {
	switch {
	case errors.Is(err, store.ErrNotFound):
		s.fail(c, http.StatusNotFound, "There is no such entry", "It may have been deleted.")
	case errors.Is(err, context.Canceled): // nobody waits for the answer
		c.Abort()
	case store.Broken(err) != "":
		slog.Error("the database", "path", c.Request.URL.Path, "error", err)
		s.fail(c, http.StatusServiceUnavailable, store.Broken(err), "What was stored before is kept. Whoever keeps the program runs restbend doctor, and looks at the log.")
	case errors.Is(err, plan.ErrDamaged):
		slog.Warn("damaged", "path", c.Request.URL.Path, "error", err)
		s.fail(c, http.StatusUnprocessableEntity, "This plan is damaged and cannot be opened", "Everything else is as it was. It can be removed on the client's course page; plan another one.")
	case errors.Is(err, store.ErrChanged):
		s.fail(c, http.StatusConflict, "This was changed elsewhere meanwhile", "Nothing was overwritten. Reload to see the newer state.")
	default:
		slog.Error("request", "path", c.Request.URL.Path, "error", err)
		s.fail(c, http.StatusInternalServerError, "That did not work", "What was saved before is kept.")
	}
}

func verdictMark(v trade.Verdict) string {
	return map[trade.Verdict]string{trade.Suits: "●", trade.Adapt: "◐", trade.LeaveOut: "○", trade.ReferFirst: "▲"}[v]
}
