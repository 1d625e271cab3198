package catalogue_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/catalogue"
)

// What an instructor would say of each version, as a sentence about its measurement. The
// numbers are limits of the trade's safety page or plain sense, never the model's output.
func TestFactsOfTheCatalogue(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	const never = 0.0
	for _, c := range []struct {
		slug, quantity string
		least, most    float64
		because        string
	}{
		{"plank-wall", "wrist-load.left", 0.03, 0.10, "a wall takes little through the wrist"},
		{"plank-counter", "wrist-load.left", 0.10, 0.25, "a counter takes more than a tenth"},
		{"plank", "wrist-load.left", never, 0.01, "forearms spare the wrist"},
		{"plank-hand", "arm-load.left", 0.25, 0.40, "about a third of body weight on each hand"},
		{"plank-shoulder-tap", "arm-load.left", 0.45, 0.75, "one hand carries both shares"},
		{"bear-hover", "arm-load.left", 0.2, 0.4, "hands and toes share"},
		{"side-plank", "arm-load.left", 0.4, 0.7, "one forearm carries the upper body"},
		{"bird-dog-sweep", "thoracic.flexion", never, 5, "the spine stays still as the knee comes under"},
		{"long-spine-wall", "standing.free", 1, 1, "a wall at the back is not a hold"},
		{"hip-circle-standing", "standing.free", never, never, "a hand holds"},
		{"heel-raise-one", "standing.free", never, never, "a hand holds"},
		{"one-leg-eyes-closed", "standing.free", never, never, "never without a hold"},
		{"one-leg-eyes-closed", "declared.vision-off", 1, 1, "the eyes are closed"},
		{"one-leg-head-turns", "declared.head-turns", 1, 1, "the head turns"},
		{"swim", "quick", 1, 1, "it beats"},
		{"spring-footwork", "declared.spring-light", 1, 1, "a light spring"},
		{"curl-up-neck-held", "head-lift", 1, 1, "a held head still counts as lifted"},
		{"curl-up-neck-held", "head-lift.unsupported", never, never, "the hands carry it"},
		{"curl-up-two-hands-under", "head-lift.unsupported", 1, 1, "nothing carries it"},
		{"hundred-head-down", "head-lift", never, never, "the head stays down"},
		{"hundred-head-held", "head-lift.unsupported", never, never, "one hand carries it"},
		{"hundred-head-up", "head-lift.thoracic", 20, 30, "the blades are off the floor"},
		{"prone-rest", "needs.prone", 1, 1, "it lies on the front"},
		{"open-book", "needs.supine", never, never, "it lies on the side"},
		{"open-book", "hip.flexion.left", 80, 100, "knees at hip height, not lower"},
		{"knee-hug-both", "lumbar.flexion", 30, 50, "the low back rounds"},
		{"pelvic-curl-low", "lumbar.flexion", 12, 25, "only the low back leaves the floor"},
		{"cat-neutral", "lumbar.extension", never, 3, "never past level"},
		{"cow-neutral-chair", "lumbar.flexion", never, 3, "never past level"},
		{"seated-arch-neutral", "lumbar.flexion", never, 3, "never past level"},
		{"turn-arms-only", "trunk.rotation", never, 3, "the spine faces front"},
		{"anti-rotation-press", "trunk.rotation", never, 3, "nothing turns"},
		{"press-half-kneel", "trunk.rotation", never, 3, "nothing turns"},
		{"hip-hinge", "trunk.flexion", never, 5, "the back stays flat"},
		{"flat-back-dive", "trunk.flexion", never, 5, "the back stays flat"},
		{"lean-back-chair", "trunk.flexion", never, 5, "the back stays long"},
		{"lean-back-floor", "trunk.flexion", never, 5, "the back stays long"},
		{"hinge-forward-flat", "trunk.flexion", never, 5, "the back stays flat"},
		{"roll-down-half", "trunk.flexion", 30, 80, "the rounded one of the pair"},
		{"roll-down-standing", "trunk.flexion", 40, 80, "bone by bone"},
		{"stretch-forward", "nerve-tension.left", 70, 120, "straight legs and a bent trunk pull the nerve"},
		{"staff-sit", "nerve-tension.left", 70, 120, "straight legs under an upright trunk"},
		{"hinge-forward-flat", "nerve-tension.left", never, 70, "the knees bend as the back needs"},
		{"squat", "knee.loaded-flexion.left", 80, 100, "thighs near level"},
		{"squat-half", "knee.loaded-flexion.left", 40, 80, "half way"},
		{"lunge-turn", "thighs-apart", 60, 140, "a deep lunge"},
		{"carry-tilt", "trunk.side-bend", 5, 20, "a small tilt"},
		{"carry-one-side", "trunk.side-bend", never, 3, "the breastbone stays central"},
		{"band-side-tilt", "trunk.side-bend", 5, 20, "from the belt up"},
		{"reset-sweep-standing", "overhead.left", 120, 180, "arms rise overhead"},
		{"blade-slide-wall", "overhead.left", never, 120, "below overhead"},
		{"arm-circles-seated", "overhead.left", never, 120, "a little below shoulder height"},
		{"bridge-propped", "bridge-rise", never, never, "the upper back is raised with it"},
		{"bridge-march", "one-leg-bridge", 1, 1, "one foot carries the pelvis"},
		{"bridge-one-leg", "one-leg-bridge", 1, 1, "one foot carries the pelvis"},
		{"levels-waist", "one-leg-bridge", never, never, "both heels on the chair"},
		{"saw", "needs.floor-sit", 1, 1, "upright on the floor"},
		{"seated-turn", "needs.floor-sit", never, never, "on a chair"},
		{"press-half-kneel", "needs.kneel", 1, 1, "one knee is down"},
		{"thoracic-bench", "needs.kneel", 1, 1, "on the knees"},
		{"side-plank-knees-straight", "share.hand.left", 0.3, 0.6, "a straight arm carries"},
		{"curve-breathe-arc", "trunk.side-bend", 10, 40, "draped over the bolster"},
		{"side-let-down", "trunk.side-bend", never, 5, "a float, not a bend"},
		{"leg-circle", "hip.adduction.right", 1, 15, "the circle comes to the midline, small"},
		{"neck-half-circle", "neck.extension", never, 3, "the head never goes back"},
		{"neck-turn", "neck.rotation", 30, 60, "look over the shoulder"},
	} {
		v, ok := cat.Version(c.slug)
		require.True(t, ok, c.slug)
		got := v.Quantities[c.quantity].Value
		assert.GreaterOrEqual(t, got, c.least-1e-9, "%s %s: %s", c.slug, c.quantity, c.because)
		assert.LessOrEqual(t, got, c.most+1e-9, "%s %s: %s", c.slug, c.quantity, c.because)
	}
}

