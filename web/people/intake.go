package people

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/figure"
	"restbend/store"
	"restbend/web/site"
)

// intakeStep is one page of the intake. Each is saved on its own, so that an intake can
// be left and resumed at any step.
type intakeStep struct {
	Name, Title, Hint string
	fill              func(*filler)
}

// IntakeSteps in working order: red flags before anything.
var IntakeSteps = []intakeStep{
	{"start", "Warning signs", "Ask each one before anything else. Any yes stops the planning until a clinician has looked.", (*filler).start},
	{"person", "Who, and what brings them", "In the client's own words.", (*filler).person},
	{"conditions", "Conditions", "Tick what is known. A detail left open is read strictly; the client page says how.",
		(*filler).conditions},
	{"clearances", "Operations and clearances", "A clearance is a clinician's record: who, when, which conditions, which limits. It ends after six months unless a day is given.", (*filler).clearances},
	{"pain", "Pain and directions", "What bending, arching and turning do to the pain decides more than its name.",
		(*filler).pain},
	{"positions", "Positions", "A position nobody confirmed counts as not available.", (*filler).positions},
	{"place", "Place and kit", "One of the places is enough for an exercise; all of its kit is needed.", (*filler).place},
	{"aims", "Aims and real tasks", "What should be possible again? The aims are proposed from conditions, age and tasks: ask for less or more where the client wants it otherwise.", (*filler).aims},
	{"schools", "How to work", "Where practice differs, the choice is yours for this client.", (*filler).schools},
}

// StepIndex is where a step stands in the intake, -1 where it is none.
func StepIndex(name string) int {
	return slices.IndexFunc(IntakeSteps, func(s intakeStep) bool { return s.Name == name })
}

// intakePage is one step of the form; Values are exactly what was typed, so that nothing
// is lost when something is wrong.
type intakePage struct {
	ID       int64
	Name     string
	Step     intakeStep
	Index    int
	Steps    []intakeStep
	Done     int // steps finished so far
	Complete bool
	Values   url.Values
	Problems exchange.Problems
	Client   *intake.Client
	Base     string           // what the form was made from, and travels with it
	Clashes  []clash          // what somebody else changed meanwhile otherwise
	Refer    *safety.Referral // a sign is answered on every step

	Flags    []site.FlagGroup
	Groups   []conditionGroup
	Covers   []safety.Rule // conditions and open red flags a clearance may cover
	Open     []safety.RedFlag
	Signs    []safety.ClearingSign // of the log, that a clearance may cover
	roles    []string
	Places   []placeAsk
	Kit      []string
	Surfaces []string
	Aims     []aimAsk
	Unknown  []catalogue.UnknownTask // named by the client, and no task of the list
	Builds   []string
	Tasks    []catalogue.Task
	Schools  []schoolAsk
	Today    string
}

// aimAsk is one aim, how much of it is proposed and how much is asked for, in words.
type aimAsk struct{ Name, Proposed, Asked string }

// aimAsks are the aims with a proposal from conditions, age and tasks, which stands until another is chosen.
func (s *People) aimAsks(cl *intake.Client, v url.Values) (out []aimAsk) {
	weights := map[string]float64{}
	if r, err := facts.New(s.Cat, s.Limits(), s.Tasks, cl, nil, 30, s.Today()); err == nil {
		_, weights = r.Proposed()
	}
	typed := slices.ContainsFunc(catalogue.Aims, func(a string) bool { return v.Has("aims." + a) })
	for _, a := range catalogue.Aims {
		ask := aimAsk{a, facts.AmountOf(weights[a]), v.Get("aims." + a)}
		if !typed && len(cl.Aims) == 0 {
			ask.Asked = ask.Proposed
		}
		out = append(out, ask)
	}
	return out
}

type conditionGroup struct {
	Name  string
	Rules []safety.Rule // asked of most
	Rarer []safety.Rule
	Open  bool // one of the rarer ones is recorded
}

type placeAsk struct {
	Name, Ask, Figure string // a picture of the position
	Answers           []string
}

