package safety

import (
	"slices"
	"strings"

	"restbend/core/intake"
	"restbend/core/trade"
)

// Referral says whether anything must be seen by a clinician first.
func (s *Screener) Referral() *Referral {
	ref := &Referral{}
	var reasons, do []string
	for _, f := range s.client.RedFlags {
		since := f.Since
		if since.IsZero() || since.After(s.today) {
			since = s.today
		}
		if s.ClearedSince(f.Code, since) {
			continue
		}
		ref.Flags = append(ref.Flags, f.Code)
		if rf, ok := s.rules.Flag(f.Code); ok && rf.Urgent {
			ref.Urgent = true
		}
	}
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		for _, r := range rule.Refer {
			if s.applies(k, r.When) && s.refers(k, &r) {
				reasons = append(reasons, r.Reason)
				ref.Urgent = ref.Urgent || r.Urgent
				if r.Do != "" && !slices.Contains(do, r.Do) {
					do = append(do, r.Do)
				}
				if !slices.Contains(ref.Flags, k.Code) {
					ref.Flags = append(ref.Flags, k.Code)
				}
			}
		}
	}
	if ref.Flags == nil {
		return nil
	}
	ref.Do = append(s.rules.Act(ref.Flags...), do...)
	ref.Say = "See a clinician before exercising"
	if ref.Urgent {
		ref.Say = "Urgent medical help now"
	}
	ref.Why = reasons
	if reasons != nil {
		ref.Say += ": " + strings.Join(reasons, "; ")
	}
	return ref
}

// refers tells whether a rule asks for a clinician now: until a day is long enough ago, which
// nothing lifts; until a clearance; or always, where it says neither.
func (s *Screener) refers(k *intake.Condition, r *Refer) bool {
	if on, asked := s.answered(k, r); asked {
		return !s.clearedBy(k, r, on)
	}
	if r.Weeks > 0 {
		at := k.DayOf(r.Date)
		if at.IsZero() && r.Date == "date" && k.Weeks > 0 {
			return k.Weeks < r.Weeks
		}
		if at.IsZero() && r.Recorded {
			return false
		}
		return (at.IsZero() || s.today.Before(at.AddDays(7*r.Weeks))) && !(r.Clearance && s.clearedBy(k, r, trade.Day{}))
	}
	return !r.Clearance || !s.clearedBy(k, r, trade.Day{})
}

// answered tells whether a rule hangs on a question that is asked before each session, and the day
// it was answered with yes; a yes without a day counts as today's.
func (s *Screener) answered(k *intake.Condition, r *Refer) (on trade.Day, asked bool) {
	for name := range r.When {
		if d, _ := s.rules.Detail(name, k.Code); d.Now {
			if on = k.DayOf(name + saidOn); on.IsZero() || on.After(s.today) {
				on = s.today
			}
			return on, true
		}
	}
	return on, false
}

// clearedBy tells whether a clearance of a day or later lifts what a rule asks for: any that
// clears the condition, or one of the roles it names, with limits where it wants them; what is
// urgent only those who may clear everything.
func (s *Screener) clearedBy(k *intake.Condition, r *Refer, from trade.Day) bool {
	return slices.ContainsFunc(s.client.Clearances, func(cl intake.Clearance) bool {
		_, why := s.Clears(&cl, k.Code)
		role, _ := s.rules.ReadRole(cl.By)
		may := r.By == nil || slices.Contains(r.By, string(role))
		if r.Urgent {
			may = may && s.rules.clearsAll(role)
		}
		return why == "" && may && !cl.Date.Before(from) && (!r.Limits || strings.TrimSpace(cl.Limits) != "")
	})
}
