package catalogue_test

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/trade"
)

// measured is everything a version's quantities say, as text.
func measured(v *catalogue.Version) string {
	var keys []string
	for k, p := range v.Quantities {
		keys = append(keys, fmt.Sprintf("%s=%.1f", k, p.Value))
	}
	sort.Strings(keys)
	return strings.Join(keys, " ")
}

// Getting into an exercise is measured like the exercise (shared ruling 1): nobody gets onto
// hands and knees, or into a plank on the ground, without both arms and both knees bearing
// weight for a moment, whatever lifts afterwards.
func TestGettingOntoHandsAndKneesIsMeasured(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	seen, once := 0, 0
	for _, v := range cat.Versions {
		if v.Position != "all-fours" {
			continue
		}
		seen++
		once += v.Round()
		for _, side := range []string{"left", "right"} {
			arm := math.Max(v.Quantities["share.hand."+side].Value, v.Quantities["share.forearm."+side].Value)
			assert.Greater(t, arm, 0.05, "%s: %s arm", v.Slug, side)
			assert.Greater(t, v.Quantities["kneeling."+side].Value, 0.05, "%s: %s knee", v.Slug, side)
		}
		for i := range v.Eases {
			q := v.Eases[i].Quantities
			assert.Greater(t, q["share.knee.left"].Value*q["share.knee.right"].Value, 0.0, "%s/%s", v.Slug, v.Eases[i].Slug)
		}
	}
	assert.Greater(t, seen, 25)
	assert.Greater(t, once, 8, "some begin with limbs already lifted")
}

// Two versions that measure alike or read alike say why both exist.
func TestLookalikesGiveAReason(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	bySum, byCue := map[string]*catalogue.Version{}, map[string]*catalogue.Version{}
	reasons := 0
	for _, v := range cat.Versions {
		if v.Same.Version != "" {
			reasons++
			t.Logf("%s is like %s: %s", v.Slug, v.Same.Version, v.Same.Note)
			assert.NotEmpty(t, v.Same.Note, v.Slug)
		}
		explained := func(w *catalogue.Version) bool {
			return w == nil || v.Same.Version == w.Slug || w.Same.Version == v.Slug
		}
		sum := measured(v)
		assert.True(t, explained(bySum[sum]), "%s measures like %v and gives no reason", v.Slug, bySum[sum])
		bySum[sum] = v
		key := strings.ToLower(v.Cues().In + v.Cues().Out + v.Cues().Image)
		assert.True(t, explained(byCue[key]), "%s is said like %v and gives no reason", v.Slug, byCue[key])
		byCue[key] = v
	}
	assert.Positive(t, reasons)
}

// What a posture leans on or holds must be among the surfaces or the kit, so that nobody
// is given an exercise without its chair, wall or band.
func TestWhatPosturesUseIsAskedFor(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	needs := map[string][]string{"chair": {"chair"}, "seat-edge": {"chair"}, "chair-side": {"chair"}, "high-seat": {"chair"}, "sofa": {"sofa"}, "counter": {"counter"}, "table": {"table"},
		"wall": {"wall"}, "wall-back": {"wall"}, "wall-left": {"wall"}, "wall-right": {"wall"}, "bolster": {"bolster"}, "pad-1": {"raised-pad"}, "pad-2": {"raised-pad"},
		"pad-3": {"raised-pad"}, "pad-4": {"raised-pad"}, "ball-top": {"large-ball"}, "pillow": {"pillow"}, "headrest": {"pillow"}, "towel": {"towel"}, "tall-seat": {"chair"}, "armrest": {"chair"}, "footplate": {"spring-carriage"}, "box": {"spring-carriage"}}
	for _, v := range cat.Versions {
		has := func(words ...string) bool {
			for _, w := range words {
				if catalogue.Has(v.Surfaces, trade.Surface(w)) || catalogue.Has(v.WithHelp(), w) {
					return true
				}
			}
			return false
		}
		for _, p := range v.Solved.Phases {
			for _, c := range p.Contacts {
				if want := needs[c.Surface]; want != nil {
					assert.True(t, has(want...), "%s %s stands on %s", v.Slug, p.Name, c.Surface)
				}
			}
			for _, h := range p.Props {
				want := h.Kind
				if want == "spring" || has("spring-carriage") {
					want = "spring-carriage"
				}
				assert.True(t, has(want), "%s %s holds a %s", v.Slug, p.Name, h.Kind)
			}
		}
	}
}

