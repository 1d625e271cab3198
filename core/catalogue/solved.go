package catalogue

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"maps"
	"math"
	"slices"

	"restbend/core/body"
)

// Cache is the generated file of solved poses, keyed by version (or version/ease).
type Cache struct {
	Solver  int                   `json:"solver"`
	Entries map[string]*Solved    `json:"entries"`
	Ways    func() map[string]Way `json:"-"` // the solved ways between phases, read when the first is asked for
}

// Way is how a version or ease goes from each phase to the next, and from the last to the
// first repeated one.
type Way struct {
	Key   string `json:"key"`
	Paths []Path `json:"paths"`
}

// Solved is everything worked out from the poses of one version or ease.
type Solved struct {
	Key        string        `json:"key"`
	Phases     []SolvedPhase `json:"phases"`
	Paths      []Path        `json:"frames,omitempty"` // the ways between the phases, of an own version; others keep them in a file of their own
	Quantities Quantities    `json:"quantities"`
	ways       func() []Path
}

// Frames are the ways from each phase to the next, and from the last to the first repeated
// one. They are read when somebody asks for a film.
func (s *Solved) Frames() []Path {
	if s.Paths == nil && s.ways != nil {
		return s.ways()
	}
	return s.Paths
}

// SolvedPhase is one solved pose and what it asks of the body.
type SolvedPhase struct {
	Name     string         `json:"name"`
	State    Packed         `json:"state"`
	Contacts []body.Contact `json:"contacts"`
	View     string         `json:"view"`
	Props    []body.Prop    `json:"props,omitempty"`
	Measures body.Measures  `json:"measures"`
}

// Packed is a body state as whole numbers: place in 0.1 mm, quaternion in 1e-5, angles
// in 0.01 degree.
type Packed []int32

func pack(st body.State) Packed {
	p := make(Packed, 0, 7+body.NDof)
	for _, v := range st.Root {
		p = append(p, int32(math.Round(v*1e4)))
	}
	for _, v := range st.Turn {
		p = append(p, int32(math.Round(v*1e5)))
	}
	for _, v := range st.Q {
		p = append(p, int32(math.Round(v*180/math.Pi*100)))
	}
	return p
}

// State unpacks a state.
func (p Packed) State() body.State {
	var st body.State
	for i := range st.Root {
		st.Root[i] = float64(p[i]) / 1e4
	}
	for i := range st.Turn {
		st.Turn[i] = float64(p[3+i]) / 1e5
	}
	for i := range st.Q {
		st.Q[i] = float64(p[7+i]) / 100 * math.Pi / 180
	}
	return st
}

// Path is the states between two phases: the first whole, then what changes, as signed
// varints. It is unpacked only when an animation is asked for.
type Path []byte

// pathOf packs states.
func pathOf(states []Packed) Path {
	var out Path
	last := make(Packed, 7+body.NDof)
	for _, st := range states {
		for i, v := range st {
			out = binary.AppendVarint(out, int64(v-last[i]))
		}
		last = st
	}
	return out
}

// States unpacks a path.
func (p Path) States() []Packed {
	var out []Packed
	last := make(Packed, 7+body.NDof)
	for len(p) > 0 {
		st := append(Packed{}, last...)
		for i := range st {
			d, n := binary.Varint(p)
			if n <= 0 {
				return out
			}
			st[i] += int32(d)
			p = p[n:]
		}
		out, last = append(out, st), st
	}
	return out
}

// Pose rebuilds a solved phase as a pose that can be drawn.
func (s *SolvedPhase) Pose() *body.Pose {
	return &body.Pose{State: s.State.State(), Contacts: s.Contacts, View: s.View, Props: s.Props}
}

// poseKey identifies the pose text together with the solver's version.
func (v *Version) poseKey(e *Ease) string {
	h := sha256.New()
	fmt.Fprintln(h, body.Fingerprint)
	for _, p := range v.Phases {
		if p.Once {
			fmt.Fprintln(h, "once")
		}
		fmt.Fprintf(h, "%s|%v|%g|%s\n", p.Name, p.Held, p.Seconds, p.Pose)
		if e != nil {
			fmt.Fprintln(h, e.Phases[p.Name])
		}
	}
	return hex.EncodeToString(h.Sum(nil))[:16]
}

func (c *Cache) find(name, key string) (*Solved, error) {
	if c == nil {
		return nil, fmt.Errorf("no solved poses; run: make solve")
	}
	s, ok := c.Entries[name]
	if !ok || s.Key != key || c.Solver != body.SolverVersion {
		return nil, fmt.Errorf("solved poses of %s are missing or stale; run: make solve", name)
	}
	if s.ways == nil && c.Ways != nil {
		s.ways = func() []Path {
			if w := c.Ways()[name]; w.Key == s.Key {
				return w.Paths
			}
			return nil
		}
	}
	return s, nil
}

