package intake

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/trade"
)

// How the details of a condition are read from documents and by the rules: a detail without a
// field of its own is kept under More, so that adding one is its data.

type plainCondition Condition

// ownFields are the details with a field of their own.
var ownFields = func() map[string]bool {
	out := map[string]bool{}
	for f := range reflect.TypeFor[Condition]().Fields() {
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		out[name] = name != "-"
	}
	return out
}()

// put keeps a detail that has no field of its own.
func (c *Condition) put(name string, value any) error {
	switch v := value.(type) {
	case nil:
		return nil
	case int:
		value = float64(v)
	case []any:
		var words []string
		for _, w := range v {
			word, ok := w.(string)
			if !ok {
				return fmt.Errorf("%s: found %v, allowed: words", name, w)
			}
			words = append(words, word)
		}
		value = words
	case bool, float64, string, []string:
	default:
		return fmt.Errorf("%s: found %v, allowed: a text, words, a number, true or false", name, value)
	}
	if c.More == nil {
		c.More = map[string]any{}
	}
	c.More[name] = value
	return nil
}

// putAll keeps what has no field of its own.
func (c *Condition) putAll(all map[string]any) error {
	for name, value := range all {
		if !ownFields[name] {
			if err := c.put(name, value); err != nil {
				return err
			}
		}
	}
	return nil
}

// UnmarshalJSON reads a condition; names without a field go to More.
func (c *Condition) UnmarshalJSON(data []byte) error {
	*c = Condition{}
	if err := json.Unmarshal(data, (*plainCondition)(c)); err != nil {
		return err
	}
	var all map[string]any
	if err := json.Unmarshal(data, &all); err != nil {
		return err
	}
	return c.putAll(all)
}

// MarshalJSON writes a condition with its further details after the others.
func (c Condition) MarshalJSON() ([]byte, error) {
	data, err := json.Marshal(plainCondition(c))
	if err != nil || len(c.More) == 0 {
		return data, err
	}
	more, err := json.Marshal(c.More)
	if err != nil {
		return nil, err
	}
	return slices.Concat(bytes.TrimSuffix(data, []byte("}")), []byte(","), more[1:]), nil
}

// UnmarshalYAML reads a condition; names without a field go to More.
func (c *Condition) UnmarshalYAML(n *yaml.Node) error {
	*c = Condition{}
	if err := n.Decode((*plainCondition)(c)); err != nil {
		return err
	}
	var all map[string]any
	if err := n.Decode(&all); err != nil {
		return err
	}
	return c.putAll(all)
}

// With is the condition with some details set anew, an empty text taking one away.
func (c *Condition) With(details map[string]any) (Condition, error) {
	out := *c
	out.More = maps.Clone(c.More)
	own := map[string]any{}
	for name, value := range details {
		switch {
		case ownFields[name] && value == any(""):
			out.forget(name)
		case ownFields[name]:
			own[name] = value
		case value == any(""):
			delete(out.More, name)
		default:
			if err := out.put(name, value); err != nil {
				return out, err
			}
		}
	}
	data, err := json.Marshal(own)
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal(data, (*plainCondition)(&out))
}

// forget empties a detail that has a field.
func (c *Condition) forget(name string) {
	v := reflect.ValueOf(c).Elem()
	for i := range v.NumField() {
		if tag, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ","); tag == name {
			v.Field(i).SetZero()
		}
	}
}

// Details are the recorded details by name, each a text, a number, true or false, or words.
func (c *Condition) Details() map[string]any {
	data, err := json.Marshal(plainCondition(*c))
	if err != nil {
		return nil
	}
	out := map[string]any{}
	if json.Unmarshal(data, &out) != nil {
		return nil
	}
	delete(out, "code")
	for name, v := range out {
		if several, ok := v.([]any); ok {
			words := make([]string, len(several))
			for i, w := range several {
				words[i], _ = w.(string)
			}
			out[name] = words
		}
	}
	maps.Copy(out, c.More)
	return out
}

