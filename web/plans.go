package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/store"
)

func (s *Server) createPlan(c *gin.Context) {
	id, ok := s.id(c)
	if !ok {
		return
	}
	minutes, err := strconv.Atoi(c.PostForm("minutes"))
	if err != nil {
		s.fail(c, http.StatusUnprocessableEntity, "Minutes: give a whole number from 15 to 45", "Nothing was changed. Go back and choose again.")
		return
	}
	p, err := s.person(c, id, minutes)
	if err != nil {
		s.failed(c, err)
		return
	}
	built, err := plan.Build(p.Req)
	var refused *plan.Refused
	if errors.As(err, &refused) {
		s.fail(c, http.StatusUnprocessableEntity, "No session can be planned", refused.Reason)
		return
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	doc, err := json.Marshal(built)
	if err != nil {
		s.failed(c, err)
		return
	}
	planID, err := s.Store.CreatePlan(c, id, p.Row.Revision, doc)
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d", planID))
}

// planPage is a plan with everything around it.
type planPage struct {
	Row      store.Plan
	Person   *person
	Plan     *plan.Plan
	Items    []planItem
	Line     any
	Rose     any
	Aims     []aimRow
	Stale    bool
	Open     int // the item whose swaps are shown, -1 none
	Problem  string
	Broken   int
	Cautions []string
	Props    []string // to fetch, in the order of use
}

type planItem struct {
	plan.Item
	N          int
	Name       string
	Side       string
	Swaps      []string
	Dose       string
	FigureSide string
	SideMeans  string
}

type aimRow struct {
	Name           string
	Served, Target float64
}

func (s *Server) loadPlan(c *gin.Context) (*planPage, error) {
	id, ok := s.id(c)
	if !ok {
		return nil, nil
	}
	row, err := s.Store.Plan(c, s.account(c), id)
	if err != nil {
		return nil, err
	}
	p := &plan.Plan{}
	if err := json.Unmarshal(row.Document, p); err != nil {
		return nil, err
	}
	who, err := s.person(c, row.ClientID, p.Minutes)
	if err != nil {
		return nil, err
	}
	// A plan made before the client's limits changed is screened again before it is shown.
	who.Req.Retime(p)
	return &planPage{Row: row, Person: who, Plan: p, Stale: row.ClientRevision != who.Row.Revision, Open: -1, Cautions: s.Rules.Cautions}, nil
}

func (s *Server) fillPlan(pg *planPage, cat *catalogue.Catalogue) {
	p, r := pg.Plan, pg.Person.Req
	for i := range p.Items {
		it := p.Items[i]
		v, ok := cat.Version(it.Version)
		if !ok {
			continue
		}
		pi := planItem{Item: it, N: i, Name: v.Name, Side: it.Side, Dose: doseText(it), SideMeans: v.SideMeans}
		for _, prop := range append([]string{it.Surface}, it.Kit...) {
			if !slices.Contains(pg.Props, prop) {
				pg.Props = append(pg.Props, prop)
			}
		}
		if it.Side == "left" || it.Side == "right" {
			pi.FigureSide = it.Side
		}
		if i == pg.Open {
			pi.Swaps = r.Swaps(p, i)
		}
		pg.Items = append(pg.Items, pi)
	}
	served, target := r.Served(p)
	for _, a := range sortedAims(target) {
		pg.Aims = append(pg.Aims, aimRow{a, served[a], target[a]})
	}
	for _, k := range p.Checks {
		if !k.OK {
			pg.Broken++
		}
	}
	pg.Line = postureLine(p, cat)
	pg.Rose = rose(r.Screener, sessionPeaks(p, cat))
}

// doseText says a dose and its sides as an instructor would.
func doseText(it plan.Item) string {
	side := map[string]string{"each": ", each side", "alternate": ", sides in turn", "left": ", left only", "right": ", right only"}[it.Side]
	if it.Dose.Extra != nil {
		side += ", extra on the " + it.Dose.Extra.Side
	}
	return it.Dose.Words() + side
}

func (s *Server) plan(c *gin.Context) {
	pg, err := s.loadPlan(c)
	if pg == nil {
		if err != nil {
			s.failed(c, err)
		}
		return
	}
	if n, err := strconv.Atoi(c.Query("swap")); err == nil && c.Query("swap") != "" {
		pg.Open = n
	}
	s.showPlan(c, http.StatusOK, pg)
}

func (s *Server) showPlan(c *gin.Context, status int, pg *planPage) {
	s.fillPlan(pg, s.cat(c))
	fragment := ""
	if c.GetHeader("HX-Request") == "true" {
		fragment = "bench"
	}
	s.render(c, status, "plan", fragment, "Session for "+pg.Person.Row.Name, pg)
}

// editPlan changes a plan by hand; the checks answer at once.
func (s *Server) editPlan(c *gin.Context) {
	pg, err := s.loadPlan(c)
	if pg == nil {
		if err != nil {
			s.failed(c, err)
		}
		return
	}
	item, err := strconv.Atoi(c.PostForm("item"))
	if err != nil {
		item = -1
	}
	if v, err := strconv.ParseInt(c.PostForm("version"), 10, 64); err == nil && v != pg.Row.Version {
		s.failed(c, store.ErrChanged)
		return
	}
	if err := pg.Person.Req.Apply(pg.Plan, plan.Edit{Op: c.PostForm("op"), Item: item, With: c.PostForm("with")}); err != nil {
		pg.Problem = err.Error()
		s.showPlan(c, http.StatusUnprocessableEntity, pg)
		return
	}
	s.keepPlan(c, pg)
}

func (s *Server) keepPlan(c *gin.Context, pg *planPage) {
	doc, err := json.Marshal(pg.Plan)
	if err != nil {
		s.failed(c, err)
		return
	}
	pg.Row.Document, pg.Row.ClientRevision = doc, pg.Person.Row.Revision
	if err := s.Store.UpdatePlan(c, pg.Row); err != nil {
		s.failed(c, err)
		return
	}
	pg.Row.Version++
	pg.Stale = false
	if c.GetHeader("HX-Request") == "true" {
		s.showPlan(c, http.StatusOK, pg)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/plans/%d", pg.Row.ID))
}

// refreshPlan drops what no longer suits from a stale plan.
func (s *Server) refreshPlan(c *gin.Context) {
	pg, err := s.loadPlan(c)
	if pg == nil {
		if err != nil {
			s.failed(c, err)
		}
		return
	}
	pg.Person.Req.Mend(pg.Plan)
	s.keepPlan(c, pg)
}
