// Package statics finds what carries a solved pose, and measures what the pose asks of a body:
// angles, shares of weight, moments and what it needs (see Measures).
package statics

import (
	"math"
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
	HeadLift                 bool    `json:"headLift,omitempty"`   // head raised from lying on the back
	HeadHeld                 bool    `json:"headHeld,omitempty"`   // ... and held by a hand
	HeadUp                   bool    `json:"headUp,omitempty"`     // the trunk lies, the head on nothing and the neck not plumb
	Behind                   [2]bool `json:"behind,omitzero"`      // left and right palm behind the trunk or behind the ears
	HeadLow                  float64 `json:"headLow"`              // cm the head lies below the heart
	PelvisAboveChest         float64 `json:"pelvisAboveChest"`     // cm
	BridgeRise               float64 `json:"bridgeRise,omitempty"` // cm the pelvis rises in an unpropped bridge
	ThighsApart              float64 `json:"thighsApart"`          // degrees between the thighs
	LegsLoaded               bool    `json:"legsLoaded,omitempty"` // both legs carry weight
	OneLegBridge             bool    `json:"oneLeg,omitempty"`     // pelvis held up by one foot
	StandingFree             bool    `json:"standFree,omitempty"`  // on the feet without a hand hold
	Standing                 bool    `json:"standing,omitempty"`   // on the feet
	OnFloor                  bool    `json:"onFloor,omitempty"`    // needs to be on the floor, mat or bed
	FloorSit                 bool    `json:"floorSit,omitempty"`   // sits upright on the floor
	LyingOn                  string  `json:"lyingOn,omitempty"`    // left, right, back or front
	OnFeet                   bool    `json:"onFeet,omitempty"`     // a sole carries and the trunk is not down: standing, lunging
	ToePlank                 bool    `json:"toePlank,omitempty"`   // the front of the trunk held between arms and toes, within 40 degrees of level
	ProneLift                bool    `json:"proneLift,omitempty"`  // lying on the front with the chest, an arm or a leg lifted
	ProneLimb                bool    `json:"proneLimb,omitempty"`  // ... an arm or a leg, not only the chest
	Drawn                    bool    `json:"drawn,omitempty"`      // arms or straps draw a region into range
	KneePad                  [2]bool `json:"kneePad,omitzero"`     // left and right knee rest on something soft
	RibPad                   [2]bool `json:"ribPad,omitzero"`      // ... the ribs of the side, which frees the shoulder below
	BellyPad                 bool    `json:"bellyPad,omitempty"`   // ... the belly
	BackRaised               bool    `json:"backRaised,omitempty"` // lies with the back raised on cushions
	PelvisBack               float64 `json:"pelvisBack,omitempty"` // degrees the pelvis tips back while it is sat on
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
		elev := math.Acos(body.Clamp(math.Cos(p.Q[body.Limb(s, body.ShoulderFlex)])*math.Cos(p.Q[body.Limb(s, body.ShoulderAbd)]), -1, 1)) / body.Deg
		out.Side[s] = Limbs{l(body.HipFlex), l(body.HipAbd), l(body.HipRot), l(body.KneeFlex), l(body.ShoulderFlex), elev, l(body.ShoulderRot), l(body.ElbowFlex), l(body.Pronation), l(body.WristExt)}
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
	m.positions(p, &f, sup, &out)
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

// positions derives everything that depends on where the body is and what holds it.
func (m *Measurer) positions(p *pose.Pose, f *body.Frames, sup []support, out *Measures) {
	b := m.body
	has := map[string]bool{}
	side := map[string]bool{}
	lowest := math.Inf(1)
	for i, c := range p.Contacts {
		has[reportBase(c.Report)] = true
		side[c.Report] = true
		if (c.Surface == "floor" || reportBase(c.Report) == "pelvis" && onGround(c.Surface)) && reportBase(c.Report) != "foot" && reportBase(c.Report) != "toes" && reportBase(c.Report) != "heel" {
			out.OnFloor = true
		}
		lowest = math.Min(lowest, sup[i].at[2])
		out.BackRaised = out.BackRaised || c.Surface == "wedge"
	}
	up := f.R[body.SegPelvis].Col(2)
	chest := f.R[body.SegT3]
	front, left := chest.Col(0), chest.Col(1)
	lying := (math.Abs(up[2]) < 0.6 || has["mid-back"]) && out.OnFloor
	trunkDown := has["pelvis"] || has["mid-back"] || has["upper-back"] || has["ribs"] || has["belly"] || has["hip-side"] || has["shoulder-side"] || has["thigh"]
	switch {
	case !lying:
	case front[2] > 0.7 && (has["upper-back"] || has["mid-back"] || has["pelvis"]), front[2] > 0.3 && has["mid-back"]:
		out.LyingOn = "back"
	case front[2] < -0.7 && trunkDown:
		out.LyingOn = "front"
	case left[2] < -0.7:
		out.LyingOn = "left"
	case left[2] > 0.7:
		out.LyingOn = "right"
	}
	out.Indeterminate = trunkDown
	out.FloorSit = out.OnFloor && has["pelvis"] && out.LyingOn == ""
	if ahead := f.R[body.SegPelvis].Col(0); has["pelvis"] && out.LyingOn == "" {
		ahead[2] = 0
		out.PelvisBack = math.Max(0, math.Atan2(-up.Dot(ahead.Unit()), up[2])/body.Deg)
	}
	head := b.Point(f, "crown").Add(b.Point(f, "ear")).Scale(0.5)
	heart := f.P[body.SegT3].Add(b.Point(f, "chest")).Scale(0.5) // between spine and breastbone
	out.HeadLow = math.Max(0, 100*(heart[2]-head[2]))
	out.PelvisAboveChest = math.Max(0, 100*(f.P[body.SegPelvis][2]-heart[2]))
	if out.LyingOn == "back" && !has["head"] {
		out.HeadLift = true
	}
	held := func(s string) bool { return b.Point(f, "palm."+s).Sub(b.Point(f, "occiput")).Len() < 0.12 }
	neck := b.Point(f, "crown").Sub(f.P[body.SegN1]).Unit()
	out.HeadUp = out.LyingOn != "" && trunkDown && !has["head"] && neck[2] < math.Cos(plumbNeck*body.Deg)
	for i, s := range []string{"left", "right"} {
		palm, ear := b.Point(f, "palm."+s), b.Point(f, "ear")
		trunk := palm.Sub(f.P[body.SegT3]).Dot(front) < -behindTrunk
		out.Behind[i] = trunk && out.Side[i].ElbowFlexion > 60 || out.Side[i].ShoulderElevation > 90 && palm.Sub(ear).Dot(f.R[body.SegHead].Col(0)) < -behindEar
	}
	out.HeadHeld = out.HeadLift && (held("left") || held("right"))
	feet := 0
	for _, s := range []string{"left", "right"} {
		if side["foot."+s] || side["toes."+s] || side["heel."+s] {
			feet++
		}
	}
	if out.LyingOn == "back" && has["upper-back"] && !has["pelvis"] && !propped(p) {
		out.BridgeRise = math.Max(0, 100*(f.P[body.SegPelvis][2]-m.rest))
		out.OneLegBridge = feet == 1
	}
	out.Drawn = p.Pulls || p.Strapped()
	pelvisLeft := f.R[body.SegPelvis].Col(1)
	for i, s := range []string{"left", "right"} {
		across := b.Point(f, "knee."+s).Sub(f.P[body.SegPelvis]).Dot(pelvisLeft)
		if s == "left" {
			across = -across
		}
		out.HipAcross[i] = math.Max(0, 100*across)
		for _, c := range p.Contacts {
			switch soft := body.Surfaces[c.Surface].Soft; {
			case soft && c.Report == "knee."+s:
				out.KneePad[i] = true
			case soft && c.Sphere == "rib-side."+s:
				out.RibPad[i] = true
			case soft && c.Report == "belly":
				out.BellyPad = true
			}
		}
	}
	thigh := func(s string) body.Vec { return b.Point(f, "knee."+s).Sub(b.Point(f, "hip."+s)).Unit() }
	out.ThighsApart = math.Acos(body.Clamp(thigh("left").Dot(thigh("right")), -1, 1)) / body.Deg
	out.LegsLoaded = !trunkDown && legShare(out.Share, "left") > 0.05 && legShare(out.Share, "right") > 0.05
	out.Standing = feet > 0 && !trunkCarried(p) && !out.OnFloor && !has["knee"]
	out.StandingFree = out.Standing && !has["hand"] && !has["forearm"]

	// Loaded (shared ruling 2): unloaded only when supports hold both ends, the trunk is
	// within 30 degrees of level and no lifted limb or pull bends it.
	axis := f.P[body.SegN1].Sub(f.P[body.SegPelvis]).Unit()
	slope := math.Abs(math.Asin(body.Clamp(axis[2], -1, 1))) / body.Deg
	level := slope <= 30
	arms := has["hand"] || has["forearm"] || has["elbow"] || has["shoulder-side"]
	legs := feet > 0 || has["knee"] || has["shank"] || has["thigh"]
	legUp := !legDown(side, "left") || !legDown(side, "right")
	armUp := !has["upper-back"] && !has["shoulder-side"] && !has["ribs"] && (!armDown(side, "left") || !armDown(side, "right"))
	out.OnFeet = out.LyingOn == "" && !trunkCarried(p) && (side["foot.left"] || side["foot.right"])
	reaches := func(i body.Side, s string) bool { return !armDown(side, s) && out.Side[i].ShoulderElevation > 60 }
	chestUp := b.Point(f, "chest")[2] > 0.03
	out.ProneLimb = out.LyingOn == "front" && (legUp || reaches(body.Left, "left") || reaches(body.Right, "right"))
	out.ProneLift = out.ProneLimb || out.LyingOn == "front" && chestUp
	out.ToePlank = !trunkDown && has["toes"] && !has["knee"] && arms && front[2] < -0.5 && slope <= 40
	low := has["pelvis"] || has["hip-side"] || legs
	lumbarTop := has["mid-back"] || has["upper-back"] || has["ribs"] || has["belly"] || arms
	thoracicLow := has["mid-back"] || has["belly"] || low
	thoracicTop := has["upper-back"] || arms || has["ribs"]
	// In a bridge nothing holds the pelvis itself: the low back carries it.
	carried := out.LyingOn == "back" && !has["pelvis"] && f.P[body.SegPelvis][2] > m.rest+nearSupport
	pulled := p.Pulls || forced(p)
	out.Lumbar.Loaded = !(level && low && lumbarTop && !legUp && !armUp && !pulled && !carried)
	out.Thoracic.Loaded = !(level && thoracicLow && thoracicTop && !armUp && !pulled)
	out.Neck.Loaded = !has["head"]
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
