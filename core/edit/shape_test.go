package edit_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/appraise"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

// done is a log of sessions four days apart in which everything went well.
func done(sessions int, step func(progress.Item) progress.Item, slugs ...string) *progress.Log {
	log := &progress.Log{}
	for i := range sessions {
		s := progress.Session{Date: plantest.Today.AddDays(-4 * (sessions - i)), Soreness: &progress.Soreness{SettledH: 6}}
		for _, slug := range slugs {
			v, _ := plantest.Cat.Version(slug)
			d := v.Dose("reps", 0)
			a := progress.Amount{Sets: d.Sets, Reps: d.Reps, HoldS: d.HoldS + d.HoldCounts, HoldBreaths: d.HoldBreaths}
			it := progress.Item{Version: slug, Target: a, Done: a, EndedBy: "target"}
			if step != nil {
				it = step(it)
			}
			s.Items = append(s.Items, it)
		}
		log.Sessions = append(log.Sessions, s)
	}
	return log
}

// Every kind of session keeps every rule for an able client and does what its name says.
// priced are the rules that cost points when they are broken, instead of holding always.
var priced = []string{"six-directions", "three-sides", "place", "gentle-steps"}

func TestKindsOfSession(t *testing.T) {
	templates, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	require.Len(t, templates, 12)
	plans := map[string]*plan.Plan{}
	for i := range templates {
		k := &templates[i]
		c := plantest.Able()
		c.Today.SIJSide = "left"
		c.Conditions = []intake.Condition{{Code: "low-back-pain", Phase: "persistent"}}
		r := plantest.For(t, c, nil, k.Minutes)
		r = r.For(k)
		p, err := propose.Build(r)
		require.NoError(t, err, k.Slug)
		assert.Subset(t, priced, plantest.Broken(p), k.Slug)
		assert.Equal(t, k.Slug, p.Template)
		if k.EffortCap > 0 {
			for _, it := range p.Items {
				assert.LessOrEqual(t, it.Effort, k.EffortCap, "%s: %s", k.Slug, it.Version)
			}
		}
		plans[k.Slug] = p
	}
	for i, it := range plans["breath-led"].Items[:len(plans["breath-led"].Items)-1] {
		if next := plans["breath-led"].Items[i+1]; it.Role == "main" && it.Position == "supine" && next.Role != "close" {
			assert.Equal(t, trade.Reset, next.Role, "after %s", it.Version)
		}
	}
	families := map[string]bool{}
	for _, it := range plans["short-holds-trio"].Items {
		families[it.Family] = true
	}
	assert.True(t, families["curl-up"] && families["side-plank"] && families["bird-dog"])
	assert.Equal(t, trade.Standing, plans["bone-safe"].Items[1].Position, "standing comes while fresh")
	sij := plans["sacroiliac"].Items
	assert.Equal(t, []string{"side-check", "spine-wave", "side-let-down"}, []string{sij[0].Version, sij[1].Version, sij[2].Version})
	assert.Equal(t, trade.Left, sij[2].Side, "the side that is jammed today goes up")
	assert.Equal(t, []string{"side-sway", "easy-walk"}, []string{sij[len(sij)-2].Version, sij[len(sij)-1].Version})
	for _, it := range plans["chair-only"].Items {
		assert.Equal(t, trade.Sitting, it.Position)
	}
	for _, it := range plans["bed-only"].Items {
		assert.Contains(t, []trade.Position{"supine", "side", "prone", "all-fours", "kneeling", "long-sitting"}, it.Position)
	}
}

