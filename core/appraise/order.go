package appraise

import (
	"slices"

	"restbend/core/facts"
	"restbend/core/trade"
)

// Order of the positions: a little more demanding each time, or standing first while
// fresh and ending seated (two schools).
var (
	lyingFirst    = trade.Positions
	standingFirst = []trade.Position{
		trade.Standing,
		trade.AllFours,
		trade.Kneeling,
		trade.HalfKneel,
		trade.Prone,
		trade.SideLying,
		trade.Supine,
		trade.LongSitting,
		trade.Sitting,
	}
)

// Route is the client's order school: standing first by default with bone loss or a risk
// of falls when standing free is confirmed.
func Route(r *facts.Request) []trade.Position {
	order := r.Client.Schools.Order
	if r.Template != nil && r.Template.Order != "" {
		order = r.Template.Order
	}
	if order == "" && r.Screener != nil {
		order = r.Screener.Order()
	}
	if order == "" && r.Client.Positions["stand_free"] == "yes" {
		if r.Screener != nil && r.Screener.Holds("osteoporosis", "falls-risk") {
			order = "standing-first"
		}
	}
	if order == "standing-first" {
		return standingFirst
	}
	return lyingFirst
}

// Rank is where a position stands in the order of the session, -1 where it does not.
func Rank(r *facts.Request, position trade.Position) int { return slices.Index(Route(r), position) }
