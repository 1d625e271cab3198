package progress

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"restbend/core/catalogue"
)

// farApart is the most days between two sessions that count as running (common practice).
const farApart = 21

// Who a stopper stops.
const (
	everyone = "everyone" // every family of the client
	family   = "family"   // the family it was seen in
)

// look is what a stopper reads, newest last.
type look struct {
	in       *Input
	sessions []Session // all of them
	turns    []turn    // of the family, from the last two that count; empty when the whole client is asked about
	newest   []turn    // ... from the last one that counts
}

// stopper is one row of the table of what forbids a step up.
type stopper struct {
	who, decision string
	rule          string
	why           func(l *look) string // what was seen, empty when it was not
}

// Felt is the closed list of what a client can say; another word permits no step up until it
// is sorted. The program's own older words for "a symptom was logged" and "pain was logged"
// stand in fields of their own.
var Felt = []string{"pulling", "tiring", "pain", "symptom", "tingling", "numbness", "travels-down", "new-weakness", "dizziness", "chest", "breathless", "palpitations", "heaviness", "leaking", "doming"}

// stoppers is the table, strictest first within a decision (common practice; the hours of
// soreness as in the published advice quoted in the assessment tables).
var stoppers = []stopper{
	{everyone, ReferOn, "refer: the client must be seen first", func(l *look) string { return l.in.Refer }},
	{everyone, ReferOn, "refer: a red flag was recorded", func(l *look) string {
		for i := len(l.sessions) - 1; i >= 0; i-- {
			for _, flag := range l.sessions[i].RedFlags {
				if l.in.Cleared == nil || !l.in.Cleared(flag, date(l.sessions[i])) {
					return "red flag in the session of " + l.sessions[i].Date + ", not cleared since"
				}
			}
		}
		return ""
	}},
	{everyone, ReferOn, "refer: symptoms travel, a new weakness or a sign of heart or breath", felt("travels-down", "new-weakness", "numbness", "chest", "breathless", "palpitations")},
	{everyone, ReferOn, "refer: a warning sign ended the session", ended("warning-sign")},
	{everyone, ReferOn, "refer: dizzy in two sessions", func(l *look) string {
		if n := count(l.recent(), func(s Session) bool { return says(l.in, s, "dizziness") != "" }); n == 2 {
			return "dizziness was recorded in both of the last two sessions"
		}
		return ""
	}},
	{everyone, ReferOn, "refer: symptoms rising over two sessions in a row", func(l *look) string {
		if n := count(l.recent(), func(s Session) bool { return s.PainStart != nil && s.PainEnd != nil && *s.PainEnd >= *s.PainStart+1 }); n == 2 {
			return "pain was higher at the end than at the start in the last two sessions"
		}
		return ""
	}},
	{everyone, ReferOn, "refer: pain at the start is rising", func(l *look) string {
		n := len(l.sessions)
		if n < 3 {
			return ""
		}
		a, b, c := l.sessions[n-3].PainStart, l.sessions[n-2].PainStart, l.sessions[n-1].PainStart
		if a != nil && b != nil && c != nil && *a <= *b && *b <= *c && *c-*a >= 2 && *c >= 4 {
			return fmt.Sprintf("pain at the start rose from %g to %g over three sessions", *a, *c)
		}
		return ""
	}},
	{everyone, ReferOn, "refer: soreness beyond 36 h twice", func(l *look) string {
		if n := count(l.recent(), func(s Session) bool { return oldPainSettled(s) > 36 }); n == 2 {
			return "the old pain took longer than 36 h to settle after both of the last two sessions"
		}
		return ""
	}},
	{everyone, Rest, "rest: pain at start 7 or more", func(l *look) string {
		switch last := l.last(); {
		case l.in.PainNow != nil && *l.in.PainNow >= restPain:
			return fmt.Sprintf("pain is %g of 10 today: only breath, relaxation and comfortable positions", *l.in.PainNow)
		case last.PainStart != nil && *last.PainStart >= restPain:
			return fmt.Sprintf("pain at the start was %g of 10: only breath, relaxation and comfortable positions", *last.PainStart)
		}
		return ""
	}},

	{family, Down, "down: pain, lost form or long soreness", func(l *look) string {
		for _, t := range l.newest {
			for _, it := range t.all() {
				if it.Pain != nil && (l.in.stops(t.session.PainStart, *it.Pain) || it.Where != "" && *it.Pain > start(t.session)) {
					if it.Where == "" {
						return fmt.Sprintf("pain of %g of 10 came", *it.Pain)
					}
					return fmt.Sprintf("pain of %g of 10 came in the %s", *it.Pain, it.Where)
				}
			}
			for _, it := range t.items {
				if v, ok := l.in.Catalogue.Version(it.Version); ok && it.FormLostS != nil {
					lowest, _ := v.Steps(l.in.School)
					if half := float64(lowest[0].HoldSeconds(l.in.Breaths)) / 2; lowest[0].TotalReps() == 1 && *it.FormLostS < half {
						return fmt.Sprintf("form was lost at %g s, under half of the lowest dose", *it.FormLostS)
					}
				}
			}
			if h := oldPainSettled(t.session); h > 36 {
				return fmt.Sprintf("the old pain took %g h to settle", h)
			}
		}
		return ""
	}},
	{family, Down, "down: tingling, heaviness, leaking or doming", func(l *look) string {
		return saysIn(l.in, l.newest, "tingling", "heaviness", "leaking", "doming")
	}},

	{family, Stay, "stay: two clean sessions after a sign", func(l *look) string {
		for _, t := range l.turns {
			for _, it := range t.all() {
				switch {
				case it.SymptomRep != nil || it.SymptomS != nil || it.EndedBy == "symptom":
					return "a symptom came in " + l.in.name(it.Version) + " on " + t.session.Date
				case it.WarningRep != nil:
					return "a warning repetition came in " + l.in.name(it.Version) + " on " + t.session.Date
				case it.Pain != nil && l.in.stops(t.session.PainStart, *it.Pain):
					return fmt.Sprintf("pain of %g came in %s on %s", *it.Pain, l.in.name(it.Version), t.session.Date)
				}
			}
		}
		return saysIn(l.in, l.turns, "tingling", "heaviness", "leaking", "doming")
	}},
	{family, Stay, "stay: a fault of form was seen", func(l *look) string {
		for _, t := range l.turns {
			for _, it := range t.items {
				for _, word := range it.Seen {
					if word != "eased" && word != "skipped" { // notes of the player, not faults
						return word + " was seen in " + l.in.name(it.Version) + " on " + t.session.Date
					}
				}
			}
		}
		return ""
	}},
	{family, Stay, "stay: one side is missing", func(l *look) string {
		for _, t := range l.turns {
			for _, it := range t.items {
				v, ok := l.in.Catalogue.Version(it.Version)
				other := map[string]string{"left": "right", "right": "left"}[it.Side]
				if ok && v.SideMode == "each" && !oneSided(v) && other != "" &&
					!slices.ContainsFunc(t.items, func(o Item) bool { return o.Version == it.Version && o.Side == other }) {
					return "only the " + it.Side + " side of " + l.in.name(it.Version) + " was done on " + t.session.Date
				}
			}
		}
		return ""
	}},
	{family, Stay, "stay: soreness must settle within 24 h and be known", func(l *look) string {
		for k, t := range l.turns {
			s := t.session.Soreness
			switch {
			case s == nil:
				return "soreness after " + t.session.Date + " is unknown"
			case s.Kind == "muscle":
				gone := s.SettledH <= 72 || k+1 < len(l.turns) && date(t.session).Add(time.Duration(s.SettledH)*time.Hour).Before(date(l.turns[k+1].session))
				if s.Peak > 5 || !gone {
					return fmt.Sprintf("muscles were sore to %g of 10 for %g h after %s", s.Peak, s.SettledH, t.session.Date)
				}
			case s.SettledH > 24 || s.Kind == "" && s.Peak > 5:
				return fmt.Sprintf("soreness after %s was %g of 10 and took %g h to settle", t.session.Date, s.Peak, s.SettledH)
			}
		}
		return ""
	}},
	{family, Stay, "stay: a day that cannot be", func(l *look) string {
		for _, t := range l.turns {
			if d := date(t.session); d.IsZero() || d.After(l.in.Today) {
				return "the session of " + t.session.Date + " lies after today"
			}
		}
		return ""
	}},

	{everyone, Stay, "stay: pain over the stop limit in the last two sessions", func(l *look) string {
		for _, s := range l.recent() {
			for _, it := range s.Items {
				if it.Pain != nil && l.in.stops(s.PainStart, *it.Pain) {
					return fmt.Sprintf("pain of %g of 10 came in %s on %s", *it.Pain, l.in.name(it.Version), s.Date)
				}
			}
			if s.PainEnd != nil && l.in.stops(s.PainStart, *s.PainEnd) {
				return fmt.Sprintf("the session of %s ended with pain %g of 10", s.Date, *s.PainEnd)
			}
		}
		return ""
	}},
	{everyone, Stay, "stay: a session ended by pain or symptoms", ended("pain", "symptom")},
	{everyone, Stay, "stay: dizzy in one session", felt("dizziness")},
	{everyone, Stay, "stay: something was felt that is not sorted yet", func(l *look) string {
		for _, s := range l.recent() {
			for _, it := range s.Items {
				for _, word := range it.Felt {
					if !slices.Contains(Felt, word) {
						return fmt.Sprintf("%q was felt in %s on %s; say which of the known words it is", word, l.in.name(it.Version), s.Date)
					}
				}
			}
		}
		return ""
	}},
}

