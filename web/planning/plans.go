// Package planning is the pages of plans: verdicts, the bench, the course of a client, and several at once.
package planning

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"restbend"
	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/say"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/people"
	"restbend/web/site"
)

// minutesAsked reads the length of a session.
func minutesAsked(c *gin.Context) (int, error) {
	n, err := strconv.Atoi(c.PostForm("minutes"))
	if err != nil || n < kinds.MinMinutes || n > kinds.MaxMinutes {
		return 0, fmt.Errorf(
			"minutes: found %q, allowed: a whole number from %d to %d",
			c.PostForm("minutes"),
			kinds.MinMinutes,
			kinds.MaxMinutes,
		)
	}
	return n, nil
}

// mostAllowed bounds how many new exercises can be allowed at once (product default).
const mostAllowed = 30

// placeAsked reads where a session takes place, empty for as recorded.
func placeAsked(c *gin.Context) (string, error) {
	p := c.PostForm("place")
	if p != "" && !slices.Contains(intake.Places, p) {
		return "", fmt.Errorf("place: found %q, allowed: %s", p, strings.Join(intake.Places, ", "))
	}
	return p, nil
}

// Planning are the pages of plans: the bench, verdicts, the course, and several at once.
type Planning struct {
	*people.People
	sent sentParts
	past *lru.Cache[int64, pastCourse]
}

// New prepares the pages of plans.
func New(people *people.People) *Planning {
	return &Planning{People: people, past: site.Bounded[int64, pastCourse](mostCourses)}
}

// FamilyNames are the families a lesson may be about.
func (s *Planning) FamilyNames() (out []string) {
	for _, f := range s.Cat.Families {
		out = append(out, f.Name)
	}
	return out
}

// skillAsked reads the family that a lesson is about, empty for the one that serves the weightiest aim.
func (s *Planning) skillAsked(c *gin.Context) (string, error) {
	f := c.PostForm("skill")
	if _, ok := s.Cat.Family(f); f != "" && !ok {
		return "", fmt.Errorf("skill: there is no family %q", f)
	}
	return f, nil
}

// waits says why nothing can be planned for a client whose intake is not finished.
func waits(row *store.Client) string {
	if i := people.StepIndex(row.Intake); i >= 0 {
		return "Finish the intake first: what is not asked yet could change every verdict. It waits at: " + people.IntakeSteps[i].Title + "."
	}
	return ""
}

// request loads a client and everything a session needs, with a kind of session.
func (s *Planning) request(c *gin.Context, id int64, minutes int, kind string) (*people.Person, error) {
	p, err := s.Person(c, id, minutes)
	if err != nil {
		return nil, err
	}
	of, err := s.Kind(c, kind)
	p.For(of)
	return p, err
}

// plannable is the client named in the path with everything a session needs; when none may
// be planned now, it has answered.
func (s *Planning) plannable(c *gin.Context, minutes int, kind string) (*people.Person, bool) {
	id, ok := s.ID(c)
	if !ok {
		return nil, false
	}
	p, err := s.request(c, id, minutes, kind)
	if err != nil {
		s.Failed(c, err)
		return nil, false
	}
	if why := waits(&p.Row); why != "" {
		s.Fail(c, http.StatusUnprocessableEntity, why, "Nothing was planned.")
		return nil, false
	}
	return p, true
}

func (s *Planning) createPlan(c *gin.Context) {
	minutes, err := minutesAsked(c)
	if err != nil {
		s.Fail(c, http.StatusUnprocessableEntity, err.Error(), "Nothing was changed. Go back and choose again.")
		return
	}
	place, err := placeAsked(c)
	skill, unknown := s.skillAsked(c)
	if err = errors.Join(err, unknown); err != nil {
		s.Fail(c, http.StatusUnprocessableEntity, err.Error(), "Nothing was changed. Go back and choose again.")
		return
	}
	p, ok := s.plannable(c, minutes, c.PostForm("template"))
	if !ok {
		return
	}
	p.Req = s.Lasting(c, p.Req, minutes).In(place).Learning(skill)
	built, err := propose.Quick(p.Req) // the page replaces it with the best
	quick := err == nil
	if !quick {
		built, err = propose.Build(p.Req)
	}
	s.planned(c, p, built, quick, nil, err)
}

