package solve

import (
	"bufio"
	"fmt"
	"io"
	"sort"
	"strconv"
	"strings"
)

// The same problem as a mixed integer program in the LP format, for a general solver: a
// check on the search, never part of it.
//
// Variables: x{i} body column i is in, o{i} opener i, c{i} closer i, v{b} block b is
// visited (y{b}: with body items), f{b} it is the opener's last, l{b} it is the last before
// the closer, a{b}_{d} the route goes from b to d, t{b}_{d} it goes from the last block b
// to the closer's block d, q{b} items up to
// the end of block b, z{b} the block that ends with the hardest item, m{e} the highest
// effort is e, g all work is gentle, s{k}, h{k} minutes of aim k to its target and beyond,
// d{k} direction k is visited, u seconds short, n{i} what row i lacks.

// lp collects the rows of a program.
type lp struct {
	m       *Model
	goal    sum
	rows    []string
	bounds  []string
	binary  []string
	general []string
	n       int
}

func (p *lp) row(format string, a ...any) {
	p.n++
	p.rows = append(p.rows, fmt.Sprintf(" r%d: ", p.n)+wrap(fmt.Sprintf(format, a...)))
}

func (p *lp) gain(points float64, name string) { p.goal.add(points, name) }

func (p *lp) bin(name string) string {
	p.binary = append(p.binary, name)
	return name
}

// sum is a linear expression: every variable once.
type sum struct {
	names []string
	by    map[string]float64
}

// of makes a sum of one variable.
func of(f float64, name string) *sum { return new(sum).add(f, name) }

func (s *sum) add(f float64, name string) *sum {
	if f == 0 {
		return s
	}
	if s.by == nil {
		s.by = map[string]float64{}
	}
	if _, ok := s.by[name]; !ok {
		s.names = append(s.names, name)
	}
	s.by[name] += f
	return s
}

// plus adds a multiple of another sum.
func (s *sum) plus(f float64, other *sum) *sum {
	for _, n := range other.names {
		s.add(f*other.by[n], n)
	}
	return s
}

// String writes the sum; an empty one is a zero.
func (s *sum) String() string {
	var terms []string
	for _, n := range s.names {
		if s.by[n] != 0 {
			terms = append(terms, fmt.Sprintf("%+.10g %s", s.by[n], n))
		}
	}
	if terms == nil {
		return "0 u"
	}
	return strings.Join(terms, " ")
}

func sums(n int) []*sum {
	out := make([]*sum, n)
	for i := range out {
		out[i] = new(sum)
	}
	return out
}

func name(kind string, i ...int) string {
	for k, n := range i {
		if k > 0 {
			kind += "_"
		}
		kind += strconv.Itoa(n)
	}
	return kind
}

// WriteLP writes the model as an LP file; its maximum is the highest value of a session.
func (m *Model) WriteLP(w io.Writer) error {
	p := &lp{m: m}
	p.items()
	p.aims()
	p.route()
	p.places()
	p.time()
	b := bufio.NewWriter(w)
	section := func(title string, lines []string) {
		fmt.Fprintf(b, "%s\n", title)
		for _, l := range lines {
			fmt.Fprintln(b, l)
		}
	}
	section("Maximize\n obj:", []string{" " + wrap(p.goal.String())})
	section("Subject To", p.rows)
	section("Bounds", p.bounds)
	section("General", p.general)
	section("Binary", p.binary)
	fmt.Fprintln(b, "End")
	return b.Flush()
}

// wrap breaks a long line: some readers stop at a fixed length.
func wrap(line string) string {
	terms := strings.Split(line, " ")
	var b strings.Builder
	for i, t := range terms {
		if i > 0 && i%12 == 0 {
			b.WriteString("\n ")
		} else if i > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(t)
	}
	return b.String()
}

// each calls do for every opener and closer with its variable.
func (m *Model) each(do func(v string, e *End, opener bool)) {
	for i := range m.Opens {
		do(name("o", i), &m.Opens[i], true)
	}
	for i := range m.Closes {
		do(name("c", i), &m.Closes[i], false)
	}
}

