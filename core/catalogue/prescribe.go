package catalogue

import "restbend/core/dose"

// Product defaults for time around an exercise, seconds.
const (
	SetupSeconds = 10
	FirstSetup   = 30
	SideChange   = 8
)

// Steps is the dose ladder of a version for a school; where the school has none the
// nearest authored one is used and named.
func (v *Version) Steps(school string) (steps []dose.Dose, used string) {
	for _, s := range []string{school, "reps", "short-holds", "breaths", "long-hold"} {
		if d := v.Doses[s]; len(d) > 0 {
			return d, s
		}
	}
	return nil, ""
}

// Dose is one step of the ladder with set-up and side change filled in.
func (v *Version) Dose(school string, step int) dose.Dose {
	steps, _ := v.Steps(school)
	d := steps[min(max(step, 0), len(steps)-1)]
	d.SetupS = SetupSeconds
	if v.SideMode == "each" {
		d.ChangeS = SideChange
	}
	return d
}

// Sides tells how the version's dose meets the two sides.
func (v *Version) Sides() dose.Sides { return dose.SidesOf(v.SideMode) }

// ShortestReps is the fewest passes in a set of any authored dose; a verdict uses the
// shortest dose (shared ruling 4).
func (v *Version) ShortestReps() int {
	least := 0
	for _, steps := range v.Doses {
		for i := range steps {
			reps := steps[i].Reps
			for _, n := range steps[i].Pattern {
				reps = max(reps, n)
			}
			if i == 0 && (least == 0 || reps < least) {
				least = reps
			}
		}
	}
	return least
}
