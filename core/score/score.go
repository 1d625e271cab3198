// Package score is the one account of every second of a session: what is done, said, counted and drawn from
// its first second to its last, worked out from a plan, the client and the log. Figure, ring, count, words
// and sound are read from one position in it; nothing else has a clock of its own.
package score

import (
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/say"
	"restbend/core/trade"
)

// Format names the document.
const Format = "restbend.score/1"

// Modes: with an instructor the client leads and the clock waits for a word; flowing runs through.
const (
	Led     = "led"
	Flowing = "flowing"
)

// Score is one session, second by second. Segments follow each other without a gap: the first begins at 0,
// the last ends at Seconds. Seconds have three decimals at most.
type Score struct {
	Format   string    `json:"format"`
	Rev      int       `json:"rev"`
	ChangedS float64   `json:"changed_s,omitempty"` // where the revision before was left
	Because  string    `json:"because,omitempty"`   // why
	Mode     string    `json:"mode"`
	Seconds  float64   `json:"seconds"`
	Breaths  float64   `json:"breaths_per_minute"`
	Doses    string    `json:"doses,omitempty"` // of a kind with doses of its own: one of dose.Kinds
	Cautions []string  `json:"cautions"`
	Items    []Item    `json:"items"`
	Segments []Segment `json:"segments"`
}

// Item is one exercise as it is taught.
type Item struct {
	Version   string                `json:"version"`
	Revision  int                   `json:"revision,omitempty"`
	Name      string                `json:"name"`
	Family    string                `json:"family"`
	Role      trade.Role            `json:"role"`
	Part      string                `json:"part,omitempty"`
	Position  trade.Position        `json:"position"`
	Surface   trade.Surface         `json:"surface"`
	Kit       []string              `json:"kit"`
	Eases     []string              `json:"eases"`
	EasedSide trade.Side            `json:"eased_side,omitempty"` // where only that side is eased
	Effort    int                   `json:"effort"`
	Side      trade.Side            `json:"side"`
	SideOrder []trade.Side          `json:"side_order"` // the sides in the order they are done
	By        string                `json:"by,omitempty"`
	Sides     map[trade.Side]string `json:"sides,omitempty"` // what to say of each: lie on, opens, works
	Dose      dose.Dose             `json:"dose"`
	DoseLeft  *dose.Dose            `json:"dose_left,omitempty"`
	DoseRight *dose.Dose            `json:"dose_right,omitempty"`
	DoseSays  string                `json:"dose_says"`
	Unit      string                `json:"unit,omitempty"` // what a repetition is called: reps, laps, steps, breaths
	Cap       *Cap                  `json:"cap,omitempty"`
	Trial     bool                  `json:"trial,omitempty"`
	Short     bool                  `json:"short,omitempty"` // made shorter by hand for the day
	Replaces  string                `json:"replaces,omitempty"`
	Layers    []string              `json:"layers,omitempty"`
	Block     int                   `json:"side_block,omitempty"`
	Says      Says                  `json:"says"`                 // with the ease's words
	OtherSays *Says                 `json:"other_says,omitempty"` // of the side that is not eased
	Faults    []Fault               `json:"faults"`
	Load      *progress.Load        `json:"load,omitempty"`
	Checks    []string              `json:"checks,omitempty"`
	Times     int                   `json:"times,omitempty"` // in how many sessions it was done before
}

// Fault is what can be seen go wrong, by its code.
type Fault struct {
	Code string `json:"code"`
	Say  string `json:"say"`
}

// Cap is where a symptom or a warning bounds the sets still to come.
type Cap struct {
	Sets  int    `json:"sets,omitempty"`
	Reps  int    `json:"reps,omitempty"`
	HoldS int    `json:"hold_s,omitempty"`
	Why   string `json:"why"`
}

// Says is what there is to say of an exercise.
type Says struct {
	Setup   []string `json:"setup"`
	Ease    []string `json:"ease,omitempty"`  // of the set-up, what an ease changes: said at every level
	Short   string   `json:"short,omitempty"` // ... in a few words
	In      string   `json:"in"`
	Out     string   `json:"out"`
	Image   string   `json:"image"`
	Core    string   `json:"core,omitempty"`
	Feel    string   `json:"feel"`
	Shaking string   `json:"shaking,omitempty"`
	Stop    []string `json:"stop"`
	// what is said on the way into each phase; scores of earlier releases have in and out alone
	Phases map[string]say.Line `json:"phases,omitempty"`
	Faults []Fault             `json:"faults,omitempty"` // of the side that is not eased
}

// says are the words of an item on a side: with its ease, or as it stands where only the other is eased.
func (it *Item) says(side trade.Side) *Says {
	if it.OtherSays != nil && side != it.EasedSide {
		return it.OtherSays
	}
	return &it.Says
}

