package body

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// reactions solves a pose and returns everything that acts on it from outside.
func reactions(t testing.TB, s *Solver, text string) (*Pose, []support, []pull, *Frames) {
	t.Helper()
	p := pose(t, s, text)
	var f Frames
	s.Body.Place(&p.State, &f)
	sup, pulls := s.Body.supports(p, &f, s.index), s.Body.pulls(p, &f)
	force, moment := s.Body.share(&f, sup, pulls, p.leans())
	assert.Less(t, force, maxForceError)
	assert.Less(t, moment, maxMomentError)
	return p, sup, pulls, &f
}

const (
	wallPlank = "from standing\non wall hand\ntilt forward 16\nlumbar flexion 0\nthoracic flexion 0\nhip flexion 0\nknee flexion 2\nshoulder flexion 92\nshoulder abduction 2\nelbow flexion 6\nforearm pronation 90\nwrist extension 84\nankle up 15\nloose wrist\nloose ankle\nloose shoulder\nline shoulder hip ankle"
	carried   = "from standing\nhold dumbbell palm.left 4\nshoulder.left abduction 10\nelbow.left flexion 4\nlumbar side-left 0\nthoracic side-left 0\nlumbar flexion 0\nthoracic flexion 0\nbalance"
	banded    = "from standing\nhold band palm.right right 115 22\nhip abduction 3\nshoulder flexion 34\nshoulder rotation-in 34\nelbow flexion 104\nlumbar flexion 0\nthoracic flexion 0\nlumbar turn-left 0\nthoracic turn-left 0\nloose shoulder\nloose ankle\ntouch palm.left palm.right 7\nbalance"
)

// A leaning body is a beam on two supports. Worked by hand: the turning effect of the
// weight about the feet, in the plane of the lean, must equal the wall's push times its
// height plus the wall's friction times its distance; forces cancel in every direction.
func TestALeanOnAWallBalancesByHand(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		s := NewSolver(NewBody(sex, 0))
		_, sup, _, f := reactions(t, s, wallPlank)
		var sum Vec
		feet, push, grip, height, reach, foot := 0.0, 0.0, 0.0, 0.0, 0.0, Vec{}
		for _, c := range sup {
			sum = sum.Add(c.force)
			if c.surface.upright() {
				push -= c.force[0] // towards the body
				grip += c.force[2]
				height += -c.force[0] * c.at[2]
				reach += c.force[2] * c.at[0]
			} else {
				feet += c.force[2]
				foot = foot.Add(c.at.Scale(c.force[2]))
			}
		}
		assert.InDelta(t, 0, sum[0], 1e-3, "pushes cancel")
		assert.InDelta(t, 1, sum[2], 1e-3, "feet and grip carry the weight")
		assert.Greater(t, push, 0.05)
		assert.LessOrEqual(t, math.Abs(grip), friction*push+1e-6, "friction holds no more than it may")
		at := foot.Scale(1 / feet)[0]
		com := s.Body.COM(f)
		// About the feet: weight turns forward, wall push and grip turn back.
		assert.InDelta(t, com[0]-at, height+reach-grip*at, 1e-3)
	}
}

func TestWeightsWeighAndBandsPull(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	p, sup, pulls, _ := reactions(t, s, carried)
	total, left, right := 0.0, 0.0, 0.0
	for _, c := range sup {
		total += c.normal()
		if c.report == "foot.left" {
			left += c.normal()
		} else {
			right += c.normal()
		}
	}
	assert.InDelta(t, 1+4.0/referenceMass, total, 1e-3, "four kilograms more on the ground")
	assert.Greater(t, left, right, "the side of the weight carries more")
	assert.Len(t, pulls, 1)
	assert.True(t, NewMeasurer(s).Measure(p).Lumbar.Loaded)

	p, sup, pulls, _ = reactions(t, s, banded)
	require.Len(t, pulls, 1)
	want := 22 / (referenceMass * Gravity)
	assert.InDelta(t, want, pulls[0].force.Len(), 1e-9)
	assert.Negative(t, pulls[0].force[1], "towards the client's right")
	sideways := 0.0
	for _, c := range sup {
		sideways += c.force[1]
	}
	assert.InDelta(t, -pulls[0].force[1], sideways, 1e-3, "the feet hold what the band pulls")
	plain := pose(t, s, "from standing\nhip abduction 3\nshoulder flexion 34\nshoulder rotation-in 34\nelbow flexion 104\nlumbar flexion 0\nthoracic flexion 0\nloose shoulder\ntouch palm.left palm.right 7\nbalance")
	m := NewMeasurer(s)
	with, without := m.Measure(p), m.Measure(plain)
	assert.Greater(t, with.Frontal+with.Axial, without.Frontal+without.Axial, "the band bends and turns the low back")
}

