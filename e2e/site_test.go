// Package e2e drives the real program: its binary, its database, and its pages
// in a browser.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"

	_ "amberproof/internal/server" // the binary is built of it: when it changes, these tests run anew
	"amberproof/internal/testkit"
	"amberproof/internal/wait"
)

var (
	binary string
	folder string // of this test run
)

func TestMain(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	dir, err := testkit.Folder()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	binary = filepath.Join(dir, "amberproof")
	// What the binary is built of besides packages that are imported here is read, so that Go
	// does not answer from its cache when it has changed. The pages name their parts by content.
	for _, of := range []string{"../web/dist/*.html", "../cmd/amberproof/*.go"} {
		files, err := filepath.Glob(of)
		for i := 0; err == nil && i < len(files); i++ {
			_, err = os.ReadFile(files[i])
		}
		if err != nil || len(files) == 0 {
			fmt.Fprintln(os.Stderr, "e2e: nothing is built of", of, err)
			return 1
		}
	}
	if out, err := exec.Command("go", "build", "-o", binary, "../cmd/amberproof").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "%v\n%s", err, out)
		return 1
	}
	folder = dir
	// A test mostly waits, for its browser, its server or its database: more of them than
	// processors keep these busy.
	if err := flag.Set("test.parallel", strconv.Itoa(2*runtime.NumCPU())); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return m.Run()
}

// launch starts a browser of the test's own: pages of one browser take the screen from
// each other, and tests run side by side.
func launch(t *testing.T) *rod.Browser {
	t.Helper()
	profile, err := os.MkdirTemp(folder, "profile")
	if err != nil {
		t.Fatal(err)
	}
	l := launcher.New().Bin("/usr/bin/chromium").NoSandbox(true).Set("headless", "new").Set("disable-dev-shm-usage").
		Set("use-angle", "swiftshader").Set("disable-gpu-compositing"). // which by software takes longer than all else
		Set("enable-unsafe-swiftshader").Set("disable-background-networking").Set("disable-component-update").
		Set("disable-sync").Set("no-first-run").Set("disable-quic").UserDataDir(profile)
	url, err := l.Launch()
	if err != nil {
		t.Fatalf("the browser: %v", err)
	}
	t.Cleanup(l.Kill) // and not closed page by page: one with something unsaved asks whether to
	b := rod.New().ControlURL(url)
	if err := b.Connect(); err != nil {
		t.Fatalf("the browser: %v", err)
	}
	return b
}

// site is a running server on a data folder.
type site struct {
	t    *testing.T
	cmd  *exec.Cmd
	url  string
	data string
	log  *bytes.Buffer
	// The browser that looks at it, once there is one.
	browser *rod.Browser
}

func serve(t *testing.T, data string, args ...string) *site {
	t.Helper()
	s := &site{t: t, data: data, log: &bytes.Buffer{}}
	s.cmd = exec.Command(binary, append([]string{"serve", "--port", "0", "--data", data, "--threads", "2", "--live-pixels", "1500"}, args...)...)
	s.cmd.Stderr = s.log
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := s.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, url, ok := strings.Cut(lines.Text(), "ready: "); ok {
			s.url = url
			break
		}
	}
	go func() { _, _ = io.Copy(io.Discard, out) }()
	if s.url == "" {
		_ = s.cmd.Wait()
		t.Fatalf("the server did not start:\n%s", s.log)
	}
	t.Cleanup(s.end)
	return s
}

// end stops the server as Ctrl+C does and checks that it went cleanly.
func (s *site) end() {
	if s.cmd.ProcessState != nil {
		return
	}
	_ = s.cmd.Process.Signal(os.Interrupt)
	if err := s.cmd.Wait(); err != nil && !strings.Contains(err.Error(), "exit status 130") {
		s.t.Errorf("the server ended with %v:\n%s", err, s.log)
	}
	if pid, err := os.ReadFile(filepath.Join(s.data, "db", "pid")); err == nil {
		s.t.Errorf("the database still runs as %s", pid)
	}
}

// kill ends the server without warning.
func (s *site) kill() {
	_ = s.cmd.Process.Signal(syscall.SIGKILL)
	_ = s.cmd.Wait()
}

// get decodes a JSON answer.
func (s *site) get(path string, v any) {
	s.t.Helper()
	r, err := http.Get(s.url + path)
	if err != nil {
		s.t.Fatal(err)
	}
	defer r.Body.Close()
	if r.StatusCode != 200 {
		b, _ := io.ReadAll(r.Body)
		s.t.Fatalf("%s: %d %s", path, r.StatusCode, b)
	}
	if err := json.NewDecoder(r.Body).Decode(v); err != nil {
		s.t.Fatal(err)
	}
}

func (s *site) bytes(path string) []byte {
	s.t.Helper()
	r, err := http.Get(s.url + path)
	if err != nil {
		s.t.Fatal(err)
	}
	defer r.Body.Close()
	b, err := io.ReadAll(r.Body)
	if err != nil || r.StatusCode != 200 {
		s.t.Fatalf("%s: %d %v", path, r.StatusCode, err)
	}
	return b
}

// page is a browser page with words for what a person does.
type page struct {
	*rod.Page
	t *testing.T
}

func (s *site) page(path string) *page {
	s.t.Helper()
	if s.browser == nil {
		s.browser = launch(s.t)
	}
	p := s.browser.MustPage(s.url + path)
	p.MustSetViewport(1280, 800, 1, false)
	return &page{p, s.t}
}

