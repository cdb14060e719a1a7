package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"amberproof/core/imageio"
	"amberproof/internal/testkit"
	"amberproof/internal/wait"
)

// upload gives the bench scene to the scenes page and lands on the scene's page.
func upload(t *testing.T, p *page) {
	t.Helper()
	dir := t.TempDir()
	testkit.WriteBundle(t, dir)
	p.find("[data-testid=files]").MustSetFiles(filepath.Join(dir, "bench.obj"), filepath.Join(dir, "bench.mtl"))
}

// demoJob serves a database of its own and opens a job for a demo file.
func demoJob(t *testing.T, name string, build func() ([]byte, error)) (*site, *page) {
	t.Helper()
	glb, err := build()
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, glb, 0o600); err != nil {
		t.Fatal(err)
	}
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/scenes")
	p.find("[data-testid=files]").MustSetFiles(file)
	p.press(p.see("button", "Make a job for this scene"))
	return s, p
}

// small has the open job be a small quick one: saved beside the page, which is then read
// anew and has its sections open.
func small(p *page, width, most string) {
	p.t.Helper()
	p.see(".Docket_head", "View")
	p.saved()
	said, err := p.Eval(`async (width, most) => {
		const job = "/api/jobs/" + location.pathname.split("/").pop();
		const { version, ticket } = await (await fetch(job)).json();
		Object.assign(ticket.view, { width, height: 72 });
		Object.assign(ticket.quality, { preset: "own", noise: 0, least: 4, most });
		const r = await fetch(job + "/ticket", { method: "PUT", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ version, ticket }) });
		return r.ok ? "" : await r.text();
	}`, number(p, width), number(p, most))
	if err != nil || said.Value.Str() != "" {
		p.t.Fatalf("the ticket was not saved: %v %v", err, said)
	}
	p.MustReload()
	p.press(p.see(".Docket_head", "View"))
	p.press(p.see(".Docket_head", "Quality"))
	p.see("[data-testid=run]", width+" × 72")
}

func number(p *page, s string) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		p.t.Fatal(err)
	}
	return n
}

// typed sets a small quick ticket in the open job by typing it.
func typed(p *page, width, most string) {
	p.press(p.see(".Docket_head", "View"))
	p.fill("Width", width)
	p.fill("Height", "72")
	p.press(p.see(".Docket_head", "Quality"))
	p.fill("Noise target", "0")
	p.fill("Least samples", "4")
	p.fill("Most samples", most)
	p.saved()
}

// From the start page to a downloaded EXR: upload, job, ticket, run, proof, files.
func TestTheWholeLine(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/")
	p.see("p", "No round yet")
	p.press(p.see("a", "Scenes"))
	upload(t, p)
	p.see(".ant-tree", "Box")
	p.see(".PartTree_mark", "light")
	p.press(p.see("button", "Make a job for this scene"))
	typed(p, "96", "8")
	p.press(p.see(".Docket_head", "Passes"))
	p.press(p.find("button[aria-label='Lights apart']"))
	p.press(p.find("button[aria-label='Masks by finish']"))
	p.saved()
	p.see("[data-testid=run]", "96 × 72")
	p.run()
	p.state("done")
	p.find("[data-testid=picture]")
	p.press(p.see("a", "Open the proof"))
	p.see(".bits_stamp", "Beauty")
	p.press(p.see("[role=tab]", "Ochre"))
	p.see(".bits_stamp", "Ochre")
	p.see("[role=tab]", "Ochre").MustFocus()
	p.Keyboard.MustType(input.Home, input.Enter) // the strip of passes goes by keys, too
	p.see(".bits_stamp", "Beauty")

	href := *p.see(".ProofPage_delivered a", "layers.exr").MustAttribute("href")
	e, err := imageio.ReadEXR(s.bytes(href), imageio.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range []string{"R", "G", "B", "A", "light.Lamp.R", "light.surround.G", "finish.Ochre.Y"} {
		if e.Channel(n) == nil {
			t.Errorf("the file lacks the channel %s", n)
		}
	}
	sum := func(name string) (v float64) {
		for _, x := range e.Channel(name).Data {
			v += float64(x)
		}
		return
	}
	if whole, parts := sum("R"), sum("light.Lamp.R")+sum("light.surround.R"); whole == 0 || parts/whole < 0.999 || parts/whole > 1.001 {
		t.Errorf("the lights add up to %v of a beauty of %v", parts, whole)
	}
	if zip := s.bytes(*p.find("[data-testid=zip]").MustAttribute("href")); !bytes.HasPrefix(zip, []byte("PK")) {
		t.Error("the zip is none")
	}
}

// Clay against finished from the same view, by wipe and by flip.
func TestClayAgainstFinished(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/scenes")
	upload(t, p)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "96", "4")
	p.run()
	p.state("done")
	p.press(p.see(".ant-segmented-item-label", "Clay"))
	p.see(".rules_hits", "0 parts") // nothing in this scene is clear
	p.press(p.see("button", "Add a rule"))
	p.saved()
	p.see("[data-testid=run]", "clay")
	p.see(".JobPage_changed", "Surface clay, was own")
	p.press(p.find("button[aria-label='Remove rule 2']"))
	p.saved()
	p.run()
	p.see("[data-testid=slug]", " 2 .*clay")
	p.state("done")
	p.press(p.see("a", "Open the proof"))
	p.press(p.see(".ant-segmented-item-label", "Wipe"))
	p.find("[data-testid=over] img")
	p.find("[role=slider][aria-label=Wipe]").MustFocus()
	p.Keyboard.MustType(input.ArrowRight)
	p.find("[aria-valuenow='51']")
	p.press(p.see(".ant-segmented-item-label", "Flip"))
	p.find("[data-testid=over][style*=hidden]")
	p.press(p.see("button", "^Flip$"))
	p.find("[data-testid=over][style*=visible]")
	// The clay is neutral: what lies under the pointer has three equal parts under a neutral light.
	b := p.find(".Desk_frame").MustShape().Box()
	p.Mouse.MustMoveTo(b.X+b.Width/2, b.Y+b.Height/2)
	text := p.see("[data-testid=reading]", "clay over Ochre").MustText()
	m := regexp.MustCompile(`shown (\d+) (\d+) (\d+)`).FindStringSubmatch(text)
	if m == nil || m[1] != m[2] || m[2] != m[3] {
		t.Errorf("the clay is not neutral: %s", text)
	}
}

