package validate_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/pose"
	"restbend/core/pose/posetest"
	"restbend/core/statics"
	"restbend/core/validate"
)

// The validator must be able to fail: each pose is wrong in one way.
func TestValidatorFinds(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	for text, want := range map[string]string{
		"from standing\ntilt forward 50\nlumbar flexion 0": "would fall",
		"from all-fours\nhip flexion 110\nknee flexion 0":  "off the floor",
		"from supine\nheight pelvis 80":                    "off the floor",
		"from standing\nshoulder.left adduction 40\nshoulder.left flexion 0\nelbow.left flexion 90\nshoulder.left rotation-in 90": "passes",
	} {
		spec, err := pose.Parse(text)
		require.NoError(t, err)
		p, err := s.Sequence([]string{"p"}, []*pose.Spec{spec})
		require.NoError(t, err)
		assert.Contains(t, strings.Join(validate.Pose(s, p[0], true), "\n"), want, text)
	}
	floating, err := s.Base("standing")
	require.NoError(t, err)
	up := *floating
	up.Root[2] += 0.02
	assert.Contains(t, strings.Join(validate.Pose(s, &up, true), "\n"), "off the floor")
}

// Each way of not lying on the skin is found.
func TestHandsThatHangAreFound(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	text := "from seated\nlay hand thigh\nloose shoulder\nloose elbow\nloose forearm\nloose wrist"
	for _, c := range []struct {
		name  string
		spoil func(*pose.Pose)
		want  string
	}{
		{"in the air", func(p *pose.Pose) { p.Q[body.Limb(body.Left, body.ElbowFlex)] += 12 * body.Deg }, "cm off the thigh.left"},
		{"beside the place", func(p *pose.Pose) { p.Q[body.Limb(body.Left, body.ShoulderAbd)] += 25 * body.Deg }, "cm beside the thigh.left"},
		{"on its edge", func(p *pose.Pose) { p.Q[body.Limb(body.Left, body.Pronation)] -= 50 * body.Deg }, "degrees turned on the thigh.left"},
	} {
		p := *posetest.Solved(t, s, text)[0]
		assert.NotContains(t, strings.Join(validate.Pose(s, &p, false), "\n"), "thigh.left", c.name)
		c.spoil(&p)
		assert.Contains(t, strings.Join(validate.Pose(s, &p, false), "\n"), c.want, c.name)
	}
}

// Every base posture passes the whole validator on both bodies.
func TestBasesAreSound(t *testing.T) {
	for _, sex := range []body.Sex{body.Female, body.Male} {
		s := pose.NewSolver(body.NewBody(sex, 0))
		for _, name := range pose.BaseNames() {
			p, err := s.Base(name)
			require.NoError(t, err)
			assert.Empty(t, validate.Pose(s, p, true), "%s, body %d", name, sex)
		}
	}
}

