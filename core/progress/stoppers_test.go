package progress_test

import (
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/progress"
	"restbend/core/trade"
)

// loaded is the catalogue, read once.
var loaded = sync.OnceValues(restbend.Catalogue)

func decideAll(t *testing.T, change func(*progress.Input), sessions ...progress.Session) map[string]progress.Decision {
	t.Helper()
	cat, err := loaded()
	require.NoError(t, err)
	in := progress.Input{Catalogue: cat, School: "reps", Breaths: 12, Today: today, Suits: func(string) bool { return true }, Log: progress.Log{Sessions: sessions}}
	if change != nil {
		change(&in)
	}
	out := map[string]progress.Decision{}
	_, ds := progress.Decide(in)
	for _, d := range ds {
		out[d.Family] = d
	}
	return out
}

type edit = func(*progress.Session, *progress.Item)

// What an experienced physiotherapist decides about the bridge after two sessions of 1 x 8 that
// are clean but for what the row says, on the 12th and the 17th; and about another family that
// was clean both times.
func TestStoppers(t *testing.T) {
	felt := func(word string) edit {
		return func(_ *progress.Session, i *progress.Item) { i.Felt = []string{word} }
	}
	seen := func(word string) edit {
		return func(_ *progress.Session, i *progress.Item) { i.Seen = []string{word} }
	}
	pains := func(start, end float64) edit {
		return func(s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = ptr(start), ptr(end) }
	}
	during := func(start, pain float64, where string) edit {
		return func(s *progress.Session, i *progress.Item) {
			s.PainStart, s.PainEnd, i.Pain, i.Where = ptr(start), ptr(start), ptr(pain), where
		}
	}
	sore := func(peak, hours float64, kind string) edit {
		return func(s *progress.Session, _ *progress.Item) {
			s.Soreness = &progress.Soreness{Peak: peak, SettledH: hours, Kind: kind}
		}
	}
	ended := func(because string) edit {
		return func(s *progress.Session, _ *progress.Item) { s.Ended = because }
	}
	flag := func(code string) edit {
		return func(s *progress.Session, _ *progress.Item) { s.RedFlags = []string{code} }
	}
	fault := func(f progress.Fault) edit {
		return func(_ *progress.Session, i *progress.Item) { i.Fault = []progress.Fault{f} }
	}
	after := func(f progress.FollowUp) edit {
		return func(s *progress.Session, _ *progress.Item) { s.FollowUp = &f }
	}
	cleared := func(code, day string) func(*progress.Input) {
		return func(in *progress.Input) {
			in.Cleared = func(c string, since trade.Day) bool { return c == code && !trade.MustDay(day).Before(since) }
		}
	}
	helped := func(_ *progress.Session, i *progress.Item) { i.Helped = "held" }
	band := func(b string) edit {
		return func(_ *progress.Session, i *progress.Item) { i.Load = &progress.Load{Band: b} }
	}
	changed := func(day string) func(*progress.Input) {
		return func(in *progress.Input) {
			in.Changed = []progress.Change{{Day: trade.MustDay(day), What: "an operation"}}
		}
	}
	for _, c := range []struct {
		name          string
		before, last  edit
		input         func(*progress.Input)
		bridge, other trade.Decision
		say           string
	}{
		{"two clean sessions", nil, nil, nil, "up", "up", "next dose step"},
		{"red flag in the session before", flag("saddle-numbness"), nil, nil, "refer", "refer", "not cleared since"},
		{"red flag last", nil, flag("fainting"), nil, "refer", "refer", "not cleared since"},
		{"red flag cleared after", flag("fainting"), nil, func(in *progress.Input) {
			in.Cleared = func(code string, since trade.Day) bool {
				return code == "fainting" && !trade.On(2026, 11, 13).Before(since)
			}
		}, "stay", "stay", "never clean"},
		{"red flag cleared only before", nil, flag("fainting"), func(in *progress.Input) {
			in.Cleared = func(_ string, since trade.Day) bool {
				return !trade.On(2026, 11, 13).Before(since)
			}
		}, "refer", "refer", ""},
		{"the client must be seen today", nil, nil, func(in *progress.Input) { in.Refer = "Urgent medical help now" }, "refer", "refer", "Urgent"},
		{"travels down, before", felt("travels-down"), nil, nil, "refer", "refer", "travelling down a limb"},
		{"new weakness", nil, felt("new-weakness"), nil, "refer", "refer", ""},
		{"numbness", nil, felt("numbness"), nil, "refer", "refer", ""},
		{"chest", felt("chest"), nil, nil, "refer", "refer", ""},
		{"breathless", nil, felt("breathless"), nil, "refer", "refer", ""},
		{"palpitations", nil, felt("palpitations"), nil, "refer", "refer", ""},
		{"ended by a warning sign", nil, ended("warning-sign"), nil, "refer", "refer", "warning"},
		{"dizzy once", felt("dizziness"), nil, nil, "stay", "stay", "dizzy"},
		{"dizzy twice", felt("dizziness"), felt("dizziness"), nil, "refer", "refer", "dizzy"},
		{"pain 7 at the start", nil, pains(7, 7), nil, "rest", "rest", "7 of 10"},
		{"pain 6 at the start", pains(6, 6), pains(6, 6), nil, "stay", "stay", "pain at the start was 6"},
		{"pain 9 today", nil, nil, func(in *progress.Input) { in.PainNow = ptr(9.0) }, "rest", "rest", "today"},
		{"pain 6 today", nil, nil, func(in *progress.Input) { in.PainNow = ptr(6.0) }, "up", "up", ""},
		{"pain 6 during, place not said", nil, during(2, 6, ""), nil, "down", "stay", "pain of 6"},
		{"pain 5 during, from 4", nil, during(4, 5, ""), nil, "down", "stay", ""},
		{"pain 4 during, from 3, place not said", during(3, 4, ""), during(3, 4, ""), nil, "up", "up", ""},
		{"pain 4 during, from 2", nil, during(2, 4, ""), nil, "down", "stay", ""},
		{"pain 6 during, from 6", nil, during(6, 6, ""), nil, "stay", "stay", "pain at the start was 6"},
		{"pain 7 during, from 6", nil, during(6, 7, "back"), nil, "down", "stay", ""},
		{"above the client's own limit", nil, during(3, 4, ""), func(in *progress.Input) { in.StopAbove = 3 }, "down", "stay", ""},
		{"at the client's own limit", nil, during(3, 4, ""), func(in *progress.Input) { in.StopAbove = 4 }, "up", "up", ""},
		{"pain in the session before", during(2, 6, "back"), nil, nil, "stay", "stay", "pain of 6"},
		{"ended two above the start", nil, pains(1, 3), nil, "stay", "stay", "ended with pain 3"},
		{"ended one above the start, once", nil, pains(1, 2), nil, "up", "up", ""},
		{"ended a point above the start twice, alike", pains(1, 2), pains(1, 2), nil, "up", "up", ""},
		{"ended higher twice, and higher the second time", pains(2, 3), pains(3, 4), nil, "refer", "refer", "rising"},
		{"ended higher, then less high", pains(3, 4), pains(2, 3), nil, "up", "up", ""},
		{"start unknown, end 8", nil, func(s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = nil, ptr(8.0) }, nil, "stay", "stay", "ended with pain 8"},
		{"session ended by pain", nil, ended("pain"), nil, "stay", "stay", "ended by"},
		{"session ended by a symptom, before", ended("symptom"), nil, nil, "stay", "stay", ""},
		{"session ended for time", nil, ended("time"), nil, "up", "up", ""},
		{"session ended by wish", ended("wish"), ended("wish"), nil, "up", "up", ""},
		{"an unknown word", nil, felt("numb foot"), nil, "stay", "stay", "numb foot"},
		{"an unknown word, before", felt("tingling down the leg"), nil, nil, "stay", "stay", "not sorted"},
		{"tiring is no stopper", felt("tiring"), felt("pulling"), nil, "up", "up", ""},
		{"tingling", nil, felt("tingling"), nil, "down", "up", "tingling"},
		{"tingling, before", felt("tingling"), nil, nil, "stay", "up", "tingling"},
		{"heaviness", nil, felt("heaviness"), nil, "down", "up", ""},
		{"leaking", nil, felt("leaking"), nil, "down", "up", ""},
		{"doming", nil, felt("doming"), nil, "down", "up", ""},
		{"a symptom, before", func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(7) }, nil, nil, "stay", "up", "symptom"},
		{"a warning", nil, func(_ *progress.Session, i *progress.Item) { i.WarningRep = ptr(3) }, nil, "cap", "up", "repetition 3"},
		{"a warning, before", func(_ *progress.Session, i *progress.Item) { i.WarningRep = ptr(3) }, nil, nil, "stay", "up", "warning"},
		{"hip drop seen", nil, seen("hip-drop-left"), nil, "stay", "up", "hip drop left"},
		{"arch seen, before", seen("arch"), nil, nil, "stay", "up", "arch"},
		{"a fault one cue mended", nil, fault(progress.Fault{Code: "sag", Corrected: true}), nil, "up", "up", ""},
		{"a fault no cue mended", nil, fault(progress.Fault{Code: "sag"}), nil, "stay", "up", "sag was seen"},
		{"a fault with its side, before", fault(progress.Fault{Code: "knee-in", Side: trade.Left}), nil, nil, "stay", "up", "knee in left"},
		{"shaking seen", nil, seen("shaking"), nil, "stay", "up", "shaking"},
		{"form ended it, target reached", nil, func(_ *progress.Session, i *progress.Item) { i.EndedBy = "form" }, nil, "stay", "up", "form"},
		{"soreness unknown", nil, func(s *progress.Session, _ *progress.Item) { s.Soreness = nil }, nil, "stay", "stay", "unknown"},
		{"sore 5 of nobody knows what, 24 h", sore(5, 24, ""), sore(5, 24, ""), nil, "up", "up", ""},
		{"sore 6 of nobody knows what", nil, sore(6, 20, ""), nil, "stay", "stay", "6 of 10"},
		{"sore for 25 h of nobody knows what", nil, sore(2, 25, ""), nil, "stay", "stay", "25 h"},
		{"muscles sore for 48 h", sore(4, 48, "muscle"), sore(5, 72, "muscle"), nil, "up", "up", ""},
		{"muscles very sore", nil, sore(6, 20, "muscle"), nil, "stay", "stay", "muscles"},
		{"muscles sore for four days, gone by the next session", sore(4, 96, "muscle"), nil, nil, "up", "up", ""},
		{"muscles sore until the next session", sore(4, 120, "muscle"), nil, nil, "stay", "stay", "120 h"},
		{"muscles sore for four days, last", nil, sore(4, 96, "muscle"), nil, "stay", "stay", ""},
		{"old pain 24 h", sore(3, 24, "old-pain"), sore(3, 24, "old-pain"), nil, "up", "up", ""},
		{"old pain 30 h", nil, sore(3, 30, "old-pain"), nil, "stay", "stay", "30 h"},
		{"old pain 36 h", nil, sore(3, 36, "old-pain"), nil, "stay", "stay", ""},
		{"old pain 37 h", nil, sore(3, 37, "old-pain"), nil, "down", "down", "37 h"},
		{"old pain 37 h twice", sore(3, 37, "old-pain"), sore(3, 37, "old-pain"), nil, "refer", "refer", "36 h"},
		{"both on one day", func(s *progress.Session, _ *progress.Item) { s.Date = trade.MustDay("2026-11-17") }, nil, nil, "stay", "stay", "different days"},
		{"21 days apart", func(s *progress.Session, _ *progress.Item) { s.Date = trade.MustDay("2026-10-27") }, nil, nil, "up", "up", ""},
		{"22 days apart", func(s *progress.Session, _ *progress.Item) { s.Date = trade.MustDay("2026-10-26") }, nil, nil, "stay", "stay", "three weeks"},
		{"tomorrow's session", nil, func(s *progress.Session, _ *progress.Item) { s.Date = trade.MustDay("2026-11-21") }, nil, "stay", "stay", "after today"},
		{"it no longer suits", nil, nil, func(in *progress.Input) { in.Suits = func(slug string) bool { return slug != "bridge" } }, "instead", "up", "no longer suits"},
		{"nothing in the row suits", nil, nil, func(in *progress.Input) {
			in.Suits = func(slug string) bool { return slug != "bridge" && slug != "bridge-low" }
		}, "instead", "up", "nothing here keeps its purpose"},
		{"nothing in the row suits, a swap does", nil, nil, func(in *progress.Input) {
			in.Suits = func(slug string) bool { return slug != "bridge" && slug != "bridge-low" }
			in.Instead = func(string) []string { return []string{"clam"} }
		}, "instead", "up", "does not suit this client now"},

		{"it travelled afterwards", nil, after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Travelled: true}), nil, "refer", "refer", "travelled"},
		{"it travelled after the one before", after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Travelled: true}), nil, nil, "refer", "refer", "travelled"},
		{"it travelled, and somebody cleared it: one more clean session", after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Travelled: true}), nil, cleared("travels-down", "2026-11-13"), "stay", "stay", "cleared since"},
		{"numbness cleared the day before", felt("numbness"), nil, cleared("numbness", "2026-11-11"), "refer", "refer", ""},
		{"numbness cleared on the day", felt("numbness"), nil, cleared("numbness", "2026-11-12"), "stay", "stay", "cleared since"},
		{"worse afterwards, once", nil, after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Effect: "worse"}), nil, "stay", "stay", "worse"},
		{"worse afterwards, before", after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Effect: "worse"}), nil, nil, "stay", "stay", "worse"},
		{"worse twice", after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Effect: "worse"}), after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Effect: "worse"}), nil, "down", "down", "worse"},
		{"better afterwards", after(progress.FollowUp{Soreness: ptr(1.0), SettledH: ptr(8.0), Effect: "better"}), nil, nil, "up", "up", ""},
		{"the answer afterwards wins: settled", nil, func(s *progress.Session, _ *progress.Item) {
			s.Soreness, s.FollowUp = &progress.Soreness{Peak: 6, SettledH: 40}, &progress.FollowUp{Soreness: ptr(2.0), SettledH: ptr(8.0)}
		}, nil, "up", "up", ""},
		{"the answer afterwards wins: not settled", nil, func(s *progress.Session, _ *progress.Item) {
			s.Soreness, s.FollowUp = &progress.Soreness{Peak: 1, SettledH: 2, Kind: "old-pain"}, &progress.FollowUp{Soreness: ptr(3.0), SettledH: ptr(36.0)}
		}, nil, "stay", "stay", "36 h"},
		{"an answer without soreness leaves it unknown", nil, func(s *progress.Session, _ *progress.Item) {
			s.Soreness, s.FollowUp = nil, &progress.FollowUp{Effect: "same"}
		}, nil, "stay", "stay", "unknown"},
		{"sore, and nobody knows for how long", nil, func(s *progress.Session, _ *progress.Item) {
			s.Soreness, s.FollowUp = nil, &progress.FollowUp{Soreness: ptr(4.0)}
		}, nil, "stay", "stay", "unknown"},
		{"not sore at all", nil, func(s *progress.Session, _ *progress.Item) {
			s.Soreness, s.FollowUp = nil, &progress.FollowUp{Soreness: ptr(0.0)}
		}, nil, "up", "up", ""},
		{"pain 8 at the start before, 2 last", pains(8, 8), nil, nil, "stay", "stay", "8 of 10"},
		{"the clock ran with nobody there", nil, func(_ *progress.Session, i *progress.Item) { i.Confirmed = ptr(false) }, nil, "stay", "up", "nobody confirmed"},
		{"somebody was there", nil, func(_ *progress.Session, i *progress.Item) { i.Confirmed = ptr(true) }, nil, "up", "up", ""},
		{"not reached, last", nil, func(_ *progress.Session, i *progress.Item) { i.Reached, i.Done.Reps = ptr(false), 0 }, nil, "stay", "up", "once"},
		{"cut by the time, last", nil, func(s *progress.Session, i *progress.Item) { s.Ended, i.Done.Reps = "time", 3 }, nil, "stay", "up", "once"},
		{"short, all was done", nil, func(s *progress.Session, i *progress.Item) { s.Ended, i.Done.Reps = "done", 3 }, nil, "stay", "up", "before the target"},
		{"helped last, alone before", nil, func(_ *progress.Session, i *progress.Item) { i.Helped = "guided" }, nil, "stay", "up", "setting and help"},
		{"helped both times", helped, helped, nil, "up", "up", ""},
		{"a lighter band last", band("medium"), band("light"), nil, "stay", "up", "setting"},
		{"the same band", band("light"), band("light"), nil, "up", "up", ""},
		{"a layer tried on the way, with a symptom", nil, func(_ *progress.Session, i *progress.Item) {
			i.Tried = []progress.Tried{{Version: "bridge-long-hold", SymptomRep: ptr(1)}}
		}, nil, "stay", "up", "symptom"},
		{"a layer tried on the way, numb", nil, func(_ *progress.Session, i *progress.Item) {
			i.Tried = []progress.Tried{{Version: "bridge-long-hold", Felt: []string{"numbness"}}}
		}, nil, "refer", "refer", "numbness"},
		{"a layer tried on the way, clean", nil, func(_ *progress.Session, i *progress.Item) {
			i.Tried = []progress.Tried{{Version: "bridge-long-hold", Clean: true}}
		}, nil, "up", "up", ""},
		{"nobody has held it against the clinician's words", nil, nil, func(in *progress.Input) { in.Unread = func(slug string) bool { return slug == "bridge" } }, "stay", "up", "held against"},
		{"an operation since", nil, nil, changed("2026-11-19"), "stay", "stay", "and no session since"},
		{"an operation on the day of the last session", nil, nil, changed("2026-11-17"), "stay", "stay", "and no session since"},
		{"an operation before the last session", nil, nil, changed("2026-11-16"), "up", "up", ""},
	} {
		sessions := []progress.Session{}
		for i, change := range []edit{c.before, c.last} {
			s := did([]string{"2026-11-12", "2026-11-17"}[i], "bridge", 1, 8, 3, change)
			s.Items = append(s.Items, did(s.Date.String(), "nod-only", 1, 8, 0, nil).Items...)
			sessions = append(sessions, s)
		}
		ds := decideAll(t, c.input, sessions...)
		cat, err := loaded()
		require.NoError(t, err)
		b, _ := cat.Version("bridge")
		n, _ := cat.Version("nod-only")
		d := ds[b.Family]
		assert.Equal(t, c.bridge, d.Decision, "%s: %s", c.name, d.Because)
		assert.Contains(t, d.Rule+" "+d.Because, c.say, c.name)
		assert.NotEmpty(t, d.Change, "%s: what would change it", c.name)
		assert.Equal(t, c.other, ds[n.Family].Decision, "%s, the other family: %s", c.name, ds[n.Family].Because)
	}
}