func TestAnUploadThatFails(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/scenes")
	bad := filepath.Join(t.TempDir(), "broken.glb")
	if err := os.WriteFile(bad, []byte("glTF\x02\x00\x00\x00\xff\xff\x00\x00 this is cut short"), 0o600); err != nil {
		t.Fatal(err)
	}
	p.find("[data-testid=files]").MustSetFiles(bad)
	p.see("[role=alert]", "cut short")
	p.see("p", "No scene yet")
	upload(t, p) // and the next one goes through
}

// Stop, reload in the middle, resume, undo.
func TestStopReloadAndResume(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	p := s.page("/scenes")
	upload(t, p)
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "640", "2000")
	p.run()
	p.state("rendering")
	p.see("[data-testid=slug]", "samples")
	p.find("[data-testid=picture]")
	p.MustReload()
	p.state("rendering")
	p.press(p.see("button", "^Stop$"))
	p.state("stopped")
	p.MustReload()
	p.state("stopped")
	p.find("[data-testid=picture]")
	var before, after struct{ Run struct{ Samples float64 } }
	s.get("/api/runs/1", &before)
	p.press(p.see("button", "^Resume$"))
	p.state("rendering")
	p.press(p.see("button", "Stop and keep"))
	p.state("kept")
	s.get("/api/runs/1", &after)
	if after.Run.Samples < before.Run.Samples || before.Run.Samples <= 0 {
		t.Errorf("%v samples before the stop, %v in the end", before.Run.Samples, after.Run.Samples)
	}
	p.press(p.see(".Docket_head", "View"))
	p.fill("Width", "700")
	p.saved()
	p.see("[data-testid=run]", "700 × 72")
	p.press(p.see("button", "^Undo$"))
	p.see("[data-testid=run]", "640 × 72")
	p.saved()
	p.MustReload()
	p.see("[data-testid=run]", "640 × 72")
	p.press(p.see("a", "Queue"))
	p.see(".lists_row", "kept before its target")
}

// The server is killed in the middle of a run; the next start goes on and the
// file has the same bytes as one rendered in one go, by the headless command.
func TestKilledServerGoesOnAndHeadlessAgrees(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := serve(t, data, "--no-demo")
	p := s.page("/scenes")
	upload(t, p)
	p.press(p.see(".ant-tree-title", "Box"))
	p.fill("Turn about y", "30") // the set-up is in the resolved ticket
	p.saved()
	p.press(p.see("button", "Make a job for this scene"))
	small(p, "200", "256")
	p.run()
	p.see("[data-testid=slug]", "samples · noise [0-9]")
	s.kill()
	s = serve(t, data, "--no-demo")
	var run struct {
		Run        struct{ State string }
		Resolved   json.RawMessage
		Deliveries []struct {
			Files []struct{ Path, SHA256 string }
		}
	}
	wait.Until(t, "the run to be done", func() bool {
		s.get("/api/runs/1", &run)
		return run.Run.State == "done"
	}, func() any { return string(s.bytes("/api/queue")) })
	if !strings.Contains(s.log.String(), "runs go on after a restart") {
		t.Error("the run was not cut off in the middle")
	}
	dir := t.TempDir()
	ticket := filepath.Join(dir, "resolved.json")
	if err := os.WriteFile(ticket, run.Resolved, 0o600); err != nil {
		t.Fatal(err)
	}
	scene := testkit.WriteBundle(t, dir)
	out := filepath.Join(dir, "out")
	_, stderr, code := command("render", "--scene", scene, "--ticket", ticket, "--out", out, "--threads", "1")
	if code != 0 || !strings.Contains(stderr, "samples") {
		t.Fatalf("exit code %d:\n%s", code, stderr)
	}
	var m struct {
		Files []struct{ Path, SHA256 string }
	}
	b, err := os.ReadFile(filepath.Join(out, "manifest.json"))
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(b, &m); err != nil {
		t.Fatal(err)
	}
	made := run.Deliveries[0].Files
	if len(m.Files) != len(made) {
		t.Fatalf("%d files, the server made %d", len(m.Files), len(made))
	}
	for i := range m.Files {
		if m.Files[i].SHA256 != made[i].SHA256 {
			t.Errorf("%s differs from the server's %s", m.Files[i].Path, made[i].Path)
		}
	}
}

