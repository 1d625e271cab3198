// Package appraise works out a plan from its items: times, set-ups, side blocks, what it serves, what it
// is worth, which rules it breaks and why it falls short.
package appraise

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/dose"
	"restbend/core/facts"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/trade"
)

// checker collects the rules of a session and whether the plan keeps each.
type checker struct {
	r   *facts.Request
	p   *plan.Plan
	out []plan.Check
}

// check reports every rule of a session and whether the plan keeps it.
func check(r *facts.Request, p *plan.Plan) []plan.Check {
	c := &checker{r: r, p: p}
	n := len(p.Items)
	if n == 0 {
		c.add("opener-closer", nil, "the session is empty")
		c.out[0].OK = false
		return c.out
	}
	c.ends()
	c.blocks()
	c.order()
	c.steps()
	c.hardest()
	c.cap()
	c.families()
	c.composition()
	c.gates()
	rises, limit := rises(p), r.Transfers()
	times := map[int]string{0: "no rise", 1: "1 rise"}[rises]
	if times == "" {
		times = fmt.Sprintf("%d rises", rises)
	}
	c.say("floor-transfers", rises <= limit, nil, "%s from the floor, at most %d", times, limit)
	c.directions()
	c.fresh()
	c.neverLess()
	c.needs()
	c.safety()
	if c.r.Screener.Limits() != nil {
		c.add("clinician-limits", c.where(func(_ int, it *plan.Item) bool { return c.r.Screener.Unconfirmed(it.Version) }),
			"every item is held against the clinician's limits")
	}
	c.caps()
	share := float64(p.Seconds) / float64(60*p.Minutes)
	c.say(
		"time",
		share <= 1 && (p.Seconds >= c.r.LeastSeconds() || len(p.Dry) > 0),
		nil,
		"%d:%02d of %d minutes",
		p.Seconds/60,
		p.Seconds%60,
		p.Minutes,
	)
	return c.out
}

func (c *checker) say(rule string, ok bool, at []int, format string, a ...any) {
	weight := c.weigh(rule, at)
	if ok {
		at = nil
	}
	c.out = append(c.out, plan.Check{Rule: rule, OK: ok, Detail: fmt.Sprintf(format, a...), Items: at, Weight: weight})
}

// add reports a rule that is kept unless it is broken at some items.
func (c *checker) add(rule string, at []int, say string) {
	for k, i := range at {
		say += map[bool]string{true: ": ", false: ", "}[k == 0] + c.name(i)
	}
	c.say(rule, len(at) == 0, at, "%s", say)
}

// name is what an instructor calls an item.
func (c *checker) name(i int) string {
	return c.r.NameOf(c.p.Items[i].Version)
}

// where lists the items for which broken holds.
func (c *checker) where(broken func(i int, it *plan.Item) bool) (at []int) {
	for i := range c.p.Items {
		if broken(i, &c.p.Items[i]) {
			at = append(at, i)
		}
	}
	return at
}

func (c *checker) ends() {
	n := len(c.p.Items)
	var at []int
	opens, closes := c.r.Bare()
	if c.p.Items[0].Role != trade.Open && !opens {
		at = append(at, 0)
	}
	if c.p.Items[n-1].Role != trade.Close && !closes {
		at = append(at, n-1)
	}
	c.add("opener-closer", at, "begins with breath or set-up, ends with relaxation or posture")
}

// blocks: between the opener and the closer each position comes once, and effort does not fall inside one.
func (c *checker) blocks() {
	seen := map[trade.Position]bool{}
	before := -1 // the item of the body before, resets left out
	var back, falls []int
	for i := range c.p.Items {
		it := &c.p.Items[i]
		if it.Role != trade.Main {
			continue
		}
		if before >= 0 {
			was := &c.p.Items[before]
			moved := it.Position != was.Position || it.Place().Ground() != was.Place().Ground()
			if moved && seen[it.Position] {
				back = append(back, i)
			}
			if !moved && it.Effort < was.Effort {
				falls = append(falls, i)
			}
		}
		seen[it.Position] = true
		before = i
	}
	c.add("positions-once", back, "between opening and closing every position is visited once")
	c.add("effort-rises", falls, "effort does not fall inside a position")
}

