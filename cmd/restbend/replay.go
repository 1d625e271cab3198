package main

import (
	"github.com/spf13/cobra"

	"restbend"
	"restbend/core/record"
	"restbend/core/trade"
	"restbend/exchange"
)

// replayCmd folds the marks of a taught session into its log session.
func replayCmd() *cobra.Command {
	var scoreFile, marksFile string
	cmd := &cobra.Command{
		Use:   "replay",
		Short: "The marks of a taught session as its session of the log",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			rules, err := restbend.Rules()
			if err != nil {
				return err
			}
			f, err := open(cmd, scoreFile)
			if err != nil {
				return err
			}
			defer f.Close()
			s, class, err := exchange.ReadScoreOrClass(f)
			if err != nil {
				return err
			}
			g, err := open(cmd, marksFile)
			if err != nil {
				return err
			}
			defer g.Close()
			m, err := exchange.ReadMarks(g, record.Bounds{Items: len(s.Items), Seconds: s.Seconds, Flags: rules.FlagCodes()})
			if err != nil {
				return err
			}
			day := m.Date
			if day.IsZero() && len(m.Marks) > 0 {
				day = trade.DayOf(m.Marks[0].At, m.Marks[0].At.Location())
			}
			if class != nil {
				return exchange.Write(cmd.OutOrStdout(), map[string]any{"sessions": record.ReplayClass(class, day, m.Marks)})
			}
			return exchange.Write(cmd.OutOrStdout(), record.Replay(s, day, m.Marks))
		},
	}
	cmd.Flags().StringVar(&scoreFile, "score", "", "score document, or that of a class, - for standard input")
	cmd.Flags().StringVar(&marksFile, "marks", "", "marks document")
	mustHave(cmd, "score")
	mustHave(cmd, "marks")
	jsonFlag(cmd)
	return cmd
}
