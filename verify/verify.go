// Package verify checks and scores a session again, from documents alone: the client, the
// catalogue, the screening, the log, the decisions and the plan, as anyone can read them
// (docs/formats). It shares no code with the planner: what both say must agree.
package verify

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"
)

// Documents are what a session is judged by. Log, Next and Template may be empty.
type Documents struct {
	Client, Catalogue, Screen, Log, Next, Template, Plan []byte
	Tasks, Preferences                                   []byte // the files of tasks and preferences, YAML
}

// Report is what was found.
type Report struct {
	Violations []Violation // rules that the plan breaks
	Wishes     []string    // wishes it does not fulfil: time short, a direction missing
	Score      float64
}

// Violation is a broken rule: its name as in the plan's own checks, or, for what no change
// by hand may break either, document, catalogue, refer, banned or dose.
type Violation struct {
	Rule  string `json:"rule"`
	Say   string `json:"say"`
	Items []int  `json:"items,omitempty"` // the places in the list it is about
	// not-allowed, not-yet, think-of or left-over
	Weight string `json:"weight"`
}

func (v Violation) String() string { return v.Rule + ": " + v.Say }

// Always are the rules that hold after any change by hand: only safety and arithmetic.
var Always = []string{
	"document",
	"catalogue",
	"refer",
	"banned",
	"dose",
	"safe",
	"right-side",
	"no-skipped-rung",
	"effort-cap",
	"ways",
}

type client struct {
	Aims       map[string]float64 `json:"aims"`
	Tasks      []string           `json:"tasks"`
	Positions  map[string]string  `json:"positions"`
	FloorMax   *int               `json:"floor_transfers_max"`
	Breaths    float64            `json:"breaths_per_minute"`
	EffortCap  int                `json:"effort_cap"`
	Schools    map[string]string  `json:"schools"`
	Conditions []condition        `json:"conditions"`
	Born       int                `json:"born"`
	Levels     map[string]string  `json:"levels"`
	Today      struct {
		Date string `json:"date"`
	} `json:"today"`
}

type condition struct {
	Code string `json:"code"`
}

type version struct {
	Version   string   `json:"version"`
	Family    string   `json:"family"`
	Branch    int      `json:"branch"`
	Rung      int      `json:"rung"`
	Set       bool     `json:"set"`
	Aims      []string `json:"aims"`
	MainAims  []string `json:"main_aims"`
	InsteadOf string   `json:"instead_of"`
	Position  string   `json:"position"`
	SideMode  string   `json:"side_mode"`
	Authored  string   `json:"authored"`
	Chain     string   `json:"chain"`
	Effort    int      `json:"effort"`
	Phases    []phase  `json:"phases"`

	Eased map[string][]phase `json:"ease_phases"` // as measured with each ease
}

type phase struct {
	Held  bool                          `json:"held"`
	Spine map[string]map[string]float64 `json:"spine"`
	Share map[string]float64            `json:"share"`
	Limbs map[string]map[string]float64 `json:"limbs"`
}

func (v *version) branch() string {
	if v.Set {
		return v.Version
	}
	return fmt.Sprint(v.Family, " ", v.Branch)
}

// logged is one line of the log.
type logged struct {
	Version   string
	Side      string
	Reached   *bool
	Confirmed *bool
	Trial     bool
	Short     bool
	Target    amount
	Done      amount
	Sets      []amount `json:"sets_done"`
	EndedBy   string   `json:"ended_by"`
	Pain      *float64
	Felt      []string
	Fault     []struct{ Corrected bool }
	Seen      []string
	FormLost  *float64 `json:"form_lost_s"`

	SymptomRep *int     `json:"symptom_at_rep"`
	SymptomS   *float64 `json:"symptom_at_s"`
	SymptomSet *int     `json:"symptom_at_set"`
	WarningRep *int     `json:"warning_at_rep"`
	WarningS   *float64 `json:"warning_at_s"`
	WarningSet *int     `json:"warning_at_set"`
}

// amount is what was asked or done.
type amount struct {
	Sets        int
	Reps        int
	HoldS       int `json:"hold_s"`
	HoldBreaths int `json:"hold_breaths"`
}

func (a amount) volume() int { return max(1, a.Sets) * a.Reps * max(1, a.HoldS+a.HoldBreaths) }

// begun tells that the session got there.
func (l logged) begun() bool { return l.Reached == nil || *l.Reached }

// decision is what the log says comes next in a branch.
type decision struct {
	Decision string `json:"decision"`
	To       string `json:"to_version"`
	Dose     dose   `json:"dose"`
	rung     int
}

