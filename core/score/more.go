package score

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
)

// More than was planned is added to a running score without changing anything that ran, and never makes a hold
// longer than it was (product defaults).
const (
	mostAdded  = 2    // sets on one side of an item
	undoWithin = 12.0 // seconds of a changed score in which it can be taken back, whatever runs (ten, and a moment)
	restBefore = 15.0 // seconds before a set that was not planned, where the dose has no rest
)

// OneMoreSet is a score with the set that is under way at a second, or the last one, once more after its end. It
// fails where nothing was done yet, and when as many were added as may be.
func (s *Score) OneMoreSet(at float64) (*Score, string, error) {
	first, last := s.setAt(at)
	if first < 0 {
		return nil, "", errors.New("no set was begun yet")
	}
	g := s.Segments[first]
	now := s.Segments[s.Running(at)]
	if now.Item != g.Item || now.Kind != Work && now.Kind != Rest {
		return nil, "", errors.New("that exercise is over; go back to it for another set")
	}
	number, added := 0, map[int]bool{}
	for i := range s.Segments {
		o := &s.Segments[i]
		if o.Kind != Work || o.Item != g.Item || o.Side != g.Side && !g.InTurn {
			continue
		}
		number = max(number, o.Set)
		if o.Added && o.Repeat {
			added[o.Set] = true
		}
	}
	it := &s.Items[g.Item]
	if len(added) >= mostAdded {
		return nil, "", fmt.Errorf("%s: %d sets were added already, more is for next time", it.Name, mostAdded)
	}
	rest := float64(it.Dose.RestS)
	if rest == 0 {
		rest = restBefore
	}
	pause := Segment{Item: g.Item, Kind: Rest, Side: g.Side, Start: 0, End: rest, Wait: true, Added: true}
	var work []Segment
	for _, o := range s.Segments[first : last+1] {
		o.Start, o.End = o.Start-g.Start, o.End-g.Start
		o.Set, o.OfSets, o.Added, o.Repeat = number+1, number+1, true, true
		work = append(work, o)
	}
	long := work[len(work)-1].End
	var more []Segment
	if now.Kind == Rest { // rested already: the set, and a rest before what comes then
		pause.Start, pause.End = long, long+rest
		more = append(work, pause)
	} else {
		for i := range work {
			work[i].Start, work[i].End = work[i].Start+rest, work[i].End+rest
		}
		more = append([]Segment{pause}, work...)
	}
	return s.with(s.behind(at, last)+1, more, at, "repeat"), it.Name + ": one more set", nil
}

// Longer is a score with some seconds more of what is under way: of work as many more repetitions as fit, at least
// one; of anything else that much more time.
func (s *Score) Longer(at, seconds float64) (*Score, string, error) {
	if len(s.Segments) == 0 || seconds <= 0 || seconds > 300 {
		return nil, "", fmt.Errorf("seconds: found %g, allowed: up to 300", seconds)
	}
	i := s.Running(at)
	g := s.Segments[i]
	it := &s.Items[g.Item]
	if g.Kind != Work {
		out := s.copy(at, "minute")
		for k := i; k < len(out.Segments); k++ {
			if k > i {
				out.Segments[k].Start += seconds
			}
			out.Segments[k].End += seconds
		}
		out.Seconds += seconds
		return out, fmt.Sprintf("%g s more", seconds), nil
	}
	first, last := s.setAt(at)
	rep := s.Segments[last]
	from := last
	for from > first && s.Segments[from-1].SameRep(&rep) {
		from--
	}
	each := s.Segments[last].End - s.Segments[from].Start
	n := max(1, int(seconds/each))
	var more []Segment
	for k := range n {
		for _, o := range s.Segments[from : last+1] {
			shift := float64(k)*each - s.Segments[from].Start
			o.Start, o.End = o.Start+shift, o.End+shift
			o.Rep, o.OfReps, o.Added = rep.Rep+k+1, rep.Rep+n, true
			if c := o.Count; c != nil && c.Unit != "seconds" && c.Unit != "up" && c.Unit != "breaths" {
				own := *c
				own.From, own.To, own.Of = own.From+k+1, own.To+k+1, own.Of+n
				o.Count = &own
			}
			more = append(more, o)
		}
	}
	return s.with(s.behind(at, last)+1, more, at, "minute"), fmt.Sprintf("%s: %d more", it.Name, n), nil
}

// Back is a score as it was before a change, as a new revision; it fails when what was changed has run already.
func (s *Score) Back(before *Score, at float64) (*Score, error) {
	n := s.Running(at) + 1
	if at <= s.ChangedS+undoWithin {
		n = 0 // nothing to speak of has run since
	}
	if n > len(before.Segments) || !reflect.DeepEqual(s.Segments[:n], before.Segments[:n]) {
		return nil, errors.New("what was changed has run already")
	}
	out := before.copy(at, "undo")
	out.Rev = s.Rev + 1
	return out, nil
}

// setAt are the first and the last segment of the set under way, or of the last one before; -1 when there is none.
func (s *Score) setAt(at float64) (first, last int) {
	if len(s.Segments) == 0 {
		return -1, -1
	}
	i := s.Running(at)
	for i >= 0 && (s.Segments[i].Kind != Work || s.Segments[i].Extra) {
		i--
	}
	if i < 0 {
		return -1, -1
	}
	g := &s.Segments[i]
	same := func(o *Segment) bool {
		return o.Kind == Work && o.Item == g.Item && o.Set == g.Set && o.Extra == g.Extra &&
			(o.Side == g.Side || o.InTurn || o.Direction != "")
	}
	for first = i; first > 0 && same(&s.Segments[first-1]); first-- {
	}
	for last = i; last+1 < len(s.Segments) && same(&s.Segments[last+1]); last++ {
	}
	return first, last
}

// behind is the last segment after which something can be added: of the set, and of what is under way.
func (s *Score) behind(at float64, last int) int {
	i := s.Running(at)
	if i <= last {
		return last
	}
	for s.Segments[i].Extra && i+1 < len(s.Segments) && s.Segments[i+1].Extra &&
		s.Segments[i+1].Item == s.Segments[i].Item && s.Segments[i+1].Side == s.Segments[i].Side {
		i++
	}
	return i
}

// copy is a score that can be changed, as its next revision.
func (s *Score) copy(at float64, because string) *Score {
	out := *s
	out.Rev, out.ChangedS, out.Because = s.Rev+1, seconds(ms(at)), because
	out.Segments = slices.Clone(s.Segments)
	return &out
}

// with puts segments in before one; what follows comes later by as much.
func (s *Score) with(before int, more []Segment, at float64, because string) *Score {
	out := s.copy(at, because)
	start := s.Seconds
	if before > 0 {
		start = s.Segments[before-1].End
	}
	long := more[len(more)-1].End
	for i := range more {
		more[i].Start, more[i].End = seconds(ms(start+more[i].Start)), seconds(ms(start+more[i].End))
	}
	rest := slices.Clone(s.Segments[before:])
	for i := range rest {
		rest[i].Start, rest[i].End = seconds(ms(rest[i].Start+long)), seconds(ms(rest[i].End+long))
	}
	out.Segments = slices.Concat(s.Segments[:before], more, rest)
	out.Seconds = seconds(ms(s.Seconds + long))
	return out
}