// A trial counts for nothing, but what it showed does.
func TestATrialsSignsCount(t *testing.T) {
	clean := []progress.Session{did("2026-11-12", "bridge", 3, 15, 3, nil), did("2026-11-17", "bridge", 3, 15, 3, nil)}
	trial := func(change func(*progress.Item)) progress.Session {
		return did("2026-11-18", "bridge-long-hold", 1, 1, 60, func(_ *progress.Session, i *progress.Item) {
			i.Trial = true
			change(i)
		})
	}
	assert.Equal(t, trade.Up, decideAll(t, nil, append(clean, trial(func(*progress.Item) {}))...)["bridge"].Decision)
	for name, change := range map[string]func(*progress.Item){
		"pain":    func(i *progress.Item) { i.Pain = ptr(8.0) },
		"symptom": func(i *progress.Item) { i.SymptomRep, i.EndedBy = ptr(2), "symptom" },
		"warning": func(i *progress.Item) { i.WarningRep = ptr(2) },
	} {
		d := decideAll(t, nil, append(clean, trial(change))...)["bridge"]
		assert.NotEqual(t, trade.Up, d.Decision, "%s: never towards a rung that just hurt", name)
	}
}

// What was broken off by choice counts for nothing and breaks nothing.
func TestWhatEndedByChoiceBreaksNothing(t *testing.T) {
	skipped := did("2026-11-15", "bridge", 1, 8, 3, func(_ *progress.Session, i *progress.Item) { i.EndedBy, i.Done.Reps = "choice", 2 })
	d := decideAll(t, nil, did("2026-11-12", "bridge", 1, 8, 3, nil), skipped, did("2026-11-17", "bridge", 1, 8, 3, nil))["bridge"]
	assert.Equal(t, trade.Up, d.Decision, d.Because)
}

