// Package dose is the arithmetic of sets, repetitions, holds, breaths and rests: exact
// seconds, line by line.
package dose

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"restbend/core/trade"
)

// Dose is one prescription. Seconds are whole; a hold is in seconds, breaths or counts. A
// range is its upper end and where it begins: "8 to 10" is reps 10 from 8; what lies
// between is done, the upper end is the target.
type Dose struct {
	Sets int `yaml:"sets"            json:"sets"`
	// repetitions, passes or laps; one is one side (shared ruling 37)
	Reps     int `yaml:"reps"            json:"reps"`
	RepsFrom int `yaml:"reps_from"       json:"reps_from,omitempty"` // the lower mark of a range
	HoldS    int `yaml:"hold_s"          json:"hold_s,omitempty"`    // with open: the ceiling
	// the lower mark of a range, in the hold's own unit
	HoldFrom    int   `yaml:"hold_from"       json:"hold_from,omitempty"`
	HoldBreaths int   `yaml:"hold_breaths"    json:"hold_breaths,omitempty"`
	HoldCounts  int   `yaml:"hold_counts"     json:"hold_counts,omitempty"`
	WindowS     int   `yaml:"window_s"        json:"window_s,omitempty"` // counted for so long, not aimed at
	Pattern     []int `yaml:"pattern"         json:"pattern,omitempty"`  // reps of each set, falling
	MoveS       int   `yaml:"move_s"          json:"move_s,omitempty"`   // moving in and out, per rep
	SetupS      int   `yaml:"setup_s"         json:"setup_s,omitempty"`  //
	RestS       int   `yaml:"rest_s"          json:"rest_s,omitempty"`   // between sets
	ChangeS     int   `yaml:"change_s"        json:"change_s,omitempty"` // between sides
	// side (one finished first), set (the other side is the rest) or rep (in turn)
	By string `yaml:"by"              json:"by,omitempty"`
	// when sides or directions change inside a set: rep or half
	Turn string `yaml:"turn"            json:"turn,omitempty"`
	Open bool   `yaml:"open"            json:"open,omitempty"` // up to the first loss of form
	// the end is the felt change; never for going up
	ByFeel bool `yaml:"by_feel"         json:"by_feel,omitempty"`
	// breaths a minute of its own, where the work sets the pace
	Rate  float64 `yaml:"rate"            json:"rate,omitempty"`
	Beats int     `yaml:"beats"           json:"beats,omitempty"` // beats in one repetition, which is a breath
	Hours []int   `yaml:"hours,omitempty" json:"hours,omitempty"` // weak hours of the clock, passed again slower
	Extra *Extra  `yaml:"extra"           json:"extra,omitempty"`

	// Apart is what each side does when the instructor dosed them apart, left and right; one side is
	// finished first. Documents carry it beside the dose.
	Apart *[2]Dose `yaml:"-" json:"-"`
}

// of is what one side does.
func (d Dose) of(side int) Dose {
	if d.Apart == nil {
		return d
	}
	return d.Apart[side]
}

// Slower passes over a weak hour, and how much slower (shared ruling 50; product defaults).
const (
	HourPasses = 3
	hourSlower = 1.5
)

