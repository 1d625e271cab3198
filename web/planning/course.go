package planning

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/people"
)

// CourseSession is a session of a course, done or planned.
type CourseSession struct {
	Day        trade.Day
	What       string
	PlanID     int64
	TaughtID   int64
	Planned    bool
	Minutes    int
	Items      int
	Hardest    int
	Version    int64
	Pain, Sore string
	Reached    int // of what was taught: the exercises that were reached
	Ran        int // ... and the minutes that ran, 0 when nobody knows
}

type courseWeek struct {
	Monday, Label string
	Sessions      []CourseSession
}

type coursePage struct {
	*people.Person
	ID          int64
	Weeks       []courseWeek
	Undated     []CourseSession
	Frequencies []progress.Frequency
	HasLast     bool
	Kinds       []people.KindChoice
	Today       string
}

// course shows planned and taught sessions week by week.
func (s *Planning) course(c *gin.Context) {
	p, id, ok := s.PersonHere(c)
	if !ok {
		return
	}
	plans, err := s.Store.Plans(c, id)
	if err != nil {
		s.Failed(c, err)
		return
	}
	taught, err := s.pastOf(c, &p.Row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	today := s.Today()
	pg := coursePage{
		Person:      p,
		ID:          id,
		Frequencies: progress.Frequencies(s.Catalogue(c), p.Log, today),
		HasLast:     len(taught) > 0,
		Kinds:       s.KindChoices(c, p.Client),
		Today:       today.String(),
	}
	byWeek := map[string]*courseWeek{}
	put := func(cs CourseSession) {
		if cs.Day.IsZero() {
			pg.Undated = append(pg.Undated, cs)
			return
		}
		monday := cs.Day.AddDays(-int((cs.Day.Weekday() + 6) % 7)).String()
		if byWeek[monday] == nil {
			byWeek[monday] = &courseWeek{Monday: monday}
		}
		byWeek[monday].Sessions = append(byWeek[monday].Sessions, cs)
	}
	done, err := s.Store.PlansTaught(c, id)
	if err != nil {
		s.Failed(c, err)
		return
	}
	for _, cs := range taught {
		put(cs)
	}
	for _, row := range plans {
		if done[row.ID] {
			continue
		}
		cs := CourseSession{Day: row.Day, What: "planned", PlanID: row.ID, Planned: true, Version: row.Version}
		cs.Read(row.Document)
		put(cs)
	}
	for _, w := range byWeek {
		slices.SortStableFunc(w.Sessions, func(a, b CourseSession) int {
			return a.Day.Since(b.Day)
		})
		pg.Weeks = append(pg.Weeks, *w)
	}
	slices.SortFunc(pg.Weeks, func(a, b courseWeek) int {
		if a.Monday > b.Monday {
			return -1
		}
		return 1
	})
	s.Render(c, http.StatusOK, "course", "", "Course of "+p.Row.Name, pg)
}

// mostCourses is how many clients' courses are kept read (product default).
const mostCourses = 32

// pastCourse is what a course shows of a client's sessions, as long as their log stays.
type pastCourse struct {
	logRev   int64
	sessions []CourseSession
}

// pastOf are a client's sessions as their course shows them, oldest first.
func (s *Planning) pastOf(c *gin.Context, row *store.Client) ([]CourseSession, error) {
	if k, ok := s.past.Get(row.ID); ok && k.logRev == row.LogRev {
		return k.sessions, nil
	}
	taught, err := s.Store.TaughtSessions(c, row.ID, people.MostShown)
	if err != nil {
		return nil, err
	}
	out := make([]CourseSession, len(taught))
	for i := range taught {
		t, cs := &taught[i], &out[i]
		*cs = CourseSession{Day: t.Day, What: "taught", TaughtID: t.ID}
		cs.Read(t.Plan)
		if err := cs.done(t.Log); err != nil {
			return nil, err
		}
		if t.PainStart.Valid && t.PainEnd.Valid {
			cs.Pain = fmt.Sprintf("pain %g to %g", t.PainStart.Float64, t.PainEnd.Float64)
		}
		if t.SorePeak.Valid {
			cs.Sore = fmt.Sprintf("sore %g", t.SorePeak.Float64)
		}
	}
	s.past.Add(row.ID, pastCourse{row.LogRev, out})
	return out, nil
}

// Read takes what a stored plan says.
func (cs *CourseSession) Read(document []byte) {
	var p struct { // of a plan: a course has hundreds
		Seconds int `json:"seconds"`
		Items   []struct {
			Role   trade.Role `json:"role"`
			Effort int        `json:"effort"`
		} `json:"items"`
	}
	if json.Unmarshal(document, &p) != nil {
		return
	}
	cs.Minutes = (p.Seconds + 59) / 60
	for i := range p.Items {
		if p.Items[i].Role != trade.Reset {
			cs.Items++
			cs.Hardest = max(cs.Hardest, p.Items[i].Effort)
		}
	}
}

// done takes in what was really done: the exercises reached and the minutes that ran.
func (cs *CourseSession) done(log []byte) error {
	var session progress.Session
	if err := json.Unmarshal(log, &session); err != nil {
		return err
	}
	reached := map[string]bool{}
	for i := range session.Items {
		if it := &session.Items[i]; it.Begun() {
			reached[it.Version] = true
		}
	}
	cs.Reached = len(reached)
	cs.Ran = (session.Seconds + 30) / 60
	return nil
}

// PerWeek says how many days a week the days of four weeks are.
func PerWeek(days int) string { return strconv.FormatFloat(float64(days)/4, 'f', -1, 64) }

// again repeats the last taught session, or takes every item its decided step further.
func (s *Planning) again(c *gin.Context) {
	p, ok := s.plannable(c, kinds.MinMinutes, "")
	if !ok {
		return
	}
	taught, err := s.Store.TaughtSessions(c, p.Row.ID, 1)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if len(taught) == 0 {
		s.Fail(c, http.StatusUnprocessableEntity, "No session has been taught yet", "Plan the first one.")
		return
	}
	last, err := plan.Read(taught[len(taught)-1].Plan)
	if err != nil {
		s.Failed(c, err)
		return
	}
	kind, err := s.Kind(c, last.Template)
	if err != nil {
		s.Failed(c, err)
		return
	}
	p.Req = p.Req.Lasting(max(kinds.MinMinutes, min(kinds.MaxMinutes, last.Minutes))).For(kind)
	built, said, err := edit.Repeat(p.Req, last, c.PostForm("progress") == "yes")
	s.planned(c, p, built, false, said, err)
}

// planDay plans a session for a day.
func (s *Planning) planDay(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		var day trade.Day
		if err := day.UnmarshalText([]byte(c.PostForm("day"))); err != nil || day.YearOnly() {
			s.Fail(
				c,
				http.StatusUnprocessableEntity,
				fmt.Sprintf("Day: found %q, allowed: a date, or nothing", c.PostForm("day")),
				"Nothing was changed.",
			)
			return
		}
		if err := s.Store.SetPlanDay(c, pg.Row, day); err != nil {
			s.Failed(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/course", pg.Row.ClientID))
	})
}

func (s *Planning) deletePlan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		if err := s.Store.RemovePlan(c, pg.Row); err != nil {
			s.Failed(c, err)
			return
		}
		s.PutAway(c, "plan", pg.Row.ID, pg.Person.Row)
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/course", pg.Row.ClientID))
	})
}

