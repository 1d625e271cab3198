package exchange

import (
	"encoding/json"
	"io"
	"math"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/say"
	"restbend/core/statics"
	"restbend/core/trade"
	"restbend/core/way"
)

// Write prints one JSON document.
func Write(w io.Writer, doc any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", " ")
	return e.Encode(doc)
}

// Screen is a restbend.screen/1 document.
type Screen struct {
	Format  string           `json:"format"`
	Way     *way.Mover       `json:"way"` // what the client has to change position with
	Refer   *safety.Referral `json:"refer"`
	Notes   []string         `json:"notes"`
	Caps    *ScreenCaps      `json:"caps,omitempty"`
	Acute   bool             `json:"acute,omitempty"` // the limits of an acute back pain hold
	AsIf    []string         `json:"as_if,omitempty"` // conditions that shape a session, recorded or not
	Results []ScreenResult   `json:"results"`
}

// ScreenCaps are what the client's conditions allow of a whole session.
type ScreenCaps struct {
	SupineS        int `json:"supine_s,omitempty"`            // the longest unbroken stretch on the back
	SittingS       int `json:"sitting_s,omitempty"`           // ... and in sitting without a rise
	FloorTransfers int `json:"floor_transfers_max,omitempty"` // rises from the floor
}

// ScreenResult adds where a lying version lies and how long it may be held.
type ScreenResult struct {
	safety.Result
	HoldMaxS int    `json:"hold_max_s,omitempty"`
	LyingOn  string `json:"lying_on,omitempty"`
	// why the other version or a swap keeps the purpose, and what it loses
	Because map[string]string `json:"because,omitempty"`
	// the ease it is done with, the one side that needs it, and what is said of it
	Ease      string     `json:"ease,omitempty"`
	EasedSide trade.Side `json:"eased_side,omitempty"`
	EaseSays  []string   `json:"ease_says,omitempty"`
}

// NewScreen writes a screening as a document.
func NewScreen(by *safety.Screener, s *safety.Screening, cat *catalogue.Catalogue) Screen {
	var caps ScreenCaps
	caps.SupineS, _ = by.SupineCap()
	caps.SittingS, _ = by.SittingCap()
	caps.FloorTransfers, _ = by.RisesCap()
	out := Screen{
		Format:  "restbend.screen/1",
		Acute:   by.Acute(),
		AsIf:    by.AsIf(),
		Way:     by.Mover(),
		Refer:   s.Refer,
		Notes:   s.Notes,
		Results: []ScreenResult{},
	}
	if out.Notes == nil {
		out.Notes = []string{}
	}
	if caps != (ScreenCaps{}) {
		out.Caps = &caps
	}
	for _, r := range s.Results {
		v, _ := cat.Version(r.Version)
		res := ScreenResult{Result: r, LyingOn: v.Solved.Phases[0].Measures.LyingOn}
		res.HoldMaxS, _ = by.HoldCap(v)
		if ease, on, ok := r.As(v.SideMode); ok && ease != "" {
			res.Ease, res.EasedSide = ease, on
			res.EaseSays = v.EaseSide(catalogue.Doing{Side: v.SideMode, Ease: ease, EasedSide: on})
		}
		instead := r.Swaps
		if r.Verdict == trade.Adapt && r.Use != r.Version {
			instead = append([]string{r.Use}, r.Swaps...)
		}
		for _, slug := range instead {
			if w, ok := cat.Version(slug); ok {
				if res.Because == nil {
					res.Because = map[string]string{}
				}
				keeps, loses := safety.Because(v, w)
				if loses != "" {
					loses = "; loses " + loses
				}
				res.Because[slug] = keeps + loses
			}
		}
		out.Results = append(out.Results, res)
	}
	return out
}

// Next is a restbend.next/1 document.
type Next struct {
	Format    string              `json:"format"`
	Client    *progress.Whole     `json:"client"` // what holds for the whole client: refer or rest
	Decisions []progress.Decision `json:"decisions"`
}

// NewNext writes decisions as a document.
func NewNext(whole *progress.Whole, d []progress.Decision) Next {
	if d == nil {
		d = []progress.Decision{}
	}
	return Next{"restbend.next/1", whole, d}
}

