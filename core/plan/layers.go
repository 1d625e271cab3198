package plan

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// A layered item (domain/07) is two or three neighbouring rungs of one branch in one set-up, some
// repetitions each; the client stays at the last clean layer, and the last one may be a trial.

const mostLayers = 3

// layer adds the next rung to an item as a layer.
func (r *Request) layer(it *Item) error {
	top := it.Version
	if n := len(it.Layers); n > 0 {
		top = it.Layers[n-1]
	}
	v, ok := r.Catalogue.Version(top)
	if !ok {
		return denied("item", "there is no version %q", top)
	}
	w := r.Catalogue.Next(v)
	switch {
	case len(it.Layers) >= mostLayers:
		return denied("item", "an item has %d layers at most", mostLayers)
	case w == nil:
		return denied("item", "%s is the last rung of its branch", v.Name)
	case it.Dose.Apart != nil || it.Dose.HoldBreaths > 0 || it.Dose.TotalReps() < 2*max(2, len(it.Layers)+1):
		return denied("item", "%s has too few repetitions to be shared by layers", v.Name)
	}
	if len(it.Layers) > 0 && !r.opened(v) {
		return denied("item", "%s is a trial and stays the last layer", v.Name)
	}
	if why := r.layerWaits(it, w); why != "" {
		return denied("item", "%s cannot be a layer: %s", w.Name, why)
	}
	if len(it.Layers) == 0 {
		it.Layers = []string{it.Version}
	}
	it.Layers = append(it.Layers, w.Slug)
	return nil
}

// unlayer takes the last layer off.
func (r *Request) unlayer(it *Item) error {
	if len(it.Layers) == 0 {
		return denied("item", "it has no layers")
	}
	r.takeOff(it)
	return nil
}

func (r *Request) takeOff(it *Item) {
	if it.Layers = it.Layers[:len(it.Layers)-1]; len(it.Layers) < 2 {
		it.Layers, it.Dose.SetupS = nil, catalogue.Explain(r.times(it.Version))
	}
}

// opened tells whether the client may work on a rung, and not only try it.
func (r *Request) opened(v *catalogue.Version) bool { return r.mayBegin(v) && !r.aboveDecided(v) }

// aboveDecided tells whether a version is above the rung that the log decided for its branch.
func (r *Request) aboveDecided(v *catalogue.Version) bool {
	for i := range r.Decisions {
		w, ok := r.Catalogue.Version(r.Decisions[i].ToVersion)
		if ok && branchKey(w) == branchKey(v) && v.Rung > w.Rung {
			return true
		}
	}
	return false
}

// layerWaits says why a rung cannot be a layer of an item: it needs the same set-up, must suit as it is,
// and stays within the cap of the day and what the log allows.
func (r *Request) layerWaits(it *Item, w *catalogue.Version) string {
	res, ok := r.Screening.Result(w.Slug)
	limit := r.effortCap()
	switch {
	case !ok || res.Verdict != trade.Suits:
		return "it does not suit as it is"
	case w.Position != it.Position || !slices.Contains(w.Surfaces, it.Surface):
		return "it needs another set-up"
	case limit > 0 && w.Effort > limit:
		return "it is above the effort allowed today"
	case r.above(w):
		return "it is a rung above what the log allows"
	case r.wrongSide(&Item{Version: w.Slug, Side: it.Side}):
		return "a side of it does not suit"
	}
	if most, _ := r.Screener.HoldCap(w); most > 0 && it.Dose.HoldSeconds(r.Client.BreathRate) > most {
		return "it is not held for so long"
	}
	return ""
}

// layersHold tells whether every layer of an item may be done now.
func (r *Request) layersHold(it *Item) bool {
	for i, slug := range it.Layers {
		w, ok := r.Catalogue.Version(slug)
		if !ok || i == 0 && slug != it.Version || i > 0 && r.layerWaits(it, w) != "" {
			return false
		}
	}
	return true
}

// setUpLayers gives a layered item the time to explain its further layers, half of what an item takes
// (domain/07).
func (r *Request) setUpLayers(it *Item) {
	if len(it.Layers) == 0 {
		return
	}
	it.Dose.SetupS = catalogue.Explain(r.times(it.Version))
	for _, slug := range it.Layers[1:] {
		it.Dose.SetupS += catalogue.Explain(r.times(slug)) / 2
	}
}

// dropLayers takes off what may not be done now, from the top.
func (r *Request) dropLayers(it *Item) (dropped bool) {
	for len(it.Layers) > 0 && !r.layersHold(it) {
		r.takeOff(it)
		dropped = true
	}
	return dropped
}
