package score

import (
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/trade"
)

// stretch writes a part of a dose: set-up, work, rest, the change of sides, the extra of one side or the
// slower passes over weak hours. Its segments last exactly as long as it does.
func (b *builder) stretch(i int, t dose.Stretch) {
	w := b.work[i]
	side := w.order[min(t.Side, len(w.order)-1)]
	if on, ok := w.v.LyingOn(side).Side(); ok {
		b.lain = on
	}
	d := w.it.Dose
	if d.Apart != nil {
		d = d.Apart[t.Side]
	}
	ready := &Figure{Phase: phases(w.v, false)[0]}
	ms := 1000 * t.Seconds
	switch t.Kind {
	case "setup":
		b.add(
			ms,
			Segment{Item: i, Kind: Setup, Side: side, Cue: "setup", Say: sideSay(side), Wait: true, Figure: ready},
		)
	case "rest":
		s := Segment{Item: i, Kind: Rest, Side: side, Set: t.Set + 1, OfSets: d.SetCount(), Wait: true, Figure: ready}
		if w.v.Compares != "" && side.One() && t.Side == 1 {
			s.Asks = []string{"compare"}
		}
		b.add(ms, s)
	case "change":
		b.add(
			ms,
			Segment{Item: i, Kind: Change, Side: side, Say: sideSay(side), Cue: "setup", Wait: true, Figure: ready},
		)
	case "work":
		b.set(i, d, side, t, false)
	case "extra":
		b.set(i, d, d.Extra.Side, t, true)
	case "hours":
		b.hours(i, d, t)
	}
}

func sideSay(side trade.Side) string {
	if side.One() {
		return string(side) + "-side"
	}
	return ""
}

// set writes the repetitions of a set.
func (b *builder) set(i int, d dose.Dose, side trade.Side, t dose.Stretch, extra bool) {
	w := b.work[i]
	n := t.Reps
	if n == 0 {
		return
	}
	if extra && d.TotalReps() == 1 { // a single hold goes on for longer
		b.hold(
			d,
			1000*t.Seconds,
			w,
			Segment{
				Item:   i,
				Kind:   Work,
				Side:   side,
				Set:    t.Set + 1,
				OfSets: d.SetCount(),
				Rep:    1,
				OfReps: 1,
				Extra:  true,
			},
		)
		return
	}
	each := 1000 * t.Seconds / n
	half := n
	if d.Turn == "half" && n > 1 {
		half = n / 2
	}
	for rep := range n {
		s := Segment{
			Item:   i,
			Kind:   Work,
			Side:   side,
			Set:    t.Set + 1,
			OfSets: d.SetCount(),
			Rep:    rep + 1,
			OfReps: n,
			Extra:  extra,
			ByFeel: d.ByFeel,
		}
		if len(w.it.Layers) > 0 { // each layer some repetitions, the last the rest
			s.Layer = w.it.Layers[min(rep*len(w.it.Layers)/n, len(w.it.Layers)-1)]
		}
		back, turn := false, t.Set*n+rep // single holds in turn change with the set
		switch {
		case d.Turn == "rep" && side == trade.Alternate: // sides in turn
			s.Side, s.InTurn = b.first(w)[turn%2], true
		case d.Turn == "half" && n > 1:
			back = rep >= half
			s.Direction, s.Turned = map[bool]string{false: "forth", true: "back"}[back], rep == half
			if side == trade.Alternate {
				s.Side, s.InTurn = b.first(w)[b2i(back)], false
			}
		case side == trade.Alternate:
			s.Side, s.InTurn = b.first(w)[turn%2], true
		}
		b.rep(w, d, each, s, back, half)
	}
}

func b2i(is bool) int {
	if is {
		return 1
	}
	return 0
}

// first is the order of the sides done in turn: the tighter or weaker first where it gets the extra.
func (b *builder) first(w *worked) []trade.Side {
	if w.it.Dose.Extra != nil && w.it.Dose.Extra.Side == trade.Right {
		return []trade.Side{trade.Right, trade.Left}
	}
	return trade.BothSides[:]
}

