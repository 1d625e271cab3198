package plan

import (
	"restbend/core/trade"
	"restbend/core/way"
)

// Place is where an item leaves the body.
type Place = way.Place

// FromFloor tells whether going from one item to the next is getting up from the floor; nil
// is the upright place where a session begins and ends.
func FromFloor(from, to *Item) bool {
	at := func(it *Item) Place {
		if it == nil {
			return Place{Position: trade.Standing}
		}
		return it.Place()
	}
	return at(from).Ground() == way.Floor && at(to).Ground() != way.Floor
}
