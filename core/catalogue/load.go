package catalogue

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"restbend/core/body"
	"restbend/core/dose"
	"restbend/core/pose"
	"restbend/core/say"
	"restbend/core/trade"
)

// Source is everything a catalogue is made from: file contents by name.
type Source struct {
	Files       map[string][]byte // versions/*.yaml
	Ladders     []byte
	Doses       []byte
	Old         map[string][]byte // revisions/*.yaml
	Eases       []byte            // eases.yaml: eases shared by many versions
	Gates       []byte            // gates.yaml: what opens a rung that is not a start
	Swaps       []byte            // swaps.yaml: what stands for a version of another family
	Names       []byte            // names.yaml: what exercises are called elsewhere
	Preferences []byte            // preferences.yaml: what is proposed and preferred when nobody says otherwise
	Solved      *Cache            // solved poses; entries that do not match the text are an error
}

// An Error lists every problem found, one a line, each with file and line.
type Error struct{ Problems []string }

func (e *Error) Error() string { return strings.Join(e.Problems, "\n") }

// Join gives every version and ease its solved poses; one that does not match its text
// is an error.
func (c *Catalogue) Join(solved *Cache) error {
	var problems []string
	for _, v := range c.Versions {
		s, err := solved.find(v.Slug, v.PoseKey(nil))
		if err != nil {
			problems = append(problems, v.problem("phases", err.Error()))
			continue
		}
		v.Solved, v.Quantities = s, s.Quantities.with(v, s)
		for place, on := range v.On {
			s, err := solved.find(v.Slug+"/"+string(place), v.PoseKey(on.Variant(place)))
			if err != nil {
				problems = append(problems, v.problem("on", err.Error()))
				continue
			}
			on.Solved, on.Quantities = s, s.Quantities.with(v, s)
		}
		for i := range v.Eases {
			e := &v.Eases[i]
			s, err := solved.find(v.Slug+"/"+e.Slug, v.PoseKey(e))
			if err != nil {
				problems = append(problems, v.problem("eases", err.Error()))
				continue
			}
			e.Solved, e.Quantities = s, s.Quantities.with(v, s)
			_, _, _, kept := v.Kept(e)
			e.Offered = !e.Another && kept >= easeKeeps-1e-9
		}
	}
	if problems != nil {
		return &Error{problems}
	}
	return nil
}

// Read reads and checks a catalogue without its solved poses.
func Read(src Source) (*Catalogue, error) {
	c := &Catalogue{bySlug: map[string]*Version{}, byFamily: map[string]*Family{}, onLadder: map[string]bool{}}
	var problems []string
	presets := map[string][]dose.Dose{}
	if err := strict(src.Doses, &presets); err != nil {
		problems = append(problems, "doses.yaml: "+err.Error())
	}
	for name, steps := range presets {
		for i, d := range steps {
			if !Has([]string{"", "side", "set", "rep"}, d.By) || !Has([]string{"", "rep", "half"}, d.Turn) ||
				d.RepsFrom > d.Reps {
				problems = append(
					problems,
					fmt.Sprintf(
						"doses.yaml:%d: %s: step %d: found by %q, turn %q, %d to %d; allowed: side, set, rep; rep, half; a rising range",
						lineOf(src.Doses, name+":")+1+i,
						name,
						i+1,
						d.By,
						d.Turn,
						d.RepsFrom,
						d.Reps,
					),
				)
			}
		}
	}
	ladders, order, err := parseLadders(string(src.Ladders))
	if err != nil {
		problems = append(problems, err.Error())
	}
	names := make([]string, 0, len(src.Files))
	for n := range src.Files {
		names = append(names, n)
	}
	sort.Strings(names)
	type result struct {
		versions []*Version
		err      error
	}
	read := make([]result, len(names))
	var wg sync.WaitGroup
	for i, n := range names {
		wg.Go(func() { read[i].versions, read[i].err = readFile(n, src.Files[n]) })
	}
	wg.Wait()
	for i, n := range names {
		if read[i].err != nil {
			problems = append(problems, n+": "+read[i].err.Error())
			continue
		}
		for _, v := range read[i].versions {
			if old, twice := c.bySlug[v.Slug]; twice {
				problems = append(problems, v.problem("version", fmt.Sprintf("%q is also in %s", v.Slug, old.file.name)))
				continue
			}
			c.bySlug[v.Slug] = v
			c.Versions = append(c.Versions, v)
		}
	}
	problems = append(problems, c.place(ladders, order)...)
	c.presets = presets
	for _, v := range c.Versions {
		problems = append(problems, v.check(c, presets)...)
	}
	if err := c.shareEases(src.Eases); err != nil {
		problems = append(problems, "eases.yaml: "+err.Error())
	}
	for _, v := range c.Versions {
		k := &entryCheck{v: v, c: c}
		for i := range v.Eases {
			if v.Eases[i].Shared {
				k.eased(&v.Eases[i])
			}
		}
		problems = append(problems, k.out...)
	}
	problems = append(problems, c.openGates(src.Gates)...)
	problems = append(problems, c.readPreferences(src.Preferences)...)
	problems = append(problems, c.readSwaps(src.Swaps)...)
	problems = append(problems, c.readNames(src.Names)...)
	problems = append(problems, c.archive(src.Old)...)
	if problems != nil {
		return nil, &Error{problems}
	}
	return c, nil
}

