package plan

import (
	"maps"
	"math"
	"slices"
	"strings"
)

// Characters of a further proposal (domain/07).
const (
	MoreMobility = "more-mobility"
	MoreStrength = "more-strength"
	OtherPlace   = "other-place"
)

// Characters lists them in the order they are offered.
var Characters = []string{MoreMobility, MoreStrength, OtherPlace}

// moreShare is the share of the weights that the aims of a character have at least (product default):
// above half, so that mobility asked as more swaps the two columns of the composition.
const moreShare = 0.6

// An Alternative is a proposal of another character, beside the best.
type Alternative struct {
	Character string  `json:"character"`
	Costs     float64 `json:"costs"` // points it is worth less than the best, by the best's aims and place
	Plan      *Plan   `json:"plan"`
}

// leaning are the aims with those of a character weighing more; the same when they weigh enough already or
// none of them is asked for, and spinal mobility where no mobility was.
func leaning(aims map[string]float64, character string) map[string]float64 {
	of := map[string][]string{MoreMobility: mobilises, MoreStrength: strengthens}[character]
	some, others, top := 0.0, 0.0, 0.0
	for a, w := range aims {
		top = math.Max(top, w)
		if slices.Contains(of, a) {
			some += w
		} else {
			others += w
		}
	}
	if of == nil || top == 0 {
		return aims
	}
	out := maps.Clone(aims)
	if some == 0 {
		if character == MoreStrength {
			return aims
		}
		out[mobilises[0]], some = top, top
	}
	if factor := moreShare / (1 - moreShare) * others / some; factor > 1 {
		for _, a := range of {
			if w, ok := out[a]; ok {
				out[a] = math.Round(1e6*w*factor) / 1e6
			}
		}
	}
	return out
}

// With is the request for a proposal of a character; empty is the best one. The other place is the mat for
// who works elsewhere and can get there, else upright.
func (r *Request) With(character string) *Request {
	t := *r
	t.Ask.Character, t.memo = character, &memo{}
	if character == OtherPlace {
		t.Ask.Place = placeUpright
		if r.Place() == placeUpright {
			t.Ask.Place = placeMat
		}
	}
	return &t
}

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
