package validate

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
	"restbend/core/pose"
	"restbend/core/statics"
)

// What a camera hides: rules on planes that the usual view does not show. Degrees, metres.
const (
	maxOpened   = 12.0  // a hip or shoulder opened or turned that nobody asked for
	maxFootRoll = 12.0  // a foot on its edge, beyond what is stated
	maxWide     = 0.10  // hands wider than the shoulders, feet than the hips
	maxOffTrunk = 4.0   // a trunk said to be plumb or level
	crossedBy   = 0.005 // an ankle on the wrong side of the other
	saidApart   = 0.05  // a stated distance may be missed by
)

// finds gathers complaints.
type finds []string

func (out *finds) say(format string, a ...any) { *out = append(*out, fmt.Sprintf(format, a...)) }

// hidden lists what is wrong in planes a camera hides.
func hidden(s *pose.Solver, p *pose.Pose, f *body.Frames) []string {
	var out finds
	say := out.say
	for i := range p.Q {
		if _, asked := p.Asked[i]; asked || !pose.Opens(i) {
			continue
		}
		if d, by := p.Q[i]/body.Deg, p.Opened(i); math.Abs(by) > maxOpened {
			say("%s is %.0f, %.0f degrees from the pose it comes from, and nobody asked", pose.DofName(i), d, by)
		}
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		name := body.SideName(side)
		if q := p.Q[body.Limb(side, body.WristExt)] / body.Deg; math.Abs(q) > pose.MaxFreeWrist && !p.OnHand(side) {
			say("wrist%s is bent %.0f degrees and bears no weight", name, q)
		}
		if roll, down := footRoll(s, p, f, side); down {
			want := 0.0
			if q := p.Stated("roll", "foot"+name); q != nil {
				want = q.Value / body.Deg
			}
			if math.Abs(roll-want) > maxFootRoll {
				say("foot%s stands %.0f degrees on its edge", name, roll)
			}
		}
	}
	out.tooWide(s, p, f)
	out.unkept(s.Body, p, f)
	return out
}

// tooWide adds ankles that cross, and pairs that are wider than the joints above them.
func (out *finds) tooWide(s *pose.Solver, p *pose.Pose, f *body.Frames) {
	say := out.say
	if by := crossed(s.Body, f); by > crossedBy && p.Stated("cross", "ankles") == nil {
		say("ankles cross by %.0f cm", by*100)
	}
	for _, w := range widths {
		by, alone, wide := wide(s, p, f, w)
		switch {
		case !wide:
		case alone == "" && by > maxWide && p.Stated("apart", w.name) == nil:
			say("%s are %.0f cm wider than the %s", w.name, by*100, w.than)
		case alone != "":
			allowed := 0.0
			if q := p.Stated("out", w.one+alone); q != nil {
				allowed = q.Value
			}
			if by > allowed+maxWide {
				say("%s is %.0f cm out from the %s", w.one+alone, by*100, w.than)
			}
		}
	}
}

// unkept adds what the pose states of width and trunk and does not keep.
func (out *finds) unkept(b *body.Body, p *pose.Pose, f *body.Frames) {
	if p.Spec == nil {
		return
	}
	say := out.say
	for i := range p.Spec.Said {
		q := &p.Spec.Said[i]
		if tips := math.Abs(math.Asin(body.Clamp(f.R[body.SegPelvis].Col(1)[2], -1, 1))) / body.Deg; (q.Kind == "even" ||
			q.Kind == "level") &&
			tips > maxOffTrunk {
			say("the pelvis is said to be level and tips %.0f degrees to the side", tips)
		}
		switch q.Kind {
		case "apart":
			for _, w := range widths {
				if d := b.Point(f, w.point+".left").Sub(b.Point(f, w.point+".right")).Len(); w.name == q.What &&
					math.Abs(d-q.Value) > saidApart {
					say("%s are said to be %.0f cm apart and are %.0f", w.name, q.Value*100, d*100)
				}
			}
		case "plumb", "level":
			plumb, level := b.TrunkLean(f)
			off := map[string]float64{"plumb": plumb, "level": level}[q.Kind]
			if off > maxOffTrunk {
				say("the trunk is said to be %s and is %.0f degrees off", q.Kind, off)
			}
		}
	}
}

