package verify

// weight tells style from danger, worked out again (docs/planner.md, Remarks): what could hurt is not allowed, a gate
// is not open yet, how sessions are usually made is to think of, minutes are left over. What does not hold together
// as a document, or is not known here, weighs most.
func (j *judge) weight(rule string) string {
	switch rule {
	case "no-skipped-rung", "gates":
		return "not-yet"
	case "time":
		return "left-over"
	case "place":
		if j.acute {
			return "not-allowed"
		}
		return "think-of"
	case "new-items":
		if j.acute || j.has("recent-surgery") || j.stopped {
			return "not-allowed"
		}
		return "think-of"
	case "opener-closer", "positions-once", "effort-rises", "order", "gentle-steps", "hardest-place", "easiest-first", "both-sides",
		"families", "main-count", "mobility-count", "three-sides", "six-directions", "needs", "sides", "never-less":
		return "think-of"
	}
	return "not-allowed"
}
