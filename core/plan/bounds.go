package plan

import (
	"encoding/json"
	"errors"
	"fmt"

	"restbend/core/dose"
	"restbend/core/kinds"
)

// MostItems is how many exercises a session may have that comes from outside (product default).
const MostItems = 100

// mostSlot is the longest slot, seconds (product default).
const mostSlot = 4 * 3600

// Check says what of a plan lies beyond every bound: what comes from outside is judged before anything counts with it.
func (p *Plan) Check() error {
	for _, x := range []struct {
		name     string
		n, most  int
		negative bool
	}{
		{"minutes", p.Minutes, kinds.MaxMinutes, false},
		{"slot_s", p.SlotS, mostSlot, false},
		{"seconds", p.Seconds, mostSlot, false},
		{"finish_s", p.UpS, mostSlot, false},
		{"allow_new", p.AllowNew, MostItems, false},
		{"items", len(p.Items), MostItems, false},
		{"banned", len(p.Banned), 1000, false},
	} {
		if x.n < 0 || x.n > x.most {
			return fmt.Errorf("%s: found %d, allowed: 0 to %d", x.name, x.n, x.most)
		}
	}
	for i := range p.Items {
		it := &p.Items[i]
		doses := []*dose.Dose{&it.Dose, it.DoseLeft, it.DoseRight}
		if it.Dose.Apart != nil {
			doses = append(doses, &it.Dose.Apart[0], &it.Dose.Apart[1])
		}
		for _, d := range doses {
			if d == nil {
				continue
			}
			if err := d.CheckKept(); err != nil {
				return fmt.Errorf("items[%d].dose.%w", i, err)
			}
		}
		for name, n := range map[string]int{"start": it.Start, "end": it.End, "transition_s": it.Transition,
			"turn_s": it.TurnS} {
			if n < 0 || n > mostSlot {
				return fmt.Errorf("items[%d].%s: found %d, allowed: 0 to %d", i, name, n, mostSlot)
			}
		}
		if it.Effort < 0 || it.Effort > 10 || len(it.Layers) > dose.MostSets || len(it.Cues) > MostItems {
			return fmt.Errorf("items[%d]: effort, layers or cues are out of range", i)
		}
	}
	for i := range p.Alternatives {
		if q := p.Alternatives[i].Plan; q != nil {
			if len(q.Alternatives) > 0 {
				return fmt.Errorf("alternatives[%d]: has alternatives itself", i)
			}
			if err := q.Check(); err != nil {
				return fmt.Errorf("alternatives[%d].plan.%w", i, err)
			}
		}
	}
	return nil
}

// ErrDamaged is returned for a plan that is kept and cannot be used: nobody wrote it with this program.
var ErrDamaged = errors.New("the plan is damaged")

// Read reads a plan that is kept, within every bound.
func Read(doc []byte) (*Plan, error) {
	p := &Plan{}
	if err := json.Unmarshal(doc, p); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	if err := p.Check(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	return p, nil
}
