package safety_test

import (
	"os"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// delivered is the catalogue as it is delivered, read once: no test may change it.
var delivered = sync.OnceValues(restbend.Catalogue)

var today = trade.On(2026, 11, 20)

func load(t testing.TB) (*safety.Rules, *catalogue.Catalogue) {
	t.Helper()
	return loadOnce()
}

var loadOnce = sync.OnceValues(func() (*safety.Rules, *catalogue.Catalogue) {
	rules, err := restbend.Rules()
	if err != nil {
		panic(err)
	}
	cat, err := delivered()
	if err != nil {
		panic(err)
	}
	return rules, cat
})

// able confirms every position and owns everything.
func able() *intake.Client {
	return &intake.Client{
		Positions: map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes",
			"kneel": "yes", "hands": "yes", "floor_sit": "yes", "stand_free": "yes"},
		Surfaces: trade.Surfaces, Kit: catalogue.Kit,
	}
}

// TestVerdictTable holds the computed verdicts against a table written from the trade's
// safety rules before any rule was coded.
func TestVerdictTable(t *testing.T) { verdictTable(t, "testdata/verdicts.yaml", 60) }

// The same for the versions that came with the whole catalogue.
func TestVerdictTableOfTheWholeCatalogue(t *testing.T) {
	verdictTable(t, "testdata/verdicts-catalogue.yaml", 250)
}

// The same for the remaining conditions, sides and clearances.
func TestVerdictTableOfTheRemainingConditions(t *testing.T) {
	verdictTable(t, "testdata/verdicts-conditions.yaml", 250)
}

// The same for the corrected limits.
func TestVerdictTableOfTheCorrectedLimits(t *testing.T) {
	verdictTable(t, "testdata/verdicts-second.yaml", 500)
}

// The same for the other conditions this clientele brings.
func TestVerdictTableOfTheOtherConditions(t *testing.T) {
	verdictTable(t, "testdata/verdicts-whole.yaml", 550)
}

// The same for the corrections of the third look.
func TestVerdictTableOfTheThirdLook(t *testing.T) {
	verdictTable(t, "testdata/verdicts-third.yaml", 700)
}

// A sore knee and a sore wrist need the pad and the fists together; one alone is offered where
// one is enough.
func TestTwoEasesTogetherWhereOneIsNotEnough(t *testing.T) {
	rules, cat := load(t)
	for _, row := range []struct {
		conditions []intake.Condition
		want       []string
	}{
		{[]intake.Condition{{Code: "knee-pain", Side: "left"}}, []string{"knees-padded"}},
		{[]intake.Condition{{Code: "wrist-pain", Side: "right"}}, []string{"fists"}}, // and the forearms where no arm moves
		{[]intake.Condition{{Code: "knee-pain", Side: "left"}, {Code: "wrist-pain", Side: "right"}}, []string{"fists-knees-padded"}},
	} {
		c := able()
		c.Conditions = row.conditions
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		for _, slug := range []string{"bird-dog", "bird-dog-sweep", "cat-cow", "blade-press"} {
			r, _ := s.Screen(slug).Result(slug)
			assert.Equal(t, trade.Adapt, r.Verdict, slug)
			assert.Subset(t, r.Eases, row.want, slug)
			assert.Subset(t, append(row.want, "forearms-cushion", "forearms-cushion-knees-padded"), r.Eases, slug)
			assert.Equal(t, row.want[0], r.EaseFor("each"), slug)
		}
	}
}

func verdictTable(t *testing.T, file string, least int) {
	rules, cat := load(t)
	var table struct {
		Groups []struct {
			Client struct {
				Born       int
				OneLegS    float64 `yaml:"one_leg_s"`
				Conditions []intake.Condition
				Clearances []intake.Clearance
				Positions  map[string]string
				Surfaces   []trade.Surface
				RedFlags   []intake.Flag `yaml:"red_flags"`
				Today      struct {
					Date    trade.Day
					SIJSide trade.Side `yaml:"sij_side"`
				}
			}
			Why      string
			Suits    []string
			Adapt    []string
			LeaveOut []string `yaml:"leave-out"`
			Refer    []string `yaml:"refer-first"`
			NotSuits []string `yaml:"not-suits"`
			Sides    map[string]map[trade.Side]trade.Verdict
		}
	}
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	require.NoError(t, yaml.Unmarshal(data, &table))
	pairs, expectSuits := 0, 0
	for _, g := range table.Groups {
		c := able()
		c.Conditions, c.Clearances, c.RedFlags = g.Client.Conditions, g.Client.Clearances, g.Client.RedFlags
		c.Born, c.OneLegS = g.Client.Born, g.Client.OneLegS
		c.Today = intake.Today{Date: g.Client.Today.Date, SIJSide: g.Client.Today.SIJSide}
		for k, v := range g.Client.Positions {
			c.Positions[k] = v
		}
		if g.Client.Surfaces != nil {
			c.Surfaces = g.Client.Surfaces
			c.Kit = slices.DeleteFunc(slices.Clone(catalogue.Kit), func(k string) bool { return slices.Contains(trade.Surfaces, trade.Surface(k)) })
		}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		sc := s.Screen()
		for slug, sides := range g.Sides {
			r, ok := sc.Result(slug)
			require.True(t, ok, slug)
			for side, want := range sides {
				pairs++
				if want == trade.Suits {
					expectSuits++
				}
				assert.Equal(t, want, r.Sides[side], "%s %s (%s): %+v", slug, side, g.Why, r.Findings)
			}
		}
		for want, slugs := range map[trade.Verdict][]string{trade.Suits: g.Suits, trade.Adapt: g.Adapt, trade.LeaveOut: g.LeaveOut, trade.ReferFirst: g.Refer, "": g.NotSuits} {
			for _, slug := range slugs {
				pairs++
				r, ok := sc.Result(slug)
				if !assert.True(t, ok, slug) {
					continue
				}
				if want == trade.Suits {
					expectSuits++
				}
				if want == "" {
					assert.NotEqual(t, trade.Suits, r.Verdict, "%s for %+v: %s", slug, g.Client, g.Why)
					continue
				}
				assert.Equal(t, want, r.Verdict, "%s (%s): %+v", slug, g.Why, r.Findings)
			}
		}
	}
	assert.GreaterOrEqual(t, pairs, least)
	assert.GreaterOrEqual(t, float64(expectSuits), 0.4*float64(pairs))
}
