package propose_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend/core/catalogue"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/measure"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/plantest"
)

// Sessions of every length keep every rule, for the main kinds of client.
func TestSessionsKeepTheRules(t *testing.T) {
	no := false
	clients := map[string]*intake.Client{
		"no limits":    plantest.Able(),
		"osteoporosis": {Conditions: []intake.Condition{{Code: "osteoporosis", Fracture: &no}}},
		"sciatica":     {Conditions: []intake.Condition{{Code: "disc-sciatica", Preference: "extension"}}},
		"stenosis":     {Conditions: []intake.Condition{{Code: "stenosis"}}},
		"falls":        {Conditions: []intake.Condition{{Code: "falls-risk"}}},
		"acute back":   {Conditions: []intake.Condition{{Code: "low-back-pain", Phase: "acute"}}},
	}
	for name, c := range clients {
		a := plantest.Able()
		a.Conditions = c.Conditions
		for _, minutes := range []int{15, 20, 30, 45} {
			p := plantest.Built(t, a, minutes)
			for _, k := range p.Checks {
				assert.True(t, k.OK, "%s, %d minutes: %s: %s", name, minutes, k.Rule, k.Detail)
			}
			verify(t, p, a)
		}
	}
}

// verify re-scores a plan from the document alone: times, sides, order and safety.
func verify(t require.TestingT, p *plan.Plan, c *intake.Client) {
	r := plantest.For(t, c, nil, p.Minutes)
	now := 0
	seen := map[string]bool{}
	for i, it := range p.Items {
		v, _ := plantest.Cat.Version(it.Version)
		now += it.Transition
		require.Equal(t, now, it.Start, "start of %s", it.Version)
		now += it.Dose.Seconds(c.BreathRate, it.Sides())
		require.Equal(t, now, it.End, "end of %s", it.Version)
		require.NotEmpty(t, it.Why)
		require.False(t, seen[it.Version], "%s twice", it.Version)
		seen[it.Version] = true
		res, _ := r.Screening.Result(it.Version)
		require.True(t, res.Verdict == trade.Suits || res.Verdict == trade.Adapt && res.Use == it.Version, it.Version)
		ease, side, ok := res.As(it.Side) // exactly the one that clears every side that needs it
		require.True(t, ok, it.Version)
		require.Equal(t, ease, it.Ease(), it.Version)
		require.Equal(t, side, it.EasedSide, it.Version)
		require.True(t, r.Screener.Fits(v, it.Doing()), it.Version)
		if v.SideMode == "each" && res.Sides["left"] == res.Sides["right"] {
			require.Equal(t, trade.Each, it.Side)
		}
		if i > 0 && it.Role == "main" && p.Items[i-1].Role == "main" && p.Items[i-1].Position == it.Position {
			require.GreaterOrEqual(t, it.Effort, p.Items[i-1].Effort)
		}
	}
	require.Equal(t, now+p.UpS, p.Seconds)
	require.LessOrEqual(t, p.Seconds, 60*p.Minutes)
}

func TestRandomClientsGetSafeSessions(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	codes := []string{"low-back-pain", "disc-sciatica", "stenosis", "osteoporosis", "scoliosis", "wrist-pain", "shoulder-pain", "neck-pain", "falls-risk", "limited-mobility"}
	made := 0
	rapid.Check(t, func(t *rapid.T) {
		c := plantest.Able()
		for _, k := range rapid.SliceOfNDistinct(rapid.SampledFrom(codes), 0, 3, rapid.ID[string]).Draw(t, "codes") {
			c.Conditions = append(c.Conditions, intake.Condition{Code: k, Degrees: 20, Side: trade.Side(rapid.SampledFrom([]string{"left", "right"}).Draw(t, "side"))})
		}
		c.Positions["floor"] = rapid.SampledFrom([]string{"yes", "help", "no"}).Draw(t, "floor")
		c.Positions["kneel"] = rapid.SampledFrom([]string{"yes", "no"}).Draw(t, "kneel")
		c.EffortCap = rapid.SampledFrom([]int{0, 4, 7}).Draw(t, "cap")
		p, err := propose.Build(plantest.For(t, c, nil, rapid.SampledFrom([]int{15, 30, 45}).Draw(t, "minutes")))
		if err != nil {
			return // refused with a reason
		}
		made++
		verify(t, p, c)
		for _, k := range p.Checks {
			if !k.OK && k.Rule != "time" && k.Rule != "hardest-place" {
				t.Fatalf("%s: %s", k.Rule, k.Detail)
			}
		}
	})
	assert.Greater(t, made, 20)
}

