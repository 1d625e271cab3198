package spot

import (
	"fmt"
	"slices"
	"strconv"

	"restbend/core/dose"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
)

// Join makes somebody a member of a class: every exercise of the host as it suits them, with their own dose inside the
// host's seconds; where it does not suit or nobody held it against their clinician's words, another one from the same position for the purpose; else they rest. Said is
// what they do otherwise.
func Join(id, name string, host *plan.Plan, s *score.Score, r *plan.Request, laid score.Facts) (m record.Member, own *plan.Plan, said []string, err error) {
	m = record.Member{ID: id, Name: name, Items: map[string]record.MemberItem{}}
	p := *host
	p.Items = slices.Clone(host.Items)
	for i := range p.Items {
		it := p.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		it.Locked, it.ByHand, it.Block, it.First = false, false, 0, ""
		it.Dose.Apart, it.DoseLeft, it.DoseRight, it.Layers = nil, nil, nil, nil
		was := it.Version
		_, fits := r.Fit(&it)
		if fits != nil || !r.Safe(&it) || r.Screener.Unconfirmed(it.Version) {
			other, ok := insteadIn(&p, i, r)
			if !ok {
				none := dose.Dose{Sets: 1}
				m.Items[strconv.Itoa(i)] = record.MemberItem{Dose: &none}
				said = append(said, fmt.Sprintf("%s rests in %s", name, s.Items[i].Name))
				continue
			}
			it = other
		}
		p.Items[i] = it
		one, err := score.Build(&plan.Plan{Format: host.Format, Minutes: host.Minutes, Items: []plan.Item{it}}, laid)
		if err != nil {
			return m, nil, nil, err
		}
		d := it.Dose
		m.Items[strconv.Itoa(i)] = record.MemberItem{Version: it.Version, Dose: &d, Eases: append([]string{}, it.Eases...), SideOrder: plan.SideOrder(&it), Sides: one.Items[0].Sides}
		if it.Version != was {
			said = append(said, fmt.Sprintf("%s: %s instead of %s", name, one.Items[0].Name, s.Items[i].Name))
		}
	}
	return m, &p, said, nil
}

// insteadIn is an exercise that suits somebody in place of one they may not do, from the same position.
func insteadIn(p *plan.Plan, i int, r *plan.Request) (it plan.Item, ok bool) {
	for _, slug := range r.Swaps(p, i) {
		q, err := r.Tried(p, plan.Edit{Op: "swap", Item: i, With: slug})
		if err != nil {
			continue
		}
		it = q.Items[i]
		if it.Position == p.Items[i].Position && r.Safe(&it) && !r.Screener.Unconfirmed(slug) {
			it.ByHand = false
			return it, true
		}
	}
	return it, false
}