// items: what may be chosen together.
func (p *lp) items() {
	m := p.m
	one := map[bool]*sum{true: {}, false: {}}
	cand, family := sums(m.Candidates), sums(m.Families)
	var fresh sum
	for i := range m.Items {
		c := &m.Items[i]
		x := p.bin(name("x", i))
		p.gain(c.Value, x)
		cand[c.Cand].add(1, x)
		if c.Family >= 0 {
			family[c.Family].add(1, x)
		}
		if c.Fresh {
			fresh.add(1, x)
		}
		if c.Locked {
			p.row("%s = 1", x)
		}
	}
	m.each(func(v string, e *End, opener bool) {
		p.bin(v)
		p.gain(e.Value-e.Price, v)
		one[opener].add(1, v)
		for _, i := range e.Cands {
			cand[i].add(1, v)
		}
		for _, f := range e.Families {
			family[f].add(1, v)
		}
		fresh.add(float64(e.Fresh), v)
	})
	p.row("%s = 1", one[true])
	p.row("%s = 1", one[false])
	for i := range cand {
		if len(cand[i].names) > 1 {
			p.row("%s <= 1", cand[i])
		}
	}
	for i := range family {
		if len(family[i].names) > p.m.Terms.Family {
			p.row("%s <= %d", family[i], p.m.Terms.Family)
		}
	}
	if m.MaxFresh >= 0 {
		p.row("%s <= %d", &fresh, m.MaxFresh)
	}
	for i := range m.Items {
		for k := range m.Items {
			a, b := &m.Items[i], &m.Items[k]
			if m.Terms.Rising && m.Blocks[a.Block].Tier < m.Blocks[b.Block].Tier && a.Effort > b.Effort {
				p.row("%s + %s <= 1", name("x", i), name("x", k))
			}
		}
	}
	for i := range m.Rows {
		r, have := &m.Rows[i], new(sum)
		for k, by := range r.Items {
			have.add(by, name("x", k))
		}
		m.each(func(v string, e *End, _ bool) { have.add(e.Rows[i], v) })
		if r.Soft > 0 {
			p.gain(-r.Soft/r.Unit, name("n", i))
			have.add(1, name("n", i))
		}
		p.row("%s >= %.10g", have, r.Least)
	}
}

// aims: concave credit in two segments, and the directions.
func (p *lp) aims() {
	m := p.m
	for k := range m.Aims {
		s, h := name("s", k), name("h", k)
		p.gain(m.Weight[k], s)
		p.gain(m.Weight[k]*p.m.Terms.Beyond, h)
		p.bounds = append(p.bounds, fmt.Sprintf(" 0 <= %s <= %.10g", s, m.Target[k]),
			fmt.Sprintf(" 0 <= %s <= %.10g", h, p.m.Terms.Beyond*m.Target[k]))
		served := of(1, s).add(1, h)
		for i := range m.Items {
			served.add(-m.Items[i].Credit[k], name("x", i))
		}
		m.each(func(v string, e *End, _ bool) { served.add(-e.Credit[k], v) })
		p.row("%s <= 0", served)
	}
	for k := 0; k < 6; k++ {
		if m.Reach>>k&1 == 0 {
			continue
		}
		d := name("d", k)
		p.gain(p.m.Terms.Direction, d)
		p.bounds = append(p.bounds, fmt.Sprintf(" 0 <= %s <= 1", d))
		visits := of(1, d)
		for i := range m.Items {
			visits.add(-float64(m.Items[i].Dirs>>k&1), name("x", i))
		}
		m.each(func(v string, e *End, _ bool) { visits.add(-float64(e.Dirs>>k&1), v) })
		p.row("%s <= 0", visits)
	}
}

// route: every visited block once, from the opener's to the closer's.
func (p *lp) route() {
	m := p.m
	var lasts sum
	first, closes := sums(len(m.Blocks)), sums(len(m.Blocks))
	for i := range m.Opens {
		o := &m.Opens[i]
		first[o.Last].add(1, name("o", i))
		p.gain(-m.In[o.First].Price, name("o", i))
	}
	for i := range m.Closes {
		closes[m.Closes[i].First].add(1, name("c", i))
		p.gain(-m.Out[m.Closes[i].Last].Price, name("c", i))
	}
	var rises sum
	m.each(func(v string, e *End, opener bool) {
		rises.add(float64(e.Rises), v)
		if !opener && m.Out[e.Last].Rise {
			rises.add(1, v)
		}
	})
	for b := range m.Blocks {
		y, v, f, l := p.bin(name("y", b)), p.bin(name("v", b)), p.bin(name("f", b)), p.bin(name("l", b))
		p.row("%s = 0", of(-1, f).plus(1, first[b]))
		p.row("%s - %s >= 0", v, y)
		p.row("%s - %s >= 0", v, f)
		p.row("%s - %s - %s <= 0", v, y, f)
		p.row("%s - %s <= 0", l, v)
		lasts.add(1, l)
		some := of(-1, y)
		for i := range m.Items {
			if m.Items[i].Block == b {
				some.add(1, name("x", i))
				p.row("%s - %s <= 0", name("x", i), y)
			}
		}
		p.row("%s >= 0", some)
		into, outof, last, closer := of(-1, v).add(1, f), of(-1, v).add(1, l), of(-1, l), new(sum)
		for d := range m.Blocks {
			if d != b {
				p.arc(b, d, &rises)
				into.add(1, name("a", d, b))
				outof.add(1, name("a", b, d))
			}
			p.closing(b, d, &rises)
			last.add(1, name("t", b, d))
			closer.add(1, name("t", d, b))
		}
		p.row("%s = 0", into)
		p.row("%s = 0", outof)
		p.row("%s = 0", last)
		p.row("%s = 0", closer.plus(-1, closes[b]))
		for d := range m.Blocks {
			if m.Blocks[b].Peers>>d&1 == 1 && d > b {
				p.row("%s + %s <= 1", v, name("v", d))
			}
		}
	}
	p.row("%s = 1", &lasts)
	if len(rises.names) > 0 {
		p.row("%s <= %d", &rises, m.MaxRises)
	}
}

