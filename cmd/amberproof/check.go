package main

import (
	"context"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"amberproof/core/preflight"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

// foundError carries findings that were printed already; its exit code tells how sure the
// surest of them is.
type foundError struct{ code int }

func (e foundError) Error() string { return "something was found" }

// Exit codes of findings; 2 is of a ticket with faults.
var codeOf = map[preflight.Sure]int{preflight.Perhaps: 3, preflight.Likely: 4, preflight.Certain: 5}

// checkCommand looks at a picture before it is rendered, as the server does beside a ticket.
func checkCommand() *cobra.Command {
	var o renderOrder
	c := &cobra.Command{
		Use: "check --scene FILE --ticket TICKET.json", Short: "Check a scene as a ticket would render it, and the light that its clay would block",
		Long: "Prints a line for each finding. The exit code is 0 where nothing was found, 3 where all that was found may be intended,\n" +
			"4 where something is likely a fault or clay would block light, 5 where something is certainly as it says, 2 for a ticket with faults.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return o.check(cmd.Context(), cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	f := c.Flags()
	f.StringVar(&o.scene, "scene", "", "scene file: .glb, .gltf, .obj, .stl, .ply or a .zip of one")
	f.StringVar(&o.ticket, "ticket", "", "ticket or resolved ticket (JSON)")
	f.StringVar(&o.setup, "setup", "", "set-up to lay over the scene (JSON); a resolved ticket has its own")
	for _, n := range []string{"scene", "ticket"} {
		_ = c.MarkFlagRequired(n) // the flags exist
	}
	return c
}

// check prints what is found to out.
func (o *renderOrder) check(ctx context.Context, out, log io.Writer) error {
	in, err := o.open(ctx, log)
	if err != nil {
		return err
	}
	size := in.resolved.Ticket.Size()
	view := ticket.View{Name: in.resolved.Ticket.View.Name, Camera: in.resolved.Camera}
	c := pipeline.Check{
		Scene: in.scene, Setup: in.setup, Ticket: in.resolved.Ticket, Views: []ticket.View{view}, Surround: in.surround,
		Aspect: float32(size.X) / float32(size.Y), Lines: size.Y,
	}
	c.Ticket.Surface.Variant = "" // the scene wears it already
	shapes, err := c.Shapes(ctx, nil)
	if err != nil {
		return err
	}
	light, err := c.Light(ctx)
	if err != nil {
		return err
	}
	code := 0
	for _, f := range c.Sorted(shapes, light) {
		fmt.Fprintf(out, "%s: %s: %s\n", f.Sure, f.Check, f.Says)
		code = max(code, codeOf[f.Sure])
	}
	if c.Ticket.InClay() {
		blocked, all, err := c.Blocked(ctx)
		if err != nil {
			return err
		}
		for i := range blocked {
			fmt.Fprintf(out, "%s: blocked light: %s\n", preflight.Likely, blocked[i].Says(in.scene.Parts[blocked[i].Part].Name))
		}
		if len(blocked) > 0 {
			fmt.Fprintf(out, "this clay would block %s of the light\n", all)
			code = max(code, codeOf[preflight.Likely])
		}
	}
	if code > 0 {
		return foundError{code}
	}
	fmt.Fprintln(out, "nothing found")
	return nil
}
