package people

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"

	"restbend/web/site"
)

// A form carries what it was made from. What somebody else changed meanwhile stays, unless both changed the same
// field: then both are shown, and nobody's is undone silently.

// clash is a field that two people changed in different ways.
type clash struct{ Field, Now, Mine string }

// Merge takes what mine changed of base into what is kept now. Clashes are the fields that both changed; in the
// document they are mine. All three are documents with fields.
func Merge(base, now, mine []byte) (out []byte, clashes []clash, err error) {
	var b, n, m map[string]json.RawMessage
	for _, x := range []struct {
		doc  []byte
		into *map[string]json.RawMessage
	}{{base, &b}, {now, &n}, {mine, &m}} {
		if err := json.Unmarshal(x.doc, x.into); err != nil {
			return nil, nil, err
		}
	}
	keys := map[string]bool{}
	for _, doc := range []map[string]json.RawMessage{b, n, m} {
		for k := range doc {
			keys[k] = true
		}
	}
	for _, k := range slices.Sorted(maps.Keys(keys)) {
		switch {
		case sameJSON(m[k], b[k]):
			continue // not changed here
		case !sameJSON(n[k], b[k]) && !sameJSON(n[k], m[k]):
			clashes = append(clashes, clash{k, site.Said(n[k]), site.Said(m[k])})
		}
		if v, ok := m[k]; ok {
			n[k] = v
		} else {
			delete(n, k)
		}
	}
	out, err = json.Marshal(n)
	return out, clashes, err
}

// sameJSON tells whether two values say the same.
func sameJSON(a, b json.RawMessage) bool {
	if len(a) == 0 || len(b) == 0 {
		return len(a) == len(b)
	}
	var x, y bytes.Buffer
	if json.Compact(&x, a) != nil || json.Compact(&y, b) != nil {
		return false
	}
	var v, w any
	if json.Unmarshal(x.Bytes(), &v) != nil || json.Unmarshal(y.Bytes(), &w) != nil {
		return false
	}
	p, _ := json.Marshal(v) // values that were just read
	q, _ := json.Marshal(w)
	return bytes.Equal(p, q)
}
