package exchange

import (
	"encoding/json"
	"io"
	"math"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/safety"
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
	Refer   *safety.Referral `json:"refer"`
	Notes   []string         `json:"notes"`
	Results []ScreenResult   `json:"results"`
}

// ScreenResult adds where a lying version lies.
type ScreenResult struct {
	safety.Result
	LyingOn string            `json:"lying_on,omitempty"`
	Because map[string]string `json:"because,omitempty"` // why the other version or a swap keeps the purpose, and what it loses
}

// NewScreen writes a screening as a document.
func NewScreen(s *safety.Screening, cat *catalogue.Catalogue) Screen {
	out := Screen{Format: "restbend.screen/1", Refer: s.Refer, Notes: s.Notes, Results: []ScreenResult{}}
	if out.Notes == nil {
		out.Notes = []string{}
	}
	for _, r := range s.Results {
		v, _ := cat.Version(r.Version)
		res := ScreenResult{Result: r, LyingOn: v.Solved.Phases[0].Measures.LyingOn}
		instead := r.Swaps
		if r.Verdict == safety.Adapt && r.Use != r.Version {
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
	Decisions []progress.Decision `json:"decisions"`
}

// NewNext writes decisions as a document.
func NewNext(d []progress.Decision) Next {
	if d == nil {
		d = []progress.Decision{}
	}
	return Next{"restbend.next/1", d}
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
	Position  string                 `json:"position"`
	Surfaces  []string               `json:"surfaces"`
	Kit       []string               `json:"kit"`
	SideMode  string                 `json:"side_mode"`
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
	Cues      catalogue.Cues         `json:"cues"`
	Feel      []string               `json:"feel"`
	Faults    []string               `json:"faults"`
	Eases     []string               `json:"eases"`
	Stop      []string               `json:"stop"`
	Set       bool                   `json:"set,omitempty"`      // a member of a set, not a rung of its family
	Authored  string                 `json:"authored,omitempty"` // the side the phases describe
	Hours     []int                  `json:"hours,omitempty"`    // of the pelvic clock a pass leads over
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
		d := Version{v.Slug, v.Family, v.Branch, v.Rung, v.Name, list(v.Aliases), v.Aims, v.Position, v.Surfaces, list(v.Kit), v.SideMode, v.SideMeans,
			v.Revision, v.Chain, v.Effort, v.Unit, v.Changes, v.Doses, answer(v.Bed), swap(v.Chair), nil, list(v.Declared), v.Setup, v.Cues, v.Feel, v.Faults, []string{}, v.Stop, v.Set, "", v.Hours}
		if v.SideMode == "each" {
			d.Authored = [2]string{"left", "right"}[v.Authored]
		}
		for i := range v.Eases {
			d.Eases = append(d.Eases, v.Eases[i].Slug)
		}
		for i := range v.Solved.Phases {
			p := phase(&v.Solved.Phases[i], v.Phases[i].Breath)
			p.Held, p.Once = v.Phases[i].Held, v.Phases[i].Once
			d.Phases = append(d.Phases, p)
		}
		out.Versions = append(out.Versions, d)
	}
	return out
}

func phase(p *catalogue.SolvedPhase, breath string) Phase {
	m := &p.Measures
	r1 := func(v float64) float64 { return math.Round(10*v) / 10 }
	r3 := func(v float64) float64 { return math.Round(1000*v) / 1000 }
	out := Phase{Name: p.Name, Breath: breath, Spine: map[string]map[string]float64{}, Share: map[string]float64{}, Limbs: map[string]map[string]float64{},
		Loaded: map[string]bool{"lumbar": m.Lumbar.Loaded, "thoracic": m.Thoracic.Loaded, "neck": m.Neck.Loaded},
		Moment: r3(m.Moment), MomentParts: map[string]float64{"sagittal": r3(m.Sagittal), "frontal": r3(m.Frontal), "axial": r3(m.Axial)},
		Margin: r1(m.Margin), Indeterminate: m.Indeterminate}
	for name, r := range map[string]body.Region{"lumbar": m.Lumbar, "thoracic": m.Thoracic, "neck": m.Neck} {
		pos := func(v float64) float64 { return r1(math.Max(0, v)) }
		out.Spine[name] = map[string]float64{"flexion": pos(r.Flexion), "extension": pos(-r.Flexion), "side_bend_left": pos(r.SideBend), "side_bend_right": pos(-r.SideBend),
			"rotation_left": pos(r.Rotation), "rotation_right": pos(-r.Rotation)}
	}
	for k, v := range m.Share {
		out.Share[k] = r3(v)
	}
	for i, s := range []string{"left", "right"} {
		l := m.Side[i]
		out.Limbs["hip."+s] = map[string]float64{"flexion": r1(l.HipFlexion), "abduction": r1(l.HipAbduction), "rotation": r1(l.HipRotation)}
		out.Limbs["knee."+s] = map[string]float64{"flexion": r1(l.KneeFlexion)}
		out.Limbs["shoulder."+s] = map[string]float64{"flexion": r1(l.ShoulderFlexion), "elevation": r1(l.ShoulderElevation), "rotation": r1(l.ShoulderRotation)}
		out.Limbs["forearm."+s] = map[string]float64{"pronation": r1(l.Pronation)}
		out.Limbs["elbow."+s] = map[string]float64{"flexion": r1(l.ElbowFlexion)}
		out.Limbs["wrist."+s] = map[string]float64{"extension": r1(l.WristExtension)}
	}
	return out
}
