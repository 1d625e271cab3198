package web

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/store"
)

// basis is a fingerprint of what a plan is made with besides the client's limits: the log,
// what it decides by now (an absence takes work back), the checks of today and the kind of
// session. A plan made
// with another one is stale.
func basis(p *person) string {
	type step struct {
		To, Decision, Extra string
		Dose                dose.Dose
	}
	made := struct {
		Sessions []progress.Session
		Next     []step
		Today    safety.Today
		Kind     *plan.Template // as the practice has it
	}{Sessions: p.Log.Sessions, Today: p.Client.Today, Kind: p.Req.Template}
	made.Today.Date = ""
	for _, d := range p.Req.Decisions {
		made.Next = append(made.Next, step{d.ToVersion, d.Decision, d.Extra, d.Dose})
	}
	data, err := json.Marshal(made)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:6])
}

// minutesAsked reads the length of a session.
func minutesAsked(c *gin.Context) (int, error) {
	n, err := strconv.Atoi(c.PostForm("minutes"))
	if err != nil || n < plan.MinMinutes || n > plan.MaxMinutes {
		return 0, fmt.Errorf("minutes: found %q, allowed: a whole number from %d to %d", c.PostForm("minutes"), plan.MinMinutes, plan.MaxMinutes)
	}
	return n, nil
}

// waits says why nothing can be planned for a client whose intake is not finished.
func waits(row *store.Client) string {
	if i := stepIndex(row.Intake); i >= 0 {
		return "Finish the intake first: what is not asked yet could change every verdict. It waits at: " + intakeSteps[i].Title + "."
	}
	return ""
}

// request loads a client and everything a session needs, with a kind of session.
func (s *Server) request(c *gin.Context, id int64, minutes int, kind string) (*person, error) {
	p, err := s.person(c, id, minutes)
	if err != nil {
		return nil, err
	}
	p.Req.Template, err = s.kind(c, kind)
	return p, err
}

// plannable is the client named in the path with everything a session needs; when none may
// be planned now, it has answered.
func (s *Server) plannable(c *gin.Context, minutes int, kind string) (*person, bool) {
	id, ok := s.id(c)
	if !ok {
		return nil, false
	}
	p, err := s.request(c, id, minutes, kind)
	if err != nil {
		s.failed(c, err)
		return nil, false
	}
	if why := waits(&p.Row); why != "" {
		s.fail(c, http.StatusUnprocessableEntity, why, "Nothing was planned.")
		return nil, false
	}
	return p, true
}

func (s *Server) createPlan(c *gin.Context) {
	minutes, err := minutesAsked(c)
	if err != nil {
		s.fail(c, http.StatusUnprocessableEntity, err.Error(), "Nothing was changed. Go back and choose again.")
		return
	}
	p, ok := s.plannable(c, minutes, c.PostForm("template"))
	if !ok {
		return
	}
	built, err := plan.Quick(p.Req) // the page replaces it with the best
	quick := err == nil
	if !quick {
		built, err = plan.Build(p.Req)
	}
	s.planned(c, p, built, quick, nil, err)
}

