package propose_test

import (
	"errors"
	"os"
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
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/plantest"
)

// capped is a request under the published rules and a further dose rule of limited mobility.
func capped(t *testing.T, rule string, minutes int, change func(*intake.Client)) *facts.Request {
	t.Helper()
	tr, err := plantest.Load()
	require.NoError(t, err)
	file, err := os.ReadFile("../safety/limits.yaml")
	require.NoError(t, err)
	words, err := restbend.Vocabulary()
	require.NoError(t, err)
	rules, err := safety.ParseRules([]byte(strings.Replace(string(file), "  name: Limited mobility\n  asks: []\n", "  name: Limited mobility\n  asks: []\n  dose: ["+rule+"]\n", 1)), words)
	require.NoError(t, err)
	c := plantest.Able()
	c.Conditions = []intake.Condition{{Code: "limited-mobility"}}
	change(c)
	r, err := facts.New(tr.Cat, rules, tr.Tasks, c, nil, minutes, plantest.Today)
	require.NoError(t, err)
	return r
}

func headLifts(r *facts.Request, p *plan.Plan) (n int) {
	for _, it := range p.Items {
		if v, ok := r.Catalogue.Version(it.Version); ok && v.Quantities["head-lift"].Value > 0 {
			n++
		}
	}
	return n
}

func check(p *plan.Plan, rule string) (plan.Check, bool) {
	for _, k := range p.Checks {
		if k.Rule == rule {
			return k, true
		}
	}
	return plan.Check{}, false
}

// A session holds no more exercises of a kind than the conditions allow, whatever it is for; one
// added by hand is named and can be taken out.
func TestAtMostSoManyOfAKind(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	aims := func(c *intake.Client) {
		c.Activity, c.Aims = "trained", map[string]float64{"anti-extension": 5, "deep-core": 5}
	}
	free := capped(t, "", 30, aims)
	p, err := propose.Build(free)
	require.NoError(t, err)
	require.Greater(t, headLifts(free, p), 1, "without a cap there are more")
	_, told := check(p, "few-of")
	assert.False(t, told)

	r := capped(t, "{items: 1, of: head-lift, reason: one at most}", 30, aims)
	p, err = propose.Build(r)
	require.NoError(t, err)
	assert.Equal(t, 1, headLifts(r, p))
	k, told := check(p, "few-of")
	assert.True(t, told && k.OK, k)
	added := false
	for _, slug := range []string{"curl-up-hand-under", "crunch-one-leg-long", "raised-back-1", "curl-up-neck-held"} {
		added = added || edit.Apply(r, p, edit.Edit{Op: "add", With: slug, Item: 2}) == nil && headLifts(r, p) > 1
	}
	require.True(t, added)
	k, _ = check(p, "few-of")
	assert.False(t, k.OK)
	assert.Len(t, k.Items, headLifts(r, p))
	assert.NotEmpty(t, edit.Mends(r, p)["few-of"])
}

// Nobody sits longer in one go than the conditions allow.
func TestSittingIsBroken(t *testing.T) {
	seated := func(c *intake.Client) {
		for _, p := range []string{"supine", "prone", "side_left", "side_right", "kneel", "floor"} {
			c.Positions[p] = "no"
		}
	}
	longest := func(p *plan.Plan) (most int) {
		from := -1
		for _, it := range p.Items {
			if it.Position != trade.Sitting {
				from = -1
				continue
			}
			if from < 0 {
				from = it.Start
			}
			most = max(most, it.End-from)
		}
		return most
	}
	free := capped(t, "", 30, seated)
	p, err := propose.Build(free)
	require.NoError(t, err)
	require.Greater(t, longest(p), 400)
	r := capped(t, "{sitting_s: 400, reason: no longer than that}", 30, seated)
	p, err = propose.Build(r)
	require.NoError(t, err)
	assert.LessOrEqual(t, longest(p), 400)
	k, told := check(p, "sitting-block")
	assert.True(t, told && k.OK, k)
	assert.False(t, p.Proven)
	q, err := propose.Quick(r)
	require.NoError(t, err)
	assert.LessOrEqual(t, longest(q), 400)
}

// No kind of session, whatever its fixed beginning and end, breaks what the conditions allow of a
// whole session, proposed quickly or proven.
func TestKindsOfSessionKeepToTheCaps(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	all, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	refused := 0
	for rule, dose := range map[string]string{
		"supine-block":    "{supine_s: 120, reason: never longer}",
		"sitting-block":   "{sitting_s: 600, reason: never longer}",
		"few-of":          "{items: 1, of: head-lift, reason: one at most}",
		"floor-transfers": "{rises: 1, reason: once}",
	} {
		r := capped(t, dose, 30, func(c *intake.Client) { c.Today.SIJSide = "left" })
		for i := range all {
			of := r.For(&all[i])
			for name, propose := range map[string]func(*facts.Request) (*plan.Plan, error){"best": propose.Build, "quick": propose.Quick} {
				p, err := propose(of)
				var no *facts.Refused
				if errors.As(err, &no) {
					refused++
					continue // said with what would make it possible
				}
				require.NoError(t, err, "%s %s", all[i].Slug, dose)
				k, told := check(p, rule)
				assert.True(t, told && k.OK, "%s, %s, %s: %s", all[i].Slug, name, dose, k.Detail)
			}
		}
	}
	assert.LessOrEqual(t, refused, 2, "almost every kind can be kept")
}

