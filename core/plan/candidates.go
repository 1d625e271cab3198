package plan

import (
	"fmt"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/trade"
)

// candidate is a version the client may do now, with the doses it may be done in.
type candidate struct {
	v          *catalogue.Version
	side       trade.Side
	eases      []string
	surface    trade.Surface
	decision   *progress.Decision
	seen       bool // its branch was done before
	times      int  // in how many sessions this very version was done: its set-up gets shorter
	continuous bool // its branch was in the last session
	fit        int  // points the version wins for the client's best matching task
	doses      []option
	locked     trade.Role // the role the instructor locked it in, else empty
}

// option is one length of a candidate's dose.
type option struct {
	length string // short, normal or long
	step   int
	dose   dose.Dose
}

// The lengths of a dose. Normal is what progress decided; short is a step below or fewer
// sets; long is more of the same.
const (
	Short  = "short"
	Normal = "normal"
	Long   = "long"
)

// gentle is the highest effort of work that may be longer than progress decided: breath
// and gentle mobility (product default).
const gentle = 2

// longestItem is how long an item may become by lengthening it, seconds (product default).
const longestItem = 240

func (c *candidate) place() place { return place{c.v.Position, c.surface} }

// sides tells how an item of this candidate meets the two sides.
func (c *candidate) sides() dose.Sides { return dose.SidesOf(c.side) }

// candidates lists what may be planned: per branch the client's rung only. What a
// template does not allow and what is banned stays out.
func (r *Request) candidates() []candidate {
	if r.known().found == nil {
		r.memo.found = r.find()
	}
	var out []candidate
	for _, c := range r.memo.found {
		if !slices.Contains(r.ask.banned, c.v.Slug) && !slices.Contains(r.ask.spared, c.v.Slug) &&
			r.Template.allows(c.v) &&
			r.onlyNeeded(c.v) {
			out = append(out, c)
		}
	}
	return r.fewOf(out)
}

// onlyNeeded tells whether a version may be in a kind whose main part holds only what it needs.
func (r *Request) onlyNeeded(v *catalogue.Version) bool {
	if r.Template != nil && len(r.Template.Families) > 0 && !slices.Contains(r.Template.Families, v.Family) {
		return false
	}
	if r.Template == nil || !r.Template.Only || PartOf(v) != Main {
		return true
	}
	return slices.ContainsFunc(r.needs(), func(n Need) bool { return n.takes(v) })
}

func (r *Request) find() []candidate {
	byBranch := map[string]*progress.Decision{}
	for i := range r.Decisions {
		d := &r.Decisions[i]
		if v, ok := r.Catalogue.Version(d.Version); ok {
			byBranch[branchKey(v)] = d
		}
	}
	seen, last := r.branchesOf(r.Seen), r.branchesOf(r.Last)
	out := []candidate{}
	begins := r.begins(byBranch)
	skill := r.skill()
	for _, v := range r.Catalogue.Versions {
		if v.CheckAgain != "" { // left out of new plans until its author has looked
			continue
		}
		c, ok := r.permitted(v)
		if !ok || v.Binds == "curve-works" && !r.lengthened() { // lengthening before strengthening
			continue
		}
		if limit := r.effortCap(); limit > 0 && v.Effort > limit || !r.meant(v) {
			continue
		}
		key := branchKey(v)
		if d := byBranch[key]; d != nil && d.Decision == trade.Refer { // seen first
			continue
		}
		lesson := !r.above(v) && (r.Template.routine() && r.Template.writes(v.Slug) ||
			skill != "" && v.Family == skill && v.Effort <= r.startEffort()+askedAbove && (r.Opened(v) || r.shownFirst(v)))
		if d := byBranch[key]; !lesson && (d != nil && d.ToVersion != v.Slug || d == nil && begins[key] != v) ||
			!r.inPlace(&c) {
			continue
		}
		if skill != "" && !lesson && PartOf(v) != Settle {
			continue
		}
		c.decision = byBranch[key]
		c.seen, c.continuous, c.times = seen[key], last[key], r.times(v.Slug)
		c.fit = r.fit(v)
		c.doses = r.options(&c)
		out = append(out, c)
	}
	if skill != "" {
		return out
	}
	return r.withinStart(r.realWork(out))
}

