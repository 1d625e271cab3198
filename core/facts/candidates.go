package facts

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
)

// Candidate is a version the client may do now, with the doses it may be done in.
type Candidate struct {
	V          *catalogue.Version
	Side       trade.Side
	Eases      []string
	EasedSide  trade.Side // where only that side is eased
	Surface    trade.Surface
	Decision   *progress.Decision
	Seen       bool // its branch was done before
	Times      int  // in how many sessions this very version was done: its set-up gets shorter
	Continuous bool // its branch was in the last session
	Fit        int  // points the version wins for the client's best matching task
	Doses      []Option
	Locked     trade.Role // the role the instructor locked it in, else empty
}

// Option is one length of a candidate's dose.
type Option struct {
	Length string // short, normal or long
	Step   int
	Dose   dose.Dose
}

// Gentle is the highest effort of work that may be longer than progress decided: breath
// and gentle mobility (product default).
const Gentle = 2

// longestItem is how long an item may become by lengthening it, seconds (product default).
const longestItem = 240

// Place is where an item of this candidate leaves the body.
func (c *Candidate) Place() plan.Place { return plan.Place{Position: c.V.Position, Surface: c.Surface} }

// Sides tells how an item of this candidate meets the two sides.
func (c *Candidate) Sides() dose.Sides { return dose.SidesOf(c.Side) }

