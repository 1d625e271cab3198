package solve

import "slices"

// descend takes the best change of one or two items, opener and closer until none
// improves.
func (s *Search) descend(t *tally) {
	value, ok := t.judge()
	s.note(t, value, ok)
	try := func(ch *change) bool {
		if ok && t.bound(ch) <= value+1e-9 {
			return false
		}
		ch.apply(t)
		v, fine := t.judgeAbove(value + 1e-9)
		if v > value+1e-9 && (fine || !ok) {
			value, ok = v, fine
			s.note(t, v, fine)
			return true
		}
		ch.undo(t)
		return false
	}
	for s.singles(t, try) || s.ends(t, try) {
	}
}

// movable are the body items that may leave.
func (s *Search) movable(t *tally) []int {
	return slices.DeleteFunc(slices.Clone(t.body), func(col int) bool { return s.m.Items[col].Locked })
}

func (s *Search) singles(t *tally, try func(*change) bool) bool {
	for _, col := range s.free {
		ch := change{}
		if s.enter(t, &ch, col) && try(&ch) {
			return true
		}
	}
	for _, out := range s.movable(t) {
		ch := change{}
		ch.drop(out)
		if try(&ch) {
			return true
		}
		for _, col := range s.free {
			ch := change{}
			ch.drop(out)
			if s.enter(t, &ch, col) && try(&ch) {
				return true
			}
		}
	}
	return false
}

// ends tries every opener with every closer; what they were before may go on in the body.
func (s *Search) ends(t *tally, try func(*change) bool) bool {
	for o := range s.m.Opens {
		for c := range s.m.Closes {
			if o == t.open && c == t.close || s.m.Opens[o].shares(&s.m.Closes[c]) {
				continue
			}
			plain := change{open: o, close: c, newOpen: true, newClose: true}
			if !s.clear(t, &plain, &s.m.Opens[o]) || !s.clear(t, &plain, &s.m.Closes[c]) {
				continue
			}
			for _, first := range s.back(&s.m.Opens[t.open], o, c) {
				for _, last := range s.back(&s.m.Closes[t.close], o, c) {
					ch := plain
					for _, col := range []int{first, last} {
						if col >= 0 && !ch.has(s, s.m.Items[col].Cand) {
							ch.put(col)
						}
					}
					if try(&ch) {
						return true
					}
				}
			}
		}
	}
	return false
}

// back lists the columns in which a former end may go on in the body, and -1 for not at
// all.
func (s *Search) back(e *End, open, close int) []int {
	out := []int{-1}
	if len(e.Cands) != 1 || s.m.Opens[open].has(e.Cands[0]) || s.m.Closes[close].has(e.Cands[0]) {
		return out
	}
	for _, col := range s.options[e.Cands[0]] {
		if !s.m.Items[col].Locked {
			out = append(out, col)
		}
	}
	return out
}
