package restbend_test

import (
	"encoding/json"
	"fmt"
	"os"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/edit"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/exchange"
	"restbend/web/people"
	"restbend/web/site"
)

// What is listed in several places is listed in all of them. A field or a kind that is added in one place alone fails
// here: documents are read and written through one struct, so a field is in reader and export when it is in the struct,
// and the schema stands before both.

// fields are the names of a struct as documents have them, those of its parts with a dot before.
func fields(t reflect.Type, at string, seen map[reflect.Type]bool) (out []string) {
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice || t.Kind() == reflect.Map || t.Kind() == reflect.Array {
		t = t.Elem()
	}
	if t.Kind() != reflect.Struct || seen[t] || !strings.HasPrefix(t.PkgPath(), "restbend") {
		return nil
	}
	if t.PkgPath() == "restbend/core/trade" { // days and other words
		return nil
	}
	within := map[reflect.Type]bool{t: true} // a proposal holds a plan
	for s := range seen {
		within[s] = true
	}
	seen = within
	for i := range t.NumField() {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case !f.IsExported() || name == "-":
		case name == "" && f.Anonymous:
			out = append(out, fields(f.Type, at, seen)...)
		case name == "":
			out = append(out, at+"."+f.Name+" has no name")
		default:
			out = append(out, at+"."+name)
			out = append(out, fields(f.Type, at+"."+name, seen)...)
		}
	}
	return out
}

// schema is a JSON schema as far as names go.
type schema struct {
	Ref        string             `json:"$ref"`
	Defs       map[string]*schema `json:"$defs"`
	Properties map[string]*schema `json:"properties"`
	Items      json.RawMessage    `json:"items"`
	More       json.RawMessage    `json:"additionalProperties"`
	AnyOf      []*schema          `json:"anyOf"`
	OneOf      []*schema          `json:"oneOf"`
	Enum       []any              `json:"enum"`
	Type       any                `json:"type"`
}

func readSchema(t *testing.T, name string) *schema {
	data, err := os.ReadFile("docs/formats/" + name + ".schema.json")
	require.NoError(t, err)
	var s schema
	require.NoError(t, json.Unmarshal(data, &s))
	return &s
}

// at is the part of a schema that a field leads to, nil when it does not know the field; open tells that it takes any.
func (s *schema) at(root *schema, name string) (next *schema, open bool) {
	if s == nil {
		return nil, false
	}
	if s.Ref == "#" {
		return root.at(root, name)
	}
	if pointer, within := strings.CutPrefix(s.Ref, "#/"); within {
		return root.pointed(strings.Split(pointer, "/")).at(root, name)
	} else if s.Ref != "" {
		return nil, true // another document has its own line in the test
	}
	for _, a := range slices.Concat(s.AnyOf, s.OneOf) {
		if next, open = a.at(root, name); next != nil || open && len(s.Properties) == 0 {
			return next, open
		}
	}
	if next = s.Properties[name]; next != nil {
		return next, false
	}
	for _, key := range []string{"bed", "floor"} { // a map whose keys are written out
		if by := s.Properties[key]; by != nil {
			if next = by.Properties[name]; next != nil {
				return next, false
			}
		}
	}
	for _, inner := range []json.RawMessage{s.Items, s.More} { // a list or a map of them
		var in schema
		if len(inner) > 0 && inner[0] == '{' && json.Unmarshal(inner, &in) == nil {
			if next, open = in.at(root, name); next != nil || open {
				return next, open
			}
		}
	}
	closed := string(s.More) == "false" || len(s.Properties) > 0 || len(s.Items) > 0 || len(s.More) > 0
	return nil, !closed
}

// pointed is the part that a pointer within the document leads to.
func (s *schema) pointed(path []string) *schema {
	switch {
	case s == nil || len(path) == 0:
		return s
	case path[0] == "items":
		var in schema
		if json.Unmarshal(s.Items, &in) != nil {
			return nil
		}
		return in.pointed(path[1:])
	case path[0] == "properties" && len(path) > 1:
		return s.Properties[path[1]].pointed(path[2:])
	case path[0] == "$defs" && len(path) > 1:
		return s.Defs[path[1]].pointed(path[2:])
	}
	return nil
}

// unknown are the fields that a schema does not know.
func (s *schema) unknown(names []string) (out []string) {
	for _, name := range names {
		here := s
		for _, part := range strings.Split(strings.TrimPrefix(name, "."), ".") {
			next, open := here.at(s, part)
			if open {
				break
			}
			if next == nil {
				out = append(out, name)
				break
			}
			here = next
		}
	}
	return out
}

// Every field of every document stands in its schema, all the way down.
func TestEveryFieldIsInItsSchema(t *testing.T) {
	n := 0
	for name, of := range map[string]any{"client": intake.Client{}, "plan": plan.Plan{}, "log": progress.Log{}, "marks": record.Marks{},
		"score": score.Score{}, "screen": exchange.Screen{}, "catalogue": exchange.Catalogue{}, "next": exchange.Next{}} {
		names := fields(reflect.TypeOf(of), "", nil)
		n += len(names)
		assert.Empty(t, readSchema(t, name).unknown(names), name)
	}
	assert.Greater(t, n, 400)

	// A field that nobody wrote into the schema is found, at the top and within.
	type grown struct {
		intake.Client
		Added string `json:"added"`
	}
	assert.Equal(t, []string{".added"}, readSchema(t, "client").unknown(fields(reflect.TypeOf(grown{}), "", nil))[:1])
	assert.Equal(t, []string{".pain.added"}, readSchema(t, "client").unknown([]string{".pain.now", ".pain.added"}))
	assert.Equal(t, []string{".items.added"}, readSchema(t, "plan").unknown([]string{".items.version", ".items.added", ".items.dose.sets"}))
}

