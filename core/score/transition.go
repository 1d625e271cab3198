package score

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/plan"
	"restbend/core/trade"
)

// Ways are how a client leaves one position and reaches the next, step by step (shared ruling 52).
type Ways struct{ rows map[wayKey][]wayStep }

type wayKey struct {
	from, to trade.Position
	surface  string
	help     bool
}

// wayStep is one step: what is said, for how long, and the base pose it leads to.
type wayStep struct {
	Say     string `yaml:"say"`
	Forearm string `yaml:"forearm"` // to who may not lean on the hands
	Hold    string `yaml:"hold"`    // to who stands with a hold
	Seconds int    `yaml:"seconds"`
	Pose    string `yaml:"pose"`
}

// Surfaces of the ways besides the grounds: any of them, and sitting and standing.
const (
	anySurface = "any"
	upSurface  = "up"
)

// ReadWays reads the file of transitions.
func ReadWays(data []byte) (*Ways, error) {
	var rows []struct {
		From    trade.Position `yaml:"from"`
		To      trade.Position `yaml:"to"`
		Surface string         `yaml:"surface"`
		Help    bool           `yaml:"help"`
		Steps   []wayStep      `yaml:"steps"`
	}
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(&rows); err != nil {
		return nil, fmt.Errorf("transitions.yaml: %w", err)
	}
	w := &Ways{map[wayKey][]wayStep{}}
	for i, r := range rows {
		key := wayKey{r.From, r.To, r.Surface, r.Help}
		switch {
		case !slices.Contains(trade.Positions, r.From) || !slices.Contains(trade.Positions, r.To):
			return nil, fmt.Errorf("transitions.yaml: row %d: found %s to %s, allowed: positions", i+1, r.From, r.To)
		case len(r.Steps) < 2 || len(r.Steps) > 4:
			return nil, fmt.Errorf("transitions.yaml: row %d: found %d steps, allowed: 2 to 4", i+1, len(r.Steps))
		case w.rows[key] != nil:
			return nil, fmt.Errorf("transitions.yaml: row %d: %s to %s is there already", i+1, r.From, r.To)
		}
		for _, s := range r.Steps {
			if s.Say == "" || s.Pose == "" || s.Seconds < 1 {
				return nil, fmt.Errorf("transitions.yaml: row %d: a step needs words, seconds and a pose", i+1)
			}
		}
		w.rows[key] = r.Steps
	}
	return w, nil
}

// Who is what decides how a client changes position.
type Who struct {
	Help    bool // gets down and up with help
	Forearm bool // may not lean on the hands
	Hold    bool // stands with a hold
	OnLeft  bool // rolls over the left side: the right is out
}

// steps are the steps of one row; from the ground's own rows before those of any ground.
func (w *Ways) steps(from, to trade.Position, surface string, help bool) []wayStep {
	for _, key := range []wayKey{{from, to, surface, help}, {from, to, surface, false}, {from, to, anySurface, false}} {
		if s := w.rows[key]; s != nil {
			return s
		}
	}
	return nil
}

// Way is how a client gets from one place to another, with the seconds of each step from the beginning on,
// and how long it takes.
func (w *Ways) Way(from, to plan.Place, who Who) (steps []Step, seconds int) {
	for _, s := range w.way(from, to, who.Help) {
		say := s.Say
		switch {
		case who.Forearm && s.Forearm != "":
			say = s.Forearm
		case who.Hold && s.Hold != "":
			say = s.Hold
		}
		pose := s.Pose
		if who.OnLeft {
			pose = strings.Replace(pose, "side-lying-right", "side-lying-left", 1)
		}
		steps = append(steps, Step{float64(seconds), say, pose})
		seconds += s.Seconds
	}
	return steps, seconds
}

func (w *Ways) way(from, to plan.Place, help bool) []wayStep {
	a, b := plan.Ground(from.Position, from.Surface), plan.Ground(to.Position, to.Surface)
	if a == b {
		return w.within(from.Position, to.Position, a)
	}
	return append(w.up(from.Position, a, help), w.down(to.Position, b, help)...)
}

// within is a way on one ground.
func (w *Ways) within(from, to trade.Position, ground string) []wayStep {
	if from == to {
		return nil
	}
	if ground == plan.Upright {
		return w.steps(from, to, upSurface, false)
	}
	if from.Lies() && !to.Lies() && from == trade.Supine { // from the back always by the side
		return append(
			slices.Clone(w.steps(from, trade.SideLying, ground, false)),
			w.steps(trade.SideLying, to, anySurface, false)...)
	}
	if to == trade.Supine && !from.Lies() {
		return append(
			slices.Clone(w.steps(from, trade.SideLying, anySurface, false)),
			w.steps(trade.SideLying, to, ground, false)...)
	}
	return w.steps(from, to, anySurface, false)
}

// up is coming up to standing from a ground, down going down to it.
func (w *Ways) up(from trade.Position, ground string, help bool) []wayStep {
	if ground == plan.Upright {
		return slices.Clone(w.within(from, trade.Standing, ground))
	}
	var out []wayStep
	at := from
	if from == trade.Supine {
		out, at = append(out, w.steps(from, trade.SideLying, ground, false)...), trade.SideLying
	}
	if at.Lies() {
		out, at = append(out, w.steps(at, trade.AllFours, ground, false)...), trade.AllFours
	}
	return append(out, w.steps(at, trade.Standing, ground, help)...)
}

func (w *Ways) down(to trade.Position, ground string, help bool) []wayStep {
	if ground == plan.Upright {
		return slices.Clone(w.within(trade.Standing, to, ground))
	}
	at := to
	if to.Lies() {
		at = trade.AllFours
	}
	out := slices.Clone(w.steps(trade.Standing, at, ground, help))
	if to == trade.Supine {
		out, at = append(out, w.steps(at, trade.SideLying, ground, false)...), trade.SideLying
	}
	if at != to {
		out = append(out, w.steps(at, to, ground, false)...)
	}
	return out
}