// What an ease leans on, its version does not, is asked for by the ease.
func TestWhatEasesUseIsAskedFor(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	asks := map[string][]string{"counter": {"counter"}, "cushions": {"cushion"}, "wedge": {"cushion", "pillow"}, "pillow": {"pillow"}, "rolled": {"towel"}, "towel": {"towel", "pillow"}, "pad": {"cushion", "raised-pad"}, "wall": {"wall"}, "chair": {"chair"}, "sofa": {"sofa"}}
	kinds := func(s *catalogue.Solved) map[string]bool {
		out := map[string]bool{}
		for _, p := range s.Phases {
			for _, c := range p.Contacts {
				out[body.Surfaces[c.Surface].Kind] = true
			}
		}
		return out
	}
	more := 0
	for _, v := range cat.Versions {
		own := kinds(v.Solved)
		for i := range v.Eases {
			e := &v.Eases[i]
			for kind := range kinds(e.Solved) {
				if own[kind] || kind == "floor" {
					continue
				}
				more++
				require.NotNil(t, asks[kind], "%s/%s stands on a %s", v.Slug, e.Slug, kind)
				kit := append(slices.Clone(e.Kit), e.Also...)
				assert.True(t, slices.ContainsFunc(asks[kind], func(k string) bool { return slices.Contains(kit, k) }), "%s/%s needs a %s, asks for %v", v.Slug, e.Slug, kind, kit)
			}
		}
	}
	assert.Greater(t, more, 50)
}

// Normal joint ranges are never exceeded, in any phase or on the way.
func TestJointRangesAreKept(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	const slack = 1.0 // a path may pass the edge by twice the validator's half degree
	for _, v := range cat.Versions {
		for _, p := range v.Solved.Phases {
			for _, l := range p.Measures.Side {
				assert.LessOrEqual(t, l.HipFlexion, 120+slack, v.Slug)
				assert.GreaterOrEqual(t, l.HipFlexion, -30-slack, v.Slug)
				assert.LessOrEqual(t, math.Abs(l.HipRotation), 45+slack, v.Slug)
				assert.LessOrEqual(t, l.KneeFlexion, 135+slack, v.Slug)
				assert.GreaterOrEqual(t, l.KneeFlexion, -slack, v.Slug)
				assert.LessOrEqual(t, l.ShoulderElevation, 180+slack, v.Slug)
			}
		}
		for region, r := range body.Ranges {
			for i, d := range []string{"flexion", "extension", "side-bend", "rotation"} {
				assert.LessOrEqual(t, v.Quantities[region+"."+d].Value, r[i]+slack, "%s %s %s", v.Slug, region, d)
			}
		}
	}
}

// Every sided version says which side it is written for by what its figure does.
func TestSidesMeanWhatTheySay(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	q := func(slug string, side body.Side, name string) float64 {
		v, ok := cat.Version(slug)
		require.True(t, ok, slug)
		return v.Side(side, v.Quantities)[name].Value
	}
	for _, c := range []struct {
		slug     string
		quantity string // occurs when the side is left
	}{
		{"side-plank", "needs.side.left"}, {"side-plank-hand", "share.hand.left"}, {"side-leg-hold", "needs.side.right"}, {"inner-thigh-lift", "needs.side.left"},
		{"curve-breathe-arc", "needs.side.right"}, {"curve-side-bend-arc", "needs.side.right"}, {"side-let-down", "needs.side.right"}, {"open-book", "trunk.rotation.left"},
		{"seated-turn", "trunk.rotation.left"}, {"palms-turn", "trunk.rotation.left"}, {"neck-turn", "neck.rotation.left"}, {"one-leg", "share.foot.left"}, {"carry-tilt", "trunk.side-bend.right"},
		{"lunge-turn", "trunk.rotation.left"}, {"saw", "trunk.rotation.left"},
	} {
		left, right := q(c.slug, body.Left, c.quantity), q(c.slug, body.Right, c.quantity)
		assert.Greater(t, left, right+0.02, "%s: %s", c.slug, c.quantity)
	}
	// A curve opens the upper, short side: lying on the left the trunk bends to the left.
	assert.Greater(t, q("curve-breathe-arc", body.Right, "trunk.side-bend.left"), 10.0)
}