// carriesLess lists contacts that carry less than the words promise.
func carriesLess(p *pose.Pose, m *statics.Measures) []string {
	if p.Spec == nil {
		return nil
	}
	var out []string
	for _, q := range p.Spec.Said {
		if q.Kind != "carries" {
			continue
		}
		got := 0.0
		for name, v := range m.Share {
			if name == q.What || strings.HasPrefix(name, q.What+".") {
				got += v
			}
		}
		if got < q.Value {
			out = append(
				out,
				fmt.Sprintf("%s is said to carry at least %.0f %% of body weight and carries %.0f", q.What, q.Value*100, got*100),
			)
		}
	}
	return out
}

// footRoll is how far a foot leans on its outer (positive) or inner edge, degrees, and
// whether its heel or ball is down on something level.
func footRoll(s *pose.Solver, p *pose.Pose, f *body.Frames, side body.Side) (roll float64, down bool) {
	name := body.SideName(side)
	for _, c := range p.Contacts {
		if (c.Sphere == "heel"+name || c.Sphere == "ball"+name) && !body.Surfaces[c.Surface].Upright() {
			down = true
		}
	}
	across := f.R[body.LimbSeg(side, body.SegFoot)].Col(1)
	return math.Asin(body.Clamp(-across[2]*side.Sign(), -1, 1)) / body.Deg, down
}

// crossed is how far the ankles have passed each other, seen from the pelvis, metres;
// negative while each is on its own side.
func crossed(b *body.Body, f *body.Frames) float64 {
	left := f.R[body.SegPelvis].Col(1)
	return b.Point(f, "ankle.right").Sub(b.Point(f, "ankle.left")).Dot(left)
}

// width is a pair of limb ends and the pair above them that they should not be much wider
// than while both are down.
type width struct {
	name, one, point, than, above string
	trunk                         int
	spheres                       []string
}

var widths = []width{
	{"hands", "hand", "palm", "shoulders", "shoulder", body.SegT4, []string{"palm", "knuckle", "fingertip"}},
	{"elbows", "elbow", "elbow", "shoulders", "shoulder", body.SegT4, []string{"elbow"}},
	{"knees", "knee", "knee", "hips", "hip", body.SegPelvis, []string{"knee"}},
	{"feet", "foot", "ankle", "hips", "hip", body.SegPelvis, []string{"heel", "ball", "toe", "instep"}},
}

// wide is by how much a pair is wider than the joints above it; one that is down alone
// (its side is named) counts against its own joint. ok is false where none is down.
func wide(s *pose.Solver, p *pose.Pose, f *body.Frames, w width) (by float64, alone string, ok bool) {
	down := [2]bool{}
	for _, c := range p.Contacts {
		base, side, _ := strings.Cut(c.Sphere, ".")
		for _, n := range w.spheres {
			if n == base {
				down[body.Left] = down[body.Left] || side != "right"
				down[body.Right] = down[body.Right] || side == "right"
			}
		}
	}
	left := f.R[w.trunk].Col(1)
	if p.Position == "side" || math.Abs(left[2]) > 0.5 { // on the side the width is a height
		return 0, "", false
	}
	out := func(side body.Side) float64 {
		n := body.SideName(side)
		return s.Body.Point(f, w.point+n).Sub(s.Body.Point(f, w.above+n)).Dot(left) * side.Sign()
	}
	switch {
	case down[0] && down[1]:
		return out(body.Left) + out(body.Right), "", true
	case down[0]:
		return out(body.Left), ".left", true
	case down[1]:
		return out(body.Right), ".right", true
	}
	return 0, "", false
}
