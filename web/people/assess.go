package people

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/assess"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/store"
	"restbend/web/site"
)

// testAsk is one test of the form: how it is done and what is written down.
type testAsk struct {
	Name, Label, How, Unit string
}

// The tests whose results set limits. Words: common practice.
var testAsks = []testAsk{
	{
		"tandem_s",
		"Heel to toe",
		"Heel of one foot touching the toes of the other; a hold within reach. Stop at 10 s.",
		"s",
	},
	{"semi_tandem_s", "Half heel to toe", "The big toe beside the other heel. Stop at 10 s.", "s"},
	{"feet_together_s", "Feet together", "Stop at 10 s.", "s"},
	{"one_leg_right_s", "One leg, right", "Eyes open, up to three tries, stop at 45 s. Write the tries with spaces.", "s"},
	{"one_leg_left_s", "One leg, left", "As on the right.", "s"},
	{"up_and_go_s", "Up and go, 3 m", "Rise from a chair, walk 3 m, turn, come back, sit.", "s"},
	{
		"chair_rises_30s",
		"Chair rises in 30 s",
		"Arms crossed; more than half way up at the end counts. Using the arms counts as 0.",
		"rises",
	},
	{"height_cm", "Height now", "Shoes off, back to the wall.", "cm"},
	{"head_wall_cm", "Back of the head to the wall", "Heels and seat at the wall, chin level.", "cm"},
	{"rib_pelvis_fingers", "Lowest rib to pelvis", "Fingers that fit between, at the side.", "fingers"},
	{
		"trunk_rotation_left",
		"Trunk rotation, left",
		"Inclinometer over the curve, bent forward; not where bending is out.",
		"degrees",
	},
	{"trunk_rotation_right", "Trunk rotation, right", "As on the left.", "degrees"},
	{"turn_left", "Turn to the left", "Sitting tall, arms crossed.", "degrees"},
	{"turn_right", "Turn to the right", "As to the left.", "degrees"},
	{"breaths_30s", "Breaths in 30 s", "At rest, counted twice. Write both counts with a space.", "breaths"},
}

// testNames are the results that are worked out from others.
var testNames = map[string]string{
	"flexor_extensor":      "Front to back hold",
	"side_right_left":      "Right to left side hold",
	"side_right_extensor":  "Right side to back hold",
	"side_left_extensor":   "Left side to back hold",
	"hold_extensor_s":      "Back hold",
	"hold_flexor_s":        "Front-flexed hold",
	"hold_side_right_s":    "Right side hold",
	"hold_side_left_s":     "Left side hold",
	"hold_front_s":         "Front hold",
	"height_loss_young":    "Height lost since young adulthood",
	"height_loss_last":     "Height lost since last measured",
	"turn_difference":      "Turn, left against right",
	"side_bend_difference": "Side-bend, left against right",
	"clock":                "Pelvic clock",
	"sij_side":             "Sacroiliac side",
	"pain_now":             "Pain now",
	"activities":           "Own activities",
	"breaths_per_minute":   "Breaths a minute",
}

// TestName is a test in the words of the form.
func TestName(test string) string {
	for _, a := range testAsks {
		if a.Name == test {
			return a.Label
		}
	}
	if n, ok := testNames[test]; ok {
		return n
	}
	return test
}

type testDay struct {
	Day   string
	Items []assess.Item
}

type testsPage struct {
	ID       int64
	Name     string
	Asks     []testAsk
	Values   url.Values
	Problems exchange.Problems
	Days     []testDay
	Last     *assess.Sets // of the newest day, what could be taken over
	LastDay  string
	Clock    []hour
	NoBend   string // why the trunk rotation test is left out
}

// Get is a typed value.
func (p testsPage) Get(name string) string { return p.Values.Get(name) }

// Wrong lists what is wrong with a field.
func (p testsPage) Wrong(name string) string {
	return intakePage{Problems: p.Problems}.Wrong(name)
}

func (s *People) testsPage(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	s.showTests(c, http.StatusOK, row, url.Values{}, nil)
}

