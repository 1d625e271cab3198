// Package measure solves the poses of a version of the catalogue on both reference bodies, checks
// that they do what the words promise, and measures what they ask of a body.
package measure

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/statics"
	"restbend/core/validate"
)

// Finding is one complaint of the pose validator.
type Finding struct{ Version, Phase, Text string }

// Solver solves and validates the poses of versions on both reference bodies.
type Solver struct{ bodies [2]*pose.Solver }

// NewSolver returns a solver for the female and the male reference body.
func NewSolver() *Solver {
	return &Solver{[2]*pose.Solver{pose.NewSolver(body.NewBody(body.Female, 0)), pose.NewSolver(body.NewBody(body.Male, 0))}}
}

// Solve solves a version, or one of its eases, measures every phase and the paths
// between them, and returns what the validator finds. Deep adds mirrored and jittered
// solves.
func (s *Solver) Solve(v *catalogue.Version, e *catalogue.Ease, deep bool) (*catalogue.Solved, []Finding, error) {
	names, specs, err := v.Specs(e)
	if err != nil {
		return nil, nil, err
	}
	label := v.Slug
	if e != nil {
		label += "/" + e.Slug
	}
	out := &catalogue.Solved{Key: v.PoseKey(e), Quantities: catalogue.Quantities{}}
	var found []Finding
	for b, solver := range s.bodies {
		say := func(phase string, lines []string) {
			for _, l := range lines {
				found = append(found, Finding{label, fmt.Sprintf("%s (%s body)", phase, [2]string{"female", "male"}[b]), l})
			}
		}
		poses, err := solver.Sequence(names, specs)
		if err != nil {
			return nil, nil, err
		}
		m := statics.NewMeasurer(solver)
		var measured []statics.Measures
		scene := furniture.Place(solver.Body, poses)
		for i, p := range poses {
			say(names[i], validate.Pose(solver, p, v.Phases[i].Held || i == 0))
			say(names[i], validate.Collisions(solver, p, scene, 1))
			me := m.Measure(p)
			measured = append(measured, me)
			take(out.Quantities, &me, names[i], v.Phases[i].Held)
			asked := withAsked(me, p)
			take(out.Quantities, &asked, names[i], v.Phases[i].Held)
			if b == 0 {
				out.Phases = append(out.Phases, catalogue.SolvedPhase{Name: names[i], State: catalogue.Pack(p.State), Contacts: p.Contacts, View: p.View, Props: p.Props, Measures: me})
			}
		}
		for _, f := range append(promises(v, e, solver.Body, names, specs, poses), mirrors(v, e, names, specs, measured, poses)...) {
			say(f.Phase, []string{f.Text})
		}
		if b == 0 && e == nil {
			found = append(found, together(v, poses)...)
		}
		travel := travel(v, e, specs)
		steps := slices.Contains(slices.Collect(maps.Values(travel)), pose.Steps)
		n := max(6, catalogue.PathFrames/len(poses))
		for i, p := range poses {
			next, after := poses[v.Next(i)], names[v.Next(i)]
			path := solver.Path(p, next, travel, n)
			way := names[i] + " to " + after
			say(way, validate.Strays(solver, p, next, travel))
			say(way, validate.Skates(solver, append(append([]*pose.Pose{p}, path...), next), travel))
			var frames []catalogue.Packed
			row := []body.State{p.State}
			for k, q := range path {
				row = append(row, q.State)
				if k%3 == 1 {
					me := m.Measure(q)
					take(out.Quantities, moving(&me, steps), way, false)
					say(way, validate.Path(solver, q))
					say(way, validate.Collisions(solver, q, scene, 2))
				}
				frames = append(frames, catalogue.Pack(q.State))
			}
			joint, head := solver.Speeds(append(row, next.State), v.Phases[v.Next(i)].Seconds)
			out.Quantities.Raise("speed", joint, way)
			out.Quantities.Raise("head-speed", head, way)
			if b == 0 {
				out.Paths = append(out.Paths, catalogue.PathOf(frames))
			}
		}
		if deep {
			lines, err := solver.Mirrored(names, specs, poses)
			if err != nil {
				return nil, nil, err
			}
			say("mirror", lines)
			jitter, err := s.jitter(solver, names, specs, poses)
			if err != nil {
				return nil, nil, err
			}
			say("jitter", jitter)
		}
	}
	out.Quantities.Held(out)
	return out, found, nil
}

// Settle solves the phases of a version on both bodies and nothing more: what a cold
// start without the generated file would need.
func (s *Solver) Settle(v *catalogue.Version) error {
	names, specs, err := v.Specs(nil)
	if err != nil {
		return err
	}
	for _, solver := range s.bodies {
		if _, err := solver.Sequence(names, specs); err != nil {
			return err
		}
	}
	return nil
}

// withAsked takes the stricter of requested and solved spine angles (shared ruling 1).
func withAsked(m statics.Measures, p *pose.Pose) statics.Measures {
	set := func(v *float64, dof int) {
		if a, ok := p.Asked[dof]; ok {
			*v = a * 180 / math.Pi
		}
	}
	for i, r := range []*statics.Region{&m.Lumbar, &m.Thoracic, &m.Neck} {
		set(&r.Flexion, body.LumbarFlex+3*i)
		set(&r.SideBend, body.LumbarSide+3*i)
		set(&r.Rotation, body.LumbarTurn+3*i)
	}
	return m
}

// moving drops what only counts where a posture is kept: the support of a passing frame
// is shared by contacts that are just arriving or leaving. How a limb that steps passes the other
// is the solver's way, not the client's.
func moving(m *statics.Measures, steps bool) *statics.Measures {
	c := *m
	c.Share, c.Moment = nil, 0
	c.StandingFree, c.Standing, c.OnFloor, c.FloorSit, c.OneLegBridge, c.LegsLoaded = false, false, false, false, false, false
	c.HeadLift, c.HeadUp, c.LyingOn, c.BridgeRise = false, false, "", 0
	if steps {
		for i := range c.Side {
			c.Side[i].HipAbduction, c.Side[i].HipRotation, c.HipAcross[i] = max(0, c.Side[i].HipAbduction), 0, 0
		}
	}
	c.ToePlank, c.ProneLift, c.ProneLimb, c.OnFeet = false, false, false, false
	return &c
}

func (s *Solver) jitter(solver *pose.Solver, names []string, specs []*pose.Spec, poses []*pose.Pose) ([]string, error) {
	byName := map[string]*pose.Pose{}
	var out []string
	for i, spec := range specs {
		from, anchored := byName[spec.From], true
		if from == nil {
			base, err := solver.Base(spec.From)
			if err != nil {
				return nil, err
			}
			from, anchored = base, false
		}
		if d, in := solver.Jittered(poses[i], from, anchored, uint64(i)+7); d > 2 {
			out = append(out, fmt.Sprintf("%s: from a disturbed start differs by %.1f degrees in %s", names[i], d, in))
		}
		byName[names[i]] = poses[i]
	}
	return out, nil
}
