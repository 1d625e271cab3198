package planning

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/edit"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/web/library"
	"restbend/web/people"
	"restbend/web/site"
)

// verdictStep is one step of a family's staircase with this client's verdict.
type verdictStep struct {
	*safety.Result
	V    *catalogue.Version
	Lit  bool   // kept by the filter
	Here string // yours, next: where the client stands on this ladder

	In, May bool   // for a session: it is in it, or may come into it
	Waits   string // ... or why not yet
}

type verdictFamily struct {
	Family   string
	Set      bool
	Branches [][]verdictStep
	Suits    int
}

type verdictPage struct {
	ID                                  int64
	Name                                string
	Refer                               *safety.Referral
	Summary                             []string
	Query, Position, Verdict, Condition string
	Families                            []verdictFamily
	Found, Total                        int
	Finder                              *library.Finder
	Positions                           []string
	Verdicts                            []trade.Verdict
	Conditions                          []safety.Rule
	Look                                template.URL
	Session                             *PlanPage // exercises are chosen for it
}

// verdicts shows every family as a staircase with the steps this client may take lit.
func (s *Planning) verdicts(c *gin.Context) {
	p, id, ok := s.PersonHere(c)
	if !ok {
		return
	}
	cat := s.Catalogue(c)
	pg := verdictPage{
		ID:        id,
		Name:      p.Row.Name,
		Refer:     p.Req.Screening.Refer,
		Query:     c.Query("q"),
		Position:  c.Query("position"),
		Verdict:   c.Query("verdict"),
		Condition: c.Query("condition"),
		Total:     len(cat.Versions),
		Positions: trade.Words(trade.Positions),
		Verdicts:  []trade.Verdict{trade.Suits, trade.Adapt, trade.LeaveOut},
		Summary:   s.SummaryOf(p),
		Look:      template.URL(url.Values{"build": {p.Row.Build}}.Encode()),
	}
	for _, k := range p.Client.Conditions {
		if r, ok := s.Limits().Rule(k.Code); ok &&
			!slices.ContainsFunc(pg.Conditions, func(x safety.Rule) bool { return x.Code == r.Code }) {
			pg.Conditions = append(pg.Conditions, *r)
		}
	}
	if c.Query("session") != "" {
		var ok bool
		if pg.Session, ok = s.sessionOf(c, id); !ok {
			return
		}
	}
	here := s.standing(p, cat)
	pg.Finder = library.NewFinder(cat, pg.Query)
	for _, f := range cat.Families {
		vf := verdictFamily{Family: f.Name, Set: f.Set}
		found := 0
		for _, br := range f.Branches {
			var steps []verdictStep
			before := found
			for _, slug := range br {
				v, _ := cat.Version(slug)
				r, ok := p.Req.Screening.Result(slug)
				if !ok {
					continue
				}
				lit := pg.Finder.Finds(v) && (pg.Position == "" || string(v.Position) == pg.Position) && pg.has(r) &&
					(pg.Condition == "" || slices.ContainsFunc(r.Findings,
						func(f safety.Finding) bool { return f.Condition == pg.Condition }))
				if lit {
					found++
				}
				if r.Verdict == trade.Suits {
					vf.Suits++
				}
				step := verdictStep{Result: r, V: v, Lit: lit, Here: here[slug]}
				if pg.Session != nil && lit {
					step.forSession(pg.Session)
				}
				steps = append(steps, step)
			}
			if found > before { // a way up with nothing lit is left out
				vf.Branches = append(vf.Branches, steps)
			}
		}
		if found > 0 {
			pg.Families = append(pg.Families, vf)
			pg.Found += found
		}
	}
	fragment := ""
	if c.GetHeader("HX-Request") == "true" {
		fragment = "rows"
	}
	s.Render(c, http.StatusOK, "verdicts", fragment, "Verdicts for "+p.Row.Name, pg)
}

