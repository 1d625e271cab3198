// Package propose makes the best session: it states the facts as an optimisation problem
// (docs/planner.md), has it searched, and lays the answer out as a plan; a refusal says what would help.
package propose

import (
	"errors"
	"fmt"
	"slices"
	"sort"

	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/solve"
	"restbend/core/trade"
)

// Build makes the best session found. It refuses (Refused) when a clinician comes first,
// when the minutes are out of range or when nothing suits, and says what would help.
func Build(r *facts.Request) (*plan.Plan, error) {
	return appraise.Within(r, func(r *facts.Request) (*plan.Plan, error) {
		return appraise.Gently(r, func(r *facts.Request) (*plan.Plan, error) { return solveWith(r, (*solve.Search).Run) })
	})
}

// Quick makes a good session at once: the greedy answer, tidied by single exchanges. Build
// replaces it with the best.
func Quick(r *facts.Request) (*plan.Plan, error) {
	return appraise.Within(r, func(r *facts.Request) (*plan.Plan, error) {
		return solveWith(r, (*solve.Search).Quick)
	})
}

// solveWith finds the best session. A kind with a length of its own may take a little longer than was asked,
// where it does not fit.
func solveWith(r *facts.Request, how func(*solve.Search)) (*plan.Plan, error) {
	if err := Refused(r); err != nil {
		return nil, err
	}
	for t := r; ; t = t.Lasting(t.Minutes + 1) {
		p, err := attempt(t, how)
		refused := (*facts.Refused)(nil)
		fits := err == nil && !lacking(t, p)
		if natural := r.Template != nil && r.Template.Natural; !fits && natural &&
			t.Minutes < min(r.Minutes+naturalOver, kinds.MaxMinutes) {
			continue
		}
		if errors.As(err, &refused) {
			return nil, explain(r, refused.Reason)
		}
		return p, err
	}
}

// lacking tells whether something that the kind must hold found no room.
func lacking(r *facts.Request, p *plan.Plan) bool {
	return slices.ContainsFunc(p.Checks, func(c plan.Check) bool { return c.Need != "" && !c.OK })
}

// naturalOver is how many minutes a kind with a length of its own may take more than were asked, when
// it does not fit (product default; the day of a trio sets the minutes, domain/07).
const naturalOver = 5

func attempt(r *facts.Request, how func(*solve.Search)) (*plan.Plan, error) {
	m := State(r)
	s, ok := solve.NewSearch(m.Model)
	if !ok {
		return nil, &facts.Refused{Reason: "no opener or closer suits this client in this place"}
	}
	how(s)
	best, _, ok := s.Best()
	if !ok {
		return nil, &facts.Refused{Reason: "no session keeps every rule for this client in this place"}
	}
	if prepare, finish := r.Template.Fixed(); len(best.Body) == 0 && len(prepare) == 0 && len(finish) == 0 &&
		!r.Resting() {
		return nil, &facts.Refused{Reason: "too little suits this client in this place"}
	}
	if _, ok := m.Value(best); !ok {
		return nil, errors.New("the search kept a session that breaks a rule: a mistake in the planner")
	}
	p := m.Layout(r, best)
	p.Proven = s.Proven()
	return p, nil
}

// Refused says why no session may be made at all.
func Refused(r *facts.Request) error {
	if r.Screening.Refer != nil {
		return &facts.Refused{Reason: r.Screening.Refer.Say}
	}
	if r.Minutes < kinds.MinMinutes || r.Minutes > kinds.MaxMinutes {
		return &facts.Refused{
			Reason: fmt.Sprintf("minutes: found %d, allowed: %d to %d", r.Minutes, kinds.MinMinutes, kinds.MaxMinutes),
		}
	}
	if r.Whole != nil && r.Whole.Decision == trade.Refer {
		return &facts.Refused{Reason: "See a clinician before the next session: " + r.Whole.Because}
	}
	return nil
}

// Opens tells whether a version may open a session (rule 1).
func Opens(r *facts.Request, slug string) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && v.Effort <= facts.Gentle && slices.Contains(facts.OpenFamilies, v.Family)
}

