package people

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/figure"
	"restbend/web/site"
)

// filler reads one step of the form into a client. Numbers that are not numbers are
// problems; everything else is judged by the format's own schema afterwards. What a step
// does not show stays as it is.
type filler struct {
	c        *intake.Client
	v        url.Values
	build    string
	rules    *safety.Rules
	today    trade.Day // the day a new red flag is raised on
	complete bool      // the intake was complete before
	problems exchange.Problems
}

func (f *filler) wrong(path, text string, a ...any) {
	f.problems = append(f.problems, exchange.Problem{Path: path, Text: fmt.Sprintf(text, a...)})
}

func (f *filler) text(field string) string { return strings.TrimSpace(f.v.Get(field)) }

func (f *filler) number(field string) float64 {
	t := f.text(field)
	if t == "" {
		return 0
	}
	v, err := site.TypedNumber(t)
	if err != nil {
		f.wrong(field, "found %q, allowed: a number", t)
	}
	return v
}

func (f *filler) whole(field string) int {
	v := f.number(field)
	if v != float64(int(v)) {
		f.wrong(field, "found %v, allowed: a whole number", v)
	}
	return int(v)
}

func (f *filler) flag(field string) *bool {
	switch f.text(field) {
	case "yes":
		t := true
		return &t
	case "no":
		no := false
		return &no
	}
	return nil
}

// day reads a day; a field may take a year alone.
func (f *filler) day(field string) (d trade.Day) {
	if err := d.UnmarshalText([]byte(f.text(field))); err != nil {
		f.wrong(field, "%v", err)
	}
	return d
}

// words reads words parted by commas or spaces.
func (f *filler) words(field string) []string {
	if f.text(field) == "" {
		return nil
	}
	return strings.FieldsFunc(f.v.Get(field), func(r rune) bool { return r == ',' || r == ' ' || r == '\n' || r == '\r' })
}

func (f *filler) list(field string) []string { return append([]string{}, f.v[field]...) }

func (f *filler) start() {
	c := f.c
	c.Name = f.text("name")
	if c.Name == "" {
		f.wrong("name", "is missing")
	} else if why := site.NameProblem(c.Name); why != "" {
		f.wrong("name", "%s", strings.TrimPrefix(why, "Name: "))
	}
	before := c.RedFlags
	c.RedFlags = nil
	for _, code := range f.list("red_flags") {
		flag := intake.Flag{Code: code, Since: f.today}
		if i := slices.IndexFunc(before, func(b intake.Flag) bool { return b.Code == code }); i >= 0 {
			flag = before[i]
		}
		c.RedFlags = append(c.RedFlags, flag)
	}
	if f.text("asked") != "yes" {
		f.wrong("red_flags", "confirm that every question was asked")
	}
	c.Consent = nil
	if day := f.day("consent.date"); !day.IsZero() {
		c.Consent = &intake.Consent{Date: day, Note: f.text("consent.note")}
	}
}

func (f *filler) person() {
	c := f.c
	c.Complaint, c.History, c.Sex, c.Notes = f.text("complaint"), f.text("history"), f.text("sex"), f.text("notes")
	c.Born, c.HeightCM, c.YoungHeight, c.MassKG = f.whole("born"), f.number("height_cm"), f.number("young_adult_height_cm"), f.number("mass_kg")
	if b := f.text("build"); b != "" {
		if _, ok := figure.Builds[b]; ok {
			f.build = b
		}
	}
}

func (f *filler) conditions() {
	before := f.c.Conditions
	f.c.Conditions = []intake.Condition{}
	for _, code := range f.v["conditions"] {
		k := intake.Condition{Code: code}
		for _, old := range before { // details other steps ask for stay
			if old.Code == code {
				k = old
			}
		}
		f.c.Conditions = append(f.c.Conditions, f.condition(k))
	}
}

// condition reads the details one condition asks for; what was not shown stays, and so do pain
// and directions, which have a step of their own.
func (f *filler) condition(k intake.Condition) intake.Condition {
	rule, _ := f.rules.Rule(k.Code)
	if rule == nil {
		return k
	}
	for _, ask := range rule.Asks {
		d, _ := f.rules.Detail(ask, k.Code)
		name := "condition." + k.Code + "." + ask
		if _, shown := f.v[name]; !shown && d.Kind != "several" || d.Kind == "pain" {
			continue
		}
		var value any
		switch d.Kind {
		case "number":
			value = f.number(name)
		case "yes":
			if value = any(""); f.flag(name) != nil {
				value = *f.flag(name)
			}
		case "day", "past":
			value = f.day(name).String()
		case "several":
			if value = any(""); len(f.v[name]) > 0 {
				value = f.list(name)
			}
		default:
			value = f.text(name)
		}
		next, err := f.rules.Say(k, ask, value, f.today)
		if err != nil {
			f.wrong(name, "found %q, allowed: %s", f.text(name),
				map[bool]string{true: "a whole number", false: d.Kind}[d.Kind == "number"])
			continue
		}
		k = next
	}
	return k
}