// arc is one change of posture in the body of the session.
func (p *lp) arc(b, d int, rises *sum) {
	m := p.m
	a := p.bin(name("a", b, d))
	p.gain(-m.Arcs[b][d].Price, a)
	if m.Arcs[b][d].Rise {
		rises.add(1, a)
	}
	if !m.Arcs[b][d].OK {
		p.row("%s <= 0", a)
	}
	if !m.Allowed(b, d, false) { // only leaving the opener's posture
		p.row("%s - %s <= 0", a, name("f", b))
	}
}

// closing is the way from the last block to the closer's: staying, back to the opener's
// posture, or a posture that holds only the closer.
func (p *lp) closing(b, d int, rises *sum) {
	m := p.m
	e := p.bin(name("t", b, d))
	if b == d {
		return
	}
	if !m.Arcs[b][d].OK {
		p.row("%s <= 0", e)
	}
	p.gain(-m.Arcs[b][d].Price, e)
	if m.Arcs[b][d].Rise {
		rises.add(1, e)
	}
	p.row("%s + %s - %s <= 1", e, name("v", d), name("f", d))
	for k := range m.Blocks {
		if m.Blocks[d].Peers>>k&1 == 1 {
			p.row("%s + %s - %s <= 1", e, name("v", k), name("f", k))
		}
	}
}

// places: where the hardest item lies in the list.
func (p *lp) places() {
	m := p.m
	big := float64(m.longest())
	all := new(sum)
	for i := range m.Items {
		all.add(1, name("x", i))
	}
	m.each(func(v string, e *End, _ bool) { all.add(float64(len(e.Cands)), v) })
	efforts := map[int]bool{}
	for i := range m.Items {
		if e := m.Items[i].Effort; e > p.m.Terms.Gentle {
			efforts[e] = true
		}
	}
	var levels []int
	for e := range efforts {
		levels = append(levels, e)
	}
	sort.Ints(levels)
	g := p.bin("g")
	one := of(1, g)
	for _, e := range levels {
		one.add(1, p.bin(name("m", e)))
	}
	p.row("%s = 1", one)
	for i := range m.Items {
		s := of(1, name("x", i))
		for _, e := range levels {
			if e >= m.Items[i].Effort {
				s.add(-1, name("m", e))
			}
		}
		if m.Items[i].Effort <= p.m.Terms.Gentle {
			continue
		}
		p.row("%s <= 0", s)
	}
	turn := of(1, g)
	for b := range m.Blocks {
		z, q := p.bin(name("z", b)), name("q", b)
		p.bounds = append(p.bounds, fmt.Sprintf(" 0 <= %s <= %g", q, big))
		turn.add(1, z)
		for _, e := range levels {
			s := of(1, z).add(1, name("m", e))
			for i := range m.Items {
				if m.Items[i].Block == b && m.Items[i].Effort == e {
					s.add(-1, name("x", i))
				}
			}
			p.row("%s <= 1", s)
		}
		p.counts(b, big)
		low, high := of(1, q).add(-big, z).plus(-p.m.Terms.HardFrom, all), of(1, q).add(big, z).plus(-p.m.Terms.HardTo, all)
		p.row("%s >= %.10g", low, 0.5-big)
		p.row("%s <= %.10g", high, 0.5+big)
	}
	p.row("%s = 1", turn)
}

