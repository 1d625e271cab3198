package figure_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/pose"
	"restbend/figure"
)

// Every base pose is drawn, and nothing else.
func TestBasePosesAreDrawn(t *testing.T) {
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	for _, name := range append(pose.BaseNames(), "side-lying-right", "half-kneeling-right", figure.BeforeChair) {
		svg, err := d.Base(name, figure.Options{Title: name})
		require.NoError(t, err, name)
		assert.True(t, strings.HasPrefix(svg, "<svg "), name)
		assert.Contains(t, svg, "<title>"+name+"</title>")
		assert.Greater(t, strings.Count(svg, "<path"), 5, name)
		again, err := d.Base(name, figure.Options{Title: name})
		require.NoError(t, err)
		assert.Equal(t, svg, again, "the same each time")
	}
	standing, err := d.Base("standing", figure.Options{})
	require.NoError(t, err)
	before, err := d.Base(figure.BeforeChair, figure.Options{})
	require.NoError(t, err)
	assert.Greater(t, strings.Count(before, "<path"), strings.Count(standing, "<path"), "the chair is there before anybody sits")
	_, err = d.Base("hanging", figure.Options{})
	assert.ErrorContains(t, err, "unknown base")
}