// order: the postures come in the order of the client's school, a true statement about the whole list:
// free of it are only what opens and what closes.
func (c *checker) order() {
	from, at := -1, []int(nil)
	for i := range c.p.Items {
		it := &c.p.Items[i]
		if it.Role != trade.Main {
			continue
		}
		rank := Rank(c.r, it.Position)
		if rank < from {
			at = append(at, i)
		}
		from = max(from, rank)
	}
	say := "lying first: back, side, front, all fours, kneeling, sitting, standing, each once"
	if Route(c.r)[0] == trade.Standing {
		say = "standing first, then down once, ending sitting or lying"
	}
	c.add("order", at, say)
}

// steps: effort rises gently, no item is more than three above the one before it.
func (c *checker) steps() {
	c.add(
		"gentle-steps",
		tooSteep(c.p),
		fmt.Sprintf("effort rises by at most %d from one exercise to the next", steepest),
	)
}

// steepest is how much harder the next exercise may be (domain/07; it looks upward only, shared
// ruling 49).
const steepest = 3

// hardest: an item of the highest effort lies between 40 and 85 % of the list; nothing is
// above the cap.
func (c *checker) hardest() {
	hard, n := 0, 0
	for i := range c.p.Items {
		if c.p.Items[i].Role != trade.Reset {
			n++
			hard = max(hard, c.p.Items[i].Effort)
		}
	}
	switch t := c.r.Template; {
	case Route(c.r)[0] == trade.Standing:
		c.hardestStanding()
		return
	case t != nil && t.Rising:
		c.rising()
		return
	case t != nil && t.OwnContent && t.Natural:
		return
	}
	ok, k, best := hard <= facts.Gentle, 0, 0.0
	var at []int
	for i := range c.p.Items {
		it := &c.p.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		k++
		if it.Effort < hard {
			continue
		}
		where := (float64(k) - 0.5) / float64(n)
		if inside := where >= HardestFrom-1e-9 && where <= HardestTo+1e-9; inside || !ok {
			ok = ok || inside
			best, at = where, []int{i}
		}
	}
	c.say("hardest-place", ok, at, "the hardest item lies at %.0f %% of the list (40 to 85)", 100*best)
}

// hardestStanding: standing first, the hardest standing item closes the standing block; what is done
// down counts for itself.
func (c *checker) hardestStanding() {
	last, hard := -1, 0
	for i := range c.p.Items {
		if it := &c.p.Items[i]; it.Role == trade.Main && it.Position == trade.Standing {
			last, hard = i, max(hard, it.Effort)
		}
	}
	ok := last < 0 || c.p.Items[last].Effort == hard
	c.say("hardest-place", ok, []int{last}, "the hardest standing exercise closes the standing part")
}

// rising: easiest first through the whole list.
func (c *checker) rising() {
	before := 0
	at := c.where(func(_ int, it *plan.Item) bool {
		if it.Role != trade.Main {
			return false
		}
		falls := it.Effort < before
		before = max(before, it.Effort)
		return falls
	})
	c.add("easiest-first", at, "the easiest comes first")
}

// cap: nothing is above the effort that is allowed today.
func (c *checker) cap() {
	hard := 0
	for i := range c.p.Items {
		if c.p.Items[i].Role != trade.Reset {
			hard = max(hard, c.p.Items[i].Effort)
		}
	}
	limit := c.r.EffortCap()
	over := c.where(func(_ int, it *plan.Item) bool { return limit > 0 && it.Effort > limit })
	c.say("effort-cap", len(over) == 0, over, "hardest effort %d, cap %s", hard,
		map[bool]string{true: "none", false: fmt.Sprint(limit)}[limit == 0])
}

// families: one version per branch and two per family, and the number of strength and
// control items.
func (c *checker) families() {
	branch, family := map[string]int{}, map[string]int{}
	at := c.where(func(_ int, it *plan.Item) bool {
		v, ok := c.r.Catalogue.Version(it.Version)
		if !ok || it.Role == trade.Reset {
			return false
		}
		if v.Family == c.r.Skill() || c.r.Template.IsRoutine() {
			return false
		}
		branch[facts.BranchKey(v)]++
		if !c.r.Template.IsWhole(v.Family) && !c.r.FixedPart(v.Slug) {
			family[v.Family]++
		}
		return branch[facts.BranchKey(v)] > 1 || family[v.Family] > facts.MaxFamily
	})
	c.add("families", at, "one version per branch and two per family")
}

