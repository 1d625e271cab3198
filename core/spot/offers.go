package spot

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/edit"
	"restbend/core/trade"
)

// Offer is one thing that can be done about an exercise that is too hard, or too easy.
type Offer struct {
	What    string        `json:"what"`
	Version string        `json:"version,omitempty"`
	Ease    string        `json:"ease,omitempty"`
	Surface trade.Surface `json:"surface,omitempty"`
	Item    int           `json:"item"`
	Say     string        `json:"say"`
	Note    string        `json:"note,omitempty"`
}

// mostSwaps is how many swaps are offered on the spot (product default).
const mostSwaps = 3

// TooHard are the ways out: the entry's eases, one rung down, another place, another exercise that keeps the purpose.
// Each of them can be done now.
func (f *Facts) TooHard(at float64) (out []Offer) {
	item := f.Score.UnderWay(at)
	if item < 0 {
		return nil
	}
	it := &f.Plan.Items[item]
	v, ok := f.Request.Catalogue.Version(it.Version)
	if !ok {
		return nil
	}
	var all []Offer
	for i := range v.Eases {
		e := &v.Eases[i]
		if !slices.Contains(it.Eases, e.Slug) && f.owns(e) {
			all = append(all, Offer{What: "ease", Version: v.Slug, Ease: e.Slug, Surface: it.Surface, Item: item, Say: e.Name})
		}
	}
	if w := f.Request.Catalogue.Previous(v); w != nil {
		all = append(all, Offer{What: "down", Version: w.Slug, Surface: w.Surfaces[0], Item: item, Say: w.Name,
			Note: "one rung down"})
	}
	for _, s := range v.Surfaces {
		if s != it.Surface {
			all = append(all, Offer{What: "place", Version: v.Slug, Surface: s, Item: item, Say: "on the " + string(s)})
		}
	}
	swaps := 0
	for _, slug := range edit.Swaps(f.Request, f.Plan, item) {
		if w, ok := f.Request.Catalogue.Version(slug); ok && w.Effort <= v.Effort && swaps < mostSwaps {
			all = append(all, Offer{What: "swap", Version: slug, Surface: w.Surfaces[0], Item: item, Say: w.Name,
				Note: "keeps the purpose"})
			swaps++
		}
	}
	for _, o := range all {
		if _, err := f.Apply(Change{What: o.What, At: at, Item: item, Version: o.Version, Ease: o.Ease,
			Surface: o.Surface}); err == nil {
			out = append(out, o)
		}
	}
	return out
}

// TooEasy is a trial of the next rung where its gate is open; why says what it waits for.
func (f *Facts) TooEasy(at float64) (out []Offer, why string) {
	item := f.Score.UnderWay(at)
	if item < 0 {
		return nil, ""
	}
	_, err := f.Apply(Change{What: "trial", At: at, Item: item})
	if err != nil {
		return nil, err.Error()
	}
	v, _ := f.Request.Catalogue.Version(f.Plan.Items[item].Version)
	w := f.Request.Catalogue.Next(v)
	return []Offer{{What: "trial", Version: w.Slug, Surface: w.Surfaces[0], Item: item, Say: w.Name,
		Note: "tried once; it decides nothing"}}, ""
}

// Late are the ways to end in time, of a session that is so many seconds late: what is least worth left out, a set
// less of everything, or to run over.
func (f *Facts) Late(at float64) (out []Offer) {
	last := f.Score.LastRunning(at)
	least := -1
	for i := last + 1; i < len(f.Plan.Items); i++ {
		if it := &f.Plan.Items[i]; it.Role == trade.Main && !it.Locked &&
			(least < 0 || it.Worth() < f.Plan.Items[least].Worth()) {
			least = i
		}
	}
	if least >= 0 {
		out = append(out, Offer{What: "drop", Item: least, Version: f.Plan.Items[least].Version,
			Say: "leave out " + f.nameOf(f.Plan.Items[least].Version)})
	}
	if _, err := f.lessEach(Change{What: "dose", At: at}); err == nil {
		out = append(out, Offer{What: "dose", Item: -1, Say: "a set less of each"})
	}
	return out
}

// Coming are the items still to come, those that fit the position under way first, and how much getting up and down
// doing one next would cost.
func (f *Facts) Coming(at float64) (out []Offer) {
	last := f.Score.LastRunning(at)
	under := f.Score.UnderWay(at)
	for i := last + 2; i < len(f.Score.Items); i++ { // the one after this comes next as it is
		if f.Score.Items[i].Role != trade.Main {
			continue
		}
		o, err := f.Apply(Change{What: "next", At: at, Item: i})
		if err != nil {
			continue
		}
		note := ""
		if under >= 0 && f.Score.Items[i].Position == f.Score.Items[under].Position {
			note = "from here"
		}
		if d := int(o.Score.Seconds - f.Score.Seconds); d > 0 {
			note = strings.TrimSpace(note + fmt.Sprintf(" ends %d s later", d))
		}
		out = append(out, Offer{What: "next", Item: i, Version: f.Score.Items[i].Version, Surface: f.Score.Items[i].Surface,
			Say: f.Score.Items[i].Name, Note: note})
	}
	slices.SortStableFunc(out, func(a, b Offer) int {
		here := func(o Offer) int {
			if strings.HasPrefix(o.Note, "from here") {
				return 0
			}
			return 1
		}
		return here(a) - here(b)
	})
	return out
}
