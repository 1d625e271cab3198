package pose

import (
	"fmt"
	"maps"
	"slices"
	"sort"
	"strconv"
	"strings"

	"restbend/core/body"
)

// Spec is a parsed pose: what its author asked for, before it is solved.
type Spec struct {
	From      string
	Angles    []Angle
	On        []Contact
	Off       []string
	Slide     []string
	Step      []string // contacts that are lifted and put down elsewhere
	Loose     []int
	Relations []Relation
	Tilt      []tilt
	Props     []body.Prop // things held or attached
	LetGo     bool        // nothing is held any more
	Said      []Said      // what the words promise of the pose
	Mirrored  bool        // the pose it comes from with left and right exchanged
	View      string
	sided     bool
}

// tilt turns the pelvis about one of its own axes, radians.
type tilt struct {
	axis  int
	angle float64
}

var tilts = map[string]tilt{"forward": {1, 1}, "back": {1, -1}, "left": {0, -1}, "right": {0, 1}, "turn-left": {2, 1},
	"turn-right": {2, -1}}

// Angle is an author's joint angle in radians.
type Angle struct {
	Dof   int
	Value float64
}

// Contact is one sphere of skin on a surface.
type Contact struct {
	Sphere  string
	Surface string
	Report  string // name of the contact in the share of body weight
}

// Relation ties landmarks together. Kind is aim, stack, line, touch, height or balance.
type Relation struct {
	Kind  string
	Args  []string
	Value float64 // degrees for aim, metres for touch and height
}

// A ParseError names the statement that cannot be read.
type ParseError struct {
	Line int // 1-based line in the pose text
	Text string
	Msg  string
}

func (e *ParseError) Error() string {
	return fmt.Sprintf("pose line %d: %q: %s", e.Line, e.Text, e.Msg)
}

// motions maps joint and motion to a limb or spine angle and its sign.
var motions = map[string]struct {
	dof  int
	sign float64
	limb bool
}{
	"lumbar flexion": {body.LumbarFlex, 1, false}, "lumbar extension": {body.LumbarFlex, -1, false},
	"lumbar side-left": {body.LumbarSide, 1, false}, "lumbar side-right": {body.LumbarSide, -1, false},
	"lumbar turn-left": {body.LumbarTurn, 1, false}, "lumbar turn-right": {body.LumbarTurn, -1, false},
	"thoracic flexion": {body.ThoracicFlex, 1, false}, "thoracic extension": {body.ThoracicFlex, -1, false},
	"thoracic side-left": {body.ThoracicSide, 1, false}, "thoracic side-right": {body.ThoracicSide, -1, false},
	"thoracic turn-left": {body.ThoracicTurn, 1, false}, "thoracic turn-right": {body.ThoracicTurn, -1, false},
	"neck flexion": {body.NeckFlex, 1, false}, "neck extension": {body.NeckFlex, -1, false},
	"neck side-left": {body.NeckSide, 1, false}, "neck side-right": {body.NeckSide, -1, false},
	"neck turn-left": {body.NeckTurn, 1, false}, "neck turn-right": {body.NeckTurn, -1, false},
	"shoulder flexion": {body.ShoulderFlex, 1, true}, "shoulder extension": {body.ShoulderFlex, -1, true},
	"shoulder abduction": {body.ShoulderAbd, 1, true}, "shoulder adduction": {body.ShoulderAbd, -1, true},
	"shoulder rotation-out": {body.ShoulderRot, 1, true}, "shoulder rotation-in": {body.ShoulderRot, -1, true},
	"elbow flexion": {body.ElbowFlex, 1, true}, "forearm pronation": {body.Pronation, 1, true},
	"forearm supination": {body.Pronation, -1, true},
	"wrist extension":    {body.WristExt, 1, true}, "wrist flexion": {body.WristExt, -1, true},
	"blade forward": {body.BladeForward, 1, true}, "blade back": {body.BladeForward, -1, true},
	"blade up": {body.BladeUp, 1, true}, "blade down": {body.BladeUp, -1, true},
	"hip flexion": {body.HipFlex, 1, true}, "hip extension": {body.HipFlex, -1, true},
	"hip abduction": {body.HipAbd, 1, true}, "hip adduction": {body.HipAbd, -1, true},
	"hip rotation-out": {body.HipRot, 1, true}, "hip rotation-in": {body.HipRot, -1, true},
	"knee flexion": {body.KneeFlex, 1, true}, "ankle up": {body.AnkleUp, 1, true}, "ankle down": {body.AnkleUp, -1, true},
	"toes up": {body.ToesUp, 1, true}, "toes down": {body.ToesUp, -1, true},
}

