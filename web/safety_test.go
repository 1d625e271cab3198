package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"html"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/progress"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/store"
)

// today is the day the servers of these tests stand at.
var today = trade.DayOf(time.Now(), time.Local)

// keep stores a client as another release may have left it.
func (p *practice) keep(change func(*intake.Client)) (id int64) {
	p.t.Helper()
	yes := map[string]string{}
	for _, a := range []string{"floor", "supine", "prone", "side_left", "side_right", "kneel", "hands", "floor_sit", "stand_free"} {
		yes[a] = "yes"
	}
	c := &intake.Client{Format: "restbend.client/1", Name: "Jory Pell", Born: 1960, Conditions: []intake.Condition{}, Positions: yes, Surfaces: []trade.Surface{"mat", "chair", "counter", "wall"}, Kit: []string{"towel", "pillow"}}
	change(c)
	doc, err := json.Marshal(c)
	require.NoError(p.t, err)
	id, err = p.store.CreateClient(context.Background(), 1, store.Client{Name: c.Name, Document: doc, Build: "ash"})
	require.NoError(p.t, err)
	return id
}

// entry is a client's line in the list.
func (p *practice) entry(id int64) string {
	p.t.Helper()
	_, page := p.do("GET", "/clients", nil)
	return regexp.MustCompile(fmt.Sprintf(`(?s)href="/clients/%d".*?</li>`, id)).FindString(page)
}

func (p *practice) page(id int64) string {
	_, page := p.do("GET", fmt.Sprintf("/clients/%d", id), nil)
	return page
}

// planned plans a session and returns its address.
func (p *practice) planned(id int64) string {
	p.t.Helper()
	code, page := p.do("POST", fmt.Sprintf("/clients/%d/plans", id), url.Values{"minutes": {"15"}})
	require.Equal(p.t, 200, code, page)
	return regexp.MustCompile(`/plans/\d+`).FindString(page)
}

// The list says what the client's page says: a referral is never hidden behind a check of
// another day, and a clearance holds through its last day and not a day longer.
func TestTheListSaysWhatTheClientsPageSays(t *testing.T) {
	p := start(t, true).signIn()
	flag := func(until trade.Day, checked trade.Day) func(*intake.Client) {
		return func(c *intake.Client) {
			c.RedFlags = []intake.Flag{{Code: "fall-or-blow", Since: today.AddDays(-40)}}
			c.Clearances = []intake.Clearance{{Date: today.AddDays(-30), By: "doctor", Covers: []string{"fall-or-blow"}, Until: until}}
			c.Today = intake.Today{Date: checked, SIJSide: "left"}
		}
	}
	for _, c := range []struct {
		say    string
		change func(*intake.Client)
		mark   string // in the list and on the page
	}{
		{"cleared through today", flag(today, trade.Day{}), ""},
		{"cleared through yesterday", flag(today.AddDays(-1), trade.Day{}), "refer first"},
		{"cleared through yesterday, checked while it held", flag(today.AddDays(-1), today.AddDays(-5)), "refer first"},
		{"pain of 8 asked today", func(c *intake.Client) { c.Pain = &intake.Pain{Now: 8, Worst: 8, On: today} }, "rest today"},
		{"pain of 8 asked a week ago", func(c *intake.Client) { c.Pain = &intake.Pain{Now: 8, Worst: 8, On: today.AddDays(-7)} }, "rest today"},
		{"pain of 8 asked eight days ago", func(c *intake.Client) { c.Pain = &intake.Pain{Now: 8, Worst: 8, On: today.AddDays(-8)} }, ""},
		{"pain of 6", func(c *intake.Client) { c.Pain = &intake.Pain{Now: 6, Worst: 8, On: today} }, ""},
	} {
		id := p.keep(c.change)
		for mark, words := range map[string]string{"refer first": "See a clinician before exercising", "rest today": "Rest today"} {
			assert.Equal(t, mark == c.mark, strings.Contains(p.entry(id), mark), "%s, in the list: %s", c.say, mark)
			assert.Equal(t, mark == c.mark, strings.Contains(p.page(id), words), "%s, on the page: %s", c.say, mark)
		}
	}
	id := p.keep(flag(today.AddDays(9), trade.Day{}))
	assert.Contains(t, p.entry(id), "fall or blow cleared until "+today.AddDays(9).String())
	assert.Contains(t, p.page(id), "The clearance of fall or blow ends on "+today.AddDays(9).String())
	p.server.Today = func() trade.Day { return today.AddDays(9) }
	assert.NotContains(t, p.entry(id), "refer first", "the last day is a day")
	p.server.Today = func() trade.Day { return today.AddDays(10) }
	assert.Contains(t, p.entry(id), "refer first")
}

