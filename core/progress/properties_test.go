package progress_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend/core/catalogue"
	"restbend/core/progress"
	"restbend/core/trade"
)

// event is something bad that can be taken out of a log again.
type event struct {
	name string
	put  func(*progress.Session, *progress.Item)
	out  func(*progress.Session, *progress.Item)
}

func felt(word string) event {
	return event{"felt " + word, func(_ *progress.Session, i *progress.Item) { i.Felt = append(i.Felt, word) },
		func(_ *progress.Session, i *progress.Item) {
			i.Felt = slices.DeleteFunc(slices.Clone(i.Felt), func(f string) bool { return f == word })
		}}
}

func endedBy(because string) event {
	return event{"ended by " + because, func(s *progress.Session, _ *progress.Item) { s.Ended = because }, func(s *progress.Session, _ *progress.Item) { s.Ended = "done" }}
}

func sore(name string, bad *progress.Soreness) event {
	return event{name, func(s *progress.Session, _ *progress.Item) { s.Soreness = bad }, func(s *progress.Session, _ *progress.Item) {
		s.Soreness = &progress.Soreness{Peak: 1, SettledH: 8, Kind: progress.Muscle}
	}}
}

// bad are the events of the table; those before family stop every exercise.
var everyoneBad = []event{
	felt("travels-down"), felt("new-weakness"), felt("numbness"), felt("chest"), felt("breathless"), felt("palpitations"), felt("dizziness"), felt("buzzing"),
	endedBy("warning-sign"), endedBy("pain"), endedBy("symptom"),
	{"a red flag", func(s *progress.Session, _ *progress.Item) { s.RedFlags = []string{"fainting"} }, func(s *progress.Session, _ *progress.Item) { s.RedFlags = nil }},
	{"pain at the end", func(s *progress.Session, _ *progress.Item) { s.PainEnd = ptr(*s.PainStart + 2) }, func(s *progress.Session, _ *progress.Item) { s.PainEnd = ptr(*s.PainStart) }},
	{"travelled", func(s *progress.Session, _ *progress.Item) { s.FollowUp = &progress.FollowUp{Travelled: true} }, func(s *progress.Session, _ *progress.Item) { s.FollowUp = nil }},
	{"worse", func(s *progress.Session, _ *progress.Item) { s.FollowUp = &progress.FollowUp{Effect: progress.Worse} }, func(s *progress.Session, _ *progress.Item) { s.FollowUp = nil }},
	{"pain during", func(_ *progress.Session, i *progress.Item) { i.Pain = ptr(7.0) }, func(_ *progress.Session, i *progress.Item) { i.Pain = nil }},
}

var familyBad = []event{
	felt("tingling"), felt("heaviness"), felt("leaking"), felt("doming"),
	{"a symptom", func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(3) }, func(_ *progress.Session, i *progress.Item) { i.SymptomRep = nil }},
	{"a symptom in a hold", func(_ *progress.Session, i *progress.Item) { i.SymptomS = ptr(9.0) }, func(_ *progress.Session, i *progress.Item) { i.SymptomS = nil }},
	{"a warning", func(_ *progress.Session, i *progress.Item) { i.WarningRep = ptr(4) }, func(_ *progress.Session, i *progress.Item) { i.WarningRep = nil }},
	{"a fault", func(_ *progress.Session, i *progress.Item) { i.Fault = []progress.Fault{{Code: "sag"}} }, func(_ *progress.Session, i *progress.Item) { i.Fault = nil }},
	{"form lost", func(_ *progress.Session, i *progress.Item) { i.EndedBy = progress.ByForm }, func(_ *progress.Session, i *progress.Item) { i.EndedBy = progress.ByTarget }},
	{"nobody there", func(_ *progress.Session, i *progress.Item) { i.Confirmed = ptr(false) }, func(_ *progress.Session, i *progress.Item) { i.Confirmed = nil }},
	sore("soreness unknown", nil),
	sore("old pain of 30 h", &progress.Soreness{Peak: 2, SettledH: 30, Kind: progress.OldPain}),
	sore("old pain of 40 h", &progress.Soreness{Peak: 2, SettledH: 40, Kind: progress.OldPain}),
	sore("sore to 8", &progress.Soreness{Peak: 8, SettledH: 20, Kind: progress.Muscle}),
}

