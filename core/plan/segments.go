package plan

import (
	"fmt"
	"slices"

	"restbend/core/trade"
)

// Segment is one stretch of a session as the player runs it. The segments of an item
// last exactly as long as its dose.
type Segment struct {
	Item    int        `json:"item"`
	Kind    string     `json:"kind"` // move, setup, work, rest, change or finish
	Side    trade.Side `json:"side"` // left, right, alternate or none
	Set     int        `json:"set"`
	Sets    int        `json:"sets"`
	Reps    int        `json:"reps"`
	HoldS   int        `json:"hold_s"`
	MoveS   int        `json:"move_s"`
	Seconds int        `json:"seconds"`
	Label   string     `json:"label"`
	Extra   bool       `json:"extra,omitempty"`
}

// Segments lays a plan out second by second; a side block to one side first, then to the other.
func Segments(p *Plan, breathsPerMinute float64) []Segment {
	var out []Segment
	for i := 0; i < len(p.Items); i++ {
		it := &p.Items[i]
		if it.Transition > it.TurnS {
			out = append(
				out,
				Segment{
					Item:    i,
					Kind:    "move",
					Side:    trade.None,
					Seconds: it.Transition,
					Label:   "Change position: " + string(it.Position),
				},
			)
		}
		var other []Segment
		for ; ; i++ {
			own := itemSegments(i, &p.Items[i], breathsPerMinute)
			half := slices.IndexFunc(own, func(s Segment) bool { return s.Kind == "change" })
			if p.Items[i].Block == 0 || half < 0 {
				out = append(out, own...)
				break
			}
			if len(other) == 0 && p.Items[i].Position.Lies() {
				own[half].Seconds += turnOver
				own[half].Label = "Turn over: " + string(own[half].Side)
			}
			out, other = append(out, own[:half]...), append(other, own[half:]...)
			if i+1 == len(p.Items) || p.Items[i+1].Block != p.Items[i].Block {
				break
			}
		}
		out = append(out, other...)
	}
	if p.UpS > 0 {
		out = append(
			out,
			Segment{
				Item:    len(p.Items) - 1,
				Kind:    "finish",
				Side:    trade.None,
				Seconds: p.UpS,
				Label:   "Come up slowly, by the side",
			},
		)
	}
	return out
}

// itemSides is the order of the sides: the one that gets the extra first (shared ruling
// 38), in a side block the one that goes with the others, else left before right.
func itemSides(it *Item) []trade.Side {
	switch it.Side {
	case trade.Each:
		if it.Dose.Extra != nil && it.Dose.Extra.Side == trade.Right || it.First == trade.Right {
			return []trade.Side{trade.Right, trade.Left}
		}
		return trade.BothSides[:]
	case "":
		return []trade.Side{trade.None}
	}
	return []trade.Side{it.Side}
}

// SideOrder is the order in which an item's sides are done; none for one that has no sides.
func SideOrder(it *Item) []trade.Side { return itemSides(it) }

func itemSegments(i int, it *Item, bpm float64) []Segment {
	d, sides := it.Dose, itemSides(it)
	hold := d.HoldSeconds(bpm)
	var out []Segment
	for _, t := range d.Stretches(bpm, it.Sides()) {
		s := Segment{Item: i, Kind: t.Kind, Side: sides[min(t.Side, len(sides)-1)], Seconds: t.Seconds}
		switch t.Kind {
		case "setup":
			s.Label = "Set up"
		case "change":
			s.Label = "Change sides: " + string(s.Side)
		case "rest":
			s.Label = "Rest"
		case "work":
			s.Set, s.Sets, s.Reps, s.HoldS, s.MoveS = t.Set+1, d.SetCount(), t.Reps, hold, d.MoveS
			s.Label = fmt.Sprintf("Set %d of %d", t.Set+1, d.SetCount())
		case "extra":
			s = Segment{
				Item:    i,
				Kind:    "work",
				Side:    d.Extra.Side,
				Set:     1,
				Sets:    1,
				Reps:    t.Reps,
				HoldS:   t.Seconds,
				Seconds: t.Seconds,
				Extra:   true,
				Label:   "Extra on the " + string(d.Extra.Side),
			}
			if d.TotalReps() > 1 {
				s.HoldS, s.MoveS = hold, d.MoveS
			}
		case "hours":
			s.Kind, s.Set, s.Sets, s.Reps, s.MoveS = "work", 1, 1, t.Reps, t.Seconds/t.Reps
			s.Label = "Slower passes over the weak hours"
		}
		out = append(out, s)
	}
	return out
}
