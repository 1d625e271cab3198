package catalogue

import (
	"fmt"
	"slices"
)

// swapRule is a line of the swaps file.
type swapRule struct {
	From []string `yaml:"from"`
	To   []Swap   `yaml:"to"`
}

// readSwaps adds the swaps of the file to what the entries name themselves.
func (c *Catalogue) readSwaps(data []byte) []string {
	var rules []swapRule
	var problems []string
	say := func(at, format string, a ...any) {
		problems = append(problems, fmt.Sprintf("swaps.yaml:%d: ", lineOf(data, at))+fmt.Sprintf(format, a...))
	}
	if err := strict(data, &rules); err != nil {
		say("", "%v", err)
		return problems
	}
	for _, r := range rules {
		for _, from := range r.From {
			var all []*Version
			for _, v := range c.Versions {
				if v.Slug == from || v.Family == from {
					all = append(all, v)
				}
			}
			if all == nil {
				say(from, "from %q, which is no version and no family", from)
			}
			for _, to := range r.To {
				w, ok := c.bySlug[to.Version]
				if !ok || to.Note == "" {
					say(to.Version, "to %q: a version, and what it keeps", to.Version)
					continue
				}
				for _, v := range all {
					switch {
					case w == v, w.Family == v.Family && !v.Set: // its own ladder answers first
						continue
					case !slices.ContainsFunc(v.Aims, func(a string) bool { return slices.Contains(w.Aims, a) }):
						if v.Slug == from { // of a family only those it fits
							say(to.Version, "%s serves no aim of %s", w.Slug, v.Slug)
						}
					case !slices.ContainsFunc(v.Swaps, func(s Swap) bool { return s.Version == w.Slug }):
						v.written = append(v.written, to)
					}
				}
			}
		}
	}
	return problems
}

// WrittenSwaps are the swaps that are written for a version, best first: its own, then those of
// the swaps file.
func (v *Version) WrittenSwaps() []Swap { return slices.Concat(v.Swaps, v.written) }

// SwapWritten tells whether a swap is written.
func (c *Catalogue) SwapWritten(v, w *Version) bool {
	return slices.ContainsFunc(v.WrittenSwaps(), func(s Swap) bool { return s.Version == w.Slug })
}
