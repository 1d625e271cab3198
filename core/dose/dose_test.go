package dose

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// The worked check values of the trade (common practice; arithmetic exact).
func TestWorkedArithmetic(t *testing.T) {
	pyramid := Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10}
	assert.Equal(t, 120, pyramid.TotalReps()*pyramid.HoldSeconds(12), "6-4-2 of 10 s holds, one side")

	openBook := Dose{Sets: 1, Reps: 1, HoldS: 60, Extra: &Extra{"left", 0.5}}
	assert.Equal(t, 150, openBook.Seconds(12, EachSide), "60 s a side and 30 s on the tight side")

	five := Dose{Sets: 1, Reps: 1, HoldBreaths: 5}
	assert.Equal(t, 15, five.HoldSeconds(20))
	assert.Equal(t, 25, five.HoldSeconds(12))
	assert.Equal(t, 25, five.HoldSeconds(0), "the practice default is 12")

	assert.Equal(t, 150, Dose{Sets: 1, Reps: 1, HoldBreaths: 15}.HoldSeconds(6), "plank by 15 slow breaths")
	assert.Equal(t, 158, Dose{Sets: 2, Reps: 8, MoveS: 5, HoldS: 3, RestS: 30}.Seconds(12, OneSide), "2 x 8 x (2 up, 3 hold, 3 down) and 30 s rest")
	assert.Equal(t, 60, Dose{Sets: 1, Reps: 10, MoveS: 6}.Seconds(12, Alternating), "hundred: 10 breaths of 10 beats at 100 a minute")
	assert.Equal(t, 20, 4*Dose{Sets: 1, Reps: 5}.TotalReps(), "clock drill 5 + 5 + 5 + 5")
	assert.Equal(t, 10, Dose{Sets: 1, Reps: 10}.TotalReps(), "10 marching steps, sides together: 5 each")
}

func TestExtraRoundsUp(t *testing.T) {
	for _, c := range []struct {
		d    Dose
		want int
	}{
		{Dose{Sets: 1, Reps: 5, MoveS: 4, Extra: &Extra{"right", 0.5}}, 12}, // 2.5 reps become 3
		{Dose{Sets: 1, Reps: 1, HoldS: 25, Extra: &Extra{"right", 0.5}}, 15},
		{Dose{Sets: 1, Reps: 1, HoldS: 20, Extra: &Extra{"right", 0.5}}, 10},
		{Dose{Sets: 1, Reps: 1, HoldS: 20}, 0},
	} {
		assert.Equal(t, c.want, c.d.ExtraSeconds(12), "%+v", c.d)
	}
}

func TestCaps(t *testing.T) {
	d, capped := Dose{Sets: 1, Reps: 1, HoldBreaths: 5}.CapHold(10, 12)
	assert.True(t, capped)
	assert.Equal(t, 10, d.HoldSeconds(12))
	_, capped = Dose{Sets: 1, Reps: 1, HoldS: 10}.CapHold(10, 12)
	assert.False(t, capped)
	assert.Equal(t, []int{4, 4, 2}, Dose{Reps: 6, Pattern: []int{6, 4, 2}}.CapReps(4).Pattern)
	assert.Equal(t, 1, Dose{Sets: 1, Reps: 6}.CapReps(0).Reps)
}

func TestTotalIsTheSumOfItsLines(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := Dose{Sets: rapid.IntRange(1, 5).Draw(t, "sets"), Reps: rapid.IntRange(1, 15).Draw(t, "reps"), HoldS: rapid.IntRange(0, 60).Draw(t, "hold"),
			MoveS: rapid.IntRange(0, 10).Draw(t, "move"), RestS: rapid.IntRange(0, 60).Draw(t, "rest"), SetupS: rapid.IntRange(0, 30).Draw(t, "setup"), ChangeS: rapid.IntRange(0, 10).Draw(t, "change")}
		sides := Sides(rapid.IntRange(0, 2).Draw(t, "sides"))
		n := 1
		if sides == EachSide {
			n = 2
		}
		want := d.SetupS + n*(d.Sets*d.Reps*(d.MoveS+d.HoldS)+(d.Sets-1)*d.RestS) + (n-1)*d.ChangeS
		sum := 0
		for _, l := range d.Sum(12, sides) {
			sum += l.Seconds
		}
		if got := d.Seconds(12, sides); got != want || got != sum {
			t.Fatalf("%d, want %d, lines %d", got, want, sum)
		}
	})
}

func TestDosesInWords(t *testing.T) {
	for want, d := range map[string]Dose{
		"once, hold 5 breaths":   {Sets: 1, Reps: 1, HoldBreaths: 5},
		"once, hold 1 breath":    {Sets: 1, Reps: 1, HoldBreaths: 1},
		"8 times":                {Sets: 1, Reps: 8},
		"2 x 8, hold 3 s":        {Sets: 2, Reps: 8, HoldS: 3},
		"6-4-2 times, hold 10 s": {Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10},
		"5 times, hold 3 counts": {Sets: 1, Reps: 5, HoldCounts: 3},
		"3 x 12, hold 2 breaths": {Sets: 3, Reps: 12, HoldBreaths: 2},
	} {
		assert.Equal(t, want, d.Words())
	}
}