func TestCommandLine(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	scene := testkit.WriteBundle(t, dir)
	fresh, _, code := command("ticket", "--new", "--scene", scene)
	if code != 0 || !strings.Contains(fresh, `"Lamp"`) {
		t.Fatalf("%d: %s", code, fresh)
	}
	ticket := filepath.Join(dir, "t.json")
	write := func(s string) {
		if err := os.WriteFile(ticket, []byte(s), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	write(fresh)
	if out, _, code := command("ticket", "--check", ticket); code != 0 || !strings.Contains(out, "in order") {
		t.Errorf("a new ticket is not in order: %s", out)
	}
	write(`{"view":{"width":0,"scale":401},"quality":{"least":600}}`)
	_, stderr, code := command("render", "--scene", scene, "--ticket", ticket, "--out", filepath.Join(dir, "o"))
	if code != 2 || len(strings.Split(strings.TrimSpace(stderr), "\n")) != 3 || !strings.Contains(stderr, "view.width: ") {
		t.Errorf("a ticket with three faults: code %d\n%s", code, stderr)
	}
	write(`{"view":{"name":"Nowhere"}}`)
	if _, stderr, code = command("render", "--scene", scene, "--ticket", ticket, "--out", filepath.Join(dir, "o")); code != 2 ||
		!strings.Contains(stderr, "Three-quarter") {
		t.Errorf("an unknown view: code %d\n%s", code, stderr)
	}
	if _, stderr, code = command("render", "--scene", "gone.glb", "--ticket", ticket, "--out", dir+"/o"); code != 1 || strings.Contains(stderr, "goroutine") {
		t.Errorf("no scene: code %d\n%s", code, stderr)
	}
	write(`{}`)
	if _, stderr, code = command("render", "--scene", scene, "--ticket", ticket, "--out", dir); code != 1 || !strings.Contains(stderr, "never overwritten") {
		t.Errorf("a folder that is there: code %d\n%s", code, stderr)
	}
	demo := filepath.Join(dir, "demo")
	if out, _, code := command("demo", "--out", demo); code != 0 || strings.Count(out, "ticket-") != 6 {
		t.Errorf("demo: %d %s", code, out)
	}
	// What the demo's scenes have wrong with them is found, and the exit code tells how sure.
	window := []string{"check", "--scene", filepath.Join(demo, "pellwick-shop-window.glb"), "--ticket", filepath.Join(demo, "ticket-shop_window.json")}
	if out, stderr, code := command(window...); code != 5 || !strings.Contains(out, "certain: doubled: ") || !strings.Contains(out, "likely: floats: Price card") {
		t.Errorf("the shop window: code %d\n%s%s", code, out, stderr)
	}
	write(`{"view":{"width":64,"height":64},"surface":{"mode":"clay"}}`)
	if out, stderr, code := command("check", "--scene", scene, "--ticket", ticket); code < 3 || code > 5 || !strings.Contains(out, ": ") {
		t.Errorf("the bench in clay: code %d\n%s%s", code, out, stderr)
	}
	write(`{"view":{"width":0}}`)
	if _, _, code := command("check", "--scene", scene, "--ticket", ticket); code != 2 {
		t.Errorf("a check of a ticket with faults: code %d", code)
	}
	for _, f := range []string{"ticket-hero_three_quarter.json", "ticket-front.json", "ticket-shop_window_clay.json"} {
		if _, stderr, code := command("ticket", "--check", filepath.Join(demo, f)); code != 0 {
			t.Errorf("%s: %s", f, stderr)
		}
	}
}

// A taken port and a folder in use are clear sentences.
func TestStartsThatCannotBe(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := serve(t, data, "--no-demo")
	port := s.url[strings.LastIndex(s.url, ":")+1:]
	_, stderr, code := command("serve", "--port", port, "--data", t.TempDir())
	if code != 1 || !strings.Contains(stderr, fmt.Sprintf("port %s is taken", port)) {
		t.Errorf("taken port: %d %s", code, stderr)
	}
	_, stderr, code = command("serve", "--port", "0", "--data", data)
	if code != 1 || !strings.Contains(stderr, "another Amber Proof") {
		t.Errorf("folder in use: %d %s", code, stderr)
	}
}