// further is a detail under More as text, empty when not recorded.
func (c *Condition) further(name string) string {
	switch v := c.More[name].(type) {
	case bool:
		return strconv.FormatBool(v)
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case []string:
		return strings.Join(v, ",")
	case string:
		if v != "unknown" {
			return v
		}
	}
	return ""
}

// DayOf is a detail that is a day; the zero day when it is not recorded.
func (c *Condition) DayOf(name string) (d trade.Day) {
	switch name {
	case "", "date":
		return c.Date
	case "fracture_date":
		return c.FractureDate
	case "due":
		return c.Due
	}
	_ = d.UnmarshalText([]byte(c.further(name))) // what is no day was not recorded
	return d
}

// Began is the day a condition counts from: its date, or since when it is.
func (c *Condition) Began() trade.Day {
	if c.Date.IsZero() {
		return c.DayOf("since")
	}
	return c.Date
}

// Detail is a condition's recorded detail as text, empty when not recorded.
func (c *Condition) Detail(name string) string {
	text := func(b *bool) string {
		if b == nil {
			return ""
		}
		return strconv.FormatBool(*b)
	}
	switch name {
	case "phase":
		if c.Code == "disc-sciatica" {
			return c.discPhase()
		}
		return c.Phase
	case "preference":
		return said(c.Preference)
	case "approach":
		return said(c.Approach)
	case "school":
		return c.school()
	case "vertebral_fracture":
		if c.Code == "osteopenia" && c.fractured() == nil {
			return "false" // with a fracture it would be osteoporosis
		}
		return text(c.fractured())
	case "progressing":
		return strconv.FormatBool(c.Progressing != nil && *c.Progressing)
	case "controlled":
		if c.Controlled == nil {
			return "unknown" // not recorded is not uncontrolled (domain/03)
		}
		return text(c.Controlled)
	case "date":
		return c.Date.String()
	case "fracture_date":
		return c.FractureDate.String()
	case "side":
		return string(c.Side)
	case "irritability":
		return cmp.Or(c.Irritability, "unknown") // not recorded is not high; a phase says it
	case "region":
		if c.Region == "cervical" {
			return "neck"
		}
		return c.Region
	case "convex":
		return string(c.Convex)
	}
	return c.further(name)
}

// said is a word that was recorded; none and unknown are none.
func said(word string) string {
	if word == "none" || word == "unknown" {
		return ""
	}
	return word
}

// school is how a fragile back is moved: always strict after a vertebral fracture, and where
// nothing was agreed.
func (c *Condition) school() string {
	switch {
	case c.fractured() != nil && *c.fractured():
		return "strict"
	case c.Code == "osteopenia":
		return "graded"
	}
	return cmp.Or(c.School, "strict")
}

// discPhase is the phase of disc-related pain: a high irritability is acute; one nobody recorded
// is the middle (domain/09).
func (c *Condition) discPhase() string {
	if c.Irritability == "high" {
		return "acute"
	}
	return cmp.Or(c.Phase, "subacute")
}

// fractured is the recorded answer; the date of a fracture means a fracture whatever else is
// written.
func (c *Condition) fractured() *bool {
	if !c.FractureDate.IsZero() {
		yes := true
		return &yes
	}
	return c.Fracture
}

// Missing tells whether a detail that matters was not recorded.
func (k *Condition) Missing(ask string) bool {
	switch ask {
	case "grade":
		return k.Grade == 0
	case "degrees":
		return k.Degrees == 0
	case "weeks":
		return k.Weeks == 0 && k.Due.IsZero()
	case "date":
		return k.Date.IsZero() && k.Due.IsZero() && (k.Weeks == 0 || k.Code == Pregnancy)
	case "preference":
		return k.Preference == ""
	case "phase":
		return k.Phase == ""
	case "irritability":
		return k.Irritability == ""
	}
	return k.Detail(ask) == ""
}
