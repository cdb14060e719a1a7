package main

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"runtime"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"amberproof/core/importer"
	"amberproof/demo"
	"amberproof/internal/app"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/live"
	"amberproof/internal/mariadb"
	"amberproof/internal/outbox"
	"amberproof/internal/pipeline"
	"amberproof/internal/scenes"
	"amberproof/internal/server"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

type serveFlags struct {
	data    string
	port    int
	threads int
	live    int
	noDemo  bool
	listen  string
	site    string
	smtp    string
	from    string
	gather  time.Duration
}

func serveCommand() *cobra.Command {
	var f serveFlags
	c := &cobra.Command{
		Use: "serve", Short: "Serve the application on loopback", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serve(cmd.Context(), f) },
	}
	c.Flags().StringVar(&f.data, "data", dataFolder(), "data folder (or AMBERPROOF_DATA)")
	c.Flags().IntVar(&f.port, "port", 8460, "port; 0 for any free one")
	c.Flags().StringVar(&f.listen, "listen", "127.0.0.1", "address to listen at; another than loopback needs --site")
	c.Flags().StringVar(&f.site, "site", "",
		"address at which people reach it from elsewhere, as https://proof.studio.example; needs passwords, see docs/reaching.md")
	c.Flags().StringVar(&f.smtp, "smtp", "",
		"mail server, as smtps://proof@mail.studio.example; its password stands in AMBERPROOF_SMTP_PASSWORD. Without one, mail goes into the outbox page only")
	c.Flags().StringVar(&f.from, "mail-from", "", "address that mail comes from")
	c.Flags().DurationVar(&f.gather, "gather", time.Minute, "for how long news are gathered before they go into one mail")
	c.Flags().IntVar(&f.threads, "threads", runtime.NumCPU(), "threads to render with")
	c.Flags().IntVar(&f.live, "live-pixels", live.DefaultPixels, "pixels of a live picture at most; fewer answer sooner on a slow machine")
	c.Flags().BoolVar(&f.noDemo, "no-demo", false, "do not load the demo into an empty database")
	return c
}

// dataFolder is where data is kept unless it is said.
func dataFolder() string { return cmp.Or(os.Getenv("AMBERPROOF_DATA"), "data") }

func say(s string) { fmt.Fprintln(os.Stderr, s) }

func serve(ctx context.Context, f serveFlags) (err error) {
	log := slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelInfo}))
	if f.threads < 1 || f.threads > 1024 {
		return errors.New("--threads must be between 1 and 1024")
	}
	if f.live < 1000 || f.live > 1<<24 {
		return errors.New("--live-pixels must be between 1000 and 16777216")
	}
	if f.port < 0 || f.port > 65535 {
		return errors.New("--port must be between 0 and 65535")
	}
	site, err := reachable(f.listen, f.site)
	if err != nil {
		return err
	}
	var mailer outbox.Mailer
	if f.smtp != "" {
		if mailer, err = outbox.NewSMTP(f.smtp, os.Getenv("AMBERPROOF_SMTP_PASSWORD"), f.from); err != nil {
			return err
		}
	}
	if f.gather < 0 || f.gather > 24*time.Hour {
		return errors.New("--gather must be between 0 and 24h")
	}
	listen, err := net.Listen("tcp", net.JoinHostPort(f.listen, strconv.Itoa(f.port)))
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("port %d is taken by another program; choose another with --port", f.port)
	}
	if err != nil {
		return fmt.Errorf("port %d cannot be opened: %w", f.port, err)
	}
	defer listen.Close()
	st, db, leave, err := openFolder(ctx, f.data)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, leave()) }()
	if err := st.SweepSessions(ctx); err != nil {
		return err
	}
	files, err := store.OpenFiles(f.data)
	if err != nil {
		return err
	}
	limitMemory()
	o := app.Options{Store: st, Files: files, Version: version, Threads: f.threads, LivePixels: f.live, Log: log,
		Site: "http://" + listen.Addr().String(), Beyond: site != nil, Mail: mailer, Gather: f.gather}
	if site != nil {
		o.Site = strings.TrimSuffix(site.String(), "/")
	}
	a := app.New(o)
	if err := a.Review.Sweep(ctx); err != nil {
		return err
	}
	var project int64 // of the demo
	if f.noDemo {
		// Scenes belong to a project; an empty database gets its first.
		if _, err := st.EnsureProject(ctx, 1, "First campaign"); err != nil {
			return err
		}
	} else if project, err = loadDemo(ctx, a); err != nil {
		return fmt.Errorf("loading the demo: %w", err)
	}
	sv, err := server.New(a, log)
	if err != nil {
		return err
	}
	if site != nil {
		if closed, err := a.Accounts.Closed(ctx); err != nil || !closed {
			return errors.Join(err, errors.New("nobody has a password yet, so that anybody could do anything: "+
				"start without --site, set a password on this machine, then start again"))
		}
		if err := sv.At(site); err != nil {
			return err
		}
	}
	return runAll(ctx, a, project, db, sv, listen, log)
}

