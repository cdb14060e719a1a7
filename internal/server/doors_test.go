package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"amberproof/core/finish"
	"amberproof/internal/frozen"
	"amberproof/internal/guests"
	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/round"
	"amberproof/internal/server"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// What somebody must be allowed to do for each operation, and whether it is done to something
// of a project: then it is as if it were not there for people of other projects.
type rule struct {
	do    identity.Act
	house bool // of the studio, or a list of what is one's own
	link  bool // of whoever looks by a link, and of nobody else
}

var rules = map[string]rule{}

func init() {
	for do, ids := range map[identity.Act]string{
		identity.See: "get-job get-blocked compare-ticket get-outlook get-forecast get-job-preflight get-kept get-kept-picture get-board " +
			"list-people compare-proof get-proof-picture get-tile lay-proof list-remarks get-difference " +
			"get-difference-picture get-spot list-proof-parts get-round get-round-sheet get-contact-sheet get-round-document " +
			"list-topics list-wanted get-run measure-cast read-pixel get-blame get-noise get-course foretell-further get-scene get-ball drop-parts " +
			"grow-faces frame-scene list-kept move-parts pose-scene get-preflight get-preflight-progress get-setup compare-setup render-small work-out-stage",
		identity.Judge:      "answer-round make-remark say-in-remark",
		identity.EditScenes: "remove-kept change-scene save-setup take-setup save-view remove-view change-view",
		identity.EditJobs:   "create-job change-job copy-job save-ticket make-variants",
		identity.RunJobs:    "start-run go-on deliver-again place-run ask-run",
		identity.EditRounds: "make-round withdraw-proof remove-round change-round begin-round put-up list-links make-link revoke-link",
		identity.Remove:     "remove-job remove-run remove-scene",
		identity.EditProject: "change-project add-person remove-person set-role invite-person " +
			"set-mail list-messages retry-message list-webhooks add-webhook change-webhook remove-webhook get-stand-in set-stand-in",
	} {
		for id := range strings.FieldsSeq(ids) {
			rules[id] = rule{do: do}
		}
	}
	for id := range strings.FieldsSeq("link-round link-remarks link-remark link-say link-answer link-picture link-original") {
		rules[id] = rule{do: identity.See, link: true}
	}
	for do, ids := range map[identity.Act]string{
		identity.See: "get-import list-jobs list-library get-library-entry get-library-picture get-me " +
			"rename-me get-my-mail set-my-mail list-pictures get-small-picture " +
			"list-projects get-queue list-runs list-scenes get-settings list-shelf get-shelf-ball list-surrounds show-surround",
		identity.EditLibrary: "keep-in-library put-away-from-library",
		identity.EditProject: "make-project list-audit",
	} {
		for id := range strings.FieldsSeq(ids) {
			rules[id] = rule{do: do, house: true}
		}
	}
}

// Routes past the description, with who may take them; none: anybody on this machine.
var pastDescription = map[string]*rule{
	"PUT /api/me":                                       {do: identity.See, house: true},
	"PUT /api/me/password":                              {do: identity.See, house: true},
	"GET /api/audit.csv":                                {do: identity.EditProject, house: true},
	"POST /api/passkey":                                 nil,
	"PUT /api/passkey":                                  nil,
	"GET /api/me/passkeys":                              {do: identity.See, house: true},
	"POST /api/me/passkeys":                             {do: identity.See, house: true},
	"PUT /api/me/passkeys":                              {do: identity.See, house: true},
	"DELETE /api/me/passkeys/:id":                       {do: identity.See, house: true},
	"PUT /api/session":                                  nil,
	"DELETE /api/session":                               nil,
	"POST /api/invitation":                              nil,
	"PUT /api/invitation":                               nil,
	"POST /api/link/open":                               nil,
	"GET /api/live":                                     {do: identity.See, house: true},
	"POST /api/surrounds":                               {do: identity.EditScenes, house: true},
	"POST /api/pictures":                                {do: identity.EditScenes, house: true},
	"POST /api/scenes":                                  {do: identity.EditScenes},
	"GET /api/scenes/:id/shape":                         {do: identity.See},
	"GET /api/scenes/:id/live":                          {do: identity.See},
	"GET /api/runs/:id/picture/:pass":                   {do: identity.See},
	"GET /api/runs/:id/noise.csv":                       {do: identity.See},
	"GET /api/scenes/:id/picture.png":                   {do: identity.See},
	"GET /api/runs/:id/deliveries/:number/files/*path":  {do: identity.See},
	"GET /api/runs/:id/deliveries/:number/delivery.zip": {do: identity.See},
	"GET /metrics":                                      nil, "GET /healthz": nil, "GET /openapi.json": nil, "GET /openapi.yaml": nil,
	"GET /openapi-3.0.json": nil, "GET /openapi-3.0.yaml": nil,
}