// shareEases adds the shared eases to the versions whose postures they fit, each by itself and
// together with each ease of the version's own: a sore knee and a sore wrist need both.
func (c *Catalogue) shareEases(data []byte) error {
	var shared []struct {
		Slug, Name, Pose string
		Say, Short       string
		StoppedBy        string `yaml:"stopped_by"`
		Kit, For, Stops  []string
		Together         bool
		Instead          map[string]map[string]string // by family, or by version: it wins
	}
	if err := strict(data, &shared); err != nil {
		return err
	}
	for _, s := range shared {
		for name := range s.Instead {
			if !slices.ContainsFunc(s.For, func(slug string) bool { v := c.bySlug[slug]; return slug == name || v != nil && v.Family == name }) {
				return fmt.Errorf("%s: instead: found %q, allowed: its versions and their families", s.Slug, name)
			}
		}
		for _, slug := range s.For {
			v, ok := c.bySlug[slug]
			if !ok {
				return fmt.Errorf("%s: unknown version %q", s.Slug, slug)
			}
			named, phases := map[string]bool{}, map[string]string{}
			for _, p := range v.Phases {
				from, _, _ := strings.Cut(
					strings.TrimPrefix(strings.TrimSpace(strings.ReplaceAll(p.Pose, ";", "\n")), "from "),
					"\n",
				)
				if !named[strings.TrimSpace(from)] { // a phase from another phase inherits its ground
					phases[p.Name] = s.Pose
				}
				named[p.Name] = true
			}
			own := slices.DeleteFunc(slices.Clone(v.Eases), func(e Ease) bool { return e.Shared })
			instead := maps.Clone(s.Instead[v.Family])
			if own := s.Instead[slug]; own != nil {
				if instead == nil {
					instead = map[string]string{}
				}
				maps.Copy(instead, own)
			}
			one := Ease{Slug: s.Slug, Name: s.Name, Say: s.Say, Short: s.Short, Instead: instead, StoppedBy: s.StoppedBy, Stops: s.Stops,
				Phases: phases, Kit: s.Kit, Shared: true}
			v.Eases = append(slices.Clip(v.Eases), one)
			if !s.Together {
				continue
			}
			for i := range own {
				v.Eases = append(v.Eases, own[i].and(&one))
			}
		}
	}
	return nil
}

// and is an ease of the entry's own together with a shared one: both are said, and where both
// have words for a slot, the entry's own stand.
func (e *Ease) and(shared *Ease) Ease {
	phases := maps.Clone(e.Phases)
	for phase, text := range shared.Phases {
		phases[phase] += "\n" + text
	}
	instead := maps.Clone(shared.Instead)
	if instead == nil {
		instead = map[string]string{}
	}
	maps.Copy(instead, e.Instead)
	return Ease{
		Slug:      e.Slug + "-" + shared.Slug,
		Name:      e.Name + ", and " + shared.Name,
		Say:       e.Say,
		Short:     e.Short + ", " + shared.Short,
		Instead:   instead,
		StoppedBy: e.StoppedBy,
		Stops:     e.Stops,
		Another:   e.Another,
		with:      shared,
		Phases:    phases,
		Kit:       shared.Kit,
		Also:      e.Kit,
		Shared:    true,
		Together:  true,
	}
}

func strict(data []byte, into any) error {
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(into); err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	return nil
}