func (s *People) showTests(c *gin.Context, status int, row store.Client, v url.Values, problems exchange.Problems) {
	cl, err := DocumentOf(&row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	days, err := s.Store.AllResults(c, row.ID)
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg := testsPage{ID: row.ID, Name: row.Name, Asks: testAsks, Values: v, Problems: problems, Clock: clockFace(nil)}
	if sc, err := safety.NewScreener(s.Limits(), s.Catalogue(c), cl, s.Today()); err == nil {
		if _, who, limited := sc.Allowed("trunk.flexion.loaded"); limited {
			pg.NoBend = who
		}
	}
	for i, d := range days {
		r := &assess.Results{}
		if err := json.Unmarshal(d.Document, r); err != nil {
			s.Failed(c, err)
			return
		}
		if i+1 < len(days) && r.Tests.Height != nil && r.Tests.HeightLast == nil { // height lost since the day before
			for _, older := range days[i+1:] {
				var o assess.Results
				if json.Unmarshal(older.Document, &o) == nil && o.Tests.Height != nil {
					r.Tests.HeightLast = o.Tests.Height
					break
				}
			}
		}
		a := assess.Assess(s.Norms, cl, r)
		pg.Days = append(pg.Days, testDay{d.Day.String(), a.Items})
		if i == 0 {
			pg.Last, pg.LastDay = &a.Sets, d.Day.String()
		}
	}
	s.Render(c, status, "tests", "", "Tests of "+row.Name, pg)
}

// saveTests stores a day of tests, and takes what they set into the client's limits.
func (s *People) saveTests(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	if err := c.Request.ParseForm(); err != nil {
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return
	}
	v := c.Request.PostForm
	cl, err := DocumentOf(&row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	doc, problems := resultsDocument(v, s.Today())
	var r *assess.Results
	if problems == nil {
		if r, err = exchange.ReadResults(bytes.NewReader(doc), s.Today()); err != nil {
			p, ok := err.(exchange.Problems)
			if !ok {
				s.Failed(c, err)
				return
			}
			problems = p
			for i := range problems {
				problems[i].Path = strings.TrimPrefix(problems[i].Path, "results.")
			}
		}
	}
	if problems != nil {
		s.showTests(c, http.StatusUnprocessableEntity, row, v, problems)
		return
	}
	a := assess.Assess(s.Norms, cl, r)
	f := a.Sets
	cl.Take(
		intake.Found{
			FallsRisk: f.FallsRisk,
			OneLegS:   f.OneLegS,
			HeightCM:  f.HeightCM,
			TightTurn: f.TightTurn,
			ClockWeak: f.ClockWeak,
			SIJSide:   f.SIJSide,
		},
		s.Today(),
	)
	if err := s.Keep(c, row, cl, "tests of "+r.Date.String(), store.Results{Day: r.Date, Document: doc}); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/tests", row.ID))
}

// resultsDocument turns the form into a restbend.results/1 document.
func resultsDocument(v url.Values, today trade.Day) ([]byte, exchange.Problems) {
	var problems exchange.Problems
	tests := map[string]any{}
	number := func(field, text string) (float64, bool) {
		f, err := site.TypedNumber(text)
		if err != nil {
			problems = append(problems, exchange.Problem{Path: field, Text: fmt.Sprintf("found %q, allowed: a number", text)})
		}
		return f, err == nil
	}
	for _, a := range testAsks {
		text := strings.TrimSpace(v.Get(a.Name))
		if text == "" {
			continue
		}
		switch a.Name {
		case "one_leg_right_s", "one_leg_left_s", "breaths_30s":
			var list []float64
			for _, w := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' }) {
				if f, ok := number(a.Name, w); ok {
					list = append(list, f)
				}
			}
			tests[a.Name] = list
		case "trunk_rotation_left", "trunk_rotation_right", "turn_left", "turn_right":
			stem, side := a.Name[:strings.LastIndexByte(a.Name, '_')]+"_deg", a.Name[strings.LastIndexByte(a.Name, '_')+1:]
			if f, ok := number(a.Name, text); ok {
				m, _ := tests[stem].(map[string]float64)
				if m == nil {
					m = map[string]float64{}
				}
				m[side], tests[stem] = f, m
			}
		default:
			if f, ok := number(a.Name, text); ok {
				tests[a.Name] = f
			}
		}
	}
	if v.Get("chair_rises_with_arms") == "yes" {
		tests["chair_rises_with_arms"] = true
	}
	clock := map[string]int{}
	for h := 1; h <= 12; h++ {
		switch v.Get(fmt.Sprintf("clock.%d", h)) {
		case "0":
			clock[strconv.Itoa(h)] = 0
		case "1":
			clock[strconv.Itoa(h)] = 1
		case "2":
			clock[strconv.Itoa(h)] = 2
		}
	}
	if len(clock) > 0 {
		tests["clock"] = clock
	}
	if side := v.Get("sij_side"); side != "" {
		tests["sij_side"] = side
	}
	day := v.Get("date")
	if day == "" {
		day = today.String()
	}
	if len(tests) == 0 && problems == nil {
		problems = append(problems, exchange.Problem{Path: "tests", Text: "nothing was filled in"})
	}
	doc, err := json.Marshal(map[string]any{"format": "restbend.results/1", "date": day, "results": tests})
	if err != nil {
		problems = append(problems, exchange.Problem{Path: "tests", Text: err.Error()})
	}
	return doc, problems
}