func TestBothSidesAreDue(t *testing.T) {
	one := func(date string) progress.Session {
		return did(date, "clam", 1, 8, 0, func(_ *progress.Session, i *progress.Item) { i.Side = "left" })
	}
	both := func(date string) progress.Session {
		s := one(date)
		right := s.Items[0]
		right.Side = "right"
		s.Items = append(s.Items, right)
		return s
	}
	family := func(ds map[string]progress.Decision) progress.Decision {
		for _, d := range ds {
			return d
		}
		return progress.Decision{}
	}
	assert.Equal(t, trade.Stay, family(decideAll(t, nil, one("2026-11-12"), one("2026-11-17"))).Decision)
	assert.Equal(t, trade.Stay, family(decideAll(t, nil, both("2026-11-12"), one("2026-11-17"))).Decision)
	assert.Equal(t, trade.Up, family(decideAll(t, nil, both("2026-11-12"), both("2026-11-17"))).Decision)
	turned := func(sides ...trade.Side) (out []progress.Session) { // done in turn, logged side by side
		for _, day := range []string{"2026-11-12", "2026-11-17"} {
			s := did(day, "knee-rock-small", 1, 4, 0, nil)
			it := s.Items[0]
			s.Items = nil
			for _, side := range sides {
				it.Side = side
				s.Items = append(s.Items, it)
			}
			out = append(out, s)
		}
		return out
	}
	assert.Equal(t, trade.Stay, family(decideAll(t, nil, turned(trade.Left)...)).Decision)
	assert.Equal(t, trade.Up, family(decideAll(t, nil, turned(trade.Left, trade.Right)...)).Decision)
}

