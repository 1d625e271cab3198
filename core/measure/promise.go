package measure

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/statics"
	"restbend/core/trade"
)

// What an entry says, held against what its poses do. The validator of a single pose knows
// statements and no words; here sentences are read: whoever says that a foot slides, that
// the trunk is tall or that one leg carries must show it, and a pose that does one of these
// unsaid is wrong.

// sentences are the lines of an entry an instructor speaks or reads before a movement.
func sentences(v *catalogue.Version, e *catalogue.Ease) []string {
	slug := ""
	if e != nil {
		slug = e.Slug
	}
	w := v.WordsWith(slug)
	out := append(w.Steps(), w.Cues.In, w.Cues.Out, v.Changes, v.Name)
	if e != nil {
		out = append(out, e.Name)
	}
	return out
}

var (
	// A thing that must not slide or roll says nothing about a hand or foot.
	steady    = regexp.MustCompile(`(?i)cannot (slide|roll|move)`)
	saysSlide = regexp.MustCompile(
		`(?i)\b(slid|glid|sweep|drag|draws? (it|the)|rock|rides? along|carriage|rolls? (up|down|the|back)|let it open)`,
	)
	saysStep = regexp.MustCompile(`(?i)\b(step|walk|place|put|set)`)
	saysWide = regexp.MustCompile(
		`(?i)\b(wide|wider|apart|out to the sides?|beside|sideways|open|falls?|step|star|side of)`,
	)
	saysCross = regexp.MustCompile(`(?i)\b(cross|over the other|in front)`)
	saysTall  = regexp.MustCompile(
		`(?i)\b(sit|stand|kneel|stays?|sitting|rides? along)( \w+)?,? (tall|upright)|ribs over pelvis|as tall as`,
	)
	staysTall = regexp.MustCompile(`(?i)\b(stays? tall|rides? along upright|as tall as|ribs over pelvis)`)
	saysLevel = regexp.MustCompile(
		`(?i)\b(pelvis|hips|hip bones?|hips stay as|belt)( \w+)? (stays? )?(as )?(level|square)`,
	)
	saysLaid = regexp.MustCompile(
		`(?i)\b(hands?|palms?|fingertips)\b( \w+){0,3} (on|over|behind|inside|in) ([\w-]+ ){0,3}(belly|breastbone|ribs|thighs?|shins?|knees?|head|creases|bony points|front of the pelvis)\b|\bpalms together\b`,
	)
	putsHands = regexp.MustCompile(
		`(?i)\b(hands?|fingertips|knuckles|forearms)\b.* on\b`,
	) // an ease that puts them elsewhere
	saysWeight = regexp.MustCompile(
		`(?i)\b(weight (on|pours?|over)|(all|most of) the weight (on|stays)|shift the weight|spread the weight|weight changes over|one (leg|foot) carries|even under both)\b|\bweight pour`,
	)
)

func says(v *catalogue.Version, e *catalogue.Ease, re *regexp.Regexp) bool {
	return slices.ContainsFunc(sentences(v, e), func(s string) bool {
		return re.MatchString(steady.ReplaceAllString(s, ""))
	})
}

// travel is what the poses let slide or step, as far as the words say so: a slide that is
// not in the words stays.
func travel(v *catalogue.Version, e *catalogue.Ease, specs []*pose.Spec) pose.Travel {
	out := pose.TravelOf(specs)
	slides, steps := says(v, e, saysSlide), says(v, e, saysStep)
	for sphere, how := range out {
		if how == pose.Slides && !slides || how == pose.Steps && !steps {
			delete(out, sphere)
		}
	}
	return out
}

// upright are the positions in which tall means plumb.
var upright = []trade.Position{trade.Sitting, trade.LongSitting, trade.Standing, trade.Kneeling, trade.HalfKneel}

// Degrees a trunk or pelvis may be off what the words say.
const maxOffWords = 4.0

// promises lists what the sentences say and the poses do not do.
func promises(
	v *catalogue.Version,
	e *catalogue.Ease,
	b *body.Body,
	names []string,
	specs []*pose.Spec,
	poses []*pose.Pose,
) []Finding {
	var out []Finding
	say := func(phase, format string, a ...any) {
		out = append(out, Finding{v.Slug, phase, fmt.Sprintf(format, a...)})
	}
	states := func(kind string) bool {
		return slices.ContainsFunc(specs, func(s *pose.Spec) bool { return s.States(kind) })
	}
	if (states("apart") || states("out")) && !says(v, e, saysWide) {
		say("words", "a pose states how wide hands or feet are and no sentence says so")
	}
	if states("cross") && !says(v, e, saysCross) {
		say("words", "a pose crosses the ankles and no sentence says so")
	}
	if says(v, e, saysLaid) && (e == nil || !putsHands.MatchString(e.Name)) &&
		!slices.ContainsFunc(specs, func(s *pose.Spec) bool { return s.Relates("lay") }) {
		say("words", "a sentence lays a hand on the body and no pose does (lay HAND REGION)")
	}
	if says(v, e, saysWeight) && !states("carries") {
		say("words", "a sentence says where the weight is and no pose states it (carries CONTACT at least SHARE)")
	}
	out = append(out, unseen(v, b, poses)...)
	tall := catalogue.Has(upright, v.Position) && says(v, e, saysTall)
	for i, p := range poses {
		plumb, roll := p.TrunkTilt(b)
		if tall && (i == v.Round() || says(v, e, staysTall)) && plumb > maxOffWords {
			say(names[i], "the words say tall and the trunk leans %.0f degrees", plumb)
		}
		if says(v, e, saysLevel) && math.Abs(roll) > maxOffWords {
			say(names[i], "the words say level and the pelvis tips %.0f degrees to the side", math.Abs(roll))
		}
	}
	return out
}

