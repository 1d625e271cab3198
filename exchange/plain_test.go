package exchange

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is refused before anything is made of a document, and where it stands.
func TestPlain(t *testing.T) {
	for doc, want := range map[string]string{
		`{"a": 1, "b": [1, {"c": "x"}], "d": null}`: "",
		`[]`:                                  "",
		`"x"`:                                 "",
		``:                                    "(document): is not JSON",
		`{"a": 1`:                             "(document): is not JSON",
		`{"a": 1} {"b": 2}`:                   "(document): is not JSON: something follows its end",
		`{"a": 1, "a": 2}`:                    "a: is there twice",
		`{"a": [{"b": 1}, {"b": 1, "b": 2}]}`: "a[1].b: is there twice",
		`{"a": [1, 1e5]}`:                     "a[1]: found a number with an exponent",
		`{"a": {"b": 1234567890123456789012345}}`:                               "a.b: found a number with an exponent or too many digits",
		strings.Repeat("[", 50) + strings.Repeat("]", 50):                       "lies deeper than 40 levels",
		"[" + strings.TrimSuffix(strings.Repeat("1,", mostValues+1), ",") + "]": "has more than 1000000 values",
	} {
		got := plain([]byte(doc))
		if want == "" {
			assert.Empty(t, got, doc)
			continue
		}
		assert.Contains(t, got.Error(), want, "%.60s", doc)
		assert.LessOrEqual(t, len(strings.Split(got.Error(), "\n")), mostProblems+1)
	}
}

// Whatever is let through is JSON, and nothing makes it stand still.
func FuzzPlain(f *testing.F) {
	for _, doc := range []string{`{}`, `{"a": [1, "x", null, true]}`, `{"a": 1, "a": 2}`, `[1e9]`, `{`, `"\ud800"`} {
		f.Add([]byte(doc))
	}
	f.Fuzz(func(t *testing.T, doc []byte) {
		if plain(doc) == nil {
			assert.True(t, json.Valid(doc), "%q", doc)
		}
	})
}
