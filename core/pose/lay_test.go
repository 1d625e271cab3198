package pose

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
)

// A palm lies flat on the skin it is said to lie on, on both bodies: within a centimetre
// and 20 degrees.
func TestHandsLie(t *testing.T) {
	const free = "\nloose shoulder\nloose elbow\nloose forearm\nloose wrist"
	for _, text := range []string{
		"from seated",
		"from long-sitting",
		"from hook-lying\nlay hand.left breastbone\nlay hand.right belly\nshoulder.left abduction 26\nshoulder.right abduction 20\nshoulder rotation-in 55" + free,
		"from hook-lying\nlay hand hip-bone\nshoulder abduction 24\nshoulder rotation-in 40" + free,
		"from standing\nlay hand hip-crease\nshoulder abduction 6\nshoulder rotation-in 50\nelbow flexion 33" + free,
		"from seated\nlay hand.left breastbone\nlay hand.right back-of-hand.left\nshoulder abduction 30\nshoulder.left flexion 39\nshoulder.right flexion 33\nshoulder rotation-in 74\nelbow flexion 128\nforearm pronation -22" + free,
	} {
		for _, sex := range []body.Sex{body.Female, body.Male} {
			s := NewSolver(body.NewBody(sex, 0))
			p := solved(t, s, text)[0]
			var f body.Frames
			s.Body.Place(&p.State, &f)
			lays := p.Spec.Relations
			if text == "from seated" || text == "from long-sitting" { // the base lays the hands
				lays = []Relation{{Kind: "lay", Args: []string{"hand.left", "thigh.left"}}, {Kind: "lay", Args: []string{"hand.right", "thigh.right"}}}
			}
			require.NotEmpty(t, lays, text)
			for _, rel := range lays {
				off, beside, turned := laid(s.Body, &f, rel.Args[0], rel.Args[1])
				assert.InDelta(t, 0, off, maxLayOff, "%s %v", text, rel.Args)
				assert.Less(t, beside, maxBeside, "%s %v", text, rel.Args)
				assert.Less(t, turned, maxLayTurn, "%s %v", text, rel.Args)
			}
		}
	}
}

// What cannot be read says what is allowed; mirrored, the other hand lies on the other side.
func TestLayIsReadAndMirrored(t *testing.T) {
	for text, want := range map[string]string{
		"from seated\nlay hand":              "a hand and where it lies",
		"from seated\nlay foot thigh":        "begins with hand",
		"from seated\nlay hand.left moon":    "known: ",
		"from seated\nlay hand belly.left":   "cannot lie on",
		"from seated\nlay hand.middle belly": "begins with hand",
	} {
		_, err := Parse(text)
		assert.ErrorContains(t, err, want, text)
	}
	spec, err := Parse("from seated\nlay hand.left thigh.right")
	require.NoError(t, err)
	assert.Equal(t, []string{"hand.right", "thigh.left"}, spec.Mirror().Relations[0].Args)
}

// A hand closes round a stick, a band or a weight, and not round a ball or a floor.
func TestHandsCloseRoundWhatTheyHold(t *testing.T) {
	s := NewSolver(body.NewBody(body.Female, 0))
	for text, fists := range map[string][2]bool{
		"from standing\nhold dumbbell palm.left 3":         {true, false},
		"from standing\nhold band palm.right right 100 15": {false, true},
		"from standing\nhold dowel palm.left palm.right":   {true, true},
		"from standing\nhold ball palm.left palm.right":    {false, false},
		"from all-fours\nhold dowel":                       {false, false},
	} {
		p := solved(t, s, text)[0]
		assert.Equal(t, fists, [2]bool{p.Fist(".left"), p.Fist(".right")}, text)
	}
}

// A hand that leaves the skin it lay on goes on straight from its wrist; one that stays
// lies on.
func TestHandsThatLeaveAreStraight(t *testing.T) {
	s := NewSolver(body.NewBody(body.Female, 0))
	ps := solved(t, s, "from seated", "from a\nshoulder.left flexion 80\nelbow.left flexion 5", "from b\nthoracic turn-left 5")
	assert.Greater(t, ps[0].Q[body.Limb(body.Left, body.WristExt)], 20*body.Deg)
	for i, p := range ps[1:] {
		assert.InDelta(t, 0, p.Q[body.Limb(body.Left, body.WristExt)], 3*body.Deg, "%d", i)
	}
	// ... also where the other hand goes away from under it.
	ps2 := solved(t, s, "from seated\nshoulder flexion 77\nshoulder adduction 13\nshoulder rotation-out 4\nelbow flexion 23\nforearm pronation 6\nlay hand.left palm.right\nloose shoulder\nloose elbow\nloose forearm\nloose wrist",
		"from a\nshoulder.right abduction 72\nshoulder.right flexion 24\nelbow.right flexion 12")
	assert.Greater(t, math.Abs(ps2[0].Q[body.Limb(body.Left, body.WristExt)]), 20*body.Deg)
	assert.InDelta(t, 0, ps2[1].Q[body.Limb(body.Left, body.WristExt)], 3*body.Deg)
	var f body.Frames
	s.Body.Place(&ps[1].State, &f)
	off, _, turned := laid(s.Body, &f, "hand.right", "thigh.right")
	assert.InDelta(t, 0, off, maxLayOff)
	assert.Less(t, turned, maxLayTurn)
}

// A hand on its own thigh rests; behind a thigh, on a shin or on the other thigh it draws.
func TestHandsThatDraw(t *testing.T) {
	for text, draws := range map[string]bool{
		"lay hand thigh":                 false,
		"lay hand belly":                 false,
		"lay hand.left palm.right":       false,
		"lay hand.right outer-thigh":     false,
		"lay hand.left thigh.right":      true,
		"lay hand back-of-thigh":         true,
		"lay hand.right inner-shin.left": true,
		"touch palm shin 9":              true,
	} {
		spec, err := Parse("from seated\n" + text)
		require.NoError(t, err)
		got := false
		for i := range spec.Relations {
			got = got || spec.Relations[i].pulls()
		}
		assert.Equal(t, draws, got, text)
	}
}
