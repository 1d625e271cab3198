package score

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/say"
	"restbend/core/trade"
	"restbend/core/way"
)

// Facts are what a score is made from besides the plan.
type Facts struct {
	Catalogue *catalogue.Catalogue
	Client    *intake.Client
	Log       *progress.Log // nil for none
	Ways      *Ways
	Mover     *way.Mover // what the client has to change position with; nil: everything
	Mode      string     // Led when empty
	Breaths   float64    // of a change on the spot: the rate from there on, 0 for the score's own
}

// Bounds of a plan that can be scored: what comes from outside is judged before anything is laid out.
const (
	mostItems   = plan.MostItems
	mostSeconds = 4 * 3600
)

// Build lays a plan out second by second. It fails on a plan that names a version the catalogue does not
// have, or whose doses are beyond every bound.
func Build(p *plan.Plan, f Facts) (*Score, error) {
	if err := check(p, f); err != nil {
		return nil, err
	}
	b := newBuilder(f)
	b.out.Cautions = append([]string{}, p.Cautions...)
	b.out.Doses = p.Doses
	for i := range p.Items {
		b.item(&p.Items[i])
	}
	b.all(0, b.home())
	return b.done(), nil
}

// check refuses what no clock could run.
func check(p *plan.Plan, f Facts) error {
	if len(p.Items) > mostItems {
		return fmt.Errorf("items: found %d, allowed: up to %d", len(p.Items), mostItems)
	}
	total := 0
	for i := range p.Items {
		it := &p.Items[i]
		if _, ok := f.Catalogue.Version(it.Version); !ok {
			return fmt.Errorf("items[%d].version: there is no %q", i, it.Version)
		}
		doses := []dose.Dose{it.Dose}
		if it.Dose.Apart != nil {
			doses = append(doses, it.Dose.Apart[:]...)
		}
		for _, d := range doses {
			if err := d.Check(); err != nil {
				return fmt.Errorf("items[%d].dose: %w", i, err)
			}
		}
		total += it.Dose.Seconds(f.Client.BreathRate, it.Sides())
	}
	if total > mostSeconds {
		return fmt.Errorf("items: found %d s of work, allowed: up to %d", total, mostSeconds)
	}
	return nil
}

// builder writes a score; now is in milliseconds.
type builder struct {
	kept int // segments that ran: their waits stay
	f    Facts
	who  *way.Mover
	rate float64
	out  *Score
	work []*worked // of the items
	at   plan.Place
	lain trade.Side // the side that was lain on last
	now  int
}

// worked is an item with what its segments need.
type worked struct {
	it    plan.Item
	v     *catalogue.Version
	order []trade.Side
	best  float64 // of an open hold
	was   float64

	names []string // of the phases of a round, and the hours at which they stand
	marks []float64
}

func newBuilder(f Facts) *builder {
	b := &builder{
		f:    f,
		rate: f.Client.BreathRate,
		out: &Score{
			Format:   Format,
			Rev:      1,
			Mode:     f.Mode,
			Cautions: []string{},
			Items:    []Item{},
			Segments: []Segment{},
		},
	}
	if b.rate <= 0 {
		b.rate = dose.DefaultBreaths
	}
	if b.out.Mode == "" {
		b.out.Mode = Led
	}
	b.out.Breaths = b.rate
	b.who = &way.Mover{SitS: way.SitS}
	if f.Mover != nil {
		own := *f.Mover
		own.Earlier = false // what is taught today goes the ways of today
		b.who = &own
	}
	b.at = b.home()
	return b
}

// home is where a session starts and ends.
func (b *builder) home() plan.Place {
	if b.who.Lacks(way.Standing) || b.f.Client.Positions["stand_free"] == "no" {
		return plan.Place{Position: trade.Sitting, Surface: trade.Chair}
	}
	return plan.Place{Position: trade.Standing}
}

func (b *builder) done() *Score {
	b.out.Seconds = seconds(b.now)
	b.out.spare(b.kept)
	return b.out
}

