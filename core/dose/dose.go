// Package dose is the arithmetic of sets, repetitions, holds, breaths and rests: exact
// seconds, line by line.
package dose

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Dose is one prescription. Seconds are whole; a hold is in seconds, breaths or counts.
type Dose struct {
	Sets        int    `yaml:"sets" json:"sets"`
	Reps        int    `yaml:"reps" json:"reps"`
	HoldS       int    `yaml:"hold_s" json:"hold_s,omitempty"`
	HoldBreaths int    `yaml:"hold_breaths" json:"hold_breaths,omitempty"`
	HoldCounts  int    `yaml:"hold_counts" json:"hold_counts,omitempty"`
	Pattern     []int  `yaml:"pattern" json:"pattern,omitempty"` // reps of each set, falling
	MoveS       int    `yaml:"move_s" json:"move_s,omitempty"`   // moving in and out, per rep
	SetupS      int    `yaml:"setup_s" json:"setup_s,omitempty"`
	RestS       int    `yaml:"rest_s" json:"rest_s,omitempty"`     // between sets
	ChangeS     int    `yaml:"change_s" json:"change_s,omitempty"` // between sides
	Extra       *Extra `yaml:"extra" json:"extra,omitempty"`
}

// Extra is more for one side: half as much again on the tighter or weaker side.
type Extra struct {
	Side  string  `yaml:"side" json:"side"`
	Share float64 `yaml:"share" json:"share"`
}

// Line is one row of the sum of a dose.
type Line struct {
	What    string `json:"what"`
	Seconds int    `json:"seconds"`
}

// Sides tells how a dose meets the two sides.
type Sides int

// One side or none; both sides one after the other; sides in turn, each rep counted once.
const (
	OneSide Sides = iota
	EachSide
	Alternating
)

// SidesOf reads a side mode: each, alternate, or anything else for one side.
func SidesOf(mode string) Sides {
	switch mode {
	case "each":
		return EachSide
	case "alternate":
		return Alternating
	}
	return OneSide
}

// Breath rates used where a client has none (breaths a minute): practice 12, common
// practice. The rate of daily life, 15, only proposes.
const DefaultBreaths = 12.0

// HoldSeconds is one hold in whole seconds, rounded up. A count is one second.
func (d Dose) HoldSeconds(breathsPerMinute float64) int {
	if d.HoldBreaths > 0 {
		if breathsPerMinute <= 0 {
			breathsPerMinute = DefaultBreaths
		}
		return int(math.Ceil(float64(d.HoldBreaths)*60/breathsPerMinute - 1e-9))
	}
	return d.HoldS + d.HoldCounts
}

// TotalReps is the repetitions of one side over all sets.
func (d Dose) TotalReps() int {
	if len(d.Pattern) > 0 {
		n := 0
		for _, p := range d.Pattern {
			n += p
		}
		return n
	}
	return d.Sets * d.Reps
}

func (d Dose) setReps(set int) int {
	if len(d.Pattern) > 0 {
		return d.Pattern[set]
	}
	return d.Reps
}

// SetCount is the number of sets.
func (d Dose) SetCount() int {
	if len(d.Pattern) > 0 {
		return len(d.Pattern)
	}
	return d.Sets
}

// ExtraSeconds is the additional work on one side: whole repetitions, or for a single
// hold whole steps of five seconds, rounded up.
func (d Dose) ExtraSeconds(breathsPerMinute float64) int {
	if d.Extra == nil {
		return 0
	}
	hold := d.HoldSeconds(breathsPerMinute)
	if d.TotalReps() == 1 {
		return 5 * int(math.Ceil(d.Extra.Share*float64(hold)/5-1e-9))
	}
	return int(math.Ceil(d.Extra.Share*float64(d.TotalReps())-1e-9)) * (d.MoveS + hold)
}

// Sum lists the seconds of a dose line by line: set-up, every set on every side, rests
// between sets, the change of sides and the extra.
func (d Dose) Sum(breathsPerMinute float64, sides Sides) []Line {
	var out []Line
	add := func(s int, format string, a ...any) {
		if s > 0 {
			out = append(out, Line{fmt.Sprintf(format, a...), s})
		}
	}
	add(d.SetupS, "set up")
	hold := d.HoldSeconds(breathsPerMinute)
	n := 1
	if sides == EachSide {
		n = 2
	}
	for side := 0; side < n; side++ {
		if side == 1 {
			add(d.ChangeS, "change sides")
		}
		for set := 0; set < d.SetCount(); set++ {
			if set > 0 {
				add(d.RestS, "rest")
			}
			label := fmt.Sprintf("set %d", set+1)
			if n == 2 {
				label = fmt.Sprintf("side %d, set %d", side+1, set+1)
			}
			add(d.setReps(set)*(d.MoveS+hold), "%s: %d x (%d move + %d hold)", label, d.setReps(set), d.MoveS, hold)
		}
	}
	if e := d.ExtraSeconds(breathsPerMinute); e > 0 {
		add(e, "extra on the %s", d.Extra.Side)
	}
	return out
}

