// Package statics finds what carries a solved pose, and measures what the pose asks of a body:
// angles, shares of weight, moments and what it needs (see Measures).
package statics

import (
	"math"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/pose"
)

// Region is the angles of one spine region in degrees from neutral: flexion negative in
// extension, side-bend and rotation positive to the client's left.
type Region struct {
	Flexion  float64 `json:"f"`
	SideBend float64 `json:"s"`
	Rotation float64 `json:"r"`
	Loaded   bool    `json:"l"`
}

// Limbs is the angles of one side in degrees.
type Limbs struct {
	HipFlexion        float64 `json:"hf"`
	HipAbduction      float64 `json:"ha"`
	HipRotation       float64 `json:"hr"`
	KneeFlexion       float64 `json:"kf"`
	ShoulderFlexion   float64 `json:"sf"`
	ShoulderElevation float64 `json:"se"` // arm from hanging, whatever the direction
	ShoulderRotation  float64 `json:"sr"` // outward positive, like the hip's
	ElbowFlexion      float64 `json:"ef"`
	Pronation         float64 `json:"fp"` // of the forearm; 0 has the thumb forward
	WristExtension    float64 `json:"we"`
}

// Measures is what one posture asks of the body. Shares are fractions of body weight;
// moments are gravity demand in Nm per kg of body mass, never compression.
type Measures struct {
	Lumbar   Region             `json:"lumbar"`
	Thoracic Region             `json:"thoracic"`
	Neck     Region             `json:"neck"`
	Side     [2]Limbs           `json:"side"`
	Share    map[string]float64 `json:"share"`
	// Lumbar gravity moment: total and by component.
	Moment                   float64 `json:"moment"`
	Sagittal, Frontal, Axial float64
	Margin                   float64 `json:"margin"` // centre of mass inside the base, cm
	Indeterminate            bool    `json:"indet,omitempty"`
	HeadLift                 bool    `json:"headLift,omitempty"` // head raised from lying on the back
	HeadHeld                 bool    `json:"headHeld,omitempty"` // ... and held by a hand
	// the trunk lies, the head on nothing and the neck not plumb
	HeadUp bool `json:"headUp,omitempty"`
	// left and right palm behind the trunk or behind the ears
	Behind           [2]bool `json:"behind,omitzero"`
	HeadLow          float64 `json:"headLow"`              // cm the head lies below the heart
	PelvisAboveChest float64 `json:"pelvisAboveChest"`     // cm
	BridgeRise       float64 `json:"bridgeRise,omitempty"` // cm the pelvis rises in an unpropped bridge
	ThighsApart      float64 `json:"thighsApart"`          // degrees between the thighs
	LegsLoaded       bool    `json:"legsLoaded,omitempty"` // both legs carry weight
	OneLegBridge     bool    `json:"oneLeg,omitempty"`     // pelvis held up by one foot
	StandingFree     bool    `json:"standFree,omitempty"`  // on the feet without a hand hold
	Standing         bool    `json:"standing,omitempty"`   // on the feet
	OnFloor          bool    `json:"onFloor,omitempty"`    // needs to be on the floor, mat or bed
	FloorSit         bool    `json:"floorSit,omitempty"`   // sits upright on the floor
	LyingOn          string  `json:"lyingOn,omitempty"`    // left, right, back or front
	// a sole carries and the trunk is not down: standing, lunging
	OnFeet bool `json:"onFeet,omitempty"`
	// the front of the trunk held between arms and toes, within 40 degrees of level
	ToePlank bool `json:"toePlank,omitempty"`
	// lying on the front with the chest, an arm or a leg lifted
	ProneLift bool    `json:"proneLift,omitempty"`
	ProneLimb bool    `json:"proneLimb,omitempty"` // ... an arm or a leg, not only the chest
	Drawn     bool    `json:"drawn,omitempty"`     // arms or straps draw a region into range
	KneePad   [2]bool `json:"kneePad,omitzero"`    // left and right knee rest on something soft
	// ... the ribs of the side, which frees the shoulder below
	RibPad     [2]bool `json:"ribPad,omitzero"`
	BellyPad   bool    `json:"bellyPad,omitempty"`   // ... the belly
	BackRaised bool    `json:"backRaised,omitempty"` // lies with the back raised on cushions
	PelvisBack float64 `json:"pelvisBack,omitempty"` // degrees the pelvis tips back while it is sat on
	// HipAcross is how far each knee lies across the middle of the pelvis, cm.
	HipAcross               [2]float64 `json:"hipAcross,omitzero"`
	forceError, momentError float64
}

