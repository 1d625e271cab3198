package catalogue

import (
	"fmt"
	"maps"
	"slices"
)

// Preferences are what is proposed and preferred when nobody says otherwise (domain/07).
type Preferences struct {
	Aims    map[string]map[string]float64 `yaml:"aims"`     // by condition, day and age: aims with their weights
	Usual   map[string][]string           `yaml:"usual"`    // by condition: the families an instructor reaches for first
	Instead map[string]string             `yaml:"instead"`  // by version: the one it stands in for
	OnlyFor map[string][]string           `yaml:"only_for"` // by family or version: the conditions it is kept for
}

// readPreferences reads the preferences file; mistakes name what they are about.
func (c *Catalogue) readPreferences(data []byte) (problems []string) {
	say := func(format string, a ...any) {
		problems = append(problems, "preferences.yaml: "+fmt.Sprintf(format, a...))
	}
	if err := strict(data, &c.Preferences); err != nil {
		say("%v", err)
		return problems
	}
	p := &c.Preferences
	for _, of := range slices.Sorted(maps.Keys(p.Aims)) {
		for a, w := range p.Aims[of] {
			if !Has(Aims, a) || w <= 0 || w > 3 {
				say("aims: %s: found %s: %g, allowed: an aim, above 0 to 3", of, a, w)
			}
		}
	}
	for _, of := range slices.Sorted(maps.Keys(p.Usual)) {
		for _, f := range p.Usual[of] {
			if _, ok := c.Family(f); !ok {
				say("usual: %s: there is no family %q", of, f)
			}
		}
	}
	for v, w := range p.Instead {
		for _, slug := range []string{v, w} {
			if _, ok := c.Version(slug); !ok {
				say("instead: there is no version %q", slug)
			}
		}
	}
	for name := range p.OnlyFor {
		_, family := c.Family(name)
		if _, version := c.Version(name); !family && !version {
			say("only_for: there is no family or version %q", name)
		}
	}
	slices.Sort(problems)
	return problems
}
