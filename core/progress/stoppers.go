package progress

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// The numbers of the table (common practice, as are its rules; hours of soreness after exercise
// that hurts an old pain are a working default).
const (
	restPain     = 7  // of 10, at the start or now: a day of rest
	stopPain     = 5  // of 10: ends an exercise that began below it
	stopRise     = 2  // points above a start below stopPain
	stopRiseHigh = 1  // points above a higher start
	endRise      = 2  // points above the start at the end of a session
	risePoints   = 2  // points the start rises over three sessions
	riseFrom     = 4  // ... to at least
	settledH     = 24 // hours in which an old pain settles
	longH        = 36 // hours after which it was too much
	soreMost     = 5  // of 10
	farApart     = 21 // days between two sessions that count as running, at most
	absenceStep  = 22 // days: a step of the dose back
	absenceRung  = 28 // ... a rung
	absenceTest  = 56 // ... a rung, and tests before building up
)

// Who a stopper stops.
const (
	everyone = "everyone" // every family of the client
	family   = "family"   // the family it was seen in
)

// look is what a stopper reads, newest last. The window is the client's last two sessions, or
// all sessions since the last but one of a family.
type look struct {
	in       *Input
	sessions []Session // all of them
	window   []Session
	turns    []turn // of the family, from the last two that count; empty when the whole client is asked about
	newest   []turn // ... from the last one that counts
}

func (l *look) last() *Session {
	if len(l.sessions) == 0 {
		return &Session{}
	}
	return &l.sessions[len(l.sessions)-1]
}

// next is the day of the session after a day, and that it has begun; today where there is none yet.
func (l *look) next(day trade.Day) (next trade.Day, begun bool) {
	for i := range l.sessions {
		if l.sessions[i].Date.After(day) {
			return l.sessions[i].Date, true
		}
	}
	return l.in.Today, false
}

// PainRising is what a clearance covers where pain rose or did not settle.
const PainRising = "pain-rising"

// open tells that no clinician has cleared what came up in a session, on its day or later.
func (l *look) open(code string, s *Session) bool {
	return l.in.Cleared == nil || !l.in.Cleared(code, s.Date)
}

// Stopper is one row of the table of what forbids a step up.
type Stopper struct {
	Who      string
	Decision trade.Decision
	Rule     string
	Change   string // what would change the decision
	Source   string
	why      func(l *look) string // what was seen, empty when it was not
}

const (
	common = "common practice"
	again  = "a clinician's clearance of what was seen, and a clean session after it"
	clean2 = "two clean sessions running"
)

// Stoppers is the table, strictest first within a decision.
func Stoppers() []Stopper { return slices.Clone(stoppers) }

