package score

import (
	"fmt"
	"slices"

	"restbend/core/plan"
	"restbend/core/trade"
)

// Next is what follows after a change on the spot: whether the running item, or its side block, goes on to
// its end first, and what comes then.
type Next struct {
	Finish bool
	Items  []plan.Item
}

// Changed is a new score from a running one at a second. What ran stays as it was; the running segment is
// cut there, unless its item is finished first; then comes the new rest, from the position the client is in.
// It fails when the second lies outside or the rest could not be run.
func Changed(s *Score, at float64, because string, next Next, f Facts) (*Score, error) {
	if at < 0 || at > s.Seconds {
		return nil, fmt.Errorf("changed_s: found %g, allowed: 0 to %g", at, s.Seconds)
	}
	at = seconds(ms(at))
	rest := &plan.Plan{Items: next.Items}
	if err := check(rest, f); err != nil {
		return nil, err
	}
	f.Mode = s.Mode
	b := newBuilder(f)
	b.out.Rev, b.out.ChangedS, b.out.Because = s.Rev+1, at, because
	b.out.Breaths, b.out.Cautions, b.out.Doses = s.Breaths, s.Cautions, s.Doses
	b.rate = s.Breaths
	if f.Breaths > 0 {
		b.rate, b.out.Breaths = f.Breaths, f.Breaths
	}
	running := s.Running(at)
	last := -1 // the last item that ran or runs to its end
	for i := range s.Segments {
		g := s.Segments[i]
		switch {
		case i < running, g.End <= at: // it ran
		case i == running && !next.Finish:
			if g.End = at; g.End == g.Start {
				continue
			}
			if g.Cut = at < s.Segments[i].End; g.Cut {
				g.Wait = false // nobody waits at a cut
			}
		case !next.Finish || g.Kind == Finish || !s.Together(g.Item, s.Segments[running].Item):
			continue
		}
		b.out.Segments = append(b.out.Segments, g)
		last = max(last, g.Item)
		b.now = ms(g.End)
	}
	b.kept = len(b.out.Segments)
	if running < len(s.Segments) {
		last = max(last, s.Segments[running].Item)
	}
	for i := 0; i <= last; i++ {
		b.out.Items = append(b.out.Items, s.Items[i])
		b.work = append(b.work, &worked{}) // what ran is not laid out again
	}
	if last >= 0 {
		it := &s.Items[last]
		b.at = plan.Place{Position: it.Position, Surface: it.Surface}
		if n := len(b.out.Segments); n > 0 && b.out.Segments[n-1].Item == last {
			if v, ok := f.Catalogue.Version(it.Version); ok {
				b.lain, _ = v.LyingOn(b.out.Segments[n-1].Side).Side()
			}
		}
	}
	if n := len(b.out.Segments); n > 0 && b.out.Segments[n-1].Kind == Finish && !b.out.Segments[n-1].Cut {
		b.at = b.home()
	}
	from := len(b.work)
	for i := range next.Items {
		b.item(&next.Items[i])
	}
	for i := from; i < len(b.out.Items); i++ {
		b.out.Items[i].Block = b.blockAfter(s, b.out.Items[i].Block)
	}
	for i := from; i < len(b.work); {
		i = b.next(i)
	}
	if len(b.work) > 0 {
		b.move(len(b.work)-1, b.home(), Finish)
	}
	return b.done(), nil
}

// blockAfter keeps the side blocks of the rest apart from those that ran.
func (b *builder) blockAfter(s *Score, block int) int {
	if block == 0 {
		return 0
	}
	most := 0
	for i := range s.Items {
		most = max(most, s.Items[i].Block)
	}
	return most + block
}

func ms(seconds float64) int { return int(seconds*1000 + 0.5) }

// LastRunning is the last item that has begun by a second, or is finished with the one that has.
func (s *Score) LastRunning(at float64) (last int) {
	if len(s.Segments) == 0 {
		return -1
	}
	here := s.Segments[s.Running(at)].Item
	for i := range s.Items {
		if i <= here || s.Together(i, here) {
			last = i
		}
	}
	return last
}

// EndOf is where an item ends that is under way at a second, with what is done together with it.
func (s *Score) EndOf(item int, at float64) (end float64) {
	end = at
	for i := range s.Segments {
		if g := &s.Segments[i]; item >= 0 && s.Together(g.Item, item) && g.Kind != Finish {
			end = max(end, g.End)
		}
	}
	return end
}

// Together tells whether two items are one: the same, or of one side block.
func (s *Score) Together(a, b int) bool {
	return a == b || s.Items[a].Block > 0 && s.Items[a].Block == s.Items[b].Block
}

// Running is the segment at a second; the last one at the end, and 0 when there is none.
func (s *Score) Running(at float64) int {
	i, _ := slices.BinarySearchFunc(s.Segments, at, func(g Segment, at float64) int {
		if g.End <= at {
			return -1
		}
		return 1
	})
	return min(i, max(0, len(s.Segments)-1))
}

// RepEnd is the second at which the repetition ends that is under way; ok is false when none is.
func (s *Score) RepEnd(at float64) (end float64, ok bool) {
	if len(s.Segments) == 0 {
		return at, false
	}
	i := s.Running(at)
	g := &s.Segments[i]
	if g.Kind != Work || at < g.Start {
		return at, false
	}
	for i+1 < len(s.Segments) && s.Segments[i+1].SameRep(g) {
		i++
	}
	return s.Segments[i].End, true
}

// SameRep tells whether two segments are of one repetition.
func (g *Segment) SameRep(o *Segment) bool {
	return g.Kind == Work && o.Kind == Work && g.Item == o.Item && g.Set == o.Set && g.Rep == o.Rep && g.Side == o.Side &&
		g.Extra == o.Extra
}

// KeepEnd makes what follows fit into so many seconds, from a place to where the session ends: what is least
// worth gives way, sets first, then a whole exercise. What is locked and the close are left alone. Said names
// what gave way; fits is false when that is not enough.
func KeepEnd(items []plan.Item, from plan.Place, most int, f Facts) (out []plan.Item, said []string, fits bool) {
	out = slices.Clone(items)
	name := func(it *plan.Item) string {
		if v, ok := f.Catalogue.Version(it.Version); ok {
			return v.Name
		}
		return it.Version
	}
	least := func(fewer bool) int {
		at := -1
		for i := range out {
			it := &out[i]
			if _, more := it.Dose.FewerSets(); it.Locked || it.Role != trade.Main || fewer && (!more || it.Dose.Apart != nil) {
				continue
			}
			if at < 0 || it.Worth() < out[at].Worth() {
				at = i
			}
		}
		return at
	}
	for length(out, from, f) > most {
		if i := least(true); i >= 0 {
			out[i].Dose, _ = out[i].Dose.FewerSets()
			said = append(said, name(&out[i])+": a set less")
			continue
		}
		i := least(false)
		if i < 0 {
			return out, said, false
		}
		gone := name(&out[i])
		said = append(slices.DeleteFunc(said, func(s string) bool { return s == gone+": a set less" }), gone+": left out")
		out = slices.Delete(out, i, i+1)
	}
	return out, said, true
}

// length is how long items last from a place to where the session ends.
func length(items []plan.Item, from plan.Place, f Facts) int {
	b := newBuilder(f)
	b.at = from
	for i := range items {
		b.item(&items[i])
	}
	for i := 0; i < len(b.work); {
		i = b.next(i)
	}
	if len(b.work) == 0 {
		b.work = append(b.work, &worked{})
	}
	b.move(len(b.work)-1, b.home(), Finish)
	return (b.now + 999) / 1000
}
