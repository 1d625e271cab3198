package web

import (
	"fmt"
	"strings"

	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/figure"
)

var regionNames = map[string]string{"lumbar": "low back", "thoracic": "upper back", "neck": "neck", "trunk": "whole trunk"}

// plainQuantities are the quantities that are not put together from parts. A brace stands
// for a side.
var plainQuantities = map[string]string{
	"moment": "what gravity asks of the low back", "effort": "effort", "weight": "weight in the hands", "head-lift": "head lifted from lying",
	"head-lift.unsupported": "head lifted without a hand", "head-lift.thoracic": "upper back bending with the head lifted", "head-lift.lumbar": "low back bending with the head lifted",
	"bridge-rise": "pelvis rises", "head-low": "head below the heart", "pelvis-above-chest": "pelvis above the chest", "thighs-apart": "thighs apart under weight", "hip.difference": "difference between the hips",
	"standing.free": "standing without a hold", "standing.narrow": "narrow base without a hold", "standing.one-foot": "one foot without a hold", "standing.head-turn": "head turns while standing",
	"one-leg-bridge": "bridge on one foot", "toe-plank": "front plank from the toes", "prone.neck": "head leaves its line on the front", "prone.lift": "limb or chest lifted on the front",
	"end-range-hold": "resting at the end of a range", "lumbar.extension.turned": "arching while turned", "bridge.lumbar": "low back leaves its line in a bridge", "rise.free": "rising from a seat without hands",
	"kit": "kit", "surface": "place", "needs.floor": "getting to the floor", "needs.floor-sit": "sitting upright on the floor", "needs.supine": "lying on the back", "needs.prone": "lying on the front",
	"forbidden": "kept out by a clinician's words", "needs.side": "lying on the {} side", "needs.kneel": "kneeling", "needs.hands": "weight on the hands", "needs.standing": "standing",
	"arm-load": "weight on the {} arm", "wrist-load": "weight on the {} hand, wrist bent back", "kneeling": "weight on the {} knee", "overhead": "{} arm raised", "nerve-tension": "{} hip bent with a straight knee",
	"hip.flexion": "{} hip bent", "hip.across": "{} knee across the midline", "hip.rotation-in": "{} hip turned in", "knee.loaded-flexion": "{} knee bent under weight", "strap": "strap on the {} hand",
	"curve-opens": "{} side opens", "curve-works": "{} side works", "jammed-up": "{} side up",
}

var sideWords = map[string]string{"{side}": "recorded", "{other}": "other", "{convex}": "long", "{concave}": "short", "{free}": "free"}

var directionNames = map[string]string{"flexion": "bends", "extension": "arches", "side-bend": "bends sideways", "rotation": "turns"}

// quantityWords says a quantity in the words of the trade.
func quantityWords(q string) string {
	if w, ok := plainQuantities[q]; ok {
		return w
	}
	stem, last := q, ""
	if i := strings.LastIndexByte(q, '.'); i > 0 {
		stem, last = q[:i], q[i+1:]
	}
	if w, ok := plainQuantities[stem]; ok {
		if said, ok := sideWords[last]; ok {
			last = said
		}
		return strings.ReplaceAll(w, "{}", last)
	}
	parts := strings.Split(q, ".")
	region := regionNames[parts[0]]
	if parts[0] == "{region}" {
		region = "recorded region"
	}
	if region == "" || len(parts) < 2 {
		return strings.NewReplacer(".", " ", "-", " ").Replace(strings.TrimPrefix(q, "declared."))
	}
	w := region + " " + directionNames[parts[1]]
	switch {
	case len(parts) < 3:
	case parts[2] == "loaded":
		w += " under load"
	case parts[2] == "unloaded":
		w += " supported"
	default:
		w += " " + parts[2]
	}
	return w
}

// amount says a value with its unit, as far as it is shown.
func amount(q string, v float64) string {
	l := safety.Limit{Quantity: q}
	unit := l.Unit()
	switch unit {
	case "":
		return map[bool]string{true: "yes", false: "not at all"}[v > 0]
	case "degrees":
		return fmt.Sprintf("%.0f°", v)
	case "of body weight", "share of range": // percent
		return fmt.Sprintf("%.0f %% %s", 100*v, unit)
	case "of 10":
		return fmt.Sprintf("%.0f of 10", v)
	}
	return fmt.Sprintf("%.3g %s", v, unit)
}

// isPlace tells whether a finding is about the place, the kit or a position, where there
// is no number to show.
func isPlace(f safety.Finding) bool {
	return f.Condition == "place" || f.Condition == "positions" || f.Condition == "clearance"
}

// markOf is what a finding's picture points at.
func markOf(f safety.Finding) *figure.Mark {
	parts := strings.Split(f.Quantity, ".")
	at := parts[0]
	side := parts[len(parts)-1]
	if _, ok := trade.ParseSide(side); !ok {
		side = ""
	}
	switch at {
	case "lumbar", "thoracic", "neck", "trunk":
	case "moment", "bridge":
		at = "lumbar"
	case "head-lift", "head-low", "prone", "standing":
		at = "crown"
	case "arm-load", "wrist-load", "strap":
		at = "palm." + side
	case "overhead":
		at = "elbow." + side
	case "kneeling", "knee":
		at = "knee." + side
	case "hip", "nerve-tension":
		at = "hip." + side
		if side == "" {
			at = "pubis"
		}
	default:
		at = "pubis"
	}
	return &figure.Mark{At: at, Text: quantityWords(f.Quantity), More: amount(f.Quantity, f.Value) + ", allowed " + amount(f.Quantity, f.Allowed)}
}
