package safety_test

import (
	"fmt"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
	"pgregory.net/rapid"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/survey"
	"restbend/core/trade"
)

// A plan that bans everything is a defect too: nobody who may exercise has fewer than twelve
// versions, each position is there unless the condition forbids it, and everybody has leg
// strength, balance and a way to rise from a chair; alone and with any second condition.
func TestEnoughIsLeft(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	rules, cat := load(t)
	forbids := map[string]string{ // read strictly, with no side recorded
		"low-back-pain":    "half-kneeling",                    // acute: both entries there pull hard
		"shoulder-pain":    "all-fours side",                   // weight on the arm, lying on it
		"sij-pain":         "half-kneeling",                    // no side was checked today
		"deconditioned":    "half-kneeling",                    // too hard
		"knee-pain":        "all-fours kneeling half-kneeling", // an ease with a pad
		"knee-replacement": "all-fours kneeling half-kneeling",
		"hip-replacement":  "half-kneeling", // a split, the hip bent deep
		"pregnancy":        "prone",

		"inflammatory-arthritis": "long-sitting half-kneeling", // sitting on the floor is too hard in a flare
		"stroke":                 "all-fours half-kneeling",    // a weak shoulder, which side nobody recorded
		"cancer-treatment":       "all-fours",                  // a treated arm, likewise
		"breathlessness":         "prone half-kneeling",        // takes the breath
		"heart-condition":        "prone half-kneeling",        // whether flat lying does, nobody recorded
		"lateral-hip-pain":       "side",                       // not on the sore side, which nobody recorded
		"frozen-shoulder":        "side all-fours",             // likewise, and a stiff arm carries nothing on the way
		"hernia":                 "half-kneeling",              // both entries there are hard
		"pelvic-floor":           "half-kneeling",
		"multiple-sclerosis":     "half-kneeling",
		"knee-osteoarthritis":    "half-kneeling",
		"hip-osteoarthritis":     "half-kneeling", // a split, the hip bent deep
		"hip-fracture":           "half-kneeling",
		"rib-fracture":           "prone side", // not on the ribs
	}
	second := map[string]string{"wrist-pain": "all-fours", "spinal-fusion": "prone", "bone-cancer-risk": "prone", "inflammatory-arthritis": "prone side all-fours kneeling", "hip-replacement": "long-sitting"} // little with it alone: fists or forearms, a high seat, no pillow that arches
	all := []string{"supine", "prone", "side", "all-fours", "kneeling", "half-kneeling", "long-sitting", "sitting", "standing"}
	for i, a := range rules.Conditions {
		for _, b := range append([]safety.Rule{{}}, rules.Conditions[i+1:]...) {
			codes := []string{a.Code}
			if b.Code != "" {
				codes = append(codes, b.Code)
			}
			left, err := survey.LeftWith(rules, cat, today, codes...)
			require.NoError(t, err)
			assert.GreaterOrEqual(t, left.Suits, survey.Enough, left)
			assert.NotEmpty(t, left.Rise, left)
			assert.Positive(t, left.Aims["leg-strength"], left)
			assert.Positive(t, left.Aims["balance"], left)
			for _, position := range all {
				allowed := strings.Contains(" "+forbids[a.Code]+" "+forbids[b.Code]+" ", " "+position+" ") || b.Code != "" && (position == "half-kneeling" || slices.Contains(strings.Fields(second[a.Code]+" "+second[b.Code]), position))
				if !allowed {
					assert.Positive(t, left.At[position]+left.Eased[position], "%s: %s", position, left)
				}
			}
		}
	}
}

// Every number of the limits file is held by a version made for it: at the number and just
// below it suits, just above it does not.
func TestEveryNumberOfTheLimits(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	rules, cat := load(t)
	base, ok := cat.Version("low-breath-chair")
	require.True(t, ok)
	numbers := 0
	for _, rule := range rules.Conditions {
		for i := range rule.Limits {
			l := &rule.Limits[i]
			if l.Watch || l.Repeated {
				continue
			}
			key := l.Key(rule.Code)
			c := able()
			c.Conditions = []intake.Condition{detailed(rule.Code, l.When)}
			if l.Lacks != nil {
				c.Kit = slices.DeleteFunc(slices.Clone(catalogue.Kit), func(k string) bool { return slices.Contains(l.Lacks, k) })
			}
			c.Today.SIJSide = map[string]trade.Side{"true": trade.Left}[l.When["sij_checked"]]
			if other := l.When["with"]; other != "" {
				c.Conditions = append(c.Conditions, detailed(other, nil))
			}
			quantity := strings.NewReplacer("{side}", "left", "{other}", "right", "{convex}", "left", "{concave}", "right", "{free}", "right", "{region}", "lumbar").Replace(l.Quantity)
			bare, err := safety.NewScreener(rules, cat, c, today)
			require.NoError(t, err)
			most, _, limited := bare.Allowed(quantity)
			require.True(t, limited, "%s does not hold for %+v", key, c.Conditions)
			own := func(value float64) *catalogue.Version {
				v := *base
				v.Slug, v.Quantities = fmt.Sprintf("made-%g", value), catalogue.Quantities{quantity: {Value: value, Phase: "made"}}
				return &v
			}
			step := 0.02
			if l.Unit() == "" {
				step = 1
			}
			below, at, above := own(math.Max(0, most-step)), own(most), own(math.Max(most+step, 5+step)) // an angle under load is posture noise to 5
			if !strings.HasSuffix(quantity, ".loaded") {
				above = own(most + step)
			}
			s, err := safety.NewScreener(rules, cat.With([]*catalogue.Version{below, at, above}), c, today)
			require.NoError(t, err)
			sc := s.Screen()
			finding := func(v *catalogue.Version) bool {
				r, ok := sc.Result(v.Slug)
				require.True(t, ok, v.Slug)
				return slices.ContainsFunc(r.Findings, func(f safety.Finding) bool { return f.Quantity == quantity && f.Condition == rule.Code })
			}
			assert.False(t, finding(below), "%s below %g", key, most)
			assert.False(t, finding(at), "%s at %g", key, most)
			assert.True(t, finding(above), "%s above %g", key, most)
			numbers++
		}
	}
	assert.Greater(t, numbers, 180)
	t.Log(numbers, "numbers")
}

