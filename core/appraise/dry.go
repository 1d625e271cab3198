package appraise

import (
	"fmt"
	"slices"

	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// dry says which aims and which limits left the session poorer than asked.
func dry(r *facts.Request, p *plan.Plan) []string {
	out := []string{}
	for _, s := range p.Served {
		if s.Served < 0.5*s.Target {
			out = append(
				out,
				fmt.Sprintf("%s: %.1f of %.1f minutes, %s", s.Aim, s.Served, s.Target, whyDry(r, p, s.Aim)),
			)
		}
	}
	if p.Seconds < r.LeastSeconds() {
		out = append(out,
			fmt.Sprintf("time: %d:%02d of %d minutes, %s", p.Seconds/60, p.Seconds%60, p.Minutes, whyShort(r, p)))
	}
	return out
}

func whyDry(r *facts.Request, p *plan.Plan, aim string) string {
	some, left, fresh := 0, 0, 0
	for _, c := range r.Candidates() {
		if !facts.BodyItem(c.V) || !slices.Contains(c.V.Aims, aim) {
			continue
		}
		some++
		if !p.Has(c.V.Slug) {
			left++
			fresh += facts.CountIf(!c.Seen)
		}
	}
	switch {
	case some == 0:
		return "nothing that suits serves it at this rung and place"
	case left == 0:
		return "everything that suits and serves it is already in"
	case left == fresh && FullOfNew(r, p):
		return fmt.Sprintf("what serves it would be new, and at most %d new items come into a session", r.MaxNew())
	}
	return "other aims, directions and time weigh more"
}

// FullOfNew tells whether the session holds as many new items as it may.
func FullOfNew(r *facts.Request, p *plan.Plan) bool {
	fresh := 0
	for i := range p.Items {
		fresh += facts.CountIf(p.Items[i].New && p.Items[i].Role != trade.Reset && !r.FixedPart(p.Items[i].Version))
	}
	return len(r.Seen) > 0 && fresh >= r.MaxNew()
}

func whyShort(r *facts.Request, p *plan.Plan) string {
	switch {
	case FullOfNew(r, p):
		return fmt.Sprintf("at most %d new items a session", r.MaxNew())
	case r.Template != nil && r.Template.Natural:
		return "this kind of session has a length of its own"
	}
	return "nothing more that suits at this rung and place"
}
