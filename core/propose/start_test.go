package propose_test

import (
	"slices"
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

var persistent = []intake.Condition{{Code: "low-back-pain", Phase: "persistent"}}

// Where a session takes place follows from what is possible; a diagnosis never makes it upright.
func TestWhereASessionTakesPlace(t *testing.T) {
	for name, row := range map[string]struct {
		change func(*intake.Client)
		want   string
	}{
		"moves freely":              {func(*intake.Client) {}, "mat"},
		"back pain":                 {func(c *intake.Client) { c.Conditions = persistent }, "mat"},
		"gets down with help":       {func(c *intake.Client) { c.Positions["floor"] = "help" }, "mat"},
		"bone loss":                 {func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "osteopenia"}} }, "mixed"},
		"falls risk":                {func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "falls-risk"}} }, "mixed"},
		"as if falls, by numb feet": {func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "numb-feet"}} }, "mixed"},
		"as if falls, by age":       {func(c *intake.Client) { c.Born = 1940 }, "mixed"},
		"as if thin, by steroids":   {func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "long-term-steroids"}} }, "mixed"},
		"aims of balance and legs":  {func(c *intake.Client) { c.Aims = map[string]float64{"balance": 3, "leg-strength": 2, "posture": 1} }, "mixed"},
		"no floor, a bed":           {func(c *intake.Client) { c.Positions["floor"] = "no" }, "bed"},
		"no floor, no bed": {func(c *intake.Client) {
			c.Positions["floor"], c.Surfaces, c.Kit = "no", []trade.Surface{trade.Chair}, nil
		}, "upright"},
		"no rise from the floor":     {func(c *intake.Client) { n := 0; c.FloorMax, c.Surfaces = &n, []trade.Surface{trade.Mat, trade.Chair} }, "upright"},
		"wished upright":             {func(c *intake.Client) { c.Place = "upright" }, "upright"},
		"wished mat, no floor":       {func(c *intake.Client) { c.Place, c.Positions["floor"] = "mat", "no" }, "bed"},
		"wished mat with bone loss":  {func(c *intake.Client) { c.Place, c.Conditions = "mat", []intake.Condition{{Code: "osteopenia"}} }, "mat"},
		"wished mixed, moves freely": {func(c *intake.Client) { c.Place = "mixed" }, "mixed"},
	} {
		c := plantest.Able()
		row.change(c)
		assert.Equal(t, row.want, plantest.For(t, c, nil, 30).Place(), name)
	}
	r := plantest.For(t, plantest.Able(), nil, 30)
	assert.Equal(t, "upright", r.In("upright").Place(), "for one session")
	assert.Equal(t, "mat", r.Place(), "and only for that one")
}

// A rung opens by being a start, by the log, by what was seen elsewhere or by how much the client moves.
func TestGatesOpen(t *testing.T) {
	held := func(slug string, seconds, reps int) *progress.Log {
		done := progress.Amount{Sets: 1, Reps: reps, HoldS: seconds}
		return &progress.Log{Sessions: []progress.Session{{Date: plantest.Today.AddDays(-3), Items: []progress.Item{{Version: slug, Target: done, Done: done, EndedBy: progress.ByTarget}}}}}
	}
	lost := held("plank-knees", 60, 1)
	s := 40.0
	lost.Sessions[0].Items[0].FormLostS = &s
	for name, row := range map[string]struct {
		version string
		change  func(*intake.Client)
		log     *progress.Log
		open    bool
	}{
		"a first rung":                     {"nod-only", nil, nil, true},
		"taps at first":                    {"plank-shoulder-tap-knees", nil, nil, false},
		"taps after a minute":              {"plank-shoulder-tap-knees", nil, held("plank-knees", 60, 1), true},
		"taps after half a minute":         {"plank-shoulder-tap-knees", nil, held("plank-knees", 30, 1), false},
		"taps after the pyramid":           {"plank-shoulder-tap-knees", nil, held("plank-knees", 10, 12), true},
		"taps after form was lost":         {"plank-shoulder-tap-knees", nil, lost, false},
		"the box before the plain reach":   {"bird-dog-box", nil, nil, false},
		"the box after the reach":          {"bird-dog-box", nil, held("bird-dog", 10, 6), true},
		"taps, seen in the plank":          {"plank-shoulder-tap-knees", func(c *intake.Client) { c.Levels = map[string]string{"front-plank": "plank-knees"} }, nil, false},
		"seen elsewhere":                   {"bird-dog-box-one", func(c *intake.Client) { c.Levels = map[string]string{"bird-dog": "bird-dog"} }, nil, true},
		"who exercises, to six":            {"plank-knees", func(c *intake.Client) { c.Activity = "regular" }, nil, true},
		"who exercises, not to nine":       {"plank-shoulder-tap", func(c *intake.Client) { c.Activity = "regular" }, nil, false},
		"from the counter down to the mat": {"plank-knees-hand", nil, nil, true},
		"... for who stays upright":        {"plank-knees-hand", func(c *intake.Client) { c.Place = "upright" }, nil, false},
		"in the school of the hand":        {"side-plank-knees-straight", func(c *intake.Client) { c.Schools.SidePlank = "hand" }, nil, true},
		"in the other school":              {"side-plank-knees-straight", nil, nil, false},
	} {
		c := plantest.Able()
		if row.change != nil {
			row.change(c)
		}
		v, ok := plantest.Cat.Version(row.version)
		require.True(t, ok, row.version)
		assert.Equal(t, row.open, plantest.For(t, c, row.log, 30).Opened(v), name)
	}
}

