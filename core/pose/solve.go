// Package pose reads what an author says of a posture (see Parse), solves it on a body by damped
// least squares (see Solver), and goes from one pose to the next (see Solver.Path).
package pose

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"restbend/core/body"
)

// SolverVersion changes whenever the same pose text may solve differently.
const SolverVersion = 6

// RulesVersion changes whenever the validator may find more than before.
const RulesVersion = 2

// Pose is a solved pose.
type Pose struct {
	body.State
	Spec      *Spec
	Contacts  []Contact
	Position  string // of the base: supine, side, prone, all-fours, sitting, standing
	Symmetric bool
	Props     []body.Prop
	View      string
	Asked     map[int]float64    // angles the author stated here, radians
	Pulls     bool               // arms or straps draw a region into range
	relations []Relation         // of the base only
	fists     [2]bool            // hands closed on the way between two poses
	said      []Said             // what this pose or one it comes from states about width, edges and crossing
	from      *body.State        // the pose it comes from; nil for a base
	home      [body.NDof]float64 // of hip and shoulder: where abduction and turning were last stated, else their base's
	heading   body.Vec           // where the pelvis' left points in the base
	lies      [2]string          // where hands lie on skin, laid here or in the pose it comes from
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
	Body  *body.Body
	bases map[string]*Pose
	Index map[string]int // sphere by name
}