// Parse reads a pose, one statement a line; # begins a comment.
//
//	from BASE                         a base pose or an earlier phase
//	hip.left flexion 90               a joint angle in degrees (both sides without .left)
//	on SURFACE part part.left ...     contacts; off part ... lifts them
//	slide part ...                    a kept contact that slides between phases
//	step part ...                     a kept contact that is lifted and put down elsewhere
//	loose hip.left ...                a joint the author leaves to the other statements; hips
//	                                  and shoulders only bend: opening and turning is stated
//	aim leg.left 10                   elevation of a segment above horizontal
//	stack A B · line A B C · touch A B [CM] · height POINT CM · balance
//	tilt forward 30                   where the pelvis leans or turns from its base, degrees
//	lay hand.left belly               a palm flat on skin, the fingers free
//	trunk plumb · trunk level         from the hips to the neck, within 4 degrees
//	pelvis level                      from side to side, within 4 degrees
//	apart hands 60 · apart feet 50    how far apart, cm, where wider than shoulders or hips
//	out hand.left 25                  how far one that is down alone is out to its side, cm
//	cross ankles                      one leg over the other
//	roll foot.left 30                 a foot on its edge, degrees
//	carries CONTACT at least SHARE    the share of body weight the words promise
//	flat foot.right                   the sole level from side to side
//	free POINT                        drops earlier relations of that point
//	hold THING points anchor force    a thing held or attached; let-go drops them all
//	mirror                            the pose it comes from, left and right exchanged
//	view NAME
//
// A semicolon ends a statement like a new line.
func Parse(text string) (*Spec, error) {
	s := &Spec{}
	for i, line := range strings.Split(text, "\n") {
		if k := strings.IndexByte(line, '#'); k >= 0 {
			line = line[:k]
		}
		for _, statement := range strings.Split(line, ";") {
			f := strings.Fields(statement)
			if len(f) == 0 {
				continue
			}
			if err := s.statement(f); err != nil {
				return nil, &ParseError{i + 1, strings.TrimSpace(statement), err.Error()}
			}
		}
	}
	if s.From == "" {
		return nil, &ParseError{1, strings.TrimSpace(strings.SplitN(text, "\n", 2)[0]), "a pose begins with: from BASE"}
	}
	if s.Mirrored && (len(s.Angles)+len(s.On)+len(s.Off)+len(s.Relations)+len(s.Tilt)+len(s.Props) > 0) {
		return nil, &ParseError{1, strings.TrimSpace(text),
			"a mirrored pose says nothing else but what slides or steps and its view"}
	}
	return s, nil
}

// statement reads one line of a pose.
func (s *Spec) statement(f []string) error {
	s.sided = s.sided || namesASide(f)
	read, ok := statements[f[0]]
	if !ok {
		return s.angle(f)
	}
	return read(s, f[0], f[1:])
}

// namesASide tells whether a statement is about one side.
func namesASide(f []string) bool {
	suffixed := func(w string, of ...string) bool {
		return slices.ContainsFunc(of, func(end string) bool { return strings.HasSuffix(w, end) })
	}
	for _, a := range f[1:] {
		if f[0] == "hold" && (a == "left" || a == "right") || suffixed(a, ".left", ".right", "-left", "-right") {
			return true
		}
	}
	return suffixed(f[0], ".left", ".right") || f[0] == "from" && len(f) == 2 && body.MirrorName(f[1]) != f[1]
}

