package verify

import (
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/trade"
	"restbend/core/way"
)

// Both reckonings of the ways agree, for every client and every two places: the planner's and the one written anew.
func TestWaysAreWorkedOutTwice(t *testing.T) {
	var places []way.Place
	for _, p := range trade.Positions {
		for _, s := range []trade.Surface{trade.Mat, trade.Bed, trade.Carriage} {
			if p.Upright() {
				s = trade.Chair
			}
			places = append(places, way.Place{Position: p, Surface: s})
		}
	}
	n := 0
	for set := range 1 << len(way.Words) {
		for _, help := range []bool{false, true} {
			m, w := way.Mover{Help: help, SitS: 30}, ways{Help: help, SitS: 30}
			for i, word := range way.Words {
				if set>>i&1 == 1 {
					m.Without, w.Without = append(m.Without, word), append(w.Without, word)
				}
			}
			for _, a := range places {
				from := spotOf(string(a.Position), string(a.Surface))
				require.Equal(t, m.Reaches(a), w.reached(from), "%v without %v, help %v", a, m.Without, help)
				for _, b := range places {
					if s, _, ok := way.Move(a, b, &m); ok {
						n++
						require.Equal(t, s, w.move(from, spotOf(string(b.Position), string(b.Surface))), "%v to %v without %v, help %v", a, b, m.Without, help)
					}
				}
			}
		}
	}
	require.Greater(t, n, 50000)
}
