package solve

import "math"

// lowest are bounds on getting from block to block by any way, price and seconds each by itself; the
// row and column after the blocks are where the session starts and ends. Going by other blocks may be
// cheaper than going straight: somebody who comes up from lying by way of kneeling does not sit for a
// while before standing.
type lowest struct {
	price, seconds [][]float64
}

func newLowest(m *Model) lowest {
	n := len(m.Blocks) + 1
	l := lowest{make([][]float64, n), make([][]float64, n)}
	for i := range n {
		l.price[i], l.seconds[i] = make([]float64, n), make([]float64, n)
		for k := range n {
			a := Arc{OK: true}
			switch {
			case i == k:
			case i == n-1:
				a = m.In[k]
			case k == n-1:
				a = m.Out[i]
			default:
				a = m.Arcs[i][k]
			}
			l.price[i][k], l.seconds[i][k] = a.Price, float64(a.Seconds)
			if i < n-1 && k < n-1 && !a.OK {
				l.price[i][k], l.seconds[i][k] = math.Inf(1), math.Inf(1)
			}
		}
	}
	for _, d := range [][][]float64{l.price, l.seconds} {
		for via := range n {
			for i := range n {
				for k := range n {
					d[i][k] = math.Min(d[i][k], d[i][via]+d[via][k])
				}
			}
		}
	}
	return l
}

// from is what getting from one block to another costs at least, at a price of a second.
func (l *lowest) from(i, k int, second float64) float64 {
	return l.price[i][k] + second*l.seconds[i][k]
}