func (f *filler) clearances() {
	c := f.c
	before := c.Clearances
	c.Operations, c.Clearances = nil, nil
	for i := range 40 {
		p := fmt.Sprintf("operation.%d.", i)
		if what, date := f.text(p+"what"), f.day(p+"date"); what != "" || !date.IsZero() {
			if what == "" {
				f.wrong(p+"what", "is missing: what was operated")
			}
			c.Operations = append(c.Operations, intake.Operation{What: what, Date: date})
		}
		p = fmt.Sprintf("clearance.%d.", i)
		cl := intake.Clearance{Date: f.day(p + "date"), By: f.text(p + "by"), Covers: f.list(p + "covers"),
			Limits: f.text(p + "limits"), Until: f.day(p + "until"), Forbids: f.words(p + "forbids")}
		if f.text(p+"date")+cl.By+cl.Limits+f.text(p+"until") == "" && len(cl.Covers)+len(cl.Forbids) == 0 {
			continue
		}
		if f.text(p+"date") == "" {
			f.wrong(p+"date", "is missing, allowed: a real date as 2026-11-20")
		}
		if cl.By == "" {
			f.wrong(p+"by", "is missing: the role of the person who cleared")
		}
		if len(cl.Covers) == 0 {
			f.wrong(p+"covers", "tick what the clearance covers")
		}
		for _, old := range before { // what was confirmed against the same words stays
			if old.Date == cl.Date && old.By == cl.By && old.Limits == cl.Limits {
				cl.Confirmed = old.Confirmed
			}
		}
		c.Clearances = append(c.Clearances, cl)
	}
}

func (f *filler) pain() {
	c := f.c
	c.Pain = nil
	if f.text("pain.now")+f.text("pain.worst_24h")+f.text("pain.stop_above") != "" {
		c.Pain = &intake.Pain{Now: f.number("pain.now"), Worst: f.number("pain.worst_24h"),
			StopAbove: f.number("pain.stop_above"), On: f.today}
		if f.text("pain.now") == "" {
			c.Pain.On = trade.Day{} // nobody asked now
		}
	}
	for i := range c.Conditions {
		k := &c.Conditions[i]
		switch k.Code {
		case "low-back-pain":
			k.ProvokedBy = f.list("provoked_by")
			if len(k.ProvokedBy) == 0 {
				k.ProvokedBy = nil
			}
		case "disc-sciatica":
			k.Preference = f.text("preference")
		}
	}
}

func (f *filler) positions() {
	f.c.Positions = map[string]string{}
	for _, p := range placeAsks {
		if a := f.text("positions." + p.Name); a != "" {
			f.c.Positions[p.Name] = a
		}
	}
	f.c.FloorMax = nil
	if f.text("floor_transfers_max") != "" {
		n := f.whole("floor_transfers_max")
		f.c.FloorMax = &n
	}
}

func (f *filler) place() {
	f.c.Kit, f.c.Surfaces = f.list("kit"), trade.List[trade.Surface](f.list("surfaces"))
	if len(f.c.Surfaces) == 0 {
		f.wrong("surfaces", "tick at least one place to work on")
	}
	f.c.Activity, f.c.Place, f.c.Afraid = f.text("activity"), f.text("where"), f.text("afraid") != ""
}

func (f *filler) aims() {
	c := f.c
	was, proposal := c.Aims, true
	c.Aims = map[string]float64{}
	for _, a := range catalogue.Aims {
		amount := f.text("aims." + a)
		proposal = proposal && amount == f.text("proposed."+a)
		if amount == "" {
			continue
		}
		w, ok := facts.WeightOf(amount)
		if !ok {
			f.wrong("aims."+a, "found %q, allowed: %s", amount, strings.Join(facts.Amounts, ", "))
		}
		if facts.AmountOf(was[a]) == amount { // the same in words: its weight stays
			w = was[a]
		}
		c.Aims[a] = w
	}
	if proposal && len(was) == 0 { // what is proposed goes on following conditions, age and tasks
		c.Aims = map[string]float64{}
	}
	c.Tasks = nil
	for _, t := range append(strings.Split(f.v.Get("tasks"), "\n"), f.v["task"]...) {
		if t = strings.TrimSpace(t); t != "" && !slices.Contains(c.Tasks, t) {
			c.Tasks = append(c.Tasks, t)
		}
	}
	c.Confidence = nil
	if f.text("confidence") != "" {
		n := f.whole("confidence")
		c.Confidence = &n
	}
}

func (f *filler) schools() {
	c := f.c
	c.Schools.Core, c.Schools.Dose, c.Schools.Order, c.Schools.Sides = f.text("core"), f.text("dose"), f.text("order"), f.text("sides")
	c.RestS = nil
	if f.text("rest_s") != "" {
		n := f.whole("rest_s")
		c.RestS = &n
	}
	c.BreathRate, c.EffortCap, c.SessionsPerWeek = f.number("breaths_per_minute"), f.whole("effort_cap"), f.whole("sessions_per_week")
	c.NextReview = f.day("next_review")
}

