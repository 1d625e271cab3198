package verify

import (
	"maps"
	"math"
	"slices"
)

// preferences are what is proposed and preferred when nobody says otherwise (the preferences file).
type preferences struct {
	Aims  map[string]map[string]float64 `yaml:"aims"`
	Usual map[string][]string           `yaml:"usual"`
}

// wanted are the aims with their weights; those of the plan's character are 60 % of them at least.
func (j *judge) wanted() map[string]float64 {
	of := map[string][]string{
		"more-mobility": {"spinal-mobility", "thoracic-mobility", "hip-mobility"},
		"more-strength": {"deep-core", "anti-extension", "anti-side-bend", "anti-rotation", "back-strength", "hip-strength",
			"leg-strength", "balance", "bone-loading", "ankle-foot", "arm-strength"},
	}[j.plan.Character]
	all := j.plain()
	if of == nil || len(all) == 0 {
		return all
	}
	out, some, others := map[string]float64{}, 0.0, 0.0
	for a, w := range all {
		out[a] = w
		if slices.Contains(of, a) {
			some += w
		} else {
			others += w
		}
	}
	if some == 0 && j.plan.Character == "more-mobility" {
		some = slices.Max(slices.Collect(maps.Values(all)))
		out["spinal-mobility"] = some
	}
	if some > 0 && 1.5*others > some {
		for _, a := range of {
			if w, ok := out[a]; ok {
				out[a] = math.Round(1e6*w*1.5*others/some) / 1e6
			}
		}
	}
	return out
}

// plain are the aims of the kind, of the client, else those that are proposed.
func (j *judge) plain() map[string]float64 {
	if len(j.template.Aims) > 0 {
		return j.template.Aims
	}
	out := map[string]float64{}
	if j.template.Lesson && j.plan.Skill != "" {
		for _, v := range j.versions {
			for _, a := range v.MainAims {
				if v.Family == j.plan.Skill {
					out[a] = 1
				}
			}
		}
		return out
	}
	if len(j.client.Aims) > 0 {
		return j.client.Aims
	}
	most := func(name string) {
		for a, w := range j.preferences.Aims[name] {
			out[a] = math.Max(out[a], w)
		}
	}
	if j.resting() {
		most("resting")
		return out
	}
	if j.acute {
		most("acute")
		return out
	}
	for _, k := range j.client.Conditions {
		most(k.Code)
	}
	for _, t := range j.tasks {
		if !slices.Contains(j.client.Tasks, t.Name) {
			continue
		}
		for a, w := range t.Propose {
			out[a] = math.Max(out[a], w)
		}
		if t.Propose == nil {
			for _, a := range t.Aims {
				out[a] = math.Max(out[a], 1)
			}
		}
	}
	age := 0
	if j.client.Born > 0 {
		age = j.year - j.client.Born
	}
	if len(out) == 0 {
		most("nothing")
		if age >= 60 {
			most("from-60")
		}
	}
	if age >= 65 {
		for a, w := range j.preferences.Aims["from-65"] {
			out[a] += w
		}
	}
	return out
}

// usual tells whether an instructor reaches for a family first with this client.
func (j *judge) usual(family string) bool {
	some := false
	in := func(name string) bool {
		some = some || len(j.preferences.Usual[name]) > 0
		return slices.Contains(j.preferences.Usual[name], family)
	}
	if j.acute {
		return in("acute")
	}
	for _, k := range j.client.Conditions {
		if in(k.Code) {
			return true
		}
	}
	return !some && in("anyone")
}

// resting tells whether today is for breath and relaxation only.
func (j *judge) resting() bool { return j.effortCap() == 1 }

// least is how long the session should last, seconds.
func (j *judge) least() int {
	switch {
	case j.template.Natural || j.resting():
		return 0
	case j.plan.Minutes <= 5:
		return 45 * j.plan.Minutes
	}
	return int(math.Ceil(0.92 * float64(60*j.plan.Minutes)))
}