type result struct {
	Version    string            `json:"version"`
	Verdict    string            `json:"verdict"`
	Use        string            `json:"use"`
	Eases      []string          `json:"eases"`
	Overridden bool              `json:"overridden"`
	Sides      map[string]string `json:"sides"`
	HoldMaxS   int               `json:"hold_max_s"`
}

// caps are what the client's conditions allow of a whole session; nil without a cap.
type caps struct {
	SupineS        *int `json:"supine_s"`
	SittingS       *int `json:"sitting_s"`
	FloorTransfers *int `json:"floor_transfers_max"`
}

type dose struct {
	Sets        int     `json:"sets"`
	Reps        int     `json:"reps"`
	HoldS       int     `json:"hold_s"`
	HoldBreaths int     `json:"hold_breaths"`
	HoldCounts  int     `json:"hold_counts"`
	WindowS     int     `json:"window_s"`
	Pattern     []int   `json:"pattern"`
	Hours       []int   `json:"hours"`
	By          string  `json:"by"`
	Rate        float64 `json:"rate"`
	MoveS       int     `json:"move_s"`
	SetupS      int     `json:"setup_s"`
	RestS       int     `json:"rest_s"`
	ChangeS     int     `json:"change_s"`
	Extra       *struct {
		Side  string  `json:"side"`
		Share float64 `json:"share"`
	} `json:"extra"`
}

type item struct {
	Version    string   `json:"version"`
	Role       string   `json:"role"`
	Position   string   `json:"position"`
	Surface    string   `json:"surface"`
	Side       string   `json:"side"`
	Eases      []string `json:"eases"`
	EasedSide  string   `json:"eased_side"` // where only that side is eased
	Dose       dose     `json:"dose"`
	Layers     []string `json:"layers"`
	Left       *dose    `json:"dose_left"` // the sides dosed apart
	Right      *dose    `json:"dose_right"`
	Length     string   `json:"length"`
	Start      int      `json:"start"`
	End        int      `json:"end"`
	Transition int      `json:"transition_s"`
	Block      int      `json:"side_block"`
	TurnS      int      `json:"turn_s"`
	Effort     int      `json:"effort"`
	ByHand     bool     `json:"by_hand"`
	Locked     bool     `json:"locked"`
	Trial      bool     `json:"trial"`
}

type session struct {
	Rules       int      `json:"rules"`
	Doses       string   `json:"doses"`
	Minutes     int      `json:"minutes"`
	Seconds     int      `json:"seconds"`
	Score       float64  `json:"score"`
	Finish      int      `json:"finish_s"`
	Place       string   `json:"place"`
	Skill       string   `json:"skill"`
	Character   string   `json:"character"`
	AllowNew    int      `json:"allow_new"`
	Items       []item   `json:"items"`
	Banned      []string `json:"banned"`
	Composition []struct {
		Name   string  `json:"name"`
		Least  float64 `json:"least"`
		Have   float64 `json:"have"`
		Points float64 `json:"points"`
	} `json:"composition"`
	Directions []struct {
		Name      string  `json:"name"`
		Allowed   float64 `json:"allowed"`
		Visited   bool    `json:"visited"`
		Reachable bool    `json:"reachable"`
		Exempt    bool    `json:"exempt"`
	} `json:"directions"`
}

type template struct {
	Order     string             `json:"order"`
	Positions []string           `json:"positions"`
	EffortCap int                `json:"effort_cap"`
	MaxStrong int                `json:"most_strong"`
	Aims      map[string]float64 `json:"aims"`
	Needs     []struct {
		Families []string `json:"families"`
		Aims     []string `json:"aims"`
		Least    int      `json:"least"`
		Else     []string `json:"else"`
	} `json:"needs"`
	Prepare []string `json:"prepare"`
	Finish  []string `json:"finish"`
	Natural bool     `json:"natural"`
	Own     bool     `json:"own_content"`
	Desk    bool     `json:"desk"`
	Day     bool     `json:"day"`
	Week    bool     `json:"first_week"`
	Routine bool     `json:"routine"`
	Breaths float64  `json:"breaths"`
	Rising  bool     `json:"rising"`
	Lesson  bool     `json:"skill"`
	Whole   []string `json:"whole"`
	Parts   *struct {
		Mobility [2]int `json:"mobility"`
		Main     [2]int `json:"main"`
	} `json:"parts"`
}

