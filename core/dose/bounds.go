package dose

import "fmt"

// Bounds of a dose: far beyond what anybody does, and near enough to count with (product defaults).
const (
	MostSets    = 20
	MostReps    = 200
	MostSeconds = 3600 // of any one part
)

// Kinds of sessions with doses of their own, which are no base for those of another (shared ruling 60).
const (
	Desk    = "desk"    // twice each
	Trio    = "trio"    // the day's falling sets
	Comfort = "comfort" // breath, relaxation and comfortable positions
)

// Kinds lists them.
var Kinds = []string{Desk, Trio, Comfort}

// Check says what of a dose lies beyond every bound: what comes from outside is judged before anything counts with it.
func (d *Dose) Check() error { return d.check(1) }

// CheckKept is Check for a dose that is kept: one of nothing may be there.
func (d *Dose) CheckKept() error { return d.check(0) }

func (d *Dose) check(least int) error {
	reps := d.Reps
	for _, n := range d.Pattern {
		if n < 1 {
			return fmt.Errorf("pattern: found %d, allowed: 1 to %d", n, MostReps)
		}
		reps = max(reps, n)
	}
	for _, x := range []struct {
		name        string
		n, from, to int
	}{
		{"sets", max(d.Sets, len(d.Pattern)), least, MostSets}, {"reps", reps, least, MostReps},
		{"hold_s", d.HoldS, 0, MostSeconds},
		{"hold_breaths", d.HoldBreaths, 0, MostReps}, {"hold_counts", d.HoldCounts, 0, MostSeconds},
		{"window_s", d.WindowS, 0, MostSeconds},
		{"move_s", d.MoveS, 0, MostSeconds}, {"setup_s", d.SetupS, 0, MostSeconds}, {"rest_s", d.RestS, 0, MostSeconds},
		{"change_s", d.ChangeS, 0, MostSeconds}, {"beats", d.Beats, 0, MostReps}, {"hours", len(d.Hours), 0, 12},
	} {
		if x.n < x.from || x.n > x.to {
			return fmt.Errorf("%s: found %d, allowed: %d to %d", x.name, x.n, x.from, x.to)
		}
	}
	for _, h := range d.Hours {
		if h < 1 || h > 12 {
			return fmt.Errorf("hours: found %d, allowed: 1 to 12", h)
		}
	}
	if d.Extra != nil && (d.Extra.Share < 0 || d.Extra.Share > 2 || !d.Extra.Side.One()) {
		return fmt.Errorf(
			"extra: found %g on the %s, allowed: up to 2 on the left or right",
			d.Extra.Share,
			d.Extra.Side,
		)
	}
	if d.Rate < 0 || d.Rate > 60 {
		return fmt.Errorf("rate: found %g, allowed: 0 to 60", d.Rate)
	}
	return nil
}
