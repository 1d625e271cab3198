package web

import (
	"context"
	"crypto/rand"
	"errors"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"sync/atomic"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"restbend/core/assess"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/figure"
	"restbend/store"
	"restbend/teaching"
)

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
	zone      atomic.Pointer[time.Location]
	readiness readiness
}

// newServer prepares what every page needs, with the static files to serve.
func newServer(st *store.Store, cat *catalogue.Catalogue, rules *safety.Rules, norms *assess.Norms, tasks []catalogue.Task, templates []kinds.Template, static fs.FS, options ...Options) (*Server, error) {
	s := &Server{Store: st, Cat: cat, Rules: rules, Norms: norms, Tasks: tasks, Templates: templates, drawer: figure.NewDrawer(body.NewBody(body.Female, 0))}
	for _, o := range options {
		s.opt = o
	}
	s.own.cats = map[int64]*catalogue.Catalogue{}
	changes, err := st.LimitChanges(context.Background())
	if err != nil {
		return nil, err
	}
	s.loadLimits(changes)
	s.startSessions()
	s.assets, err = newAssets(static)
	return s, err
}

// prepare makes the stored state fit to be served: a code for the first account, the bin emptied, endings
// settled, the time zone, and own versions checked.
func (s *Server) prepare(ctx context.Context) error {
	if n, err := s.Store.Accounts(ctx); err != nil {
		return err
	} else if n == 0 {
		s.firstCode = rand.Text()[:10]
	}
	if err := s.Store.EmptyBin(ctx, time.Now()); err != nil {
		return err
	}
	if err := teaching.Settle(ctx, s.Store); err != nil {
		return err
	}
	if err := s.loadZone(ctx); err != nil {
		return err
	}
	return s.checkOwn(ctx)
}

// stopSessions ends the clean-up of sessions.
func (s *Server) stopSessions() { s.stop() }

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

// routes registers the pages that belong to nobody's work: pictures, the practice, accounts and the bin.
func (s *Server) routes(in *gin.RouterGroup) {
	in.POST("/sign-out", s.signOut)
	in.GET("/clients/:id/history", s.history)
	in.POST("/clients/:id/share", s.shareClient)
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
	in.GET("/figures/:file", s.figure)
	in.GET("/figures/:file/film", s.film)
	in.GET("/poses/:file", s.pose)
}
