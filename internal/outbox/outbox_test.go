package outbox_test

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/outbox"
	"amberproof/internal/store"
	"amberproof/internal/testkit"
	"amberproof/internal/wait"
)

func TestMain(m *testing.M) { testkit.Main(m) }

var ctx = context.Background()

type house struct {
	*outbox.Service
	st      *store.Store
	project int64
	began   time.Time
}

func open(t *testing.T, mail outbox.Mailer) *house {
	t.Helper()
	st := testkit.Store(t)
	project, err := st.EnsureProject(ctx, 1, "Campaign")
	if err != nil {
		t.Fatal(err)
	}
	h := &house{st: st, project: project.ID, began: time.Now().Add(time.Second)}
	h.Service = outbox.New(outbox.Options{Store: st, Guard: identity.Guard{Owners: st}, Mail: mail, Log: slog.New(slog.DiscardHandler), Open: true})
	outbox.At(h.Service, h.began)
	return h
}

// hook adds a webhook and a message to it.
func (h *house) hook(t *testing.T, url string) (outbox.Webhook, *store.Message) {
	t.Helper()
	v, err := h.AddWebhook(ctx, identity.Local, h.project, outbox.WebhookTerms{URL: url, Kinds: []store.EventKind{store.ProofPutUp}})
	if err != nil {
		t.Fatal(err)
	}
	m := &store.Message{Project: h.project, Webhook: v.ID, Event: 7, Address: url, Body: `{"id":"evt_7"}`}
	if err := h.st.AddMessage(ctx, m); err != nil {
		t.Fatal(err)
	}
	return v, m
}

func (h *house) is(t *testing.T, m *store.Message, state store.MessageState, attempts int) store.Message {
	t.Helper()
	got, err := outbox.State(ctx, h.Service, m.ID)
	if err != nil || got.State != state || got.Attempts != attempts {
		t.Errorf("message is %s after %d attempts (%q), want %s after %d; %v", got.State, got.Attempts, got.Said, state, attempts, err)
	}
	return got
}

func (h *house) bring(t *testing.T) {
	t.Helper()
	if err := outbox.Bring(ctx, h.Service); err != nil {
		t.Fatal(err)
	}
}

// program is another program that is told, and answers as it is told to.
type program struct {
	*httptest.Server
	mu      sync.Mutex
	answers []int // the last one for ever
	got     []*http.Request
	bodies  []string
}

func newProgram(t *testing.T, answers ...int) *program {
	p := &program{answers: answers}
	p.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b, _ := io.ReadAll(r.Body)
		p.mu.Lock()
		defer p.mu.Unlock()
		p.got, p.bodies = append(p.got, r), append(p.bodies, string(b))
		status := p.answers[0]
		if len(p.answers) > 1 {
			p.answers = p.answers[1:]
		}
		if status/100 == 3 {
			w.Header().Set("Location", "/elsewhere")
		}
		w.WriteHeader(status)
	}))
	t.Cleanup(p.Close)
	return p
}

// The signature is worked out here by the specification's own words.
func TestWebhooksAreSigned(t *testing.T) {
	h, p := open(t, outbox.Simulated{}), newProgram(t, 204)
	v, m := h.hook(t, p.URL)
	h.bring(t)
	h.is(t, m, store.Sent, 1)
	if len(p.got) != 1 || p.bodies[0] != m.Body {
		t.Fatalf("%d requests, %q", len(p.got), p.bodies)
	}
	r := p.got[0]
	key, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(v.Secret, "whsec_"))
	if err != nil || len(key) != 32 {
		t.Fatal(len(key), err)
	}
	mac := hmac.New(sha256.New, key)
	fmt.Fprintf(mac, "%s.%s.%s", r.Header.Get("webhook-id"), r.Header.Get("webhook-timestamp"), m.Body)
	if want := "v1," + base64.StdEncoding.EncodeToString(mac.Sum(nil)); r.Header.Get("webhook-signature") != want || r.Header.Get("webhook-id") != "evt_7" {
		t.Errorf("%v, want %s", r.Header, want)
	}
	list, err := h.Webhooks(ctx, identity.Local, h.project)
	if err != nil || list[0].Secret != "" {
		t.Errorf("the secret is told again: %v %v", list, err)
	}
}

func TestWhatIsNotTakenIsTriedAgain(t *testing.T) {
	h, p := open(t, outbox.Simulated{}), newProgram(t, 500, 302, 200)
	_, m := h.hook(t, p.URL)
	h.bring(t)
	h.is(t, m, store.Waiting, 1)
	h.bring(t) // not before its time
	h.is(t, m, store.Waiting, 1)
	outbox.At(h.Service, h.began.Add(time.Hour))
	h.bring(t)
	if got := h.is(t, m, store.Waiting, 2); got.Said != "answered 302 Found" {
		t.Errorf("said %q", got.Said)
	}
	if err := h.Retry(ctx, identity.Local, m.ID); err != nil {
		t.Fatal(err)
	}
	h.bring(t)
	h.is(t, m, store.Sent, 1)
	if len(p.got) != 3 || p.got[0].Header.Get("webhook-id") != p.got[2].Header.Get("webhook-id") {
		t.Errorf("%d requests; they lead elsewhere, or an attempt has an identity of its own", len(p.got))
	}
	if err := h.Retry(ctx, identity.Local, m.ID); !errors.Is(err, fault.ErrState) {
		t.Errorf("what was sent is sent again: %v", err)
	}
}

