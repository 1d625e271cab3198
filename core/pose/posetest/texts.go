// Package posetest has the poses that tests of more than one package share.
package posetest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/pose"
)

// Solved solves the phases a, b, ... of one exercise.
func Solved(t testing.TB, s *pose.Solver, texts ...string) []*pose.Pose {
	t.Helper()
	var names []string
	var specs []*pose.Spec
	for i, text := range texts {
		spec, err := pose.Parse(text)
		require.NoError(t, err, text)
		names, specs = append(names, string(rune('a'+i))), append(specs, spec)
	}
	poses, err := s.Sequence(names, specs)
	require.NoError(t, err)
	return poses
}

// Poses that more than one package tests with: a lean on a wall, a weight in one hand, a hold on a
// strap and on a band, and the last without it.
const (
	WallPlank   = "from standing\non wall hand\ntilt forward 16\nlumbar flexion 0\nthoracic flexion 0\nhip flexion 0\nknee flexion 2\nshoulder flexion 92\nshoulder abduction 2\nelbow flexion 6\nforearm pronation 90\nwrist extension 84\nankle up 15\nloose wrist\nloose ankle\nloose shoulder\nline shoulder hip ankle"
	WithWeight  = "from standing\nhold dumbbell palm.left 4\nshoulder.left abduction 10\nelbow.left flexion 4\nlumbar side-left 0\nthoracic side-left 0\nlumbar flexion 0\nthoracic flexion 0\nbalance"
	WithStrap   = "from standing\nhold strap palm.left left 175\ntilt right 14\nshoulder.left abduction 128\nelbow.left flexion 6\nlumbar side-left 0\nthoracic side-left 0\nlumbar turn-left 0\nthoracic turn-left 0\nlumbar flexion 0\nthoracic flexion 0\nhip abduction 2\nroll foot.left -13\nloose ankle\nloose hip"
	WithBand    = "from standing\nhold band palm.right right 115 22\nhip abduction 3\nshoulder flexion 34\nshoulder rotation-in 34\nelbow flexion 104\nlumbar flexion 0\nthoracic flexion 0\nlumbar turn-left 0\nthoracic turn-left 0\nloose shoulder\nloose ankle\ntouch palm.left palm.right 7\nbalance"
	WithoutBand = "from standing\nhip abduction 3\nshoulder flexion 34\nshoulder rotation-in 34\nelbow flexion 104\nlumbar flexion 0\nthoracic flexion 0\nloose shoulder\ntouch palm.left palm.right 7\nbalance"
)

// HandsOn is the high plank with the hands on a surface and the trunk tilted.
func HandsOn(surface, tilt string) string {
	return "from high-plank\non " + surface + " hand\n" + tilt + "\nhip flexion 0\nlumbar flexion 0\nthoracic flexion 0\nloose wrist\nloose ankle\nloose toes\nloose shoulder\nline shoulder hip ankle\naim arm -78"
}

// Raise adds a block of a height (metres) to the surfaces until the function it returns is called.
func Raise(name string, height float64) (lower func()) {
	body.Surfaces[name] = body.Level(height, "block", false)
	return func() { delete(body.Surfaces, name) }
}