// has tells whether a verdict is asked for; what would suit with other kit stands apart from
// what is left out.
func (pg *verdictPage) has(r *safety.Result) bool {
	switch pg.Verdict {
	case "":
		return true
	case "other-kit":
		return r.OtherKit
	case string(trade.LeaveOut):
		return r.Verdict == trade.LeaveOut && !r.OtherKit
	}
	return string(r.Verdict) == pg.Verdict
}

// sessionOf loads the session of a client for which exercises are chosen; when there is none,
// it has answered.
func (s *Planning) sessionOf(c *gin.Context, client int64) (*PlanPage, bool) {
	id, err := strconv.ParseInt(c.Query("session"), 10, 64)
	if err == nil {
		var pg *PlanPage
		if pg, err = s.planAt(c, id); err == nil && pg.Row.ClientID == client {
			return pg, true
		}
	}
	s.Fail(
		c,
		http.StatusNotFound,
		"There is no such session of this client",
		"Open the session again and choose from there.",
	)
	return nil, false
}

// forSession tells whether a step may come into a session.
func (v *verdictStep) forSession(pg *PlanPage) {
	for i := range pg.Plan.Items {
		v.In = v.In || pg.Plan.Items[i].Version == v.Version
	}
	if fits := v.Verdict == trade.Suits || v.Verdict == trade.Adapt && v.Use == v.Version || v.Overridden; fits && !v.In {
		v.Waits = edit.Waits(pg.Person.Req, pg.Plan, v.V)
		v.May = v.Waits == ""
	}
}

// standing tells which steps the client stands on and which are next: from the log's
// decisions, else the recorded level.
func (s *Planning) standing(p *people.Person, cat *catalogue.Catalogue) map[string]string {
	out := map[string]string{}
	for _, slug := range p.Client.Levels {
		out[slug] = "yours"
	}
	for _, d := range p.Req.Decisions {
		out[d.Version] = "yours"
		if d.ToVersion != d.Version {
			out[d.ToVersion] = "next"
		}
	}
	return out
}

// frozen is one phase that crosses limits, drawn with the worst of them.
type frozen struct {
	Phase    int
	Name     string
	Side     trade.Side
	Findings []safety.Finding
	Picture  template.URL // query of the figure
	part     string       // the side of the body that is pointed at
}

// instead is another version with why it can stand in.
type instead struct {
	V            *catalogue.Version
	Keeps, Loses string
	Verdict      trade.Verdict
}

type verdictDetail struct {
	ID       int64
	Name     string
	R        *safety.Result
	V        *catalogue.Version
	Refer    *safety.Referral
	Side     trade.Side   // shown: one that suits, else the right
	Look     template.URL // the client's side, surface and build, as a query
	Frozen   []frozen
	Use      *instead
	Swaps    []instead
	Eases    []catalogue.Ease
	SaySides []string
	Override overrideForm
	Until    string // when an override would end
}

func (s *Planning) verdict(c *gin.Context) {
	p, id, ok := s.PersonHere(c)
	if !ok {
		return
	}
	r, ok := p.Req.Screening.Result(c.Param("slug"))
	if !ok {
		s.Fail(c, http.StatusNotFound, "There is no such exercise", "Search the list for its name or another name.")
		return
	}
	s.showVerdict(c, http.StatusOK, p, id, r, overrideForm{})
}

