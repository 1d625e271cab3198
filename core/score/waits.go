package score

import (
	"cmp"
	"slices"
)

// A led session waits after set-up, rest and change. Where that would be more than fits the hands of somebody who is
// needed elsewhere, the rests of the easiest work, then its changes of side, run their seconds and go on by themselves
// (domain/08: hardly more than one touch an item). Waits are so many in an hour of these minutes, and no fewer
// than leastWaits in any (product defaults: 25 in 45 minutes leave room for what happens).
const (
	waitsIn    = 25
	minutesFor = 45
	leastWaits = 12
)

// spare lets boundaries between sets flow from a segment on, so that no more waits are left than fit. Of two
// that follow each other one always waits: a touch begins or ends every set. Set-ups always wait.
func (s *Score) spare(from int) {
	var at []int // the boundaries of sets, in order
	waits := 0
	for i := range s.Segments {
		switch g := &s.Segments[i]; g.Kind {
		case Setup, Rest, Change:
			at = append(at, i)
			if g.Wait {
				waits++
			}
		}
	}
	var may []int // places in at
	for k, i := range at {
		if g := &s.Segments[i]; i >= from && g.Wait && g.Kind != Setup {
			may = append(may, k)
		}
	}
	slices.SortStableFunc(may, func(a, b int) int {
		x, y := &s.Segments[at[a]], &s.Segments[at[b]]
		return cmp.Or(
			cmp.Compare(b2i(x.Kind == Change), b2i(y.Kind == Change)),
			cmp.Compare(s.Items[x.Item].Effort, s.Items[y.Item].Effort),
		)
	})
	most := max(leastWaits, int(s.Seconds/60*waitsIn/minutesFor))
	flows := func(k int) bool { return k >= 0 && k < len(at) && !s.Segments[at[k]].Wait }
	for _, k := range may {
		if waits <= most {
			return
		}
		if !flows(k-1) && !flows(k+1) {
			s.Segments[at[k]].Wait = false
			waits--
		}
	}
}
