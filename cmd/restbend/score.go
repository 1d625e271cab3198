package main

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"restbend"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/score"
	"restbend/exchange"
)

// scoreCmd lays a plan out second by second.
func scoreCmd() *cobra.Command {
	var logFile, planFile, mode, words string
	cmd := clientCommand(
		"score",
		"The timed score of a plan: every second of the session",
		func(cmd *cobra.Command, t content, c *intake.Client) (any, error) {
			r, err := t.request(cmd, c, logFile, kinds.MinMinutes)
			if err != nil {
				return nil, err
			}
			if !slices.Contains([]string{score.Led, score.Flowing}, mode) {
				return nil, exchange.Problems{
					{Path: "mode", Text: fmt.Sprintf("found %q, allowed: %s, %s", mode, score.Led, score.Flowing)},
				}
			}
			if words != "" && !slices.Contains(score.Levels, words) {
				return nil, exchange.Problems{
					{Path: "words", Text: fmt.Sprintf("found %q, allowed: %s", words, strings.Join(score.Levels, ", "))},
				}
			}
			p, err := readPlan(cmd, planFile)
			if err != nil {
				return nil, err
			}
			ways, err := restbend.Ways()
			if err != nil {
				return nil, err
			}
			s, err := score.Build(p, score.Facts{Catalogue: t.cat, Client: r.Client, Log: r.Log, Ways: ways, Mode: mode,
				Mover: r.Mover()})
			if err != nil {
				path, text, _ := strings.Cut(err.Error(), ": ")
				return nil, exchange.Problems{{Path: path, Text: text}}
			}
			if words != "" {
				return scoreText(s.Text(words, true)), nil
			}
			return s, nil
		},
	)
	cmd.Flags().StringVar(&logFile, "log", "", "log document")
	cmd.Flags().StringVar(&planFile, "plan", "", "plan document")
	cmd.Flags().StringVar(&mode, "mode", score.Led, "led: waits for the client; flowing: runs through")
	cmd.Flags().StringVar(&words, "words", "", "as text, with what is said: "+strings.Join(score.Levels, ", "))
	mustHave(cmd, "plan")
	return cmd
}

// scoreText is a score in words.
type scoreText string

// readPlan reads a plan document.
func readPlan(cmd *cobra.Command, file string) (*plan.Plan, error) {
	f, err := open(cmd, file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, exchange.MaxDocument))
	if err != nil {
		return nil, err
	}
	var p plan.Plan
	if err := json.Unmarshal(data, &p); err != nil {
		return nil, exchange.Problems{{Path: "plan", Text: err.Error()}}
	}
	if p.Format != "restbend.plan/1" {
		return nil, exchange.Problems{{Path: "format", Text: fmt.Sprintf("found %q, allowed: restbend.plan/1", p.Format)}}
	}
	return &p, nil
}
