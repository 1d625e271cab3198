package spot_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/plantest"
)

// Every setting of the catalogue has its small moves, and what the client may not have is not among them.
func TestSettings(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	screener := func(conditions ...intake.Condition) *safety.Screener {
		s, err := safety.NewScreener(tr.Rules, tr.Cat, &intake.Client{Format: "restbend.client/1", Born: 1960, Conditions: conditions}, trade.MustDay("2026-11-20"))
		require.NoError(t, err)
		return s
	}
	free := screener()
	seen := map[string]bool{}
	for _, v := range tr.Cat.Versions {
		list := spot.Settings(v, free)
		assert.Len(t, list, len(v.Settings), v.Slug)
		for _, s := range list {
			seen[s.Key] = true
			assert.NotEqual(t, len(s.Steps) > 0, len(s.Words) > 0, "%s: steps or words", s.Key)
			assert.True(t, len(s.Words) > 0 || s.Most > s.Least, s.Key)
		}
	}
	for slug, want := range map[string]float64{"plank-sofa": 44, "sit-to-stand-high": 54, "sit-to-stand-counter": 55, "plank-wall": 0} {
		v, ok := tr.Cat.Version(slug)
		require.True(t, ok, slug)
		assert.Equal(t, want, spot.Settings(v, free)[0].Start, "%s begins where its surface is", slug)
	}
	for _, key := range catalogue.Settings {
		assert.True(t, seen[key], "no exercise is set by %s", key)
	}
	find := func(slug, key string, s *safety.Screener) spot.Setting {
		v, ok := tr.Cat.Version(slug)
		require.True(t, ok, slug)
		for _, one := range spot.Settings(v, s) {
			if one.Key == key {
				return one
			}
		}
		require.Fail(t, "no setting", slug+" "+key)
		return spot.Setting{}
	}
	yes := true
	fractured := screener(intake.Condition{Code: "osteoporosis", Fracture: &yes})
	weighted, sprung := "", ""
	for _, v := range tr.Cat.Versions {
		for _, key := range v.Settings {
			switch key {
			case "weight_kg":
				weighted = v.Slug
			case "spring":
				sprung = v.Slug
			}
		}
	}
	assert.Equal(t, []string{"light", "medium", "heavy"}, find(sprung, "spring", free).Words)
	assert.Equal(t, []string{"light"}, find(sprung, "spring", fractured).Words, "a heavy spring compresses")
	assert.Equal(t, 20.0, find(weighted, "weight_kg", free).Most)
	assert.Equal(t, 2.0, find(weighted, "weight_kg", fractured).Most, "2 kg after a vertebral fracture")
}
