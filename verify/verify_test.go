package verify_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/plantest"
	"restbend/verify"
)

func house(t testing.TB) plantest.Trade {
	t.Helper()
	tr, err := plantest.Load()
	require.NoError(t, err)
	return tr
}

func document(t testing.TB, doc any) []byte {
	t.Helper()
	data, err := json.Marshal(doc)
	require.NoError(t, err)
	return data
}

// documents are what a request and its plan look like to anyone outside.
func documents(t testing.TB, tr plantest.Trade, catalogue []byte, r *facts.Request, p *plan.Plan) verify.Documents {
	tasks, err := os.ReadFile("../core/catalogue/tasks.yaml")
	require.NoError(t, err)
	preferences, err := os.ReadFile("../core/catalogue/preferences.yaml")
	require.NoError(t, err)
	d := verify.Documents{Preferences: preferences, Client: document(t, r.Client), Catalogue: catalogue, Screen: document(t, exchange.NewScreen(r.Screener, r.Screening, tr.Cat)), Plan: document(t, p), Tasks: tasks,
		Next: document(t, exchange.NewNext(r.Whole, r.Decisions))}
	if r.Log != nil {
		d.Log = document(t, r.Log)
	}
	if r.Template != nil {
		d.Template = document(t, r.Template)
	}
	return d
}

// Plans of random clients keep every rule and score the same when judged from documents
// alone by code that knows nothing of the planner.
func TestPlansOfRandomClientsAreJudgedAlike(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr := house(t)
	catalogue := document(t, exchange.NewCatalogue(tr.Cat))
	made, refused := 0, 0
	// once: returned to a posture that a fixed beginning had left; too long on the back within one
	seeds := []uint64{200114, 200588, 200565}
	for seed := uint64(5000); len(seeds) < 200; seed++ {
		seeds = append(seeds, seed)
	}
	for _, seed := range seeds {
		if made == 100 {
			break
		}
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Build(r)
		if err != nil {
			var why *facts.Refused
			require.ErrorAs(t, err, &why, "seed %d", seed)
			assert.NotEmpty(t, why.Reason)
			refused++
			continue
		}
		made++
		report, err := verify.Session(documents(t, tr, catalogue, r, p))
		require.NoError(t, err)
		assert.Empty(t, report.Violations, "seed %d, %d minutes, template %s", seed, r.Minutes, p.Template)
		assert.InDelta(t, report.Score, p.Score, 1e-3, "seed %d", seed)
		if made%10 == 0 { // a proposal of another character is judged by its own aims
			for _, a := range edit.Alternatives(r, p) {
				report, err := verify.Session(documents(t, tr, catalogue, r, a.Plan))
				require.NoError(t, err)
				assert.Empty(t, report.Violations, "seed %d, %s", seed, a.Character)
				assert.InDelta(t, report.Score, a.Plan.Score, 1e-3, "seed %d, %s", seed, a.Character)
			}
		}
		assert.Greater(t, len(p.Items), 2, "seed %d: something between opener and closer", seed)
		for _, k := range p.Checks {
			wish := slices.Contains([]string{"six-directions", "three-sides", "place", "gentle-steps"}, k.Rule) // priced, not a limit
			assert.True(t, k.OK || wish, "seed %d: %s: %s", seed, k.Rule, k.Detail)
		}
	}
	assert.Equal(t, 100, made)
	assert.Less(t, refused, 50, "few clients are refused")
}

