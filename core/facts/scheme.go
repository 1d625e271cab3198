package facts

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
)

// A scheme is a kind of session that is learned: first its fixed beginning and end alone, then, once both are done
// from memory, one section of the main part a session, in turn (domain/04 and 07).

// The fixed beginning and end are these alone for a week (domain/04), and, where nobody was asked whether they are
// done from memory, until they were done twice (product default).
const (
	firstWeekDays = 7
	byHeart       = 2
)

// Scheme is how far a client has come with a kind that is learned, as the log tells it.
type Scheme struct {
	Done     int            // sessions with its preparation
	First    trade.Day      // the first of them
	Memory   bool           // beginning and end were done from memory
	Asked    bool           // ... or not yet, when somebody was asked
	Learning bool           // beginning and end alone
	Section  *kinds.Section // whose turn it is, nil while learning and for kinds without sections
	Last     trade.Day      // ... and when it last had it, zero for never
}

// Known tells whether the kind is learned at all.
func (s *Scheme) Known() bool { return s != nil && !s.First.IsZero() }

// Scheme tells how far the client has come with the kind of this session, nil when that is not learned.
func (r *Request) Scheme() *Scheme {
	t := r.Template
	if t == nil || !t.FirstWeek {
		return nil
	}
	out := &Scheme{First: r.Today}
	last := map[string]trade.Day{}
	if r.Log != nil {
		for i := range r.Log.Sessions {
			s := &r.Log.Sessions[i]
			if !slices.ContainsFunc(
				s.Items,
				func(it progress.Item) bool { return it.Begun() && slices.Contains(t.Prepare, it.Version) },
			) {
				continue
			}
			out.Done++
			if s.Date.Before(out.First) {
				out.First = s.Date
			}
			if s.Checks != nil && s.Checks.FromMemory != nil {
				out.Asked, out.Memory = true, *s.Checks.FromMemory
			}
			for k := range t.Sections {
				if sec := &t.Sections[k]; slices.ContainsFunc(s.Items, func(it progress.Item) bool {
					return it.Begun() && !t.Writes(it.Version) && r.ofSection(it.Version, sec)
				}) {
					last[sec.Name] = s.Date
				}
			}
		}
	}
	known := out.Done >= byHeart
	if out.Asked {
		known = out.Memory
	}
	out.Learning = !known || r.Today.Since(out.First) < firstWeekDays
	if out.Learning {
		return out
	}
	for k := range t.Sections { // whose turn is longest ago; one never done comes first, in the order of the kind
		sec := &t.Sections[k]
		if !r.sectionSuits(sec) {
			continue
		}
		if day := last[sec.Name]; out.Section == nil || day.Before(out.Last) {
			out.Section, out.Last = sec, day
		}
	}
	return out
}

func (r *Request) ofSection(slug string, sec *kinds.Section) bool {
	v, ok := r.Catalogue.Version(slug)
	return ok && slices.Contains(sec.Families, v.Family)
}

// sectionSuits tells whether something of a section may be done and begun today.
func (r *Request) sectionSuits(sec *kinds.Section) bool {
	return slices.ContainsFunc(r.Catalogue.Versions, func(v *catalogue.Version) bool {
		if !slices.Contains(sec.Families, v.Family) || kinds.PartOf(v) != kinds.Main || r.Above(v) {
			return false
		}
		c, ok := r.today(v)
		return ok && r.inPlace(&c)
	})
}

// SchemeToday is the request's scheme, worked out once.
func (r *Request) SchemeToday() *Scheme {
	m := r.known()
	if m.scheme == nil {
		m.scheme = &Scheme{}
		if s := r.Scheme(); s != nil {
			m.scheme = s
		}
	}
	return m.scheme
}

// learning tells whether the session is the fixed beginning and end of its kind alone.
func (r *Request) learning() bool { return r.SchemeToday().Learning }

// inTurn tells whether a version may be in the main part of a kind whose sections take turns.
func (r *Request) inTurn(v *catalogue.Version) bool {
	if r.Template == nil || len(r.Template.Sections) == 0 || kinds.PartOf(v) != kinds.Main || r.Template.Writes(v.Slug) {
		return true
	}
	s := r.SchemeToday()
	return s.Section != nil && slices.Contains(s.Section.Families, v.Family)
}

// byFeel is a dose that ends with the felt change: in kinds worked by feel, once a version was done often enough to
// be known, its count is where it ends at the latest, and half of it is enough.
func (r *Request) byFeel(c *Candidate, o Option) Option {
	d := &o.Dose
	if r.Template == nil || !r.Template.ByFeel || kinds.PartOf(c.V) != kinds.Main || c.Times < byHeart || d.Reps < 2 ||
		d.HoldS > 0 || d.HoldBreaths > 0 ||
		len(d.Pattern) > 0 || d.Open ||
		d.Apart != nil {
		return o
	}
	d.ByFeel = true
	if d.RepsFrom == 0 {
		d.RepsFrom = (d.Reps + 1) / 2
	}
	return o
}

// Owed are the items of a session from one on, with the parts of the fixed beginning of its kind that it lacks and
// that suit now in their places: what waited for the hand check. Added are these.
func (r *Request) Owed(p *plan.Plan, from int) (items, added []plan.Item) {
	t := r.About(p)
	items = slices.Clone(p.Items[min(from, len(p.Items)):])
	prepare, _ := t.Template.Fixed()
	at := 0
	for _, slug := range prepare {
		if i := slices.IndexFunc(items, func(it plan.Item) bool { return it.Version == slug }); i >= 0 {
			at = i + 1
		}
		if p.Has(slug) {
			continue
		}
		c, err := t.Candidate(slug)
		if err != nil {
			continue
		}
		it := t.Item(&c, trade.Main, &c.Doses[c.Normal()])
		t.Dress(&it)
		items = slices.Insert(items, at, it)
		added = append(added, it)
		at++
	}
	return items, added
}

// awaitsCheck tells whether a version waits only for today's hand check.
func (r *Request) awaitsCheck(v *catalogue.Version) bool {
	if v.Binds != "jammed-up" || r.Client.Today.SIJSide != "" {
		return false
	}
	return slices.Contains(r.Template.Prepare, catalogue.HandCheck)
}