func TestItGivesUp(t *testing.T) {
	h, never, gone := open(t, outbox.Simulated{}), newProgram(t, 503), newProgram(t, 410)
	_, a := h.hook(t, never.URL)
	_, b := h.hook(t, gone.URL)
	_, c := h.hook(t, "http://169.254.169.254/latest")
	at := h.began
	for range len(outbox.Waits) + 3 {
		h.bring(t)
		at = at.Add(25 * time.Hour)
		outbox.At(h.Service, at)
	}
	h.is(t, a, store.GivenUp, len(outbox.Waits)+1)
	h.is(t, b, store.GivenUp, 1)
	h.is(t, c, store.GivenUp, 1)
}

func TestAnAttemptThatDiedIsMadeAgain(t *testing.T) {
	h, p := open(t, outbox.Simulated{}), newProgram(t, 200)
	_, m := h.hook(t, p.URL)
	if err := outbox.Claim(ctx, h.Service); err != nil {
		t.Fatal(err)
	}
	h.bring(t)
	h.is(t, m, store.Waiting, 1)
	outbox.At(h.Service, h.began.Add(time.Minute))
	h.bring(t)
	h.is(t, m, store.Sent, 2)
}

// A program that does not answer keeps no other waiting.
func TestASlowProgramIsAlone(t *testing.T) {
	h, quick := open(t, outbox.Simulated{}), newProgram(t, 200)
	release := make(chan struct{})
	slow := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { <-release }))
	t.Cleanup(slow.Close)
	t.Cleanup(sync.OnceFunc(func() { close(release) }))
	h.hook(t, slow.URL)
	_, m := h.hook(t, quick.URL)
	working, end := context.WithCancel(ctx)
	var wg sync.WaitGroup
	wg.Go(func() { h.Work(working) })
	t.Cleanup(func() { end(); wg.Wait() })
	wait.Until(t, "the quick one to be told", func() bool {
		got, err := outbox.State(ctx, h.Service, m.ID)
		return err == nil && got.State == store.Sent
	}, nil)
}

func TestWhereNothingIsSent(t *testing.T) {
	for address, want := range map[string][2]bool{ // whether it is sent, with the server open and reached from elsewhere
		"127.0.0.1:80": {true, false}, "[::1]:80": {true, false}, "[::ffff:127.0.0.1]:80": {true, false},
		"169.254.169.254:80": {}, "[fe80::1]:80": {}, "0.0.0.0:80": {}, "224.0.0.1:80": {},
		"10.1.2.3:443": {true, true}, "93.184.216.34:443": {true, true},
	} {
		for i, open := range []bool{true, false} {
			if err := outbox.Reachable(address, open); (err == nil) != want[i] {
				t.Errorf("%s, open %v: %v", address, open, err)
			}
		}
	}
}

func TestWebhooksOutOfBounds(t *testing.T) {
	h := open(t, outbox.Simulated{})
	kinds := []store.EventKind{store.ProofPutUp}
	for name, terms := range map[string]outbox.WebhookTerms{
		"a file":                 {URL: "file:///etc/passwd", Kinds: kinds},
		"no host":                {URL: "http:///x", Kinds: kinds},
		"a password":             {URL: "https://a:b@studio.example", Kinds: kinds},
		"too long":               {URL: "https://studio.example/" + strings.Repeat("x", 1000), Kinds: kinds},
		"nothing to tell":        {URL: "https://studio.example"},
		"an unknown event":       {URL: "https://studio.example", Kinds: []store.EventKind{"x"}},
		"the stand-in of others": {URL: outbox.StandInURL(h.project + 1), Kinds: kinds},
		"the same, disguised":    {URL: "http://STAND-IN.localhost./" + fmt.Sprint(h.project+1), Kinds: kinds},
	} {
		var bad *fault.Input
		if _, err := h.AddWebhook(ctx, identity.Local, h.project, terms); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestTheStandIn(t *testing.T) {
	h := open(t, outbox.Simulated{})
	if _, err := h.Refuse(ctx, identity.Local, h.project, 1); err != nil {
		t.Fatal(err)
	}
	_, m := h.hook(t, outbox.StandInURL(h.project))
	h.bring(t)
	outbox.At(h.Service, h.began.Add(time.Minute))
	h.bring(t)
	h.is(t, m, store.Sent, 2)
	got, err := h.StandIn(ctx, identity.Local, h.project)
	if err != nil || len(got.Got) != 2 || got.Refuses != 0 {
		t.Fatalf("%+v %v", got, err)
	}
	for i, status := range []int{204, 503} { // the newest first
		if g := got.Got[i]; !g.Signed || g.Status != status || g.ID != "evt_7" || g.Body != m.Body {
			t.Errorf("%+v", g)
		}
	}
}
