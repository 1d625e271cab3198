package catalogue

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"restbend/core/say"
)

// An entry that changes gets the next revision; its old text stays readable in the
// revisions folder, so that an old log keeps its meaning. The lock file holds a
// fingerprint of every entry: a change without a new revision fails a test. Words are not the
// exercise: they raise no revision, and words.lock notices when they change.

// oldEntry is an old entry's text, read when somebody asks for it: hundreds are kept and
// few are ever opened.
type oldEntry struct {
	file string
	text []byte
	read func() (*Version, error)
}

// Revision returns an entry as it was at a revision.
func (c *Catalogue) Revision(slug string, n int) (*Version, bool) {
	v, ok := c.bySlug[slug]
	if !ok {
		return nil, false
	}
	if v.Revision == n {
		return v, true
	}
	e := c.old[slug][n]
	if e == nil {
		return nil, false
	}
	old, err := e.read()
	return old, err == nil
}

// Revisions lists the old revisions of an entry, newest first.
func (c *Catalogue) Revisions(slug string) []*Version {
	var out []*Version
	for _, e := range c.old[slug] {
		if v, err := e.read(); err == nil {
			out = append(out, v)
		}
	}
	sort.Slice(out, func(i, k int) bool { return out[i].Revision > out[k].Revision })
	return out
}

// CheckRevisions reads every old entry and reports what is wrong with one.
func (c *Catalogue) CheckRevisions() error {
	var problems []string
	for _, revisions := range c.old {
		for _, e := range revisions {
			if _, err := e.read(); err != nil {
				problems = append(problems, err.Error())
			}
		}
	}
	if problems != nil {
		sort.Strings(problems)
		return &Error{problems}
	}
	return nil
}

var (
	entryStart = regexp.MustCompile(`(?m)^- version: *(\S+)`)
	entryRev   = regexp.MustCompile(`(?m)^  revision: *(\d+)`)
)

// archive finds the old entries without reading them and checks that none is missing.
func (c *Catalogue) archive(files map[string][]byte) []string {
	var problems []string
	c.old = map[string]map[int]*oldEntry{}
	for name, data := range files {
		starts := entryStart.FindAllSubmatchIndex(data, -1)
		for i, at := range starts {
			end := len(data)
			if i+1 < len(starts) {
				end = starts[i+1][0]
			}
			slug, text, n := string(data[at[2]:at[3]]), data[at[0]:end], 1
			if m := entryRev.FindSubmatch(text); m != nil {
				n, _ = strconv.Atoi(string(m[1]))
			}
			if c.old[slug] == nil {
				c.old[slug] = map[int]*oldEntry{}
			}
			e := &oldEntry{file: name, text: text}
			e.read = sync.OnceValues(e.parse)
			c.old[slug][n] = e
		}
	}
	for _, v := range c.Versions {
		for n := 1; n < v.Revision; n++ {
			if c.old[v.Slug][n] == nil {
				problems = append(
					problems,
					v.problem("revision", fmt.Sprintf("revision %d is not kept in the revisions folder", n)),
				)
			}
		}
	}
	sort.Strings(problems)
	return problems
}

func (e *oldEntry) parse() (*Version, error) {
	vs, err := readFile(e.file, e.text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", e.file, err)
	}
	if len(vs) != 1 {
		return nil, fmt.Errorf("%s: an old entry cannot be read alone", e.file)
	}
	if vs[0].Superseded == "" {
		return nil, errors.New(vs[0].problem("superseded", "is missing: the day and what changed"))
	}
	return vs[0], nil
}

// Fingerprint identifies what an exercise is: its doses, poses, sides and needs. What is said
// of it has a fingerprint of its own (Words), and shared eases are not its own.
func (v *Version) Fingerprint() string {
	own := *v
	own.Hours = nil // where extra passes go, not what the exercise is
	own.Say, own.Faults, own.Aliases, own.Shaking = say.Say{}, nil, nil, ""
	// Classes say how programs use the entry, not what it is.
	own.MainAims, own.Also, own.InsteadOf, own.Walking, own.Sibling, own.Camera = v.Aims, nil, "", false, "", ""
	own.Eases = slices.DeleteFunc(slices.Clone(v.Eases), func(e Ease) bool { return e.Shared })
	for i, e := range own.Eases {
		own.Eases[i] = Ease{Slug: e.Slug, Phases: e.Phases, Kit: e.Kit, Another: e.Another, StoppedBy: e.StoppedBy, Stops: e.Stops}
	}
	return hashOf(own)
}

// WordsFingerprint identifies everything that is said of an entry, its eases with it.
func (v *Version) WordsFingerprint() string {
	type easeWords struct {
		Slug, Name, Short, StoppedBy string
		Say                          []string
		Instead                      map[string]string
	}
	words := struct {
		Say     say.Say
		Faults  []say.Fault
		Aliases []string
		Eases   []easeWords
	}{v.Say, v.Faults, v.Aliases, nil}
	for i := range v.Eases {
		e := &v.Eases[i]
		words.Eases = append(words.Eases, easeWords{e.Slug, e.Name, e.Short, e.StoppedBy, e.Sentences(), e.Instead})
	}
	return hashOf(words)
}

func hashOf(what any) string {
	data, err := yaml.Marshal(what)
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

// WordsLock writes the fingerprints of what is said of every entry, one a line: slug, fingerprint.
func (c *Catalogue) WordsLock() string {
	var lines []string
	for _, v := range c.Versions {
		lines = append(lines, v.Slug+" "+v.WordsFingerprint())
	}
	sort.Strings(lines)
	return strings.Join(lines, "\n") + "\n"
}
