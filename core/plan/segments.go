package plan

import (
	"fmt"

	"restbend/core/dose"
)

// Segment is one stretch of a session as the player runs it. The segments of an item
// last exactly as long as its dose.
type Segment struct {
	Item    int    `json:"item"`
	Kind    string `json:"kind"` // move, setup, work, rest, change or finish
	Side    string `json:"side"` // left, right, alternate or none
	Set     int    `json:"set"`
	Sets    int    `json:"sets"`
	Reps    int    `json:"reps"`
	HoldS   int    `json:"hold_s"`
	MoveS   int    `json:"move_s"`
	Seconds int    `json:"seconds"`
	Label   string `json:"label"`
	Extra   bool   `json:"extra,omitempty"`
}

// Segments lays a plan out second by second.
func Segments(p *Plan, breathsPerMinute float64) []Segment {
	var out []Segment
	for i := range p.Items {
		it := &p.Items[i]
		if it.Transition > 0 {
			out = append(out, Segment{Item: i, Kind: "move", Side: "none", Seconds: it.Transition, Label: "Change position: " + it.Position})
		}
		out = append(out, itemSegments(i, it, breathsPerMinute)...)
	}
	if p.UpS > 0 {
		out = append(out, Segment{Item: len(p.Items) - 1, Kind: "finish", Side: "none", Seconds: p.UpS, Label: "Come up slowly, by the side"})
	}
	return out
}

// itemSides is the order of the sides: each side in turn, the extra side last.
func itemSides(it *Item) []string {
	switch it.Side {
	case "each":
		if it.Dose.Extra != nil && it.Dose.Extra.Side == "left" {
			return []string{"right", "left"}
		}
		return []string{"left", "right"}
	case "":
		return []string{"none"}
	}
	return []string{it.Side}
}

func itemSegments(i int, it *Item, bpm float64) []Segment {
	d := it.Dose
	hold := d.HoldSeconds(bpm)
	var out []Segment
	if d.SetupS > 0 {
		out = append(out, Segment{Item: i, Kind: "setup", Side: itemSides(it)[0], Seconds: d.SetupS, Label: "Set up"})
	}
	for k, side := range itemSides(it) {
		if k > 0 && d.ChangeS > 0 {
			out = append(out, Segment{Item: i, Kind: "change", Side: side, Seconds: d.ChangeS, Label: "Change sides: " + side})
		}
		for set := 0; set < d.SetCount(); set++ {
			if set > 0 && d.RestS > 0 {
				out = append(out, Segment{Item: i, Kind: "rest", Side: side, Seconds: d.RestS, Label: "Rest"})
			}
			reps := d.Reps
			if len(d.Pattern) > 0 {
				reps = d.Pattern[set]
			}
			out = append(out, Segment{Item: i, Kind: "work", Side: side, Set: set + 1, Sets: d.SetCount(), Reps: reps, HoldS: hold, MoveS: d.MoveS,
				Seconds: reps * (d.MoveS + hold), Label: fmt.Sprintf("Set %d of %d", set+1, d.SetCount())})
		}
	}
	if e := d.ExtraSeconds(bpm); e > 0 {
		out = append(out, extraSegment(i, d, hold, e))
	}
	return out
}

func extraSegment(i int, d dose.Dose, hold, seconds int) Segment {
	s := Segment{Item: i, Kind: "work", Side: d.Extra.Side, Set: 1, Sets: 1, Reps: 1, HoldS: seconds, Seconds: seconds, Extra: true, Label: "Extra on the " + d.Extra.Side}
	if each := hold + d.MoveS; d.TotalReps() > 1 && each > 0 {
		s.Reps, s.HoldS, s.MoveS = seconds/each, hold, d.MoveS
	}
	return s
}
