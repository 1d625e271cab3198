// Package demo fills an empty database with an invented practice: four invented
// clients of a small studio in the invented town of Lower Fennick, each with a history.
package demo

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"restbend"
	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/store"
	"restbend/teaching"
)

// The demo's sign-in.
const (
	Name     = "fennick"
	Password = "slow-breath-first"
	Second   = "marrack" // a second instructor of the practice, with the same password
)

func ptr[T any](v T) *T { return &v }

var anywhere = map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes",
	"side_right": "yes", "kneel": "yes", "hands": "yes", "floor_sit": "yes", "stand_free": "yes"}

// person is one invented client and what happened in the sessions so far.
type person struct {
	build    string
	client   intake.Client
	sessions []session
	tests    string   // results of a day of tests, JSON members
	usual    []string // done cleanly in every session besides
}

// session happened some days ago; done says how each exercise went.
type session struct {
	daysAgo            int
	painStart, painEnd float64
	peak, settled      float64
	notes              string
	items              []done
}

type done struct {
	version string
	step    int
	side    trade.Side
	ended   string  // target when empty
	rep     int     // of a symptom
	pain    float64 // with where
	where   string
	share   float64 // of the target reached, 1 when 0
}

// The clients of the demo, and below what they did.

func oda() intake.Client {
	return intake.Client{Name: "Oda Brinkwater", Born: 1957, Sex: "female", HeightCM: 161, MassKG: 59,
		Complaint: "Stooping since the winter, afraid of breaking something",
		Conditions: []intake.Condition{{Code: "osteoporosis", School: "strict", Fracture: ptr(false)},
			{Code: "wrist-pain", Side: trade.Right}},
		Positions: anywhere, Kit: []string{"towel", "pillow", "dowel"},
		Surfaces: []trade.Surface{trade.Mat, trade.Bed, trade.Chair, trade.Counter, trade.Wall},
		Aims:     map[string]float64{"back-strength": 3, "hip-strength": 2, "balance": 3, "bone-loading": 2, "posture": 1},
		Tasks:    []string{"carry the watering can", "rise from a low chair"},
		Schools:  intake.Schools{Dose: "reps"}, BreathRate: 12, EffortCap: 6}
}

func teo() intake.Client {
	return intake.Client{Name: "Teo Marlack", Born: 1981, Sex: "male", HeightCM: 183, MassKG: 88,
		Complaint: "Left leg pain after a long drive in spring, better walking",
		Conditions: []intake.Condition{{Code: "disc-sciatica", Side: trade.Left, Preference: "extension"},
			{Code: "low-back-pain", Phase: "persistent", ProvokedBy: []string{"flexion"}}},
		Positions: anywhere, Kit: []string{"towel", "pillow"},
		Surfaces: []trade.Surface{trade.Mat, trade.Chair, trade.Sofa, trade.Counter, trade.Wall},
		Pain:     &intake.Pain{Now: 2, Worst: 4, StopAbove: 4},
		Aims: map[string]float64{"anti-extension": 3, "deep-core": 2, "back-strength": 2, "anti-rotation": 2,
			"spinal-mobility": 1}, Tasks: []string{"lift a crate into the van"},
		Schools: intake.Schools{Dose: "short-holds"}, BreathRate: 13, EffortCap: 8}
}

func imre() intake.Client {
	return intake.Client{Name: "Imre Sollow", Born: 1949, Sex: "male", HeightCM: 170, MassKG: 76,
		Complaint:  "Stiff, hardly moves since the move to the ground floor; legs heavy after standing",
		Conditions: []intake.Condition{{Code: "stenosis"}, {Code: "limited-mobility"}, {Code: "falls-risk"}},
		Positions: map[string]string{"floor": "no", "supine": "yes", "side_left": "yes", "side_right": "yes",
			"hands": "yes", "stand_free": "held", "floor_sit": "no"},
		Kit: []string{"towel", "pillow"}, Surfaces: []trade.Surface{trade.Bed, trade.Chair, trade.Counter, trade.Wall},
		Aims:    map[string]float64{"spinal-mobility": 3, "leg-strength": 2, "balance": 2, "deep-core": 2, "hip-strength": 2},
		Tasks:   []string{"walk to the jetty and back"},
		Schools: intake.Schools{Dose: "breaths"}, BreathRate: 14, EffortCap: 4}
}

