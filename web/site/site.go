// Package site is what every page stands on: who is signed in and what surrounds a request, the
// catalogue, limits and kinds in force, how a page is written and how it fails, and the pages of the
// practice itself.
package site

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
	"restbend/exchange"
	"restbend/figure"
	"restbend/store"
	"restbend/teaching"
)

// Site serves the application.
type Site struct {
	Store     *store.Store
	Cat       *catalogue.Catalogue
	Rules     *safety.Rules // the defaults; limits() are in force
	Norms     *assess.Norms
	Tasks     []catalogue.Task
	Templates []kinds.Template // kinds of session as delivered
	Today     func() trade.Day // in the practice's time zone
	Demo      bool
	Sessions  *scs.SessionManager
	stop      func()
	Drawer    *figure.Drawer
	Pages     map[string]*template.Template
	Opt       Options
	firstCode string // what the first account is made with, empty when there is one
	Assets    assets
	own       ownVersions
	inForce   atomic.Pointer[safety.Rules]
	Zone      atomic.Pointer[time.Location]
	readiness readiness
}

// New prepares what every page needs, with the static files to serve.
func New(
	st *store.Store,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	norms *assess.Norms,
	tasks []catalogue.Task,
	templates []kinds.Template,
	static fs.FS,
	options ...Options,
) (*Site, error) {
	s := &Site{
		Store:     st,
		Cat:       cat,
		Rules:     rules,
		Norms:     norms,
		Tasks:     tasks,
		Templates: templates,
		Drawer:    figure.NewDrawer(body.NewBody(body.Female, 0)),
	}
	for _, o := range options {
		s.Opt = o
	}
	s.own.cats = map[int64]*catalogue.Catalogue{}
	changes, err := st.LimitChanges(context.Background())
	if err != nil {
		return nil, err
	}
	s.LoadLimits(changes)
	s.startSessions()
	s.Assets, err = newAssets(static)
	return s, err
}

// Prepare makes the stored state fit to be served: a code for the first account, the bin emptied, endings
// settled, the time zone, and own versions checked.
func (s *Site) Prepare(ctx context.Context) error {
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

// StopSessions ends the clean-up of sessions.
func (s *Site) StopSessions() { s.stop() }

// Page is what every template gets.
type Page struct {
	Title    string
	SignedIn bool
	Account  int64 // who is signed in, for what the browser keeps for each person
	Demo     bool
	Cautions []string
	Removed  *removed // what the page before removed
	Data     any
}

// Render writes a page, or one named fragment of it.
func (s *Site) Render(c *gin.Context, status int, name, fragment, title string, data any) {
	if fragment == "" {
		fragment = "layout"
	}
	var sb strings.Builder
	p := Page{
		Title:    title,
		SignedIn: s.Account(c) != 0,
		Account:  s.Account(c),
		Demo:     s.Demo,
		Cautions: s.Rules.Cautions,
		Data:     data,
	}
	if fragment == "layout" && p.SignedIn {
		p.Removed = s.justRemoved(c)
	}
	if err := s.Pages[name].ExecuteTemplate(&sb, fragment, p); err != nil {
		slog.Error("template", "page", name, "error", err)
		c.String(http.StatusInternalServerError, "Something went wrong while drawing this page.")
		return
	}
	c.Data(status, "text/html; charset=utf-8", []byte(sb.String()))
}

type failure struct{ What, Kept string }

// Fail answers with what went wrong and what was kept.
func (s *Site) Fail(c *gin.Context, status int, what, kept string) {
	c.Abort()
	if strings.Contains(c.GetHeader("Accept"), "application/json") {
		c.JSON(status, gin.H{"error": what, "kept": kept})
		return
	}
	s.Render(c, status, "error", "", what, failure{what, kept})
}

// Failed answers for an error of the store or the core.
func (s *Site) Failed(c *gin.Context, err error) {
	var wrong exchange.Problems
	switch {
	case errors.As(err, &wrong):
		s.Fail(c, http.StatusUnprocessableEntity, "This cannot be kept", "Nothing was changed. "+wrong.Error())
	case errors.Is(err, store.ErrNotFound):
		s.Fail(c, http.StatusNotFound, "There is no such entry", "It may have been deleted.")
	case errors.Is(err, context.Canceled): // nobody waits for the answer
		c.Abort()
	case store.Broken(err) != "":
		slog.Error("the database", "path", c.Request.URL.Path, "error", err)
		s.Fail(
			c,
			http.StatusServiceUnavailable,
			store.Broken(err),
			"What was stored before is kept. Whoever keeps the program runs restbend doctor, and looks at the log.",
		)
	case errors.Is(err, plan.ErrDamaged):
		slog.Warn("damaged", "path", c.Request.URL.Path, "error", err)
		s.Fail(
			c,
			http.StatusUnprocessableEntity,
			"This plan is damaged and cannot be opened",
			"Everything else is as it was. It can be removed on the client's course page; plan another one.",
		)
	case errors.Is(err, store.ErrChanged):
		s.Fail(
			c,
			http.StatusConflict,
			"This was changed elsewhere meanwhile",
			"Nothing was overwritten. Reload to see the newer state.",
		)
	default:
		slog.Error("request", "path", c.Request.URL.Path, "error", err)
		s.Fail(c, http.StatusInternalServerError, "That did not work", "What was saved before is kept.")
	}
}

// VerdictMark is the sign of a verdict, told by its shape.
func VerdictMark(v trade.Verdict) string {
	return map[trade.Verdict]string{trade.Suits: "●", trade.Adapt: "◐", trade.LeaveOut: "○", trade.ReferFirst: "▲"}[v]
}

// Routes registers the pages that belong to nobody's work: pictures, the practice, accounts and the bin.
func (s *Site) Routes(in *gin.RouterGroup) {
	in.POST("/sign-out", s.signOut)
	in.GET("/clients/:id/history", s.history)
	in.POST("/clients/:id/share", s.shareClient)
	in.GET("/practice", s.practice)
	in.POST("/practice/accounts", s.KeeperOnly, s.addAccount)
	in.POST("/practice/accounts/:id/close", s.KeeperOnly, s.closeAccount)
	in.POST("/practice/keeper", s.KeeperOnly, s.moveKeeper)
	in.POST("/practice/idle", s.KeeperOnly, s.saveIdle)
	in.POST("/practice/events", s.KeeperOnly, s.saveEventNames)
	in.POST("/account/password", s.changePassword)
	in.POST("/account/sign-ins/:id/end", s.endSignIn)
	in.GET("/bin", s.binPage)
	in.POST("/bin/:kind/:id/:way", s.bin)
	in.POST("/practice/zone", s.KeeperOnly, s.saveZone)
	in.POST("/practice/minutes", s.KeeperOnly, s.saveMinutes)
	in.GET("/figures/:file", s.figure)
	in.GET("/figures/:file/film", s.film)
	in.GET("/poses/:file", s.pose)
}