// estate is a server with a thing of every kind in one project.
type estate struct {
	*site
	ids    map[string]int64 // by the first word of a path
	link   string           // what a page keeps that a link was opened in
	person int64
	people map[string]*http.Client // lead, td, artist, reviewer; and a lead of another project
}

func estateOf(t *testing.T) *estate {
	t.Helper()
	st := testkit.Store(t)
	dir := t.TempDir()
	a, j := testkit.AppAt(t, st, dir)
	sv, err := server.New(a, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	h := httptest.NewServer(sv.Handler())
	t.Cleanup(h.Close)
	e := &estate{site: &site{h, a, j}, ids: map[string]int64{"jobs": j.ID, "scenes": j.Scene, "projects": j.Project}, people: map[string]*http.Client{}}
	ctx, me := t.Context(), identity.Local
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	r, err := a.Runs.Start(ctx, me, j.ID, j.Version)
	must(err)
	views, err := a.Scenes.Views(ctx, me, j.Scene)
	must(err)
	none := []byte("{}")
	k, err := st.Keep(ctx, 1, store.Kept{Scene: j.Scene, Width: 1, Height: 1, Samples: 1, Camera: none, Setup: none, Ticket: none, Picture: []byte("png")})
	must(err)
	client, err := a.Projects.Join(ctx, me, j.Project, "A client", identity.Reviewer)
	must(err)
	rd, err := a.Review.Make(ctx, me, j.Project, review.Terms{Kind: round.Clay, Title: "Clay", Asked: []int64{client.ID}})
	must(err)
	sum, err := frozen.Write(ctx, filepath.Join(dir, "proofs"), &frozen.Proof{Window: [4]int{0, 0, 1, 1}, Resolved: ticket.Resolved{Ticket: j.Ticket}},
		[]frozen.Shown{{Key: "beauty", Title: "Beauty", Picture: &finish.Picture{W: 1, H: 1, R: []float32{1}}}}, nil)
	must(err)
	p := &store.Proof{Scene: "s", View: "v", Run: r.ID, SHA256: sum, Passes: []store.ProofPass{}, Maker: 1}
	must(st.InRound(ctx, store.Person{ID: 1}, rd.ID, func(*store.RoundWhole) (store.RoundChange, error) { return store.RoundChange{Proof: p}, nil }))
	e.ids["runs"], e.ids["views"], e.ids["kept"], e.ids["rounds"], e.ids["proofs"] = r.ID, views[0].ID, k.ID, rd.ID, p.ID
	remarks, err := a.Review.Remark(ctx, me, p.ID, review.ToRemark{Mark: round.Mark{Kind: round.Spot, Points: [][2]float64{{0, 0}}}, Words: "x"})
	must(err)
	e.ids["remarks"] = remarks[0].ID
	l, err := a.Guests.Make(ctx, me, rd.ID, guests.Terms{Person: client.ID, Days: 1, Originals: guests.PlainOriginals})
	must(err)
	e.ids["links"] = l.ID
	opened, err := a.Guests.Open(ctx, "here", l.Token, "", "A client")
	must(err)
	e.link = opened.Session
	hook, err := st.AddWebhook(ctx, 1, store.Webhook{Project: j.Project, URL: "http://127.0.0.1:1/", Kinds: []store.EventKind{}})
	must(err)
	letter := &store.Message{Project: j.Project, Address: "x@studio.example"}
	must(st.AddMessage(ctx, letter))
	e.ids["webhooks"], e.ids["messages"] = hook, letter.ID
	other, err := a.Projects.Ensure(ctx, me, "Another campaign")
	must(err)
	for _, role := range identity.Roles {
		v, err := a.Projects.Join(ctx, me, j.Project, "The "+string(role), role)
		must(err)
		e.people[string(role)] = e.as(t, v.ID)
		e.person = v.ID
	}
	v, err := a.Projects.Join(ctx, me, other.ID, "A stranger", identity.Lead)
	must(err)
	e.people["stranger"] = e.as(t, v.ID)
	return e
}

// as is a browser in which somebody is signed in.
func (e *estate) as(t *testing.T, person int64) *http.Client {
	t.Helper()
	c := e.browser(t)
	if status, said := e.send2(t, c, "PUT", "/api/me", fmt.Sprintf(`{"person":%d}`, person)); status != http.StatusNoContent {
		t.Fatalf("acting as %d: %d %s", person, status, said)
	}
	return c
}

// browser is one in which nobody is signed in.
func (e *estate) browser(t *testing.T) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &http.Client{Jar: jar}
}

