// Package exchange reads and writes the open formats. Input is checked against the same
// JSON Schema files that document it; every problem names the field, what was found and
// what is allowed.
package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"
	"sync"

	"github.com/agext/levenshtein"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"restbend"
	"restbend/core/assess"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/progress"
	"restbend/core/safety"
	words "restbend/core/say"
	"restbend/core/trade"
)

// A Problem is one mistake in a document.
type Problem struct {
	Path string // for example conditions[1].code
	Text string // what was found and what is allowed
}

func (p Problem) String() string { return p.Path + ": " + p.Text }

// Problems is the error of a document that cannot be used.
type Problems []Problem

// What is said of a document is bounded: so many problems, each so long.
const (
	mostProblems = 50
	mostSaid     = 300
)

func (p Problems) Error() string {
	lines := make([]string, 0, min(len(p), mostProblems)+1)
	for i, x := range p {
		if i == mostProblems {
			lines = append(lines, fmt.Sprintf("and %d more", len(p)-i))
			break
		}
		line := x.String()
		if len(line) > mostSaid {
			line = strings.ToValidUTF8(line[:mostSaid], "") + "…"
		}
		lines = append(lines, line)
	}
	return strings.Join(lines, "\n")
}

// MaxDocument is the largest document read, bytes.
const MaxDocument = 4 << 20

var schemas sync.Map

// dayOrYear is the format of a day of which only the year may be known.
const dayOrYear = "day-or-year"

