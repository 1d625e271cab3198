package body

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What each base posture is taken for: where it lies, what is loaded (shared ruling 2)
// and what it needs.
func TestWhatBasePosturesAre(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	m := NewMeasurer(s)
	for name, want := range map[string]struct {
		lyingOn                 string
		lumbarLoaded, onFloor   bool
		standing, indeterminate bool
	}{
		"supine":          {"back", false, true, false, true},
		"hook-lying":      {"back", false, true, false, true},
		"tabletop":        {"back", true, true, false, true}, // lifted legs bend the low back
		"prone":           {"front", false, true, false, true},
		"side-lying-left": {"left", true, true, false, true}, // the top leg hangs from the pelvis
		"all-fours":       {"", false, true, false, false},
		"high-plank":      {"", false, true, false, false},
		"tall-kneeling":   {"", true, true, false, false},
		"seated":          {"", true, false, false, true},
		"standing":        {"", true, false, true, false},
		"long-sitting":    {"", true, true, false, true},
		"calves-up":       {"back", false, true, false, true},
	} {
		p, err := s.Base(name)
		require.NoError(t, err)
		got := m.Measure(p)
		assert.Equal(t, want.lyingOn, got.LyingOn, name)
		assert.Equal(t, want.lumbarLoaded, got.Lumbar.Loaded, name)
		assert.Equal(t, want.onFloor, got.OnFloor, name)
		assert.Equal(t, want.standing, got.Standing, name)
		assert.Equal(t, want.standing, got.StandingFree, name)
		assert.Equal(t, want.indeterminate, got.Indeterminate, name)
		assert.False(t, got.HeadLift, name)
		assert.InDelta(t, 0, got.Lumbar.Flexion, 3, name)
		sum := 0.0
		for _, v := range got.Share {
			sum += v
			assert.GreaterOrEqual(t, v, 0.0)
		}
		assert.InDelta(t, 1, sum, 0.005, name)
		mirrored := got.Mirror().Mirror()
		assert.Equal(t, got.Share, mirrored.Share)
		assert.Equal(t, got.LyingOn, mirrored.LyingOn)
	}
}

func TestMeasuredChanges(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	m := NewMeasurer(s)
	lift := m.Measure(pose(t, s, "from hook-lying\noff head upper-back\nthoracic flexion 14\nneck flexion 6"))
	assert.True(t, lift.HeadLift)
	assert.False(t, lift.HeadHeld)
	assert.True(t, lift.Thoracic.Loaded, "nothing holds the upper end")
	bridge := m.Measure(pose(t, s, "from hook-lying\noff pelvis mid-back\nthoracic flexion 14\nneck flexion 20\nlumbar flexion 0\nloose hip\nloose knee\nline shoulder hip knee"))
	assert.Greater(t, bridge.BridgeRise, 10.0)
	assert.False(t, bridge.OneLegBridge)
	arms := m.Measure(pose(t, s, "from standing\nshoulder.left flexion 170\nelbow.left flexion 2"))
	assert.Greater(t, arms.Side[Left].ShoulderElevation, 120.0)
	assert.Less(t, arms.Side[Right].ShoulderElevation, 30.0)
	held := m.Measure(pose(t, s, "from at-counter"))
	assert.False(t, held.StandingFree)
	assert.Less(t, held.Share["hand.left"], 0.1)
}

// Between two phases contacts that stay do not skate and the body never jumps.
func TestThePathKeepsItsContacts(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	parse := func(text string) *Spec {
		spec, err := Parse(text)
		require.NoError(t, err)
		return spec
	}
	poses, err := s.Sequence([]string{"a", "b"}, []*Spec{parse("from all-fours"), parse("from a\nlumbar flexion 24\nthoracic flexion 24\nneck flexion 20\nloose shoulder\nloose hip")})
	require.NoError(t, err)
	path := s.Path(poses[0], poses[1], nil, 10)
	require.Len(t, path, 10)
	var f0, f Frames
	s.Body.Place(&poses[0].State, &f0)
	last := poses[0]
	for _, p := range path {
		assert.Empty(t, s.ValidatePath(p))
		s.Body.Place(&p.State, &f)
		for _, point := range []string{"palm.left", "palm.right", "knee.left", "knee.right"} {
			assert.Less(t, s.Body.Point(&f, point).Sub(s.Body.Point(&f0, point)).Len(), 0.012, point)
		}
		assert.Less(t, AngleBetween(p, last), 14.0, "no jump")
		last = p
	}
	assert.Greater(t, last.Q[LumbarFlex], path[0].Q[LumbarFlex])
}

func TestStatureScalesTheBodyAndSharesStay(t *testing.T) {
	small, tall := NewSolver(NewBody(Female, 1.5)), NewSolver(NewBody(Female, 1.8))
	a, err := small.Base("standing")
	require.NoError(t, err)
	b, err := tall.Base("standing")
	require.NoError(t, err)
	assert.InEpsilon(t, 1.8/1.5, b.Root[2]/a.Root[2], 0.01)
	x, y := NewMeasurer(small).Measure(a), NewMeasurer(tall).Measure(b)
	assert.InDelta(t, x.Share["foot.left"], y.Share["foot.left"], 0.01)
}

