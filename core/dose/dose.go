// Package dose is the arithmetic of sets, repetitions, holds, breaths and rests: exact
// seconds, line by line.
package dose

// Dose is one prescription. Seconds are whole; a hold is in seconds, breaths or counts.
type Dose struct {
	Sets        int    `yaml:"sets" json:"sets"`
	Reps        int    `yaml:"reps" json:"reps"`
	HoldS       int    `yaml:"hold_s" json:"hold_s,omitempty"`
	HoldBreaths int    `yaml:"hold_breaths" json:"hold_breaths,omitempty"`
	HoldCounts  int    `yaml:"hold_counts" json:"hold_counts,omitempty"`
	Pattern     []int  `yaml:"pattern" json:"pattern,omitempty"` // reps of each set, falling
	MoveS       int    `yaml:"move_s" json:"move_s,omitempty"`   // moving in and out, per rep
	SetupS      int    `yaml:"setup_s" json:"setup_s,omitempty"`
	RestS       int    `yaml:"rest_s" json:"rest_s,omitempty"`     // between sets
	ChangeS     int    `yaml:"change_s" json:"change_s,omitempty"` // between sides
	Extra       *Extra `yaml:"extra" json:"extra,omitempty"`
}

// Extra is more for one side: half as much again on the tighter or weaker side.
type Extra struct {
	Side  string  `yaml:"side" json:"side"`
	Share float64 `yaml:"share" json:"share"`
}