// hit is a stopper that was seen.
type hit struct{ rule, why string }

// seen looks for the stoppers of the whole client or of one family; the first row of each
// decision counts.
func (in *Input) seen(who string, l *look) map[string]hit {
	out := map[string]hit{}
	for _, s := range stoppers {
		if _, ok := out[s.decision]; ok || s.who != who {
			continue
		}
		if why := s.why(l); why != "" {
			out[s.decision] = hit{s.rule, why}
		}
	}
	return out
}

// recent are the client's last two sessions.
func (l *look) recent() []Session { return l.sessions[max(0, len(l.sessions)-2):] }
func (l *look) last() Session     { return l.sessions[len(l.sessions)-1] }

// stops is the stop rule: how much pain ends an exercise, given the pain at the start
// (common practice).
func (in *Input) stops(start *float64, pain float64) bool {
	s := 0.0
	if start != nil {
		s = *start
	}
	if s >= 5 {
		return pain >= s+1
	}
	return pain >= 5 || in.StopAbove > 0 && pain > in.StopAbove || pain >= s+2
}

func start(s Session) float64 {
	if s.PainStart == nil {
		return 0
	}
	return *s.PainStart
}

// oldPainSettled is the hours in which the old pain settled; muscles and what nobody named do
// not count.
func oldPainSettled(s Session) float64 {
	if s.Soreness == nil || s.Soreness.Kind != "old-pain" {
		return 0
	}
	return s.Soreness.SettledH
}

