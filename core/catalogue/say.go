package catalogue

import (
	"fmt"
	"maps"
	"slices"

	"restbend/core/say"
)

// earlier are the words of an entry as they stood before the slots: old revisions and own
// versions of older releases have them.
type earlier struct {
	Setup []string   `yaml:"setup,omitempty"`
	Cues  *say.Cues  `yaml:"cues,omitempty"`
	Feel  []say.Said `yaml:"feel,omitempty"`
	Stop  []string   `yaml:"stop,omitempty"`
}

// adopt moves the words of an older entry into the slots.
func (v *Version) adopt() {
	if v.Earlier.Setup == nil && v.Earlier.Cues == nil && v.Earlier.Feel == nil && v.Earlier.Stop == nil {
		return
	}
	v.Say.Setup.First, v.Say.Feel, v.Say.Stop = v.Earlier.Setup, v.Earlier.Feel, v.Earlier.Stop
	if v.Earlier.Cues != nil {
		v.SetCues(*v.Earlier.Cues)
	}
	v.Earlier = earlier{}
}

// SetCues gives each repeated phase the line of its breath, where one breath leads to the
// effort and the other back; where all have the same breath, the effort gets its own.
func (v *Version) SetCues(c say.Cues) {
	v.Say.Image, v.Say.Phases = c.Image, map[string]say.Line{}
	if len(v.Phases) == 0 {
		return
	}
	effort := v.Phases[v.EffortPhase()]
	for i := v.Round(); i < len(v.Phases); i++ {
		p := v.Phases[i]
		text := c.Out
		if p.Breath == "in" {
			text = c.In
		}
		if v.sameBreath() && p.Name != effort.Name {
			text = map[string]string{"in": c.Out, "out": c.In}[p.Breath]
		}
		v.Say.Phases[p.Name] = say.Line{Full: text, Key: say.KeyWords(text)}
	}
}

func (v *Version) sameBreath() bool {
	for i := v.Round(); i < len(v.Phases); i++ {
		if v.Phases[i].Breath != v.Phases[v.Round()].Breath {
			return false
		}
	}
	return true
}

// WordsWith are the words of a version with one of its eases, with its own when the name is
// empty or unknown.
func (v *Version) WordsWith(ease string) say.Words {
	w := say.Words{
		Setup:  slices.Clone(v.Say.Setup.First),
		Phases: maps.Clone(v.Say.Phases),
		Cues:   say.Cues{Image: v.Say.Image},
		Feel:   say.Sentences(v.Say.Feel),
		Core:   v.Say.Core,
		Stop:   slices.Clone(v.Say.Stop),
		Faults: slices.Clone(v.Faults),
	}
	if w.Phases == nil {
		w.Phases = map[string]say.Line{}
	}
	if e := v.Ease(ease); e != nil {
		w.Ease, w.Short = e.Sentences(), e.Short
		for _, slot := range slices.Sorted(maps.Keys(e.Instead)) {
			w.Put(slot, e.Instead[slot])
		}
	}
	w.Setup = slices.DeleteFunc(w.Setup, func(s string) bool { return s == "" })
	w.Faults = slices.DeleteFunc(w.Faults, func(f say.Fault) bool { return f.Say == "" })
	w.Feel = slices.DeleteFunc(w.Feel, func(s string) bool { return s == "" })
	v.fillCues(&w)
	return w
}

// fillCues are the two lines that printed pages and older documents show: that of the effort
// phase under its breath, and that of the way back under the other.
func (v *Version) fillCues(w *say.Words) {
	if len(v.Phases) == 0 {
		return
	}
	effort := v.EffortPhase()
	set := func(breath, text string) {
		if breath == "in" {
			w.Cues.In = text
		} else {
			w.Cues.Out = text
		}
	}
	breath := v.Phases[effort].Breath
	set(breath, w.Phases[v.Phases[effort].Name].Full)
	other := map[string]string{"in": "out", "out": "in"}[breath]
	for i := v.Next(effort); i != effort; i = v.Next(i) {
		if p := v.Phases[i]; p.Breath != breath || v.sameBreath() {
			set(other, w.Phases[p.Name].Full)
			return
		}
	}
}

// Cues are the lines of a version as it stands.
func (v *Version) Cues() say.Cues { return v.WordsWith("").Cues }

// Slots lists the places for words of a version.
func (v *Version) Slots() []string {
	var out []string
	for i := range v.Say.Setup.First {
		out = append(out, fmt.Sprintf("setup.%d", i+1))
	}
	for i := v.Round(); i < len(v.Phases); i++ {
		if _, ok := v.Say.Phases[v.Phases[i].Name]; ok {
			out = append(out, v.Phases[i].Name+".full", v.Phases[i].Name+".key")
		}
	}
	out = append(out, "image", "feel")
	for _, f := range v.Faults {
		if slot := "fault." + f.Code; f.Code != "" && !slices.Contains(out, slot) {
			out = append(out, slot)
		}
	}
	return out
}

// FaultSays are what can be seen going wrong, in words.
func (v *Version) FaultSays() []string { return say.FaultSays(v.Faults) }

// FeltIn is where the exercise should be felt, in words.
func (v *Version) FeltIn() []string { return say.Sentences(v.Say.Feel) }
