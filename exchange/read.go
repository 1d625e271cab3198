// Package exchange reads and writes the open formats. Input is checked against the same
// JSON Schema files that document it; every problem names the field, what was found and
// what is allowed.
package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"sort"
	"strings"
	"sync"

	"github.com/agext/levenshtein"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"restbend"
	"restbend/core/assess"
	"restbend/core/catalogue"
	"restbend/core/progress"
	"restbend/core/safety"
)

// A Problem is one mistake in a document.
type Problem struct {
	Path string // for example conditions[1].code
	Text string // what was found and what is allowed
}

func (p Problem) String() string { return p.Path + ": " + p.Text }

// Problems is the error of a document that cannot be used.
type Problems []Problem

func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, x := range p {
		lines[i] = x.String()
	}
	return strings.Join(lines, "\n")
}

// MaxDocument is the largest document read, bytes.
const MaxDocument = 4 << 20

var schemas sync.Map

// Schema compiles the schema of a document.
func Schema(name string) (*jsonschema.Schema, error) {
	if s, ok := schemas.Load(name); ok {
		return s.(*jsonschema.Schema), nil
	}
	data, err := restbend.Schema(name)
	if err != nil {
		return nil, err
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	if err := c.AddResource(name, doc); err != nil {
		return nil, err
	}
	s, err := c.Compile(name)
	if err == nil {
		schemas.Store(name, s)
	}
	return s, err
}

// MaxBundle is the largest bundle of clients read, bytes.
const MaxBundle = 64 << 20

// read checks a document against its schema and decodes it.
func read(name string, r io.Reader, into any) error {
	return readUpTo(MaxDocument, name, r, into)
}

func readUpTo(most int, name string, r io.Reader, into any) error {
	data, err := io.ReadAll(io.LimitReader(r, int64(most)+1))
	if err != nil {
		return err
	}
	if len(data) > most {
		return Problems{{"(document)", fmt.Sprintf("is larger than %d MB", most>>20)}}
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return Problems{{"(document)", "is not JSON: " + err.Error()}}
	}
	if p := plainNumbers("", doc); p != nil {
		return p
	}
	schema, err := Schema(name)
	if err != nil {
		return err
	}
	if err := schema.Validate(doc); err != nil {
		var ve *jsonschema.ValidationError
		if errors.As(err, &ve) {
			var out Problems
			collect(ve, &out)
			sort.SliceStable(out, func(i, j int) bool { return out[i].Path < out[j].Path })
			return out
		}
		return err
	}
	if err := json.Unmarshal(data, into); err != nil {
		return Problems{{"(document)", err.Error()}}
	}
	return nil
}

// plainNumbers refuses numbers with exponents or dozens of digits: none is needed, and
// exact arithmetic on 1e999999999 would take for ever.
func plainNumbers(path string, doc any) Problems {
	var out Problems
	switch d := doc.(type) {
	case json.Number:
		if len(d) > 24 || strings.ContainsAny(string(d), "eE") {
			return Problems{{path, "found a number with an exponent or too many digits, allowed: a plain number"}}
		}
	case []any:
		for i, v := range d {
			out = append(out, plainNumbers(fmt.Sprintf("%s[%d]", path, i), v)...)
		}
	case map[string]any:
		for k, v := range d {
			out = append(out, plainNumbers(strings.TrimPrefix(path+"."+k, "."), v)...)
		}
		sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	}
	return out
}

var english = message.NewPrinter(language.English)

// collect turns the leaves of a validation error into problems.
func collect(e *jsonschema.ValidationError, out *Problems) {
	if len(e.Causes) > 0 {
		for _, c := range e.Causes {
			collect(c, out)
		}
		return
	}
	path := pathOf(e.InstanceLocation)
	switch k := e.ErrorKind.(type) {
	case *kind.AdditionalProperties:
		for _, p := range k.Properties {
			*out = append(*out, Problem{join(path, p), "unknown field"})
		}
	case *kind.Required:
		for _, m := range k.Missing {
			*out = append(*out, Problem{join(path, m), "is missing"})
		}
	case *kind.Enum:
		*out = append(*out, Problem{path, enumText(k)})
	case *kind.Const:
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: %v", k.Got, k.Want)})
	case *kind.Type:
		*out = append(*out, Problem{path, fmt.Sprintf("found %s, allowed: %s", k.Got, strings.Join(k.Want, ", "))})
	case *kind.Minimum:
		g, _ := k.Got.Float64()
		w, _ := k.Want.Float64()
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: %v or more", g, w)})
	case *kind.Maximum:
		g, _ := k.Got.Float64()
		w, _ := k.Want.Float64()
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: %v or less", g, w)})
	case *kind.Format:
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: a real date as 2026-11-20", k.Got)})
	default:
		*out = append(*out, Problem{path, e.ErrorKind.LocalizedString(english)})
	}
}

func enumText(k *kind.Enum) string {
	var want []string
	for _, w := range k.Want {
		want = append(want, fmt.Sprint(w))
	}
	got := fmt.Sprint(k.Got)
	text := fmt.Sprintf("found %q", got)
	if s := nearest(got, want); s != "" {
		text += fmt.Sprintf(", did you mean %q", s)
	}
	return text + ", allowed: " + strings.Join(want, ", ")
}

// nearest is the closest of the allowed words, or nothing when none is close.
func nearest(got string, want []string) string {
	best, dist := "", math.MaxInt
	for _, w := range want {
		if d := levenshtein.Distance(got, w, nil); d < dist {
			best, dist = w, d
		}
	}
	if dist > max(2, len(got)/2) {
		return ""
	}
	return best
}

func join(path, field string) string {
	if path == "(document)" {
		return field
	}
	return path + "." + field
}

func pathOf(loc []string) string {
	var sb strings.Builder
	for _, l := range loc {
		if l != "" && strings.Trim(l, "0123456789") == "" {
			sb.WriteString("[" + l + "]")
			continue
		}
		if sb.Len() > 0 {
			sb.WriteByte('.')
		}
		sb.WriteString(l)
	}
	if sb.Len() == 0 {
		return "(document)"
	}
	return sb.String()
}

// ReadClient reads a restbend.client/1 document. Conditions whose limits are not
// computed yet are a problem, never ignored.
func ReadClient(r io.Reader, cat *catalogue.Catalogue, rules *safety.Rules) (*safety.Client, error) {
	c := &safety.Client{}
	if err := read("client", r, c); err != nil {
		return nil, err
	}
	if p := CheckClient(c, cat, rules); p != nil {
		return nil, p
	}
	return c, nil
}

// CheckClient checks what a schema cannot: known versions, supported conditions and
// dates in order.
func CheckClient(c *safety.Client, cat *catalogue.Catalogue, rules *safety.Rules) Problems {
	var out Problems
	say := func(path, format string, a ...any) { out = append(out, Problem{path, fmt.Sprintf(format, a...)}) }
	seen := map[string]bool{}
	for i, k := range c.Conditions {
		path := fmt.Sprintf("conditions[%d].code", i)
		if _, ok := rules.Rule(k.Code); !ok {
			say(path, "%q is not supported yet: its limits are not computed, so this client is refused", k.Code)
		}
		if seen[k.Code+k.Side+k.Region] {
			say(path, "%q is recorded twice", k.Code)
		}
		seen[k.Code+k.Side+k.Region] = true
	}
	families := make([]string, 0, len(cat.Families))
	for _, f := range cat.Families {
		families = append(families, f.Name)
	}
	keys := make([]string, 0, len(c.Levels))
	for f := range c.Levels {
		keys = append(keys, f)
	}
	sort.Strings(keys)
	for _, f := range keys {
		if !slices.Contains(families, f) {
			say("levels."+f, "unknown family%s", Meant(f, families))
			continue
		}
		if v, ok := cat.Version(c.Levels[f]); !ok || v.Family != f {
			say("levels."+f, "found %q, which is not a version of %s%s", c.Levels[f], f, Meant(c.Levels[f], cat.Slugs()))
		}
	}
	for i, o := range c.Overrides {
		if _, ok := cat.Version(o.Version); !ok {
			say(fmt.Sprintf("overrides[%d].version", i), "unknown version %q%s", o.Version, Meant(o.Version, cat.Slugs()))
		}
	}
	for i, cl := range c.Clearances {
		if cl.Until != "" && cl.Until < cl.Date {
			say(fmt.Sprintf("clearances[%d].until", i), "found %s, which is before its date %s", cl.Until, cl.Date)
		}
	}
	return out
}

// Meant is ", did you mean ..." for the closest allowed word, or nothing.
func Meant(got string, want []string) string {
	if s := nearest(got, want); s != "" {
		return fmt.Sprintf(", did you mean %q", s)
	}
	return ""
}

// ReadLog reads a restbend.log/1 document.
func ReadLog(r io.Reader, cat *catalogue.Catalogue) (*progress.Log, error) {
	l := &progress.Log{}
	if err := read("log", r, l); err != nil {
		return nil, err
	}
	var out Problems
	for i, s := range l.Sessions {
		for j, it := range s.Items {
			if _, ok := cat.Version(it.Version); !ok {
				out = append(out, Problem{fmt.Sprintf("sessions[%d].items[%d].version", i, j), fmt.Sprintf("unknown version %q%s", it.Version, Meant(it.Version, cat.Slugs()))})
			}
		}
	}
	if out != nil {
		return nil, out
	}
	return l, nil
}

// ReadResults reads a restbend.results/1 document.
func ReadResults(r io.Reader) (*assess.Results, error) {
	out := &assess.Results{}
	return out, read("results", r, out)
}

// ReadBundle reads a restbend.bundle/1 document into the given value. The documents
// inside it are checked by whoever knows what they depend on.
func ReadBundle(r io.Reader, into any) error { return readUpTo(MaxBundle, "bundle", r, into) }