// Catalogue is a restbend.catalogue/1 document.
type Catalogue struct {
	Format   string    `json:"format"`
	Versions []Version `json:"versions"`
}

// Version is one exercise with declared and measured quantities.
type Version struct {
	Version   string                 `json:"version"`
	Family    string                 `json:"family"`
	Branch    int                    `json:"branch"`
	Rung      int                    `json:"rung"`
	Name      string                 `json:"name"`
	Aliases   []string               `json:"aliases"`
	Aims      []string               `json:"aims"`
	Position  trade.Position         `json:"position"`
	Surfaces  []trade.Surface        `json:"surfaces"`
	Kit       []string               `json:"kit"`
	SideMode  trade.Side             `json:"side_mode"`
	SideMeans string                 `json:"side_means,omitempty"`
	Revision  int                    `json:"revision"`
	Chain     string                 `json:"chain"`
	Effort    int                    `json:"effort"`
	Unit      string                 `json:"unit"`
	Changes   string                 `json:"changes"`
	Doses     map[string][]dose.Dose `json:"doses"`
	Bed       answer                 `json:"bed"`
	Chair     swap                   `json:"chair"`
	Phases    []Phase                `json:"phases"`
	Declared  []string               `json:"declared"`
	Setup     []string               `json:"setup"`
	Cues      say.Cues               `json:"cues"`
	Feel      []string               `json:"feel"`
	Faults    []string               `json:"faults"`
	Eases     []string               `json:"eases"`
	Stop      []string               `json:"stop"`
	Say       sayDoc                 `json:"say"`
	EaseWords []easeWords            `json:"ease_words,omitempty"`
	// the phases as they are measured with each ease
	EasePhases map[string][]Phase `json:"ease_phases,omitempty"`
	Set        bool               `json:"set,omitempty"`      // a member of a set, not a rung of its family
	Authored   trade.Side         `json:"authored,omitempty"` // the side the phases describe
	Hours      []int              `json:"hours,omitempty"`    // of the pelvic clock a pass leads over

	MainAims    []string   `json:"main_aims"` // what it is for; the rest of aims it serves besides
	Start       bool       `json:"start"`     // a place to begin
	Gate        []gateStep `json:"gate,omitempty"`
	GateAny     bool       `json:"gate_any,omitempty"`     // any of the steps opens it, not all
	GateUpright bool       `json:"gate_upright,omitempty"` // binds only clients who stay upright
	// with work at this effort and an easier exercise of the same aim
	GateEffort int         `json:"gate_effort,omitempty"`
	GateSchool string      `json:"gate_school,omitempty"` // the side plank school in which it is a start
	Helpful    []helpful   `json:"kit_helpful"`
	FaultCodes []say.Fault `json:"fault_codes"`
	FeelAt     []feelAt    `json:"feel_at"`
	Shaking    string      `json:"shaking,omitempty"`
	// still, or cycle: the round repeats while the hold runs
	Hold        string                      `json:"hold"`
	Turn        string                      `json:"turn,omitempty"` // when sides or directions change inside a set
	InsteadOf   string                      `json:"instead_of,omitempty"`
	Held        string                      `json:"held,omitempty"` // for who stands with a hold
	Walking     bool                        `json:"walking,omitempty"`
	Cautions    []string                    `json:"cautions,omitempty"`
	On          map[trade.Surface]placedDoc `json:"on,omitempty"`
	EffortPhase int                         `json:"effort_phase"` // from 1: where the hold is spent
}

type gateStep struct {
	Version string `json:"version"`
	HoldS   int    `json:"hold_s,omitempty"`
	Pattern []int  `json:"pattern,omitempty"`
	Reps    int    `json:"reps,omitempty"`
	Sets    int    `json:"sets,omitempty"`
}

type helpful struct {
	Kit     string `json:"kit"`
	Instead string `json:"instead,omitempty"`
}

// sayDoc are the words of an entry by their slots; what older readers know stands beside it as setup, cues,
// feel, faults and stop.
type sayDoc struct {
	Setup  say.Setup           `json:"setup"`
	Phases map[string]say.Line `json:"phases"`
	Core   string              `json:"core,omitempty"`
}