// Measurer measures poses of one body.
type Measurer struct {
	body  *body.Body
	index map[string]int
	rest  float64 // hip height lying on the back, for the bridge rise
}

// NewMeasurer returns a measurer for a solver's body.
func NewMeasurer(s *pose.Solver) *Measurer {
	return &Measurer{body: s.Body, index: s.Index, rest: 0.105 * s.Body.Scale}
}

// A neck this near to upright carries the head plumb, degrees; a palm this far behind the
// spine lies behind the trunk, this far behind the ear behind the head, metres (product
// defaults).
const (
	plumbNeck   = 30
	behindTrunk = 0.02
	behindEar   = 0.02
)

// trunk spheres that come this close to a surface support the body, metres.
const nearSupport = 0.025

// Measure measures a pose.
func (m *Measurer) Measure(p *pose.Pose) Measures {
	var f body.Frames
	b := m.body
	b.Place(&p.State, &f)
	q := func(i int) float64 { return p.Q[i] / body.Deg }
	out := Measures{
		Lumbar:   Region{Flexion: q(body.LumbarFlex), SideBend: q(body.LumbarSide), Rotation: q(body.LumbarTurn)},
		Thoracic: Region{Flexion: q(body.ThoracicFlex), SideBend: q(body.ThoracicSide), Rotation: q(body.ThoracicTurn)},
		Neck:     Region{Flexion: q(body.NeckFlex), SideBend: q(body.NeckSide), Rotation: q(body.NeckTurn)},
		Share:    map[string]float64{},
	}
	for _, s := range []body.Side{body.Left, body.Right} {
		l := func(j int) float64 { return q(body.Limb(s, j)) }
		elev := math.Acos(
			body.Clamp(math.Cos(p.Q[body.Limb(s, body.ShoulderFlex)])*math.Cos(p.Q[body.Limb(s, body.ShoulderAbd)]), -1, 1),
		) / body.Deg
		out.Side[s] = Limbs{
			l(body.HipFlex),
			l(body.HipAbd),
			l(body.HipRot),
			l(body.KneeFlex),
			l(body.ShoulderFlex),
			elev,
			l(body.ShoulderRot),
			l(body.ElbowFlex),
			l(body.Pronation),
			l(body.WristExt),
		}
	}
	sup := supports(b, p, &f, m.index)
	pulls := b.Pulls(p.Props, &f)
	out.forceError, out.momentError = share(b, &f, sup, pulls, leans(p))
	for i := range sup {
		if n := sup[i].normal(); n > 1e-6 {
			out.Share[sup[i].report] += n
		}
	}
	out.moments(b, &f, sup, pulls)
	out.Margin = 100 * body.Margin(body.EffectiveCentre(b.COM(&f), pulls), basePoints(b, p, &f, sup))
	m.positions(p, &f, &out)
	return out
}

// moments turns the lumbar moment into the frame of the low lumbar spine. Force below
// the joint and above it balance, so the upper side is used.
func (out *Measures) moments(b *body.Body, f *body.Frames, sup []support, pulls []body.Pull) {
	j := body.SegL2
	local := f.R[body.SegL1].Inv(moment(b, j, f, sup, pulls)).Scale(body.Gravity)
	out.Frontal, out.Sagittal, out.Axial = math.Abs(local[0]), math.Abs(local[1]), math.Abs(local[2])
	out.Moment = local.Len()
}

// basePoints are the outline points of everything that can hold the body up.
func basePoints(b *body.Body, p *pose.Pose, f *body.Frames, sup []support) []body.Vec {
	var pts []body.Vec
	for _, s := range sup {
		if s.pad > 0 {
			pts = body.Ring(pts, s.at, s.pad)
		}
	}
	for i := range b.Spheres {
		if b.Spheres[i].Seg < body.SegLimbs && b.Spheres[i].Seg != body.SegHead {
			if v := b.SpherePoint(f, i); v[2] < nearSupport {
				pts = body.Ring(pts, v, b.Spheres[i].Pad)
			}
		}
	}
	return pts
}

