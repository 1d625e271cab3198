// Package archive writes clients with everything about them as one open document, reads
// such a document back in, and checks a whole database.
package archive

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/record"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/figure"
	"restbend/store"
	"restbend/teaching"
)

// Bundle is a restbend.bundle/1 document. Accounts and passwords are never part of it.
type Bundle struct {
	Format  string   `json:"format"`
	Clients []Client `json:"clients"`
	Limits  []Limit  `json:"limits,omitempty"` // the practice's changes, oldest first; only in a bundle of everything
	Own     []string `json:"own,omitempty"`    // own versions in the catalogue's form
}

// Client is one client with sessions, plans, tests and history.
type Client struct {
	UID     string            `json:"uid,omitempty"` // the same wherever this document goes
	Client  json.RawMessage   `json:"client"`        // restbend.client/1
	Build   string            `json:"build,omitempty"`
	Intake  string            `json:"intake,omitempty"` // the step an unfinished intake is resumed at
	Plans   []Plan            `json:"plans,omitempty"`
	Taught  []Taught          `json:"taught,omitempty"`
	Results []json.RawMessage `json:"results,omitempty"` // restbend.results/1
	History []Change          `json:"history,omitempty"`
}

// Plan is a stored plan.
type Plan struct {
	ID      int64           `json:"id"`
	Plan    json.RawMessage `json:"plan"`
	Created string          `json:"created"`
}

// Taught is one session: its score, what was marked, and the log session both give.
type Taught struct {
	PlanID    int64           `json:"plan_id,omitempty"`
	Day       trade.Day       `json:"day"`
	Log       json.RawMessage `json:"log,omitempty"` // the log session
	Plan      json.RawMessage `json:"plan"`
	State     json.RawMessage `json:"state,omitempty"`
	PainStart *float64        `json:"pain_start,omitempty"`
	PainEnd   *float64        `json:"pain_end,omitempty"`
	SorePeak  *float64        `json:"soreness_peak,omitempty"`
	SettledH  *float64        `json:"soreness_settled_h,omitempty"`
	Notes     string          `json:"notes,omitempty"`
	RedFlags  json.RawMessage `json:"red_flags,omitempty"`
	EndedAt   string          `json:"ended_at,omitempty"`
	// of a session without a score: the log session before what was marked since
	Base    json.RawMessage   `json:"base,omitempty"`
	Scores  []json.RawMessage `json:"scores,omitempty"` // restbend.score/1, one for every revision
	Marks   []Mark            `json:"marks,omitempty"`
	Entries []Entry           `json:"entries,omitempty"` // of a session of before
}

// Mark is one acknowledged mark: who made it, and when it came in.
type Mark struct {
	By   string          `json:"by,omitempty"`
	At   string          `json:"at,omitempty"`
	Mark json.RawMessage `json:"mark"` // of restbend.marks/1
}

// Entry is one acknowledged line of a session.
type Entry struct {
	Key   string          `json:"key"`
	Kind  string          `json:"kind"`
	At    string          `json:"at,omitempty"`
	Entry json.RawMessage `json:"entry"`
}

// Change is one line of a client's history.
type Change struct {
	At     string `json:"at"`
	Who    string `json:"who"`
	Field  string `json:"field"`
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
	Why    string `json:"why,omitempty"`

	Imported bool `json:"imported,omitempty"` // it came in with a document: another practice's word
}

// Limit is one change of a limit; Value is null where it went back to the default.
type Limit struct {
	Key    string   `json:"key"`
	Value  *float64 `json:"value"`
	Reason string   `json:"reason"`
	Source string   `json:"source,omitempty"`
	Who    string   `json:"who"`
	At     string   `json:"at"`
}

const format = "restbend.bundle/1"