func TestTheSameInputGivesTheSameSession(t *testing.T) {
	assert.Equal(t, plantest.Built(t, plantest.Able(), 30), plantest.Built(t, plantest.Able(), 30))
}

func TestRefused(t *testing.T) {
	for name, c := range map[string]*intake.Client{
		"a red flag":  {RedFlags: []intake.Flag{{Code: "fainting"}}},
		"a fusion":    {Conditions: []intake.Condition{{Code: "spinal-fusion"}}},
		"no position": {Positions: map[string]string{"stand_free": "no"}, Surfaces: []trade.Surface{}},
	} {
		_, err := propose.Build(plantest.For(t, c, nil, 30))
		var refused *facts.Refused
		assert.ErrorAs(t, err, &refused, name)
	}
	for _, m := range []int{1, 61, 0, -3} {
		_, err := propose.Build(plantest.For(t, plantest.Able(), nil, m))
		assert.ErrorContains(t, err, "allowed: 2 to 60")
	}
}

func TestEditsAreRecheckedAtOnce(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	n, before := len(p.Items), p.Seconds
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "remove", Item: n - 1}))
	assert.Len(t, p.Items, n-1)
	assert.Less(t, p.Seconds, before)
	hard := 0
	for i := range p.Items {
		if p.Items[i].Effort > p.Items[hard].Effort {
			hard = i
		}
	}
	for i := hard; i > 0; i-- {
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "up", Item: i}))
	}
	broken := slices.IndexFunc(p.Checks, func(k plan.Check) bool { return k.Rule == "opener-closer" && !k.OK })
	require.GreaterOrEqual(t, broken, 0, "the hardest item first must be reported")
	assert.Contains(t, p.Checks[broken].Items, 0, "where it is broken")
	step := p.Items[0].Step
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "longer", Item: 0}))
	assert.GreaterOrEqual(t, p.Items[0].Step, step)
	swaps := edit.Swaps(r, p, 1)
	require.NotEmpty(t, swaps)
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "swap", Item: 1, With: swaps[0]}))
	assert.Equal(t, swaps[0], p.Items[1].Version)
	assert.ErrorContains(t, edit.Apply(r, p, edit.Edit{Op: "swap", Item: 1, With: "nothing"}), "with:")
	assert.ErrorContains(t, edit.Apply(r, p, edit.Edit{Op: "fly", Item: 1}), "op:")
	assert.ErrorContains(t, edit.Apply(r, p, edit.Edit{Op: "up", Item: 99}), "item:")
}

func TestAnUnsafeSwapIsRefusedAndAStalePlanMended(t *testing.T) {
	p := plantest.Built(t, plantest.Able(), 30)
	c := plantest.Able()
	c.Conditions = []intake.Condition{{Code: "stenosis"}, {Code: "wrist-pain", Side: "left"}, {Code: "neck-pain"}}
	r := plantest.For(t, c, nil, 30)
	assert.ErrorContains(t, edit.Apply(r, p, edit.Edit{Op: "swap", Item: 1, With: "prone-on-elbows"}), "does not suit")
	edit.Mend(r, p)
	for _, k := range p.Checks {
		assert.True(t, k.Rule != "safe" || k.OK, k.Detail)
	}
	verifyItems := func() {
		for _, it := range p.Items {
			res, _ := r.Screening.Result(it.Version)
			assert.NotEqual(t, trade.LeaveOut, res.Verdict, it.Version)
		}
	}
	verifyItems()
}

