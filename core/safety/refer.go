package safety

import (
	"slices"
	"strings"
)

// Referral says whether anything must be seen by a clinician first.
func (s *Screener) Referral() *Referral {
	ref := &Referral{}
	var reasons []string
	for _, f := range s.client.RedFlags {
		since, ok := day(f.Since)
		if !ok || since.After(s.today) {
			since = s.today
		}
		if s.ClearedSince(f.Code, since) {
			continue
		}
		ref.Flags = append(ref.Flags, f.Code)
		for _, rf := range s.rules.RedFlags {
			if rf.Code == f.Code && rf.Urgent {
				ref.Urgent = true
			}
		}
	}
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		for _, r := range rule.Refer {
			if s.applies(k, r.When) && s.refers(k, &r) {
				reasons = append(reasons, r.Reason)
				if !slices.Contains(ref.Flags, k.Code) {
					ref.Flags = append(ref.Flags, k.Code)
				}
			}
		}
	}
	if ref.Flags == nil {
		return nil
	}
	ref.Say = "See a clinician before exercising"
	if ref.Urgent {
		ref.Say = "Urgent medical help now"
	}
	if reasons != nil {
		ref.Say += ": " + strings.Join(reasons, "; ")
	}
	return ref
}

func (s *Screener) refers(k *Condition, r *Refer) bool {
	if r.Weeks > 0 {
		d, ok := day(k.detail(r.Date))
		if !ok && r.Date == "date" && k.Weeks > 0 {
			return k.Weeks < r.Weeks
		}
		return !ok || s.today.Before(d.AddDate(0, 0, 7*r.Weeks))
	}
	return r.Clearance && !s.cleared(k)
}
