package record

import (
	"fmt"
	"math"
	"slices"
	"time"

	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/score"
	"restbend/core/trade"
)

// nearTouch is how far from a touch what ran in a flow still counts as seen by somebody (domain/08).
const nearTouch = 10 * time.Minute

// Replay is the log session of a score and the marks made in it, up to the last mark.
func Replay(s *score.Score, day trade.Day, marks []Mark) progress.Session {
	return replay(s, day, marks, time.Time{})
}

// ReplayUntil is the log session of a session that may still run, as it would be if it were left now.
func ReplayUntil(s *score.Score, day trade.Day, marks []Mark, now time.Time) progress.Session {
	return replay(s, day, marks, now)
}

func replay(s *score.Score, day trade.Day, marks []Mark, now time.Time) progress.Session {
	list, back := sorted(marks)
	for i := range list {
		located(s, &list[i])
	}
	r := runOf(s, list)
	r.until(now)
	f := &fold{run: r, marks: list, lines: lines(s, list), done: map[setKey]progress.Amount{}}
	f.out = progress.Session{Date: day, ScoreRev: s.Rev, Doses: s.Doses, Seconds: int(f.secondsIn(0, s.Seconds))}
	for i := range list {
		if m := &list[i]; m.Kind == Set && m.Item != nil && m.Done != nil {
			f.done[setKey{Line{*m.Item, f.lineSide(*m.Item, m.Side)}, max(1, m.Set)}] = *m.Done
		}
	}
	f.items()
	f.events()
	for i := range back {
		f.asked(&back[i])
	}
	f.endings()
	after(&f.out, list, func(m *Mark) *progress.Item { return f.item(m) })
	fit(&f.out)
	return f.out
}

// located fills in where a mark was made, from its second, as far as it does not say so itself.
func located(s *score.Score, m *Mark) {
	if len(s.Segments) == 0 ||
		!slices.Contains(
			[]string{Form, Warning, Symptom, Felt, Set, Helped, Load, Layer, Setting, Compare, Changed},
			m.Kind,
		) {
		return
	}
	i := madeAt(s, m.Pos)
	// on the way it is about what just ended
	for i > 0 && (s.Segments[i].Kind == score.Move || s.Segments[i].Kind == score.Finish) {
		i--
	}
	g := &s.Segments[i]
	if m.Item == nil {
		item := g.Item
		m.Item = &item
	}
	if *m.Item != g.Item {
		return
	}
	if m.Side == "" {
		m.Side = lineSide(s, g.Item, g.Side)
	}
	if m.Set == 0 {
		m.Set = g.Set
	}
	if g.Kind != score.Work || m.Rep > 0 || m.S > 0 {
		return
	}
	m.Rep = g.Rep
	m.S = progress.SecondOf(m.Pos - s.Segments[holdStart(s, i)].Start)
}

// Apply is a log session that was kept without a score, with what was marked since.
func Apply(kept progress.Session, marks []Mark) progress.Session {
	kept.Items = slices.Clone(kept.Items)
	after(&kept, ordered(marks), func(m *Mark) *progress.Item {
		if m.Item == nil || *m.Item < 0 || *m.Item >= len(kept.Items) {
			return nil
		}
		return &kept.Items[*m.Item]
	})
	fit(&kept)
	return kept
}

// Line is one line of the log: an exercise on a side.
type Line struct {
	Item int
	Side trade.Side
}

// Lines are the lines of the log a score and its marks give, in their order there.
func Lines(s *score.Score, marks []Mark) []Line { return lines(s, ordered(marks)) }