// realWork leaves out of the main part of a session on the mat what exists for people who cannot, where
// something of its family is done down there.
func (r *Request) realWork(cs []candidate) []candidate {
	if r.Place() != placeMat {
		return cs
	}
	real := map[string]bool{}
	for i := range cs {
		real[cs[i].v.Family] = real[cs[i].v.Family] || cs[i].v.InsteadOf == ""
	}
	return slices.DeleteFunc(cs, func(c candidate) bool {
		return c.v.InsteadOf == "floor" && PartOf(c.v) == Main && real[c.v.Family] && c.decision == nil && !r.working(c.v)
	})
}

// branchesOf are the branches of some versions.
func (r *Request) branchesOf(slugs []string) map[string]bool {
	out := map[string]bool{}
	for _, slug := range slugs {
		if v, ok := r.Catalogue.Version(slug); ok {
			out[branchKey(v)] = true
		}
	}
	return out
}

// begins are the versions with which a branch is begun that has no decision of the log: what was
// seen elsewhere, else where a client starts.
func (r *Request) begins(decided map[string]*progress.Decision) map[string]*catalogue.Version {
	rungs := map[string][]*catalogue.Version{}
	for _, v := range r.Catalogue.Versions {
		key := branchKey(v)
		c, ok := r.permitted(v)
		if limit := r.effortCap(); v.CheckAgain != "" || !ok || !r.meant(v) || !r.inPlace(&c) ||
			limit > 0 && v.Effort > limit ||
			decided[key] != nil {
			continue
		}
		rungs[key] = append(rungs[key], v)
	}
	out := map[string]*catalogue.Version{}
	for key, list := range rungs {
		level, ok := r.Catalogue.Version(r.Client.Levels[list[0].Family])
		if ok && branchKey(level) == key {
			for _, v := range list { // the level itself, else the highest below it that may be done
				if v.Rung <= level.Rung && (out[key] == nil || v.Rung > out[key].Rung) {
					out[key] = v
				}
			}
			continue
		}
		if v := r.startRung(list); v != nil {
			out[key] = v
		}
	}
	r.unclose(rungs, out)
	return out
}

// unclose lets an aim that no beginning serves be served: by the easiest rung within the start effort
// that does.
func (r *Request) unclose(rungs map[string][]*catalogue.Version, out map[string]*catalogue.Version) {
	wanted := r.aims()
	for _, a := range catalogue.Aims {
		served := wanted[a] == 0
		for _, v := range out {
			served = served || catalogue.Has(v.Aims, a)
		}
		if served {
			continue
		}
		var easiest *catalogue.Version
		for _, v := range r.Catalogue.Versions {
			if slices.Contains(rungs[branchKey(v)], v) && catalogue.Has(v.Aims, a) && v.Effort <= r.startEffort() &&
				(easiest == nil || v.Effort < easiest.Effort) {
				easiest = v
			}
		}
		if easiest != nil {
			out[branchKey(easiest)] = easiest
		}
	}
}

// acuteWork is the hardest work in acute back pain that is chosen freely (product default).
const acuteWork = 3

// forThis tells whether what a family or a version is kept for is recorded (preferences.yaml).
func (r *Request) forThis(name string) bool {
	only := r.Catalogue.Preferences.OnlyFor[name]
	return len(only) == 0 || r.has(only...)
}