// easeWords is what is said of an ease: its sentences first in the set-up, and lines in slots of the exercise.
type easeWords struct {
	Slug      string            `json:"slug"`
	Name      string            `json:"name"`
	Say       []string          `json:"say"`
	Short     string            `json:"short"`
	Instead   map[string]string `json:"instead,omitempty"`
	StoppedBy string            `json:"stopped_by,omitempty"`
}

type feelAt struct {
	At  string `json:"at"`
	Say string `json:"say"`
}

type placedDoc struct {
	Kit    []string `json:"kit"`
	Note   string   `json:"note"`
	Phases []Phase  `json:"phases"`
}

type answer struct {
	Answer string `json:"answer"`
	Note   string `json:"note"`
}

type swap struct {
	Version string `json:"version"`
	Note    string `json:"note"`
}

// Phase is what one posture asks of the body, of the authored side and the reference
// female body.
type Phase struct {
	Name          string                        `json:"name"`
	Breath        string                        `json:"breath"`
	Seconds       float64                       `json:"seconds"` // the way into it
	Held          bool                          `json:"held,omitempty"`
	Once          bool                          `json:"once,omitempty"` // on the way in, not repeated
	Spine         map[string]map[string]float64 `json:"spine"`
	Loaded        map[string]bool               `json:"loaded"`
	Share         map[string]float64            `json:"share"`
	Limbs         map[string]map[string]float64 `json:"limbs"`
	Moment        float64                       `json:"lumbar_moment_nm_per_kg"`
	MomentParts   map[string]float64            `json:"lumbar_moment"`
	Margin        float64                       `json:"com_margin_cm"`
	Indeterminate bool                          `json:"indeterminate"`
}

// NewCatalogue writes the catalogue as a document.
func NewCatalogue(cat *catalogue.Catalogue) Catalogue {
	out := Catalogue{Format: "restbend.catalogue/1"}
	list := func(l []string) []string {
		if l == nil {
			return []string{}
		}
		return l
	}
	for _, v := range cat.Versions {
		d := Version{
			Version:     v.Slug,
			Family:      v.Family,
			Branch:      v.Branch,
			Rung:        v.Rung,
			Name:        v.Name,
			Aliases:     list(v.Aliases),
			Aims:        v.Aims,
			Position:    v.Position,
			Surfaces:    v.Surfaces,
			Kit:         list(v.Kit),
			SideMode:    v.SideMode,
			SideMeans:   v.SideMeans,
			Revision:    v.Revision,
			Chain:       v.Chain,
			Effort:      v.Effort,
			Unit:        v.Unit,
			Changes:     v.Changes,
			Doses:       v.Doses,
			Bed:         answer(v.Bed),
			Chair:       swap(v.Chair),
			Declared:    list(v.Declared),
			Setup:       v.Say.Setup.First,
			Cues:        v.Cues(),
			Say:         sayDoc{v.Say.Setup, v.Say.Phases, v.Say.Core},
			Feel:        v.FeltIn(),
			Faults:      v.FaultSays(),
			Eases:       []string{},
			Stop:        v.Say.Stop,
			Set:         v.Set,
			Hours:       v.Hours,
			MainAims:    v.MainAims,
			Start:       v.Start,
			Helpful:     []helpful{},
			Shaking:     say.Shaking[v.Shaking],
			Hold:        "still",
			Turn:        v.TurnIn(),
			InsteadOf:   v.InsteadOf,
			Held:        v.Sibling,
			Walking:     v.Walking,
			Cautions:    v.Cautions,
			EffortPhase: v.EffortPhase() + 1,
		}
		d.classes(v)
		if v.SideMode == trade.Each {
			d.Authored = trade.BothSides[v.Authored]
		}
		for i := range v.Eases {
			e := &v.Eases[i]
			d.Eases = append(d.Eases, e.Slug)
			if d.EasePhases == nil {
				d.EasePhases = map[string][]Phase{}
			}
			d.EasePhases[e.Slug] = phases(v, e.Solved)
			d.EaseWords = append(d.EaseWords, easeWords{e.Slug, e.Name, e.Sentences(), e.Short, e.Instead, e.StoppedBy})
		}
		d.Phases = phases(v, v.Solved)
		for place, on := range v.On {
			if d.On == nil {
				d.On = map[trade.Surface]placedDoc{}
			}
			d.On[place] = placedDoc{list(on.Kit), on.Note, phases(v, on.Solved)}
		}
		out.Versions = append(out.Versions, d)
	}
	return out
}

