package safety_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// A limits file with a mistake is refused with the place of the mistake.
func TestLimitsFileMistakes(t *testing.T) {
	for file, want := range map[string]string{
		"conditions: [{code: a, limits: [{quantity: lumbar.flexion, max: 3}]}]":                   "a: a limit needs quantity, reason and source",
		"conditions: [{code: a, limits: [{quantity: moment, share: 0.5, reason: r, source: s}]}]": "moment has no normal range",
		"conditions: []":                     "clearing needs",
		"conditions: [{code: a, limit: []}]": "field limit not found",
		"conditions: [{code: a, limits: [{quantity: lumbar.flexion, max: many, reason: r, source: s}]}]": "line 1",
	} {
		_, err := safety.ParseRules([]byte(file), words(t))
		assert.ErrorContains(t, err, want)
		assert.ErrorContains(t, err, "limits.yaml")
	}
}

// Every code of the format has a rule, and every quantity a limit names exists in the
// catalogue: a misspelt one would never be crossed.
func TestEveryCodeIsComputed(t *testing.T) {
	rules, cat := load(t)
	never := []string{"declared.impact", "declared.fast-breathing", "declared.spring-medium", "declared.spring-heavy"} // no version declares them yet
	for _, r := range rules.Conditions {
		assert.NotEmpty(t, r.Name, r.Code)
		for _, l := range r.Limits {
			for _, q := range []string{"left", "right"} {
				name := l.Quantity
				for _, brace := range []string{"{side}", "{other}", "{convex}", "{concave}", "{free}"} {
					name = strings.ReplaceAll(name, brace, q)
				}
				name = strings.ReplaceAll(name, "{region}", "lumbar")
				if !slices.Contains(never, name) {
					assert.GreaterOrEqual(t, cat.Table().ID(name), 0, "%s: %s", r.Code, l.Quantity)
				}
			}
		}
	}
	assert.Len(t, rules.Conditions, 56)
	for _, f := range rules.RedFlags {
		assert.NotEmpty(t, f.Ask, f.Code)
		assert.NotEmpty(t, rules.Act(f.Code), "what to do about %s", f.Code)
		assert.NotEmpty(t, rules.Clearers(f.Code), f.Code)
	}
	for _, s := range rules.Clearing.Signs {
		assert.NotEmpty(t, rules.Act(s.Code), "what to do about %s", s.Code)
	}
	assert.Len(t, rules.Cautions, 4)
}

