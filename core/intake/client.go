// Package intake is a client as taken in: conditions with their details, red flags, clearances,
// overrides, kit and wishes, as read from documents and as they hold on a day. What follows from
// them for an exercise is decided in core/safety.
package intake

import (
	"encoding/json"
	"slices"

	"go.yaml.in/yaml/v3"

	"restbend/core/trade"
)

// Client is what a verdict depends on. The field names are those of the exchange format;
// dates are days of the calendar.
type Client struct {
	Format      string             `json:"format"`
	Name        string             `json:"name,omitempty"`
	Born        int                `json:"born,omitempty"`
	Sex         string             `json:"sex,omitempty"`
	HeightCM    float64            `json:"height_cm,omitempty"`
	YoungHeight float64            `json:"young_adult_height_cm,omitempty"`
	MassKG      float64            `json:"mass_kg,omitempty"`
	Complaint   string             `json:"complaint,omitempty"`
	Conditions  []Condition        `json:"conditions"`
	Positions   map[string]string  `json:"positions,omitempty"`
	FloorMax    *int               `json:"floor_transfers_max,omitempty"`
	Pain        *Pain              `json:"pain,omitempty"`
	RedFlags    []Flag             `json:"red_flags,omitzero"`
	Clearances  []Clearance        `json:"clearances,omitzero"`
	Kit         []string           `json:"kit,omitzero"`
	Surfaces    []trade.Surface    `json:"surfaces,omitzero"`
	Aims        map[string]float64 `json:"aims,omitempty"`
	Tasks       []string           `json:"tasks,omitzero"`
	Schools     Schools            `json:"schools,omitzero"`
	BreathRate  float64            `json:"breaths_per_minute,omitempty"` // the practice rate
	EffortCap   int                `json:"effort_cap,omitempty"`
	RestS       *int               `json:"rest_s,omitempty"`          // between sets, when the instructor sets it
	OneLegS     float64            `json:"one_leg_stand_s,omitempty"` // best stand on the weaker leg, eyes open
	Today       Today              `json:"today,omitzero"`
	Levels      map[string]string  `json:"levels,omitempty"`
	Activity    string             `json:"activity,omitempty"` // one of Activities, light when not said
	Afraid      bool               `json:"afraid,omitempty"`   // begins one effort lower
	Place       string             `json:"place,omitempty"`    // one of Places; else it follows from what is possible
	Overrides   []Override         `json:"overrides,omitzero"`

	// What changed by the history of the record; it is kept there and no part of the document.
	Changed []Changed `json:"-"`

	// What the instructor writes down and no verdict reads.
	History         string      `json:"history,omitempty"`
	Operations      []Operation `json:"operations,omitzero"`
	Confidence      *int        `json:"confidence,omitempty"` // 0 to 10
	SessionsPerWeek int         `json:"sessions_per_week,omitempty"`
	Consent         *Consent    `json:"consent,omitempty"`
	NextReview      trade.Day   `json:"next_review,omitzero"`
	Notes           string      `json:"notes,omitempty"`
}

// Activities say how much a client has moved in the last months, and Places where the session
// takes place: mostly on the mat, half of it standing and sitting, or upright (domain/07).
var (
	Activities = []string{"inactive", "light", "regular", "trained"}
	Places     = []string{"mat", "mixed", "upright"}
)

// Flag is a red flag with the day it was raised; without one it counts as raised today. As a
// document it is its code, or {"code", "since"}.
type Flag struct {
	Code  string    `json:"code" yaml:"code"`
	Since trade.Day `json:"since,omitzero" yaml:"since"`
}

// MarshalJSON writes a flag without a day as its code.
func (f Flag) MarshalJSON() ([]byte, error) {
	if f.Since.IsZero() {
		return json.Marshal(f.Code)
	}
	type plain Flag
	return json.Marshal(plain(f))
}

// UnmarshalJSON reads a code or {"code", "since"}.
func (f *Flag) UnmarshalJSON(data []byte) error {
	*f = Flag{}
	if len(data) > 0 && data[0] == '"' {
		return json.Unmarshal(data, &f.Code)
	}
	type plain Flag
	return json.Unmarshal(data, (*plain)(f))
}

// UnmarshalYAML reads a code or {code, since}.
func (f *Flag) UnmarshalYAML(n *yaml.Node) error {
	*f = Flag{}
	if n.Kind == yaml.ScalarNode {
		f.Code = n.Value
		return nil
	}
	type plain Flag
	return n.Decode((*plain)(f))
}

// Raised tells whether a red flag is recorded.
func (c *Client) Raised(code string) bool {
	return slices.ContainsFunc(c.RedFlags, func(f Flag) bool { return f.Code == code })
}

// Raise records a red flag of a day; one that was there before, cleared or not, is raised anew.
func (c *Client) Raise(code string, day trade.Day) {
	c.RedFlags = append(
		slices.DeleteFunc(slices.Clone(c.RedFlags), func(f Flag) bool { return f.Code == code }),
		Flag{code, day},
	)
}

// Changed is a day on which the record of a client changed in what exercise depends on.
type Changed struct {
	Day  trade.Day
	What string
}

// Operation is one past operation.
type Operation struct {
	What string    `json:"what"`
	Date trade.Day `json:"date,omitzero"`
}

// Consent to keep these data, with its day.
type Consent struct {
	Date trade.Day `json:"date"`
	Note string    `json:"note,omitempty"`
}