// lineOf is the first line of a file beside the entries that holds a word, 1 when none does.
func lineOf(data []byte, word string) int {
	for i, line := range strings.Split(string(data), "\n") {
		if !strings.HasPrefix(strings.TrimSpace(line), "#") && strings.Contains(line, word) {
			return i + 1
		}
	}
	return 1
}

// file is one exercise file; the line of a field is looked up only when something is
// wrong with it.
type file struct {
	name  string
	data  []byte
	nodes []yaml.Node
}

// line finds the line of a field of the n-th entry, or of the entry itself.
func (f *file) line(n int, field string) int {
	if f.nodes == nil && yaml.Unmarshal(f.data, &f.nodes) != nil || n >= len(f.nodes) {
		return 0
	}
	entry := &f.nodes[n]
	for k := 0; k+1 < len(entry.Content); k += 2 {
		key, value := entry.Content[k], entry.Content[k+1]
		if key.Value == field {
			return key.Line
		}
		if rest, ok := strings.CutPrefix(field, key.Value+"["); ok {
			if i, err := strconv.Atoi(strings.TrimSuffix(rest, "]")); err == nil && i < len(value.Content) {
				return value.Content[i].Line
			}
		}
	}
	return entry.Line
}

// readFile decodes one file.
func readFile(name string, data []byte) ([]*Version, error) {
	var vs []*Version
	if err := strict(data, &vs); err != nil {
		return nil, err
	}
	f := &file{name: name, data: data}
	for i, v := range vs {
		if v == nil {
			return nil, fmt.Errorf("line %d: an empty entry", f.line(i, ""))
		}
		v.file, v.entry = f, i
		v.Aims = append(slices.Clone(v.MainAims), v.Also...)
		v.adopt()
		if v.Revision == 0 {
			v.Revision = 1
		}
	}
	return vs, nil
}

func (v *Version) problem(field, msg string) string {
	return fmt.Sprintf("%s:%d: %s: %s: %s", v.file.name, v.file.line(v.entry, field), v.Slug, field, msg)
}

// entryCheck gathers the mistakes of one entry.
type entryCheck struct {
	v   *Version
	c   *Catalogue
	own bool // an instructor's own version
	out []string
}

func (k *entryCheck) say(field, format string, a ...any) {
	k.out = append(k.out, k.v.problem(field, fmt.Sprintf(format, a...)))
}

func (k *entryCheck) oneOf(field, got string, allowed ...string) {
	if !Has(allowed, got) {
		k.say(field, "found %q, allowed: %s", got, strings.Join(allowed, ", "))
	}
}

func (k *entryCheck) need(field string, ok bool) {
	if !ok {
		k.say(field, "is missing")
	}
}

// check reports every mistake in an entry.
func (v *Version) check(c *Catalogue, presets map[string][]dose.Dose) []string {
	k := &entryCheck{v: v, c: c, own: strings.HasPrefix(v.Slug, OwnPrefix)}
	k.present()
	k.words()
	k.said()
	k.neighbours()
	k.sides()
	k.effort()
	k.doses(presets)
	k.postures()
	v.Authored = body.Right
	switch v.Drawn {
	case trade.Left:
		v.Authored = body.Left
	case "", trade.Right:
	default:
		k.say("authored", "found %q, allowed: left, right", v.Drawn)
	}
	return k.out
}

// present finds what every entry says.
func (k *entryCheck) present() {
	v := k.v
	k.need("name", v.Name != "")
	k.need("aims", len(v.MainAims) > 0)
	k.need("surfaces", len(v.Surfaces) > 0)
	for _, part := range []struct {
		name string
		ok   bool
	}{
		{"setup", len(v.Say.Setup.First) > 0}, {"image", v.Say.Image != ""}, {"feel", len(v.Say.Feel) > 0},
		{"stop", len(v.Say.Stop) > 0},
	} {
		if !part.ok {
			k.say("say", "%s is missing", part.name)
		}
	}
	for i := v.Round(); i < len(v.Phases); i++ {
		if line := v.Say.Phases[v.Phases[i].Name]; line.Full == "" || line.Key == "" {
			k.say("say", "the words of phase %s are missing", v.Phases[i].Name)
		}
	}
	for name := range v.Say.Phases {
		if !slices.ContainsFunc(v.Phases[min(v.Round(), len(v.Phases)):], func(p Phase) bool { return p.Name == name }) {
			k.say("say", "phases: found %q, allowed: the phases that are repeated", name)
		}
	}
	k.need("faults", len(v.Faults) > 0)
	k.need("changes", v.Changes != "")
	k.need("bed", v.Bed.Note != "")
	k.need("chair", v.Chair.Note != "")
}

