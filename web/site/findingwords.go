package site

import (
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/figure"
)

// IsPlace tells whether a finding is about the place, the kit or a position, where there
// is no number to show.
func IsPlace(f safety.Finding) bool {
	return f.Condition == "place" || f.Condition == "positions" || f.Condition == "clearance"
}

// MarkOf is what a finding's picture points at, in a phase as it is drawn to a side. A load points at the
// contact that carries it; where none does nothing is circled.
func MarkOf(words *safety.Vocabulary, v *catalogue.Version, f safety.Finding, phase int, side trade.Side) *figure.Mark {
	at := words.Point(f.Quantity)
	if _, load := loads[loadOf(f.Quantity)]; load {
		at, _ = carrier(v, f.Quantity, phase, side)
	}
	return &figure.Mark{
		At:   at,
		Text: words.Words(f.Quantity),
		More: words.Amount(f.Quantity, f.Value) + ", allowed " + words.Amount(f.Quantity, f.Allowed),
	}
}

// loads are the contacts that may carry what a quantity is about, by its first word.
var loads = map[string][]string{
	"arm-load": {"hand", "forearm", "elbow"}, "wrist-load": {"hand"}, "wrist-ground": {"hand"},
	"kneeling": {"knee", "shank"}, "kneeling-at-all": {"knee", "shank"}, "share": nil,
}

// points are the places on the body that contacts are drawn at.
var points = map[string]string{
	"hand": "palm", "forearm": "elbow", "elbow": "elbow", "knee": "knee", "shank": "shin", "foot": "ankle", "toes": "ball",
	"heel": "heel", "shoulder-side": "shoulder", "hip-side": "hip", "thigh": "hip", "pelvis": "pelvis", "head": "crown",
	"mid-back": "small-of-back", "upper-back": "neck", "belly": "navel", "ribs": "chest",
}

func loadOf(quantity string) string {
	head, _, _ := strings.Cut(quantity, ".")
	return head
}

// leastCarried is the share of body weight from which a contact is said to carry (posture noise of shares).
const leastCarried = 0.01

// carrier is where on the body the contact stands that carries most of what a quantity is about, empty when none does.
func carrier(v *catalogue.Version, quantity string, phase int, side trade.Side) (at string, carried float64) {
	contacts := loads[loadOf(quantity)]
	parts := strings.Split(quantity, ".")
	limb := parts[len(parts)-1]
	if contacts == nil && len(parts) > 1 { // share.hand.left names its contact
		contacts = parts[1:2]
	}
	mirrored := v.SideMode != trade.None && side.One() && side != trade.BothSides[v.Authored]
	for name, share := range v.Solved.Phases[phase].Measures.Share {
		if mirrored {
			name = body.MirrorName(name)
		}
		contact, on, _ := strings.Cut(name, ".")
		other := on != "" && trade.Side(limb).One() && on != limb
		if !catalogue.Has(contacts, contact) || other || share <= max(carried, leastCarried) {
			continue
		}
		if at, carried = points[contact], share; on != "" {
			at += "." + on
		}
	}
	return at, carried
}

// Carried is how much of what a load finding is about is carried in a phase, a share of body weight; 0 for others.
func Carried(v *catalogue.Version, f *safety.Finding, phase int) float64 {
	if _, load := loads[loadOf(f.Quantity)]; !load {
		return 0
	}
	side := f.Side
	if side == "" {
		side = f.Turn
	}
	_, carried := carrier(v, f.Quantity, phase, side)
	return carried
}