// Extra is more for one side: half as much again on the tighter or weaker side.
type Extra struct {
	Side  trade.Side `yaml:"side"  json:"side"`
	Share float64    `yaml:"share" json:"share"`
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
func SidesOf(mode trade.Side) Sides {
	switch mode {
	case trade.Each:
		return EachSide
	case trade.Alternate:
		return Alternating
	}
	return OneSide
}

// Breath rates used where a client has none (breaths a minute): practice 12, common
// practice. The rate of daily life, 15, only proposes.
const DefaultBreaths = 12.0

// HoldSeconds is one hold in whole seconds, rounded up. A count is one second; breaths go
// at the client's rate unless the dose has its own.
func (d Dose) HoldSeconds(breathsPerMinute float64) int {
	if d.HoldBreaths > 0 {
		switch {
		case d.Rate > 0:
			breathsPerMinute = d.Rate
		case breathsPerMinute <= 0:
			breathsPerMinute = DefaultBreaths
		}
		return int(math.Ceil(float64(d.HoldBreaths)*60/breathsPerMinute - 1e-9))
	}
	return d.HoldS + d.HoldCounts + d.WindowS
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

// SetCount is the number of sets, at most MostSets: documents that say more are refused where they are
// read (Dose.Check), and one that was not read so does not make work for ever.
func (d Dose) SetCount() int {
	if len(d.Pattern) > 0 {
		return min(len(d.Pattern), MostSets)
	}
	return min(d.Sets, MostSets)
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

// HourSeconds is the slower passes over the weak hours.
func (d Dose) HourSeconds() int {
	return len(d.Hours) * HourPasses * int(math.Ceil(hourSlower*float64(d.MoveS)-1e-9))
}

// Stretch is a part of a dose with one use of time: set-up, work, rest, the change of
// sides, the extra of one side, or the slower passes over weak hours.
type Stretch struct {
	Kind    string // setup, work, rest, change, extra or hours
	Side    int    // 0 the side that comes first, 1 the other
	Set     int    // from 0
	Reps    int
	Seconds int
}

// Stretches lays a dose out in time: the only place that knows the order of sets and sides.
// By side one side is finished before the other; by set they change after every set and
// the other side is the rest. An extra follows the last set of the first side.
func (d Dose) Stretches(breathsPerMinute float64, sides Sides) []Stretch {
	var out []Stretch
	add := func(kind string, side, set, reps, seconds int) {
		if seconds > 0 || kind == "work" {
			out = append(out, Stretch{kind, side, set, reps, seconds})
		}
	}
	n := 1
	if sides == EachSide {
		n = 2
	}
	work := func(side, set int) {
		d := d.of(side)
		each := d.MoveS + d.HoldSeconds(breathsPerMinute)
		add("work", side, set, d.setReps(set), d.setReps(set)*each)
		if extra := d.ExtraSeconds(breathsPerMinute); side == 0 && set == d.SetCount()-1 && extra > 0 {
			reps := 1
			if d.TotalReps() > 1 {
				reps = extra / each
			}
			add("extra", side, set, reps, extra)
		}
	}
	add("setup", 0, 0, 0, d.SetupS)
	if n == 2 && d.By == "set" && d.Apart == nil {
		for set := range d.SetCount() {
			for side := range n {
				if set+side > 0 {
					add("change", side, set, 0, d.ChangeS)
				}
				work(side, set)
			}
		}
	} else {
		for side := range n {
			if side == 1 {
				add("change", side, 0, 0, d.ChangeS)
			}
			for set := range d.of(side).SetCount() {
				if set > 0 {
					add("rest", side, set, 0, d.of(side).RestS)
				}
				work(side, set)
			}
		}
	}
	add("hours", 0, d.SetCount()-1, len(d.Hours)*HourPasses, d.HourSeconds())
	return out
}

// Sum lists the seconds of a dose line by line: set-up, every set on every side, rests
// between sets, the change of sides, the extra and the weak hours.
func (d Dose) Sum(breathsPerMinute float64, sides Sides) []Line {
	var out []Line
	for _, s := range d.Stretches(breathsPerMinute, sides) {
		if s.Seconds == 0 {
			continue
		}
		d := d.of(s.Side)
		hold := d.HoldSeconds(breathsPerMinute)
		say := map[string]string{"setup": "set up", "rest": "rest", "change": "change sides"}[s.Kind]
		switch s.Kind {
		case "work":
			label := fmt.Sprintf("set %d", s.Set+1)
			if sides == EachSide {
				label = fmt.Sprintf("side %d, set %d", s.Side+1, s.Set+1)
			}
			say = fmt.Sprintf("%s: %d x (%d move + %d hold)", label, s.Reps, d.MoveS, hold)
		case "extra":
			say = "extra on the " + string(d.Extra.Side)
		case "hours":
			say = fmt.Sprintf("weak hours %s: %d slower passes each", list(d.Hours, ", "), HourPasses)
		}
		out = append(out, Line{say, s.Seconds})
	}
	return out
}

// Seconds is the total of Sum, without the words.
func (d Dose) Seconds(breathsPerMinute float64, sides Sides) int {
	if d.Apart != nil && sides == EachSide {
		total := 0
		for _, s := range d.Stretches(breathsPerMinute, sides) {
			total += s.Seconds
		}
		return total
	}
	n, between := 1, (d.SetCount()-1)*d.RestS
	change := 0
	if sides == EachSide {
		n = 2
		change = d.ChangeS
		if d.By == "set" {
			between, change = 0, (2*d.SetCount()-1)*d.ChangeS
		}
	}
	side := d.TotalReps()*(d.MoveS+d.HoldSeconds(breathsPerMinute)) + between
	return d.SetupS + n*side + change + d.ExtraSeconds(breathsPerMinute) + d.HourSeconds()
}

// CapHold shortens every hold to at most s seconds; capped tells whether it did.
func (d Dose) CapHold(s int, breathsPerMinute float64) (out Dose, capped bool) {
	if d.Apart != nil {
		apart := *d.Apart
		for i := range apart {
			was := false
			apart[i], was = apart[i].CapHold(s, breathsPerMinute)
			capped = capped || was
		}
		d.Apart = &apart
	}
	if s <= 0 || d.HoldSeconds(breathsPerMinute) <= s {
		return d, capped
	}
	d.HoldS, d.HoldBreaths, d.HoldCounts, d.WindowS, d.Rate, d.HoldFrom = s, 0, 0, 0, 0, 0
	return d, true
}

// CapReps limits the repetitions of a set to the last clean one.
func (d Dose) CapReps(n int) Dose {
	if d.Apart != nil {
		d.Apart = &[2]Dose{d.Apart[0].CapReps(n), d.Apart[1].CapReps(n)}
	}
	n = max(n, 1)
	if d.Turn != "" && d.Reps > 1 && n > 1 {
		n -= n % 2 // the same number on both sides or both ways round
	}
	d.Reps = min(d.Reps, n)
	if d.RepsFrom >= d.Reps {
		d.RepsFrom = 0
	}
	if len(d.Pattern) > 0 {
		p := make([]int, len(d.Pattern))
		for i, r := range d.Pattern {
			p[i] = min(r, n)
		}
		d.Pattern = p
	}
	return d
}

// CapSets limits the sets to the first n; an extra, which comes after the last set, goes with those left out.
func (d Dose) CapSets(n int) Dose {
	if d.Apart != nil {
		d.Apart = &[2]Dose{d.Apart[0].CapSets(n), d.Apart[1].CapSets(n)}
	}
	if n = max(n, 1); n >= d.SetCount() {
		return d
	}
	d.Extra = nil
	if len(d.Pattern) > 0 {
		d.Pattern = append([]int(nil), d.Pattern[:n]...)
		d.Reps = d.Pattern[0]
	}
	d.Sets = n
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
		fall := 2
		if d.Turn == "half" {
			fall = 4
		}
		next := d.Pattern[n-1] - fall
		if n >= mostFalling || next < fall {
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

// PerSide is a dose of alternating repetitions done on one side after the other: half of
// them each, rounded up.
func (d Dose) PerSide() Dose {
	d.Reps, d.RepsFrom, d.Turn = (d.Reps+1)/2, (d.RepsFrom+1)/2, ""
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

// Words says a dose as an instructor would. Of work that changes sides or directions at
// half it says half: "6-4-2 times, each side".
func (d Dose) Words() string {
	if d.Apart != nil {
		return "left " + d.Apart[0].Words() + "; right " + d.Apart[1].Words()
	}
	hold := d.holdWords()
	half, times := 1, "times"
	if d.Turn == "half" && d.Reps > 1 {
		half, times = 2, "times each way"
	}
	if d.Beats > 0 {
		half, times = 1, fmt.Sprintf("breaths of %d beats", d.Beats)
	}
	switch {
	case len(d.Pattern) > 0:
		sets := make([]int, len(d.Pattern))
		for i, n := range d.Pattern {
			sets[i] = n / half
		}
		return list(sets, "-") + " " + times + hold
	case d.Sets == 1 && d.Reps == 1:
		return "once" + hold
	}
	from := ""
	if d.RepsFrom > 0 && d.RepsFrom < d.Reps {
		from = fmt.Sprintf("%d to ", d.RepsFrom/half)
	}
	if d.Sets == 1 {
		if d.Reps/half == 1 && from == "" && times == "times each way" {
			return "once each way" + hold
		}
		return fmt.Sprintf("%s%d %s", from, d.Reps/half, times) + hold
	}
	if half == 2 || d.Beats > 0 {
		times = " " + times
	} else {
		times = ""
	}
	return fmt.Sprintf("%d x %s%d%s", d.Sets, from, d.Reps/half, times) + hold
}

// holdWords says how long each repetition is held.
func (d Dose) holdWords() (hold string) {
	unit := func(n int, one, many string) string {
		from := ""
		if d.HoldFrom > 0 && d.HoldFrom < n {
			from = fmt.Sprintf("%d to ", d.HoldFrom)
		}
		if n == 1 {
			return ", hold 1 " + one
		}
		return fmt.Sprintf(", hold %s%d %s", from, n, many)
	}
	switch {
	case d.HoldBreaths > 0:
		hold = unit(d.HoldBreaths, "breath", "breaths")
	case d.HoldCounts > 0:
		hold = unit(d.HoldCounts, "counts", "counts")
	case d.HoldS > 0:
		hold = unit(d.HoldS, "s", "s")
	case d.WindowS > 0:
		hold = fmt.Sprintf(", as many as come in %d s", d.WindowS)
	}
	if d.Rate > 0 && d.HoldBreaths > 0 {
		hold += fmt.Sprintf(" at %g a minute", d.Rate)
	}
	if d.Open {
		hold += " at most, to the first loss of form"
	}
	if d.ByFeel {
		hold += ", by feel"
	}
	return hold
}

func list(n []int, sep string) string {
	words := make([]string, len(n))
	for i, k := range n {
		words[i] = strconv.Itoa(k)
	}
	return strings.Join(words, sep)
}