func seconds(ms int) float64 { return float64(ms) / 1000 }

// add writes a segment of so many milliseconds.
func (b *builder) add(ms int, s Segment) {
	if ms <= 0 {
		return
	}
	if s.Side == "" {
		s.Side = trade.None
	}
	s.Start = seconds(b.now)
	b.now += ms
	s.End = seconds(b.now)
	b.out.Segments = append(b.out.Segments, s)
}

// item describes an item.
func (b *builder) item(it *plan.Item) {
	own := *it
	it = &own
	v, _ := b.f.Catalogue.Version(it.Version)
	if it.Position == "" { // a plan from elsewhere may name the version alone
		it.Position, it.Effort = v.Position, v.Effort
	}
	if it.Surface == "" {
		it.Surface = v.Surfaces[0]
	}
	if it.Family == "" {
		it.Family = v.Family
	}
	if it.Side == "" {
		it.Side = v.SideMode
	}
	order := it.SideOrder()
	out := Item{
		Version:   it.Version,
		Trial:     it.Trial,
		Short:     it.ByHand && it.Length == plan.Short,
		Replaces:  it.Replaces,
		Revision:  it.Revision,
		Name:      v.Name,
		Family:    it.Family,
		Role:      it.Role,
		Part:      it.Part,
		Position:  it.Position,
		Surface:   it.Surface,
		Kit:       append([]string{}, it.Kit...),
		Eases:     append([]string{}, it.Eases...),
		EasedSide: it.EasedSide,
		Effort:    it.Effort,
		Side:      it.Side,
		SideOrder: order,
		By:        it.Dose.By,
		Dose:      it.Dose,
		DoseLeft:  it.DoseLeft,
		DoseRight: it.DoseRight,
		DoseSays:  it.DoseWords(),
		Unit:      v.Unit,
		Layers:    it.Layers,
		Block:     it.Block,
		Faults:    []Fault{},
		Load:      it.Load,
	}
	b.say(&out, it, v)
	w := &worked{it: *it, v: v.At(it.Surface), order: order}
	if check := v.Tests(); check != "" && it.Role != trade.Reset {
		out.Checks = []string{check}
	}
	b.history(&out, w)
	b.out.Items = append(b.out.Items, out)
	b.work = append(b.work, w)
}

// say adds what is said of an item as it is done: of the eased side with the ease, of another as it stands.
func (b *builder) say(out *Item, it *plan.Item, v *catalogue.Version) {
	core := ""
	if n := len(it.Cues); n > 3 {
		core = it.Cues[n-1]
	}
	d := it.Doing()
	words := v.WordsWith(d.Ease)
	out.Says, out.Faults = b.saysOf(v, &words, core), faultsOf(&words)
	out.Says.Ease, out.Says.Short = v.EaseSide(d), v.EaseShort(d)
	out.Says.Setup = append(append([]string{}, out.Says.Ease...), words.Setup...)
	if d.Ease != "" && d.EasedSide.One() {
		plain := v.WordsWith("")
		other := b.saysOf(v, &plain, core)
		if it.Side == trade.Alternate { // one set-up for both: the ease is said with its side
			other.Ease, other.Short = out.Says.Ease, out.Says.Short
			other.Setup = append(append([]string{}, other.Ease...), plain.Setup...)
		}
		other.Faults = faultsOf(&plain)
		out.OtherSays = &other
	}
	for _, side := range trade.BothSides {
		if say := v.SaySide(side); say != "" && slices.Contains(out.SideOrder, side) {
			if out.Sides == nil {
				out.Sides = map[trade.Side]string{}
			}
			out.Sides[side] = say
		}
	}
}

func faultsOf(w *say.Words) []Fault {
	out := []Fault{}
	for _, x := range w.Faults {
		out = append(out, Fault{x.Code, x.Say})
	}
	return out
}

