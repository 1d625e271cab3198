package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"restbend"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/exchange"
	"restbend/verify"
)

// verdict is a restbend.verify/1 document: what a plan was found to break.
type verdict struct {
	Format     string             `json:"format"`
	Violations []verify.Violation `json:"violations"`
	Wishes     []string           `json:"wishes"` // not fulfilled: too short, a direction missing
	Score      float64            `json:"score"`  // as worked out here
	Said       float64            `json:"said"`   // as the plan says
	OK         bool               `json:"ok"`
}

// verifyCmd judges a plan document again, by code that shares nothing with the planner.
func verifyCmd() *cobra.Command {
	var logFile, planFile string
	broken := 0
	cmd := clientCommand("verify", "Judge a plan document again, apart from the planner",
		func(cmd *cobra.Command, t content, c *intake.Client) (any, error) {
			r, err := t.request(cmd, c, logFile, kinds.MinMinutes)
			if err != nil {
				return nil, err
			}
			f, err := open(cmd, planFile)
			if err != nil {
				return nil, err
			}
			defer f.Close()
			d := verify.Documents{}
			if d.Plan, err = io.ReadAll(io.LimitReader(f, exchange.MaxDocument)); err != nil {
				return nil, err
			}
			var made struct {
				Format   string  `json:"format"`
				Template string  `json:"template"`
				Score    float64 `json:"score"`
			}
			if err := json.Unmarshal(d.Plan, &made); err != nil || made.Format != "restbend.plan/1" {
				return nil, exchange.Problems{{Path: "format", Text: fmt.Sprintf("found %q, allowed: restbend.plan/1", made.Format)}}
			}
			kind, err := t.template(made.Template)
			if err != nil {
				return nil, err
			}
			if d.Tasks, err = restbend.TasksFile(); err != nil {
				return nil, err
			}
			if d.Preferences, err = restbend.PreferencesFile(); err != nil {
				return nil, err
			}
			put := func(into *[]byte, doc any) {
				var buf bytes.Buffer
				err = errors.Join(err, exchange.Write(&buf, doc))
				*into = buf.Bytes()
			}
			put(&d.Client, r.Client)
			put(&d.Catalogue, exchange.NewCatalogue(t.cat))
			put(&d.Screen, exchange.NewScreen(r.Screener, r.Screening, t.cat))
			put(&d.Next, exchange.NewNext(r.Whole, r.Decisions))
			if r.Log != nil {
				put(&d.Log, r.Log)
			}
			if kind != nil {
				put(&d.Template, kind)
			}
			if err != nil {
				return nil, err
			}
			report, err := verify.Session(d)
			if err != nil {
				return nil, err
			}
			broken = len(report.Violations)
			return verdict{"restbend.verify/1", append([]verify.Violation{}, report.Violations...),
				append([]string{}, report.Wishes...), report.Score, made.Score, broken == 0}, nil
		})
	cmd.Flags().StringVar(&logFile, "log", "", "log document")
	cmd.Flags().StringVar(&planFile, "plan", "", "plan document")
	mustHave(cmd, "plan")
	answer := cmd.RunE
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := answer(cmd, args); err != nil {
			return err
		}
		if broken > 0 {
			return fmt.Errorf("the plan breaks %d rules", broken)
		}
		return nil
	}
	return cmd
}