type severalRow struct {
	ID      int64
	Name    string
	Waits   string
	Chosen  bool
	PlanID  int64
	Problem string
	Seconds int
	Items   int
	Broken  int
}

type severalForm struct {
	Rows    []severalRow
	Of      people.ClientsPage // which page of the clients
	Kinds   []people.KindChoice
	Minutes string
	Kind    string
	Day     string
	Wrong   string
	Done    bool
}

// severalRows are the clients one may choose from: a page of them, and whoever was chosen.
func (s *Planning) severalRows(c *gin.Context) (rows []severalRow, pg people.ClientsPage, err error) {
	f, pg, err := s.Paged(c)
	if err != nil {
		return nil, pg, err
	}
	clients, err := s.Store.Clients(c, s.Account(c), f)
	if err != nil {
		return nil, pg, err
	}
	for _, text := range c.PostFormArray("client") {
		id, err := strconv.ParseInt(text, 10, 64)
		if err != nil || slices.ContainsFunc(clients, func(x store.Client) bool { return x.ID == id }) {
			continue
		}
		if row, err := s.Store.Client(c, s.Account(c), id); err == nil {
			clients = append(clients, row)
		}
	}
	for i := range clients {
		rows = append(rows, severalRow{ID: clients[i].ID, Name: clients[i].Name, Waits: waits(&clients[i])})
	}
	return rows, pg, nil
}

