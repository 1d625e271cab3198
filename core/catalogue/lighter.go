package catalogue

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// copied is the entry an own version is held against: the one it names, unless its postures are
// those of another; where it names none, the easiest of those whose beginning and posture of
// effort it uses, else the easiest of its family. An own version is no way round a limit: what
// the entry says of effort, weight and what cannot be measured holds for it too.
func (c *Catalogue) copied(v *Version) *Version {
	poses := map[string]bool{}
	for i := range v.Phases {
		poses[plainPose(v.Phases[i].Pose)] = true
	}
	var alike, family *Version
	for _, w := range c.Versions {
		if strings.HasPrefix(w.Slug, OwnPrefix) || len(w.Phases) == 0 {
			continue
		}
		if poses[plainPose(w.Phases[0].Pose)] && poses[plainPose(w.Phases[w.EffortPhase()].Pose)] {
			if w.Slug == v.Copies {
				return w
			}
			if alike == nil || w.Effort < alike.Effort {
				alike = w
			}
		}
		if w.Family == v.Family && (family == nil || w.Effort < family.Effort) {
			family = w
		}
	}
	switch named := c.bySlug[v.Copies]; {
	case alike != nil:
		return alike
	case named != nil:
		return named
	}
	return family
}

// plainPose is a posture's text without its layout and its drawing.
func plainPose(text string) string {
	var lines []string
	for _, l := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		if l = strings.Join(strings.Fields(l), " "); l != "" && !strings.HasPrefix(l, "view ") {
			lines = append(lines, l)
		}
	}
	return strings.Join(lines, "\n")
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
		problems = append(problems, v.problem("walking", fmt.Sprintf("found true, allowed: only where %s, which it copies, is walking", w.Slug)))
	}
	if strings.TrimSpace(v.Lighter) != "" {
		return problems
	}
	say := func(field, found, allowed string) {
		problems = append(problems, v.problem(field, fmt.Sprintf("found %s, allowed: %s as %s has it, or say under lighter why this one is easier", found, allowed, w.Slug)))
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