func (e *estate) send2(t *testing.T, c *http.Client, method, path, body string) (int, string) {
	t.Helper()
	r, err := http.NewRequest(method, e.URL+path, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := c.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	said, err := io.ReadAll(io.LimitReader(resp.Body, 1<<16))
	if err != nil {
		t.Fatal(err)
	}
	return resp.StatusCode, string(said)
}

// description is what is used here of the API's.
type description struct {
	Paths map[string]map[string]struct {
		OperationID string `json:"operationId"`
		Parameters  []struct {
			Name, In string
			Required bool
			Schema   *schema
		}
		RequestBody *struct {
			Content map[string]struct{ Schema *schema }
		}
	}
	Components struct{ Schemas map[string]*schema }
}

// schema is that of a value.
type schema struct {
	Ref        string `json:"$ref"`
	Type       any
	Enum       []any
	Minimum    float64
	MinItems   int
	MinLength  int
	Items      *schema
	Properties map[string]*schema
	Required   []string
}

// least is the least value that a schema lets through.
func (d *description) least(s *schema) any {
	if name, ok := strings.CutPrefix(s.Ref, "#/components/schemas/"); ok {
		return d.least(d.Components.Schemas[name])
	}
	if len(s.Enum) > 0 {
		return s.Enum[0]
	}
	kind := s.Type
	if several, ok := kind.([]any); ok {
		kind = several[0]
	}
	switch kind {
	case "object":
		out := map[string]any{}
		for _, k := range s.Required {
			out[k] = d.least(s.Properties[k])
		}
		if len(s.Required) == 0 { // one of them has to be there
			for k, v := range s.Properties {
				if k != "$schema" {
					out[k] = d.least(v)
				}
			}
		}
		return out
	case "array":
		out := []any{}
		for range s.MinItems {
			out = append(out, d.least(s.Items))
		}
		return out
	case "integer", "number":
		return s.Minimum
	case "boolean":
		return false
	case "string":
		return strings.Repeat("x", max(1, s.MinLength))
	}
	return map[string]any{}
}

// asked is a request for an operation.
type asked struct{ id, method, path, body string }

// requests are one for every operation that is described, with the least that it takes.
func (e *estate) requests(t *testing.T) []asked {
	t.Helper()
	status, said := e.send2(t, http.DefaultClient, "GET", "/openapi.json", "")
	var d description
	if err := json.NewDecoder(io.MultiReader(strings.NewReader(said), e.rest(t, len(said)))).Decode(&d); status != 200 || err != nil {
		t.Fatal(status, err)
	}
	var out []asked
	for path, methods := range d.Paths {
		for method, o := range methods {
			a := asked{id: o.OperationID, method: strings.ToUpper(method), path: path}
			first, _, _ := strings.Cut(strings.TrimPrefix(strings.Replace(path, "/link/", "/", 1), "/api/"), "/")
			a.path = strings.NewReplacer("{id}", fmt.Sprint(e.ids[first]), "{person}", fmt.Sprint(e.person), "{kind}", "clay", "{key}", "x",
				"{version}", "1", "{intent}", "stop", "{name}", "x", "{sha256}", strings.Repeat("0", 64), "{word}", "x").Replace(path)
			var query []string
			for _, p := range o.Parameters {
				if p.In == "query" && p.Required {
					query = append(query, fmt.Sprintf("%s=%v", p.Name, d.least(p.Schema)))
				}
			}
			if len(query) > 0 {
				a.path += "?" + strings.Join(query, "&")
			}
			if o.RequestBody != nil {
				for _, c := range o.RequestBody.Content {
					b, err := json.Marshal(d.least(c.Schema))
					if err != nil {
						t.Fatal(err)
					}
					a.body = string(b)
				}
			}
			out = append(out, a)
		}
	}
	// Things are removed last, and what lies in others before these.
	last := []string{"remove-person", "remove-webhook", "withdraw-proof", "remove-round", "remove-kept", "remove-view", "remove-run", "remove-job", "remove-scene"}
	slices.SortFunc(out, func(a, b asked) int {
		if d := slices.Index(last, a.id) - slices.Index(last, b.id); d != 0 {
			return d
		}
		return strings.Compare(a.id, b.id)
	})
	return out
}

// rest is what comes behind the first bytes of the description, which is longer than answers
// are read here.
func (e *estate) rest(t *testing.T, from int) io.Reader {
	t.Helper()
	resp, err := http.Get(e.URL + "/openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	if err != nil {
		t.Fatal(err)
	}
	return bytes.NewReader(b[from:])
}

// may tells whether a role may do something in its own project.
func may(role string, do identity.Act) bool {
	who := identity.Actor{ID: 1, Roles: map[int64]identity.Role{1: identity.Role(role)}}
	return identity.May(who, do, identity.Thing{Project: 1, Maker: 2}) == nil
}

// Every operation of the interface, as every role, in one's own project and in one of others.
// An operation without a rule fails here.
func TestDoors(t *testing.T) {
	e := estateOf(t)
	all := e.requests(t)
	known := map[string]bool{}
	for _, a := range all {
		known[a.id] = true
		if _, ok := rules[a.id]; !ok {
			t.Errorf("%s: there is no rule for it", a.id)
		}
	}
	for _, a := range all {
		if server.AsksOnly(a.id) != (a.method == "POST" && rules[a.id].do == identity.See && !rules[a.id].house && !rules[a.id].link) {
			t.Errorf("%s, %s: what changes something stands in the audit trail, and what asks only does not", a.method, a.id)
		}
	}
	for id := range rules {
		if !known[id] {
			t.Errorf("%s: there is a rule and no operation", id)
		}
	}
	// First all that is refused, then what is allowed: that changes things.
	for _, a := range all {
		r := rules[a.id]
		if r.link {
			continue // see TestDoorsForGuests
		}
		status, said := e.send2(t, e.people["stranger"], a.method, a.path, a.body)
		if !r.house && status != http.StatusNotFound {
			t.Errorf("a stranger, %s: %d %s", a.id, status, said)
		}
		for _, role := range identity.Roles {
			if may(string(role), r.do) {
				continue
			}
			if status, said := e.send2(t, e.people[string(role)], a.method, a.path, a.body); status != http.StatusForbidden {
				t.Errorf("a %s, %s: %d %s", role, a.id, status, said)
			}
		}
	}
	for _, a := range all {
		for _, role := range slices.Backward(identity.Roles) { // the one who may least of those who may
			if !may(string(role), rules[a.id].do) || rules[a.id].link {
				continue
			}
			status, said := e.send2(t, e.people[string(role)], a.method, a.path, a.body)
			hidden := status == http.StatusNotFound && strings.Contains(said, fmt.Sprintf("%d: not found\"", e.ids[strings.Split(a.path, "/")[2]]))
			asks := a.id == "answer-round" && status == http.StatusForbidden // nobody is asked in it
			if status >= 500 || status == http.StatusUnauthorized || hidden || status == http.StatusForbidden && !asks {
				t.Errorf("a %s, %s: %d %s", role, a.id, status, said)
			}
			break
		}
	}
}

// Routes past the description have rules, too, and strangers meet them as they meet the rest.
func TestDoorsPastTheDescription(t *testing.T) {
	e := estateOf(t)
	described := map[string]bool{}
	for _, a := range e.requests(t) {
		described[a.id] = true
	}
	sv, err := server.New(e.app, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	past := 0
	for _, route := range sv.Routes() {
		r, ok := pastDescription[route]
		if !ok {
			continue
		}
		past++
		if r == nil || r.house {
			continue
		}
		method, path, _ := strings.Cut(route, " ")
		first := strings.Split(path, "/")[2]
		path = strings.NewReplacer(":id", fmt.Sprint(e.ids[first]), ":pass", "beauty", ":number", "1", "*path", "x").Replace(path)
		if method == "POST" {
			path += fmt.Sprintf("?project=%d", e.job.Project)
		}
		if status, said := e.send2(t, e.people["stranger"], method, path, ""); status != http.StatusNotFound && !(method == "POST" && status < 500 && status != 200) {
			t.Errorf("a stranger, %s: %d %s", route, status, said)
		}
	}
	if n := len(sv.Routes()); past+len(described) != n {
		t.Errorf("there are %d routes, %d described and %d with a rule of their own: %v", n, len(described), past, sv.Routes())
	}
}

// Once somebody has a password, who has not signed in gets nothing, by any operation or route;
// a session by which the password has changed is none.
func TestDoorsForTheSignedOut(t *testing.T) {
	e := estateOf(t)
	before := e.people["lead"]
	mine := e.as(t, 1)
	if status, said := e.send2(t, mine, "PUT", "/api/me/password", `{"password":"a lamp in the window"}`); status != http.StatusNoContent {
		t.Fatal(status, said)
	}
	for name, c := range map[string]*http.Client{"nobody": {}, "somebody of the open house": before} {
		for _, a := range e.requests(t) {
			if status, said := e.send2(t, c, a.method, a.path, a.body); status != http.StatusUnauthorized {
				t.Errorf("%s, %s: %d %s", name, a.id, status, said)
			}
		}
		for route, r := range pastDescription {
			if r == nil {
				continue
			}
			method, path, _ := strings.Cut(route, " ")
			path = strings.NewReplacer(":id", "1", ":pass", "beauty", ":number", "1", "*path", "x").Replace(path)
			if status, said := e.send2(t, c, method, path, "{}"); status != http.StatusUnauthorized {
				t.Errorf("%s, %s: %d %s", name, route, status, said)
			}
		}
	}
	if status, said := e.send2(t, mine, "GET", "/api/me", ""); status != http.StatusOK || !strings.Contains(said, `"open":false`) {
		t.Errorf("who set it: %d %s", status, said)
	}
	elsewhere := e.browser(t)
	sign := func(password string) string { return fmt.Sprintf(`{"name":"lead","password":%q}`, password) }
	if status, said := e.send2(t, elsewhere, "PUT", "/api/session", sign("not it at all")); status != http.StatusUnprocessableEntity {
		t.Errorf("by a wrong password: %d %s", status, said)
	}
	if status, said := e.send2(t, elsewhere, "PUT", "/api/session", sign("a lamp in the window")); status != http.StatusNoContent {
		t.Fatal(status, said)
	}
	if status, said := e.send2(t, elsewhere, "PUT", "/api/me", `{"person":2}`); status != http.StatusForbidden {
		t.Errorf("acting as somebody else: %d %s", status, said)
	}
	change := `{"was":"a lamp in the window","password":"another lamp there"}`
	if status, said := e.send2(t, elsewhere, "PUT", "/api/me/password", change); status != http.StatusNoContent {
		t.Fatal(status, said)
	}
	for c, want := range map[*http.Client]int{mine: http.StatusUnauthorized, elsewhere: http.StatusOK} {
		if status, said := e.send2(t, c, "GET", "/api/projects", ""); status != want {
			t.Errorf("after another password: %d %s", status, said)
		}
	}
	if status, _ := e.send2(t, elsewhere, "DELETE", "/api/session", ""); status != http.StatusNoContent {
		t.Error("signing out:", status)
	}
	if status, _ := e.send2(t, elsewhere, "GET", "/api/me", ""); status != http.StatusUnauthorized {
		t.Error("signed out:", status)
	}
	for range 60 {
		status, _ := e.send2(t, elsewhere, "PUT", "/api/session", sign("not it at all"))
		if status == http.StatusTooManyRequests {
			return
		}
	}
	t.Error("a password can be tried for ever")
}

// What is for those who look by a link answers to the bearer of one, and to nobody of the team;
// the bearer has no way to anything else.
func TestDoorsForGuests(t *testing.T) {
	e := estateOf(t)
	ask := func(c *http.Client, a asked, bearer string) (int, string) {
		t.Helper()
		r, err := http.NewRequest(a.method, e.URL+a.path, strings.NewReader(a.body))
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Content-Type", "application/json")
		if bearer != "" {
			r.Header.Set("Authorization", "Bearer "+bearer)
		}
		resp, err := c.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		defer resp.Body.Close()
		said, err := io.ReadAll(io.LimitReader(resp.Body, 1<<16))
		if err != nil {
			t.Fatal(err)
		}
		if strings.HasPrefix(a.id, "link-") && (resp.Header.Get("Cache-Control") != "no-store" || resp.Header.Get("Referrer-Policy") != "no-referrer") {
			t.Errorf("%s leaves something behind: %v", a.id, resp.Header)
		}
		return resp.StatusCode, string(said)
	}
	if _, err := e.app.Accounts.SetPassword(t.Context(), identity.Actor{ID: 1, Name: "Lead", Roles: map[int64]identity.Role{e.job.Project: identity.Lead}},
		"here", "", "a lamp in the window"); err != nil {
		t.Fatal(err)
	}
	for _, a := range e.requests(t) {
		nobody := &http.Client{}
		if !rules[a.id].link {
			if status, said := ask(nobody, a, e.link); status != http.StatusUnauthorized {
				t.Errorf("a guest, %s: %d %s", a.id, status, said)
			}
			continue
		}
		for _, bearer := range []string{"", "AAAAAAAAAAAAAAAAAAAAAAAAAA", strings.Repeat("A", 10000)} {
			if status, said := ask(e.people["lead"], a, bearer); status != http.StatusUnauthorized {
				t.Errorf("by %.5q, %s: %d %s", bearer, a.id, status, said)
			}
		}
		status, said := ask(nobody, a, e.link)
		nothing := status == http.StatusNotFound && (a.id == "link-say" || a.id == "link-answer") // they name proof 0
		if status != http.StatusOK && status != http.StatusUnprocessableEntity && !nothing {
			t.Errorf("a guest, %s: %d %s", a.id, status, said)
		}
	}
}

// What is done is told in the audit trail: by whom, to what, of which project, with what answer.
func TestWhatIsDoneIsRecorded(t *testing.T) {
	e := estateOf(t)
	lead := e.people["lead"]
	e.send2(t, lead, "PATCH", fmt.Sprintf("/api/projects/%d", e.job.Project), `{"name":"Renamed"}`)
	e.send2(t, e.people["reviewer"], "DELETE", fmt.Sprintf("/api/scenes/%d", e.job.Scene), "")
	e.send2(t, lead, "GET", "/api/jobs", "")
	status, said := e.send2(t, lead, "GET", "/api/audit", "")
	var got []struct {
		Name, Did, Kind, Address string
		Thing, Project           int64
		Status                   int
	}
	if err := json.Unmarshal([]byte(said), &got); status != 200 || err != nil || len(got) < 2 {
		t.Fatal(status, said, err)
	}
	if d := got[0]; d.Name != "The reviewer" || d.Did != "remove-scene" || d.Kind != "scene" || d.Thing != e.job.Scene || d.Project != e.job.Project ||
		d.Status != http.StatusForbidden || d.Address != "127.0.0.1" {
		t.Errorf("%+v", d)
	}
	if d := got[1]; d.Name != "The lead" || d.Did != "change-project" || d.Project != e.job.Project || d.Status != http.StatusOK {
		t.Errorf("%+v", d)
	}
	if status, said := e.send2(t, lead, "GET", "/api/audit.csv?from=2020-01-01T00:00:00Z", ""); status != 200 || !strings.Contains(said, "change-project") {
		t.Error(status, said)
	}
	if status, _ := e.send2(t, lead, "GET", "/api/audit.csv?from=yesterday", ""); status != http.StatusUnprocessableEntity {
		t.Error("a time that is none:", status)
	}
	if status, _ := e.send2(t, e.people["td"], "GET", "/api/audit.csv", ""); status != http.StatusForbidden {
		t.Error("a TD reads it:", status)
	}
}

// A set-up is not taken from a scene of others, and nobody acts as somebody who is not there.
func TestWhatABodyNames(t *testing.T) {
	e := estateOf(t)
	theirs, err := e.app.Projects.Ensure(t.Context(), identity.Local, "Another campaign")
	if err != nil {
		t.Fatal(err)
	}
	scene, err := e.app.Scenes.ImportBundle(t.Context(), identity.Local, theirs.ID, testkit.Bundle())
	if err != nil {
		t.Fatal(err)
	}
	body := fmt.Sprintf(`{"version":0,"scene":%d}`, scene.ID)
	path := fmt.Sprintf("/api/scenes/%d/setup/from", e.job.Scene)
	if status, said := e.send2(t, e.people["lead"], "POST", path, body); status != http.StatusNotFound {
		t.Errorf("a set-up of others: %d %s", status, said)
	}
	for _, body := range []string{`{"person":999}`, `{"person":0}`, `{}`, `[]`, strings.Repeat("x", 5000)} {
		if status, _ := e.send2(t, e.people["lead"], "PUT", "/api/me", body); status != http.StatusNotFound && status != http.StatusUnprocessableEntity {
			t.Errorf("acting as %.20s: %d", body, status)
		}
	}
}