func (s *Planning) severalPage(c *gin.Context) {
	rows, pg, err := s.severalRows(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(
		c,
		http.StatusOK,
		"several",
		"",
		"Plan for several",
		severalForm{Rows: rows, Of: pg, Kinds: s.KindChoices(c, nil), Minutes: "30", Day: s.Today().String()},
	)
}

// several plans a session for each chosen client; who cannot be planned for is told why.
func (s *Planning) several(c *gin.Context) {
	rows, pg, err := s.severalRows(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	f := severalForm{
		Rows:    rows,
		Of:      pg,
		Kinds:   s.KindChoices(c, nil),
		Minutes: c.PostForm("minutes"),
		Kind:    c.PostForm("template"),
		Day:     c.PostForm("day"),
	}
	minutes, err := minutesAsked(c)
	var day trade.Day
	if err != nil {
		f.Wrong = err.Error()
	} else if err := day.UnmarshalText([]byte(f.Day)); err != nil || day.YearOnly() {
		f.Wrong = fmt.Sprintf("Day: found %q, allowed: a date, or nothing", f.Day)
	}
	chosen := c.PostFormArray("client")
	if f.Wrong == "" && len(chosen) == 0 {
		f.Wrong = "Clients: choose at least one."
	}
	if f.Wrong == "" && len(chosen) > people.PerPage {
		f.Wrong = fmt.Sprintf("Clients: found %d, allowed: up to %d at once.", len(chosen), people.PerPage)
	}
	for i := range f.Rows {
		row := &f.Rows[i]
		row.Chosen = slices.Contains(chosen, strconv.FormatInt(row.ID, 10))
		if f.Wrong != "" || !row.Chosen {
			continue
		}
		if row.Problem = row.Waits; row.Problem == "" {
			if err := s.planRow(c, row, minutes, f.Kind, day); err != nil {
				s.Failed(c, err)
				return
			}
		}
	}
	f.Done = f.Wrong == ""
	status := http.StatusOK
	if !f.Done {
		status = http.StatusUnprocessableEntity
	}
	s.Render(c, status, "several", "", "Plan for several", f)
}

func (s *Planning) planRow(c *gin.Context, row *severalRow, minutes int, kind string, day trade.Day) error {
	p, err := s.request(c, row.ID, minutes, kind)
	if err != nil {
		return err
	}
	built, err := propose.Build(s.Lasting(c, p.Req, minutes))
	var refused *facts.Refused
	if errors.As(err, &refused) {
		row.Problem = refused.Reason
		return nil
	}
	if err != nil {
		return err
	}
	if row.PlanID, err = s.addPlan(c, p, built, false); err != nil {
		return err
	}
	row.Seconds, row.Items = built.Seconds, len(built.Items)
	for _, k := range built.Checks {
		row.Broken += facts.CountIf(!k.OK)
	}
	if day.IsZero() {
		return nil
	}
	return s.Store.SetPlanDay(c, store.Plan{ID: row.PlanID}, day)
}

// printPlan is one page for the instructor. A stale plan or one that holds something that
// no longer suits is mended first.
func (s *Planning) printPlan(c *gin.Context) {
	s.withPlan(c, func(pg *PlanPage) {
		if pg.Stale || UnsafeItems(pg) != nil || pg.Person.Req.Screening.Refer != nil {
			s.Fail(
				c,
				http.StatusConflict,
				"This session must be mended before it is printed",
				"It is older than what is known of the client. Open it and choose: Mend it.",
			)
			return
		}
		s.FillPlan(pg, s.Catalogue(c))
		s.Render(c, http.StatusOK, "print", "", "Session for "+pg.Person.Row.Name, pg)
	})
}
