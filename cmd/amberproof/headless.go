package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/demo"
	"amberproof/internal/deliver"
	"amberproof/internal/farm"
	"amberproof/internal/fault"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

// printFaults prints what is wrong with a ticket, each fault with the setting it is of,
// and returns the error that stands for them all.
func printFaults(w io.Writer, faults []fault.Fault) error {
	for _, f := range faults {
		if f.Path == "" {
			fmt.Fprintln(w, "ticket:", f.Message)
		} else {
			fmt.Fprintln(w, f)
		}
	}
	return faultsError{len(faults)}
}

// renderCommand is the way to render where there is no browser and no database, as on a
// node of a farm: the same pipeline, and so the same pixels, as a run of the server.
func renderCommand() *cobra.Command {
	var o renderOrder
	c := &cobra.Command{
		Use: "render --scene FILE --ticket TICKET.json --out DIR", Short: "Render a ticket without a browser",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return renderTicket(cmd.Context(), os.Stderr, o)
		},
	}
	f := c.Flags()
	f.StringVar(&o.scene, "scene", "", "scene file: .glb, .gltf, .obj, .stl, .ply or a .zip of one")
	f.StringVar(&o.ticket, "ticket", "", "ticket or resolved ticket (JSON)")
	f.StringVar(&o.setup, "setup", "", "set-up to lay over the scene (JSON); a resolved ticket has its own")
	f.StringVar(&o.out, "out", "", "folder to make for the files")
	f.StringVar(&o.project, "project", "project", "project name for file names")
	f.IntVar(&o.run, "run", 1, "run number for file names")
	f.IntVar(&o.threads, "threads", runtime.NumCPU(), "threads to render with")
	for _, n := range []string{"scene", "ticket", "out"} {
		_ = c.MarkFlagRequired(n) // the flags exist
	}
	return c
}

// renderOrder is what the command is asked for.
type renderOrder struct {
	scene, ticket, setup, out, project string
	run, threads                       int
}

// readTicket takes a ticket, or the resolved ticket of a manifest.
func readTicket(path string) (t ticket.Ticket, want *ticket.Resolved, faults []fault.Fault, err error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return t, nil, nil, err
	}
	var r struct {
		Ticket json.RawMessage
		Scene  ticket.SceneRef
		Setup  *setup.Setup
		Camera *ticket.Camera
	}
	// A resolved ticket holds its camera; a ticket only names a view.
	if json.Unmarshal(data, &r) == nil && len(r.Ticket) > 0 && r.Camera != nil {
		t, faults = ticket.Decode(r.Ticket)
		return t, &ticket.Resolved{Scene: r.Scene, Setup: r.Setup, Camera: *r.Camera, Ticket: t}, faults, nil
	}
	t, faults = ticket.Decode(data)
	return t, nil, faults, nil
}

// opened is a ticket with its scene, read from files and resolved.
type opened struct {
	resolved ticket.Resolved
	scene    *scene.Scene // with the set-up
	setup    setup.Setup
	ref      ticket.SceneRef
	surround *imageio.HDR
}

