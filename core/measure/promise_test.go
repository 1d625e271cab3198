package measure_test

import (
	"math"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/measure"
	"restbend/core/say"
	"restbend/core/trade"
)

// copyOf is an entry that may be spoilt.
func copyOf(t *testing.T, slug string) *catalogue.Version {
	t.Helper()
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	v, ok := cat.Version(slug)
	require.True(t, ok, slug)
	return v.Copy("own-"+slug, v.Name)
}

func findings(t *testing.T, v *catalogue.Version) string {
	t.Helper()
	_, found, err := measure.NewSolver().Solve(v, nil, false)
	require.NoError(t, err)
	var lines []string
	for _, f := range found {
		lines = append(lines, f.Phase+": "+f.Text)
	}
	return strings.Join(lines, "\n")
}

// What sentences promise is held against the poses, and what poses do against the
// sentences: each fault is planted in a sound entry.
func TestSentencesAndPosesAgree(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	pose := func(v *catalogue.Version, phase int, old, now string) {
		require.Contains(t, v.Phases[phase].Pose, old)
		v.Phases[phase].Pose = strings.Replace(v.Phases[phase].Pose, old, now, 1)
	}
	for _, c := range []struct {
		name, slug string
		spoil      func(*catalogue.Version)
		want       string
	}{
		{"a slide the words do not know", "lying-tree", func(v *catalogue.Version) {
			v.Say.Setup.First[1] = "Sole of the other foot against the shin or knee; a cushion under the open knee."
		}, "heel.right moves"},
		{"a thing that cannot slide is no slide", "lying-tree", func(v *catalogue.Version) { v.Say.Setup.First[1] = "A cushion that cannot slide under the open knee." }, "heel.right moves"},
		{"a step the words do not know", "plank-wall", func(v *catalogue.Version) {
			v.Say.Setup.First[1], v.Changes = "Feet back; one straight line.", "the first rung, most of the weight stays on the feet"
		}, "moves"},
		{"wide and no sentence says so", "squat", func(v *catalogue.Version) {
			v.Say.Setup.First[0] = "Toes a little out."
			v.SetCues(say.Cues{In: "Hips back and down, spine long.", Out: "Drive through the whole foot.", Image: v.Say.Image})
		}, "no sentence says so"},
		{"crossed and no sentence says so", "inner-thigh-lift", func(v *catalogue.Version) {
			v.Say.Setup.First[0] = "Lie on your side, top leg bent, its foot or knee on the floor."
		}, "crosses the ankles and no sentence"},
		{"a thing nobody sees", "hinge-forward-flat", func(v *catalogue.Version) { v.Say.Setup.First[0] = "Sit on a folded towel." }, `"towel" and no pose shows it`},
		{"tall and leaning", "knee-lift", func(v *catalogue.Version) { pose(v, 0, "from standing", "from standing; tilt forward 12") }, "the words say tall and the trunk leans"},
		{"stays tall and does not", "carry-one-side", func(v *catalogue.Version) {
			pose(v, 1, "trunk plumb\npelvis level", "tilt left 12")
		}, "step (female body): the words say tall"},
		{"level and tipped", "side-leg-standing", func(v *catalogue.Version) {
			pose(v, 1, "tilt left 3", "tilt left 16\nhip.left adduction 14")
			pose(v, 1, "pelvis level", "")
		}, "the words say level and the pelvis tips"},
		{"weight in words and in no pose", "ring-ankle", func(v *catalogue.Version) {
			pose(v, 1, "carries foot.left at least 0.8", "balance")
		}, "a sentence says where the weight is"},
		{"weight that is not there", "side-sway", func(v *catalogue.Version) {
			pose(v, 1, "at least 0.75", "at least 0.95")
		}, "is said to carry at least 95 %"},
		{"phases that mirror each other by hand", "swim", func(v *catalogue.Version) {
			v.Phases[1].Pose = "from right-arm; hip.right extension 12; hip.left extension 7; shoulder.left flexion 158; shoulder.right flexion 144; lumbar extension 8; thoracic extension 7; neck extension 7; wrist extension 0; loose hip"
		}, "mirror each other and differ"},
		{"a chair on a bed", "levels-waist", func(v *catalogue.Version) { v.Surfaces = append(v.Surfaces, "bed") }, "a chair cannot stand on a bed"},
		{"a chair on a carriage", "levels-waist", func(v *catalogue.Version) { v.Surfaces = append(v.Surfaces, "spring-carriage") }, "a chair cannot stand on a spring carriage"},
	} {
		v := copyOf(t, c.slug)
		assert.NotContains(t, findings(t, v), c.want, "%s: before", c.name)
		v = copyOf(t, c.slug)
		v.Say.Setup.First = append([]string{}, v.Say.Setup.First...)
		c.spoil(v)
		assert.Contains(t, findings(t, v), c.want, c.name)
	}
}