var stoppers = []Stopper{
	{
		everyone,
		trade.Refer,
		"refer: the client must be seen first",
		"a clearance, or the end of what asks for one",
		common,
		func(l *look) string { return l.in.Refer },
	},
	{
		everyone,
		trade.Refer,
		"refer: a red flag was recorded",
		"a clearance of the flag, dated on its day or later",
		common,
		func(l *look) string {
			for i := len(l.sessions) - 1; i >= 0; i-- {
				for _, flag := range l.sessions[i].RedFlags {
					if l.open(flag, &l.sessions[i]) {
						return "red flag in the session of " + l.sessions[i].Date.String() + ", not cleared since"
					}
				}
			}
			return ""
		},
	},
	{
		everyone,
		trade.Refer,
		"refer: symptoms travel, a new weakness or a sign of heart or breath",
		again,
		common,
		func(l *look) string {
			for i := range l.window {
				for _, word := range Urgent {
					if why := says(l.in, &l.window[i], word); why != "" && l.open(word, &l.window[i]) {
						return why
					}
				}
			}
			return ""
		},
	},
	{everyone, trade.Refer, "refer: symptoms travelled afterwards", again, common, func(l *look) string {
		for _, s := range l.window {
			if s.FollowUp != nil && s.FollowUp.Travelled && l.open("travels-down", &s) {
				return "symptoms travelled after the session of " + s.Date.String()
			}
		}
		return ""
	}},
	{everyone, trade.Refer, "refer: a warning sign ended the session", again, common, func(l *look) string {
		for _, s := range l.window {
			if s.Ended == WarningSign && l.open("warning-sign", &s) {
				return "a warning sign ended the session of " + s.Date.String()
			}
		}
		return ""
	}},
	{everyone, trade.Refer, "refer: dizzy in two sessions", again, common, func(l *look) string {
		if n := count(l.window, func(s *Session) bool {
			return says(l.in, s, "dizziness") != "" &&
				l.open("dizziness", s)
		}); n >= 2 {
			return "dizziness was recorded in two of the last sessions"
		}
		return ""
	}},
	{everyone, trade.Refer, "refer: symptoms rising over two sessions in a row", again, common, func(l *look) string {
		n := len(l.sessions)
		rose := func(s *Session) bool {
			return l.open(PainRising, s) && s.PainStart != nil && s.PainEnd != nil && *s.PainEnd >= *s.PainStart+1
		}
		if n >= 2 && rose(&l.sessions[n-1]) && rose(&l.sessions[n-2]) && *l.sessions[n-1].PainEnd > *l.sessions[n-2].PainEnd {
			return "pain was higher at the end than at the start in the last two sessions, and higher the second time"
		}
		return ""
	}},
	{everyone, trade.Refer, "refer: pain at the start is rising", again, common, func(l *look) string {
		n := len(l.sessions)
		if n < 3 {
			return ""
		}
		a, b, c := l.sessions[n-3].PainStart, l.sessions[n-2].PainStart, l.sessions[n-1].PainStart
		if a != nil && b != nil && c != nil && l.open(PainRising, &l.sessions[n-1]) && *a <= *b && *b <= *c &&
			*c-*a >= risePoints &&
			*c >= riseFrom {
			return fmt.Sprintf("pain at the start rose from %g to %g over three sessions", *a, *c)
		}
		return ""
	}},
	{everyone, trade.Refer, "refer: soreness beyond 36 h twice", again, common, func(l *look) string {
		if n := count(l.window, func(s *Session) bool { return oldPainSettled(s) > longH && l.open(PainRising, s) }); n >= 2 {
			return fmt.Sprintf("the old pain took longer than %d h to settle after two of the last sessions", longH)
		}
		return ""
	}},
	{everyone, trade.Rest, "rest: pain at start 7 or more", "pain below 7 at the start", common, func(l *look) string {
		switch last := l.last(); {
		case l.in.PainNow != nil && *l.in.PainNow >= restPain:
			return fmt.Sprintf("pain is %g of 10 today: only breath, relaxation and comfortable positions", *l.in.PainNow)
		case last.PainStart != nil && *last.PainStart >= restPain:
			return fmt.Sprintf(
				"pain at the start was %g of 10: only breath, relaxation and comfortable positions",
				*last.PainStart,
			)
		}
		return ""
	}},

	{family, trade.Down, "down: pain, lost form or long soreness", clean2, common, func(l *look) string {
		for _, t := range l.newest {
			for _, it := range t.all() {
				if it.Pain != nil && (l.in.stops(t.session.PainStart, *it.Pain) || it.Where != "" && *it.Pain > start(&t.session)) {
					if it.Where == "" {
						return fmt.Sprintf("pain of %g of 10 came", *it.Pain)
					}
					return fmt.Sprintf("pain of %g of 10 came in the %s", *it.Pain, strings.ReplaceAll(it.Where, "-", " "))
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
			if h := oldPainSettled(&t.session); h > longH {
				return fmt.Sprintf("the old pain took %g h to settle", h)
			}
		}
		return ""
	}},
	{family, trade.Down, "down: tingling, heaviness, leaking or doming", clean2, common, func(l *look) string {
		return saysIn(l.in, l.newest, "tingling", "heaviness", "leaking", "doming")
	}},
	{family, trade.Down, "down: worse after two sessions", clean2, common, func(l *look) string {
		if n := count(sessionsOf(l.turns), worse); n >= 2 {
			return "it was worse after two of the last sessions"
		}
		return ""
	}},

	{family, trade.Stay, "stay: two clean sessions after a sign", clean2, common, func(l *look) string {
		for _, t := range l.turns {
			for _, it := range t.all() {
				switch {
				case slices.ContainsFunc(it.Signs(), func(s Sign) bool { return !s.Warning }) || it.EndedBy == BySymptom:
					return "a symptom came in " + l.in.name(it.Version) + " on " + t.session.Date.String()
				case len(it.Signs()) > 0:
					return "a warning came in " + l.in.name(it.Version) + " on " + t.session.Date.String()
				case it.Pain != nil && l.in.stops(t.session.PainStart, *it.Pain):
					return fmt.Sprintf("pain of %g came in %s on %s", *it.Pain, l.in.name(it.Version), t.session.Date)
				}
			}
		}
		return saysIn(l.in, l.turns, "tingling", "heaviness", "leaking", "doming")
	}},
	{
		family,
		trade.Stay,
		"stay: a fault of form was seen",
		"two sessions without a fault that one cue does not mend",
		common,
		func(l *look) string {
			for _, t := range l.turns {
				for _, it := range t.all() { // also of what was left by choice; a trial may have faults
					if it.Trial {
						continue
					}
					for _, word := range it.Faults() {
						return word + " was seen in " + l.in.name(it.Version) + " on " + t.session.Date.String()
					}
				}
			}
			return ""
		},
	},
	{family, trade.Stay, "stay: one side is missing", "both sides in two sessions running", common, func(l *look) string {
		for _, t := range l.turns {
			for _, it := range t.items {
				v, ok := l.in.Catalogue.Version(it.Version)
				if ok && v.SideMode != trade.None && !oneSided(v) && it.Side.One() &&
					!slices.ContainsFunc(t.items, func(o Item) bool { return o.Version == it.Version && o.Side == it.Side.Other() }) {
					name := l.in.name(it.Version)
					return fmt.Sprintf("only the %s side of %s was done on %s", it.Side, name, t.session.Date)
				}
			}
		}
		return ""
	}},
	{
		family,
		trade.Stay,
		"stay: soreness must settle within 24 h, of muscles before the next session, and be known",
		"an answer on how sore, for how long and what, and a session that settles",
		common,
		func(l *look) string {
			for _, t := range l.turns {
				s := t.session.Sore()
				switch {
				case s == nil:
					return "soreness after " + t.session.Date.String() + " is unknown"
				case s.Kind == Muscle:
					if s.Peak > soreMost {
						return fmt.Sprintf("muscles were sore to %g of 10 after %s", s.Peak, t.session.Date)
					}
					next, begun := l.next(t.session.Date)
					if hours := float64(24 * next.Since(t.session.Date)); s.SettledH > hours || begun && s.SettledH == hours {
						return fmt.Sprintf("muscles were sore for %g h after %s, still when the next session began", s.SettledH,
							t.session.Date)
					}
				case s.SettledH > settledH || s.Kind == "" && s.Peak > soreMost:
					return fmt.Sprintf("soreness after %s was %g of 10 and took %g h to settle", t.session.Date, s.Peak, s.SettledH)
				}
			}
			return ""
		},
	},

	{everyone, trade.Stay, "stay: a day that cannot be", "the day corrected", common, func(l *look) string {
		for _, s := range l.sessions {
			if s.Date.IsZero() || s.Date.After(l.in.Today) {
				return "the day of a session, " + s.Date.String() + ", lies after today or is unknown"
			}
		}
		return ""
	}},
	{
		everyone,
		trade.Stay,
		"stay: pain over the stop limit in the last two sessions",
		"two sessions below the limit",
		common,
		func(l *look) string {
			for _, s := range l.window {
				for _, it := range s.Items {
					if it.Pain != nil && l.in.stops(s.PainStart, *it.Pain) {
						return fmt.Sprintf("pain of %g of 10 came in %s on %s", *it.Pain, l.in.name(it.Version), s.Date)
					}
				}
				if s.PainEnd != nil && (l.in.stops(s.PainStart, *s.PainEnd) || *s.PainEnd >= start(&s)+endRise) {
					return fmt.Sprintf("the session of %s ended with pain %g of 10", s.Date, *s.PainEnd)
				}
			}
			return ""
		},
	},
	{
		everyone,
		trade.Stay,
		"stay: pain at the start was 7 or more in the last two sessions",
		"two sessions that begin below 7",
		common,
		func(l *look) string {
			for _, s := range l.window {
				if s.PainStart != nil && *s.PainStart >= restPain {
					return fmt.Sprintf("pain at the start was %g of 10 on %s", *s.PainStart, s.Date)
				}
			}
			return ""
		},
	},
	{
		everyone,
		trade.Stay,
		"stay: a session ended by pain or symptoms",
		"two sessions that end as planned",
		common,
		ended("pain", "symptom"),
	},
	{
		everyone,
		trade.Stay,
		"stay: a warning sign in the last two sessions, cleared since",
		clean2,
		common,
		func(l *look) string {
			for i := range l.window {
				s := &l.window[i]
				switch why := says(l.in, s, Urgent...); {
				case why != "":
					return why
				case s.Ended == WarningSign, s.FollowUp != nil && s.FollowUp.Travelled:
					return "a sign came in or after the session of " + s.Date.String()
				}
			}
			return ""
		},
	},
	{everyone, trade.Stay, "stay: dizzy in one session", "two sessions without dizziness", common, felt("dizziness")},
	{
		everyone,
		trade.Stay,
		"stay: worse after a session",
		"two sessions after which it is the same or better",
		common,
		func(l *look) string {
			for _, s := range l.window {
				if worse(&s) {
					return "it was worse after the session of " + s.Date.String()
				}
			}
			return ""
		},
	},
	{
		everyone,
		trade.Stay,
		"stay: something was felt that is not sorted yet",
		"saying which of the known words it is",
		common,
		func(l *look) string {
			for _, s := range l.window {
				for _, it := range s.Items {
					for _, word := range it.Felt {
						if !slices.Contains(Felt, word) {
							return fmt.Sprintf(
								"%q was felt in %s on %s; say which of the known words it is",
								word,
								l.in.name(it.Version),
								s.Date,
							)
						}
					}
				}
			}
			return ""
		},
	},
	{
		everyone,
		trade.Stay,
		"stay: something changed since the last session",
		"one session as things are now",
		common,
		func(l *look) string {
			for _, c := range l.in.Changed {
				if !c.Day.Before(l.last().Date) {
					return c.What + " on " + c.Day.String() + ", and no session since"
				}
			}
			return ""
		},
	},
	{family, trade.Stay, "stay: a session with a warning sign is never clean", clean2, common, func(l *look) string {
		for _, t := range l.turns {
			if len(Signs(t.session)) > 0 {
				return "a warning sign came in or after the session of " + t.session.Date.String()
			}
		}
		return ""
	}},
	{
		family,
		trade.Stay,
		"stay: pain of 5 or more at the start, in the exercise or at the end",
		"two sessions with pain below 5",
		common,
		func(l *look) string {
			for _, t := range l.turns {
				switch s := &t.session; {
				case s.PainStart != nil && *s.PainStart >= stopPain:
					return fmt.Sprintf("pain at the start was %g of 10 on %s", *s.PainStart, s.Date)
				case s.PainEnd != nil && *s.PainEnd >= stopPain:
					return fmt.Sprintf("pain at the end was %g of 10 on %s", *s.PainEnd, s.Date)
				}
				for _, it := range t.all() {
					if it.Pain != nil && *it.Pain >= stopPain {
						return fmt.Sprintf("pain of %g came in %s on %s", *it.Pain, l.in.name(it.Version), t.session.Date)
					}
				}
			}
			return ""
		},
	},
}

// Signs are the codes of what came up in sessions that a clinician may have to see, each once.
func Signs(sessions ...Session) (codes []string) {
	add := func(code string) {
		if !slices.Contains(codes, code) {
			codes = append(codes, code)
		}
	}
	for i := range sessions {
		s := &sessions[i]
		for _, flag := range s.RedFlags {
			add(flag)
		}
		for k := range s.Items {
			for _, word := range s.Items[k].allFelt() {
				if slices.Contains(Urgent, word) || word == "dizziness" {
					add(word)
				}
			}
		}
		if s.FollowUp != nil && s.FollowUp.Travelled {
			add("travels-down")
		}
		if s.Ended == WarningSign {
			add("warning-sign")
		}
	}
	return codes
}

// StartCap is the hardest effort of a session that begins with a pain: comfort alone from 7,
// gentle work from 5 (shared ruling 39). It is 0 when nothing is capped.
func StartCap(pain float64) int {
	switch {
	case pain >= restPain:
		return comfort
	case pain >= stopPain:
		return gentle
	}
	return 0
}

// Efforts of a session on a bad day.
const (
	comfort = 1 // breath, relaxation, comfortable positions
	gentle  = 2
)

// hit is a stopper that was seen.
type hit struct{ rule, why, change string }

// seen looks for stoppers; the first row of each decision counts.
func seen(l *look, rows func(*Stopper) bool) map[trade.Decision]hit {
	out := map[trade.Decision]hit{}
	for i := range stoppers {
		s := &stoppers[i]
		if _, ok := out[s.Decision]; ok || !rows(s) {
			continue
		}
		if why := s.why(l); why != "" {
			out[s.Decision] = hit{s.Rule, why, s.Change}
		}
	}
	return out
}

// StopRule tells whether a pain ends an exercise, given the pain at the start of the session
// (nil: unknown, read as none) and the client's own limit (0: none recorded). Shared ruling 39.
func StopRule(start *float64, limit, pain float64) bool {
	s := 0.0
	if start != nil {
		s = *start
	}
	if s >= stopPain {
		return pain >= s+stopRiseHigh
	}
	return pain >= stopPain || limit > 0 && pain > limit || pain >= s+stopRise
}

// StopFrom is the least pain in whole points that ends an exercise.
func StopFrom(start *float64, limit float64) int {
	for p := range 10 {
		if StopRule(start, limit, float64(p)) {
			return p
		}
	}
	return 10
}

func (in *Input) stops(start *float64, pain float64) bool {
	return StopRule(start, in.StopAbove, pain)
}

func start(s *Session) float64 {
	if s.PainStart == nil {
		return 0
	}
	return *s.PainStart
}

// oldPainSettled is the hours in which the old pain settled; muscles and what nobody named do
// not count.
func oldPainSettled(s *Session) float64 {
	if sore := s.Sore(); sore != nil && sore.Kind == OldPain {
		return sore.SettledH
	}
	return 0
}

func worse(s *Session) bool { return s.FollowUp != nil && s.FollowUp.Effect == Worse }

// oneSided tells that a version is done on one side on purpose: curve work.
func oneSided(v *catalogue.Version) bool {
	return strings.HasPrefix(v.Binds, "curve-")
}

func count(all []Session, is func(*Session) bool) (n int) {
	for i := range all {
		if is(&all[i]) {
			n++
		}
	}
	return n
}

func sessionsOf(turns []turn) (out []Session) {
	for _, t := range turns {
		out = append(out, t.session)
	}
	return out
}

// name is what an exercise is called.
func (in *Input) name(slug string) string {
	if v, ok := in.Catalogue.Version(slug); ok {
		return v.Name
	}
	return slug
}

// says is the first of some felt words in a session, with where.
func says(in *Input, s *Session, words ...string) string {
	for _, it := range s.Items {
		for _, f := range it.allFelt() {
			if slices.Contains(words, f) {
				return FeltWords(f) + " was recorded in " + in.name(it.Version) + " on " + s.Date.String()
			}
		}
	}
	return ""
}

func saysIn(in *Input, turns []turn, words ...string) string {
	for _, t := range turns {
		if why := says(in, &Session{Date: t.session.Date, Items: t.all()}, words...); why != "" {
			return why
		}
	}
	return ""
}

func felt(words ...string) func(*look) string {
	return func(l *look) string {
		for i := range l.window {
			if why := says(l.in, &l.window[i], words...); why != "" {
				return why
			}
		}
		return ""
	}
}

func ended(because ...string) func(*look) string {
	return func(l *look) string {
		for _, s := range l.window {
			if slices.Contains(because, s.Ended) {
				return "the session of " + s.Date.String() + " was ended by: " + strings.ReplaceAll(s.Ended, "-", " ")
			}
		}
		return ""
	}
}