// open reads and resolves; what is wrong with the ticket is printed.
func (o *renderOrder) open(ctx context.Context, log io.Writer) (*opened, error) {
	t, want, faults, err := readTicket(o.ticket)
	if err != nil {
		return nil, err
	}
	if len(faults) > 0 {
		return nil, printFaults(log, faults)
	}
	s, ref, err := openScene(ctx, o.scene)
	if err != nil {
		return nil, err
	}
	for _, n := range s.LeftOut {
		fmt.Fprintf(log, "left out: %s: %s\n", n.Where, n.What)
	}
	surround, err := openSurround(&t, filepath.Dir(o.ticket), filepath.Dir(o.scene))
	if err != nil {
		return nil, err
	}
	u, err := readSetup(o.setup, want)
	if err != nil {
		return nil, err
	}
	s.Pictures = picturesIn(filepath.Dir(o.ticket), filepath.Dir(o.scene))
	views := ticket.ViewsOf(s)
	for i := range views {
		views[i].Camera = views[i].Camera.Corrected(u.File)
	}
	variant := t.Surface.Variant
	if want != nil {
		// A resolved ticket was made of one very scene: with another it would name a picture
		// that it is not.
		if want.Scene.SHA256 != ref.SHA256 {
			return nil, fmt.Errorf("the resolved ticket belongs to another scene (checksum %.12s, not %.12s)", want.Scene.SHA256, ref.SHA256)
		}
		views = []ticket.View{{Name: t.View.Name, Camera: want.Camera}}
		ref = want.Scene
		t.Surface.Variant = "" // its set-up is in that variant already
	}
	subject, err := ticket.Of(ctx, ref, s, u)
	if err != nil {
		return nil, err
	}
	if subject, err = subject.As(ctx, t.Surface.Variant); err != nil {
		return nil, err
	}
	for _, l := range subject.Lost {
		fmt.Fprintf(log, "note: set-up of %s: %s\n", l.Part, l.Why)
	}
	s = subject.Scene
	r, faults := ticket.Resolve(t, subject, views)
	if len(faults) > 0 {
		return nil, printFaults(log, faults)
	}
	r.Ticket.Surface.Variant = variant
	return &opened{r, s, u, ref, surround}, nil
}

// renderTicket goes from files to files. What can be refused is refused before the first
// ray: a night of rendering must not end at a name.
func renderTicket(ctx context.Context, log io.Writer, o renderOrder) error {
	if o.threads < 1 || o.threads > 1024 {
		return fmt.Errorf("--threads must be between 1 and 1024")
	}
	if _, err := os.Stat(o.out); err == nil {
		return fmt.Errorf("%s is there already; deliveries are never overwritten, name a new folder", o.out)
	}
	started := time.Now()
	in, err := o.open(ctx, log)
	if err != nil {
		return err
	}
	r, s := in.resolved, in.scene
	for _, f := range r.Ticket.Idle(s) {
		fmt.Fprintln(log, "note:", f)
	}
	sh, err := pipeline.Prepare(ctx, pipeline.Order{Resolved: &r, Scene: s, Surround: in.surround, Key: r.FilmKey(), Workers: o.threads})
	if err != nil {
		return err
	}
	words := ticket.Words{Project: o.project, Scene: strings.TrimSuffix(in.ref.Name, filepath.Ext(in.ref.Name)),
		View: r.Ticket.View.Name, Run: o.run, Date: started.Format("2006-01-02")}
	if _, faults := ticket.Files(&r.Ticket, words, sh.Passes); len(faults) > 0 {
		return printFaults(log, faults)
	}
	told := newProgress(log)
	err = sh.Render(ctx, farm.Local(o.threads, nil), func() error {
		told.tell(sh.Progress())
		return nil
	})
	told.end()
	if err != nil {
		return err
	}
	g := sh.Progress()
	m := &deliver.Manifest{
		Software: version, Renderer: trace.Revision, Fingerprint: r.Fingerprint(), Film: sh.Key, Started: started.UTC(),
		Finished: time.Now().UTC(), Complete: true, Resolved: r,
	}
	still := deliver.Frame{Sums: sh.Film.State(), Complete: true, Seconds: time.Since(started).Seconds(), Samples: g.Mean, Saved: sh.World.Saved(ctx)}
	films, err := sh.Films(ctx, nil)
	if err != nil {
		return err
	}
	if err := deliver.Write(ctx, o.out, deliver.Still(still, films, sh.Passes), words, m); err != nil {
		return err
	}
	fmt.Fprintf(log, "done: %d files in %s, %.1f samples, %s%s\n", len(m.Files), o.out, g.Mean, noiseIn(g.Noise), time.Since(started).Round(100*time.Millisecond))
	return nil
}