// composition: how many of each part, a front, a side and a back, and how much of it is down.
func (c *checker) composition() {
	n, have, sided := c.r.Counts(), map[string]int{}, map[string]bool{}
	some, all := 0, 0
	share, takes := c.r.WantedShare()
	for i := range c.p.Items {
		it := &c.p.Items[i]
		v, ok := c.r.Catalogue.Version(it.Version)
		if !ok || it.Role == trade.Reset {
			continue
		}
		all += it.End - it.Start
		if share > 0 && takes(&facts.Candidate{V: v, Surface: it.Surface}) {
			some += it.End - it.Start
		}
		if it.Role == trade.Main && !c.r.FixedPart(v.Slug) {
			have[kinds.PartOf(v)]++
		}
		for _, s := range facts.Sides {
			sided[s.Name] = sided[s.Name] || s.Takes(v)
		}
	}
	c.say(
		"main-count",
		have[kinds.Main] <= n.MainTo,
		nil,
		"%d exercises in the main part, at most %d",
		have[kinds.Main],
		n.MainTo,
	)
	c.say(
		"mobility-count",
		have[kinds.Mobility] <= n.MobilityTo,
		nil,
		"%d exercises of mobility, at most %d",
		have[kinds.Mobility],
		n.MobilityTo,
	)
	if c.r.ThreeSides() {
		var missing []string
		for _, s := range facts.Sides {
			if !sided[s.Name] && slices.ContainsFunc(c.r.Candidates(), func(x facts.Candidate) bool { return s.Takes(x.V) }) {
				missing = append(missing, s.Name)
			}
		}
		say := "front, side and back are trained"
		if missing != nil {
			say += "; missing: " + strings.Join(missing, ", ")
		}
		c.say("three-sides", missing == nil, nil, "%s", say)
	}
	if share > 0 && all > 0 {
		got := float64(some) / float64(all)
		what := "down on the mat"
		switch {
		case c.r.Acute():
			what = "lying"
		case c.r.Place() == kinds.PlaceBed:
			what = "down on the bed"
		}
		c.say(
			"place",
			got >= share-shareSlack,
			nil,
			"%.0f %% of the work is %s, at least %.0f %%",
			100*got,
			what,
			100*(share-shareSlack),
		)
	}
}

// shareSlack is what the planner keeps above the share that is asked for.
const shareSlack = 0.03

// gates: nothing whose gate is not open yet, unless it is tried with the instructor's word.
func (c *checker) gates() {
	at := c.where(func(_ int, it *plan.Item) bool {
		v, ok := c.r.Catalogue.Version(it.Version)
		return ok && it.Role != trade.Reset && !c.r.FixedPart(v.Slug) && !c.r.MayBegin(v)
	})
	say := "every exercise is a place to start or its gate is open"
	for _, i := range at {
		if v := version(c.r, &c.p.Items[i]); v.Gate != nil {
			say += "; " + v.Name + " opens after " + v.Gate.Words(c.r.Catalogue)
		}
	}
	c.say("gates", len(at) == 0, at, "%s", say)
}

// rises counts the times the client gets up from the floor.
func rises(p *plan.Plan) (n int) {
	var before *plan.Item
	for i := range p.Items {
		if p.Items[i].Role == trade.Reset {
			continue
		}
		n += facts.CountIf(plan.FromFloor(before, &p.Items[i]))
		before = &p.Items[i]
	}
	return n + facts.CountIf(plan.FromFloor(before, nil))
}

// directions: every direction the client may use appears; it is a wish, not a limit, in
// sessions under 20 minutes.
func (c *checker) directions() {
	var missing []string
	for _, d := range c.p.Directions {
		if d.Reach && !d.Visited {
			missing = append(missing, strings.ReplaceAll(d.Name, "_", " "))
		}
	}
	if !c.r.AllDirections() {
		return
	}
	say := "every direction that is free appears"
	if missing != nil {
		say += "; missing: " + strings.Join(missing, ", ")
	}
	c.say("six-directions", missing == nil, nil, "%s", say)
}

// fresh: at most two new items for a client with a log.
func (c *checker) fresh() {
	if len(c.r.Seen) == 0 {
		return
	}
	seen := c.r.BranchesOf(c.r.Seen) // what was taught since is not new any more
	at := c.where(func(_ int, it *plan.Item) bool {
		v, ok := c.r.Catalogue.Version(it.Version)
		return ok && it.Role != trade.Reset && !c.r.FixedPart(it.Version) && !seen[facts.BranchKey(v)]
	})
	c.say("new-items", len(at) <= c.r.MaxNew(), at, "%d new item(s), at most %d", len(at), c.r.MaxNew())
}

