package facts

import (
	"restbend/core/plan"
	"restbend/core/way"
)

// The price of getting from place to place: by the second, and for who does not rise freely dearly
// each time the body comes up from the ground or goes down to it, for that is what tires people
// (product defaults). For the others it costs its seconds and hardly more (domain/07).
const (
	moveWeight = 0.035 // points a second, more than a second too short costs: nobody walks to fill time
	upPoints   = 2.5   // points each time, for who does not rise freely
)

// Price is what a change of posture costs.
func (r *Request) Price(from, to plan.Place, seconds int) float64 {
	p := moveWeight * float64(seconds)
	if from.Ground() != to.Ground() && !r.risesFreely() {
		p += upPoints * float64(CountIf(from.Ground() != way.Upright)+CountIf(to.Ground() != way.Upright))
	}
	return p
}

// risesFreely tells whether the client gets up from the floor without help, bone loss or a risk of falls.
func (r *Request) risesFreely() bool {
	return r.Client.Positions["floor"] == "yes" && !r.bonesOrFalls()
}