// planned stores a new plan and opens it, with what is to be said of it, or says why there
// is none.
func (s *Server) planned(c *gin.Context, p *person, built *plan.Plan, quick bool, said []string, err error) {
	var refused *plan.Refused
	if errors.As(err, &refused) {
		s.fail(c, http.StatusUnprocessableEntity, "No session can be planned", refused.Reason)
		return
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	id, err := s.addPlan(c, p, built, quick)
	if err != nil {
		s.failed(c, err)
		return
	}
	if said != nil {
		s.sessions.Put(c.Request.Context(), saidOf(id), strings.Join(said, "; "))
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d", id))
}

// saidOf is where what is to be said of a new plan waits until it is opened.
func saidOf(id int64) string { return fmt.Sprintf("said of plan %d", id) }

func (s *Server) addPlan(c *gin.Context, p *person, built *plan.Plan, quick bool) (int64, error) {
	doc, err := json.Marshal(built)
	if err != nil {
		return 0, err
	}
	return s.Store.CreatePlan(c, store.Plan{ClientID: p.Row.ID, ClientRevision: p.Row.Revision, Document: doc, Basis: basis(p), Quick: quick})
}

// planPage is a plan with everything around it.
type planPage struct {
	Row      store.Plan
	Person   *person
	Plan     *plan.Plan
	Items    []planItem
	Line     lineView
	Rose     roseView
	Aims     []aimRow
	Stale    bool
	At       int // the item that is open
	Open     *itemPanel
	Said     string // what the last change did
	Problem  string // why it was not done
	Broken   []brokenRule
	Kept     []plan.Check
	Sides    sideBalance
	Rises    string
	Cautions []string
	Props    []string // to fetch, in the order of use
	Kinds    []kindChoice
	Banned   []*catalogue.Version
	Families []familyChoice // what may be added
	Length   string         // of the session, in words for the ear

	Conditions []string
}

type planItem struct {
	plan.Item
	N          int
	Name       string
	Dose       string
	FigureSide string
	Minds      []string // what makes it fit this client: an ease, an override
	Broken     bool
	Here       bool
}

// minds says what an item needs to fit this client: the ease it is done with, and an override
// with its reason and last day.
func minds(it *plan.Item, v *catalogue.Version) (out []string) {
	for _, slug := range it.Eases {
		if e := v.Ease(slug); e != nil {
			out = append(out, "With an ease: "+e.Name+".")
		}
	}
	if o := it.Override; o != nil {
		out = append(out, "Left out for this client; overridden until "+o.Until+": "+o.Reason)
	}
	return out
}

type aimRow struct {
	Name           string
	Served, Target float64
	Share          int // percent of the wanted minutes, at most 150
}

type brokenRule struct {
	plan.Check
	Mends []plan.Mend
}

// sideBalance is the working seconds of each side.
type sideBalance struct {
	Left, Right int
	Extra       string
}

type familyChoice struct {
	Name     string
	Versions []*catalogue.Version
}

func (s *Server) loadPlan(c *gin.Context) (*planPage, error) {
	id, ok := s.id(c)
	if !ok {
		return nil, nil
	}
	return s.planAt(c, id)
}

// planAt loads a plan by its number, with its client as they are now.
func (s *Server) planAt(c *gin.Context, id int64) (*planPage, error) {
	row, err := s.Store.Plan(c, s.account(c), id)
	if err != nil {
		return nil, err
	}
	p := &plan.Plan{}
	if err := json.Unmarshal(row.Document, p); err != nil {
		return nil, err
	}
	who, err := s.request(c, row.ClientID, p.Minutes, p.Template)
	if err != nil {
		return nil, err
	}
	who.Req.Banned = p.Banned
	pg := &planPage{Row: row, Person: who, Plan: p, Cautions: s.limits().Cautions, Kinds: s.kindChoices(c, who.Client)}
	pg.Stale = row.ClientRevision != who.Row.Revision || row.Basis != "" && row.Basis != basis(who) || outdated(p, s.cat(c))
	who.Req.Retime(p) // what is shown is screened again whatever changed meanwhile
	pg.At = opened(c, len(p.Items))
	return pg, nil
}

// opened is the item that is looked at.
func opened(c *gin.Context, items int) int {
	at := c.PostForm("at")
	if at == "" {
		at = c.Query("at")
	}
	n, err := strconv.Atoi(at)
	if err != nil {
		return 0
	}
	return max(0, min(n, items-1))
}

// outdated tells whether an entry was revised or withdrawn since the plan was made.
func outdated(p *plan.Plan, cat *catalogue.Catalogue) bool {
	return slices.ContainsFunc(p.Items, func(it plan.Item) bool {
		v, ok := cat.Version(it.Version)
		return !ok || it.Revision != 0 && it.Revision != v.Revision
	})
}

func (s *Server) fillPlan(pg *planPage, cat *catalogue.Catalogue) {
	p, r := pg.Plan, pg.Person.Req
	at := map[int]bool{}
	mends := r.Mends(p)
	for _, k := range p.Checks {
		if k.OK {
			pg.Kept = append(pg.Kept, k)
			continue
		}
		for _, i := range k.Items {
			at[i] = true
		}
		pg.Broken = append(pg.Broken, brokenRule{k, mends[k.Rule]})
	}
	for i := range p.Items {
		it := p.Items[i]
		v, ok := cat.Version(it.Version)
		if !ok {
			continue
		}
		pi := planItem{Item: it, N: i, Name: v.Name, Dose: doseText(it), Minds: minds(&it, v), Broken: at[i], Here: i == pg.At}
		for _, prop := range append([]string{it.Surface}, it.Kit...) {
			if prop != "" && !slices.Contains(pg.Props, prop) {
				pg.Props = append(pg.Props, prop)
			}
		}
		if it.Side == "left" || it.Side == "right" {
			pi.FigureSide = it.Side
		}
		pg.Items = append(pg.Items, pi)
		pg.Sides.add(&it, pg.Person.Client.BreathRate)
	}
	for _, a := range p.Served {
		row := aimRow{Name: a.Aim, Served: a.Served, Target: a.Target}
		if a.Target > 0 {
			row.Share = min(150, int(100*a.Served/a.Target+0.5))
		}
		pg.Aims = append(pg.Aims, row)
	}
	for _, slug := range p.Banned {
		if v, ok := cat.Version(slug); ok {
			pg.Banned = append(pg.Banned, v)
		}
	}
	for _, k := range p.Checks {
		if k.Rule == "floor-transfers" {
			pg.Rises = k.Detail
		}
	}
	pg.Line = postureLine(p, cat, pg.At, at)
	pg.Rose = rose(r.Screener, sessionPeaks(p, cat))
	if len(p.Items) > 0 {
		pg.Open = s.itemPanel(pg, cat)
	}
	pg.Families = choices(r.Adoptable(p))
	pg.Conditions = s.conditionNames(pg.Person.Client)
	pg.Length = fmt.Sprintf("%d minutes %d seconds of %d minutes", p.Seconds/60, p.Seconds%60, p.Minutes)
}

// add counts an item's working seconds for each side.
func (b *sideBalance) add(it *plan.Item, rate float64) {
	if it.Role == "reset" {
		return
	}
	d := it.Dose
	one := d.TotalReps() * (d.MoveS + d.HoldSeconds(rate))
	switch it.Side {
	case "each":
		b.Left, b.Right = b.Left+one, b.Right+one
	case "alternate":
		b.Left, b.Right = b.Left+one/2, b.Right+one/2
	case "left":
		b.Left += one
	case "right":
		b.Right += one
	}
	if e := d.ExtraSeconds(rate); e > 0 && d.Extra != nil {
		if d.Extra.Side == "left" {
			b.Left += e
		} else {
			b.Right += e
		}
		b.Extra = d.Extra.Side
	}
}

// choices groups versions by family, as on the staircase.
func choices(versions []*catalogue.Version) (out []familyChoice) {
	for _, v := range versions {
		name := strings.ReplaceAll(v.Family, "-", " ")
		if n := len(out); n == 0 || out[n-1].Name != name {
			out = append(out, familyChoice{Name: name})
		}
		f := &out[len(out)-1]
		f.Versions = append(f.Versions, v)
	}
	return out
}

// doseText says a dose and its sides as an instructor would.
func doseText(it plan.Item) string {
	side := map[string]string{"each": ", each side", "alternate": ", sides in turn", "left": ", left only", "right": ", right only"}[it.Side]
	if it.Dose.Extra != nil {
		side += ", extra on the " + it.Dose.Extra.Side
	}
	return it.Dose.Words() + side
}

// withPlan loads a plan and hands it on, or answers why it cannot.
func (s *Server) withPlan(c *gin.Context, do func(*planPage)) {
	pg, err := s.loadPlan(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	if pg != nil {
		do(pg)
	}
}

func (s *Server) plan(c *gin.Context) {
	s.withPlan(c, func(pg *planPage) {
		pg.Said = s.sessions.PopString(c.Request.Context(), saidOf(pg.Row.ID))
		s.showPlan(c, http.StatusOK, pg)
	})
}

// current tells whether a change was asked for on the plan as it is; a plan that was
// changed in another tab is not overwritten.
func (s *Server) current(c *gin.Context, pg *planPage) bool {
	v, err := strconv.ParseInt(c.PostForm("version"), 10, 64)
	if err != nil || v == pg.Row.Version {
		return true
	}
	if c.GetHeader("HX-Request") != "true" {
		s.failed(c, store.ErrChanged)
		return false
	}
	pg.Problem = "This session was changed elsewhere meanwhile. Nothing was overwritten; what you see now is the newer state."
	s.sent.forget(pg.Row.ID)
	s.showPlan(c, http.StatusUnprocessableEntity, pg)
	return false
}

// editPlan changes a plan by hand; the checks answer at once.
func (s *Server) editPlan(c *gin.Context) {
	s.withPlan(c, func(pg *planPage) {
		if !s.current(c, pg) {
			return
		}
		e := editAsked(c)
		name := s.itemName(c, pg, e)
		if err := pg.Person.Req.Apply(pg.Plan, e); err != nil {
			pg.Problem = plainly(err)
			s.showPlan(c, http.StatusUnprocessableEntity, pg)
			return
		}
		pg.At, pg.Stale = follow(pg, e), pg.Stale && e.Op != "rebuild"
		pg.Said = editWords(e.Op, name)
		s.keepPlan(c, pg, pg.Said)
	})
}

// plainly is what is wrong with a change without the name of the program's field.
func plainly(err error) string {
	said := err.Error()
	if field, rest, ok := strings.Cut(said, ": "); ok && rest != "" && slices.Contains([]string{"with", "item", "side", "order", "to", "op"}, field) {
		said = rest
	}
	return strings.ToUpper(said[:1]) + said[1:] + "."
}

// editAsked reads a change: a button says all of it in one value, op:item:with; a program
// may name the fields.
func editAsked(c *gin.Context) plan.Edit {
	e := plan.Edit{Op: c.PostForm("op"), With: c.PostForm("with"), Item: -1}
	item := c.PostForm("item")
	if do := strings.SplitN(c.PostForm("do"), ":", 3); do[0] != "" {
		e.Op, item, e.With = do[0], "", ""
		if len(do) > 1 {
			item = do[1]
		}
		if len(do) > 2 {
			e.With = do[2]
		}
		if e.Op == "add" && e.With == "" {
			e.With = c.PostForm("add")
		}
	}
	if n, err := strconv.Atoi(item); err == nil {
		e.Item = n
	}
	if n, err := strconv.Atoi(c.PostForm("to")); err == nil {
		e.To = n
	}
	return e
}

// follow keeps the item in view that was changed.
func follow(pg *planPage, e plan.Edit) int {
	at := pg.At
	switch e.Op {
	case "up":
		at = e.Item - 1
	case "down":
		at = e.Item + 1
	case "move":
		at = e.To
	case "add", "begin", "finish":
		at = slices.IndexFunc(pg.Plan.Items, func(it plan.Item) bool { return it.Version == e.With && it.Role != "reset" })
	case "swap", "harder", "easier", "longer", "shorter", "side", "lock", "unlock":
		at = e.Item
	}
	return max(0, min(at, len(pg.Plan.Items)-1))
}

func (s *Server) itemName(c *gin.Context, pg *planPage, e plan.Edit) string {
	slug := e.With
	if e.Item >= 0 && e.Item < len(pg.Plan.Items) && e.Op != "add" {
		slug = pg.Plan.Items[e.Item].Version
	}
	if v, ok := s.cat(c).Version(slug); ok {
		return v.Name
	}
	return slug
}

func editWords(op, name string) string {
	words := map[string]string{"up": "%s moved earlier", "down": "%s moved later", "move": "%s moved", "remove": "%s removed", "ban": "%s taken out for good", "allow": "%s allowed again", "longer": "%s made longer", "shorter": "%s made shorter",
		"swap": "%s swapped", "add": "%s added", "harder": "%s one rung up", "easier": "%s one rung down", "side": "%s: side changed", "lock": "%s locked", "unlock": "%s unlocked", "begin": "begins with %s", "finish": "ends with %s"}
	if w, ok := words[op]; ok {
		return fmt.Sprintf(w, name)
	}
	return map[string]string{"arrange": "put in the best order", "rebuild": "rebuilt around what is locked"}[op]
}

// keepPlan stores a change as a step that can be undone and shows what changed.
func (s *Server) keepPlan(c *gin.Context, pg *planPage, what string) {
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		s.failed(c, err)
		return
	}
	pg.Row.Document, pg.Row.Quick = doc, false
	if !pg.Stale { // a change by hand does not make an old plan a new one
		pg.Row.ClientRevision, pg.Row.Basis = pg.Person.Row.Revision, basis(pg.Person)
	}
	if err := s.Store.UpdatePlan(c, pg.Row, what); err != nil {
		s.failed(c, err)
		return
	}
	pg.Row.Version++
	pg.Row.Step++
	pg.Row.Steps = pg.Row.Step + 1
	s.answerPlan(c, pg)
}

func (s *Server) answerPlan(c *gin.Context, pg *planPage) {
	if c.GetHeader("HX-Request") == "true" {
		s.showPlan(c, http.StatusOK, pg)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d?at=%d", pg.Row.ID, pg.At))
}

// stepPlan undoes or redoes a change.
func (s *Server) stepPlan(c *gin.Context) {
	by := map[string]int{"undo": -1, "redo": 1}[c.Param("way")]
	s.withPlan(c, func(pg *planPage) {
		if by == 0 {
			s.fail(c, http.StatusNotFound, "There is no such page", "Nothing was changed.")
			return
		}
		if !s.current(c, pg) {
			return
		}
		what, err := s.Store.StepPlan(c, pg.Row, by)
		if errors.Is(err, store.ErrNotFound) {
			pg.Problem = map[int]string{-1: "There is nothing to undo.", 1: "There is nothing to redo."}[by]
			s.showPlan(c, http.StatusUnprocessableEntity, pg)
			return
		}
		if err != nil {
			s.failed(c, err)
			return
		}
		s.withPlan(c, func(pg *planPage) {
			pg.Said = map[int]string{-1: "Undone: ", 1: "Done again: "}[by] + what
			s.answerPlan(c, pg)
		})
	})
}

// bestPlan replaces a quick plan that nobody touched by the best one.
func (s *Server) bestPlan(c *gin.Context) {
	s.withPlan(c, func(pg *planPage) {
		if !pg.Row.Quick {
			s.answerPlan(c, pg)
			return
		}
		best, err := plan.Build(pg.Person.Req)
		if err != nil || best.Score < pg.Plan.Score {
			best = pg.Plan
		}
		pg.Plan, pg.At, pg.Stale = best, 0, pg.Stale && best == pg.Plan
		pg.Said = "This is the best session found"
		if best.Proven {
			pg.Said = "This is the best session: proven, no other of these exercises is worth more under the rules"
		}
		s.keepPlan(c, pg, "the best session")
	})
}

// rebuildPlan plans again around what is locked, perhaps with other minutes or of another
// kind.
func (s *Server) rebuildPlan(c *gin.Context) {
	s.withPlan(c, func(pg *planPage) {
		if !s.current(c, pg) {
			return
		}
		minutes, err := minutesAsked(c)
		if err == nil {
			pg.Person.Req.Minutes = minutes
			var kind *plan.Template
			if kind, err = s.kind(c, c.PostForm("template")); err == nil {
				pg.Person.Req.ForKind(kind)
			}
		}
		if err == nil {
			var q *plan.Plan
			if q, err = pg.Person.Req.Rebuild(pg.Plan); err == nil {
				pg.Plan, pg.At, pg.Stale, pg.Said = q, 0, false, "rebuilt around what is locked"
				s.keepPlan(c, pg, pg.Said)
				return
			}
		}
		pg.Problem = plainly(err)
		s.showPlan(c, http.StatusUnprocessableEntity, pg)
	})
}

// refreshPlan mends a stale plan.
func (s *Server) refreshPlan(c *gin.Context) {
	s.withPlan(c, func(pg *planPage) {
		said := pg.Person.Req.Mend(pg.Plan)
		pg.Said = "Mended. Nothing had to change"
		if said != nil {
			pg.Said = "Mended: " + strings.Join(said, "; ")
		}
		pg.At, pg.Stale = min(pg.At, max(0, len(pg.Plan.Items)-1)), false
		s.keepPlan(c, pg, pg.Said)
	})
}