// The numbers an instructor would check first, straight from the safety rules.
func TestLimitsInForce(t *testing.T) {
	rules, cat := load(t)
	for _, c := range []struct {
		condition intake.Condition
		quantity  string
		max       float64
	}{
		{intake.Condition{Code: "osteoporosis"}, "trunk.flexion.loaded", 10},
		{intake.Condition{Code: "osteoporosis"}, "trunk.flexion.unloaded", 15},
		{intake.Condition{Code: "osteoporosis", School: "graded", Fracture: ptr(false)}, "trunk.flexion.unloaded", 40},
		{intake.Condition{Code: "osteoporosis", School: "graded", Fracture: ptr(true)}, "trunk.flexion.unloaded", 15},
		{intake.Condition{Code: "osteoporosis"}, "trunk.rotation.loaded", 5},
		{intake.Condition{Code: "osteoporosis"}, "bridge-rise", 10},
		{intake.Condition{Code: "disc-sciatica", Preference: "extension"}, "lumbar.flexion.loaded", 10},
		{intake.Condition{Code: "disc-sciatica", Preference: "flexion"}, "lumbar.flexion.unloaded", 25},
		{intake.Condition{Code: "disc-sciatica"}, "lumbar.flexion.unloaded", 15},
		{intake.Condition{Code: "disc-sciatica"}, "lumbar.extension.loaded", 5},
		{intake.Condition{Code: "disc-sciatica"}, "nerve-tension.left", 70},
		{intake.Condition{Code: "stenosis"}, "lumbar.extension.unloaded", 7},
		{intake.Condition{Code: "osteopenia"}, "trunk.flexion.unloaded", 40},
		{intake.Condition{Code: "osteopenia"}, "trunk.rotation.loaded", 5},
		{intake.Condition{Code: "osteopenia", Fracture: ptr(true)}, "trunk.flexion.unloaded", 15},
		{intake.Condition{Code: "osteoporosis", Fracture: ptr(true)}, "weight", 2},
		{intake.Condition{Code: "spondylolisthesis", Grade: 1}, "lumbar.extension", 5},
		{intake.Condition{Code: "sij-pain"}, "thighs-apart", 60},
		{intake.Condition{Code: "sij-pain"}, "hip.difference", 100},
		{intake.Condition{Code: "hypermobility"}, "thoracic.rotation", 27.75},
		{intake.Condition{Code: "deconditioned"}, "effort", 4},
		{intake.Condition{Code: "knee-pain", Side: "left"}, "kneeling.left", 0.15},
		{intake.Condition{Code: "knee-replacement"}, "knee.loaded-flexion.right", 90},
		{intake.Condition{Code: "knee-pain", Side: "left"}, "knee.loaded-flexion.left", 100},
		{intake.Condition{Code: "knee-pain", Side: "left"}, "knee.free-flexion.left", 90},
		{intake.Condition{Code: "disc-sciatica", Irritability: "high"}, "nerve-tension.right", 45},
		{intake.Condition{Code: "disc-sciatica", Irritability: "high"}, "effort", 4},
		{intake.Condition{Code: "disc-sciatica"}, "bend-and-turn", 10},
		{intake.Condition{Code: "hip-replacement", Side: "left"}, "hip-and-back.left", 100},
		{intake.Condition{Code: "hip-replacement", Side: "left", Approach: "anterior"}, "hip.extension.left", 10},
		{intake.Condition{Code: "spinal-fusion", Region: "cervical"}, "effort", 6},
		{intake.Condition{Code: "spinal-fusion", Region: "lumbar"}, "head-lift.thoracic", 15},
		{intake.Condition{Code: "vertigo"}, "standing.one-foot", 0},
		{intake.Condition{Code: "pregnancy", Weeks: 20}, "hip.both", 100},
		{intake.Condition{Code: "pregnancy", Weeks: 20}, "bend.heavy", 20},
		{intake.Condition{Code: "low-back-pain", Phase: "acute"}, "moment.all-fours", 0.7},
		{intake.Condition{Code: "low-back-pain", Phase: "acute"}, "moment.rising", 1.2},
		{intake.Condition{Code: "hip-replacement", Side: "right"}, "hip.flexion.right", 95},
		{intake.Condition{Code: "high-blood-pressure"}, "head-low", 15},
		{intake.Condition{Code: "reflux"}, "pelvis-above-chest", 10},
		{intake.Condition{Code: "pregnancy"}, "needs.prone", 0},
		{intake.Condition{Code: "diastasis"}, "toe-plank", 0},
		{intake.Condition{Code: "spinal-fusion", Region: "lumbar"}, "lumbar.flexion", 10},
		{intake.Condition{Code: "spinal-fusion", Region: "lumbar"}, "lumbar.rotation", 3},
		{intake.Condition{Code: "spinal-fusion"}, "neck.flexion", 9},
		{intake.Condition{Code: "scoliosis"}, "trunk.rotation.loaded", 10},
		{intake.Condition{Code: "low-back-pain", Phase: "acute"}, "moment.unaided", 0.6},
		{intake.Condition{Code: "low-back-pain"}, "lumbar.flexion", 25},
		{intake.Condition{Code: "low-back-pain", Phase: "persistent", ProvokedBy: []string{"extension"}}, "lumbar.extension", 3.75},
		{intake.Condition{Code: "wrist-pain", Side: "left"}, "wrist-load.left", 0.1},
		{intake.Condition{Code: "wrist-pain"}, "wrist-load.right", 0.1},
		{intake.Condition{Code: "shoulder-pain", Side: "right"}, "overhead.right", 120},
		{intake.Condition{Code: "neck-pain"}, "neck.rotation", 30},
		{intake.Condition{Code: "falls-risk"}, "standing.free", 0},
	} {
		cl := able()
		cl.Conditions = []intake.Condition{c.condition}
		s, err := safety.NewScreener(rules, cat, cl, today)
		require.NoError(t, err)
		got, who, limited := s.Allowed(c.quantity)
		assert.True(t, limited, "%+v %s", c.condition, c.quantity)
		assert.InDelta(t, c.max, got, 1e-9, "%+v %s", c.condition, c.quantity)
		assert.Equal(t, c.condition.Code, who)
	}
}

func TestOneSidedLimitsLeaveTheOtherSideFree(t *testing.T) {
	rules, cat := load(t)
	cl := able()
	cl.Conditions = []intake.Condition{{Code: "wrist-pain", Side: "left"}}
	s, err := safety.NewScreener(rules, cat, cl, today)
	require.NoError(t, err)
	_, _, limited := s.Allowed("wrist-load.right")
	assert.False(t, limited)
}

// Missing details and unconfirmed positions are said, and conflicts are shown.
func TestNotes(t *testing.T) {
	rules, cat := load(t)
	cl := &intake.Client{Conditions: []intake.Condition{{Code: "stenosis"}, {Code: "osteoporosis", Fracture: ptr(false)}, {Code: "wrist-pain"}}}
	s, err := safety.NewScreener(rules, cat, cl, today)
	require.NoError(t, err)
	notes := ""
	for _, n := range s.Notes() {
		notes += n + "\n"
	}
	assert.Contains(t, notes, "Wrist pain: side is not recorded")
	assert.Contains(t, notes, "Not confirmed: getting to the floor (counts as \"no\"), standing without a hold (counts as \"held\"), lying on the back (counts as \"no\")")
	assert.Contains(t, notes, "limits bending and spinal stenosis limits arching")
	assert.Equal(t, []string{"Osteoporosis limits bending and spinal stenosis limits arching: both limits hold.", "Spinal stenosis finds bending comfortable, osteoporosis limits it: the limit holds."}, s.Conflicts())
	for _, r := range s.Screen().Results {
		v, _ := cat.Version(r.Version)
		if v.Quantities["needs.supine"].Value > 0 || v.Quantities["needs.prone"].Value > 0 {
			assert.NotEqual(t, trade.Suits, r.Verdict, "%s needs a position nobody confirmed", r.Version)
		}
	}
}

