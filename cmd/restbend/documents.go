package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"restbend"
	"restbend/core/assess"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/measure"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/solve"
	"restbend/core/survey"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/figure"
)

// content is what every command works with.
type content struct {
	cat   *catalogue.Catalogue
	rules *safety.Rules
	tasks []catalogue.Task
	norms *assess.Norms
	kinds []kinds.Template
}

func loadContent() (content, error) {
	cat, err := restbend.Catalogue()
	if err != nil {
		return content{}, err
	}
	rules, err := restbend.Rules()
	if err != nil {
		return content{}, err
	}
	tasks, err := restbend.Tasks()
	if err != nil {
		return content{}, err
	}
	norms, err := restbend.Norms()
	if err != nil {
		return content{}, err
	}
	kinds, err := restbend.Templates(cat)
	return content{cat, rules, tasks, norms, kinds}, err
}

// open reads a file, or standard input for "-".
func open(cmd *cobra.Command, name string) (io.ReadCloser, error) {
	if name == "-" {
		return io.NopCloser(cmd.InOrStdin()), nil
	}
	f, err := os.Open(name)
	if err != nil {
		return nil, usage{err}
	}
	if info, err := f.Stat(); err != nil || info.IsDir() {
		return nil, usage{errors.Join(err, f.Close(), fmt.Errorf("%s: found a folder, allowed: a file", name))}
	}
	return f, nil
}

// clock is today where this machine stands.
func clock() trade.Day { return trade.DayOf(time.Now(), time.Local) }

