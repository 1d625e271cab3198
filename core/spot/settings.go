package spot

import (
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/safety"
)

// Setting is one thing an exercise is set by, and the small moves that are made with it in a search (domain/07). A
// setting has steps of a number, or words in order of ease.
type Setting struct {
	Key   string    `json:"key"` // of progress.Load
	Name  string    `json:"name"`
	Unit  string    `json:"unit,omitempty"`
	Steps []float64 `json:"steps,omitempty"`
	Least float64   `json:"least"`
	Most  float64   `json:"most,omitempty"`
	Start float64   `json:"start,omitempty"` // from where the first move goes, where nothing is recorded
	Less  string    `json:"less,omitempty"`  // what a step down and up are called
	More  string    `json:"more,omitempty"`
	Words []string  `json:"words,omitempty"`
	Many  bool      `json:"many,omitempty"` // several of the words at once
	// the setting that begins anew with it: a new level starts at its easiest placement
	Resets string `json:"resets,omitempty"`
}

// settings are the moves by the settings of the catalogue: one small one at a time, 2 cm, a band, a level, a helping
// hand (domain/07; bounds are those of the log, product defaults where it has none).
var settings = map[string]Setting{
	"surface_cm": {
		Name:  "height",
		Unit:  "cm",
		Steps: []float64{2, 10},
		Least: 5,
		Most:  130,
		Less:  "lower",
		More:  "higher",
	},
	"band": {Name: "band", Words: []string{"none", "light", "medium", "strong"}},
	"anchor_cm": {
		Name:  "distance to the anchor",
		Unit:  "cm",
		Steps: []float64{2, 10},
		Most:  300,
		Less:  "nearer",
		More:  "farther",
	},
	"pad_level": {
		Name:   "pad level",
		Steps:  []float64{1},
		Least:  1,
		Most:   4,
		Less:   "down",
		More:   "up",
		Resets: "pad_offset_cm",
	},
	"pad_offset_cm": {Name: "place on the pad", Unit: "cm", Steps: []float64{2}, Most: 60, Less: "back", More: "along"},
	"spring":        {Name: "spring", Words: []string{"light", "medium", "heavy"}},
	"weight_kg":     {Name: "weight", Unit: "kg", Steps: []float64{0.5}, Most: 20, Less: "less", More: "more"},
	"help":          {Name: "helped by", Words: []string{"hand", "leg", "anchored", "towel"}, Many: true},
}

// Settings are what an exercise is set by, within what the client may have.
func Settings(v *catalogue.Version, s *safety.Screener) (out []Setting) {
	for _, key := range catalogue.Settings {
		one, ok := settings[key]
		if !ok || !slices.Contains(v.Settings, key) {
			continue
		}
		one.Key = key
		switch key {
		case "surface_cm":
			one.Start = v.Height()
		case "weight_kg":
			for _, q := range []string{"weight", "hand-weight.left", "hand-weight.right"} {
				if most, _, limited := s.Allowed(q); limited {
					one.Most = math.Min(one.Most, most)
				}
			}
		case "spring":
			one.Words = slices.DeleteFunc(slices.Clone(one.Words), func(w string) bool {
				most, _, limited := s.Allowed("declared.spring-" + w)
				return limited && most < 1
			})
		}
		out = append(out, one)
	}
	return out
}