// What is added although its gate is closed is named, with what opens it.
func TestAClosedGateIsNamed(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: "plank-shoulder-tap-knees"}))
	k, _ := check(p, "gates")
	assert.False(t, k.OK)
	assert.Contains(t, k.Detail, "opens after")
	assert.Contains(t, k.Detail, "for 60 s, or 6-4-2 of 10 s")
}

// Aims nobody named are proposed by condition, age, task and day.
func TestProposedAims(t *testing.T) {
	first := func(change func(*intake.Client)) []string {
		c := plantest.Able()
		change(c)
		tasks, err := restbend.Tasks()
		require.NoError(t, err)
		r, err := facts.New(plantest.Cat, plantest.Rules, tasks, c, nil, 30, plantest.Today)
		require.NoError(t, err)
		aims, _ := r.Proposed()
		return aims
	}
	assert.NotContains(t, first(func(c *intake.Client) {}), "balance")
	assert.Contains(t, first(func(c *intake.Client) { c.Born = 1960 }), "balance")
	assert.Equal(t, "thoracic-mobility", first(func(c *intake.Client) { c.Tasks = []string{"sit through a working day"} })[0])
	assert.ElementsMatch(t, []string{"balance", "back-strength"}, first(func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "osteopenia"}} })[:2])
	assert.Equal(t, []string{"breathing", "relaxation"}, first(func(c *intake.Client) { c.Pain = &intake.Pain{Now: 8, Worst: 8} }))
	assert.Equal(t, "relaxation", first(func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "low-back-pain", Phase: "acute"}} })[0])
}

// A session that the limit on new exercises leaves empty says how many more would fill it, and with
// these it is fuller.
func TestMoreNewExercisesMayBeAllowed(t *testing.T) {
	var log progress.Log
	items := []progress.Item{}
	for _, slug := range []string{"low-breath-chair", "neck-turn", "seated-turn", "ring-press-front", "blade-set-chair", "heel-press-chair", "deep-core-chair", "long-spine-chair", "cat-cow-chair"} {
		d := progress.Amount{Sets: 1, Reps: 5}
		items = append(items, progress.Item{Version: slug, Target: d, Done: d})
	}
	log.Sessions = []progress.Session{{Date: plantest.Today.AddDays(-9), Items: items}, {Date: plantest.Today.AddDays(-2), Items: items}}
	r := plantest.For(t, plantest.Able(), &log, 50)
	p, err := propose.Build(r)
	require.NoError(t, err)
	n := propose.MayAllow(r, p)
	require.Greater(t, n, 2)
	p.AllowNew = n
	q, err := edit.Rebuild(r, p)
	require.NoError(t, err)
	assert.Greater(t, q.Seconds, p.Seconds)
	assert.Equal(t, n, q.AllowNew)
	k, _ := check(q, "new-items")
	assert.True(t, k.OK, k.Detail)
	assert.Zero(t, propose.MayAllow(r, q), "it is full")
}

// Nothing on the page names an exercise that is made for somebody else.
func TestWhatIsMeantForOthersStaysOut(t *testing.T) {
	for _, minutes := range []int{15, 30, 60} {
		c := plantest.Able()
		c.Conditions = persistent
		p := plantest.Built(t, c, minutes)
		assert.False(t, slices.ContainsFunc(p.Items, func(it plan.Item) bool {
			return slices.Contains([]string{"curve-lengthen", "curve-strengthen"}, it.Family) || it.Version == "side-let-down" || it.Version == "curl-up-neck-held"
		}), "%d minutes", minutes)
	}
}

// A routine keeps its order and what suits; what does not is swapped in its place, with the reason.
func TestARoutineIsScreenedAndSwapped(t *testing.T) {
	kind := &kinds.Template{Slug: "morning", Name: "Morning", Reason: "The same every morning.", Minutes: 30, Natural: true, OwnContent: true, Routine: true,
		Parts:   &kinds.Parts{},
		Prepare: []string{"low-breath-supine", "cat-cow", "plank-knees", "bird-dog", "bridge", "hip-hinge", "easy-walk"}}
	require.Empty(t, kind.Check(plantest.Cat))
	slugs := func(p *plan.Plan) (out []string) {
		for _, it := range p.Items {
			out = append(out, it.Version)
		}
		return out
	}
	r := plantest.For(t, plantest.Able(), nil, 30).For(kind)
	p, err := propose.Build(r)
	require.NoError(t, err)
	assert.Equal(t, kind.Prepare, slugs(p), "as it is written")
	assert.Empty(t, r.Lacks(p))
	for _, k := range p.Checks {
		assert.True(t, k.OK, "%s: %s", k.Rule, k.Detail)
	}
	c := plantest.Able()
	c.Conditions = []intake.Condition{{Code: "wrist-pain", Side: "left"}, {Code: "stenosis"}}
	r = plantest.For(t, c, nil, 30).For(kind)
	p, err = propose.Build(r)
	require.NoError(t, err)
	assert.Equal(t, "low-breath-supine", slugs(p)[0])
	lacks := r.Lacks(p)
	for _, l := range lacks {
		assert.Contains(t, l.Why, "does not suit this client", l.Name)
	}
	for i := range p.Items {
		assert.True(t, appraise.Safe(r, &p.Items[i]), p.Items[i].Version)
	}
	assert.NotEmpty(t, lacks)
}