// Seconds is the total of Sum, without the words.
func (d Dose) Seconds(breathsPerMinute float64, sides Sides) int {
	n := 1
	if sides == EachSide {
		n = 2
	}
	side := d.TotalReps()*(d.MoveS+d.HoldSeconds(breathsPerMinute)) + (d.SetCount()-1)*d.RestS
	return d.SetupS + n*side + (n-1)*d.ChangeS + d.ExtraSeconds(breathsPerMinute)
}

// HoldingSeconds is the time spent in holds on one side.
func (d Dose) HoldingSeconds(breathsPerMinute float64) int {
	return d.TotalReps() * d.HoldSeconds(breathsPerMinute)
}

// CapHold shortens every hold to at most s seconds; capped tells whether it did.
func (d Dose) CapHold(s int, breathsPerMinute float64) (out Dose, capped bool) {
	if s <= 0 || d.HoldSeconds(breathsPerMinute) <= s {
		return d, false
	}
	d.HoldS, d.HoldBreaths, d.HoldCounts = s, 0, 0
	return d, true
}

// CapReps limits the repetitions of a set, or for a single hold its seconds, to the
// last clean value.
func (d Dose) CapReps(n int) Dose {
	n = max(n, 1)
	d.Reps = min(d.Reps, n)
	if len(d.Pattern) > 0 {
		p := make([]int, len(d.Pattern))
		for i, r := range d.Pattern {
			p[i] = min(r, n)
		}
		d.Pattern = p
	}
	return d
}

// FewerSets is the short day's dose: of a falling pattern the first set only, else one
// set fewer. ok is false when there is only one set.
func (d Dose) FewerSets() (out Dose, ok bool) {
	switch {
	case len(d.Pattern) > 1:
		d.Sets, d.Reps, d.Pattern = 1, d.Pattern[0], nil
	case len(d.Pattern) == 0 && d.Sets > 1:
		d.Sets--
	default:
		return d, false
	}
	return d, true
}

// The longest day: so many sets of equal repetitions, or of a falling pattern, and the
// rest between them where the dose names none (product defaults; the sets common practice).
const (
	mostSets    = 3
	mostFalling = 4
	defaultRest = 30
)

// MoreSets is the long day's dose: one set more, of a falling pattern a smaller one. ok is
// false when there are enough sets already.
func (d Dose) MoreSets() (out Dose, ok bool) {
	if n := len(d.Pattern); n > 0 {
		next := d.Pattern[n-1] - 2
		if n >= mostFalling || next < 2 {
			return d, false
		}
		d.Pattern = append(append([]int(nil), d.Pattern...), next)
		d.Sets = len(d.Pattern)
		return d, true
	}
	if d.Sets >= mostSets {
		return d, false
	}
	d.Sets++
	if d.RestS == 0 {
		d.RestS = defaultRest
	}
	return d, true
}

// MorePasses adds repetitions to the first set.
func (d Dose) MorePasses(n int) Dose {
	if n <= 0 {
		return d
	}
	if len(d.Pattern) > 0 {
		d.Pattern = append([]int{d.Pattern[0] + n}, d.Pattern[1:]...)
	}
	d.Reps += n
	return d
}

// PerSide is a dose of alternating repetitions done on one side after the other: half of
// them each, rounded up.
func (d Dose) PerSide() Dose {
	d.Reps = (d.Reps + 1) / 2
	if len(d.Pattern) > 0 {
		p := make([]int, len(d.Pattern))
		for i, n := range d.Pattern {
			p[i] = (n + 1) / 2
		}
		d.Pattern = p
	}
	return d
}

// Volume orders doses of one ladder: repetitions times held seconds.
func (d Dose) Volume(breathsPerMinute float64) int {
	return d.TotalReps() * max(1, d.HoldSeconds(breathsPerMinute))
}

// Words says a dose as an instructor would.
func (d Dose) Words() string {
	hold := ""
	switch {
	case d.HoldBreaths == 1:
		hold = ", hold 1 breath"
	case d.HoldBreaths > 1:
		hold = fmt.Sprintf(", hold %d breaths", d.HoldBreaths)
	case d.HoldCounts > 0:
		hold = fmt.Sprintf(", hold %d counts", d.HoldCounts)
	case d.HoldS > 0:
		hold = fmt.Sprintf(", hold %d s", d.HoldS)
	}
	switch {
	case len(d.Pattern) > 0:
		var sets []string
		for _, n := range d.Pattern {
			sets = append(sets, strconv.Itoa(n))
		}
		return strings.Join(sets, "-") + " times" + hold
	case d.Sets == 1 && d.Reps == 1:
		return "once" + hold
	case d.Sets == 1:
		return fmt.Sprintf("%d times", d.Reps) + hold
	}
	return fmt.Sprintf("%d x %d", d.Sets, d.Reps) + hold
}
