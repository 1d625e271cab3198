package plan

import (
	"fmt"
	"slices"
	"strings"

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
		if !slices.Contains(r.Ask.Banned, c.v.Slug) && !slices.Contains(r.Ask.Spared, c.v.Slug) &&
			r.Template.allows(c.v) &&
			r.onlyNeeded(c.v) && r.inTurn(c.v) {
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
		c, ok := r.today(v)
		key := branchKey(v)
		if !ok || !r.inPlace(&c) || !r.rung(v, byBranch[key], begins[key], skill) {
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

// today is a version as a candidate when it may be done today at all, whatever the rung.
func (r *Request) today(v *catalogue.Version) (c candidate, ok bool) {
	if v.CheckAgain != "" { // left out of new plans until its author has looked
		return c, false
	}
	if c, ok = r.permitted(v); !ok || v.Binds == "curve-works" && !r.lengthened() { // lengthening before strengthening
		return c, false
	}
	limit := r.effortCap()
	return c, (limit == 0 || v.Effort <= limit) && r.meant(v)
}

// rung tells whether a version is the rung of its branch that is done: the decided one, else where the
// branch begins; in a lesson about its family, or written in a routine, others as well.
func (r *Request) rung(v *catalogue.Version, d *progress.Decision, begins *catalogue.Version, skill string) bool {
	if d != nil && d.Decision == trade.Refer { // seen first
		return false
	}
	lesson := !r.above(v) && (r.Template.routine() && r.Template.writes(v.Slug) || r.taught(v, skill))
	switch {
	case lesson:
		return true
	case d != nil && d.ToVersion != v.Slug, d == nil && begins != v:
		return false
	}
	return skill == "" || PartOf(v) == Settle
}

// taught tells whether a rung belongs to a lesson about a family.
func (r *Request) taught(v *catalogue.Version, skill string) bool {
	return skill != "" && v.Family == skill && v.Effort <= r.startEffort()+askedAbove &&
		(r.Opened(v) || r.shownFirst(v))
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
		return c.v.InsteadOf == "floor" && PartOf(c.v) == Main && real[c.v.Family] && c.decision == nil &&
			!r.working(c.v)
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

// UnknownTasks are what the client named that is no task of the list and changes no plan.
func (r *Request) UnknownTasks() []catalogue.UnknownTask {
	return catalogue.UnknownTasks(r.Tasks, r.Client.Tasks)
}

// candidate is a version as it may be planned now, whatever the rung: for changes by hand.
func (r *Request) candidate(slug string) (candidate, error) {
	for _, c := range r.candidates() {
		if c.v.Slug == slug {
			return c, nil
		}
	}
	v, ok := r.Catalogue.Version(slug)
	switch {
	case slug == "":
		return candidate{}, denied("with", "choose an exercise first")
	case !ok:
		return candidate{}, denied("with", "%q is not a version this client may do now", slug)
	}
	if v.CheckAgain != "" {
		return candidate{}, denied("with", "the poses of %s must be checked again first: %s", v.Name, v.CheckAgain)
	}
	c, ok := r.permitted(v)
	if !ok {
		res, _ := r.Screening.Result(slug)
		return candidate{}, denied("with", "%s does not suit this client (%s)", v.Name,
			strings.ReplaceAll(string(res.Verdict), "-", " "))
	}
	if slices.Contains(r.Ask.Banned, slug) {
		return candidate{}, denied("with", "%s was taken out of this session; allow it again first", v.Name)
	}
	if r.above(v) {
		return candidate{}, denied("with", "%s is a rung above what the log allows", v.Name)
	}
	if limit := r.effortCap(); limit > 0 && v.Effort > limit {
		return candidate{}, denied("with", "%s is effort %d, the cap is %d", v.Name, v.Effort, limit)
	}
	for i := range r.Decisions { // what the log decided holds, whatever the kind of session chooses from
		d := &r.Decisions[i]
		switch w, ok := r.Catalogue.Version(d.ToVersion); {
		case d.Decision == trade.Refer && r.decides(d, v):
			return candidate{}, denied("with", "%s waits until somebody has looked: %s", v.Name, d.Because)
		case ok && w == v && c.decision == nil:
			c.decision = d
		}
	}
	c.times = r.times(slug)
	among := func(slugs []string) bool {
		return slices.ContainsFunc(slugs, func(s string) bool {
			w, ok := r.Catalogue.Version(s)
			return ok && branchKey(w) == branchKey(v)
		})
	}
	c.seen, c.continuous = among(r.Seen), among(r.Last)
	c.fit = r.fit(v)
	c.doses = r.options(&c)
	return c, nil
}
