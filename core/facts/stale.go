package facts

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"

	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
)

// Basis is a fingerprint of what a plan is made with besides the client's limits: the log, what it
// decides by now (an absence takes work back), the checks of today and the kind of session.
func (r *Request) Basis() string {
	memo := r.known()
	if memo.basis == "" {
		memo.basis = r.fingerprint()
	}
	return memo.basis
}

func (r *Request) fingerprint() string {
	type step struct {
		To       string
		Decision trade.Decision
		Extra    trade.Side
		Dose     dose.Dose
	}
	made := struct {
		Sessions []progress.Session
		Whole    *progress.Whole
		Next     []step
		Today    intake.Today
		Kind     *kinds.Template // as the practice has it
	}{Today: r.Client.Today, Whole: r.Whole, Kind: r.Template}
	if r.Log != nil {
		made.Sessions = r.Log.Sessions
	}
	made.Today.Date = trade.Day{}
	for _, d := range r.Decisions {
		made.Next = append(made.Next, step{d.ToVersion, d.Decision, d.Extra, d.Dose})
	}
	data, err := json.Marshal(made)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:6])
}

// Stale tells whether a plan was made on another basis (none was kept when it is empty), or an
// entry of it was revised or withdrawn since.
func (r *Request) Stale(p *plan.Plan, basis string) bool {
	return basis != "" && basis != r.Basis() || slices.ContainsFunc(p.Items, func(it plan.Item) bool {
		v, ok := r.Catalogue.Version(it.Version)
		return !ok || it.Revision != 0 && it.Revision != v.Revision
	})
}