// saysOf are the words of an exercise as the player shows and speaks them.
func (b *builder) saysOf(v *catalogue.Version, w *say.Words, core string) Says {
	s := Says{
		Setup:   append([]string{}, w.Setup...),
		In:      w.Cues.In,
		Out:     w.Cues.Out,
		Image:   w.Cues.Image,
		Core:    core,
		Shaking: say.Shaking[v.Shaking],
		Stop:    append([]string{}, w.Stop...),
		Phases:  w.Phases,
	}
	if len(w.Feel) > 0 {
		s.Feel = w.Feel[0]
	}
	return s
}

// history tells how often an item was done before, and of an open hold the best and the last one.
func (b *builder) history(out *Item, w *worked) {
	if b.f.Log == nil {
		return
	}
	for i := range b.f.Log.Sessions {
		found := false
		for k := range b.f.Log.Sessions[i].Items {
			x := &b.f.Log.Sessions[i].Items[k]
			if x.Version != out.Version || !x.Begun() {
				continue
			}
			found = true
			if held := float64(x.Done.HoldS); w.it.Dose.Open && held > 0 {
				w.best, w.was = math.Max(w.best, held), held
			}
		}
		if found {
			out.Times++
		}
	}
}

// all writes the items from one on, and the way to where the session ends.
func (b *builder) all(from int, home plan.Place) {
	for i := from; i < len(b.work); {
		i = b.next(i)
	}
	if len(b.work) > 0 {
		b.move(len(b.work)-1, home, Finish)
	}
}

// next writes an item, or a whole side block, and gives the one after it.
func (b *builder) next(i int) int {
	it := &b.work[i].it
	if it.Role == trade.Reset {
		b.reset(i)
		return i + 1
	}
	b.move(i, it.Place(), Move)
	last := i
	for it.Block > 0 && it.Side == trade.Each && last+1 < len(b.work) && b.work[last+1].it.Block == it.Block &&
		b.work[last+1].it.Side == trade.Each {
		last++
	}
	if last == i {
		for _, t := range b.stretches(i) {
			b.stretch(i, t)
		}
		return i + 1
	}
	other := [][]dose.Stretch{}
	for k := i; k <= last; k++ { // all to the first side, easiest first; then to the other
		all := b.stretches(k)
		half := slices.IndexFunc(all, func(t dose.Stretch) bool { return t.Kind == "change" })
		for _, t := range all[:half] {
			b.stretch(k, t)
		}
		other = append(other, all[half:])
	}
	if i+1 <= last && b.work[i+1].it.TurnS > 0 { // turning over is told with the second item
		other[0][0].Seconds += b.work[i+1].it.TurnS
	}
	for k, rest := range other {
		for _, t := range rest {
			b.stretch(i+k, t)
		}
	}
	return last + 1
}

func (b *builder) stretches(i int) []dose.Stretch {
	it := &b.work[i].it
	return it.Dose.Stretches(b.rate, it.Sides())
}

// move writes a change of position: in the steps of its way, in the seconds that the plan gives it. What
// it takes longer than its steps is the last one's.
func (b *builder) move(i int, to plan.Place, kind string) {
	from, who := b.at, b.who
	next := trade.Side("")
	if kind == Move && to.Position == trade.SideLying {
		next = b.liesFirst(i)
	}
	if from.Position.Lies() && to.Position.Lies() && from.Ground() == to.Ground() { // rolls onto, or from, the side it is about
		if side := cmp.Or(next, b.lain); from.Position == trade.SideLying || to.Position == trade.SideLying {
			who = who.Rolling(side)
		}
		next = ""
	}
	steps, seconds, ok := b.f.Ways.Way(from, to, who)
	if ok && who == b.who && !who.Unsided {
		steps = b.turns(steps, seconds, from, to, next)
	}
	if !ok { // a plan shaped by hand, or of another day: nobody is led where there is no way
		steps = []Step{{Say: "There is no way from here with what this client has: leave this one out, or help.",
			Pose: poseOf[b.at.Position]}}
		seconds = noWayS
	}
	b.at = to
	if len(steps) > 0 && seconds > 0 {
		b.add(1000*seconds, Segment{Item: i, Kind: kind, Steps: steps})
	}
}

