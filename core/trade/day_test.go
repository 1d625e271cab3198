package trade_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend/core/trade"
)

func TestDays(t *testing.T) {
	d := trade.On(2026, time.November, 20)
	assert.Equal(t, "2026-11-20", d.String())
	assert.Equal(t, time.Friday, d.Weekday())
	assert.Equal(t, "2026-12-01", d.AddDays(11).String())
	assert.Equal(t, 365, d.Since(trade.On(2025, time.November, 20)))
	assert.Equal(t, "0001-01-01", trade.On(1, 1, 1).String())
	assert.False(t, trade.On(1, 1, 1).IsZero())
	assert.True(t, d.Before(d.AddDays(1)) && d.After(d.AddDays(-1)) && !d.Before(d) && !d.After(d))
	for _, c := range []struct {
		from   string
		months int
		want   string
	}{
		{"2026-05-20", 6, "2026-11-20"}, {"2026-08-31", 6, "2027-02-28"}, {"2027-08-31", 6, "2028-02-29"}, {"2026-05-31", 6, "2026-11-30"},
		{"2026-01-31", 1, "2026-02-28"}, {"2026-03-31", -1, "2026-02-28"}, {"2026-11-20", -12, "2025-11-20"}, {"2024-02-29", 12, "2025-02-28"}, {"2026-12-15", 1, "2027-01-15"},
	} {
		assert.Equal(t, c.want, trade.MustDay(c.from).AddMonths(c.months).String(), "%s and %d months", c.from, c.months)
	}
	year := trade.MustDay("2021")
	assert.True(t, year.YearOnly())
	assert.Equal(t, "2021", year.String())
	assert.False(t, year.Before(trade.On(2021, 12, 31)), "the last day of the year")
	assert.Equal(t, "2022-01-01", year.AddDays(1).String())
	for _, bad := range []string{"2026-13-01", "2026-02-30", "20.11.2026", "26-11-20", "2026-11-20T10:00:00Z", "yesterday", " 2026-11-20", "20261120"} {
		_, err := trade.ParseDay(bad)
		assert.ErrorContains(t, err, "allowed: a real date", bad)
	}
	assert.Panics(t, func() { trade.MustDay("soon") })
}

// A day is that of the place: an hour later it may be tomorrow elsewhere.
func TestADayIsThatOfThePlace(t *testing.T) {
	moment := time.Date(2026, 11, 20, 23, 30, 0, 0, time.UTC)
	for zone, want := range map[string]string{"UTC": "2026-11-20", "Europe/Vienna": "2026-11-21", "America/New_York": "2026-11-20", "Pacific/Auckland": "2026-11-21"} {
		at, err := time.LoadLocation(zone)
		require.NoError(t, err)
		assert.Equal(t, want, trade.DayOf(moment, at).String(), zone)
	}
}

// Days go through documents and databases and come back.
func TestDaysTravel(t *testing.T) {
	type doc struct {
		A trade.Day `json:"a" yaml:"a"`
		B trade.Day `json:"b,omitzero" yaml:"b"`
	}
	out, err := json.Marshal(doc{A: trade.MustDay("2026-11-20")})
	require.NoError(t, err)
	assert.Equal(t, `{"a":"2026-11-20"}`, string(out))
	var back doc
	require.NoError(t, json.Unmarshal([]byte(`{"a": "2026-11-20", "b": "2019"}`), &back))
	assert.Equal(t, doc{trade.MustDay("2026-11-20"), trade.MustDay("2019")}, back)
	assert.Error(t, json.Unmarshal([]byte(`{"a": "2026-11-31"}`), &back))
	require.NoError(t, yaml.Unmarshal([]byte("a: 2026-11-20\nb: \"2019\""), &back))
	assert.Equal(t, doc{trade.MustDay("2026-11-20"), trade.MustDay("2019")}, back)
	var d trade.Day
	for from, want := range map[any]string{"2026-11-20": "2026-11-20", "": "", nil: "", "2026-99-99": "", time.Date(2026, 1, 2, 3, 4, 5, 0, time.UTC): "2026-01-02"} {
		require.NoError(t, d.Scan(from))
		assert.Equal(t, want, d.String(), "%v", from)
	}
	assert.Error(t, d.Scan(7))
}

func TestSides(t *testing.T) {
	for side, other := range map[trade.Side]trade.Side{trade.Left: trade.Right, trade.Right: trade.Left, trade.Each: trade.Each, trade.Alternate: trade.Alternate, trade.None: trade.None, "": ""} {
		assert.Equal(t, other, side.Other())
		assert.Equal(t, side == trade.Left || side == trade.Right, side.One())
	}
	for text, want := range map[string]bool{"left": true, "right": true, "Left": false, "each": false, "": false, "leftt": false} {
		_, ok := trade.ParseSide(text)
		assert.Equal(t, want, ok, text)
	}
	assert.Equal(t, trade.OnRight, trade.OnLeft.Other())
	assert.Equal(t, trade.OnBack, trade.OnBack.Other())
	_, ok := trade.OnBack.Side()
	assert.False(t, ok)
	side, ok := trade.OnLeft.Side()
	assert.True(t, ok && side == trade.Left)
	for _, p := range trade.Positions {
		assert.False(t, p.Lies() && p.Upright(), string(p))
	}
	assert.Equal(t, []string{"mat", "bed"}, trade.Words([]trade.Surface{trade.Mat, trade.Bed}))
	assert.Equal(t, []trade.Surface{trade.Mat, trade.Bed}, trade.List[trade.Surface]([]string{"mat", "bed"}))
	assert.Nil(t, trade.List[trade.Surface](nil))
}

func FuzzParseDay(f *testing.F) {
	for _, s := range []string{"2026-11-20", "2019", "0000", "9999-12-31", ""} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		d, err := trade.ParseDay(text)
		if err != nil {
			return
		}
		again, err := trade.ParseDay(d.String())
		if err != nil || again != d {
			t.Fatalf("%q is %s and comes back as %s, %v", text, d, again, err)
		}
	})
}
