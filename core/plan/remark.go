package plan

// A Weight says how much a remark weighs, so that style never looks like danger (domain/10).
type Weight string

const (
	// NotAllowed stops teaching until it is mended, or overridden with a reason; what a sign, a referral or a
	// clinician's words say is never overridden.
	NotAllowed Weight = "not-allowed"
	// NotYet is a gate that is not open: a trial, with a reason.
	NotYet Weight = "not-yet"
	// ThinkOf is how sessions are usually made: never red.
	ThinkOf Weight = "think-of"
	// LeftOver is minutes over and under, and wishes that got too little.
	LeftOver Weight = "left-over"
)

// Weights lists them, the weightiest first.
var Weights = []Weight{NotAllowed, NotYet, ThinkOf, LeftOver}

// weights are those of the rules of a plan.
var weights = map[string]Weight{
	"safe": NotAllowed, "ways": NotAllowed, "right-side": NotAllowed, "clinician-limits": NotAllowed, "effort-cap": NotAllowed,
	"floor-transfers": NotAllowed, "supine-block": NotAllowed, "sitting-block": NotAllowed, "few-of": NotAllowed,

	"gates": NotYet, "no-skipped-rung": NotYet,

	"opener-closer": ThinkOf, "positions-once": ThinkOf, "effort-rises": ThinkOf, "order": ThinkOf, "gentle-steps": ThinkOf,
	"hardest-place": ThinkOf, "easiest-first": ThinkOf, "both-sides": ThinkOf, "families": ThinkOf, "main-count": ThinkOf,
	"mobility-count": ThinkOf, "three-sides": ThinkOf, "place": ThinkOf, "six-directions": ThinkOf, "new-items": ThinkOf,
	"needs": ThinkOf, "never-less": ThinkOf,

	"time": LeftOver,
}

// WeightOf is the weight of a rule; one that is not known weighs most.
func WeightOf(rule string) Weight {
	if w, ok := weights[rule]; ok {
		return w
	}
	return NotAllowed
}

// Rules lists the rules of a plan with a weight.
func Rules() (out []string) {
	for rule := range weights {
		out = append(out, rule)
	}
	return out
}
