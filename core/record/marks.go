// Package record replays a session: its score and the marks made while it ran, and afterwards, become the
// log session that every decision rests on. The same score and marks always give the same session.
package record

import (
	"encoding/json"
	"time"

	"restbend/core/progress"
	"restbend/core/trade"
)

// Format names the document of marks.
const Format = "restbend.marks/1"

// Marks is what was pressed and said in a session, in any order.
type Marks struct {
	Format string    `json:"format"`
	Date   trade.Day `json:"date"`
	Marks  []Mark    `json:"marks"`
}

// Mark is one thing pressed or said. Pos, the second of the score, decides; wall time orders and audits. To,
// From and Value are read as their kind has them.
type Mark struct {
	Key    string     `json:"key"`
	Device string     `json:"device,omitempty"`
	By     string     `json:"by,omitempty"`
	At     time.Time  `json:"at,omitzero"`
	Rev    int        `json:"rev,omitempty"`
	Pos    float64    `json:"pos"`
	Kind   string     `json:"kind"`
	Item   *int       `json:"item,omitempty"`
	Side   trade.Side `json:"side,omitempty"`
	Set    int        `json:"set,omitempty"`
	Rep    int        `json:"rep,omitempty"`
	Member string     `json:"member,omitempty"`

	Pain      *float64         `json:"pain,omitempty"`
	Clear     bool             `json:"clear,omitempty"`
	On        bool             `json:"on,omitempty"`
	Mode      string           `json:"mode,omitempty"`
	Unit      string           `json:"unit,omitempty"`
	From      json.RawMessage  `json:"from,omitempty"`
	To        json.RawMessage  `json:"to,omitempty"`
	Why       string           `json:"why,omitempty"`
	Because   string           `json:"because,omitempty"`
	Load      *progress.Load   `json:"load,omitempty"`
	How       string           `json:"how,omitempty"`
	Done      *progress.Amount `json:"done,omitempty"`
	Clean     bool             `json:"clean,omitempty"`
	S         float64          `json:"s,omitempty"`
	Fault     string           `json:"fault,omitempty"`
	Of        string           `json:"of,omitempty"`
	Where     string           `json:"where,omitempty"`
	Travels   bool             `json:"travels,omitempty"`
	Numb      bool             `json:"numb_or_weak,omitempty"`
	Dizzy     bool             `json:"dizzy,omitempty"`
	Chest     bool             `json:"chest,omitempty"`
	Felt      Words            `json:"felt,omitempty"`
	Value     json.RawMessage  `json:"value,omitempty"`
	What      string           `json:"what,omitempty"`
	Score     int              `json:"score,omitempty"`
	Say       string           `json:"say,omitempty"`
	Check     string           `json:"check,omitempty"`
	PerMinute float64          `json:"per_minute,omitempty"`
	Text      string           `json:"text,omitempty"`
	Codes     []string         `json:"codes,omitempty"`
	Field     string           `json:"field,omitempty"`

	FollowUp *progress.FollowUp `json:"follow_up,omitempty"`
}

// Words are some words, or one.
type Words []string

// UnmarshalJSON reads a list of words or one word.
func (w *Words) UnmarshalJSON(data []byte) error {
	*w = nil
	if len(data) > 0 && data[0] == '"' {
		*w = Words{""}
		return json.Unmarshal(data, &(*w)[0])
	}
	return json.Unmarshal(data, (*[]string)(w))
}

// Kinds of marks.
const (
	Start    = "start"
	Go       = "go"
	Here     = "here" // somebody is there, and leads
	Tap      = "tap"
	Pause    = "pause"
	Resume   = "resume"
	Talk     = "talk"
	Break    = "break"
	Mode     = "mode"
	Unseen   = "unseen"
	Seek     = "seek"
	Load     = "load"
	Helped   = "helped"
	Set      = "set"
	Layer    = "layer"
	Setting  = "setting"
	Form     = "form"
	Fault    = "fault"
	Warning  = "warning"
	Symptom  = "symptom"
	Felt     = "felt"
	Compare  = "compare"
	Changed  = "changed"
	Change   = "change"
	Check    = "check"
	Breaths  = "breaths"
	Note     = "note"
	Flag     = "flag"
	Undo     = "undo"
	End      = "end"
	Correct  = "correct"
	FollowUp = "follow_up"
)

// Kinds lists them.
var Kinds = []string{
	Start,
	Go,
	Here,
	Tap,
	Pause,
	Resume,
	Talk,
	Break,
	Mode,
	Unseen,
	Seek,
	Load,
	Helped,
	Set,
	Layer,
	Setting,
	Form,
	Fault,
	Warning,
	Symptom,
	Felt,
	Compare,
	Changed,
	Change,
	Check,
	Breaths,
	Note,
	Flag,
	Undo,
	End,
	Correct,
	FollowUp,
}

// Late are the kinds accepted after a session was closed.
var Late = []string{Correct, Note, FollowUp}

// Changes are what a change on the spot can be.
var Changes = []string{
	"ease",
	"down",
	"place",
	"swap",
	"other-side",
	"add",
	"repeat",
	"more",
	"later",
	"next",
	"drop",
	"leave",
	"trial",
	"skip",
	"dose",
	"minute",
}

// Help are the ways an instructor helps.
var Help = []string{"guided", "held", "anchored"}
