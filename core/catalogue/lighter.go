package catalogue

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// alikeFrom is the share of lines of posture two exercises have in common from which one counts as
// made from the other (product default): a changed angle or two makes no new exercise.
const alikeFrom = 0.6

// copied is the entry an own version is held against: the one whose postures it mostly uses, of
// equals the one it names, then the easiest; where its postures are its own, the harder of the
// one it names and the easiest of its family. An own version is no way round a limit: what the
// entry says of effort, weight and what cannot be measured holds for it too.
func (c *Catalogue) copied(v *Version) *Version {
	own := v.poseLines()
	var alike, family *Version
	most := alikeFrom
	for _, w := range c.Versions {
		if strings.HasPrefix(w.Slug, OwnPrefix) || len(w.Phases) == 0 {
			continue
		}
		share := common(own, w.poseLines())
		if share > most ||
			share == most && (alike == nil || w.Slug == v.Copies || alike.Slug != v.Copies && w.Effort < alike.Effort) {
			alike, most = w, share
		}
		if w.Family == v.Family && (family == nil || w.Effort < family.Effort) {
			family = w
		}
	}
	if alike != nil {
		return alike
	}
	if named := c.bySlug[v.Copies]; named != nil && (family == nil || named.Effort > family.Effort) {
		return named
	}
	return family
}

// poseLines are the lines of all postures without their layout and their drawing.
func (v *Version) poseLines() map[string]bool {
	out := map[string]bool{}
	for i := range v.Phases {
		for _, l := range strings.FieldsFunc(v.Phases[i].Pose, func(r rune) bool { return r == ';' || r == '\n' }) {
			if l = strings.Join(strings.Fields(l), " "); l != "" && !strings.HasPrefix(l, "view ") {
				out[l] = true
			}
		}
	}
	return out
}

// common is the share of all lines of two exercises that both have.
func common(a, b map[string]bool) float64 {
	both := 0
	for l := range a {
		if b[l] {
			both++
		}
	}
	if both == 0 {
		return 0
	}
	return float64(both) / float64(len(a)+len(b)-both)
}

var dumbbell = regexp.MustCompile(`hold dumbbell \S+ ([0-9.]+)`)

// kilograms is the heaviest weight held in any phase.
func (v *Version) kilograms() (most float64) {
	for i := range v.Phases {
		for _, m := range dumbbell.FindAllStringSubmatch(v.Phases[i].Pose, -1) {
			if kg, err := strconv.ParseFloat(m[1], 64); err == nil {
				most = max(most, kg)
			}
		}
	}
	return most
}

// lighter lists where an own version says less than what it copies; a written reason, which is
// shown with every verdict, allows all but walking, which would lift limits.
func (c *Catalogue) lighter(v *Version) (problems []string) {
	w := c.copied(v)
	if w == nil {
		return nil
	}
	if v.Walking && !w.Walking {
		problems = append(
			problems,
			v.problem("walking", fmt.Sprintf("found true, allowed: only where %s, which it copies, is walking", w.Slug)),
		)
	}
	if strings.TrimSpace(v.Lighter) != "" {
		return problems
	}
	say := func(field, found, allowed string) {
		problems = append(
			problems,
			v.problem(
				field,
				fmt.Sprintf(
					"found %s, allowed: %s as %s has it, or say under lighter why this one is easier",
					found,
					allowed,
					w.Slug,
				),
			),
		)
	}
	if v.Effort < w.Effort {
		say("effort", strconv.Itoa(v.Effort), fmt.Sprintf("%d or more", w.Effort))
	}
	for _, d := range w.Declared {
		if !Has(v.Declared, d) {
			say("declared", fmt.Sprintf("no %q", d), fmt.Sprintf("%q", d))
		}
	}
	if kg := w.kilograms(); v.kilograms() < kg {
		say("phases", fmt.Sprintf("%g kg", v.kilograms()), fmt.Sprintf("%g kg or more", kg))
	}
	return problems
}