func (t content) client(cmd *cobra.Command, name string) (*intake.Client, error) {
	f, err := open(cmd, name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	c, err := exchange.ReadClient(f, t.cat, t.rules, clock())
	if err == nil && c.Today.Date.IsZero() {
		c.Today.Date = clock()
		fmt.Fprintf(cmd.ErrOrStderr(), "note: today.date is absent, using %s\n", c.Today.Date)
	}
	return c, err
}

func (t content) log(cmd *cobra.Command, name string, today trade.Day) (*progress.Log, error) {
	f, err := open(cmd, name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return exchange.ReadLog(f, t.cat, today)
}

func (t content) version(slug string) (*catalogue.Version, error) {
	v, ok := t.cat.Version(slug)
	if !ok {
		return nil, exchange.Problems{
			{Path: "version", Text: fmt.Sprintf("unknown version %q%s", slug, exchange.Meant(slug, t.cat.Slugs()))},
		}
	}
	return v, nil
}

// jsonFlag is accepted everywhere; these commands print nothing but one JSON document.
func jsonFlag(cmd *cobra.Command) { cmd.Flags().Bool("json", true, "print one JSON document") }

func catalogueCmd() *cobra.Command {
	validate, edge, eases, films, left, inversions := false, false, false, false, false, false
	cmd := &cobra.Command{
		Use:   "catalogue",
		Short: "Every version with declared and measured quantities",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			t, err := loadContent()
			if err != nil {
				return err
			}
			if validate {
				return validateCatalogue(cmd, t.cat)
			}
			if edge {
				return printEdges(cmd, t)
			}
			if eases {
				return printEases(cmd, t)
			}
			if inversions {
				return printInversions(cmd, t)
			}
			if left {
				return printLeft(cmd, t)
			}
			if films {
				return measureFilms(cmd, t.cat)
			}
			return exchange.Write(cmd.OutOrStdout(), exchange.NewCatalogue(t.cat))
		},
	}
	cmd.Flags().
		BoolVar(&validate, "validate", false, "solve every posture again on both bodies and both sides and print what the validator finds")
	cmd.Flags().BoolVar(&edge, "edge", false, "print every measured value within a degree or 2 % of a limit")
	cmd.Flags().
		BoolVar(&eases, "eases", false, "print every limit that an ease answers: full, eased, limit and what stops the movement")
	cmd.Flags().
		BoolVar(&inversions, "inversions", false, "print each rung that suits although an easier one is out, and by what")
	cmd.Flags().BoolVar(&left, "left", false, "print what suits with each condition and each two of them, by position")
	cmd.Flags().
		BoolVar(&films, "films", false, "print size, largest jump of a joint and largest move of a contact of every film")
	jsonFlag(cmd)
	return cmd
}

// printEdges lists what measures so near a limit that its pose deserves a second look.
func printEdges(cmd *cobra.Command, t content) error {
	edges := survey.AtEdge(t.rules, t.cat)
	keeps := 0
	for _, e := range edges {
		fmt.Fprintln(cmd.OutOrStdout(), e)
		if e.Passes() {
			keeps++
		}
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%d values at the edge of a limit, %d keep it\n", len(edges), keeps)
	return nil
}

// printEases lists what every ease leaves of what a condition limits.
func printEases(cmd *cobra.Command, t content) error {
	for _, e := range survey.Eases(t.rules, t.cat) {
		fmt.Fprintln(cmd.OutOrStdout(), e)
	}
	return nil
}

// printInversions lists the inversions of every single condition.
func printInversions(cmd *cobra.Command, t content) error {
	all, err := survey.AllInversions(t.rules, t.cat, trade.DayOf(time.Now(), time.Local))
	for _, i := range all {
		fmt.Fprintln(cmd.OutOrStdout(), i)
	}
	return err
}

// printLeft lists what is left for everybody: the single conditions, then the pairs, those
// with least first.
func printLeft(cmd *cobra.Command, t content) error {
	var pairs []survey.Left
	for i, a := range t.rules.Conditions {
		one, err := survey.LeftWith(t.rules, t.cat, trade.DayOf(time.Now(), time.Local), a.Code)
		if err != nil {
			return err
		}
		fmt.Fprintln(cmd.OutOrStdout(), one)
		for _, b := range t.rules.Conditions[i+1:] {
			two, err := survey.LeftWith(t.rules, t.cat, trade.DayOf(time.Now(), time.Local), a.Code, b.Code)
			if err != nil {
				return err
			}
			pairs = append(pairs, two)
		}
	}
	slices.SortStableFunc(pairs, func(a, b survey.Left) int { return a.Suits - b.Suits })
	for _, two := range pairs {
		fmt.Fprintln(cmd.OutOrStdout(), two)
	}
	return nil
}

// validateCatalogue solves and checks everything again: one line per finding, then a sum.
func validateCatalogue(cmd *cobra.Command, cat *catalogue.Catalogue) error {
	all, err := measure.SolveAll(cat.Versions, true)
	if err != nil {
		return err
	}
	phases, findings := 0, 0
	for i := range all {
		for _, f := range all[i].Findings {
			fmt.Fprintf(cmd.OutOrStdout(), "%s: %s: %s\n", f.Version, f.Phase, f.Text)
		}
		phases, findings = phases+len(all[i].Solved.Phases), findings+len(all[i].Findings)
	}
	fmt.Fprintf(
		cmd.OutOrStdout(),
		"%d versions, %d variants with eases, %d phases, both bodies, both sides: %d findings\n",
		len(cat.Versions),
		len(all),
		phases,
		findings,
	)
	if findings > 0 {
		return fmt.Errorf("the validator found %d faults", findings)
	}
	return nil
}

// clientCommand is a command that answers about one client with one JSON document.
func clientCommand(
	use, short string,
	answer func(cmd *cobra.Command, t content, c *intake.Client) (any, error),
) *cobra.Command {
	var client string
	cmd := &cobra.Command{Use: use, Short: short, Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		t, err := loadContent()
		if err != nil {
			return err
		}
		c, err := t.client(cmd, client)
		if err != nil {
			return err
		}
		doc, err := answer(cmd, t, c)
		if err != nil {
			return err
		}
		if lp, ok := doc.(lpText); ok {
			return lp.m.WriteLP(cmd.OutOrStdout())
		}
		if text, ok := doc.(scoreText); ok {
			_, err := fmt.Fprint(cmd.OutOrStdout(), text)
			return err
		}
		return exchange.Write(cmd.OutOrStdout(), doc)
	}}
	cmd.Flags().StringVar(&client, "client", "", "client document, - for standard input")
	mustHave(cmd, "client")
	jsonFlag(cmd)
	return cmd
}

func mustHave(cmd *cobra.Command, flag string) {
	if err := cmd.MarkFlagRequired(flag); err != nil {
		panic(err) // the flag does not exist: a mistake in this program
	}
}

func screenCmd() *cobra.Command {
	var slugs []string
	cmd := clientCommand(
		"screen",
		"Verdicts for a client",
		func(_ *cobra.Command, t content, c *intake.Client) (any, error) {
			for _, s := range slugs {
				if _, err := t.version(s); err != nil {
					return nil, err
				}
			}
			s, err := safety.NewScreener(t.rules, t.cat, c, c.Today.Date)
			if err != nil {
				return nil, err
			}
			return exchange.NewScreen(s, s.Screen(slugs...), t.cat), nil
		},
	)
	cmd.Flags().StringArrayVar(&slugs, "exercise", nil, "a version; repeat for more, all when none is named")
	return cmd
}

// request gathers everything a session or a decision needs; logFile may be empty.
func (t content) request(cmd *cobra.Command, c *intake.Client, logFile string, minutes int) (*facts.Request, error) {
	var log *progress.Log
	if logFile != "" {
		var err error
		if log, err = t.log(cmd, logFile, c.Today.Date); err != nil {
			return nil, err
		}
	}
	return facts.New(t.cat, t.rules, t.tasks, c, log, minutes, c.Today.Date)
}

// sessionCommand is a command about one session, with its flags.
func sessionCommand(use, short string, answer func(cmd *cobra.Command, r *facts.Request) (any, error)) *cobra.Command {
	var logFile, template, place, skill string
	var minutes, fresh int
	slot := false
	cmd := clientCommand(use, short, func(cmd *cobra.Command, t content, c *intake.Client) (any, error) {
		r, err := t.request(cmd, c, logFile, minutes)
		if err != nil {
			return nil, err
		}
		kind, err := t.template(template)
		if err != nil {
			return nil, err
		}
		if place != "" && !slices.Contains(intake.Places, place) {
			return nil, exchange.Problems{
				{Path: "place", Text: fmt.Sprintf("found %q, allowed: %s", place, strings.Join(intake.Places, ", "))},
			}
		}
		if _, ok := t.cat.Family(skill); skill != "" && !ok {
			return nil, exchange.Problems{{Path: "skill", Text: fmt.Sprintf("there is no family %q", skill)}}
		}
		if slot {
			r = r.InSlot(minutes)
		}
		return answer(cmd, r.For(kind).In(place).Learning(skill).Allowing(max(0, fresh)))
	})
	cmd.Flags().StringVar(&logFile, "log", "", "log document")
	cmd.Flags().
		IntVar(&minutes, "minutes", 30, fmt.Sprintf("length of the session, %d to %d", kinds.MinMinutes, kinds.MaxMinutes))
	cmd.Flags().BoolVar(&slot, "slot", false, "the minutes are the whole slot, with arriving, talk and after")
	cmd.Flags().StringVar(&template, "template", "", "kind of session; free when absent")
	cmd.Flags().
		StringVar(&place, "place", "", "where it takes place: "+strings.Join(intake.Places, ", ")+"; as recorded when absent")
	cmd.Flags().StringVar(&skill, "skill", "", "family that a lesson of one skill is about")
	cmd.Flags().IntVar(&fresh, "allow-new", 0, "so many new exercises may come in")
	return cmd
}

// template finds a kind of session; nil for none.
func (t content) template(slug string) (*kinds.Template, error) {
	if slug == "" {
		return nil, nil
	}
	var known []string
	for i := range t.kinds {
		if t.kinds[i].Slug == slug {
			return &t.kinds[i], nil
		}
		known = append(known, t.kinds[i].Slug)
	}
	return nil, exchange.Problems{
		{
			Path: "template",
			Text: fmt.Sprintf("found %q%s, allowed: %s", slug, exchange.Meant(slug, known), strings.Join(known, ", ")),
		},
	}
}

func planCmd() *cobra.Command {
	others := false
	cmd := sessionCommand("plan", "One session", func(_ *cobra.Command, r *facts.Request) (any, error) {
		p, err := propose.Build(r)
		if err == nil && others {
			p.Alternatives = edit.Alternatives(r, p)
		}
		return p, err
	})
	cmd.Flags().
		BoolVar(&others, "alternatives", false, "with proposals of another character: "+strings.Join(edit.Characters, ", "))
	return cmd
}

// modelCmd writes the session as a mixed integer program, for a general solver.
func modelCmd() *cobra.Command {
	return sessionCommand(
		"model",
		"One session as a mixed integer program in the LP format",
		func(_ *cobra.Command, r *facts.Request) (any, error) {
			return lpText{propose.State(r).Model}, nil
		},
	)
}

// lpText is a document that is not JSON.
type lpText struct{ m *solve.Model }

func nextCmd() *cobra.Command {
	var logFile string
	cmd := clientCommand(
		"next",
		"Progress decisions per family",
		func(cmd *cobra.Command, t content, c *intake.Client) (any, error) {
			r, err := t.request(cmd, c, logFile, kinds.MinMinutes)
			if err != nil {
				return nil, err
			}
			return exchange.NewNext(r.Whole, r.Decisions), nil
		},
	)
	cmd.Flags().StringVar(&logFile, "log", "", "log document")
	mustHave(cmd, "log")
	return cmd
}

func assessCmd() *cobra.Command {
	var file string
	cmd := clientCommand(
		"assess",
		"Test results beside their references, with flags",
		func(cmd *cobra.Command, t content, c *intake.Client) (any, error) {
			f, err := open(cmd, file)
			if err != nil {
				return nil, err
			}
			defer f.Close()
			results, err := exchange.ReadResults(f, c.Today.Date)
			if err != nil {
				return nil, err
			}
			return assess.Assess(t.norms, c, results), nil
		},
	)
	cmd.Flags().StringVar(&file, "results", "", "test results document")
	mustHave(cmd, "results")
	return cmd
}

// doseDocument is a dose and its seconds, line by line.
type doseDocument struct {
	Format  string      `json:"format"`
	Version string      `json:"version"`
	School  string      `json:"school"`
	Breaths float64     `json:"breaths_per_minute"`
	Steps   []doseSteps `json:"steps"`
}

type doseSteps struct {
	Dose    dose.Dose   `json:"dose"`
	Lines   []dose.Line `json:"lines"`
	Seconds int         `json:"seconds"`
	Capped  string      `json:"capped,omitempty"`
}

func doseCmd() *cobra.Command {
	var slug, school, logFile string
	cmd := clientCommand(
		"dose",
		"The dose of a version and its seconds, line by line",
		func(cmd *cobra.Command, t content, c *intake.Client) (any, error) {
			v, err := t.version(slug)
			if err != nil {
				return nil, err
			}
			if school == "" {
				school = c.DoseSchool()
			} else if !catalogue.Has(catalogue.Schools, school) {
				return nil, exchange.Problems{{Path: "school",
					Text: fmt.Sprintf("found %q, allowed: %v", school, catalogue.Schools)}}
			}
			r, err := t.request(cmd, c, logFile, kinds.MinMinutes)
			if err != nil {
				return nil, err
			}
			return newDoseDocument(v, school, r), nil
		},
	)
	cmd.Flags().StringVar(&slug, "version", "", "the version")
	cmd.Flags().StringVar(&school, "school", "", "dose school; the client's when absent")
	cmd.Flags().
		StringVar(&logFile, "log", "", "log document: what is new takes longer to set up, what a symptom capped stays capped")
	mustHave(cmd, "version")
	return cmd
}

func newDoseDocument(v *catalogue.Version, school string, r *facts.Request) doseDocument {
	_, used := v.Steps(school)
	doc := doseDocument{Format: "restbend.dose/1", Version: v.Slug, School: used, Breaths: r.Client.BreathRate}
	if doc.Breaths == 0 {
		doc.Breaths = dose.DefaultBreaths
	}
	steps, side := r.Ladder(v, school)
	sides := dose.SidesOf(side)
	for _, p := range steps {
		doc.Steps = append(
			doc.Steps,
			doseSteps{p.Dose, p.Dose.Sum(doc.Breaths, sides), p.Dose.Seconds(doc.Breaths, sides), strings.Join(p.Why, "; ")},
		)
	}
	return doc
}

// drawing is what a figure is asked to show.
type drawing struct {
	side, build, ease, surface string
	phase, to                  int // from 1; 0 is not said
	share                      float64
	felt                       bool
}

// of draws a version, in a phase or on the way to another.
func (d drawing) of(v *catalogue.Version) (string, error) {
	if _, ok := trade.ParseSide(d.side); d.side != "" && !ok {
		return "", exchange.Problems{{Path: "side", Text: fmt.Sprintf("found %q, allowed: left, right", d.side)}}
	}
	if d.ease != "" {
		eased, ok := v.Eased(d.ease)
		if !ok {
			var names []string
			for i := range v.Eases {
				names = append(names, v.Eases[i].Slug)
			}
			text := fmt.Sprintf("found %q, allowed: %s", d.ease, strings.Join(names, ", "))
			return "", exchange.Problems{{Path: "ease", Text: text}}
		}
		v = eased
	}
	place := trade.Surface(d.surface)
	v = v.At(place)
	q := figure.NewDrawer(body.NewBody(body.Female, 0)).Sequence(v, trade.Side(d.side))
	if d.phase == 0 {
		d.phase = q.Effort() + 1
	}
	if d.phase < 1 || d.phase > q.Phases() {
		text := fmt.Sprintf("found %d, allowed: 1 to %d", d.phase, q.Phases())
		return "", exchange.Problems{{Path: "phase", Text: text}}
	}
	if d.to < 0 {
		d.to = v.Next(d.phase-1) + 1
	}
	from := v.Phases[d.phase-1].Name
	opt := figure.Options{Build: d.build, Surface: place, Felt: d.felt, Title: v.Name + ", " + from}
	switch {
	case d.to == 0:
		return q.Phase(d.phase-1, opt), nil
	case d.to > q.Phases():
		text := fmt.Sprintf("found %d, allowed: 1 to %d", d.to, q.Phases())
		return "", exchange.Problems{{Path: "to", Text: text}}
	case !(d.share >= 0 && d.share <= 1):
		return "", exchange.Problems{{Path: "share", Text: fmt.Sprintf("found %g, allowed: 0 to 1", d.share)}}
	}
	opt.Felt, opt.Title = false, fmt.Sprintf("%s, %s to %s", v.Name, from, v.Phases[d.to-1].Name)
	return q.Between(d.phase-1, d.to-1, d.share, opt)
}

func figureCmd() *cobra.Command {
	var slug string
	var d drawing
	cmd := &cobra.Command{
		Use:   "figure",
		Short: "The drawing of a version as SVG",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			t, err := loadContent()
			if err != nil {
				return err
			}
			v, err := t.version(slug)
			if err != nil {
				return err
			}
			switch said := cmd.Flags().Changed; {
			case said("to") && d.to < 1:
				text := fmt.Sprintf("found %d, allowed: 1 to %d", d.to, len(v.Phases))
				return exchange.Problems{{Path: "to", Text: text}}
			case !said("to") && said("share"):
				d.to = -1 // the phase that follows
			}
			svg, err := d.of(v)
			if err != nil {
				return err
			}
			_, err = io.WriteString(cmd.OutOrStdout(), svg)
			return err
		},
	}
	cmd.Flags().StringVar(&slug, "version", "", "the version")
	mustHave(cmd, "version")
	cmd.Flags().IntVar(&d.phase, "phase", 0, "phase from 1; the effort position when absent")
	cmd.Flags().IntVar(&d.to, "to", 0, "on the way from the phase to this one")
	cmd.Flags().
		Float64Var(&d.share, "share", 0, "how far on that way, 0 to 1; to the phase that follows where --to is absent")
	cmd.Flags().StringVar(&d.side, "side", "", "the side that works: left or right")
	cmd.Flags().StringVar(&d.ease, "ease", "", "with one of its eases")
	cmd.Flags().StringVar(&d.surface, "surface", "", "as it is done there; its first surface when absent")
	cmd.Flags().BoolVar(&d.felt, "felt", false, "with marks where it should be felt")
	cmd.Flags().StringVar(&d.build, "build", figure.DefaultBuild, "how the person looks")
	return cmd
}
