package plan

import (
	"slices"
	"time"

	"restbend/core/catalogue"
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
	r.Decisions = Decide(cat, c, r.Screening, log, today)
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

// Decide gives the progress decisions of a client's log under today's verdicts.
func Decide(cat *catalogue.Catalogue, c *safety.Client, sc *safety.Screening, log *progress.Log, today time.Time) []progress.Decision {
	return progress.Decide(progress.Input{Catalogue: cat, School: c.DoseSchool(), Breaths: c.BreathRate, Log: *log, Today: today,
		Suits: func(slug string) bool {
			r, ok := sc.Result(slug)
			return ok && (r.Verdict == safety.Suits || r.Verdict == safety.Adapt && r.Use == slug)
		}})
}
