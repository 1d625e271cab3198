package edit_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/edit"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

// minutesOf is the minutes that items of some aims take in a plan.
func minutesOf(p *plan.Plan, aims ...string) (minutes float64) {
	for i := range p.Items {
		v, _ := plantest.Cat.Version(p.Items[i].Version)
		if p.Items[i].Role != trade.Reset && len(v.MainAims) > 0 && catalogue.Has(aims, v.MainAims[0]) {
			minutes += float64(p.Items[i].End-p.Items[i].Start) / 60
		}
	}
	return minutes
}

func versions(p *plan.Plan) (out []string) {
	for i := range p.Items {
		out = append(out, p.Items[i].Version)
	}
	return out
}

// A further proposal is of its character, is never worth more than what is proven best, and stays what
// it is when it is rebuilt.
func TestAlternativesAreOfAnotherCharacter(t *testing.T) {
	mobility := []string{"spinal-mobility", "thoracic-mobility", "hip-mobility"}
	for name, aims := range map[string]map[string]float64{
		"nothing said": nil,
		"strength":     {"back-strength": 3, "hip-strength": 2, "anti-extension": 2},
		"balance":      {"balance": 3, "leg-strength": 2},
	} {
		c := plantest.Able()
		c.Aims = aims
		r := plantest.For(t, c, nil, 30)
		best, err := propose.Build(r)
		require.NoError(t, err)
		found := map[string]plan.Alternative{}
		for _, a := range edit.Alternatives(r, best) {
			found[a.Character] = a
			assert.Equal(t, a.Character, a.Plan.Character)
			if best.Proven {
				assert.GreaterOrEqual(t, a.Costs, -1e-3, "%s: %s", name, a.Character)
			}
			again, err := edit.Rebuild(r, a.Plan)
			require.NoError(t, err)
			assert.Equal(t, versions(a.Plan), versions(again), "%s: %s", name, a.Character)
		}
		more, place := found[plan.MoreMobility], found[plan.OtherPlace]
		require.NotNil(t, more.Plan, name)
		require.NotNil(t, place.Plan, name)
		assert.Greater(t, minutesOf(more.Plan, mobility...), minutesOf(best, mobility...), name)
		assert.NotEqual(t, best.Place, place.Plan.Place, name)
		require.NoError(t, edit.Lean(r, more.Plan, "best"))
		plain, err := edit.Rebuild(r, more.Plan)
		require.NoError(t, err)
		assert.Equal(t, versions(best), versions(plain), name)
		assert.ErrorContains(t, edit.Lean(r, best, "louder"), "allowed: best, more-mobility")
	}
	all, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	trio := slices.IndexFunc(all, func(k kinds.Template) bool { return k.Slug == "short-holds-trio" })
	own := plantest.For(t, plantest.Able(), nil, 20).For(&all[trio])
	p, err := propose.Build(own)
	require.NoError(t, err)
	assert.Empty(t, edit.Alternatives(own, p), "the kind sets what it holds")
}