func wenna() intake.Client {
	return intake.Client{Name: "Wenna Tolgarth", Born: 1975, Sex: "female", HeightCM: 168, MassKG: 64,
		Complaint: "A curve since school; since the spring a jammed feeling beside the sacrum",
		History:   "Better on days with a walk, worse after the long desk days at the harbour office.",
		Conditions: []intake.Condition{{Code: "scoliosis", Region: "thoracic", Convex: trade.Right, Degrees: 24},
			{Code: "sij-pain", Side: trade.Left}},
		Positions: anywhere, Kit: []string{"towel", "pillow", "bolster", "band"},
		Surfaces:   []trade.Surface{trade.Mat, trade.Chair, trade.Wall},
		Pain:       &intake.Pain{Now: 2, Worst: 4},
		Operations: []intake.Operation{{What: "appendix", Date: trade.On(1996, time.May, 20)}},
		Aims: map[string]float64{"breathing": 2, "anti-side-bend": 3, "posture": 2, "hip-strength": 2,
			"relaxation": 1}, Tasks: []string{"stand through a choir evening"}, Confidence: ptr(6),
		Schools: intake.Schools{Dose: "breaths"}, BreathRate: 11, EffortCap: 6, SessionsPerWeek: 2}
}

func people() []person {
	return []person{
		{"birch", oda(), []session{
			{24, 2, 2, 2, 20, "First session. Proud of the hinge.",
				[]done{{version: "low-breath-supine", step: 1}, {version: "bridge-low"}, {version: "clam", side: trade.Left},
					{version: "clam", side: trade.Right}, {version: "sit-to-stand"}, {version: "heel-raise-held"}}},
			{9, 2, 1, 1, 12, "Steadier at the counter.",
				[]done{{version: "low-breath-supine", step: 1}, {version: "bridge-low"}, {version: "clam", side: trade.Left},
					{version: "clam", side: trade.Right, ended: "form", share: 0.6}, {version: "sit-to-stand"},
					{version: "heel-raise-held"}}},
			{5, 1, 1, 1, 10, "Right hip tires first.", []done{{version: "low-breath-supine", step: 1}, {version: "bridge-low"},
				{version: "clam", side: trade.Left}, {version: "clam", side: trade.Right, ended: "form", share: 0.7},
				{version: "sit-to-stand"}, {version: "heel-raise-held"}}},
		}, `"tandem_s": 10, "up_and_go_s": 10.4, "chair_rises_30s": 10, "one_leg_right_s": [11, 14, 12], "one_leg_left_s": [19, 22, 20], "height_cm": 161, "head_wall_cm": 1, "rib_pelvis_fingers": 2, "breaths_30s": [6, 6]`, []string{"long-spine-chair", "blade-slide-wall", "hip-hinge-dowel", "one-leg-held", "cow-neutral-chair", "arm-circles-seated", "prone-rest", "blade-set-prone", "turn-arms-only"}},
		{"rowan", teo(), []session{
			{16, 3, 3, 2, 18, "Leg pain quiet while lying on the elbows.",
				[]done{{version: "deep-core-find", step: 0}, {version: "prone-on-elbows"}, {version: "plank-knees"},
					{version: "bird-dog-leg"}, {version: "curl-up-hand-under", side: trade.Left},
					{version: "curl-up-hand-under", side: trade.Right}}},
			{9, 2, 2, 1, 16, "Plank solid.", []done{{version: "deep-core-find", step: 0}, {version: "prone-on-elbows"},
				{version: "plank-knees"}, {version: "bird-dog-leg"}, {version: "bird-dog-leg"},
				{version: "curl-up-hand-under", side: trade.Left},
				{version: "curl-up-hand-under", side: trade.Right, ended: "symptom", rep: 5}}},
			{4, 2, 2, 1, 14, "Heavy week at work.", []done{{version: "deep-core-find", step: 0}, {version: "prone-on-elbows"},
				{version: "plank-knees"}, {version: "bird-dog-leg", pain: 4, where: "back"},
				{version: "curl-up-hand-under", side: trade.Left, ended: "symptom", rep: 6}}},
		}, "", []string{"clock-3-9", "hip-hinge", "prone-rest", "blade-set-prone", "long-spine-wall", "dead-bug-arm", "reset-sweep-standing", "heel-raise"}},
		{"ash", imre(), []session{
			{12, 3, 2, 1, 8, "On the bed, with the window open.",
				[]done{{version: "low-breath-supine", step: 1}, {version: "imprint-feet-down"}, {version: "knee-rock-small"},
					{version: "bridge-low"}, {version: "heel-raise-held"}}},
			{5, 2, 2, 1, 6, "Counted for himself.", []done{{version: "low-breath-supine", step: 1},
				{version: "imprint-feet-down"}, {version: "knee-rock-small"}, {version: "bridge-low"},
				{version: "heel-raise-held", ended: "form", share: 0.5}}},
		}, "", []string{"side-rib-breath-chair", "deep-core-chair", "pelvic-tilt-chair", "open-book-chair", "neck-turn", "one-leg-held", "knee-lift-held", "arm-circles-seated"}},
		{"birch", wenna(), []session{
			{10, 2, 2, 1, 10, "Jammed on the left; let go after the float.",
				[]done{{version: "side-rib-breath-supine"}, {version: "spine-wave"}, {version: "side-let-down", side: trade.Left},
					{version: "curve-breathe-arc", side: trade.Left}, {version: "side-sway"}}},
			{3, 2, 1, 1, 8, "Even today. The short side widened at the third breath.",
				[]done{{version: "side-rib-breath-supine"}, {version: "spine-wave"},
					{version: "curve-breathe-arc", side: trade.Left}, {version: "clam", side: trade.Left},
					{version: "clam", side: trade.Right}, {version: "side-sway"}}},
		}, "", []string{"low-breath-supine", "deep-core-find", "knee-rock-small", "bridge-low", "squat-half", "hip-hinge", "easy-walk", "long-spine-wall"}},
	}
}

