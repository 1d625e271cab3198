package pose

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
)

func TestMirrorTwiceIsTheSame(t *testing.T) {
	s := NewSolver(body.NewBody(body.Female, 0))
	for _, name := range BaseNames() {
		p, err := s.Base(name)
		require.NoError(t, err)
		assert.InDelta(t, 0, AngleBetween(p, p.Mirror().Mirror()), 0.01, name)
	}
	right, err := s.Base("side-lying-right")
	require.NoError(t, err)
	left, err := s.Base("side-lying-left")
	require.NoError(t, err)
	assert.Less(t, AngleBetween(right, left.Mirror()), 0.1)
}

func TestParseNamesTheStatement(t *testing.T) {
	for text, want := range map[string]string{
		"":                                     "a pose begins with: from BASE",
		"from standing\nhip bend 3":            `unknown joint or motion "hip bend"`,
		"from standing\nhip flexion x":         `"x" is not a number`,
		"from standing\nhip flexion 170":       "outside the joint's range",
		"from standing\non lawn foot":          `unknown surface "lawn"`,
		"from standing\noff nose":              `unknown part "nose"`,
		"from standing\naim wing 3":            `unknown segment "wing"`,
		"from standing\ntouch palm":            "touch takes 2 points",
		"from standing\nheight knee":           "height takes a point",
		"from standing\nview sideways":         "unknown view",
		"from standing\ntilt up 4":             "tilt takes one of",
		"from standing\nlumbar.left flexion 3": "lumbar has no side",
		"from standing\nfrom seated":           "one from",
	} {
		_, err := Parse(text)
		assert.ErrorContains(t, err, want)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("from high-plank\nhip flexion 0\nloose wrist\nstack shoulder wrist\nline shoulder hip ankle")
	f.Add("from hook-lying\non floor foot.left # comment\nline hip knee ankle\nfree palm.left")
	f.Fuzz(func(t *testing.T, text string) {
		s, err := Parse(text)
		if err != nil {
			return
		}
		if s.From == "" {
			t.Fatal("a pose without a base was accepted")
		}
		s.Mirror().Mirror() // never panics
	})
}

func TestHeldThingsAreReadOrNamed(t *testing.T) {
	for text, want := range map[string]body.Prop{
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
		assert.Equal(t, []body.Prop{want}, s.Props, text)
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
	s := NewSolver(body.NewBody(body.Female, 0))
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

// A loosened hip or shoulder bends; what an unreachable angle cannot have is not paid for
// by splaying.
func TestALooseHipBendsAndDoesNotSplay(t *testing.T) {
	for _, sex := range []body.Sex{body.Female, body.Male} {
		s := NewSolver(body.NewBody(sex, 0))
		p := solved(t, s, "from all-fours\noff knee.right shank.right\non floor toes.right\nlumbar flexion 0\nthoracic flexion 0\nhip.right flexion 40\nknee.right flexion 3\nloose hip.right\nloose ankle.right\nloose toes.right")[0]
		assert.Less(t, math.Abs(p.Q[body.Limb(body.Right, body.HipAbd)]/body.Deg), 12.0)
		assert.Less(t, math.Abs(p.Q[body.Limb(body.Right, body.HipRot)]/body.Deg), 12.0)
		wide := solved(t, s, "from at-counter\nshoulder flexion 4\nelbow flexion 0\nloose shoulder\nloose wrist")[0]
		assert.Less(t, math.Abs(wide.Q[body.Limb(body.Left, body.ShoulderAbd)]/body.Deg), 15.0)
	}
}

// A foot that rises over its ball keeps the ball where it was; so does a hand that closes
// to a fist.
func TestSkinThatStaysDownKeepsItsPlace(t *testing.T) {
	s := NewSolver(body.NewBody(body.Female, 0))
	for what, texts := range map[string][2]string{
		"ball.left":    {"from standing", "from a\noff foot\non floor toes\nankle down 24\ntoes up 30\nloose toes\nbalance"},
		"knuckle.left": {"from all-fours", "from a\noff hand\non floor fist\nwrist extension 0\nloose shoulder\nloose hip"},
		"heel.left":    {"from hook-lying", "from a\noff foot\non floor heel\nankle up 10"},
	} {
		ps := solved(t, s, texts[0], texts[1])
		var fa, fb body.Frames
		s.Body.Place(&ps[0].State, &fa)
		s.Body.Place(&ps[1].State, &fb)
		k, floor := s.Index[what], body.Surfaces["floor"]
		assert.Less(t, s.Body.TouchPoint(&fb, k, floor).Sub(s.Body.TouchPoint(&fa, k, floor)).Len(), 0.005, what)
	}
}

// Small steps from phase to phase do not add up to a splay.
func TestOpeningDoesNotCreep(t *testing.T) {
	s := NewSolver(body.NewBody(body.Female, 0))
	ps := solved(t, s, "from supine", "from a", "from b")
	for i, by := range []float64{0, 9, 18} {
		ps[i].Q[body.Limb(body.Right, body.ShoulderAbd)] += by * body.Deg
		if i > 0 {
			from := ps[i-1].State
			ps[i].from = &from
		}
	}
	for i, want := range []float64{0, 9, 18} {
		assert.InDelta(t, want, math.Abs(ps[i].Opened(body.Limb(body.Right, body.ShoulderAbd))), 0.5, "%d", i)
	}
}

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
