package catalogue

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"restbend/core/trade"
)

// Task is something a client wants to be able to do again.
type Task struct {
	Name    string   `yaml:"name"`
	Chain   string   `yaml:"chain"`
	Upright bool     `yaml:"upright"`
	Base    string   `yaml:"base"` // two feet, one foot, sitting, lying, hands and knees
	Aims    []string `yaml:"aims"`
	Still   bool     `yaml:"still"` // the pelvis keeps still while the hips move

	Group   string             `yaml:"group"`             // house, garden, ...: where it is found
	Propose map[string]float64 `yaml:"propose,omitempty"` // the aims it proposes, when not its own by 1
}

// ReadTasks reads the tasks file.
func ReadTasks(data []byte) ([]Task, error) {
	var tasks []Task
	if err := strict(data, &tasks); err != nil {
		return nil, fmt.Errorf("tasks.yaml: %w", err)
	}
	for _, t := range tasks {
		for _, a := range t.Aims {
			if !Has(Aims, a) {
				return nil, fmt.Errorf("tasks.yaml: %s: unknown aim %q", t.Name, a)
			}
		}
	}
	return tasks, nil
}

// NearestTasks are the tasks whose names share the most words with a text, three at most. Words of up to
// two letters and endings do not count.
func NearestTasks(tasks []Task, text string) (near []Task) {
	stems := func(s string) (out []string) {
		for _, w := range strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) }) {
			if len(w) > 2 && !slices.Contains([]string{"the", "and", "for", "with", "without", "from", "again"}, w) {
				for _, end := range []string{"ing", "es", "s"} {
					if cut, ok := strings.CutSuffix(w, end); ok && len(cut) > 2 {
						w = cut
						break
					}
				}
				out = append(out, w)
			}
		}
		return out
	}
	said := stems(text)
	shared := map[string]int{}
	for _, t := range tasks {
		for _, w := range stems(t.Name) {
			if slices.ContainsFunc(said, func(s string) bool {
				return s == w || len(w) > 3 && strings.HasPrefix(s, w) || len(s) > 3 && strings.HasPrefix(w, s)
			}) {
				shared[t.Name]++
			}
		}
		if shared[t.Name] > 0 {
			near = append(near, t)
		}
	}
	slices.SortStableFunc(near, func(a, b Task) int { return shared[b.Name] - shared[a.Name] })
	return near[:min(nearest, len(near))]
}

// nearest is how many tasks a text may mean.
const nearest = 3

// An UnknownTask is what a client said that is no task of the list, and what it may mean.
type UnknownTask struct {
	Text    string
	Nearest []Task
}

// UnknownTasks are what a client named that is no task of the list, as long as none of those it may mean
// was chosen besides: it carries nothing over until somebody says what it means.
func UnknownTasks(tasks []Task, named []string) (out []UnknownTask) {
	chosen := func(t Task) bool { return slices.Contains(named, t.Name) }
	for _, text := range named {
		if slices.ContainsFunc(tasks, func(t Task) bool { return t.Name == text }) {
			continue
		}
		near := NearestTasks(tasks, text)
		if !slices.ContainsFunc(near, chosen) {
			out = append(out, UnknownTask{text, near})
		}
	}
	return out
}

// Point is one step of the argument for an exercise: does it match the task?
type Point struct {
	What  string
	Match bool
	Say   string
}

// Base says what carries the body in the effort position.
func (v *Version) Base() string {
	p := v.Solved.Phases[v.EffortPhase()].Measures
	foot := func(s string) float64 { return p.Share["foot."+s] + p.Share["toes."+s] + p.Share["heel."+s] }
	switch v.Position {
	case trade.Supine, trade.SideLying, trade.Prone:
		return "lying"
	case trade.Sitting, trade.LongSitting:
		return "sitting"
	case trade.Standing:
		if math.Min(foot("left"), foot("right")) < 0.02 {
			return "one foot"
		}
		return "two feet"
	}
	return "hands and knees"
}

// EffortPhase is the index of the phase that shows the exercise and in which the hold is
// spent: the first held one, else the last (shared ruling 36).
func (v *Version) EffortPhase() int {
	for i := range v.Phases {
		if v.Phases[i].Held {
			return i
		}
	}
	return len(v.Phases) - 1
}

// View names the camera of all its pictures: its own, else that of the phase that shows the
// exercise.
func (v *Version) View() string {
	if v.Camera != "" || v.Solved == nil {
		return v.Camera
	}
	return v.Solved.Phases[v.EffortPhase()].View
}

// Argue compares a version with a task: chain, gravity, base, the work asked for, and
// whether the pelvis keeps still while the hips move. More matches, more carry-over.
func (v *Version) Argue(t *Task) []Point {
	upright := v.Position == trade.Sitting || v.Position == trade.Standing
	var shared []string
	for _, a := range v.Aims {
		if Has(t.Aims, a) {
			shared = append(shared, strings.ReplaceAll(a, "-", " "))
		}
	}
	say := func(match bool, yes, no string) string {
		if match {
			return yes
		}
		return no
	}
	base := v.Base()
	still, moves := v.pelvis()
	out := []Point{
		{
			"chain",
			v.Chain == t.Chain,
			say(v.Chain == t.Chain, "the same kind of chain, "+v.Chain, v.Chain+" chain, the task is "+t.Chain),
		},
		{
			"gravity",
			upright == t.Upright,
			say(upright == t.Upright, "gravity pulls the same way", "gravity pulls another way than in the task"),
		},
		{
			"base",
			base == t.Base,
			say(base == t.Base, "the base of support is the same, "+base, "carried by "+base+", the task by "+t.Base),
		},
		{
			"work",
			shared != nil,
			say(shared != nil, "asks for the same work: "+strings.Join(shared, ", "), "asks for other work than the task"),
		},
	}
	if moves {
		out = append(
			out,
			Point{
				"pelvis",
				still == t.Still,
				say(still, "the pelvis keeps still while a hip moves", "the low back moves together with the hips"),
			},
		)
	}
	return out
}

// pelvis tells whether the hips move by more than 15 degrees and the low back meanwhile
// by less than 5 (product defaults).
func (v *Version) pelvis() (still, moves bool) {
	spread := func(get func(*SolvedPhase) float64) float64 {
		lo, hi := math.Inf(1), math.Inf(-1)
		for i := range v.Solved.Phases {
			x := get(&v.Solved.Phases[i])
			lo, hi = math.Min(lo, x), math.Max(hi, x)
		}
		return hi - lo
	}
	for side := 0; side < 2; side++ {
		for _, get := range []func(*SolvedPhase) float64{
			func(p *SolvedPhase) float64 { return p.Measures.Side[side].HipFlexion },
			func(p *SolvedPhase) float64 { return p.Measures.Side[side].HipAbduction },
		} {
			moves = moves || spread(get) > 15
		}
	}
	still = spread(func(p *SolvedPhase) float64 { return p.Measures.Lumbar.Flexion }) < 5 &&
		spread(func(p *SolvedPhase) float64 { return p.Measures.Lumbar.SideBend }) < 5 &&
		spread(func(p *SolvedPhase) float64 { return p.Measures.Lumbar.Rotation }) < 5
	return still, moves
}

// Matches counts the points an argument wins.
func Matches(points []Point) int {
	n := 0
	for _, p := range points {
		if p.Match {
			n++
		}
	}
	return n
}