// formValues are the values of a form as it is filled from a client.
type formValues struct{ url.Values }

func (v formValues) text(k, s string) {
	if s != "" {
		v.Set(k, s)
	}
}

func (v formValues) number(k string, f float64) {
	if f != 0 {
		v.Set(k, strconv.FormatFloat(f, 'f', -1, 64))
	}
}

func (v formValues) whole(k string, n *int) {
	if n != nil {
		v.Set(k, strconv.Itoa(*n))
	}
}

func (v formValues) yes(k string, b *bool) {
	if b != nil {
		v.Set(k, map[bool]string{true: "yes", false: "no"}[*b])
	}
}

// valuesOf turns a client back into the form's values.
func valuesOf(c *intake.Client) url.Values {
	v := formValues{url.Values{"asked": {"yes"}}}
	v.person(c)
	v.wishes(c)
	v.conditions(c.Conditions)
	for i, o := range c.Operations {
		v.text(fmt.Sprintf("operation.%d.what", i), o.What)
		v.text(fmt.Sprintf("operation.%d.date", i), o.Date.String())
	}
	for i, cl := range c.Clearances {
		pre := fmt.Sprintf("clearance.%d.", i)
		v.text(pre+"date", cl.Date.String())
		v.text(pre+"by", cl.By)
		v.text(pre+"limits", cl.Limits)
		v.text(pre+"until", cl.Until.String())
		v.text(pre+"forbids", strings.Join(cl.Forbids, ", "))
		v.Values[pre+"covers"] = slices.Clone(cl.Covers)
	}
	return v.Values
}

// person fills in who somebody is and how they are.
func (v formValues) person(c *intake.Client) {
	v.text("name", c.Name)
	v.text("complaint", c.Complaint)
	v.text("history", c.History)
	v.text("notes", c.Notes)
	v.text("sex", c.Sex)
	v.text("activity", c.Activity)
	if c.Afraid {
		v.text("afraid", "yes")
	}
	v.number("born", float64(c.Born))
	v.number("height_cm", c.HeightCM)
	v.number("young_adult_height_cm", c.YoungHeight)
	v.number("mass_kg", c.MassKG)
	v.whole("confidence", c.Confidence)
	if c.Consent != nil {
		v.text("consent.date", c.Consent.Date.String())
		v.text("consent.note", c.Consent.Note)
	}
	if c.Pain != nil {
		v.Set("pain.now", strconv.FormatFloat(c.Pain.Now, 'f', -1, 64))
		v.Set("pain.worst_24h", strconv.FormatFloat(c.Pain.Worst, 'f', -1, 64))
		v.number("pain.stop_above", c.Pain.StopAbove)
	}
	for _, f := range c.RedFlags {
		v.Add("red_flags", f.Code)
	}
}

// wishes fills in where and how somebody is taught.
func (v formValues) wishes(c *intake.Client) {
	v.text("where", c.Place)
	v.text("next_review", c.NextReview.String())
	v.number("breaths_per_minute", c.BreathRate)
	v.number("effort_cap", float64(c.EffortCap))
	v.number("sessions_per_week", float64(c.SessionsPerWeek))
	v.whole("floor_transfers_max", c.FloorMax)
	v.Values["kit"], v.Values["surfaces"] = slices.Clone(c.Kit), trade.Words(c.Surfaces)
	for k, a := range c.Positions {
		v.Set("positions."+k, a)
	}
	for a, w := range c.Aims {
		v.Set("aims."+a, facts.AmountOf(w))
	}
	v.Set("tasks", strings.Join(c.Tasks, "\n"))
	v.text("core", c.Schools.Core)
	v.text("dose", c.Schools.Dose)
	v.text("order", c.Schools.Order)
	v.text("sides", c.Schools.Sides)
	v.whole("rest_s", c.RestS)
}

// conditions fills in conditions with their details.
func (v formValues) conditions(list []intake.Condition) {
	for _, k := range list {
		v.Add("conditions", k.Code)
		pre := "condition." + k.Code + "."
		for d, value := range k.Details() {
			switch x := value.(type) {
			case string:
				v.text(pre+d, x)
			case bool:
				v.yes(pre+d, &x)
			case float64:
				v.number(pre+d, x)
			case []string:
				v.Values[pre+d] = x
			}
		}
		if slices.ContainsFunc(list, func(o intake.Condition) bool { return o.Code == k.Code && o.Side != k.Side }) {
			v.Set(pre+"side", "both") // two entries on different sides mean both
		}
		if k.Code == "low-back-pain" {
			v.Values["provoked_by"] = slices.Clone(k.ProvokedBy)
		}
		if k.Code == "disc-sciatica" {
			v.text("preference", k.Preference)
		}
	}
}
