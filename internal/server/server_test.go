package server_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"

	"amberproof/core/importer"
	"amberproof/demo"
	"amberproof/internal/app"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/runs"
	"amberproof/internal/server"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestMain(m *testing.M) { testkit.Main(m) }

type site struct {
	*httptest.Server
	app *app.App
	job jobs.Job
}

func open(t *testing.T) *site {
	t.Helper()
	a, j := testkit.App(t)
	s, err := server.New(a, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	h := httptest.NewServer(s.Handler())
	t.Cleanup(h.Close)
	return &site{h, a, j}
}

// ask sends a request and returns the status and the decoded answer.
func (s *site) ask(t *testing.T, method, path string, body any) (int, map[string]any) {
	t.Helper()
	var b bytes.Buffer
	if body != nil {
		if err := json.NewEncoder(&b).Encode(body); err != nil {
			t.Fatal(err)
		}
	}
	r, err := http.NewRequest(method, s.URL+path, &b)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	return s.send(t, r)
}

func (s *site) send(t *testing.T, r *http.Request) (int, map[string]any) {
	t.Helper()
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]any{}
	_ = json.Unmarshal(raw, &out) // lists and files leave it empty
	out["raw"] = string(raw)
	return resp.StatusCode, out
}

func (s *site) upload(t *testing.T, path string, files map[string]string) (int, map[string]any) {
	t.Helper()
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	for name, data := range files {
		w, err := m.CreateFormFile(name, filepath.Base(name))
		if err != nil {
			t.Fatal(err)
		}
		_, _ = io.WriteString(w, data)
	}
	_ = m.Close()
	r, err := http.NewRequest("POST", s.URL+path, &b)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", m.FormDataContentType())
	return s.send(t, r)
}

func TestTheCheckedInDescriptionIsCurrent(t *testing.T) {
	s, err := server.New(app.New(app.Options{Threads: 1, Log: slog.Default()}), slog.Default())
	if err != nil {
		t.Fatal(err)
	}
	now, err := s.OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	kept, err := os.ReadFile("../../web/openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(bytes.TrimSpace(now), bytes.TrimSpace(kept)) {
		t.Fatal("web/openapi.json is out of date; run: bin/amberproof openapi > web/openapi.json && (cd web && npm run api)")
	}
}

func TestOtherSitesAreNotAnswered(t *testing.T) {
	s := open(t)
	for name, change := range map[string]func(*http.Request){
		"a rebound name":    func(r *http.Request) { r.Host = "evil.example:8460" },
		"a foreign origin":  func(r *http.Request) { r.Header.Set("Origin", "http://evil.example") },
		"a local other one": func(r *http.Request) { r.Header.Set("Origin", "http://127.0.0.1:1") },
		"a foreign page's picture": func(r *http.Request) {
			r.Header.Set("Sec-Fetch-Site", "cross-site")
			r.Header.Set("Sec-Fetch-Mode", "no-cors")
		},
		"a foreign page's frame": func(r *http.Request) {
			r.Header.Set("Sec-Fetch-Site", "same-site")
			r.Header.Set("Sec-Fetch-Mode", "navigate")
			r.Header.Set("Sec-Fetch-Dest", "iframe")
		},
		"a link into the API": func(r *http.Request) {
			r.Header.Set("Sec-Fetch-Site", "cross-site")
			r.Header.Set("Sec-Fetch-Mode", "navigate")
			r.Header.Set("Sec-Fetch-Dest", "document")
		},
	} {
		r, _ := http.NewRequest("GET", s.URL+"/api/jobs", nil)
		change(r)
		if code, _ := s.send(t, r); code != 403 {
			t.Errorf("%s: %d", name, code)
		}
	}
	link, _ := http.NewRequest("GET", s.URL+"/healthz", nil) // a link to a page of ours is followed
	link.Header.Set("Sec-Fetch-Site", "cross-site")
	link.Header.Set("Sec-Fetch-Mode", "navigate")
	link.Header.Set("Sec-Fetch-Dest", "document")
	if code, _ := s.send(t, link); code != 200 {
		t.Errorf("a link: %d", code)
	}
	if code, got := s.ask(t, "GET", "/healthz", nil); code != 200 || got["status"] != "ok" {
		t.Errorf("healthz %d %v", code, got)
	}
}