// meant tells whether a version is made for this client and this day.
func (r *Request) meant(v *catalogue.Version) bool {
	switch {
	case r.fixedPart(v.Slug):
		return true
	case !r.forThis(v.Family) || !r.forThis(v.Slug):
		return false
	case r.acute() && PartOf(v) == Main && (v.Effort > acuteWork || !anyAim(v.MainAims, []string{"deep-core", "balance", "hip-strength"})):
		return false
	case r.has("spinal-fusion") && v.MainAims[0] == "spinal-mobility" && r.aims()["spinal-mobility"] == 0: // moved beside it, not there
		return false
	case PartOf(v) != Main && r.reaches(v, v.SideMode)&r.disliked() != 0:
		return false
	case r.working(v) || r.times(v.Slug) > 0:
		return true
	}
	first, ok := r.Catalogue.Version(r.Catalogue.Preferences.Instead[v.Slug])
	if !ok {
		return true
	}
	c, ok := r.permitted(first)
	return !ok || !r.inPlace(&c)
}

// permitted tells whether the verdict lets a version be planned, where and on which side.
func (r *Request) permitted(v *catalogue.Version) (c candidate, ok bool) {
	res, known := r.Screening.Result(v.Slug)
	if !known {
		return c, false
	}
	c = candidate{v: v, surface: res.Surface, side: v.SideMode}
	switch {
	case res.Verdict == trade.Suits:
	case res.Verdict == trade.Adapt && res.Use == v.Slug && len(res.Eases) > 0:
	case res.Overridden:
	default:
		return c, false
	}
	if v.SideMode == trade.Alternate && r.sameSide(v) {
		c.side = trade.Each
	}
	if v.SideMode == trade.Each && res.Sides[trade.Left] != res.Sides[trade.Right] {
		c.side = trade.Left
		if res.Sides[trade.Right] == trade.Suits || res.Sides[trade.Left] == trade.LeaveOut {
			c.side = trade.Right
		}
	}
	if res.Verdict == trade.Adapt {
		ease := res.EaseFor(c.side)
		if ease == "" { // no one ease serves both sides
			return c, false
		}
		c.eases = []string{ease}
	}
	return c, true
}

// kit is what an item needs on its surface and what helps and is at hand.
func (r *Request) kit(v *catalogue.Version, surface trade.Surface) []string {
	out := slices.Clone(v.KitAt(surface))
	for _, k := range v.Helpful {
		if r.Screener.Owns(k) && k != string(surface) {
			out = append(out, k)
		}
	}
	return out
}

// dress notes what an item needs beside its version to suit this client as it stands: an
// ease and its props, or an override, and what to mind.
func (r *Request) dress(it *Item) {
	v, known := r.Catalogue.Version(it.Version)
	res, screened := r.Screening.Result(it.Version)
	if !known || !screened {
		return
	}
	it.Eases, it.Kit, it.Watch, it.Override = nil, r.kit(v, it.Surface), res.Watch, nil
	if res.Overridden {
		it.Override = res.Override
	}
	ease := res.EaseFor(it.Side)
	if ease == "" || !res.NeedsEase(it.Side) || res.Use != it.Version {
		return
	}
	it.Eases = []string{ease}
	if e := v.Ease(ease); e != nil {
		for _, one := range [][]string{e.Kit, e.Also} {
			if i := slices.IndexFunc(one, r.Screener.Owns); i >= 0 && !slices.Contains(it.Kit, one[i]) {
				it.Kit = append(it.Kit, one[i])
			}
		}
	}
}

// sameSideHold is the hold from which alternating work is done on one side first unless
// the client's school says otherwise, seconds (common practice).
const sameSideHold = 10

func (r *Request) sameSide(v *catalogue.Version) bool {
	if school := r.Client.Schools.Sides; school != "" {
		return school == "same-side"
	}
	return v.Dose(r.doseSchool(), 0).HoldSeconds(r.Client.BreathRate) >= sameSideHold
}

func branchKey(v *catalogue.Version) string {
	if v.Set {
		return v.Slug
	}
	return fmt.Sprintf("%s %d", v.Family, v.Branch)
}

