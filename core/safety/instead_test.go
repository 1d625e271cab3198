package safety_test

import (
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
	"pgregory.net/rapid"

	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// Adapts and swaps are what a teacher would answer.
func TestInsteadTable(t *testing.T) {
	rules, cat := load(t)
	data, err := os.ReadFile("testdata/instead.yaml")
	require.NoError(t, err)
	var table struct {
		Rows []struct {
			Conditions []intake.Condition
			Clear      bool
			Version    string
			Use, Ease  []string
			First      []string
			Never      []string
		}
	}
	require.NoError(t, yaml.Unmarshal(data, &table))
	assert.GreaterOrEqual(t, len(table.Rows), 60)
	for _, row := range table.Rows {
		c := able()
		c.Conditions = row.Conditions
		if row.Clear {
			c.Clearances = []intake.Clearance{{Date: today.AddDays(-30), By: "specialist", Covers: []string{row.Conditions[0].Code}}}
		}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		r, ok := s.Screen(row.Version).Result(row.Version)
		require.True(t, ok, row.Version)
		require.Nil(t, s.Referral(), row.Version)
		what := row.Conditions[0].Code + ": " + row.Version
		switch {
		case r.Verdict == trade.Adapt && r.Use == row.Version:
			assert.Contains(t, row.Ease, r.Eases[0], what)
		case r.Verdict == trade.Adapt:
			assert.Contains(t, row.Use, r.Use, what)
		default:
			assert.Empty(t, append(row.Use, row.Ease...), "%s is %s", what, r.Verdict)
		}
		if row.First != nil && assert.NotEmpty(t, r.Swaps, what) {
			assert.Contains(t, row.First, r.Swaps[0], what)
		}
		for _, v := range append(slices.Clone(r.Swaps), r.Use) {
			assert.NotContains(t, row.Never, v, what)
		}
	}
}

// Whatever the client: an adapt's target is no harder, measures no more of anything that was found
// and has no findings of its own; a swap suits, is no harder unless it is written, and serves a main
// aim; what is out on one side only has swaps too.
func TestAdaptsAndSwapsAreSound(t *testing.T) {
	rules, cat := load(t)
	rapid.Check(t, func(t *rapid.T) {
		s, err := safety.NewScreener(rules, cat, client(t, 3), today)
		require.NoError(t, err)
		sc := s.Screen()
		for i := range sc.Results {
			r := &sc.Results[i]
			v, _ := cat.Version(r.Version)
			if r.Verdict == trade.Adapt && r.Use != v.Slug {
				w, _ := cat.Version(r.Use)
				target, _ := sc.Result(r.Use)
				if w.Effort > v.Effort || w.Family != v.Family || target.Verdict != trade.Suits || len(target.Findings) > 0 {
					t.Fatalf("%s: %s, effort %d of %d, %s with %+v", v.Slug, w.Slug, w.Effort, v.Effort, target.Verdict, target.Findings)
				}
				for _, f := range r.Findings { // of what the finding names it has no more
					if got, has := w.Quantities[f.Quantity]; has && got.Value > f.Value+0.01 && got.Value > f.Allowed+0.01 {
						t.Fatalf("%s: %s has %s %.2f, more than %.2f", v.Slug, w.Slug, f.Quantity, got.Value, f.Value)
					}
				}
			}
			for _, slug := range r.Swaps {
				w, _ := cat.Version(slug)
				got, _ := sc.Result(slug)
				of := v.MainAims
				if cat.SwapWritten(v, w) {
					of = v.Aims
				}
				shares := slices.ContainsFunc(of, func(a string) bool { return slices.Contains(w.Aims, a) })
				if got.Verdict != trade.Suits || !shares || w.Effort > v.Effort && !cat.SwapWritten(v, w) {
					t.Fatalf("%s: swap %s is %s, effort %d of %d, aims %v of %v", v.Slug, slug, got.Verdict, w.Effort, v.Effort, w.Aims, v.MainAims)
				}
			}
		}
	})
}