func reportBase(name string) string {
	base, _, _ := strings.Cut(name, ".")
	return base
}

// posture is a pose as its positions are derived from it: what rests where.
type posture struct {
	m    *Measurer
	p    *pose.Pose
	f    *body.Frames
	out  *Measures
	base map[string]bool // contacts without their side
	side map[string]bool // ... and with it
	feet int             // feet that are down
	down bool            // the trunk rests on something
}

// positions derives everything that depends on where the body is and what holds it.
func (m *Measurer) positions(p *pose.Pose, f *body.Frames, out *Measures) {
	w := posture{m: m, p: p, f: f, out: out, base: map[string]bool{}, side: map[string]bool{}}
	w.rests()
	w.lies()
	w.head()
	w.hands()
	w.pelvis()
	w.legs()
	w.loaded()
}

// has tells whether one of some parts rests on something.
func (w *posture) has(parts ...string) bool {
	return slices.ContainsFunc(parts, func(part string) bool { return w.base[part] })
}

func (w *posture) point(name string) body.Vec { return w.m.body.Point(w.f, name) }

// rests finds what rests on what.
func (w *posture) rests() {
	for _, c := range w.p.Contacts {
		base := reportBase(c.Report)
		w.base[base], w.side[c.Report] = true, true
		if (c.Surface == "floor" || base == "pelvis" && onGround(c.Surface)) && base != "foot" && base != "toes" &&
			base != "heel" {
			w.out.OnFloor = true
		}
		w.out.BackRaised = w.out.BackRaised || c.Surface == "wedge"
	}
	for _, s := range []string{"left", "right"} {
		if w.side["foot."+s] || w.side["toes."+s] || w.side["heel."+s] {
			w.feet++
		}
	}
	w.down = w.has("pelvis", "mid-back", "upper-back", "ribs", "belly", "hip-side", "shoulder-side", "thigh")
}

// lies finds on what the body lies or sits.
func (w *posture) lies() {
	up := w.f.R[body.SegPelvis].Col(2)
	front, left := w.f.R[body.SegT3].Col(0), w.f.R[body.SegT3].Col(1)
	onBack := front[2] > 0.7 && w.has("upper-back", "mid-back", "pelvis") || front[2] > 0.3 && w.has("mid-back")
	switch lying := (math.Abs(up[2]) < 0.6 || w.has("mid-back")) && w.out.OnFloor; {
	case !lying:
	case onBack:
		w.out.LyingOn = "back"
	case front[2] < -0.7 && w.down:
		w.out.LyingOn = "front"
	case left[2] < -0.7:
		w.out.LyingOn = "left"
	case left[2] > 0.7:
		w.out.LyingOn = "right"
	}
	w.out.Indeterminate = w.down
	w.out.FloorSit = w.out.OnFloor && w.has("pelvis") && w.out.LyingOn == ""
	if ahead := w.f.R[body.SegPelvis].Col(0); w.has("pelvis") && w.out.LyingOn == "" {
		ahead[2] = 0
		w.out.PelvisBack = math.Max(0, math.Atan2(-up.Dot(ahead.Unit()), up[2])/body.Deg)
	}
}

// head finds where the head and the neck are, and what holds them.
func (w *posture) head() {
	head := w.point("crown").Add(w.point("ear")).Scale(0.5)
	heart := w.f.P[body.SegT3].Add(w.point("chest")).Scale(0.5) // between spine and breastbone
	w.out.HeadLow = math.Max(0, 100*(heart[2]-head[2]))
	w.out.PelvisAboveChest = math.Max(0, 100*(w.f.P[body.SegPelvis][2]-heart[2]))
	w.out.HeadLift = w.out.LyingOn == "back" && !w.has("head")
	held := func(s string) bool { return w.point("palm."+s).Sub(w.point("occiput")).Len() < 0.12 }
	w.out.HeadHeld = w.out.HeadLift && (held("left") || held("right"))
	neck := w.point("crown").Sub(w.f.P[body.SegN1]).Unit()
	w.out.HeadUp = w.out.LyingOn != "" && w.down && !w.has("head") && neck[2] < math.Cos(plumbNeck*body.Deg)
	w.out.Neck.Loaded = !w.has("head")
}