type task struct {
	Name    string   `yaml:"name"`
	Chain   string   `yaml:"chain"`
	Upright bool     `yaml:"upright"`
	Base    string   `yaml:"base"`
	Aims    []string `yaml:"aims"`
	Still   bool     `yaml:"still"`

	Propose map[string]float64 `yaml:"propose"`
}

// judge holds everything that was read.
type judge struct {
	client   client
	plan     session
	template template
	versions map[string]*version
	results  map[string]*result
	refer    bool
	acute    bool     // the limits of an acute back pain hold
	asIf     []string // conditions that shape the session, recorded or not
	caps     caps
	ways     ways
	tasks    []task
	seen     map[string]bool     // branches ever done
	last     map[string]bool     // branches of the last session
	known    int                 // branches ever done
	done     []*version          // versions ever done
	decided  map[string]decision // by branch
	sessions []past
	year     int // of today

	preferences preferences
	rest        bool // a day of rest
	stopped     bool // something holds for the whole client since the last session
	week        bool // the first week of a kind that begins with its fixed parts
	out         Report
}

// Session checks a plan and scores it again.
func Session(d Documents) (Report, error) {
	j := &judge{
		versions: map[string]*version{},
		results:  map[string]*result{},
		seen:     map[string]bool{},
		last:     map[string]bool{},
		decided:  map[string]decision{},
	}
	if err := j.read(d); err != nil {
		return Report{}, err
	}
	j.times()
	j.safety()
	j.order()
	j.numbers()
	j.rises()
	j.unbroken("supine-block", "on the back", j.caps.SupineS, func(it *item) bool { return it.Position == "supine" })
	j.unbroken("sitting-block", "in sitting", j.caps.SittingS, func(it *item) bool { return it.Position == "sitting" })
	j.needs()
	j.out.Score = j.score()
	return j.out, nil
}

func (j *judge) read(d Documents) error {
	var cat struct{ Versions []*version }
	var screen struct {
		Refer   any
		Acute   bool
		AsIf    []string `json:"as_if"`
		Caps    caps
		Way     ways
		Results []*result
	}
	var log struct{ Sessions []past }
	var next struct {
		Client    *decision
		Decisions []decision
	}
	for _, doc := range []struct {
		name string
		data []byte
		into any
	}{
		{"client", d.Client, &j.client},
		{"catalogue", d.Catalogue, &cat},
		{"screen", d.Screen, &screen},
		{"log", d.Log, &log},
		{"next", d.Next, &next},
		{"template", d.Template, &j.template},
		{"plan", d.Plan, &j.plan},
	} {
		if len(doc.data) == 0 {
			continue
		}
		if err := json.Unmarshal(doc.data, doc.into); err != nil {
			return fmt.Errorf("%s: %w", doc.name, err)
		}
	}
	if err := yaml.Unmarshal(d.Tasks, &j.tasks); err != nil {
		return fmt.Errorf("tasks: %w", err)
	}
	if err := yaml.Unmarshal(d.Preferences, &j.preferences); err != nil {
		return fmt.Errorf("preferences: %w", err)
	}
	if date := j.client.Today.Date; len(date) >= 4 {
		j.year, _ = strconv.Atoi(date[:4])
	}
	j.acute, j.asIf = screen.Acute, screen.AsIf
	j.refer, j.caps, j.ways = screen.Refer != nil, screen.Caps, screen.Way
	for _, v := range cat.Versions {
		j.versions[v.Version] = v
	}
	for _, r := range screen.Results {
		j.results[r.Version] = r
	}
	j.practised(log.Sessions)
	j.sessions = log.Sessions
	j.rest = next.Client != nil && next.Client.Decision == "rest"
	j.stopped = next.Client != nil
	for _, n := range next.Decisions {
		j.rest = j.rest || n.Decision == "rest"
		if v := j.versions[n.To]; v != nil {
			n.rung = v.Rung
			j.decided[v.branch()] = n
		}
	}
	if j.client.Breaths == 0 {
		j.client.Breaths = 12
	}
	return nil
}

// past is a session of the log.
type past struct {
	Date   string
	Doses  string
	Items  []logged
	Follow struct {
		Effect   string
		Settled  *float64 `json:"settled_h"`
		Soreness *float64
		Kind     string
	} `json:"follow_up"`
	Sore struct {
		Kind    string
		Settled float64 `json:"settled_h"`
	} `json:"soreness"`
	Checks struct {
		Memory *bool `json:"from_memory"`
	}
}