func TestMistakesInKindsAreNamed(t *testing.T) {
	for text, want := range map[string]string{
		"- {slug: a, name: A, reason: r, minutes: 1}":                                      "minutes: found 1",
		"- {slug: a, name: A, minutes: 20}":                                                "reason: is missing",
		"- {slug: a, name: A, reason: r, minutes: 20, dose: lots}":                         `dose: found "lots"`,
		"- {slug: a, name: A, reason: r, minutes: 20, positions: [flying]}":                `positions: found "flying"`,
		"- {slug: a, name: A, reason: r, minutes: 20, prepare: [nothing]}":                 `prepare: there is no version "nothing"`,
		"- {slug: a, name: A, reason: r, minutes: 20, needs: [{least: 1}]}":                "needs: give families or aims",
		"- {slug: a, name: A, reason: r, minutes: 20, needs: [{families: [x], least: 1}]}": `there is no family "x"`,
		"- {slug: a, name: A, reason: r, minutes: 20, aims: {balance: 0}}":                 "aims: balance: found 0",
		"- {slug: a, colour: red}":                                                         "field colour not found",
	} {
		_, err := kinds.ReadTemplates([]byte(text), plantest.Cat)
		assert.ErrorContains(t, err, want, text)
	}
}

// Every broken rule offers a change, and the first one offered mends it or brings the
// session nearer.
func TestMends(t *testing.T) {
	fresh := func() (*facts.Request, *plan.Plan) {
		r := plantest.For(t, plantest.Able(), nil, 30)
		p, err := propose.Build(r)
		require.NoError(t, err)
		require.Empty(t, plantest.Broken(p))
		return r, p
	}
	for rule, spoil := range map[string]func(*facts.Request, *plan.Plan){
		"opener-closer": func(_ *facts.Request, p *plan.Plan) { p.Items = p.Items[1:] },
		"effort-rises": func(_ *facts.Request, p *plan.Plan) {
			slices.SortStableFunc(p.Items[1:len(p.Items)-1], func(a, b plan.Item) int {
				if a.Position != b.Position {
					return 0
				}
				return b.Effort - a.Effort
			})
		},
		"time": func(r *facts.Request, p *plan.Plan) { p.Items[1].Dose.Reps += 60 },
		"both-sides": func(_ *facts.Request, p *plan.Plan) {
			for i := range p.Items {
				if p.Items[i].Side == "each" {
					p.Items[i].Side = "left"
					return
				}
			}
		},
		"effort-cap": func(r *facts.Request, p *plan.Plan) {
			top := 0
			for _, it := range p.Items {
				top = max(top, it.Effort)
			}
			r.Client.EffortCap = top - 1
		},
	} {
		r, p := fresh()
		spoil(r, p)
		appraise.Retime(r, p)
		require.Contains(t, plantest.Broken(p), rule)
		mends := edit.Mends(r, p)[rule]
		require.NotEmpty(t, mends, rule)
		before := len(plantest.Broken(p))
		seconds := p.Seconds
		require.NoError(t, edit.Apply(r, p, mends[0].Edit), "%s: %s", rule, mends[0].Say)
		assert.True(t, !slices.Contains(plantest.Broken(p), rule) || len(plantest.Broken(p)) < before || p.Seconds < seconds, "%s by %s: %v", rule, mends[0].Say, plantest.Broken(p))
	}
}

// What is locked stays, what is taken out stays out, the rest is planned around it.
func TestRebuildAroundWhatIsLocked(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	kept, out := p.Items[2], p.Items[4].Version
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "lock", Item: 2}))
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "ban", Item: 4}))
	q, err := edit.Rebuild(r, p)
	require.NoError(t, err)
	assert.Empty(t, plantest.Broken(q))
	i := plantest.Index(q, kept.Version)
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, kept.Dose, q.Items[i].Dose)
	assert.Equal(t, -1, plantest.Index(q, out))
	require.NoError(t, edit.Apply(r, q, edit.Edit{Op: "allow", With: out}))
	require.NoError(t, edit.Apply(r, q, edit.Edit{Op: "add", With: out}))
	assert.GreaterOrEqual(t, plantest.Index(q, out), 0)
}

// Arranging changes the order and nothing else.
func TestArrangeChangesOnlyTheOrder(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 40)
	p, err := propose.Build(r)
	require.NoError(t, err)
	before := slices.Clone(p.Items)
	slices.Reverse(p.Items)
	appraise.Retime(r, p)
	require.NotEmpty(t, plantest.Broken(p))
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "arrange"}))
	assert.Empty(t, plantest.Broken(p))
	require.Len(t, p.Items, len(before))
	for _, it := range before {
		i := plantest.Index(p, it.Version)
		require.GreaterOrEqual(t, i, 0, it.Version)
		assert.Equal(t, it.Dose, p.Items[i].Dose)
		assert.Equal(t, it.Why, p.Items[i].Why)
	}
}

