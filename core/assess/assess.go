// Package assess holds test results against published values, raises flags and proposes
// what a client's limits should take from them.
package assess

import (
	"bytes"
	"fmt"

	"go.yaml.in/yaml/v3"

	"restbend/core/trade"
)

// Results is one day of tests; the field names are those of the exchange format. Absent
// tests were not done.
type Results struct {
	Format string    `json:"format"`
	Date   trade.Day `json:"date"`
	Tests  Tests     `json:"results"`
}

// Tests are the raw results: seconds to first loss of form, counts, degrees, centimetres.
type Tests struct {
	HoldExtensor  *float64       `json:"hold_extensor_s,omitempty"`
	HoldFlexor    *float64       `json:"hold_flexor_s,omitempty"`
	HoldRight     *float64       `json:"hold_side_right_s,omitempty"`
	HoldLeft      *float64       `json:"hold_side_left_s,omitempty"`
	HoldFront     *float64       `json:"hold_front_s,omitempty"`
	ChairRises    *float64       `json:"chair_rises_30s,omitempty"`
	ChairArms     bool           `json:"chair_rises_with_arms,omitempty"` // using the arms scores 0
	FeetTogether  *float64       `json:"feet_together_s,omitempty"`
	SemiTandem    *float64       `json:"semi_tandem_s,omitempty"`
	Tandem        *float64       `json:"tandem_s,omitempty"`
	UpAndGo       *float64       `json:"up_and_go_s,omitempty"`
	OneLegRight   []float64      `json:"one_leg_right_s,omitempty"`
	OneLegLeft    []float64      `json:"one_leg_left_s,omitempty"`
	Height        *float64       `json:"height_cm,omitempty"`
	HeightLast    *float64       `json:"height_last_cm,omitempty"`
	HeadWall      *float64       `json:"head_wall_cm,omitempty"`
	RibPelvis     *float64       `json:"rib_pelvis_fingers,omitempty"`
	TrunkRotation *Sides         `json:"trunk_rotation_deg,omitempty"`
	Turn          *Sides         `json:"turn_deg,omitempty"`
	SideBend      *Sides         `json:"side_bend_cm,omitempty"`
	Clock         map[string]int `json:"clock,omitempty"` // hour to 0 smooth, 1 uneven, 2 cannot
	SIJSide       trade.Side     `json:"sij_side,omitempty"`
	Pain          *Pain          `json:"pain,omitempty"`
	Activities    []Activity     `json:"activities,omitempty"`
	Breaths30     []float64      `json:"breaths_30s,omitempty"`
}

// Sides is a left and a right value; either may be missing.
type Sides struct {
	Left  *float64 `json:"left,omitempty"`
	Right *float64 `json:"right,omitempty"`
}

// Pain now, best and worst in 24 hours, 0 to 10.
type Pain struct {
	Now   float64 `json:"now"`
	Best  float64 `json:"best"`
	Worst float64 `json:"worst"`
}

// Activity is one of the client's own activities, 0 cannot to 10 as before.
type Activity struct {
	Name  string  `json:"name"`
	Score float64 `json:"score"`
}

// Flags of an item.
const (
	OK    = "ok"
	Watch = "watch"
	Refer = "refer"
	Info  = "info"
)

// Item is one result beside its reference.
type Item struct {
	Test      string  `json:"test"`
	Value     float64 `json:"value"`
	Unit      string  `json:"unit"`
	Reference string  `json:"reference"`
	Source    string  `json:"source"`
	Flag      string  `json:"flag"`
	Say       string  `json:"say"`
}

// Sets is what the results propose for the client.
type Sets struct {
	FallsRisk *bool      `json:"falls-risk,omitempty"` // nil when no balance test was done
	TightTurn trade.Side `json:"tight_turn,omitempty"`
	ClockWeak []int      `json:"clock_weak,omitempty"`
	SIJSide   trade.Side `json:"sij_side,omitempty"`
	Breaths   float64    `json:"breaths_per_minute,omitempty"` // a proposal: the practice rate stays the instructor's
	OneLegS   float64    `json:"one_leg_stand_s,omitempty"`
	HeightCM  float64    `json:"height_cm,omitempty"`
}

// Assessment is a restbend.assess/1 document.
type Assessment struct {
	Format string `json:"format"`
	Items  []Item `json:"items"`
	Sets   Sets   `json:"sets"`
}

type agedGroup struct {
	From, To, Male, Female int
	Best, Mean             float64
}

type cutOff struct {
	Source  string
	Seconds float64
}

// Norms are the reference values.
type Norms struct {
	Holds struct {
		Source       string
		Male, Female map[string][2]float64
	}
	Ratios struct {
		Source         string
		FlexorExtensor float64 `yaml:"flexor_extensor_above"`
		SideLow        float64 `yaml:"side_low"`
		SideHigh       float64 `yaml:"side_high"`
		SideExtensor   float64 `yaml:"side_extensor_above"`
	}
	ChairRises struct {
		Source string
		Groups []agedGroup
	} `yaml:"chair_rises"`
	OneLeg struct {
		Source string
		Cap    float64
		Groups []agedGroup
	} `yaml:"one_leg"`
	Balance    cutOff
	UpAndGo    cutOff `yaml:"up_and_go"`
	HeightLoss struct {
		Source string
		Young  float64 `yaml:"young_cm"`
		Last   float64 `yaml:"last_cm"`
	} `yaml:"height_loss"`
	WallGap struct {
		Source  string
		Fingers float64
	} `yaml:"wall_gap"`
	TrunkRotation struct {
		Source         string
		Refer, Earlier float64
	} `yaml:"trunk_rotation"`
	Turn struct {
		Source      string
		Degrees, CM float64
	}
}

// ParseNorms reads the reference values.
func ParseNorms(data []byte) (*Norms, error) {
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	n := &Norms{}
	if err := d.Decode(n); err != nil {
		return nil, fmt.Errorf("norms.yaml: %w", err)
	}
	return n, nil
}
