package edit

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// A button does what it says (domain/10): what a change did is measured on the plan before and after it, and a change
// that did something else, or nothing, is refused and leaves the plan as it was.

// measured says what a change did to a plan; the error says that it did not do what its name says.
func measured(r *facts.Request, was, now *plan.Plan, e Edit) (said string, err error) {
	m := &measure{r: r, was: was, now: now, e: e}
	if e.Item >= 0 && e.Item < len(was.Items) && !slices.Contains(whole, e.Op) {
		m.old = &was.Items[e.Item]
		m.name = r.NameOf(m.old.Version)
	} else {
		m.name = r.NameOf(e.With)
	}
	switch e.Op {
	case "up", "down", "move":
		return m.moved()
	case "remove", "ban":
		return m.gone()
	case "add", "begin", "finish":
		return m.there()
	case "longer", "shorter":
		return m.length()
	case "dose", "side":
		return m.changed()
	case "swap", "harder", "easier":
		return m.exchanged()
	case "layer", "unlayer":
		n := len(m.new().Layers) - len(m.old.Layers)
		if (e.Op == "layer") != (n > 0) || n == 0 {
			return "", plan.Deny("layers", "%s has %d layers as before", m.name, len(m.old.Layers))
		}
		return m.name + ": " + map[bool]string{true: "a layer more", false: "a layer less"}[n > 0], nil
	case "lock", "unlock":
		if m.old.Locked == m.new().Locked {
			return "", plan.Deny("item", "%s is %sed already", m.name, e.Op)
		}
		return m.name + " " + e.Op + "ed", nil
	case "allow":
		if !slices.Contains(was.Banned, e.With) {
			return "", plan.Deny("with", "%s was not taken out", m.name)
		}
		return m.name + " allowed again", nil
	case "arrange":
		if slices.Equal(versions(was), versions(now)) {
			return "", plan.Deny("order", "everything is in its best order already")
		}
		return "put in the best order", nil
	}
	return m.rebuilt()
}

// measure is a change under measurement: the plan before and after it, and the item it is about.
type measure struct {
	r        *facts.Request
	was, now *plan.Plan
	e        Edit
	old      *plan.Item
	name     string
}

// new is the item in the place of the old one.
func (m *measure) new() *plan.Item {
	if m.e.Item >= len(m.now.Items) {
		return &plan.Item{}
	}
	return &m.now.Items[m.e.Item]
}

func (m *measure) seconds(it *plan.Item) int {
	return it.Dose.Seconds(m.r.Client.BreathRate, it.Sides())
}

// by says how much longer or shorter something became: "1:05 longer".
func by(seconds int) string {
	word := "longer"
	if seconds < 0 {
		seconds, word = -seconds, "shorter"
	}
	return fmt.Sprintf("%d:%02d %s", seconds/60, seconds%60, word)
}

// place is where a version stands among what is done, resets aside; -1 where it does not.
func place(p *plan.Plan, version string) int {
	n := 0
	for i := range p.Items {
		switch it := &p.Items[i]; {
		case it.Role == trade.Reset:
		case it.Version == version:
			return n
		default:
			n++
		}
	}
	return -1
}

func (m *measure) moved() (string, error) {
	was, now := place(m.was, m.old.Version), place(m.now, m.old.Version)
	of := 0
	for i := range m.now.Items {
		of += facts.CountIf(m.now.Items[i].Role != trade.Reset)
	}
	switch {
	case m.e.Op == "up" && now >= was, m.e.Op == "move" && m.e.To < m.e.Item && now >= was:
		return "", plan.Deny("item", "%s cannot come earlier from here", m.name)
	case m.e.Op == "down" && now <= was, m.e.Op == "move" && m.e.To > m.e.Item && now <= was:
		return "", plan.Deny("item", "%s cannot come later from here", m.name)
	case now == was:
		return "", plan.Deny("to", "%s stands there already", m.name)
	}
	word := "earlier"
	if now > was {
		word = "later"
	}
	return fmt.Sprintf("%s comes %s, number %d of %d", m.name, word, now+1, of), nil
}

func (m *measure) gone() (string, error) {
	if len(m.now.Items) >= len(m.was.Items) || m.old.Role != trade.Reset && m.now.Has(m.old.Version) {
		return "", plan.Deny("item", "%s is still in this session", m.name)
	}
	if m.e.Op == "ban" {
		return m.name + " taken out for good, " + by(m.now.Seconds-m.was.Seconds), nil
	}
	return m.name + " removed, " + by(m.now.Seconds-m.was.Seconds), nil
}

func (m *measure) there() (string, error) {
	at := slices.IndexFunc(m.now.Items, func(it plan.Item) bool { return it.Version == m.e.With && it.Role != trade.Reset })
	switch {
	case at < 0:
		return "", plan.Deny("with", "%s could not be put in", m.name)
	case m.e.Op == "begin" && at > 0, m.e.Op == "finish" && at < len(m.now.Items)-1:
		return "", plan.Deny("with", "%s stands at number %d", m.name, at+1)
	}
	more := by(m.now.Seconds - m.was.Seconds)
	switch m.e.Op {
	case "begin":
		return "begins with " + m.name + ", " + more, nil
	case "finish":
		return "ends with " + m.name + ", " + more, nil
	}
	return fmt.Sprintf("%s added, number %d, %s", m.name, at+1, more), nil
}

