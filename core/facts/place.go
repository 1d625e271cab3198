package facts

import (
	"slices"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/trade"
	"restbend/core/way"
)

// Shares of the working time that are down, by place (domain/07: half and a quarter; a little
// more, so that counting with or without the set-up makes no difference; product default).
var downShare = map[string]float64{kinds.PlaceMat: 0.53, kinds.PlaceMixed: 0.28, kinds.PlaceBed: 0.53}

// easeShare is the share of lying in acute back pain, "most of the time" (domain/07).
const easeShare = 0.53

// Place is where the session takes place: as the kind needs, as the client's record or the
// plan says, else as what is possible allows. A diagnosis alone never makes it upright.
func (r *Request) Place() string {
	if r.known().where == "" {
		r.memo.where = r.findPlace()
	}
	return r.memo.where
}

func (r *Request) findPlace() string {
	if where := r.Template.Where(); where != "" {
		return where
	}
	lying, floorWork, onBed := map[trade.Position]bool{}, false, false
	for _, v := range r.Catalogue.Versions {
		c, ok := r.Permitted(v)
		if !ok || !kinds.Down(v.Position) {
			continue
		}
		switch c.Place().Ground() {
		case way.Floor:
			floorWork = true
			lying[v.Position] = lying[v.Position] || v.Position.Lies()
		case way.Bed:
			onBed = onBed || v.Position.Lies()
		}
	}
	way, _ := r.Client.Position("floor")
	canGetDown := floorWork && (way == "yes" || way == "help") && r.Transfers() > 0
	wish := r.Client.Place
	if r.Ask.Place != "" {
		wish = r.Ask.Place
	}
	switch {
	case wish == kinds.PlaceUpright:
		return kinds.PlaceUpright
	case !canGetDown && onBed:
		return kinds.PlaceBed
	case !canGetDown:
		return kinds.PlaceUpright
	case wish != "":
		return wish
	case len(lying) < 2 || r.bonesOrFalls() || r.mostlyOnFeet():
		return kinds.PlaceMixed
	}
	return kinds.PlaceMat
}

// bonesOrFalls tells whether the limits of bone loss or of a risk of falls hold, recorded or not.
func (r *Request) bonesOrFalls() bool {
	return r.Screener != nil && len(r.Screener.AsIf()) > 0
}

// Careful tells that gates of balance, of one-leg bridges and of head lifts are limits for this client: bone loss, a
// risk of falls, an acute back, a fresh operation, or 75 and never measured on one leg (domain/10).
func (r *Request) Careful() bool {
	year, _, _ := r.Client.Today.Date.Date()
	old := r.Client.Born > 0 && year-r.Client.Born >= 75 && r.Client.OneLegS == 0
	return r.bonesOrFalls() || r.Acute() || r.FreshOperation() || old
}

// FreshOperation tells that an operation is recorded as recent.
func (r *Request) FreshOperation() bool { return r.has("recent-surgery") }

// has tells whether one of some conditions is recorded.
func (r *Request) has(codes ...string) bool {
	return slices.ContainsFunc(
		r.Client.Conditions,
		func(k intake.Condition) bool { return slices.Contains(codes, k.Code) },
	)
}

// mostlyOnFeet tells whether the aims ask mostly for balance and legs.
func (r *Request) mostlyOnFeet() bool {
	aims := r.Client.Aims
	if len(aims) == 0 {
		aims = r.proposedAims()
	}
	return shareOf(aims, "balance", "leg-strength", "bone-loading", "ankle-foot") > 0.5
}

// shareOf is the share that some aims have of all weights.
func shareOf(aims map[string]float64, of ...string) float64 {
	some, all := 0.0, 0.0
	for a, w := range aims {
		all += w
		if slices.Contains(of, a) {
			some += w
		}
	}
	if all == 0 {
		return 0
	}
	return some / all
}

// Acute tells whether the limits of an acute back pain hold.
func (r *Request) Acute() bool { return r.Screener.Acute() }

// inPlace tells whether a version may be done where the session takes place: an upright session
// leaves the ground out.
func (r *Request) inPlace(c *Candidate) bool {
	return r.Place() != kinds.PlaceUpright || c.Place().Ground() == way.Upright
}

// substitute is what a version that exists for people who cannot counts for someone who can
// (domain/07).
const substitute = 0.6

// PlaceFactor is how much a version counts where the session takes place: one that exists for
// people who cannot serves less someone who can, while something else of its family suits; not
// on the client's working rung.
func (r *Request) PlaceFactor(v *catalogue.Version) float64 {
	if v.InsteadOf != "floor" || r.Place() != kinds.PlaceMat && r.Place() != kinds.PlaceMixed || r.working(v) {
		return 1
	}
	f, ok := r.Catalogue.Family(v.Family)
	if !ok {
		return 1
	}
	for _, branch := range f.Branches {
		for _, slug := range branch {
			if w, ok := r.Catalogue.Version(slug); ok && w.InsteadOf == "" && r.suits(slug) {
				return substitute
			}
		}
	}
	return 1
}

// working tells whether a version is the rung the client works on, by the log or as seen elsewhere.
func (r *Request) working(v *catalogue.Version) bool {
	if r.Client.Levels[v.Family] == v.Slug {
		return true
	}
	for i := range r.Decisions {
		if r.Decisions[i].ToVersion == v.Slug {
			return true
		}
	}
	return false
}