// happened is where an event was put.
type happened struct {
	event
	session, item int
	whole         bool
}

// drawLog is a random log of a few families with what happened in it; the items are clean but
// for that.
func drawLog(rt *rapid.T, most int) (progress.Log, []happened) {
	log := progress.Log{}
	day := today.AddDays(-rapid.IntRange(2, 12).Draw(rt, "ago"))
	sessions := rapid.IntRange(2, 6).Draw(rt, "sessions")
	var gaps []int
	for range sessions {
		gaps = append(gaps, rapid.IntRange(1, 14).Draw(rt, "gap"))
	}
	for k := range sessions {
		at := day
		for _, g := range gaps[k+1:] {
			at = at.AddDays(-g)
		}
		s := progress.Session{Date: at, PainStart: ptr(1.0), PainEnd: ptr(1.0), Ended: "done", Soreness: &progress.Soreness{Peak: 1, SettledH: 8, Kind: progress.Muscle}}
		for _, slug := range []string{"bridge-low", "bridge", "clam", "nod-only"} {
			if rapid.IntRange(0, 3).Draw(rt, "there") == 0 {
				continue
			}
			a := progress.Amount{Sets: rapid.IntRange(1, 3).Draw(rt, "sets"), Reps: 8, HoldS: 3}
			it := progress.Item{Version: slug, Side: trade.None, Target: a, Done: a, EndedBy: progress.ByTarget}
			switch rapid.IntRange(0, 11).Draw(rt, "kind") {
			case 0:
				it.EndedBy, it.Done.Reps = progress.ByChoice, 3
			case 1:
				it.Trial = true
			}
			if slug == "clam" {
				it.Side = trade.Left
				s.Items = append(s.Items, it)
				it.Side = trade.Right
			}
			s.Items = append(s.Items, it)
		}
		if s.Items != nil {
			log.Sessions = append(log.Sessions, s)
		}
	}
	if log.Sessions == nil {
		log.Sessions = []progress.Session{did(day.String(), "bridge", 1, 8, 3, nil)}
	}
	var what []happened
	for range rapid.IntRange(0, most).Draw(rt, "events") {
		h := happened{whole: rapid.Bool().Draw(rt, "whole")}
		if h.whole {
			h.event = rapid.SampledFrom(everyoneBad).Draw(rt, "event")
		} else {
			h.event = rapid.SampledFrom(familyBad).Draw(rt, "event")
		}
		h.session = rapid.IntRange(0, len(log.Sessions)-1).Draw(rt, "session")
		h.item = rapid.IntRange(0, len(log.Sessions[h.session].Items)-1).Draw(rt, "item")
		if slices.ContainsFunc(what, func(o happened) bool { // one event takes the place of another of its kind
			return o.session == h.session && (o.item == h.item || strings.HasPrefix(o.name, "ended") || o.name == "travelled" || o.name == "worse" || strings.Contains(o.name, "sor") || strings.Contains(o.name, "old pain"))
		}) {
			continue
		}
		h.put(&log.Sessions[h.session], &log.Sessions[h.session].Items[h.item])
		what = append(what, h)
	}
	return log, what
}

func decideLog(t require.TestingT, log progress.Log) []progress.Decision {
	cat, err := loaded()
	require.NoError(t, err)
	_, ds := progress.Decide(progress.Input{Catalogue: cat, School: "reps", Breaths: 12, Today: today, Suits: func(string) bool { return true }, Log: log})
	return ds
}

func clone(t require.TestingT, log progress.Log) (out progress.Log) {
	doc, err := json.Marshal(log)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(doc, &out))
	return out
}

// branchOf is the family and branch of an item, as decisions name them.
func branchOf(cat *catalogue.Catalogue, slug string) string {
	v, _ := cat.Version(slug)
	return v.Family
}

