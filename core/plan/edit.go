package plan

import (
	"fmt"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/safety"
)

// Edit is one change by hand. Op is up, down, remove, longer, shorter, swap, lock or
// unlock; With names the version of a swap.
type Edit struct {
	Op   string
	Item int
	With string
}

// Apply changes a plan by hand; everything is recomputed, and a broken rule is reported
// by the checks rather than refused, except that nothing unsafe can be put in.
func (r *Request) Apply(p *Plan, e Edit) error {
	if e.Item < 0 || e.Item >= len(p.Items) {
		return fmt.Errorf("item: found %d, allowed: 0 to %d", e.Item, len(p.Items)-1)
	}
	it := &p.Items[e.Item]
	switch e.Op {
	case "up":
		if e.Item > 0 {
			p.Items[e.Item-1], p.Items[e.Item] = p.Items[e.Item], p.Items[e.Item-1]
		}
	case "down":
		if e.Item < len(p.Items)-1 {
			p.Items[e.Item+1], p.Items[e.Item] = p.Items[e.Item], p.Items[e.Item+1]
		}
	case "remove":
		p.Items = slices.Delete(p.Items, e.Item, e.Item+1)
	case "longer", "shorter":
		r.stepDose(it, map[string]int{"longer": 1, "shorter": -1}[e.Op])
	case "swap":
		return r.swap(p, e)
	default:
		return fmt.Errorf("op: found %q, allowed: up, down, remove, longer, shorter, swap", e.Op)
	}
	r.roles(p)
	r.Retime(p)
	return nil
}

// roles keeps opener and closer at the ends after items moved.
func (r *Request) roles(p *Plan) {
	for i := range p.Items {
		switch {
		case i == 0 && r.opens(p.Items[i].Version):
			p.Items[i].Role = "open"
		case i == len(p.Items)-1 && r.calms(p.Items[i].Version):
			p.Items[i].Role = "close"
		default:
			p.Items[i].Role = "main"
		}
	}
}

func (r *Request) opens(slug string) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && v.Effort <= 2 && slices.Contains(openFamilies, v.Family)
}

func (r *Request) calms(slug string) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && v.Effort <= 2 && (catalogue.Has(v.Aims, "relaxation") || catalogue.Has(v.Aims, "posture"))
}

func (r *Request) stepDose(it *Item, by int) {
	v, ok := r.Catalogue.Version(it.Version)
	if !ok {
		return
	}
	steps, _ := v.Steps(r.Client.Schools.Dose)
	setup, change, extra := it.Dose.SetupS, it.Dose.ChangeS, it.Dose.Extra
	it.Step = min(max(it.Step+by, 0), len(steps)-1)
	it.Dose = v.Dose(r.Client.Schools.Dose, it.Step)
	it.Dose.SetupS, it.Dose.ChangeS, it.Dose.Extra = setup, change, extra
	if limit, _ := r.Screener.HoldCap(); limit > 0 {
		it.Dose, _ = it.Dose.CapHold(limit, r.Client.BreathRate)
	}
}

// swap exchanges an item for another version that suits.
func (r *Request) swap(p *Plan, e Edit) error {
	for _, c := range r.candidates() {
		if c.v.Slug != e.With {
			continue
		}
		old := p.Items[e.Item]
		p.Items[e.Item] = r.item(&c, old.Role, c.minStep)
		p.Items[e.Item].Why += " Swapped for " + old.Version + " by hand."
		r.roles(p)
		r.Retime(p)
		return nil
	}
	if res, ok := r.Screening.Result(e.With); ok && res.Verdict != safety.Suits {
		return fmt.Errorf("with: %s does not suit this client (%s)", e.With, res.Verdict)
	}
	return fmt.Errorf("with: %q is not a version this client may do now", e.With)
}

// Swaps lists versions that could take an item's place, nearest purpose first.
func (r *Request) Swaps(p *Plan, item int) []string {
	v, ok := r.Catalogue.Version(p.Items[item].Version)
	if !ok {
		return nil
	}
	used := map[string]bool{}
	for i := range p.Items {
		used[p.Items[i].Version] = true
	}
	type cand struct {
		slug  string
		score int
	}
	var cs []cand
	for _, c := range r.candidates() {
		shared := 0
		for _, a := range v.Aims {
			if catalogue.Has(c.v.Aims, a) {
				shared += 2
			}
		}
		if used[c.v.Slug] || shared == 0 {
			continue
		}
		if c.v.Position == v.Position {
			shared++
		}
		cs = append(cs, cand{c.v.Slug, shared})
	}
	slices.SortStableFunc(cs, func(a, b cand) int { return b.score - a.score })
	var out []string
	for i := 0; i < len(cs) && i < 5; i++ {
		out = append(out, cs[i].slug)
	}
	return out
}

// Mend drops every item that no longer suits and times the rest again.
func (r *Request) Mend(p *Plan) {
	p.Items = slices.DeleteFunc(p.Items, func(it Item) bool {
		res, ok := r.Screening.Result(it.Version)
		if !ok {
			return true
		}
		ok = res.Verdict == safety.Suits || res.Overridden || res.Verdict == safety.Adapt && res.Use == it.Version && len(it.Eases) > 0
		return !ok
	})
	r.roles(p)
	r.Retime(p)
}
