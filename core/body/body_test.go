package body

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSegmentMassesSumToOne(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		sum := 0.0
		for i, m := range reference[sex].mass {
			if sum += m; i >= 4 { // head and trunk once, limbs twice
				sum += m
			}
		}
		assert.InDelta(t, 100, sum, 0.05)
	}
}

func TestMarginOfSupport(t *testing.T) {
	square := []Vec{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}}
	assert.InDelta(t, 0.5, Margin(Vec{0.5, 0.5, 9}, square), 1e-9)
	assert.InDelta(t, 0.1, Margin(Vec{0.9, 0.5, 0}, square), 1e-9)
	assert.Negative(t, Margin(Vec{1.2, 0.5, 0}, square))
}

// Where the ground's push must act when a band pulls: worked by hand for a pull of a
// tenth of body weight to the side at one metre.
func TestEffectiveCentreByHand(t *testing.T) {
	com := Vec{0.1, 0, 1}
	assert.InDelta(t, 0.1, EffectiveCentre(com, nil)[0], 1e-12)
	c := EffectiveCentre(com, []Pull{{At: Vec{0.1, 0, 1}, Force: Vec{0, -0.1, 0}}})
	assert.InDelta(t, -0.1, c[1], 1e-9, "0.1 of body weight at 1 m moves it 10 cm")
	c = EffectiveCentre(com, []Pull{{At: Vec{0.6, 0, 0.8}, Force: Vec{0, 0, -0.25}}})
	assert.InDelta(t, (0.1+0.25*0.6)/1.25, c[0], 1e-9, "a quarter more weight, half a metre ahead")
}

// Forward placement by hand: a straight arm hanging from an upright trunk ends where the
// segment lengths say.
func TestPlaceAgreesWithTheSegmentLengths(t *testing.T) {
	b := NewBody(Male, 0)
	upright := Quat{1, 0, 0, 0}
	st := State{Turn: upright}
	var f Frames
	b.Place(&st, &f)
	down := b.Point(&f, "shoulder.left").Sub(b.Point(&f, "wrist.left"))
	assert.InDelta(t, b.upperArm+b.forearm, down[2], 1e-9)
	leg := b.Point(&f, "hip.right").Sub(b.Point(&f, "ankle.right"))
	assert.InDelta(t, b.thigh+b.shank, leg[2], 1e-9)
	assert.InDelta(t, b.Stature, b.Point(&f, "crown")[2]-b.SpherePoint(&f, slices.IndexFunc(b.Spheres, func(s Sphere) bool { return s.Name == "heel.left" }))[2], 0.03*b.Stature)
	st.Q[Limb(Left, HipFlex)] = math.Pi / 2
	b.Place(&st, &f)
	assert.InDelta(t, b.thigh, b.Point(&f, "knee.left")[0]-b.Point(&f, "hip.left")[0], 1e-9, "a bent hip points the thigh forward")
	st = State{Turn: upright}
	st.Q[LumbarTurn], st.Q[LumbarSide] = 0, 20*Deg
	b.Place(&st, &f)
	assert.Positive(t, b.Point(&f, "crown")[1], "side-bend left goes left")
}