func TestRisingPainAtTheStart(t *testing.T) {
	course := func(pains ...float64) progress.Decision {
		var all []progress.Session
		for i, p := range pains {
			all = append(all, did(fmt.Sprintf("2026-11-%02d", 8+4*i), "bridge", 1, 8, 3, func(s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = ptr(p), ptr(p) }))
		}
		return decideAll(t, nil, all...)["bridge"]
	}
	assert.Equal(t, trade.Refer, course(1, 3, 6).Decision)
	assert.Equal(t, trade.Refer, course(2, 3, 4).Decision)
	assert.Equal(t, trade.Up, course(2, 2, 3).Decision, "one point is no rise")
	assert.Equal(t, trade.Up, course(1, 2, 3).Decision, "it is still low")
	assert.Equal(t, trade.Up, course(4, 2, 4).Decision, "up and down is no rise")
}

// A hold goes up no farther than the client's conditions allow.
func TestTheNextHoldKeepsTheClientsCap(t *testing.T) {
	capped := func(in *progress.Input) {
		in.School = "long-hold"
		in.Cap = func(_ *catalogue.Version, d dose.Dose) (dose.Dose, string) {
			out, did := d.CapHold(10, 12)
			if did {
				return out, "holds stay at 10 s"
			}
			return out, ""
		}
	}
	d := decideAll(t, capped, did("2026-11-12", "bridge-long-hold", 1, 1, 20, nil), did("2026-11-17", "bridge-long-hold", 1, 1, 20, nil))["bridge"]
	assert.LessOrEqual(t, d.Dose.HoldSeconds(12), 10)
	assert.Contains(t, d.Because, "holds stay at 10 s")
}

