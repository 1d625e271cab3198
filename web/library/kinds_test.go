package library

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/web/site"
)

// A kind that is opened and saved unchanged stays what it was: the form loses nothing of it.
func TestAKindSavedUnchangedStaysWhatItWas(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	kinds, err := restbend.Templates(cat)
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	s := &Library{Site: &site.Site{Cat: cat, Rules: rules}}
	for i := range kinds {
		k := &kinds[i]
		again, problems := s.kindOf(k, k.Slug, kindValues(k))
		assert.Empty(t, problems, k.Slug)
		for _, list := range []*[]string{&again.For, &again.Prepare, &again.Finish} {
			if len(*list) == 0 {
				*list = nil
			}
		}
		if len(again.Positions) == 0 {
			again.Positions = nil
		}
		if len(again.Surfaces) == 0 {
			again.Surfaces = nil
		}
		assert.Equal(t, *k, again, k.Slug)
	}
}
