package catalogue

import (
	"fmt"
	"slices"
	"strings"
)

// A Gate says what opens a rung that is not a place to start: rungs that must have been
// reached and held, all of them or any. A gate is reached by the log, by "seen elsewhere",
// or by the lower rung shown clean earlier in the session (domain/07).
type Gate struct {
	Steps   []GateStep
	Any     bool
	Upright bool   // binds only clients whose place is upright: from a chair, wall or counter to the floor
	School  string // a side plank school in which the rung is a start
	Effort  int    // a clean easier exercise of the same main aim, and work at this effort
}

// GateStep is one rung that must have been reached, and how far.
type GateStep struct {
	Version string `yaml:"version"`
	HoldS   int    `yaml:"hold_s"`
	Pattern []int  `yaml:"pattern"` // of 10 s holds: opens as well
	Reps    int    `yaml:"reps"`
	Sets    int    `yaml:"sets"`
}

// gateRule is a line of the gates file.
type gateRule struct {
	Opens  []string   `yaml:"opens"`
	Any    []GateStep `yaml:"any"`
	All    []GateStep `yaml:"all"`
	School string     `yaml:"school"`
	Effort int        `yaml:"effort"`
}

type gateFile struct {
	Starts []string   `yaml:"starts"` // rungs that open at once although another stands before them
	Gates  []gateRule `yaml:"gates"`
}

// pyramid is the falling set that opens every gate in seconds as well.
var pyramid = []int{6, 4, 2}

// openGates gives every version its start or its gate: what the file names, else the rung
// before it in its branch; first rungs, members of sets and versions for people who cannot
// do the rung before are starts.
func (c *Catalogue) openGates(data []byte) []string {
	var file gateFile
	var problems []string
	say := func(at, format string, a ...any) {
		problems = append(problems, fmt.Sprintf("gates.yaml:%d: ", lineOf(data, at))+fmt.Sprintf(format, a...))
	}
	if err := strict(data, &file); err != nil {
		say("", "%v", err)
		return problems
	}
	rules := c.gateRules(&file, say)
	for _, v := range c.Versions {
		before, rule := c.Previous(v), rules[v.Slug]
		g := &Gate{}
		switch {
		case slices.Contains(file.Starts, v.Slug):
		case rule != nil:
			g.School, g.Effort, g.Any = rule.School, rule.Effort, len(rule.Any) > 0
			g.Steps = append(slices.Clone(rule.Any), rule.All...)
			if len(g.Steps) == 0 && before != nil {
				g.Steps = []GateStep{{Version: before.Slug}}
			}
			v.Gate = g
		case before != nil && v.InsteadOf != "" && before.InsteadOf == "":
			// who cannot do the rung before must be able to begin
		case before != nil:
			g.Steps = []GateStep{{Version: before.Slug}}
			v.Gate = g
		}
		if v.Start = v.Gate != g; v.Start {
			continue
		}
		for i := range g.Steps {
			s := &g.Steps[i]
			if s.HoldS > 0 && s.Pattern == nil {
				s.Pattern = pyramid
			}
			w := c.bySlug[s.Version]
			g.Upright = g.Upright || w != nil && w.InsteadOf == "floor" && v.InsteadOf == ""
		}
	}
	return problems
}

// gateRules are the gates of the file by what they open.
func (c *Catalogue) gateRules(file *gateFile, say func(at, format string, a ...any)) map[string]*gateRule {
	known := func(slug string) bool {
		_, ok := c.bySlug[slug]
		if !ok {
			say(slug, "found %q, allowed: a version of the ladders", slug)
		}
		return ok
	}
	rules := map[string]*gateRule{}
	for i := range file.Gates {
		g := &file.Gates[i]
		if len(g.Any) > 0 == (len(g.All) > 0) && g.Effort == 0 {
			say(strings.Join(g.Opens, ", "), "opens %s: needs any or all, a list of rungs", strings.Join(g.Opens, ", "))
		}
		for _, s := range append(slices.Clone(g.Any), g.All...) {
			if known(s.Version) && slices.Contains(g.Opens, s.Version) {
				say(s.Version, "%s opens itself", s.Version)
			}
		}
		for _, slug := range g.Opens {
			if !known(slug) {
				continue
			}
			if rules[slug] != nil {
				say(slug, "%s has two gates", slug)
			}
			rules[slug] = g
		}
	}
	for _, slug := range file.Starts {
		if known(slug) && rules[slug] != nil {
			say(slug, "%s is a start and has a gate", slug)
		}
	}
	return rules
}

// Words says what opens the gate.
func (g *Gate) Words(c *Catalogue) string {
	var steps []string
	for _, s := range g.Steps {
		name := s.Version
		if v, ok := c.Version(s.Version); ok {
			name = v.Name
		}
		how := ", clean"
		switch {
		case s.HoldS > 0:
			how = fmt.Sprintf(" for %d s, or 6-4-2 of 10 s", s.HoldS)
		case s.Sets > 0:
			how = fmt.Sprintf(", %d x %d easy", s.Sets, s.Reps)
		case s.Reps > 0:
			how = fmt.Sprintf(", %d times clean", s.Reps)
		}
		steps = append(steps, name+how)
	}
	out := strings.Join(steps, map[bool]string{true: ", or ", false: ", and "}[g.Any])
	if g.Effort > 0 {
		if out != "" {
			out += ", and "
		}
		out += fmt.Sprintf("effort %d and an easier exercise of the same aim, clean", g.Effort)
	}
	if g.Upright {
		out += " (for clients who stay upright)"
	}
	if g.School != "" {
		out += "; a start where side planks are done on the " + g.School
	}
	return out
}