var placeAsks = []placeAsk{
	{"floor", "Getting to the floor and up again", "lunge-turn.svg?phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"supine", "Lying on the back", "deep-core-find.svg?phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"prone", "Lying on the front", "prone-rest.svg?phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"side_left", "Lying on the left side", "clam.svg?side=right&phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"side_right", "Lying on the right side", "clam.svg?side=left&phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"kneel", "Kneeling", "reset-sweep-kneeling.svg?phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"hands", "Weight on both hands", "blade-press.svg?phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"floor_sit", "Sitting upright on the floor", "staff-sit.svg?phase=1&thumb=1", []string{"yes", "help", "no"}},
	{"stand_free", "Standing without a hand hold", "heel-raise.svg?phase=1&thumb=1", []string{"yes", "held", "no"}},
}

// schoolAsk is one question where practice differs, with what each answer is for.
type schoolAsk struct {
	Name, Ask, Default string
	Answers            []schoolAnswer
}

type schoolAnswer struct{ Value, For string }

// Schools and their defaults: common practice.
var schoolAsks = []schoolAsk{
	{"dose", "How to dose stability", "short holds with back pain or a disc, else repetitions", []schoolAnswer{
		{"short-holds", "10 s holds in falling sets: endurance without fatigue"},
		{"reps", "8 to 15 smooth repetitions: learning a movement"},
		{"breaths", "postures held for slow breaths: calm comes first"},
		{"long-hold", "one hold to the first loss of form: testing endurance"}}},
	{"core", "How to switch on the core", "neutral with a light brace", []schoolAnswer{
		{"neutral", "keep the small natural curve, a hand underneath as sensor"},
		{"brace", "stiffen all round as if about to be poked"},
		{"draw-in", "navel gently to the spine, a third of effort"},
		{"imprint", "press the low back down: a mobility exercise, not a strength posture with bone loss"}}},
	{"order", "Which way round", "lying first; standing first with bone loss or a risk of falls when standing is safe",
		[]schoolAnswer{
			{"lying-first", "each position a little more demanding than the last"},
			{"standing-first", "legs and balance while fresh, ending seated"}}},
	{"sides", "Work with sides in turn", "in turn; the same side first for holds of 10 s", []schoolAnswer{
		{"alternate", "sides change with every repetition: easier to begin with"},
		{"same-side", "all of one side, then the other: for longer holds"}}},
}

func (s *People) intakePage(row *store.Client, cl *intake.Client, step int, v url.Values,
	problems exchange.Problems) intakePage {
	rules := s.Limits()
	kit := slices.DeleteFunc(slices.Clone(catalogue.Kit),
		func(k string) bool { return slices.Contains(trade.Surfaces, trade.Surface(k)) })
	pg := intakePage{ID: row.ID, Name: row.Name, Step: IntakeSteps[step], Index: step, Steps: IntakeSteps,
		Done: len(IntakeSteps), Complete: row.Intake == "" && row.ID > 0,
		Values: v, Problems: problems, Client: cl, Flags: site.FlagGroups(rules), Places: placeAsks, Kit: kit,
		Surfaces: trade.Words(trade.Surfaces), Unknown: catalogue.UnknownTasks(s.Tasks, cl.Tasks),
		Builds: []string{"ash", "rowan", "birch"}, Tasks: s.Tasks, Schools: schoolAsks, Today: s.Today().String()}
	if row.ID > 0 {
		pg.Base = string(row.Document)
	}
	if pg.Step.Name == "aims" {
		pg.Aims = s.aimAsks(cl, v)
	}
	if sc, err := safety.NewScreener(rules, s.Cat, cl, s.Today()); err == nil && row.ID > 0 {
		if pg.Refer = sc.Referral(); pg.Refer != nil && pg.Refer.Do == nil {
			pg.Refer = nil // what a condition asks for is said when the intake is done
		}
	}
	pg.Signs, pg.roles = rules.Clearing.Signs, trade.Words(rules.ClearingRoles())
	if row.ID == 0 {
		pg.Done = 0
	} else if row.Intake != "" {
		pg.Done = StepIndex(row.Intake)
	}
	for _, r := range rules.Conditions {
		i := slices.IndexFunc(pg.Groups, func(g conditionGroup) bool { return g.Name == r.Group })
		if i < 0 {
			i = len(pg.Groups)
			pg.Groups = append(pg.Groups, conditionGroup{Name: r.Group})
		}
		if g := &pg.Groups[i]; r.Often {
			g.Rules = append(g.Rules, r)
		} else {
			g.Rarer = append(g.Rarer, r)
			g.Open = g.Open || pg.Is("conditions", r.Code)
		}
		if slices.ContainsFunc(cl.Conditions, func(k intake.Condition) bool { return k.Code == r.Code }) {
			pg.Covers = append(pg.Covers, r)
		}
	}
	for _, f := range rules.RedFlags {
		if cl.Raised(f.Code) {
			pg.Open = append(pg.Open, f)
		}
	}
	return pg
}

// Get is a typed value of the form.
func (p intakePage) Get(name string) string { return p.Values.Get(name) }

// Is tells whether a choice was made.
func (p intakePage) Is(name, value string) bool { return slices.Contains(p.Values[name], value) }

// Roles are who may have written a clearance; a word of before stays among them.
func (p intakePage) Roles(field string) []string {
	if was := p.Values.Get(field); was != "" && !slices.Contains(p.roles, was) {
		return append(slices.Clone(p.roles), was)
	}
	return p.roles
}

// SignCovered tells whether a clearance covers a sign of the log.
func (p intakePage) SignCovered(field string) bool {
	return slices.ContainsFunc(p.Signs, func(s safety.ClearingSign) bool { return p.Is(field, s.Code) })
}

// Has tells whether the client has a condition.
func (p intakePage) Has(code string) bool {
	return slices.ContainsFunc(p.Client.Conditions, func(k intake.Condition) bool { return k.Code == code })
}

// Count lists 0 to as many rows as are typed, and more empty ones.
func (p intakePage) Count(prefix string, more int) []int {
	n := 0
	for n < 40 && slices.ContainsFunc(slices.Collect(keysOf(p.Values)),
		func(k string) bool { return strings.HasPrefix(k, fmt.Sprintf("%s.%d.", prefix, n)) }) {
		n++
	}
	out := make([]int, n+more)
	for i := range out {
		out[i] = i
	}
	return out
}

func keysOf(v url.Values) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range v {
			if !yield(k) {
				return
			}
		}
	}
}

