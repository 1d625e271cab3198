package catalogue

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"sort"
	"strings"

	"gopkg.in/yaml.v3"
)

// An entry that changes gets the next revision; its old text stays readable in the
// revisions folder, so that an old log keeps its meaning. The lock file holds a
// fingerprint of every entry: a change without a new revision fails a test.

// Revision returns an entry as it was at a revision.
func (c *Catalogue) Revision(slug string, n int) (*Version, bool) {
	v, ok := c.bySlug[slug]
	if !ok {
		return nil, false
	}
	if v.Revision == n {
		return v, true
	}
	old, ok := c.old[slug][n]
	return old, ok
}

// Revisions lists the old revisions of an entry, newest first.
func (c *Catalogue) Revisions(slug string) []*Version {
	var out []*Version
	for _, v := range c.old[slug] {
		out = append(out, v)
	}
	sort.Slice(out, func(i, k int) bool { return out[i].Revision > out[k].Revision })
	return out
}

// archive reads the old entries and checks that none is missing.
func (c *Catalogue) archive(files map[string][]byte) []string {
	var problems []string
	c.old = map[string]map[int]*Version{}
	for name, data := range files {
		vs, err := readFile(name, data)
		if err != nil {
			problems = append(problems, name+": "+err.Error())
			continue
		}
		for _, v := range vs {
			if v.Superseded == "" {
				problems = append(problems, v.problem("superseded", "is missing: the day and what changed"))
			}
			if c.old[v.Slug] == nil {
				c.old[v.Slug] = map[int]*Version{}
			}
			c.old[v.Slug][v.Revision] = v
		}
	}
	for _, v := range c.Versions {
		for n := 1; n < v.Revision; n++ {
			if c.old[v.Slug][n] == nil {
				problems = append(problems, v.problem("revision", fmt.Sprintf("revision %d is not kept in the revisions folder", n)))
			}
		}
	}
	sort.Strings(problems)
	return problems
}

// Fingerprint identifies the wording, doses and poses of an entry; shared eases are not
// its own.
func (v *Version) Fingerprint() string {
	own := *v
	own.Hours = nil // where extra passes go, not what the exercise is
	own.Eases = slices.DeleteFunc(slices.Clone(v.Eases), func(e Ease) bool { return e.Shared })
	data, err := yaml.Marshal(own)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])[:16]
}

// Lock writes the fingerprints of all entries, one a line: slug, revision, fingerprint.
func (c *Catalogue) Lock() string {
	var lines []string
	for _, v := range c.Versions {
		lines = append(lines, fmt.Sprintf("%s %d %s", v.Slug, v.Revision, v.Fingerprint()))
	}
	sort.Strings(lines)
	return strings.Join(lines, "\n") + "\n"
}
