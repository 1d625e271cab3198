package figure

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/body"
)

func TestMixBlendsColours(t *testing.T) {
	assert.Equal(t, "#000000", mix("#000000", "#ffffff", 0))
	assert.Equal(t, "#ffffff", mix("#000000", "#ffffff", 1))
	assert.Equal(t, "#808080", mix("#000000", "#ffffff", 0.5))
}

func TestCapsuleOfACircleInsideAnotherIsTheLargerCircle(t *testing.T) {
	assert.Equal(t, circle(0, 0, 10), capsule(0, 0, 10, 2, 0, 3))
	assert.Equal(t, circle(2, 0, 10), capsule(0, 0, 3, 2, 0, 10))
	assert.Equal(t, 2, strings.Count(capsule(0, 0, 5, 30, 0, 4), "A"), "two arcs and their tangents")
}

func TestHullDropsInnerPoints(t *testing.T) {
	h := hull2([][2]float64{{0, 0}, {10, 0}, {10, 10}, {0, 10}, {5, 5}, {5, 0}})
	assert.Equal(t, 4, strings.Count(h, "L")+strings.Count(h, "M"))
	assert.True(t, strings.HasSuffix(h, "Z"))
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

func TestNumbersAreShort(t *testing.T) {
	for v, want := range map[float64]string{0: "0", 0.04: "0", -0.04: "0", 1: "1", 1.25: "1.3", -1.25: "-1.3", 0.5: "0.5", -0.5: "-0.5", 120: "120", -99.96: "-100", 10.06: "10.1"} {
		assert.Equal(t, want, num(v), "%v", v)
	}
}
