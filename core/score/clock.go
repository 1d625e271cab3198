package score

import (
	"math"
	"slices"

	"restbend/core/dose"
)

// The pelvic clock is passed hour by hour.

// marks are the hours at which the phases of a round stand: one each where there are as many, else spread
// evenly over the dial between the hours.
func marks(w *worked) []float64 {
	if w.marks != nil {
		return w.marks
	}
	names, hours := w.phases(), w.v.Hours
	out := make([]float64, len(names))
	for i := range names {
		if len(hours) == len(names) {
			out[i] = float64(hours[i])
		} else {
			out[i] = math.Mod(1.5+float64(i)*12/float64(len(names)), 12)
		}
	}
	w.marks = out
	return out
}

// phases are the names of a round.
func (w *worked) phases() []string {
	if w.names == nil {
		w.names = phases(w.v, false)
	}
	return w.names
}

// forward is how far it is from one hour to another round the dial.
func forward(from, to float64) float64 { return math.Mod(to-from+12, 12) }

// drawn is the way of the figure between two hours of a round: the phases on both sides of it, and the share
// of the way between them.
func drawn(w *worked, from, to float64, back bool) *Figure {
	names, at := w.phases(), marks(w)
	n, step := len(names), 1
	way := forward
	if back {
		step, way = n-1, func(a, b float64) float64 { return forward(b, a) }
	}
	best, gone := 0, 13.0
	for i := range at { // the phase passed last before the hour
		if d := way(at[i], from); d < gone {
			best, gone = i, d
		}
	}
	next := (best + step) % n
	whole := way(at[best], at[next])
	if whole == 0 {
		whole = 12
	}
	f := &Figure{
		Phase:   names[best],
		ToPhase: names[next],
		From:    share(gone / whole),
		To:      share((gone + way(from, to)) / whole),
	}
	if f.From == 0 && f.To == 1 {
		f.From, f.To = 0, 0
	}
	return f
}

func share(v float64) float64 { return math.Round(1000*math.Min(v, 1)) / 1000 }

// clock writes one pass over the hours, or one line of the dial and back.
func (b *builder) clock(w *worked, ms int, s Segment, back bool) {
	hours := slices.Clone(w.v.Hours)
	if back {
		slices.Reverse(hours[1:])
	}
	n := len(hours)
	names := w.phases()
	start := 0
	for k := range n {
		from, to := hours[k], hours[(k+1)%n]
		end := ms * (k + 1) / n
		one := s
		one.Phase, one.Breath, one.Cue = Lap, "free", cueAt(s.Rep)
		one.Hours = &Hours{From: from, To: to}
		one.Count = &Count{Unit: unitOf(w.v), From: s.Rep, To: s.Rep, Of: s.OfReps}
		if w.v.Unit == "laps" {
			half := s.OfReps
			if s.Direction != "" {
				half /= 2
			}
			rep := (s.Rep-1)%max(1, half) + 1
			one.Count = &Count{Unit: "laps", From: rep, To: rep, Of: half}
		}
		if len(names) == n {
			i := slices.Index(w.v.Hours, from)
			z := slices.Index(w.v.Hours, to)
			one.Figure = &Figure{Phase: names[i], ToPhase: names[z]}
			one.Breath = breathOf(w.v.Phases[w.v.Round()+z].Breath)
		} else {
			one.Figure = drawn(w, float64(from), float64(to), back)
		}
		one.Turned = s.Turned && k == 0
		b.add(end-start, one)
		start = end
	}
}

// hours writes the slower passes over weak hours: three each, from the hour before to the hour after.
func (b *builder) hours(i int, d dose.Dose, t dose.Stretch) {
	w := b.work[i]
	each := 1000 * t.Seconds / max(1, t.Reps)
	for _, h := range d.Hours {
		for pass := range dose.HourPasses {
			from, to := (h+10)%12+1, h%12+1
			b.add(
				each,
				Segment{
					Item:   i,
					Kind:   Work,
					Phase:  Lap,
					Breath: "free",
					Set:    t.Set + 1,
					OfSets: d.SetCount(),
					Rep:    pass + 1,
					OfReps: dose.HourPasses,
					Extra:  true,
					Hours:  &Hours{From: from, To: to, Weak: []int{h}, Extra: true},
					Figure: drawn(w, float64(from), float64(to), false),
					Count:  &Count{Unit: "laps", From: pass + 1, To: pass + 1, Of: dose.HourPasses},
				},
			)
		}
	}
}