// Fill writes the demo practice; days are counted back from today.
func Fill(ctx context.Context, st *store.Store, cat *catalogue.Catalogue, rules *safety.Rules, today trade.Day) error {
	hash, err := store.HashPassword(ctx, Password)
	if err != nil {
		return err
	}
	account, err := st.CreateAccount(ctx, Name, hash)
	if err != nil {
		return err
	}
	second, err := st.CreateAccount(ctx, Second, hash)
	if err != nil {
		return err
	}
	for _, p := range people() {
		if err := p.fill(ctx, st, cat, rules, account, today); err != nil {
			return fmt.Errorf("demo client %s: %w", p.client.Name, err)
		}
	}
	rows, err := st.Clients(ctx, account)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if r.Name == "Imre Sollow" { // he is also taught on Thursdays, by the second instructor
			return st.Share(ctx, account, r.ID, second, true)
		}
	}
	return nil
}

// conditions names what the intake recorded.
func (p *person) conditions() string {
	var codes []string
	for _, k := range p.client.Conditions {
		codes = append(codes, k.Code)
	}
	return strings.Join(codes, "; ")
}

func (p *person) fill(ctx context.Context, st *store.Store, cat *catalogue.Catalogue, rules *safety.Rules,
	account int64, today trade.Day) error {
	p.client.Format = "restbend.client/1"
	p.client.Stamp(today)
	p.client.Consent = &intake.Consent{Date: today.AddDays(-30)}
	p.client.NextReview = today.AddDays(25)
	doc, err := json.Marshal(p.client)
	if err != nil {
		return err
	}
	id, err := st.CreateClient(ctx, account, store.Client{Name: p.client.Name, Document: doc, Build: p.build},
		store.Change{At: today.AddDays(-30).Format(time.RFC3339), Who: Name, Field: "conditions", After: p.conditions(),
			Why: "intake"})
	if err != nil {
		return err
	}
	if p.tests != "" {
		day := today.AddDays(-9)
		if err := st.AddResults(ctx, id, store.Results{Day: day,
			Document: fmt.Appendf(nil, `{"format": "restbend.results/1", "date": "%s", "results": {%s}}`, day,
				p.tests)}); err != nil {
			return err
		}
	}
	for _, s := range p.sessions {
		for _, slug := range p.usual {
			s.items = append(s.items, done{version: slug})
		}
		if err := s.fill(ctx, st, cat, rules, &p.client, id, today); err != nil {
			return err
		}
	}
	return nil
}