// Loads stand in the order a ladder promises: easier rungs ask less of what they train.
func TestLaddersRiseInLoad(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	moment := func(slug string) float64 { v, _ := cat.Version(slug); return v.Quantities["moment"].Value }
	arm := func(slug string) float64 { v, _ := cat.Version(slug); return v.Quantities["arm-load.left"].Value }
	for _, order := range [][]string{
		{"plank-wall", "plank-counter", "plank-sofa", "plank"}, {"plank-sofa-knees", "plank-sofa", "plank"}, {"plank-knees", "plank", "plank-limb-lift"},
		{"squat-half", "squat"}, {"side-plank-sofa-knees", "side-plank-knees", "side-plank"}, {"hundred-chair", "hundred-head-down"},
	} {
		for i := 1; i < len(order); i++ {
			assert.Greater(t, moment(order[i]), moment(order[i-1]), "%s over %s", order[i], order[i-1])
		}
	}
	for _, order := range [][]string{{"plank-wall", "plank-counter", "plank-knees-hand", "plank-hand"}, {"plank-sofa-knees", "plank-knees", "plank"}} {
		for i := 1; i < len(order); i++ {
			assert.Greater(t, arm(order[i]), arm(order[i-1]), "%s over %s", order[i], order[i-1])
		}
	}
	height := func(slug string) float64 { v, _ := cat.Version(slug); return v.Quantities["bridge-rise"].Value }
	assert.Zero(t, height("bridge-propped"), "a propped bridge does not count as a high one")
	assert.Greater(t, height("bridge-one-leg"), 10.0)
	for i := 2; i <= 4; i++ {
		v, _ := cat.Version(fmt.Sprintf("raised-back-%d", i))
		w, _ := cat.Version(fmt.Sprintf("raised-back-%d", i-1))
		assert.Greater(t, v.Quantities["trunk.extension"].Value, w.Quantities["trunk.extension"].Value, "a higher pad opens further")
		assert.Positive(t, v.Quantities["head-lift"].Value, v.Slug)
	}
}

// Words are plain and whole: sentences end, nothing shouts, no trade name slips in.
func TestWordsArePlain(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	sentence := regexp.MustCompile(`^[A-Z0-9].*[.!?]$`)
	for _, v := range cat.Versions {
		for _, s := range append([]string{v.Cues().In, v.Cues().Out, v.Cues().Image}, v.Say.Setup.First...) {
			assert.Regexp(t, sentence, s, v.Slug)
			assert.NotContains(t, s, "!", v.Slug)
			assert.LessOrEqual(t, len(s), 130, "%s: too long to say: %s", v.Slug, s)
		}
		assert.GreaterOrEqual(t, len(v.Say.Setup.First), 1, v.Slug)
		assert.NotEmpty(t, v.Aliases, v.Slug)
		assert.NotRegexp(t, `(?i)®|™`, v.Name, v.Slug)
		if v.Chair.Version != "" {
			w, _ := cat.Version(v.Chair.Version)
			assert.True(t, w.Position == "sitting" || w.Position == "standing", "%s: the chair answer %s is on the floor", v.Slug, w.Slug)
		}
		for _, p := range v.Phases {
			assert.Positive(t, p.Seconds, v.Slug)
		}
	}
}

