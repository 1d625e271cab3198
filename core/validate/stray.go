package validate

import (
	"fmt"
	"sort"

	"restbend/core/body"
	"restbend/core/pose"
)

// Strays lists contacts that two neighbouring poses share and that move though they
// neither slide nor step by their words.
func Strays(s *pose.Solver, a, b *pose.Pose, travel pose.Travel) []string {
	return strays(
		s,
		[]*pose.Pose{a, b},
		func(sphere string) bool { return travel[sphere] == 0 },
		"moves %.0f cm though it stays down",
	)
}

// Skates lists contacts that step by their words and yet move on the ground: a step lifts
// first. The row is one pose, the path to the next, and that.
func Skates(s *pose.Solver, row []*pose.Pose, travel pose.Travel) []string {
	return strays(
		s,
		row,
		func(sphere string) bool { return travel[sphere] == pose.Steps },
		"steps and moves %.0f cm on the ground",
	)
}

func strays(s *pose.Solver, row []*pose.Pose, judged func(sphere string) bool, complaint string) []string {
	far := map[string]float64{}
	for i := 1; i < len(row); i++ {
		var fa, fb body.Frames
		s.Body.Place(&row[i-1].State, &fa)
		s.Body.Place(&row[i].State, &fb)
		for _, c := range row[i].Contacts {
			if !judged(c.Sphere) || !row[i-1].Touches(c.Sphere, c.Surface) {
				continue
			}
			k, surface := s.Index[c.Sphere], body.Surfaces[c.Surface]
			far[c.Sphere] += s.Body.TouchPoint(&fb, k, surface).Sub(s.Body.TouchPoint(&fa, k, surface)).Len()
		}
	}
	var out []string
	for name, d := range far {
		if d > pose.MaxStray {
			out = append(out, fmt.Sprintf(name+" "+complaint, d*100))
		}
	}
	sort.Strings(out)
	return out
}
