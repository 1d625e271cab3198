package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/exchange"
	"restbend/figure"
	"restbend/store"
)

// id reads a number from the path.
func (s *Server) id(c *gin.Context) (int64, bool) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil || id < 1 {
		s.fail(c, http.StatusNotFound, "There is no such page", "The address may be mistyped.")
		return 0, false
	}
	return id, true
}

// person is a stored client together with what the core says of them.
type person struct {
	Row    store.Client
	Client *safety.Client
	Log    *progress.Log
	Req    *plan.Request
}

// personHere loads the client named in the path; when it cannot, it has answered.
func (s *Server) personHere(c *gin.Context) (*person, int64, bool) {
	id, ok := s.id(c)
	if !ok {
		return nil, 0, false
	}
	p, err := s.person(c, id, 30)
	if err != nil {
		s.failed(c, err)
		return nil, 0, false
	}
	return p, id, true
}

// rowHere loads the stored client named in the path; when it cannot, it has answered.
func (s *Server) rowHere(c *gin.Context) (store.Client, bool) {
	id, ok := s.id(c)
	if !ok {
		return store.Client{}, false
	}
	row, err := s.Store.Client(c, s.account(c), id)
	if err != nil {
		s.failed(c, err)
		return row, false
	}
	return row, true
}

// person loads a client, their log and their verdicts today.
func (s *Server) person(c *gin.Context, id int64, minutes int) (*person, error) {
	row, err := s.Store.Client(c, s.account(c), id)
	if err != nil {
		return nil, err
	}
	p := &person{Row: row, Client: &safety.Client{}}
	if err := json.Unmarshal(row.Document, p.Client); err != nil {
		return nil, err
	}
	taught, err := s.Store.TaughtSessions(c, id)
	if err != nil {
		return nil, err
	}
	p.Log = &progress.Log{Format: "restbend.log/1"}
	for i := range taught {
		p.Log.Sessions = append(p.Log.Sessions, sessionLog(&taught[i]))
	}
	p.Client.Today.Date = "" // the day in the file is the day of the intake
	p.Req, err = plan.NewRequest(s.cat(c), s.Rules, p.Client, p.Log, minutes, s.Today())
	return p, err
}

type clientRow struct {
	ID         int64
	Name       string
	Complaint  string
	Conditions []string
	Sessions   int
	LastDay    string
	Refer      bool
}

func (s *Server) clients(c *gin.Context) {
	rows, err := s.Store.Clients(c, s.account(c))
	if err != nil {
		s.failed(c, err)
		return
	}
	var out []clientRow
	for _, r := range rows {
		var cl safety.Client
		if err := json.Unmarshal(r.Document, &cl); err != nil {
			s.failed(c, err)
			return
		}
		row := clientRow{ID: r.ID, Name: r.Name, Complaint: cl.Complaint, Sessions: r.Sessions, LastDay: r.LastDay}
		for _, k := range cl.Conditions {
			if rule, ok := s.Rules.Rule(k.Code); ok {
				row.Conditions = append(row.Conditions, rule.Name)
			}
		}
		if sc, err := safety.NewScreener(s.Rules, s.cat(c), &cl, s.Today()); err == nil {
			row.Refer = sc.Referral() != nil
		}
		out = append(out, row)
	}
	s.render(c, http.StatusOK, "clients", "", "Clients", out)
}

type clientPage struct {
	*person
	ID         int64
	Counts     map[string]int
	Rose       any
	Decisions  []decisionRow
	Running    int64
	PlanID     int64
	Sessions   []progress.Session
	OutWhy     []string
	Conditions []string
}

type decisionRow struct {
	progress.Decision
	Name, ToName string
}

func decisionRows(cat *catalogue.Catalogue, ds []progress.Decision) []decisionRow {
	var out []decisionRow
	for _, d := range ds {
		v, _ := cat.Version(d.Version)
		w, _ := cat.Version(d.ToVersion)
		if v != nil && w != nil {
			out = append(out, decisionRow{d, v.Name, w.Name})
		}
	}
	return out
}

func (s *Server) client(c *gin.Context) {
	p, id, ok := s.personHere(c)
	if !ok {
		return
	}
	pg := clientPage{person: p, ID: id, Counts: map[string]int{}, Decisions: decisionRows(s.cat(c), p.Req.Decisions), Rose: rose(p.Req.Screener, nil)}
	for _, r := range p.Req.Screening.Results {
		pg.Counts[r.Verdict]++
	}
	for _, k := range p.Client.Conditions {
		if rule, ok := s.Rules.Rule(k.Code); ok {
			pg.Conditions = append(pg.Conditions, rule.Name)
		}
	}
	pg.OutWhy = outWhy(p.Req.Screening)
	pg.Running, _ = s.Store.Running(c, id)
	pg.PlanID, _ = s.Store.LatestPlan(c, id)
	pg.Sessions = slices.Clone(p.Log.Sessions)
	slices.Reverse(pg.Sessions)
	s.render(c, http.StatusOK, "client", "", p.Row.Name, pg)
}

// outWhy says in up to five lines what most often keeps an exercise out.
func outWhy(sc *safety.Screening) []string {
	n := map[string]int{}
	var order []string
	for _, r := range sc.Results {
		seen := map[string]bool{}
		for _, f := range r.Findings {
			if r.Verdict == safety.Suits || seen[f.Reason] {
				continue
			}
			seen[f.Reason] = true
			if n[f.Reason] == 0 {
				order = append(order, f.Reason)
			}
			n[f.Reason]++
		}
	}
	slices.SortStableFunc(order, func(a, b string) int { return n[b] - n[a] })
	var out []string
	for i := 0; i < len(order) && i < 5; i++ {
		out = append(out, fmt.Sprintf("%s (%d)", order[i], n[order[i]]))
	}
	return out
}

