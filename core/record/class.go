package record

import (
	"fmt"
	"slices"
	"strconv"

	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/score"
	"restbend/core/trade"
)

// ClassFormat names the document of a small class.
const ClassFormat = "restbend.class/1"

// MostMembers is how many there are in a class at most.
const MostMembers = 6

// Class is one score for several clients, each with an own version, side and dose where they need it. The seconds
// are the host's (shared ruling 54).
type Class struct {
	Format  string       `json:"format"`
	Score   *score.Score `json:"score"`
	Members []Member     `json:"members"`
}

// Member is one of a class; Items are what they do otherwise, by the number of the item.
type Member struct {
	ID    string                `json:"id"`
	Name  string                `json:"name"`
	Items map[string]MemberItem `json:"items"`
}

// MemberItem is what a member does in place of an item.
type MemberItem struct {
	Version   string                `json:"version,omitempty"`
	SideOrder []trade.Side          `json:"side_order,omitempty"`
	Dose      *dose.Dose            `json:"dose,omitempty"`
	Eases     []string              `json:"eases,omitempty"`
	EasedSide trade.Side            `json:"eased_side,omitempty"`
	Says      *score.Says           `json:"says,omitempty"` // as they do it: another exercise, or with an ease
	OtherSays *score.Says           `json:"other_says,omitempty"`
	Sides     map[trade.Side]string `json:"sides,omitempty"`
}

// Problem says what is wrong with a class, empty when nothing is.
func (c *Class) Problem() string {
	if len(c.Members) == 0 || len(c.Members) > MostMembers {
		return fmt.Sprintf("members: found %d, allowed: 1 to %d", len(c.Members), MostMembers)
	}
	seen := map[string]bool{}
	for i := range c.Members {
		m := &c.Members[i]
		at := fmt.Sprintf("members[%d]", i)
		if m.ID == "" || len(m.ID) > mostWord || seen[m.ID] {
			return at + ".id: give each an id of its own"
		}
		seen[m.ID] = true
		for key, it := range m.Items {
			n, err := strconv.Atoi(key)
			if err != nil || n < 0 || n >= len(c.Score.Items) {
				return fmt.Sprintf("%s.items: found %q, allowed: 0 to %d", at, short(key), len(c.Score.Items)-1)
			}
			if d := it.Dose; d != nil &&
				(d.Sets < 0 || d.Sets > mostSets || d.Reps < 0 || d.Reps > mostReps || d.HoldS < 0 || d.HoldS > mostHold ||
					d.HoldBreaths < 0 || d.HoldBreaths > mostBreaths || len(d.Pattern) > mostSets) {
				return fmt.Sprintf("%s.items[%q].dose: out of range", at, key)
			}
			for _, s := range it.SideOrder {
				if !slices.Contains(sides, s) {
					return fmt.Sprintf("%s.items[%q].side_order: found %q", at, key, short(string(s)))
				}
			}
		}
	}
	return ""
}

// ReplayClass is the log session of every member: what everybody was marked with, and what they were alone.
func ReplayClass(c *Class, day trade.Day, marks []Mark) map[string]progress.Session {
	out := map[string]progress.Session{}
	for i := range c.Members {
		m := &c.Members[i]
		own := slices.DeleteFunc(slices.Clone(marks), func(k Mark) bool { return k.Member != "" && k.Member != m.ID })
		for k := range own { // what is said of all at the host's side is about the side a member was on
			if x := &own[k]; x.Member == "" && x.Item != nil && x.Side.One() && m.turned(c.Score, *x.Item) {
				x.Side = x.Side.Other()
			}
		}
		out[m.ID] = Replay(m.Score(c.Score), day, own)
	}
	return out
}

// Score is the host's score as a member does it: the same seconds, fewer repetitions and then rest, never more.
func (m *Member) Score(host *score.Score) *score.Score {
	s := *host
	s.Items, s.Segments = slices.Clone(host.Items), nil
	for key, own := range m.Items {
		n, _ := strconv.Atoi(key) // judged before
		it := &s.Items[n]
		if own.Version != "" && own.Version != it.Version {
			it.Version, it.Revision, it.Name = own.Version, 0, ""
		}
		if own.Eases != nil {
			it.Eases, it.EasedSide = own.Eases, own.EasedSide
		}
		if own.Says != nil {
			it.Says, it.OtherSays = *own.Says, own.OtherSays
		}
		if own.Sides != nil {
			it.Sides = own.Sides
		}
		if own.Dose != nil {
			it.Dose = within(*own.Dose, it.Dose)
			it.DoseLeft, it.DoseRight = nil, nil
		}
	}
	for i := range host.Segments {
		g := host.Segments[i]
		own, ok := m.Items[strconv.Itoa(g.Item)]
		if !ok || g.Kind != score.Work {
			s.Segments = append(s.Segments, g)
			continue
		}
		if g.Side.One() && m.turned(host, g.Item) {
			g.Side = g.Side.Other()
		}
		if len(own.SideOrder) == 1 && own.SideOrder[0].One() && g.Side.One() && g.Side != own.SideOrder[0] {
			s.Segments = append(s.Segments, resting(g)) // one side only
			continue
		}
		s.Segments = append(s.Segments, share(g, &s.Items[g.Item].Dose, own.Dose != nil)...)
	}
	return &s
}

// turned tells that a member begins an item on the other side than the host.
func (m *Member) turned(host *score.Score, item int) bool {
	if item < 0 || item >= len(host.Items) {
		return false
	}
	own, order := m.Items[strconv.Itoa(item)].SideOrder, host.Items[item].SideOrder
	return len(order) == 2 && len(own) == 2 && order[0] != own[0]
}

// within is a member's dose inside the host's: never more sets, repetitions or time.
func within(own, host dose.Dose) dose.Dose {
	if n := host.SetCount(); own.SetCount() > n {
		own.Sets = n
		if len(own.Pattern) > n {
			own.Pattern = own.Pattern[:n]
		}
	}
	if len(own.Pattern) == 0 && len(host.Pattern) == 0 {
		own.Reps = min(own.Reps, host.Reps)
	}
	if host.HoldS > 0 {
		own.HoldS = min(own.HoldS, host.HoldS)
	}
	if host.HoldBreaths > 0 {
		own.HoldBreaths = min(own.HoldBreaths, host.HoldBreaths)
	}
	return own
}

// resting is a segment in which a member rests.
func resting(g score.Segment) score.Segment {
	g.Kind, g.Phase, g.Count, g.Wait, g.Set, g.Rep = score.Rest, "", nil, false, 0, 0
	return g
}

// share is a segment of work as a member does it: what is more than their dose is rest.
func share(g score.Segment, d *dose.Dose, changed bool) []score.Segment {
	if !changed {
		return []score.Segment{g}
	}
	reps := d.Reps
	if len(d.Pattern) > 0 {
		reps = d.Pattern[min(g.Set, len(d.Pattern))-1]
	}
	rest := resting(g)
	switch {
	case g.Set > d.SetCount() || g.Rep > reps:
		return []score.Segment{rest}
	case g.Phase == score.Hold && g.Count != nil && g.Count.Unit == "breaths" && d.HoldBreaths > 0 &&
		g.Count.From > d.HoldBreaths:
		return []score.Segment{rest}
	case g.Phase == score.Hold && d.HoldS > 0 && g.End-g.Start > float64(d.HoldS):
		hold := g
		hold.End = g.Start + float64(d.HoldS)
		rest.Start = hold.End
		return []score.Segment{hold, rest}
	}
	return []score.Segment{g}
}