// Condition is one recorded condition with its details: those that rules of their own read, and
// More, every other one by its name in the limits file: a bool, a float64 or a string.
type Condition struct {
	Code         string     `json:"code" yaml:"code"`
	Phase        string     `json:"phase,omitempty" yaml:"phase"`
	Irritability string     `json:"irritability,omitempty" yaml:"irritability"`
	ProvokedBy   []string   `json:"provoked_by,omitempty" yaml:"provoked_by"`
	Side         trade.Side `json:"side,omitempty" yaml:"side"`
	Preference   string     `json:"preference,omitempty" yaml:"preference"`
	School       string     `json:"school,omitempty" yaml:"school"`
	Fracture     *bool      `json:"vertebral_fracture,omitempty" yaml:"vertebral_fracture"`
	FractureDate trade.Day  `json:"fracture_date,omitzero" yaml:"fracture_date"`
	Region       string     `json:"region,omitempty" yaml:"region"`
	Convex       trade.Side `json:"convex,omitempty" yaml:"convex"`
	Degrees      float64    `json:"degrees,omitempty" yaml:"degrees"`
	Progressing  *bool      `json:"progressing,omitempty" yaml:"progressing"`
	Brace        *bool      `json:"brace,omitempty" yaml:"brace"`
	Date         trade.Day  `json:"date,omitzero" yaml:"date"`
	Due          trade.Day  `json:"due,omitzero" yaml:"due"` // of a pregnancy
	Levels       string     `json:"levels,omitempty" yaml:"levels"`
	Grade        int        `json:"grade,omitempty" yaml:"grade"`
	Weeks        int        `json:"weeks,omitempty" yaml:"weeks"`
	Approach     string     `json:"approach,omitempty" yaml:"approach"`
	Controlled   *bool      `json:"controlled,omitempty" yaml:"controlled"`

	More map[string]any `json:"-" yaml:"-"`
}

// Pain on a scale of 0 to 10.
type Pain struct {
	Now       float64   `json:"now"`
	Worst     float64   `json:"worst_24h"`
	StopAbove float64   `json:"stop_above,omitempty"`
	On        trade.Day `json:"on,omitzero"` // the day of Now; without one it counts as today's
}

// Clearance is a clinician's record; it covers named conditions or red flags until a day.
type Clearance struct {
	Date   trade.Day `json:"date"`
	By     string    `json:"by"`
	Covers []string  `json:"covers"`
	Limits string    `json:"limits,omitempty"`
	Until  trade.Day `json:"until,omitzero"` // default six months

	// Forbids is what the words in Limits forbid: slugs of versions, families or aims, picked by
	// the instructor while reading them. Confirmed are the items held against them, once each.
	Forbids   []string    `json:"forbids,omitempty"`
	Confirmed []Confirmed `json:"confirmed,omitempty"`
}

// Confirmed is one exercise held against a clinician's words.
type Confirmed struct {
	Version string    `json:"version"`
	Allowed bool      `json:"allowed"`
	By      string    `json:"by,omitempty"`
	On      trade.Day `json:"on,omitzero"`
}

// Schools are the client's choices where practice differs.
type Schools struct {
	Core      string `json:"core,omitempty"`
	Dose      string `json:"dose,omitempty"`
	Order     string `json:"order,omitempty"`
	SidePlank string `json:"side_plank,omitempty"`
	Sides     string `json:"sides,omitempty"` // of alternating work: alternate each rep, or same-side first
}

// Today is what was checked at the start of the session.
type Today struct {
	Date      trade.Day  `json:"date,omitzero"`
	SIJSide   trade.Side `json:"sij_side,omitempty"`
	TightTurn trade.Side `json:"tight_turn,omitempty"`
	ClockWeak []int      `json:"clock_weak,omitempty"`
}

// Override lifts one leave-out for one client, with a reason, until a day.
type Override struct {
	Version string    `json:"version"`
	Reason  string    `json:"reason"`
	Until   trade.Day `json:"until"`
}

// defaults of the format when kit and surfaces are absent.
var defaultOwned = []string{"mat", "chair", "wall", "towel", "pillow"}

// Owns lists the client's kit and surfaces together.
func (c *Client) Owns() []string {
	if c.Kit == nil && c.Surfaces == nil {
		return defaultOwned
	}
	return append(trade.Words(c.Surfaces), c.Kit...)
}

// Position is the confirmed answer; absent counts as no, standing as held.
func (c *Client) Position(name string) (answer string, confirmed bool) {
	if a, ok := c.Positions[name]; ok && a != "" && a != "unconfirmed" {
		return a, true
	}
	if name == "stand_free" {
		return "held", false
	}
	return "no", false
}

// DoseSchool is the client's dose school: what is recorded, else short holds with back
// pain and repetitions otherwise (common practice).
func (c *Client) DoseSchool() string {
	if c.Schools.Dose != "" {
		return c.Schools.Dose
	}
	for i := range c.Conditions {
		if code := c.Conditions[i].Code; code == "low-back-pain" || code == "disc-sciatica" {
			return "short-holds"
		}
	}
	return "reps"
}

// CoreSchool is how this client switches on the core: neutral with a light brace unless
// recorded; never imprint as a strength posture with bone loss (common practice).
func (c *Client) CoreSchool() string {
	if c.Schools.Core == "imprint" {
		for i := range c.Conditions {
			if code := c.Conditions[i].Code; code == "osteoporosis" || code == "osteopenia" {
				return "neutral"
			}
		}
	}
	if c.Schools.Core == "" {
		return "neutral"
	}
	return c.Schools.Core
}

// Answer is what was said last of a version, nil when nobody held it against the words.
func (cl *Clearance) Answer(slug string) *Confirmed {
	for i := len(cl.Confirmed) - 1; i >= 0; i-- {
		if cl.Confirmed[i].Version == slug {
			return &cl.Confirmed[i]
		}
	}
	return nil
}

// Pregnancy is the condition whose weeks go on counting.
const Pregnancy = "pregnancy"
