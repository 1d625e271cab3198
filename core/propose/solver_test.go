package propose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/solve"
	"restbend/plantest"
)

func general(t testing.TB, m *solve.Model, seconds string) plantest.Solved {
	if testing.Short() {
		t.Skip("needs a general solver")
	}
	t.Helper()
	s, err := plantest.Solve(m, t.TempDir(), seconds)
	require.NoError(t, err)
	return s
}

// The search is held against proven optima of the same model by a general solver: never
// above (that would be a mistake in one of the two), nearly always equal.
func TestTheSearchAgainstAGeneralSolver(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr, err := plantest.Load()
	require.NoError(t, err)
	proven, equal, same := 0, 0, 0
	for seed := uint64(3000); proven < 10 && seed < 3030; seed++ {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		if r.Screening.Refer != nil {
			continue
		}
		m := propose.State(r)
		s, ok := solve.NewSearch(m.Model)
		if !ok {
			continue
		}
		s.Run()
		_, value, ok := s.Best()
		if !ok {
			continue
		}
		opt := general(t, m.Model, "20")
		require.False(t, opt.Refutes(value), "seed %d: %.4f is more than the solver's bound %.4f", seed, value, opt.Bound)
		if !opt.Found {
			continue
		}
		best, fine := m.Value(opt.Selection)
		require.True(t, fine, "seed %d: the solver's session breaks a rule of the model", seed)
		assert.InDelta(t, best, m.Layout(r, opt.Selection).Score, 1e-3, "seed %d: laid out it is worth the same", seed)
		if !opt.Proven {
			continue
		}
		proven++
		if s.Proven() {
			same++
			assert.InDelta(t, best, value, 1e-6, "seed %d: both proved it", seed)
		}
		assert.LessOrEqual(t, value, best+1e-6, "seed %d: better than the proven optimum", seed)
		assert.GreaterOrEqual(t, value, best-0.005*max(10, best), "seed %d: far from the proven optimum", seed)
		if value > best-1e-6 {
			equal++
		}
	}
	assert.GreaterOrEqual(t, proven, 8)
	assert.GreaterOrEqual(t, 2*same, proven, "the search proves most of them too")
	assert.GreaterOrEqual(t, 10*equal, 8*proven, "%d of %d equal", equal, proven)
}

// A model that a solver calls infeasible is refused, and a locked item is in every answer.
func TestLockedItemsAreInTheModel(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 20)
	p, err := propose.Build(r)
	require.NoError(t, err)
	it := p.Items[1]
	it.Locked = true
	around, err := edit.Around(r, &plan.Plan{Items: []plan.Item{it}})
	require.NoError(t, err)
	m := propose.State(around)
	q := m.Layout(around, general(t, m.Model, "20").Selection)
	found := false
	for _, x := range q.Items {
		found = found || x.Version == it.Version && x.Locked
	}
	assert.True(t, found, "%s is locked", it.Version)
}

// When no session keeps every rule, the search finds nothing and the solver proves it.
func TestNothingIsPossibleForBoth(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 20)
	m := propose.State(r)
	m.Most = 60 // an opener and a closer alone take longer
	m.Least = 50
	s, ok := solve.NewSearch(m.Model)
	require.True(t, ok)
	s.Run()
	_, _, found := s.Best()
	assert.False(t, found)
	assert.False(t, s.Proven())
	assert.True(t, general(t, m.Model, "20").None)
}
