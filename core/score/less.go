package score

import (
	"fmt"
	"slices"
	"strings"
)

// Capped is a score whose exercise ends the set under way at a second and does no more than the cap from there on: so
// many sets, so many repetitions in each set still to come, or so many seconds of each hold. A cap of nothing leaves
// the exercise. What ran is kept; what comes after comes earlier.
func (s *Score) Capped(at float64, item int, c Cap) (*Score, string) {
	if item < 0 { // before anything began
		return s.copy(at, "cap"), ""
	}
	name := s.Items[item].Name
	if c.Empty() {
		return s.Left(at, item, c.Why)
	}
	out := s.copy(at, "cap")
	out.Items = slices.Clone(s.Items)
	c = c.with(s.Items[item].Cap)
	out.Items[item].Cap = &c
	now := s.Segments[s.Running(at)]
	held := 0.0 // of the hold that is being written, seconds
	over := s.setsOver(item, c)
	out.rewrite(s, at, func(g *Segment, running bool) bool {
		if g.Item != item {
			return true
		}
		if over(g) {
			return running
		}
		if g.Kind != Work {
			return true
		}
		if now.Kind == Work && now.Item == item && g.Set == now.Set && (g.Side == now.Side || now.InTurn) {
			return running // the set is over
		}
		if c.Reps > 0 && g.Rep > c.Reps {
			return false
		}
		if c.Reps > 0 && g.OfReps > c.Reps {
			g.OfReps = c.Reps
			if n := g.Count; n != nil && n.Of > c.Reps && (n.Unit == "reps" || n.Unit == "steps") {
				own := *n
				own.Of = c.Reps
				g.Count = &own
			}
		}
		if g.Phase != Hold {
			held = 0
			return true
		}
		return c.HoldS <= 0 || shorten(g, &held, float64(c.HoldS))
	})
	return out, name + ": " + c.Words()
}

// Empty tells that nothing of an exercise is left.
func (c Cap) Empty() bool { return c.Sets <= 0 && c.Reps <= 0 && c.HoldS <= 0 }

// Words say a cap: "at most 5 in the sets still to come".
func (c Cap) Words() string {
	var out []string
	switch {
	case c.Sets == 1:
		out = append(out, "no further set today")
	case c.Sets > 0:
		out = append(out, fmt.Sprintf("at most %d sets today", c.Sets))
	}
	if c.Reps > 0 {
		out = append(out, fmt.Sprintf("at most %d in the sets still to come", c.Reps))
	}
	if c.HoldS > 0 {
		out = append(out, fmt.Sprintf("at most %d s in the holds still to come", c.HoldS))
	}
	return strings.Join(out, ", ")
}

// with is a cap together with one that stands already, the stricter in each measure; the reason is the newer one's.
func (c Cap) with(stands *Cap) Cap {
	if stands == nil {
		return c
	}
	for _, f := range []struct {
		mine *int
		was  int
	}{{&c.Sets, stands.Sets}, {&c.Reps, stands.Reps}, {&c.HoldS, stands.HoldS}} {
		if *f.mine == 0 || f.was > 0 && f.was < *f.mine {
			*f.mine = f.was
		}
	}
	return c
}

// setsOver tells of segments of an exercise whether they belong to a set that a cap leaves out, with the rest or the
// change of sides before it, or to what comes over and above the sets: nothing is added to what is capped.
func (s *Score) setsOver(item int, c Cap) func(g *Segment) bool {
	out := func(g *Segment) bool { return g.Kind == Work && (g.Extra || c.Sets > 0 && g.Set > c.Sets) }
	return func(g *Segment) bool {
		switch {
		case g.Kind == Rest:
			return c.Sets > 0 && g.Set > c.Sets
		case g.Kind == Change:
			for i := range s.Segments {
				if o := &s.Segments[i]; o.Item == item && o.Kind == Work && o.Start >= g.End-1e-9 {
					return out(o)
				}
			}
		}
		return out(g)
	}
}

// shorten makes a part of a hold fit into what is left of so many seconds; breaths are kept whole.
func shorten(g *Segment, held *float64, most float64) bool {
	long := g.End - g.Start
	left := most - *held
	*held += long
	switch {
	case long <= left+1e-9:
		return true
	case left <= 0 || g.Breath == "in" || g.Breath == "out":
		return *held == long && g.Breath != "" && g.Breath != "free" && left > 0 // the first breath is done in any case
	}
	g.End = g.Start + left
	if n := g.Count; n != nil && n.Unit == "seconds" && n.From > n.To {
		own := *n
		own.From = own.To + int(left+0.5) - 1
		g.Count = &own
	}
	return true
}

// Left is a score that leaves an exercise at a second, on both sides.
func (s *Score) Left(at float64, item int, why string) (*Score, string) {
	out := s.copy(at, "left")
	if item < 0 {
		return out, ""
	}
	out.rewrite(s, at, func(g *Segment, running bool) bool {
		return g.Item != item || running || g.Kind == Move || g.Kind == Finish
	})
	said := s.Items[item].Name + " is left"
	if why != "" {
		said += ": " + why
	}
	return out, said
}

