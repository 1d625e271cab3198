// Package plan builds one session: which versions, in which order and dose, with every
// second accounted for and a reason per item.
package plan

import (
	"fmt"
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/safety"
)

// Plan is one session; field names are those of the exchange format.
type Plan struct {
	Format   string   `json:"format"`
	Minutes  int      `json:"minutes"`
	Seconds  int      `json:"seconds"`
	Score    float64  `json:"score"`
	Items    []Item   `json:"items"`
	UpS      int      `json:"finish_s"` // getting up at the end
	Checks   []Check  `json:"checks"`
	Dry      []string `json:"dry"`
	Cautions []string `json:"cautions"`
}

// Item is one exercise of a session.
type Item struct {
	Version    string             `json:"version"`
	Revision   int                `json:"revision,omitempty"` // of the entry the plan was made with
	Family     string             `json:"family"`
	Role       string             `json:"role"` // open, main, reset or close
	Position   string             `json:"position"`
	Surface    string             `json:"surface"`
	Side       string             `json:"side"` // none, each, alternate, left or right
	Eases      []string           `json:"eases,omitempty"`
	Kit        []string           `json:"kit,omitempty"` // props to fetch
	Dose       dose.Dose          `json:"dose"`
	Step       int                `json:"step"`
	Start      int                `json:"start"`
	End        int                `json:"end"`
	Transition int                `json:"transition_s"`
	Effort     int                `json:"effort"`
	Aims       map[string]float64 `json:"aims"`
	Why        string             `json:"why"`
	Cues       []string           `json:"cues"`
	Locked     bool               `json:"locked,omitempty"`
}

// Check is one rule of a good session and whether this plan keeps it.
type Check struct {
	Rule   string `json:"rule"`
	OK     bool   `json:"ok"`
	Detail string `json:"detail"`
}

// Request is everything a session is built from.
type Request struct {
	Catalogue *catalogue.Catalogue
	Client    *safety.Client
	Screener  *safety.Screener
	Screening *safety.Screening
	Decisions []progress.Decision
	Last      []string // versions of the last session, in order
	Seen      []string // versions ever done
	Minutes   int
	Cautions  []string
	Locked    []Item
	Banned    []string
}

// A Refused error says why no session can be made.
type Refused struct{ Reason string }

func (e *Refused) Error() string { return e.Reason }

// MinMinutes and MaxMinutes bound a session.
const (
	MinMinutes = 15
	MaxMinutes = 45
)

// defaultAims serve a client who named none (product default).
var defaultAims = map[string]float64{"spinal-mobility": 2, "deep-core": 3, "back-strength": 2, "hip-strength": 2, "balance": 1}

// maxMain is how many strength and control items a session may hold: 6 to half an hour,
// up to 9 at 50 minutes.
func maxMain(minutes int) int {
	if minutes <= 30 {
		return 6
	}
	return min(9, 6+(minutes-25)/8)
}

// aims returns the wanted aims and their weights.
func (r *Request) aims() map[string]float64 {
	if len(r.Client.Aims) == 0 {
		return defaultAims
	}
	return r.Client.Aims
}

// candidate is a version the client may do now, at its dose ladder's allowed steps.
type candidate struct {
	v          *catalogue.Version
	side       string
	eases      []string
	surface    string
	minStep    int
	maxStep    int
	decision   *progress.Decision
	seen       bool
	continuous bool // was in the last session
}

// candidates lists what may be planned: per branch the client's rung only.
func (r *Request) candidates() []candidate {
	byBranch := map[string]*progress.Decision{}
	resting := false
	for i := range r.Decisions {
		d := &r.Decisions[i]
		v, ok := r.Catalogue.Version(d.ToVersion)
		if ok {
			byBranch[branchKey(v)] = d
		}
		resting = resting || d.Decision == progress.Rest
	}
	var out []candidate
	taken := map[string]bool{}
	for _, v := range r.Catalogue.Versions {
		res, ok := r.Screening.Result(v.Slug)
		if !ok || slices.Contains(r.Banned, v.Slug) {
			continue
		}
		c := candidate{v: v, surface: res.Surface, side: v.SideMode, seen: slices.Contains(r.Seen, v.Slug), continuous: slices.Contains(r.Last, v.Slug)}
		switch {
		case res.Verdict == safety.Suits:
		case res.Verdict == safety.Adapt && res.Use == v.Slug:
			c.eases = res.Eases
		case res.Overridden:
		default:
			continue
		}
		if v.SideMode == "each" && res.Sides["left"] != res.Sides["right"] {
			c.side = "left"
			if res.Sides["right"] == safety.Suits || res.Sides["left"] == safety.LeaveOut {
				c.side = "right"
			}
		}
		if limit := r.Client.EffortCap; limit > 0 && v.Effort > limit || resting && v.Effort > 1 {
			continue
		}
		if !r.rung(v, byBranch, taken, &c) {
			continue
		}
		out = append(out, c)
	}
	return out
}