// rep writes one repetition, pass, lap or breath of so many milliseconds.
func (b *builder) rep(w *worked, d dose.Dose, ms int, s Segment, back bool, half int) {
	hold := 1000 * d.HoldSeconds(b.rate)
	cycles := w.v.Hold == "cycle" && hold > 0
	switch {
	case d.Beats > 0 && hold == 0:
		b.beats(w, d, ms, s)
	case d.WindowS > 0:
		b.way(w, d.MoveS*500, s, false, true)
		one := s
		one.Phase, one.Window, one.Breath, one.Cue = Window, true, "free", "hold"
		one.Count = &Count{Unit: "seconds", From: d.WindowS, To: 1}
		one.Figure = &Figure{Phases: phases(w.v, false), Cycles: cyclesOf(w.v, float64(d.WindowS))}
		b.add(1000*d.WindowS, one)
		b.way(w, ms-1000*d.WindowS-d.MoveS*500, s, false, false)
	case cycles: // the round repeats while the hold runs: no way in or out of its own
		names := phases(w.v, false)
		in, out := s, s
		in.Phase, in.Breath, in.Cue, in.Figure = In, "free", "in", &Figure{Phase: names[0], ToPhase: names[0]}
		out.Phase, out.Breath, out.Cue, out.Figure = Out, "free", "out", &Figure{Phase: names[0], ToPhase: names[0]}
		into := (ms - hold) / 2
		b.add(into, in)
		b.cycle(w, d, hold, s)
		b.add(ms-hold-into, out)
	case len(w.v.Hours) > 0 && hold == 0:
		b.clock(w, ms, s, back)
	case w.v.Unit == "laps" && hold == 0:
		one := s
		one.Phase, one.Breath, one.Cue = Lap, "free", cueAt(s.Rep)
		n := s.Rep
		if back {
			n -= half
		}
		one.Count = &Count{Unit: "laps", From: n, To: n, Of: half}
		one.Figure = &Figure{Phases: phases(w.v, back), Cycles: 1}
		b.add(ms, one)
	case hold == 0:
		counted := s
		if !d.ByFeel {
			counted.Count = &Count{Unit: unitOf(w.v), From: s.Rep, To: s.Rep, Of: s.OfReps}
			if d.RepsFrom > 0 && d.RepsFrom < d.Reps {
				counted.Count.Mark = d.RepsFrom
			}
		}
		b.round(w, ms, counted, back)
	default:
		into, out := b.split(w, ms-hold)
		b.way(w, into, s, back, true)
		if d.HoldBreaths > 0 {
			b.breaths(w, d, hold, s)
		} else {
			b.hold(d, hold, w, s)
		}
		b.way(w, out, s, back, false)
	}
}

func unitOf(v *catalogue.Version) string {
	switch v.Unit {
	case "steps", "breaths":
		return v.Unit
	}
	return "reps"
}

// cueAt is the cue of a repetition: the second is where faults are named.
func cueAt(rep int) string {
	if rep == 2 {
		return "fault"
	}
	return ""
}

// cyclesOf is how often the round is done in so many seconds.
func cyclesOf(v *catalogue.Version, s float64) float64 {
	one := 0.0
	for i := v.Round(); i < len(v.Phases); i++ {
		one += v.Phases[i].Seconds
	}
	if one <= 0 {
		return 1
	}
	return math.Max(1, math.Round(s/one))
}

// A leg is a part of a round: the way into a phase.
type leg struct {
	from, to string
	breath   string
	seconds  float64
	in       bool // up to the effort
}

// legs are the ways of one round in the order they are done. A round that is entered from a phase of its
// own begins with the way into its first phase; any other begins in its first phase and comes back to it.
func legs(v *catalogue.Version, back bool) (out []leg) {
	first, n := v.Round(), len(v.Phases)
	order := make([]int, 0, n)
	for i := first; i < n; i++ {
		order = append(order, i)
	}
	if len(order) == 1 {
		p := v.Phases[order[0]]
		return []leg{{p.Name, p.Name, p.Breath, math.Max(p.Seconds, 1), true}}
	}
	if back {
		slices.Reverse(order[1:])
	}
	effort := v.EffortPhase()
	done := false
	for k := 1; k <= len(order); k++ {
		a, z := v.Phases[order[k-1]], v.Phases[order[k%len(order)]]
		out = append(out, leg{a.Name, z.Name, z.Breath, math.Max(z.Seconds, 0.1), !done})
		done = done || order[k%len(order)] == effort
	}
	return out
}

// split shares the milliseconds of moving between the way in and the way out.
func (b *builder) split(w *worked, ms int) (into, out int) {
	if w.begins() {
		return ms / 2, ms - ms/2
	}
	in, all := 0.0, 0.0
	for _, l := range legs(w.v, false) {
		all += l.seconds
		if l.in {
			in += l.seconds
		}
	}
	into = int(math.Round(float64(ms) * in / all))
	return into, ms - into
}

// way writes the way to the effort, or from it, without a number.
func (b *builder) way(w *worked, ms int, s Segment, back, in bool) {
	var some []leg
	if w.begins() { // getting into the hold, and out of it
		p := w.v.Phases[w.v.EffortPhase()].Name
		b.legs([]leg{{p, p, "free", 1, in}}, ms, s)
		return
	}
	for _, l := range legs(w.v, back) {
		if l.in == in {
			some = append(some, l)
		}
	}
	b.legs(some, ms, s)
}

// begins tells whether the round begins with the effort: the hold comes before any way.
func (w *worked) begins() bool { return w.v.EffortPhase() == w.v.Round() }

// round writes the ways of one repetition.
func (b *builder) round(w *worked, ms int, s Segment, back bool) { b.legs(legs(w.v, back), ms, s) }

func (b *builder) legs(list []leg, ms int, s Segment) {
	if ms <= 0 {
		return
	}
	all, gone, passed := 0.0, 0, 0.0
	for _, l := range list {
		all += l.seconds
	}
	for k, l := range list {
		passed += l.seconds
		end := int(math.Round(float64(ms) * passed / all))
		if k == len(list)-1 {
			end = ms
		}
		one := s
		one.Phase, one.Breath, one.Figure = Out, breathOf(l.breath), &Figure{Phase: l.from, ToPhase: l.to}
		if l.in {
			one.Phase = In
		}
		if one.Cue = breathCue(one.Breath, one.Phase); s.Rep == 2 && k == 0 && l.in {
			one.Cue = "fault"
		}
		b.add(end-gone, one)
		gone = end
	}
}

