package body

import (
	"fmt"
	"sort"
)

// maxStray is how far a contact that stays may seem to move, metres.
const maxStray = 0.02

// Travel tells, by ball of skin, which contacts of an exercise slide or step.
type Travel map[string]int

// How a contact travels.
const (
	Slides = 1 + iota
	Steps
)

// TravelOf collects what the poses of one exercise let slide or step. Both ways count:
// what slides out slides back.
func TravelOf(specs []*Spec) Travel {
	out := Travel{}
	for _, s := range specs {
		for _, c := range s.Slide {
			out[c] = Slides
		}
		for _, c := range s.Step {
			out[c] = Steps
		}
	}
	return out
}

// Strays lists contacts that two neighbouring poses share and that move though they
// neither slide nor step by their words.
func (s *Solver) Strays(a, b *Pose, travel Travel) []string {
	return s.strays([]*Pose{a, b}, func(sphere string) bool { return travel[sphere] == 0 }, "moves %.0f cm though it stays down")
}

// Skates lists contacts that step by their words and yet move on the ground: a step lifts
// first. The row is one pose, the path to the next, and that.
func (s *Solver) Skates(row []*Pose, travel Travel) []string {
	return s.strays(row, func(sphere string) bool { return travel[sphere] == Steps }, "steps and moves %.0f cm on the ground")
}

func (s *Solver) strays(row []*Pose, judged func(sphere string) bool, complaint string) []string {
	far := map[string]float64{}
	for i := 1; i < len(row); i++ {
		var fa, fb Frames
		s.Body.Place(&row[i-1].State, &fa)
		s.Body.Place(&row[i].State, &fb)
		for _, c := range row[i].Contacts {
			if !judged(c.Sphere) || !row[i-1].touches(c.Sphere, c.Surface) {
				continue
			}
			k, surface := s.index[c.Sphere], Surfaces[c.Surface]
			far[c.Sphere] += s.Body.touchPoint(&fb, k, surface).Sub(s.Body.touchPoint(&fa, k, surface)).Len()
		}
	}
	var out []string
	for name, d := range far {
		if d > maxStray {
			out = append(out, fmt.Sprintf(name+" "+complaint, d*100))
		}
	}
	sort.Strings(out)
	return out
}