// statements are read by their first word; what is none of them is an angle.
var statements map[string]func(s *Spec, word string, args []string) error

func init() {
	statements = map[string]func(s *Spec, word string, args []string) error{
		"from": (*Spec).readFrom, "on": (*Spec).readOn, "off": (*Spec).readContacts, "slide": (*Spec).readContacts,
		"step": (*Spec).readContacts, "loose": (*Spec).readLoose, "flat": (*Spec).readFlat, "aim": (*Spec).readAim,
		"stack": (*Spec).readPoints, "line": (*Spec).readPoints, "touch": (*Spec).readPoints, "height": (*Spec).readPoints,
		"pelvis": (*Spec).readPelvis, "trunk": (*Spec).readTrunk, "cross": (*Spec).readCross, "apart": (*Spec).readApart,
		"out": (*Spec).readOut, "roll": (*Spec).readRoll, "carries": (*Spec).readCarries,
		"free": (*Spec).readFree, "tilt": (*Spec).readTilt, "hold": (*Spec).readHold, "view": (*Spec).readView,
		"lay": func(s *Spec, _ string, args []string) error { return s.parseLay(args) },
		"balance": func(s *Spec, _ string, _ []string) error {
			s.Relations = append(s.Relations, Relation{Kind: "balance"})
			return nil
		},
		"let-go": func(s *Spec, _ string, _ []string) error {
			s.LetGo = true
			return nil
		},
		"mirror": func(s *Spec, _ string, _ []string) error {
			s.Mirrored = true
			return nil
		},
	}
}

// takes says what is wrong with a number of words.
func takes(word string, args []string, n int) error {
	if len(args) != n {
		return fmt.Errorf("%s takes %d words, found %d", word, n, len(args))
	}
	return nil
}

func (s *Spec) readFrom(word string, args []string) error {
	if err := takes(word, args, 1); err != nil {
		return err
	}
	if s.From != "" {
		return fmt.Errorf("a pose has one from")
	}
	s.From = args[0]
	return nil
}

func (s *Spec) readOn(_ string, args []string) error {
	if len(args) < 2 {
		return fmt.Errorf("on takes a surface and the parts on it")
	}
	if _, ok := body.Surfaces[args[0]]; !ok {
		return fmt.Errorf("unknown surface %q; known: %s", args[0],
			strings.Join(slices.Sorted(maps.Keys(body.Surfaces)), ", "))
	}
	for _, p := range args[1:] {
		cs, err := contactSpheres(p)
		if err != nil {
			return err
		}
		for _, c := range cs {
			c.Surface = args[0]
			s.On = append(s.On, c)
		}
	}
	return nil
}

// readContacts reads off, slide and step.
func (s *Spec) readContacts(word string, args []string) error {
	for _, p := range args {
		cs, err := contactSpheres(p)
		if err != nil {
			return err
		}
		for _, c := range cs {
			switch word {
			case "off":
				s.Off = append(s.Off, c.Sphere)
				if side, ok := strings.CutPrefix(c.Sphere, "palm."); ok { // a hand goes with its fingers
					s.Off = append(s.Off, "fingertip."+side)
				}
			case "slide":
				s.Slide = append(s.Slide, c.Sphere)
			default:
				s.Step = append(s.Step, c.Sphere)
			}
		}
	}
	return nil
}

func (s *Spec) readLoose(_ string, args []string) error {
	for _, a := range args {
		ds, err := jointDofs(a)
		if err != nil {
			return err
		}
		s.Loose = append(s.Loose, ds...)
	}
	return nil
}

