package assess

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"restbend/core/intake"
	"restbend/core/trade"
)

// judge collects the items of one day.
type judge struct {
	n     *Norms
	c     *intake.Client
	t     *Tests
	age   int // 0 when the year of birth is not recorded
	out   Assessment
	falls bool
	stood bool // a balance test was done

}

// Assess holds results against the norms for this client.
func Assess(n *Norms, c *intake.Client, r *Results) Assessment {
	j := &judge{n: n, c: c, t: &r.Tests, out: Assessment{Format: "restbend.assess/1", Items: []Item{}}}
	if year, _, _ := r.Date.Date(); !r.Date.IsZero() && c.Born > 0 {
		j.age = year - c.Born
	}
	j.holds()
	j.chair()
	j.balance()
	j.oneLeg()
	j.height()
	j.spine()
	j.rest()
	if j.stood {
		j.out.Sets.FallsRisk = &j.falls
	}
	return j.out
}

func (j *judge) add(test string, value float64, unit, reference, source, flag, say string, a ...any) {
	j.out.Items = append(
		j.out.Items,
		Item{test, math.Round(100*value) / 100, unit, reference, source, flag, fmt.Sprintf(say, a...)},
	)
}

// holds compares timed holds: with the sides of the same person first, the norm second.
func (j *judge) holds() {
	t, n := j.t, j.n
	norm := n.Holds.Female
	who := "women"
	if j.c.Sex == "male" {
		norm, who = n.Holds.Male, "men"
	}
	for _, h := range []struct {
		test, key string
		v         *float64
	}{
		{"hold_extensor_s", "extensor", t.HoldExtensor},
		{"hold_flexor_s", "flexor", t.HoldFlexor},
		{"hold_side_right_s", "side_right", t.HoldRight},
		{"hold_side_left_s", "side_left", t.HoldLeft},
	} {
		if h.v == nil {
			continue
		}
		m := norm[h.key]
		j.add(
			h.test,
			*h.v,
			"s",
			fmt.Sprintf("about %.0f (SD %.0f), healthy young %s", m[0], m[1], who),
			n.Holds.Source,
			Info,
			"A young sample: context, not a target. Compare with this client's own earlier results.",
		)
	}
	if t.HoldFront != nil {
		j.add(
			"hold_front_s",
			*t.HoldFront,
			"s",
			"own earlier results",
			"common practice",
			Info,
			"No published value is used: watch the trend.",
		)
	}
	j.ratios()
}

// ratios compares holds with each other.
func (j *judge) ratios() {
	t, n := j.t, j.n.Ratios
	above := func(most float64) func(float64) bool { return func(r float64) bool { return r > most } }
	for _, h := range []struct {
		test           string
		a, b           *float64
		bad            func(float64) bool
		reference, say string
	}{
		{"flexor_extensor", t.HoldFlexor, t.HoldExtensor, above(n.FlexorExtensor),
			fmt.Sprintf("up to %.1f", n.FlexorExtensor),
			"Above it, the back tires before the front: train the back's endurance."},
		{"side_right_left", t.HoldRight, t.HoldLeft,
			func(r float64) bool { return r < n.SideLow || r > n.SideHigh },
			fmt.Sprintf("%.2f to %.2f", n.SideLow, n.SideHigh),
			"Outside it, the sides differ: the weaker side may get more."},
		{"side_right_extensor", t.HoldRight, t.HoldExtensor, above(n.SideExtensor),
			fmt.Sprintf("up to %.2f", n.SideExtensor), "Above it, an imbalance worth training."},
		{"side_left_extensor", t.HoldLeft, t.HoldExtensor, above(n.SideExtensor),
			fmt.Sprintf("up to %.2f", n.SideExtensor), "Above it, an imbalance worth training."},
	} {
		if h.a == nil || h.b == nil || *h.b == 0 {
			continue
		}
		r, flag, say := *h.a / *h.b, Watch, h.say
		if !h.bad(r) {
			flag, say = OK, "Within the band."
		}
		j.add(h.test, r, "ratio", h.reference, n.Source, flag, "%s", say)
	}
}

func ofAge(groups []agedGroup, age int) *agedGroup {
	for i := range groups {
		if age >= groups[i].From && age <= groups[i].To {
			return &groups[i]
		}
	}
	return nil
}