// practised reads from the log what was done, what was done last, and whether a kind that is learned is
// still at its first week.
func (j *judge) practised(sessions []past) {
	date, prepared, first := "", 0, j.client.Today.Date
	var memory *bool
	for _, s := range sessions {
		if slices.ContainsFunc(
			s.Items,
			func(it logged) bool { return it.begun() && slices.Contains(j.template.Prepare, it.Version) },
		) {
			prepared, first = prepared+1, min(first, s.Date)
			if s.Checks.Memory != nil {
				memory = s.Checks.Memory
			}
		}
		if s.Date >= date {
			date, j.last = s.Date, map[string]bool{}
		}
		for _, it := range s.Items {
			if v := j.versions[it.Version]; v != nil && it.begun() {
				if !j.seen[v.branch()] {
					j.known++
				}
				j.seen[v.branch()] = true
				j.done = append(j.done, v)
				if s.Date == date {
					j.last[v.branch()] = true
				}
			}
		}
	}
	known := prepared >= 2
	if memory != nil {
		known = *memory
	}
	j.week = j.template.Week && (!known || days(first, j.client.Today.Date) < 7)
}

// days is how many days lie between two dates.
func days(from, to string) int {
	a, errA := time.Parse(time.DateOnly, from)
	b, errB := time.Parse(time.DateOnly, to)
	if errA != nil || errB != nil {
		return 0
	}
	return int(b.Sub(a).Hours() / 24)
}

func (j *judge) violation(rule, format string, a ...any) {
	v := Violation{Rule: rule, Say: fmt.Sprintf(format, a...), Weight: j.weight(rule)}
	if i, ok := first(a).(int); ok && strings.HasPrefix(format, "item %d") {
		v.Items = []int{i}
	}
	j.out.Violations = append(j.out.Violations, v)
}

func first(a []any) any {
	if len(a) == 0 {
		return nil
	}
	return a[0]
}

func (j *judge) wish(format string, a ...any) {
	j.out.Wishes = append(j.out.Wishes, fmt.Sprintf(format, a...))
}

// The table of transitions (docs/planner.md), seconds: from each lying posture to hands
// and knees, and between the postures of one ground.
var toKnees = map[string]int{"supine": 25, "side": 15, "prone": 12}

// safety: nothing that does not suit, no wrong side, both sides, no rung above the decided.
func (j *judge) safety() {
	if j.refer {
		j.violation("refer", "a clinician comes first")
	}
	for i := range j.plan.Items {
		it := &j.plan.Items[i]
		v, r := j.versions[it.Version], j.results[it.Version]
		if v == nil || r == nil {
			j.violation("catalogue", "item %d: %s is not in the catalogue", i, it.Version)
			continue
		}
		if !it.suits(r) {
			j.violation("safe", "item %d: %s is %s", i, it.Version, r.Verdict)
		}
		for n, layer := range it.Layers {
			if !j.layers(it, v, n, layer) {
				j.violation("safe", "item %d: %s cannot be layer %d of %s", i, layer, n+1, it.Version)
			}
		}
		j.sides(i, it, v, r)
		d, known := j.decided[v.branch()]
		if most := d.rung + tried(d.Decision); known && !v.Set && v.Rung > most {
			j.violation("no-skipped-rung", "item %d: %s is above the decided rung", i, it.Version)
		}
		if slices.Contains(j.plan.Banned, it.Version) {
			j.violation("banned", "item %d: %s was taken out", i, it.Version)
		}
		j.doses(i, it, v, &d)
		if known && d.To == it.Version && (d.Decision == "up" || d.Decision == "stay") {
			j.neverLess(i, it, v)
		}
		if it.Effort != v.Effort || it.Position != v.Position {
			j.violation("catalogue", "item %d: %s is not as in the catalogue", i, it.Version)
		}
	}
}

// layers tells whether a version can be the nth layer of an item: a rung of its branch, in its position,
// that suits on every side the item works.
func (j *judge) layers(it *item, v *version, n int, layer string) bool {
	w, res := j.versions[layer], j.results[layer]
	if w == nil || res == nil {
		return false
	}
	if n == 0 {
		return layer == it.Version
	}
	for _, side := range []string{"left", "right"} {
		if res.Sides[side] == "leave-out" && it.works(side) {
			return false
		}
	}
	return res.Verdict == "suits" && w.branch() == v.branch() && w.Rung == v.Rung+n && w.Position == it.Position
}

