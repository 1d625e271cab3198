package catalogue

import (
	"cmp"
	"math"

	"restbend/core/trade"
)

// LyingOn is what the client lies on when a side ("left" or "right") works or opens:
// left, right, back, front, or nothing.
func (v *Version) LyingOn(side trade.Side) trade.Lying {
	if v.Solved == nil || len(v.Solved.Phases) == 0 {
		return ""
	}
	on := trade.Lying(v.Solved.Phases[0].Measures.LyingOn)
	for i := range v.Solved.Phases {
		if on == "" {
			on = trade.Lying(v.Solved.Phases[i].Measures.LyingOn)
		}
	}
	if v.SideMode == trade.Each && side != "" && side != trade.BothSides[v.Authored] {
		on = on.Other()
	}
	return on
}

// SaySide says for one side which side is down, which is up, and which works or opens:
// three things that get confused. Left and right are always the client's.
func (v *Version) SaySide(side trade.Side) string {
	if v.SideMode != trade.Each || !side.One() {
		return ""
	}
	lie := ""
	if on, ok := v.LyingOn(side).Side(); ok {
		lie = "Lie on the " + string(on) + ". "
	}
	up := ""
	if lie != "" {
		up = " up,"
	}
	switch v.Binds {
	case "curve-opens":
		return lie + "The " + string(side) + " is" + up + " the short side and opens."
	case "curve-works":
		return lie + "The " + string(side) + " is" + up + " the long side and works."
	case "jammed-up":
		return lie + "The " + string(side) + ", jammed today, is up and lets go."
	}
	return lie + sentence(string(side)) + ": " + v.SideMeans + "."
}

func sentence(s string) string {
	if s == "" || s[0] < 'a' || s[0] > 'z' {
		return s
	}
	return string(s[0]-32) + s[1:]
}

// TrunkDirections are the six directions of the spine in the order of TrunkPeaks.
var TrunkDirections = []string{
	"flexion",
	"extension",
	"side_bend_left",
	"side_bend_right",
	"rotation_left",
	"rotation_right",
}

func tenth(v float64) float64 { return math.Round(10*v) / 10 }

// HandCheck is the version in which the jammed side of the day is found.
const HandCheck = "side-check"

// tests are what is found out inside a session, by the family or the version that does it.
var tests = map[string]string{HandCheck: "sij_side", "pelvic-clock": "clock_hours", "six-directions": "tight_turn"}

// Tests is what is found out by doing a version (a field of the checks of a session), empty for most.
func (v *Version) Tests() string {
	found := cmp.Or(tests[v.Family], tests[v.Slug])
	if found == "tight_turn" && v.Compares == "" {
		return ""
	}
	return found
}