// A mended session says which exercise needs an ease now, once, and says no more of it when
// the need has gone.
func TestMendingSaysTheEase(t *testing.T) {
	c := plantest.Able()
	c.Aims = map[string]float64{"deep-core": 3, "back-strength": 3}
	p := plantest.Built(t, c, 30)
	if r := plantest.For(t, c, nil, 30); !slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Version == "bird-dog-arm" }) {
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: "bird-dog-arm"}))
	}
	item := func() *plan.Item {
		i := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Version == "bird-dog-arm" })
		require.GreaterOrEqual(t, i, 0)
		return &p.Items[i]
	}
	require.Empty(t, item().Eases)
	sore := plantest.Able()
	sore.Aims, sore.Conditions = c.Aims, []intake.Condition{{Code: "knee-pain", Side: "left"}}
	r := plantest.For(t, sore, nil, 30)
	said := edit.Mend(r, p)
	assert.Contains(t, said, "All-fours arm reach: something soft under the knees and shins")
	assert.Equal(t, []string{"knees-padded"}, item().Eases)
	assert.Contains(t, item().Kit, "cushion")
	assert.NotContains(t, edit.Mend(r, p), "All-fours arm reach: something soft under the knees and shins", "said once")
	assert.Equal(t, 1, strings.Count(item().Why, "With an ease"))
	edit.Mend(plantest.For(t, c, nil, 30), p)
	assert.NotContains(t, item().Why, "With an ease")
	assert.Empty(t, item().Eases)
	assert.NotContains(t, item().Kit, "cushion")
}

// What comes in for what no longer suits stands where it costs no extra position: after
// mending, no other order of the same items keeps more rules.
func TestAMendedPlanIsInItsBestOrder(t *testing.T) {
	ordered := 0
	for _, now := range [][]intake.Condition{
		{{Code: "knee-pain", Side: "left"}, {Code: "wrist-pain", Side: "left"}},
		{{Code: "wrist-pain", Side: "right"}},
		{{Code: "osteoporosis", School: "strict"}},
		{{Code: "falls-risk"}},
		nil,
	} {
		p := plantest.Built(t, plantest.Able(), 45)
		c, minutes := plantest.Able(), 45
		if c.Conditions = now; now == nil { // one more time down to the mat needs its seconds
			c.Schools.Order, minutes = "standing-first", 50
		}
		r := plantest.For(t, c, nil, minutes)
		if slices.Contains(edit.Mend(r, p), "put in the best order") {
			ordered++
		}
		if q, err := edit.Tried(r, p, edit.Edit{Op: "arrange"}); err == nil {
			assert.LessOrEqual(t, len(plantest.Broken(p)), len(plantest.Broken(q)), "%v", now)
		}
	}
	assert.Positive(t, ordered)
}

// The next plan uses what progress decided: the rung, the dose, the extra side.
func TestThePlanFollowsTheDecisions(t *testing.T) {
	amount := progress.Amount{Sets: 1, Reps: 8, HoldS: 3}
	session := func(date string) progress.Session {
		return progress.Session{Date: trade.MustDay(date), Soreness: &progress.Soreness{SettledH: 5}, Items: []progress.Item{{Version: "bridge-low", Target: amount, Done: amount, EndedBy: "target"}}}
	}
	log := &progress.Log{Sessions: []progress.Session{session("2026-11-12"), session("2026-11-17")}}
	c := plantest.Able()
	c.Schools.Dose, c.Aims = "reps", map[string]float64{"hip-strength": 5}
	r := plantest.For(t, c, log, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	i := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Version == "bridge-low" })
	require.GreaterOrEqual(t, i, 0, "last session's item comes back")
	assert.Equal(t, 2, p.Items[i].Dose.Sets, "one dose step up")
	assert.Contains(t, p.Items[i].Why, "Up:")
}

