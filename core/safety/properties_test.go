package safety_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

var strictness = map[string]int{string(trade.Suits): 0, string(trade.Adapt): 1, string(trade.LeaveOut): 2, string(trade.ReferFirst): 3}

func ptr[T any](v T) *T { return &v }

// theRules are the published rules, read once.
func theRules() *safety.Rules {
	rules, _ := loadOnce()
	return rules
}

// condition draws any condition with any details, recorded or not.
func condition(t *rapid.T) intake.Condition {
	rules := theRules()
	var codes []string
	for _, r := range rules.Conditions {
		codes = append(codes, r.Code)
	}
	c := intake.Condition{Code: rapid.SampledFrom(codes).Draw(t, "code")}
	details := map[string]any{}
	for _, name := range append([]string{"weeks"}, rule(rules, c.Code).Asks...) {
		d, _ := rules.Detail(name, c.Code)
		if !rapid.Bool().Draw(t, name+" known") {
			continue
		}
		switch words := append(slices.Clone(d.Options), d.Accepts...); d.Kind {
		case "choice":
			details[name] = rapid.SampledFrom(words).Draw(t, name)
		case "several":
			some := rapid.SliceOfDistinct(rapid.SampledFrom(words), func(s string) string { return s }).Draw(t, name)
			list := make([]any, len(some))
			for i, w := range some {
				list[i] = w
			}
			details[name] = list
		case "yes":
			details[name] = rapid.Bool().Draw(t, name)
		case "number":
			details[name] = rapid.SampledFrom(map[string][]float64{"degrees": {15, 45}, "grade": {1, 3, 5}, "weeks": {8, 20}, "": {1, 5, 20, 60}}[map[bool]string{true: name}[name == "degrees" || name == "grade" || name == "weeks"]]).Draw(t, name)
		case "past", "day":
			details[name] = rapid.SampledFrom([]string{"2025-01-05", "2026-07-01", "2026-11-01"}).Draw(t, name)
		}
	}
	if c.Code == "low-back-pain" {
		c.ProvokedBy = rapid.SliceOfDistinct(rapid.SampledFrom([]string{"flexion", "extension", "rotation", "side-bend"}), func(s string) string { return s }).Draw(t, "provoked")
	}
	if c.Code == "disc-sciatica" {
		c.Preference = rapid.SampledFrom([]string{"", "none", "unknown", "flexion", "extension"}).Draw(t, "preference")
	}
	c, err := c.With(details)
	require.NoError(t, err)
	return c
}

func rule(rules *safety.Rules, code string) *safety.Rule {
	r, _ := rules.Rule(code)
	return r
}

// client draws a client; often everything is cleared, so that limits and not referrals
// are what is tested.
func client(t *rapid.T, max int) *intake.Client {
	c := able()
	c.Conditions = rapid.SliceOfN(rapid.Custom(condition), 0, max).Draw(t, "conditions")
	for _, p := range []string{"floor", "supine", "prone", "kneel", "hands", "side_left", "side_right", "stand_free"} {
		c.Positions[p] = rapid.SampledFrom([]string{"yes", "yes", "yes", "no", "help", "unconfirmed"}).Draw(t, p)
	}
	c.Born = rapid.SampledFrom([]int{0, 1990, 1950, 1944}).Draw(t, "born")
	c.OneLegS = rapid.SampledFrom([]float64{0, 4, 12}).Draw(t, "one leg")
	c.Today.SIJSide = trade.Side(rapid.SampledFrom([]string{"", "left", "right", "even"}).Draw(t, "jammed"))
	if rapid.IntRange(0, 3).Draw(t, "cleared") > 0 {
		all := intake.Clearance{Date: trade.MustDay("2026-10-01"), By: "physiotherapist"}
		for _, k := range c.Conditions {
			all.Covers = append(all.Covers, k.Code)
		}
		c.Clearances = []intake.Clearance{all}
	}
	if rapid.IntRange(0, 3).Draw(t, "poor") == 0 {
		c.Surfaces, c.Kit = []trade.Surface{"chair", "bed"}, []string{"towel"}
	}
	return c
}

// An override never lifts a referral, and never turns a verdict into anything but what it
// was.
func TestOverridesNeverLiftReferFirst(t *testing.T) {
	rules, cat := load(t)
	rapid.Check(t, func(t *rapid.T) {
		c := client(t, 3)
		if rapid.Bool().Draw(t, "flagged") {
			c.RedFlags = []intake.Flag{{Code: rapid.SampledFrom(rules.RedFlags).Draw(t, "flag").Code}}
		}
		plain, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		with := *c
		for _, v := range cat.Versions {
			with.Overrides = append(with.Overrides, intake.Override{Version: v.Slug, Reason: "tried", Until: trade.MustDay("2027-01-01")})
		}
		over, err := safety.NewScreener(rules, cat, &with, today)
		require.NoError(t, err)
		a, b := plain.Screen(), over.Screen()
		for i := range a.Results {
			x, y := a.Results[i], b.Results[i]
			if x.Verdict != y.Verdict || y.Overridden != (y.Verdict == trade.LeaveOut) {
				t.Fatalf("%s: %s, with an override %s, overridden %v", x.Version, x.Verdict, y.Verdict, y.Overridden)
			}
		}
	})
}

