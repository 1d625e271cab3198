package catalogue

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/trade"
)

// OwnPrefix begins the slug of an instructor's own version.
const OwnPrefix = "own-"

// mostSlug is how long the rest of an own version's name is, characters (product default).
const mostSlug = 60

var ownSlug = regexp.MustCompile(fmt.Sprintf(`^%s[a-z0-9-]{1,%d}$`, OwnPrefix, mostSlug))

// IsOwnSlug tells whether a text may name an own version: it becomes part of addresses and file names.
func IsOwnSlug(text string) bool { return ownSlug.MatchString(text) }

// Copy is the beginning of an own version: everything of an entry under a new slug,
// without the eases, which were solved for the original's poses.
func (v *Version) Copy(slug, name string) *Version {
	w := *v
	w.Slug, w.Name, w.Revision = slug, name, 1
	if !strings.HasPrefix(v.Slug, OwnPrefix) {
		w.Copies = v.Slug
	}
	w.Eases, w.Swaps, w.Same = nil, nil, Swap{}
	if v.Ease(v.Sibling) != nil { // the original's ease
		w.Sibling = v.Slug + "/" + v.Sibling
	}
	if v.On != nil { // solved for the original's poses
		w.On = nil
		w.Surfaces = slices.DeleteFunc(slices.Clone(v.Surfaces), func(s trade.Surface) bool { return v.On[s] != nil })
	}
	w.Changes = "a version of " + v.Name
	w.Solved, w.Quantities, w.Doses = nil, nil, nil
	w.Aliases = slices.Clone(v.Aliases)
	w.Phases = slices.Clone(v.Phases)
	for i := range w.Phases {
		w.Phases[i].Pose = strings.ReplaceAll(w.Phases[i].Pose, "; ", "\n")
	}
	return &w
}

// YAML writes an entry as a file of the catalogue's own format.
func (v *Version) YAML() ([]byte, error) {
	var buf bytes.Buffer
	e := yaml.NewEncoder(&buf)
	e.SetIndent(2)
	if err := e.Encode([]*Version{v}); err != nil {
		return nil, err
	}
	return buf.Bytes(), e.Close()
}

// ReadOwn reads an own version from a file with one entry. What is wrong with its words
// or poses is an *Error that names line and field; the version is returned nevertheless
// when the file could be read at all, so that nothing typed is lost.
func (c *Catalogue) ReadOwn(name string, data []byte) (*Version, error) {
	vs, err := readFile(name, data)
	if err != nil {
		return nil, &Error{[]string{name + ": " + err.Error()}}
	}
	if len(vs) != 1 {
		return nil, &Error{[]string{fmt.Sprintf("%s: holds %d exercises, allowed: one", name, len(vs))}}
	}
	return vs[0], c.CheckOwn(vs[0])
}

// CheckOwn reports every mistake in an own version's words and statements.
func (c *Catalogue) CheckOwn(v *Version) error {
	if v.file == nil {
		v.file = &file{name: v.Slug}
	}
	var problems []string
	f, ok := c.byFamily[v.Family]
	if !ok {
		problems = append(problems, v.problem("family", fmt.Sprintf("unknown family %q", v.Family)))
	} else {
		v.Branch, v.Rung, v.Set = len(f.Branches), 0, false
	}
	if !IsOwnSlug(v.Slug) {
		problems = append(
			problems,
			v.problem(
				"version",
				fmt.Sprintf("found %.80q, allowed: %s and up to %d small letters, digits and hyphens", v.Slug, OwnPrefix, mostSlug),
			),
		)
	}
	if v.Eases != nil {
		problems = append(problems, v.problem("eases", "an own version has no eases"))
	}
	if ok {
		problems = append(problems, v.check(c, c.presets)...)
		problems = append(problems, c.lighter(v)...)
	}
	if problems != nil {
		return &Error{problems}
	}
	return nil
}

// Attach gives a version its solved poses.
func (v *Version) Attach(s *Solved) { v.Solved, v.Quantities = s, s.Quantities.with(v, s) }

// Fits tells whether solved poses belong to the version's text.
func (v *Version) Fits(s *Solved) bool { return s != nil && s.Key == v.PoseKey(nil) }

// With returns the catalogue with own versions added, each on a branch of its own at the
// end of its family. The receiver stays as it is.
func (c *Catalogue) With(own []*Version) *Catalogue {
	if len(own) == 0 {
		return c
	}
	out := &Catalogue{
		Versions: slices.Clone(c.Versions),
		bySlug:   map[string]*Version{},
		byFamily: map[string]*Family{},
		onLadder: c.onLadder,
		presets:  c.presets,
		names:    c.names,
		old:      c.old,
	}
	for _, f := range c.Families {
		g := *f
		g.Branches = slices.Clone(f.Branches)
		out.Families = append(out.Families, &g)
		out.byFamily[g.Name] = &g
	}
	for _, v := range own {
		f, ok := out.byFamily[v.Family]
		if !ok || v.Solved == nil {
			continue
		}
		v.Branch = len(f.Branches)
		f.Branches = append(f.Branches, []string{v.Slug})
		last := 0
		for i, w := range out.Versions {
			if w.Family == v.Family {
				last = i + 1
			}
		}
		out.Versions = slices.Insert(out.Versions, last, v)
	}
	for _, v := range out.Versions {
		out.bySlug[v.Slug] = v
	}
	return out
}

// Presets are the names of the dose ladders, for choosing.
func (c *Catalogue) Presets() []string {
	var out []string
	for name := range c.presets {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}