// Schema compiles the schema of a document.
func Schema(name string) (*jsonschema.Schema, error) {
	if s, ok := schemas.Load(name); ok {
		return s.(*jsonschema.Schema), nil
	}
	data, err := restbend.Schema(name)
	if err != nil {
		return nil, err
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	c.RegisterFormat(&jsonschema.Format{Name: dayOrYear, Validate: func(v any) error {
		if text, ok := v.(string); ok {
			_, err := trade.ParseDay(text)
			return err
		}
		return nil
	}})
	if err := c.AddResource(name, doc); err != nil {
		return nil, err
	}
	s, err := c.Compile(name)
	if err == nil {
		schemas.Store(name, s)
	}
	return s, err
}

// MaxBundle is the largest bundle of clients read, bytes.
const MaxBundle = 64 << 20

// read checks a document against its schema and decodes it.
func read(name string, r io.Reader, into any) error {
	return readUpTo(MaxDocument, name, r, into)
}

func readUpTo(most int, name string, r io.Reader, into any) error {
	data, err := io.ReadAll(io.LimitReader(r, int64(most)+1))
	if err != nil {
		return err
	}
	if len(data) > most {
		return Problems{{"(document)", fmt.Sprintf("is larger than %d MB", most>>20)}}
	}
	data = bytes.TrimPrefix(data, []byte("\ufeff")) // some editors begin a file so
	if p := plain(data); p != nil {
		return p
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return Problems{{"(document)", "is not JSON: " + err.Error()}}
	}
	schema, err := Schema(name)
	if err != nil {
		return err
	}
	if err := schema.Validate(doc); err != nil {
		var ve *jsonschema.ValidationError
		if errors.As(err, &ve) {
			var out Problems
			collect(ve, &out)
			sort.SliceStable(out, func(i, j int) bool { return out[i].Path < out[j].Path })
			return out
		}
		return err
	}
	if err := json.Unmarshal(data, into); err != nil {
		return Problems{{"(document)", err.Error()}}
	}
	return nil
}

// Bounds of the text of a document, before anything is made of it: values, how deep they lie, and the digits of a
// number, which needs no exponent (exact arithmetic on 1e999999999 would take for ever).
const (
	mostValues = 1_000_000
	mostDepth  = 40
	mostDigits = 24
)

// plain reads a document word by word and refuses what no document of ours holds. A field that comes twice is a
// mistake: which of the two is meant nobody knows.
func plain(data []byte) Problems {
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var in levels
	var out Problems
	say := func(text string) { out = append(out, Problem{in.where(), text}) }
	for values := 0; ; values++ {
		tok, err := dec.Token()
		switch {
		case errors.Is(err, io.EOF) && values > 0 && len(in) == 0:
			return out
		case err != nil:
			return Problems{{"(document)", "is not JSON: " + err.Error()}}
		case values > 0 && len(in) == 0:
			return Problems{{"(document)", "is not JSON: something follows its end"}}
		case values > mostValues:
			return Problems{{"(document)", fmt.Sprintf("has more than %d values", mostValues)}}
		case len(out) > mostProblems:
			return out
		}
		if named, twice := in.named(tok); named {
			if twice {
				say("is there twice")
			}
			continue
		}
		switch v := tok.(type) {
		case json.Delim:
			switch v {
			case '{':
				in = append(in, level{seen: map[string]bool{}, key: true})
			case '[':
				in = append(in, level{array: true})
			default:
				in = in[:len(in)-1]
				in.over()
				continue
			}
			if len(in) > mostDepth {
				return Problems{{in.where(), fmt.Sprintf("lies deeper than %d levels", mostDepth)}}
			}
		case json.Number:
			if len(v) > mostDigits || strings.ContainsAny(string(v), "eE") {
				say("found a number with an exponent or too many digits, allowed: a plain number")
			}
			in.over()
		default:
			in.over()
		}
	}
}

// level is an array or an object that is being read, levels those in each other.
type level struct {
	array bool
	n     int             // of an array
	field string          // of an object, the one under way
	seen  map[string]bool // of an object
	key   bool            // of an object: a field's name comes next
}

type levels []level

// where is the path of the value under way.
func (in levels) where() string {
	var sb strings.Builder
	for i := range in {
		if in[i].array {
			fmt.Fprintf(&sb, "[%d]", in[i].n)
		} else {
			sb.WriteString("." + in[i].field)
		}
	}
	return strings.TrimPrefix(sb.String(), ".")
}

// over tells that a value is over.
func (in levels) over() {
	if len(in) == 0 {
		return
	}
	if top := &in[len(in)-1]; top.array {
		top.n++
	} else {
		top.key = true
	}
}

// named takes the name of a field, where one is next, and tells whether it was there before.
func (in levels) named(tok json.Token) (named, twice bool) {
	if len(in) == 0 || in[len(in)-1].array || !in[len(in)-1].key {
		return false, false
	}
	name, ok := tok.(string)
	if !ok {
		return false, false
	}
	top := &in[len(in)-1]
	twice = top.seen[name]
	top.field, top.key, top.seen[name] = name, false, true
	return true, twice
}

var english = message.NewPrinter(language.English)

// collect turns the leaves of a validation error into problems.
func collect(e *jsonschema.ValidationError, out *Problems) {
	if len(e.Causes) > 0 {
		for _, c := range e.Causes {
			collect(c, out)
		}
		return
	}
	path := pathOf(e.InstanceLocation)
	switch k := e.ErrorKind.(type) {
	case *kind.AdditionalProperties:
		for _, p := range k.Properties {
			*out = append(*out, Problem{join(path, p), "unknown field"})
		}
	case *kind.Required:
		for _, m := range k.Missing {
			*out = append(*out, Problem{join(path, m), "is missing"})
		}
	case *kind.Enum:
		*out = append(*out, Problem{path, enumText(k)})
	case *kind.Const:
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: %v", k.Got, k.Want)})
	case *kind.Type:
		*out = append(*out, Problem{path, fmt.Sprintf("found %s, allowed: %s", k.Got, strings.Join(k.Want, ", "))})
	case *kind.Minimum:
		g, _ := k.Got.Float64()
		w, _ := k.Want.Float64()
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: %v or more", g, w)})
	case *kind.Maximum:
		g, _ := k.Got.Float64()
		w, _ := k.Want.Float64()
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: %v or less", g, w)})
	case *kind.Format:
		if k.Want == dayOrYear {
			*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: a real date as 2026-11-20, or a year alone for what is more than two years ago", k.Got)})
			return
		}
		*out = append(*out, Problem{path, fmt.Sprintf("found %v, allowed: a real date as 2026-11-20", k.Got)})
	default:
		*out = append(*out, Problem{path, e.ErrorKind.LocalizedString(english)})
	}
}

func enumText(k *kind.Enum) string {
	var want []string
	for _, w := range k.Want {
		want = append(want, fmt.Sprint(w))
	}
	got := fmt.Sprint(k.Got)
	text := fmt.Sprintf("found %q", got)
	if s := nearest(got, want); s != "" {
		text += fmt.Sprintf(", did you mean %q", s)
	}
	return text + ", allowed: " + strings.Join(want, ", ")
}

// mostCompared is how long a word may be that is compared with others, characters.
const mostCompared = 60

// nearest is the closest of the allowed words, or nothing when none is close.
func nearest(got string, want []string) string {
	if len(got) > mostCompared { // nobody mistypes so much
		return ""
	}
	best, dist := "", math.MaxInt
	for _, w := range want {
		if d := levenshtein.Distance(got, w, nil); d < dist {
			best, dist = w, d
		}
	}
	if dist > max(2, len(got)/2) {
		return ""
	}
	return best
}

func join(path, field string) string {
	if path == "(document)" {
		return field
	}
	return path + "." + field
}

func pathOf(loc []string) string {
	var sb strings.Builder
	for _, l := range loc {
		if l != "" && strings.Trim(l, "0123456789") == "" {
			sb.WriteString("[" + l + "]")
			continue
		}
		if sb.Len() > 0 {
			sb.WriteByte('.')
		}
		sb.WriteString(l)
	}
	if sb.Len() == 0 {
		return "(document)"
	}
	return sb.String()
}

// ReadClient reads a restbend.client/1 document that stands alone: its today.date is the day it
// is read on, and the clock's where it has none. Conditions whose limits are not computed yet
// are a problem, never ignored.
func ReadClient(r io.Reader, cat *catalogue.Catalogue, rules *safety.Rules, clock trade.Day) (*intake.Client, error) {
	c := &intake.Client{}
	if err := read("client", r, c); err != nil {
		return nil, err
	}
	if !c.Today.Date.IsZero() {
		clock = c.Today.Date
	}
	if p := CheckClient(c, cat, rules, clock); p != nil {
		return nil, p
	}
	return c, nil
}

// ReadRecord reads a restbend.client/1 document that is kept or goes into a practice: its
// today.date is the day of the last check.
func ReadRecord(r io.Reader, cat *catalogue.Catalogue, rules *safety.Rules, today trade.Day) (*intake.Client, error) {
	c := &intake.Client{}
	if err := read("client", r, c); err != nil {
		return nil, err
	}
	if p := CheckClient(c, cat, rules, today); p != nil {
		return nil, p
	}
	return c, nil
}

// ReadKept reads a restbend.client/1 document that was kept somewhere, perhaps long ago or elsewhere. Damaged is what
// cannot be read at all; wrong is what nobody may write now; notes are what no longer fits the content of this program
// or practice: exercises that were withdrawn or are somebody's own. The client is nil only when it is damaged.
func ReadKept(
	data []byte,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	today trade.Day,
) (c *intake.Client, wrong, notes Problems, damaged error) {
	ch, err := readClient(data, cat, rules, today)
	if err != nil {
		return nil, nil, nil, err
	}
	return ch.c, append(ch.out, ch.over...), ch.notes, nil
}

func readClient(data []byte, cat *catalogue.Catalogue, rules *safety.Rules, today trade.Day) (*checker, error) {
	c := &intake.Client{}
	if err := read("client", bytes.NewReader(data), c); err != nil {
		return nil, err
	}
	return checkClient(c, cat, rules, today), nil
}

// ReadArrived is ReadKept of a document that comes from elsewhere, or lay somewhere: what was right when it was written,
// and is over by now, is a note.
func ReadArrived(
	data []byte,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	today trade.Day,
) (c *intake.Client, wrong, notes Problems, damaged error) {
	ch, err := readClient(data, cat, rules, today)
	if err != nil {
		return nil, nil, nil, err
	}
	return ch.c, ch.out, append(ch.notes, ch.over...), nil
}

// CheckClient checks what a schema cannot: known versions and roles, supported conditions and
// days that can be.
func CheckClient(c *intake.Client, cat *catalogue.Catalogue, rules *safety.Rules, today trade.Day) Problems {
	ch := checkClient(c, cat, rules, today)
	return slices.Concat(ch.out, ch.over, ch.notes)
}

func checkClient(c *intake.Client, cat *catalogue.Catalogue, rules *safety.Rules, today trade.Day) *checker {
	ch := &checker{c: c, cat: cat, rules: rules, today: today}
	ch.conditions()
	ch.levels()
	ch.clearances()
	for i, f := range c.RedFlags {
		ch.past(fmt.Sprintf("red_flags[%d].since", i), f.Since, "write the day it was raised")
	}
	for i, o := range c.Operations {
		ch.event(
			fmt.Sprintf("operations[%d].date", i),
			o.Date,
			"write the day of the operation, or leave it out until it is done",
		)
	}
	ch.past("today.date", c.Today.Date, "write the day of the last check")
	if c.Pain != nil {
		ch.past("pain.on", c.Pain.On, "write the day the pain was asked")
	}
	for i, o := range c.Overrides {
		if _, ok := cat.Version(o.Version); !ok {
			ch.note(fmt.Sprintf("overrides[%d].version", i), "unknown version %q%s", o.Version, Meant(o.Version, cat.Slugs()))
		}
	}
	return ch
}

// checker holds a client against what a schema cannot say.
type checker struct {
	c     *intake.Client
	cat   *catalogue.Catalogue
	rules *safety.Rules
	today trade.Day
	out   Problems
	over  Problems // what was right when it was written, and is over
	notes Problems // what names content that is not here
}

func (ch *checker) late(path, format string, a ...any) {
	ch.over = append(ch.over, Problem{path, fmt.Sprintf(format, a...)})
}

func (ch *checker) note(path, format string, a ...any) {
	ch.notes = append(ch.notes, Problem{path, fmt.Sprintf(format, a...)})
}

func (ch *checker) say(path, format string, a ...any) {
	ch.out = append(ch.out, Problem{path, fmt.Sprintf(format, a...)})
}

// past refuses a day to come: the rule on days of the formats.
func (ch *checker) past(path string, d trade.Day, instead string) {
	if d.After(ch.today) {
		ch.say(path, "found %s, which lies after today (%s; rule: no days to come): %s", d, ch.today, instead)
	}
}

// yearAlone is how long ago a year alone is enough, months.
const yearAlone = 24

// event refuses a day on which an operation, a fracture or a count of weeks cannot have been.
func (ch *checker) event(path string, d trade.Day, instead string) {
	year, _, _ := d.Date()
	switch {
	case d.IsZero():
	case d.YearOnly() && d.AddMonths(yearAlone).After(ch.today):
		ch.say(
			path,
			"found %s, allowed: a day as %s-06-30 (rule: a year alone is enough for what is more than two years ago)",
			d,
			d,
		)
	case ch.c.Born > 0 && year < ch.c.Born:
		ch.say(path, "found %s, which lies before the year of birth, %d (rule: days that can be)", d, ch.c.Born)
	default:
		ch.past(path, d, instead)
	}
}

func (ch *checker) conditions() {
	seen := map[string]bool{}
	for i := range ch.c.Conditions {
		k, path := &ch.c.Conditions[i], fmt.Sprintf("conditions[%d]", i)
		if _, ok := ch.rules.Rule(k.Code); !ok {
			ch.say(path+".code", "%q is not supported yet: its limits are not computed, so this client is refused", k.Code)
		}
		key := k.Code + " " + string(k.Side) + " " + k.Region
		if seen[key] {
			ch.say(path+".code", "%q is recorded twice", k.Code)
		}
		seen[key] = true
		ch.furtherDays(k, path)
		ch.event(path+".fracture_date", k.FractureDate, "write the day of the fracture")
		if k.Code == intake.Pregnancy {
			ch.pregnancy(k, path)
			continue
		}
		ch.event(path+".date", k.Date, "write the day it happened, or leave it out until it has")
		if !k.Due.IsZero() {
			ch.say(path+".due", "found %s, allowed: only with pregnancy", k.Due)
		}
	}
}

// furtherDays refuses the days among the further details that cannot be: when something was, and
// when a question of a day was answered with yes.
func (ch *checker) furtherDays(k *intake.Condition, path string) {
	for _, name := range slices.Sorted(maps.Keys(k.More)) {
		text, isText := k.More[name].(string)
		d, _ := ch.rules.Detail(name, k.Code)
		if !isText || d.Kind != "past" && !ch.rules.DayOfYes(name, k.Code) {
			continue
		}
		day, err := trade.ParseDay(text)
		if err != nil {
			ch.say(path+"."+name, "found %s, allowed: a real date as %s, or a year alone", text, ch.today)
			continue
		}
		ch.event(path+"."+name, day, "write the day it happened, or leave it out until it has")
	}
}

// pregnancy refuses weeks that cannot be.
func (ch *checker) pregnancy(k *intake.Condition, path string) {
	read := ch.rules.Clearing.Pregnancy
	const after = "after a birth the pregnancy is taken out (it is postnatal) and a clinician clears exercise anew"
	switch {
	case k.Date.After(ch.today):
		ch.say(
			path+".date",
			"found %s, which lies after today (%s; rule: no days to come): a due date goes into due; date is the day on which weeks were counted",
			k.Date,
			ch.today,
		)
		return
	case k.Date.YearOnly():
		ch.say(path+".date", "found %s, allowed: the day on which weeks were counted, as 2026-11-20", k.Date)
		return
	case !k.Due.IsZero() && k.Due.Since(ch.today) >= 7*read.Term:
		ch.say(
			path+".due",
			"found %s, which is more than %d weeks ahead of %s (rule: weeks 1 to %d): write the day the child is due",
			k.Due,
			read.Term-1,
			ch.today,
			read.Last,
		)
		return
	case !k.Due.IsZero() && ch.today.Since(k.Due) >= 7*(read.Last-read.Term+1):
		ch.late(
			path+".due",
			"found %s, which is past week %d on %s (rule: weeks 1 to %d): %s",
			k.Due,
			read.Last,
			ch.today,
			read.Last,
			after,
		)
		return
	case k.Weeks > read.Last:
		ch.say(path+".weeks", "found %d, allowed: 1 to %d; %s", k.Weeks, read.Last, after)
		return
	case !k.Date.IsZero() && k.Weeks > 0 && 7*k.Weeks+ch.today.Since(k.Date) >= 7*(read.Last+1):
		ch.late(
			path+".weeks",
			"found week %d on %s, which is past week %d on %s (rule: weeks 1 to %d): %s",
			k.Weeks,
			k.Date,
			read.Last,
			ch.today,
			read.Last,
			after,
		)
	}
}

func (ch *checker) levels() {
	families := make([]string, 0, len(ch.cat.Families))
	for _, f := range ch.cat.Families {
		families = append(families, f.Name)
	}
	for _, f := range slices.Sorted(maps.Keys(ch.c.Levels)) {
		if !slices.Contains(families, f) {
			ch.note("levels."+f, "unknown family%s", Meant(f, families))
			continue
		}
		if v, ok := ch.cat.Version(ch.c.Levels[f]); !ok || v.Family != f {
			ch.note(
				"levels."+f,
				"found %q, which is not a version of %s%s",
				ch.c.Levels[f],
				f,
				Meant(ch.c.Levels[f], ch.cat.Slugs()),
			)
		}
	}
}

func (ch *checker) clearances() {
	roles := trade.Words(ch.rules.ClearingRoles())
	for i, cl := range ch.c.Clearances {
		path := fmt.Sprintf("clearances[%d]", i)
		ch.past(path+".date", cl.Date, "write the day of the clinician's record")
		if role, ok := ch.rules.ReadRole(cl.By); !ok {
			ch.say(
				path+".by",
				"found %q%s, allowed: %s (rule: who may clear what)",
				cl.By,
				Meant(string(role), roles),
				strings.Join(roles, ", "),
			)
		}
		if !cl.Until.IsZero() && cl.Until.Before(cl.Date) {
			ch.say(path+".until", "found %s, which is before its date %s", cl.Until, cl.Date)
		}
		for j, word := range cl.Forbids {
			if !ch.names(word) {
				ch.note(
					fmt.Sprintf("%s.forbids[%d]", path, j),
					"found %q, allowed: a version, a family or an aim%s",
					word,
					Meant(word, ch.cat.Slugs()),
				)
			}
		}
		for j, k := range cl.Confirmed {
			p := fmt.Sprintf("%s.confirmed[%d]", path, j)
			if _, ok := ch.cat.Version(k.Version); !ok {
				ch.note(p+".version", "unknown version %q%s", k.Version, Meant(k.Version, ch.cat.Slugs()))
			}
			ch.past(p+".on", k.On, "write the day it was confirmed")
		}
	}
}

// names tells whether a word names a version, a family or an aim.
func (ch *checker) names(word string) bool {
	_, version := ch.cat.Version(word)
	_, family := ch.cat.Family(word)
	return version || family || slices.Contains(catalogue.Aims, word)
}

// Meant is ", did you mean ..." for the closest allowed word, or nothing.
func Meant(got string, want []string) string {
	if s := nearest(got, want); s != "" {
		return fmt.Sprintf(", did you mean %q", s)
	}
	return ""
}

// ReadLog reads a restbend.log/1 document; a session after today is refused.
func ReadLog(r io.Reader, cat *catalogue.Catalogue, today trade.Day) (*progress.Log, error) {
	l := &progress.Log{}
	if err := read("log", r, l); err != nil {
		return nil, err
	}
	if out := CheckLog(l, cat, today); out != nil {
		return nil, out
	}
	return l, nil
}

// CheckLog checks what a schema cannot: days that have been, known versions, words of faults.
func CheckLog(l *progress.Log, cat *catalogue.Catalogue, today trade.Day) Problems {
	wrong, notes := checkLog(l, cat, today)
	return append(wrong, notes...)
}

// ReadKeptLog reads a restbend.log/1 document that was kept somewhere: wrong blocks it, notes are exercises that are
// not in this catalogue.
func ReadKeptLog(data []byte, cat *catalogue.Catalogue, today trade.Day) (l *progress.Log, notes Problems, err error) {
	l = &progress.Log{}
	if err := read("log", bytes.NewReader(data), l); err != nil {
		return nil, nil, err
	}
	wrong, notes := checkLog(l, cat, today)
	if wrong != nil {
		return nil, notes, wrong
	}
	return l, notes, nil
}

func checkLog(l *progress.Log, cat *catalogue.Catalogue, today trade.Day) (out, notes Problems) {
	say := func(path, format string, a ...any) { out = append(out, Problem{path, fmt.Sprintf(format, a...)}) }
	for i, s := range l.Sessions {
		if s.Date.After(today) {
			say(
				fmt.Sprintf("sessions[%d].date", i),
				"found %s, which lies after today (%s; rule: no days to come): write the day it was taught",
				s.Date,
				today,
			)
		}
		for j, it := range s.Items {
			path := fmt.Sprintf("sessions[%d].items[%d]", i, j)
			known := append([]progress.Tried{{Version: it.Version}}, it.Tried...)
			for k, t := range known {
				at := path + ".version"
				if k > 0 {
					at = fmt.Sprintf("%s.tried[%d].version", path, k-1)
				}
				if _, ok := cat.Version(t.Version); !ok && (k == 0 || t.Version != "") {
					notes = append(notes, Problem{at, fmt.Sprintf("unknown version %q%s", t.Version, Meant(t.Version, cat.Slugs()))})
				}
			}
			for k, word := range it.Seen {
				if _, _, ok := progress.ReadFault(word); !ok {
					say(
						fmt.Sprintf("%s.seen[%d]", path, k),
						"found %q%s, allowed: %s, each also with -left or -right",
						word,
						Meant(word, words.FaultCodes),
						strings.Join(words.FaultCodes, ", "),
					)
				}
			}
		}
	}
	return out, notes
}

// ReadResults reads a restbend.results/1 document; tests after today are refused.
func ReadResults(r io.Reader, today trade.Day) (*assess.Results, error) {
	out := &assess.Results{}
	if err := read("results", r, out); err != nil {
		return nil, err
	}
	if out.Date.After(today) {
		return nil, Problems{
			{
				"date",
				fmt.Sprintf(
					"found %s, which lies after today (%s; rule: no days to come): write the day of the tests",
					out.Date,
					today,
				),
			},
		}
	}
	return out, nil
}

// ReadBundle reads a restbend.bundle/1 document, one client after the other: add is called with each as the document
// has it, checked against the schema. The rest of the document comes last, with no clients in it. What stands inside a
// client is checked by whoever knows what it depends on.
func ReadBundle(data []byte, add func(i int, client []byte) error) (rest []byte, err error) {
	if len(data) > MaxBundle {
		return nil, Problems{{"(document)", fmt.Sprintf("is larger than %d MB", MaxBundle>>20)}}
	}
	var doc map[string]json.RawMessage
	if err := json.Unmarshal(data, &doc); err != nil || doc == nil {
		return nil, Problems{{"(document)", fmt.Sprintf("is not JSON: %v", err)}}
	}
	var clients []json.RawMessage
	if raw, ok := doc["clients"]; ok {
		if err := json.Unmarshal(raw, &clients); err != nil {
			return nil, Problems{{"clients", "found something else, allowed: array"}}
		}
		doc["clients"] = json.RawMessage("[]")
	}
	if len(clients) > mostClients {
		return nil, Problems{{"clients", fmt.Sprintf("found %d, allowed: up to %d", len(clients), mostClients)}}
	}
	if rest, err = json.Marshal(doc); err != nil {
		return nil, err
	}
	var nothing any
	var problems Problems
	if err := read("bundle", bytes.NewReader(rest), &nothing); err != nil {
		inner, ok := err.(Problems)
		if !ok {
			return nil, err
		}
		problems = append(problems, inner...)
	}
	for i, c := range clients {
		err := piecewise(c)
		if err == nil && problems == nil {
			err = add(i, c)
		}
		inner, ok := err.(Problems)
		if err != nil && !ok {
			return nil, err
		}
		for _, p := range inner {
			problems = append(problems, Problem{strings.Replace(p.Path, "clients[0]", fmt.Sprintf("clients[%d]", i), 1), p.Text})
		}
		if len(problems) > mostProblems {
			break
		}
	}
	if problems != nil {
		return nil, problems
	}
	return rest, nil
}

// CheckShape holds one client of a bundle against the schema, as ReadBundle does.
func CheckShape(client any) error {
	doc, err := json.Marshal(client)
	if err != nil {
		return err
	}
	return piecewise(doc)
}

// big are the parts of a session that are documents themselves and are read by themselves: what is left out here is
// judged where it is read.
var big = map[string]string{"plan": "{}", "state": "{}", "log": "{}", "base": "{}"}

// piecewise checks one client of a bundle piece by piece: never more of it is taken apart at once than one session.
func piecewise(client []byte) error {
	var nothing any
	wrapped := func(doc []byte) error {
		return readUpTo(
			MaxBundle,
			"bundle",
			bytes.NewReader(append(append([]byte(`{"format": "restbend.bundle/1", "clients": [`), doc...), "]}"...)),
			&nothing,
		)
	}
	var parts map[string]json.RawMessage
	var taught []json.RawMessage
	if json.Unmarshal(client, &parts) != nil || parts == nil {
		return wrapped(client)
	}
	if raw, ok := parts["taught"]; ok && json.Unmarshal(raw, &taught) == nil {
		parts["taught"] = json.RawMessage("[]")
	}
	if len(taught) > mostTaught {
		return Problems{{"clients[0].taught", fmt.Sprintf("found %d, allowed: up to %d", len(taught), mostTaught)}}
	}
	doc, err := json.Marshal(parts)
	if err != nil {
		return err
	}
	if err := wrapped(doc); err != nil {
		return err
	}
	for i, raw := range taught {
		var t map[string]json.RawMessage
		if json.Unmarshal(raw, &t) == nil && t != nil {
			for name, empty := range big {
				if v, ok := t[name]; ok && len(v) > 0 && v[0] == '{' {
					t[name] = json.RawMessage(empty)
				}
			}
			var scores []json.RawMessage
			if json.Unmarshal(t["scores"], &scores) == nil && scores != nil {
				for k, sc := range scores {
					if len(sc) > 0 && sc[0] == '{' {
						scores[k] = json.RawMessage("{}")
					}
				}
				if t["scores"], err = json.Marshal(scores); err != nil {
					return err
				}
			}
			if raw, err = json.Marshal(t); err != nil {
				return err
			}
		}
		err := wrapped(append(append([]byte(`{"client": {}, "taught": [`), raw...), "]}"...))
		if inner, ok := err.(Problems); ok {
			for k := range inner {
				inner[k].Path = strings.Replace(inner[k].Path, "taught[0]", fmt.Sprintf("taught[%d]", i), 1)
			}
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// mostTaught is how many sessions of one client a bundle holds (product default).
const mostTaught = 2000

// mostClients is how many clients a bundle holds.
const mostClients = 20000