func (s *Server) confirmDelete(c *gin.Context) {
	row, ok := s.rowHere(c)
	if !ok {
		return
	}
	s.render(c, http.StatusOK, "delete", "", "Delete "+row.Name, row)
}

func (s *Server) deleteClient(c *gin.Context) {
	id, ok := s.id(c)
	if !ok {
		return
	}
	if c.PostForm("confirm") != "delete" {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/delete", id))
		return
	}
	if err := s.Store.DeleteClient(c, s.account(c), id); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/clients")
}

// intakeForm is the form in working order; Values are exactly what was typed, so that
// nothing is lost when something is wrong.
type intakeForm struct {
	ID       int64
	Values   url.Values
	Problems exchange.Problems
	Flags    []safety.RedFlag
	Rules    []safety.Rule
	Places   []placeAsk
	Kit      []string
	Surfaces []string
	Aims     []string
	Builds   []string
}

type placeAsk struct {
	Name, Ask string
	Answers   []string
}

var placeAsks = []placeAsk{
	{"floor", "Getting to the floor and up again", []string{"yes", "help", "no"}},
	{"supine", "Lying on the back", []string{"yes", "help", "no"}},
	{"prone", "Lying on the front", []string{"yes", "help", "no"}},
	{"side_left", "Lying on the left side", []string{"yes", "help", "no"}},
	{"side_right", "Lying on the right side", []string{"yes", "help", "no"}},
	{"kneel", "Kneeling", []string{"yes", "help", "no"}},
	{"hands", "Weight on both hands", []string{"yes", "help", "no"}},
	{"floor_sit", "Sitting upright on the floor", []string{"yes", "help", "no"}},
	{"stand_free", "Standing without a hand hold", []string{"yes", "held", "no"}},
}

func (s *Server) form(id int64, v url.Values, p exchange.Problems) intakeForm {
	kit := slices.DeleteFunc(slices.Clone(catalogue.Kit), func(k string) bool { return slices.Contains(catalogue.Surfaces, k) })
	builds := []string{"ash", "rowan", "birch"}
	return intakeForm{id, v, p, s.Rules.RedFlags, s.Rules.Conditions, placeAsks, kit, catalogue.Surfaces, catalogue.Aims, builds}
}

// Get is a typed value of the form.
func (f intakeForm) Get(name string) string { return f.Values.Get(name) }

// Is tells whether a choice was made.
func (f intakeForm) Is(name, value string) bool { return slices.Contains(f.Values[name], value) }

// Wrong lists what is wrong with a field.
func (f intakeForm) Wrong(prefix string) string {
	var out []string
	for _, p := range f.Problems {
		if p.Path == prefix || strings.HasPrefix(p.Path, prefix+".") || strings.HasPrefix(p.Path, prefix+"[") {
			out = append(out, p.Text)
		}
	}
	return strings.Join(out, "; ")
}

func (s *Server) newClient(c *gin.Context) {
	v := url.Values{"breaths_per_minute": {"12"}, "dose": {"short-holds"}, "surfaces": {"mat", "chair", "wall"}, "kit": {"towel", "pillow"}}
	s.render(c, http.StatusOK, "intake", "", "New client", s.form(0, v, nil))
}

func (s *Server) intake(c *gin.Context) {
	row, ok := s.rowHere(c)
	if !ok {
		return
	}
	var cl safety.Client
	if err := json.Unmarshal(row.Document, &cl); err != nil {
		s.failed(c, err)
		return
	}
	v := valuesOf(&cl)
	v.Set("build", row.Build)
	s.render(c, http.StatusOK, "intake", "", "Intake of "+row.Name, s.form(row.ID, v, nil))
}

func (s *Server) saveClient(c *gin.Context) {
	var id int64
	if c.Param("id") != "" {
		var ok bool
		if id, ok = s.id(c); !ok {
			return
		}
	}
	if err := c.Request.ParseForm(); err != nil {
		s.fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return
	}
	v := c.Request.PostForm
	cl := &safety.Client{}
	if id > 0 { // keep what the form does not show
		row, err := s.Store.Client(c, s.account(c), id)
		if err != nil {
			s.failed(c, err)
			return
		}
		if err := json.Unmarshal(row.Document, cl); err != nil {
			s.failed(c, err)
			return
		}
	}
	problems := fill(cl, v)
	doc, err := json.Marshal(cl)
	if err != nil {
		s.failed(c, err)
		return
	}
	if len(problems) == 0 {
		if _, err := exchange.ReadClient(bytes.NewReader(doc), s.cat(c), s.Rules); err != nil {
			if p, ok := err.(exchange.Problems); ok {
				problems = p
			} else {
				s.failed(c, err)
				return
			}
		}
	}
	if strings.TrimSpace(cl.Name) == "" {
		problems = append(problems, exchange.Problem{Path: "name", Text: "is missing"})
	}
	if v.Get("asked") != "yes" {
		problems = append(problems, exchange.Problem{Path: "red_flags", Text: "confirm that every question was asked"})
	}
	build := v.Get("build")
	if _, ok := figure.Builds[build]; !ok {
		build = figure.DefaultBuild
	}
	if len(problems) > 0 {
		s.render(c, http.StatusUnprocessableEntity, "intake", "", "Intake", s.form(id, v, problems))
		return
	}
	row := store.Client{ID: id, Name: cl.Name, Document: doc, Build: build}
	if id == 0 {
		id, err = s.Store.CreateClient(c, s.account(c), row)
	} else {
		err = s.Store.UpdateClient(c, s.account(c), row)
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d", id))
}
