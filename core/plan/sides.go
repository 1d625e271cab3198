package plan

import "restbend/core/trade"

// SideOrder is the order in which an item's sides are done; none for one that has no sides: the one that
// gets the extra first (shared ruling 38), in a side block the one that goes with the others, else left
// before right.
func (it *Item) SideOrder() []trade.Side {
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

// BlockSays says of an item of a side block when its sides are done; empty for any other.
func (p *Plan) BlockSays(i int) string {
	it := &p.Items[i]
	if it.Block == 0 {
		return ""
	}
	side := string(it.SideOrder()[0])
	if i > 0 && p.Items[i-1].Block == it.Block {
		return "Side block: follows on the " + side + " before the sides change."
	}
	turn := "change the leg"
	if it.Position.Lies() {
		turn = "turn over"
	}
	return "Side block: all of it on the " + side + " first, then " + turn + " once and the same on the other side."
}
