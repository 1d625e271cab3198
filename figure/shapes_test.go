package figure

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/trade"
)

func TestMixBlendsColours(t *testing.T) {
	assert.Equal(t, "#000000", mix("#000000", "#ffffff", 0))
	assert.Equal(t, "#ffffff", mix("#000000", "#ffffff", 1))
	assert.Equal(t, "#808080", mix("#000000", "#ffffff", 0.5))
}

func TestTheConvexOutlineDropsInnerPoints(t *testing.T) {
	in := []p2{{0, 0}, {10, 0}, {10, 10}, {0, 10}, {5, 5}, {5, 1}}
	out := support(in, 16)
	assert.Len(t, out, 16, "always as many points as asked")
	for _, corner := range in[:4] {
		assert.Contains(t, out, corner)
	}
	assert.NotContains(t, out, p2{5, 5})
	assert.NotContains(t, out, p2{5, 1})
}

func TestABallIsRoundFromEverySide(t *testing.T) {
	for _, p := range ovalOf(p2{3, 4}, p2{2, 0}, p2{0, 1.2}, p2{0, 1.6}, 24) { // a ball of 2, turned
		assert.InDelta(t, 2, p.sub(p2{3, 4}).len(), 1e-9)
	}
	for _, p := range ovalOf(p2{3, 4}, p2{}, p2{}, p2{}, 8) {
		assert.Equal(t, p2{3, 4}, p, "nothing to see is a point")
	}
}

func TestOutlines(t *testing.T) {
	square := []p2{{0, 0}, {10, 0}, {10, 10}, {0, 10}}
	draw := func(q []p2, open, sharp bool) string {
		var sb strings.Builder
		outline(&sb, q, open, sharp)
		return sb.String()
	}
	assert.Equal(t, "M0 0L10 0L10 10L0 10Z", draw(square, false, true))
	assert.Equal(t, "M0 0L10 0", draw(square[:2], true, false))
	smooth := draw(square, false, false)
	assert.Equal(t, 4, strings.Count(smooth, "C"))
	assert.True(t, strings.HasPrefix(smooth, "M0 0C") && strings.HasSuffix(smooth, "Z"))
	assert.Empty(t, draw(nil, false, false))
	assert.NotContains(t, draw(nothing(p2{5, 5}, 6), false, false), "NaN")
}

// A mirrored person seen by the mirrored camera is the mirrored picture.
func TestTheFlippedCameraMirrors(t *testing.T) {
	c, f := newCamera("side", false), newCamera("side", true)
	for _, v := range []body.Vec{{1, 0.3, 0.5}, {-0.2, -0.4, 1.1}, {0, 0.1, 0}} {
		x, y, d := c.see(v)
		fx, fy, fd := f.see(body.Vec{v[0], -v[1], v[2]})
		assert.InDelta(t, x, -fx, 1e-9)
		assert.InDelta(t, y, fy, 1e-9)
		assert.InDelta(t, d, fd, 1e-9)
	}
}

func TestTheFrontViewLooksAtTheFace(t *testing.T) {
	c := newCamera("front", false)
	_, _, nose := c.see(body.Vec{0.1, 0, 1.5})
	_, _, back := c.see(body.Vec{-0.1, 0, 1.5})
	assert.Less(t, nose, back, "the face is nearer")
	left, _, _ := c.see(body.Vec{0, 0.2, 1})
	right, _, _ := c.see(body.Vec{0, -0.2, 1})
	assert.Greater(t, left, right, "facing us, the client's left is on our right")
}

// Only a limb that lies behind, from the side, and does nothing is paler.
func TestLimbsThatWorkAreNeverPale(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	d := NewDrawer(body.NewBody(body.Female, 0))
	pale := func(slug, side string) (out []string) {
		v, ok := cat.Version(slug)
		require.True(t, ok, slug)
		for joint, is := range d.Sequence(v, trade.Side(side)).base.pale {
			if is {
				out = append(out, joint)
			}
		}
		slices.Sort(out)
		return out
	}
	for _, slug := range []string{"anti-rotation-press", "press-step-out", "hundred-head-up", "arms-float", "plank", "plank-hand", "bear-hover", "squat", "sit-to-stand", "roll-down-half", "stretch-forward", // both sides work
		"seated-turn", "neck-tilt", "one-leg", "side-sway", "carry-one-side", "spring-leg-circle", "clock-3-9", // seen from before or from the feet
		"lying-tree", "knee-rock-hold", "open-book", "lying-diamond"} { // seen from above
		assert.Empty(t, pale(slug, ""), slug)
	}
	assert.Equal(t, []string{"hip.left", "shoulder.left"}, pale("deep-core-leg-slide", "right"), "arms and the other leg rest")
	assert.Equal(t, []string{"hip.right", "shoulder.right"}, pale("deep-core-leg-slide", "left"), "mirrored")
	assert.Equal(t, []string{"shoulder.left"}, pale("dead-bug-leg", "right"), "a leg in the air works")
	assert.Equal(t, []string{"shoulder.left"}, pale("dead-bug-chair", "right"))
	for _, v := range cat.Versions { // and nobody loses both arms or both legs
		is := pale(v.Slug, "")
		assert.False(t, slices.Contains(is, "hip.left") && slices.Contains(is, "hip.right"), v.Slug)
		assert.False(t, slices.Contains(is, "shoulder.left") && slices.Contains(is, "shoulder.right"), v.Slug)
	}
}

func TestNumbersAreShort(t *testing.T) {
	for v, want := range map[float64]string{0: "0", 0.04: "0", -0.04: "0", 1: "1", 1.25: "1.3", -1.25: "-1.3", 0.5: "0.5", -0.5: "-0.5", 120: "120", -99.96: "-100", 10.06: "10.1"} {
		assert.Equal(t, want, num(v), "%v", v)
	}
}