// What a session leaves out of the fixed parts of its kind is said, with the reason.
func TestWhatAKindLacksIsSaid(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	all, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	i := slices.IndexFunc(all, func(k kinds.Template) bool { return k.Slug == "sacroiliac" })
	lacks := func(r *facts.Request) string {
		p, err := propose.Build(r.For(&all[i]))
		require.NoError(t, err)
		var said []string
		for _, l := range r.For(&all[i]).Lacks(p) {
			said = append(said, l.Name+": "+l.Why)
		}
		return strings.Join(said, "; ")
	}
	jammed := func(c *intake.Client) { c.Today.SIJSide = "left" }
	assert.Empty(t, lacks(capped(t, "", 25, jammed)))
	assert.Equal(t, "Spine wave: never longer", lacks(capped(t, "{supine_s: 120, reason: never longer}", 25, jammed)))
	assert.Contains(t, lacks(capped(t, "", 25, func(c *intake.Client) {
		jammed(c)
		c.Positions["supine"] = "no"
	})), "Spine wave: it does not suit this client")
	r := capped(t, "", 25, jammed)
	p, err := propose.Build(r)
	require.NoError(t, err)
	assert.Empty(t, r.Lacks(p), "a free session has no fixed parts")
}

// Rises from the floor keep to the tightest of the client's own number, help and the conditions.
func TestRisesKeepToTheConditions(t *testing.T) {
	r := capped(t, "{rises: 1, reason: once}", 45, func(*intake.Client) {})
	p, err := propose.Build(r)
	require.NoError(t, err)
	k, told := check(p, "floor-transfers")
	assert.True(t, told && k.OK)
	assert.Contains(t, k.Detail, "at most 1")
}

// A side that suits only with an ease is worked with it or not at all.
func TestASideThatNeedsItsEase(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	c := plantest.Able()
	c.Conditions = []intake.Condition{{Code: "shoulder-pain", Side: trade.Right}}
	c.Kit = append(c.Kit, "pillow")
	r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, c, nil, 30, plantest.Today)
	require.NoError(t, err)
	item := func(side trade.Side, eases ...string) *plan.Item {
		return &plan.Item{Version: "clam", Side: side, Eases: eases}
	}
	assert.True(t, appraise.Safe(r, item(trade.Right)), "lying on the good shoulder")
	assert.False(t, appraise.Safe(r, item(trade.Left)), "lying on the sore one")
	assert.False(t, appraise.Safe(r, item(trade.Each)))
	assert.True(t, appraise.Safe(r, item(trade.Left, "arm-forward")))
	assert.True(t, appraise.Safe(r, item(trade.Each, "arm-forward")))
	assert.False(t, appraise.Safe(r, item(trade.Left, "half-open")), "another ease does not do")
	p, err := propose.Build(r)
	require.NoError(t, err)
	if !slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Version == "clam" }) {
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: "clam", Item: 1}))
	}
	at := -1
	for i := range p.Items {
		if p.Items[i].Version == "clam" {
			at = i
		}
	}
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, trade.Each, p.Items[at].Side, "neither side is forgotten")
	assert.Equal(t, []string{"arm-forward"}, p.Items[at].Eases, "with its ease")
	assert.Equal(t, trade.Left, p.Items[at].EasedSide, "on the one side that needs it")
	assert.Equal(t, []string{"On the left: the lower arm lies forward, a pillow under head and chest, so the shoulder carries little."}, p.Items[at].EaseSays)
	assert.Contains(t, p.Items[at].Kit, "pillow")
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "side", Item: at, With: "right"}))
	assert.Empty(t, p.Items[at].Eases)
}

// A condition that prefers lying first comes before the habit of bone loss to stand first; what is
// recorded for the client before both.
func TestTheOrderAConditionPrefers(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	no := false
	bone := intake.Condition{Code: "osteoporosis", School: "strict", Fracture: &no}
	for want, change := range map[string]func(*intake.Client){
		"standing first": func(c *intake.Client) { c.Conditions = []intake.Condition{bone} },
		"lying first":    func(c *intake.Client) { c.Conditions = []intake.Condition{bone, {Code: "pelvic-floor"}} },
		"standing first, as recorded": func(c *intake.Client) {
			c.Conditions = []intake.Condition{bone, {Code: "pelvic-floor"}}
			c.Schools.Order = "standing-first"
		},
	} {
		r := capped(t, "", 30, change)
		p, err := propose.Build(r)
		require.NoError(t, err)
		k, _ := check(p, "order")
		assert.Contains(t, k.Detail, strings.Split(want, ",")[0], want)
	}
}