// suits tells whether the screening lets an item be taught with its eases.
func (it *item) suits(r *result) bool {
	switch r.Verdict {
	case "suits":
		return true
	case "leave-out":
		return r.Overridden
	case "adapt":
		return r.Use == it.Version && len(it.Eases) == 1 && slices.Contains(r.Eases, it.Eases[0])
	}
	return false
}

// eased tells whether a side of an item is done with its ease.
func (it *item) eased(side string) bool {
	return len(it.Eases) > 0 && (it.EasedSide == "" || it.EasedSide == side)
}

// works tells whether an item works a side.
func (it *item) works(side string) bool {
	return it.Side == side || it.Side == "each" || it.Side == "alternate"
}

// sides: no side that is left out, none without its ease, none forgotten.
func (j *judge) sides(i int, it *item, v *version, r *result) {
	for side, verdict := range r.Sides {
		switch {
		case !it.works(side):
		case verdict == "adapt" && !it.eased(side):
			j.violation("right-side", "item %d: %s works the %s without its ease", i, it.Version, side)
		case verdict == "leave-out" && !r.Overridden:
			j.violation("right-side", "item %d: %s works the %s, which is left out", i, it.Version, side)
		}
	}
	if v.SideMode != "none" && (it.Side == "left" || it.Side == "right") && r.Sides["left"] == r.Sides["right"] {
		j.violation("both-sides", "item %d: %s forgets a side", i, it.Version)
	}
}

// tried is how many rungs above the decided one an instructor may try: the next, once, when
// the log says stay.
func tried(decision string) int {
	if decision == "stay" {
		return 1
	}
	return 0
}

// counted are the items that rules count: no resets.
func (j *judge) counted() (out []*item) {
	for i := range j.plan.Items {
		if j.plan.Items[i].Role != "reset" {
			out = append(out, &j.plan.Items[i])
		}
	}
	return out
}

func (it *item) spot() spot { return spotOf(it.Position, it.Surface) }

func (j *judge) standingFirst() bool {
	order := j.client.Schools["order"]
	if j.template.Order != "" {
		order = j.template.Order
	}
	if order == "" && j.has("postnatal", "pelvic-floor") { // prefer lying first
		order = "lying-first"
	}
	if order == "" && j.client.Positions["stand_free"] == "yes" {
		if slices.Contains(j.asIf, "osteoporosis") || slices.Contains(j.asIf, "falls-risk") {
			order = "standing-first"
		}
	}
	return order == "standing-first"
}

var lists = map[bool][]string{
	false: {"supine", "side", "prone", "all-fours", "kneeling", "half-kneeling", "long-sitting", "sitting", "standing"},
	true:  {"standing", "all-fours", "kneeling", "half-kneeling", "prone", "side", "supine", "long-sitting", "sitting"},
}

// order: opener, closer, each posture once, effort rising, the parts in order, the hardest
// item between 40 and 85 %.
func (j *judge) order() {
	items := j.counted()
	n := len(items)
	shortDay := j.template.Day && j.plan.Minutes <= 15 || j.template.Routine
	if n == 0 || j.plan.Items[0].Role != "open" && j.plan.Minutes > 7 && !shortDay ||
		j.plan.Items[len(j.plan.Items)-1].Role != "close" && j.plan.Minutes > 5 && !shortDay {
		j.violation("opener-closer", "an opener and a closer are needed")
	}
	if n == 0 {
		return
	}
	been := map[string]bool{}
	rank, list := -1, lists[j.standingFirst()]
	var before *item
	for _, it := range items {
		if it.Role != "main" {
			continue
		}
		switch {
		case before != nil && it.spot() != before.spot():
			if been[it.Position] {
				j.violation("positions-once", "%s returns to %s", it.Version, it.Position)
			}
		case before != nil && it.Effort < before.Effort:
			j.violation("effort-rises", "effort falls at %s", it.Version)
		}
		been[it.Position] = true
		before = it
	}
	for _, it := range items {
		if it.Role != "main" {
			continue
		}
		p := slices.Index(list, it.Position)
		if p < rank {
			j.violation("order", "%s comes after a later part of the session", it.Version)
		}
		rank = max(rank, p)
	}
	j.hardest(items)
}

