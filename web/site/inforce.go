package site

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"sync"

	"github.com/gin-gonic/gin"

	"restbend/archive"
	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/measure"
	"restbend/core/safety"
	"restbend/store"
)

// ownVersions keeps each account's catalogue (the shared one and the account's own
// versions) and the solver for new poses. A catalogue is made again after a change.
type ownVersions struct {
	mu     sync.Mutex
	cats   map[int64]*catalogue.Catalogue
	solver *measure.Solver
}

// Catalogue is the catalogue the signed-in account works with.
func (s *Site) Catalogue(c *gin.Context) *catalogue.Catalogue { return s.CatOf(c, s.Account(c)) }

// CatOf is the catalogue of an account: the shared one and its own versions.
func (s *Site) CatOf(c context.Context, account int64) *catalogue.Catalogue {
	s.own.mu.Lock()
	defer s.own.mu.Unlock()
	if cat := s.own.cats[account]; cat != nil {
		return cat
	}
	rows, err := s.Store.OwnVersions(c, account)
	if err != nil {
		slog.Error("own versions", "error", err)
		return s.Cat // the shared catalogue stays usable
	}
	var own []*catalogue.Version
	for _, o := range rows {
		if o.Document == "" {
			continue
		}
		v, err := s.Cat.ReadOwn(o.Slug, []byte(o.Document))
		last := &catalogue.Solved{}
		if err == nil {
			err = json.Unmarshal([]byte(o.Solved), last)
		}
		solved := last
		if err == nil && !v.Fits(last) { // solved by an older program
			solved, err = s.solveAgain(c, &o, v, last)
		}
		if err != nil {
			slog.Warn("own version is left out until it is mended and saved", "version", o.Slug, "error", err)
			continue
		}
		v.Revision = o.Revision
		v.Attach(solved)
		own = append(own, v)
	}
	s.own.cats[account] = s.Cat.With(own)
	return s.own.cats[account]
}

// checkOwn solves every own version in use again where an earlier program solved it: at
// the first start of this one.
func (s *Site) checkOwn(ctx context.Context) error {
	accounts, err := s.Store.AccountsWithOwn(ctx)
	for _, id := range accounts {
		s.CatOf(ctx, id)
	}
	return err
}

// solveAgain solves the text in use once more; the caller holds the lock. A text that no
// longer passes keeps its last measures, so that plans that hold it stay readable, and is
// marked: its author must look before it is planned anew.
func (s *Site) solveAgain(
	c context.Context,
	o *store.Own,
	v *catalogue.Version,
	last *catalogue.Solved,
) (*catalogue.Solved, error) {
	if o.CheckedFor == v.PoseKey(nil) {
		v.CheckAgain = o.CheckAgain
		return last, nil
	}
	if s.own.solver == nil {
		s.own.solver = measure.NewSolver()
	}
	solved, found, err := s.own.solver.Solve(v, nil, true)
	if err == nil && found != nil {
		err = fmt.Errorf("%s: %s", found[0].Phase, found[0].Text)
	}
	if err != nil {
		v.CheckAgain = err.Error()
		if len(last.Phases) != len(v.Phases) {
			return nil, err
		}
		return last, s.Store.MarkOwn(c, o.ID, o.Revision, v.CheckAgain, v.PoseKey(nil))
	}
	doc, err := json.Marshal(solved)
	if err != nil {
		return nil, err
	}
	return solved, s.Store.SetOwnSolved(c, o.ID, o.Revision, string(doc))
}

// ForgetCatalogue has the catalogue of the account made again.
func (s *Site) ForgetCatalogue(c *gin.Context) {
	s.own.mu.Lock()
	defer s.own.mu.Unlock()
	delete(s.own.cats, s.Account(c))
}

// Solve solves and validates a version, one at a time.
func (s *Site) Solve(v *catalogue.Version) (*catalogue.Solved, []measure.Finding, error) {
	s.own.mu.Lock()
	defer s.own.mu.Unlock()
	if s.own.solver == nil {
		s.own.solver = measure.NewSolver()
	}
	return s.own.solver.Solve(v, nil, true)
}

// AnyVersion finds a version for a template; slugs of own versions are unique over all
// accounts and a page only names what its account may see.
func (s *Site) AnyVersion(slug string) *catalogue.Version {
	if v, ok := s.Cat.Version(slug); ok {
		return v
	}
	s.own.mu.Lock()
	defer s.own.mu.Unlock()
	for _, cat := range s.own.cats {
		if v, ok := cat.Version(slug); ok {
			return v
		}
	}
	return &catalogue.Version{Slug: slug, Name: slug + " (withdrawn)"}
}

// Limits are the rules in force: the defaults with the practice's changes.
func (s *Site) Limits() *safety.Rules { return s.inForce.Load() }

// LoadLimits puts the practice's changes into force. A change that no longer fits the
// defaults is set aside and shown on the page: the limit as delivered holds.
func (s *Site) LoadLimits(changes []store.LimitChange) {
	rules, _ := s.Rules.With(archive.InForce(changes))
	s.inForce.Store(rules)
}

// Keeper tells whether the signed-in account keeps the practice.
func (s *Site) Keeper(c *gin.Context) bool {
	m, err := s.Store.Member(c, s.Account(c))
	return err == nil && m.Keeper
}

// KeeperOnly answers for everybody else.
func (s *Site) KeeperOnly(c *gin.Context) {
	if !s.Keeper(c) {
		s.Fail(c, http.StatusForbidden, "Only the account that keeps the practice can do that", "Nothing was changed.")
	}
}

// Kinds are the kinds of session: the delivered ones, changed or joined by the practice's
// own. One that no longer fits the catalogue is left out and said in the log.
func (s *Site) Kinds(c *gin.Context) []kinds.Template {
	out := slices.Clone(s.Templates)
	own, err := s.Store.Templates(c)
	if err != nil {
		slog.Error("kinds of session", "error", err)
		return out
	}
	for _, row := range own {
		var t kinds.Template
		if err := json.Unmarshal(row.Document, &t); err != nil || t.Check(s.Cat) != nil {
			slog.Warn("kind of session is left out", "slug", row.Slug, "error", err)
			continue
		}
		if i := slices.IndexFunc(out, func(x kinds.Template) bool { return x.Slug == t.Slug }); i >= 0 {
			out[i] = t
		} else {
			out = append(out, t)
		}
	}
	return out
}

// Kind finds a kind of session; nil for the free one.
func (s *Site) Kind(c *gin.Context, slug string) (*kinds.Template, error) {
	if slug == "" {
		return nil, nil
	}
	kinds := s.Kinds(c)
	for i := range kinds {
		if kinds[i].Slug == slug {
			return &kinds[i], nil
		}
	}
	return nil, nil // withdrawn meanwhile: planned freely, the plan says so by having none
}
