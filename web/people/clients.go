// Package people is the pages of clients: the list, the intake, tests, history, and files that come and go.
package people

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/site"
)

// Person is a stored client together with what the core says of them.
type Person struct {
	Row    store.Client
	Client *intake.Client
	Log    *progress.Log
	Req    *facts.Request

	held *held // what is kept of them, nil when another request works with it
}

// PersonHere loads the client named in the path; when it cannot, it has answered.
func (s *People) PersonHere(c *gin.Context) (*Person, int64, bool) {
	id, ok := s.ID(c)
	if !ok {
		return nil, 0, false
	}
	p, err := s.Person(c, id, 30)
	if err != nil {
		s.Failed(c, err)
		return nil, 0, false
	}
	return p, id, true
}

// Person loads a client, their log and their verdicts today.
func (s *People) Person(c *gin.Context, id int64, minutes int) (*Person, error) {
	row, err := s.Store.Client(c, s.Account(c), id)
	if err != nil {
		return nil, err
	}
	p := &Person{Row: row, Client: &intake.Client{}}
	if err := json.Unmarshal(row.Document, p.Client); err != nil {
		return nil, err
	}
	if p.Log, err = s.LogOf(c, id); err != nil {
		return nil, err
	}
	if p.Client.Changed, err = s.changedSince(c, p.Row.ID); err != nil {
		return nil, err
	}
	p.Client = p.Client.On(s.Today())
	p.held = s.hold(c, id, s.stampOf(c, &p.Row))
	p.Req, err = s.request(c, p, minutes)
	return p, err
}

// mostHandChecks is how many of the last hand checks a client's page lists.
const mostHandChecks = 8

// bearing are the fields of a client whose change asks for one session as things are now, in
// words.
var bearing = map[string]string{
	"conditions": "the conditions changed",
	"positions":  "the positions changed",
	"effort_cap": "the effort cap changed",
}

// changedSince says what changed of a client after their last session.
func (s *People) changedSince(ctx context.Context, client int64) (out []intake.Changed, err error) {
	changes, err := s.Store.ChangedSince(ctx, client)
	if err != nil {
		return nil, err
	}
	for _, ch := range changes {
		at, err := time.Parse(time.RFC3339, ch.At)
		if what := bearing[ch.Field]; what != "" && err == nil {
			out = append(out, intake.Changed{Day: trade.DayOf(at, s.Zone.Load()), What: what})
		}
	}
	return out, nil
}

// ClientRow is a client in a list.
type ClientRow struct {
	ID         int64
	Name       string
	Complaint  string
	Conditions []string
	Sessions   int
	LastDay    string
	Refer      bool
	Rest       bool
	Endings    []string  // of clearances, soon
	Unfinished string    // the step an intake waits at
	Shared     bool      // by another instructor
	Pending    bool      // what holds today is still worked out
	Ask        *TodayRow // the session after which nobody was asked yet
}

// PerPage is how many clients stand on one page of the list.
const PerPage = 40

// ClientsPage is a page of the list of clients.
type ClientsPage struct {
	Rows              []ClientRow
	Text              string // searched for
	Total             int
	Page, Pages       int
	Previous, Further int // pages, 0 for none
	Pending           int // of whom it is still worked out what holds today
}

// Paged reads which clients of a list are asked for.
func (s *People) Paged(c *gin.Context) (f store.Find, pg ClientsPage, err error) {
	f.Text = site.AtMost(strings.TrimSpace(c.Query("q")), 100)
	if pg.Total, err = s.Store.ClientCount(c, s.Account(c), f); err != nil {
		return f, pg, err
	}
	pg.Text, pg.Pages = f.Text, max(1, (pg.Total+PerPage-1)/PerPage)
	n, _ := strconv.Atoi(c.DefaultQuery("page", "1")) // anything else is the first
	pg.Page = min(max(1, n), pg.Pages)
	if pg.Page < pg.Pages {
		pg.Further = pg.Page + 1
	}
	pg.Previous = pg.Page - 1
	f.Most, f.After = PerPage, PerPage*(pg.Page-1)
	return f, pg, nil
}