func TestUploadsByEveryRoute(t *testing.T) {
	s := open(t)
	loose := map[string]string{}
	for n, d := range testkit.Bundle() {
		loose["folder/"+n] = string(d)
	}
	code, got := s.upload(t, "/api/scenes", loose)
	if code != 200 || got["name"] != "bench" || got["parts"].(float64) != 3 {
		t.Fatalf("%d %v", code, got["raw"])
	}
	var z bytes.Buffer
	w := zip.NewWriter(&z)
	for n, d := range testkit.Bundle() {
		f, _ := w.Create(n)
		_, _ = f.Write(d)
	}
	_ = w.Close()
	if code, got = s.upload(t, "/api/scenes", map[string]string{"bench.zip": z.String()}); code != 200 {
		t.Fatalf("zip: %d %v", code, got["raw"])
	}
	id := int(got["id"].(float64))
	if code, got = s.ask(t, "GET", fmt.Sprintf("/api/scenes/%d", id), nil); code != 200 || len(got["lamps"].([]any)) != 1 {
		t.Errorf("%d %v", code, got["raw"])
	}
	if code, got = s.ask(t, "GET", fmt.Sprintf("/api/scenes/%d/shape", id), nil); code != 200 || len(got["raw"].(string)) < 500 {
		t.Errorf("shape: %d", code)
	}
}

func TestBadUploadsAreRefusedInWords(t *testing.T) {
	s := open(t)
	for words, files := range map[string]map[string]string{
		"not a GLB file":           {"a.glb": "no scene"},
		"upload it together":       {"a.gltf": `{"asset":{"version":"2.0"},"buffers":[{"uri":"b.bin","byteLength":4}]}`},
		"no scene of a known type": {"readme.md": "hello"},
		"the archive is damage":    {"a.zip": "PK no"},
		"holds no file":            {},
	} {
		code, got := s.upload(t, "/api/scenes", files)
		if code != 422 || !strings.Contains(fmt.Sprint(got["detail"]), words) {
			t.Errorf("%q: %d %v", words, code, got["raw"])
		}
	}
	if code, got := s.upload(t, "/api/surrounds", map[string]string{"a.png": "x"}); code != 422 || !strings.Contains(fmt.Sprint(got["detail"]), ".hdr") {
		t.Errorf("%d %v", code, got["raw"])
	}
	if code, _ := s.ask(t, "POST", "/api/scenes", map[string]string{}); code != 400 {
		t.Errorf("no form: %d", code)
	}
	scenes, err := s.app.Scenes.List(t.Context(), identity.Local, 0, false)
	if err != nil || len(scenes) != 1 {
		t.Errorf("%d scenes, %v", len(scenes), err)
	}
}

func TestFaultsConflictsAndAbsences(t *testing.T) {
	s := open(t)
	path := fmt.Sprintf("/api/jobs/%d", s.job.ID)
	bad := s.job.Ticket
	bad.View.Width = 0
	code, got := s.ask(t, "PUT", path+"/ticket", map[string]any{"version": 1, "ticket": bad})
	if code != 422 || !strings.Contains(got["raw"].(string), "view.width") {
		t.Errorf("fault: %d %v", code, got["raw"])
	}
	if code, _ = s.ask(t, "PUT", path+"/ticket", map[string]any{"version": 1, "ticket": s.job.Ticket}); code != 200 {
		t.Errorf("save: %d", code)
	}
	if code, got = s.ask(t, "PUT", path+"/ticket", map[string]any{"version": 1, "ticket": s.job.Ticket}); code != 409 {
		t.Errorf("old version: %d %v", code, got["raw"])
	}
	for _, p := range []string{"/api/jobs/999", "/api/runs/999", "/api/scenes/999", "/api/runs/999/picture/beauty.png", "/api/nowhere",
		"/api/runs/999/deliveries/1/delivery.zip", "/api/runs/999/noise.csv",
		"/api/runs/999/further?noise=1&most=9", "/api/runs/999/deliveries/1/files/x.exr", "/api/scenes/999/picture.png",
		"/assets/none.js", "/favicon.gif", "/api/scenes/x/shape"} {
		if code, _ := s.ask(t, "GET", p, nil); code != 404 {
			t.Errorf("%s: %d", p, code)
		}
	}
	if code, _ = s.ask(t, "POST", "/api/runs/999/stop", nil); code != 404 {
		t.Errorf("stop of nothing: %d", code)
	}
	if code, _ = s.ask(t, "PUT", path+"/ticket", "nonsense"); code != 422 && code != 400 {
		t.Errorf("nonsense: %d", code)
	}
}

