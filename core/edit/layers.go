package edit

import (
	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
)

// A layered item (domain/07) is two or three neighbouring rungs of one branch in one set-up, some
// repetitions each; the client stays at the last clean layer, and the last one may be a trial.

const mostLayers = 3

// layer adds the next rung to an item as a layer.
func layer(r *facts.Request, it *plan.Item) error {
	top := it.Version
	if n := len(it.Layers); n > 0 {
		top = it.Layers[n-1]
	}
	v, ok := r.Catalogue.Version(top)
	if !ok {
		return plan.Deny("item", "there is no version %q", top)
	}
	w := r.Catalogue.Next(v)
	switch {
	case len(it.Layers) >= mostLayers:
		return plan.Deny("item", "an item has %d layers at most", mostLayers)
	case w == nil:
		return plan.Deny("item", "%s is the last rung of its branch", v.Name)
	case it.Dose.Apart != nil || it.Dose.HoldBreaths > 0 || it.Dose.TotalReps() < 2*max(2, len(it.Layers)+1):
		return plan.Deny("item", "%s has too few repetitions to be shared by layers", v.Name)
	}
	if len(it.Layers) > 0 && !opened(r, v) {
		return plan.Deny("item", "%s is a trial and stays the last layer", v.Name)
	}
	if why := appraise.LayerWaits(r, it, w); why != "" {
		return plan.Deny("item", "%s cannot be a layer: %s", w.Name, why)
	}
	if len(it.Layers) == 0 {
		it.Layers = []string{it.Version}
	}
	it.Layers = append(it.Layers, w.Slug)
	return nil
}

// unlayer takes the last layer off.
func unlayer(r *facts.Request, it *plan.Item) error {
	if len(it.Layers) == 0 {
		return plan.Deny("item", "it has no layers")
	}
	takeOff(r, it)
	return nil
}

func takeOff(r *facts.Request, it *plan.Item) {
	if it.Layers = it.Layers[:len(it.Layers)-1]; len(it.Layers) < 2 {
		it.Layers, it.Dose.SetupS = nil, catalogue.Explain(r.Times(it.Version))
	}
}

// opened tells whether the client may work on a rung, and not only try it.
func opened(r *facts.Request, v *catalogue.Version) bool { return r.MayBegin(v) && !aboveDecided(r, v) }

// aboveDecided tells whether a version is above the rung that the log decided for its branch.
func aboveDecided(r *facts.Request, v *catalogue.Version) bool {
	for i := range r.Decisions {
		w, ok := r.Catalogue.Version(r.Decisions[i].ToVersion)
		if ok && facts.BranchKey(w) == facts.BranchKey(v) && v.Rung > w.Rung {
			return true
		}
	}
	return false
}

// dropLayers takes off what may not be done now, from the top.
func dropLayers(r *facts.Request, it *plan.Item) (dropped bool) {
	for len(it.Layers) > 0 && !appraise.LayersHold(r, it) {
		takeOff(r, it)
		dropped = true
	}
	return dropped
}
