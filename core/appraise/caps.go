package appraise

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// What a client's conditions say of the whole session and the model does not hold: how many
// exercises may have a quantity, and how long they sit in one go.

// Sits tells whether a version is done sitting on a seat.
func Sits(v *catalogue.Version) bool { return v.Position == trade.Sitting }

// mostTries is how often a session that sits too long is made anew without the exercises beyond
// the limit.
const mostTries = 12

// Within makes a session and, while it sits too long in one go, leaves out what lies
// beyond the limit. A session made that way is not proven.
func Within(r *facts.Request, build func(*facts.Request) (*plan.Plan, error)) (*plan.Plan, error) {
	p, err := build(r)
	limit, _ := r.Screener.SittingCap()
	if err != nil || limit == 0 {
		return p, err
	}
	t := r
	for range mostTries {
		last, longest := r.Run(p, Sits)
		if longest <= limit {
			return p, nil
		}
		first := last
		for first > 0 && Sits(version(r, &p.Items[first-1])) {
			first--
		}
		var spared []string
		for i := last; i >= first && (p.Items[i].End-p.Items[first].Start > limit || len(spared) == 0); i-- {
			if it := &p.Items[i]; !it.Locked && it.Role == trade.Main {
				spared = append(spared, it.Version)
			}
		}
		if len(spared) == 0 {
			break
		}
		t = sparing(t, spared)
		next, err := build(t)
		if err != nil {
			break // the check names what is too long
		}
		p = next
		p.Proven = false
	}
	return p, nil
}

// sparing is the request without some versions beside those it spares already.
func sparing(r *facts.Request, versions []string) *facts.Request {
	return r.Asking(func(a *facts.Ask) { a.Spared = slices.Concat(a.Spared, versions) })
}

// What a step that is too steep costs, points, and how often a session is made anew for it (product defaults).
const (
	stepPoints = 5
	mostSteps  = 3
)

// Gently makes a session and, where effort rises too steeply from one exercise to the next, another without
// what is too hard there, when that costs less than the steps do (shared ruling 49: a priced check). A
// session made that way is not proven.
func Gently(r *facts.Request, build func(*facts.Request) (*plan.Plan, error)) (*plan.Plan, error) {
	p, err := build(r)
	if err != nil || r.Template.IsRoutine() {
		return p, err
	}
	t := r
	best, steep := p, len(tooSteep(p))
	for range mostSteps {
		at := tooSteep(p)
		if len(at) == 0 {
			break
		}
		var spared []string
		for _, i := range at {
			if it := &p.Items[i]; !it.Locked && !it.ByHand {
				spared = append(spared, it.Version)
			}
		}
		if len(spared) == 0 {
			break
		}
		t = sparing(t, spared)
		if p, err = build(t); err != nil {
			break // what is too hard there is wanted all the same
		}
		if n := len(tooSteep(p)); n < steep && p.Score+stepPoints*float64(steep-n) > best.Score {
			best, steep = p, n
			best.Proven = false
		}
	}
	return best, nil
}

// tooSteep are the places where effort rises by more than it should.
func tooSteep(p *plan.Plan) (at []int) {
	before := 0
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role != trade.Main {
			continue
		}
		if before > 0 && it.Effort > before+steepest {
			at = append(at, i)
		}
		before = it.Effort
	}
	return at
}

// version is what an item is, an empty one when it is in the catalogue no more.
func version(r *facts.Request, it *plan.Item) *catalogue.Version {
	if v, ok := r.Catalogue.Version(it.Version); ok {
		return v
	}
	return &catalogue.Version{}
}

// caps checks them.
func (c *checker) caps() {
	r := c.r
	lying, why := r.Screener.SupineCap()
	c.stretch("supine-block", lying, why, facts.OnBack)
	sitting, why := r.Screener.SittingCap()
	c.stretch("sitting-block", sitting, why, Sits)
	for _, limit := range r.Screener.ItemCaps() {
		at := c.where(func(_ int, it *plan.Item) bool { return version(r, it).Peaks(it.Doing())[limit.Of].Value > 0 })
		c.say("few-of", len(at) <= limit.Items, at, "%s; the session has %d", limit.Reason, len(at))
	}
}

// stretch checks the longest unbroken stretch of one kind.
func (c *checker) stretch(rule string, limit int, why string, how func(*catalogue.Version) bool) {
	if limit == 0 {
		return
	}
	last, longest := c.r.Run(c.p, how)
	c.say(rule, longest <= limit, []int{last}, "%s; the longest stretch is %d:%02d", why, longest/60, longest%60)
}
