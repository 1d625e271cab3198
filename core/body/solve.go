package body

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
)

// SolverVersion changes whenever the same pose text may solve differently.
const SolverVersion = 6

// RulesVersion changes whenever the validator may find more than before.
const RulesVersion = 2

// Pose is a solved pose.
type Pose struct {
	State
	Spec      *Spec
	Contacts  []Contact
	Position  string // of the base: supine, side, prone, all-fours, sitting, standing
	Symmetric bool
	Props     []Prop
	View      string
	Asked     map[int]float64 // angles the author stated here, radians
	Pulls     bool            // arms or straps draw a region into range
	relations []Relation      // of the base only
	fists     [2]bool         // hands closed on the way between two poses
	said      []Said          // what this pose or one it comes from states about width, edges and crossing
	from      *State          // the pose it comes from; nil for a base
	home      [NDof]float64   // of hip and shoulder: where abduction and turning were last stated, else their base's
	heading   Vec             // where the pelvis' left points in the base
	lies      [2]string       // where hands lie on skin, laid here or in the pose it comes from
}

// How far an angle may give, in degrees, by who said it.
const (
	sigmaAuthor    = 2.0
	sigmaSpine     = 1.0 // spine angle stated by the author
	sigmaSpineKept = 1.6 // spine angle nobody mentioned
	sigmaKept      = 6.0
	sigmaTurnKept  = 3.0 // abduction and rotation of hip and shoulder
	sigmaEnd       = 12.0
	sigmaLoose     = 26.0
)

// Solver solves poses for one body and remembers its bases.
type Solver struct {
	Body  *Body
	bases map[string]*Pose
	index map[string]int // sphere by name
}

// NewSolver returns a solver for a body.
func NewSolver(b *Body) *Solver {
	s := &Solver{Body: b, bases: map[string]*Pose{}, index: map[string]int{}}
	for i, sp := range b.spheres {
		s.index[sp.name] = i
	}
	return s
}

// Sequence solves the phases of one exercise in order. A phase may start from a base or
// from an earlier phase by name; contacts kept from an earlier phase stay where they
// were unless the author lets them slide.
func (s *Solver) Sequence(names []string, specs []*Spec) ([]*Pose, error) {
	done := map[string]*Pose{}
	out := make([]*Pose, len(specs))
	for i, spec := range specs {
		from := done[spec.From]
		anchored := from != nil
		var err error
		if from == nil {
			if from, err = s.Base(spec.From); err != nil {
				return nil, fmt.Errorf("phase %s: %w", names[i], err)
			}
		}
		var p *Pose
		if spec.Mirrored {
			if !anchored {
				return nil, fmt.Errorf("phase %s: only an earlier phase can be mirrored", names[i])
			}
			p = from.exchanged(spec)
		} else if p, err = s.solve(spec, from, anchored); err != nil {
			return nil, fmt.Errorf("phase %s: %w", names[i], err)
		}
		out[i], done[names[i]] = p, p
	}
	return out, nil
}

// Base solves a base pose.
func (s *Solver) Base(name string) (*Pose, error) {
	if p := s.bases[name]; p != nil {
		return p, nil
	}
	mirrored := false
	b, ok := bases[name]
	if !ok && strings.HasSuffix(name, "-right") {
		b, ok = bases[strings.TrimSuffix(name, "-right")+"-left"]
		mirrored = true
	}
	if !ok {
		return nil, fmt.Errorf("unknown base %q; known: %s", name, strings.Join(BaseNames(), ", "))
	}
	spec, err := Parse("from base\n" + b.text)
	if err != nil {
		return nil, err
	}
	start := &Pose{State: State{Root: Vec{0, 0, b.height * s.Body.scale}, Turn: b.turn}, Position: b.position, Symmetric: true}
	// Poses inherit where hands rest, not how upright the base is.
	start.relations = slices.DeleteFunc(slices.Clone(spec.Relations), Relation.posture)
	spec.Relations = slices.DeleteFunc(spec.Relations, func(r Relation) bool { return !r.posture() })
	for _, a := range spec.Angles {
		start.Q[a.Dof] = a.Value
	}
	if mirrored {
		spec, start.State = spec.Mirror(), start.State.Mirror()
		for i := range start.relations {
			start.relations[i] = start.relations[i].mirror()
		}
	}
	tm := start.Turn.mat()
	start.heading = tm.Col(1)
	if math.Abs(start.heading[2]) > 0.5 { // lying on the side: where the head points
		start.heading = tm.Col(2)
	}
	p, err := s.solve(spec, start, false)
	if err != nil {
		return nil, fmt.Errorf("base %s: %w", name, err)
	}
	p.Asked, p.from = map[int]float64{}, nil
	s.bases[name] = p
	return p, nil
}