// A session is repeated as it was, or every item takes its decided step.
func TestRepeatAndTakeOneStepOn(t *testing.T) {
	c := plantest.Able()
	c.Schools.Dose = "reps"
	log := done(2, nil, "bridge-low", "clam", "heel-raise-held")
	r := plantest.For(t, c, log, 20)
	last := &plan.Plan{}
	for _, slug := range []string{"bridge-low", "clam", "heel-raise-held"} {
		v, _ := plantest.Cat.Version(slug)
		last.Items = append(last.Items, plan.Item{Version: slug, Family: v.Family, Role: "main", Position: v.Position, Surface: "mat", Side: v.SideMode, Dose: v.Dose("reps", 0), Effort: v.Effort})
	}
	same, _, err := edit.Repeat(r, last, false)
	require.NoError(t, err)
	on, said, err := edit.Repeat(r, last, true)
	require.NoError(t, err)
	assert.NotEmpty(t, said)
	v, _ := plantest.Cat.Version("bridge-low")
	assert.Equal(t, v.Dose("reps", 1).Words(), on.Items[plantest.Index(on, "bridge-low")].Dose.Words(), "one dose step up")
	assert.Len(t, same.Items, 3)

	c.Conditions = []intake.Condition{{Code: "pregnancy", Weeks: 8}}
	_, _, err = edit.Repeat(plantest.For(t, c, log, 20), last, false)
	assert.Error(t, err, "nothing is repeated before a clearance")
	c.Conditions = []intake.Condition{{Code: "falls-risk"}}
	c.Positions["supine"] = "no"
	p, said, err := edit.Repeat(plantest.For(t, c, log, 20), last, false)
	require.NoError(t, err)
	assert.Equal(t, -1, plantest.Index(p, "bridge-low"), "what no longer suits gives way")
	assert.NotEmpty(t, said)
	for _, it := range p.Items {
		assert.NotContains(t, plantest.Broken(p), "safe", it.Version)
	}
}

// The tight side and the weak hours get more, never where work is capped.
func TestExtraForTheTightSideAndWeakHours(t *testing.T) {
	c := plantest.Able()
	c.Aims = map[string]float64{"thoracic-mobility": 3, "spinal-mobility": 3}
	c.Today.TightTurn, c.Today.ClockWeak = "left", []int{4, 12}
	r := plantest.For(t, c, nil, 40)
	require.NoError(t, edit.Apply(r, &plan.Plan{Minutes: 40}, edit.Edit{Op: "add", With: "open-book"}))
	p, err := propose.Build(r)
	require.NoError(t, err)
	sides := 0
	for _, it := range p.Items {
		if it.Dose.Extra == nil {
			continue
		}
		sides++
		v, _ := plantest.Cat.Version(it.Version)
		peaks := v.TrunkPeaks(it.Dose.Extra.Side)
		assert.Greater(t, peaks[4], peaks[5], "%s turns left on its %s", it.Version, it.Dose.Extra.Side)
		assert.InDelta(t, 0.5, it.Dose.Extra.Share, 1e-9)
	}
	assert.Positive(t, sides)
	clock := &plan.Plan{Minutes: 40}
	require.NoError(t, edit.Apply(r, clock, edit.Edit{Op: "add", With: "clock-circle"}))
	plain := plantest.For(t, plantest.Able(), nil, 40)
	without := &plan.Plan{Minutes: 40}
	require.NoError(t, edit.Apply(plain, without, edit.Edit{Op: "add", With: "clock-circle"}))
	assert.Equal(t, without.Items[0].Dose.Reps, clock.Items[0].Dose.Reps)
	assert.Equal(t, r.Client.Today.ClockWeak, clock.Items[0].Dose.Hours, "slower passes over each weak hour")
	assert.Greater(t, clock.Seconds, without.Seconds)
}

