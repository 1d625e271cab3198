package facts

import (
	"maps"
	"math"
	"slices"

	"restbend/core/kinds"
	"restbend/core/plan"
)

// moreShare is the share of the weights that the aims of a character have at least (product default):
// above half, so that mobility asked as more swaps the two columns of the composition.
const moreShare = 0.6

// leaning are the aims with those of a character weighing more; the same when they weigh enough already or
// none of them is asked for, and spinal mobility where no mobility was.
func leaning(aims map[string]float64, character string) map[string]float64 {
	of := map[string][]string{plan.MoreMobility: kinds.Mobilises, plan.MoreStrength: kinds.Strengthens}[character]
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
		if character == plan.MoreStrength {
			return aims
		}
		out[kinds.Mobilises[0]], some = top, top
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
	if character == plan.OtherPlace {
		t.Ask.Place = kinds.PlaceUpright
		if r.Place() == kinds.PlaceUpright {
			t.Ask.Place = kinds.PlaceMat
		}
	}
	return &t
}