func breathOf(said string) string {
	if said == "in" || said == "out" {
		return said
	}
	return "free"
}

// breathCue is the cue that goes with a breath, else with the direction of the movement.
func breathCue(breath, phase string) string {
	if breath == "in" || breath == "out" {
		return breath
	}
	return map[string]string{In: "out", Out: "in"}[phase]
}

// hold writes a hold in seconds, counted down, or up to the first loss of form.
func (b *builder) hold(d dose.Dose, ms int, w *worked, s Segment) {
	s.Phase, s.Breath, s.Cue = Hold, "free", "hold"
	s.Figure = &Figure{Phase: w.v.Phases[w.v.EffortPhase()].Name}
	n := ms / 1000
	s.Count = &Count{Unit: "seconds", From: n, To: 1}
	if d.HoldFrom > 0 && d.HoldFrom < n { // of a range the lower mark is called
		s.Count.Mark = n - d.HoldFrom
	}
	switch {
	case d.ByFeel:
		s.Count = nil
	case d.Open:
		s.Count, s.Open, s.Best, s.Was = &Count{Unit: "up", From: 1, To: n}, true, w.best, w.was
	}
	b.add(ms, s)
}

// breaths writes a hold in breaths, half a breath a segment; whole seconds are rounded up in its last
// out-breath, after which the leave begins.
func (b *builder) breaths(w *worked, d dose.Dose, ms int, s Segment) {
	rate := b.rate
	if d.Rate > 0 {
		rate = d.Rate
	}
	half := 30000 / rate
	start, n := 0, 2*d.HoldBreaths
	effort := w.v.Phases[w.v.EffortPhase()].Name
	round := phases(w.v, false)
	for k := range n {
		end := int(math.Round(float64(k+1) * half))
		if k == n-1 {
			end = ms
		}
		one := s
		one.Phase, one.Breath, one.Last = Hold, []string{"in", "out"}[k%2], k == n-1
		one.Cue = "hold"
		if !d.ByFeel {
			one.Count = &Count{Unit: "breaths", From: k/2 + 1, To: k/2 + 1, Of: d.HoldBreaths}
			if d.HoldFrom > 0 && d.HoldFrom < d.HoldBreaths {
				one.Count.Mark = d.HoldFrom
			}
		}
		one.Figure = &Figure{Phase: effort}
		if w.v.Hold == "cycle" && len(round) > 1 { // the round goes with the breath
			a, z := breathPhases(w.v)
			one.Figure = &Figure{Phase: a, ToPhase: z}
			if k%2 == 0 {
				one.Figure = &Figure{Phase: z, ToPhase: a}
			}
			one.Cue = one.Breath
		}
		b.add(end-start, one)
		start = end
	}
}

// breathPhases are the phases that a round of breath work reaches with the in- and with the out-breath.
func breathPhases(v *catalogue.Version) (in, out string) {
	round := phases(v, false)
	in, out = round[0], round[len(round)-1]
	for i := v.Round(); i < len(v.Phases); i++ {
		switch v.Phases[i].Breath {
		case "in":
			in = v.Phases[i].Name
		case "out":
			out = v.Phases[i].Name
		}
	}
	return in, out
}

// cycle writes a hold whose round repeats while it runs.
func (b *builder) cycle(w *worked, d dose.Dose, ms int, s Segment) {
	if d.HoldBreaths > 0 {
		b.breaths(w, d, ms, s)
		return
	}
	s.Phase, s.Breath, s.Cue = Hold, "free", "hold"
	s.Figure = &Figure{Phases: phases(w.v, false), Cycles: cyclesOf(w.v, float64(ms)/1000)}
	if !d.ByFeel {
		s.Count = &Count{Unit: "seconds", From: ms / 1000, To: 1}
	}
	if d.Open {
		s.Count, s.Open, s.Best, s.Was = &Count{Unit: "up", From: 1, To: ms / 1000}, true, w.best, w.was
	}
	b.add(ms, s)
}

// beats writes a breath of beats: half of them on the in-breath, half on the out-breath.
func (b *builder) beats(w *worked, d dose.Dose, ms int, s Segment) {
	in := (d.Beats + 1) / 2
	for k, n := range []int{in, d.Beats - in} {
		one := s
		one.Phase, one.Breath = Beats, []string{"in", "out"}[k]
		one.Cue = one.Breath
		one.Count = &Count{Unit: "beats", From: 1, To: n, Base: (s.Rep-1)*d.Beats + k*in, Of: s.OfReps * d.Beats}
		one.Figure = &Figure{Phase: one.Breath, Phases: phases(w.v, false), Cycles: float64(n)}
		half := ms * in / d.Beats
		if k == 1 {
			half = ms - half
		}
		b.add(half, one)
	}
}