// reachable checks where the server is to be reached: at another address than loopback under
// its site's name only, and there over TLS only. It returns the site, or nil.
func reachable(listen, site string) (*url.URL, error) {
	ip := net.ParseIP(listen)
	if ip == nil {
		return nil, fmt.Errorf("--listen is an address, as 127.0.0.1 or 0.0.0.0, and not %q", listen)
	}
	if site == "" {
		if !ip.IsLoopback() {
			return nil, errors.New("who listens beyond this machine says under which name people reach it: add --site, as https://proof.studio.example")
		}
		return nil, nil
	}
	u, err := url.Parse(site)
	if err != nil || u.Scheme != "https" || u.Host == "" || strings.Trim(u.Path, "/") != "" || u.RawQuery != "" || u.User != nil {
		return nil, fmt.Errorf("--site is https:// and a name, without a path, and not %q: passwords do not go over open lines", site)
	}
	return u, nil
}

// limitMemory has the collector work harder as what is free comes to its end, rather than
// past it.
func limitMemory() {
	if free := pipeline.Available(); free > 0 {
		debug.SetMemoryLimit(free)
	}
}

// runAll serves and renders until ctx ends, and waits for both. A database that
// ends by itself is started again meanwhile.
func runAll(ctx context.Context, a *app.App, demoProject int64, db *mariadb.Server, sv *server.Server, listen net.Listener, log *slog.Logger) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	h := &http.Server{
		Handler: sv.Handler(), BaseContext: func(net.Listener) context.Context { return ctx },
		ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10, // for bodies see the server's patience
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelDebug),
	}
	var wg sync.WaitGroup
	fail := make(chan error, 3)
	wg.Go(func() { fail <- a.Runs.Work(ctx) })
	wg.Go(func() { a.Scenes.Draw(ctx) })
	wg.Go(func() { a.Notify.Work(ctx) })
	wg.Go(func() { a.Outbox.Work(ctx) })
	wg.Go(func() {
		if err := tellStory(ctx, a, demoProject); err != nil && ctx.Err() == nil {
			log.Warn("the demo's rounds could not be filled", "error", err)
		}
	})
	wg.Go(func() { fail <- h.Serve(listen) })
	wg.Go(func() { fail <- db.Keep(ctx, say) })
	fmt.Printf("Amber Proof is ready: http://%s\n", listen.Addr())
	fmt.Println("Ctrl+C ends it.")
	var err error
	select {
	case <-ctx.Done():
		say("ending; a run that is going will go on at the next start")
	case err = <-fail:
	}
	cancel()
	stop, done := context.WithTimeout(context.Background(), 5*time.Second)
	defer done()
	if e := h.Shutdown(stop); e != nil {
		log.Warn("open connections were cut", "error", e)
		_ = h.Close() // what Shutdown could not wait for
	}
	wg.Wait()
	if errors.Is(err, http.ErrServerClosed) {
		err = nil
	}
	return err
}

