package safety

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/intake"
	"restbend/core/trade"
)

// Clearing is who may clear what, and for how long.
type Clearing struct {
	Source      string            `yaml:"source"`
	Months      ClearingMonths    `yaml:"months"`
	Healed      map[string]int    `yaml:"healed"` // months after which a cleared operation holds until something changes
	Roles       []ClearingRole    `yaml:"roles"`
	Signs       []ClearingSign    `yaml:"signs"`        // of the log, that a clearance may cover
	DoctorsOnly []string          `yaml:"doctors_only"` // beside the urgent flags
	EndsSoon    int               `yaml:"ends_soon"`    // days ahead in which an end is announced
	Pregnancy   PregnancyReading  `yaml:"pregnancy"`
	roles       []trade.Clinician // in the order of the file
	may         map[trade.Clinician]string
}

// ClearingMonths is how long clearances hold, months.
type ClearingMonths struct {
	Default int `yaml:"default"`
	Most    int `yaml:"most"`
	Flag    int `yaml:"flag"` // of a red flag, at most
}

// ClearingRole is somebody who writes clearances: May is all, most (not what takes a doctor),
// nothing, or the code of the one condition beside what "most" may not.
type ClearingRole struct {
	Role trade.Clinician `yaml:"role"`
	May  string          `yaml:"may"`
}

// ClearingSign is a sign of the log that a clearance may cover.
type ClearingSign struct {
	Code   string `yaml:"code"`
	Name   string `yaml:"name"`
	Urgent bool   `yaml:"urgent"`
	Do     string `yaml:"do"` // what to do when it comes
}

// PregnancyReading is how the weeks of a pregnancy are read.
type PregnancyReading struct {
	Undated int `yaml:"undated"` // weeks at least, when nobody knows the day they were counted on
	Term    int `yaml:"term"`    // weeks at the due date
	Last    int `yaml:"last"`    // ... and the last that count
	GraceD  int `yaml:"grace_d"` // days a clearance holds after the due date
}

// What a role may clear.
const (
	mayAll     = "all"
	mayMost    = "most"
	mayNothing = "nothing"
)

func (c *Clearing) prepare() error {
	c.may = map[trade.Clinician]string{}
	for _, r := range c.Roles {
		c.roles = append(c.roles, r.Role)
		c.may[r.Role] = r.May
	}
	if c.Source == "" || len(c.roles) == 0 || c.Months.Default < 1 || c.Months.Most < c.Months.Default ||
		c.Months.Flag < 1 ||
		c.Pregnancy.Undated < 1 ||
		c.Pregnancy.Last < c.Pregnancy.Term {
		return fmt.Errorf("limits.yaml: clearing needs source, roles, months and pregnancy")
	}
	return nil
}

// ClearingRoles lists who may be recorded as having written a clearance.
func (r *Rules) ClearingRoles() []trade.Clinician { return r.Clearing.roles }

// ReadRole reads the role of a clinician as people write it; ok is false when it is not one
// of the list.
func (r *Rules) ReadRole(text string) (role trade.Clinician, ok bool) {
	role = trade.Clinician(strings.ReplaceAll(strings.ToLower(strings.TrimSpace(text)), " ", "-"))
	return role, slices.Contains(r.Clearing.roles, role)
}

// clearsAll tells whether a role clears everything.
func (r *Rules) clearsAll(role trade.Clinician) bool {
	return slices.ContainsFunc(r.Clearing.Roles, func(x ClearingRole) bool { return x.Role == role && x.May == mayAll })
}

// Clearers are the roles that may clear a condition or a red flag.
func (r *Rules) Clearers(code string) (out []trade.Clinician) {
	flag := slices.IndexFunc(r.RedFlags, func(f RedFlag) bool { return f.Code == code })
	doctor := slices.Contains(r.Clearing.DoctorsOnly, code) || flag >= 0 && r.RedFlags[flag].Urgent
	for _, role := range r.Clearing.Roles {
		switch role.May {
		case mayAll, code:
			out = append(out, role.Role)
		case mayMost:
			if !doctor {
				out = append(out, role.Role)
			}
		}
	}
	return out
}

// ClearedSince tells whether somebody who may has cleared a red flag on the day it was raised
// or later, and the clearance holds today.
func (s *Screener) ClearedSince(flag string, since trade.Day) bool {
	return slices.ContainsFunc(s.client.Clearances, func(cl intake.Clearance) bool {
		_, why := s.Clears(&cl, flag)
		return why == "" && !cl.Date.Before(since)
	})
}