// What somebody writes down of a client and no verdict or plan reads.
var writtenDown = []string{"format", "name", "sex", "height_cm", "young_adult_height_cm", "mass_kg", "complaint", "history", "operations",
	"confidence", "sessions_per_week", "next_review", "notes"}

// A change of every field of a client is merged, and kept in the history where verdicts and plans depend on it.
func TestEveryFieldOfAClientIsMergedAndKept(t *testing.T) {
	seen := 0
	for _, name := range fields(reflect.TypeOf(intake.Client{}), "", nil) {
		field := strings.TrimPrefix(name, ".")
		if strings.Contains(field, ".") {
			continue
		}
		seen++
		base, mine := []byte(`{"untouched":1}`), fmt.Appendf(nil, `{"untouched":1,%q:2}`, field)
		out, clashes, err := people.Merge(base, []byte(`{"untouched":3}`), mine)
		require.NoError(t, err)
		assert.Empty(t, clashes)
		assert.JSONEq(t, fmt.Sprintf(`{"untouched":3,%q:2}`, field), string(out), field)
		kept, err := site.ChangesOf(base, mine, "", "")
		require.NoError(t, err)
		switch {
		case slices.Contains(writtenDown, field):
			assert.Empty(t, kept, field)
		default:
			require.Len(t, kept, 1, "%s: a verdict or a plan may depend on it, and the history does not keep it", field)
			assert.Equal(t, field, kept[0].Field)
		}
	}
	assert.Greater(t, seen, 30)
	for _, field := range append(slices.Clone(site.Limiting), writtenDown...) {
		assert.Contains(t, fields(reflect.TypeOf(intake.Client{}), "", nil), "."+field, "no such field")
	}
}

// words lists the quoted words of a list in a script.
func words(t *testing.T, script, name string) (out []string) {
	m := regexp.MustCompile(`(?s)const ` + name + ` = [\[{](.*?)[\]}];`).FindStringSubmatch(script)
	require.NotNil(t, m, name)
	word := regexp.MustCompile(`"([a-z_-]+)"`)
	if strings.Contains(m[0], "{") { // the keys
		word = regexp.MustCompile(`\b([a-z_]+):`)
	}
	for _, w := range word.FindAllStringSubmatch(m[1], -1) {
		out = append(out, w[1])
	}
	return out
}

func text(t *testing.T, name string) string {
	data, err := os.ReadFile(name)
	require.NoError(t, err)
	return string(data)
}

// Every kind of mark is in the schema, explained, and known to the script that sends or takes it back; every change on
// the spot and every change by hand is explained and can be pressed; every rule is explained and weighed by the verifier.
func TestEveryKindIsEverywhere(t *testing.T) {
	marks, docs, script := readSchema(t, "marks"), text(t, "docs/teaching.md"), text(t, "web/static/teach.js")
	var enum []string
	kind, _ := marks.at(marks, "marks")
	kind, _ = kind.at(marks, "kind")
	for _, v := range kind.Enum {
		enum = append(enum, fmt.Sprint(v))
	}
	assert.ElementsMatch(t, record.Kinds, enum, "kinds of marks and their schema")
	for _, k := range record.Kinds {
		assert.True(t, strings.Contains(docs, "`"+k+"`"), "docs/teaching.md does not explain the mark %s", k)
	}
	taken := words(t, script, "undoKinds")
	assert.Subset(t, record.Kinds, taken, "what is taken back in the player is a kind of mark")
	assert.Subset(t, record.Kinds, words(t, script, "names"), "what is named in the player is a kind of mark")
	for _, k := range taken { // each can be told apart in the list of what may be taken back
		assert.Contains(t, append(words(t, script, "names"), "change"), k, "the player has no name for %s", k)
	}
	for _, k := range record.Changes {
		assert.True(t, strings.Contains(docs, "`"+k+"`"), "docs/teaching.md does not explain the change %s", k)
	}

	page := text(t, "web/templates/plan.html") + text(t, "web/static/bench.js") + text(t, "web/planning/edits.go") + text(t, "web/planning/plans.go") + text(t, "core/edit/mend.go")
	planner := text(t, "docs/planner.md")
	for _, op := range edit.Ops {
		assert.True(t, regexp.MustCompile(`["':/]`+op+`[":]`).MatchString(page), "nothing presses the change by hand %s", op)
		assert.True(t, strings.Contains(planner, "`"+op+"`"), "docs/planner.md does not explain the change by hand %s", op)
	}
	rules := plan.Rules()
	verifier := text(t, "verify/weights.go")
	for _, rule := range rules {
		assert.True(t, strings.Contains(planner, "`"+rule+"`"), "docs/planner.md does not explain the rule %s", rule)
		if plan.WeightOf(rule) != plan.NotAllowed {
			assert.Contains(t, verifier, `"`+rule+`"`, "the verifier does not weigh %s", rule)
		}
	}
	for _, m := range regexp.MustCompile(`c\.(?:say|add|stretch)\(\s*"([a-z-]+)"`).FindAllStringSubmatch(text(t, "core/appraise/check.go")+text(t, "core/appraise/caps.go"), -1) {
		assert.Contains(t, rules, m[1], "a plan is checked for %s, and nobody says what it weighs", m[1])
	}
}
