package plan

import (
	"errors"
	"fmt"
	"slices"
	"sort"

	"restbend/core/catalogue"
	"restbend/core/solve"
	"restbend/core/trade"
)

// Build makes the best session found. It refuses (Refused) when a clinician comes first,
// when the minutes are out of range or when nothing suits, and says what would help.
func Build(r *Request) (*Plan, error) {
	return r.within(func(r *Request) (*Plan, error) {
		return r.gently(func(r *Request) (*Plan, error) { return r.solve((*solve.Search).Run) })
	})
}

// Quick makes a good session at once: the greedy answer, tidied by single exchanges. Build
// replaces it with the best.
func Quick(r *Request) (*Plan, error) {
	return r.within(func(r *Request) (*Plan, error) {
		return r.solve((*solve.Search).Quick)
	})
}

// solve finds the best session. A kind with a length of its own may take a little longer than was asked,
// where it does not fit.
func (r *Request) solve(how func(*solve.Search)) (*Plan, error) {
	if err := r.refused(); err != nil {
		return nil, err
	}
	for t := r; ; t = t.Lasting(t.Minutes + 1) {
		p, err := t.attempt(how)
		refused := (*Refused)(nil)
		fits := err == nil && !t.lacking(p)
		if natural := r.Template != nil && r.Template.Natural; !fits && natural &&
			t.Minutes < min(r.Minutes+naturalOver, MaxMinutes) {
			continue
		}
		if errors.As(err, &refused) {
			return nil, r.explain(refused.Reason)
		}
		return p, err
	}
}

// lacking tells whether something that the kind must hold found no room.
func (r *Request) lacking(p *Plan) bool {
	return slices.ContainsFunc(p.Checks, func(c Check) bool { return c.need != "" && !c.OK })
}

// naturalOver is how many minutes a kind with a length of its own may take more than were asked, when
// it does not fit (product default; the day of a trio sets the minutes, domain/07).
const naturalOver = 5

func (r *Request) attempt(how func(*solve.Search)) (*Plan, error) {
	m := State(r)
	s, ok := solve.NewSearch(m.Model)
	if !ok {
		return nil, &Refused{Reason: "no opener or closer suits this client in this place"}
	}
	how(s)
	best, _, ok := s.Best()
	if !ok {
		return nil, &Refused{Reason: "no session keeps every rule for this client in this place"}
	}
	if prepare, finish := r.Template.fixed(); len(best.Body) == 0 && len(prepare) == 0 && len(finish) == 0 &&
		!r.resting() {
		return nil, &Refused{Reason: "too little suits this client in this place"}
	}
	if _, ok := m.Value(best); !ok {
		return nil, errors.New("the search kept a session that breaks a rule: a mistake in the planner")
	}
	p := m.Layout(r, best)
	p.Proven = s.Proven()
	return p, nil
}

// refused says why no session may be made at all.
func (r *Request) refused() error {
	if r.Screening.Refer != nil {
		return &Refused{Reason: r.Screening.Refer.Say}
	}
	if r.Minutes < MinMinutes || r.Minutes > MaxMinutes {
		return &Refused{Reason: fmt.Sprintf("minutes: found %d, allowed: %d to %d", r.Minutes, MinMinutes, MaxMinutes)}
	}
	if r.Whole != nil && r.Whole.Decision == trade.Refer {
		return &Refused{Reason: "See a clinician before the next session: " + r.Whole.Because}
	}
	return nil
}

// opens tells whether a version may open a session (rule 1).
func (r *Request) opens(slug string) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && v.Effort <= gentle && slices.Contains(openFamilies, v.Family)
}

// calms tells whether a version may close a session: it serves relaxation or posture, lying, sitting
// or standing.
func (r *Request) calms(slug string) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && v.Effort <= gentle && (v.Position.Lies() || v.Position.Upright()) &&
		(catalogue.Has(v.Aims, "relaxation") || catalogue.Has(v.Aims, "posture"))
}

// Layout lays a selection out in order and times it.
func (m *Statement) Layout(r *Request, sel solve.Selection) *Plan {
	p := &Plan{Format: "restbend.plan/1", Rules: RulesNow, Minutes: r.Minutes, Items: []Item{}}
	put := func(i int, role trade.Role, o *option) {
		p.Items = append(p.Items, r.item(&m.cands[i], role, o))
	}
	reset := func(block int) {
		if sweep := m.sweeps[block]; sweep >= 0 {
			put(sweep, trade.Reset, &option{length: Normal, dose: resetIn(m.places[block].position)})
		}
	}
	ends := func(e *solve.End, role trade.Role) {
		for n, i := range e.Cands {
			put(i, role, &m.cands[i].doses[e.Options[n]])
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
			put(m.Items[c].Cand, trade.Main, &m.cands[m.Items[c].Cand].doses[m.Items[c].Option])
			reset(block)
		}
	}
	ends(&m.Closes[sel.Close], trade.Close)
	r.asLocked(p)
	r.retime(p)
	return p
}

// asLocked gives what was kept its marks again: locked or only changed by hand, and why its sides differ.
func (r *Request) asLocked(p *Plan) {
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
func (r *Request) withLocked(cs []candidate) []candidate {
	for i := range r.Ask.Locked {
		it := &r.Ask.Locked[i]
		v, ok := r.Catalogue.Version(it.Version)
		if !ok {
			continue
		}
		c, ok := r.permitted(v)
		if !ok {
			continue
		}
		k := slices.IndexFunc(cs, func(x candidate) bool { return branchKey(x.v) == branchKey(v) })
		if k >= 0 {
			c = cs[k]
			if c.v != v {
				old := c
				c, _ = r.permitted(v)
				c.seen, c.continuous, c.fit, c.times = old.seen, old.continuous, r.fit(v), r.times(it.Version)
			}
		} else {
			c.fit = r.fit(v)
			c.seen, c.continuous, c.times = !it.New, it.Continues, r.times(it.Version)
		}
		c.side, c.surface, c.locked = it.Side, it.Surface, it.Role
		c.doses = []option{{it.Length, it.Step, it.Dose}}
		if k >= 0 {
			cs[k] = c
		} else {
			cs = append(cs, c)
		}
	}
	if r.Ask.Only {
		cs = slices.DeleteFunc(cs, func(c candidate) bool { return c.locked == "" && c.v.Family != resetFamily })
	}
	return cs
}