// problem is one least-squares problem: priors on the angles and residuals on points.
type problem struct {
	b         *Body
	target    State
	sigma     [NDof]float64
	rootSigma float64
	turnSigma [3]float64 // rotation vector in the pelvis frame
	touching  []contactAt
	others    []int     // spheres that must stay above the floor
	walls     []Surface // and out of these
	relations []Relation
	contacts  []Contact
	symmetric bool
	heading   Vec
	props     []Prop
	wristFree [2]bool // hands that bear nothing
}

type contactAt struct {
	sphere  int
	surface Surface
	anchor  *Vec // where on the surface it must stay
}

// prepare builds the problem of a spec and the pose to return.
func (s *Solver) prepare(spec *Spec, from *Pose, anchored bool) (*problem, *Pose) {
	p := &Pose{Spec: spec, Position: from.Position, Props: spec.Props, View: spec.View, Asked: map[int]float64{},
		Symmetric: from.Symmetric && !spec.sided, heading: from.heading}
	if p.View == "" {
		p.View = from.View
	}
	if p.Props == nil && !spec.LetGo {
		p.Props = from.Props
	}
	pr := &problem{b: s.Body, target: from.State, symmetric: p.Symmetric, heading: from.heading, rootSigma: 0.4}
	pr.turnSigma = [3]float64{20 * deg, 60 * deg, 20 * deg}

	if from.Position == "side" { // a stacked pelvis: lying on the side does not roll freely
		pr.turnSigma = [3]float64{8 * deg, 20 * deg, 8 * deg}
	}
	for _, t := range spec.Tilt {
		r := Vec{}
		r[t.axis] = t.angle
		pr.target.Turn = pr.target.Turn.small(r)
		pr.turnSigma = [3]float64{8 * deg, 8 * deg, 8 * deg}
	}
	touched := map[string]bool{}
	for i := range pr.sigma {
		pr.sigma[i] = keptSigma(i) * deg
	}
	for _, a := range spec.Angles {
		pr.target.Q[a.Dof], p.Asked[a.Dof] = a.Value, a.Value
		pr.sigma[a.Dof] = sigmaAuthor * deg
		if a.Dof < limbs {
			pr.sigma[a.Dof] = sigmaSpine * deg
		}
		touched[limbOf(a.Dof)] = true
	}
	for _, d := range spec.Loose {
		// In a base the angle says where a loose joint begins.
		if _, said := p.Asked[d]; (!said || spec.From == "base") && !opens(d) { // a loose hip or shoulder bends; it does not splay
			pr.sigma[d] = sigmaLoose * deg
		}
	}
	p.keepHome(from)
	p.said = stillSaid(from.said, spec.Said)
	off := map[string]bool{}
	for _, o := range spec.Off {
		off[o] = true
		touched[LimbOfSphere(o)] = true
	}
	on := map[string]bool{}
	for _, c := range spec.On {
		on[c.Sphere] = true
		touched[LimbOfSphere(c.Sphere)] = true
	}
	slide := map[string]bool{}
	for _, c := range append(append([]string{}, spec.Slide...), spec.Step...) {
		slide[c] = true
	}
	var fr Frames
	s.Body.Place(&from.State, &fr)
	down := func(c Contact, stays bool) {
		p.Contacts = append(p.Contacts, c)
		at := contactAt{sphere: s.index[c.Sphere], surface: Surfaces[c.Surface]}
		if anchored && stays && !slide[c.Sphere] {
			v := s.Body.touchPoint(&fr, at.sphere, at.surface)
			at.anchor = &v
		}
		pr.touching = append(pr.touching, at)
	}
	for _, c := range from.Contacts {
		if !off[c.Sphere] && !on[c.Sphere] {
			down(c, true)
		}
	}
	for _, c := range spec.On { // skin that stays down keeps its place, whatever the contact is called now
		down(c, from.touches(c.Sphere, c.Surface))
	}
	pr.walls, pr.props = p.walls(), p.Props
	is := map[int]bool{}
	for _, c := range pr.touching {
		is[c.sphere] = true
	}
	for i := range s.Body.spheres {
		if !is[i] && !p.folded(s.Body.spheres[i].name) {
			pr.others = append(pr.others, i)
		}
	}
	for _, r := range from.relations {
		keep := true
		for _, a := range r.Args {
			if _, far, ok := segmentEnds(a); r.Kind == "aim" && ok {
				a = far
			}
			if spec.From != "base" && touched[limbOfPoint(a)] {
				keep = false
			}
		}
		if keep {
			pr.relations = append(pr.relations, r)
		}
	}
	p.relations = pr.relations
	pr.relations = append(append([]Relation{}, pr.relations...), spec.Relations...)
	for side, hand := range []string{"hand.left", "hand.right"} {
		if at := from.lies[side]; !touched[limbOfPoint(hand)] && !touched[limbOfPoint(strings.TrimPrefix(at, "back-of-"))] {
			p.lies[side] = at
		}
		for _, r := range pr.relations {
			if r.Kind == "lay" && r.Args[0] == hand {
				p.lies[side] = r.Args[1]
			}
		}
		wrist := Limb(Side(side), WristExt)
		if _, asked := p.Asked[wrist]; from.lies[side] != "" && p.lies[side] == "" && !asked {
			pr.target.Q[wrist] = 0 // a hand that leaves what it lay on goes on straight from its wrist
		}
	}
	pr.contacts = p.Contacts
	for _, side := range []Side{Left, Right} {
		pr.wristFree[side] = !p.onHand(side)
	}
	for _, r := range spec.Relations {
		p.Pulls = p.Pulls || r.pulls()
	}
	return pr, p
}