// cleared tells whether a clearance covers a condition today.
func (s *Screener) cleared(k *intake.Condition) bool {
	return slices.ContainsFunc(s.client.Clearances, func(cl intake.Clearance) bool {
		_, why := s.Clears(&cl, k.Code)
		return why == ""
	})
}

// Clears tells through which day a clearance clears a condition or a red flag, or why it does
// not. The zero day means until something changes.
func (s *Screener) Clears(cl *intake.Clearance, code string) (through trade.Day, why string) {
	role, _ := s.rules.ReadRole(cl.By)
	clearers := s.rules.Clearers(code)
	switch {
	case !slices.Contains(cl.Covers, code):
		return through, "it does not cover it"
	case cl.Date.IsZero():
		return through, "its day is missing"
	case cl.Date.After(s.today):
		return through, "its day lies ahead"
	case !slices.Contains(clearers, role):
		return through, "it takes " + strings.Join(trade.Words(clearers), ", ")
	}
	months := s.rules.Clearing.Months
	end, most := cl.Until, cl.Date.AddMonths(months.Flag)
	if k := s.latest(code); k != nil {
		if cl.Date.Before(s.since(k)) {
			return through, "it was written before what it should clear"
		}
		due := s.due(k)
		switch most = cl.Date.AddMonths(months.Most); {
		case !due.IsZero():
			most = due.AddDays(s.rules.Clearing.Pregnancy.GraceD)
		case s.healed(k, cl.Date) && end.IsZero():
			return through, ""
		case s.healed(k, cl.Date):
			most = end
		case end.IsZero():
			most = cl.Date.AddMonths(months.Default)
		}
	}
	if end.IsZero() || end.After(most) {
		end = most
	}
	if s.today.After(end) {
		return end, "it ended on " + end.String()
	}
	return end, ""
}

// latest is the entry of a condition that a clearance must answer: of two the later.
func (s *Screener) latest(code string) (k *intake.Condition) {
	for i := range s.client.Conditions {
		if o := &s.client.Conditions[i]; o.Code == code && (k == nil || s.since(o).After(s.since(k))) {
			k = o
		}
	}
	return k
}

// since is the day of what a clearance of the condition must come after: an operation, a
// fracture, the start of a pregnancy. A day to come is today; it is the zero day when nothing
// is recorded.
func (s *Screener) since(c *intake.Condition) (at trade.Day) {
	due := s.due(c)
	switch weeks, _ := s.pregnantWeeks(c); {
	case !due.IsZero():
		at = s.today.AddDays(-int(7 * weeks))
	case c.Weeks > 0 && (c.Date.IsZero() || c.Code == intake.Pregnancy):
		at = s.today.AddDays(-7 * c.Weeks)
	case c.Code != intake.Pregnancy:
		at = c.Began()
	}
	if c.FractureDate.After(at) {
		at = c.FractureDate
	}
	if at.After(s.today) {
		return s.today
	}
	return at
}

// due is the day a child is due; the zero day for other conditions and when it is not known.
func (s *Screener) due(c *intake.Condition) trade.Day {
	switch {
	case c.Code != intake.Pregnancy:
		return trade.Day{}
	case !c.Due.IsZero():
		return c.Due
	case c.Weeks > 0 && !c.Date.IsZero() && !c.Date.After(s.today):
		return c.Date.AddDays(7 * (s.rules.Clearing.Pregnancy.Term - c.Weeks))
	}
	return trade.Day{}
}

// pregnantWeeks are the weeks of a pregnancy today, counted from a due date or from a day they
// were counted on; of two that differ the more. What nobody dated is read as late enough for the
// limits to hold. known is false for other conditions.
func (s *Screener) pregnantWeeks(c *intake.Condition) (weeks float64, known bool) {
	if c.Code != intake.Pregnancy {
		return 0, false
	}
	read := s.rules.Clearing.Pregnancy
	dated := false
	if !c.Due.IsZero() {
		if w := float64(read.Term) - float64(c.Due.Since(s.today))/7; w >= 0 {
			weeks, dated = w, true
		}
	}
	if c.Weeks > 0 && !c.Date.IsZero() && !c.Date.After(s.today) {
		weeks, dated = max(weeks, float64(c.Weeks)+float64(s.today.Since(c.Date))/7), true
	}
	if !dated {
		weeks = max(float64(c.Weeks), float64(read.Undated))
	}
	return weeks, true
}

// healed tells that the operation was long past when it was cleared.
func (s *Screener) healed(c *intake.Condition, cleared trade.Day) bool {
	months := s.rules.Clearing.Healed[c.Code]
	return months > 0 && !c.Date.IsZero() && !c.Date.AddMonths(months).After(cleared)
}