// Effort follows the rubric: breath is 1, full planks are 7 and more, standing balance
// at least 4, and no chair or bed-friendly rest is hard.
func TestEffortFollowsTheRubric(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	for slug, want := range map[string][2]int{
		"side-rib-breath-supine": {1, 1}, "prone-rest": {1, 1}, "spine-wave": {1, 1}, "low-breath-chair": {1, 1}, "neck-tilt": {1, 2}, "clock-12-6": {2, 2}, "clock-chair": {2, 2},
		"deep-core-march": {3, 3}, "side-balance": {3, 4}, "one-leg-hover": {4, 4}, "knee-lift-held": {4, 4}, "heel-raise": {4, 4}, "lean-back-chair": {4, 4}, "bear-hover": {5, 6},
		"squat-half": {5, 5}, "side-plank-knees-straight": {6, 6}, "plank-shoulder-tap-knees": {6, 7}, "side-plank": {7, 8}, "plank": {8, 8}, "bridge-one-leg": {7, 8},
		"side-plank-leg-up": {8, 9}, "plank-limb-lift": {9, 9}, "plank-up-down": {9, 10}, "plank-ball": {9, 10}, "bear-walk": {8, 9},
	} {
		v, ok := cat.Version(slug)
		require.True(t, ok, slug)
		assert.GreaterOrEqual(t, v.Effort, want[0], slug)
		assert.LessOrEqual(t, v.Effort, want[1], slug)
	}
	for _, f := range cat.Families {
		for _, br := range f.Branches {
			last := 0
			for _, slug := range br {
				v, _ := cat.Version(slug)
				if !f.Set {
					assert.GreaterOrEqual(t, v.Effort, last, "%s is easier than the rung before", slug)
				}
				last = v.Effort
			}
		}
	}
}

