package way_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/trade"
	"restbend/core/way"
)

func mover(sit int, help bool, without ...string) *way.Mover {
	return &way.Mover{Without: without, Help: help, SitS: sit}
}

func at(p, s string) way.Place {
	return way.Place{Position: trade.Position(p), Surface: trade.Surface(s)}
}

// What a practitioner expects of the way from place to place: whole seconds, and which side is rolled over.
func TestWays(t *testing.T) {
	stand, sit := at("standing", ""), at("sitting", "chair")
	for _, c := range []struct {
		from, to way.Place
		m        *way.Mover
		seconds  int
		rises    bool
		why      string
	}{
		{stand, stand, mover(30, false), 0, false, ""},
		{stand, sit, mover(30, false), 8, false, ""},
		{stand, at("supine", "mat"), mover(30, false), 55, false, "over hands and knees and the side"},
		{at("supine", "mat"), stand, mover(30, false), 85, true, "sits half a minute first"},
		{at("supine", "mat"), stand, mover(60, false), 115, true, "a minute where the pressure falls"},
		{at("supine", "mat"), stand, mover(30, true), 115, true, "with help"},
		{at("supine", "mat"), sit, mover(30, false), 93, true, ""},
		{at("all-fours", "mat"), stand, mover(30, false), 30, true, "not from lying: nothing to sit for"},
		{at("supine", "mat"), at("all-fours", "mat"), mover(30, false), 25, false, ""},
		{at("supine", "mat"), at("prone", "mat"), mover(30, false), 15, false, ""},
		{at("prone", "mat"), at("all-fours", "mat"), mover(30, false), 12, false, ""},
		{at("prone", "mat"), at("kneeling", "mat"), mover(30, false, "hand-left"), 25, false, "over the side: one arm does not push"},
		{stand, at("supine", "bed"), mover(30, false), 35, false, "by the edge"},
		{at("supine", "bed"), stand, mover(30, false), 63, false, ""},
		{at("supine", "bed"), stand, mover(60, false, "kneel", "hands", "hand-left", "free-stand"), 93, false, "nobody kneels on the way to bed"},
		{stand, at("supine", "bed"), mover(30, false, "hand-left", "hand-right"), 35, false, "back onto raised pillows"},
		{stand, at("supine", "mat"), mover(30, false, "kneel"), 65, false, "by a low seat"},
		{sit, at("supine", "bed"), mover(30, false, "standing", "free-stand"), 45, false, "slides across, never stands"},
	} {
		s, rises, ok := way.Move(c.from, c.to, c.m)
		assert.True(t, ok, "%v to %v %s", c.from, c.to, c.why)
		assert.Equal(t, c.seconds, s, "%v to %v %s", c.from, c.to, c.why)
		assert.Equal(t, c.rises, rises, "%v to %v", c.from, c.to)
	}
}

// Where there is no way, and what still is.
func TestWhatCannotBeReached(t *testing.T) {
	for _, c := range []struct {
		place way.Place
		m     *way.Mover
		want  bool
		why   string
	}{
		{at("supine", "mat"), mover(30, false, "kneel", "hands"), false, "nobody gets down without knees and hands"},
		{at("supine", "mat"), mover(30, false, "kneel", "hand-left"), false, "nor with one arm and no knees"},
		{at("supine", "mat"), mover(30, true, "kneel", "hands"), true, "somebody helps"},
		{at("supine", "mat"), mover(30, false, "hand-left"), true, "kneeling, over the right side"},
		{at("all-fours", "mat"), mover(30, false, "hand-left", "hand-right"), false, ""},
		{at("supine", "bed"), mover(30, false, "kneel", "hands", "hand-left", "hand-right", "side-left", "side-right"), true, "raised pillows"},
		{at("side", "bed"), mover(30, false, "side-left", "side-right"), false, ""},
		{at("prone", "mat"), mover(30, false, "side-left", "side-right"), true, "straight down from hands and knees"},
		{at("prone", "bed"), mover(30, false, "hand-left", "hand-right"), false, ""},
		{at("supine", "spring-carriage"), mover(30, false, "hand-left", "hand-right"), false, "no pillows there"},
		{at("supine", "bed"), mover(30, false, "standing", "hands"), false, "nobody slides across without hands or help"},
		{at("supine", "bed"), mover(30, true, "standing", "hands"), true, ""},
		{at("standing", "mat"), mover(30, false, "standing"), false, ""},
	} {
		assert.Equal(t, c.want, c.m.Reaches(c.place), "%v without %v: %s", c.place, c.m.Without, c.why)
	}
}

func TestOverWhichSide(t *testing.T) {
	for _, c := range []struct {
		without             []string
		over                trade.Side
		lower, upper, hands bool
	}{
		{nil, "right", true, true, true},
		{[]string{"hand-right"}, "left", true, false, false},
		{[]string{"hand-left"}, "right", true, false, false},
		{[]string{"side-right"}, "left", true, true, true},
		{[]string{"side-right", "hand-left"}, "left", false, true, false},
		{[]string{"hands"}, "right", true, false, false},
		{[]string{"side-left", "side-right"}, "", false, false, false},
	} {
		m := mover(30, false, c.without...)
		assert.Equal(t, c.over, m.Over(), "%v", c.without)
		lower, upper, hands := m.Pushes()
		assert.Equal(t, []bool{c.lower, c.upper, c.hands}, []bool{lower, upper, hands}, "%v", c.without)
	}
}

// Less to move with never opens a way, shortens none and joins no places; all there is is what all together have.
func TestLackingNeverHelps(t *testing.T) {
	places := []way.Place{at("standing", ""), at("sitting", "chair")}
	for _, p := range trade.Positions {
		for _, s := range []string{"mat", "bed", "spring-carriage"} {
			if !p.Upright() {
				places = append(places, at(string(p), s))
			}
		}
	}
	for set := range 1 << len(way.Words) {
		var without []string
		for i, w := range way.Words {
			if set>>i&1 == 1 {
				without = append(without, w)
			}
		}
		for _, help := range []bool{false, true} {
			less := mover(30, help, without...)
			for _, w := range way.Words {
				more := mover(30, help, slices.DeleteFunc(slices.Clone(without), func(x string) bool { return x == w })...)
				for _, p := range places {
					if less.Reaches(p) {
						assert.True(t, more.Reaches(p), "%v: without %v but not without %v", p, without, more.Without)
					}
				}
			}
			both := way.Together(less, mover(60, false, way.Kneel))
			assert.True(t, both.Lacks(way.Kneel) && both.SitS == 60, fmt.Sprint(without))
		}
	}
}
