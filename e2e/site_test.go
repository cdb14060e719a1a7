// Package e2e drives the real program: its binary, its database, and its pages
// in a browser.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"

	"amberproof/internal/testkit"
)

var (
	binary  string
	browser *rod.Browser
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
	if out, err := exec.Command("go", "build", "-o", binary, "../cmd/amberproof").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "%v\n%s", err, out)
		return 1
	}
	l := launcher.New().Bin("/usr/bin/chromium").NoSandbox(true).Set("headless", "new").Set("disable-dev-shm-usage").
		Set("use-angle", "swiftshader").Set("enable-unsafe-swiftshader").Set("disable-background-networking").Set("disable-component-update").
		Set("disable-sync").Set("no-first-run").Set("disable-quic").UserDataDir(filepath.Join(dir, "profile"))
	url, err := l.Launch()
	if err != nil {
		fmt.Fprintln(os.Stderr, "the browser:", err)
		return 1
	}
	defer l.Kill()
	browser = rod.New().ControlURL(url)
	if err := browser.Connect(); err != nil {
		fmt.Fprintln(os.Stderr, "the browser:", err)
		return 1
	}
	defer browser.Close()
	return m.Run()
}

// site is a running server on a data folder.
type site struct {
	t    *testing.T
	cmd  *exec.Cmd
	url  string
	data string
	log  *bytes.Buffer
}

func serve(t *testing.T, data string, args ...string) *site {
	t.Helper()
	s := &site{t: t, data: data, log: &bytes.Buffer{}}
	s.cmd = exec.Command(binary, append([]string{"serve", "--port", "0", "--data", data, "--threads", "2", "--live-pixels", "60000"}, args...)...)
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

const patience = 30 * time.Second

func (s *site) page(path string) *page {
	s.t.Helper()
	p := browser.MustPage(s.url + path)
	s.t.Cleanup(func() { _ = p.Close() })
	p.MustSetViewport(1280, 800, 1, false)
	return &page{p, s.t}
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

func (p *page) find(selector string) *rod.Element {
	p.t.Helper()
	e, err := p.Timeout(patience).Element(selector)
	if err != nil {
		p.fail(selector, err)
	}
	return e.CancelTimeout()
}

// see waits for an element with a text.
func (p *page) see(selector, text string) *rod.Element {
	p.t.Helper()
	e, err := p.Timeout(patience).ElementR(selector, text)
	if err != nil {
		p.fail(selector+" with "+text, err)
	}
	return e.CancelTimeout()
}

// gone waits until nothing on the page matches.
func (p *page) gone(selector string) {
	p.t.Helper()
	for end := time.Now().Add(patience); ; time.Sleep(50 * time.Millisecond) {
		has, _, err := p.Has(selector)
		if err == nil && !has {
			return
		}
		if time.Now().After(end) {
			p.fail(selector+" is still there", err)
		}
	}
}

// press clicks through the page's own events: software WebGL makes the
// browser's idea of a settled layout slow.
func (p *page) press(e *rod.Element) {
	p.t.Helper()
	if _, err := e.Eval(`() => { this.scrollIntoView({block: "center"}); this.click(); }`); err != nil {
		p.fail("click", err)
	}
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

// saved waits until the ticket on the screen is the one the server has.
func (p *page) saved() {
	p.t.Helper()
	time.Sleep(100 * time.Millisecond) // a change takes one frame to show as "saving"
	p.see("[data-testid=saved]", "^saved$")
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
