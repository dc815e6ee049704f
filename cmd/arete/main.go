// Command arete is the application and its command line: from a STEP file to
// proven machine code, in the browser or without a screen.
package main

import (
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	"arete/shop"
)

// exit carries the exit status: 1 done but something is left or wrong, 2 the
// input cannot be used.
type exit struct {
	code int
	err  error
}

func (e exit) Error() string {
	if e.err == nil {
		return ""
	}
	return e.err.Error()
}

func (e exit) Unwrap() error { return e.err }

func unusable(err error) error { return exit{2, err} }

func main() {
	ctx, stop := signal.NotifyContext(osContext, os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "arete",
		Short:         "From a part's model to proven machine code",
		Version:       shop.Version,
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.CompletionOptions.HiddenDefaultCmd = true
	root.AddCommand(planCommand(), featuresCommand(), inspectCommand(), simulateCommand(), exportCommand(), benchCommand(), demoCommand(), serveCommand())
	err := root.ExecuteContext(ctx)
	if err == nil {
		return
	}
	if msg := err.Error(); msg != "" {
		fmt.Fprintln(os.Stderr, "arete: "+msg)
	}
	var e exit
	if errors.As(err, &e) {
		os.Exit(e.code)
	}
	os.Exit(2)
}