// elsewhere is a page of somebody else, in a browser of their own.
func (s *site) elsewhere(path string) *page {
	s.t.Helper()
	other := *s
	other.browser = launch(s.t)
	return other.page(path)
}

// fail shows where the page stood.
func (p *page) fail(what string, err error) {
	p.t.Helper()
	body, _ := p.Element("body")
	text := ""
	if body != nil {
		text, _ = body.Text()
	}
	p.t.Fatalf("%s: %v\nthe page says:\n%s", what, err, text)
}

// says is all that the page shows: while it changes, something goes on.
func (p *page) says() any {
	o, err := p.Eval(`() => document.body.innerText + document.querySelectorAll("*").length`)
	if err != nil {
		return err
	}
	return o.Value.String()
}

// wait waits until a question to the page is answered, for as long as the page changes.
func (p *page) wait(what string, ask func() bool) {
	p.t.Helper()
	if !wait.Or(ask, p.says) {
		p.fail(what, errors.New("nothing has moved for minutes"))
	}
}

func (p *page) find(selector string) *rod.Element {
	p.t.Helper()
	return p.first(selector, func() (rod.Elements, error) { return p.Elements(selector) })
}

// first waits for an element and returns the first there is.
func (p *page) first(what string, ask func() (rod.Elements, error)) (found *rod.Element) {
	p.t.Helper()
	p.wait(what, func() bool {
		all, err := ask()
		if err == nil && len(all) > 0 {
			found = all.First()
		}
		return found != nil
	})
	return found
}

// see waits for an element with a text.
func (p *page) see(selector, text string) *rod.Element {
	p.t.Helper()
	return p.first(selector+" with "+text, func() (rod.Elements, error) {
		has, e, err := p.HasR(selector, text)
		if err != nil || !has {
			return nil, err
		}
		return rod.Elements{e}, nil
	})
}

// gone waits until nothing on the page matches.
func (p *page) gone(selector string) {
	p.t.Helper()
	p.wait(selector+" to be gone", func() bool {
		has, _, err := p.Has(selector)
		return err == nil && !has
	})
}

// press clicks through the page's own events: software WebGL makes the
// browser's idea of a settled layout slow.
func (p *page) press(e *rod.Element) {
	p.t.Helper()
	if _, err := e.Eval(`() => { this.scrollIntoView({block: "center"}); this.click(); }`); err != nil {
		p.fail("click", err)
	}
}

// tab turns to what is behind a tab of the page.
func (p *page) tab(name string) {
	p.t.Helper()
	p.press(p.see(".ant-tabs-tab", "^"+name+"$"))
}

// run queues a run of the ticket on the page, once its button can be pressed: while
// a ticket is saved or another run is started it takes no press.
func (p *page) run() {
	p.t.Helper()
	p.press(p.find("[data-testid=run]:not(:disabled):not(.ant-btn-loading)"))
}

// fill types a number or text into a labelled field.
func (p *page) fill(label, value string) {
	p.t.Helper()
	// A page that another lies over draws nothing, and typing would wait for that.
	if _, err := p.Activate(); err != nil {
		p.fail(label, err)
	}
	e := p.find(fmt.Sprintf("input[aria-label=%q]", label))
	if err := e.Focus(); err != nil {
		p.fail(label, err)
	}
	if err := e.SelectAllText(); err != nil {
		p.fail(label, err)
	}
	if err := e.Input(value); err != nil {
		p.fail(label, err)
	}
	if err := p.Keyboard.Press(input.Tab); err != nil {
		p.fail(label, err)
	}
}

// number is what a labelled field has; not-a-number where that is no number.
func (p *page) number(label string) float64 {
	p.t.Helper()
	v, err := strconv.ParseFloat(p.find(fmt.Sprintf("input[aria-label=%q]", label)).MustProperty("value").Str(), 64)
	if err != nil {
		return math.NaN()
	}
	return v
}

// saved waits until the ticket on the screen is the one the server has.
func (p *page) saved() {
	p.t.Helper()
	p.frames(3) // a change takes one to show as "saving"
	p.see("[data-testid=saved]", "^saved$")
}

// frames waits until the page was drawn so often.
func (p *page) frames(n int) {
	p.t.Helper()
	if _, err := p.Activate(); err != nil { // a page that another lies over draws nothing
		p.fail("to the front", err)
	}
	if _, err := p.Eval(`n => new Promise(done => { const next = () => n-- > 0 ? requestAnimationFrame(next) : done(); next(); })`, n); err != nil {
		p.fail("to be drawn", err)
	}
}

// still waits until nothing on the page moves any more.
func (p *page) still() {
	p.t.Helper()
	p.frames(2)
	p.wait("transitions to end", func() bool {
		o, err := p.Eval(`() => document.getAnimations().every(a => a.playState !== "running" || a.effect.getComputedTiming().iterations === Infinity)`)
		return err == nil && o.Value.Bool()
	})
}

func (p *page) state(words string) { p.t.Helper(); p.see("[data-testid=state]", words) }

// command runs the program's own command line.
func command(args ...string) (stdout, stderr string, code int) {
	c := exec.CommandContext(context.Background(), binary, args...)
	var o, e bytes.Buffer
	c.Stdout, c.Stderr = &o, &e
	err := c.Run()
	if err != nil && c.ProcessState == nil {
		return "", err.Error(), -1
	}
	return o.String(), e.String(), c.ProcessState.ExitCode()
}
