// Seconds, holds and doses, recomputed from the documents.

package verify

import (
	"math"
	"slices"
	"strings"
)

// seconds works a dose out: set-up, sets of repetitions with rests between on each side,
// the change of sides, the extra of one side.
func (j *judge) seconds(d *dose, side string) int {
	hold := j.hold(d)
	reps, sets := d.Sets*d.Reps, d.Sets
	if len(d.Pattern) > 0 {
		reps, sets = 0, len(d.Pattern)
		for _, n := range d.Pattern {
			reps += n
		}
	}
	work := reps * (d.MoveS + hold)
	total := d.SetupS + work + len(d.Hours)*3*((3*d.MoveS+1)/2) // weak hours: three passes each, half as slow again
	switch {
	case side == "each" && d.By == "set": // the other side is the rest
		total += work + (2*sets-1)*d.ChangeS
	case side == "each":
		total += work + d.ChangeS + 2*(sets-1)*d.RestS
	default:
		total += (sets - 1) * d.RestS
	}
	if d.Extra != nil {
		if reps == 1 {
			total += 5 * int(math.Ceil(d.Extra.Share*float64(hold)/5-1e-9))
		} else {
			total += int(math.Ceil(d.Extra.Share*float64(reps)-1e-9)) * (d.MoveS + hold)
		}
	}
	return total
}

// lasts is the seconds of an item: of both sides one after the other where they are dosed apart.
func (j *judge) lasts(it *item) int {
	if it.Left == nil || it.Right == nil {
		return j.seconds(&it.Dose, it.Side)
	}
	left, right := *it.Left, *it.Right
	left.SetupS, right.SetupS = it.Dose.SetupS, 0
	return j.seconds(&left, "left") + it.Dose.ChangeS + j.seconds(&right, "right")
}

// hold is the seconds of one hold.
func (j *judge) hold(d *dose) int {
	if d.HoldBreaths > 0 && d.Rate > 0 {
		return int(math.Ceil(float64(d.HoldBreaths)*60/d.Rate - 1e-9))
	}
	if d.HoldBreaths > 0 {
		return int(math.Ceil(float64(d.HoldBreaths)*60/j.client.Breaths - 1e-9))
	}
	return d.HoldS + d.HoldCounts + d.WindowS
}

// spot is where the body is: how far up, and on what.
type spot struct{ position, ground string }

func spotOf(position, surface string) spot {
	switch {
	case surface == "spring-carriage":
		return spot{position, "carriage"}
	case position == "sitting" || position == "standing":
		return spot{position, "up"}
	case surface == "bed":
		return spot{position, "bed"}
	}
	return spot{position, "floor"}
}

// rulesOfWays are the rules from which on a way is one that the client can go.
const rulesOfWays = 3

func (j *judge) toStanding(s spot) int {
	switch s.ground {
	case "up":
		if s.position == "sitting" {
			return 8
		}
		return 0
	case "floor":
		if j.client.Positions["floor"] == "help" {
			return toKnees[s.position] + 60
		}
		return toKnees[s.position] + 30
	}
	return toKnees[s.position] + 20
}

// between is from one place to another: by what the client has, or for a plan of earlier rules by their table.
func (j *judge) between(a, b spot) int {
	if j.plan.Rules >= rulesOfWays {
		return j.ways.move(a, b)
	}
	if a.ground != b.ground {
		return j.toStanding(a) + j.toStanding(b)
	}
	la, lb := toKnees[a.position] > 0, toKnees[b.position] > 0
	up := func(p string) bool { return p == "sitting" || p == "standing" }
	switch {
	case a.position == b.position:
		return 0
	case la && lb && (a.position == "side" || b.position == "side"):
		return 10
	case la && lb:
		return 15
	case la || lb:
		return max(toKnees[a.position], toKnees[b.position])
	case up(a.position) && up(b.position):
		return 8
	}
	return 8
}

// finish is the seconds of getting up at the end.
func (j *judge) finish(from spot) int { return j.between(from, j.home()) }

func (j *judge) home() spot {
	if j.client.Positions["stand_free"] == "no" {
		return spot{"sitting", "up"}
	}
	return spot{"standing", "up"}
}

