// Command restbend serves the application and answers from the command line: verdicts,
// sessions, progress, doses, figures and the catalogue.
//
// Exit status: 0 done, 2 the input is wrong (one line per problem on standard error), 1
// anything else.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/exchange"
)

func main() {
	err := execute(root())
	if err == nil {
		return
	}
	fmt.Fprintln(os.Stderr, strings.TrimRight(err.Error(), "\n"))
	os.Exit(exitCode(err))
}

// usage is an error of the command line itself.
type usage struct{ error }

// execute runs the command line. What goes wrong before a command has begun is wrong usage.
func execute(cmd *cobra.Command) error {
	begun := false
	for _, c := range cmd.Commands() {
		if run := c.RunE; run != nil {
			c.RunE = func(c *cobra.Command, args []string) error {
				begun = true
				return run(c, args)
			}
		}
	}
	err := cmd.ExecuteContext(context.Background())
	if err != nil && !begun {
		return usage{err}
	}
	return err
}

func exitCode(err error) int {
	var u usage
	var p exchange.Problems
	var c *catalogue.Error
	var r *facts.Refused
	if errors.As(err, &u) || errors.As(err, &p) || errors.As(err, &c) || errors.As(err, &r) {
		return 2
	}
	return 1
}

func root() *cobra.Command {
	cmd := &cobra.Command{
		Use:                "restbend",
		Short:              "Gentle spinal mobility and core sessions: who may do what, in which version, order and dose",
		SilenceUsage:       true,
		SilenceErrors:      true,
		DisableSuggestions: true, // one line per problem
	}
	cmd.AddCommand(
		catalogueCmd(),
		screenCmd(),
		planCmd(),
		modelCmd(),
		verifyCmd(),
		scoreCmd(),
		replayCmd(),
		nextCmd(),
		assessCmd(),
		doseCmd(),
		figureCmd(),
		serveCmd(),
		demoCmd(),
		passwordCmd(),
		exportCmd(),
		importCmd(),
		backupCmd(),
		restoreCmd(),
		doctorCmd(),
	)
	return cmd
}
