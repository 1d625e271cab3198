package facts

import (
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/trade"
)

// New screens a client, reads the log and gathers everything a session needs, on a day.
func New(
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	tasks []catalogue.Task,
	c *intake.Client,
	log *progress.Log,
	minutes int,
	today trade.Day,
) (*Request, error) {
	c = c.On(today)
	s, err := safety.NewScreener(rules, cat, c, today)
	if err != nil {
		return nil, err
	}
	r := &Request{
		Catalogue: cat,
		Client:    c,
		Screener:  s,
		Screening: s.Screen(),
		Tasks:     tasks,
		Minutes:   minutes,
		Today:     today,
		Cautions:  append(s.Limits(), rules.Cautions...),
	}
	if log == nil {
		r.Whole, _ = r.Decide(&progress.Log{}, today)
		return r, nil
	}
	r.Log = log
	r.Ask.Banned = log.NotAgain()
	r.Whole, r.Decisions = r.Decide(log, today)
	var last trade.Day
	for _, sess := range log.Sessions {
		for _, it := range sess.Items {
			if it.Begun() && !slices.Contains(r.Seen, it.Version) {
				r.Seen = append(r.Seen, it.Version)
			}
		}
		if !sess.Date.Before(last) {
			last = sess.Date
			r.Last = nil
			for _, it := range sess.Items {
				if it.Begun() && !slices.Contains(r.Last, it.Version) {
					r.Last = append(r.Last, it.Version)
				}
			}
		}
	}
	return r, nil
}

// Decide gives the progress decisions of the client's log under today's verdicts, referral,
// clinicians' words, pain and caps.
func (r *Request) Decide(log *progress.Log, today trade.Day) (*progress.Whole, []progress.Decision) {
	c, sc := r.Client, r.Screening
	in := wholeInput(c, r.Screener, sc.Refer, log, today)
	in.Catalogue, in.School, in.SidePlank, in.Breaths = r.Catalogue, c.DoseSchool(), c.Schools.SidePlank, c.BreathRate
	in.EffortCap, in.Levels = c.EffortCap, c.Levels
	in.Suits, in.Unread = r.suits, r.Screener.Unconfirmed
	in.Instead = func(slug string) []string {
		res, ok := sc.Result(slug)
		if !ok {
			return nil
		}
		return append([]string{res.Use}, res.Swaps...)
	}
	in.Cap = func(v *catalogue.Version, d dose.Dose) (dose.Dose, string) {
		capped, why := r.Screener.CapDose(v, d, c.BreathRate)
		return capped, strings.Join(why, "; ")
	}
	return progress.Decide(in)
}

// ForEveryone says what holds for a whole client on a day, nil when nothing does.
func ForEveryone(
	cat *catalogue.Catalogue,
	s *safety.Screener,
	c *intake.Client,
	log *progress.Log,
	today trade.Day,
) *progress.Whole {
	in := wholeInput(c.On(today), s, s.Referral(), log, today)
	in.Catalogue = cat
	return progress.ForEveryone(in)
}

// wholeInput is what decides for the whole client.
func wholeInput(
	c *intake.Client,
	s *safety.Screener,
	refer *safety.Referral,
	log *progress.Log,
	today trade.Day,
) progress.Input {
	in := progress.Input{Log: *log, Today: today, Changed: changes(c), Cleared: s.ClearedSince}
	if refer != nil {
		in.Refer = refer.Say
	}
	if c.Pain != nil {
		in.StopAbove, in.PainNow = c.Pain.StopAbove, &c.Pain.Now
	}
	return in
}

// suits tells whether the verdict lets a version in now.
func (r *Request) suits(slug string) bool {
	res, ok := r.Screening.Result(slug)
	return ok && (res.Verdict == trade.Suits || res.Verdict == trade.Adapt && res.Use == slug)
}

// changes are what happened to a client by the record: operations, fractures, new conditions,
// and what the history of the record adds.
func changes(c *intake.Client) (out []progress.Change) {
	for _, o := range c.Operations {
		if !o.Date.IsZero() {
			out = append(out, progress.Change{Day: o.Date, What: "an operation (" + o.What + ")"})
		}
	}
	for _, k := range c.Conditions {
		if !k.Date.IsZero() && k.Code != intake.Pregnancy {
			out = append(out, progress.Change{Day: k.Date, What: strings.ReplaceAll(k.Code, "-", " ")})
		}
		if !k.FractureDate.IsZero() {
			out = append(out, progress.Change{Day: k.FractureDate, What: "a fracture"})
		}
	}
	for _, ch := range c.Changed {
		out = append(out, progress.Change{Day: ch.Day, What: ch.What})
	}
	return out
}