// hands finds hands behind the trunk or behind the head.
func (w *posture) hands() {
	front := w.f.R[body.SegT3].Col(0)
	for i, s := range []string{"left", "right"} {
		palm := w.point("palm." + s)
		trunk := palm.Sub(w.f.P[body.SegT3]).Dot(front) < -behindTrunk && w.out.Side[i].ElbowFlexion > 60
		ear := palm.Sub(w.point("ear")).Dot(w.f.R[body.SegHead].Col(0)) < -behindEar
		w.out.Behind[i] = trunk || w.out.Side[i].ShoulderElevation > 90 && ear
	}
}

// pelvis finds a bridge, knees that lie across, and what rests on something soft.
func (w *posture) pelvis() {
	if w.out.LyingOn == "back" && w.has("upper-back") && !w.has("pelvis") && !propped(w.p) {
		w.out.BridgeRise = math.Max(0, 100*(w.f.P[body.SegPelvis][2]-w.m.rest))
		w.out.OneLegBridge = w.feet == 1
	}
	w.out.Drawn = w.p.Pulls || w.p.Strapped()
	pelvisLeft := w.f.R[body.SegPelvis].Col(1)
	for i, s := range []string{"left", "right"} {
		across := w.point("knee." + s).Sub(w.f.P[body.SegPelvis]).Dot(pelvisLeft)
		if s == "left" {
			across = -across
		}
		w.out.HipAcross[i] = math.Max(0, 100*across)
		for _, c := range w.p.Contacts {
			switch soft := body.Surfaces[c.Surface].Soft; {
			case soft && c.Report == "knee."+s:
				w.out.KneePad[i] = true
			case soft && c.Sphere == "rib-side."+s:
				w.out.RibPad[i] = true
			case soft && c.Report == "belly":
				w.out.BellyPad = true
			}
		}
	}
}

// legs finds how the legs stand.
func (w *posture) legs() {
	out := w.out
	thigh := func(s string) body.Vec { return w.point("knee." + s).Sub(w.point("hip." + s)).Unit() }
	out.ThighsApart = math.Acos(body.Clamp(thigh("left").Dot(thigh("right")), -1, 1)) / body.Deg
	out.LegsLoaded = !w.down && legShare(out.Share, "left") > 0.05 && legShare(out.Share, "right") > 0.05
	out.Standing = w.feet > 0 && !trunkCarried(w.p) && !out.OnFloor && !w.has("knee")
	out.StandingFree = out.Standing && !w.has("hand", "forearm")
	out.OnFeet = out.LyingOn == "" && !trunkCarried(w.p) && (w.side["foot.left"] || w.side["foot.right"])
}

// loaded finds what the trunk holds by itself (shared ruling 2): it is unloaded only when supports hold
// both ends, the trunk is within 30 degrees of level and no lifted limb or pull bends it.
func (w *posture) loaded() {
	out := w.out
	axis := w.f.P[body.SegN1].Sub(w.f.P[body.SegPelvis]).Unit()
	slope := math.Abs(math.Asin(body.Clamp(axis[2], -1, 1))) / body.Deg
	level := slope <= 30
	arms := w.has("hand", "forearm", "elbow", "shoulder-side")
	legs := w.feet > 0 || w.has("knee", "shank", "thigh")
	legUp := !legDown(w.side, "left") || !legDown(w.side, "right")
	armUp := !w.has("upper-back", "shoulder-side", "ribs") && (!armDown(w.side, "left") || !armDown(w.side, "right"))
	w.prone(legUp)
	w.plank(arms, slope)
	low := legs || w.has("pelvis", "hip-side")
	lumbarTop := arms || w.has("mid-back", "upper-back", "ribs", "belly")
	thoracicLow := low || w.has("mid-back", "belly")
	thoracicTop := arms || w.has("upper-back", "ribs")
	// In a bridge nothing holds the pelvis itself: the low back carries it.
	carried := out.LyingOn == "back" && !w.has("pelvis") && w.f.P[body.SegPelvis][2] > w.m.rest+nearSupport
	pulled := w.p.Pulls || forced(w.p)
	out.Lumbar.Loaded = !(level && low && lumbarTop && !legUp && !armUp && !pulled && !carried)
	out.Thoracic.Loaded = !(level && thoracicLow && thoracicTop && !armUp && !pulled)
}

