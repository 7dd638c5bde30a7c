// Command proscen is the whole program: the web server, the render worker, and
// a command line for scene files that needs no database.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

// inputError marks what the user gave as wrong: exit code 2 instead of 1.
type inputError struct{ err error }

func (e inputError) Error() string { return e.err.Error() }
func (e inputError) Unwrap() error { return e.err }

func badInput(format string, args ...any) error { return inputError{fmt.Errorf(format, args...)} }

func main() {
	ends := []os.Signal{os.Interrupt, syscall.SIGTERM}
	if !signal.Ignored(syscall.SIGHUP) { // nohup lets it be
		ends = append(ends, syscall.SIGHUP)
	}
	ctx, stop := signal.NotifyContext(context.Background(), ends...)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

func run(ctx context.Context, args []string) int {
	root := commands()
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	fmt.Fprintln(os.Stderr, "proscen:", err)
	if errors.As(err, &inputError{}) {
		return 2
	}
	return 1
}

// commands is the command line with all its commands.
func commands() *cobra.Command {
	root := &cobra.Command{
		Use:           "proscen",
		Short:         "Block out shot cameras, cut between them, and render every shot to video",
		SilenceErrors: true, SilenceUsage: true,
		Args: cobra.ArbitraryArgs,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				return badInput("there is no command %q; ‘proscen --help’ lists them", args[0])
			}
			return cmd.Help()
		},
	}
	root.SetFlagErrorFunc(flagError)
	root.AddCommand(serveCommand(), workCommand(), migrateCommand(), demoCommand(), inspectCommand(), renderCommand(), stillCommand(), exportCommand(), conformCommand(), importCommand(), packCommand(), unpackCommand(), benchCommand())
	exemplify(root)
	return root
}

// exactly is cobra.ExactArgs with our own sentence.
func exactly(n int, what string) cobra.PositionalArgs {
	return func(_ *cobra.Command, args []string) error {
		if len(args) != n {
			return badInput("%s", what)
		}
		return nil
	}
}
