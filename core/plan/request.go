package plan

import (
	"slices"
	"time"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/safety"
)

// NewRequest screens a client, reads the log and gathers everything a session needs.
// Today is used where the client's own date is absent.
func NewRequest(cat *catalogue.Catalogue, rules *safety.Rules, tasks []catalogue.Task, c *safety.Client, log *progress.Log, minutes int, today time.Time) (*Request, error) {
	s, err := safety.NewScreener(rules, cat, c, today)
	if err != nil {
		return nil, err
	}
	r := &Request{Catalogue: cat, Client: c, Screener: s, Screening: s.Screen(), Tasks: tasks, Minutes: minutes, Cautions: rules.Cautions}
	if d, err := time.Parse(time.DateOnly, c.Today.Date); err == nil {
		today = d
	}
	if log == nil {
		return r, nil
	}
	r.Log = log
	r.Decisions = r.Decide(log, today)
	last := ""
	for _, sess := range log.Sessions {
		for _, it := range sess.Items {
			if !slices.Contains(r.Seen, it.Version) {
				r.Seen = append(r.Seen, it.Version)
			}
		}
		if sess.Date >= last {
			last = sess.Date
			r.Last = nil
			for _, it := range sess.Items {
				if !slices.Contains(r.Last, it.Version) {
					r.Last = append(r.Last, it.Version)
				}
			}
		}
	}
	return r, nil
}

// Decide gives the progress decisions of the client's log under today's verdicts, referral,
// pain and caps.
func (r *Request) Decide(log *progress.Log, today time.Time) []progress.Decision {
	c, sc := r.Client, r.Screening
	in := progress.Input{Catalogue: r.Catalogue, School: c.DoseSchool(), Breaths: c.BreathRate, Log: *log, Today: today,
		Suits: func(slug string) bool {
			res, ok := sc.Result(slug)
			return ok && (res.Verdict == safety.Suits || res.Verdict == safety.Adapt && res.Use == slug)
		},
		Cleared: func(flag string, since time.Time) bool { return r.Screener.ClearedSince(flag, since) },
		Cap: func(v *catalogue.Version, d dose.Dose) (dose.Dose, string) {
			limit, reason := r.Screener.HoldCap(v.Effort)
			if limit == 0 {
				return d, ""
			}
			capped, did := d.CapHold(limit, c.BreathRate)
			if !did {
				return d, ""
			}
			return capped, reason
		},
	}
	if sc.Refer != nil {
		in.Refer = sc.Refer.Say
	}
	if c.Pain != nil {
		in.PainNow, in.StopAbove = &c.Pain.Now, c.Pain.StopAbove
	}
	return progress.Decide(in)
}
