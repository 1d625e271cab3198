package site

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/statics"
)

// Degrees says what the spine does in a phase, leaving out posture noise.
func Degrees(p catalogue.SolvedPhase) string {
	var out []string
	m := p.Measures
	for _, r := range []struct {
		name string
		r    statics.Region
	}{{"low back", m.Lumbar}, {"upper back", m.Thoracic}, {"neck", m.Neck}} {
		for _, d := range []struct {
			v           float64
			plus, minus string
		}{
			{r.r.Flexion, "bends", "arches"},
			{r.r.SideBend, "bends left", "bends right"},
			{r.r.Rotation, "turns left", "turns right"},
		} {
			if d.v > catalogue.LoadNoise {
				out = append(out, fmt.Sprintf("%s %s %.0f°", r.name, d.plus, d.v))
			} else if d.v < -catalogue.LoadNoise {
				out = append(out, fmt.Sprintf("%s %s %.0f°", r.name, d.minus, -d.v))
			}
		}
	}
	if out == nil {
		return "spine long"
	}
	return strings.Join(out, ", ")
}

// FieldWords reads a field's path aloud: condition.scoliosis.degrees.
func FieldWords(path string) string {
	parts := strings.Split(path, ".")
	if len(parts) > 2 && (parts[0] == "clearance" || parts[0] == "operation") {
		parts[1] = "" // which row is seen beside the field
	}
	parts = slices.DeleteFunc(parts, func(p string) bool { return p == "" || p == "condition" })
	return strings.NewReplacer("_", " ", "-", " ").Replace(strings.Join(parts, ", "))
}

// Dict is a map of names and values, for templates.
func Dict(kv ...any) map[string]any {
	m := map[string]any{}
	for i := 0; i+1 < len(kv); i += 2 {
		m[fmt.Sprint(kv[i])] = kv[i+1]
	}
	return m
}