// On a day of rest a session is comfort; pain said before a session is noted, and the plan is
// mended to it.
func TestADayOfRest(t *testing.T) {
	p := start(t, true).signIn()
	id := p.keep(func(c *intake.Client) { c.Aims = map[string]float64{"hip-strength": 3} })
	at := p.planned(id)
	code, page := p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"8"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "only breath, relaxation and comfortable positions today")
	assert.Contains(t, p.entry(id), "rest today")
	_, page = p.do("POST", at+"/refresh", nil)
	assert.NotContains(t, page, "older than what is known")
	var n int64
	_, err := fmt.Sscanf(at, "/plans/%d", &n)
	require.NoError(t, err)
	pl, _ := p.stored(n)
	require.NotEmpty(t, pl.Items)
	for _, it := range pl.Items {
		assert.LessOrEqual(t, it.Effort, 1, it.Version)
	}
	code, page = p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"8"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "data-session", "comfort may be taught")
}

// A clinician's words stand where a session is planned, taught and printed; every exercise is
// held against them once; what they do not allow is out; an exercise that comes in asks again.
func TestACliniciansWordsAreHeldAgainst(t *testing.T) {
	p := start(t, true).signIn()
	const words = "nothing on the knees until January"
	id := p.keep(func(c *intake.Client) {
		c.Conditions = []intake.Condition{{Code: "knee-pain", Side: "left"}}
		c.Clearances = []intake.Clearance{{Date: today.AddDays(-10), By: "physiotherapist", Covers: []string{"knee-pain"}, Limits: words, Forbids: []string{"bird-dog"}}}
	})
	at := p.planned(id)
	_, page := p.do("GET", at, nil)
	assert.Contains(t, page, words)
	asked := regexp.MustCompile(`name="allowed\.([a-z-]+)" value="yes"`).FindAllStringSubmatch(page, -1)
	require.Greater(t, len(asked), 3)
	for _, a := range asked {
		assert.NotContains(t, a[1], "bird-dog", "forbidden, so it is not there")
	}
	_, printed := p.do("GET", at+"/print", nil)
	assert.Contains(t, printed, words)
	assert.Contains(t, printed, "Not yet held against them")
	code, page := p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Hold these against the clinician&#39;s limits first")
	code, _ = p.do("POST", at+"/confirm", url.Values{})
	assert.Equal(t, 422, code)

	form := url.Values{}
	for _, a := range asked[1:] {
		form.Set("allowed."+a[1], "yes")
	}
	form.Set("allowed."+asked[0][1], "no")
	_, page = p.do("POST", at+"/confirm", form)
	assert.NotContains(t, page, `name="allowed.`, "asked once")
	assert.Contains(t, page, "broken", "what is not allowed is marked")
	code, page = p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "Mend it first")
	_, page = p.do("GET", fmt.Sprintf("/clients/%d/verdicts/%s", id, asked[0][1]), nil)
	assert.Contains(t, page, "the physiotherapist&#39;s limits were read and do not allow it")
	_, page = p.do("GET", fmt.Sprintf("/clients/%d/history", id), nil)
	assert.Contains(t, page, "held against the clinician&#39;s limits")

	_, page = p.do("POST", at+"/refresh", nil)
	again := regexp.MustCompile(`name="allowed\.([a-z-]+)" value="yes"`).FindAllStringSubmatch(page, -1)
	form = url.Values{}
	for _, a := range again {
		assert.NotEqual(t, asked[0][1], a[1], "it was left out")
		form.Set("allowed."+a[1], "yes")
	}
	if len(again) > 0 {
		p.do("POST", at+"/confirm", form)
	}
	_, page = p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
	assert.Contains(t, page, "data-session")
	assert.Contains(t, page, words, "the player shows them")
}

