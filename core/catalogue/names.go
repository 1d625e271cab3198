package catalogue

import (
	"fmt"
	"slices"
	"strings"
)

// TradeName is what an exercise is called elsewhere, and the entries it leads to.
type TradeName struct {
	Name  string   `yaml:"name"`
	Leads []string `yaml:"leads"`
	Note  string   `yaml:"note"` // what differs, where the entry is only the nearest
}

// readNames reads and checks the names file.
func (c *Catalogue) readNames(data []byte) []string {
	var problems []string
	say := func(at, format string, a ...any) {
		problems = append(problems, fmt.Sprintf("names.yaml:%d: ", lineOf(data, at))+fmt.Sprintf(format, a...))
	}
	if err := strict(data, &c.names); err != nil {
		say("", "%v", err)
	}
	seen := map[string]bool{}
	for _, n := range c.names {
		if n.Name == "" || len(n.Leads) == 0 {
			say(n.Name, "%q leads nowhere", n.Name)
		}
		if seen[n.Name] {
			say("name: "+n.Name, "%q stands twice", n.Name)
		}
		seen[n.Name] = true
		for _, slug := range n.Leads {
			if _, ok := c.bySlug[slug]; !ok {
				say(slug, "%s: leads: found %q, allowed: a version of the ladders", n.Name, slug)
			}
		}
	}
	return problems
}

// Names are the trade names that a search may mean: all its words, each the beginning of a
// word of the name, singular or plural.
func (c *Catalogue) Names(query string) (out []TradeName) {
	words := strings.FieldsFunc(strings.ToLower(query), func(r rune) bool { return r == ' ' || r == '-' })
	if len(words) == 0 {
		return nil
	}
	for _, n := range c.names {
		name := strings.FieldsFunc(n.Name, func(r rune) bool { return r == ' ' || r == '-' })
		if !slices.ContainsFunc(words, func(w string) bool {
			w = singular(w)
			return len(w) < 3 ||
				!slices.ContainsFunc(
					name,
					func(p string) bool { return strings.HasPrefix(p, w) || strings.HasPrefix(w, p) && len(p) > 3 },
				)
		}) {
			out = append(out, n)
		}
	}
	return out
}

// singular drops the s of a plural.
func singular(w string) string {
	if s, ok := strings.CutSuffix(w, "s"); ok && len(s) > 2 && !strings.HasSuffix(s, "s") {
		return s
	}
	return w
}