func (j *judge) chair() {
	if j.t.ChairRises == nil {
		return
	}
	v := *j.t.ChairRises
	if j.t.ChairArms {
		v = 0
	}
	src := j.n.ChairRises.Source
	g := ofAge(j.n.ChairRises.Groups, j.age)
	switch {
	case j.age == 0:
		j.add("chair_rises_30s", v, "rises", "needs the year of birth", src, Info, "Record the year of birth to compare.")
	case g == nil:
		j.add("chair_rises_30s", v, "rises", "tables begin at 60 and end at 94", src, Info, "No reference at this age.")
	default:
		least, who := max(g.Male, g.Female), "the stricter of men and women, sex not noted"
		if j.c.Sex == "female" {
			least, who = g.Female, "women"
		} else if j.c.Sex == "male" {
			least, who = g.Male, "men"
		}
		flag, say := OK, "Average or above."
		if v < float64(least) {
			flag, say = Watch, "Below average: leg strength, from a higher seat first."
		}
		if j.t.ChairArms {
			say = "The arms were used, which counts as 0. " + say
		}
		j.add(
			"chair_rises_30s",
			v,
			"rises",
			fmt.Sprintf("at least %d (%s, %d to %d)", least, who, g.From, g.To),
			src,
			flag,
			"%s",
			say,
		)
	}
}

func (j *judge) balance() {
	for _, b := range []struct {
		test, say string
		v         *float64
	}{
		{"feet_together_s", "feet together", j.t.FeetTogether},
		{"semi_tandem_s", "half heel to toe", j.t.SemiTandem},
		{"tandem_s", "heel to toe", j.t.Tandem},
	} {
		if b.v == nil {
			continue
		}
		j.stood = true
		flag, say := OK, "Held."
		if *b.v < j.n.Balance.Seconds {
			flag, say, j.falls = Watch, "Under 10 s "+b.say+": a risk of falls. Standing work keeps a hand hold.", true
		}
		j.add(b.test, *b.v, "s", fmt.Sprintf("at least %.0f", j.n.Balance.Seconds), j.n.Balance.Source, flag, "%s", say)
	}
	if v := j.t.UpAndGo; v != nil {
		j.stood = true
		flag, say := OK, "Within the limit."
		if *v >= j.n.UpAndGo.Seconds {
			flag, say, j.falls = Watch, "12 s or more: a risk of falls. Standing work keeps a hand hold.", true
		}
		j.add("up_and_go_s", *v, "s", fmt.Sprintf("under %.0f", j.n.UpAndGo.Seconds), j.n.UpAndGo.Source, flag, "%s", say)
	}
}

// oneLeg compares best and mean of the tries, each capped at 45 s.
func (j *judge) oneLeg() {
	weakest := math.Inf(1)
	for _, s := range []struct {
		test  string
		tries []float64
	}{{"one_leg_right_s", j.t.OneLegRight}, {"one_leg_left_s", j.t.OneLegLeft}} {
		if len(s.tries) == 0 {
			continue
		}
		best, sum := 0.0, 0.0
		for _, v := range s.tries {
			v = math.Min(v, j.n.OneLeg.Cap)
			best, sum = math.Max(best, v), sum+v
		}
		mean := sum / float64(len(s.tries))
		weakest = math.Min(weakest, best)
		g := ofAge(j.n.OneLeg.Groups, j.age)
		if g == nil {
			j.add(
				s.test,
				best,
				"s",
				"needs an age from 18 to 99",
				j.n.OneLeg.Source,
				Info,
				"Best %.1f s, mean %.1f s.",
				best,
				mean,
			)
			continue
		}
		flag := OK
		if best < g.Best || mean < g.Mean {
			flag = Watch
		}
		j.add(
			s.test,
			best,
			"s",
			fmt.Sprintf("best %.1f, mean %.1f (%d to %d years)", g.Best, g.Mean, g.From, g.To),
			j.n.OneLeg.Source,
			flag,
			"Best %.1f s, mean %.1f s of %d.",
			best,
			mean,
			len(s.tries),
		)
	}
	if !math.IsInf(weakest, 1) && len(j.t.OneLegRight) > 0 && len(j.t.OneLegLeft) > 0 {
		j.out.Sets.OneLegS = weakest
	}
}

func (j *judge) height() {
	t, n := j.t, j.n
	if t.Height != nil {
		j.out.Sets.HeightCM = *t.Height
		loss := func(test string, before, limit float64, since string) {
			if before <= 0 {
				return
			}
			v, flag, say := before-*t.Height, OK, "Within the limit."
			if v >= limit {
				flag, say = Refer, "Ask a clinician about vertebral imaging before loading the spine further."
			}
			j.add(test, v, "cm", fmt.Sprintf("under %.0f since %s", limit, since), n.HeightLoss.Source, flag, "%s", say)
		}
		loss("height_loss_young", j.c.YoungHeight, n.HeightLoss.Young, "young adulthood")
		if t.HeightLast != nil {
			loss("height_loss_last", *t.HeightLast, n.HeightLoss.Last, "last measured")
		}
	}
	if t.HeadWall != nil {
		flag, say := OK, "The head reaches the wall."
		if *t.HeadWall > 0 {
			flag, say = Watch, "The head does not reach the wall: think of vertebral fractures, and ask."
		}
		j.add("head_wall_cm", *t.HeadWall, "cm", "0", n.WallGap.Source, flag, "%s", say)
	}
	if t.RibPelvis != nil {
		flag, say := OK, "Two fingers or more."
		if *t.RibPelvis < n.WallGap.Fingers {
			flag, say = Watch, "Fewer than two fingers between rib and pelvis: think of vertebral fractures, and ask."
		}
		j.add(
			"rib_pelvis_fingers",
			*t.RibPelvis,
			"fingers",
			fmt.Sprintf("at least %.0f", n.WallGap.Fingers),
			n.WallGap.Source,
			flag,
			"%s",
			say,
		)
	}
}