// The whole line by HTTP: start, follow by web socket, look, fetch.
func TestARunByHTTP(t *testing.T) {
	s := open(t)
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Minute) // never waited for by a test that passes
	defer cancel()
	go func() { _ = s.app.Runs.Work(ctx) }()
	conn, _, err := websocket.Dial(ctx, "ws"+strings.TrimPrefix(s.URL, "http")+"/api/live", nil)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	code, got := s.ask(t, "POST", fmt.Sprintf("/api/jobs/%d/runs", s.job.ID), map[string]any{"version": s.job.Version})
	if code != 200 {
		t.Fatalf("%d %v", code, got["raw"])
	}
	id := int64(got["id"].(float64))
	for done := false; !done; {
		var m struct{ Runs []runs.Progress }
		if err := wsjson.Read(ctx, conn, &m); err != nil {
			t.Fatal(err)
		}
		for _, e := range m.Runs {
			done = done || e.State == ticket.Done
			if e.State == ticket.Failed {
				t.Fatal(e.Note)
			}
		}
	}
	run := fmt.Sprintf("/api/runs/%d", id)
	code, got = s.ask(t, "GET", run, nil)
	if code != 200 || !strings.Contains(got["slug"].(string), "16 samples") {
		t.Fatalf("%d %v", code, got["raw"])
	}
	files := got["deliveries"].([]any)[0].(map[string]any)["files"].([]any)
	for _, p := range got["passes"].([]any) {
		key := p.(map[string]any)["key"].(string)
		if code, got := s.ask(t, "GET", run+"/picture/"+key+".png?side=50&ev=1&display=plain", nil); code != 200 ||
			!strings.HasPrefix(got["raw"].(string), "\x89PNG") {
			t.Errorf("picture of %s: %d", key, code)
		}
	}
	if code, _ = s.ask(t, "GET", run+"/picture/beauty.png?ev=99", nil); code != 400 {
		t.Errorf("exposure out of range: %d", code)
	}
	if code, got = s.ask(t, "GET", run+"/reading?pass=beauty&x=48&y=30", nil); code != 200 || got["part"] != "Box" {
		t.Errorf("reading: %d %v", code, got["raw"])
	}
	for _, f := range files {
		p := f.(map[string]any)["path"].(string)
		code, got := s.ask(t, "GET", run+"/deliveries/1/files/"+p, nil)
		if code != 200 || float64(len(got["raw"].(string))) != f.(map[string]any)["bytes"].(float64) {
			t.Errorf("file %s: %d, %d bytes", p, code, len(got["raw"].(string)))
		}
	}
	for _, p := range []string{"../film", "..%2Ffilm", "nothing.exr"} {
		if code, _ := s.ask(t, "GET", run+"/deliveries/1/files/"+p, nil); code != 404 {
			t.Errorf("%s: %d", p, code)
		}
	}
	_, got = s.ask(t, "GET", run+"/deliveries/1/delivery.zip", nil)
	z, err := zip.NewReader(strings.NewReader(got["raw"].(string)), int64(len(got["raw"].(string))))
	if err != nil || len(z.File) != len(files)+1 {
		t.Errorf("zip: %v", err)
	}
	if _, got = s.ask(t, "GET", "/metrics", nil); !strings.Contains(got["raw"].(string), `amberproof_runs{state="done"} 1`) {
		t.Error("the metrics do not count the run")
	}
}