func (s *People) clients(c *gin.Context) {
	f, pg, err := s.Paged(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	rows, err := s.Store.Clients(c, s.Account(c), f)
	if err != nil {
		s.Failed(c, err)
		return
	}
	holds, pending, err := s.InTime(c, rows)
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg.Pending = pending
	for i := range rows {
		r := &rows[i]
		cl, err := DocumentOf(r)
		if err != nil {
			s.Failed(c, err)
			return
		}
		row := ClientRow{
			ID:         r.ID,
			Name:       r.Name,
			Complaint:  cl.Complaint,
			Conditions: s.ConditionNames(cl),
			Sessions:   r.Sessions,
			LastDay:    r.LastDay.String(),
			Shared:     r.Owner != s.Account(c),
		}
		if i := StepIndex(r.Intake); i >= 0 {
			row.Unfinished = IntakeSteps[i].Title
		}
		if k := holds[i]; k != nil {
			row.Refer, row.Rest, row.Endings = k.Refer, k.Rest, k.Endings
		} else {
			row.Pending = true
		}
		pg.Rows = append(pg.Rows, row)
	}
	s.Render(c, http.StatusOK, "clients", "", "Clients", pg)
}

// ConditionNames are the names of a client's conditions.
func (s *People) ConditionNames(cl *intake.Client) []string {
	var out []string
	for _, k := range cl.Conditions {
		if rule, ok := s.Limits().Rule(k.Code); ok && !slices.Contains(out, rule.Name) {
			out = append(out, rule.Name)
		}
	}
	return out
}

type clientPage struct {
	*Person
	*glance
	ID         int64
	Total      int
	Decisions  []DecisionRow
	Running    int64
	PlanID     int64
	Sessions   []pastSession
	Conditions []string
	Positions  []positionRow
	Surfaces   []string
	Clearances []clearanceRow
	Overrides  []overrideRow
	Curve      []string // which side of curve work, in words
	Clock      []hour
	SIJ        bool
	Checked    string   // today's sacroiliac check
	HandChecks []string // the last ones in sessions, latest first
	Tight      string
	Signs      site.Signs
	Members    []store.Member
	Owner      bool
	Unfinished string
	ReviewDue  bool
	Kinds      []KindChoice
	Whole      *WholeView
	Barred     bool // nothing is planned: refer first
	Endings    []string
	Asked      *store.Taught // the last session, when nobody knows how sore it left the client
	Form       AfterForm
}

// pastSession is a session of the log with its address.
type pastSession struct {
	progress.Session
	ID      int64
	Reached int // lines that were reached
}

// KindChoice is a kind of session; Here tells that it is meant for this client.
type KindChoice struct {
	kinds.Template
	Here bool
}

// KindChoices lists the kinds of session, those meant for the client's conditions first;
// without a client in the order of the practice.
func (s *People) KindChoices(c *gin.Context, cl *intake.Client) []KindChoice {
	var out []KindChoice
	for _, t := range s.Kinds(c) {
		here := cl != nil &&
			slices.ContainsFunc(cl.Conditions, func(k intake.Condition) bool { return slices.Contains(t.For, k.Code) })
		out = append(out, KindChoice{t, here})
	}
	slices.SortStableFunc(out, func(a, b KindChoice) int { return facts.CountIf(b.Here) - facts.CountIf(a.Here) })
	return out
}

type positionRow struct {
	Answer string
	Asks   []string
}

// positionGlance groups the positions by what the client answered.
func positionGlance(cl *intake.Client) []positionRow {
	rows := []positionRow{
		{Answer: "Possible"},
		{Answer: "With help or a hold"},
		{Answer: "Not possible"},
		{Answer: "Not confirmed, so not used"},
	}
	for _, a := range placeAsks {
		answer, confirmed := cl.Position(a.Name)
		i := map[string]int{"yes": 0, "help": 1, "held": 1, "no": 2}[answer]
		if !confirmed {
			i = 3
		}
		rows[i].Asks = append(rows[i].Asks, strings.ToLower(a.Ask[:1])+a.Ask[1:])
	}
	return slices.DeleteFunc(rows, func(r positionRow) bool { return r.Asks == nil })
}

type clearanceRow struct {
	intake.Clearance
	Of []coverRow
}

// coverRow is one thing a clearance covers: through which day, or why it does not clear it.
type coverRow struct{ Code, Through, Why string }

type overrideRow struct {
	intake.Override
	Name  string
	Ended bool
}

// DecisionRow is what progress decided of one exercise.
type DecisionRow struct {
	progress.Decision
	Name, ToName string
}

// DecisionRows are decisions with the names of what they are about.
func DecisionRows(cat *catalogue.Catalogue, ds []progress.Decision) []DecisionRow {
	var out []DecisionRow
	for _, d := range ds {
		v, _ := cat.Version(d.Version)
		w, _ := cat.Version(d.ToVersion)
		if v != nil && w != nil {
			out = append(out, DecisionRow{d, v.Name, w.Name})
		}
	}
	return out
}

func (s *People) client(c *gin.Context) {
	p, id, ok := s.PersonHere(c)
	if !ok {
		return
	}
	cl, cat, today := p.Client, s.Catalogue(c), s.Today()
	pg := clientPage{
		Person:     p,
		glance:     s.glanceAt(p),
		ID:         id,
		Total:      len(p.Req.Screening.Results),
		Decisions:  DecisionRows(cat, p.Req.Decisions),
		Conditions: s.ConditionNames(cl),
		Surfaces:   cl.Owns(),
		Clock:      clockFace(cl.Today.ClockWeak),
		Checked:    string(cl.Today.SIJSide),
		Tight:      string(cl.Today.TightTurn),
		Signs:      s.SignsFor(cl),
		Owner:      p.Row.Owner == s.Account(c),
		ReviewDue:  !cl.NextReview.IsZero() && !cl.NextReview.After(today),
	}
	pg.recorded(p, cat, today)
	pg.Kinds = s.KindChoices(c, cl)
	pg.Running, _ = s.Store.Running(c, id)
	pg.PlanID, _ = s.Store.LatestPlan(c, id)
	if members, err := s.Store.Members(c, id); err == nil {
		for _, m := range members {
			if m.ID != p.Row.Owner {
				pg.Members = append(pg.Members, m)
			}
		}
	}
	if i := StepIndex(p.Row.Intake); i >= 0 {
		pg.Unfinished = IntakeSteps[i].Name
	}
	pg.Whole, pg.Endings, pg.Form = s.WholeView(p), endings(p), NewAfterForm(nil, nil)
	pg.Barred = pg.Whole != nil && pg.Whole.Decision == trade.Refer
	var err error
	if pg.Asked, err = s.Unanswered(c, id); err != nil {
		s.Failed(c, err)
		return
	}
	if pg.Sessions, err = s.pastSessions(c, p); err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "client", "", p.Row.Name, pg)
}

