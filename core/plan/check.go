package plan

import (
	"fmt"

	"restbend/core/progress"
	"restbend/core/safety"
)

// check reports every rule of a session and whether the plan keeps it.
func (r *Request) check(p *Plan) []Check {
	var out []Check
	add := func(rule string, ok bool, format string, a ...any) {
		out = append(out, Check{rule, ok, fmt.Sprintf(format, a...)})
	}
	n := len(p.Items)
	if n == 0 {
		add("opener-closer", false, "the session is empty")
		return out
	}
	open, closer := p.Items[0].Role == "open", p.Items[n-1].Role == "close"
	add("opener-closer", open && closer, "begins with breath or set-up, ends with relaxation or posture")
	r.checkBlocks(p, add)
	hard, at := 0, 0
	for i := range p.Items {
		if p.Items[i].Effort > hard {
			hard, at = p.Items[i].Effort, i
		}
	}
	where := (float64(at) + 0.5) / float64(n)
	// Two or three items leave no place between 40 % and 85 %.
	add("hardest-place", where >= 0.40-1e-9 && where <= 0.85+1e-9 || n < 4 || hard <= 2, "the hardest item lies at %.0f %% of the list (40 to 85)", 100*where)
	limit := r.Client.EffortCap
	add("effort-cap", limit == 0 || hard <= limit, "hardest effort %d, cap %d", hard, limit)
	r.checkFamilies(p, add)
	rises := r.rises(p)
	max := r.transfers()
	add("floor-transfers", rises <= max, "%d rise(s) from the floor, at most %d", rises, max)
	r.checkSafety(p, add)
	share := float64(p.Seconds) / float64(60*p.Minutes)
	add("time", share <= 1 && (share >= 0.92 || len(r.dry(p)) > 0), "%d:%02d of %d minutes", p.Seconds/60, p.Seconds%60, p.Minutes)
	return out
}

type adder func(rule string, ok bool, format string, a ...any)

// checkBlocks: each position once (the opener's may return for the closer) and effort
// that does not fall inside a position.
func (r *Request) checkBlocks(p *Plan, add adder) {
	seen := map[string]bool{}
	visits, effort := "", ""
	n := len(p.Items)
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role == "reset" {
			continue
		}
		if i > 0 && it.Position != p.Items[i-1].Position {
			back := i == n-1 && it.Position == p.Items[0].Position
			if seen[it.Position] && !back {
				visits = it.Position
			}
		}
		seen[it.Position] = true
		if i > 0 && it.Role == "main" && p.Items[i-1].Role == "main" && p.Items[i-1].Position == it.Position && it.Effort < p.Items[i-1].Effort {
			effort = it.Version
		}
	}
	add("positions-once", visits == "", "every position is visited once%s", because(visits, "; returned to: "))
	add("effort-rises", effort == "", "effort does not fall inside a position%s", because(effort, "; falls at: "))
}

func because(what, intro string) string {
	if what == "" {
		return ""
	}
	return intro + what
}

// checkFamilies: one version per branch and two per family in the main block, and the
// number of strength and control items.
func (r *Request) checkFamilies(p *Plan, add adder) {
	branch, family := map[string]int{}, map[string]int{}
	bad := ""
	for i := range p.Items {
		it := &p.Items[i]
		v, ok := r.Catalogue.Version(it.Version)
		if !ok || it.Role == "reset" {
			continue
		}
		if v.Set {
			branch[v.Slug]++
			if branch[v.Slug] > 1 {
				bad = v.Slug
			}
			continue
		}
		branch[branchKey(v)]++
		family[v.Family]++
		if branch[branchKey(v)] > 1 || family[v.Family] > 2 {
			bad = v.Slug
		}
	}
	add("families", bad == "", "one version per branch and two per family%s", because(bad, "; too many: "))
	limit := maxMain(p.Minutes)
	add("main-count", strong(p) <= limit, "%d strength and control items, at most %d", strong(p), limit)
}

// strong counts the strength and control items: effort 3 and above.
func strong(p *Plan) int {
	n := 0
	for i := range p.Items {
		if p.Items[i].Role == "main" && p.Items[i].Effort >= 3 {
			n++
		}
	}
	return n
}

func (r *Request) rises(p *Plan) int {
	at, n := place{"standing", ""}, 0
	helped := r.Client.Positions["floor"] == "help"
	for i := range p.Items {
		to := place{p.Items[i].Position, p.Items[i].Surface}
		if _, _, up := move(at, to, helped); up {
			n++
		}
		at = to
	}
	if _, _, up := move(at, place{"standing", ""}, helped); up {
		n++
	}
	return n
}

// transfers is the client's number of rises from the floor; with help one, else three
// (product defaults).
func (r *Request) transfers() int {
	if r.Client.FloorMax != nil {
		return *r.Client.FloorMax
	}
	if r.Client.Positions["floor"] == "help" {
		return 1
	}
	return 3
}

// checkSafety: nothing that is left out without an override, nothing above progress, and
// both sides of sided work.
func (r *Request) checkSafety(p *Plan, add adder) {
	bad, skip, side := "", "", ""
	for i := range p.Items {
		it := &p.Items[i]
		res, ok := r.Screening.Result(it.Version)
		if !ok || res.Verdict == safety.ReferFirst || res.Verdict == safety.LeaveOut && !res.Overridden || res.Verdict == safety.Adapt && (res.Use != it.Version || len(it.Eases) == 0) {
			bad = it.Version
			continue
		}
		v, _ := r.Catalogue.Version(it.Version)
		if v.SideMode == "each" && it.Side != "each" && res.Sides["left"] == res.Sides["right"] {
			side = it.Version
		}
		for _, d := range r.Decisions {
			if w, ok := r.Catalogue.Version(d.ToVersion); ok && !v.Set && branchKey(w) == branchKey(v) && v.Rung > w.Rung && d.Decision != progress.Stay {
				skip = it.Version
			}
		}
	}
	add("safe", bad == "", "every item suits this client%s", because(bad, "; does not: "))
	add("both-sides", side == "", "both sides of sided work are planned%s", because(side, "; one side only: "))
	add("no-skipped-rung", skip == "", "no rung is skipped%s", because(skip, "; above the decided rung: "))
}