// Clients writes the given clients, with the own versions they name.
func Clients(ctx context.Context, st *store.Store, rules *safety.Rules, rows []store.Client) (*Bundle, error) {
	b := &Bundle{Format: format, Clients: []Client{}}
	own, err := everyOwn(ctx, st)
	if err != nil {
		return nil, err
	}
	named := map[string]bool{}
	for _, row := range rows {
		r, err := st.Record(ctx, row)
		if err != nil {
			return nil, err
		}
		c := client(&r, rules.FlagCodes())
		b.Clients = append(b.Clients, c)
		if len(own) == 0 {
			continue
		}
		doc, err := json.Marshal(c)
		if err != nil {
			return nil, err
		}
		for i := range own {
			if bytes.Contains(doc, []byte(`"`+own[i].Slug+`"`)) {
				named[own[i].Slug] = true
			}
		}
	}
	for i := range own {
		if named[own[i].Slug] {
			b.Own = append(b.Own, own[i].Document)
		}
	}
	return b, nil
}

// everyOwn lists the own versions of the practice that are in use.
func everyOwn(ctx context.Context, st *store.Store) (out []store.Own, err error) {
	members, err := st.Members(ctx, 0)
	if err != nil {
		return nil, err
	}
	for _, m := range members {
		own, err := st.OwnVersions(ctx, m.ID)
		if err != nil {
			return nil, err
		}
		for _, o := range own {
			if o.Document != "" {
				out = append(out, o)
			}
		}
	}
	return out, nil
}

// Everything writes all clients of the practice, its changed limits and own versions.
func Everything(ctx context.Context, st *store.Store, rules *safety.Rules) (*Bundle, error) {
	rows, err := st.EveryClient(ctx)
	if err != nil {
		return nil, err
	}
	b, err := Clients(ctx, st, rules, rows)
	if err != nil {
		return nil, err
	}
	changes, err := st.LimitChanges(ctx)
	if err != nil {
		return nil, err
	}
	for _, c := range changes {
		b.Limits = append(b.Limits, Limit{c.Key, ptr(c.Value), c.Reason, c.Source, c.Who, c.At})
	}
	own, err := everyOwn(ctx, st)
	if err != nil {
		return nil, err
	}
	b.Own = nil
	for _, o := range own {
		b.Own = append(b.Own, o.Document)
	}
	return b, nil
}

// InForce keeps the newest change of every limit; one without a value took it back to the
// default.
func InForce(changes []store.LimitChange) map[string]safety.Change {
	out := map[string]safety.Change{}
	for _, c := range changes {
		delete(out, c.Key)
		if c.Value.Valid {
			out[c.Key] = safety.Change{Value: c.Value.Float64, Source: c.Source}
		}
	}
	return out
}

func ptr(f sql.NullFloat64) *float64 {
	if !f.Valid {
		return nil
	}
	return &f.Float64
}

func null(f *float64) sql.NullFloat64 {
	if f == nil {
		return sql.NullFloat64{}
	}
	return sql.NullFloat64{Float64: *f, Valid: true}
}

// orNone leaves an empty document out.
func orNone(doc []byte) json.RawMessage {
	if string(doc) == "{}" {
		return nil
	}
	return doc
}

// fitted is a stored session whose marks can all be read. One that an older program took in and nobody takes in now goes
// out as what of it can be read, and the log says what follows from that: what is written here comes back.
func fitted(t store.Taught, flags []string) store.Taught {
	b, err := teaching.Bounds(&t, flags, time.Now())
	if err != nil {
		return t // a damaged session is said where it is read
	}
	again := false
	t.Marks = slices.Clone(t.Marks)
	for i := range t.Marks {
		var read record.Mark
		if json.Unmarshal(t.Marks[i].Document, &read) != nil {
			continue
		}
		known := json.NewDecoder(bytes.NewReader(t.Marks[i].Document))
		known.DisallowUnknownFields()
		unknown := known.Decode(&record.Mark{}) != nil
		if m, changed := read.Fitted(b); changed || unknown {
			if doc, err := json.Marshal(m); err == nil {
				t.Marks[i].Kind, t.Marks[i].Document, again = m.Kind, doc, true
			}
		}
	}
	if again && t.EndedAt.Valid {
		whole := t
		if teaching.Fold(&whole) == nil {
			t = whole
		}
	}
	return t
}