func (s *Spec) readFlat(_ string, args []string) error {
	if len(args) == 0 {
		return fmt.Errorf("flat takes foot, foot.left or foot.right")
	}
	for _, a := range args {
		base, side, sided := strings.Cut(a, ".")
		if base != "foot" || sided && side != "left" && side != "right" {
			return fmt.Errorf("only a foot is flat, found %q", a)
		}
		for _, sd := range []string{"left", "right"} {
			if !sided || side == sd {
				s.Relations = append(s.Relations, Relation{Kind: "flat", Args: []string{"ankle." + sd}})
			}
		}
	}
	return nil
}

func (s *Spec) readAim(word string, args []string) error {
	if err := takes(word, args, 2); err != nil {
		return err
	}
	v, err := number(args[1])
	if err != nil {
		return err
	}
	return s.each(args[:1], func(a []string) error {
		if _, _, ok := body.SegmentEnds(a[0]); !ok {
			return fmt.Errorf("unknown segment %q", a[0])
		}
		s.Relations = append(s.Relations, Relation{"aim", a, v})
		return nil
	})
}

// readPoints reads stack, line, touch and height: points, and for the last two centimetres.
func (s *Spec) readPoints(word string, args []string) error {
	n := map[string]int{"stack": 2, "line": 3, "touch": 2, "height": 1}[word]
	v := 0.0
	if word == "touch" && len(args) == 3 || word == "height" && len(args) == 2 {
		var err error
		if v, err = number(args[n]); err != nil {
			return err
		}
		v /= 100
		args = args[:n]
	} else if word == "height" {
		return fmt.Errorf("height takes a point and centimetres")
	}
	if len(args) != n {
		return fmt.Errorf("%s takes %d points, found %d", word, n, len(args))
	}
	return s.each(args, func(a []string) error {
		for _, p := range a {
			if !body.IsPoint(p) {
				return fmt.Errorf("unknown point %q", p)
			}
		}
		s.Relations = append(s.Relations, Relation{word, a, v})
		return nil
	})
}

func (s *Spec) readFree(word string, args []string) error {
	if err := takes(word, args, 1); err != nil {
		return err
	}
	if !body.IsPoint(args[0]) {
		return fmt.Errorf("unknown point %q", args[0])
	}
	s.Relations = slices.DeleteFunc(s.Relations, func(r Relation) bool { return slices.Contains(r.Args, args[0]) })
	return nil
}

func (s *Spec) readTilt(word string, args []string) error {
	if err := takes(word, args, 2); err != nil {
		return err
	}
	t, ok := tilts[args[0]]
	v, err := number(args[1])
	if !ok || err != nil {
		return fmt.Errorf("tilt takes one of %s and degrees", strings.Join(slices.Sorted(maps.Keys(tilts)), ", "))
	}
	s.sided = s.sided || t.axis != 1
	s.Tilt = append(s.Tilt, tilt{t.axis, t.angle * v * body.Deg})
	return nil
}

func (s *Spec) readHold(_ string, args []string) error {
	if len(args) == 0 {
		return fmt.Errorf("hold takes a thing and where it is held")
	}
	h, err := parseProp(args)
	if err != nil {
		return err
	}
	s.Props = append(s.Props, h)
	return nil
}

func (s *Spec) readView(word string, args []string) error {
	if err := takes(word, args, 1); err != nil {
		return err
	}
	if _, ok := body.Views[args[0]]; !ok {
		return fmt.Errorf("unknown view %q; known: %s", args[0], strings.Join(slices.Sorted(maps.Keys(body.Views)), ", "))
	}
	s.View = args[0]
	return nil
}

// each repeats a statement about unsided limb points for both sides.
func (s *Spec) each(args []string, do func([]string) error) error {
	paired := false
	for _, a := range args {
		if body.PairedPoint(a) {
			paired = true
		}
	}
	if !paired {
		return do(append([]string{}, args...))
	}
	for _, side := range []string{".left", ".right"} {
		out := make([]string, len(args))
		for i, a := range args {
			out[i] = a
			if body.PairedPoint(a) {
				out[i] = a + side
			}
		}
		if err := do(out); err != nil {
			return err
		}
	}
	return nil
}