// decides tells whether a decision is about the branch of a version.
func (r *Request) decides(d *progress.Decision, v *catalogue.Version) bool {
	w, ok := r.Catalogue.Version(d.Version)
	return ok && branchKey(w) == branchKey(v)
}

// lengthened tells whether the client has done curve work that opens the short side.
func (r *Request) lengthened() bool {
	return slices.ContainsFunc(r.Seen, func(slug string) bool {
		v, ok := r.Catalogue.Version(slug)
		return ok && v.Binds == "curve-opens"
	})
}

// fit is how many points of the argument a version wins for the client's best task.
func (r *Request) fit(v *catalogue.Version) int {
	best := 0
	for i := range r.tasks() {
		best = max(best, catalogue.Matches(v.Argue(&r.tasks()[i])))
	}
	return best
}

// tasks are the client's real tasks as far as the product knows them.
func (r *Request) tasks() []catalogue.Task {
	if r.known().wanted == nil {
		r.memo.wanted = []catalogue.Task{}
		for _, t := range r.Tasks {
			if slices.Contains(r.Client.Tasks, t.Name) {
				r.memo.wanted = append(r.memo.wanted, t)
			}
		}
	}
	return r.memo.wanted
}

// options are the doses a candidate may be done in, shortest first. Normal is what
// progress decided, else the lowest step (for gentle work the second). Long is the top of
// the ladder for gentle work and one more set for the rest: never a longer hold, and never
// for what is capped, stepped back, lagging or hard and new.
func (r *Request) options(c *candidate) []option {
	school := r.doseSchool()
	steps, _ := c.v.Steps(school)
	top := len(steps) - 1
	soft := c.v.Effort <= gentle
	var out []option
	add := func(length string, step int, d dose.Dose) {
		if c.side == trade.Each && c.v.SideMode == trade.Alternate {
			d = d.PerSide()
		}
		d, _ = r.fitDose(c, d)
		if length == Long && d.Seconds(r.Client.BreathRate, c.sides()) > longestItem {
			return
		}
		for _, o := range out {
			if o.dose.Seconds(r.Client.BreathRate, c.sides()) == d.Seconds(r.Client.BreathRate, c.sides()) {
				return
			}
		}
		out = append(out, option{length, step, d})
	}
	ladder := func(step int) dose.Dose { return c.v.Dose(school, step) }
	normal, base := 0, dose.Dose{}
	switch {
	case c.decision != nil:
		normal, base = c.decision.Step, c.decision.Dose
	case soft:
		normal = min(1, top)
		base = ladder(normal)
	default:
		base = ladder(0)
	}
	if r.Template != nil && r.Template.Desk {
		add(Normal, 0, deskDose(ladder(0)))
		return out
	}
	if day, shorter, ok := r.dayOf(c, ladder); ok {
		add(Short, 0, shorter)
		add(Normal, len(day.Pattern)/2, day)
		return out
	}
	add(Normal, normal, base)
	if normal > 0 && c.decision == nil || c.decision != nil && c.decision.Decision != trade.Cap && normal > 0 {
		add(Short, normal-1, ladder(normal-1))
	} else if d, shorter := base.FewerSets(); shorter {
		add(Short, normal, d)
	}
	mayLengthen := c.decision == nil || c.decision.Decision == trade.Up ||
		c.decision.Decision == trade.Stay && c.decision.Extra == ""
	switch {
	case !mayLengthen:
	case soft && normal < top:
		add(Long, top, ladder(top))
	case soft || c.decision != nil || c.v.Effort <= r.startEffort():
		if d, longer := base.MoreSets(); longer {
			add(Long, normal, d)
		}
	}
	slices.SortStableFunc(out, func(a, b option) int {
		return a.dose.Seconds(r.Client.BreathRate, c.sides()) - b.dose.Seconds(r.Client.BreathRate, c.sides())
	})
	return out
}

// At the desk each movement is done twice, set up and changed in no time (shared ruling 49).
const (
	deskReps   = 2
	deskSetup  = 3
	deskChange = 3
)