// score is the value of the session (docs/planner.md), in points.
func (j *judge) score() float64 {
	s := j.aims() + j.directions()
	for _, it := range j.counted() {
		v := j.versions[it.Version]
		if v == nil {
			continue
		}
		if j.last[v.branch()] {
			s += 0.5
		}
		if j.usual(v.Family) {
			s += 2
		}
		if it.Role == "close" && slices.Contains(v.MainAims, "relaxation") && !j.fixed(v) {
			s += 2
		}
		if it.Length != "" && it.Length != "normal" {
			s -= 0.2
		}
	}
	return s - j.moving() - j.missing() - 0.03*float64(max(0, j.least()-j.plan.Seconds+j.turning()))
}

// aims: the concave credit. An item's working minutes are shared among its aims, the main ones
// counting double; less for what exists for people who cannot, more for what carries over to the
// client's tasks.
func (j *judge) aims() (s float64) {
	wanted := j.wanted()
	sum, top := 0.0, 0.0
	for _, w := range wanted {
		sum, top = sum+w, math.Max(top, w)
	}
	served := map[string]float64{}
	for _, it := range j.counted() {
		v := j.versions[it.Version]
		if v == nil {
			continue
		}
		minutes := j.factor(v) * float64(it.End-it.Start-it.Dose.SetupS) / 60
		total := float64(len(v.Aims) + len(v.MainAims))
		for _, a := range v.Aims {
			share := 1.0
			if slices.Contains(v.MainAims, a) {
				share = 2
			}
			served[a] += math.Round(100*minutes*share/total+1e-9) / 100
		}
	}
	for a, w := range wanted {
		target := 0.7 * float64(j.plan.Minutes) * w / sum
		full := math.Min(served[a], target)
		beyond := math.Min(math.Max(0, served[a]-target), target/2)
		s += w / top * (full + beyond/2)
	}
	return s
}

// factor is how much a version counts in this place and for the client's tasks.
func (j *judge) factor(v *version) float64 {
	f := 1.0
	if v.InsteadOf == "floor" && (j.plan.Place == "mat" || j.plan.Place == "mixed") && !j.works(v) {
		for _, w := range j.versions {
			if r := j.results[w.Version]; w.Family == v.Family && w.InsteadOf == "" && r != nil &&
				(r.Verdict == "suits" || r.Verdict == "adapt" && r.Use == w.Version) {
				f = 0.6
			}
		}
	}
	if slices.ContainsFunc(j.tasks, func(t task) bool { return slices.Contains(j.client.Tasks, t.Name) }) {
		f *= 0.8 + 0.08*float64(j.fit(v))
	}
	return f
}

// works tells whether a version is the rung the client works on.
func (j *judge) works(v *version) bool {
	return j.client.Levels[v.Family] == v.Version || j.decided[v.branch()].To == v.Version
}

// directions: eight points for each direction of the spine that some phase takes beyond a
// fifth of what the client may use, and beyond 3 degrees.
func (j *judge) directions() (s float64) {
	if !j.template.Desk &&
		(j.plan.Minutes < 20 || j.resting() || j.acute || j.has("spinal-fusion") || j.template.Natural) {
		return 0
	}
	for _, d := range j.plan.Directions {
		if d.Exempt {
			continue
		}
		visited := false
		for _, it := range j.counted() {
			if v := j.versions[it.Version]; v != nil && it.reach(v, d.Name) > math.Max(3, 0.2*d.Allowed) {
				visited = true
			}
		}
		if visited != d.Visited {
			j.violation("document", "direction %s: visited %v, the phases say %v", d.Name, d.Visited, visited)
		}
		switch {
		case visited:
			s += 8
		case d.Reachable:
			j.wish("direction %s is not visited", d.Name)
		}
	}
	return s
}