// Until somebody says how sore the last session left the client nothing goes up; it is asked on
// the client's page and before the next session. What asks for a clinician is answered with what
// to do, and stays until somebody who may has cleared it.
func TestTheDayAfterIsAsked(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	p.mark(id, sent("s", "start", 0, ""), done("k1", 0, "none", 8))
	for form, want := range map[string]string{
		"peak=4&settled=": "Settled after: say how sore and for how long", "peak=11&settled=2": "Soreness: found", "kind=bones": "What was sore: found", "effect=meh": "How it was afterwards: found",
		"home=40": "Days of practice at home: found", "ended=tired": "Why it ended: found", "felt.0.word=funny&felt.0.item=0": "Felt: found", "felt.0.word=tingling&felt.0.item=99": "say in which exercise",
	} {
		v, err := url.ParseQuery(form + "&notes=kept+words")
		require.NoError(t, err)
		code, page := p.do("POST", "/teach/"+id+"/after", v)
		assert.Equal(t, 422, code, form)
		assert.Contains(t, page, want, form)
		assert.Contains(t, page, "kept words")
	}
	p.do("POST", "/teach/"+id+"/after", url.Values{"pain_end": {"2"}, "ended": {"done"}})
	assert.Contains(t, p.page(2), "Until this is answered nothing goes up")
	at := p.planned(2)
	_, page := p.do("GET", at+"/start", nil)
	assert.Contains(t, page, "How was it after "+today.String())
	code, page := p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}, "peak": {"3"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "say how sore and for how long")
	_, page = p.do("POST", at+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}, "peak": {"1"}, "settled": {"24"}, "kind": {"muscle"}, "travelled": {"yes"}})
	assert.NotContains(t, page, "data-session", "nothing begins")
	assert.Contains(t, page, "Refer first")
	assert.Contains(t, page, "A clinician looks before the next session", "what to do, in words")
	assert.Contains(t, p.entry(2), "refer first")
	code, page = p.do("POST", "/clients/2/plans", url.Values{"minutes": {"20"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "symptoms travelled after the session")
	_, page = p.do("POST", "/clients/2/intake/clearances", url.Values{"clearance.0.date": {today.String()}, "clearance.0.by": {"physiotherapist"}, "clearance.0.covers": {"travels-down"}, "go": {"client"}})
	assert.NotContains(t, page, "Refer first")
	assert.NotContains(t, p.entry(2), "refer first")

	log, err := p.store.Logs(context.Background(), 2)
	require.NoError(t, err)
	var s progress.Session
	require.NoError(t, json.Unmarshal(log[len(log)-1], &s))
	assert.Equal(t, "done", s.Ended)
	assert.Equal(t, 24.0, s.Sore().SettledH)
	assert.True(t, s.FollowUp.Travelled)
	assert.Equal(t, today, s.FollowUp.On)
}

// A sign felt in the player is answered at once with what to do, and other devices hear of it; what was made before
// the end and arrives after it is taken into the log, what is made after it is not.
func TestASignInThePlayerIsAnswered(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	early := sent("late", "symptom", 0, `, "item": 1, "side": "none", "rep": 3`)
	_, page := p.mark(id, sent("s", "start", 0, ""), sent("a", "felt", 0, `, "item": 0, "side": "none", "felt": ["chest"]`))
	assert.Contains(t, page, "Stop and sit. Call the emergency number")
	_, page = p.mark(id, sent("b", "felt", 0, `, "item": 0, "side": "none", "felt": ["tiring"]`))
	seq := regexp.MustCompile(`"seq":(\d+)`).FindStringSubmatch(page)[1]
	assert.Contains(t, page, `"do":[]`)
	_, page = p.mark(id, sent("b2", "symptom", 0, `, "item": 0, "side": "none", "rep": 2, "travels": true`))
	assert.NotContains(t, page, `"do":[]`, "an answer is a sign too")
	_, page = p.do("GET", "/teach/"+id+"/marks?after="+seq, nil)
	assert.NotContains(t, page, `"chest"`)
	assert.Contains(t, page, `"travels":true`)
	_, page = p.do("GET", "/teach/"+id+"/data", nil)
	assert.Contains(t, page, `"stop_from":4`, "from 2, two points above the start")
	p.do("POST", "/teach/"+id+"/after", url.Values{})
	_, page = p.do("GET", "/teach/"+id+"/after", nil)
	assert.Contains(t, page, "Refer first: travelling down a limb was recorded")
	_, page = p.mark(id, early)
	assert.Contains(t, page, `"stored":["late"]`)
	time.Sleep(1100 * time.Millisecond)
	_, page = p.mark(id, sent("after", "felt", 0, `, "item": 0, "felt": ["tingling"]`))
	assert.Contains(t, page, "the session has ended")
	docs, err := p.store.Logs(context.Background(), 2)
	require.NoError(t, err)
	var s progress.Session
	require.NoError(t, json.Unmarshal(docs[len(docs)-1], &s))
	assert.Equal(t, 3, *s.Items[1].SymptomRep)
	assert.Equal(t, []string{"chest", "tiring", "travels-down"}, s.Items[0].Felt)
}

// A warning sign ticked in the intake is answered at once, on the next step and every other.
func TestASignInTheIntakeIsAnswered(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("POST", "/clients/new", url.Values{"name": {"Orrin Vale"}, "asked": {"yes"}, "red_flags": {"calf-swelling"}})
	assert.Contains(t, page, "Who, and what brings them")
	assert.Contains(t, page, "No exercise and no rubbing of the calf")
	_, page = p.do("POST", "/clients/1/today", url.Values{"red_flags": {"sudden-breathless"}})
	assert.Contains(t, page, "Call the emergency number now; sitting upright")
	_, page = p.do("GET", "/clients/1/intake/aims", nil)
	assert.Contains(t, page, "Call the emergency number now; sitting upright")
	_, page = p.do("GET", "/clients/2/intake/aims", nil)
	assert.NotContains(t, page, "Urgent medical help now")
}

// What an older release stored is kept and shown: a clearance by a friend clears nothing and stops
// nobody from saving, a new one is refused with the list; a role of before may be mended.
func TestAnUnknownRoleOfBeforeIsKept(t *testing.T) {
	p := start(t, true).signIn()
	id := p.keep(func(c *intake.Client) {
		c.Conditions = []intake.Condition{{Code: "spinal-fusion", Region: "lumbar", Date: today.AddMonths(-8)}}
		c.Clearances = []intake.Clearance{{Date: today.AddDays(-10), By: "friend", Covers: []string{"spinal-fusion"}}}
	})
	assert.Contains(t, p.page(id), "Does not clear spinal fusion:</strong> it takes doctor")
	code, page := p.do("POST", fmt.Sprintf("/clients/%d/intake/person", id), url.Values{"complaint": {"back"}, "go": {"client"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "back")
	path := fmt.Sprintf("/clients/%d/intake/clearances", id)
	_, page = p.do("GET", path, nil)
	assert.Contains(t, page, `value="friend" selected`)
	row := func(n int, by string) url.Values {
		pre := fmt.Sprintf("clearance.%d.", n)
		return url.Values{pre + "date": {today.AddDays(-10).String()}, pre + "by": {by}, pre + "covers": {"spinal-fusion"}}
	}
	both := row(0, "friend")
	for k, v := range row(1, "neighbour") {
		both[k] = v
	}
	code, page = p.do("POST", path, both)
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "found &#34;neighbour&#34;")
	assert.NotContains(t, page, "found &#34;friend&#34;", "what was there before is not asked again")
	code, _ = p.do("POST", path, row(0, "friend"))
	assert.Equal(t, 200, code)
	p.do("POST", path, row(0, "surgeon"))
	assert.Contains(t, p.page(id), "Clears spinal fusion through")
}

// Days that cannot be are refused where they were typed, a year alone is kept, and a condition on
// both sides stays on both.
func TestDaysInTheIntake(t *testing.T) {
	p := start(t, true).signIn()
	id := p.keep(func(c *intake.Client) {
		c.Conditions = []intake.Condition{{Code: "knee-pain", Side: "left"}, {Code: "knee-pain", Side: "right"}, {Code: "pregnancy", Due: today.AddDays(100)}}
	})
	path := fmt.Sprintf("/clients/%d/intake/conditions", id)
	_, page := p.do("GET", path, nil)
	assert.Contains(t, page, `name="condition.pregnancy.due" value="`+today.AddDays(100).String())
	assert.Regexp(t, `name="condition.knee-pain.side">.*value="both" selected`, page)
	tomorrow := today.AddDays(1).String()
	for field, c := range map[string]struct{ value, want string }{
		"condition.spinal-fusion.date": {tomorrow, "which lies after today"},
		"condition.pregnancy.date":     {tomorrow, "a due date goes into due"},
		"condition.pregnancy.due":      {today.AddDays(-30).String(), "it is postnatal"},
		"condition.spinal-fusion.":     {"x", ""},
	} {
		if c.want == "" {
			continue
		}
		code, page := p.do("POST", path, url.Values{"conditions": {"spinal-fusion", "pregnancy"}, field: {c.value}})
		assert.Equal(t, 422, code, field)
		assert.Contains(t, html.UnescapeString(page), c.want, field)
	}
	code, page := p.do("POST", path, url.Values{"conditions": {"spinal-fusion"}, "condition.spinal-fusion.date": {"the spring"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "found &#34;the spring&#34;, allowed: a real date")
	code, _ = p.do("POST", path, url.Values{"conditions": {"spinal-fusion"}, "condition.spinal-fusion.date": {"2019"}})
	assert.Equal(t, 200, code)
	_, page = p.do("GET", path, nil)
	assert.Contains(t, page, `value="2019"`)
}

// The practice's time zone says what is today; only who keeps the practice sets it.
func TestThePracticesTimeZone(t *testing.T) {
	p := start(t, true).signIn()
	p.server.Today = nil
	code, page := p.do("POST", "/practice/zone", url.Values{"time_zone": {"Pacific/Kiritimati"}})
	assert.Equal(t, 200, code)
	zone, err := time.LoadLocation("Pacific/Kiritimati")
	require.NoError(t, err)
	assert.Contains(t, page, "Today is "+trade.DayOf(time.Now(), zone).String()+" in Pacific/Kiritimati")
	again := serverOn(t, p.store)
	assert.Equal(t, trade.DayOf(time.Now(), zone), again.Today(), "kept over a restart")
	for _, bad := range []string{"Europe/Nowhere", "Local", "../etc"} {
		code, page = p.do("POST", "/practice/zone", url.Values{"time_zone": {bad}})
		assert.Equal(t, 422, code, bad)
		assert.Contains(t, page, "Time zone: found")
	}
	code, _ = p.do("POST", "/practice/zone", url.Values{"time_zone": {""}})
	assert.Equal(t, 200, code)
	assert.Equal(t, trade.DayOf(time.Now(), time.Local), p.server.Today())
}

// Sessions an older release kept as entries are folded into a log session once; symptoms stay symptoms, lost form
// is a fault, what was eased or skipped is a note; what was never closed ends at its last entry, not confirmed.
func TestSessionsOfBeforeAreFoldedOnce(t *testing.T) {
	ctx := context.Background()
	p := start(t, true).signIn()
	old := func(id int, ended, entries string) {
		_, err := p.store.DB.ExecContext(ctx, `INSERT INTO taught (id, client_id, day, plan, pain_start, soreness_peak, soreness_settled_h, notes, ended_at) VALUES (?, 3, ?, ?, 2, 2, 9, 'calm', nullif(?, ''))`, id, today.AddDays(-2).String(), `{"items": [{"version": "bridge", "dose": {"sets": 1, "reps": 8}}, {"version": "clam", "dose": {"sets": 1, "reps": 8}}, {"version": "saw", "dose": {"sets": 1, "reps": 8}}]}`, ended)
		require.NoError(t, err)
		for i, e := range strings.Split(entries, ";") {
			_, err := p.store.DB.ExecContext(ctx, `INSERT INTO entries (taught_id, key, kind, document, at) VALUES (?, ?, 'x', ?, '2026-01-01T09:30:00Z')`, id, fmt.Sprint(i), e)
			require.NoError(t, err)
		}
	}
	old(901, "2026-01-01T10:00:00Z", `{"kind":"symptom","item":0,"side":"none","rep":4};{"kind":"form","item":1,"side":"none","s":9};{"kind":"ease","item":2,"side":"none"};{"kind":"skip","item":2,"side":"none"}`)
	old(902, "", `{"kind": "done", "item": 0, "side": "none", "done": {"sets": 1, "reps": 8}, "ended_by": "target"}`)
	serverOn(t, p.store)
	waiting, err := p.store.Earlier(ctx)
	require.NoError(t, err)
	assert.Empty(t, waiting)
	read := func(id int64) (t0 store.Taught, s progress.Session) {
		t0, err := p.store.Teaching(ctx, 1, id)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(t0.Log, &s))
		return t0, s
	}
	closed, given := read(902)
	assert.Equal(t, "2026-01-01T09:30:00Z", closed.EndedAt.String)
	require.Len(t, given.Items, 1)
	assert.False(t, *given.Items[0].Confirmed)
	_, s := read(901)
	require.Len(t, s.Items, 3)
	assert.Equal(t, 4, *s.Items[0].SymptomRep)
	assert.Empty(t, s.Items[0].Felt)
	assert.Equal(t, []string{"other"}, s.Items[1].Faults())
	assert.Equal(t, progress.ByChoice, s.Items[2].EndedBy)
	assert.Equal(t, "calm\neased: saw\nskipped: saw", s.Notes)
	assert.Equal(t, 9.0, s.Sore().SettledH)
	// It opens, and is corrected like any other.
	code, page := p.do("POST", "/teach/901/correct", url.Values{"line": {"0"}, "done.sets": {"1"}, "done.reps": {"3"}, "why": {"counted again"}})
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "counted again")
	_, s = read(901)
	assert.Equal(t, 3, s.Items[0].Done.Reps)
	assert.Equal(t, 4, *s.Items[0].SymptomRep)
	code, _ = p.do("GET", "/teach/901/data", nil)
	assert.Equal(t, 409, code, "there is no score to play")
}

// A change of the conditions after a session asks for one session as things are now.
func TestAChangeAfterTheLastSessionHoldsAStepUp(t *testing.T) {
	p := start(t, true).signIn()
	assert.NotContains(t, p.page(1), "and no session since")
	_, page := p.do("POST", "/clients/1/intake/positions", url.Values{"positions.floor": {"yes"}, "positions.supine": {"yes"}, "positions.stand_free": {"yes"}, "go": {"client"}})
	assert.Contains(t, page, "the positions changed on "+today.String()+", and no session since")
}

// A session is its score and marks: on another device they lead to the same second; why it was ended early stands
// on the page after it.
func TestASessionIsScoreAndMarks(t *testing.T) {
	p := start(t, true).signIn()
	id := p.teach()
	var d struct {
		Score struct {
			Format   string
			Seconds  float64
			Segments []struct{ Kind string }
		}
		Words []struct{ Say string }
		Marks []struct{ Key, Kind, By string }
		Line  struct{ Points [][2]float64 }
	}
	_, data := p.do("GET", "/teach/"+id+"/data?words=key", nil)
	require.NoError(t, json.Unmarshal([]byte(data), &d))
	assert.Equal(t, "restbend.score/1", d.Score.Format)
	assert.Len(t, d.Words, len(d.Score.Segments), "words for every segment")
	require.NotEmpty(t, d.Line.Points)
	last := d.Line.Points[len(d.Line.Points)-1]
	assert.Equal(t, d.Score.Seconds, last[0])
	for _, pt := range d.Line.Points {
		assert.True(t, pt[1] >= 0 && pt[1] <= 1)
	}
	p.mark(id, sent("a", "start", 0, `, "mode": "flowing", "pain": 2, "by": "somebody else"`), sent("b", "end", 3, `, "because": "time"`))
	_, data = p.do("GET", "/teach/"+id+"/data", nil)
	require.NoError(t, json.Unmarshal([]byte(data), &d))
	require.Len(t, d.Marks, 2)
	assert.Equal(t, demo.Name, d.Marks[0].By, "who it was says the sign-in")
	_, page := p.do("GET", "/teach/"+id+"/after", nil)
	assert.Regexp(t, `value="time"[^>]* selected`, page)
	assert.Contains(t, page, "not reached")

	// Begin again goes on with the open session.
	_, page = p.do("POST", "/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"2"}})
	assert.Equal(t, id, teachPath.FindStringSubmatch(page)[1])

	// How somebody likes the player is kept with their account.
	code, _ := p.json("/preferences", `{"words": "key", "tones": {"half": true}, "keys": {"form": "g"}}`)
	assert.Equal(t, 204, code)
	_, data = p.do("GET", "/teach/"+id+"/data", nil)
	assert.Contains(t, data, `"keys":{"form":"g"}`)
	for _, bad := range []string{`{"words": "loud"}`, `{"hand": "both"}`, `{"keys": {"form": "` + strings.Repeat("x", 50) + `"}}`, `7`} {
		code, _ = p.json("/preferences", bad)
		assert.Contains(t, []int{400, 422}, code, bad)
	}
}
