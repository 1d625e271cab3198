package plan

import (
	"math"
	"slices"
	"strings"
)

// Characters lists them in the order they are offered.
var Characters = []string{MoreMobility, MoreStrength, OtherPlace}

// Alternatives are the further proposals for a session, each with what it costs beside it. What comes out
// the same, or cannot be made around what is locked, is left out.
func (r *Request) Alternatives(best *Plan) (out []Alternative) {
	if r.Template != nil && r.Template.OwnContent {
		return nil // it holds what its row says
	}
	about, err := r.Around(best)
	if err != nil {
		return nil
	}
	seen := []string{strings.Join(best.versions(), " ")}
	for _, character := range Characters {
		t := about.With(character)
		if character == OtherPlace && t.Place() == about.Place() {
			continue
		}
		p, err := Build(t)
		if err != nil {
			continue
		}
		what := strings.Join(p.versions(), " ")
		if slices.Contains(seen, what) {
			continue
		}
		seen = append(seen, what)
		beside := *p
		beside.Items = slices.Clone(p.Items)
		beside.Character, beside.Where = best.Character, best.Where
		about.retime(&beside)
		out = append(out, Alternative{character, math.Round(1e4*(best.Score-beside.Score)) / 1e4, p})
	}
	return out
}

// versions are what a plan holds.
func (p *Plan) versions() (out []string) {
	for i := range p.Items {
		out = append(out, p.Items[i].Version)
	}
	return out
}

// Lean makes the further changes of a plan those of a character; "best" is the plain proposal again.
func (r *Request) Lean(p *Plan, character string) error {
	if character == "best" {
		p.Character, p.Where = "", ""
		return nil
	}
	if !slices.Contains(Characters, character) {
		return denied("character", "found %q, allowed: best, %s", character, strings.Join(Characters, ", "))
	}
	t := r.about(p).With(character)
	p.Character, p.Where = character, t.Ask.Place
	return nil
}