// However an item ended and whatever was tried or skipped since, a sign is not lost.
func TestASignIsNeverLost(t *testing.T) {
	symptom := func(rep int, ended string) edit {
		return func(_ *progress.Session, i *progress.Item) { i.SymptomRep, i.EndedBy = ptr(rep), ended }
	}
	skipped := func(date string) progress.Session {
		return did(date, "bridge", 1, 8, 3, func(_ *progress.Session, i *progress.Item) { i.EndedBy, i.Done.Reps = "choice", 0 })
	}
	clean := did("2026-11-12", "bridge", 1, 8, 3, nil)
	for name, sessions := range map[string][]progress.Session{
		"a symptom, then skipped":            {clean, did("2026-11-14", "bridge", 1, 8, 3, symptom(4, "choice"))},
		"the only time, skipped":             {did("2026-11-14", "bridge", 1, 8, 3, symptom(4, "choice"))},
		"target reached all the same":        {clean, did("2026-11-14", "bridge", 1, 8, 3, symptom(4, "target"))},
		"skipped once since":                 {clean, did("2026-11-14", "bridge", 1, 8, 3, symptom(4, "target")), skipped("2026-11-16")},
		"skipped twice since":                {clean, did("2026-11-14", "bridge", 1, 8, 3, symptom(4, "target")), skipped("2026-11-16"), skipped("2026-11-18")},
		"skipped twice between and once ago": {clean, skipped("2026-11-13"), skipped("2026-11-14"), did("2026-11-15", "bridge", 1, 8, 3, symptom(4, "symptom")), skipped("2026-11-18")},
	} {
		d := decideAll(t, nil, sessions...)["bridge"]
		assert.Equal(t, trade.Cap, d.Decision, "%s: %s", name, d.Because)
		assert.Equal(t, 3, d.Dose.Reps, name)
	}
	for name, change := range map[string]edit{
		"pain":     func(_ *progress.Session, i *progress.Item) { i.Pain = ptr(6.0) },
		"tingling": func(_ *progress.Session, i *progress.Item) { i.Felt = []string{"tingling"} },
		"old pain": func(s *progress.Session, _ *progress.Item) {
			s.Soreness = &progress.Soreness{Peak: 3, SettledH: 40, Kind: "old-pain"}
		},
		"then left": func(_ *progress.Session, i *progress.Item) { i.Pain, i.EndedBy = ptr(6.0), "choice" },
	} {
		d := decideAll(t, nil, clean, did("2026-11-14", "bridge", 1, 8, 3, change), skipped("2026-11-16"), skipped("2026-11-18"))["bridge"]
		assert.Equal(t, trade.Down, d.Decision, "%s: %s", name, d.Because)
	}
	fault := func(_ *progress.Session, i *progress.Item) { i.Seen = []string{"arch"} }
	assert.Equal(t, trade.Stay, decideAll(t, nil, did("2026-11-10", "bridge", 1, 8, 3, fault), clean, skipped("2026-11-16"), skipped("2026-11-18"))["bridge"].Decision, "two that count")

	// On the lowest rung, and after an absence, the cap stays on the dose.
	d := decideAll(t, nil, did("2026-11-14", "bridge-low", 1, 8, 3, func(_ *progress.Session, i *progress.Item) { i.Pain, i.SymptomRep = ptr(6.0), ptr(4) }))["bridge"]
	assert.Equal(t, trade.Down, d.Decision)
	assert.Equal(t, "bridge-low", d.ToVersion)
	assert.LessOrEqual(t, d.Dose.Reps, 3)
	d = decideAll(t, nil, did("2026-10-29", "bridge", 2, 8, 3, symptom(4, "symptom")))["bridge"]
	assert.Equal(t, trade.Down, d.Decision)
	assert.LessOrEqual(t, d.Dose.Reps, 3, d.Because)

	// Of two sides the stricter counts.
	s := did("2026-11-14", "clam", 1, 8, 0, func(_ *progress.Session, i *progress.Item) { i.Side, i.SymptomRep = "left", ptr(7) })
	right := s.Items[0]
	right.Side, right.SymptomRep = "right", ptr(3)
	s.Items = append(s.Items, right)
	for _, one := range decideAll(t, nil, s) {
		assert.Equal(t, 2, one.Dose.Reps, "the right side's")
	}
}