// turnS is turning over from one side to the other within a way, seconds (product default).
const turnS = 6

// liesFirst is the side that an item begins lying on.
func (b *builder) liesFirst(i int) trade.Side {
	w := b.work[i]
	if len(w.order) == 0 {
		return ""
	}
	on, _ := w.v.LyingOn(w.order[0]).Side()
	return on
}

// turns puts turning over into a way: before coming up, for who lies on the other side than the one they push up
// from; after lying down, for who begins on the other one than they went down over.
func (b *builder) turns(steps []Step, seconds int, from, to plan.Place, next trade.Side) []Step {
	over := b.who.Over()
	turn := func(side trade.Side, at plan.Place) Step {
		return Step{Say: "Turn over onto the " + string(side) + " side in one piece.", Pose: "side-lying-" + string(side), Surface: drawnOn[at.Ground()]}
	}
	first := from.Position == trade.SideLying && b.lain != "" && b.lain != over
	last := to.Position == trade.SideLying && next != "" && next != over
	turned := turnS * (b2i(first) + b2i(last))
	if over == "" || turned == 0 || seconds <= turned {
		return steps
	}
	for k := range steps {
		steps[k].At = float64(turnS*b2i(first)) + steps[k].At*float64(seconds-turned)/float64(seconds)
	}
	if first {
		steps = append([]Step{turn(over, from)}, steps...)
	}
	if last {
		end := turn(next, to)
		end.At = float64(seconds - turnS)
		steps = append(steps, end)
	}
	return steps
}

// noWayS is how long it is said that there is no way, seconds (product default).
const noWayS = 30

// reset writes an arm sweep with one breath, with the way to the posture it is done in and back.
func (b *builder) reset(i int) {
	w := b.work[i]
	d := &w.it.Dose
	way := func(ms int, say string) {
		b.add(ms, Segment{Item: i, Kind: Move, Steps: []Step{{Say: say, Pose: poseOf[w.it.Position]}}})
	}
	there := 500 * d.SetupS
	if there > 0 {
		way(there, "To "+catalogue.PositionWords(w.it.Position)+" for a breath.")
	}
	names := phases(w.v, false)
	fig := &Figure{Phase: names[0], ToPhase: names[min(1, len(names)-1)]}
	for range d.TotalReps() {
		half := 500 * (d.MoveS + d.HoldSeconds(b.rate))
		b.add(half, Segment{Item: i, Kind: Reset, Breath: "in", Cue: "in", Figure: fig})
		b.add(
			1000*(d.MoveS+d.HoldSeconds(b.rate))-half,
			Segment{
				Item:   i,
				Kind:   Reset,
				Breath: "out",
				Cue:    "out",
				Figure: &Figure{Phase: fig.ToPhase, ToPhase: fig.Phase},
			},
		)
	}
	if there > 0 {
		way(1000*d.SetupS-there, "And back.")
	}
}

// poseOf is the base pose of a position, for the steps of a sweep.
var poseOf = map[trade.Position]string{
	trade.Supine: "supine", trade.SideLying: "side-lying-right", trade.Prone: "prone", trade.AllFours: "all-fours",
	trade.Kneeling:  "tall-kneeling",
	trade.HalfKneel: "half-kneeling-left", trade.LongSitting: "long-sitting", trade.Sitting: "seated",
	trade.Standing: "standing",
}

// phases are the names of a round, without what is only done on the way in; back is the round the other way.
func phases(v *catalogue.Version, back bool) (out []string) {
	for i := v.Round(); i < len(v.Phases); i++ {
		out = append(out, v.Phases[i].Name)
	}
	if back {
		slices.Reverse(out)
	}
	return out
}