// neverLess: where an exercise goes up or stays it is no less than what was done of it (domain/10).
func (c *checker) neverLess() {
	if c.r.Log == nil || c.r.Template.Doses() != "" {
		return
	}
	at := c.where(func(_ int, it *plan.Item) bool {
		v, ok := c.r.Catalogue.Version(it.Version)
		if !ok || it.Role == trade.Reset || it.Trial || !c.r.Keeps(it.Version) {
			return false
		}
		done, ok := c.r.Log.Floor(v)
		if limit, _ := c.r.Screener.HoldCap(v); limit > 0 {
			done.HoldS = min(done.HoldS, limit)
		}
		if v.SideMode == trade.Alternate && it.Side == trade.Each {
			done.Reps /= 2
		}
		doses := []dose.Dose{it.Dose}
		if it.Dose.Apart != nil {
			doses = it.Dose.Apart[:]
		}
		return ok && slices.ContainsFunc(doses, done.Less)
	})
	c.add("never-less", at, "nothing is less than what was done")
}

// needs: what the template asks for.
func (c *checker) needs() {
	for _, need := range c.r.Needs() {
		have, could := 0, 0
		for i := range c.p.Items {
			if v, ok := c.r.Catalogue.Version(c.p.Items[i].Version); ok && need.Takes(v) &&
				c.p.Items[i].Role != trade.Reset {
				have++
			}
		}
		for _, x := range c.r.Candidates() {
			could += facts.CountIf(need.Takes(x.V) && facts.BodyItem(x.V))
		}
		least := min(need.Least, could)
		c.say("needs", have >= least, nil, "%s: %d, at least %d", need.Name(), have, least)
		c.out[len(c.out)-1].Need = need.Name()
	}
}

// safety: nothing that is left out without an override, no wrong side, both sides of sided
// work, nothing above progress.
func (c *checker) safety() {
	r := c.r
	unsafe := c.where(func(_ int, it *plan.Item) bool { return !Safe(r, it) })
	wrong := c.where(func(_ int, it *plan.Item) bool { return WrongSide(r, it) })
	half := c.where(func(_ int, it *plan.Item) bool {
		v, ok := r.Catalogue.Version(it.Version)
		res, _ := r.Screening.Result(it.Version)
		return ok && res != nil && v.SideMode != trade.None && (it.Side == trade.Left || it.Side == trade.Right) &&
			res.Sides[trade.Left] == res.Sides[trade.Right]
	})
	skipped := c.where(func(_ int, it *plan.Item) bool {
		v, ok := r.Catalogue.Version(it.Version)
		return ok && r.Above(v)
	})
	away := c.where(func(_ int, it *plan.Item) bool { return !r.Mover().Reaches(it.Place()) })
	c.add("safe", unsafe, "every item suits this client")
	c.add("ways", away, "there is a way to every place and up again with what the client has")
	c.add("right-side", wrong, "no side is worked that should not be")
	c.add("both-sides", half, "both sides of sided work are planned")
	c.add("no-skipped-rung", skipped, "no rung is skipped")
}

// WrongSide tells whether an item works a side that should not be worked.
func WrongSide(r *facts.Request, it *plan.Item) bool {
	res, ok := r.Screening.Result(it.Version)
	if !ok || res.Overridden {
		return false
	}
	for name, v := range res.Sides {
		if (it.Side == trade.Each || it.Side == trade.Alternate || it.Side == name) && v == trade.LeaveOut {
			return true
		}
	}
	return false
}

// Safe tells whether an item may be in this client's session as it stands.
func Safe(r *facts.Request, it *plan.Item) bool {
	res, ok := r.Screening.Result(it.Version)
	if !ok || !LayersHold(r, it) {
		return false
	}
	switch res.Verdict {
	case trade.Suits, trade.Adapt:
		ease, on, ok := res.As(it.Side)
		return ease == "" && ok || ok && it.Ease() == ease && (it.EasedSide == on || it.EasedSide == "")
	case trade.LeaveOut:
		return res.Overridden
	}
	return false
}

// SafetyRule tells whether a rule is about what could hurt: a plan that was made under earlier rules is
// held to these alone (shared ruling 55).
func SafetyRule(rule string) bool {
	return slices.Contains([]string{
		"safe", "ways", "right-side", "no-skipped-rung", "effort-cap", "floor-transfers", "supine-block", "sitting-block", "few-of",
		"clinician-limits",
	}, rule)
}

// The hardest item lies between these shares of the list (domain/04).
const (
	HardestFrom = 0.40
	HardestTo   = 0.85
)
