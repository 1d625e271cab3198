package site

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/store"
)

// Limiting are the fields of a client that verdicts and plans depend on; a change of one
// is kept in the history. What is none of them is written down and read by nobody but people.
var Limiting = []string{
	"born",
	"activity",
	"afraid",
	"place",
	"conditions",
	"positions",
	"floor_transfers_max",
	"pain",
	"red_flags",
	"clearances",
	"kit",
	"surfaces",
	"schools",
	"breaths_per_minute",
	"rest_s",
	"tasks",
	"effort_cap",
	"one_leg_stand_s",
	"today",
	"levels",
	"overrides",
	"aims",
	"consent",
}

// ChangesOf lists what differs between two documents of a client, one line a field.
func ChangesOf(before, after []byte, who, why string) ([]store.Change, error) {
	var a, b map[string]json.RawMessage
	if err := json.Unmarshal(before, &a); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(after, &b); err != nil {
		return nil, err
	}
	var out []store.Change
	for _, field := range Limiting {
		x, y := Said(a[field]), Said(b[field])
		if x != y {
			out = append(out, store.Change{Who: who, Field: field, Before: x, After: y, Why: why})
		}
	}
	return out, nil
}

// Said writes a value as a person would read it: "osteoporosis (school strict); stenosis".
func Said(raw json.RawMessage) string {
	if len(raw) == 0 || string(raw) == "null" {
		return ""
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return string(raw)
	}
	return inWords(v)
}

func inWords(v any) string {
	switch v := v.(type) {
	case map[string]any:
		head := ""
		for _, k := range []string{"code", "version", "by", "what"} {
			if s, ok := v[k].(string); ok {
				head = s
				delete(v, k)
				break
			}
		}
		var parts []string
		for k, x := range v {
			if s := inWords(x); s != "" {
				parts = append(parts, strings.ReplaceAll(k, "_", " ")+" "+s)
			}
		}
		slices.Sort(parts)
		list := strings.Join(parts, ", ")
		if head != "" && list != "" {
			return head + " (" + list + ")"
		}
		return head + list
	case []any:
		var parts []string
		for _, x := range v {
			parts = append(parts, inWords(x))
		}
		return strings.Join(parts, "; ")
	case bool:
		return map[bool]string{true: "yes", false: "no"}[v]
	}
	return fmt.Sprint(v)
}

// Who is the name of the signed-in account, for the history.
func (s *Site) Who(c *gin.Context) string {
	m, err := s.Store.Member(c, s.Account(c))
	if err != nil {
		return "unknown"
	}
	return m.Name
}

type historyPage struct {
	ID      int64
	Name    string
	Changes []store.Change
}

func (s *Site) history(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	changes, err := s.Store.History(c, row.ID)
	if err != nil {
		s.Failed(c, err)
		return
	}
	ours, err := s.limitHistory(c, row.Document)
	if err != nil {
		s.Failed(c, err)
		return
	}
	changes = append(changes, ours...)
	slices.SortStableFunc(changes, func(a, b store.Change) int { return strings.Compare(b.At, a.At) })
	s.Render(c, http.StatusOK, "history", "", "History of "+row.Name, historyPage{row.ID, row.Name, changes})
}

// limitHistory lists what the practice changed of the limits of a client's conditions,
// newest first.
func (s *Site) limitHistory(c *gin.Context, document []byte) (out []store.Change, err error) {
	var client struct{ Conditions []struct{ Code string } }
	if err := json.Unmarshal(document, &client); err != nil {
		return nil, err
	}
	all, err := s.Store.LimitChanges(c)
	if err != nil {
		return nil, err
	}
	before := map[string]string{}
	for _, ch := range all {
		rule, l, ok := s.Rules.Limit(ch.Key)
		if !ok {
			continue
		}
		number := func(v float64) string { return strings.TrimSpace(strconv.FormatFloat(v, 'f', -1, 64) + " " + l.Unit()) }
		was, after := before[ch.Key], number(l.Value())+", the default"
		if was == "" {
			was = after
		}
		if ch.Value.Valid {
			after = number(ch.Value.Float64)
		}
		before[ch.Key] = after
		if slices.ContainsFunc(client.Conditions, func(k struct{ Code string }) bool { return k.Code == rule.Code }) {
			why := ch.Reason
			if ch.Source != "" {
				why += " (" + ch.Source + ")"
			}
			out = append(
				out,
				store.Change{
					At:     ch.At,
					Who:    ch.Who,
					Field:  "limit of the practice: " + rule.Name + ", " + s.Rules.Words.Words(l.Quantity),
					Before: was,
					After:  after,
					Why:    why,
				},
			)
		}
	}
	slices.Reverse(out)
	return out, nil
}

// Keep stores a changed client with its history, and tests they were changed by, all or none.
func (s *Site) Keep(c *gin.Context, row store.Client, client any, why string, tests ...store.Results) error {
	doc, err := json.Marshal(client)
	if err != nil {
		return err
	}
	changes, err := ChangesOf(row.Document, doc, s.Who(c), why)
	if err != nil {
		return err
	}
	row.Document = doc
	return s.Store.UpdateTested(c, s.Account(c), row, tests, changes...)
}