// counts ties the number of items up to the end of a block to the route.
func (p *lp) counts(b int, big float64) {
	m := p.m
	q := name("q", b)
	own := new(sum) // items of the block, the opener's among them
	for i := range m.Items {
		if m.Items[i].Block == b {
			own.add(-1, name("x", i))
		}
	}
	for i := range m.Opens {
		if m.Opens[i].Last == b {
			own.add(-float64(len(m.Opens[i].Cands)), name("o", i))
		}
	}
	p.row("%s <= %.10g", of(1, q).add(big, name("f", b)).plus(1, own), big)
	p.row("%s >= 0", of(1, q).plus(1, own))
	for d := range m.Blocks {
		if d == b {
			continue
		}
		a := name("a", d, b)
		p.row("%s >= %.10g", of(1, q).add(-1, name("q", d)).add(-big, a).plus(1, own), -big)
		p.row("%s <= %.10g", of(1, q).add(-1, name("q", d)).add(big, a).plus(1, own), big)
	}
	p.row("%s - %.10g %s <= 0", q, big, name("v", b))
}

// longest bounds the number of items by the shortest ones.
func (m *Model) longest() int {
	var seconds []int
	for i := range m.Items {
		seconds = append(seconds, m.Items[i].Seconds)
	}
	sort.Ints(seconds)
	n, total := 0, 0
	for _, s := range seconds {
		if total += s; total > m.Most {
			break
		}
		n++
	}
	most := 0
	m.each(func(_ string, e *End, _ bool) { most = max(most, len(e.Cands)) })
	return n + 2*most
}

// time: the length of the session, and the stretches on the back.
func (p *lp) time() {
	m := p.m
	var total sum
	for i := range m.Items {
		total.add(float64(m.Items[i].Seconds), name("x", i))
	}
	m.each(func(v string, e *End, opener bool) {
		s := e.Seconds
		if opener {
			s += m.In[e.First].Seconds
		} else {
			s += m.Out[e.Last].Seconds
		}
		total.add(float64(s), v)
	})
	for b := range m.Blocks {
		for d := range m.Blocks {
			if b != d {
				total.add(float64(m.Arcs[b][d].Seconds), name("a", b, d))
				total.add(float64(m.Arcs[b][d].Seconds), name("t", b, d))
			}
		}
	}
	p.row("%s <= %d", &total, m.Most)
	p.gain(-p.m.Terms.Short, "u")
	p.row("%s >= %d", of(1, "u").plus(1, &total), m.Least)
	if m.MaxSupine > 0 {
		p.supine()
	}
}

func (p *lp) supine() {
	m := p.m
	for b := range m.Blocks {
		var run sum
		for i := range m.Items {
			if m.Items[i].Block == b {
				run.add(float64(m.Items[i].Supine), name("x", i))
			}
		}
		for i := range m.Opens {
			if m.Blocks[m.Opens[i].Last].Twin == b {
				run.add(float64(m.Opens[i].SupineTail), name("o", i))
			}
		}
		if len(run.names) > 0 {
			p.row("%s <= %d", &run, m.MaxSupine)
		}
		for i := range m.Closes {
			c := &m.Closes[i]
			if c.SupineHead > m.MaxSupine {
				p.row("%s = 0", name("c", i))
			} else if m.Blocks[c.First].Twin == b && c.SupineHead > 0 && len(run.names) > 0 { // staying in the last block
				const big = 1e4
				with := of(float64(c.SupineHead)+big, name("c", i)).add(big, name("l", b)).plus(1, &run)
				p.row("%s <= %.10g", with, float64(m.MaxSupine)+2*big)
			}
		}
	}
}

// ReadSolution reads which variables a solver set to 1: lines that hold a variable and its
// value somewhere. The selection is what the model's columns make of them.
func (m *Model) ReadSolution(r io.Reader) (sel Selection, err error) {
	sel.Open, sel.Close = -1, -1
	sc := bufio.NewScanner(r)
	for sc.Scan() {
		f := strings.Fields(sc.Text())
		for k := 0; k+1 < len(f); k++ {
			if len(f[k]) < 2 || !strings.ContainsRune("xoc", rune(f[k][0])) {
				continue
			}
			i, err := strconv.Atoi(f[k][1:])
			if err != nil {
				continue
			}
			value, err := strconv.ParseFloat(f[k+1], 64)
			if err != nil || value < 0.5 || i < 0 {
				continue
			}
			switch kind := f[k][0]; {
			case kind == 'x' && i < len(m.Items):
				sel.Body = append(sel.Body, i)
			case kind == 'o' && i < len(m.Opens):
				sel.Open = i
			case kind == 'c' && i < len(m.Closes):
				sel.Close = i
			}
		}
	}
	if err := sc.Err(); err != nil {
		return sel, err
	}
	if sel.Open < 0 || sel.Close < 0 {
		return sel, fmt.Errorf("the solution names no opener or no closer")
	}
	return sel, nil
}
