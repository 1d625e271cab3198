package solve

// The steps of the search: what one step may change, and how it is drawn.

// change is one step: items out and in, and perhaps another opener or closer.
type change struct {
	out, in           [3]int
	outs, ins         int
	open, close       int
	wasOpen, wasClose int
	newOpen, newClose bool
}

func (c *change) drop(col int) {
	for i := 0; i < c.outs; i++ {
		if c.out[i] == col {
			return
		}
	}
	if c.outs < len(c.out) {
		c.out[c.outs] = col
		c.outs++
	}
}

func (c *change) put(col int) {
	c.in[c.ins] = col
	c.ins++
}

func (c *change) apply(t *tally) {
	for i := 0; i < c.outs; i++ {
		t.remove(c.out[i])
	}
	if c.newOpen {
		c.wasOpen = t.open
		t.setOpen(c.open)
	}
	if c.newClose {
		c.wasClose = t.close
		t.setClose(c.close)
	}
	for i := 0; i < c.ins; i++ {
		t.add(c.in[i])
	}
}

func (c *change) undo(t *tally) {
	for i := c.ins - 1; i >= 0; i-- {
		t.remove(c.in[i])
	}
	if c.newClose {
		t.setClose(c.wasClose)
	}
	if c.newOpen {
		t.setOpen(c.wasOpen)
	}
	for i := c.outs - 1; i >= 0; i-- {
		t.add(c.out[i])
	}
}

// pick draws a body item that may leave, -1 when there is none.
func (s *Search) pick(t *tally) int {
	if len(t.body) == len(s.locked) {
		return -1
	}
	for {
		col := t.body[s.rng.IntN(len(t.body))]
		if !s.m.Items[col].Locked {
			return col
		}
	}
}

// enter puts a column in: another dose of the same candidate leaves; ok is false when the
// opener or closer is this item.
func (s *Search) enter(t *tally, ch *change, col int) bool {
	c := &s.m.Items[col]
	if t.uses(c.Cand) {
		return false
	}
	if c.Locked {
		return false
	}
	if was := t.byCand[c.Cand]; was > 0 {
		if was-1 == col || s.m.Items[was-1].Locked {
			return false
		}
		ch.drop(was - 1)
	}
	ch.put(col)
	return true
}

// promising draws a column of the field, the likelier the more it earns at the prices.
func (s *Search) promising() int {
	return s.field.columns[s.field.odds[s.rng.Uint64()>>(64-oddsBits)]]
}

// draw picks a change at random.
func (s *Search) draw(t *tally) (ch change, ok bool) {
	if len(s.field.columns) == 0 {
		return ch, false
	}
	any := s.promising
	switch op := s.rng.IntN(24); {
	case op < 7: // exchange
		out := s.pick(t)
		if out < 0 {
			return ch, false
		}
		ch.drop(out)
		return ch, s.enter(t, &ch, any())
	case op < 10: // add
		return ch, s.enter(t, &ch, any())
	case op < 12: // drop
		out := s.pick(t)
		if out < 0 {
			return ch, false
		}
		ch.drop(out)
		return ch, true
	case op < 15: // another dose
		out := s.pick(t)
		if out < 0 {
			return ch, false
		}
		l := s.options[s.m.Items[out].Cand]
		return ch, s.enter(t, &ch, l[s.rng.IntN(len(l))])
	case op < 18: // one for two, two for one or two for two
		out := s.pick(t)
		if out < 0 {
			return ch, false
		}
		ch.drop(out)
		way := s.rng.IntN(3)
		if way > 0 {
			if other := s.pick(t); other >= 0 {
				ch.drop(other)
			}
		}
		if way == 1 {
			return ch, s.enter(t, &ch, any())
		}
		a, b := any(), any()
		if s.m.Items[a].Cand == s.m.Items[b].Cand {
			return ch, false
		}
		return ch, s.enter(t, &ch, a) && ch.outs < len(ch.out) && s.enter(t, &ch, b)
	case op < 21: // another dose, and one more item or one for another in the time it frees
		out := s.pick(t)
		if out < 0 {
			return ch, false
		}
		l := s.options[s.m.Items[out].Cand]
		if !s.enter(t, &ch, l[s.rng.IntN(len(l))]) {
			return ch, false
		}
		if other := s.pick(t); other >= 0 && s.rng.IntN(2) == 0 && other != out {
			ch.drop(other)
		}
		col := any()
		return ch, !ch.has(s, s.m.Items[col].Cand) && ch.outs < len(ch.out) && s.enter(t, &ch, col)
	default:
		return s.drawEnd(t)
	}
}

func (s *Search) drawEnd(t *tally) (ch change, ok bool) {
	var e *End
	if s.rng.IntN(2) == 0 {
		ch.open, ch.newOpen = s.rng.IntN(len(s.m.Opens)), true
		e = &s.m.Opens[ch.open]
		ok = ch.open != t.open
	} else {
		ch.close, ch.newClose = s.rng.IntN(len(s.m.Closes)), true
		e = &s.m.Closes[ch.close]
		ok = ch.close != t.close
	}
	stays := &s.m.Closes[t.close]
	if ch.newClose {
		stays = &s.m.Opens[t.open]
	}
	if !ok || e.shares(stays) || !s.clear(t, &ch, e) {
		return ch, false
	}
	if s.rng.IntN(2) == 0 { // the old one may go on in the body
		old := &s.m.Opens[t.open]
		if ch.newClose {
			old = &s.m.Closes[t.close]
		}
		for _, cand := range old.Cands {
			l := s.options[cand]
			if len(l) > 0 && !e.has(cand) && !stays.has(cand) && ch.ins < len(ch.in) && !s.m.Items[l[0]].Locked {
				ch.put(l[s.rng.IntN(len(l))])
			}
		}
	}
	if s.rng.IntN(2) == 0 && ch.ins < len(ch.in) && ch.outs+2 <= len(ch.out) { // and an item may change with it
		if col := s.promising(); !e.has(s.m.Items[col].Cand) && t.byCand[s.m.Items[col].Cand] == 0 &&
			!ch.has(s, s.m.Items[col].Cand) &&
			!t.uses(s.m.Items[col].Cand) {
			ch.put(col)
		}
		if out := s.pick(t); out >= 0 && s.rng.IntN(2) == 0 {
			ch.drop(out)
		}
	}
	return ch, true
}

// has tells whether a candidate comes in.
func (c *change) has(s *Search, cand int) bool {
	for i := 0; i < c.ins; i++ {
		if s.m.Items[c.in[i]].Cand == cand {
			return true
		}
	}
	return false
}

// clear drops the body items that an opener or closer takes over.
func (s *Search) clear(t *tally, ch *change, e *End) bool {
	for _, cand := range e.Cands {
		if was := t.byCand[cand]; was > 0 {
			if s.m.Items[was-1].Locked || ch.outs == len(ch.out) {
				return false
			}
			ch.drop(was - 1)
		}
	}
	return true
}
