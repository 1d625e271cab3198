package catalogue

import (
	"fmt"
	"math"
	"slices"

	"restbend/core/dose"
	"restbend/core/trade"
)

// Product defaults for time around an exercise, seconds.
const (
	SetupSeconds = 10 // of what the client knows
	SideChange   = 8
)

// Familiar is in how many sessions a version was done before it needs no more explaining.
const Familiar = 2

// Explain is the seconds of explaining and setting up a version that was done so many times before
// (domain/07: 45, then 20, then 10; product defaults).
func Explain(times int) int {
	switch times {
	case 0:
		return 45
	case 1:
		return 20
	}
	return SetupSeconds
}

// roundSeconds is how long one round of the phases takes without its hold, whole seconds:
// a phase's seconds are the way into it (shared ruling 36).
func (v *Version) roundSeconds() int {
	sum := 0.0
	for _, p := range v.Phases[min(v.Round(), len(v.Phases)):] {
		sum += p.Seconds
	}
	return int(math.Ceil(sum - 1e-9))
}

// agreed are the steps of a dose ladder as the version is done: moving takes at least as
// long as its phases, unless the hold repeats the round, and sides or directions change
// where the version says.
func (v *Version) agreed(steps []dose.Dose) []dose.Dose {
	out := slices.Clone(steps)
	for i := range out {
		d := &out[i]
		if (v.Hold != "cycle" || d.HoldSeconds(0) == 0) && d.WindowS == 0 { // in a window the round runs inside it
			d.MoveS = max(d.MoveS, v.roundSeconds())
		}
		if d.Turn == "" {
			d.Turn = v.TurnIn()
		}
		if v.SideMode != trade.Each {
			d.By = ""
		}
		if d.Reps == 1 && len(d.Pattern) == 0 && v.SideMode != trade.Alternate {
			d.Turn = ""
		}
	}
	return out
}

// TurnIn says when sides or directions change inside a set: rep, half or never.
func (v *Version) TurnIn() string {
	switch {
	case v.Turn != "":
		return v.Turn
	case v.SideMode == trade.Alternate:
		return "rep"
	case v.Unit == "laps":
		return "half"
	}
	return ""
}

// odd says what a count cannot be where sides or directions change inside a set: both get
// the same (shared ruling 37).
func (v *Version) odd(d *dose.Dose) string {
	counts := append([]int{d.Reps}, d.Pattern...)
	if d.WindowS > 0 { // counted, not aimed at
		counts = nil
	}
	for _, n := range counts {
		if d.Turn != "" && n%2 != 0 {
			return fmt.Sprintf("%d repetitions cannot be shared by two sides or directions", n)
		}
	}
	return ""
}

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
	if v.SideMode == trade.Each {
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