// Every floor version says what it becomes on a bed and on a chair; every sided one what
// left means and what is compared; every load that can be set names its setting.
func TestAnswersAreGiven(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	settings := map[string]string{"band": "band", "dumbbell": "weight_kg", "raised-pad": "pad_level", "spring-carriage": "spring", "strap": "anchor_cm", "bolster": "surface_cm"}
	for _, v := range cat.Versions {
		assert.NotEmpty(t, v.Bed.Note, v.Slug)
		assert.NotEmpty(t, v.Chair.Note, v.Slug)
		if v.SideMode != "none" {
			assert.NotEmpty(t, v.SideMeans, v.Slug)
			assert.NotEmpty(t, v.Compares, v.Slug)
		}
		for _, k := range v.Kit {
			if want := settings[k]; want != "" {
				assert.Contains(t, v.Settings, want, "%s uses a %s", v.Slug, k)
			}
		}
		for _, d := range v.Declared {
			if d == "breath-hold-risk" {
				assert.GreaterOrEqual(t, v.Effort, 4, "%s: only hard work risks the breath", v.Slug)
			}
		}
		assert.GreaterOrEqual(t, len(v.Faults), 2, v.Slug)
		assert.GreaterOrEqual(t, len(v.Say.Stop), 1, v.Slug)
	}
}

// Nothing of the catalogue is quicker than it says: a phase that is gone into too fast is a
// mistake of its seconds.
func TestNothingIsQuickUnsaid(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	for _, v := range cat.Versions {
		all := []catalogue.Quantities{v.Quantities}
		for i := range v.Eases {
			all = append(all, v.Eases[i].Quantities)
		}
		for _, on := range v.On {
			all = append(all, on.Quantities)
		}
		for _, q := range all {
			if len(v.Phases) > 1 {
				assert.Positive(t, q["speed"].Value, v.Slug)
			}
			if !catalogue.Has(v.Declared, "quick") {
				assert.Zero(t, q["quick"].Value, "%s: %+v, joint %.0f, head %.0f degrees a second", v.Slug, q["quick"], q["speed"].Value, q["head-speed"].Value)
			}
		}
	}
}

// A limb rests at the end of its range where a posture is held long, or all the time; passing
// through is none.
func TestALimbRestsAtTheEndOfItsRange(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	old, _ := cat.Version("knee-hug-both")
	attached := func(change func(*catalogue.Version)) float64 {
		v := *old
		v.Phases = append([]catalogue.Phase(nil), old.Phases...)
		change(&v)
		v.Attach(old.Solved)
		return v.Quantities["end-range-limb.left"].Value
	}
	assert.Positive(t, attached(func(*catalogue.Version) {}))
	assert.Zero(t, attached(func(v *catalogue.Version) {
		for i := range v.Phases {
			v.Phases[i].Held = false
		}
	}), "not held")
	assert.Zero(t, attached(func(v *catalogue.Version) { v.Doses = nil }), "held for a moment")
	all, _ := cat.Version("raised-back-1") // arms behind the head from first to last
	assert.Positive(t, all.Quantities["end-range-limb.left"].Value)
}