// faults are what can be seen going wrong on a side.
func (it *Item) faults(side trade.Side) []Fault {
	if s := it.says(side); s.Faults != nil {
		return s.Faults
	}
	return it.Faults
}

// Kinds of segments.
const (
	Move   = "move"   // to the next position
	Setup  = "setup"  // of an item
	Work   = "work"   // what counts
	Rest   = "rest"   // between sets
	Change = "change" // of sides
	Reset  = "reset"  // an arm sweep with one breath
	Finish = "finish" // getting up at the end
)

// Phases of work.
const (
	In     = "in"
	Hold   = "hold"
	Out    = "out"
	Beats  = "beats"
	Lap    = "lap"
	Window = "window"
)

// Segment is one stretch of the session with one thing going on.
type Segment struct {
	Item      int        `json:"item"`
	Kind      string     `json:"kind"`
	Phase     string     `json:"phase,omitempty"`
	Start     float64    `json:"start"`
	End       float64    `json:"end"`
	Side      trade.Side `json:"side"`
	Set       int        `json:"set,omitempty"`
	OfSets    int        `json:"of_sets,omitempty"`
	Rep       int        `json:"rep,omitempty"`
	OfReps    int        `json:"of_reps,omitempty"`
	Breath    string     `json:"breath,omitempty"` // in, out or free
	Count     *Count     `json:"count,omitempty"`
	Last      bool       `json:"last,omitempty"` // the last out-breath of a hold: and out on the next
	Cue       string     `json:"cue,omitempty"`  // which of the item's words belong to it
	Say       string     `json:"say,omitempty"`
	Wait      bool       `json:"wait,omitempty"` // in led mode the position stands at the end until go
	Figure    *Figure    `json:"figure,omitempty"`
	Steps     []Step     `json:"steps,omitempty"`
	Asks      []string   `json:"asks,omitempty"`
	Layer     string     `json:"layer,omitempty"` // of a layered item: which of its rungs
	InTurn    bool       `json:"in_turn,omitempty"`
	Direction string     `json:"direction,omitempty"` // forth or back, of laps and circles
	Turned    bool       `json:"turned,omitempty"`    // the first after the direction changed
	Open      bool       `json:"open,omitempty"`      // up to the first loss of form
	Best      float64    `json:"best,omitempty"`      // of an open hold: the best ever, seconds
	Was       float64    `json:"was,omitempty"`       // ... and the last time
	Hours     *Hours     `json:"hours,omitempty"`
	Extra     bool       `json:"extra,omitempty"`
	Window    bool       `json:"window,omitempty"`  // counted, not aimed at
	ByFeel    bool       `json:"by_feel,omitempty"` // the end is a tap
	Added     bool       `json:"added,omitempty"`
	Repeat    bool       `json:"repeat,omitempty"`
	Cut       bool       `json:"cut,omitempty"` // left before its end
}

// Count is the number shown: from From towards To in equal parts of the segment.
type Count struct {
	Unit string `json:"unit"` // seconds, up, reps, breaths, beats, laps or steps
	From int    `json:"from"`
	To   int    `json:"to"`
	Of   int    `json:"of,omitempty"`
	Base int    `json:"base,omitempty"` // what was counted before: of beats
	Mark int    `json:"mark,omitempty"` // of a range: the number at which its lower mark is called
}

// Figure is what is drawn: the way from one phase to another, the share of which is the segment's, or a
// round of phases that repeats.
type Figure struct {
	Phase   string   `json:"phase,omitempty"`
	ToPhase string   `json:"to_phase,omitempty"`
	Phases  []string `json:"phases,omitempty"`
	Cycles  float64  `json:"cycles,omitempty"`
	From    float64  `json:"from_share,omitempty"` // where on that way it begins and ends, when not the whole
	To      float64  `json:"to_share,omitempty"`
}

// Hours is where on the pelvic clock a pass leads.
type Hours struct {
	From  int   `json:"from"`
	To    int   `json:"to"`
	Weak  []int `json:"weak,omitempty"`
	Extra bool  `json:"extra,omitempty"` // a slower pass over a weak hour
}

// Step is a part of a change of position.
type Step struct {
	At   float64 `json:"at"` // seconds into the segment
	Say  string  `json:"say"`
	Pose string  `json:"pose"` // the base pose it leads to
	// what it is drawn on, where not the floor: a bed or the carriage
	Surface string `json:"surface,omitempty"`
}

// Times are when each item begins and ends, without the way to it; in a side block they lie within each other.
func (s *Score) Times() (start, end []float64) {
	start, end = make([]float64, len(s.Items)), make([]float64, len(s.Items))
	for i := range s.Segments {
		g := &s.Segments[i]
		if g.Kind == Finish || g.Kind == Move {
			continue
		}
		if end[g.Item] == 0 {
			start[g.Item] = g.Start
		}
		end[g.Item] = g.End
	}
	return start, end
}