// Each rule on what a camera hides finds the fault planted for it, and the same pose
// without the fault passes.
func TestHiddenFaultsAreFound(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	spoil := func(dof int, degrees float64) func(*pose.Pose) {
		return func(p *pose.Pose) { p.Q[dof] = degrees * body.Deg }
	}
	for _, c := range []struct {
		name, text string
		spoil      func(*pose.Pose)
		want       string
	}{
		{"hip splays", "from supine", spoil(body.Limb(body.Right, body.HipAbd), 20), "hip abduction right is 20"},
		{"hip turns", "from supine", spoil(body.Limb(body.Left, body.HipRot), 20), "hip rotation-out left is 20"},
		{"shoulder splays", "from standing", spoil(body.Limb(body.Left, body.ShoulderAbd), 30), "shoulder abduction left is 30"},
		{"shoulder turns", "from standing", spoil(body.Limb(body.Left, body.ShoulderRot), -30), "shoulder rotation-out left is -30"},
		{"wrist hangs", "from standing", spoil(body.Limb(body.Right, body.WristExt), 75), "wrist.right is bent 75"},
		{"ankles cross", "from supine", func(p *pose.Pose) {
			p.Q[body.Limb(body.Left, body.HipAbd)], p.Q[body.Limb(body.Right, body.HipAbd)] = -9*body.Deg, -9*body.Deg
		}, "ankles cross"},
		{"feet too wide", "from standing", func(p *pose.Pose) {
			p.Q[body.Limb(body.Left, body.HipAbd)], p.Q[body.Limb(body.Right, body.HipAbd)] = 11*body.Deg, 11*body.Deg
		}, "feet are"},
		{"hands too wide", "from all-fours", func(p *pose.Pose) {
			p.Q[body.Limb(body.Left, body.ShoulderAbd)], p.Q[body.Limb(body.Right, body.ShoulderAbd)] = 12*body.Deg, 12*body.Deg
		}, "hands are"},
		{"knees too wide", "from tall-kneeling", func(p *pose.Pose) {
			p.Q[body.Limb(body.Left, body.HipAbd)], p.Q[body.Limb(body.Right, body.HipAbd)] = 12*body.Deg, 12*body.Deg
		}, "knees are"},
		{"one hand far out", "from beside-counter-left", spoil(body.Limb(body.Left, body.ShoulderAbd), 60), "hand.left is"},
		{"foot on its edge", "from half-kneeling-left", func(p *pose.Pose) {
			p.Q[body.Limb(body.Right, body.HipAbd)], p.Q[body.Limb(body.Right, body.HipRot)] = 10*body.Deg, 30*body.Deg
		}, "foot.right stands"},
		{"trunk not plumb", "from standing\ntrunk plumb", func(p *pose.Pose) { p.Turn = p.Turn.Small(body.Vec{0, 6 * body.Deg, 0}) }, "said to be plumb and is 6 degrees off"},
		{"trunk leans sideways", "from standing\ntrunk plumb", func(p *pose.Pose) { p.Turn = p.Turn.Small(body.Vec{7 * body.Deg, 0, 0}) }, "said to be plumb and is 7 degrees off"},
		{"trunk not level", "from all-fours\ntilt forward 6\nhip flexion 90\nshoulder flexion 74\ntrunk level\nloose hip\nloose shoulder\nloose elbow", func(p *pose.Pose) { p.Turn = p.Turn.Small(body.Vec{0, -9 * body.Deg, 0}) }, "said to be level and is"},
		{"pelvis tips", "from standing\npelvis level", func(p *pose.Pose) { p.Turn = p.Turn.Small(body.Vec{8 * body.Deg, 0, 0}) }, "pelvis is said to be level and tips 8"},
		{"hands not as far apart as said", "from standing\napart hands 40", spoil(body.Limb(body.Left, body.ShoulderAbd), 25), "hands are said to be 40 cm apart"},
	} {
		p := *posetest.Solved(t, s, c.text)[0]
		for _, line := range validate.Pose(s, &p, false) {
			if strings.Contains(line, strings.Fields(c.want)[0]) {
				assert.NotContains(t, line, c.want, "%s: found before it was planted", c.name)
			}
		}
		c.spoil(&p)
		assert.Contains(t, strings.Join(validate.Pose(s, &p, false), "\n"), c.want, c.name)
	}
}

// What is stated is allowed, as far as it is stated.
func TestWhatIsSaidIsAllowed(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	has := func(text, complaint string) bool {
		return strings.Contains(strings.Join(validate.Pose(s, posetest.Solved(t, s, text)[0], false), "\n"), complaint)
	}
	wide := "from standing\nhip abduction 12"
	assert.True(t, has(wide, "feet are"))
	assert.False(t, has(wide+"\napart feet 48", "feet are"))
	cross := "from supine\nhip.left adduction 12\nhip.right adduction 12"
	assert.True(t, has(cross, "ankles cross"))
	assert.False(t, has(cross+"\ncross ankles", "ankles cross"))
	edge := "from hook-lying\nhip.right abduction 30\nhip.right rotation-out 10"
	assert.True(t, has(edge, "foot.right stands"))
	assert.False(t, has(edge+"\nroll foot.right 32", "foot.right stands"))
	assert.True(t, has(edge+"\nroll foot.right 70", "foot.right stands"), "by how much is stated too")
	assert.True(t, has(edge+"\nroll foot.left 32", "foot.right stands"), "of the other foot")
	// A later pose keeps what its source said of width, edges and crossing.
	ps := posetest.Solved(t, s, wide+"\napart feet 48", "from a\nknee flexion 4")
	assert.NotContains(t, strings.Join(validate.Pose(s, ps[1], false), "\n"), "feet are")
}

