package safety_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/safety"
)

func words(t testing.TB) *safety.Vocabulary {
	t.Helper()
	v, err := restbend.Vocabulary()
	require.NoError(t, err)
	return v
}

// Whatever is measured of a movement stands in the vocabulary, and whatever a limit names.
func TestEveryMeasuredQuantityHasItsWords(t *testing.T) {
	rules, cat := load(t)
	v := words(t)
	for _, name := range cat.Table().Names() {
		assert.True(t, v.Known(name), name)
		assert.NotContains(t, v.Words(name), "{", name)
		assert.NotEmpty(t, v.Point(name), name)
	}
	for _, c := range rules.Conditions {
		for i := range c.Limits {
			assert.True(t, v.Known(c.Limits[i].Quantity), "%s: %s", c.Code, c.Limits[i].Quantity)
		}
	}
	assert.False(t, v.Known("lumbar.wobble"))
	assert.False(t, v.Known("elbow.flexion"))
	assert.False(t, v.Known("moment.rsing"), "a misspelt part would never be crossed")
	assert.False(t, v.Known("effort.left"))
	assert.False(t, v.Known("lumbar.flexion.sideways"))
}

func TestQuantitiesInWords(t *testing.T) {
	v := words(t)
	for _, c := range []struct {
		name                       string
		value                      float64
		words, unit, amount, point string
	}{
		{"lumbar.flexion.loaded", 10, "low back bends under load", "degrees", "10°", "lumbar"},
		{"trunk.rotation", 12.4, "whole trunk turns", "degrees", "12°", "trunk"},
		{"{region}.side-bend", 4, "recorded region bends sideways", "degrees", "4°", "lumbar"},
		{"arm-load.left", 0.1, "weight on the left arm", "of body weight", "10 % of body weight", "palm.left"},
		{"hip.flexion.right", 95, "right hip bent", "degrees", "95°", "hip.right"},
		{"hip.across.{side}", 2, "recorded knee across the midline", "cm", "2 cm", "pubis"},
		{"moment", 0.625, "what gravity asks of the low back", "Nm/kg", "0.625 Nm/kg", "lumbar"},
		{"effort", 6, "effort", "of 10", "6 of 10", "pubis"},
		{"head-lift", 1, "head lifted from lying", "", "yes", "crown"},
		{"standing.free", 0, "standing without a hold", "", "not at all", "crown"},
		{"something.new", 3, "something new", "degrees", "3°", "pubis"},
	} {
		assert.Equal(t, c.words, v.Words(c.name), c.name)
		assert.Equal(t, c.unit, v.Unit(c.name), c.name)
		assert.Equal(t, c.amount, v.Amount(c.name, c.value), c.name)
		assert.Equal(t, c.point, v.Point(c.name), c.name)
	}
}

const smallest = "units: [{unit: degrees, most: 180}]\nregions: [{name: lumbar, words: low back, point: lumbar}]\ndirections: {flexion: bends}\n"

func TestMistakesInAQuantitiesFile(t *testing.T) {
	for file, want := range map[string]string{
		"units: [{unit: degrees, most: 180}]":                                          "regions, directions",
		smallest + "quantities: [{name: a, unit: degrees, point: pubis}]":              `"a" needs name, words and point`,
		smallest + "quantities: [{name: a, words: b, unit: inches, point: pubis}]":     `a: found unit "inches", allowed: degrees`,
		smallest + "quantity: []":                                                      "field quantity not found",
		smallest + "quantities: [&a {name: a, words: b, unit: degrees, point: p}, *a]": "a stands twice",
	} {
		_, err := safety.ParseVocabulary([]byte(file))
		assert.ErrorContains(t, err, want)
	}
	_, err := safety.ParseRules([]byte("conditions: [{code: a, limits: [{quantity: lumbar.flexoin, max: 3, reason: r, source: s}]}]"), words(t))
	assert.ErrorContains(t, err, "lumbar.flexoin")
}

// A quantities file is read or refused; what is read answers for every name without a fault.
func FuzzParseVocabulary(f *testing.F) {
	f.Add(smallest+"quantities: [{name: a.b, words: x, unit: degrees, point: hip.}]", "a.b.left")
	f.Add(smallest, "lumbar.flexion")
	f.Fuzz(func(t *testing.T, text, name string) {
		v, err := safety.ParseVocabulary([]byte(text))
		if err != nil {
			return
		}
		if v.Point(name) == "" || v.Known(name) && v.Most(name) != v.Most(name) {
			t.Fatal(name)
		}
		v.Words(name)
		v.Amount(name, 1)
	})
}
