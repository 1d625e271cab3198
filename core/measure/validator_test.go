package measure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/measure"
)

// TestValidator solves every version and ease on both bodies and both sides, checks the
// paths between phases, the mirrored solve and the solve from a disturbed start, and
// compares with the generated file. Any finding fails the build.
func TestValidator(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	src, err := restbend.CatalogueSource()
	require.NoError(t, err)
	read, err := catalogue.Read(src)
	require.NoError(t, err)
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	all, err := measure.SolveAll(read.Versions, true)
	require.NoError(t, err)
	for i := range all {
		v := &all[i]
		assert.Empty(t, v.Findings, v.Name())
		if v.Ease != nil {
			continue
		}
		stored, _ := cat.Version(v.Version.Slug)
		for i := range v.Solved.Phases {
			for k := range v.Solved.Phases[i].State {
				assert.InDelta(t, v.Solved.Phases[i].State[k], stored.Solved.Phases[i].State[k], 20, "%s phase %d differs from the generated file", v.Name(), i)
			}
		}
	}
}

// A way that a joint, or the head in space, takes too fast makes an exercise quick.
func TestTooFastAWayIsQuick(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	for _, row := range []struct {
		slug    string
		seconds float64
		by      string
		most    float64
		other   string
		under   float64
	}{
		{"dead-bug-chair", 1, "speed", 90, "head-speed", 45},     // the arm
		{"roll-down-standing", 3, "head-speed", 45, "speed", 90}, // the head alone
	} {
		old, ok := cat.Version(row.slug)
		require.True(t, ok)
		v := *old
		v.Phases = append([]catalogue.Phase(nil), old.Phases...)
		for i := range v.Phases {
			v.Phases[i].Seconds = row.seconds
		}
		s, _, err := measure.NewSolver().Solve(&v, nil, false)
		require.NoError(t, err)
		v.Attach(s)
		assert.Greater(t, v.Quantities[row.by].Value, row.most, row.slug)
		assert.Less(t, v.Quantities[row.other].Value, row.under, row.slug)
		assert.Equal(t, 1.0, v.Quantities["quick"].Value, row.slug)
		assert.Zero(t, old.Quantities["quick"].Value)
	}
}