// oneSided tells that a version is done on one side on purpose: curve work.
func oneSided(v *catalogue.Version) bool {
	return strings.HasPrefix(v.Binds, "curve-")
}

func date(s Session) time.Time {
	d, err := time.Parse(time.DateOnly, s.Date)
	if err != nil {
		return time.Time{}
	}
	return d
}

func count(all []Session, is func(Session) bool) (n int) {
	for _, s := range all {
		if is(s) {
			n++
		}
	}
	return n
}

// name is what an exercise is called.
func (in *Input) name(slug string) string {
	if v, ok := in.Catalogue.Version(slug); ok {
		return v.Name
	}
	return slug
}

// says is the first of some felt words in a session, with where.
func says(in *Input, s Session, words ...string) string {
	for _, it := range s.Items {
		for _, f := range it.Felt {
			if slices.Contains(words, f) {
				return f + " was recorded in " + in.name(it.Version) + " on " + s.Date
			}
		}
	}
	return ""
}

func saysIn(in *Input, turns []turn, words ...string) string {
	for _, t := range turns {
		if why := says(in, Session{Date: t.session.Date, Items: t.all()}, words...); why != "" {
			return why
		}
	}
	return ""
}

func felt(words ...string) func(*look) string {
	return func(l *look) string {
		for _, s := range l.recent() {
			if why := says(l.in, s, words...); why != "" {
				return why
			}
		}
		return ""
	}
}

func ended(because ...string) func(*look) string {
	return func(l *look) string {
		for _, s := range l.recent() {
			if slices.Contains(because, s.Ended) {
				return "the session of " + s.Date + " was ended by: " + s.Ended
			}
		}
		return ""
	}
}