// client is a stored client as a document; flags are the warning signs that marks may name.
func client(r *store.Record, flags []string) Client {
	c := Client{
		UID:    r.Client.UID,
		Client: json.RawMessage(r.Client.Document),
		Build:  r.Client.Build,
		Intake: r.Client.Intake,
	}
	for _, p := range r.Plans {
		c.Plans = append(c.Plans, Plan{p.ID, json.RawMessage(p.Document), p.CreatedAt})
	}
	for _, t := range r.Taught {
		t = fitted(t, flags)
		out := Taught{
			Log:       orNone(t.Log),
			PlanID:    t.PlanID.Int64,
			Day:       t.Day,
			Plan:      json.RawMessage(t.Plan),
			State:     orNone(t.State),
			Base:      orNone(t.Base),
			PainStart: ptr(t.PainStart),
			PainEnd:   ptr(t.PainEnd),
			SorePeak:  ptr(t.SorePeak),
			SettledH:  ptr(t.SoreSettledH),
			Notes:     t.Notes,
			RedFlags:  json.RawMessage(t.RedFlags),
			EndedAt:   t.EndedAt.String,
		}
		for _, sc := range t.Scores {
			out.Scores = append(out.Scores, json.RawMessage(sc.Document))
		}
		for _, m := range t.Marks {
			out.Marks = append(out.Marks, Mark{m.Who, m.At, json.RawMessage(m.Document)})
		}
		for _, e := range t.Entries {
			out.Entries = append(out.Entries, Entry{e.Key, e.Kind, e.At, json.RawMessage(e.Document)})
		}
		c.Taught = append(c.Taught, out)
	}
	for _, t := range r.Results {
		c.Results = append(c.Results, json.RawMessage(t.Document))
	}
	for _, h := range r.History {
		c.History = append(c.History, Change(h))
	}
	return c
}