func TestHoldsAreCappedByAcutePain(t *testing.T) {
	c := plantest.Able()
	c.Conditions = []intake.Condition{{Code: "low-back-pain", Phase: "acute"}}
	c.Schools.Dose = "breaths"
	r := plantest.For(t, c, nil, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	capped := 0
	for _, it := range p.Items {
		v, _ := r.Catalogue.Version(it.Version)
		if limit, _ := r.Screener.HoldCap(v); limit > 0 { // breath and rest are no holds
			assert.Equal(t, 10, limit)
			assert.LessOrEqual(t, it.Dose.HoldSeconds(12), limit, it.Version)
			capped++
		}
	}
	assert.Positive(t, capped)
}

// Nobody begins a family with its hard work while an easier version suits; once the
// family is in the log the harder branch opens.
func TestHardWorkWaitsForItsFamily(t *testing.T) {
	c := plantest.Able()
	c.Aims = map[string]float64{"anti-extension": 5}
	for _, it := range plantest.Built(t, c, 45).Items {
		assert.LessOrEqual(t, it.Effort, 5, it.Version)
	}
	done := progress.Amount{Sets: 1, Reps: 6, HoldS: 10}
	log := &progress.Log{Sessions: []progress.Session{{Date: trade.MustDay("2026-11-18"), Items: []progress.Item{{Version: "plank-counter", Target: done, Done: done, EndedBy: "target"}}}}}
	p, err := propose.Build(plantest.For(t, c, log, 45))
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Version == "plank-knees-hand" || it.Version == "plank-counter" }))
	only := plantest.Able()
	only.Aims, only.Surfaces = c.Aims, []trade.Surface{"mat"}
	only.Positions = map[string]string{"supine": "no"} // what serves the aim on the back is out, too
	for k, v := range plantest.Able().Positions {
		if k != "supine" {
			only.Positions[k] = v
		}
	}
	p, err = propose.Build(plantest.For(t, only, nil, 30))
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Family == "front-plank" }), "without a counter or sofa the floor is where it begins")
}

// An own version is planned and screened like any other, and its plan says its revision.
func TestOwnVersionsAreScreenedAndPlanned(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	base, _ := plantest.Cat.Version("pelvic-curl")
	mine := base.Copy("own-pelvic-curl-1", "Pelvic curl, mine")
	require.NoError(t, plantest.Cat.CheckOwn(mine))
	s, found, err := measure.NewSolver().Solve(mine, nil, false)
	require.NoError(t, err)
	require.Empty(t, found)
	mine.Attach(s)
	mine.Revision = 3
	all := plantest.Cat.With([]*catalogue.Version{mine})
	verdict := func(codes ...string) string {
		c := plantest.Able()
		for _, code := range codes {
			c.Conditions = append(c.Conditions, intake.Condition{Code: code, Preference: "extension"})
		}
		sc, err := safety.NewScreener(plantest.Rules, all, c, plantest.Today)
		require.NoError(t, err)
		r, ok := sc.Screen().Result("own-pelvic-curl-1")
		require.True(t, ok)
		return string(r.Verdict)
	}
	assert.Equal(t, trade.Suits, trade.Verdict(verdict()))
	assert.NotEqual(t, trade.Suits, trade.Verdict(verdict("osteoporosis")), "an own copy is no way round a limit")
	assert.NotEqual(t, trade.Suits, trade.Verdict(verdict("disc-sciatica")))

	c := plantest.Able()
	c.Aims = map[string]float64{"spinal-mobility": 5}
	r, err := facts.New(all, plantest.Rules, nil, c, nil, 30, plantest.Today)
	require.NoError(t, err)
	p, err := propose.Build(r)
	require.NoError(t, err)
	for _, it := range p.Items {
		v, ok := all.Version(it.Version)
		require.True(t, ok)
		assert.Equal(t, v.Revision, it.Revision, it.Version)
	}

	// What must be checked again is in no new plan and cannot be added by hand.
	again := func() (*facts.Request, *plan.Plan) {
		r, err := facts.New(all, plantest.Rules, nil, c, nil, 30, plantest.Today)
		require.NoError(t, err)
		p, err := edit.Rebuild(r, &plan.Plan{Banned: []string{base.Slug}})
		require.NoError(t, err)
		return r, p
	}
	r, p = again()
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: mine.Slug}))
	mine.CheckAgain = "peel: the feet are wide"
	r, p = again()
	for _, it := range p.Items {
		assert.NotEqual(t, mine.Slug, it.Version)
	}
	assert.ErrorContains(t, edit.Apply(r, p, edit.Edit{Op: "add", With: mine.Slug}), "must be checked again first: peel")
}
