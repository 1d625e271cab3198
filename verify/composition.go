// What a session is made of, counted again from the documents.

package verify

import (
	"math"
	"slices"
	"strings"
)

// unknownSides counts the front, the side and the back that the client has never trained, in a session
// that asks for them.
func (j *judge) unknownSides() (n int) {
	if j.plan.Minutes < 16 || j.acute || j.resting() || j.template.Own {
		return 0
	}
	for _, takes := range sides {
		if !slices.ContainsFunc(j.done, takes) {
			n++
		}
	}
	return n
}

// part is the part of a session that a version belongs to.
func (v *version) part() string {
	trains := []string{
		"deep-core",
		"anti-extension",
		"anti-side-bend",
		"anti-rotation",
		"back-strength",
		"hip-strength",
		"leg-strength",
		"balance",
		"bone-loading",
		"ankle-foot",
		"arm-strength",
	}
	moves := []string{"spinal-mobility", "thoracic-mobility", "hip-mobility"}
	among := func(list []string) bool {
		return slices.ContainsFunc(v.MainAims, func(a string) bool { return slices.Contains(list, a) })
	}
	first := v.MainAims[0]
	quiet := first == "breathing" || first == "relaxation" || first == "deep-core"
	switch {
	case slices.Contains(moves, first) && v.Effort < 4:
		return "mobility"
	case among(trains) && (v.Effort >= 3 || !quiet):
		return "main"
	case among(moves):
		return "mobility"
	case v.Effort >= 3:
		return "main"
	}
	return "settle"
}

// most is how many items of mobility and of the main part the session may hold.
func (j *judge) most() (mobility, main int) {
	for _, row := range [][3]int{{5, 2, 2}, {7, 2, 3}, {15, 2, 3}, {30, 3, 6}, {50, 4, 9}, {60, 5, 10}} {
		mobility, main = row[1], row[2]
		if j.plan.Minutes <= row[0] {
			break
		}
	}
	some, all := 0.0, 0.0
	for a, w := range j.wanted() {
		all += w
		if slices.Contains([]string{"spinal-mobility", "thoracic-mobility", "hip-mobility"}, a) {
			some += w
		}
	}
	switch {
	case j.template.Parts != nil:
		mobility, main = j.template.Parts.Mobility[1], j.template.Parts.Main[1]
	case some > all/2:
		mobility, main = main, mobility
	}
	if j.acute && j.template.Parts == nil {
		mobility, main = 4, 2
	}
	if t := j.template.MaxStrong; t > 0 {
		main = min(main, t)
	}
	if j.week {
		mobility, main = 0, 0
	}
	if j.resting() {
		mobility, main = 2, 0
	}
	return mobility, main
}

// missing is what the things that the session lacks of its composition cost: what was asked for is taken
// from the plan, how much of it there is counted again.
func (j *judge) missing() (points float64) {
	for _, a := range j.plan.Composition {
		name, most := strings.CutSuffix(a.Name, ", at most")
		have := 0.0
		for _, it := range j.counted() {
			if v := j.versions[it.Version]; v != nil {
				have += j.amount(name, it, v)
			}
		}
		if most {
			have = -have
		}
		if math.Abs(have-a.Have) > 0.011 {
			j.violation("document", "%s: the plan counts %g, the items say %g", a.Name, a.Have, have)
		}
		points += a.Points * math.Max(0, a.Least-have)
	}
	return points
}

// amount is what an item counts in one thing that the composition asks for.
func (j *judge) amount(name string, it *item, v *version) float64 {
	is := func(ok bool) float64 {
		if ok {
			return 1
		}
		return 0
	}
	body := it.Role == "main"
	fixed := j.fixed(v)
	switch name {
	case "mobility", "main":
		return is(body && !fixed && v.part() == name)
	case "settle or close besides":
		return is(body && !fixed && v.part() == "settle")
	case "items":
		return is(body)
	case "by the breath":
		if !body {
			return 0
		}
		return is(it.Dose.HoldBreaths > 0) - j.template.Breaths
	case "share down":
		share, counts := j.share()
		return float64(it.End-it.Start) * (is(counts(it)) - share)
	case "front", "side", "back or diagonal":
		return is(sides[name](v))
	}
	if aim, ok := strings.CutPrefix(name, "aim "); ok {
		if besides, ok := strings.CutSuffix(aim, " besides"); ok {
			return is(slices.Contains(v.Aims, besides))
		}
		return is(slices.Contains(v.MainAims, aim))
	}
	for _, n := range j.template.Needs {
		for _, families := range [][]string{n.Families, n.Else} {
			if name == "need "+strings.ReplaceAll(
				strings.Join(append(slices.Clone(families), n.Aims...), " or "),
				"-",
				" ",
			) {
				return is(slices.Contains(families, v.Family) || slices.Contains(n.Aims, v.Aims[0]))
			}
		}
	}
	return 0
}

// fixed tells whether a version belongs to the fixed beginning or end of the kind of session.
func (j *judge) fixed(v *version) bool {
	return j.template.Routine || slices.Contains(j.template.Prepare, v.Version) ||
		slices.Contains(j.template.Finish, v.Version)
}

// share is the share of the working time that should be down, and what counts.
func (j *judge) share() (float64, func(*item) bool) {
	lies := func(it *item) bool { return slices.Contains([]string{"supine", "side", "prone"}, it.Position) }
	down := func(it *item) bool { return lies(it) || it.Position == "all-fours" || it.Position == "kneeling" }
	switch {
	case j.acute && j.plan.Place != "upright":
		return 0.53, lies
	case j.plan.Place == "bed":
		return 0.53, func(it *item) bool { return down(it) && it.Surface == "bed" }
	case j.plan.Place == "mixed":
		return 0.28, down
	}
	return 0.53, down
}

// sides are the three that the main part trains.
var sides = map[string]func(*version) bool{
	"front": func(v *version) bool { return slices.Contains(v.MainAims, "anti-extension") },
	"side": func(v *version) bool {
		return slices.Contains(v.MainAims, "anti-side-bend") ||
			slices.Contains([]string{"clam", "clam-lifted", "side-leg-lift"}, v.Version)
	},
	"back or diagonal": func(v *version) bool {
		return slices.Contains(v.MainAims, "back-strength") || slices.Contains(v.MainAims, "anti-rotation")
	},
}