func (s *session) fill(ctx context.Context, st *store.Store, cat *catalogue.Catalogue, rules *safety.Rules,
	c *intake.Client, id int64, today trade.Day) error {
	r, err := facts.New(cat, rules, nil, c, nil, 30, today)
	if err != nil {
		return err
	}
	pl := &plan.Plan{Format: "restbend.plan/1", Minutes: 30}
	item := map[string]int{}
	for _, d := range s.items {
		if i, ok := item[d.version]; ok {
			if d.side.One() && d.side != pl.Items[i].Side {
				pl.Items[i].Side = trade.Each
			}
			continue
		}
		v, ok := cat.Version(d.version)
		if !ok {
			return fmt.Errorf("unknown version %q", d.version)
		}
		item[d.version] = len(pl.Items)
		side := v.SideMode
		if d.side.One() {
			side = d.side
		}
		pl.Items = append(pl.Items, plan.Item{Version: v.Slug, Revision: v.Revision, Family: v.Family, Role: trade.Main,
			Position: v.Position, Surface: v.Surfaces[0], Side: side, Dose: v.Dose(c.Schools.Dose,
				d.step), Effort: v.Effort, Step: d.step})
	}
	appraise.Retime(r, pl)
	doc, err := json.Marshal(pl)
	if err != nil {
		return err
	}
	ways, err := restbend.Ways()
	if err != nil {
		return err
	}
	sc, err := score.Build(pl, score.Facts{Catalogue: cat, Client: c, Ways: ways, Mover: r.Mover()})
	if err != nil {
		return err
	}
	text, err := json.Marshal(sc)
	if err != nil {
		return err
	}
	day := today.AddDays(-s.daysAgo)
	t := store.Taught{ClientID: id, Day: day, Plan: doc, PainStart: sql.NullFloat64{Float64: s.painStart, Valid: true},
		Scores: []store.Score{{Rev: sc.Rev, Document: text}}, EndedAt: sql.NullString{String: day.String() + "T10:00:00Z",
			Valid: true}}
	for _, m := range s.marks(sc, item, day) {
		row, err := teaching.Stored(&m)
		if err != nil {
			return err
		}
		t.Marks = append(t.Marks, row)
	}
	if err := teaching.Fold(&t); err != nil {
		return err
	}
	return st.AddTaught(ctx, t)
}

// marks are what would have been pressed and said in the session, and the day after.
func (s *session) marks(sc *score.Score, item map[string]int, day trade.Day) (out []record.Mark) {
	began, _ := time.Parse(time.DateOnly, day.String())
	began = began.Add(9 * time.Hour)
	_, ends := sc.Times()
	add := func(kind string, pos float64, change func(m *record.Mark)) {
		m := record.Mark{Key: fmt.Sprintf("demo-%d", len(out)), Device: "demo", By: Name,
			At: began.Add(time.Duration(len(out)) * 2 * time.Second), Rev: sc.Rev, Pos: pos, Kind: kind}
		if change != nil {
			change(&m)
		}
		out = append(out, m)
	}
	add(record.Start, 0, func(m *record.Mark) { m.Pain, m.Clear = &s.painStart, true })
	for _, d := range s.items {
		at := item[d.version]
		it := &sc.Items[at]
		for _, side := range sidesOf(it, d.side) {
			here := func(change func(m *record.Mark)) func(m *record.Mark) {
				return func(m *record.Mark) { m.Item, m.Side = &at, side; change(m) }
			}
			for n := range it.Dose.SetCount() {
				reps := it.Dose.Reps
				if len(it.Dose.Pattern) > 0 {
					reps = it.Dose.Pattern[n]
				}
				done := progress.Amount{Sets: 1, Reps: int(cmp.Or(d.share, 1) * float64(reps)),
					HoldS: it.Dose.HoldS + it.Dose.HoldCounts, HoldBreaths: it.Dose.HoldBreaths}
				add(record.Set, ends[at], here(func(m *record.Mark) { m.Set, m.Done = n+1, &done }))
			}
			switch d.ended {
			case progress.ByForm:
				add(record.Form, ends[at], here(func(m *record.Mark) { m.S = 8 }))
			case progress.BySymptom:
				add(record.Symptom, ends[at], here(func(m *record.Mark) { m.Rep = d.rep }))
			}
			if d.where != "" {
				add(record.Felt, ends[at], here(func(m *record.Mark) {
					m.Felt, m.Pain, m.Where = record.Words{"pain"}, &d.pain,
						d.where
				}))
			}
		}
	}
	add(record.End, sc.Seconds, func(m *record.Mark) { m.Because, m.Pain = "done", &s.painEnd })
	add(record.Note, sc.Seconds, func(m *record.Mark) { m.Text = s.notes })
	add(record.FollowUp, sc.Seconds, func(m *record.Mark) {
		m.FollowUp = &progress.FollowUp{On: day.AddDays(1), Soreness: &s.peak, SettledH: &s.settled, Kind: progress.Muscle}
	})
	return out
}

// sidesOf are the sides an exercise was done on.
func sidesOf(it *score.Item, side trade.Side) []trade.Side {
	switch {
	case side != "":
		return []trade.Side{side}
	case it.Side == trade.Each:
		return trade.BothSides[:]
	case it.Side == trade.Alternate:
		return []trade.Side{trade.Alternate}
	}
	return []trade.Side{trade.None}
}