// NewSolver returns a solver for a body.
func NewSolver(b *body.Body) *Solver {
	s := &Solver{Body: b, bases: map[string]*Pose{}, Index: map[string]int{}}
	for i, sp := range b.Spheres {
		s.Index[sp.Name] = i
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
	start := &Pose{
		State:     body.State{Root: body.Vec{0, 0, b.height * s.Body.Scale}, Turn: b.turn},
		Position:  b.position,
		Symmetric: true,
	}
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
	tm := start.Turn.Mat()
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
	b         *body.Body
	target    body.State
	sigma     [body.NDof]float64
	rootSigma float64
	turnSigma [3]float64 // rotation vector in the pelvis frame
	touching  []contactAt
	others    []int          // spheres that must stay above the floor
	walls     []body.Surface // and out of these
	relations []Relation
	contacts  []Contact
	symmetric bool
	heading   body.Vec
	props     []body.Prop
	wristFree [2]bool // hands that bear nothing
}

type contactAt struct {
	sphere  int
	surface body.Surface
	anchor  *body.Vec // where on the surface it must stay
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
	touched := pr.aimAt(p, from)
	p.keepHome(from)
	p.said = stillSaid(from.said, spec.Said)
	s.putDown(pr, p, from, anchored)
	pr.relate(p, from, touched)
	pr.layHands(p, from, touched)
	pr.contacts = p.Contacts
	for _, side := range []body.Side{body.Left, body.Right} {
		pr.wristFree[side] = !p.OnHand(side)
	}
	for _, r := range spec.Relations {
		p.Pulls = p.Pulls || r.pulls()
	}
	return pr, p
}

// aimAt sets what angles the solver aims at and how far each may give, and returns the limbs that the
// author says something of.
func (pr *problem) aimAt(p, from *Pose) (touched map[string]bool) {
	spec := p.Spec
	pr.turnSigma = [3]float64{20 * body.Deg, 60 * body.Deg, 20 * body.Deg}
	if from.Position == "side" { // a stacked pelvis: lying on the side does not roll freely
		pr.turnSigma = [3]float64{8 * body.Deg, 20 * body.Deg, 8 * body.Deg}
	}
	for _, t := range spec.Tilt {
		r := body.Vec{}
		r[t.axis] = t.angle
		pr.target.Turn = pr.target.Turn.Small(r)
		pr.turnSigma = [3]float64{8 * body.Deg, 8 * body.Deg, 8 * body.Deg}
	}
	for i := range pr.sigma {
		pr.sigma[i] = keptSigma(i) * body.Deg
	}
	touched = map[string]bool{}
	for _, a := range spec.Angles {
		pr.target.Q[a.Dof], p.Asked[a.Dof] = a.Value, a.Value
		pr.sigma[a.Dof] = sigmaAuthor * body.Deg
		if a.Dof < body.Limbs {
			pr.sigma[a.Dof] = sigmaSpine * body.Deg
		}
		touched[limbOf(a.Dof)] = true
	}
	for _, d := range spec.Loose {
		// In a base the angle says where a loose joint begins; a loose hip or shoulder bends, it does not splay.
		if _, said := p.Asked[d]; (!said || spec.From == "base") && !Opens(d) {
			pr.sigma[d] = sigmaLoose * body.Deg
		}
	}
	for _, o := range spec.Off {
		touched[LimbOfSphere(o)] = true
	}
	for _, c := range spec.On {
		touched[LimbOfSphere(c.Sphere)] = true
	}
	return touched
}

// putDown settles what touches what, where it must stay, and what must stay out of the ground.
func (s *Solver) putDown(pr *problem, p, from *Pose, anchored bool) {
	spec := p.Spec
	slides := func(sphere string) bool {
		return slices.Contains(spec.Slide, sphere) || slices.Contains(spec.Step, sphere)
	}
	var fr body.Frames
	s.Body.Place(&from.State, &fr)
	is := map[int]bool{}
	down := func(c Contact, stays bool) {
		p.Contacts = append(p.Contacts, c)
		at := contactAt{sphere: s.Index[c.Sphere], surface: body.Surfaces[c.Surface]}
		if anchored && stays && !slides(c.Sphere) {
			v := s.Body.TouchPoint(&fr, at.sphere, at.surface)
			at.anchor = &v
		}
		pr.touching = append(pr.touching, at)
		is[at.sphere] = true
	}
	for _, c := range from.Contacts {
		named := slices.ContainsFunc(spec.On, func(o Contact) bool { return o.Sphere == c.Sphere })
		if !named && !slices.Contains(spec.Off, c.Sphere) {
			down(c, true)
		}
	}
	for _, c := range spec.On { // skin that stays down keeps its place, whatever the contact is called now
		down(c, from.Touches(c.Sphere, c.Surface))
	}
	pr.walls, pr.props = p.Walls(), p.Props
	for i := range s.Body.Spheres {
		if !is[i] && !p.Folded(s.Body.Spheres[i].Name) {
			pr.others = append(pr.others, i)
		}
	}
}

// relate keeps the relations of the base that are about nothing the author says, and adds the author's.
func (pr *problem) relate(p, from *Pose, touched map[string]bool) {
	for _, r := range from.relations {
		about := func(a string) bool {
			if _, far, ok := body.SegmentEnds(a); r.Kind == "aim" && ok {
				a = far
			}
			return touched[limbOfPoint(a)]
		}
		if p.Spec.From == "base" || !slices.ContainsFunc(r.Args, about) {
			pr.relations = append(pr.relations, r)
		}
	}
	p.relations = pr.relations
	pr.relations = append(append([]Relation{}, pr.relations...), p.Spec.Relations...)
}

// layHands keeps hands where they lie on skin, or lets them go on straight from their wrist.
func (pr *problem) layHands(p, from *Pose, touched map[string]bool) {
	for side, hand := range []string{"hand.left", "hand.right"} {
		at := from.lies[side]
		if !touched[limbOfPoint(hand)] && !touched[limbOfPoint(strings.TrimPrefix(at, "back-of-"))] {
			p.lies[side] = at
		}
		for _, r := range pr.relations {
			if r.Kind == "lay" && r.Args[0] == hand {
				p.lies[side] = r.Args[1]
			}
		}
		wrist := body.Limb(body.Side(side), body.WristExt)
		if _, asked := p.Asked[wrist]; at != "" && p.lies[side] == "" && !asked {
			pr.target.Q[wrist] = 0 // a hand that leaves what it lay on goes on straight from its wrist
		}
	}
}

// Walls are the upright surfaces a pose touches.
func (p *Pose) Walls() []body.Surface {
	var out []body.Surface
	seen := map[string]bool{}
	for _, c := range p.Contacts {
		if s := body.Surfaces[c.Surface]; s.Upright() && !seen[c.Surface] {
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

// Opens tells whether an angle opens a hip or shoulder sideways or turns it.
func Opens(dof int) bool {
	if dof < body.Limbs {
		return false
	}
	switch (dof - body.Limbs) % body.LimbCount {
	case body.ShoulderAbd, body.ShoulderRot, body.HipAbd, body.HipRot:
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

// Touches tells whether a ball of skin is on a surface.
func (p *Pose) Touches(sphere, surface string) bool {
	for _, c := range p.Contacts {
		if c.Sphere == sphere && c.Surface == surface {
			return true
		}
	}
	return false
}

// keptSigma is how far an angle that nobody mentioned may give, in degrees.
func keptSigma(dof int) float64 {
	if dof < body.Limbs {
		return sigmaSpineKept
	}
	switch (dof - body.Limbs) % body.LimbCount {
	case body.ShoulderAbd, body.ShoulderRot, body.HipAbd, body.HipRot, body.BladeForward, body.BladeUp:
		return sigmaTurnKept
	case body.WristExt, body.AnkleUp, body.ToesUp:
		return sigmaEnd
	}
	return sigmaKept
}

func limbOf(dof int) string {
	if dof < body.Limbs {
		return "spine"
	}
	side := "left"
	if dof >= body.Limbs+body.LimbCount {
		side = "right"
	}
	if (dof-body.Limbs)%body.LimbCount >= body.HipFlex {
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

// pulls tells whether an arm draws on a leg: a hand on its own thigh only rests, and one that touches a thigh, or a ball
// on it, pushes it away, which is more work and not less (domain/10, section 8).
func (r *Relation) pulls() bool {
	if r.Kind != "touch" && r.Kind != "lay" || ArmPoint(r.Args[0]) == ArmPoint(r.Args[1]) ||
		!LegPoint(r.Args[0]) && !LegPoint(r.Args[1]) {
		return false
	}
	_, hand, _ := strings.Cut(r.Args[0], ".")
	on, side, _ := strings.Cut(r.Args[1], ".")
	rests := on == "thigh" || on == "outer-thigh"
	return !rests || r.Kind == "lay" && hand != side
}

func limbOfPoint(name string) string {
	switch base, side, _ := strings.Cut(name, "."); {
	case ArmPoint(name):
		return "arm." + side
	case LegPoint(name) && base != "hip":
		return "leg." + side
	}
	return ""
}

// ArmPoint tells whether a landmark is on an arm.
func ArmPoint(name string) bool {
	switch base, _, _ := strings.Cut(name, "."); base {
	case "elbow", "wrist", "palm", "fingertip", "hand":
		return true
	}
	return false
}

// LegPoint tells whether a landmark is on a leg.
func LegPoint(name string) bool {
	switch base, _, _ := strings.Cut(name, "."); base {
	case "hip",
		"knee",
		"kneecap",
		"shin",
		"thigh",
		"ankle",
		"heel",
		"ball",
		"toe",
		"outer-knee",
		"outer-thigh",
		"back-of-thigh",
		"inner-shin":
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
	return slices.ContainsFunc(p.Props, func(h body.Prop) bool {
		return slices.Contains(held, h.Kind) && (len(h.At) == 0 || slices.Contains(h.At, "palm"+side))
	})
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Folded tells whether a sphere is a fingertip closed into a fist.
func (p *Pose) Folded(sphere string) bool {
	base, side, ok := strings.Cut(sphere, ".")
	return ok && base == "fingertip" && p.Fist("."+side)
}

const nState = 6 + body.NDof

func moved(st *body.State, d *[nState]float64) body.State {
	out := *st
	for i := 0; i < 3; i++ {
		out.Root[i] += d[i]
	}
	out.Turn = st.Turn.Small(body.Vec{d[3], d[4], d[5]})
	for i := range out.Q {
		out.Q[i] += d[6+i]
	}
	return out
}

// tolerances of the residuals: metres, radians.
const (
	tolContact  = 0.0006
	tolAnchor   = 0.002
	tolAim      = 1.0 * body.Deg
	tolPoint    = 0.006
	tolBalance  = 0.008
	tolSame     = 0.1 * body.Deg
	tolHeading  = 0.03
	tolStraight = 0.002
	tolFlat     = 2.0 * body.Deg
)

// priors adds the pull of every angle to its target; it returns the cost.
func (pr *problem) priors(st *body.State, jtj *[nState][nState]float64, g *[nState]float64) float64 {
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
		over := math.Max(st.Q[i]-l[1]*body.Deg, 0) + math.Min(st.Q[i]-l[0]*body.Deg, 0)
		if over != 0 {
			add(6+i, over, 0.05*body.Deg)
		}
	}
	return cost
}

// limit is the range of an angle here: a wrist bends far only under weight.
func (pr *problem) limit(dof int) [2]float64 {
	l := body.JointLimits[dof]
	for _, s := range []body.Side{body.Left, body.Right} {
		if dof == body.Limb(s, body.WristExt) && pr.wristFree[s] {
			return [2]float64{-MaxFreeWrist + 1, MaxFreeWrist - 1}
		}
	}
	return l
}

// rotationTo is the rotation vector that turns a into b, in a's frame.
func rotationTo(a, b body.Quat) body.Vec {
	d := body.Quat{a[0], -a[1], -a[2], -a[3]}.Mul(b)
	if d[0] < 0 {
		d = body.Quat{-d[0], -d[1], -d[2], -d[3]}
	}
	v := body.Vec{d[1], d[2], d[3]}
	l := v.Len()
	if l < 1e-12 {
		return body.Vec{}
	}
	return v.Scale(2 * math.Atan2(l, d[0]) / l)
}

// Opened is how far an angle is from the pose it comes from or from where it was last
// stated, whichever is farther, degrees; 0 for a base.
func (p *Pose) Opened(dof int) float64 {
	if p.from == nil {
		return 0
	}
	a, h := (p.Q[dof]-p.from.Q[dof])/body.Deg, (p.Q[dof]-p.home[dof])/body.Deg
	if math.Abs(h) > math.Abs(a) {
		return h
	}
	return a
}

// OnHand tells whether a hand is down on a surface.
func (p *Pose) OnHand(side body.Side) bool {
	name := body.SideName(side)
	for _, c := range p.Contacts {
		switch c.Sphere {
		case "palm" + name, "knuckle" + name, "fingertip" + name:
			return true
		}
	}
	return false
}

// Strapped tells whether a strap holds the body.
func (p *Pose) Strapped() bool {
	return slices.ContainsFunc(p.Props, func(h body.Prop) bool { return h.Kind == "strap" })
}

// ContactPoints are the places where a pose's contacts touch, in their order.
func (p *Pose) ContactPoints(b *body.Body, f *body.Frames) []body.Vec {
	out := make([]body.Vec, len(p.Contacts))
	for i, c := range p.Contacts {
		for k := range b.Spheres {
			if b.Spheres[k].Name == c.Sphere {
				out[i] = b.TouchPoint(f, k, body.Surfaces[c.Surface])
			}
		}
	}
	return out
}

// MaxFreeWrist is how far a wrist without weight may bend, degrees.
const MaxFreeWrist = 60.0