// classes fills in what programs know an entry by: gates, helping kit, codes.
func (d *Version) classes(v *catalogue.Version) {
	if g := v.Gate; g != nil {
		d.GateAny, d.GateUpright, d.GateEffort, d.GateSchool = g.Any, g.Upright, g.Effort, g.School
		for _, s := range g.Steps {
			d.Gate = append(d.Gate, gateStep(s))
		}
	}
	for _, k := range v.Helpful {
		d.Helpful = append(d.Helpful, helpful{k, catalogue.Household[k]})
	}
	for _, s := range v.Faults {
		if s.Code == "" { // an own version's sentence without a code
			s.Code = "other"
		}
		d.FaultCodes = append(d.FaultCodes, s)
	}
	for _, s := range v.Say.Feel {
		d.FeelAt = append(d.FeelAt, feelAt{s.Code, s.Say})
	}
	if v.Hold != "" {
		d.Hold = v.Hold
	}
}

// phases are a version's postures as solved, here or on another surface.
func phases(v *catalogue.Version, s *catalogue.Solved) (out []Phase) {
	for i := range s.Phases {
		p := phase(&s.Phases[i], v.Phases[i].Breath)
		p.Held, p.Once, p.Seconds = v.Phases[i].Held, v.Phases[i].Once, v.Phases[i].Seconds
		out = append(out, p)
	}
	return out
}

func phase(p *catalogue.SolvedPhase, breath string) Phase {
	m := &p.Measures
	r1 := func(v float64) float64 { return math.Round(10*v) / 10 }
	r3 := func(v float64) float64 { return math.Round(1000*v) / 1000 }
	out := Phase{
		Name:          p.Name,
		Breath:        breath,
		Spine:         map[string]map[string]float64{},
		Share:         map[string]float64{},
		Limbs:         map[string]map[string]float64{},
		Loaded:        map[string]bool{"lumbar": m.Lumbar.Loaded, "thoracic": m.Thoracic.Loaded, "neck": m.Neck.Loaded},
		Moment:        r3(m.Moment),
		MomentParts:   map[string]float64{"sagittal": r3(m.Sagittal), "frontal": r3(m.Frontal), "axial": r3(m.Axial)},
		Margin:        r1(m.Margin),
		Indeterminate: m.Indeterminate,
	}
	for name, r := range map[string]statics.Region{"lumbar": m.Lumbar, "thoracic": m.Thoracic, "neck": m.Neck} {
		pos := func(v float64) float64 { return r1(math.Max(0, v)) }
		out.Spine[name] = map[string]float64{
			"flexion":         pos(r.Flexion),
			"extension":       pos(-r.Flexion),
			"side_bend_left":  pos(r.SideBend),
			"side_bend_right": pos(-r.SideBend),
			"rotation_left":   pos(r.Rotation),
			"rotation_right":  pos(-r.Rotation),
		}
	}
	for k, v := range m.Share {
		out.Share[k] = r3(v)
	}
	for i, s := range trade.Words(trade.BothSides[:]) {
		l := m.Side[i]
		out.Limbs["hip."+s] = map[string]float64{
			"flexion":   r1(l.HipFlexion),
			"abduction": r1(l.HipAbduction),
			"rotation":  r1(l.HipRotation),
		}
		out.Limbs["knee."+s] = map[string]float64{"flexion": r1(l.KneeFlexion)}
		out.Limbs["shoulder."+s] = map[string]float64{
			"flexion":   r1(l.ShoulderFlexion),
			"elevation": r1(l.ShoulderElevation),
			"rotation":  r1(l.ShoulderRotation),
		}
		out.Limbs["forearm."+s] = map[string]float64{"pronation": r1(l.Pronation)}
		out.Limbs["elbow."+s] = map[string]float64{"flexion": r1(l.ElbowFlexion)}
		out.Limbs["wrist."+s] = map[string]float64{"extension": r1(l.WristExtension)}
	}
	return out
}
