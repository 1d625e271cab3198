package score_test

import (
	"encoding/json"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/plantest"
)

// few is how many are drawn: fewer where the tests are to be quick.
func few(n int) int {
	if testing.Short() {
		return (n + 3) / 4
	}
	return n
}

// drawn are plans of drawn clients, of every kind among them, with what their scores are made from.
func drawn(t testing.TB, n int, do func(where string, p *plan.Plan, f score.Facts)) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	made := 0
	for seed := uint64(31000); made < n; seed++ {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Quick(r)
		if err != nil {
			continue
		}
		made++
		do(fmt.Sprintf("seed %d %s", seed, p.Template), p, score.Facts{Catalogue: tr.Cat, Client: r.Client, Log: r.Log, Ways: ways(t), Mover: r.Mover()})
	}
}

// The score of a plan lasts as long as the plan says, item by item and change by change, and comes out the
// same each time.
func TestScoresOfPlansLastAsThePlanSays(t *testing.T) {
	kinds, blocks := map[string]bool{}, 0
	drawn(t, 60, func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err, where)
		sound(t, s, where)
		require.Equal(t, float64(p.Seconds), s.Seconds, where)
		moved := map[int]float64{}
		for _, g := range s.Segments {
			if g.Kind == score.Move && p.Items[g.Item].Role != trade.Reset {
				moved[g.Item] += g.End - g.Start
			}
			if g.Kind == score.Finish {
				require.Equal(t, float64(p.UpS), g.End-g.Start, where)
				require.Equal(t, len(p.Items)-1, g.Item, "getting up belongs to the last item")
			}
		}
		for i := range p.Items {
			require.Equal(t, float64(p.Items[i].Transition-p.Items[i].TurnS), moved[i], "%s: the way to item %d", where, i)
			blocks += p.Items[i].Block
		}
		again, err := score.Build(p, f)
		require.NoError(t, err)
		require.Equal(t, s, again, where)
		data, err := json.Marshal(s)
		require.NoError(t, err)
		var back score.Score
		require.NoError(t, json.Unmarshal(data, &back))
		sound(t, &back, where)
		kinds[p.Template] = true
	})
	assert.Greater(t, len(kinds), 5, "of many kinds")
	assert.Positive(t, blocks, "side blocks among them")
}

// In a side block everything is done on one side before the other, and both are there.
func TestASideBlockTurnsOverOnce(t *testing.T) {
	clam, _ := cat.Version("clam")
	thigh, _ := cat.Version("inner-thigh-lift")
	a, b := item(clam, trade.Each, clam.Dose("reps", 0)), item(thigh, trade.Each, thigh.Dose("reps", 0))
	a.Block, b.Block, b.TurnS = 1, 1, 7
	b.First = trade.Right
	s, err := score.Build(only(12, a, b), facts(t, nil))
	require.NoError(t, err)
	sound(t, s, "block")
	var order []string
	for _, g := range s.Segments {
		if g.Kind == score.Work || g.Kind == score.Change {
			what := fmt.Sprintf("%d %s %s", g.Item, g.Kind, g.Side)
			if k := len(order); k == 0 || order[k-1] != what {
				order = append(order, what)
			}
		}
	}
	assert.Equal(t, []string{"0 work left", "1 work right", "0 change right", "0 work right", "1 change left", "1 work left"}, order)
	for _, g := range s.Segments {
		if g.Kind == score.Change && g.Item == 0 {
			assert.Equal(t, 15.0, g.End-g.Start, "turning over")
		}
	}
}

// A change at any second leaves a valid score: what ran is as it was, the rest follows.
func TestAChangeAtAnySecondIsValid(t *testing.T) {
	drawn(t, few(3), func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err)
		rest := p.Items[len(p.Items)/2:]
		for n := 0; float64(n)*11.7 <= s.Seconds; n++ {
			at := math.Round(11700*float64(n)) / 1000
			for _, next := range []score.Next{{}, {Finish: true, Items: rest}, {Items: rest}} {
				here := fmt.Sprintf("%s at %g, finish %v, %d items", where, at, next.Finish, len(next.Items))
				q, err := score.Changed(s, at, "too-hard", next, f)
				require.NoError(t, err, here)
				sound(t, q, here)
				require.Equal(t, s.Rev+1, q.Rev)
				require.Equal(t, at, q.ChangedS)
				for i := range s.Segments {
					g := &s.Segments[i]
					if g.End <= at { // what ran is kept
						require.Equal(t, *g, q.Segments[i], here)
					}
				}
				if g := &q.Segments[q.Running(at)]; at > 0 && at < s.Seconds && !next.Finish {
					require.True(t, q.Segments[max(0, q.Running(at)-1)].End == at || g.Start == at || g.End == at, here)
				}
			}
		}
	})
	s, err := score.Build(&plan.Plan{}, facts(t, nil))
	require.NoError(t, err)
	_, err = score.Changed(s, 4, "", score.Next{}, facts(t, nil))
	assert.ErrorContains(t, err, "changed_s: found 4, allowed: 0 to 0")
}

// To keep the end, what is least worth gives way: a set first, then all of it; what is locked stays.
func TestTheEndIsKept(t *testing.T) {
	v, _ := cat.Version("bridge")
	w, _ := cat.Version("clam")
	big, small := item(v, trade.None, v.Dose("reps", 0)), item(w, trade.Each, w.Dose("reps", 0))
	big.Aims, small.Aims = map[string]float64{"hip-strength": 3}, map[string]float64{"hip-strength": 1}
	small.Dose.Sets, small.Dose.RestS = 2, 20
	f := facts(t, nil)
	whole, err := score.Build(only(12, big, small), f)
	require.NoError(t, err)
	standing := plan.Place{Position: trade.Standing}
	out, said, fits := score.KeepEnd([]plan.Item{big, small}, standing, int(whole.Seconds), f)
	assert.True(t, fits)
	assert.Empty(t, said)
	assert.Len(t, out, 2)
	out, said, fits = score.KeepEnd([]plan.Item{big, small}, standing, int(whole.Seconds)-10, f)
	assert.True(t, fits)
	assert.Equal(t, []string{w.Name + ": a set less"}, said)
	assert.Equal(t, 1, out[1].Dose.Sets)
	out, said, fits = score.KeepEnd([]plan.Item{big, small}, standing, int(whole.Seconds)-140, f)
	assert.True(t, fits)
	assert.Equal(t, []string{w.Name + ": left out"}, said)
	assert.Len(t, out, 1)
	big.Locked = true
	_, _, fits = score.KeepEnd([]plan.Item{big}, standing, 5, f)
	assert.False(t, fits, "what is locked stays")
}

// Sixty minutes are laid out in under ten milliseconds.
func BenchmarkSixtyMinutes(b *testing.B) {
	v, _ := cat.Version("clock-circle")
	var items []plan.Item
	total := 0
	for total < 3600 {
		it := item(v, trade.None, v.Dose("reps", 2))
		items = append(items, it)
		total += it.Dose.Seconds(12, it.Sides())
	}
	f := facts(b, func(c *intake.Client) {})
	p := only(12, items...)
	for b.Loop() {
		if _, err := score.Build(p, f); err != nil {
			b.Fatal(err)
		}
	}
}