func TestViewsByHTTP(t *testing.T) {
	s := open(t)
	path := fmt.Sprintf("/api/scenes/%d/views", s.job.Scene)
	cam := map[string]any{"matrix": []float64{1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 1, 5}, "yfov": 0.4, "ymag": 0}
	code, v := s.ask(t, "POST", path, map[string]any{"name": "Side", "camera": cam})
	if code != 200 {
		t.Fatalf("%d %v", code, v["raw"])
	}
	if code, got := s.ask(t, "POST", path, map[string]any{"name": "Side", "camera": cam}); code != 422 || !strings.Contains(got["raw"].(string), "already") {
		t.Errorf("twice: %d %v", code, got["raw"])
	}
	cam["yfov"] = 0
	if code, _ := s.ask(t, "POST", path, map[string]any{"name": "Bad", "camera": cam}); code != 422 {
		t.Errorf("bad camera: %d", code)
	}
	one := fmt.Sprintf("/api/views/%.0f", v["id"])
	if code, _ := s.ask(t, "PATCH", one, map[string]any{"version": 1, "locked": true}); code != 200 {
		t.Errorf("lock: %d", code)
	}
	if code, got := s.ask(t, "PATCH", one, map[string]any{"version": 1, "locked": false}); code != 409 ||
		!strings.Contains(got["raw"].(string), "changed elsewhere") {
		t.Errorf("a change of an older version: %d %v", code, got["raw"])
	}
	if code, _ := s.ask(t, "DELETE", one, nil); code != 409 {
		t.Errorf("removal of a locked view: %d", code)
	}
}

func TestPosesByHTTP(t *testing.T) {
	s := open(t)
	glb, err := demo.Scene()
	if err != nil {
		t.Fatal(err)
	}
	row, err := s.app.Scenes.ImportBundle(t.Context(), identity.Local, s.job.Project, importer.Bundle{demo.SceneFile: glb})
	if err != nil {
		t.Fatal(err)
	}
	path := fmt.Sprintf("/api/scenes/%d", row.ID)
	_, sc := s.ask(t, "GET", path, nil)
	if a := fmt.Sprint(sc["animations"]); !strings.Contains(a, "length:0.5 name:Bail falls back") {
		t.Errorf("animations %s", a)
	}
	grip := -1
	for i, p := range sc["parts"].([]any) {
		if p.(map[string]any)["name"] == "Bail grip" {
			grip = i
		}
	}
	place := func(query string) (m [12]float64) {
		code, got := s.ask(t, "GET", path+"/pose?"+query, nil)
		if code != 200 {
			t.Fatalf("%s: %d %v", query, code, got["raw"])
		}
		for k, v := range got["parts"].([]any)[grip].([]any) {
			m[k] = v.(float64)
		}
		return m
	}
	// Of an object that turns about the pivots the height of a point right above
	// them falls by the cosine.
	saved, fallen := place("moment=0"), place("animation=Bail+falls+back&moment=0.5")
	if c := fallen[5]; math.Abs(c-math.Cos(1.5)) > 1e-4 || math.Abs(saved[5]-1) > 1e-4 {
		t.Errorf("upright %v, fallen %v", saved, fallen)
	}
	if code, got := s.ask(t, "GET", path+"/pose?animation=none&moment=0", nil); code != 422 || !strings.Contains(got["raw"].(string), "no animation") {
		t.Errorf("an animation that is not there: %d %v", code, got["raw"])
	}
}

