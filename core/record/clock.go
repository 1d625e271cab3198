package record

import (
	"cmp"
	"slices"
	"time"

	"restbend/core/progress"
	"restbend/core/score"
)

// countIn is the seconds counted in after any wait (domain/08).
const countIn = 3

// span is a stretch of the score the clock ran through, with the time its start was passed.
type span struct {
	from, to float64
	at       time.Time
}

// passed is when a second of a span was passed.
func (s *span) passed(pos float64) time.Time {
	return s.at.Add(time.Duration((pos - s.from) * float64(time.Second)))
}

// run is what the marks say of the clock: what it ran through, where it is, and how it stands there.
type run struct {
	score   *score.Score
	spans   []span
	tapped  []float64 // where a tap counted the repetition that was under way
	pos     float64
	at      time.Time
	started bool
	ended   bool
	stands  bool // paused, talking, on a break, or waiting for go
	count   float64
	mode    string
}

// ordered are the marks by time, each key once, without those that were undone and without the undoing. What
// was marked while an undone mark stood is moved back by as much as it had moved the clock.
func ordered(marks []Mark) []Mark {
	kept, _ := sorted(marks)
	return kept
}

// AskedAgain is why an urgent sign may be taken back: the client was asked again, and it was none. Without it the sign
// stands.
const AskedAgain = "asked-again"

// Urgent tells that a mark says a sign that ends a session.
func (m *Mark) Urgent() bool {
	return slices.ContainsFunc(append(m.Answers(), m.Felt...), func(w string) bool { return slices.Contains(progress.Urgent, w) })
}

// takenBack are the keys of the marks that were undone: what an undo names, with what was said of it later. An urgent
// sign stands, with what it was said of, unless the client was asked again.
func takenBack(marks []Mark) map[string]bool {
	out := map[string]bool{}
	for i := range marks {
		u := &marks[i]
		if u.Kind != Undo {
			continue
		}
		with := func(m *Mark) bool { return m.Kind != Undo && (m.Key == u.Of || m.Of == u.Of && m.Of != "") }
		if u.Why != AskedAgain && slices.ContainsFunc(marks, func(m Mark) bool { return with(&m) && m.Urgent() }) {
			continue
		}
		for k := range marks {
			if m := &marks[k]; with(m) {
				out[m.Key] = true
			}
		}
	}
	return out
}

// sorted is ordered, with the marks that were taken back.
func sorted(marks []Mark) (kept, back []Mark) {
	out := slices.Clone(marks)
	slices.SortStableFunc(out, func(a, b Mark) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.Pos, b.Pos))
	})
	seen := map[string]bool{}
	out = slices.DeleteFunc(out, func(m Mark) bool {
		twice := seen[m.Key]
		seen[m.Key] = true
		return twice
	})
	undone := takenBack(out)
	shift := map[string]float64{}
	for _, m := range out {
		by := 0.0
		for _, d := range shift {
			by += d
		}
		to, moves := number(m.To)
		switch {
		case m.Kind == Undo:
			delete(shift, m.Of)
		case undone[m.Key] && m.Kind != Start:
			back = append(back, m)
			if moves && m.Kind != Unseen && m.Kind != Correct {
				shift[m.Key] = to - m.Pos
			}
		default:
			if by != 0 {
				m.Pos = max(0, m.Pos-by)
			}
			kept = append(kept, m)
		}
	}
	return kept, back
}

// runOf follows the marks. At each the position it was made at decides.
func runOf(s *score.Score, marks []Mark) *run {
	r := &run{score: s, mode: s.Mode}
	for i := range marks {
		m := &marks[i]
		switch {
		case m.Kind == Start && !r.started:
			r.started, r.pos, r.at = true, m.Pos, m.At
			if m.Mode != "" {
				r.mode = m.Mode
			}
			continue
		case !r.started || r.ended || slices.Contains(Late, m.Kind):
			continue
		}
		r.to(m.Pos, m.At)
		r.apply(m)
	}
	return r
}

// to runs on to a position.
func (r *run) to(pos float64, at time.Time) {
	pos = min(max(0, pos), r.score.Seconds)
	if pos > r.pos && !r.stands { // what stood still and is further on has jumped
		r.spans = append(r.spans, span{r.pos, pos, r.at.Add(time.Duration(r.count * float64(time.Second)))})
		r.count = 0
	}
	r.pos, r.at = pos, at
}

func (r *run) apply(m *Mark) {
	resumed := func() { r.stands, r.count = false, countIn }
	to, jumps := number(m.To)
	switch m.Kind {
	case Go:
		if s := r.segment(); s != nil && s.Wait && r.pos < s.End && !r.stands && !r.waits() {
			r.pos = s.End // before its time: the rest of the wait is left out
		}
		resumed()
	case Resume:
		resumed()
	case Talk, Break:
		if r.stands = m.On; !m.On {
			resumed()
		}
	case Pause:
		r.stands = true
	case Mode:
		r.mode = m.Mode
	case End:
		r.ended = true
	case Form: // the hold, or the repetition, is over and not done; where it says so the whole set
		if end, ok := r.score.RepEnd(r.pos); ok && !jumps {
			r.pos = end
		}
	case Tap:
		if end, ok := r.score.RepEnd(r.pos); ok {
			r.tapped = append(r.tapped, r.pos)
			r.pos = end
		}
		return
	}
	if jumps && m.Kind != Unseen && m.Kind != Correct {
		r.pos = min(max(0, to), r.score.Seconds)
		if m.Kind != Go && m.Kind != Resume {
			r.count = 0
		}
	}
}

// waits tells that the clock stands at the end of a wait.
func (r *run) waits() bool {
	i := r.score.Running(r.pos)
	return r.mode == score.Led && r.count == 0 && i > 0 && r.score.Segments[i-1].Wait && r.score.Segments[i-1].End == r.pos
}

func (r *run) segment() *score.Segment {
	if len(r.score.Segments) == 0 {
		return nil
	}
	return &r.score.Segments[r.score.Running(r.pos)]
}

// until lets the clock run on without a mark: to the next wait when led, else to the end.
func (r *run) until(now time.Time) {
	if !r.started || r.ended || r.stands || r.waits() || !now.After(r.at) {
		return
	}
	pos := r.pos + max(0, now.Sub(r.at).Seconds()-r.count)
	if r.mode == score.Led {
		for i := range r.score.Segments {
			if s := &r.score.Segments[i]; s.Wait && s.End > r.pos+1e-9 {
				pos = min(pos, s.End)
				break
			}
		}
	}
	r.to(pos, now)
}

// Position is the second of the score a session is at: of one without an end, as far as the clock has run by
// now.
func Position(s *score.Score, marks []Mark, now time.Time) float64 {
	r := runOf(s, ordered(marks))
	r.until(now)
	return r.pos
}