// Forward placement by hand: a straight arm hanging from an upright trunk ends where the
// segment lengths say.
func TestPlaceAgreesWithTheSegmentLengths(t *testing.T) {
	b := NewBody(Male, 0)
	st := State{Turn: upright}
	var f Frames
	b.Place(&st, &f)
	down := b.Point(&f, "shoulder.left").Sub(b.Point(&f, "wrist.left"))
	assert.InDelta(t, b.upperArm+b.forearm, down[2], 1e-9)
	leg := b.Point(&f, "hip.right").Sub(b.Point(&f, "ankle.right"))
	assert.InDelta(t, b.thigh+b.shank, leg[2], 1e-9)
	assert.InDelta(t, b.Stature, b.Point(&f, "crown")[2]-b.spherePoint(&f, NewSolver(b).index["heel.left"])[2], 0.03*b.Stature)
	st.Q[Limb(Left, HipFlex)] = math.Pi / 2
	b.Place(&st, &f)
	assert.InDelta(t, b.thigh, b.Point(&f, "knee.left")[0]-b.Point(&f, "hip.left")[0], 1e-9, "a bent hip points the thigh forward")
	st = State{Turn: upright}
	st.Q[LumbarTurn], st.Q[LumbarSide] = 0, 20*deg
	b.Place(&st, &f)
	assert.Positive(t, b.Point(&f, "crown")[1], "side-bend left goes left")
}

func TestFurnitureStandsUnderTheBody(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	p, err := s.Base("seated")
	require.NoError(t, err)
	scene := s.Body.Furnish([]*Pose{p})
	assert.NotEmpty(t, scene.Blocks)
	assert.Empty(t, s.Collisions(p, scene, 1))
	sunk := *p
	sunk.Root[2] -= 0.1
	assert.NotEmpty(t, s.Collisions(&sunk, scene, 1), "the check can fail")
}

// Postures that decide verdicts: who sits on the floor, who stands without a hold, whose
// head is lifted, and what counts as propped.
func TestWhatPosturesNeed(t *testing.T) {
	s := NewSolver(NewBody(Female, 0))
	m := NewMeasurer(s)
	measure := func(text string) Measures { return m.Measure(pose(t, s, text)) }
	assert.True(t, measure("from long-sitting").FloorSit)
	assert.False(t, measure("from seated").FloorSit, "a chair is not the floor")
	assert.False(t, measure("from hook-lying").FloorSit)
	assert.False(t, measure("from all-fours").FloorSit)

	beside := measure("from beside-counter-left")
	assert.True(t, beside.Standing)
	assert.False(t, beside.StandingFree)
	wall := measure("from standing\non wall-back buttock upper-back\nhip flexion 7\nankle down 6\nlumbar flexion 0\nthoracic flexion 0\nloose ankle")
	assert.True(t, wall.Standing)
	assert.True(t, wall.StandingFree, "a wall at the back is not a hand hold")
	assert.True(t, wall.Lumbar.Loaded)
	hands := measure(wallPlank)
	assert.True(t, hands.Standing)
	assert.False(t, hands.StandingFree)
	seat := measure("from seated\ntilt forward 10\nlumbar flexion 0")
	assert.False(t, seat.Standing)

	open := "from hook-lying\noff mid-back upper-back head pelvis\non pad-4 mid-back\non floor buttock\ntilt forward 12\nlumbar flexion 9\nthoracic flexion 23\nneck flexion 9\nloose hip"
	over := measure(open)
	assert.Equal(t, "back", over.LyingOn)
	assert.True(t, over.HeadLift, "over a high pad, too")
	assert.False(t, over.HeadHeld)
	flat := measure("from hook-lying\noff pelvis mid-back\nlumbar flexion 0\nthoracic flexion 14\nneck flexion 20\nloose hip\nloose knee\nline shoulder hip knee")
	propped := measure("from hook-lying\noff mid-back pelvis\non pillow upper-back head\nlumbar flexion 0\nthoracic flexion 10\nneck flexion 11\nhip rotation-out 0\nhip abduction 5\nloose hip\nloose knee\nline shoulder hip knee")
	assert.Greater(t, flat.BridgeRise, 10.0)
	assert.Zero(t, propped.BridgeRise, "a raised upper back is the bone-safe bridge")
	assert.True(t, flat.Lumbar.Loaded, "nothing holds the pelvis itself")
	held := measure("from calves-up\nhold band palm.left behind 35 12")
	assert.True(t, held.Lumbar.Loaded, "an outside force loads")
}

// Kneeling and sitting postures carry their weight where it belongs.
func TestSharesOfNewBases(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		s := NewSolver(NewBody(sex, 0))
		m := NewMeasurer(s)
		half := m.Measure(pose(t, s, "from half-kneeling-left"))
		assert.Greater(t, half.Share["knee.left"]+half.Share["shank.left"], 0.4)
		assert.Greater(t, half.Share["foot.right"], 0.03)
		assert.Zero(t, half.Share["foot.left"])
		right := m.Measure(pose(t, s, "from half-kneeling-right"))
		assert.InDelta(t, half.Share["knee.left"], right.Share["knee.right"], 0.02)
		long := m.Measure(pose(t, s, "from long-sitting"))
		assert.Greater(t, long.Share["pelvis"], 0.5)
		tall := m.Measure(pose(t, s, "from tall-kneeling"))
		assert.InDelta(t, tall.Share["knee.left"]+tall.Share["shank.left"], tall.Share["knee.right"]+tall.Share["shank.right"], 0.01)
		counter := m.Measure(pose(t, s, "from at-counter"))
		assert.Less(t, counter.Share["hand.left"], 0.1, "hands rest lightly")
		assert.InDelta(t, 1, counter.Share["foot.left"]+counter.Share["foot.right"]+counter.Share["hand.left"]+counter.Share["hand.right"], 0.02)
	}
}
