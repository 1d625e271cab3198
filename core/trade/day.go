package trade

import (
	"fmt"
	"time"
)

// Day is a day of the calendar without a clock. The zero Day is no day. A day of which only the
// year is known is the last one of that year: the strict reading of how long ago something was.
type Day struct {
	n    int32 // days from the first of January of the year 1, plus 1
	year bool  // only the year is known
}

const secondsOfADay = 24 * 60 * 60

var first = time.Date(1, 1, 1, 0, 0, 0, 0, time.UTC).Unix()

// On is the day of the calendar.
func On(year int, month time.Month, day int) Day {
	return Day{n: int32((time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix()-first)/secondsOfADay) + 1}
}

// DayOf is the day of a moment where the clocks are those of a place.
func DayOf(t time.Time, at *time.Location) Day {
	return On(t.In(at).Date())
}

// ParseDay reads 2026-11-20, or a year alone; years begin with 1.
func ParseDay(text string) (d Day, err error) {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		if t, err = time.Parse("2006", text); err == nil {
			t, d.year = time.Date(t.Year(), time.December, 31, 0, 0, 0, 0, time.UTC), true
		}
	}
	if err != nil || t.Year() < 1 {
		return Day{}, fmt.Errorf("found %q, allowed: a real date as 2026-11-20", text)
	}
	d.n = On(t.Date()).n
	return d, nil
}

// IsZero tells that there is no day.
func (d Day) IsZero() bool { return d.n == 0 }

// YearOnly tells that only the year is known.
func (d Day) YearOnly() bool { return d.year }

func (d Day) time() time.Time {
	return time.Unix(first+int64(d.n-1)*secondsOfADay, 0).UTC()
}

// String writes 2026-11-20, a year alone, or nothing.
func (d Day) String() string {
	switch {
	case d.IsZero():
		return ""
	case d.year:
		return d.time().Format("2006")
	}
	return d.time().Format(time.DateOnly)
}

// Format writes the day in a layout of package time.
func (d Day) Format(layout string) string {
	if d.IsZero() {
		return ""
	}
	return d.time().Format(layout)
}

// Date is the day's year, month and day of the month.
func (d Day) Date() (year int, month time.Month, day int) { return d.time().Date() }

// Weekday is the day of the week.
func (d Day) Weekday() time.Weekday { return d.time().Weekday() }

// Before and After compare days.
func (d Day) Before(o Day) bool { return d.n < o.n }

// After is the other way round.
func (d Day) After(o Day) bool { return d.n > o.n }

// Since is how many days lie between an earlier day and this one.
func (d Day) Since(o Day) int { return int(d.n - o.n) }

// AddDays is the day so many days on.
func (d Day) AddDays(n int) Day { return Day{n: d.n + int32(n)} }

// AddMonths is the same day so many months on, or the last of a month that is shorter.
func (d Day) AddMonths(n int) Day {
	year, month, day := d.Date()
	last := time.Date(year, month+time.Month(n)+1, 0, 0, 0, 0, 0, time.UTC)
	return On(last.Year(), last.Month(), min(day, last.Day()))
}

// MarshalText writes the day into a document.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads a day of a document; an empty text is no day.
func (d *Day) UnmarshalText(text []byte) (err error) {
	*d = Day{}
	if len(text) > 0 {
		*d, err = ParseDay(string(text))
	}
	return err
}

// Scan reads a day of a database. What is no day is none: the reader says so (a session without
// a day permits no step up), and the rest of the row is not lost.
func (d *Day) Scan(from any) error {
	switch v := from.(type) {
	case nil:
		*d = Day{}
		return nil
	case string:
		*d, _ = ParseDay(v)
		return nil
	case time.Time:
		*d = On(v.Date())
		return nil
	}
	return fmt.Errorf("a day cannot be read from %T", from)
}

// MustDay is a day written in code, none when it is empty; it panics when there is no such day.
func MustDay(text string) (d Day) {
	if err := d.UnmarshalText([]byte(text)); err != nil {
		panic(err)
	}
	return d
}
