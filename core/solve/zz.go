package solve

import "fmt"

func (m *Model) Show(sel Selection) {
	t := newTally(m, newRoutes(m), sel)
	v, ok := t.judge()
	fmt.Println("value", v, ok, "open", m.Opens[sel.Open].Last, "close", m.Closes[sel.Close].First, "seconds", t.seconds, m.Least, m.Most, "fresh", t.fresh, m.MaxFresh)
	for b := range m.Blocks {
		if t.counts[b] > 0 {
			fmt.Print(" block ", b, " tier ", m.Blocks[b].Tier, " ground ", m.Blocks[b].Ground, " n ", t.counts[b], ";")
		}
	}
	fmt.Println()
	for i := range m.Rows {
		fmt.Printf("  %s %.2f of %.2f soft %.2f\n", m.Rows[i].Name, t.rows[i], m.Rows[i].Least, m.Rows[i].Soft)
	}
}
