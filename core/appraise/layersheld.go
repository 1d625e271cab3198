package appraise

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// LayerWaits says why a rung cannot be a layer of an item: it needs the same set-up, must suit as it is,
// and stays within the cap of the day and what the log allows.
func LayerWaits(r *facts.Request, it *plan.Item, w *catalogue.Version) string {
	res, ok := r.Screening.Result(w.Slug)
	limit := r.EffortCap()
	switch {
	case !ok || res.Verdict != trade.Suits:
		return "it does not suit as it is"
	case w.Position != it.Position || !slices.Contains(w.Surfaces, it.Surface):
		return "it needs another set-up"
	case limit > 0 && w.Effort > limit:
		return "it is above the effort allowed today"
	case r.Above(w):
		return "it is a rung above what the log allows"
	case WrongSide(r, &plan.Item{Version: w.Slug, Side: it.Side}):
		return "a side of it does not suit"
	}
	if most, _ := r.Screener.HoldCap(w); most > 0 && it.Dose.HoldSeconds(r.Client.BreathRate) > most {
		return "it is not held for so long"
	}
	return ""
}

// LayersHold tells whether every layer of an item may be done now.
func LayersHold(r *facts.Request, it *plan.Item) bool {
	for i, slug := range it.Layers {
		w, ok := r.Catalogue.Version(slug)
		if !ok || i == 0 && slug != it.Version || i > 0 && LayerWaits(r, it, w) != "" {
			return false
		}
	}
	return true
}

// setUpLayers gives a layered item the time to explain its further layers, half of what an item takes
// (domain/07).
func setUpLayers(r *facts.Request, it *plan.Item) {
	if len(it.Layers) == 0 {
		return
	}
	it.Dose.SetupS = catalogue.Explain(r.Times(it.Version))
	for _, slug := range it.Layers[1:] {
		it.Dose.SetupS += catalogue.Explain(r.Times(slug)) / 2
	}
}
