package plan

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

var (
	strengthens = []string{"deep-core", "anti-extension", "anti-side-bend", "anti-rotation", "back-strength",
		"hip-strength", "leg-strength", "balance", "bone-loading", "ankle-foot", "arm-strength"}
	mobilises = []string{"spinal-mobility", "thoracic-mobility", "hip-mobility"}
	settles   = []string{"breathing", "relaxation", "deep-core"}
)

func anyAim(list, of []string) bool {
	return slices.ContainsFunc(list, func(a string) bool { return slices.Contains(of, a) })
}

// PartOf is the part of a session that a version belongs to as a body item.
func PartOf(v *catalogue.Version) string {
	first := v.MainAims[0]
	switch {
	case slices.Contains(mobilises, first) && v.Effort < 4:
		return Mobility
	case anyAim(v.MainAims, strengthens) && (v.Effort >= catalogue.StrongFrom || !slices.Contains(settles, first)):
		return Main
	case anyAim(v.MainAims, mobilises):
		return Mobility
	case v.Effort >= catalogue.StrongFrom:
		return Main
	}
	return Settle
}

// Counts of the parts: from and to.
type counts struct{ extra, mobilityFrom, mobilityTo, mainFrom, mainTo int }

// parts by minutes (domain/07; a second settle or close is one of extra).
var parts = []struct {
	minutes int // to
	counts
}{
	{5, counts{0, 0, 2, 0, 2}},
	{7, counts{0, 0, 2, 1, 3}},
	{15, counts{0, 1, 2, 2, 3}},
	{30, counts{0, 2, 3, 3, 6}},
	{50, counts{2, 3, 4, 5, 9}},
	{60, counts{2, 4, 5, 6, 10}},
}