// glance is what the screening says of a client at a glance.
type glance struct {
	Counts    map[string]int
	Roses     []site.RoseView // low back and upper back
	OutWhy    []string
	Conflicts []string
	Notes     []string
	Wishes    *safety.Wishes
	Summary   []string
}

// SummaryOf says in sentences what the screening says of a client.
func (s *People) SummaryOf(p *Person) []string { return s.glanceAt(p).Summary }

// glanceAt is what is kept of a client's glance, worked out when nothing is.
func (s *People) glanceAt(p *Person) *glance {
	if p.held != nil && p.held.glance != nil {
		return p.held.glance
	}
	g := &glance{
		Counts:    map[string]int{},
		Roses:     site.RegionRoses(s.Rules.Words, p.Req.Screener),
		OutWhy:    outWhy(p.Req.Screening),
		Conflicts: p.Req.Screener.Conflicts(),
		Wishes:    p.Req.Screener.Wishes(),
		Summary:   p.Req.Screener.Summary(p.Req.Screening),
	}
	for _, r := range p.Req.Screening.Results {
		verdict := string(r.Verdict)
		if r.OtherKit {
			verdict = "other-kit"
		}
		g.Counts[verdict]++
	}
	for _, n := range p.Req.Screening.Notes {
		if !slices.Contains(g.Conflicts, n) {
			g.Notes = append(g.Notes, n)
		}
	}
	if p.held != nil {
		p.held.glance = g
	}
	return g
}