// comfort are the words of what may be done either way: which knee is bent in a curl-up.
var comfort = regexp.MustCompile(`as comfort has it|follows comfort`)

// An exercise without sides asks the same of both: what is one-handed or one-legged is
// done to each side. Angles may differ by 5 degrees (posture noise of two independent
// limbs), an arm that rests by 10, shares by 3 % of body weight, lengths by 2 cm.
func TestWhatHasNoSidesMeasuresAlike(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	differs := func(v *catalogue.Version, q catalogue.Quantities) []string {
		var out []string
		mirrored := q.Mirror()
		for name, p := range q {
			limit := 5.0
			switch {
			case strings.HasPrefix(name, "share."), strings.Contains(name, "-load."), strings.HasPrefix(name, "kneeling."):
				limit = 0.03
			case strings.HasPrefix(name, "overhead."):
				limit = 10
			case strings.HasPrefix(name, "hip.across."):
				limit = 2
			case strings.HasPrefix(name, "strap."), strings.HasPrefix(name, "needs.side."):
				limit = 0
			}
			if d := math.Abs(p.Value - mirrored[name].Value); d > limit {
				out = append(out, name)
			}
		}
		return out
	}
	for _, v := range cat.Versions {
		if v.SideMode != "none" {
			continue
		}
		if comfort.MatchString(strings.Join(v.Say.Setup.First, " ")) {
			assert.NotEmpty(t, differs(v, v.Quantities), "%s: nothing is left to comfort", v.Slug)
			left, right := v.Side(body.Left, v.Quantities), v.Side(body.Right, v.Quantities)
			assert.Empty(t, differs(v, left), "%s: judged on one side only", v.Slug)
			assert.Equal(t, left, right, v.Slug)
			continue
		}
		assert.Empty(t, differs(v, v.Quantities), v.Slug)
		for i := range v.Eases {
			if strings.Contains(v.Eases[i].Name, "one hand") {
				continue // the hold is where the counter is
			}
			assert.Empty(t, differs(v, v.Eases[i].Quantities), "%s/%s", v.Slug, v.Eases[i].Slug)
		}
	}
	for _, slug := range []string{"hip-hinge-dowel", "band-sit-back"} {
		v, _ := cat.Version(slug)
		assert.Equal(t, trade.Each, v.SideMode, slug)
		assert.NotEmpty(t, differs(v, v.Quantities), "%s: the test can fail", slug)
	}
}

// What is said to hang, to reach or to tilt does: an author does not come to rest at a
// limit. Degrees; common practice.
func TestPosesDoWhatTheyAreCalledFor(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	for _, c := range []struct {
		slug, quantity string
		least          float64
	}{
		{"roll-down-standing", "neck.flexion", 45}, {"stretch-forward", "neck.flexion", 45}, {"cat-neutral", "neck.flexion", 45}, {"cat-cow", "neck.flexion", 45}, {"neck-half-circle", "neck.flexion", 45},
		{"carry-tilt", "trunk.side-bend", 12}, {"band-side-tilt", "trunk.side-bend", 12}, {"palms-turn", "lumbar.rotation", 5}, {"lunge-turn", "lumbar.rotation", 5},
		{"lunge-turn", "share.foot.right", 0.15}, {"side-sway", "share.foot.right", 0.75}, {"strap-side-lean", "share.hand.left", 0.1}, {"press-half-kneel", "share.foot.right", 0.15},
	} {
		v, _ := cat.Version(c.slug)
		assert.GreaterOrEqual(t, v.Quantities[c.quantity].Value+1e-9, c.least, "%s %s", c.slug, c.quantity)
	}
}