// Who has no position and no place is told what would help; nothing of a condition is
// offered for relaxing.
func TestWhatWouldHelpIsSaid(t *testing.T) {
	c := plantest.Able()
	zero := 0
	c.FloorMax = &zero
	c.Surfaces, c.Kit = []trade.Surface{"mat"}, nil
	c.Positions["stand_free"], c.Positions["floor"] = "no", "help" // who does not stand is helped down from the chair
	_, err := propose.Build(plantest.For(t, c, nil, 20))
	var refused *facts.Refused
	require.ErrorAs(t, err, &refused)
	assert.Contains(t, strings.Join(refused.Relax, " "), "1 floor transfers instead of 0")
	assert.NotContains(t, refused.Reason, "condition")
}

// The quick session keeps every rule too, and the best is never worse.
func TestTheQuickSessionIsSound(t *testing.T) {
	for _, minutes := range []int{15, 30, 50} {
		q, err := propose.Quick(plantest.For(t, plantest.Able(), nil, minutes))
		require.NoError(t, err)
		assert.NotContains(t, plantest.Broken(q), "safe")
		b := plantest.Built(t, plantest.Able(), minutes)
		assert.GreaterOrEqual(t, b.Score, q.Score-1e-9)
		assert.Subset(t, priced, plantest.Broken(q), "%d minutes", minutes)
	}
}

// Changing a dose by hand never goes past what a symptom capped, and never adds rests or
// weak hours twice.
func TestDosesChangedByHandKeepTheirLimits(t *testing.T) {
	c := plantest.Able()
	c.Schools.Dose = "reps"
	rep := 5
	log := done(2, func(it progress.Item) progress.Item { it.SymptomRep = &rep; return it }, "bridge-low", "dead-bug")
	r := plantest.For(t, c, log, 40)
	bridge, _ := plantest.Cat.Version("bridge-low")
	again, said, err := edit.Repeat(r, &plan.Plan{Items: []plan.Item{{Version: "bridge-low", Family: bridge.Family, Role: "main", Position: bridge.Position, Surface: "mat", Side: bridge.SideMode, Dose: bridge.Dose("reps", 0), Effort: bridge.Effort}}}, false)
	require.NoError(t, err)
	assert.NotEmpty(t, said)
	assert.LessOrEqual(t, again.Items[plantest.Index(again, "bridge-low")].Dose.Reps, 4, "a repeated session keeps the cap")
	for _, slug := range []string{"bridge-low", "dead-bug"} {
		p := &plan.Plan{Minutes: 40}
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: slug}))
		capped := p.Items[0].Dose.Reps
		require.LessOrEqual(t, capped, 4, slug)
		for range 3 {
			_ = edit.Apply(r, p, edit.Edit{Op: "longer", Item: 0}) // may be refused: it is at the cap
			assert.LessOrEqual(t, p.Items[0].Dose.Reps, 4, slug)
		}
		for range 4 {
			before := p.Seconds
			_ = edit.Apply(r, p, edit.Edit{Op: "shorter", Item: 0})
			assert.LessOrEqual(t, p.Seconds, before, slug)
		}
	}

	c = plantest.Able()
	c.Conditions = []intake.Condition{{Code: "deconditioned"}}
	c.Today.ClockWeak = []int{4, 12}
	r = plantest.For(t, c, nil, 40)
	for _, slug := range []string{"clock-circle", "clam"} {
		p := &plan.Plan{Minutes: 40}
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: slug}))
		for range 3 {
			_ = edit.Apply(r, p, edit.Edit{Op: "longer", Item: 0})
		}
		was := p.Items[0].Dose
		if slug == "clam" {
			require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "side", Item: 0, With: "each"}))
		}
		assert.Equal(t, was, p.Items[0].Dose, "%s: the same side again changes nothing", slug)
		for range 3 {
			_ = edit.Apply(r, p, edit.Edit{Op: "shorter", Item: 0})
			assert.LessOrEqual(t, p.Items[0].Dose.RestS, was.RestS, slug)
			assert.LessOrEqual(t, p.Items[0].Dose.TotalReps(), was.TotalReps(), slug)
		}
	}
}