// deskDose is twice what a dose does once, or one breath of it.
func deskDose(d dose.Dose) dose.Dose {
	out := dose.Dose{Sets: 1, Reps: deskReps, MoveS: d.MoveS, Turn: d.Turn}
	if d.HoldBreaths > 0 {
		out.Reps, out.HoldBreaths, out.Turn = 1, 1, ""
	}
	return out
}

// The days of short holds: sets of ten-second holds that fall (domain/07: 60, 120 and 200 s of
// holding), and to how many minutes each is the day's.
var days = []dayOfHolds{{15, []int{6}}, {25, []int{6, 4, 2}}, {MaxMinutes, []int{8, 6, 4, 2}}}

type dayOfHolds struct {
	minutes int // to
	pattern []int
}

// dayHold and dayRest are the seconds of a hold and between sets of a day of short holds (domain/07).
const (
	dayHold = 10
	dayRest = 15
)

// dayOf is the dose of the day for what the kind needs, and the next smaller one for when the minutes
// do not hold it.
func (r *Request) dayOf(c *candidate, ladder func(int) dose.Dose) (day, shorter dose.Dose, ok bool) {
	if r.Template == nil || !r.Template.Day ||
		c.decision != nil && c.decision.Decision != trade.Up && c.decision.Decision != trade.Stay ||
		!slices.ContainsFunc(r.needs(), func(n Need) bool { return n.takes(c.v) }) {
		return day, shorter, false
	}
	of := func(pattern []int) dose.Dose {
		d := dose.Dose{Sets: 1, Reps: pattern[0], HoldS: dayHold, MoveS: ladder(0).MoveS}
		if len(pattern) > 1 {
			d.Sets, d.Pattern, d.RestS = len(pattern), pattern, dayRest
		}
		if c.v.SideMode == trade.Each || c.side == trade.Each {
			d.By = "set"
		}
		return d
	}
	k := slices.IndexFunc(days, func(d dayOfHolds) bool { return r.Minutes <= d.minutes })
	return of(days[k].pattern), of(days[max(0, k-1)].pattern), true
}

// fitSides fills in set-up, side change and extra; doing it again changes nothing.
func (r *Request) fitSides(c *candidate, d dose.Dose) dose.Dose {
	d.SetupS = catalogue.Explain(c.times)
	if r.Template != nil && r.Template.Desk {
		d.SetupS = deskSetup
	}
	d.ChangeS, d.Extra = 0, nil
	if c.side == trade.Each {
		d.ChangeS = catalogue.SideChange
		if r.Template != nil && r.Template.Desk {
			d.ChangeS = deskChange
			return d
		}
		if side := r.extraSide(c); side != "" {
			d.Extra = &dose.Extra{Side: side, Share: extraShare}
		}
	}
	return d
}

// fitDose makes a dose of the ladder this client's: sides, rests and weak hours, within
// what a symptom capped and the client's limits allow; why says what the limits changed.
// It adds, so what it returns must not go through it again.
func (r *Request) fitDose(c *candidate, d dose.Dose) (fitted dose.Dose, why []string) {
	d = r.capped(c, r.fitSides(c, d))
	if r.Client.RestS != nil && d.RestS > 0 {
		d.RestS = *r.Client.RestS
	}
	if mayAdd(c.decision) {
		d.Hours = passesOver(c.v, r.Client.Today.ClockWeak)
	}
	return r.Screener.CapDose(c.v, d, r.Client.BreathRate)
}

// capped keeps a dose at the last clean value when a symptom capped the work.
func (r *Request) capped(c *candidate, d dose.Dose) dose.Dose {
	if c.decision == nil || c.decision.Decision != trade.Cap || c.decision.ToVersion != c.v.Slug {
		return d
	}
	limit := c.decision.Dose
	if c.side == trade.Each && c.v.SideMode == trade.Alternate {
		limit = limit.PerSide()
	}
	hold := limit.HoldSeconds(r.Client.BreathRate)
	if hold == 0 && d.HoldSeconds(r.Client.BreathRate) > 0 { // another school's holds: only the moving was clean
		return r.fitSides(c, limit)
	}
	d = d.CapReps(slices.Max(append([]int{limit.Reps}, limit.Pattern...)))
	d, _ = d.CapHold(hold, r.Client.BreathRate)
	return d
}