// Addresses that are no page's answer 404; pages get the application.
func TestOnlyPagesGetThePage(t *testing.T) {
	s := open(t)
	get := func(path, accept string) (int, http.Header) {
		r, err := http.NewRequest("GET", s.URL+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Accept", accept)
		resp, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		defer resp.Body.Close()
		return resp.StatusCode, resp.Header
	}
	if code, h := get("/jobs/7", "text/html,*/*"); code != 200 && code != 404 || code == 200 && !strings.HasPrefix(h.Get("Content-Type"), "text/html") {
		t.Errorf("a page: %d", code) // 404 where the front end has not been built
	}
	for _, c := range [][2]string{{"/jobs/7", "application/json"}, {"/robots.txt", "text/html"}, {"/api/none", "text/html"}} {
		if code, _ := get(c[0], c[1]); code != 404 {
			t.Errorf("%v: %d", c, code)
		}
	}
	if _, h := get("/healthz", "*/*"); h.Get("Cross-Origin-Resource-Policy") != "same-origin" {
		t.Errorf("headers %v", h)
	}
}

// A page that connects is told first what is going: what it held to be going
// before and is not in that has ended.
func TestAPageIsToldFirstWhatIsGoing(t *testing.T) {
	s := open(t)
	conn, _, err := websocket.Dial(t.Context(), "ws"+strings.TrimPrefix(s.URL, "http")+"/api/live", nil)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	var m struct {
		Now  bool
		Runs []runs.Progress
	}
	if err := wsjson.Read(t.Context(), conn, &m); err != nil || !m.Now || len(m.Runs) != 0 {
		t.Errorf("%+v %v", m, err)
	}
}

// Who signs out or leaves a project is not told any more, on pages that they have open neither.
func TestASocketEndsWithItsPerson(t *testing.T) {
	a, j := testkit.App(t)
	sv, err := server.New(a, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	sv.BeatEvery(5 * time.Millisecond)
	h := httptest.NewServer(sv.Handler())
	t.Cleanup(h.Close)
	e := &estate{site: &site{h, a, j}}
	ctx := t.Context()
	p, err := a.Projects.Join(ctx, identity.Local, j.Project, "Ann", identity.Artist)
	if err != nil {
		t.Fatal(err)
	}
	conn, _, err := websocket.Dial(ctx, "ws"+strings.TrimPrefix(h.URL, "http")+"/api/live", &websocket.DialOptions{HTTPClient: e.as(t, p.ID)})
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	ended := make(chan error, 1)
	go func() {
		for {
			if _, _, err := conn.Read(ctx); err != nil {
				ended <- err
				return
			}
		}
	}()
	for range 10 { // beats that find nothing new leave it open
		ping, cancel := context.WithTimeout(ctx, time.Minute)
		if err := conn.Ping(ping); err != nil {
			t.Fatal(err)
		}
		cancel()
	}
	if err := a.Projects.Leave(ctx, identity.Local, j.Project, p.ID); err != nil {
		t.Fatal(err)
	}
	select {
	case <-ended:
	case <-time.After(time.Minute): // never waited for by a test that passes
		t.Error("it goes on")
	}
}

func TestQueueByHTTP(t *testing.T) {
	s := open(t)
	var ids []int64
	for range 3 {
		code, got := s.ask(t, "POST", fmt.Sprintf("/api/jobs/%d/runs", s.job.ID), map[string]any{"version": s.job.Version})
		if code != 200 {
			t.Fatalf("%d %v", code, got["raw"])
		}
		ids = append(ids, int64(got["id"].(float64)))
	}
	if code, got := s.ask(t, "POST", fmt.Sprintf("/api/jobs/%d/runs", s.job.ID), map[string]any{"version": 99}); code != 409 {
		t.Errorf("another version was run: %d %v", code, got["raw"])
	}
	if code, _ := s.ask(t, "PUT", fmt.Sprintf("/api/runs/%d/place", ids[2]), map[string]any{"after": 0}); code != 204 {
		t.Errorf("place: %d", code)
	}
	if code, got := s.ask(t, "POST", fmt.Sprintf("/api/runs/%d/cancel", ids[1]), nil); code != 200 || got["state"] != "cancelled" {
		t.Errorf("cancel: %d %v", code, got["raw"])
	}
	if code, _ := s.ask(t, "POST", fmt.Sprintf("/api/runs/%d/dance", ids[0]), nil); code != 422 {
		t.Errorf("dance: %d", code)
	}
	_, got := s.ask(t, "GET", "/api/queue", nil)
	var order []int64
	for _, r := range got["runs"].([]any) {
		order = append(order, int64(r.(map[string]any)["id"].(float64)))
	}
	if fmt.Sprint(order) != fmt.Sprint([]int64{ids[2], ids[0]}) {
		t.Errorf("the queue is %v", order)
	}
	if code, _ := s.ask(t, "DELETE", fmt.Sprintf("/api/runs/%d", ids[1]), nil); code != 204 {
		t.Errorf("remove: %d", code)
	}
	_, got = s.ask(t, "GET", "/api/runs?states=queued,cancelled", nil)
	if n := len(got["runs"].([]any)); n != 2 {
		t.Errorf("%d runs", n)
	}
}

func TestJobsAndScenesAreNamedCopiedAndPutAway(t *testing.T) {
	s := open(t)
	path := fmt.Sprintf("/api/jobs/%d", s.job.ID)
	code, twin := s.ask(t, "POST", path+"/copy", map[string]any{"name": "  Bench \u00e9t\u00e9  "})
	if code != 200 || twin["name"] != "Bench \u00e9t\u00e9" {
		t.Fatalf("copy: %d %v", code, twin["raw"])
	}
	if code, got := s.ask(t, "PATCH", path, map[string]any{"name": "Table", "putAway": true}); code != 200 || got["name"] != "Table" || got["putAway"] != true {
		t.Errorf("change: %d %v", code, got["raw"])
	}
	if code, _ := s.ask(t, "PATCH", path, map[string]any{"name": "   "}); code != 422 {
		t.Errorf("no name: %d", code)
	}
	for query, want := range map[string]string{"": "Bench \u00e9t\u00e9", "?putAway=true": "Table"} {
		_, got := s.ask(t, "GET", "/api/jobs"+query, nil)
		list := got["jobs"].([]any)
		if len(list) != 1 || list[0].(map[string]any)["name"] != want {
			t.Errorf("%s: %v", query, got["raw"])
		}
	}
	scene := fmt.Sprintf("/api/scenes/%d", s.job.Scene)
	if code, got := s.ask(t, "DELETE", scene, nil); code != 409 || !strings.Contains(got["raw"].(string), "jobs on the scene") {
		t.Errorf("a scene with jobs was removed: %d %v", code, got["raw"])
	}
	if code, got := s.ask(t, "GET", scene+"/picture.png", nil); code != 200 || !strings.HasPrefix(got["raw"].(string), "\x89PNG") {
		t.Errorf("shaded: %d", code)
	}
	for _, p := range []string{path, fmt.Sprintf("/api/jobs/%.0f", twin["id"]), scene} {
		if code, got := s.ask(t, "DELETE", p, nil); code != 204 {
			t.Errorf("%s: %d %v", p, code, got["raw"])
		}
	}
}

func TestTheLibraryByHTTP(t *testing.T) {
	s := open(t)
	body := map[string]any{"tone": 0.5, "secondTone": 0.2, "roughness": 1, "rules": []any{}}
	for want := 1; want <= 2; want++ {
		code, got := s.ask(t, "POST", "/api/library/clay", map[string]any{"name": "Pale clay", "body": body})
		if code != 200 || got["version"] != float64(want) || got["key"] != "pale_clay" {
			t.Fatalf("%d %v", code, got["raw"])
		}
	}
	body["tone"] = 7
	if code, got := s.ask(t, "POST", "/api/library/clay", map[string]any{"name": "Loud", "body": body}); code != 422 ||
		!strings.Contains(got["raw"].(string), "surface.clay.tone") {
		t.Errorf("a fault: %d %v", code, got["raw"])
	}
	if code, _ := s.ask(t, "POST", "/api/library/quality", map[string]any{"name": "PROOF", "body": map[string]any{}}); code != 422 {
		t.Errorf("a name of the program's: %d", code)
	}
	if code, _ := s.ask(t, "GET", "/api/library/nonsense", nil); code != 422 {
		t.Errorf("nonsense: %d", code)
	}
	_, got := s.ask(t, "GET", "/api/library/quality", nil)
	if !strings.Contains(got["raw"].(string), `"key":"press"`) {
		t.Errorf("presets: %v", got["raw"])
	}
	if code, _ := s.ask(t, "DELETE", "/api/library/clay/pale_clay", nil); code != 204 {
		t.Errorf("put away: %d", code)
	}
	if code, _ := s.ask(t, "DELETE", "/api/library/quality/proof", nil); code != 409 {
		t.Errorf("a preset was put away: %d", code)
	}
}
