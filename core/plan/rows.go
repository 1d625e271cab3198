package plan

import "restbend/core/solve"

// rows states the composition.
func (b *builder) rows() {
	if b.r.Ask.Only {
		return // what is there is only put in order
	}
	for _, w := range b.r.wantings() {
		row := solve.Row{
			Name:  w.name,
			Items: make([]float64, len(b.m.Items)),
			Least: w.least,
			Unit:  w.unit,
			Soft:  w.soft,
		}
		of := func(c *candidate, option int) float64 {
			p := c.counted(option)
			p.seconds = p.dose.Seconds(b.r.Client.BreathRate, c.sides())
			return w.by(p)
		}
		for i := range b.m.Items {
			row.Items[i] = of(&b.m.cands[b.m.Items[i].Cand], b.m.Items[i].Option)
		}
		for _, list := range [][]solve.End{b.m.Opens, b.m.Closes} {
			for i := range list {
				e, have := &list[i], 0.0
				for k, cand := range e.Cands {
					if w.ends {
						have += of(&b.m.cands[cand], e.Options[k])
					}
				}
				e.Rows = append(e.Rows, have)
			}
		}
		b.m.Rows = append(b.m.Rows, row)
	}
}
