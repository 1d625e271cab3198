package spot

import (
	"fmt"
	"slices"
	"strconv"

	"restbend/core/appraise"
	"restbend/core/dose"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/core/way"
)

// Join makes somebody a member of a class: every exercise of the host as it suits them, with their own dose inside the
// host's seconds; where it does not suit or nobody held it against their clinician's words, another one from the same
// position for the purpose; else they rest. Said is what they do otherwise. A Refusal says why they cannot take part:
// most of it is not for them, or the ways and the time in a position are not.
func Join(id, name string, host *plan.Plan, s *score.Score, r *facts.Request, laid score.Facts) (m record.Member,
	own *plan.Plan, said []string, err error) {
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
		_, fits := edit.Fit(r, &it)
		if fits != nil || !appraise.Safe(r, &it) || r.Screener.Unconfirmed(it.Version) {
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
		does := &one.Items[0]
		m.Items[strconv.Itoa(i)] = record.MemberItem{Version: it.Version, Dose: &d, Eases: append([]string{}, it.Eases...),
			EasedSide: it.EasedSide, Says: &does.Says, OtherSays: does.OtherSays, SideOrder: it.SideOrder(), Sides: does.Sides}
		if it.Version != was {
			said = append(said, fmt.Sprintf("%s: %s instead of %s", name, one.Items[0].Name, s.Items[i].Name))
		}
	}
	if why := keepsUp(name, host, &p, &m, r); why != "" {
		return m, nil, nil, &Refusal{why}
	}
	return m, &p, said, nil
}

// hostsTime are the rules that somebody breaks who lies, sits or gets up with others: what each exercise by itself does
// not show.
var hostsTime = []string{"floor-transfers", "supine-block", "sitting-block"}

// keepsUp says why somebody cannot go with a host through a session, empty when they can: the ways between what they
// do take them no longer than the host, and they get up, lie and sit no more than they may.
func keepsUp(name string, host, own *plan.Plan, m *record.Member, r *facts.Request) string {
	timed := *own
	timed.Items = nil
	does, all := 0, 0
	last, until := plan.Item{Position: trade.Standing}, 0
	for i := range own.Items {
		it, h := own.Items[i], &host.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		all++
		if m.Items[strconv.Itoa(i)].Version == "" { // rests
			continue
		}
		does++
		need, _, ok := way.Move(last.Place(), it.Place(), r.Mover())
		have := h.Start - until
		if !ok {
			return fmt.Sprintf("There is no way for %s to get to %s: plan a session of their own.", name, nameIn(r, it.Version))
		}
		if need > have+waySlack {
			return fmt.Sprintf("%s needs %d s to get to %s, this session gives %d: plan the class from the session of who needs longest.", name, need, nameIn(r, it.Version), have)
		}
		it.Dose, it.DoseLeft, it.DoseRight = h.Dose, nil, nil // the seconds are the host's
		timed.Items = append(timed.Items, it)
		last, until = it, h.End
	}
	if 2*does < all {
		return fmt.Sprintf("%s could do %d of the %d exercises: a session of their own serves better.", name, does, all)
	}
	appraise.Retime(r, &timed)
	for _, k := range timed.Checks {
		if !k.OK && slices.Contains(hostsTime, k.Rule) {
			return fmt.Sprintf("%s cannot go through this session with the others: %s", name, k.Detail)
		}
	}
	return ""
}

// waySlack is how many seconds more than the host somebody may need on a way, caught up in the set-up (product default).
const waySlack = 5

// insteadIn is an exercise that suits somebody in place of one they may not do, from the same position.
func insteadIn(p *plan.Plan, i int, r *facts.Request) (it plan.Item, ok bool) {
	for _, slug := range edit.Swaps(r, p, i) {
		q, err := edit.Tried(r, p, edit.Edit{Op: "swap", Item: i, With: slug})
		if err != nil {
			continue
		}
		it = q.Items[i]
		if it.Position == p.Items[i].Position && appraise.Safe(r, &it) && !r.Screener.Unconfirmed(slug) {
			it.ByHand = false
			return it, true
		}
	}
	return it, false
}

func nameIn(r *facts.Request, slug string) string { return (&Facts{Request: r}).nameOf(slug) }