// walls are the upright surfaces a pose touches.
func (p *Pose) walls() []Surface {
	var out []Surface
	seen := map[string]bool{}
	for _, c := range p.Contacts {
		if s := Surfaces[c.Surface]; s.upright() && !seen[c.Surface] {
			seen[c.Surface] = true
			out = append(out, s)
		}
	}
	return out
}

func (s *Solver) solve(spec *Spec, from *Pose, anchored bool) (*Pose, error) {
	pr, p := s.prepare(spec, from, anchored)
	start := from.State
	start.Turn = pr.target.Turn
	for _, a := range spec.Angles {
		start.Q[a.Dof] = a.Value
	}
	st, cost := pr.settle(start, 400)
	if math.IsNaN(cost) {
		return nil, errors.New("the statements cannot all be met")
	}
	p.State = st
	return p, nil
}

// opens tells whether an angle opens a hip or shoulder sideways or turns it.
func opens(dof int) bool {
	if dof < limbs {
		return false
	}
	switch (dof - limbs) % limbCount {
	case ShoulderAbd, ShoulderRot, HipAbd, HipRot:
		return true
	}
	return false
}

// keepHome remembers the pose a pose comes from and where its hips and shoulders were
// last said to be.
func (p *Pose) keepHome(from *Pose) {
	p.from = &from.State
	p.home = from.home
	if from.from == nil {
		p.home = from.Q
	}
	for d, v := range p.Asked {
		p.home[d] = v
	}
}

// touches tells whether a ball of skin is on a surface.
func (p *Pose) touches(sphere, surface string) bool {
	for _, c := range p.Contacts {
		if c.Sphere == sphere && c.Surface == surface {
			return true
		}
	}
	return false
}

// keptSigma is how far an angle that nobody mentioned may give, in degrees.
func keptSigma(dof int) float64 {
	if dof < limbs {
		return sigmaSpineKept
	}
	switch (dof - limbs) % limbCount {
	case ShoulderAbd, ShoulderRot, HipAbd, HipRot, BladeForward, BladeUp:
		return sigmaTurnKept
	case WristExt, AnkleUp, ToesUp:
		return sigmaEnd
	}
	return sigmaKept
}

func limbOf(dof int) string {
	if dof < limbs {
		return "spine"
	}
	side := "left"
	if dof >= limbs+limbCount {
		side = "right"
	}
	if (dof-limbs)%limbCount >= HipFlex {
		return "leg." + side
	}
	return "arm." + side
}

// LimbOfSphere names the limb that a place of contact belongs to: leg.left, arm.right; empty
// for the trunk and the head.
func LimbOfSphere(name string) string {
	base, side, _ := strings.Cut(name, ".")
	switch base {
	case "elbow", "forearm-end", "palm", "knuckle", "fingertip":
		return "arm." + side
	case "thigh-back", "thigh-front", "knee", "calf", "ankle-side", "heel", "ball", "instep", "toe":
		return "leg." + side
	}
	return ""
}

// pulls tells whether an arm draws on a leg: a hand on its own thigh only rests.
func (r *Relation) pulls() bool {
	if r.Kind != "touch" && r.Kind != "lay" || armPoint(r.Args[0]) == armPoint(r.Args[1]) || !legPoint(r.Args[0]) && !legPoint(r.Args[1]) {
		return false
	}
	_, hand, _ := strings.Cut(r.Args[0], ".")
	on, side, _ := strings.Cut(r.Args[1], ".")
	rests := on == "thigh" || on == "outer-thigh"
	return r.Kind == "touch" || !rests || hand != side
}

func limbOfPoint(name string) string {
	switch base, side, _ := strings.Cut(name, "."); {
	case armPoint(name):
		return "arm." + side
	case legPoint(name) && base != "hip":
		return "leg." + side
	}
	return ""
}

func armPoint(name string) bool {
	switch base, _, _ := strings.Cut(name, "."); base {
	case "elbow", "wrist", "palm", "fingertip", "hand":
		return true
	}
	return false
}

