package safety

import (
	"slices"
	"strings"
	"time"
)

// undatedWeeks is how weeks of pregnancy are read at least when the day they were counted on is
// missing or lies ahead (common practice: the strict reading).
const undatedWeeks = 16

// How long a clearance holds, months (common practice).
const (
	holdsDefault = 6
	holdsAtMost  = 12
	flagHolds    = 6  // of a red flag, at most
	fusionHealed = 12 // a fusion older than this when it was cleared: until something changes
	jointHealed  = 6  // ... and a replaced joint
)

// Who may clear what; other people's words are recorded and shown, and clear nothing alone
// (common practice).
var (
	doctors    = []string{"doctor", "gp", "specialist", "surgeon"}
	onlyDoctor = []string{"cancer-history-new-pain", "weight-loss", "fever-unwell", "sudden-bone-pain", "night-pain-unrelieved", "high-blood-pressure"}
)

// clearers are the roles that may clear a condition or a red flag.
func (r *Rules) clearers(code string) []string {
	flag := slices.IndexFunc(r.RedFlags, func(f RedFlag) bool { return f.Code == code })
	out := slices.Clone(doctors)
	if slices.Contains(onlyDoctor, code) || flag >= 0 && r.RedFlags[flag].Urgent {
		return out
	}
	out = append(out, "physiotherapist")
	if code == "pregnancy" {
		out = append(out, "midwife")
	}
	return out
}

func (r *Rules) mayClear(by, code string) bool {
	return slices.Contains(r.clearers(code), strings.ToLower(strings.TrimSpace(by)))
}

// ClearedSince tells whether somebody who may has cleared a red flag on the day it was raised
// or later, and the clearance holds today.
func (s *Screener) ClearedSince(flag string, since time.Time) bool {
	return slices.ContainsFunc(s.client.Clearances, func(cl Clearance) bool {
		from, _ := day(cl.Date)
		_, why := s.Clears(&cl, flag)
		return why == "" && !from.Before(since)
	})
}

// cleared tells whether a clearance covers a condition today.
func (s *Screener) cleared(k *Condition) bool {
	return slices.ContainsFunc(s.client.Clearances, func(cl Clearance) bool {
		_, why := s.Clears(&cl, k.Code)
		return why == ""
	})
}

// Clears tells through which day a clearance clears a condition or a red flag, or why it does
// not. The zero day means until something changes.
func (s *Screener) Clears(cl *Clearance, code string) (through time.Time, why string) {
	from, ok := day(cl.Date)
	switch {
	case !slices.Contains(cl.Covers, code):
		return through, "it does not cover it"
	case !ok:
		return through, "its day is missing"
	case from.After(s.today):
		return through, "its day lies ahead"
	case !s.rules.mayClear(cl.By, code):
		return through, "it takes " + strings.Join(s.rules.clearers(code), ", ")
	}
	end, written := day(cl.Until)
	most := from.AddDate(0, flagHolds, 0)
	i := slices.IndexFunc(s.client.Conditions, func(k Condition) bool { return k.Code == code })
	if i >= 0 {
		k := &s.client.Conditions[i]
		for j := range s.client.Conditions { // of two entries of one condition the later counts
			if o := &s.client.Conditions[j]; o.Code == code && o.since(s.today).After(k.since(s.today)) {
				k = o
			}
		}
		if from.Before(k.since(s.today)) {
			return through, "it was written before what it should clear"
		}
		switch most = from.AddDate(0, holdsAtMost, 0); {
		case k.healed(from) && !written:
			return through, ""
		case k.healed(from):
			most = end
		case !written:
			most = from.AddDate(0, holdsDefault, 0)
		}
	}
	if !written || end.After(most) {
		end = most
	}
	if s.today.After(end) {
		return end, "it ended on " + end.Format(time.DateOnly)
	}
	return end, ""
}

// since is the day of what a clearance of the condition must come after: an operation, a
// fracture, the start of a pregnancy. It is the zero day when nothing is recorded.
func (c *Condition) since(today time.Time) time.Time {
	at, ok := day(c.Date)
	switch {
	case ok && c.Code == "pregnancy":
		at = at.AddDate(0, 0, -7*c.Weeks)
	case !ok && c.Weeks > 0:
		at = today.AddDate(0, 0, -7*c.Weeks)
	}
	if broken, ok := day(c.FractureDate); ok && broken.After(at) {
		at = broken
	}
	if at.After(today) {
		return time.Time{}
	}
	return at
}

// healed tells that the operation was long past when it was cleared.
func (c *Condition) healed(cleared time.Time) bool {
	at, ok := day(c.Date)
	months := map[string]int{"spinal-fusion": fusionHealed, "hip-replacement": jointHealed, "knee-replacement": jointHealed}[c.Code]
	return ok && months > 0 && !at.AddDate(0, months, 0).After(cleared)
}

// fractured is the recorded answer; the date of a fracture means a fracture whatever else is
// written.
func (c *Condition) fractured() *bool {
	if c.FractureDate != "" {
		yes := true
		return &yes
	}
	return c.Fracture
}
