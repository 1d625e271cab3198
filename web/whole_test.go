package web_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/intake"
)

// whole is a client who brings more than a back.
func (p *practice) whole() int64 {
	return p.keep(func(c *intake.Client) {
		c.Conditions = []intake.Condition{
			{Code: "heart-condition", More: map[string]any{"kind": "stent", "since": today.AddMonths(-9).String(), "flat_ok": false}},
			{Code: "knee-osteoarthritis", Side: "left"},
			{Code: "inflammatory-arthritis", More: map[string]any{"flare": false, "joints": []string{"neck", "wrist"}}},
			{Code: "stenosis"},
		}
		c.Clearances = []intake.Clearance{{Date: today.AddDays(-30), By: "specialist", Covers: []string{"heart-condition"}}}
	})
}

// What the conditions ask of every session is on each page of it, and a yes to one of their
// questions stops it and says what to do.
func TestWishesAndQuestionsOfConditions(t *testing.T) {
	p := start(t, true).signIn()
	id := p.whole()
	plan := p.planned(id)
	for _, path := range []string{fmt.Sprintf("/clients/%d", id), plan, plan + "/start", plan + "/print"} {
		_, page := p.do("GET", path, nil)
		assert.Contains(t, page, "Talk test: they can speak a sentence all the time", path)
		assert.Contains(t, page, "Palpitations, faintness, a cold sweat.", path)
		assert.Contains(t, page, "their own spray as prescribed", path)
	}
	_, page := p.do("GET", plan+"/start", nil)
	assert.Contains(t, page, "Chest pain or pressure, now or lately?")
	assert.Contains(t, page, "Clumsy hands, or legs that do not obey?")
	_, page = p.do("GET", p.planned(1)+"/start", nil)
	assert.NotContains(t, page, "Chest pain or pressure, now or lately?", "nobody else is asked")
	_, page = p.do("POST", plan+"/start", url.Values{"question": {"heart-condition/chest_pain"}, "clear": {"yes"}, "pain": {"1"}})
	assert.Contains(t, page, "Urgent medical help now")
	assert.Contains(t, page, "Call the emergency number when it does not pass at once")
	_, page = p.do("GET", fmt.Sprintf("/clients/%d/verdicts", id), nil)
	assert.Contains(t, page, "Urgent medical help now")
	// A no in today's check lifts nothing; a clearance of today does.
	_, page = p.do("POST", fmt.Sprintf("/clients/%d/today", id), url.Values{})
	assert.Contains(t, page, "Urgent medical help now")
	_, page = p.do("POST", fmt.Sprintf("/clients/%d/intake/clearances", id), url.Values{"clearance.0.date": {today.String()}, "clearance.0.by": {"doctor"}, "clearance.0.covers": {"heart-condition"}, "go": {"client"}})
	assert.NotContains(t, page, "Urgent medical help now")
	assert.Contains(t, page, "exercises suit as they stand")
	assert.Contains(t, page, "Ask first about heart condition")
}

// Every detail of every condition can be typed, is kept, and is read back as it was typed.
func TestEveryDetailIsAskedAndKept(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	rules, err := restbend.Rules()
	require.NoError(t, err)
	id := p.keep(func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "reflux"}} })
	path := fmt.Sprintf("/clients/%d/intake/conditions", id)
	for _, rule := range rules.Conditions {
		typed, want := url.Values{"conditions": {rule.Code}}, map[string]any{}
		for _, ask := range rule.Asks {
			d, _ := rules.Detail(ask, rule.Code)
			name := "condition." + rule.Code + "." + ask
			switch d.Kind {
			case "choice":
				typed.Set(name, d.Options[len(d.Options)-1])
				want[ask] = d.Options[len(d.Options)-1]
			case "several":
				typed[name], want[ask] = d.Options[:2], d.Options[:2]
			case "yes":
				typed.Set(name, "yes")
				want[ask] = true
			case "number":
				typed.Set(name, "3")
				want[ask] = 3.0
			case "text":
				typed.Set(name, "L4-S1")
				want[ask] = "L4-S1"
			case "past":
				typed.Set(name, today.AddDays(-200).String())
				want[ask] = today.AddDays(-200).String()
			case "day":
				typed.Set(name, map[bool]string{true: today.AddDays(100).String(), false: today.AddDays(-3).String()}[ask == "due"])
				want[ask] = typed.Get(name)
			}
			if d.Now {
				want[ask+"_on"] = today.String()
			}
		}
		_, page := p.do("GET", path, nil)
		for name := range typed {
			assert.Contains(t, page, `name="`+name+`"`, "%s is asked", name)
		}
		code, page := p.do("POST", path, typed)
		require.Equal(t, 200, code, "%s: %s", rule.Code, page[:min(400, len(page))])
		row, err := p.store.Client(t.Context(), 1, id)
		require.NoError(t, err)
		c := &intake.Client{}
		require.NoError(t, json.Unmarshal(row.Document, c))
		require.Len(t, c.Conditions, 1, rule.Code)
		assert.Equal(t, rule.Code, c.Conditions[0].Code)
		assert.Equal(t, want, c.Conditions[0].Details(), rule.Code)
		_, page = p.do("GET", path, nil)
		for name, values := range typed {
			at := regexp.MustCompile(`(?s)<input[^>]*name="` + regexp.QuoteMeta(name) + `"[^>]*>|<select[^>]*name="` + regexp.QuoteMeta(name) + `"[^>]*>.*?</select>`)
			shown := strings.Join(at.FindAllString(page, -1), "\n")
			for _, v := range values {
				mark := ""
				switch {
				case strings.HasPrefix(shown, "<select"):
					mark = " selected"
				case strings.Contains(shown, `type="checkbox"`):
					mark = " checked"
				}
				assert.Contains(t, shown, `value="`+v+`"`+mark, "%s is read back", name)
			}
		}
		// What is left open again is gone.
		for name := range typed {
			switch {
			case name == "conditions":
			case strings.HasSuffix(name, ".joints"):
				delete(typed, name)
			default:
				typed[name] = []string{""}
			}
		}
		code, _ = p.do("POST", path, typed)
		require.Equal(t, 200, code, rule.Code)
		row, err = p.store.Client(t.Context(), 1, id)
		require.NoError(t, err)
		c = &intake.Client{}
		require.NoError(t, json.Unmarshal(row.Document, c))
		assert.Empty(t, c.Conditions[0].Details(), "%s: what is left open again is gone", rule.Code)
	}
}
