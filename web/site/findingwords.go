package site

import (
	"restbend/core/safety"
	"restbend/figure"
)

// IsPlace tells whether a finding is about the place, the kit or a position, where there
// is no number to show.
func IsPlace(f safety.Finding) bool {
	return f.Condition == "place" || f.Condition == "positions" || f.Condition == "clearance"
}

// MarkOf is what a finding's picture points at.
func MarkOf(words *safety.Vocabulary, f safety.Finding) *figure.Mark {
	return &figure.Mark{
		At:   words.Point(f.Quantity),
		Text: words.Words(f.Quantity),
		More: words.Amount(f.Quantity, f.Value) + ", allowed " + words.Amount(f.Quantity, f.Allowed),
	}
}
