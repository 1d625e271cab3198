package kinds

import (
	"slices"

	"restbend/core/catalogue"
)

// Parts of a session.
const (
	Settle   = "settle"
	Mobility = "mobility"
	Main     = "main"
	Closing  = "close"
)

// What aims make a version strengthen, mobilise or settle (domain/07).
var (
	Strengthens = []string{"deep-core", "anti-extension", "anti-side-bend", "anti-rotation", "back-strength",
		"hip-strength", "leg-strength", "balance", "bone-loading", "ankle-foot", "arm-strength"}
	Mobilises = []string{"spinal-mobility", "thoracic-mobility", "hip-mobility"}
	settles   = []string{"breathing", "relaxation", "deep-core"}
)

// AnyAim tells whether one of some aims is among others.
func AnyAim(list, of []string) bool {
	return slices.ContainsFunc(list, func(a string) bool { return slices.Contains(of, a) })
}

// PartOf is the part of a session that a version belongs to as a body item.
func PartOf(v *catalogue.Version) string {
	first := v.MainAims[0]
	switch {
	case slices.Contains(Mobilises, first) && v.Effort < 4:
		return Mobility
	case AnyAim(v.MainAims, Strengthens) && (v.Effort >= catalogue.StrongFrom || !slices.Contains(settles, first)):
		return Main
	case AnyAim(v.MainAims, Mobilises):
		return Mobility
	case v.Effort >= catalogue.StrongFrom:
		return Main
	}
	return Settle
}

// Counts of the parts: from and to.
type Counts struct{ Extra, MobilityFrom, MobilityTo, MainFrom, MainTo int }

// ByMinutes by minutes (domain/07; a second settle or close is one of extra).
var ByMinutes = []struct {
	Minutes int // to
	Counts
}{
	{5, Counts{0, 0, 2, 0, 2}},
	{7, Counts{0, 0, 2, 1, 3}},
	{15, Counts{0, 1, 2, 2, 3}},
	{30, Counts{0, 2, 3, 3, 6}},
	{50, Counts{2, 3, 4, 5, 9}},
	{60, Counts{2, 4, 5, 6, 10}},
}