// lines are those of what is done, and of what was left before it was begun where something came up: nothing that was
// said of an exercise is lost with it.
func lines(s *score.Score, marks []Mark) (out []Line) {
	for i := range s.Segments {
		g := &s.Segments[i]
		if g.Kind != score.Work {
			continue
		}
		if l := (Line{g.Item, lineSide(s, g.Item, g.Side)}); !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	for i := range marks {
		m := &marks[i]
		if m.Item == nil || *m.Item < 0 || *m.Item >= len(s.Items) || !slices.Contains([]string{Form, Warning, Symptom, Felt}, m.Kind) ||
			slices.ContainsFunc(out, func(l Line) bool { return l.Item == *m.Item }) {
			continue
		}
		out = append(out, Line{*m.Item, lineSide(s, *m.Item, m.Side)})
	}
	slices.SortStableFunc(out, func(a, b Line) int { return a.Item - b.Item })
	return out
}

type setKey struct {
	Line
	set int
}

// fold is one replay under way.
type fold struct {
	*run
	marks []Mark
	done  map[setKey]progress.Amount // what somebody said was done
	out   progress.Session
	lines []Line // of the items of out
}

// lineSide is how a side stands in the log: sides in turn are one thing.
func (f *fold) lineSide(item int, side trade.Side) trade.Side { return lineSide(f.score, item, side) }

func lineSide(s *score.Score, item int, side trade.Side) trade.Side {
	if item < len(s.Items) && s.Items[item].Side == trade.Alternate {
		return trade.Alternate
	}
	if side == "" {
		return trade.None
	}
	return side
}

// item is the line a mark is about: of its item and side, else the first of its item.
func (f *fold) item(m *Mark) *progress.Item {
	item, side := 0, m.Side
	switch {
	case m.Item != nil:
		item = *m.Item
	case len(f.score.Segments) > 0:
		s := &f.score.Segments[madeAt(f.score, m.Pos)]
		if item = s.Item; side == "" {
			side = s.Side
		}
	}
	if item < 0 || item >= len(f.score.Items) {
		return nil
	}
	i := slices.Index(f.lines, Line{item, f.lineSide(item, side)})
	if i < 0 {
		i = slices.IndexFunc(f.lines, func(l Line) bool { return l.Item == item })
	}
	if i < 0 {
		return nil
	}
	return &f.out.Items[i]
}

// set is what there is of one set of a line.
type set struct {
	n        int
	from, to float64
	asked    int
	reps     int
	ran      bool // any of it
	unseen   bool
	added    bool // on the spot: nothing was asked
}

// items makes the lines of the log in the order of the score.
func (f *fold) items() {
	lines := map[Line][]*set{}
	type repKey struct {
		setKey
		rep int
	}
	ends := map[repKey]int{}
	for i := range f.score.Segments {
		g := &f.score.Segments[i]
		if g.Kind != score.Work {
			continue
		}
		l := Line{g.Item, f.lineSide(g.Item, g.Side)}
		var x *set
		if k := slices.IndexFunc(lines[l], func(s *set) bool { return s.n == g.Set }); k >= 0 {
			x = lines[l][k]
		} else {
			x = &set{n: g.Set, from: g.Start}
			lines[l] = append(lines[l], x)
		}
		x.to = g.End
		x.added = x.added || g.Added && g.Repeat
		x.ran = x.ran || f.ranIn(g.Start, g.End)
		x.unseen = x.unseen || f.unseenIn(g.Start, g.End)
		if !g.Extra {
			ends[repKey{setKey{l, g.Set}, g.Rep}] = i
		}
	}
	for k, i := range ends {
		g := &f.score.Segments[i]
		x := lines[k.Line][slices.IndexFunc(lines[k.Line], func(s *set) bool { return s.n == k.set })]
		if !g.Added {
			x.asked++
		}
		if f.ranThrough(g.End) && !g.Cut || f.tappedIn(i) { // what was cut was not done
			x.reps++
		}
	}
	for _, l := range f.lines {
		f.line(l, lines[l])
	}
}

// line adds one line to the log.
func (f *fold) line(l Line, sets []*set) {
	src := &f.score.Items[l.Item]
	own := doseOf(src, l.Side)
	it := progress.Item{
		Version:  src.Version,
		Revision: src.Revision,
		Side:     l.Side,
		Target:   target(own),
		Trial:    src.Trial,
		Short:    src.Short,
		Load:     src.Load,
	}
	if src.Replaces != "" {
		it.Tried = []progress.Tried{{Version: src.Replaces}}
	}
	reached, confirmed, whole, total, begun := false, true, true, 0, 0
	for i, x := range sets {
		one := progress.Amount{Sets: 1, Reps: x.reps, HoldS: it.Target.HoldS, HoldBreaths: it.Target.HoldBreaths}
		s, said := f.done[setKey{l, x.n}]
		if said {
			one, x.ran = s, true
			one.Sets = 1
		} else {
			f.partial(l, x, own, &one)
		}
		if one.Reps == 0 {
			one.HoldS, one.HoldBreaths = 0, 0 // nothing done has no length
		}
		if !x.ran {
			whole = whole && x.added
			continue
		}
		reached = true
		begun++
		total += one.Reps
		whole = whole && one.Reps >= x.asked && one.HoldS >= it.Target.HoldS && one.HoldBreaths >= it.Target.HoldBreaths
		next := f.score.Seconds
		if i+1 < len(sets) {
			next = sets[i+1].to
		} else if n := f.nextSet(x.to); n > 0 {
			next = n
		}
		confirmed = confirmed && (said || f.confirmed(x, next))
		it.SetsDone = append(it.SetsDone, one)
	}
	it.Reached = &reached
	if reached {
		it.Done = summed(it.SetsDone, len(own.Pattern) > 0, begun, total)
	}
	if len(own.Pattern) == 0 &&
		!slices.ContainsFunc(it.SetsDone, func(s progress.Amount) bool { return s != it.SetsDone[0] }) {
		it.SetsDone = nil // all alike: the amount says it
	}
	if reached {
		it.Confirmed = &confirmed
		whole = whole && it.Whole() // a set that was taken out on the spot was asked all the same
		switch {
		case whole && confirmed:
			it.EndedBy = progress.ByTarget
		case !whole:
			it.EndedBy = progress.ByChoice
		}
	}
	f.out.Items = append(f.out.Items, it)
}

// summed is what was done in all sets: of a falling pattern all repetitions, else so many in each; as long as the
// shortest hold.
func summed(sets []progress.Amount, pattern bool, begun, total int) (done progress.Amount) {
	done = progress.Amount{Sets: begun, Reps: total / begun}
	if pattern {
		done = progress.Amount{Sets: 1, Reps: total}
	}
	first := true
	for _, s := range sets {
		switch {
		case s.Reps == 0:
		case first:
			done.HoldS, done.HoldBreaths, first = s.HoldS, s.HoldBreaths, false
		default:
			done.HoldS, done.HoldBreaths = min(done.HoldS, s.HoldS), min(done.HoldBreaths, s.HoldBreaths)
		}
	}
	return done
}

// doseOf is what one side of an item is asked.
func doseOf(it *score.Item, side trade.Side) *dose.Dose {
	switch {
	case side == trade.Left && it.DoseLeft != nil:
		return it.DoseLeft
	case side == trade.Right && it.DoseRight != nil:
		return it.DoseRight
	}
	return &it.Dose
}

func target(d *dose.Dose) progress.Amount {
	a := progress.Amount{Sets: d.SetCount(), Reps: d.Reps, HoldS: d.HoldS + d.HoldCounts, HoldBreaths: d.HoldBreaths}
	if len(d.Pattern) > 0 {
		a.Sets, a.Reps = 1, d.TotalReps()
	}
	return a
}

// partial takes in a hold that was left half way: one long hold counts for as long as it was held, an open one
// always.
func (f *fold) partial(l Line, x *set, d *dose.Dose, one *progress.Amount) {
	if one.HoldS == 0 && one.HoldBreaths == 0 || x.asked != 1 || x.reps == 1 && !d.Open {
		return
	}
	held, breaths := 0.0, 0
	for i := range f.score.Segments {
		g := &f.score.Segments[i]
		if g.Item != l.Item || f.lineSide(g.Item, g.Side) != l.Side || g.Set != x.n || g.Phase != score.Hold || g.Extra {
			continue
		}
		held += f.secondsIn(g.Start, g.End)
		if g.Breath == "out" && f.ranThrough(g.End) {
			breaths++
		}
	}
	if held == 0 && breaths == 0 {
		return
	}
	one.Reps = 1
	if one.HoldBreaths > 0 {
		one.HoldBreaths = breaths
	} else {
		one.HoldS = min(one.HoldS, int(math.Round(held)))
	}
	if one.HoldS+one.HoldBreaths == 0 {
		one.Reps = 0
	}
}

// nextSet is where the next set of anything ends, after a second; 0 when there is none.
func (f *fold) nextSet(after float64) float64 {
	item, number, end := -1, 0, 0.0
	for i := range f.score.Segments {
		g := &f.score.Segments[i]
		switch {
		case g.Kind != score.Work || g.Start < after-1e-9:
		case item < 0:
			item, number, end = g.Item, g.Set, g.End
		case g.Item == item && g.Set == number:
			end = g.End
		}
	}
	return end
}

// promptTouch is how soon somebody who was there says go where the clock stands (product default).
const promptTouch = 2 * time.Minute

// ledThrough tells that somebody said go for a set, and was there when the clock stood next: what lies between two
// such touches was led, also where a rest ran on by itself.
func (f *fold) ledThrough(x *set) bool {
	wait := f.score.Seconds
	for i := range f.score.Segments {
		if g := &f.score.Segments[i]; g.Wait && g.End > x.to-1e-6 {
			wait = g.End
			break
		}
	}
	begun, met := false, false
	for i := range f.marks {
		m := &f.marks[i]
		if !touch(m) {
			continue
		}
		begun = begun || m.Kind == Go && m.Pos >= x.from-1e-3 && m.Pos <= x.from+1e-6
		if came := f.passed(m.Pos); m.Pos >= x.to-1e-6 && m.Pos <= wait+1e-6 && !came.IsZero() &&
			m.At.Sub(came) <= promptTouch {
			met = true
		}
	}
	return begun && met && !x.unseen
}

// confirmed tells that somebody was there: an input between the start of a set and the end of the next one; in
// a flow a touch at the end confirms what ran within ten minutes of any touch, unless nobody saw it run.
func (f *fold) confirmed(x *set, next float64) bool {
	if f.mode == score.Led && f.ledThrough(x) {
		return true
	}
	ran := f.passed(x.to)
	near, closed := false, false
	for i := range f.marks {
		m := &f.marks[i]
		if !touch(m) {
			continue
		}
		close := ran.IsZero() || m.At.Sub(ran).Abs() <= nearTouch
		if m.Pos > x.from+1e-6 && m.Pos <= next+1e-9 && (close || m.Kind != End && m.Pos < f.score.Seconds-1e-9) {
			return true
		}
		near = near || close
		came := f.passed(m.Pos)
		closed = closed ||
			(m.Kind == End || m.Kind == Here) && m.Pos >= x.to-1e-9 && (came.IsZero() || m.At.Sub(came) <= nearTouch)
	}
	return f.mode == score.Flowing && near && closed && !x.unseen
}

// touch tells that a mark was made by somebody.
func touch(m *Mark) bool {
	switch m.Kind {
	case Unseen, Correct, Note, FollowUp:
		return false
	case Seek:
		return m.Why != "device"
	}
	return true
}

// passed is when a second was passed, zero when it never was.
func (f *fold) passed(pos float64) (at time.Time) {
	for i := range f.spans {
		if s := &f.spans[i]; pos > s.from && pos <= s.to+1e-9 {
			at = s.passed(pos)
		}
	}
	return at
}

func (f *fold) ranThrough(pos float64) bool {
	return slices.ContainsFunc(f.spans, func(s span) bool { return s.from < pos-1e-9 && s.to >= pos-1e-3 })
}

func (f *fold) ranIn(from, to float64) bool {
	return slices.ContainsFunc(f.spans, func(s span) bool { return s.from < to-1e-9 && s.to > from+1e-3 }) ||
		slices.ContainsFunc(f.tapped, func(at float64) bool { return at >= from && at < to })
}

// secondsIn is the longest stretch of a segment that ran without going back.
func (f *fold) secondsIn(from, to float64) (most float64) {
	for _, s := range f.spans {
		most = max(most, min(to, s.to)-max(from, s.from))
	}
	sum := 0.0
	reached := from
	for _, s := range f.spans {
		if a, z := max(reached, s.from), min(to, s.to); z > a {
			sum += z - a
			reached = z
		}
	}
	return max(most, sum, 0)
}

func (f *fold) tappedIn(last int) bool {
	g := &f.score.Segments[last]
	return slices.ContainsFunc(f.tapped, func(at float64) bool {
		end, ok := f.score.RepEnd(at)
		return ok && end == g.End
	})
}

func (f *fold) unseenIn(from, to float64) bool {
	return slices.ContainsFunc(f.marks, func(m Mark) bool {
		if m.Kind != Unseen {
			return false
		}
		a, _ := number(m.From)
		z, _ := number(m.To)
		return a < to && z > from
	})
}

// endings takes in how the session began and ended: the exercise a symptom or a pain ended was not left by
// choice.
func (f *fold) endings() {
	for i := range f.marks {
		m := &f.marks[i]
		switch m.Kind {
		case Start:
			if f.out.PainStart == nil {
				f.out.PainStart = m.Pain
			}
		case End:
			if m.Because != "" &&
				f.out.Ended != progress.WarningSign { // who was sent to be seen stays so when the rest of a class ends
				f.out.Ended = m.Because
			}
			if m.Pain != nil {
				f.out.PainEnd = m.Pain
			}
			if !slices.Contains([]string{"pain", "symptom", progress.WarningSign}, m.Because) {
				continue
			}
			if it := f.item(m); it != nil && it.EndedBy == progress.ByChoice && it.Reached != nil && *it.Reached {
				it.EndedBy = progress.BySymptom
			}
		case Check:
			f.check(m)
		}
	}
}

// check takes in what was compared in the session.
func (f *fold) check(m *Mark) {
	if f.out.Checks == nil {
		f.out.Checks = &progress.Checks{}
	}
	switch m.Check {
	case "sij_side":
		f.out.Checks.SIJSide = trade.Side(word(m.Value))
	case "tight_turn":
		f.out.Checks.TightTurn = trade.Side(word(m.Value))
	case "from_memory":
		known := string(m.Value) == "true"
		f.out.Checks.FromMemory = &known
	case "clock_hours":
		f.out.Checks.Clock = hours(m.Value)
	}
}

// after takes in what may be marked at any time, also once a session is closed.
func after(s *progress.Session, marks []Mark, item func(*Mark) *progress.Item) {
	made := map[*progress.Item]progress.Item{} // as it was before any correction
	for i := range marks {
		m := &marks[i]
		switch m.Kind {
		case Note:
			addNote(s, m.Text)
		case Flag:
			for _, c := range m.Codes {
				if !slices.Contains(s.RedFlags, c) {
					s.RedFlags = append(s.RedFlags, c)
				}
			}
		case FollowUp:
			s.FollowUp, s.Soreness = m.FollowUp, nil
		case Correct:
			it := item(m)
			if _, ok := made[it]; !ok && it != nil {
				made[it] = *it
			}
			if err := correct(s, it, made[it], m); err != nil {
				addNote(s, fmt.Sprintf("a correction could not be read: %s", err))
			}
		}
	}
}