// Wrong lists what is wrong with a field.
func (p intakePage) Wrong(prefix string) string {
	var out []string
	for _, x := range p.Problems {
		if x.Path == prefix || strings.HasPrefix(x.Path, prefix+".") || strings.HasPrefix(x.Path, prefix+"[") {
			out = append(out, x.Text)
		}
	}
	return strings.Join(out, "; ")
}

// named turns paths of the document into names of the form: conditions[2].date becomes
// condition.scoliosis.date.
func named(problems exchange.Problems, c *intake.Client) exchange.Problems {
	var out exchange.Problems
	for _, p := range problems {
		for i, k := range c.Conditions {
			if rest, ok := strings.CutPrefix(p.Path, fmt.Sprintf("conditions[%d]", i)); ok {
				p.Path = "condition." + k.Code + rest
			}
		}
		for _, list := range []string{"clearances", "operations"} {
			if rest, ok := strings.CutPrefix(p.Path, list+"["); ok {
				p.Path = strings.TrimSuffix(list, "s") + "." + strings.Replace(rest, "]", "", 1)
			}
		}
		out = append(out, p)
	}
	return out
}

func (s *People) newClient(c *gin.Context) {
	s.Render(c, http.StatusOK, "intake", "", "New client",
		s.intakePage(&store.Client{}, &intake.Client{}, 0, url.Values{}, nil))
}