// After pain of 7 or more at the start only the gentlest work is planned, by hand too.
func TestADayOfRestBindsEveryWay(t *testing.T) {
	c := plantest.Able()
	log := done(2, nil, "bridge-low", "side-rib-breath-supine", "clam")
	pain := 8.0
	log.Sessions[1].PainStart = &pain
	r := plantest.For(t, c, log, 20)
	assert.ErrorContains(t, edit.Apply(r, &plan.Plan{Minutes: 20}, edit.Edit{Op: "add", With: "plank"}), "with:")
	assert.ErrorContains(t, edit.Apply(r, &plan.Plan{Minutes: 20}, edit.Edit{Op: "add", With: "bridge-low"}), "the cap is 1")
	last := &plan.Plan{}
	for _, slug := range []string{"bridge-low", "clam"} {
		v, _ := plantest.Cat.Version(slug)
		last.Items = append(last.Items, plan.Item{Version: slug, Family: v.Family, Role: "main", Position: v.Position, Surface: "mat", Side: v.SideMode, Dose: v.Dose("reps", 0), Effort: v.Effort})
	}
	for _, on := range []bool{true, false} {
		p, said, err := edit.Repeat(r, last, on)
		if err != nil {
			assert.ErrorContains(t, err, "nothing of the last session")
			continue
		}
		assert.NotEmpty(t, said)
		for _, it := range p.Items {
			assert.LessOrEqual(t, it.Effort, 1, it.Version)
		}
	}
}

// What is said to be the best stays so under a lock and under nothing else.
func TestProvenEndsWithTheFirstChange(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	require.True(t, p.Proven)
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "lock", Item: 1}))
	assert.True(t, p.Proven)
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "remove", Item: 2}))
	assert.False(t, p.Proven)
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "rebuild"}))
	assert.True(t, p.Proven, "around what is locked")
	edit.Mend(r, p)
	assert.False(t, p.Proven)
	quick, err := propose.Quick(r)
	require.NoError(t, err)
	assert.False(t, quick.Proven, "a first session claims nothing")
}

// An arm sweep settles in the posture it comes after and never changes it.
func TestASweepNeverChangesThePosture(t *testing.T) {
	all, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	i := slices.IndexFunc(all, func(k kinds.Template) bool { return k.Resets })
	require.GreaterOrEqual(t, i, 0)
	sweeps := 0
	for _, surfaces := range [][]trade.Surface{{"mat", "chair", "counter", "wall"}, {"bed", "chair"}, {"mat", "bed", "chair"}} {
		c := plantest.Able()
		c.Surfaces = surfaces
		c.Aims = map[string]float64{"hip-mobility": 3, "spinal-mobility": 2, "thoracic-mobility": 2}
		r := plantest.For(t, c, nil, 40)
		r = r.For(&all[i])
		p, err := propose.Build(r)
		require.NoError(t, err)
		for k := 1; k < len(p.Items); k++ {
			it, before := &p.Items[k], &p.Items[k-1]
			if it.Role == "reset" {
				sweeps++
				in := map[trade.Position]trade.Position{trade.AllFours: trade.Kneeling, trade.Prone: trade.Kneeling,
					trade.HalfKneel: trade.Kneeling, trade.SideLying: trade.Supine}
				if to, ok := in[before.Position]; ok { // the way there and back is part of it
					assert.Equal(t, to, it.Position)
					assert.Positive(t, it.Dose.SetupS)
				} else {
					assert.Equal(t, before.Position, it.Position)
				}
				assert.Zero(t, it.Transition, "after %s on the %s", before.Version, before.Surface)
			}
		}
		version := p.Items[1].Version
		n := plantest.Index(p, version)
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "ban", Item: n}))
		assert.Equal(t, -1, plantest.Index(p, version), "taken out wherever it stands")
	}
	assert.Greater(t, sweeps, 10)
}