// words finds words that are none of the allowed ones.
func (k *entryCheck) words() {
	v := k.v
	lists := []struct {
		field       string
		got         []string
		allowedOnes []string
	}{
		{"aims", v.Aims, Aims}, {"surfaces", trade.Words(v.Surfaces), trade.Words(trade.Surfaces)}, {"kit", v.Kit, Kit},
		{"helpful", v.Helpful, Kit}, {"declared", v.Declared, Declared}, {"settings", v.Settings, Settings},
	}
	for _, l := range lists {
		for _, word := range l.got {
			k.oneOf(l.field, word, l.allowedOnes...)
		}
	}
	for _, item := range v.Helpful {
		if Has(v.Kit, item) {
			k.say("helpful", "%s is needed already", item)
		}
	}
	k.oneOf("hold", v.Hold, "", "still", "cycle")
	k.oneOf("turn", v.Turn, "", "rep", "half")
	k.oneOf("instead_of", v.InsteadOf, "", "floor", "free")
	k.oneOf("position", string(v.Position), trade.Words(trade.Positions)...)
	if v.Camera != "" {
		k.oneOf("camera", v.Camera, body.ViewNames()...)
	}
	k.oneOf("chain", v.Chain, "closed", "open", "pseudo-closed")
	k.oneOf("unit", v.Unit, "reps", "seconds", "breaths", "beats", "steps", "laps")
	k.oneOf("bed", v.Bed.Answer, "works", "change", "no")
	if (v.Bed.Answer == "works" || v.On[trade.Bed] != nil) != Has(v.Surfaces, trade.Bed) {
		k.say("bed", "bed is among the surfaces exactly when the answer is works or the entry says how on a bed")
	}
}

// said finds faults and feelings without their code; an own version may leave them out.
func (k *entryCheck) said() {
	v := k.v
	for i, s := range v.Faults {
		if s.Code != "" || !k.own {
			k.oneOf(fmt.Sprintf("faults[%d]", i), s.Code, say.FaultCodes...)
		}
	}
	for _, s := range v.Say.Feel {
		if s.Code != "" || !k.own {
			k.oneOf("say", s.Code, say.FeltAt...)
		}
	}
	if _, ok := say.Shaking[v.Shaking]; !ok && (v.Shaking != "" || !k.own) {
		k.say("shaking", "found %q, allowed: %s", v.Shaking, strings.Join(slices.Sorted(maps.Keys(say.Shaking)), ", "))
	}
}

// neighbours finds versions named that are not there, or that are no swap.
func (k *entryCheck) neighbours() {
	v, c := k.v, k.c
	if _, e := c.HeldSibling(v); v.Sibling != "" && e == "?" {
		k.say("held", "found %q, allowed: one of its eases, a version, or a version and its ease", v.Sibling)
	}
	for _, s := range append([]Swap{v.Same}, v.Swaps...) {
		w, ok := c.bySlug[s.Version]
		switch {
		case s.Version == "":
		case !c.onLadder[s.Version]:
			k.say("swaps", "unknown version %q", s.Version)
		case s.Note == "":
			k.say("swaps", "%s needs a note that says why", s.Version)
		case ok && w.Family == v.Family && !w.Set && s != v.Same:
			k.say("swaps", "%s is of the same family, which is an adaptation", s.Version)
		}
	}
	if v.Chair.Version != "" && !c.onLadder[v.Chair.Version] {
		k.say("chair", "unknown version %q", v.Chair.Version)
	}
}

// sides finds what a sided version leaves unsaid.
func (k *entryCheck) sides() {
	v := k.v
	k.oneOf("side_mode", string(v.SideMode), string(trade.None), string(trade.Each), string(trade.Alternate))
	if v.Binds != "" {
		k.oneOf("binds", v.Binds, "curve-opens", "curve-works", "jammed-up")
		if v.SideMode != trade.Each {
			k.say("binds", "only a version done to each side can bind one")
		}
	}
	if v.SideMode != trade.None && (v.SideMeans == "" || v.Compares == "") {
		k.say("side_mode", "a sided version says what left means and what is compared (side_means, compares)")
	}
}

