package facts

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/trade"
)

// No detour is shorter or cheaper, and both ways take the same time.
func TestTheTransitionTableIsMetric(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	var places []plan.Place
	for _, p := range trade.Positions {
		for _, s := range []string{"mat", "bed", "spring-carriage", "sofa"} {
			places = append(places, plan.Place{Position: p, Surface: trade.Surface(s)})
		}
	}
	for _, helped := range []bool{false, true} {
		for _, a := range places {
			for _, b := range places {
				ab, _ := plan.Move(a, b, helped)
				ba, _ := plan.Move(b, a, helped)
				assert.Equal(t, ab, ba, "%v and %v", a, b)
				for _, via := range places {
					x, _ := plan.Move(a, via, helped)
					y, _ := plan.Move(via, b, helped)
					assert.LessOrEqual(t, ab, x+y, "%v to %v by %v", a, b, via)
					for _, floor := range []string{"yes", "help"} {
						r := &Request{Client: &intake.Client{Positions: map[string]string{"floor": floor}}}
						assert.LessOrEqual(t, r.Price(a, b, ab), r.Price(a, via, x)+r.Price(via, b, y)+1e-9, "%v to %v by %v", a, b, via)
					}
				}
			}
		}
	}
}
