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
	return &Solver{
		[2]*pose.Solver{pose.NewSolver(body.NewBody(body.Female, 0)), pose.NewSolver(body.NewBody(body.Male, 0))},
	}
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
		k := solving{v: v, e: e, names: names, specs: specs, solver: solver, first: b == 0, out: out}
		k.of = [2]string{"female", "male"}[b]
		k.label = label
		if k.poses, err = solver.Sequence(names, specs); err != nil {
			return nil, nil, err
		}
		k.measurer, k.room = statics.NewMeasurer(solver), furniture.Place(solver.Body, k.poses)
		k.phases()
		k.ways()
		if deep {
			if err := k.again(); err != nil {
				return nil, nil, err
			}
		}
		found = append(found, k.found...)
	}
	out.Quantities.Held(out)
	return out, found, nil
}

// solving is one version, or one of its eases, on one body. What is drawn comes from the first.
type solving struct {
	v        *catalogue.Version
	e        *catalogue.Ease
	names    []string
	specs    []*pose.Spec
	solver   *pose.Solver
	first    bool
	of       string // which body
	label    string
	poses    []*pose.Pose
	measurer *statics.Measurer
	room     furniture.Scene
	out      *catalogue.Solved
	found    []Finding
}

func (k *solving) say(phase string, lines []string) {
	for _, l := range lines {
		k.found = append(k.found, Finding{k.label, fmt.Sprintf("%s (%s body)", phase, k.of), l})
	}
}

// phases validates and measures every phase, and holds it against what the words promise.
func (k *solving) phases() {
	var measured []statics.Measures
	for i, p := range k.poses {
		held := k.v.Phases[i].Held
		k.say(k.names[i], validate.Pose(k.solver, p, held || i == 0))
		k.say(k.names[i], validate.Collisions(k.solver, p, k.room, 1))
		me := k.measurer.Measure(p)
		measured = append(measured, me)
		take(k.out.Quantities, &me, k.names[i], held)
		asked := withAsked(me, p)
		take(k.out.Quantities, &asked, k.names[i], held)
		if k.first {
			k.out.Phases = append(k.out.Phases, catalogue.SolvedPhase{
				Name: k.names[i], State: catalogue.Pack(p.State), Contacts: p.Contacts, View: p.View, Props: p.Props, Measures: me,
			})
		}
	}
	broken := promises(k.v, k.e, k.solver.Body, k.names, k.specs, k.poses)
	for _, f := range append(broken, mirrors(k.v, k.e, k.names, k.specs, measured, k.poses)...) {
		k.say(f.Phase, []string{f.Text})
	}
	if k.first && k.e == nil {
		k.found = append(k.found, together(k.v, k.poses)...)
	}
}

// ways validates and measures the ways from phase to phase.
func (k *solving) ways() {
	travel := travel(k.v, k.e, k.specs)
	steps := slices.Contains(slices.Collect(maps.Values(travel)), pose.Steps)
	n := max(6, catalogue.PathFrames/len(k.poses))
	for i, p := range k.poses {
		to := k.v.Next(i)
		next, way := k.poses[to], k.names[i]+" to "+k.names[to]
		path := k.solver.Path(p, next, travel, n)
		k.say(way, validate.Strays(k.solver, p, next, travel))
		k.say(way, validate.Skates(k.solver, append(append([]*pose.Pose{p}, path...), next), travel))
		var frames []catalogue.Packed
		row := []body.State{p.State}
		for j, q := range path {
			row = append(row, q.State)
			if j%3 == 1 {
				me := k.measurer.Measure(q)
				take(k.out.Quantities, moving(&me, steps), way, false)
				k.say(way, validate.Path(k.solver, q))
				k.say(way, validate.Collisions(k.solver, q, k.room, 2))
			}
			frames = append(frames, catalogue.Pack(q.State))
		}
		joint, head := k.solver.Speeds(append(row, next.State), k.v.Phases[to].Seconds)
		k.out.Quantities.Raise("speed", joint, way)
		k.out.Quantities.Raise("head-speed", head, way)
		if k.first {
			k.out.Paths = append(k.out.Paths, catalogue.PathOf(frames))
		}
	}
}

// again solves mirrored, and from disturbed starts.
func (k *solving) again() error {
	lines, err := k.solver.Mirrored(k.names, k.specs, k.poses)
	if err != nil {
		return err
	}
	k.say("mirror", lines)
	jitter, err := jittered(k.solver, k.names, k.specs, k.poses)
	k.say("jitter", jitter)
	return err
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

func jittered(solver *pose.Solver, names []string, specs []*pose.Spec, poses []*pose.Pose) ([]string, error) {
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
