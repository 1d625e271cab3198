package verify_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
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

// byHand are the rules that a change by hand may break, and the plan then says so.
var byHand = []string{"opener-closer", "positions-once", "effort-rises", "order", "hardest-place", "families", "main-count", "mobility-count", "easiest-first", "floor-transfers", "new-items", "both-sides", "supine-block", "sitting-block", "time"}

// judgedAlike holds what the plan says of itself against what the documents say.
func judgedAlike(t *testing.T, tr plantest.Trade, catalogue []byte, r *facts.Request, p *plan.Plan, where string) {
	t.Helper()
	report, err := verify.Session(documents(t, tr, catalogue, r, p))
	require.NoError(t, err)
	broken := map[string]string{}
	weights := map[string]string{}
	for _, v := range report.Violations {
		broken[v.Rule] = v.Say
		weights[v.Rule] = v.Weight
		assert.Contains(t, byHand, v.Rule, "%s: %s", where, v)
	}
	for _, k := range p.Checks {
		if !slices.Contains(byHand, k.Rule) {
			continue
		}
		say, is := broken[k.Rule]
		if is {
			assert.Equal(t, string(k.Weight), weights[k.Rule], "%s: what %s weighs", where, k.Rule)
		}
		assert.Equal(t, !k.OK, is, "%s: the plan says of %s: %v, %s; the documents: %s", where, k.Rule, k.OK, k.Detail, say)
	}
	assert.InDelta(t, report.Score, p.Score, 1e-3, where)
}

// seeds are so many from one on, and those that once found a fault.
func seeds(from uint64, n int, found ...uint64) []uint64 {
	for i := range n {
		found = append(found, from+uint64(i))
	}
	return found
}

// drawnEdit draws a change by hand, sensible or not.
func drawnEdit(rng *rand.Rand, tr plantest.Trade, r *facts.Request, p *plan.Plan) edit.Edit {
	e := edit.Edit{Op: edit.Ops[rng.IntN(len(edit.Ops))], Item: rng.IntN(len(p.Items) + 1), To: rng.IntN(len(p.Items) + 1)}
	any := tr.Cat.Versions[rng.IntN(len(tr.Cat.Versions))].Slug
	suits := any
	if l := edit.Adoptable(r, p); len(l) > 0 {
		suits = l[rng.IntN(len(l))].Slug
	}
	switch e.Op {
	case "side":
		e.With = []string{"left", "right", "each", "alternate"}[rng.IntN(4)]
	case "swap":
		e.With = any
		if l := edit.Swaps(r, p, e.Item); len(l) > 0 && rng.IntN(3) > 0 {
			e.With = l[rng.IntN(len(l))]
		}
	case "add", "begin", "finish":
		e.With = []string{any, suits, suits}[rng.IntN(3)]
	case "dose":
		n, sets := rng.IntN(20), rng.IntN(4)
		e.Dose = &plan.Typed{Reps: &n, Sets: &sets, Why: "drawn"}
		if rng.IntN(2) > 0 {
			hold := rng.IntN(30)
			e.Dose.HoldS = &hold
		}
		if rng.IntN(2) > 0 {
			e.Dose.Side = trade.BothSides[rng.IntN(2)]
		}
	case "allow":
		if len(p.Banned) > 0 {
			e.With = p.Banned[rng.IntN(len(p.Banned))]
		}
	}
	return e
}

// After any change by hand nothing unsafe is in the session and every second is right; what
// else is broken the plan says itself, rule by rule, as the documents do. A change that is
// refused changes nothing.
func TestChangesByHandAreJudgedAlike(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr := house(t)
	catalogue := document(t, exchange.NewCatalogue(tr.Cat))
	done := map[string]int{}
	for _, seed := range seeds(7000, 40, 17007, 17036, 17098) {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Quick(r)
		if err != nil {
			continue
		}
		rng := rand.New(rand.NewPCG(seed, 1))
		back := edit.Edit{}
		for n := range 25 {
			if len(p.Items) == 0 {
				break
			}
			e := drawnEdit(rng, tr, r, p)
			if back.Op != "" {
				e, back = back, edit.Edit{}
			}
			if e.Op == "rebuild" && n%5 > 0 {
				continue
			}
			before, err := json.Marshal(p)
			require.NoError(t, err)
			where := fmt.Sprintf("seed %d, change %d: %+v", seed, n, e)
			if edit.Apply(r, p, e) != nil {
				after, err := json.Marshal(p)
				require.NoError(t, err)
				assert.True(t, bytes.Equal(before, after), "%s: refused, but something changed", where)
				continue
			}
			done[e.Op]++
			if e.Op == "harder" {
				back = edit.Edit{Op: "easier", Item: e.Item}
			}
			if e.Op == "layer" && n%2 > 0 {
				back = edit.Edit{Op: "unlayer", Item: e.Item}
			}
			judgedAlike(t, tr, catalogue, r, p, where)
			if t.Failed() {
				return
			}
		}
	}
	for _, op := range edit.Ops {
		assert.NotZero(t, done[op], "no %s was done", op)
	}
}

// A session that is repeated, mended or rebuilt around what is locked keeps what the log
// decided since: nothing above a cap, nothing hard on a day of rest.
func TestRepeatedMendedAndRebuiltSessionsAreJudgedAlike(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr := house(t)
	catalogue := document(t, exchange.NewCatalogue(tr.Cat))
	capped, repeated, rebuilt := 0, 0, 0
	for _, seed := range seeds(8000, 60, 18419, 18498) {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Quick(r)
		if err != nil {
			continue
		}
		rng := rand.New(rand.NewPCG(seed, 2))
		q, err := tr.Next(rng, r, p)
		require.NoError(t, err)
		for i := range q.Decisions {
			capped += b2i(q.Decisions[i].Decision == trade.Cap)
		}
		if again, _, err := edit.Repeat(q, p, seed%2 == 0); err == nil {
			repeated++
			judgedAlike(t, tr, catalogue, q, again, fmt.Sprintf("seed %d repeated", seed))
		}
		mended := *p
		mended.Items = slices.Clone(p.Items)
		edit.Mend(q, &mended)
		judgedAlike(t, tr, catalogue, q, &mended, fmt.Sprintf("seed %d mended", seed))
		locked := *p
		locked.Items = slices.Clone(p.Items)
		for i := range locked.Items {
			locked.Items[i].Locked = rng.IntN(4) == 0
		}
		if edit.Apply(q, &locked, edit.Edit{Op: "rebuild"}) == nil {
			rebuilt++
			judgedAlike(t, tr, catalogue, q, &locked, fmt.Sprintf("seed %d rebuilt", seed))
		}
		if t.Failed() {
			return
		}
	}
	assert.Greater(t, capped, 20)
	assert.Greater(t, repeated, 20)
	assert.Greater(t, rebuilt, 20)
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
