package edit

import (
	"math"
	"slices"
	"strings"

	"restbend/core/appraise"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/propose"
)

// Characters lists them in the order they are offered.
var Characters = []string{plan.MoreMobility, plan.MoreStrength, plan.OtherPlace}

// Alternatives are the further proposals for a session, each with what it costs beside it. What comes out
// the same, or cannot be made around what is locked, is left out.
func Alternatives(r *facts.Request, best *plan.Plan) (out []plan.Alternative) {
	if r.Template != nil && r.Template.OwnContent {
		return nil // it holds what its row says
	}
	about, err := Around(r, best)
	if err != nil {
		return nil
	}
	seen := []string{strings.Join(versions(best), " ")}
	for _, character := range Characters {
		t := about.With(character)
		if character == plan.OtherPlace && t.Place() == about.Place() {
			continue
		}
		p, err := propose.Build(t)
		if err != nil {
			continue
		}
		what := strings.Join(versions(p), " ")
		if slices.Contains(seen, what) {
			continue
		}
		seen = append(seen, what)
		beside := *p
		beside.Items = slices.Clone(p.Items)
		beside.Character, beside.Where = best.Character, best.Where
		appraise.Reckon(about, &beside)
		out = append(
			out,
			plan.Alternative{Character: character, Costs: math.Round(1e4*(best.Score-beside.Score)) / 1e4, Plan: p},
		)
	}
	return out
}

// versions are what a plan holds.
func versions(p *plan.Plan) (out []string) {
	for i := range p.Items {
		out = append(out, p.Items[i].Version)
	}
	return out
}

// Lean makes the further changes of a plan those of a character; "best" is the plain proposal again.
func Lean(r *facts.Request, p *plan.Plan, character string) error {
	if character == "best" {
		p.Character, p.Where = "", ""
		return nil
	}
	if !slices.Contains(Characters, character) {
		return plan.Deny("character", "found %q, allowed: best, %s", character, strings.Join(Characters, ", "))
	}
	t := r.About(p).With(character)
	p.Character, p.Where = character, t.Ask.Place
	return nil
}
