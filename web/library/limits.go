package library

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"
	"go.yaml.in/yaml/v3"

	"restbend/archive"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/store"
	"restbend/web/site"
)

type limitRow struct {
	Key, What, When, Value, Default, Reason, Source, Who, At, Why string
	Changed, Watch                                                bool
}

type limitGroup struct {
	Rule safety.Rule
	Rows []limitRow
	Also []string
}

type limitsPage struct {
	Groups  []limitGroup
	Changed int
	Keeper  bool
	History []store.LimitChange
	Aside   []safety.Aside
	Ages    []string
	Index   []indexGroup
}

// indexGroup is the conditions that belong together, to jump to.
type indexGroup struct {
	Name  string
	Rules []safety.Rule
}

// valueWords says a limit's value: degrees with the share they come from, or "not at all".
func valueWords(words *safety.Vocabulary, l *safety.Limit) string {
	if l.Share > 0 {
		return fmt.Sprintf("%.3g %% of range", 100*l.Share)
	}
	v := words.Amount(l.Quantity, l.Max)
	if l.Flag() && l.Max > 0 {
		return "allowed"
	}
	return v
}

func whenWords(when map[string]string) string {
	var out []string
	for _, k := range slices.Sorted(maps.Keys(when)) {
		name := strings.NewReplacer("_from", " from", "_under", " under", "_", " ").Replace(k)
		out = append(out, name+" "+map[string]string{"true": "yes",
			"false": "no"}[when[k]]+map[bool]string{true: when[k]}[when[k] != "true" && when[k] != "false"])
	}
	return strings.Join(out, ", ")
}

// alsoWords says which limits of another condition hold as well.
func (s *Library) alsoWords(a safety.Also) string {
	like, _ := s.Rules.Rule(a.Like)
	out := "The limits of " + strings.ToLower(like.Name) + " as well"
	if a.When != nil {
		out += " (" + whenWords(a.When) + ")"
	}
	if as := asWords(a.As); as != "" {
		out += ", read as " + as
	}
	var without []string
	for _, q := range a.Without {
		without = append(without, s.Rules.Words.Words(q))
	}
	if without != nil {
		out += ", except: " + strings.Join(without, ", ")
	}
	return out + "."
}

// asWords says with which details the limits of another condition are read.
func asWords(as map[string]any) string {
	var out []string
	for _, k := range slices.Sorted(maps.Keys(as)) {
		name := strings.ReplaceAll(k, "_", " ")
		switch v := as[k].(type) {
		case bool:
			out = append(out, map[bool]string{true: name, false: "no " + name}[v])
		case string:
			out = append(out, map[bool]string{true: "any " + name, false: v + " " + name}[v == ""])
		}
	}
	return strings.Join(out, ", ")
}

