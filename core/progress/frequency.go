package progress

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// Frequency is how often a kind of work is wanted, and how often it was done.
type Frequency struct {
	Name, Wish, Source string
	PerWeek            int // days wanted
	Week               int // days with it in the last 7
	FourWeeks          int // ... in the last 28
}

// Short tells whether the last week had too little of it.
func (f Frequency) Short() bool { return f.Week < f.PerWeek }

// The frequencies of practice (domain/04; balance also WHO guidelines 2020 for 65 and older, value
// from memory).
var frequencies = []struct {
	Frequency
	aims []string
	from int // effort
}{
	{Frequency{Name: "Mobility and breathing", Wish: "daily", Source: "common practice", PerWeek: 7},
		[]string{"spinal-mobility", "thoracic-mobility", "hip-mobility", "breathing", "relaxation"}, 0},
	{Frequency{Name: "Control and strength", Wish: "every second day or daily", Source: "common practice", PerWeek: 3},
		[]string{"deep-core", "anti-extension", "anti-side-bend", "anti-rotation", "back-strength", "hip-strength",
			"leg-strength", "arm-strength"}, catalogue.StrongFrom},
	{Frequency{Name: "Balance", Wish: "at least three days a week",
		Source: "common practice; WHO 2020 for 65 and older (value from memory)", PerWeek: 3},
		[]string{"balance"}, 0},
}

// Frequencies counts the days each kind of work was done up to a day.
func Frequencies(cat *catalogue.Catalogue, log *Log, today trade.Day) (out []Frequency) {
	for _, kind := range frequencies {
		f := kind.Frequency
		week, four := map[trade.Day]bool{}, map[trade.Day]bool{}
		for _, s := range log.Sessions {
			age := today.Since(s.Date)
			if age < 0 || age >= 28 {
				continue
			}
			for _, it := range s.Items {
				v, ok := cat.Version(it.Version)
				if !ok || !it.Begun() || v.Effort < kind.from ||
					!slices.ContainsFunc(kind.aims, func(a string) bool { return catalogue.Has(v.Aims, a) }) {
					continue
				}
				four[s.Date] = true
				if age < 7 {
					week[s.Date] = true
				}
			}
		}
		f.Week, f.FourWeeks = len(week), len(four)
		out = append(out, f)
	}
	return out
}
