// Command amberproof renders product scenes from tickets, in a browser or
// without one.
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

// version is stated in manifests and file headers.
const version = "Amber Proof 0.1"

// faultsError carries faults that were printed already; the exit code is 2.
type faultsError struct{ n int }

func (e faultsError) Error() string { return fmt.Sprintf("%d faults", e.n) }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use: "amberproof", Short: "Configures, renders and proofs product scenes", Version: version,
		SilenceUsage: true, SilenceErrors: true,
	}
	root.AddCommand(serveCommand(), renderCommand(), checkCommand(), ticketCommand(), demoCommand(), inviteCommand(), openapiCommand())
	err := root.ExecuteContext(ctx)
	var faults faultsError
	var found foundError
	switch {
	case err == nil:
	case errors.As(err, &faults):
		os.Exit(2)
	case errors.As(err, &found):
		os.Exit(found.code)
	case errors.Is(err, context.Canceled):
		fmt.Fprintln(os.Stderr, "stopped")
		os.Exit(130)
	default:
		fmt.Fprintln(os.Stderr, "amberproof:", err)
		os.Exit(1)
	}
}