// times: every start and end follows from the doses and the changes of posture.
func (j *judge) times() {
	at, now := j.home(), 0
	for i := range j.plan.Items {
		it := &j.plan.Items[i]
		to := spotOf(it.Position, it.Surface)
		if it.Role == "reset" { // the way there and back is its set-up
			to = at
		} else if j.plan.Rules >= rulesOfWays && !j.ways.reached(to) {
			j.violation("ways", "item %d (%s): there is no way to %s on the %s without %s", i, it.Version, it.Position, to.ground,
				strings.Join(j.ways.Without, ", "))
		}
		if t := j.between(at, to) + j.turn(i); it.Transition != t {
			j.violation("document", "item %d (%s): transition %d s, the table says %d", i, it.Version, it.Transition, t)
		}
		now += it.Transition
		if it.Start != now || it.End != now+j.lasts(it) {
			j.violation(
				"document",
				"item %d (%s): %d to %d, the dose says %d to %d",
				i,
				it.Version,
				it.Start,
				it.End,
				now,
				now+j.lasts(it),
			)
		}
		now, at = it.End, to
	}
	up := j.finish(at)
	if len(j.plan.Items) == 0 {
		up = 0 // nobody has got down
	}
	if j.plan.Finish != up || j.plan.Seconds != now+up {
		j.violation("document", "the session lasts %d s with %d at the end, found %d with %d",
			now+up, up, j.plan.Seconds, j.plan.Finish)
	}
	if j.plan.Seconds > 60*j.plan.Minutes {
		j.violation("time", "%d s are more than %d minutes", j.plan.Seconds, j.plan.Minutes)
	}
	if j.plan.Seconds < j.least() {
		j.wish("%d s are less than %d minutes should hold", j.plan.Seconds, j.plan.Minutes)
	}
}

// turn is what turning over takes more than a change of sides (15 s in place of 8), once for the items of a
// side block in lying, with the second of them.
func (j *judge) turn(i int) int {
	it := &j.plan.Items[i]
	if it.Block == 0 {
		return 0
	}
	if it.Side != "each" || it.Dose.By == "set" || it.Role != "main" {
		j.violation("sides", "item %d (%s) cannot belong to a side block", i, it.Version)
	}
	before := func(n int) bool { return i >= n && j.plan.Items[i-n].Block == it.Block }
	if before(1) && j.plan.Items[i-1].Position != it.Position {
		j.violation("sides", "item %d (%s): a side block stays in one position", i, it.Version)
	}
	if it.Position == "side" && before(1) && !before(2) {
		return 7
	}
	return 0
}

// turning is the seconds of turning over that no dose accounts for.
func (j *judge) turning() (seconds int) {
	for i := range j.plan.Items {
		seconds += j.plan.Items[i].TurnS
	}
	return seconds
}

// doses: nothing beyond the last clean value when a symptom capped the work, no hold longer
// than the client's conditions allow.
func (j *judge) doses(i int, it *item, v *version, d *decision) {
	for _, side := range []*dose{&it.Dose, it.Left, it.Right} { // each side where they are dosed apart
		if side != nil {
			j.within(i, it, v, d, side)
		}
	}
}

func (j *judge) within(i int, it *item, v *version, d *decision, of *dose) {
	hold, reps := j.hold(of), of.most()
	if d.Decision == "cap" && d.To == it.Version {
		most := d.Dose.most()
		if it.Side == "each" && v.SideMode == "alternate" {
			most = (most + 1) / 2
		}
		if reps > most || hold > j.hold(&d.Dose) {
			j.violation("dose", "item %d: %s: %d of %d s, capped at %d of %d s", i, it.Version, reps, hold, most,
				j.hold(&d.Dose))
		}
	}
	if limit := j.longest(it.Version); limit > 0 && hold > limit {
		j.violation("dose", "item %d: %s holds %d s, at most %d", i, it.Version, hold, limit)
	}
}