func branchKey(v *catalogue.Version) string {
	if v.Set {
		return v.Slug
	}
	return fmt.Sprintf("%s %d", v.Family, v.Branch)
}

// rung keeps one version per branch: what progress decided, else the recorded level, else
// the lowest rung that may be done.
func (r *Request) rung(v *catalogue.Version, decided map[string]*progress.Decision, taken map[string]bool, c *candidate) bool {
	key := branchKey(v)
	steps, _ := v.Steps(r.Client.Schools.Dose)
	if d := decided[key]; d != nil {
		if d.ToVersion != v.Slug {
			return false
		}
		c.decision, c.minStep, c.maxStep = d, d.Step, d.Step
		return true
	}
	if level := r.Client.Levels[v.Family]; level != "" {
		if w, ok := r.Catalogue.Version(level); ok && w.Family == v.Family && w.Branch == v.Branch {
			if res, ok := r.Screening.Result(level); ok && res.Verdict == safety.Suits && level != v.Slug {
				return false
			}
			if v.Rung > w.Rung {
				return false
			}
		}
	}
	if taken[key] || r.tooEarly(v) {
		return false
	}
	taken[key] = true
	c.maxStep = 0
	if v.Effort <= 2 { // gentle mobility and breath may be longer from the start
		c.maxStep = len(steps) - 1
	}
	return true
}

// firstEffort is the hardest work begun without any history in its family while an
// easier version of it suits (product default): no rung is skipped on a guess.
const firstEffort = 5

func (r *Request) tooEarly(v *catalogue.Version) bool {
	if v.Effort <= firstEffort || r.Client.Levels[v.Family] != "" {
		return false
	}
	easier := false
	for _, w := range r.Catalogue.Versions {
		if w.Family != v.Family {
			continue
		}
		if slices.Contains(r.Seen, w.Slug) {
			return false
		}
		res, ok := r.Screening.Result(w.Slug)
		easier = easier || ok && w.Effort < v.Effort && res.Verdict == safety.Suits
	}
	return easier
}

// doseOf is a candidate's dose at a step, within what the client's limits allow.
func (r *Request) doseOf(c *candidate, step int) dose.Dose {
	d := c.v.Dose(r.Client.Schools.Dose, step)
	if c.decision != nil {
		d = c.decision.Dose
		d.SetupS = catalogue.SetupSeconds
		if c.v.SideMode == "each" {
			d.ChangeS = catalogue.SideChange
		}
		if c.decision.Extra != "" && c.v.SideMode == "each" {
			d.Extra = &dose.Extra{Side: c.decision.Extra, Share: 0.5}
		}
	}
	if !c.seen {
		d.SetupS = catalogue.FirstSetup
	}
	if c.side == "left" || c.side == "right" {
		d.ChangeS = 0
	}
	if limit, _ := r.Screener.HoldCap(); limit > 0 {
		d, _ = d.CapHold(limit, r.Client.BreathRate)
	}
	return d
}

// Sides tells how an item's dose meets the two sides.
func (it *Item) Sides() dose.Sides { return dose.SidesOf(it.Side) }

func (r *Request) item(c *candidate, role string, step int) Item {
	it := Item{Version: c.v.Slug, Revision: c.v.Revision, Family: c.v.Family, Role: role, Position: c.v.Position, Surface: c.surface, Side: c.side, Eases: c.eases, Kit: c.v.Kit,
		Dose: r.doseOf(c, step), Step: step, Effort: c.v.Effort, Cues: []string{c.v.Cues.Out, c.v.Cues.In, c.v.Cues.Image}}
	it.Why = r.why(c, role)
	return it
}