// things are words for what lies beside a person or is held, and the kinds of furniture and
// of held things that show it.
var things = []struct {
	words *regexp.Regexp
	drawn []string
}{
	{regexp.MustCompile(`(?i)\b(pillow|towel)s?\b`), []string{"pillow", "towel"}},
	{regexp.MustCompile(`(?i)\bcushions?\b`), []string{"cushion", "cushions"}},
	{regexp.MustCompile(`(?i)\b(bolster|rounded support)s?\b`), []string{"bolster"}},
	{regexp.MustCompile(`(?i)\b(rounded pad|pad height)\b`), []string{"pad"}},
	{regexp.MustCompile(`(?i)\b(a|the) table\b`), []string{"table"}},
	{regexp.MustCompile(`(?i)\b(a|the) counter\b`), []string{"counter"}},
	{regexp.MustCompile(`(?i)\b(soft|large|small) ball (rests|against|between)\b`), []string{"ball"}},
	{regexp.MustCompile(`(?i)\bring between\b`), []string{"ring"}},
	{regexp.MustCompile(`(?i)\bstick\b`), []string{"dowel"}},
	{regexp.MustCompile(`(?i)\b(the|a light) weight\b (up|to the shoulder)`), []string{"dumbbell"}},
	{regexp.MustCompile(`(?i)\b(band (fixed|round|at)|straps?\b)`), []string{"band", "strap"}},
}

// unseen lists what the words name and no pose shows.
func unseen(v *catalogue.Version, b *body.Body, poses []*pose.Pose) []Finding {
	drawn := map[string]bool{}
	for _, q := range furniture.Place(b, poses).Blocks {
		drawn[q.Kind] = true
	}
	for _, p := range poses {
		for _, h := range p.Props {
			drawn[h.Kind] = true
		}
	}
	var out []Finding
	for _, t := range things {
		if slices.ContainsFunc(t.drawn, func(k string) bool { return drawn[k] }) {
			continue
		}
		for _, s := range append(slices.Clone(v.Say.Setup.First), v.Cues().In, v.Cues().Out) {
			if w := t.words.FindString(s); w != "" {
				out = append(out, Finding{v.Slug, "words", fmt.Sprintf("the words say %q and no pose shows it", w)})
			}
		}
	}
	return out
}

// mirrors lists phases that say the same of the other side and do not measure so.
func mirrors(
	v *catalogue.Version,
	e *catalogue.Ease,
	names []string,
	specs []*pose.Spec,
	measured []statics.Measures,
	poses []*pose.Pose,
) []Finding {
	var out []Finding
	if e != nil && putsHands.MatchString(e.Name) {
		return nil // a hold at one side is the same side throughout
	}
	for i := range specs {
		for k := i + 1; k < len(specs); k++ {
			// Done to each side a phase may be called after where one part goes.
			named := v.SideMode != trade.Each && swapSides(names[i]) == names[k] && names[i] != names[k]
			if !named && !pose.Mirrors(specs[i], specs[k]) {
				continue
			}
			say := func(format string, a ...any) {
				out = append(out, Finding{Phase: names[i] + " and " + names[k], Text: fmt.Sprintf(format, a...)})
			}
			if d := pose.MirrorDifference(poses[i], poses[k]); d > 0.1 {
				say("mirror each other and differ by %.1f degrees in %s", d, pose.WidestAngle(poses[i].Mirror(), poses[k]))
			}
			m := measured[i].Mirror()
			for name, share := range m.Share {
				if d := math.Abs(share - measured[k].Share[name]); d > 0.01 {
					say("mirror each other and %s carries %.0f and %.0f %%", name, share*100, measured[k].Share[name]*100)
				}
			}
		}
	}
	return out
}

// swapSides exchanges the words left and right in a phase's name.
func swapSides(name string) string {
	return strings.NewReplacer("left", "right", "right", "left").Replace(name)
}

// together lists what of an entry cannot be in one place: a chair does not stand on a bed.
func together(v *catalogue.Version, poses []*pose.Pose) []Finding {
	var out []Finding
	furniture := map[string]string{} // what stands on the ground, by kind
	lies := false
	for _, p := range poses {
		for _, c := range p.Contacts {
			kind := body.Surfaces[c.Surface].Kind
			switch kind {
			case "chair", "sofa", "counter", "table", "ball", "box", "footplate", "chair-back":
				furniture[kind] = kind
			}
			lies = lies || kind == "floor"
		}
	}
	for _, k := range v.Kit {
		if k == "chair" || k == "table" || k == "counter" || k == "sofa" {
			furniture[k] = k
		}
	}
	for _, kind := range []string{"chair", "sofa", "counter", "table", "ball", "box", "footplate"} {
		if furniture[kind] == "" {
			continue
		}
		if catalogue.Has(v.Surfaces, trade.Bed) && v.On[trade.Bed] == nil && lies {
			out = append(out, Finding{v.Slug, "surfaces", fmt.Sprintf("a %s cannot stand on a bed", kind)})
		}
		if carriage := kind == "box" || kind == "footplate"; catalogue.Has(v.Surfaces, trade.Carriage) && !carriage {
			out = append(out, Finding{v.Slug, "surfaces", fmt.Sprintf("a %s cannot stand on a spring carriage", kind)})
		}
	}
	return out
}
