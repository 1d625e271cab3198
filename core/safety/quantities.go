package safety

import (
	"bytes"
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/trade"
)

// Vocabulary is what is measured of a movement: the quantities limits name, their units and words.
type Vocabulary struct {
	Units      []Unit            `yaml:"units"`
	Regions    []Region          `yaml:"regions"`
	Directions map[string]string `yaml:"directions"`
	Carried    map[string]string `yaml:"carried"`
	Own        map[string]string `yaml:"own"`
	Quantities []Quantity        `yaml:"quantities"`

	byName  map[string]*Quantity
	regions map[string]*Region
	most    map[string]float64
}

// Unit is a unit with the largest value that makes sense.
type Unit struct {
	Unit string  `yaml:"unit"`
	Most float64 `yaml:"most"`
}

// Region is a region of the spine; its quantities are degrees in a direction.
type Region struct {
	Name  string `yaml:"name"`
	Words string `yaml:"words"`
	Point string `yaml:"point"`
}

// Quantity is one measured quantity.
type Quantity struct {
	Name  string `yaml:"name"`
	Words string `yaml:"words"` // {} stands for a side or a contact
	Unit  string `yaml:"unit"`
	Point string `yaml:"point"` // where a finding's picture points; after a dot stands the side
}

const angle = "degrees"

// ParseVocabulary reads a quantities file.
func ParseVocabulary(data []byte) (*Vocabulary, error) {
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	v := &Vocabulary{byName: map[string]*Quantity{}, regions: map[string]*Region{}, most: map[string]float64{}}
	if err := d.Decode(v); err != nil {
		return nil, fmt.Errorf("quantities.yaml: %w", err)
	}
	for _, u := range v.Units {
		v.most[u.Unit] = u.Most
	}
	for i := range v.Regions {
		v.regions[v.Regions[i].Name] = &v.Regions[i]
	}
	for i := range v.Quantities {
		q := &v.Quantities[i]
		_, known := v.most[q.Unit]
		switch {
		case q.Name == "" || q.Words == "" || q.Point == "":
			return nil, fmt.Errorf("quantities.yaml: %q needs name, words and point", q.Name)
		case v.byName[q.Name] != nil:
			return nil, fmt.Errorf("quantities.yaml: %s stands twice", q.Name)
		case !known:
			return nil, fmt.Errorf(
				"quantities.yaml: %s: found unit %q, allowed: %s",
				q.Name,
				q.Unit,
				strings.Join(v.units(), ", "),
			)
		}
		v.byName[q.Name] = q
	}
	if v.most[angle] == 0 || len(v.regions) == 0 || len(v.Directions) == 0 {
		return nil, fmt.Errorf("quantities.yaml: regions, directions and the unit %s are missing", angle)
	}
	return v, nil
}

func (v *Vocabulary) units() (out []string) {
	for _, u := range v.Units {
		out = append(out, u.Unit)
	}
	return out
}

// find is a quantity by its name, or by its name without its last parts; rest are those parts.
func (v *Vocabulary) find(name string) (q *Quantity, rest string) {
	for stem := name; stem != ""; {
		if q := v.byName[stem]; q != nil {
			return q, strings.TrimPrefix(strings.TrimPrefix(name, stem), ".")
		}
		i := strings.LastIndexByte(stem, '.')
		stem = stem[:max(i, 0)]
	}
	return nil, name
}

// region is a region's direction, when the quantity is one.
func (v *Vocabulary) region(name string) (r *Region, direction, more string) {
	parts := strings.SplitN(name, ".", 3)
	r = v.regions[parts[0]]
	if r == nil || len(parts) < 2 || v.Directions[parts[1]] == "" {
		return nil, "", ""
	}
	if len(parts) == 3 {
		more = parts[2]
	}
	return r, parts[1], more
}

// Known tells whether a quantity stands in the file, alone or as a region's direction.
func (v *Vocabulary) Known(name string) bool {
	if q, rest := v.find(name); q != nil { // only what has a place for a side or a contact takes one
		return rest == "" || strings.Contains(q.Words, "{}")
	}
	r, _, more := v.region(name)
	return r != nil && (more == "" || v.toward(more) != "")
}

// toward says the last part of a region's quantity: how it is carried or to which side, in braces
// the client's own.
func (v *Vocabulary) toward(more string) string {
	if own, ok := v.Own[strings.Trim(more, "{}")]; ok && strings.HasPrefix(more, "{") {
		return own
	}
	return v.Carried[more]
}

// Unit is what a quantity is measured in, empty for what occurs or does not.
func (v *Vocabulary) Unit(name string) string {
	if q, _ := v.find(name); q != nil {
		return q.Unit
	}
	return angle
}

// Most is the largest value of a quantity that makes sense.
func (v *Vocabulary) Most(name string) float64 { return v.most[v.Unit(name)] }

// Words says a quantity in the words of the trade.
func (v *Vocabulary) Words(name string) string {
	if q, rest := v.find(name); q != nil {
		if own, ok := v.Own[strings.Trim(rest, "{}")]; ok && strings.HasPrefix(rest, "{") {
			rest = own
		}
		return strings.ReplaceAll(q.Words, "{}", strings.ReplaceAll(rest, ".", " "))
	}
	r, direction, more := v.region(name)
	if r == nil {
		return strings.NewReplacer(".", " ", "-", " ").Replace(name)
	}
	w := r.Words + " " + v.Directions[direction]
	if more != "" {
		w += " " + v.toward(more)
	}
	return w
}

// RegionWords is a region of the spine in words.
func (v *Vocabulary) RegionWords(region string) string {
	if r := v.regions[region]; r != nil {
		return r.Words
	}
	return region
}

// Amount says a value with its unit, as far as it is shown.
func (v *Vocabulary) Amount(name string, value float64) string {
	switch unit := v.Unit(name); unit {
	case "":
		return map[bool]string{true: "yes", false: "not at all"}[value > 0]
	case angle:
		return fmt.Sprintf("%.0f°", value)
	case "of body weight", "share of range":
		return fmt.Sprintf("%.0f %% %s", 100*value, unit)
	case "of 10":
		return fmt.Sprintf("%.0f of 10", value)
	default:
		return fmt.Sprintf("%.3g %s", value, unit)
	}
}

// Point is where a finding's picture points on the body.
func (v *Vocabulary) Point(name string) string {
	if q, rest := v.find(name); q != nil {
		if !strings.HasSuffix(q.Point, ".") {
			return q.Point
		}
		if _, ok := trade.ParseSide(rest); ok {
			return q.Point + rest
		}
		return "pubis"
	}
	if r, _, _ := v.region(name); r != nil {
		return r.Point
	}
	return "pubis"
}

// Eased says in words what is left of a quantity with an ease, beside what is allowed: "low back
// turns: full 45°, eased 15°, allowed 20°, well within". What occurs or does not reads "no more".
func (v *Vocabulary) Eased(name string, full, eased, allowed float64) string {
	unit := v.Unit(name)
	if unit == "" {
		return v.Words(name) + ": with the ease no more"
	}
	amount := func(x float64) string {
		if unit == "degrees" {
			return fmt.Sprintf("%.0f°", x)
		}
		return v.Amount(name, x)
	}
	within := "well within"
	if allowed > 0 && eased > EaseMargin*allowed {
		within = "just within"
	}
	return fmt.Sprintf("%s: full %s, eased %s, allowed %s, %s", v.Words(name), amount(full), amount(eased), amount(allowed), within)
}