// pathFrames is about how many frames an exercise shows in one round of its phases.
const pathFrames = 30

// Finding is one complaint of the pose validator.
type Finding struct{ Version, Phase, Text string }

// Solver solves and validates the poses of versions on both reference bodies.
type Solver struct{ bodies [2]*body.Solver }

// NewSolver returns a solver for the female and the male reference body.
func NewSolver() *Solver {
	return &Solver{[2]*body.Solver{body.NewSolver(body.NewBody(body.Female, 0)), body.NewSolver(body.NewBody(body.Male, 0))}}
}

// Solve solves a version, or one of its eases, measures every phase and the paths
// between them, and returns what the validator finds. Deep adds mirrored and jittered
// solves.
func (s *Solver) Solve(v *Version, e *Ease, deep bool) (*Solved, []Finding, error) {
	names, specs, err := v.specs(e)
	if err != nil {
		return nil, nil, err
	}
	label := v.Slug
	if e != nil {
		label += "/" + e.Slug
	}
	out := &Solved{Key: v.poseKey(e), Quantities: Quantities{}}
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
		m := body.NewMeasurer(solver)
		var measured []body.Measures
		scene := solver.Body.Furnish(poses)
		for i, p := range poses {
			say(names[i], solver.Validate(p, v.Phases[i].Held || i == 0))
			say(names[i], solver.Collisions(p, scene, 1))
			me := m.Measure(p)
			measured = append(measured, me)
			out.Quantities.take(&me, names[i], v.Phases[i].Held)
			asked := withAsked(me, p)
			out.Quantities.take(&asked, names[i], v.Phases[i].Held)
			if b == 0 {
				out.Phases = append(out.Phases, SolvedPhase{Name: names[i], State: pack(p.State), Contacts: p.Contacts, View: p.View, Props: p.Props, Measures: me})
			}
		}
		for _, f := range append(v.promises(e, solver.Body, names, specs, poses), v.mirrors(e, names, specs, measured, poses)...) {
			say(f.Phase, []string{f.Text})
		}
		if b == 0 && e == nil {
			found = append(found, v.together(poses)...)
		}
		travel := v.travel(e, specs)
		steps := slices.Contains(slices.Collect(maps.Values(travel)), body.Steps)
		n := max(6, pathFrames/len(poses))
		for i, p := range poses {
			next, after := poses[v.Next(i)], names[v.Next(i)]
			path := solver.Path(p, next, travel, n)
			way := names[i] + " to " + after
			say(way, solver.Strays(p, next, travel))
			say(way, solver.Skates(append(append([]*body.Pose{p}, path...), next), travel))
			var frames []Packed
			row := []body.State{p.State}
			for k, q := range path {
				row = append(row, q.State)
				if k%3 == 1 {
					me := m.Measure(q)
					out.Quantities.take(moving(&me, steps), way, false)
					say(way, solver.ValidatePath(q))
					say(way, solver.Collisions(q, scene, 2))
				}
				frames = append(frames, pack(q.State))
			}
			joint, head := solver.Speeds(append(row, next.State), v.Phases[v.Next(i)].Seconds)
			out.Quantities.raise("speed", joint, way)
			out.Quantities.raise("head-speed", head, way)
			if b == 0 {
				out.Paths = append(out.Paths, pathOf(frames))
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
	out.Quantities.held(out)
	return out, found, nil
}

// Settle solves the phases of a version on both bodies and nothing more: what a cold
// start without the generated file would need.
func (s *Solver) Settle(v *Version) error {
	names, specs, err := v.specs(nil)
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
func withAsked(m body.Measures, p *body.Pose) body.Measures {
	set := func(v *float64, dof int) {
		if a, ok := p.Asked[dof]; ok {
			*v = a * 180 / math.Pi
		}
	}
	for i, r := range []*body.Region{&m.Lumbar, &m.Thoracic, &m.Neck} {
		set(&r.Flexion, body.LumbarFlex+3*i)
		set(&r.SideBend, body.LumbarSide+3*i)
		set(&r.Rotation, body.LumbarTurn+3*i)
	}
	return m
}

// moving drops what only counts where a posture is kept: the support of a passing frame
// is shared by contacts that are just arriving or leaving. How a limb that steps passes the other
// is the solver's way, not the client's.
func moving(m *body.Measures, steps bool) *body.Measures {
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

func (s *Solver) jitter(solver *body.Solver, names []string, specs []*body.Spec, poses []*body.Pose) ([]string, error) {
	byName := map[string]*body.Pose{}
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