// Who says that a leg carries must show it.
func TestPromisedSharesAreMeasured(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	p := posetest.Solved(t, s, "from standing\ncarries foot.right at least 0.75")[0]
	assert.Contains(t, strings.Join(validate.Pose(s, p, false), "\n"), "foot.right is said to carry at least 75 % of body weight and carries 50")
	p = posetest.Solved(t, s, "from standing\ncarries foot at least 0.95")[0]
	assert.Empty(t, validate.Pose(s, p, true), "both feet together")
	for text, want := range map[string]string{
		"carries foot.right 0.5": "carries reads", "carries wing at least 0.5": "unknown part", "carries foot at least 2": "not a share", "carries foot at least NaN": "not a share",
		"trunk crooked": "plumb or level", "pelvis round": "level", "apart wings 40": "apart takes", "apart feet 4": "not between", "apart feet x": "not a number",
		"out hand 20": "out takes one", "roll hand.left 20": "roll takes", "cross legs": "only ankles", "flat hand.left": "only a foot", "flat": "flat takes",
		"mirror\nhip flexion 3": "says nothing else",
	} {
		_, err := pose.Parse("from standing\n" + text)
		assert.ErrorContains(t, err, want, text)
	}
	_, err := pose.Parse("from standing\nmirror")
	require.NoError(t, err)
}

// A contact that stays does not move between phases, one that steps is lifted first.
func TestContactsThatMoveAreFound(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	row := func(how string) ([]*pose.Pose, pose.Travel) {
		spec, err := pose.Parse("from a\n" + how + "\nhip flexion 40\nloose knee\nloose shoulder")
		require.NoError(t, err)
		ps := posetest.Solved(t, s, "from all-fours", "from a\n"+how+"\nhip flexion 40\nloose knee\nloose shoulder")
		travel := pose.TravelOf([]*pose.Spec{spec})
		return append(append([]*pose.Pose{ps[0]}, s.Path(ps[0], ps[1], travel, 12)...), ps[1]), travel
	}
	slides, travel := row("slide knee shank")
	ends := [2]*pose.Pose{slides[0], slides[len(slides)-1]}
	assert.Contains(t, strings.Join(validate.Strays(s, ends[0], ends[1], nil), "\n"), "knee.left moves")
	assert.Empty(t, validate.Strays(s, ends[0], ends[1], travel), "it slides by its words")
	skates := pose.Travel{}
	for k := range travel {
		skates[k] = pose.Steps
	}
	assert.Contains(t, strings.Join(validate.Skates(s, slides, skates), "\n"), "knee.left steps and moves", "on the ground all the way")

	steps, travel := row("step knee shank")
	assert.Empty(t, validate.Skates(s, steps, travel), "lifted, carried, put down")
	up, both := [2]float64{}, 0
	for _, p := range steps {
		var f body.Frames
		s.Body.Place(&p.State, &f)
		air := 0
		for i, side := range []string{".left", ".right"} {
			h := s.Body.SpherePoint(&f, s.Index["knee"+side])[2]
			up[i] = max(up[i], h)
			if h > 0.02 {
				air++
			}
		}
		if air == 2 {
			both++
		}
	}
	assert.Greater(t, min(up[0], up[1]), 0.03, "each knee leaves the ground")
	assert.Zero(t, both, "one after the other")
}

// A mirrored phase is its source with the sides exchanged, to the last digit.
func TestMirroredPhase(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Male, 0))
	a, err := pose.Parse("from all-fours\noff hand.right\nshoulder.right flexion 120\nwrist.right extension 0\nloose shoulder.left\nbalance")
	require.NoError(t, err)
	b, err := pose.Parse("from a\nmirror")
	require.NoError(t, err)
	ps, err := s.Sequence([]string{"a", "b"}, []*pose.Spec{a, b})
	require.NoError(t, err)
	assert.Zero(t, pose.MirrorDifference(ps[0], ps[1]))
	assert.Equal(t, statics.NewMeasurer(s).Measure(ps[0]).Mirror().Share, statics.NewMeasurer(s).Measure(ps[1]).Share)
	assert.Equal(t, ps[0].Asked[body.Limb(body.Right, body.ShoulderFlex)], ps[1].Asked[body.Limb(body.Left, body.ShoulderFlex)])
	assert.True(t, pose.Mirrors(a, a.Mirror()))
	assert.False(t, pose.Mirrors(a, a), "a pose does not mirror itself")
	twice, err := pose.Parse("from standing\nshoulder flexion 90")
	require.NoError(t, err)
	assert.False(t, pose.Mirrors(twice, twice.Mirror()), "nothing sided")
	_, err = s.Sequence([]string{"b"}, []*pose.Spec{{From: "standing", Mirrored: true}})
	assert.ErrorContains(t, err, "only an earlier phase")
	same := *ps[1]
	same.Q[body.LumbarSide] += 2 * body.Deg
	assert.InDelta(t, 2, pose.MirrorDifference(ps[0], &same), 1e-6)
	assert.Contains(t, fmt.Sprint(pose.WidestAngle(ps[0].Mirror(), &same)), "lumbar side")
}