// effort finds one out of bounds or that falls along its branch.
func (k *entryCheck) effort() {
	if k.v.Effort < 1 || k.v.Effort > 10 {
		k.say("effort", "found %d, allowed: 1 to 10", k.v.Effort)
	}
	if p := k.c.Previous(k.v); p != nil && p.Effort > k.v.Effort {
		k.say("effort", "falls along the branch: %s has %d", p.Slug, p.Effort)
	}
}

// doses gives the entry its doses and finds what is wrong with them.
func (k *entryCheck) doses(presets map[string][]dose.Dose) {
	v := k.v
	v.Doses = map[string][]dose.Dose{}
	for school, preset := range v.DoseNames {
		k.oneOf("doses", school, Schools...)
		steps, ok := presets[preset]
		if !ok {
			k.say("doses", "unknown dose ladder %q", preset)
		}
		v.Doses[school] = v.agreed(steps)
		for i := range v.Doses[school] {
			if odd := v.odd(&v.Doses[school][i]); odd != "" {
				k.say("doses", "%s, %s, step %d: %s", school, preset, i+1, odd)
			}
		}
	}
	k.need("doses", len(v.Doses) > 0)
}

// postures finds phases that cannot be read, of the version, of other places and of its eases.
func (k *entryCheck) postures() {
	v := k.v
	if _, _, err := v.Specs(nil); err != nil {
		field := "phases"
		var pe *phaseError
		if errors.As(err, &pe) {
			field = fmt.Sprintf("phases[%d]", pe.phase)
		}
		k.say(field, "%v", err)
	}
	for place, on := range v.On {
		k.oneOf("on", string(place), string(trade.Bed))
		for _, item := range on.Kit {
			k.oneOf("on", item, Kit...)
		}
		if on.Note == "" || len(on.Phases) == 0 || v.Ease(string(place)) != nil {
			k.say("on", "%s needs a note, its postures, and no ease of that name", place)
		}
		if _, _, err := v.Specs(on.Variant(place)); err != nil {
			k.say("on", "%s: %v", place, err)
		}
	}
	for i := range v.Eases {
		e := &v.Eases[i]
		for _, item := range e.Kit {
			k.oneOf("eases", item, Kit...)
		}
		if e.Say == "" || e.Short == "" {
			k.say("eases", "%s needs its sentence (say) and its few words (short)", e.Slug)
		}
		k.eased(e)
		if _, _, err := v.Specs(&v.Eases[i]); err != nil {
			k.say("eases", "%s: %v", v.Eases[i].Slug, err)
		}
	}
}

// eased finds words of an ease for slots that the exercise does not have.
func (k *entryCheck) eased(e *Ease) {
	for slot := range e.Instead {
		if slots := k.v.Slots(); !slices.Contains(slots, slot) {
			k.say("eases", "%s: instead: found %q, allowed: %s", e.Slug, slot, strings.Join(slots, ", "))
		}
	}
}

type phaseError struct {
	phase int
	err   error
}

func (e *phaseError) Error() string { return e.err.Error() }
func (e *phaseError) Unwrap() error { return e.err }

// Specs parses the phases, with an ease's extra statements when one is given.
func (v *Version) Specs(e *Ease) (names []string, specs []*pose.Spec, err error) {
	if len(v.Phases) < 2 || len(v.Phases)-v.Round() < 2 {
		return nil, nil, errors.New("an exercise has at least two phases that are repeated")
	}
	known := map[string]bool{}
	for i, p := range v.Phases {
		text := p.Pose
		if e != nil {
			text = e.pose(p)
		}
		s, err := pose.Parse(text)
		if err != nil {
			return nil, nil, &phaseError{i, err}
		}
		if !known[s.From] && !Has(pose.BaseNames(), s.From) {
			return nil, nil, &phaseError{
				i,
				fmt.Errorf("phase %s: from %q is neither a base nor an earlier phase", p.Name, s.From),
			}
		}
		if p.Once && (i > 0 || p.Held) {
			return nil, nil, &phaseError{
				i,
				fmt.Errorf("phase %s: only the first phase is taken once, and it is not held", p.Name),
			}
		}
		if p.Breath != "in" && p.Breath != "out" {
			return nil, nil, &phaseError{i, fmt.Errorf("phase %s: breath is in or out", p.Name)}
		}
		known[p.Name] = true
		names, specs = append(names, p.Name), append(specs, s)
	}
	if e != nil {
		for n := range e.Phases {
			if !known[n] {
				return nil, nil, fmt.Errorf("unknown phase %q", n)
			}
		}
	}
	return names, specs, nil
}