func (r *Request) why(c *candidate, role string) string {
	s := map[string]string{"open": "Opens the session and sets the breath", "close": "Calms down at the end"}[role]
	if role == "main" {
		best := c.v.Aims[0]
		for _, a := range c.v.Aims {
			if r.aims()[a] > r.aims()[best] {
				best = a
			}
		}
		s = "Serves " + best
		if len(r.Client.Tasks) > 0 {
			s += fmt.Sprintf(" for: %s", r.Client.Tasks[0])
		}
	}
	switch {
	case c.decision != nil:
		s += ". " + upperFirst(c.decision.Decision) + ": " + c.decision.Because
	case c.seen:
		s += ". Done before at this rung"
	default:
		s += ". First time: the lowest rung that suits"
	}
	if len(c.eases) > 0 {
		s += ". Eased: " + c.eases[0]
	}
	return s + "."
}

func upperFirst(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]-'a'+'A') + s[1:]
}

// Retime recomputes every start, end and transition of a plan's items in their order,
// and the aims, checks and total; it is used after every change by hand.
func (r *Request) Retime(p *Plan) {
	at := place{"standing", ""}
	if pos, _ := r.Client.Position("stand_free"); pos == "no" {
		at.position = "sitting"
	}
	start := at
	helped := r.Client.Positions["floor"] == "help"
	now := 0
	for i := range p.Items {
		it := &p.Items[i]
		to := place{it.Position, it.Surface}
		it.Transition, _, _ = move(at, to, helped)
		now += it.Transition
		it.Start = now
		now += it.Dose.Seconds(r.Client.BreathRate, it.Sides())
		it.End = now
		it.Aims = r.credit(it)
		at = to
	}
	p.UpS, _, _ = move(at, start, helped)
	if len(p.Items) == 0 {
		p.UpS = 0
	}
	p.Seconds = now + p.UpS
	p.Checks = r.check(p)
	p.Score = math.Round(100*r.score(p)) / 100
	p.Cautions = r.Cautions
	p.Dry = r.dry(p)
}

// credit shares an item's minutes among its aims, the first counting double.
func (r *Request) credit(it *Item) map[string]float64 {
	v, _ := r.Catalogue.Version(it.Version)
	out := map[string]float64{}
	if it.Role == "reset" || v == nil {
		return out
	}
	total := float64(len(v.Aims) + 1)
	minutes := float64(it.End-it.Start) / 60
	for i, a := range v.Aims {
		w := 1.0
		if i == 0 {
			w = 2
		}
		out[a] = math.Round(100*minutes*w/total) / 100
	}
	return out
}

// Served is the minutes each aim got and its target.
func (r *Request) Served(p *Plan) (served, target map[string]float64) {
	served, target = map[string]float64{}, map[string]float64{}
	main := 0.0
	for i := range p.Items {
		for a, m := range p.Items[i].Aims {
			served[a] += m
			if p.Items[i].Role == "main" {
				main += m
			}
		}
	}
	sum := 0.0
	for _, a := range catalogue.Aims {
		sum += r.aims()[a]
	}
	for a, w := range r.aims() {
		if w > 0 && sum > 0 {
			target[a] = math.Max(main, 0.6*float64(r.Minutes)) * w / sum
		}
	}
	return served, target
}

// score is the weighted concave aim credit plus continuity minus transitions: full
// credit to an aim's target minutes, half to one and a half times, none beyond.
func (r *Request) score(p *Plan) float64 {
	served, target := r.Served(p)
	s := 0.0
	for _, a := range catalogue.Aims {
		w, t := r.aims()[a], target[a]
		if t <= 0 {
			continue
		}
		m := served[a]
		s += w * (math.Min(m, t) + 0.5*math.Max(0, math.Min(m, 1.5*t)-t))
	}
	for i := range p.Items {
		it := &p.Items[i]
		s -= 0.02 * float64(it.Transition)
		if slices.Contains(r.Last, it.Version) {
			s += 1.5
		}
	}
	return s - 0.02*float64(p.UpS)
}

func (r *Request) dry(p *Plan) []string {
	out := []string{}
	served, target := r.Served(p)
	for _, a := range catalogue.Aims {
		if t := target[a]; t > 0 && served[a] < 0.5*t {
			out = append(out, fmt.Sprintf("%s: %.1f of %.1f minutes, nothing more that suits at this rung and place", a, served[a], t))
		}
	}
	return out
}
