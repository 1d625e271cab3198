package library

import (
	"strings"

	"restbend/core/catalogue"
)

// Finder is a search by name: an entry's own names and aims, or what it is called elsewhere.
type Finder struct {
	query string
	Named []namedHere
	led   map[string]bool
}

// NewFinder looks for a query in names, aims, and what exercises are called elsewhere.
func NewFinder(cat *catalogue.Catalogue, query string) *Finder {
	f := &Finder{query: query, led: map[string]bool{}}
	for _, n := range cat.Names(query) {
		h := namedHere{Name: n.Name, Note: n.Note}
		for _, slug := range n.Leads {
			if v, ok := cat.Version(slug); ok {
				h.Leads, f.led[slug] = append(h.Leads, v), true
			}
		}
		f.Named = append(f.Named, h)
	}
	return f
}

// Finds tells whether a version is found.
func (f *Finder) Finds(v *catalogue.Version) bool { return f.led[v.Slug] || matches(v, f.query) }

// namedHere says which entries a trade name leads to.
type namedHere struct {
	Name, Note string
	Leads      []*catalogue.Version
}

// matches searches names, aliases, slug and aims.
func matches(v *catalogue.Version, q string) bool {
	q = strings.ToLower(strings.TrimSpace(q))
	text := strings.ToLower(
		v.Name + " " + strings.Join(v.Aliases, " ") + " " + v.Slug + " " + strings.Join(v.Aims, " ") + " " + v.Family,
	)
	for _, word := range strings.Fields(q) {
		if !strings.Contains(text, word) {
			return false
		}
	}
	return true
}
