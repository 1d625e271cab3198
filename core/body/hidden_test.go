package body

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// solved solves the phases a, b, ... of one exercise.
func solved(t testing.TB, s *Solver, texts ...string) []*Pose {
	t.Helper()
	var names []string
	var specs []*Spec
	for i, text := range texts {
		spec, err := Parse(text)
		require.NoError(t, err, text)
		names, specs = append(names, string(rune('a'+i))), append(specs, spec)
	}
	poses, err := s.Sequence(names, specs)
	require.NoError(t, err)
	return poses
}

// Every base posture passes the whole validator on both bodies.
func TestBasesAreSound(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		s := NewSolver(NewBody(sex, 0))
		for _, name := range BaseNames() {
			p, err := s.Base(name)
			require.NoError(t, err)
			assert.Empty(t, s.Validate(p, true), "%s, body %d", name, sex)
		}
	}
}

// A loosened hip or shoulder bends; what an unreachable angle cannot have is not paid for
// by splaying.
func TestALooseHipBendsAndDoesNotSplay(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		s := NewSolver(NewBody(sex, 0))
		p := solved(t, s, "from all-fours\noff knee.right shank.right\non floor toes.right\nlumbar flexion 0\nthoracic flexion 0\nhip.right flexion 40\nknee.right flexion 3\nloose hip.right\nloose ankle.right\nloose toes.right")[0]
		assert.Less(t, abs(p.Q[Limb(Right, HipAbd)]/deg), 12.0)
		assert.Less(t, abs(p.Q[Limb(Right, HipRot)]/deg), 12.0)
		wide := solved(t, s, "from at-counter\nshoulder flexion 4\nelbow flexion 0\nloose shoulder\nloose wrist")[0]
		assert.Less(t, abs(wide.Q[Limb(Left, ShoulderAbd)]/deg), 15.0)
	}
}

// A foot that rises over its ball keeps the ball where it was; so does a hand that closes
// to a fist.
func TestSkinThatStaysDownKeepsItsPlace(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	for what, texts := range map[string][2]string{
		"ball.left":    {"from standing", "from a\noff foot\non floor toes\nankle down 24\ntoes up 30\nloose toes\nbalance"},
		"knuckle.left": {"from all-fours", "from a\noff hand\non floor fist\nwrist extension 0\nloose shoulder\nloose hip"},
		"heel.left":    {"from hook-lying", "from a\noff foot\non floor heel\nankle up 10"},
	} {
		ps := solved(t, s, texts[0], texts[1])
		var fa, fb Frames
		s.Body.Place(&ps[0].State, &fa)
		s.Body.Place(&ps[1].State, &fb)
		k, floor := s.index[what], Surfaces["floor"]
		assert.Less(t, s.Body.touchPoint(&fb, k, floor).Sub(s.Body.touchPoint(&fa, k, floor)).Len(), 0.005, what)
	}
}

