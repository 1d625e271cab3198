package facts

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/plan"
)

// StandIns are what may stand in the place of a version of a routine, nearest first: what the client does
// in its branch, then what the screening offers instead.
func (r *Request) StandIns(v *catalogue.Version) (slugs []string) {
	for _, c := range r.Candidates() {
		if BranchKey(c.V) == BranchKey(v) {
			slugs = append(slugs, c.V.Slug)
		}
	}
	if res, ok := r.Screening.Result(v.Slug); ok {
		slugs = append(append(slugs, res.Use), res.Swaps...)
	}
	return slugs
}

// standIn is what stands in a session for a version of its routine, nil when nothing does.
func (r *Request) standIn(p *plan.Plan, v *catalogue.Version) *catalogue.Version {
	if !r.Template.IsRoutine() {
		return nil
	}
	for _, slug := range r.StandIns(v) {
		if w, ok := r.Catalogue.Version(slug); ok && p.Has(slug) && !r.Template.Writes(slug) {
			return w
		}
	}
	return nil
}

// Lack is a part of the fixed beginning or end of a kind of session that a session does without.
type Lack struct{ Name, Why string }

// Lacks are the fixed parts of its kind that are not in a session, and why.
func (r *Request) Lacks(p *plan.Plan) (out []Lack) {
	t := r.About(p)
	prepare, finish := t.Template.Fixed()
	lying, onTheBack := t.Screener.SupineCap()
	_, longest := t.Run(p, OnBack)
	for _, slug := range slices.Concat(prepare, finish) {
		v, ok := t.Catalogue.Version(slug)
		if !ok || p.Has(slug) {
			continue
		}
		_, suits := t.Permitted(v)
		c, err := t.Candidate(slug)
		why := "removed by hand, or no room for it"
		switch in := t.standIn(p, v); {
		case in != nil && !suits:
			why = "it does not suit this client; " + in.Name + " stands in its place"
		case !suits && t.awaitsCheck(v):
			why = "the hand check in the session says for which side; then it comes in by itself"
		case !suits:
			why = "it does not suit this client"
		case slices.Contains(t.Ask.Banned, slug):
			why = "it was taken out"
		case err != nil:
			why = plan.Why(err)
		case lying > 0 && OnBack(v) && len(c.Doses) > 0 &&
			longest+c.Doses[c.Normal()].Dose.Seconds(r.Client.BreathRate, c.Sides()) > lying:
			why = onTheBack
		}
		out = append(out, Lack{v.Name, why})
	}
	return out
}

// Needs are the wishes of the kind as far as this client may: where nothing of a wish suits, what
// replaces it.
func (r *Request) Needs() (out []kinds.Need) {
	if r.Template == nil {
		return nil
	}
	for _, n := range r.Template.Needs {
		if len(n.Else) > 0 && !r.anySuits(n.Families) {
			n.Families = n.Else
		}
		out = append(out, n)
	}
	return out
}

// anySuits tells whether something of some families may be done and begun.
func (r *Request) anySuits(families []string) bool {
	return slices.ContainsFunc(r.Catalogue.Versions, func(v *catalogue.Version) bool {
		limit := r.EffortCap()
		if !slices.Contains(families, v.Family) || limit > 0 && v.Effort > limit ||
			v.Effort > r.startEffort()+askedAbove {
			return false
		}
		c, ok := r.Permitted(v)
		return ok && r.inPlace(&c)
	})
}