func (s *Planning) showVerdict(
	c *gin.Context,
	status int,
	p *people.Person,
	id int64,
	r *safety.Result,
	form overrideForm,
) {
	cat := s.Catalogue(c)
	v, _ := cat.Version(r.Version)
	look := url.Values{"build": {p.Row.Build}, "surface": {string(r.Surface)}}
	d := verdictDetail{
		ID:       id,
		Name:     p.Row.Name,
		R:        r,
		V:        v,
		Refer:    p.Req.Screening.Refer,
		Override: form,
		Until:    s.Today().AddDays(intake.OverrideDays).String(),
	}
	if v.SideMode != trade.None {
		d.Side = trade.Right
		if r.Sides[trade.Right] == trade.LeaveOut && r.Sides[trade.Left] != "" && r.Sides[trade.Left] != trade.LeaveOut {
			d.Side = trade.Left
		}
		look.Set("side", string(d.Side))
	}
	d.Look = template.URL(look.Encode())
	d.Frozen = freeze(s.Rules.Words, v, r, look)
	version := func(slug string) *instead {
		w, ok := cat.Version(slug)
		if !ok {
			return nil
		}
		in := &instead{V: w}
		in.Keeps, in.Loses = safety.Because(v, w)
		if wr, ok := p.Req.Screening.Result(slug); ok {
			in.Verdict = wr.Verdict
		}
		return in
	}
	if r.Verdict == trade.Adapt && r.Use != r.Version {
		d.Use = version(r.Use)
	}
	for _, slug := range r.Swaps {
		if in := version(slug); in != nil {
			d.Swaps = append(d.Swaps, *in)
		}
	}
	for _, e := range v.Eases {
		if slices.Contains(r.Eases, e.Slug) {
			d.Eases = append(d.Eases, e)
		}
	}
	if _, lies := v.LyingOn(trade.Left).Side(); v.SideMode != trade.Each || v.Binds == "" && !lies {
		d.SaySides = []string{"Left and right name " + v.SideMeans + "."}
	} else {
		d.SaySides = []string{v.SaySide(trade.Left), v.SaySide(trade.Right)}
	}
	s.Render(c, status, "verdict", "", v.Name+" for "+p.Row.Name, d)
}

// freeze groups the findings by the phase they occur in, by the side that works then and by the side of the body they
// are about; each is drawn with its first measured finding on it: two sides are two pictures.
func freeze(words *safety.Vocabulary, v *catalogue.Version, r *safety.Result, look url.Values) []frozen {
	var out []frozen
	at := v.At(trade.Surface(look.Get("surface")))
	for _, f := range r.Findings {
		if site.IsPlace(f) {
			continue
		}
		side := f.Side
		if side == "" {
			side = f.Turn
		}
		phase := phaseOf(at, &f)
		shown := trade.Side(look.Get("side"))
		if side != "" {
			shown = side
		}
		m := site.MarkOf(words, at, f, phase, shown)
		part := partOf(f.Quantity)
		i := slices.IndexFunc(out, func(z frozen) bool { return z.Phase == phase+1 && z.Side == side && z.part == part })
		if i < 0 {
			q := url.Values{}
			for k := range look {
				q.Set(k, look.Get(k))
			}
			if side != "" {
				q.Set("side", string(side))
			}
			q.Set("phase", fmt.Sprint(phase+1))
			q.Set("at", m.At)
			q.Set("mark", m.Text)
			q.Set("more", m.More)
			out = append(
				out,
				frozen{Phase: phase + 1, Name: v.Phases[phase].Name, Side: side, part: part, Picture: template.URL(q.Encode())},
			)
			i = len(out) - 1
		}
		out[i].Findings = append(out[i].Findings, f)
	}
	return out
}

// phaseOf is the phase in which a finding is drawn. On the way between two it is the first, or the one in which
// something carries, where it is a load.
func phaseOf(v *catalogue.Version, f *safety.Finding) int {
	from, to, way := strings.Cut(f.Phase, " to ")
	index := func(name string) int {
		return slices.IndexFunc(v.Phases, func(p catalogue.Phase) bool { return p.Name == name })
	}
	a, z := index(from), index(to)
	switch {
	case a < 0 && z < 0:
		return v.EffortPhase()
	case a < 0:
		return z
	case way && z >= 0 && site.Carried(v, f, z) > site.Carried(v, f, a):
		return z
	}
	return a
}

// partOf is the side of the body that a quantity is about, empty where it has none.
func partOf(quantity string) string {
	for _, side := range trade.BothSides {
		if strings.HasSuffix(quantity, "."+string(side)) || strings.Contains(quantity, "."+string(side)+".") {
			return string(side)
		}
	}
	return ""
}
