package plan

import (
	"slices"

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

// route is the client's order school: standing first by default with bone loss or a risk
// of falls when standing free is confirmed.
func (r *Request) route() []trade.Position {
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

func (r *Request) rank(position trade.Position) int { return slices.Index(r.route(), position) }
