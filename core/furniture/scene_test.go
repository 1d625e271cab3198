package furniture_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/pose/posetest"
	"restbend/core/validate"
)

func TestFurnitureStandsUnderTheBody(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	p, err := s.Base("seated")
	require.NoError(t, err)
	scene := furniture.Place(s.Body, []*pose.Pose{p})
	assert.NotEmpty(t, scene.Blocks)
	assert.Empty(t, validate.Collisions(s, p, scene, 1))
	sunk := *p
	sunk.Root[2] -= 0.1
	assert.NotEmpty(t, validate.Collisions(s, &sunk, scene, 1), "the check can fail")
}

func TestFurnitureOfEveryKind(t *testing.T) {
	s := pose.NewSolver(body.NewBody(body.Female, 0))
	for text, want := range map[string][]string{
		"from calves-up": {"wood"},
		"from seated\non seat-edge seat\nslide seat":                      {"wood"},
		"from seated\non high-seat seat\nhip flexion 74\nknee flexion 84": {"wood", "cushion"},
		"from at-counter":          {"counter"},
		"from beside-counter-left": {"counter"},
		posetest.WallPlank:         {"wall"},
		"from hook-lying\noff mid-back pelvis upper-back head\non pad-2 mid-back\non floor buttock\ntilt forward 4\nlumbar extension 4\nthoracic extension 8\nneck flexion 10":                                                                                                                                       {"pad"},
		"from high-plank\noff hand\non ball-top forearm\ntilt back 40\nlumbar flexion 0\nhip flexion 0\nshoulder flexion 66\nelbow flexion 88\nforearm pronation 90\nwrist extension 0\nankle up 6\ntoes up 50\nloose ankle\nloose toes\nloose shoulder\nloose elbow\nline shoulder hip ankle\nstack shoulder elbow": {"ball"},
	} {
		spec, err := pose.Parse(text)
		require.NoError(t, err)
		p, err := s.Sequence([]string{"p"}, []*pose.Spec{spec})
		require.NoError(t, err)
		scene := furniture.Place(s.Body, p)
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
		assert.Empty(t, validate.Collisions(s, p[0], scene, 1), text)
	}
}

// The counter stands where the hand is, to the left of someone it is beside and in front
// of someone who faces it.
func TestTheCounterStandsWhereTheHandIs(t *testing.T) {
	for _, sex := range []body.Sex{body.Female, body.Male} {
		s := pose.NewSolver(body.NewBody(sex, 0))
		beside, err := s.Base("beside-counter-left")
		require.NoError(t, err)
		b := furniture.Place(s.Body, []*pose.Pose{beside}).Blocks[0]
		assert.Greater(t, b.Y0, beside.Root[1]+0.1)
		front, err := s.Base("at-counter")
		require.NoError(t, err)
		b = furniture.Place(s.Body, []*pose.Pose{front}).Blocks[0]
		assert.Greater(t, b.X0, front.Root[0])
		assert.InDelta(t, 0, (b.Y0+b.Y1)/2, 0.05)
	}
}
