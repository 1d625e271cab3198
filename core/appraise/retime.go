package appraise

import (
	"math"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/core/way"
)

// Retime recomputes every start, end and transition of a plan's items in their order,
// and the aims, checks and total; it is used after every change by hand.
func Retime(r *facts.Request, p *plan.Plan) { Reckon(r.About(p), p) }

// Reckon is Retime for a request that knows already what was taken out of the plan.
func Reckon(r *facts.Request, p *plan.Plan) {
	at := r.StartPlace()
	now := 0
	for i := range p.Items {
		r.Dress(&p.Items[i])
		p.Items[i].Apart()
		setUpLayers(r, &p.Items[i])
	}
	sideBlocks(r, p)
	for i := range p.Items {
		it := &p.Items[i]
		to := it.Place()
		if it.Role == trade.Reset { // its way there and back is its set-up
			to = at
		}
		it.Transition, _, _ = way.Move(at, to, r.MoverFor(p))
		it.Transition += it.TurnS
		now += it.Transition
		it.Start = now
		now += it.Dose.Seconds(r.Client.BreathRate, it.Sides())
		it.End = now
		it.Aims = credit(r, it)
		at = to
	}
	p.UpS, _, _ = way.Move(at, r.StartPlace(), r.MoverFor(p))
	if len(p.Items) == 0 {
		p.UpS = 0
	}
	p.Seconds = now + p.UpS
	p.SlotS = 60 * r.Ask.Slot
	p.Template, p.Doses = r.Template.ID(), r.Template.Doses()
	p.Banned, p.AllowNew, p.Where, p.Skill = r.Ask.Banned, r.Ask.AllowNew, r.Ask.Place, r.Skill()
	p.Place, p.Character = r.Place(), r.Ask.Character
	p.Section, p.AsksMemory = "", false
	if sch := r.SchemeToday(); sch.Known() {
		p.AsksMemory = !sch.Memory
		if sch.Section != nil {
			p.Section = sch.Section.Name
		}
	}
	p.Directions = sessionDirections(r, p)
	p.Served = served(r, p)
	p.Score = math.Round(1e4*score(r, p)) / 1e4
	p.Dry = dry(r, p)
	p.Checks = check(r, p)
	p.Cautions = r.Cautions
	p.Wishes = r.Screener.Wishes()
}

// CreditOf shares working seconds among a version's aims by how much it serves each: minutes times
// the factors of place and task, rounded to a hundredth.
func CreditOf(v *catalogue.Version, seconds int, factor float64) map[string]float64 {
	out := make(map[string]float64, len(v.Aims))
	grade := func(a string) float64 {
		if catalogue.Has(v.MainAims, a) {
			return facts.MainGrade
		}
		return facts.AlsoGrade
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

// Factor is how much an item counts for this client: where the session takes place, and how much it
// carries over to what the client wants to be able to do.
func Factor(r *facts.Request, v *catalogue.Version, fit int) float64 {
	f := r.PlaceFactor(v)
	if len(r.TasksOfAims()) > 0 {
		f *= facts.CarryLeast + facts.CarryPoint*float64(fit)
	}
	return f
}

// credit is the minutes an item serves its aims: its time without the set-up.
func credit(r *facts.Request, it *plan.Item) map[string]float64 {
	v, _ := r.Catalogue.Version(it.Version)
	if it.Role == trade.Reset || v == nil {
		return map[string]float64{}
	}
	return CreditOf(v, it.End-it.Start-it.Dose.SetupS, Factor(r, v, r.Fitness(v)))
}

func served(r *facts.Request, p *plan.Plan) []plan.Serving {
	aims, weight, target := r.Wants()
	out := make([]plan.Serving, len(aims))
	for k, a := range aims {
		out[k] = plan.Serving{Aim: a, Weight: math.Round(1000*weight[k]) / 1000, Target: math.Round(100*target[k]) / 100}
		for i := range p.Items {
			out[k].Served += p.Items[i].Aims[a]
		}
		out[k].Served = math.Round(100*out[k].Served) / 100
	}
	return out
}