// Short and long days, weak hours, and alternating work done one side after the other.
func TestDosesOfOtherDays(t *testing.T) {
	pyramid := Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10}
	short, ok := pyramid.FewerSets()
	assert.True(t, ok)
	assert.Equal(t, "6 times, hold 10 s", short.Words(), "the short day: one set of 6")
	for _, c := range []struct {
		from Dose
		more bool
		want string
	}{
		{Dose{Sets: 1, Reps: 8}, true, "2 x 8"},
		{Dose{Sets: 3, Reps: 8}, false, "3 x 8"},
		{Dose{Sets: 1, Reps: 6, Pattern: []int{6}}, true, "6-4 times"},
		{pyramid, false, "6-4-2 times, hold 10 s"},
	} {
		got, more := c.from.MoreSets()
		assert.Equal(t, c.more, more, c.from.Words())
		assert.Equal(t, c.want, got.Words())
	}
	longer, _ := Dose{Sets: 1, Reps: 8}.MoreSets()
	assert.Equal(t, 30, longer.RestS, "the product's rest where the dose names none")
	_, ok = Dose{Sets: 1, Reps: 8}.FewerSets()
	assert.False(t, ok)
	assert.Equal(t, []int{6, 4, 2}, pyramid.Pattern, "the dose it came from stays")
	weak := Dose{Sets: 1, Reps: 5, MoveS: 8, Hours: []int{4, 5}}
	assert.Equal(t, 40+2*3*12, weak.Seconds(12, OneSide), "three slower passes for each of two weak hours")
	assert.Equal(t, "weak hours 4, 5: 3 slower passes each", weak.Sum(12, OneSide)[1].What)
	assert.Equal(t, 5, Dose{Sets: 1, Reps: 10}.PerSide().Reps, "10 marching steps are 5 a side")
	assert.Equal(t, 4, Dose{Sets: 1, Reps: 7}.PerSide().Reps)
}

// How two sides share the sets, ranges, windows, open holds, own rates and halves.
func TestStretchesAndWords(t *testing.T) {
	kinds := func(d Dose, sides Sides) (out []string) {
		for _, s := range d.Stretches(12, sides) {
			out = append(out, fmt.Sprintf("%s%d", s.Kind[:1], s.Side))
		}
		return out
	}
	pyramid := Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10, MoveS: 3, RestS: 15, ChangeS: 8, SetupS: 10}
	bySet := pyramid
	bySet.By = "set"
	assert.Equal(t, []string{"s0", "w0", "r0", "w0", "r0", "w0", "c1", "w1", "r1", "w1", "r1", "w1"}, kinds(pyramid, EachSide))
	assert.Equal(t, []string{"s0", "w0", "c1", "w1", "c0", "w0", "c1", "w1", "c0", "w0", "c1", "w1"}, kinds(bySet, EachSide), "the other side is the rest")
	assert.Equal(t, kinds(pyramid, OneSide), kinds(bySet, OneSide))
	assert.Equal(t, 10+2*12*13+5*8, bySet.Seconds(12, EachSide))
	bySet.Extra = &Extra{"left", 0.5}
	assert.Equal(t, []string{"s0", "w0", "c1", "w1", "c0", "w0", "c1", "w1", "c0", "w0", "e0", "c1", "w1"}, kinds(bySet, EachSide), "the extra follows the last set of its side")

	for want, d := range map[string]Dose{
		"8 to 10 times, hold 3 s":                            {Sets: 1, Reps: 10, RepsFrom: 8, HoldS: 3},
		"2 x 8 to 10":                                        {Sets: 2, Reps: 10, RepsFrom: 8},
		"once, hold 20 to 30 s":                              {Sets: 1, Reps: 1, HoldS: 30, HoldFrom: 20},
		"once, hold 3 to 5 breaths":                          {Sets: 1, Reps: 1, HoldBreaths: 5, HoldFrom: 3},
		"once, as many as come in 30 s":                      {Sets: 1, Reps: 1, WindowS: 30},
		"once, hold 60 s at most, to the first loss of form": {Sets: 1, Reps: 1, HoldS: 60, Open: true},
		"once, hold 15 breaths at 6 a minute":                {Sets: 1, Reps: 1, HoldBreaths: 15, Rate: 6},
		"5 times each way":                                   {Sets: 1, Reps: 10, Turn: "half"},
		"6-4-2 times each way, hold 10 s":                    {Sets: 3, Reps: 12, Pattern: []int{12, 8, 4}, HoldS: 10, Turn: "half"},
		"10 breaths of 10 beats":                             {Sets: 1, Reps: 10, Beats: 10},
		"2 x 5 times each way":                               {Sets: 2, Reps: 10, Turn: "half"},
		"once, hold 60 s, by feel":                           {Sets: 1, Reps: 1, HoldS: 60, ByFeel: true},
	} {
		assert.Equal(t, want, d.Words())
	}
	assert.Equal(t, 150, Dose{Sets: 1, Reps: 1, HoldBreaths: 15, Rate: 6}.HoldSeconds(12), "the work sets the pace, not the client's rest")
	assert.Equal(t, 30, Dose{Sets: 1, Reps: 1, WindowS: 30}.Seconds(12, Alternating))
	assert.Equal(t, "6 times", Dose{Sets: 1, Reps: 12, Turn: "half"}.PerSide().Words())
	assert.Equal(t, 4, Dose{Sets: 1, Reps: 6, Turn: "rep"}.CapReps(5).Reps, "the same number on both sides")
	assert.Equal(t, 5, Dose{Sets: 1, Reps: 6, RepsFrom: 5}.CapReps(5).Reps)
	assert.Zero(t, Dose{Sets: 1, Reps: 6, RepsFrom: 5}.CapReps(5).RepsFrom)
	longer, ok := Dose{Sets: 2, Reps: 12, Pattern: []int{12, 8}, Turn: "half"}.MoreSets()
	assert.True(t, ok)
	assert.Equal(t, []int{12, 8, 4}, longer.Pattern)
}
