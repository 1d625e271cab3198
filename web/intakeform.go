package web

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/safety"
	"restbend/exchange"
)

// fill reads the intake form into a client. Numbers that are not numbers are problems;
// everything else is judged by the format's own schema afterwards.
func fill(c *safety.Client, v url.Values) exchange.Problems {
	var out exchange.Problems
	number := func(field string) float64 {
		t := strings.TrimSpace(strings.ReplaceAll(v.Get(field), ",", "."))
		if t == "" {
			return 0
		}
		f, err := strconv.ParseFloat(t, 64)
		if err != nil {
			out = append(out, exchange.Problem{Path: field, Text: fmt.Sprintf("found %q, allowed: a number", t)})
		}
		return f
	}
	whole := func(field string) int {
		f := number(field)
		if f != float64(int(f)) {
			out = append(out, exchange.Problem{Path: field, Text: fmt.Sprintf("found %v, allowed: a whole number", f)})
		}
		return int(f)
	}
	c.Format = "restbend.client/1"
	c.Name, c.Complaint, c.Sex = strings.TrimSpace(v.Get("name")), strings.TrimSpace(v.Get("complaint")), v.Get("sex")
	c.Born, c.HeightCM, c.MassKG = whole("born"), number("height_cm"), number("mass_kg")
	c.RedFlags = append([]string{}, v["red_flags"]...)
	c.BreathRate, c.EffortCap = number("breaths_per_minute"), whole("effort_cap")
	c.Kit, c.Surfaces = append([]string{}, v["kit"]...), append([]string{}, v["surfaces"]...)
	c.FloorMax = nil
	if v.Get("floor_transfers_max") != "" {
		n := whole("floor_transfers_max")
		c.FloorMax = &n
	}
	c.Pain = nil
	if v.Get("pain.now") != "" || v.Get("pain.worst_24h") != "" || v.Get("pain.stop_above") != "" {
		c.Pain = &safety.Pain{Now: number("pain.now"), Worst: number("pain.worst_24h"), StopAbove: number("pain.stop_above")}
	}
	c.Positions = map[string]string{}
	for _, p := range placeAsks {
		if a := v.Get("positions." + p.Name); a != "" {
			c.Positions[p.Name] = a
		}
	}
	c.Aims = map[string]float64{}
	for _, a := range catalogue.Aims {
		if w := number("aims." + a); w > 0 {
			c.Aims[a] = w
		}
	}
	c.Tasks = nil
	for _, t := range strings.Split(v.Get("tasks"), "\n") {
		if t = strings.TrimSpace(t); t != "" {
			c.Tasks = append(c.Tasks, t)
		}
	}
	c.Schools = safety.Schools{Core: v.Get("core"), Dose: v.Get("dose"), Order: v.Get("order"), SidePlank: c.Schools.SidePlank}
	before := c.Conditions
	c.Conditions = []safety.Condition{}
	for _, code := range v["conditions"] {
		k := safety.Condition{Code: code}
		for _, old := range before { // details the form does not show stay
			if old.Code == code {
				k = old
			}
		}
		fillCondition(&k, v, number)
		c.Conditions = append(c.Conditions, k)
	}
	fillClearance(c, v)
	return out
}

// fillClearance reads the one clearance the form shows; further ones stay.
func fillClearance(c *safety.Client, v url.Values) {
	var others []safety.Clearance
	if len(c.Clearances) > 1 {
		others = c.Clearances[1:]
	}
	if v.Get("clearance.date") == "" && v.Get("clearance.by") == "" && len(v["clearance.covers"]) == 0 {
		c.Clearances = others
		return
	}
	c.Clearances = append([]safety.Clearance{{Date: v.Get("clearance.date"), By: strings.TrimSpace(v.Get("clearance.by")), Covers: append([]string{}, v["clearance.covers"]...),
		Limits: v.Get("clearance.limits"), Until: v.Get("clearance.until")}}, others...)
}

// fillCondition reads the details the form shows for one condition.
func fillCondition(k *safety.Condition, v url.Values, number func(string) float64) {
	get := func(d string) string { return v.Get("condition." + k.Code + "." + d) }
	flag := func(d string) *bool {
		switch get(d) {
		case "yes":
			t := true
			return &t
		case "no":
			f := false
			return &f
		}
		return nil
	}
	k.Phase, k.Side, k.Preference, k.School = get("phase"), get("side"), get("preference"), get("school")
	k.FractureDate, k.Region, k.Convex, k.Date = get("fracture_date"), get("region"), get("convex"), get("date")
	k.ProvokedBy = v["condition."+k.Code+".provoked_by"]
	k.Fracture, k.Progressing = flag("vertebral_fracture"), flag("progressing")
	k.Degrees = number("condition." + k.Code + ".degrees")
}

// valuesOf turns a client back into the form's values.
func valuesOf(c *safety.Client) url.Values {
	v := url.Values{"asked": {"yes"}}
	set := func(k, s string) {
		if s != "" {
			v.Set(k, s)
		}
	}
	num := func(k string, f float64) {
		if f != 0 {
			v.Set(k, strconv.FormatFloat(f, 'f', -1, 64))
		}
	}
	set("name", c.Name)
	set("complaint", c.Complaint)
	set("sex", c.Sex)
	num("born", float64(c.Born))
	num("height_cm", c.HeightCM)
	num("mass_kg", c.MassKG)
	num("breaths_per_minute", c.BreathRate)
	num("effort_cap", float64(c.EffortCap))
	if c.FloorMax != nil {
		v.Set("floor_transfers_max", strconv.Itoa(*c.FloorMax))
	}
	if c.Pain != nil {
		v.Set("pain.now", strconv.FormatFloat(c.Pain.Now, 'f', -1, 64))
		v.Set("pain.worst_24h", strconv.FormatFloat(c.Pain.Worst, 'f', -1, 64))
		num("pain.stop_above", c.Pain.StopAbove)
	}
	v["red_flags"], v["kit"], v["surfaces"] = slices.Clone(c.RedFlags), slices.Clone(c.Kit), slices.Clone(c.Surfaces)
	for k, a := range c.Positions {
		v.Set("positions."+k, a)
	}
	for a, w := range c.Aims {
		num("aims."+a, w)
	}
	v.Set("tasks", strings.Join(c.Tasks, "\n"))
	set("core", c.Schools.Core)
	set("dose", c.Schools.Dose)
	set("order", c.Schools.Order)
	yes := func(k string, b *bool) {
		if b != nil {
			v.Set(k, map[bool]string{true: "yes", false: "no"}[*b])
		}
	}
	for _, k := range c.Conditions {
		v.Add("conditions", k.Code)
		pre := "condition." + k.Code + "."
		for d, val := range map[string]string{"phase": k.Phase, "side": k.Side, "preference": k.Preference, "school": k.School, "fracture_date": k.FractureDate, "region": k.Region, "convex": k.Convex, "date": k.Date} {
			set(pre+d, val)
		}
		num(pre+"degrees", k.Degrees)
		yes(pre+"vertebral_fracture", k.Fracture)
		yes(pre+"progressing", k.Progressing)
		v[pre+"provoked_by"] = slices.Clone(k.ProvokedBy)
	}
	if len(c.Clearances) > 0 {
		cl := c.Clearances[0]
		set("clearance.date", cl.Date)
		set("clearance.by", cl.By)
		set("clearance.limits", cl.Limits)
		set("clearance.until", cl.Until)
		v["clearance.covers"] = slices.Clone(cl.Covers)
	}
	return v
}