func TestAddingAConditionNeverLoosens(t *testing.T) {
	rules, cat := load(t)
	rapid.Check(t, func(t *rapid.T) {
		c := client(t, 3)
		before, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		more := *c
		more.Conditions = append(slices.Clone(c.Conditions), condition(t))
		after, err := safety.NewScreener(rules, cat, &more, today)
		require.NoError(t, err)
		a, b := before.Screen(), after.Screen()
		for i := range a.Results {
			if strictness[string(b.Results[i].Verdict)] < strictness[string(a.Results[i].Verdict)] {
				t.Fatalf("%s went from %s to %s with %+v", a.Results[i].Version, a.Results[i].Verdict, b.Results[i].Verdict, more.Conditions)
			}
		}
	})
}

func TestOrderOfConditionsDoesNotMatter(t *testing.T) {
	rules, cat := load(t)
	rapid.Check(t, func(t *rapid.T) {
		c := client(t, 4)
		turned := *c
		turned.Conditions = slices.Clone(c.Conditions)
		slices.Reverse(turned.Conditions)
		x, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		y, err := safety.NewScreener(rules, cat, &turned, today)
		require.NoError(t, err)
		a, b := x.Screen(), y.Screen()
		verdicts := x.Verdicts()
		for i := range a.Results {
			x, y := a.Results[i], b.Results[i]
			if only := verdicts[i]; only != x.Verdict {
				t.Fatalf("%s: %s, and %s when only verdicts are asked", x.Version, x.Verdict, only)
			}
			if x.Verdict != y.Verdict || x.Use != y.Use || !slices.Equal(x.Swaps, y.Swaps) || !slices.Equal(x.Eases, y.Eases) {
				t.Fatalf("%s: %+v or %+v", x.Version, x, y)
			}
		}
	})
}

func TestMirroringTheClientMirrorsEveryVerdict(t *testing.T) {
	rules, cat := load(t)
	other := map[string]string{"left": "right", "right": "left", "both": "both", "": ""}
	rapid.Check(t, func(t *rapid.T) {
		c := client(t, 3)
		m := *c
		m.Conditions = slices.Clone(c.Conditions)
		for i := range m.Conditions {
			m.Conditions[i].Side = trade.Side(other[string(m.Conditions[i].Side)])
			m.Conditions[i].Convex = trade.Side(other[string(m.Conditions[i].Convex)])
		}
		if side, ok := other[string(c.Today.SIJSide)]; ok {
			m.Today.SIJSide = trade.Side(side)
		}
		m.Positions = map[string]string{}
		for k, v := range c.Positions {
			m.Positions[map[string]string{"side_left": "side_right", "side_right": "side_left"}[k]+map[bool]string{true: "", false: k}[k == "side_left" || k == "side_right"]] = v
		}
		x, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		y, err := safety.NewScreener(rules, cat, &m, today)
		require.NoError(t, err)
		a, b := x.Screen(), y.Screen()
		for i := range a.Results {
			v, _ := cat.Version(a.Results[i].Version)
			if v.SideMode == "none" && v.Slug == "curl-up-hand-under" {
				continue
			}
			if v.SideMode != "none" && a.Results[i].Verdict != b.Results[i].Verdict {
				t.Fatalf("%s: %s, mirrored %s", v.Slug, a.Results[i].Verdict, b.Results[i].Verdict)
			}
			for side, want := range a.Results[i].Sides {
				if got := b.Results[i].Sides[trade.Side(other[string(side)])]; got != want {
					t.Fatalf("%s %s: %s, mirrored %s", v.Slug, side, want, got)
				}
			}
		}
	})
}