func (s *Spec) angle(f []string) error {
	if len(f) != 3 {
		return fmt.Errorf("unknown statement; an angle reads: JOINT MOTION DEGREES")
	}
	joint, side, _ := strings.Cut(f[0], ".")
	m, ok := motions[joint+" "+f[1]]
	if !ok {
		return fmt.Errorf("unknown joint or motion %q", joint+" "+f[1])
	}
	v, err := number(f[2])
	if err != nil {
		return err
	}
	v *= m.sign * body.Deg
	switch {
	case !m.limb && side != "":
		return fmt.Errorf("%s has no side", joint)
	case !m.limb:
		s.Angles = append(s.Angles, Angle{m.dof, v})
	case side == "":
		s.Angles = append(s.Angles, Angle{body.Limb(body.Left, m.dof), v}, Angle{body.Limb(body.Right, m.dof), v})
	case side == "left":
		s.Angles = append(s.Angles, Angle{body.Limb(body.Left, m.dof), v})
	case side == "right":
		s.Angles = append(s.Angles, Angle{body.Limb(body.Right, m.dof), v})
	default:
		return fmt.Errorf("side %q is neither left nor right", side)
	}
	for _, a := range s.Angles[len(s.Angles)-1:] {
		l := body.JointLimits[a.Dof]
		if a.Value < l[0]*body.Deg-1e-9 || a.Value > l[1]*body.Deg+1e-9 {
			return fmt.Errorf("%v is outside the joint's range of %v to %v degrees", f[2], l[0], l[1])
		}
	}
	return nil
}

func number(s string) (float64, error) {
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || v != v || v > 1000 || v < -1000 {
		return 0, fmt.Errorf("%q is not a number", s)
	}
	return v, nil
}

func contactSpheres(name string) ([]Contact, error) {
	base, side, sided := strings.Cut(name, ".")
	p, ok := body.Parts[base]
	if !ok {
		return nil, fmt.Errorf("unknown part %q; known: %s", base, strings.Join(slices.Sorted(maps.Keys(body.Parts)), ", "))
	}
	if sided && (!p.Paired || side != "left" && side != "right") {
		return nil, fmt.Errorf("part %q has no side %q", base, side)
	}
	var out []Contact
	sides := []string{""}
	if p.Paired || p.Both {
		sides = []string{".left", ".right"}
		if sided {
			sides = []string{"." + side}
		}
	}
	for _, sd := range sides {
		for _, sp := range p.Spheres {
			report := p.Report
			if p.Paired && !body.Parts[p.Report].Both && p.Report != "head" && p.Report != "pelvis" {
				report += sd
			}
			out = append(out, Contact{Sphere: sp + sd, Report: report})
		}
	}
	return out, nil
}

func jointDofs(name string) ([]int, error) {
	joint, side, sided := strings.Cut(name, ".")
	var out []int
	for key, m := range motions {
		if strings.HasPrefix(key, joint+" ") && m.sign > 0 {
			switch {
			case !m.limb:
				out = append(out, m.dof)
			case !sided:
				out = append(out, body.Limb(body.Left, m.dof), body.Limb(body.Right, m.dof))
			case side == "left":
				out = append(out, body.Limb(body.Left, m.dof))
			case side == "right":
				out = append(out, body.Limb(body.Right, m.dof))
			}
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("unknown joint %q", name)
	}
	sort.Ints(out)
	return out, nil
}

// DofName names a joint angle as an author would.
func DofName(dof int) string {
	best := ""
	for key, m := range motions {
		if m.sign > 0 && ((!m.limb && m.dof == dof) ||
			(m.limb && dof >= body.Limbs && m.dof == (dof-body.Limbs)%body.LimbCount)) {
			best = key
		}
	}
	if dof >= body.Limbs {
		side := " left"
		if dof >= body.Limbs+body.LimbCount {
			side = " right"
		}
		best += side
	}
	return best
}