// Read reads a bundle, or a single restbend.client/1 document, and checks everything in it. Problems name the field;
// notes are what names content that is not here: exercises that were withdrawn or are somebody's own.
func Read(
	r io.Reader,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	today trade.Day,
) (*Bundle, exchange.Problems, error) {
	data, err := io.ReadAll(io.LimitReader(r, exchange.MaxBundle+1))
	if err != nil {
		return nil, nil, err
	}
	var kind struct {
		Format string `json:"format"`
	}
	if err := json.Unmarshal(data, &kind); err == nil && kind.Format == "restbend.client/1" {
		c, wrong, notes, err := exchange.ReadArrived(data, cat, rules, today)
		switch {
		case err != nil:
			return nil, nil, err
		case wrong != nil:
			return nil, nil, wrong
		}
		if why := nameProblem(c.Name); why != "" {
			return nil, nil, exchange.Problems{{Path: "name", Text: why}}
		}
		c.Stamp(today)
		doc, err := json.Marshal(c)
		return &Bundle{Format: format, Clients: []Client{{Client: doc}}}, notes, err
	}
	in := &reader{cat: cat, rules: rules, today: today, now: time.Now()}
	b := &Bundle{Format: format, Clients: []Client{}}
	rest, err := exchange.ReadBundle(data, func(i int, doc []byte) error {
		var c Client
		if err := json.Unmarshal(doc, &c); err != nil {
			return exchange.Problems{{Path: fmt.Sprintf("clients[%d]", i), Text: err.Error()}}
		}
		if err := in.client(&c, fmt.Sprintf("clients[%d]", i)); err != nil {
			return err
		}
		b.Clients = append(b.Clients, c)
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	whole := Bundle{}
	if err := json.Unmarshal(rest, &whole); err != nil {
		return nil, nil, err
	}
	b.Limits, b.Own = whole.Limits, whole.Own
	var changes []store.LimitChange
	for _, l := range b.Limits {
		changes = append(changes, store.LimitChange{Key: l.Key, Value: null(l.Value), Source: l.Source})
	}
	_, aside := rules.With(InForce(changes))
	for _, a := range aside {
		if !a.Unknown { // a limit that was renamed comes in and is shown as set aside
			in.problems = append(in.problems, exchange.Problem{Path: "limits." + a.Key, Text: a.Why})
		}
	}
	for i, doc := range b.Own {
		v, err := cat.ReadOwn(fmt.Sprintf("own[%d]", i), []byte(doc))
		if v == nil || !catalogue.IsOwnSlug(v.Slug) {
			in.problems = append(in.problems, exchange.Problem{Path: fmt.Sprintf("own[%d]", i), Text: err.Error()})
		} else if err != nil { // it comes in as it was and is checked before anybody uses it
			in.notes = append(in.notes, exchange.Problem{Path: fmt.Sprintf("own[%d]", i), Text: err.Error()})
		}
	}
	if in.problems != nil {
		return nil, nil, in.problems
	}
	return b, in.notes, nil
}

func nameProblem(name string) string {
	if strings.TrimSpace(name) == "" {
		return "is missing"
	}
	return ""
}

// reader judges what stands inside a bundle.
type reader struct {
	cat             *catalogue.Catalogue
	rules           *safety.Rules
	today           trade.Day
	now             time.Time
	problems, notes exchange.Problems
}

// nested takes problems of a document inside another one.
func nested(out *exchange.Problems, path string, err error) {
	if inner, ok := err.(exchange.Problems); ok {
		for _, p := range inner {
			*out = append(*out, exchange.Problem{Path: path + "." + p.Path, Text: p.Text})
		}
	} else if err != nil {
		*out = append(*out, exchange.Problem{Path: path, Text: err.Error()})
	}
}

// bad are problems as an error, nil when there are none.
func bad(p exchange.Problems) error {
	if p == nil {
		return nil
	}
	return p
}

// client judges one client with everything about them.
func (in *reader) client(c *Client, path string) error {
	var out exchange.Problems
	say := func(where, format string, a ...any) {
		out = append(out, exchange.Problem{Path: path + where, Text: fmt.Sprintf(format, a...)})
	}
	cl, wrong, notes, err := exchange.ReadArrived(c.Client, in.cat, in.rules, in.today)
	nested(&out, path+".client", err)
	nested(&out, path+".client", bad(wrong))
	nested(&in.notes, path+".client", bad(notes))
	if cl != nil {
		if why := nameProblem(cl.Name); why != "" {
			say(".client.name", "%s", why)
		}
		cl.Stamp(in.today)
		if c.Client, err = json.Marshal(cl); err != nil {
			return err
		}
	}
	in.rest(c, path, &out)
	return bad(out)
}

// rest judges what there is of a client beside their own document.
func (in *reader) rest(c *Client, path string, out *exchange.Problems) {
	say := func(where, format string, a ...any) {
		*out = append(*out, exchange.Problem{Path: path + where, Text: fmt.Sprintf(format, a...)})
	}
	for k := range c.Plans {
		nested(out, fmt.Sprintf("%s.plans[%d].plan", path, k), checkPlan(c.Plans[k].Plan))
		if !instant(c.Plans[k].Created) {
			say(fmt.Sprintf(".plans[%d].created", k), "found %q, allowed: a time as 2026-11-20T09:31:04Z", c.Plans[k].Created)
		}
	}
	for k := range c.Taught {
		in.taught(&c.Taught[k], fmt.Sprintf("%s.taught[%d]", path, k), out)
	}
	for k, r := range c.Results {
		_, err := exchange.ReadResults(bytes.NewReader(r), in.today)
		nested(out, fmt.Sprintf("%s.results[%d]", path, k), err)
	}
	for k, h := range c.History {
		if !instant(h.At) {
			say(fmt.Sprintf(".history[%d].at", k), "found %q, allowed: a time as 2026-11-20T09:31:04Z", h.At)
		}
	}
}

// instant tells whether a text is a time, or nothing.
func instant(text string) bool {
	if text == "" {
		return true
	}
	_, err := time.Parse(time.RFC3339Nano, text)
	return err == nil
}

// checkPlan judges a plan that is kept: whatever it names, nobody counts with numbers beyond every bound.
func checkPlan(doc []byte) error {
	_, err := plan.Read(doc)
	return err
}

// taught judges a session.
func (in *reader) taught(t *Taught, path string, out *exchange.Problems) {
	say := func(where, format string, a ...any) {
		*out = append(*out, exchange.Problem{Path: path + where, Text: fmt.Sprintf(format, a...)})
	}
	begun := len(*out)
	if year, _, _ := t.Day.Date(); t.Day.IsZero() || t.Day.YearOnly() || year < 1950 || t.Day.After(in.today) {
		say(".day", "found %q, allowed: a day up to today (%s; rule: no days to come)", t.Day, in.today)
	}
	for _, doc := range []struct {
		name string
		log  json.RawMessage
	}{{".log", t.Log}, {".base", t.Base}} {
		if len(doc.log) > 0 {
			in.log(doc.log, path+doc.name, func(path string, err error) { nested(out, path, err) })
		}
	}
	nested(out, path+".plan", checkPlan(t.Plan))
	if !instant(t.EndedAt) {
		say(".ended_at", "found %q, allowed: a time as 2026-11-20T09:31:04Z", t.EndedAt)
	}
	keys := map[string]bool{}
	twice := func(where, key string) {
		if keys[key] {
			say(where, "the key %q is there twice", key)
		}
		keys[key] = true
	}
	for i, e := range t.Entries {
		twice(fmt.Sprintf(".entries[%d].key", i), e.Key)
		if err := teaching.CheckEntry(e.Kind, e.Entry); err != nil {
			say(fmt.Sprintf(".entries[%d].entry", i), "%v", err)
		}
		if !instant(e.At) {
			say(fmt.Sprintf(".entries[%d].at", i), "found %q, allowed: a time", e.At)
		}
	}
	for i := range t.Marks {
		var k struct{ Key string }
		if json.Unmarshal(t.Marks[i].Mark, &k) == nil {
			twice(fmt.Sprintf(".marks[%d].mark.key", i), k.Key)
		}
		if !instant(t.Marks[i].At) {
			say(fmt.Sprintf(".marks[%d].at", i), "found %q, allowed: a time", t.Marks[i].At)
		}
	}
	if len(*out) > begun {
		return // what follows from it is not looked at
	}
	in.checkTaught(t, path, func(path string, err error) { nested(out, path, err) })
}

// checkTaught reads the scores of a session and the marks made in it, and what both say together.
func (in *reader) checkTaught(t *Taught, path string, nested func(path string, err error)) {
	for i, doc := range t.Scores {
		if _, err := exchange.ReadScore(bytes.NewReader(doc)); err != nil {
			nested(fmt.Sprintf("%s.scores[%d]", path, i), err)
			return
		}
	}
	row, err := sessionOf(t)
	if err != nil {
		nested(path, err)
		return
	}
	if len(t.Marks) == 0 && len(t.Scores) == 0 {
		return // the log is all there is
	}
	b, err := teaching.Bounds(&row, in.rules.FlagCodes(), in.now)
	if err != nil {
		nested(path, err)
		return
	}
	fine := true
	for i := range t.Marks {
		if _, err := exchange.ReadMark(t.Marks[i].Mark, b); err != nil {
			nested(fmt.Sprintf("%s.marks[%d].mark", path, i), err)
			fine = false
		}
	}
	if !fine {
		return
	}
	if err := teaching.Fold(&row); err != nil {
		nested(path, err)
		return
	}
	in.log(row.Log, path+".marks, worked out", nested)
}

// log judges one session of a log.
func (in *reader) log(doc []byte, path string, nested func(path string, err error)) {
	text := slices.Concat([]byte(`{"format": "restbend.log/1", "sessions": [`), doc, []byte("]}"))
	_, notes, err := exchange.ReadKeptLog(text, in.cat, in.today)
	nested(path, err)
	for _, n := range notes {
		in.notes = append(in.notes, exchange.Problem{Path: path + "." + n.Path, Text: n.Text})
	}
}

// Add adds the clients of a bundle to an account, all or none.
func Add(ctx context.Context, st *store.Store, account int64, b *Bundle) error {
	var records []store.Record
	for i := range b.Clients {
		r, err := rowOf(&b.Clients[i])
		if err != nil {
			return err
		}
		records = append(records, r)
	}
	if err := st.AddRecords(ctx, account, records); err != nil {
		return err
	}
	if err := addOwn(ctx, st, account, b.Own); err != nil {
		return err
	}
	return teaching.Settle(ctx, st)
}

// AddTo adds the sessions and tests of a document to a client who is here.
func AddTo(ctx context.Context, st *store.Store, client int64, c *Client) error {
	r, err := rowOf(c)
	if err != nil {
		return err
	}
	if err := st.AddToRecord(ctx, client, r); err != nil {
		return err
	}
	return teaching.Settle(ctx, st)
}

// addOwn adds the own versions that came with clients to an account that has none of that name: as drafts, to be
// looked at and put in use by their new owner.
func addOwn(ctx context.Context, st *store.Store, account int64, docs []string) error {
	for _, doc := range docs {
		slug, name := ownName(doc)
		if !catalogue.IsOwnSlug(slug) {
			continue
		}
		if err := st.AddOwnDraft(ctx, account, slug, name, doc); err != nil {
			return err
		}
	}
	return nil
}

// ownName reads slug and name of an own version's text.
func ownName(doc string) (slug, name string) {
	var entries []struct {
		Slug string `yaml:"version"`
		Name string `yaml:"name"`
	}
	if err := yaml.Unmarshal([]byte(doc), &entries); err != nil || len(entries) != 1 {
		return "", ""
	}
	return entries[0].Slug, entries[0].Name
}

func rowOf(c *Client) (store.Record, error) {
	var cl intake.Client
	if err := json.Unmarshal(c.Client, &cl); err != nil {
		return store.Record{}, err
	}
	if _, ok := figure.Builds[c.Build]; !ok {
		c.Build = figure.DefaultBuild
	}
	r := store.Record{
		Client: store.Client{UID: c.UID, Name: cl.Name, Document: c.Client, Build: c.Build, Intake: c.Intake},
	}
	for _, p := range c.Plans {
		r.Plans = append(r.Plans, store.Plan{ID: p.ID, Document: p.Plan, CreatedAt: p.Created})
	}
	for k := range c.Taught {
		out, err := sessionOf(&c.Taught[k])
		if err != nil {
			return r, err
		}
		if out.EndedAt.Valid && len(out.Scores)+len(c.Taught[k].Base) > 0 { // it cannot say anything else than its marks
			if err := teaching.Fold(&out); err != nil {
				return r, err
			}
		}
		r.Taught = append(r.Taught, out)
	}
	for _, doc := range c.Results {
		var res struct {
			Date trade.Day `json:"date"`
		}
		if err := json.Unmarshal(doc, &res); err != nil {
			return r, err
		}
		r.Results = append(r.Results, store.Results{Day: res.Date, Document: doc})
	}
	for _, h := range c.History {
		h.Imported = true
		r.History = append(r.History, store.Change(h))
	}
	return r, nil
}

// sessionOf is a session as it is stored.
func sessionOf(t *Taught) (store.Taught, error) {
	or := func(doc json.RawMessage, otherwise string) []byte {
		if len(doc) == 0 {
			return []byte(otherwise)
		}
		return doc
	}
	out := store.Taught{
		Log:          t.Log,
		Base:         t.Base,
		PlanID:       sql.NullInt64{Int64: t.PlanID, Valid: t.PlanID > 0},
		Day:          t.Day,
		Plan:         t.Plan,
		State:        or(t.State, "{}"),
		PainStart:    null(t.PainStart),
		PainEnd:      null(t.PainEnd),
		SorePeak:     null(t.SorePeak),
		SoreSettledH: null(t.SettledH),
		Notes:        t.Notes,
		RedFlags:     or(t.RedFlags, "[]"),
		EndedAt:      sql.NullString{String: t.EndedAt, Valid: t.EndedAt != ""},
	}
	for i, doc := range t.Scores {
		out.Scores = append(out.Scores, store.Score{Rev: i + 1, Document: doc})
	}
	for _, m := range t.Marks {
		var k struct{ Key, Kind string }
		if err := json.Unmarshal(m.Mark, &k); err != nil {
			return out, err
		}
		out.Marks = append(out.Marks, store.Mark{Key: k.Key, Kind: k.Kind, Who: m.By, At: m.At, Document: m.Mark})
	}
	for _, e := range t.Entries {
		out.Entries = append(out.Entries, store.Entry{Key: e.Key, Kind: e.Kind, At: e.At, Document: e.Entry})
	}
	if len(t.Scores) == 0 && len(t.Base) == 0 {
		out.Base = t.Log
	}
	return out, nil
}