// plank finds a trunk held face down between arms and toes.
func (w *posture) plank(arms bool, slope float64) {
	faceDown := w.f.R[body.SegT3].Col(0)[2] < -0.5
	w.out.ToePlank = !w.down && w.has("toes") && !w.has("knee") && arms && faceDown && slope <= 40
}

// prone finds what is lifted by somebody who lies on the front.
func (w *posture) prone(legUp bool) {
	if w.out.LyingOn != "front" {
		return
	}
	reaches := func(i body.Side, s string) bool {
		return !armDown(w.side, s) && w.out.Side[i].ShoulderElevation > 60
	}
	w.out.ProneLimb = legUp || reaches(body.Left, "left") || reaches(body.Right, "right")
	w.out.ProneLift = w.out.ProneLimb || w.point("chest")[2] > 0.03
}

// onGround tells whether a surface is something low that lies on the floor: who sits on a
// cushion or a pad has got down to the floor all the same.
func onGround(surface string) bool {
	s := body.Surfaces[surface]
	return s.N == body.Vec{0, 0, 1} && s.D < lowSurface
}

// lowSurface is the height of a surface that is got down to like the floor, metres (product
// default).
const lowSurface = 0.2

// trunkCarried tells whether something level carries the trunk or the thighs: a seat, the
// floor. A wall at the back steadies and does not carry.
func trunkCarried(p *pose.Pose) bool {
	for _, c := range p.Contacts {
		if body.Surfaces[c.Surface].Upright() {
			continue
		}
		switch reportBase(c.Report) {
		case "pelvis", "mid-back", "upper-back", "ribs", "belly", "hip-side", "shoulder-side", "thigh":
			return true
		}
	}
	return false
}

// forced tells whether a band, weight, spring or strap acts on the body.
func forced(p *pose.Pose) bool {
	for i := range p.Props {
		if h := &p.Props[i]; h.Kg+h.Newtons > 0 || h.Kind == "strap" {
			return true
		}
	}
	return false
}

// propped tells whether the upper back rests on something raised.
func propped(p *pose.Pose) bool {
	for _, c := range p.Contacts {
		if c.Report == "upper-back" && c.Surface != "floor" {
			return true
		}
	}
	return false
}

func legShare(share map[string]float64, s string) float64 {
	return share["foot."+s] + share["toes."+s] + share["heel."+s] + share["knee."+s] + share["shank."+s]
}

func legDown(side map[string]bool, s string) bool {
	return side["foot."+s] || side["toes."+s] || side["heel."+s] || side["knee."+s] || side["shank."+s] || side["thigh."+s]
}

func armDown(side map[string]bool, s string) bool {
	return side["hand."+s] || side["forearm."+s] || side["elbow."+s]
}

// Errors returns the force error (share of body weight) and the moment error (body
// weight x metre) of the found reactions.
func (out *Measures) Errors() (force, moment float64) { return out.forceError, out.momentError }

// Mirror exchanges the client's left and right.
func (out Measures) Mirror() Measures {
	m := out
	for _, r := range []*Region{&m.Lumbar, &m.Thoracic, &m.Neck} {
		r.SideBend, r.Rotation = -r.SideBend, -r.Rotation
	}
	m.Side[0], m.Side[1] = out.Side[1], out.Side[0]
	m.Share = map[string]float64{}
	for k, v := range out.Share {
		m.Share[body.MirrorName(k)] = v
	}
	m.HipAcross[0], m.HipAcross[1] = out.HipAcross[1], out.HipAcross[0]
	m.KneePad[0], m.KneePad[1] = out.KneePad[1], out.KneePad[0]
	m.RibPad[0], m.RibPad[1] = out.RibPad[1], out.RibPad[0]
	m.Behind[0], m.Behind[1] = out.Behind[1], out.Behind[0]
	m.LyingOn = strings.TrimPrefix(body.MirrorName("."+out.LyingOn), ".")
	return m
}

// How far the reactions found for a held pose may be from balancing it: share of body weight, body
// weight x metre (product defaults).
const (
	MaxForceError  = 0.005
	MaxMomentError = 0.02
)