// hardest: the hardest item lies between 40 and 85 %; standing first, the hardest standing item closes
// the standing part; some kinds go easiest first, and some have a content of their own.
func (j *judge) hardest(items []*item) {
	top, ok, last, standing, before := 0, false, 0, 0, 0
	for _, it := range items {
		top = max(top, it.Effort)
		if it.Role != "main" {
			continue
		}
		if it.Position == "standing" {
			last, standing = it.Effort, max(standing, it.Effort)
		}
		if j.template.Rising && !j.standingFirst() && it.Effort < before {
			j.violation("easiest-first", "%s is easier than what came before", it.Version)
		}
		before = max(before, it.Effort)
	}
	switch {
	case j.standingFirst():
		if last < standing {
			j.violation("hardest-place", "the hardest standing exercise does not close the standing part")
		}
		return
	case j.template.Rising, j.template.Own && j.template.Natural:
		return
	}
	for i, it := range items {
		at := (float64(i) + 0.5) / float64(len(items))
		ok = ok || it.Effort == top && at >= 0.40-1e-9 && at <= 0.85+1e-9
	}
	if top > 2 && !ok {
		j.violation("hardest-place", "no item of effort %d lies between 40 and 85 %% of the list", top)
	}
}

// effortCap is the hardest that may be planned today, 0 without a cap.
func (j *judge) effortCap() int {
	most := j.client.EffortCap
	if t := j.template.EffortCap; t > 0 && (most == 0 || t < most) {
		most = t
	}
	if j.rest {
		most = 1
	}
	return most
}

// numbers: branches, families, strong and new items, efforts.
func (j *judge) numbers() {
	branch, family := map[string]int{}, map[string]int{}
	parts, fresh := map[string]int{}, 0
	effortCap := j.effortCap()
	for i := range j.plan.Items {
		it := &j.plan.Items[i]
		v := j.versions[it.Version]
		if v == nil || it.Role == "reset" {
			continue
		}
		fixed := j.fixed(v)
		if lesson := j.template.Lesson && v.Family == j.plan.Skill || j.template.Routine; !lesson {
			if branch[v.branch()]++; branch[v.branch()] > 1 {
				j.violation("families", "%s: its branch comes twice", it.Version)
			}
			if !slices.Contains(j.template.Whole, v.Family) && !fixed {
				if family[v.Family]++; family[v.Family] > 2 {
					j.violation("families", "%s: its family comes more than twice", it.Version)
				}
			}
		}
		if it.Role == "main" && !fixed {
			parts[v.part()]++
		}
		if len(j.seen) > 0 && !j.seen[v.branch()] && !fixed {
			fresh++
		}
		if effortCap > 0 && it.Effort > effortCap {
			j.violation("effort-cap", "%s: effort %d, cap %d", it.Version, it.Effort, effortCap)
		}
	}
	mobility, main := j.most()
	if parts["main"] > main {
		j.violation("main-count", "%d exercises in the main part, at most %d", parts["main"], main)
	}
	if parts["mobility"] > mobility {
		j.violation("mobility-count", "%d exercises of mobility, at most %d", parts["mobility"], mobility)
	}
	mostNew := max(2, 8-j.known, j.plan.AllowNew)
	for _, n := range j.template.Needs {
		mostNew += n.Least
	}
	mostNew += j.unknownSides()
	if fresh > mostNew {
		j.violation("new-items", "%d new items, at most %d", fresh, mostNew)
	}
}

// rises from the floor: no more than the client and the screening allow.
func (j *judge) rises() {
	rises, at := 0, j.home()
	for i := range j.plan.Items {
		if j.plan.Items[i].Role == "reset" {
			continue
		}
		if at.ground == "floor" && j.plan.Items[i].spot().ground != "floor" {
			rises++
		}
		at = j.plan.Items[i].spot()
	}
	if at.ground == "floor" {
		rises++
	}
	limit := 3
	switch {
	case j.client.FloorMax != nil:
		limit = *j.client.FloorMax
	case j.client.Positions["floor"] == "help":
		limit = 1
	}
	if most := j.caps.FloorTransfers; most != nil {
		limit = min(limit, *most)
	}
	if rises > limit {
		j.violation("floor-transfers", "%d rises from the floor, at most %d", rises, limit)
	}
}

// needs: what the kind of session asks for. That too little of it suits is no violation.
func (j *judge) needs() {
	for _, need := range j.template.Needs {
		takes := func(slug string) bool {
			v := j.versions[slug]
			return v != nil &&
				(slices.Contains(need.Families, v.Family) || len(v.Aims) > 0 && slices.Contains(need.Aims, v.Aims[0]))
		}
		have := 0
		for _, it := range j.counted() {
			if takes(it.Version) {
				have++
			}
		}
		if have < need.Least {
			j.wish("%d of what the kind of session asks for, at least %d", have, need.Least)
		}
	}
}
