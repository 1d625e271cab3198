package pose

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"restbend/core/body"
)

// Said is something the words of an exercise promise of a pose and its author therefore
// states. Kind is:
//
//	plumb, level   the trunk, from the hips to the neck
//	even           the pelvis from side to side
//	apart          hands or feet: Value is their distance, m, where it is wider than usual
//	out            What is one hand, elbow, knee or foot down alone: how far it is out to its
//	               side, m, where it is wider than usual
//	cross          ankles may cross
//	roll           What is a foot that stands on its edge: Value, radians
//	carries        What is a contact that carries at least Value of body weight
type Said struct {
	Kind  string
	What  string // foot.left, hands, ...
	Value float64
}

// posture tells whether a relation is about how a whole pose stands.
func (r Relation) posture() bool { return r.Kind == "plumb" || r.Kind == "level" || r.Kind == "flat" }

func (q Said) mirror() Said { return Said{q.Kind, body.MirrorName(q.What), q.Value} }

// promise keeps what the words of an exercise say of the pose.
func (s *Spec) promise(kind, what string, v float64) { s.Said = append(s.Said, Said{kind, what, v}) }

func (s *Spec) readPelvis(_ string, args []string) error {
	if len(args) != 1 || args[0] != "level" {
		return fmt.Errorf("the pelvis is level: pelvis level")
	}
	s.Relations = append(s.Relations, Relation{Kind: "flat", Args: []string{"pelvis"}})
	s.promise("even", "pelvis", 0)
	return nil
}

func (s *Spec) readTrunk(_ string, args []string) error {
	if len(args) != 1 || args[0] != "plumb" && args[0] != "level" {
		return fmt.Errorf("the trunk is plumb or level")
	}
	s.Relations = append(s.Relations, Relation{Kind: args[0]})
	s.promise(args[0], "trunk", 0)
	return nil
}

func (s *Spec) readCross(_ string, args []string) error {
	if len(args) != 1 || args[0] != "ankles" {
		return fmt.Errorf("only ankles cross: cross ankles")
	}
	s.promise("cross", "ankles", 0)
	return nil
}

func (s *Spec) readApart(_ string, args []string) error {
	at, known := map[string]string{"hands": "palm", "feet": "ankle", "knees": "knee", "elbows": "elbow"}[first(args)]
	if len(args) != 2 || !known {
		return fmt.Errorf("apart takes hands, elbows, knees or feet and centimetres")
	}
	v, err := number(args[1])
	if err != nil {
		return err
	}
	if v < 10 || v > 200 {
		return fmt.Errorf("%s cm apart is not between 10 and 200", args[1])
	}
	s.Relations = append(s.Relations, Relation{"touch", []string{at + ".left", at + ".right"}, v / 100})
	s.promise("apart", args[0], v/100)
	return nil
}

func (s *Spec) readOut(_ string, args []string) error {
	base, side, _ := strings.Cut(first(args), ".")
	if len(args) != 2 || side != "left" && side != "right" ||
		base != "hand" && base != "elbow" && base != "knee" && base != "foot" {
		return fmt.Errorf("out takes one hand, elbow, knee or foot and centimetres")
	}
	v, err := number(args[1])
	if err != nil {
		return err
	}
	s.sided = true
	s.promise("out", args[0], v/100)
	return nil
}

func (s *Spec) readRoll(_ string, args []string) error {
	base, side, _ := strings.Cut(first(args), ".")
	if len(args) != 2 || base != "foot" || side != "left" && side != "right" {
		return fmt.Errorf("roll takes foot.left or foot.right and degrees")
	}
	v, err := number(args[1])
	if err != nil {
		return err
	}
	s.sided = true
	s.promise("roll", args[0], v*body.Deg)
	return nil
}

func (s *Spec) readCarries(_ string, args []string) error {
	if len(args) != 4 || args[1] != "at" || args[2] != "least" {
		return fmt.Errorf("carries reads: carries CONTACT at least SHARE")
	}
	if _, err := contactSpheres(args[0]); err != nil {
		return err
	}
	v, err := strconv.ParseFloat(args[3], 64)
	if err != nil || !(v > 0 && v <= 1) {
		return fmt.Errorf("%q is not a share of body weight between 0 and 1", args[3])
	}
	s.promise("carries", args[0], v)
	return nil
}

func first(args []string) string {
	if len(args) == 0 {
		return ""
	}
	return args[0]
}

// stillSaid adds what a pose states to what holds from the pose it comes from.
func stillSaid(before, now []Said) []Said {
	var out []Said
	for _, q := range before {
		switch q.Kind {
		case "apart", "out", "cross", "roll":
			out = append(out, q)
		}
	}
	return append(out, now...)
}

// Stated finds the latest statement of a kind about something, nil when there is none.
func (p *Pose) Stated(kind, what string) *Said {
	for i := len(p.said) - 1; i >= 0; i-- {
		if p.said[i].Kind == kind && p.said[i].What == what {
			return &p.said[i]
		}
	}
	return nil
}

// Promises tells whether a pose states a share of weight.
func (s *Spec) Promises() bool {
	return s != nil && s.States("carries")
}

// States tells whether a pose makes a statement of a kind (see Said).
func (s *Spec) States(kind string) bool {
	return slices.ContainsFunc(s.Said, func(q Said) bool { return q.Kind == kind })
}

// Relates tells whether a pose holds parts in a relation: touch, lay, line and so on.
func (s *Spec) Relates(kind string) bool {
	return slices.ContainsFunc(s.Relations, func(r Relation) bool { return r.Kind == kind })
}

// TrunkTilt is how far the trunk of a pose is from plumb and how far its pelvis tips to
// the client's right, degrees.
func (p *Pose) TrunkTilt(b *body.Body) (plumb, right float64) {
	var f body.Frames
	b.Place(&p.State, &f)
	plumb, _ = b.TrunkLean(&f)
	return plumb, math.Asin(body.Clamp(f.R[body.SegPelvis].Col(1)[2], -1, 1)) / body.Deg
}