func TestMissingKitAndSurfaceAreFindings(t *testing.T) {
	rules, cat := load(t)
	cl := able()
	cl.Surfaces, cl.Kit = []trade.Surface{"chair"}, []string{}
	s, err := safety.NewScreener(rules, cat, cl, today)
	require.NoError(t, err)
	sc := s.Screen("bridge", "hip-hinge-dowel", "seated-turn", "dowel-neutral-check")
	quantities := func(slug string) (q []string) {
		r, _ := sc.Result(slug)
		for _, f := range r.Findings {
			q = append(q, f.Quantity)
		}
		return q
	}
	assert.Contains(t, quantities("bridge"), "surface")
	assert.Contains(t, quantities("hip-hinge-dowel"), "kit")
	assert.Empty(t, quantities("seated-turn"))
	for slug, want := range map[string]bool{"dowel-neutral-check": true, "seated-turn": false, "bridge": false} {
		r, _ := sc.Result(slug)
		assert.Equal(t, want, r.OtherKit, slug)
	}
}

// What would suit with other kit suits with everything; for who gets to the floor, what suits
// with everything and is left out would suit with other kit.
func TestOtherKitIsKitAlone(t *testing.T) {
	rules, cat := load(t)
	said := 0
	for _, floor := range []string{"yes", "no"} {
		for _, conditions := range [][]intake.Condition{nil, {{Code: "osteoporosis"}}, {{Code: "neck-pain"}}, {{Code: "falls-risk"}, {Code: "knee-pain"}}} {
			all, poor := able(), able()
			all.Conditions, poor.Conditions = conditions, conditions
			all.Positions["floor"], poor.Positions["floor"] = floor, floor
			poor.Surfaces, poor.Kit = []trade.Surface{"chair", "mat"}, []string{}
			rich, err := safety.NewScreener(rules, cat, all, today)
			require.NoError(t, err)
			bare, err := safety.NewScreener(rules, cat, poor, today)
			require.NoError(t, err)
			with, without := rich.Screen(), bare.Screen()
			for i := range without.Results {
				r := &without.Results[i]
				full, _ := with.Result(r.Version)
				if r.OtherKit {
					said++
					assert.Equal(t, trade.LeaveOut, r.Verdict, r.Version)
					assert.Equal(t, trade.Suits, full.Verdict, "%s, floor %s, %v", r.Version, floor, conditions)
				} else if floor == "yes" {
					assert.False(t, r.Verdict == trade.LeaveOut && full.Verdict == trade.Suits, "%s, %v", r.Version, conditions)
				}
			}
		}
	}
	assert.Positive(t, said)
	c := able()
	c.Surfaces, c.Kit = []trade.Surface{"chair"}, []string{}
	c.Conditions = []intake.Condition{{Code: "stenosis"}}
	for forbids, want := range map[string]bool{"clam": true, "dowel-neutral-check": false} {
		c.Clearances = []intake.Clearance{{Date: today, By: "doctor", Covers: []string{"stenosis"}, Limits: "as discussed", Forbids: []string{forbids}}}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		r, _ := s.Screen("dowel-neutral-check").Result("dowel-neutral-check")
		assert.Equal(t, want, r.OtherKit, "no kit lifts a clinician's word: %s", forbids)
	}
}

// A limits file is read or refused with a reason; what is read can be looked up and changed
// limit by limit, and never holds a value that no comparison can cross.
func FuzzParseRules(f *testing.F) {
	f.Add("conditions:\n- {code: a, name: A, limits: [{quantity: lumbar.flexion.loaded, max: 10, reason: r, source: s}]}")
	f.Add("conditions:\n- {code: a, limits: [{quantity: lumbar.flexion, share: 0.5, reason: r, source: s}, {quantity: effort, max: .nan, reason: r, source: s}]}")
	vocabulary := words(f)
	f.Fuzz(func(t *testing.T, text string) {
		r, err := safety.ParseRules([]byte(text), vocabulary)
		if err != nil {
			return
		}
		for _, c := range r.Conditions {
			for i := range c.Limits {
				l := &c.Limits[i]
				if v := l.Value(); !(v >= 0 && v <= 1e6) || !(l.Share >= 0 && l.Share <= 1) {
					t.Fatalf("%s: %g is no limit", l.Quantity, v)
				}
				if _, _, ok := r.Limit(l.Key(c.Code)); !ok {
					t.Fatalf("%s is not found", l.Key(c.Code))
				}
				if _, aside := r.With(map[string]safety.Change{l.Key(c.Code): {Value: math.NaN()}}); aside == nil {
					t.Fatal("NaN is no limit")
				}
			}
		}
	})
}