// easesClear fails unless the ease that is named for a side brings every quantity found too
// large on that side within its limit, all by itself.
func easesClear(t *rapid.T, v *catalogue.Version, r *safety.Result) {
	if r.Verdict != trade.Adapt || r.Use != r.Version {
		return
	}
	for side, verdict := range r.Sides {
		if (r.EaseFor(side) != "") != (verdict == trade.Adapt) {
			t.Fatalf("%s %s is %s with the ease %q", r.Version, side, verdict, r.EaseFor(side))
		}
	}
	if v.SideMode != "each" && r.EaseFor(v.SideMode) == "" {
		t.Fatalf("%s names no ease", r.Version)
	}
	for _, f := range r.Findings {
		side := f.Side
		if side == "" {
			side = v.SideMode
		}
		e := v.Ease(r.EaseFor(side))
		if e == nil {
			continue // this side stays out
		}
		of := body.Side(body.Right)
		if side == "left" {
			of = body.Left
		}
		if got := v.Side(of, e.Quantities)[f.Quantity].Value; got > f.Allowed+0.006 {
			t.Fatalf("%s with %s on the %s: %s %.3f, allowed %.3f", r.Version, e.Slug, side, f.Quantity, got, f.Allowed)
		}
	}
}

// Every adapt leads to something that suits, every swap suits, every finding's number is
// the catalogue's.
func TestAdaptsSwapsAndFindingsAreSound(t *testing.T) {
	rules, cat := load(t)
	rapid.Check(t, func(t *rapid.T) {
		c := client(t, 3)
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		sc := s.Screen()
		for _, r := range sc.Results {
			v, _ := cat.Version(r.Version)
			if r.Verdict == trade.Adapt && r.Use != r.Version {
				use, _ := sc.Result(r.Use)
				w, _ := cat.Version(r.Use)
				if use.Verdict != trade.Suits || w.Family != v.Family || (w.Branch == v.Branch && w.Rung > v.Rung) {
					t.Fatalf("%s adapts to %s, which is %s", r.Version, r.Use, use.Verdict)
				}
			}
			if r.Verdict == trade.Adapt && r.Use == r.Version && len(r.Eases) == 0 {
				t.Fatalf("%s adapts to itself without an ease", r.Version)
			}
			easesClear(t, v, &r)
			for _, w := range r.Swaps {
				if x, _ := sc.Result(w); x.Verdict != trade.Suits {
					t.Fatalf("%s swaps to %s, which is %s", r.Version, w, x.Verdict)
				}
			}
			for _, f := range r.Findings {
				if f.Condition == "positions" || f.Condition == "place" {
					continue
				}
				p := v.Quantities.Merge(v.Quantities.Mirror())[f.Quantity]
				if f.Value > p.Value+0.01 || f.Value <= f.Allowed {
					t.Fatalf("%s: finding %+v against %v", r.Version, f, p)
				}
			}
		}
	})
}

func TestRefusals(t *testing.T) {
	rules, cat := load(t)
	c := able()
	c.Conditions = []intake.Condition{{Code: "hiccups"}}
	_, err := safety.NewScreener(rules, cat, c, today)
	assert.ErrorContains(t, err, "not supported yet: hiccups")
}

func TestReferralAndClearance(t *testing.T) {
	rules, cat := load(t)
	refer := func(c *intake.Client) *safety.Referral {
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		return s.Referral()
	}
	for _, f := range rules.RedFlags {
		c := able()
		c.RedFlags = []intake.Flag{{Code: f.Code, Since: trade.MustDay("2026-10-15")}}
		r := refer(c)
		require.NotNil(t, r, f.Code)
		assert.Equal(t, f.Urgent, r.Urgent, f.Code)
		c.Clearances = []intake.Clearance{{Date: trade.MustDay("2026-11-01"), By: "doctor", Covers: []string{f.Code}}}
		assert.Nil(t, refer(c), f.Code)
		c.Clearances[0].Date = trade.MustDay("2026-04-01") // longer ago than six months
		assert.NotNil(t, refer(c), f.Code)
	}
	fused := able()
	fused.Conditions = []intake.Condition{{Code: "spinal-fusion", Region: "lumbar", Date: trade.MustDay("2025-02-10")}}
	fused.Clearances = []intake.Clearance{{Date: trade.MustDay("2026-01-01"), By: "surgeon", Covers: []string{"spinal-fusion"}, Until: trade.MustDay("2026-11-19")}}
	assert.NotNil(t, refer(fused), "expired yesterday")
	fused.Clearances[0].Until = trade.MustDay("2026-11-20")
	assert.Nil(t, refer(fused))
	fused.Conditions[0].Date = trade.Day{}
	assert.NotNil(t, refer(fused), "undated counts as fresh")
}

func TestOverrideIsShownAndNeverLiftsReferral(t *testing.T) {
	rules, cat := load(t)
	c := able()
	c.Conditions = []intake.Condition{{Code: "stenosis"}}
	c.Overrides = []intake.Override{{Version: "prone-on-elbows", Reason: "agreed with the clinician", Until: trade.MustDay("2026-12-01")}}
	result := func() *safety.Result {
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		r, _ := s.Screen().Result("prone-on-elbows")
		return r
	}
	assert.Equal(t, trade.LeaveOut, result().Verdict)
	assert.True(t, result().Overridden)
	c.Overrides[0].Until = trade.MustDay("2026-11-19")
	assert.False(t, result().Overridden, "expired")
	c.Overrides[0].Until = trade.MustDay("2026-12-01")
	c.RedFlags = []intake.Flag{{Code: "fainting"}}
	assert.Equal(t, trade.ReferFirst, result().Verdict)
	assert.False(t, result().Overridden)
}