// detailed is a condition on the left whose details are those a limit asks for, the others as
// loose as they can be recorded.
func detailed(code string, when map[string]string) intake.Condition {
	k := intake.Condition{Code: code, Side: trade.Left, Convex: trade.Left, Region: "lumbar", Phase: "persistent", School: "graded", Fracture: ptr(false), Approach: "lateral", Grade: 1, Degrees: 12}
	k.Date = today.AddDays(-7 * 80)
	if code == intake.Pregnancy {
		k.Date, k.Due = trade.Day{}, today.AddDays(7*30)
	}
	rules := theRules()
	details := map[string]any{}
	whens := []map[string]string{}
	for _, l := range rule(rules, code).Limits {
		whens = append(whens, l.When)
	}
	for _, ask := range rule(rules, code).Asks { // the answer that no limit asks for
		if d, _ := rules.Detail(ask, code); d.Kind == "yes" && ask != "vertebral_fracture" {
			details[ask] = slices.ContainsFunc(whens, func(w map[string]string) bool { return w[ask] == "false" })
		}
	}
	for name, want := range when {
		switch d, _ := rules.Detail(name, code); {
		case name == "weeks_from":
			k.Due = today.AddDays(7 * 5)
		case name == "weeks_under":
			weeks, _ := strconv.Atoi(want)
			details["date"] = today.AddDays(-7 * (weeks - 2)).String()
		case name == "provoked_by":
			k.ProvokedBy = []string{want}
		case d.Kind == "yes":
			details[name] = want == "true"
		case d.Kind == "several":
			details[name] = []any{want}
		case d.Kind == "choice":
			details[name] = want
		}
	}
	k, err := k.With(details)
	if err != nil {
		panic(err)
	}
	return k
}

// Every rung that suits although an easier one is out stands in a file with its reason, and none
// is a matter of effort or of something the harder one has as much of (shared ruling 34).
func TestInversionsHaveReasons(t *testing.T) {
	rules, cat := load(t)
	all, err := survey.AllInversions(rules, cat, today)
	require.NoError(t, err)
	data, err := os.ReadFile("testdata/inversions.yaml")
	require.NoError(t, err)
	var reasons map[string]string
	require.NoError(t, yaml.Unmarshal(data, &reasons))
	found := map[string]bool{}
	for _, i := range all {
		found[i.Key()] = true
		assert.False(t, i.Wrong(), i)
		assert.NotEmpty(t, reasons[i.Key()], "no reason: %s", i)
	}
	for key := range reasons {
		assert.True(t, found[key], "no longer found: %s", key)
	}
}

// The same for clients with several conditions, sides and details: whatever they add up to, a
// harder rung is let in only for what it measures less of.
func TestNoHarderRungSuitsByEffort(t *testing.T) {
	rules, cat := load(t)
	rapid.Check(t, func(t *rapid.T) {
		s, err := safety.NewScreener(rules, cat, client(t, 3), today)
		require.NoError(t, err)
		for _, i := range survey.Inversions(s, cat) {
			if i.Wrong() {
				t.Fatal(i)
			}
		}
	})
}

func TestWhichInversionsAreWrong(t *testing.T) {
	for _, row := range []struct {
		why  []survey.Crossed
		want bool
	}{
		{[]survey.Crossed{{Quantity: "neck.rotation", Easier: 34, Harder: 20, Limit: 30}}, false},
		{[]survey.Crossed{{Quantity: "neck.rotation", Easier: 34, Harder: 34, Limit: 30}}, true},
		{[]survey.Crossed{{Quantity: "neck.rotation", Easier: 34, Harder: 20, Limit: 30}, {Quantity: "moment", Easier: 1, Harder: 1.2, Limit: 0.9}}, true},
		{[]survey.Crossed{{Quantity: "effort", Easier: 6, Harder: 5, Limit: 5}}, true},
	} {
		assert.Equal(t, row.want, survey.Inversion{Why: row.why}.Wrong(), row.why)
	}
}