// cleanly is what was done of a version the last time that it counted, the least of its sides; false where that was not
// clean, or falling sets.
func (j *judge) cleanly(version string) (least amount, ok bool) {
	date := ""
	for _, s := range j.sessions {
		if s.Date < date || s.Doses != "" {
			continue
		}
		var own amount
		there, clean := false, s.Follow.Effect != "worse" && !(s.Sore.Kind == "old-pain" && s.Sore.Settled > 24) &&
			!(s.Follow.Kind == "old-pain" && s.Follow.Settled != nil && *s.Follow.Settled > 24)
		for _, it := range s.Items {
			if it.Version != version || !it.begun() || it.Trial || it.Short || it.EndedBy == "choice" {
				continue
			}
			clean = clean && it.clean()
			a := it.Done
			a.Sets = min(max(1, a.Sets), max(3, it.Target.Sets))
			if v := j.versions[version]; v.SideMode == "alternate" && (it.Side == "left" || it.Side == "right") {
				a.Reps *= 2
			}
			if there {
				a = amount{min(a.Sets, own.Sets), min(a.Reps, own.Reps), min(a.HoldS, own.HoldS), min(a.HoldBreaths, own.HoldBreaths)}
			}
			own, there = a, true
		}
		if there {
			date, least, ok = s.Date, own, clean
		}
	}
	return least, ok
}

// clean tells that all of a line was done with form, and that nothing came up.
func (l *logged) clean() bool {
	return l.Done.volume() >= l.Target.volume() && len(l.Sets) == 0 && (l.EndedBy == "target" || l.EndedBy == "") &&
		(l.Confirmed == nil || *l.Confirmed) && l.FormLost == nil && len(l.Felt)+len(l.Fault)+len(l.Seen) == 0 &&
		l.SymptomRep == nil && l.SymptomS == nil && l.SymptomSet == nil &&
		l.WarningRep == nil && l.WarningS == nil && l.WarningSet == nil
}

// neverLess: what goes up or stays is no less than what was done, measure by measure; a limit of a hold wins, and what
// was made so by hand is the instructor's.
func (j *judge) neverLess(i int, it *item, v *version) {
	done, ok := j.cleanly(it.Version)
	d := &it.Dose
	if !ok || j.plan.Rules < rulesOfWays || j.plan.Doses != "" || it.ByHand || it.Locked || it.Trial || it.Role == "reset" ||
		len(d.Pattern) > 0 || d.WindowS > 0 {
		return
	}
	if v.SideMode == "alternate" && it.Side == "each" {
		done.Reps /= 2
	}
	if limit := j.longest(it.Version); limit > 0 {
		done.HoldS = min(done.HoldS, limit)
		if done.HoldBreaths > 0 && j.hold(d) >= limit {
			done.HoldBreaths = 0
		}
	}
	held := d.HoldS + d.HoldCounts
	if done.HoldBreaths == 0 && d.HoldBreaths > 0 || done.HoldBreaths > 0 && held > 0 { // another unit
		return
	}
	if d.Sets < done.Sets || d.Reps < done.Reps || held < done.HoldS || d.HoldBreaths < done.HoldBreaths {
		j.violation("never-less", "item %d (%s): %d x %d of %d s, done was %d x %d of %d s", i, it.Version, d.Sets, d.Reps,
			held+d.HoldBreaths, done.Sets, done.Reps, done.HoldS+done.HoldBreaths)
	}
}

// most is the repetitions of the largest set.
func (d *dose) most() int { return slices.Max(append([]int{d.Reps}, d.Pattern...)) }

// longest is the longest hold that the screening allows, 0 without a cap.
func (j *judge) longest(version string) int {
	if r := j.results[version]; r != nil {
		return r.HoldMaxS
	}
	return 0
}

// has tells whether the client has one of some conditions.
func (j *judge) has(codes ...string) bool {
	return slices.ContainsFunc(j.client.Conditions, func(k condition) bool { return slices.Contains(codes, k.Code) })
}

// unbroken: no stretch of one kind longer than the client's conditions allow.
func (j *judge) unbroken(rule, where string, most *int, of func(*item) bool) {
	if most == nil {
		return
	}
	from := -1
	for i := range j.plan.Items {
		it := &j.plan.Items[i]
		if !of(it) {
			from = -1
			continue
		}
		if from < 0 {
			from = it.Start
		}
		if it.End-from > *most {
			j.violation(rule, "%d s %s without a break, at most %d", it.End-from, where, *most)
			return
		}
	}
}