// Candidates lists what may be planned: per branch the client's rung only. What a
// template does not allow and what is banned stays out.
func (r *Request) Candidates() []Candidate {
	if r.known().found == nil {
		r.memo.found = r.find()
	}
	var out []Candidate
	for _, c := range r.memo.found {
		if !slices.Contains(r.Ask.Banned, c.V.Slug) && !slices.Contains(r.Ask.Spared, c.V.Slug) &&
			r.Template.Allows(c.V) &&
			r.onlyNeeded(c.V) && r.inTurn(c.V) {
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
	if r.Template == nil || !r.Template.Only || kinds.PartOf(v) != kinds.Main {
		return true
	}
	return slices.ContainsFunc(r.Needs(), func(n kinds.Need) bool { return n.Takes(v) })
}

func (r *Request) find() []Candidate {
	byBranch := map[string]*progress.Decision{}
	for i := range r.Decisions {
		d := &r.Decisions[i]
		if v, ok := r.Catalogue.Version(d.Version); ok {
			byBranch[BranchKey(v)] = d
		}
	}
	seen, last := r.BranchesOf(r.Seen), r.BranchesOf(r.Last)
	out := []Candidate{}
	begins := r.begins(byBranch)
	skill := r.Skill()
	for _, v := range r.Catalogue.Versions {
		c, ok := r.today(v)
		key := BranchKey(v)
		if !ok || !r.inPlace(&c) || !r.rung(v, byBranch[key], begins[key], skill) {
			continue
		}
		c.Decision = byBranch[key]
		c.Seen, c.Continuous, c.Times = seen[key], last[key], r.Times(v.Slug)
		c.Fit = r.Fitness(v)
		c.Doses = r.options(&c)
		out = append(out, c)
	}
	if skill != "" {
		return out
	}
	return r.withinStart(r.realWork(out))
}

// today is a version as a candidate when it may be done today at all, whatever the rung.
func (r *Request) today(v *catalogue.Version) (c Candidate, ok bool) {
	if v.CheckAgain != "" { // left out of new plans until its author has looked
		return c, false
	}
	if c, ok = r.Permitted(v); !ok || v.Binds == "curve-works" && !r.lengthened() { // lengthening before strengthening
		return c, false
	}
	limit := r.EffortCap()
	return c, (limit == 0 || v.Effort <= limit) && r.meant(v)
}

// rung tells whether a version is the rung of its branch that is done: the decided one, else where the
// branch begins; in a lesson about its family, or written in a routine, others as well.
func (r *Request) rung(v *catalogue.Version, d *progress.Decision, begins *catalogue.Version, skill string) bool {
	if d != nil && d.Decision == trade.Refer { // seen first
		return false
	}
	lesson := !r.Above(v) && (r.Template.IsRoutine() && r.Template.Writes(v.Slug) || r.taught(v, skill))
	switch {
	case lesson:
		return true
	case d != nil && d.ToVersion != v.Slug, d == nil && begins != v:
		return false
	}
	return skill == "" || kinds.PartOf(v) == kinds.Settle
}

// taught tells whether a rung belongs to a lesson about a family.
func (r *Request) taught(v *catalogue.Version, skill string) bool {
	return skill != "" && v.Family == skill && v.Effort <= r.startEffort()+askedAbove &&
		(r.Opened(v) || r.shownFirst(v))
}

// realWork leaves out of the main part of a session on the mat what exists for people who cannot, where
// something of its family is done down there.
func (r *Request) realWork(cs []Candidate) []Candidate {
	if r.Place() != kinds.PlaceMat {
		return cs
	}
	real := map[string]bool{}
	for i := range cs {
		real[cs[i].V.Family] = real[cs[i].V.Family] || cs[i].V.InsteadOf == ""
	}
	return slices.DeleteFunc(cs, func(c Candidate) bool {
		return c.V.InsteadOf == "floor" && kinds.PartOf(c.V) == kinds.Main && real[c.V.Family] && c.Decision == nil &&
			!r.working(c.V)
	})
}

// BranchesOf are the branches of some versions.
func (r *Request) BranchesOf(slugs []string) map[string]bool {
	out := map[string]bool{}
	for _, slug := range slugs {
		if v, ok := r.Catalogue.Version(slug); ok {
			out[BranchKey(v)] = true
		}
	}
	return out
}

// begins are the versions with which a branch is begun that has no decision of the log: what was
// seen elsewhere, else where a client starts.
func (r *Request) begins(decided map[string]*progress.Decision) map[string]*catalogue.Version {
	rungs := map[string][]*catalogue.Version{}
	for _, v := range r.Catalogue.Versions {
		key := BranchKey(v)
		c, ok := r.Permitted(v)
		if limit := r.EffortCap(); v.CheckAgain != "" || !ok || !r.meant(v) || !r.inPlace(&c) ||
			limit > 0 && v.Effort > limit ||
			decided[key] != nil {
			continue
		}
		rungs[key] = append(rungs[key], v)
	}
	out := map[string]*catalogue.Version{}
	for key, list := range rungs {
		level, ok := r.Catalogue.Version(r.Client.Levels[list[0].Family])
		if ok && BranchKey(level) == key {
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
			if slices.Contains(rungs[BranchKey(v)], v) && catalogue.Has(v.Aims, a) && v.Effort <= r.startEffort() &&
				(easiest == nil || v.Effort < easiest.Effort) {
				easiest = v
			}
		}
		if easiest != nil {
			out[BranchKey(easiest)] = easiest
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
	case r.FixedPart(v.Slug):
		return true
	case !r.forThis(v.Family) || !r.forThis(v.Slug):
		return false
	case r.Acute() && kinds.PartOf(v) == kinds.Main &&
		(v.Effort > acuteWork || !kinds.AnyAim(v.MainAims, []string{"deep-core", "balance", "hip-strength"})):
		return false
	// moved beside it, not there
	case r.has("spinal-fusion") && v.MainAims[0] == "spinal-mobility" && r.aims()["spinal-mobility"] == 0:
		return false
	case kinds.PartOf(v) != kinds.Main && r.reaches(v, catalogue.Doing{Side: v.SideMode})&r.Disliked() != 0:
		return false
	case r.working(v) || r.Times(v.Slug) > 0:
		return true
	}
	first, ok := r.Catalogue.Version(r.Catalogue.Preferences.Instead[v.Slug])
	if !ok {
		return true
	}
	c, ok := r.Permitted(first)
	return !ok || !r.inPlace(&c)
}

// Permitted tells whether the verdict lets a version be planned, where and on which side.
func (r *Request) Permitted(v *catalogue.Version) (c Candidate, ok bool) {
	res, known := r.Screening.Result(v.Slug)
	if !known {
		return c, false
	}
	c = Candidate{V: v, Surface: res.Surface, Side: v.SideMode}
	switch {
	case res.Verdict == trade.Suits:
	case res.Verdict == trade.Adapt && res.Use == v.Slug && len(res.Eases) > 0:
	case res.Overridden:
	default:
		return c, false
	}
	if v.SideMode == trade.Alternate && r.sameSide(v) {
		c.Side = trade.Each
	}
	left, right := res.Sides[trade.Left], res.Sides[trade.Right]
	if v.SideMode == trade.Each && left != right && (left == trade.LeaveOut || right == trade.LeaveOut) {
		c.Side = trade.Left
		if left == trade.LeaveOut {
			c.Side = trade.Right
		}
	}
	ease, on, ok := res.As(c.Side)
	if !ok { // no one ease serves the sides
		return c, res.Overridden
	}
	if ease != "" {
		c.Eases, c.EasedSide = []string{ease}, on
	}
	return c, true
}

// Doing is how an item of this candidate is done.
func (c *Candidate) Doing() catalogue.Doing {
	d := catalogue.Doing{Surface: c.Surface, Side: c.Side, EasedSide: c.EasedSide}
	if len(c.Eases) > 0 {
		d.Ease = c.Eases[0]
	}
	return d
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

// Dress notes what an item needs beside its version to suit this client as it stands: an
// ease and its props, or an override, and what to mind.
func (r *Request) Dress(it *plan.Item) {
	v, known := r.Catalogue.Version(it.Version)
	res, screened := r.Screening.Result(it.Version)
	if !known || !screened {
		return
	}
	it.EaseSays = nil
	it.Eases, it.EasedSide, it.Eased, it.Kit, it.Watch, it.Override = nil, "", nil, r.kit(v, it.Surface), res.Watch, nil
	if res.Overridden {
		it.Override = res.Override
	}
	ease, on, ok := res.As(it.Side)
	if !ok || ease == "" {
		return
	}
	it.Eases, it.EasedSide = []string{ease}, on
	it.Eased, it.EaseSays = r.Screener.Measures(v, it.Doing()), v.EaseSide(it.Doing())
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
	return v.Dose(r.DoseSchool(), 0).HoldSeconds(r.Client.BreathRate) >= sameSideHold
}

// BranchKey is the branch of a ladder a version stands on: one of a branch at a time.
func BranchKey(v *catalogue.Version) string {
	if v.Set {
		return v.Slug
	}
	return fmt.Sprintf("%s %d", v.Family, v.Branch)
}

// Decides tells whether a decision is about the branch of a version.
func (r *Request) Decides(d *progress.Decision, v *catalogue.Version) bool {
	w, ok := r.Catalogue.Version(d.Version)
	return ok && BranchKey(w) == BranchKey(v)
}

// lengthened tells whether the client has done curve work that opens the short side.
func (r *Request) lengthened() bool {
	return slices.ContainsFunc(r.Seen, func(slug string) bool {
		v, ok := r.Catalogue.Version(slug)
		return ok && v.Binds == "curve-opens"
	})
}

// Fitness is how many points of the argument a version wins for the client's best task.
func (r *Request) Fitness(v *catalogue.Version) int {
	best := 0
	for i := range r.TasksOfAims() {
		best = max(best, catalogue.Matches(v.Argue(&r.TasksOfAims()[i])))
	}
	return best
}

// TasksOfAims are the client's real tasks as far as the product knows them.
func (r *Request) TasksOfAims() []catalogue.Task {
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

// Candidate is a version as it may be planned now, whatever the rung: for changes by hand.
func (r *Request) Candidate(slug string) (Candidate, error) {
	for _, c := range r.Candidates() {
		if c.V.Slug == slug {
			return c, nil
		}
	}
	v, ok := r.Catalogue.Version(slug)
	switch {
	case slug == "":
		return Candidate{}, plan.Deny("with", "choose an exercise first")
	case !ok:
		return Candidate{}, plan.Deny("with", "%q is not a version this client may do now", slug)
	}
	if v.CheckAgain != "" {
		return Candidate{}, plan.Deny("with", "the poses of %s must be checked again first: %s", v.Name, v.CheckAgain)
	}
	c, ok := r.Permitted(v)
	if !ok {
		res, _ := r.Screening.Result(slug)
		return Candidate{}, plan.Deny("with", "%s does not suit this client (%s)", v.Name,
			strings.ReplaceAll(string(res.Verdict), "-", " "))
	}
	if slices.Contains(r.Ask.Banned, slug) {
		return Candidate{}, plan.Deny("with", "%s was taken out of this session; allow it again first", v.Name)
	}
	if r.Above(v) {
		return Candidate{}, plan.Deny("with", "%s is a rung above what the log allows", v.Name)
	}
	if limit := r.EffortCap(); limit > 0 && v.Effort > limit {
		return Candidate{}, plan.Deny("with", "%s is effort %d, the cap is %d", v.Name, v.Effort, limit)
	}
	for i := range r.Decisions { // what the log decided holds, whatever the kind of session chooses from
		d := &r.Decisions[i]
		switch w, ok := r.Catalogue.Version(d.ToVersion); {
		case d.Decision == trade.Refer && r.Decides(d, v):
			return Candidate{}, plan.Deny("with", "%s waits until somebody has looked: %s", v.Name, d.Because)
		case ok && w == v && c.Decision == nil:
			c.Decision = d
		}
	}
	c.Times = r.Times(slug)
	among := func(slugs []string) bool {
		return slices.ContainsFunc(slugs, func(s string) bool {
			w, ok := r.Catalogue.Version(s)
			return ok && BranchKey(w) == BranchKey(v)
		})
	}
	c.Seen, c.Continuous = among(r.Seen), among(r.Last)
	c.Fit = r.Fitness(v)
	c.Doses = r.options(&c)
	return c, nil
}