// Each rule on what a camera hides finds the fault planted for it, and the same pose
// without the fault passes.
func TestHiddenFaultsAreFound(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	spoil := func(dof int, degrees float64) func(*Pose) {
		return func(p *Pose) { p.Q[dof] = degrees * deg }
	}
	for _, c := range []struct {
		name, text string
		spoil      func(*Pose)
		want       string
	}{
		{"hip splays", "from supine", spoil(Limb(Right, HipAbd), 20), "hip abduction right is 20"},
		{"hip turns", "from supine", spoil(Limb(Left, HipRot), 20), "hip rotation-out left is 20"},
		{"shoulder splays", "from standing", spoil(Limb(Left, ShoulderAbd), 30), "shoulder abduction left is 30"},
		{"shoulder turns", "from standing", spoil(Limb(Left, ShoulderRot), -30), "shoulder rotation-out left is -30"},
		{"wrist hangs", "from standing", spoil(Limb(Right, WristExt), 75), "wrist.right is bent 75"},
		{"ankles cross", "from supine", func(p *Pose) {
			p.Q[Limb(Left, HipAbd)], p.Q[Limb(Right, HipAbd)] = -9*deg, -9*deg
		}, "ankles cross"},
		{"feet too wide", "from standing", func(p *Pose) {
			p.Q[Limb(Left, HipAbd)], p.Q[Limb(Right, HipAbd)] = 11*deg, 11*deg
		}, "feet are"},
		{"hands too wide", "from all-fours", func(p *Pose) {
			p.Q[Limb(Left, ShoulderAbd)], p.Q[Limb(Right, ShoulderAbd)] = 12*deg, 12*deg
		}, "hands are"},
		{"knees too wide", "from tall-kneeling", func(p *Pose) {
			p.Q[Limb(Left, HipAbd)], p.Q[Limb(Right, HipAbd)] = 12*deg, 12*deg
		}, "knees are"},
		{"one hand far out", "from beside-counter-left", spoil(Limb(Left, ShoulderAbd), 60), "hand.left is"},
		{"foot on its edge", "from half-kneeling-left", func(p *Pose) {
			p.Q[Limb(Right, HipAbd)], p.Q[Limb(Right, HipRot)] = 10*deg, 30*deg
		}, "foot.right stands"},
		{"trunk not plumb", "from standing\ntrunk plumb", func(p *Pose) { p.Turn = p.Turn.small(Vec{0, 6 * deg, 0}) }, "said to be plumb and is 6 degrees off"},
		{"trunk leans sideways", "from standing\ntrunk plumb", func(p *Pose) { p.Turn = p.Turn.small(Vec{7 * deg, 0, 0}) }, "said to be plumb and is 7 degrees off"},
		{"trunk not level", "from all-fours\ntilt forward 6\nhip flexion 90\nshoulder flexion 74\ntrunk level\nloose hip\nloose shoulder\nloose elbow", func(p *Pose) { p.Turn = p.Turn.small(Vec{0, -9 * deg, 0}) }, "said to be level and is"},
		{"pelvis tips", "from standing\npelvis level", func(p *Pose) { p.Turn = p.Turn.small(Vec{8 * deg, 0, 0}) }, "pelvis is said to be level and tips 8"},
		{"hands not as far apart as said", "from standing\napart hands 40", spoil(Limb(Left, ShoulderAbd), 25), "hands are said to be 40 cm apart"},
	} {
		p := *solved(t, s, c.text)[0]
		for _, line := range s.Validate(&p, false) {
			if strings.Contains(line, strings.Fields(c.want)[0]) {
				assert.NotContains(t, line, c.want, "%s: found before it was planted", c.name)
			}
		}
		c.spoil(&p)
		assert.Contains(t, strings.Join(s.Validate(&p, false), "\n"), c.want, c.name)
	}
}