// reach is how far the trunk goes in a direction when an item is done as it says: on each of its sides, with the ease
// where that side is eased.
func (it *item) reach(v *version, direction string) (most float64) {
	mirrored := map[string]string{
		"side_bend_left":  "side_bend_right",
		"side_bend_right": "side_bend_left",
		"rotation_left":   "rotation_right",
		"rotation_right":  "rotation_left",
	}
	authored := v.Authored
	if authored == "" {
		authored = "right"
	}
	for _, side := range []string{"left", "right"} {
		name := direction
		switch {
		case v.SideMode == "none" && side == "left":
			continue
		case v.SideMode == "each" && (it.Side == "left" || it.Side == "right") && it.Side != side:
			continue
		case v.SideMode != "none" && side != authored && mirrored[direction] != "":
			name = mirrored[direction]
		}
		phases := v.Phases
		if it.eased(side) && v.Eased[it.Eases[0]] != nil {
			phases = v.Eased[it.Eases[0]]
		}
		for _, p := range phases {
			most = math.Max(most, p.Spine["lumbar"][name]+p.Spine["thoracic"][name])
		}
	}
	return most
}

// fit is how many points of the argument a version wins for the client's best task: the
// chain, gravity, what carries the body, the work, the pelvis.
func (j *judge) fit(v *version) (best int) {
	for _, t := range j.tasks {
		if !slices.Contains(j.client.Tasks, t.Name) {
			continue
		}
		n := 0
		add := func(ok bool) {
			if ok {
				n++
			}
		}
		add(v.Chain == t.Chain)
		add((v.Position == "sitting" || v.Position == "standing") == t.Upright)
		add(v.base() == t.Base)
		add(slices.ContainsFunc(v.Aims, func(a string) bool { return slices.Contains(t.Aims, a) }))
		if still, moves := v.pelvis(); moves {
			add(still == t.Still)
		}
		best = max(best, n)
	}
	return best
}

func (v *version) base() string {
	switch v.Position {
	case "supine", "side", "prone":
		return "lying"
	case "sitting", "long-sitting":
		return "sitting"
	case "standing":
		k := len(v.Phases) - 1
		for i := range v.Phases {
			if v.Phases[i].Held {
				k = i
			}
		}
		s := v.Phases[k].Share
		foot := func(side string) float64 { return s["foot."+side] + s["toes."+side] + s["heel."+side] }
		if math.Min(foot("left"), foot("right")) < 0.02 {
			return "one foot"
		}
		return "two feet"
	}
	return "hands and knees"
}

// pelvis: whether a hip moves more than 15 degrees, and the low back meanwhile less than 5.
func (v *version) pelvis() (still, moves bool) {
	spread := func(get func(i int) float64) float64 {
		low, high := math.Inf(1), math.Inf(-1)
		for i := range v.Phases {
			low, high = math.Min(low, get(i)), math.Max(high, get(i))
		}
		return high - low
	}
	for _, hip := range []string{"hip.left", "hip.right"} {
		for _, angle := range []string{"flexion", "abduction"} {
			moves = moves || spread(func(i int) float64 { return v.Phases[i].Limbs[hip][angle] }) > 15
		}
	}
	still = true
	for _, pair := range [][2]string{
		{"flexion", "extension"}, {"side_bend_left", "side_bend_right"}, {"rotation_left", "rotation_right"},
	} {
		still = still && spread(func(i int) float64 {
			l := v.Phases[i].Spine["lumbar"]
			return l[pair[0]] - l[pair[1]]
		}) < 5
	}
	return still, moves
}

// moving is the price of the changes of posture: by the second, and dearly between grounds for who
// does not rise freely.
func (j *judge) moving() (s float64) {
	free := j.client.Positions["floor"] == "yes" && len(j.asIf) == 0
	price := func(a, b spot, seconds int) float64 {
		p := 0.035 * float64(seconds)
		if a.ground != b.ground && !free {
			for _, g := range []string{a.ground, b.ground} {
				if g != "up" {
					p += 2.5
				}
			}
		}
		return p
	}
	at := j.home()
	for i := range j.plan.Items {
		it := &j.plan.Items[i]
		if it.Role == "reset" {
			continue
		}
		s += price(at, it.spot(), it.Transition-it.TurnS)
		at = it.spot()
	}
	return s + price(at, j.home(), j.plan.Finish)
}