// No exercise goes up with a stopper in its window: the last two sessions for what stops
// everybody, the last two of its family that count and all since for what stops it alone.
func TestNothingGoesUpWithAStopperInItsWindow(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	ups := 0
	rapid.Check(t, func(rt *rapid.T) {
		log, what := drawLog(rt, 3)
		for _, d := range decideLog(rt, log) {
			if d.Decision != trade.Up {
				continue
			}
			ups++
			counted, from := 0, 0
			for k := len(log.Sessions) - 1; k >= 0 && counted < 2; k-- {
				if slices.ContainsFunc(log.Sessions[k].Items, func(it progress.Item) bool {
					return branchOf(cat, it.Version) == d.Family && !it.Trial && it.EndedBy != progress.ByChoice
				}) {
					counted++
				}
				from = k
			}
			for _, h := range what {
				if h.whole && (h.session >= len(log.Sessions)-2 || h.name == "a red flag") {
					rt.Fatalf("%s goes up after %q in session %d of %d", d.Version, h.name, h.session+1, len(log.Sessions))
				}
				it := &log.Sessions[h.session].Items[h.item]
				mine := branchOf(cat, it.Version) == d.Family && !(h.name == "nobody there" && it.EndedBy == progress.ByChoice) // it counts for nothing anyway
				ofSession := strings.Contains(h.name, "sor") || strings.Contains(h.name, "old pain")
				here := slices.ContainsFunc(log.Sessions[h.session].Items, func(it progress.Item) bool { return branchOf(cat, it.Version) == d.Family })
				if !h.whole && h.session >= from && (mine && !(it.Trial && (h.name == "a fault" || h.name == "form lost" || h.name == "nobody there")) || ofSession && here) {
					rt.Fatalf("%s goes up after %q in %s, session %d of %d", d.Version, h.name, it.Version, h.session+1, len(log.Sessions))
				}
			}
		}
	})
	if ups < 30 && !testing.Short() {
		t.Fatalf("only %d steps up were looked at", ups)
	}
}

// rank orders decisions by how strict they are.
var rank = map[trade.Decision]int{trade.Up: 0, trade.Stay: 1, trade.Cap: 2, trade.Down: 3, trade.Rest: 4, trade.Refer: 5}

// Taking a bad event out of a log never makes a decision stricter.
func TestTakingABadEventOutNeverMakesItStricter(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		log, what := drawLog(rt, 3)
		if len(what) == 0 {
			return
		}
		h := rapid.SampledFrom(what).Draw(rt, "out")
		better := clone(rt, log)
		h.out(&better.Sessions[h.session], &better.Sessions[h.session].Items[h.item])
		after := decideLog(rt, better)
		for _, d := range decideLog(rt, log) {
			i := slices.IndexFunc(after, func(o progress.Decision) bool { return o.Family == d.Family })
			if i < 0 {
				continue // without the sign it counts for nothing, and nothing is decided
			}
			if rank[after[i].Decision] > rank[d.Decision] {
				rt.Fatalf("without %q in session %d of %d %s was %s (%s) and is %s (%s)", h.name, h.session+1, len(log.Sessions), d.Family, d.Decision, d.Because, after[i].Decision, after[i].Because)
			}
		}
	})
}

// A mirrored log gives mirrored decisions.
func TestAMirroredLogGivesMirroredDecisions(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		log, _ := drawLog(rt, 4)
		mirrored := clone(rt, log)
		for i := range mirrored.Sessions {
			for k := range mirrored.Sessions[i].Items {
				it := &mirrored.Sessions[i].Items[k]
				it.Side = it.Side.Other()
			}
		}
		a, b := decideLog(rt, log), decideLog(rt, mirrored)
		require.Len(rt, b, len(a))
		for i := range a {
			require.Equal(rt, a[i].Decision, b[i].Decision, a[i].Because)
			require.Equal(rt, a[i].ToVersion, b[i].ToVersion)
			require.Equal(rt, a[i].Extra.Other(), b[i].Extra)
			require.Equal(rt, a[i].Step, b[i].Step)
		}
	})
}

// The order of the items of a session says nothing.
func TestTheOrderWithinASessionDoesNotMatter(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		log, _ := drawLog(rt, 4)
		shuffled := clone(rt, log)
		for i := range shuffled.Sessions {
			shuffled.Sessions[i].Items = rapid.Permutation(shuffled.Sessions[i].Items).Draw(rt, "order")
		}
		require.Equal(rt, decideLog(rt, log), decideLog(rt, shuffled))
	})
}