// noiseIn tells a noise with what parts it from what follows; nothing while it
// cannot be told.
func noiseIn(percent float64) string {
	if math.IsInf(percent, 0) {
		return ""
	}
	return fmt.Sprintf("noise %.2f %% · ", percent)
}

// ticketCommand is for scripts that write tickets: a whole one to begin from, and a check
// of what they have made.
func ticketCommand() *cobra.Command {
	var fresh bool
	var check, sceneFile string
	c := &cobra.Command{
		Use: "ticket", Short: "Print a complete ticket with defaults, or check one", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			switch {
			case check != "":
				return checkTicket(cmd.Context(), cmd.OutOrStdout(), check, sceneFile)
			case fresh:
				return newTicket(cmd.Context(), cmd.OutOrStdout(), sceneFile)
			}
			return fmt.Errorf("say --new for a new ticket, or --check FILE")
		},
	}
	c.Flags().BoolVar(&fresh, "new", false, "print a new ticket")
	c.Flags().StringVar(&check, "check", "", "check a ticket file")
	c.Flags().StringVar(&sceneFile, "scene", "", "for --new: list this scene's view and lights; for --check: hold the ticket against it")
	return c
}

// checkTicket lists what is wrong with a ticket: by itself and, with a scene, all
// that it names and the scene has not.
func checkTicket(ctx context.Context, out io.Writer, file, sceneFile string) error {
	t, _, faults, err := readTicket(file)
	if err != nil {
		return err
	}
	if len(faults) == 0 && sceneFile != "" {
		s, ref, err := openScene(ctx, sceneFile)
		if err != nil {
			return err
		}
		_, faults = ticket.Resolve(t, ticket.Subject{Ref: ref, Scene: s}, ticket.ViewsOf(s))
		faults = append(faults, t.Idle(s)...)
	}
	if len(faults) > 0 {
		return printFaults(os.Stderr, faults)
	}
	fmt.Fprintln(out, "the ticket is in order")
	return nil
}

// newTicket prints a ticket with all defaults; with a scene it names its first view and
// each of its lights, so that these can be changed in place.
func newTicket(ctx context.Context, out io.Writer, sceneFile string) error {
	t := ticket.New()
	if sceneFile != "" {
		s, _, err := openScene(ctx, sceneFile)
		if err != nil {
			return err
		}
		t.View.Name = ticket.ViewsOf(s)[0].Name
		for _, l := range trace.LampsOf(s) {
			t.Stage.Lights = append(t.Stage.Lights, ticket.LightAsFound(l.Name))
		}
	}
	_, err := out.Write(ticket.Encode(t))
	return err
}

// demoCommand writes the demo as files, for a try without a browser. Files that are there
// and differ are somebody's own work and stay.
func demoCommand() *cobra.Command {
	var out string
	c := &cobra.Command{
		Use: "demo --out DIR", Short: "Write the demo scenes and ready tickets for them", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if err := os.MkdirAll(out, 0o755); err != nil {
				return err
			}
			files := map[string][]byte{demo.SurroundFile: demo.Surround()}
			for _, d := range demo.Sets() {
				glb, err := d.Scene()
				if err != nil {
					return err
				}
				s, err := importer.Import(cmd.Context(), importer.Bundle{d.File: glb}, importer.DefaultLimits)
				if err != nil {
					return err
				}
				files[d.File] = glb
				for _, t := range d.Tickets(ticket.ViewsOf(s)) {
					files[t.File] = ticket.Encode(t.Ticket)
				}
			}
			for n, data := range files {
				p := filepath.Join(out, n)
				if have, err := os.ReadFile(p); err == nil && !bytes.Equal(have, data) {
					return fmt.Errorf("%s is there already and differs; name another folder", p)
				}
				if err := os.WriteFile(p, data, 0o644); err != nil {
					return err
				}
				fmt.Fprintln(cmd.OutOrStdout(), p)
			}
			return nil
		},
	}
	c.Flags().StringVar(&out, "out", "", "folder for the files")
	_ = c.MarkFlagRequired("out") // the flag exists
	return c
}