// What is stated is allowed, as far as it is stated.
func TestWhatIsSaidIsAllowed(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	has := func(text, complaint string) bool {
		return strings.Contains(strings.Join(s.Validate(solved(t, s, text)[0], false), "\n"), complaint)
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
	ps := solved(t, s, wide+"\napart feet 48", "from a\nknee flexion 4")
	assert.NotContains(t, strings.Join(s.Validate(ps[1], false), "\n"), "feet are")
}

// Small steps from phase to phase do not add up to a splay.
func TestOpeningDoesNotCreep(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	ps := solved(t, s, "from supine", "from a", "from b")
	for i, by := range []float64{0, 9, 18} {
		ps[i].Q[Limb(Right, ShoulderAbd)] += by * deg
		if i > 0 {
			from := ps[i-1].State
			ps[i].from = &from
		}
	}
	assert.Empty(t, s.Validate(ps[1], false))
	assert.Contains(t, strings.Join(s.Validate(ps[2], false), "\n"), "shoulder abduction right")
}

// Who says that a leg carries must show it.
func TestPromisedSharesAreMeasured(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	p := solved(t, s, "from standing\ncarries foot.right at least 0.75")[0]
	assert.Contains(t, strings.Join(s.Validate(p, false), "\n"), "foot.right is said to carry at least 75 % of body weight and carries 50")
	p = solved(t, s, "from standing\ncarries foot at least 0.95")[0]
	assert.Empty(t, s.Validate(p, true), "both feet together")
	for text, want := range map[string]string{
		"carries foot.right 0.5": "carries reads", "carries wing at least 0.5": "unknown part", "carries foot at least 2": "not a share", "carries foot at least NaN": "not a share",
		"trunk crooked": "plumb or level", "pelvis round": "level", "apart wings 40": "apart takes", "apart feet 4": "not between", "apart feet x": "not a number",
		"out hand 20": "out takes one", "roll hand.left 20": "roll takes", "cross legs": "only ankles", "flat hand.left": "only a foot", "flat": "flat takes",
		"mirror\nhip flexion 3": "says nothing else",
	} {
		_, err := Parse("from standing\n" + text)
		assert.ErrorContains(t, err, want, text)
	}
	_, err := Parse("from standing\nmirror")
	require.NoError(t, err)
}

// A contact that stays does not move between phases, one that steps is lifted first.
func TestContactsThatMoveAreFound(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	row := func(how string) ([]*Pose, Travel) {
		spec, err := Parse("from a\n" + how + "\nhip flexion 40\nloose knee\nloose shoulder")
		require.NoError(t, err)
		ps := solved(t, s, "from all-fours", "from a\n"+how+"\nhip flexion 40\nloose knee\nloose shoulder")
		travel := TravelOf([]*Spec{spec})
		return append(append([]*Pose{ps[0]}, s.Path(ps[0], ps[1], travel, 12)...), ps[1]), travel
	}
	slides, travel := row("slide knee shank")
	ends := [2]*Pose{slides[0], slides[len(slides)-1]}
	assert.Contains(t, strings.Join(s.Strays(ends[0], ends[1], nil), "\n"), "knee.left moves")
	assert.Empty(t, s.Strays(ends[0], ends[1], travel), "it slides by its words")
	skates := Travel{}
	for k := range travel {
		skates[k] = Steps
	}
	assert.Contains(t, strings.Join(s.Skates(slides, skates), "\n"), "knee.left steps and moves", "on the ground all the way")

	steps, travel := row("step knee shank")
	assert.Empty(t, s.Skates(steps, travel), "lifted, carried, put down")
	up, both := [2]float64{}, 0
	for _, p := range steps {
		var f Frames
		s.Body.Place(&p.State, &f)
		air := 0
		for i, side := range []string{".left", ".right"} {
			h := s.Body.spherePoint(&f, s.index["knee"+side])[2]
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
	s := NewSolver(NewBody(Male, 0))
	a, err := Parse("from all-fours\noff hand.right\nshoulder.right flexion 120\nwrist.right extension 0\nloose shoulder.left\nbalance")
	require.NoError(t, err)
	b, err := Parse("from a\nmirror")
	require.NoError(t, err)
	ps, err := s.Sequence([]string{"a", "b"}, []*Spec{a, b})
	require.NoError(t, err)
	assert.Zero(t, MirrorDifference(ps[0], ps[1]))
	assert.Equal(t, NewMeasurer(s).Measure(ps[0]).Mirror().Share, NewMeasurer(s).Measure(ps[1]).Share)
	assert.Equal(t, ps[0].Asked[Limb(Right, ShoulderFlex)], ps[1].Asked[Limb(Left, ShoulderFlex)])
	assert.True(t, Mirrors(a, a.Mirror()))
	assert.False(t, Mirrors(a, a), "a pose does not mirror itself")
	twice, err := Parse("from standing\nshoulder flexion 90")
	require.NoError(t, err)
	assert.False(t, Mirrors(twice, twice.Mirror()), "nothing sided")
	_, err = s.Sequence([]string{"b"}, []*Spec{{From: "standing", Mirrored: true}})
	assert.ErrorContains(t, err, "only an earlier phase")
	same := *ps[1]
	same.Q[LumbarSide] += 2 * deg
	assert.InDelta(t, 2, MirrorDifference(ps[0], &same), 1e-6)
	assert.Contains(t, fmt.Sprint(WidestAngle(ps[0].Mirror(), &same)), "lumbar side")
}