// Rested is a score in which somebody does less of an exercise while others go on: what is over the cap in
// the set under way and in those still to come is rest, and no second moves. A cap of nothing rests to its end.
func (s *Score) Rested(at float64, item int, c Cap) (*Score, string) {
	out := s.copy(at, "cap")
	if item < 0 {
		return out, ""
	}
	out.Items = slices.Clone(s.Items)
	nothing := c.Empty()
	if !nothing {
		c = c.with(s.Items[item].Cap)
	}
	out.Items[item].Cap = &c
	out.Segments = nil
	held := 0.0
	for i := range s.Segments {
		g := s.Segments[i]
		if g.Item != item || g.Kind != Work || g.End <= at {
			out.Segments = append(out.Segments, g)
			continue
		}
		rest := g
		rest.Kind, rest.Phase, rest.Count, rest.Wait, rest.Set, rest.Rep = Rest, "", nil, false, 0, 0
		if g.Start < at { // the set under way is over for them
			g.End, g.Cut, rest.Start = seconds(ms(at)), true, seconds(ms(at))
			out.Segments = append(out.Segments, g, rest)
			continue
		}
		now := s.Segments[s.Running(at)]
		own := g
		if g.Phase != Hold {
			held = 0
		}
		switch {
		case nothing, g.Extra, c.Sets > 0 && g.Set > c.Sets,
			now.Kind == Work && g.Set == now.Set && (g.Side == now.Side || now.InTurn),
			c.Reps > 0 && g.Rep > c.Reps:
			out.Segments = append(out.Segments, rest)
		case c.HoldS > 0 && g.Phase == Hold && !shorten(&own, &held, float64(c.HoldS)):
			out.Segments = append(out.Segments, rest)
		case own.End < g.End:
			rest.Start = own.End
			out.Segments = append(out.Segments, own, rest)
		default:
			out.Segments = append(out.Segments, own)
		}
	}
	if name := s.Items[item].Name; !nothing {
		return out, name + ": " + c.Words() + ", then rest"
	}
	return out, s.Items[item].Name + ": rests until the next exercise"
}

// Without is a score that leaves out an item still to come.
func (s *Score) Without(at float64, item int) (*Score, string, error) {
	for i := range s.Segments {
		if g := &s.Segments[i]; g.Item == item && g.Kind == Work && g.Start < at {
			return nil, "", fmt.Errorf("%s was begun: it can be left, not left out", s.Items[item].Name)
		}
	}
	if item < 0 || item >= len(s.Items) {
		return nil, "", fmt.Errorf("item: found %d, allowed: 0 to %d", item, len(s.Items)-1)
	}
	out := s.copy(at, "drop")
	out.rewrite(s, at, func(g *Segment, running bool) bool {
		return g.Item != item || running || g.Kind == Move || g.Kind == Finish
	})
	return out, s.Items[item].Name + " is left out", nil
}

// Remains tells whether anything of an exercise is still to come at a second, or under way.
func (s *Score) Remains(at float64, item int) bool {
	return slices.ContainsFunc(s.Segments, func(g Segment) bool { return g.Item == item && g.Kind == Work && g.End > at })
}

// UnderWay is the item that is under way at a second, or whose rest or change is; of a way to the next one the item
// before. It is -1 when nothing was begun.
func (s *Score) UnderWay(at float64) int {
	if len(s.Segments) == 0 {
		return -1
	}
	i := s.Running(at)
	if k := s.Segments[i].Kind; k != Move && k != Finish {
		return s.Segments[i].Item
	}
	for i--; i >= 0; i-- {
		if s.Segments[i].Kind == Work {
			return s.Segments[i].Item
		}
	}
	return -1
}

// rewrite keeps what ran, cuts what is under way where it is dropped, and writes the rest again as far as it is kept.
func (out *Score) rewrite(s *Score, at float64, keep func(g *Segment, running bool) bool) {
	running := s.Running(at)
	out.Segments = slices.Clone(s.Segments[:running])
	now := 0.0
	if running > 0 {
		now = s.Segments[running-1].End
	}
	for i := running; i < len(s.Segments); i++ {
		g := s.Segments[i]
		if i == running && g.Start < at {
			probe := g
			if keep(&probe, false) { // it runs on
				out.Segments = append(out.Segments, g)
				now = g.End
				continue
			}
			if keep(&probe, true) && at < g.End {
				g.End, g.Cut, g.Wait = seconds(ms(at)), true, false // nobody waits at a cut
			}
			out.Segments = append(out.Segments, g)
			now = g.End
			continue
		}
		if !keep(&g, false) {
			continue
		}
		long := g.End - g.Start
		g.Start, g.End = seconds(ms(now)), seconds(ms(now+long))
		now = g.End
		out.Segments = append(out.Segments, g)
	}
	out.Seconds = now
}
