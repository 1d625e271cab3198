package facts

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/core/way"
)

// prone tells that one of two places is prone on something raised, where also the place between them is.
func prone(a, b, via plan.Place) bool {
	at := func(p plan.Place) bool {
		return p.Position == trade.Prone && p.Ground() != way.Floor && p.Ground() == via.Ground()
	}
	return at(a) || at(b)
}

// Nobody walks to fill time: a way over a third place is never cheaper, but for coming up from lying by way of
// kneeling or long sitting, where somebody has been up for a while and does not sit again.
func TestNoDetourIsCheaper(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	var places []plan.Place
	for _, p := range trade.Positions {
		for _, s := range []string{"mat", "bed", "spring-carriage", "sofa"} {
			places = append(places, plan.Place{Position: p, Surface: trade.Surface(s)})
		}
	}
	shorter := 0
	for _, m := range []*way.Mover{{SitS: 30}, {SitS: 30, Help: true}, {SitS: 60, Without: []string{way.HandLeft}}} {
		for _, a := range places {
			for _, b := range places {
				ab, _, ok := way.Move(a, b, m)
				for _, via := range places {
					x, _, there := way.Move(a, via, m)
					y, _, on := way.Move(via, b, m)
					if !ok || !there || !on {
						continue
					}
					spared := 0
					if end := prone(a, b, via); end && a.Ground() != b.Ground() {
						spared = 5 // a bed is entered and left by its edge, although over the knees would be quicker
					}
					if a.Position.Lies() && !via.Position.Lies() && a.Ground() == via.Ground() {
						spared += m.SitS
						shorter += b2i(ab > x+y)
					}
					assert.LessOrEqual(t, ab, x+y+spared, "%v to %v by %v without %v", a, b, via, m.Without)
					for _, floor := range []string{"yes", "help"} {
						r := &Request{Client: &intake.Client{Positions: map[string]string{"floor": floor}}}
						assert.LessOrEqual(t, r.Price(a, b, ab), r.Price(a, via, x)+r.Price(via, b, y)+moveWeight*float64(spared)+1e-9,
							"%v to %v by %v", a, b, via)
					}
				}
			}
		}
	}
	assert.Positive(t, shorter, "somebody who has knelt does not sit again")
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