func TestTheArgumentForATask(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	tasks, err := restbend.Tasks()
	require.NoError(t, err)
	task := func(name string) *catalogue.Task {
		for i := range tasks {
			if tasks[i].Name == name {
				return &tasks[i]
			}
		}
		t.Fatalf("no task %q", name)
		return nil
	}
	won := func(slug, name string) int {
		v, _ := cat.Version(slug)
		return catalogue.Matches(v.Argue(task(name)))
	}
	rise := "rise from a low chair"
	assert.Greater(t, won("sit-to-stand", rise), won("dead-bug", rise), "a lying open chain earns little for a rise")
	assert.Greater(t, won("squat", rise), won("bridge", rise))
	assert.Greater(t, won("one-leg", "stand on one leg to dress"), won("clam", "stand on one leg to dress"))
	assert.Greater(t, won("carry-one-side", "carry the shopping home"), won("side-plank", "carry the shopping home"))
	v, _ := cat.Version("one-leg")
	assert.Equal(t, "one foot", v.Base())
	v, _ = cat.Version("bird-dog")
	assert.Equal(t, "hands and knees", v.Base())
	for _, v := range cat.Versions {
		for i := range tasks {
			points := v.Argue(&tasks[i])
			assert.GreaterOrEqual(t, len(points), 4)
			for _, p := range points {
				assert.NotEmpty(t, p.Say, v.Slug)
			}
		}
	}
	_, err = catalogue.ReadTasks([]byte("- {name: x, aims: [flying]}"))
	assert.ErrorContains(t, err, `unknown aim "flying"`)
	_, err = catalogue.ReadTasks([]byte("- {nme: x}"))
	assert.ErrorContains(t, err, "nme")
}

func TestAlternativesShareAnAim(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	for _, v := range cat.Versions {
		got := cat.Alternatives(v, 3)
		assert.NotEmpty(t, got, v.Slug)
		for _, w := range got {
			assert.NotEqual(t, v.Family, w.Family)
			shared := false
			for _, a := range v.Aims {
				shared = shared || catalogue.Has(w.Aims, a)
			}
			assert.True(t, shared, "%s for %s", w.Slug, v.Slug)
		}
	}
}

// Doses rise along their steps and every version has one for a school that is offered.
func TestDosesRise(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	for _, v := range cat.Versions {
		for _, school := range catalogue.Schools {
			steps, used := v.Steps(school)
			require.NotEmpty(t, steps, "%s %s", v.Slug, school)
			assert.Contains(t, v.Doses, used, v.Slug)
			for i := 1; i < len(steps); i++ {
				assert.GreaterOrEqual(t, steps[i].Seconds(12, v.Sides()), steps[i-1].Seconds(12, v.Sides()), "%s %s step %d", v.Slug, school, i)
			}
			for _, d := range steps {
				assert.NotEmpty(t, d.Words(), v.Slug)
			}
		}
	}
	assert.Contains(t, cat.Presets(), "short-holds")
}

// An exercise done with an ease is the same entry in other postures and with other loads; a
// way in is left out of the round, and eases that are not there are not made up.
func TestEasedVersionsAndRounds(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	together := 0
	for _, v := range cat.Versions {
		assert.Equal(t, v.Round(), v.Next(len(v.Phases)-1), "%s: a round ends where it begins", v.Slug)
		for i := v.Round(); i+1 < len(v.Phases); i++ {
			assert.Equal(t, i+1, v.Next(i), v.Slug)
			assert.False(t, v.Phases[i].Once, "%s: only the first posture is taken once", v.Slug)
		}
		for i := range v.Eases {
			e := &v.Eases[i]
			w, ok := v.Eased(e.Slug)
			require.True(t, ok, "%s/%s", v.Slug, e.Slug)
			assert.Equal(t, v.Slug, w.Slug)
			assert.Len(t, w.Solved.Phases, len(v.Phases))
			assert.True(t, measured(v) != measured(w) || differ(v, w) > 5, "%s/%s changes nothing", v.Slug, e.Slug)
			if e.Together {
				together++
				assert.Less(t, math.Max(w.Quantities["kneeling.left"].Value, w.Quantities["kneeling.right"].Value), 0.15, "%s/%s: the knees stand on the pad", v.Slug, e.Slug)
			}
		}
		_, ok := v.Eased("wings")
		assert.False(t, ok)
	}
	assert.Greater(t, together, 10)
}

// differ is the largest difference of a joint between two ways of doing an exercise, degrees.
func differ(v, w *catalogue.Version) float64 {
	most := 0.0
	for i, p := range v.Solved.Phases {
		a, b := p.State.State(), w.Solved.Phases[i].State.State()
		for k := range a.Q {
			most = math.Max(most, math.Abs(a.Q[k]-b.Q[k])*180/math.Pi)
		}
	}
	return most
}