func (s *Library) limitsPage(c *gin.Context) {
	changes, err := s.Store.LimitChanges(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	last := map[string]store.LimitChange{}
	for _, ch := range changes {
		last[ch.Key] = ch
	}
	pg := limitsPage{Keeper: s.Keeper(c), History: changes}
	rules := s.Limits()
	_, pg.Aside = s.Rules.With(archive.InForce(changes))
	for i := range rules.Conditions {
		r := &rules.Conditions[i]
		g := limitGroup{Rule: *r}
		for k := range r.Limits {
			l, was := &r.Limits[k], &s.Rules.Conditions[i].Limits[k]
			row := limitRow{Key: l.Key(r.Code), What: s.Rules.Words.Words(l.Quantity), When: whenWords(l.When),
				Value: valueWords(s.Rules.Words, l), Reason: l.Reason, Source: l.Source, Watch: l.Watch}
			if ch, ok := last[row.Key]; ok {
				row.Who, row.At, row.Why = ch.Who, ch.At, ch.Reason
			}
			if l.Value() != was.Value() {
				row.Changed, row.Default = true, valueWords(s.Rules.Words, was)
				pg.Changed++
			}
			g.Rows = append(g.Rows, row)
		}
		for _, a := range r.Also {
			g.Also = append(g.Also, s.alsoWords(a))
		}
		pg.Groups = append(pg.Groups, g)
		at := slices.IndexFunc(pg.Index, func(x indexGroup) bool { return x.Name == r.Group })
		if at < 0 {
			at = len(pg.Index)
			pg.Index = append(pg.Index, indexGroup{Name: r.Group})
		}
		pg.Index[at].Rules = append(pg.Index[at].Rules, *r)
	}
	for _, a := range rules.Ages {
		pg.Ages = append(pg.Ages, a.Note())
	}
	s.Render(c, http.StatusOK, "limits", "", "Limits", pg)
}

// exportLimits writes the limits in force as the data file they come from.
func (s *Library) exportLimits(c *gin.Context) {
	data, err := yaml.Marshal(s.Limits())
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="limits.yaml"`)
	c.Data(http.StatusOK, "application/yaml; charset=utf-8", data)
}

type limitForm struct {
	Key, What, When, Unit, Allowed, Default string
	Rule                                    *safety.Rule
	Limit                                   *safety.Limit
	Value, Reason, Source                   string
	Wrong                                   []string // fields first
	IsDefault                               bool
}

func (s *Library) limitForm(key string) (limitForm, bool) {
	rule, l, ok := s.Limits().Limit(key)
	if !ok {
		return limitForm{}, false
	}
	_, was, _ := s.Rules.Limit(key)
	return limitForm{Key: key, What: s.Rules.Words.Words(l.Quantity), When: whenWords(l.When), Unit: l.Unit(),
		Allowed: l.Allowed(), Default: strconv.FormatFloat(was.Value(), 'f', -1, 64), Rule: rule, Limit: l,
		Value: strconv.FormatFloat(l.Value(), 'f', -1, 64), IsDefault: l.Value() == was.Value()}, true
}

func (s *Library) editLimit(c *gin.Context) {
	f, ok := s.limitForm(c.Query("key"))
	if !ok {
		s.Fail(c, http.StatusNotFound, "There is no such limit", "Choose one from the list.")
		return
	}
	s.Render(c, http.StatusOK, "limit", "", "Change a limit", f)
}

// affected is one client whose verdicts a changed limit would change.
type affected struct {
	ID               int64
	Name             string
	Mine             bool // readable by the signed-in account
	Stricter, Looser []string
}

// preview re-screens every client with a changed limit before it is saved.
type preview struct {
	Form           limitForm
	change         store.LimitChange
	seen           store.LimitChange // the newest change of this limit when it was worked out
	account        int64
	Total          int
	done           atomic.Int64
	Affected       []affected
	Finished       bool
	err            error
	mu             sync.Mutex
	StricterSum    int
	LooserSum      int
	IncompleteDocs int
}

// Done is how many clients were screened so far.
func (p *preview) Done() int64 { return p.done.Load() }

// Percent is the progress.
func (p *preview) Percent() int64 {
	if p.Total == 0 {
		return 100
	}
	return 100 * p.done.Load() / int64(p.Total)
}

// maxPreviews bounds how many unfinished changes are kept, the least lately looked at forgotten
// first.
const maxPreviews = 32

// Library are the pages of the library: exercises, own versions, limits and kinds of session.
type Library struct {
	*site.Site
	previews previews
}

type previews struct {
	mu   sync.Mutex
	next int64
	by   *lru.Cache[int64, *preview]
}

func (p *previews) add(v *preview) int64 {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.by == nil {
		p.by = site.Bounded[int64, *preview](maxPreviews)
	}
	p.next++
	p.by.Add(p.next, v)
	return p.next
}

func (p *previews) get(id int64) (*preview, bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.by == nil {
		return nil, false
	}
	return p.by.Get(id)
}

// previewLimit starts screening every client under the changed limit.
func (s *Library) previewLimit(c *gin.Context) {
	f, ok := s.limitForm(c.PostForm("key"))
	if !ok {
		s.Fail(c, http.StatusNotFound, "There is no such limit", "Nothing was changed.")
		return
	}
	f.Value, f.Reason, f.Source = strings.TrimSpace(c.PostForm("value")), strings.TrimSpace(c.PostForm("reason")), strings.TrimSpace(c.PostForm("source"))
	change := store.LimitChange{Key: f.Key, Reason: f.Reason, Source: f.Source, Who: s.Who(c)}
	number := true
	if c.PostForm("op") != "default" {
		v, err := site.TypedNumber(f.Value)
		if number = err == nil; !number {
			f.Wrong = append(f.Wrong, fmt.Sprintf("Value: found %q, allowed: %s.", f.Value, f.Allowed))
		}
		change.Value = sql.NullFloat64{Float64: v, Valid: true}
	}
	if len(f.Reason) < 5 {
		f.Wrong = append(f.Wrong, "Reason: say why this practice works with another value.")
	}
	all, err := s.Store.LimitChanges(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	rules, aside := s.Rules.With(archive.InForce(append(all, change)))
	for _, a := range aside {
		if a.Key == f.Key && number {
			f.Wrong = append(f.Wrong, "Value: "+a.Why)
		}
	}
	if f.Wrong != nil {
		s.Render(c, http.StatusUnprocessableEntity, "limit", "", "Change a limit", f)
		return
	}
	rows, err := s.Store.EveryClient(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	p := &preview{Form: f, change: change, seen: newest(all, f.Key), account: s.Account(c), Total: len(rows)}
	readable, err := s.Store.Clients(c, p.account)
	if err != nil {
		s.Failed(c, err)
		return
	}
	mine := map[int64]bool{}
	for _, r := range readable {
		mine[r.ID] = true
	}
	cats := map[int64]*catalogue.Catalogue{}
	for _, r := range rows {
		if cats[r.Owner] == nil {
			cats[r.Owner] = s.CatOf(c, r.Owner)
		}
	}
	id := s.previews.add(p)
	go s.runPreview(p, s.Limits(), rules, rows, cats, mine)
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/limits/preview/%d", id))
}

// runPreview screens the clients on all cores.
func (s *Library) runPreview(p *preview, before, after *safety.Rules, rows []store.Client,
	cats map[int64]*catalogue.Catalogue, mine map[int64]bool) {
	out := make([]affected, len(rows))
	var next atomic.Int64
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for {
				i := int(next.Add(1)) - 1
				if i >= len(rows) {
					return
				}
				d, err := s.difference(before, after, &rows[i], cats[rows[i].Owner])
				if err != nil {
					p.mu.Lock()
					p.err = err
					p.mu.Unlock()
				}
				out[i] = affected{rows[i].ID, rows[i].Name, mine[rows[i].ID], d.Stricter, d.Looser}
				p.done.Add(1)
			}
		})
	}
	wg.Wait()
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, a := range out {
		if len(a.Stricter)+len(a.Looser) > 0 {
			if !a.Mine { // another instructor's client is counted, not named
				a.Name = "a client of another instructor"
			}
			p.StricterSum += len(a.Stricter)
			p.LooserSum += len(a.Looser)
			p.Affected = append(p.Affected, a)
		}
	}
	p.Finished = true
}

// difference is what a change does to one client. A document that breaks it is said, and ends nothing beside it.
func (s *Library) difference(before, after *safety.Rules, row *store.Client,
	cat *catalogue.Catalogue) (d safety.Difference, err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("panic", "client", row.ID, "error", p)
			err = fmt.Errorf("client %d cannot be screened", row.ID)
		}
	}()
	var cl intake.Client
	if err := json.Unmarshal(row.Document, &cl); err != nil {
		return d, err
	}
	a, err := safety.NewScreener(before, cat, &cl, s.Today())
	if err != nil {
		return d, err
	}
	b, err := safety.NewScreener(after, cat, &cl, s.Today())
	if err != nil {
		return d, err
	}
	return safety.Compare(a, b), nil
}

func (s *Library) previewHere(c *gin.Context) (*preview, int64, bool) {
	id, ok := s.ID(c)
	if !ok {
		return nil, 0, false
	}
	p, ok := s.previews.get(id)
	if !ok || p.account != s.Account(c) {
		s.Fail(c, http.StatusNotFound, "That change is no longer waiting",
			"Nothing was changed. Begin again from the list of limits.")
		return nil, 0, false
	}
	return p, id, true
}

type previewPage struct {
	ID int64
	*preview
	Failed string
}

func (s *Library) showPreview(c *gin.Context) {
	p, id, ok := s.previewHere(c)
	if !ok {
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	pg := previewPage{ID: id, preview: p}
	if p.err != nil {
		pg.Failed = p.err.Error()
	}
	fragment := ""
	if c.GetHeader("HX-Request") == "true" {
		fragment = "affected"
	}
	s.Render(c, http.StatusOK, "preview", fragment, "Who is affected", pg)
}

// saveLimit puts a previewed change into force.
// newest is the newest change of a limit.
func newest(changes []store.LimitChange, key string) (last store.LimitChange) {
	for _, ch := range changes {
		if ch.Key == key {
			last = ch
		}
	}
	return last
}

func (s *Library) saveLimit(c *gin.Context) {
	p, _, ok := s.previewHere(c)
	if !ok {
		return
	}
	p.mu.Lock()
	ready := p.Finished && p.err == nil
	p.mu.Unlock()
	if !ready {
		s.Fail(c, http.StatusConflict, "The clients are still being screened", "Nothing was changed. Wait for the list.")
		return
	}
	before, err := s.Store.LimitChanges(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if now := newest(before, p.change.Key); now != p.seen {
		s.Fail(c, http.StatusConflict, "Somebody changed this limit meanwhile",
			fmt.Sprintf("Nothing was changed. %s said: %s. Look at it again before you change it.", now.Who, now.Reason))
		return
	}
	if err := s.Store.ChangeLimit(c, p.change); err != nil {
		s.Failed(c, err)
		return
	}
	changes, err := s.Store.LimitChanges(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.LoadLimits(changes)
	c.Redirect(http.StatusSeeOther, "/limits#"+p.Form.Rule.Code)
}