// The verifier is no rubber stamp: every spoilt plan is found out.
func TestSpoiltPlansAreFound(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr := house(t)
	catalogue := document(t, exchange.NewCatalogue(tr.Cat))
	fresh := func() (*facts.Request, *plan.Plan) {
		r, err := tr.Request(5001)
		require.NoError(t, err)
		r = r.For(nil)
		p, err := propose.Build(r)
		require.NoError(t, err)
		return r, p
	}
	r, p := fresh()
	report, err := verify.Session(documents(t, tr, catalogue, r, p))
	require.NoError(t, err)
	require.Empty(t, report.Violations)
	last := len(p.Items) - 1
	for name, spoil := range map[string]func(*plan.Plan){
		"a dose that lasts longer":    func(p *plan.Plan) { p.Items[1].Dose.MoveS++ },
		"a wrong change of posture":   func(p *plan.Plan) { p.Items[0].Transition++ },
		"an item twice":               func(p *plan.Plan) { p.Items[2].Version, p.Items[2].Effort = p.Items[1].Version, p.Items[1].Effort },
		"no closer":                   func(p *plan.Plan) { p.Items[last].Role = "main" },
		"something unknown":           func(p *plan.Plan) { p.Items[1].Version = "handstand" },
		"an effort that is not so":    func(p *plan.Plan) { p.Items[1].Effort = 9 },
		"more minutes than asked":     func(p *plan.Plan) { p.Minutes = 5 },
		"a direction that is not one": func(p *plan.Plan) { p.Directions[0].Visited = !p.Directions[0].Visited; p.Minutes = max(p.Minutes, 20) },
		"an item that was taken out":  func(p *plan.Plan) { p.Banned = []string{p.Items[1].Version} },
	} {
		r, p := fresh()
		spoil(p)
		report, err := verify.Session(documents(t, tr, catalogue, r, p))
		require.NoError(t, err, name)
		assert.NotEmpty(t, report.Violations, name)
	}
	for decision, say := range map[string]string{"cap": "dose", "rest": "effort-cap"} {
		r, p := fresh()
		k := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Dose.Reps > 1 })
		require.GreaterOrEqual(t, k, 0)
		capped := p.Items[k].Dose
		capped.Reps, capped.Pattern = 1, nil
		d := documents(t, tr, catalogue, r, p)
		d.Next = document(t, map[string]any{"decisions": []any{map[string]any{"decision": decision, "version": p.Items[k].Version, "to_version": p.Items[k].Version, "dose": capped}}})
		report, err := verify.Session(d)
		require.NoError(t, err)
		assert.True(t, slices.ContainsFunc(report.Violations, func(v verify.Violation) bool { return v.Rule == say }), "%s: %v", decision, report.Violations)
	}
	// what the screening allows of holds, stretches and rises is taken from it
	r, p = fresh()
	k := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Dose.HoldSeconds(12) > 1 })
	require.GreaterOrEqual(t, k, 0)
	for rule, tighten := range map[string]func(*exchange.Screen){
		"dose": func(s *exchange.Screen) {
			for i := range s.Results {
				s.Results[i].HoldMaxS = p.Items[k].Dose.HoldSeconds(12) - 1
			}
		},
		"supine-block":    func(s *exchange.Screen) { s.Caps = &exchange.ScreenCaps{SupineS: 20} },
		"sitting-block":   func(s *exchange.Screen) { s.Caps = &exchange.ScreenCaps{SittingS: 20} },
		"floor-transfers": func(s *exchange.Screen) { s.Caps = &exchange.ScreenCaps{FloorTransfers: 1} },
	} {
		q := *p
		q.Items = slices.Clone(p.Items)
		switch rule {
		case "supine-block":
			q.Items[k].Position = "supine"
		case "sitting-block":
			q.Items[k].Position = "sitting"
		case "floor-transfers": // down, up and down again
			for i := range q.Items {
				q.Items[i].Position, q.Items[i].Surface = []trade.Position{"standing", "supine"}[i%2], []trade.Surface{"none", "mat"}[i%2]
			}
		}
		d := documents(t, tr, catalogue, r, &q)
		screen := exchange.NewScreen(r.Screener, r.Screening, tr.Cat)
		tighten(&screen)
		d.Screen = document(t, screen)
		report, err := verify.Session(d)
		require.NoError(t, err)
		assert.True(t, slices.ContainsFunc(report.Violations, func(v verify.Violation) bool {
			return v.Rule == rule && (rule != "floor-transfers" || strings.HasSuffix(v.Say, "at most 1"))
		}), "%s: %v", rule, report.Violations)
	}
	_, err = verify.Session(verify.Documents{Plan: []byte("{")})
	assert.ErrorContains(t, err, "plan:")
}