func (m *measure) length() (string, error) {
	d := m.seconds(m.new()) - m.seconds(m.old)
	if m.e.Op == "longer" && d <= 0 || m.e.Op == "shorter" && d >= 0 {
		return "", plan.Deny("dose", "%s cannot be made %s", m.name, m.e.Op)
	}
	return m.from() + ", " + by(d), nil
}

// from says the dose before and now.
func (m *measure) from() string {
	return m.name + ": " + m.old.DoseWords() + " → " + m.new().DoseWords()
}

func (m *measure) changed() (string, error) {
	it := m.new()
	if m.e.Op == "side" {
		switch {
		case it.Side != trade.Side(m.e.With):
			return "", plan.Deny("side", "%s stays as it was: %s", m.name, sideWords(it.Side))
		case it.Side == m.old.Side:
			return m.name + ": " + sideWords(it.Side) + ", as before", nil
		}
		return m.from() + ", " + by(m.seconds(it)-m.seconds(m.old)), nil
	}
	asked := *m.old
	if err := m.typed(&asked); err != nil {
		return "", err
	}
	said := m.from() + ", " + by(m.seconds(it)-m.seconds(m.old))
	if asked.DoseWords() != it.DoseWords() || asked.Dose.RestS != it.Dose.RestS {
		if it.DoseWords() == m.old.DoseWords() && it.Dose.RestS == m.old.Dose.RestS {
			return "", plan.Deny("dose", "%s stays %s: the log and the limits allow no more", m.name, it.DoseWords())
		}
		said += "; not " + asked.DoseWords() + ", as far as the log and the limits allow"
	}
	return said, nil
}

// typed is the item as the dose was typed, whatever the limits say.
func (m *measure) typed(it *plan.Item) error {
	base := it.Dose
	if m.e.Dose.Side == "" {
		base.Apart = nil
		d, err := m.e.Dose.Apply(base)
		it.Dose = d
		return err
	}
	it.Dose = m.new().Dose // of sides dosed apart the words say both
	i := 0
	if m.e.Dose.Side == trade.Right {
		i = 1
	}
	if it.Dose.Apart == nil {
		return nil
	}
	apart := *it.Dose.Apart
	d, err := m.e.Dose.Apply(apart[i])
	apart[i] = d
	it.Dose.Apart = &apart
	return err
}

func (m *measure) exchanged() (string, error) {
	it := m.new()
	v, _ := m.r.Catalogue.Version(it.Version)
	switch {
	case v == nil, it.Version == m.old.Version, m.e.Op == "swap" && it.Version != m.e.With:
		return "", plan.Deny("with", "%s stands as before", m.name)
	case m.e.Op == "harder" && it.Effort < m.old.Effort, m.e.Op == "easier" && it.Effort > m.old.Effort:
		return "", plan.Deny("item", "%s is of effort %d, %s of %d: it would not be %s", v.Name, it.Effort, m.name, m.old.Effort,
			m.e.Op)
	}
	word := map[string]string{"swap": "", "harder": ", one rung up", "easier": ", one rung down"}[m.e.Op]
	return fmt.Sprintf("%s in place of %s%s: effort %d after %d, %s", v.Name, m.name, word, it.Effort, m.old.Effort,
		by(m.now.Seconds-m.was.Seconds)), nil
}

func (m *measure) rebuilt() (string, error) {
	for _, slug := range m.was.Removed {
		if m.now.Has(slug) {
			return "", plan.Deny("removed", "%s was removed and would come back", m.r.NameOf(slug))
		}
	}
	more := 0
	var gone []string
	for i := range m.now.Items {
		more += facts.CountIf(!m.was.Has(m.now.Items[i].Version))
	}
	for i := range m.was.Items {
		if it := &m.was.Items[i]; !m.now.Has(it.Version) {
			gone = append(gone, m.r.NameOf(it.Version))
		}
	}
	said := fmt.Sprintf("rebuilt around what is kept: %d new", more)
	if len(gone) > 0 {
		said += ", left out: " + strings.Join(gone, ", ")
	}
	return said, nil
}

// Rebuilt says what a rebuilding did, measured on the plans before and after it.
func Rebuilt(r *facts.Request, was, now *plan.Plan) (string, error) {
	return measured(r, was, now, Edit{Op: "rebuild", Item: -1})
}

// takenOut remembers what a change by hand took out, so that rebuilding does not bring it back; what is put in by hand
// is taken out no more.
func takenOut(p *plan.Plan, version string) {
	if version != "" && !p.Has(version) && !slices.Contains(p.Removed, version) {
		p.Removed = append(slices.Clone(p.Removed), version)
	}
	p.Removed = slices.DeleteFunc(slices.Clone(p.Removed), func(s string) bool {
		return p.Has(s) || slices.Contains(p.Banned, s)
	})
}