// joinDemo takes the people of the demo into its project; the first person becomes its lead.
func joinDemo(ctx context.Context, a *app.App, project int64) error {
	me := identity.Local
	for i, p := range demo.People {
		if i == 0 {
			if err := a.Accounts.Rename(ctx, me, p.Name); err != nil {
				return err
			}
		}
		in, err := a.Projects.Join(ctx, me, project, p.Name, identity.Role(p.Role))
		if err == nil {
			err = a.Accounts.SetMailOf(ctx, me, project, in.ID, p.Mail)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// keepDemo puts into the library what the demo has there.
func keepDemo(ctx context.Context, a *app.App, scene int64) error {
	me := identity.Local
	if have, err := a.Library.List(ctx, me, "stage", 0); err != nil || len(have) > 0 || scene == 0 {
		return err // kept already, at a first start that was cut off
	}
	g, err := a.Scenes.Stage(ctx, me, scene, scenes.StageNew, nil, nil)
	if err != nil {
		return err
	}
	for _, k := range demo.Library(g.Stage) {
		body, err := json.Marshal(k.Body)
		if err != nil {
			return err
		}
		if _, err := a.Library.Keep(ctx, me, k.Kind, k.Name, 0, body); err != nil {
			return err
		}
	}
	return nil
}

// loadDemo puts the demo into an empty database: people, scenes, surround, ready jobs, rounds,
// and a small proof of each job to be rendered when nothing else is to be done. It returns the
// demo's project.
func loadDemo(ctx context.Context, a *app.App) (project int64, err error) {
	me := identity.Local
	p, err := a.Projects.Ensure(ctx, me, demo.Project)
	if err != nil {
		return 0, err
	}
	have := map[string]int64{} // scenes of the demo by file
	some := false
	for _, away := range []bool{false, true} {
		list, err := a.Scenes.List(ctx, me, p.ID, away)
		if err != nil {
			return p.ID, err
		}
		for _, v := range list {
			have[v.File], some = v.ID, true
		}
	}
	if !some {
		say("making the demo scenes")
		if err := joinDemo(ctx, a, p.ID); err != nil {
			return p.ID, err
		}
		if _, err := a.Scenes.ImportSurround(ctx, me, 0, demo.SurroundFile, demo.Surround()); err != nil {
			return p.ID, err
		}
		for _, d := range demo.Sets() {
			glb, err := d.Scene()
			if err != nil {
				return p.ID, err
			}
			row, err := a.Scenes.ImportBundle(ctx, me, p.ID, importer.Bundle{d.File: glb})
			if err != nil {
				return p.ID, err
			}
			have[d.File] = row.ID
		}
	}
	for _, away := range []bool{false, true} {
		page, err := a.Jobs.List(ctx, me, jobs.Wanted{PutAway: away})
		if err != nil || len(page.Jobs) > 0 {
			return p.ID, err
		}
	}
	if err := keepDemo(ctx, a, have[demo.SceneFile]); err != nil {
		return p.ID, err
	}
	if err := makeRounds(ctx, a, p.ID); err != nil {
		return p.ID, err
	}
	// The scenes may be there from a first start that was cut off before their jobs.
	sets := demo.Sets()
	slices.Reverse(sets) // the newest stands first
	for _, d := range sets {
		id, ok := have[d.File]
		if !ok {
			continue
		}
		_, s, err := a.Scenes.Open(ctx, me, id)
		if err != nil {
			return p.ID, err
		}
		ready := d.Tickets(ticket.ViewsOf(s))
		for i := len(ready) - 1; i >= 0; i-- {
			if _, err := a.Jobs.Create(ctx, me, id, ready[i].Name, &ready[i].Ticket); err != nil {
				return p.ID, err
			}
		}
	}
	page, err := a.Jobs.List(ctx, me, jobs.Wanted{})
	if err != nil {
		return p.ID, err
	}
	return p.ID, glance(ctx, a, page.Jobs)
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use: "openapi", Short: "Print the description of the HTTP interface", Args: cobra.NoArgs, Hidden: true,
		RunE: func(cmd *cobra.Command, _ []string) error {
			sv, err := server.New(app.New(app.Options{Version: version, Threads: 1, Log: slog.Default()}), slog.Default())
			if err != nil {
				return err
			}
			b, err := sv.OpenAPI()
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(append(b, '\n'))
			return err
		},
	}
}
