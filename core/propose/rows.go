package propose

import (
	"restbend/core/facts"
	"restbend/core/solve"
)

// rows states the composition.
func (b *builder) rows() {
	if b.r.Ask.Only {
		return // what is there is only put in order
	}
	for _, w := range b.r.Wantings() {
		row := solve.Row{
			Name:  w.Name,
			Items: make([]float64, len(b.m.Items)),
			Least: w.Least,
			Unit:  w.Unit,
			Soft:  w.Soft,
		}
		of := func(c *facts.Candidate, option int) float64 {
			p := c.Counted(option)
			p.Seconds = p.Dose.Seconds(b.r.Client.BreathRate, c.Sides())
			return w.By(p)
		}
		for i := range b.m.Items {
			row.Items[i] = of(&b.m.cands[b.m.Items[i].Cand], b.m.Items[i].Option)
		}
		for _, list := range [][]solve.End{b.m.Opens, b.m.Closes} {
			for i := range list {
				e, have := &list[i], 0.0
				for k, cand := range e.Cands {
					if w.Ends {
						have += of(&b.m.cands[cand], e.Options[k])
					}
				}
				e.Rows = append(e.Rows, have)
			}
		}
		b.m.Rows = append(b.m.Rows, row)
	}
}