func TestBedBeforeMatWhenTheFloorNeedsHelp(t *testing.T) {
	rules, cat := load(t)
	for floor, want := range map[string]string{"yes": "mat", "help": "bed", "no": "bed"} {
		c := able()
		c.Positions["floor"] = floor
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		r, _ := s.Screen("bridge").Result("bridge")
		assert.Equal(t, trade.Surface(want), r.Surface, floor)
	}
}

func TestHoldCapOfAcutePain(t *testing.T) {
	rules, cat := load(t)
	c := able()
	c.Conditions = []intake.Condition{{Code: "low-back-pain", Phase: "acute"}}
	s, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	v, _ := cat.Version("deep-core-find")
	limit, why := s.HoldCap(v)
	assert.Equal(t, 10, limit)
	assert.NotEmpty(t, why)
}

// With high pressure strength work and raised arms are held briefly from effort 3 on; balance
// stands and open stretches are not capped.
func TestHoldsOfStrengthWorkAreShort(t *testing.T) {
	rules, cat := load(t)
	for _, code := range []string{"high-blood-pressure", "glaucoma"} {
		c := able()
		c.Conditions = []intake.Condition{{Code: code, Controlled: ptr(true)}}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		for slug, want := range map[string]int{
			"plank-wall": 10, "plank-counter": 10, "side-plank-counter": 10, "side-plank-wall": 10, "bridge": 10, "plank": 10, // strength, effort 3 and more
			"heel-on-ankle-reach": 10,                                                      // a balance stand with the arms overhead
			"one-leg-held":        0, "tandem-held": 0, "open-book": 0, "knee-hug-both": 0, // balance and open stretches
			"deep-core-find": 0, // effort 2
		} {
			v, ok := cat.Version(slug)
			require.True(t, ok, slug)
			got, _ := s.HoldCap(v)
			assert.Equal(t, want, got, "%s: %s", code, slug)
		}
	}
}

// A mat, a chair and a floor are enough: nobody loses an exercise for want of a pillow, a
// towel or a cushion; what does instead is said.
func TestComfortIsNeverRequired(t *testing.T) {
	rules, cat := load(t)
	screen := func(kit []string) *safety.Screening {
		c := able()
		c.Surfaces, c.Kit = []trade.Surface{"mat", "chair", "bed"}, kit
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		return s.Screen()
	}
	bare, soft := screen([]string{}), screen([]string{"pillow", "towel", "cushion"})
	said := 0
	for i := range bare.Results {
		a, b := &bare.Results[i], &soft.Results[i]
		if b.Verdict == trade.Suits {
			assert.Equal(t, trade.Suits, a.Verdict, a.Version)
		}
		for _, f := range a.Findings {
			for _, k := range []string{"needs a pillow", "needs a towel", "needs a cushion", "needs a mat"} {
				assert.NotContains(t, f.Reason, k, a.Version)
			}
		}
		v, _ := cat.Version(a.Version)
		if slices.Contains(v.Helpful, "pillow") {
			said++
			assert.Contains(t, a.Instead, "a folded blanket or jacket for a pillow", a.Version)
			assert.Empty(t, b.Instead, a.Version)
		}
	}
	assert.Greater(t, said, 10)
	r, _ := bare.Result("hip-hinge-dowel")
	require.NotEmpty(t, r.Findings)
	assert.Contains(t, r.Findings[0].Reason, "needs a dowel; a broom handle does")
}

// On a bed the calves lie on cushions, not on a chair: who lies on a bed and has no chair
// may do it, and it is judged as it is done there.
func TestABedVariantIsJudgedOnTheBed(t *testing.T) {
	rules, cat := load(t)
	for _, c := range []struct {
		floor    string
		surfaces []trade.Surface
		surface  string
	}{
		{"no", []trade.Surface{"bed"}, "bed"},
		{"yes", []trade.Surface{"mat", "chair"}, "mat"},
	} {
		client := able()
		client.Positions["floor"], client.Surfaces, client.Kit = c.floor, c.surfaces, []string{"cushion"}
		s, err := safety.NewScreener(rules, cat, client, today)
		require.NoError(t, err)
		r, _ := s.Screen("imprint-calves-on-chair").Result("imprint-calves-on-chair")
		assert.Equal(t, trade.Suits, r.Verdict, "%v: %v", c.surfaces, r.Findings)
		assert.Equal(t, trade.Surface(c.surface), r.Surface)
	}
}
