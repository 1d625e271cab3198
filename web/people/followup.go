package people

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/progress"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/site"
)

// settledAsk is an answer to how long it was sore, with the hours it counts as (shared ruling
// 48).
type settledAsk struct{ Hours, Say string }

var settledAsks = []settledAsk{
	{"0", "not sore"},
	{"2", "gone within 2 hours"},
	{"8", "gone by the evening"},
	{"24", "gone the next day"},
	{"36", "up to 36 hours"},
	{"48", "longer"},
}

// AfterForm is what is asked when a session closes and afterwards, as typed.
type AfterForm struct {
	Values  url.Values
	Wrong   []string
	Settled []settledAsk
	Kinds   []string
	Effects []string
	Endings []string
	Felt    []string
	Rows    []int // of felt words
}

// NewAfterForm is the form about the hours after a session, with what was typed and what is wrong with it.
func NewAfterForm(v url.Values, wrong []string) AfterForm {
	f := AfterForm{
		Values:  v,
		Wrong:   wrong,
		Settled: settledAsks,
		Kinds:   progress.Sorenesses,
		Effects: progress.Effects,
		Endings: progress.Endings,
		Felt:    progress.Felt,
		Rows:    []int{0, 1, 2},
	}
	if h := v.Get("settled"); h != "" &&
		!slices.ContainsFunc(settledAsks, func(a settledAsk) bool { return a.Hours == h }) {
		f.Settled = append(slices.Clone(f.Settled), settledAsk{h, h + " hours"})
	}
	return f
}

// Get is a typed value.
func (f AfterForm) Get(name string) string { return f.Values.Get(name) }

// AfterValues are a log session's answers as the form shows them.
func AfterValues(s *progress.Session) url.Values {
	v := url.Values{"ended": {s.Ended}, "notes": {s.Notes}}
	number := func(name string, f *float64) {
		if f != nil {
			v.Set(name, strconv.FormatFloat(*f, 'f', -1, 64))
		}
	}
	number("pain_end", s.PainEnd)
	if sore := s.Sore(); sore != nil {
		number("peak", &sore.Peak)
		number("settled", &sore.SettledH)
		v.Set("kind", sore.Kind)
	}
	if u := s.FollowUp; u != nil {
		v.Set("effect", u.Effect)
		if u.Travelled {
			v.Set("travelled", "yes")
		}
		if u.Home > 0 {
			v.Set("home", strconv.Itoa(u.Home))
		}
	}
	return v
}

// Answers reads a form of answers; what is wrong is said in sentences.
type Answers struct {
	V     url.Values
	Wrong []string
}

// Number reads a number up to a bound, nil when nothing was typed; what is wrong is kept.
func (a *Answers) Number(name, label string, most float64) *float64 {
	text := strings.TrimSpace(a.V.Get(name))
	if text == "" {
		return nil
	}
	f, err := site.TypedNumber(text)
	if err != nil || f < 0 || f > most {
		a.Wrong = append(a.Wrong, fmt.Sprintf("%s: found %q, allowed: 0 to %v", label, text, most))
		return nil
	}
	return &f
}

// One reads one of some words, empty when none was chosen; what is wrong is kept.
func (a *Answers) One(name, label string, allowed []string) string {
	v := a.V.Get(name)
	if v != "" && !slices.Contains(allowed, v) {
		a.Wrong = append(a.Wrong, fmt.Sprintf("%s: found %q, allowed: %s", label, v, strings.Join(allowed, ", ")))
		return ""
	}
	return v
}

// FollowUp reads what is asked about the time since a session, nil when nothing was answered.
func (a *Answers) FollowUp(today trade.Day) *progress.FollowUp {
	f := &progress.FollowUp{
		On:        today,
		Soreness:  a.Number("peak", "Soreness", 10),
		SettledH:  a.Number("settled", "Settled after", 400),
		Kind:      a.One("kind", "What was sore", progress.Sorenesses),
		Effect:    a.One("effect", "How it was afterwards", progress.Effects),
		Travelled: a.V.Get("travelled") == "yes",
	}
	if n := a.Number("home", "Days of practice at home", 31); n != nil {
		f.Home = int(*n)
	}
	zero := 0.0
	switch {
	case f.SettledH != nil && *f.SettledH == 0 && f.Soreness == nil:
		f.Soreness = &zero // not sore
	case (f.Soreness == nil) != (f.SettledH == nil) && len(a.Wrong) == 0:
		a.Wrong = append(a.Wrong, "Settled after: say how sore and for how long, or leave both open")
	}
	if f.Soreness == nil && f.Effect == "" && !f.Travelled && f.Home == 0 {
		return nil
	}
	return f
}

// Felt reads what was felt, each with the line of the log it was felt in.
func (a *Answers) Felt(lines int) (out []feltIn) {
	for i := range 3 {
		word := a.One(fmt.Sprintf("felt.%d.word", i), "Felt", progress.Felt)
		if word == "" {
			continue
		}
		at, err := strconv.Atoi(a.V.Get(fmt.Sprintf("felt.%d.item", i)))
		if err != nil || at < 0 || at >= lines {
			a.Wrong = append(a.Wrong, "Felt: say in which exercise")
			continue
		}
		out = append(out, feltIn{at, word})
	}
	return out
}

// feltIn is a word and the line of the log it was felt in.
type feltIn struct {
	Line int
	Word string
}

// Unanswered is the client's last session when nobody knows how sore it left them.
func (s *People) Unanswered(c *gin.Context, client int64) (*store.Taught, error) {
	log, err := s.LogOf(c, client)
	if n := len(log.Sessions); err != nil || n == 0 || log.Sessions[n-1].Sore() != nil {
		return nil, err
	}
	return s.Store.LastTaught(c, client)
}
