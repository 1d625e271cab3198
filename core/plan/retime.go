package plan

import (
	"math"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// Retime recomputes every start, end and transition of a plan's items in their order,
// and the aims, checks and total; it is used after every change by hand.
func (r *Request) Retime(p *Plan) { r.about(p).retime(p) }

func (r *Request) retime(p *Plan) {
	at := r.startPlace()
	now := 0
	for i := range p.Items {
		r.dress(&p.Items[i])
		p.Items[i].apart()
		r.setUpLayers(&p.Items[i])
	}
	r.sideBlocks(p)
	for i := range p.Items {
		it := &p.Items[i]
		to := it.place()
		if it.Role == trade.Reset { // its way there and back is its set-up
			to = at
		}
		it.Transition, _ = move(at, to, r.helped())
		it.Transition += it.TurnS
		now += it.Transition
		it.Start = now
		now += it.Dose.Seconds(r.Client.BreathRate, it.Sides())
		it.End = now
		it.Aims = r.credit(it)
		at = to
	}
	p.UpS, _ = finish(at, r.startPlace(), r.helped())
	if len(p.Items) == 0 {
		p.UpS = 0
	}
	p.Seconds = now + p.UpS
	p.SlotS = 60 * r.Ask.Slot
	p.Template = r.Template.slug()
	p.Banned, p.AllowNew, p.Where, p.Skill = r.Ask.Banned, r.Ask.AllowNew, r.Ask.Place, r.skill()
	p.Place, p.Character = r.Place(), r.Ask.Character
	p.Section, p.AsksMemory = "", false
	if sch := r.scheme(); sch.Known() {
		p.AsksMemory = !sch.Memory
		if sch.Section != nil {
			p.Section = sch.Section.Name
		}
	}
	p.Directions = r.sessionDirections(p)
	p.Served = r.served(p)
	p.Score = math.Round(1e4*r.score(p)) / 1e4
	p.Dry = r.dry(p)
	p.Checks = r.check(p)
	p.Cautions = r.Cautions
	p.Wishes = r.Screener.Wishes()
}

// creditOf shares working seconds among a version's aims by how much it serves each: minutes times
// the factors of place and task, rounded to a hundredth.
func creditOf(v *catalogue.Version, seconds int, factor float64) map[string]float64 {
	out := make(map[string]float64, len(v.Aims))
	grade := func(a string) float64 {
		if catalogue.Has(v.MainAims, a) {
			return mainGrade
		}
		return alsoGrade
	}
	total := 0.0
	for _, a := range v.Aims {
		total += grade(a)
	}
	for _, a := range v.Aims {
		out[a] = math.Round(100*factor*float64(seconds)/60*grade(a)/total+1e-9) / 100
	}
	return out
}

// factor is how much an item counts for this client: where the session takes place, and how much it
// carries over to what the client wants to be able to do.
func (r *Request) factor(v *catalogue.Version, fit int) float64 {
	f := r.placeFactor(v)
	if len(r.tasks()) > 0 {
		f *= carryLeast + carryPoint*float64(fit)
	}
	return f
}

// credit is the minutes an item serves its aims: its time without the set-up.
func (r *Request) credit(it *Item) map[string]float64 {
	v, _ := r.Catalogue.Version(it.Version)
	if it.Role == trade.Reset || v == nil {
		return map[string]float64{}
	}
	return creditOf(v, it.End-it.Start-it.Dose.SetupS, r.factor(v, r.fit(v)))
}

func (r *Request) served(p *Plan) []Serving {
	aims, weight, target := r.wants()
	out := make([]Serving, len(aims))
	for k, a := range aims {
		out[k] = Serving{a, math.Round(1000*weight[k]) / 1000, math.Round(100*target[k]) / 100, 0}
		for i := range p.Items {
			out[k].Served += p.Items[i].Aims[a]
		}
		out[k].Served = math.Round(100*out[k].Served) / 100
	}
	return out
}
