package catalogue

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
	"restbend/core/pose"
	"restbend/core/statics"
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
	Key    string        `json:"key"`
	Phases []SolvedPhase `json:"phases"`
	// the ways between the phases, of an own version; others keep them in a file of their own
	Paths      []Path     `json:"frames,omitempty"`
	Quantities Quantities `json:"quantities"`
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
	Name     string           `json:"name"`
	State    Packed           `json:"state"`
	Contacts []pose.Contact   `json:"contacts"`
	View     string           `json:"view"`
	Props    []body.Prop      `json:"props,omitempty"`
	Measures statics.Measures `json:"measures"`
}

// Packed is a body state as whole numbers: place in 0.1 mm, quaternion in 1e-5, angles
// in 0.01 degree.
type Packed []int32

// Pack writes a state in whole numbers.
func Pack(st body.State) Packed {
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

// PathOf packs states.
func PathOf(states []Packed) Path {
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
func (s *SolvedPhase) Pose() *pose.Pose {
	return &pose.Pose{State: s.State.State(), Contacts: s.Contacts, View: s.View, Props: s.Props}
}

// PoseKey identifies the pose text together with the solver's version.
func (v *Version) PoseKey(e *Ease) string {
	h := sha256.New()
	fmt.Fprintln(h, pose.Fingerprint)
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
	if !ok || s.Key != key || c.Solver != pose.SolverVersion {
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

// PathFrames is about how many frames an exercise shows in one round of its phases.
const PathFrames = 30

// Height is how high the surface is that a version is set by, cm as drawn: what is sat on, else the highest
// that is touched; 0 where all is on the ground or upright.
func (v *Version) Height() (cm float64) {
	sat := 0.0
	if v.Solved == nil {
		return 0
	}
	for i := range v.Solved.Phases {
		for _, c := range v.Solved.Phases[i].Contacts {
			s := body.Surfaces[c.Surface]
			if s.Upright() {
				continue
			}
			cm = math.Max(cm, math.Round(100*s.D))
			if strings.HasPrefix(c.Sphere, "sit-bone") {
				sat = math.Max(sat, math.Round(100*s.D))
			}
		}
	}
	if sat > 0 {
		return sat
	}
	return cm
}