// Calms tells whether a version may close a session: it serves relaxation or posture, lying, sitting
// or standing.
func Calms(r *facts.Request, slug string) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && v.Effort <= facts.Gentle && (v.Position.Lies() || v.Position.Upright()) &&
		(catalogue.Has(v.Aims, "relaxation") || catalogue.Has(v.Aims, "posture"))
}

// Layout lays a selection out in order and times it.
func (m *Statement) Layout(r *facts.Request, sel solve.Selection) *plan.Plan {
	p := &plan.Plan{Format: "restbend.plan/1", Rules: plan.RulesNow, Minutes: r.Minutes, Items: []plan.Item{}}
	put := func(i int, role trade.Role, o *facts.Option) {
		p.Items = append(p.Items, r.Item(&m.cands[i], role, o))
	}
	reset := func(block int) {
		if sweep := m.sweeps[block]; sweep >= 0 {
			put(sweep, trade.Reset, &facts.Option{Length: plan.Normal, Dose: resetIn(m.places[block].Position)})
		}
	}
	ends := func(e *solve.End, role trade.Role) {
		for n, i := range e.Cands {
			put(i, role, &m.cands[i].Doses[e.Options[n]])
		}
	}
	ends(&m.Opens[sel.Open], trade.Open)
	reset(m.Opens[sel.Open].Last)
	for _, block := range m.Order(sel) {
		var cols []int
		for _, c := range sel.Body {
			if m.Items[c].Block == block {
				cols = append(cols, c)
			}
		}
		sort.Slice(cols, func(i, k int) bool {
			a, b := &m.Items[cols[i]], &m.Items[cols[k]]
			if a.Effort != b.Effort {
				return a.Effort < b.Effort
			}
			return a.Cand < b.Cand
		})
		for _, c := range cols {
			put(m.Items[c].Cand, trade.Main, &m.cands[m.Items[c].Cand].Doses[m.Items[c].Option])
			reset(block)
		}
	}
	ends(&m.Closes[sel.Close], trade.Close)
	asLocked(r, p)
	appraise.Reckon(r, p)
	return p
}

// asLocked gives what was kept its marks again: locked or only changed by hand, and why its sides differ.
func asLocked(r *facts.Request, p *plan.Plan) {
	for i := range p.Items {
		for k := range r.Ask.Locked {
			if was := &r.Ask.Locked[k]; was.Version == p.Items[i].Version && p.Items[i].Role != trade.Reset {
				p.Items[i].Locked, p.Items[i].ByHand, p.Items[i].SidesWhy = was.Locked, was.ByHand, was.SidesWhy
				p.Items[i].Layers = was.Layers
			}
		}
	}
}

// withLocked puts what the instructor locked among the candidates, in the dose it has, in
// place of anything else of its branch.
func withLocked(r *facts.Request, cs []facts.Candidate) []facts.Candidate {
	for i := range r.Ask.Locked {
		it := &r.Ask.Locked[i]
		v, ok := r.Catalogue.Version(it.Version)
		if !ok {
			continue
		}
		c, ok := r.Permitted(v)
		if !ok {
			continue
		}
		k := slices.IndexFunc(cs, func(x facts.Candidate) bool { return facts.BranchKey(x.V) == facts.BranchKey(v) })
		if k >= 0 {
			c = cs[k]
			if c.V != v {
				old := c
				c, _ = r.Permitted(v)
				c.Seen, c.Continuous, c.Fit, c.Times = old.Seen, old.Continuous, r.Fitness(v), r.Times(it.Version)
			}
		} else {
			c.Fit = r.Fitness(v)
			c.Seen, c.Continuous, c.Times = !it.New, it.Continues, r.Times(it.Version)
		}
		c.Side, c.Surface, c.Locked = it.Side, it.Surface, it.Role
		c.Doses = []facts.Option{{Length: it.Length, Step: it.Step, Dose: it.Dose}}
		if k >= 0 {
			cs[k] = c
		} else {
			cs = append(cs, c)
		}
	}
	if r.Ask.Only {
		cs = slices.DeleteFunc(cs, func(c facts.Candidate) bool { return c.Locked == "" && c.V.Family != facts.ResetFamily })
	}
	return cs
}
