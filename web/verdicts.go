package web

import (
	"html/template"
	"net/http"
	"net/url"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/safety"
)

type verdictRow struct {
	*safety.Result
	V *catalogue.Version
}

type verdictPage struct {
	ID                       int64
	Name                     string
	Refer                    *safety.Referral
	Query, Position, Verdict string
	Rows                     []verdictRow
	Total                    int
	Positions                []string
	Verdicts                 []string
}

// matches searches names, aliases, slug and aims.
func matches(v *catalogue.Version, q string) bool {
	q = strings.ToLower(strings.TrimSpace(q))
	text := strings.ToLower(v.Name + " " + strings.Join(v.Aliases, " ") + " " + v.Slug + " " + strings.Join(v.Aims, " ") + " " + v.Family)
	for _, word := range strings.Fields(q) {
		if !strings.Contains(text, word) {
			return false
		}
	}
	return true
}

func (s *Server) verdicts(c *gin.Context) {
	p, id, ok := s.personHere(c)
	if !ok {
		return
	}
	pg := verdictPage{ID: id, Name: p.Row.Name, Refer: p.Req.Screening.Refer, Query: c.Query("q"), Position: c.Query("position"), Verdict: c.Query("verdict"),
		Total: len(s.cat(c).Versions), Positions: catalogue.Positions, Verdicts: []string{safety.Suits, safety.Adapt, safety.LeaveOut}}
	for i := range p.Req.Screening.Results {
		r := &p.Req.Screening.Results[i]
		v, _ := s.cat(c).Version(r.Version)
		if matches(v, pg.Query) && (pg.Position == "" || v.Position == pg.Position) && (pg.Verdict == "" || r.Verdict == pg.Verdict) {
			pg.Rows = append(pg.Rows, verdictRow{r, v})
		}
	}
	fragment := ""
	if c.GetHeader("HX-Request") == "true" {
		fragment = "rows"
	}
	s.render(c, http.StatusOK, "verdicts", fragment, "Verdicts for "+p.Row.Name, pg)
}

type verdictDetail struct {
	ID    int64
	Name  string
	R     *safety.Result
	V     *catalogue.Version
	Refer *safety.Referral
	Side  string       // shown: one that suits, else the right
	Look  template.URL // the client's side, surface and build, as a query
}

func (s *Server) verdict(c *gin.Context) {
	p, id, ok := s.personHere(c)
	if !ok {
		return
	}
	r, ok := p.Req.Screening.Result(c.Param("slug"))
	if !ok {
		s.fail(c, http.StatusNotFound, "There is no such exercise", "Search the list for its name or another name.")
		return
	}
	v, _ := s.cat(c).Version(r.Version)
	look := url.Values{"build": {p.Row.Build}, "surface": {r.Surface}}
	side := ""
	if v.SideMode != "none" {
		side = "right"
		if r.Sides["right"] == safety.LeaveOut && r.Sides["left"] != "" && r.Sides["left"] != safety.LeaveOut {
			side = "left"
		}
		look.Set("side", side)
	}
	s.render(c, http.StatusOK, "verdict", "", v.Name+" for "+p.Row.Name, verdictDetail{id, p.Row.Name, r, v, p.Req.Screening.Refer, side, template.URL(look.Encode())})
}