func legPoint(name string) bool {
	switch base, _, _ := strings.Cut(name, "."); base {
	case "hip", "knee", "kneecap", "shin", "thigh", "ankle", "heel", "ball", "toe", "outer-knee", "outer-thigh", "back-of-thigh", "inner-shin":
		return true
	}
	return false
}

// Fist tells whether a hand (".left" or ".right") stands on its knuckles.
func (p *Pose) Fist(side string) bool {
	knuckle, palm := p.fists[b2i(side == ".right")] || p.grips(side), false
	for _, c := range p.Contacts {
		knuckle = knuckle || c.Sphere == "knuckle"+side
		palm = palm || c.Sphere == "palm"+side
	}
	return knuckle && !palm
}

// held are the things a hand closes round; a ball it presses from outside.
var held = []string{"dowel", "band", "strap", "dumbbell", "ring"}

// grips tells whether a hand holds something.
func (p *Pose) grips(side string) bool {
	return slices.ContainsFunc(p.Props, func(h Prop) bool {
		return slices.Contains(held, h.Kind) && (len(h.At) == 0 || slices.Contains(h.At, "palm"+side))
	})
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// folded tells whether a sphere is a fingertip closed into a fist.
func (p *Pose) folded(sphere string) bool {
	base, side, ok := strings.Cut(sphere, ".")
	return ok && base == "fingertip" && p.Fist("."+side)
}

// sphereCenter is where a ball of skin is.
func (b *Body) sphereCenter(f *Frames, i int) Vec {
	sp := &b.spheres[i]
	return f.P[sp.seg].Add(f.R[sp.seg].Mul(sp.at))
}

// spherePoint is the lowest point of a sphere.
func (b *Body) spherePoint(f *Frames, i int) Vec {
	v := b.sphereCenter(f, i)
	v[2] -= b.spheres[i].r
	return v
}

// touchPoint is the point of a sphere nearest a surface.
func (b *Body) touchPoint(f *Frames, i int, s Surface) Vec {
	return b.sphereCenter(f, i).Sub(s.N.Scale(b.spheres[i].r))
}

const nState = 6 + NDof

func (st *State) moved(d *[nState]float64) State {
	out := *st
	for i := 0; i < 3; i++ {
		out.Root[i] += d[i]
	}
	out.Turn = st.Turn.small(Vec{d[3], d[4], d[5]})
	for i := range out.Q {
		out.Q[i] += d[6+i]
	}
	return out
}

// tolerances of the residuals: metres, radians.
const (
	tolContact  = 0.0006
	tolAnchor   = 0.002
	tolAim      = 1.0 * deg
	tolPoint    = 0.006
	tolBalance  = 0.008
	tolSame     = 0.1 * deg
	tolHeading  = 0.03
	tolStraight = 0.002
	tolFlat     = 2.0 * deg
)

// priors adds the pull of every angle to its target; it returns the cost.
func (pr *problem) priors(st *State, jtj *[nState][nState]float64, g *[nState]float64) float64 {
	cost := 0.0
	add := func(i int, res, sigma float64) {
		w := 1 / (sigma * sigma)
		cost += res * res * w
		if jtj != nil {
			jtj[i][i] += w
			g[i] += res * w
		}
	}
	for i := 0; i < 3; i++ {
		add(i, st.Root[i]-pr.target.Root[i], pr.rootSigma)
	}
	rv := rotationTo(pr.target.Turn, st.Turn)
	for i := 0; i < 3; i++ {
		add(3+i, rv[i], pr.turnSigma[i])
	}
	for i := range st.Q {
		add(6+i, st.Q[i]-pr.target.Q[i], pr.sigma[i])
		l := pr.limit(i)
		over := math.Max(st.Q[i]-l[1]*deg, 0) + math.Min(st.Q[i]-l[0]*deg, 0)
		if over != 0 {
			add(6+i, over, 0.05*deg)
		}
	}
	return cost
}

// limit is the range of an angle here: a wrist bends far only under weight.
func (pr *problem) limit(dof int) [2]float64 {
	l := jointLimits[dof]
	for _, s := range []Side{Left, Right} {
		if dof == Limb(s, WristExt) && pr.wristFree[s] {
			return [2]float64{-maxFreeWrist + 1, maxFreeWrist - 1}
		}
	}
	return l
}

// rotationTo is the rotation vector that turns a into b, in a's frame.
func rotationTo(a, b Quat) Vec {
	d := Quat{a[0], -a[1], -a[2], -a[3]}.mul(b)
	if d[0] < 0 {
		d = Quat{-d[0], -d[1], -d[2], -d[3]}
	}
	v := Vec{d[1], d[2], d[3]}
	l := v.Len()
	if l < 1e-12 {
		return Vec{}
	}
	return v.Scale(2 * math.Atan2(l, d[0]) / l)
}