func (s *People) intake(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	step := StepIndex(c.Param("step"))
	if step < 0 {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d/intake/%s", row.ID, nextStep(row)))
		return
	}
	cl, err := DocumentOf(&row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	v := valuesOf(cl)
	v.Set("build", row.Build)
	s.Render(c, http.StatusOK, "intake", "", "Intake of "+row.Name, s.intakePage(&row, cl, step, v, nil))
}

// nextStep is where an intake is resumed; a complete one begins with the person.
func nextStep(row store.Client) string {
	if StepIndex(row.Intake) >= 0 {
		return row.Intake
	}
	return IntakeSteps[1].Name
}

// DocumentOf reads the stored document of a client.
func DocumentOf(row *store.Client) (*intake.Client, error) {
	cl := &intake.Client{}
	if err := json.Unmarshal(row.Document, cl); err != nil {
		return nil, fmt.Errorf("client %d: %w", row.ID, err)
	}
	return cl, nil
}

// fresh are the problems that were not there before: what an older release stored is kept and
// shown, and stops nobody from saving another step.
func (s *People) fresh(c *gin.Context, before []byte, problems exchange.Problems) (out exchange.Problems) {
	_, known, _, err := exchange.ReadKept(before, s.Catalogue(c), s.Limits(), s.Today())
	if damaged, ok := err.(exchange.Problems); ok {
		known = append(known, damaged...)
	}
	for _, p := range problems {
		if i := slices.IndexFunc(known, func(k exchange.Problem) bool { return k.Text == p.Text }); i >= 0 {
			known = slices.Delete(known, i, i+1)
			continue
		}
		out = append(out, p)
	}
	return out
}

// saveIntake saves one step and goes on to the next, or back to the client.
func (s *People) saveIntake(c *gin.Context) {
	row, cl, step, ok := s.intakeHere(c)
	if !ok {
		return
	}
	in, ok := s.typedStep(c, &row, cl, step)
	if !ok {
		return
	}
	title := IntakeSteps[step].Title
	switch {
	case len(in.problems) > 0:
		s.Render(c, http.StatusUnprocessableEntity, "intake", "", title,
			s.intakePage(&row, in.client, step, in.form.v, in.problems))
		return
	case len(in.clashes) > 0:
		pg := s.intakePage(&row, in.client, step, in.form.v, nil)
		pg.Base, pg.Clashes = string(in.kept), in.clashes
		s.Render(c, http.StatusConflict, "intake", "", title, pg)
		return
	}
	if err := s.keepStep(c, &row, in, step); err != nil {
		s.Failed(c, err)
		return
	}
	unknown := func(u catalogue.UnknownTask) bool { return !slices.Contains(in.form.v["asked"], u.Text) }
	to := fmt.Sprintf("/clients/%d", row.ID)
	switch {
	case IntakeSteps[step].Name == "aims" && slices.ContainsFunc(catalogue.UnknownTasks(s.Tasks, in.client.Tasks),
		unknown):
		to += "/intake/aims" // once: what does it mean?
	case step+1 < len(IntakeSteps) && in.form.v.Get("go") != "client":
		to += "/intake/" + IntakeSteps[step+1].Name
	}
	c.Redirect(http.StatusSeeOther, to)
}

// intakeHere is the client and the step the address names, a new client where it names none; a failure
// is answered.
func (s *People) intakeHere(c *gin.Context) (row store.Client, cl *intake.Client, step int, ok bool) {
	row = store.Client{Intake: IntakeSteps[0].Name, Build: figure.DefaultBuild}
	cl = &intake.Client{Format: "restbend.client/1", Conditions: []intake.Condition{}}
	if c.Param("id") == "" {
		return row, cl, 0, true
	}
	if row, ok = s.RowHere(c); !ok {
		return row, cl, 0, false
	}
	var err error
	if cl, err = DocumentOf(&row); err != nil {
		s.Failed(c, err)
		return row, cl, 0, false
	}
	if step = StepIndex(c.Param("step")); step < 0 {
		s.Fail(c, http.StatusNotFound, "There is no such step", "Nothing was changed.")
		return row, cl, 0, false
	}
	return row, cl, step, true
}

// typedIntake is a step as it was typed, joined with what others changed meanwhile.
type typedIntake struct {
	client   *intake.Client
	document []byte
	kept     []byte // as it was stored
	form     *filler
	problems exchange.Problems
	clashes  []clash
}

// typedStep reads a step of the form; a failure is answered.
func (s *People) typedStep(c *gin.Context, row *store.Client, cl *intake.Client, step int) (in typedIntake, ok bool) {
	unread := func() (typedIntake, bool) {
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return in, false
	}
	failed := func(err error) (typedIntake, bool) {
		s.Failed(c, err)
		return in, false
	}
	if c.Request.ParseForm() != nil {
		return unread()
	}
	var err error
	if in.kept, err = json.Marshal(cl); err != nil {
		return failed(err)
	}
	before := in.kept
	if base := c.PostForm("base"); base != "" && row.ID > 0 { // what was on the form, whatever is kept by now
		cl = &intake.Client{}
		if json.Unmarshal([]byte(base), cl) != nil {
			return unread()
		}
		if before, err = json.Marshal(cl); err != nil {
			return failed(err)
		}
	}
	in.form = &filler{c: cl, rules: s.Rules, v: c.Request.PostForm, build: row.Build, today: s.Today(),
		complete: row.ID > 0 && row.Intake == ""}
	IntakeSteps[step].fill(in.form)
	doc, err := json.Marshal(cl)
	if err != nil {
		return failed(err)
	}
	if doc, in.clashes, err = Merge(before, in.kept, doc); err != nil {
		return failed(err)
	}
	if in.client = new(intake.Client); json.Unmarshal(doc, in.client) != nil {
		return unread()
	}
	if in.document, err = json.Marshal(in.client); err != nil {
		return failed(err)
	}
	_, wrong, _, err := exchange.ReadKept(in.document, s.Catalogue(c), s.Limits(), s.Today())
	if problems, of := err.(exchange.Problems); of {
		wrong = append(wrong, problems...)
	} else if err != nil {
		return failed(err)
	}
	if in.problems = in.form.problems; len(in.problems) == 0 && wrong != nil {
		in.problems = named(s.fresh(c, in.kept, wrong), in.client)
	}
	return in, true
}

// keepStep stores a step, with what it changed and why.
func (s *People) keepStep(c *gin.Context, row *store.Client, in typedIntake, step int) error {
	first := row.Intake != ""
	row.Name, row.Document, row.Build = in.client.Name, in.document, in.form.build
	if first && step == StepIndex(row.Intake) {
		row.Intake = ""
		if step+1 < len(IntakeSteps) {
			row.Intake = IntakeSteps[step+1].Name
		}
	}
	why := strings.TrimSpace(in.form.v.Get("why"))
	if why == "" && first {
		why = "intake"
	}
	changes, err := site.ChangesOf(in.kept, in.document, s.Who(c), why)
	if err != nil {
		return err
	}
	if row.ID == 0 {
		row.ID, err = s.Store.CreateClient(c, s.Account(c), *row, changes...)
		return err
	}
	return s.Store.UpdateClient(c, s.Account(c), *row, changes...)
}

// taskGroup is the real tasks of one group; the first stands open.
type taskGroup struct {
	Name  string
	Tasks []catalogue.Task
	Open  bool
}

// TaskGroups are the real tasks by group, in the order of the file.
func (p intakePage) TaskGroups() (out []*taskGroup) {
	for _, t := range p.Tasks {
		i := slices.IndexFunc(out, func(g *taskGroup) bool { return g.Name == t.Group })
		if i < 0 {
			i = len(out)
			out = append(out, &taskGroup{Name: t.Group, Open: i == 0})
		}
		out[i].Tasks = append(out[i].Tasks, t)
	}
	return out
}
