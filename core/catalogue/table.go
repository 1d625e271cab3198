package catalogue

import (
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/trade"
)

// Table holds the quantities of every version, ease and side as rows of numbers, so that
// one client can be screened against the whole catalogue in a fraction of a millisecond.
type Table struct {
	ids    map[string]int
	names  []string
	phases []string
	rows   map[*Version][]Row
	on     map[*Version]map[trade.Surface]*Row // as done on another surface
	number map[*Version]int
	shared [][]float32 // how much of the purpose of one version another serves
}

// Row is one variant of a version done to both of its sides. Ease is nil for the version
// as it stands.
type Row struct {
	Ease  *Ease
	sides [2][]cell // left and right; the same for versions that are not done to one side
	turns [2][]cell // of what is done in turn: while the left works, and while the right does
}

type cell struct {
	value float32
	phase uint16
}

// Table builds the rows once.
func (c *Catalogue) Table() *Table {
	c.tableOnce.Do(func() { c.table = newTable(c.Versions) })
	return c.table
}

func newTable(versions []*Version) *Table {
	t := &Table{
		ids:    map[string]int{},
		rows:   map[*Version][]Row{},
		on:     map[*Version]map[trade.Surface]*Row{},
		number: map[*Version]int{},
	}
	t.purposes(versions)
	phases := map[string]uint16{}
	add := func(q Quantities) {
		for name, p := range q {
			for _, n := range []string{name, mirrored(name)} {
				if _, ok := t.ids[n]; !ok {
					t.ids[n] = len(t.names)
					t.names = append(t.names, n)
				}
			}
			if _, ok := phases[p.Phase]; !ok {
				phases[p.Phase] = uint16(len(t.phases))
				t.phases = append(t.phases, p.Phase)
			}
		}
	}
	each := func(do func(v *Version, e *Ease, q Quantities)) {
		for _, v := range versions {
			do(v, nil, v.Quantities)
			for place, on := range v.On {
				do(v, &Ease{Slug: string(place), placed: true}, on.Quantities)
			}
			for i := range v.Eases {
				do(v, &v.Eases[i], v.Eases[i].Quantities)
			}
		}
	}
	each(func(_ *Version, _ *Ease, q Quantities) { add(q) })
	fill := func(cells []cell, q Quantities, mirror bool) {
		for name, p := range q {
			if mirror {
				name = mirrored(name)
			}
			if c := &cells[t.ids[name]]; float32(p.Value) > c.value {
				*c = cell{float32(p.Value), phases[p.Phase]}
			}
		}
	}
	each(func(v *Version, e *Ease, q Quantities) {
		own := make([]cell, len(t.names))
		fill(own, q, false)
		r := Row{Ease: e, sides: [2][]cell{own, own}}
		switch v.SideMode {
		case trade.Each:
			other := make([]cell, len(t.names))
			fill(other, q, true)
			r.sides[v.Authored], r.sides[1-v.Authored] = own, other
		case trade.Alternate:
			r.turns[v.Authored], r.turns[1-v.Authored] = slices.Clone(own), make([]cell, len(t.names))
			fill(r.turns[1-v.Authored], q, true)
			fill(own, q, true)
		default: // in turn, or as comfort has it: the stricter of both
			fill(own, q, true)
		}
		if e != nil && e.placed {
			if t.on[v] == nil {
				t.on[v] = map[trade.Surface]*Row{}
			}
			t.on[v][trade.Surface(e.Slug)] = &r
			return
		}
		t.rows[v] = append(t.rows[v], r)
	})
	return t
}

func mirrored(name string) string {
	if s, ok := strings.CutSuffix(name, ".left"); ok {
		return s + ".right"
	} else if s, ok := strings.CutSuffix(name, ".right"); ok {
		return s + ".left"
	}
	return name
}

// ID is the number of a quantity, -1 for one that no version has.
func (t *Table) ID(quantity string) int {
	if id, ok := t.ids[quantity]; ok {
		return id
	}
	return -1
}

// Names are the quantities any version has.
func (t *Table) Names() []string { return slices.Clone(t.names) }

// Rows are the version as it stands and its eases.
func (t *Table) Rows(v *Version) []Row { return t.rows[v] }

// At is the version as it stands on a surface.
func (t *Table) At(v *Version, surface trade.Surface) *Row {
	if r := t.on[v][surface]; r != nil {
		return r
	}
	return &t.rows[v][0]
}

// Value is a quantity of one side; 0 when the version does not have it.
func (r *Row) Value(side body.Side, id int) float64 { return float64(r.sides[side][id].value) }

// Turn is a quantity while one side works, of a version that is done in turn.
func (r *Row) Turn(side body.Side, id int) float64 {
	if r.turns[side] == nil {
		return r.Value(side, id)
	}
	return float64(r.turns[side][id].value)
}

// Phase is where the quantity peaks.
func (t *Table) Phase(r *Row, side body.Side, id int) string {
	return t.phases[r.sides[side][id].phase]
}

// TurnPhase is where the quantity peaks while one side works, of a version that is done in turn.
func (t *Table) TurnPhase(r *Row, side body.Side, id int) string {
	if r.turns[side] == nil {
		return t.Phase(r, side, id)
	}
	return t.phases[r.turns[side][id].phase]
}

// purposes weighs the aims every two versions have in common, the first aims most.
func (t *Table) purposes(versions []*Version) {
	bits := make([]uint32, len(versions))
	for i, v := range versions {
		t.number[v] = i
		for k, a := range Aims {
			if Has(v.Aims, a) {
				bits[i] |= 1 << k
			}
		}
	}
	for _, v := range versions {
		row := make([]float32, len(versions))
		for i, a := range v.Aims {
			for k, name := range Aims {
				if name != a {
					continue
				}
				for j := range versions {
					if bits[j]&(1<<k) != 0 {
						row[j] += 2 / float32(i+1)
					}
				}
			}
		}
		t.shared = append(t.shared, row)
	}
}

// Shared is how much of v's purpose w serves: the aims they have in common, v's first
// aims weighing most. Both are versions of the table's catalogue.
func (t *Table) Shared(v, w *Version) float64 { return float64(t.shared[t.number[v]][t.number[w]]) }
