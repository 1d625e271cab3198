package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/catalogue"
	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/plantest"
)

// Neighbouring rungs are layers of one item, as far as they suit in the same set-up.
func TestLayersShareASetUp(t *testing.T) {
	r := plantest.For(t, plantest.Able(), nil, 30)
	p, err := propose.Build(r)
	require.NoError(t, err)
	if plantest.Index(p, "dead-bug-arm") < 0 {
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: "dead-bug-arm"}))
	}
	at := func() *plan.Item { return &p.Items[plantest.Index(p, "dead-bug-arm")] }
	change := func(op string) error {
		return edit.Apply(r, p, edit.Edit{Op: op, Item: plantest.Index(p, "dead-bug-arm")})
	}
	before := at().End - at().Start
	require.NoError(t, change("layer"))
	it := at()
	require.Len(t, it.Layers, 2)
	assert.Equal(t, "dead-bug-arm", it.Layers[0])
	assert.Equal(t, before+catalogue.Explain(0)/2, it.End-it.Start, "a further layer is half the explaining")
	assert.True(t, it.ByHand)
	v, _ := plantest.Cat.Version(it.Layers[1])
	assert.Equal(t, "dead-bug", v.Family)
	q, err := edit.Rebuild(r, p)
	require.NoError(t, err)
	p = q
	assert.Len(t, at().Layers, 2, "stays when the rest is rebuilt")
	require.NoError(t, change("unlayer"))
	assert.Empty(t, at().Layers)
	assert.Equal(t, before, at().End-at().Start)
	assert.ErrorContains(t, change("unlayer"), "no layers")
	for range 3 {
		err = change("layer")
	}
	assert.Error(t, err, "three layers at most, and a trial stays the last")
}