func TestAStrapHoldsAlongItsLine(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	_, sup, _, _ := reactions(t, s, "from standing\nhold strap palm.left left 175\ntilt right 14\nshoulder.left abduction 128\nelbow.left flexion 6\nlumbar side-left 0\nthoracic side-left 0\nlumbar turn-left 0\nthoracic turn-left 0\nlumbar flexion 0\nthoracic flexion 0\nhip abduction 2\nroll foot.left -13\nloose ankle\nloose hip")
	tension := 0.0
	for _, c := range sup {
		if c.line {
			tension += c.force.Len()
			assert.InDelta(t, c.force.Len(), c.normal(), 1e-9, "nothing across the line")
		}
	}
	assert.Positive(t, tension)
}

// Hands raised by 30.5 and 61 cm carry less (J Strength Cond Res 2011;25:2891: 55 and
// 41 %, values from memory). Stated with and without push along the surface: friction
// takes the shares nearer to what was published, both keep the order.
func TestRaisedHandsCarryLess(t *testing.T) {
	s := NewSolver(NewBody(Male, 0))
	share := func(height float64, tilt string, leaning bool) float64 {
		name := "floor"
		if height > 0 {
			name = "raised"
			Surfaces[name] = level(height, "block", false)
			defer delete(Surfaces, name)
		}
		p := pose(t, s, "from high-plank\non "+name+" hand\n"+tilt+"\nhip flexion 0\nlumbar flexion 0\nthoracic flexion 0\nloose wrist\nloose ankle\nloose toes\nloose shoulder\nline shoulder hip ankle\naim arm -78")
		var f Frames
		s.Body.Place(&p.State, &f)
		sup := s.Body.supports(p, &f, s.index)
		s.Body.share(&f, sup, nil, leaning)
		sum := 0.0
		for i := range sup {
			if reportBase(sup[i].report) == "hand" {
				sum += sup[i].normal()
			}
		}
		return sum
	}
	for _, leaning := range []bool{false, true} {
		flat, low, high := share(0, "tilt back 0", leaning), share(0.305, "tilt back 14", leaning), share(0.61, "tilt back 30", leaning)
		t.Logf("along the surface %v: flat %.2f, 30.5 cm %.2f (published 0.55), 61 cm %.2f (published 0.41)", leaning, flat, low, high)
		assert.Greater(t, flat, low)
		assert.Greater(t, low, high)
		assert.InDelta(t, 0.55, low, 0.12)
		assert.InDelta(t, 0.41, high, 0.16, "approximate: the model's hands are free to push straight up")
	}
}

func TestWallsMirrorAndKeepTheBodyOut(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	left, err := Parse("from standing\non wall-left hand.left\nshoulder.left abduction 60\nwrist.left extension 60\nloose wrist.left\nloose shoulder.left\nout hand.left 45\nhold band palm.right front 90 10")
	require.NoError(t, err)
	right := left.Mirror()
	assert.Equal(t, "wall-right", right.On[0].Surface)
	assert.Equal(t, "palm.left", right.Props[0].At[0])
	assert.Equal(t, left, right.Mirror(), "mirrored twice is the same")
	ps, err := s.Sequence([]string{"a"}, []*Spec{left})
	require.NoError(t, err)
	assert.Empty(t, s.Validate(ps[0], true))
	in := *ps[0]
	in.Root[1] += 0.2
	found := s.Validate(&in, false)
	assert.Contains(t, joined(found), "inside the wall", "the check can fail")
	p := Prop{Kind: "band", At: []string{"palm.left"}, Anchor: "left", Height: 1}
	assert.Equal(t, "right", p.mirror().Anchor)
}

func joined(lines []string) string {
	out := ""
	for _, l := range lines {
		out += l + "\n"
	}
	return out
}

func TestHeldThingsAreReadOrNamed(t *testing.T) {
	for text, want := range map[string]Prop{
		"hold dowel":                               {Kind: "dowel"},
		"hold dowel palm.left palm.right":          {Kind: "dowel", At: []string{"palm.left", "palm.right"}},
		"hold dumbbell palm.left 3":                {Kind: "dumbbell", At: []string{"palm.left"}, Kg: 3},
		"hold band palm.right left 60 20":          {Kind: "band", At: []string{"palm.right"}, Anchor: "left", Height: 0.6, Newtons: 20},
		"hold band ankle.left ankle.right 15":      {Kind: "band", At: []string{"ankle.left", "ankle.right"}, Newtons: 15},
		"hold strap palm.left left 175":            {Kind: "strap", At: []string{"palm.left"}, Anchor: "left", Height: 1.75},
		"hold ring palm.left palm.right":           {Kind: "ring", At: []string{"palm.left", "palm.right"}},
		"hold towel occiput":                       {Kind: "towel", At: []string{"occiput"}},
		"hold ball palm.left palm.right; let-go ;": {Kind: "ball", At: []string{"palm.left", "palm.right"}},
	} {
		s, err := Parse("from standing\n" + text)
		require.NoError(t, err, text)
		assert.Equal(t, []Prop{want}, s.Props, text)
	}
	for text, want := range map[string]string{
		"hold":                            "takes a thing",
		"hold kettle palm.left":           `unknown thing to hold "kettle"`,
		"hold dumbbell palm.left":         "cannot be read",
		"hold dumbbell palm.left -2":      "cannot be read",
		"hold band palm.left":             "cannot be read",
		"hold band palm.left up 60 20":    "cannot be read",
		"hold ring palm.left":             "cannot be read",
		"hold strap palm.left left 170 9": "cannot be read",
		"hold band palm.left left x 20":   `"x" is not a number`,
		"on roof foot":                    `unknown surface "roof"`,
	} {
		_, err := Parse("from standing\n" + text)
		assert.ErrorContains(t, err, want, text)
	}
}