// limited keeps a dose that was fitted before within the caps of the log and of the
// client's conditions, and takes it back when the log says so.
func (r *Request) limited(c *candidate, d dose.Dose) dose.Dose {
	if normal := c.doses[c.normal()].dose; c.decision != nil && c.decision.Decision == trade.Down &&
		d.Volume(r.Client.BreathRate) > normal.Volume(r.Client.BreathRate) {
		return normal
	}
	d = r.capped(c, d)
	if limit, _ := r.Screener.HoldCap(c.v); limit > 0 {
		d, _ = d.CapHold(limit, r.Client.BreathRate)
	}
	return d
}

// Prescribed is one step of a version's dose ladder as this client gets it.
type Prescribed struct {
	Dose dose.Dose
	Why  []string // what the client's limits changed
}

// Ladder is a version's whole dose ladder for a school as this client gets it: rests,
// sides, extra on one side, weak hours and limits included, with a log the longer set-up of
// what is new and the cap of a symptom too. Side is how it meets the sides.
func (r *Request) Ladder(v *catalogue.Version, school string) (steps []Prescribed, side trade.Side) {
	c := candidate{v: v, side: v.SideMode, times: catalogue.Familiar}
	if r.Log != nil {
		c.times = r.times(v.Slug)
	}
	for i := range r.Decisions {
		if r.Decisions[i].ToVersion == v.Slug {
			c.decision = &r.Decisions[i]
		}
	}
	if v.SideMode == trade.Alternate && r.sameSide(v) {
		c.side = trade.Each
	}
	ladder, _ := v.Steps(school)
	for i := range ladder {
		d := v.Dose(school, i)
		if c.side == trade.Each && v.SideMode == trade.Alternate {
			d = d.PerSide()
		}
		fitted, why := r.fitDose(&c, d)
		if capped := r.capped(&c, d); capped.Volume(r.Client.BreathRate) < d.Volume(r.Client.BreathRate) {
			why = append(why, c.decision.Because)
		}
		steps = append(steps, Prescribed{fitted, why})
	}
	return steps, c.side
}

// extraShare is the extra work of the tighter or weaker side (product default, domain/04).
const extraShare = 0.5

// mayAdd: nothing is added to work that is capped or stepped back.
func mayAdd(d *progress.Decision) bool {
	return d == nil || d.Decision == trade.Up || d.Decision == trade.Stay
}

// extraSide is the side that gets more: the lagging one from the log, else for turning
// work the side that turns towards the tighter side.
func (r *Request) extraSide(c *candidate) trade.Side {
	if c.decision != nil && c.decision.Extra != "" {
		return c.decision.Extra
	}
	tight := r.Client.Today.TightTurn
	if tight == "" || !mayAdd(c.decision) {
		return ""
	}
	turn := map[trade.Side]int{trade.Left: 4, trade.Right: 5}[tight]
	for _, side := range trade.BothSides {
		peaks := c.v.TrunkPeaks(side)
		if peaks[turn] >= turningFrom && peaks[turn] > peaks[9-turn]+catalogue.PostureNoise {
			return side
		}
	}
	return ""
}

// turningFrom is how far the trunk turns, degrees, before an exercise counts as turning
// work.
const turningFrom = 10

// passesOver are the weak hours that a pass of a clock exercise leads over.
func passesOver(v *catalogue.Version, weak []int) (hours []int) {
	for _, h := range weak {
		if slices.Contains(v.Hours, h) && !slices.Contains(hours, h) {
			hours = append(hours, h)
		}
	}
	return hours
}