// Between two phases contacts that stay do not skate and the body never jumps.
func TestThePathKeepsItsContacts(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	parse := func(text string) *pose.Spec {
		spec, err := pose.Parse(text)
		require.NoError(t, err)
		return spec
	}
	poses, err := s.Sequence([]string{"a", "b"}, []*pose.Spec{parse("from all-fours"), parse("from a\nlumbar flexion 24\nthoracic flexion 24\nneck flexion 20\nloose shoulder\nloose hip")})
	require.NoError(t, err)
	path := s.Path(poses[0], poses[1], nil, 10)
	require.Len(t, path, 10)
	var f0, f body.Frames
	s.Body.Place(&poses[0].State, &f0)
	last := poses[0]
	for _, p := range path {
		assert.Empty(t, validate.Path(s, p))
		s.Body.Place(&p.State, &f)
		for _, point := range []string{"palm.left", "palm.right", "knee.left", "knee.right"} {
			assert.Less(t, s.Body.Point(&f, point).Sub(s.Body.Point(&f0, point)).Len(), 0.012, point)
		}
		assert.Less(t, pose.AngleBetween(p, last), 14.0, "no jump")
		last = p
	}
	assert.Greater(t, last.Q[body.LumbarFlex], path[0].Q[body.LumbarFlex])
}

func TestWallsMirrorAndKeepTheBodyOut(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	left, err := pose.Parse("from standing\non wall-left hand.left\nshoulder.left abduction 60\nwrist.left extension 60\nloose wrist.left\nloose shoulder.left\nout hand.left 45\nhold band palm.right front 90 10")
	require.NoError(t, err)
	right := left.Mirror()
	assert.Equal(t, "wall-right", right.On[0].Surface)
	assert.Equal(t, "palm.left", right.Props[0].At[0])
	assert.Equal(t, left, right.Mirror(), "mirrored twice is the same")
	ps, err := s.Sequence([]string{"a"}, []*pose.Spec{left})
	require.NoError(t, err)
	assert.Empty(t, validate.Pose(s, ps[0], true))
	in := *ps[0]
	in.Root[1] += 0.2
	found := validate.Pose(s, &in, false)
	assert.Contains(t, joined(found), "inside the wall", "the check can fail")
	p := body.Prop{Kind: "band", At: []string{"palm.left"}, Anchor: "left", Height: 1}
	assert.Equal(t, "right", p.Mirror().Anchor)
}

func joined(lines []string) string {
	out := ""
	for _, l := range lines {
		out += l + "\n"
	}
	return out
}

// The poses the reactions are worked out by hand for are sound ones.
func TestPosesOfTheReactionsAreSound(t *testing.T) {
	for _, sex := range []body.Sex{body.Female, body.Male} {
		s := pose.NewSolver(body.NewBody(sex, 0))
		for _, text := range []string{posetest.WallPlank, posetest.WithWeight, posetest.WithBand, posetest.WithoutBand, posetest.WithStrap, posetest.HandsOn("floor", "tilt back 0")} {
			if sex == body.Male && text != posetest.WallPlank && text != posetest.HandsOn("floor", "tilt back 0") {
				continue
			}
			assert.Empty(t, validate.Pose(s, posetest.Solved(t, s, text)[0], true), text)
		}
	}
	for height, tilt := range map[float64]string{0.305: "tilt back 14", 0.61: "tilt back 30"} {
		lower := posetest.Raise("raised", height)
		s := pose.NewSolver(body.NewBody(body.Male, 0))
		assert.Empty(t, validate.Pose(s, posetest.Solved(t, s, posetest.HandsOn("raised", tilt))[0], true), tilt)
		lower()
	}
}