// A held thing stays in the next phase until it is let go.
func TestThingsStayHeldUntilLetGo(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	parse := func(text string) *Spec {
		spec, err := Parse(text)
		require.NoError(t, err)
		return spec
	}
	ps, err := s.Sequence([]string{"a", "b", "c"}, []*Spec{parse("from standing\nhold dumbbell palm.right 2"), parse("from a\nshoulder.right flexion 20"), parse("from b\nlet-go")})
	require.NoError(t, err)
	assert.Len(t, ps[1].Props, 1)
	assert.Empty(t, ps[2].Props)
	path := s.Path(ps[0], ps[1], nil, 3)
	assert.Len(t, path[1].Props, 1)
}

// Where the ground's push must act when a band pulls: worked by hand for a pull of a
// tenth of body weight to the side at one metre.
func TestEffectiveCentreByHand(t *testing.T) {
	com := Vec{0.1, 0, 1}
	assert.InDelta(t, 0.1, effectiveCentre(com, nil)[0], 1e-12)
	c := effectiveCentre(com, []pull{{at: Vec{0.1, 0, 1}, force: Vec{0, -0.1, 0}}})
	assert.InDelta(t, -0.1, c[1], 1e-9, "0.1 of body weight at 1 m moves it 10 cm")
	c = effectiveCentre(com, []pull{{at: Vec{0.6, 0, 0.8}, force: Vec{0, 0, -0.25}}})
	assert.InDelta(t, (0.1+0.25*0.6)/1.25, c[0], 1e-9, "a quarter more weight, half a metre ahead")
}

func TestFurnitureOfEveryKind(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	for text, want := range map[string][]string{
		"from calves-up": {"wood"},
		"from seated\non seat-edge seat\nslide seat":                      {"wood"},
		"from seated\non high-seat seat\nhip flexion 74\nknee flexion 84": {"wood", "cushion"},
		"from at-counter":          {"counter"},
		"from beside-counter-left": {"counter"},
		wallPlank:                  {"wall"},
		"from hook-lying\noff mid-back pelvis upper-back head\non pad-2 mid-back\non floor buttock\ntilt forward 4\nlumbar extension 4\nthoracic extension 8\nneck flexion 10":                                                                                                                                       {"pad"},
		"from high-plank\noff hand\non ball-top forearm\ntilt back 40\nlumbar flexion 0\nhip flexion 0\nshoulder flexion 66\nelbow flexion 88\nforearm pronation 90\nwrist extension 0\nankle up 6\ntoes up 50\nloose ankle\nloose toes\nloose shoulder\nloose elbow\nline shoulder hip ankle\nstack shoulder elbow": {"ball"},
	} {
		spec, err := Parse(text)
		require.NoError(t, err)
		p, err := s.Sequence([]string{"p"}, []*Spec{spec})
		require.NoError(t, err)
		scene := s.Body.Furnish(p)
		kinds := map[string]bool{}
		for _, b := range scene.Blocks {
			kinds[b.Kind] = true
			assert.Less(t, b.X0, b.X1, text)
			assert.Less(t, b.Y0, b.Y1, text)
			assert.Less(t, b.Z0, b.Z1, text)
		}
		for _, k := range want {
			assert.True(t, kinds[k], "%s for %s", k, text)
		}
		assert.Empty(t, s.Collisions(p[0], scene, 1), text)
	}
}

// The counter stands where the hand is, to the left of someone it is beside and in front
// of someone who faces it.
func TestTheCounterStandsWhereTheHandIs(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		s := NewSolver(NewBody(sex, 0))
		beside, err := s.Base("beside-counter-left")
		require.NoError(t, err)
		b := s.Body.Furnish([]*Pose{beside}).Blocks[0]
		assert.Greater(t, b.Y0, beside.Root[1]+0.1)
		front, err := s.Base("at-counter")
		require.NoError(t, err)
		b = s.Body.Furnish([]*Pose{front}).Blocks[0]
		assert.Greater(t, b.X0, front.Root[0])
		assert.InDelta(t, 0, (b.Y0+b.Y1)/2, 0.05)
	}
}