// recorded shows what is recorded of a client: positions, clearances, overrides, curves, hand checks.
func (pg *clientPage) recorded(p *Person, cat *catalogue.Catalogue, today trade.Day) {
	cl := p.Client
	pg.Positions = positionGlance(cl)
	for _, k := range cl.Clearances {
		row := clearanceRow{Clearance: k}
		for _, code := range k.Covers {
			through, why := p.Req.Screener.Clears(&k, code)
			cover := coverRow{Code: code, Why: why}
			cover.Through = through.String()
			row.Of = append(row.Of, cover)
		}
		pg.Clearances = append(pg.Clearances, row)
	}
	for _, o := range cl.Overrides {
		row := overrideRow{Override: o, Name: o.Version, Ended: o.Until.Before(today)}
		if v, ok := cat.Version(o.Version); ok {
			row.Name = v.Name
		}
		pg.Overrides = append(pg.Overrides, row)
	}
	for i := range cl.Conditions {
		k := &cl.Conditions[i]
		pg.SIJ = pg.SIJ || k.Code == "sij-pain"
		if k.Code == "scoliosis" && k.Convex.One() {
			pg.Curve = append(pg.Curve, curveWords(k.Convex))
		}
	}
	for i := range slices.Backward(p.Log.Sessions) {
		if k := p.Log.Sessions[i].Checks; pg.SIJ && k != nil && k.SIJSide != "" && len(pg.HandChecks) < mostHandChecks {
			pg.HandChecks = append(pg.HandChecks, fmt.Sprintf("%s %s", p.Log.Sessions[i].Date, k.SIJSide))
		}
	}
}

// pastSessions are a client's ended sessions, newest first.
func (s *People) pastSessions(ctx context.Context, p *Person) (out []pastSession, err error) {
	ids, err := s.Store.EndedIDs(ctx, p.Row.ID)
	if err != nil {
		return nil, err
	}
	n := min(len(ids), len(p.Log.Sessions)) // one that ended since is there when the page is loaded again
	for i := n - 1; i >= max(0, n-MostShown); i-- {
		one := pastSession{ID: ids[i], Session: p.Log.Sessions[i]}
		for k := range one.Items {
			if one.Items[k].Begun() {
				one.Reached++
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// curveWords says which side of a curve opens and which works.
func curveWords(convex trade.Side) string {
	return fmt.Sprintf(
		"The %s side is the long (convex) one and works; the %s side is the short one and opens. Lie on the long side to open, on the short side to strengthen; lengthen first.",
		convex,
		convex.Other(),
	)
}

// outWhy says in up to five lines what most often keeps an exercise out: the limits and
// positions first, what the place lacks in one line at the end.
func outWhy(sc *safety.Screening) []string {
	const place = "needs a place or kit that is not here"
	n := map[string]int{}
	var order []string
	for _, r := range sc.Results {
		seen := map[string]bool{}
		for _, f := range r.Findings {
			reason := f.Reason
			if f.Condition == "place" {
				reason = place
			}
			if r.Verdict == trade.Suits || seen[reason] {
				continue
			}
			seen[reason] = true
			if n[reason] == 0 && reason != place {
				order = append(order, reason)
			}
			n[reason]++
		}
	}
	slices.SortStableFunc(order, func(a, b string) int { return n[b] - n[a] })
	if n[place] > 0 {
		order = append(order[:min(len(order), 4)], place)
	}
	var out []string
	for i := 0; i < len(order) && i < 5; i++ {
		out = append(out, fmt.Sprintf("%s (%d)", order[i], n[order[i]]))
	}
	return out
}

func (s *People) confirmDelete(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	if row.Owner != s.Account(c) {
		s.Fail(c, http.StatusForbidden, "Only the instructor who keeps this client removes them", "Nothing was changed.")
		return
	}
	s.Render(c, http.StatusOK, "delete", "", "Remove "+row.Name, row)
}

func (s *People) deleteClient(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	if c.PostForm("confirm") != "delete" {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/delete", row.ID))
		return
	}
	if err := s.Store.RemoveClient(c, s.Account(c), row.ID); err != nil {
		s.Failed(c, err)
		return
	}
	if c.PostForm("for_good") == "yes" {
		if err := s.Store.Delete(c, s.Account(c), "client", row.ID); err != nil {
			s.Failed(c, err)
			return
		}
		s.EventOf(c, "deleted a client", row.ID)
	} else {
		s.PutAway(c, "client", row.ID, row)
	}
	c.Redirect(http.StatusSeeOther, "/clients")
}

// TodayRow is a session in a list, with whose it is.
type TodayRow struct {
	ID, ClientID int64
	Name         string
	Day          trade.Day
	Minutes      int
	Taught       bool
	Why          string
}

// MostShown is how many sessions a page lists, the newest; an export holds all.
const MostShown = 250

// Routes registers the pages of clients.
func (s *People) Routes(in *gin.RouterGroup) {
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
	in.GET("/clients/:id/tests", s.testsPage)
	in.POST("/clients/:id/tests", s.saveTests)
	in.GET("/clients/:id/export", s.exportClient)
	in.GET("/clients/:id/delete", s.confirmDelete)
	in.POST("/clients/:id/delete", s.deleteClient)
}
