package safety_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/safety"
)

// Caps on holds mean muscles held against load: breath, rest, walking and waves of effort 1 and 2 are none, a round that
// goes on does not exempt by itself. What is expected stands on the right, seconds, 0 for no cap; source: common practice.
func TestCapsMeanMusclesHeld(t *testing.T) {
	rules, cat := load(t)
	yes := true
	for _, c := range []struct {
		client intake.Condition
		want   map[string]int
	}{
		{intake.Condition{Code: "heart-condition", More: map[string]any{"kind": "failure"}}, map[string]int{
			"easy-walk": 0, "low-breath-chair": 0, "low-breath-supine": 0, "side-rib-breath-chair": 0, "neck-tilt": 0, "prone-rest": 0, "spine-wave": 0, "reset-sweep-lying": 0,
			"one-leg-held": 5, "plank-counter": 5, "side-plank-counter": 5, "swim": 5, "one-leg-head-turns": 5, "bridge": 5, "hip-hinge-pulse": 5}},
		{intake.Condition{Code: "breathlessness", More: map[string]any{"flat_ok": yes}}, map[string]int{
			"easy-walk": 0, "low-breath-supine": 0, "side-rib-breath-chair": 0, "plank-counter": 10, "clam": 10, "bridge": 10}},
		{intake.Condition{Code: "high-blood-pressure"}, map[string]int{"easy-walk": 0, "low-breath-chair": 0, "plank-counter": 10, "side-plank-wall": 10}},
		{intake.Condition{Code: "knee-pain"}, map[string]int{"plank-counter": 0, "easy-walk": 0}},
	} {
		client := able()
		client.Conditions = []intake.Condition{c.client}
		s, err := safety.NewScreener(rules, cat, client, today)
		require.NoError(t, err)
		for slug, want := range c.want {
			v, ok := cat.Version(slug)
			require.True(t, ok, slug)
			got, _ := s.HoldCap(v)
			assert.Equal(t, want, got, "%s with %s", slug, c.client.Code)
		}
	}
}
