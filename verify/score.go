package verify

import (
	"math"
	"slices"
)

// The aims of a client who named none (docs/planner.md).
var usual = map[string]float64{
	"spinal-mobility": 2,
	"deep-core":       3,
	"back-strength":   2,
	"hip-strength":    2,
	"balance":         1,
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
		s += 0.04 * float64(j.fit(v))
		if it.Length != "" && it.Length != "normal" {
			s -= 0.2
		}
	}
	s -= j.moving()
	least := int(math.Ceil(0.92 * float64(60*j.plan.Minutes)))
	return s - 0.03*float64(max(0, least-j.plan.Seconds))
}

// aims: the concave credit. An item's working minutes are shared among its aims, the first
// counting double.
func (j *judge) aims() (s float64) {
	wanted := j.client.Aims
	if len(wanted) == 0 {
		wanted = usual
	}
	if len(j.template.Aims) > 0 {
		wanted = j.template.Aims
	}
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
		minutes := float64(it.End-it.Start-it.Dose.SetupS) / 60
		for i, a := range v.Aims {
			share := 1.0
			if i == 0 {
				share = 2
			}
			served[a] += math.Round(100*minutes*share/float64(len(v.Aims)+1)) / 100
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

// directions: eight points for each direction of the spine that some phase takes beyond a
// fifth of what the client may use, and beyond 3 degrees.
func (j *judge) directions() (s float64) {
	if j.plan.Minutes < 20 {
		return 0
	}
	for _, d := range j.plan.Directions {
		visited := false
		for _, it := range j.counted() {
			if v := j.versions[it.Version]; v != nil && v.reach(d.Name, it.Side) > math.Max(3, 0.2*d.Allowed) {
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

// reach is how far the trunk goes in a direction when a version is done to a side.
func (v *version) reach(direction, side string) float64 {
	names := []string{direction}
	mirrored := map[string]string{
		"side_bend_left":  "side_bend_right",
		"side_bend_right": "side_bend_left",
		"rotation_left":   "rotation_right",
		"rotation_right":  "rotation_left",
	}
	if other, ok := mirrored[direction]; ok {
		switch {
		case v.SideMode == "alternate" || v.SideMode == "each" && side == "each":
			names = append(names, other)
		case v.SideMode == "each" && side != v.Authored:
			names = []string{other}
		}
	}
	most := 0.0
	for _, p := range v.Phases {
		for _, n := range names {
			most = math.Max(most, p.Spine["lumbar"][n]+p.Spine["thoracic"][n])
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

// moving is the price of the changes of posture: by the second, more between grounds, and
// a little for each one against the list of the order school.
func (j *judge) moving() (s float64) {
	price := func(a, b spot, seconds int) float64 {
		p := 0.035 * float64(seconds)
		if a.ground != b.ground {
			for _, g := range []string{a.ground, b.ground} {
				if g != "up" {
					p += 0.6
				}
			}
		}
		return p
	}
	list := lists[j.standingFirst()]
	at := j.home()
	var opener spot // none when what opened was taken out
	for i := range j.plan.Items {
		it := &j.plan.Items[i]
		to := it.spot()
		if it.Role == "open" {
			opener = to
		}
		s += price(at, to, it.Transition)
		if (it.Role == "main" || it.Role == "reset") && i > 0 && at != to && at != opener &&
			slices.Index(list, to.position) < slices.Index(list, at.position) {
			s += 0.1
		}
		at = to
	}
	return s + price(at, j.home(), j.plan.Finish)
}