func (j *judge) spine() {
	t, n := j.t, j.n
	assessed := slices.ContainsFunc(j.c.Conditions, func(k intake.Condition) bool { return k.Code == "scoliosis" })
	if t.TrunkRotation != nil {
		for _, s := range []struct {
			side trade.Side
			v    *float64
		}{{trade.Right, t.TrunkRotation.Right}, {trade.Left, t.TrunkRotation.Left}} {
			if s.v == nil {
				continue
			}
			flag, say := OK, "Below the point of referral."
			switch {
			case *s.v >= n.TrunkRotation.Refer && !assessed:
				flag, say = Refer, "Refer for assessment of a curve."
			case *s.v >= n.TrunkRotation.Refer:
				flag, say = Watch, "A curve is recorded already; compare with the last value."
			case *s.v >= n.TrunkRotation.Earlier:
				flag, say = Watch, "Some schools refer from here."
			}
			j.add(
				"trunk_rotation_"+string(s.side),
				*s.v,
				"degrees",
				fmt.Sprintf("under %.0f; an earlier school %.0f", n.TrunkRotation.Refer, n.TrunkRotation.Earlier),
				n.TrunkRotation.Source,
				flag,
				"%s",
				say,
			)
		}
	}
	pair := func(test, unit string, s *Sides, least float64) trade.Side {
		if s == nil || s.Left == nil || s.Right == nil {
			return ""
		}
		d, tight := *s.Right-*s.Left, trade.Side("")
		if math.Abs(d) >= least {
			tight = trade.Left
			if d < 0 {
				tight = trade.Right
			}
		}
		say := "The sides are alike."
		if tight != "" {
			say = "The " + string(tight) + " is tighter. One side usually is; it is recorded, not a fault."
		}
		j.add(test, math.Abs(d), unit, fmt.Sprintf("a difference of %.0f", least), n.Turn.Source, Info, "%s", say)
		return tight
	}
	j.out.Sets.TightTurn = pair("turn_difference", "degrees", t.Turn, n.Turn.Degrees)
	pair("side_bend_difference", "cm", t.SideBend, n.Turn.CM)
	for hour := 1; hour <= 12; hour++ {
		if v := t.Clock[strconv.Itoa(hour)]; v > 0 {
			j.out.Sets.ClockWeak = append(j.out.Sets.ClockWeak, hour)
		}
	}
	if t.Clock != nil {
		say := "Every hour is smooth."
		if len(j.out.Sets.ClockWeak) > 0 {
			say = "Weak hours get extra passes: " + strings.Trim(fmt.Sprint(j.out.Sets.ClockWeak), "[]") + "."
		}
		j.add("clock", float64(len(j.out.Sets.ClockWeak)), "weak hours", "none", "common practice", Info, "%s", say)
	}
	if t.SIJSide != "" {
		j.out.Sets.SIJSide = t.SIJSide
		j.add(
			"sij_side",
			1,
			string(t.SIJSide),
			"checked at the start of each session",
			"common practice",
			Info,
			"Holds for today only.",
		)
	}
}

func (j *judge) rest() {
	t := j.t
	if t.Pain != nil {
		j.add(
			"pain_now",
			t.Pain.Now,
			"of 10",
			"own earlier results; 2 points or 30 % is a real change",
			"Spine 2005;30:1331; Spine 2008;33:90 (value from memory)",
			Info,
			"Best %.0f, worst %.0f in 24 h.",
			t.Pain.Best,
			t.Pain.Worst,
		)
	}
	if len(t.Activities) > 0 {
		sum := 0.0
		for _, a := range t.Activities {
			sum += a.Score
		}
		j.add(
			"activities",
			sum/float64(len(t.Activities)),
			"of 10",
			"own earlier results; an average change of 2 is real, 3 for one",
			"Physiother Can 1995;47:258 (value from memory)",
			Info,
			"Average of %d own activities.",
			len(t.Activities),
		)
	}
	if len(t.Breaths30) > 0 {
		sum := 0.0
		for _, b := range t.Breaths30 {
			sum += 2 * b
		}
		rate := sum / float64(len(t.Breaths30))
		j.out.Sets.Breaths = rate
		j.add(
			"breaths_per_minute",
			rate,
			"a minute",
			"at rest",
			"common practice",
			Info,
			"Proposed for breath doses; the practice rate stays your choice.",
		)
	}
}