// planned stores a new plan and opens it, with what is to be said of it, or says why there
// is none.
func (s *Planning) planned(c *gin.Context, p *people.Person, built *plan.Plan, quick bool, said []string, err error) {
	var refused *facts.Refused
	if errors.As(err, &refused) {
		s.Fail(c, http.StatusUnprocessableEntity, "No session can be planned", refused.Reason)
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	id, err := s.addPlan(c, p, built, quick)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if said != nil {
		s.Sessions.Put(c.Request.Context(), saidOf(id), strings.Join(said, "; "))
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d", id))
}

// saidOf is where what is to be said of a new plan waits until it is opened.
func saidOf(id int64) string { return fmt.Sprintf("said of plan %d", id) }

func (s *Planning) addPlan(c *gin.Context, p *people.Person, built *plan.Plan, quick bool) (int64, error) {
	doc, err := json.Marshal(built)
	if err != nil {
		return 0, err
	}
	return s.Store.CreatePlan(
		c,
		store.Plan{ClientID: p.Row.ID, ClientRevision: p.Row.Revision, Document: doc, Basis: p.Req.Basis(), Quick: quick},
	)
}

// PlanPage is a plan with everything around it.
type PlanPage struct {
	Row      store.Plan
	Person   *people.Person
	Plan     *plan.Plan
	Items    []planItem
	Line     site.LineView
	Rose     site.RoseView
	Aims     []aimRow
	Stale    bool
	At       int // the item that is open
	Open     *itemPanel
	Said     string // what the last change did
	Problem  string // why it was not done
	Broken   []brokenRule
	Earlier  bool   // made under earlier rules
	BestOf   string // of what it is the best
	MayAllow int    // new exercises that would fill it
	Others   bool   // proposals of another character may be asked for: the kind does not set what it holds
	Lacks    []facts.Lack
	Scheme   string // how far a kind that is learned has come
	Kept     []plan.Check
	Sides    sideBalance
	Rises    string
	Cautions []string
	Limits   *limitsBox // the clinician's words, nil when there are none
	Whole    *people.WholeView
	Props    []string // to fetch, in the order of use
	Instead  []string // what does at home for what helps and is not there
	Kinds    []people.KindChoice
	Banned   []*catalogue.Version
	Removed  []*catalogue.Version // by hand: rebuilding leaves them out
	Taught   bool                 // a session was taught from it, and nothing else changed since
	Families []familyChoice       // what may be added
	Length   string               // of the session, in words for the ear

	Conditions []string
}

// DoseAsks label what may be typed of a dose.
func (*PlanPage) DoseAsks() map[string]string {
	return map[string]string{
		"sets":    "Sets",
		"reps":    "Repetitions",
		"hold":    "Hold, s",
		"breaths": "or breaths",
		"rest":    "Rest, s",
	}
}

type planItem struct {
	plan.Item
	N          int
	Name       string
	Dose       string
	FigureSide string
	Minds      []string  // what makes it fit this client: an ease, an override
	Words      say.Words // as it is done
	Measured   []string  // what is left with its ease: full, eased, allowed
	Broken     bool
	Here       bool
}

// Minds says what an item needs to fit this client: the ease it is done with, what to mind,
// and an override with its reason and last day.
func Minds(it *plan.Item, v *catalogue.Version) (out []string) {
	for _, say := range v.EaseSide(it.Doing()) {
		out = append(out, "Eased: "+say)
	}
	for _, w := range append(slices.Clone(it.Watch), v.Cautions...) {
		out = append(out, "Mind: "+strings.TrimSuffix(w, ".")+".")
	}
	if o := it.Override; o != nil {
		out = append(out, "Left out for this client; overridden until "+o.Until.String()+": "+o.Reason)
	}
	return out
}

// wordsOf are the words an item is taught by: with its ease, unless only one of its two sides is eased.
func wordsOf(it *plan.Item, v *catalogue.Version) say.Words {
	if it.EasedSide.One() && !it.Side.One() {
		return v.WordsWith("")
	}
	return v.WordsWith(it.Ease())
}

// cuesNow are the lines an item is taught by today, as it is done; before them what must not be confused of a
// side that is bound.
func cuesNow(it *plan.Item, w *say.Words, v *catalogue.Version) (out []string) {
	if v.Binds != "" && it.Side.One() {
		out = append(out, v.SaySide(it.Side))
	}
	return append(out, w.Cues.Out, w.Cues.In, w.Cues.Image)
}

// measured says what is left with an item's ease of what the client may not do in full, a line a quantity.
func (s *Planning) measured(it *plan.Item) (out []string) {
	for _, m := range it.Eased {
		if line := s.Rules.Words.Eased(m.Quantity, m.Full, m.Eased, m.Allowed); line != "" {
			out = append(out, line)
		}
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
	Mends []edit.Repair
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

// LoadPlan reads the plan the address names, fit for who it is for today.
func (s *Planning) LoadPlan(c *gin.Context) (*PlanPage, error) {
	id, ok := s.ID(c)
	if !ok {
		return nil, nil
	}
	return s.planAt(c, id)
}

// planAt loads a plan by its number, with its client as they are now.
func (s *Planning) planAt(c *gin.Context, id int64) (*PlanPage, error) {
	row, err := s.Store.Plan(c, s.Account(c), id)
	if err != nil {
		return nil, err
	}
	p, err := plan.Read(row.Document)
	if err != nil {
		return nil, err
	}
	who, err := s.request(c, row.ClientID, p.Minutes, p.Template)
	if err != nil {
		return nil, err
	}
	pg := &PlanPage{Row: row, Person: who, Plan: p, Cautions: s.Limits().Cautions, Kinds: s.KindChoices(c, who.Client)}
	pg.Stale = row.ClientRevision != who.Row.Revision || who.Req.Stale(p, row.Basis)
	taught, changed, err := s.Store.PlanTaught(c, row.ID)
	if err != nil {
		return nil, err
	}
	appraise.Retime(who.Req, p) // what is shown is screened again whatever changed meanwhile
	pg.Taught = taught && !changed && UnsafeItems(pg) == nil
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

// schemeWords says how far a kind has come that is learned, empty for other kinds.
func schemeWords(sch *facts.Scheme) string {
	switch {
	case !sch.Known():
		return ""
	case sch.Learning && !sch.Memory:
		return "Preparation and finish alone. One section of the main part opens a week after the first time, once both are done from memory: the player asks at the end."
	case sch.Learning:
		return fmt.Sprintf("Preparation and finish alone for the first week, since %s. Both are done from memory.", sch.First)
	case sch.Section == nil:
		return "No section of the main part suits today."
	}
	out := "Main section today: " + sch.Section.Name + "; the sections take turns. "
	if sch.Last.IsZero() {
		return out + "It was not done yet."
	}
	return out + "Last time: " + sch.Last.String() + "."
}

// bestOf says of what a session is the best: for these aims, in this place, in these minutes.
func bestOf(p *plan.Plan) string {
	var aims []string
	for _, s := range slices.SortedStableFunc(slices.Values(p.Served),
		func(a, b plan.Serving) int { return cmp.Compare(b.Weight, a.Weight) }) {
		if len(aims) < 4 {
			aims = append(aims, strings.ReplaceAll(s.Aim, "-", " "))
		}
	}
	where := map[string]string{"mat": "down on the mat for at least half of it",
		"mixed": "a quarter of it or more down on the mat", "bed": "on the bed for at least half of it", "upright": "sitting and standing"}[p.Place]
	if !slices.ContainsFunc(p.Asked, func(a plan.Asked) bool { return a.Name == facts.ShareDown }) {
		where = map[string]string{"upright": "sitting and standing"}[p.Place]
	}
	if len(aims) == 0 {
		return ""
	}
	if where == "" {
		return fmt.Sprintf("For %s; %d minutes.", strings.Join(aims, ", "), p.Minutes)
	}
	return fmt.Sprintf("For %s; %s; %d minutes.", strings.Join(aims, ", "), where, p.Minutes)
}

// scored are the times of a plan's items as its score has them, nil when it cannot be laid out.
func (s *Planning) scored(pg *PlanPage, cat *catalogue.Catalogue) (starts, ends []float64) {
	ways, err := restbend.Ways()
	if err != nil {
		return nil, nil
	}
	r := pg.Person.Req
	sc, err := score.Build(pg.Plan, score.Facts{Catalogue: cat, Client: r.Client, Log: r.Log, Ways: ways, Mover: r.Mover()})
	if err != nil {
		return nil, nil
	}
	return sc.Times()
}

// fetch notes what an item needs, and what does at home for what is not there.
func (pg *PlanPage) fetch(it *plan.Item) {
	if res, ok := pg.Person.Req.Screening.Result(it.Version); ok {
		for _, x := range res.Instead {
			if !slices.Contains(pg.Instead, x) {
				pg.Instead = append(pg.Instead, x)
			}
		}
	}
	for _, prop := range append([]string{string(it.Surface)}, it.Kit...) {
		if prop != "" && !slices.Contains(pg.Props, prop) {
			pg.Props = append(pg.Props, prop)
		}
	}
}

// FillPlan works out what the page of a plan shows.
func (s *Planning) FillPlan(pg *PlanPage, cat *catalogue.Catalogue) {
	pg.Limits, pg.Whole = newLimitsBox(pg), s.WholeView(pg.Person)
	p, r := pg.Plan, pg.Person.Req
	at := map[int]bool{}
	mends := edit.Mends(r, p)
	pg.Earlier = p.Rules < plan.RulesNow && len(p.Items) > 0
	pg.BestOf, pg.MayAllow = bestOf(p), propose.MayAllow(r, p)
	pg.Others = r.Template == nil || !r.Template.OwnContent
	for _, k := range p.Checks {
		if k.OK || pg.Earlier && !appraise.SafetyRule(k.Rule) {
			pg.Kept = append(pg.Kept, k)
			continue
		}
		for _, i := range k.Items {
			at[i] = true
		}
		pg.Broken = append(pg.Broken, brokenRule{k, mends[k.Rule]})
	}
	said := map[string]bool{}
	starts, ends := s.scored(pg, cat)
	for i := range p.Items {
		it := p.Items[i]
		v, ok := cat.Version(it.Version)
		if !ok {
			continue
		}
		pg.fetch(&it)
		mind := slices.DeleteFunc(Minds(&it, v), func(m string) bool { // a caution of several items is said at the first
			again := said[m]
			said[m] = said[m] || slices.ContainsFunc(v.Cautions, func(c string) bool { return m == "Mind: "+c })
			return again
		})
		if b := pg.Plan.BlockSays(i); b != "" {
			mind = append(mind, b)
		}
		if starts != nil { // of the score, the one account of every second
			it.Start, it.End = int(starts[i]), int(ends[i])
		}
		pi := planItem{Item: it, N: i, Name: v.Name, Dose: doseText(it), Minds: mind, Broken: at[i], Here: i == pg.At,
			Words: wordsOf(&it, v), Measured: s.measured(&it)}
		pi.FigureSide = site.FigureSide(&it)
		pi.Cues = cuesNow(&it, &pi.Words, v)
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
	for _, slug := range p.Removed {
		if v, ok := cat.Version(slug); ok {
			pg.Removed = append(pg.Removed, v)
		}
	}
	for _, k := range p.Checks {
		if k.Rule == "floor-transfers" {
			pg.Rises = k.Detail
		}
	}
	pg.Line = site.PostureLine(p, cat, pg.At, at)
	pg.Lacks = r.Lacks(p)
	pg.Scheme = schemeWords(r.Scheme())
	pg.Rose = site.Rose(r.Screener, site.SessionPeaks(p, cat))
	if len(p.Items) > 0 {
		pg.Open = s.itemPanel(pg, cat)
	}
	pg.Families = choices(edit.Adoptable(r, p))
	pg.Conditions = s.ConditionNames(pg.Person.Client)
	pg.Length = fmt.Sprintf("%d minutes %d seconds of %d minutes", p.Seconds/60, p.Seconds%60, p.Minutes)
}

// add counts an item's working seconds for each side.
func (b *sideBalance) add(it *plan.Item, rate float64) {
	if it.Role == trade.Reset {
		return
	}
	d := it.Dose
	one := d.TotalReps() * (d.MoveS + d.HoldSeconds(rate))
	switch it.Side {
	case trade.Each:
		b.Left, b.Right = b.Left+one, b.Right+one
	case trade.Alternate:
		b.Left, b.Right = b.Left+one/2, b.Right+one/2
	case trade.Left:
		b.Left += one
	case trade.Right:
		b.Right += one
	}
	if e := d.ExtraSeconds(rate); e > 0 && d.Extra != nil {
		if d.Extra.Side == trade.Left {
			b.Left += e
		} else {
			b.Right += e
		}
		b.Extra = string(d.Extra.Side)
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
func doseText(it plan.Item) string { return it.DoseWords() }

func (s *Planning) plan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		pg.Said = s.Sessions.PopString(c.Request.Context(), saidOf(pg.Row.ID))
		s.showPlan(c, http.StatusOK, pg)
	})
}

// UnsafeItems names the items that no longer suit; such a plan is mended first.
func UnsafeItems(pg *PlanPage) []string {
	var out []string
	for _, k := range pg.Plan.Checks {
		if k.Rule == "safe" && !k.OK {
			out = append(out, k.Detail)
		}
	}
	return out
}

// NotAllowed are the remarks of a plan with which it is not taught until they are mended or overridden with a reason.
func NotAllowed(pg *PlanPage) (out []plan.Check) {
	for _, k := range pg.Plan.Checks {
		if !k.OK && k.Weight == plan.NotAllowed {
			out = append(out, k)
		}
	}
	return out
}

// Overridable tells whether a remark may be overridden with a reason: what does not suit is overridden for the exercise,
// with a day on which that ends.
func Overridable(rule string) bool { return rule != "safe" }

// Routes registers the pages of plans.
func (s *Planning) Routes(in *gin.RouterGroup) {
	in.POST("/plans/:id/confirm", s.confirm)
	in.POST("/clients/:id/overrides", s.saveOverride)
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
}
