package outbox

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"strconv"
	"syscall"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"amberproof/internal/store"
)

// poster sends webhooks what they are told, signed after the Standard Webhooks specification
// 1.0.0 (standardwebhooks.com): HMAC-SHA256 of identity, time and body.
type poster struct {
	store  *store.Store
	client *http.Client
}

func newPoster(st *store.Store, standIn *standIn, open bool) *poster {
	dial := net.Dialer{Timeout: attemptLimit, Control: func(_, address string, _ syscall.RawConn) error { return reachable(address, open) }}
	return &poster{st, &http.Client{
		Transport: &inProcess{standInHost, standIn, &http.Transport{DialContext: dial.DialContext, MaxIdleConnsPerHost: 1, IdleConnTimeout: time.Minute}},
		// What is said once would be said to wherever an answer leads.
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}}
}

// reachable refuses addresses that no other program of a studio has: those that only mean
// something on a link, where machines of some providers tell their secrets; and, where the
// server is reached from elsewhere, those of this machine.
func reachable(address string, open bool) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return err
	}
	ip := at.Addr().Unmap()
	if ip.IsLinkLocalUnicast() || ip.IsMulticast() || ip.IsUnspecified() || ip.IsLoopback() && !open {
		return fmt.Errorf("%w: nothing is sent to %s", ErrFinal, ip)
	}
	return nil
}

// NewSecret draws what signs a webhook: 256 bits, in the specification's form.
func NewSecret() string {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails: crypto/rand
	return "whsec_" + base64.StdEncoding.EncodeToString(b)
}

// Carry posts a message. Any answer of 200 to 299 takes it, 410 says never again.
func (p *poster) Carry(ctx context.Context, m *store.Message) (string, error) {
	hook, err := p.store.Webhook(ctx, m.Webhook)
	if err != nil {
		return "", err
	}
	signer, err := webhooks.NewWebhook(hook.Secret)
	if err != nil {
		return "", err
	}
	id, at := fmt.Sprintf("evt_%d", m.Event), time.Now()
	signature, err := signer.Sign(id, at, []byte(m.Body))
	if err != nil {
		return "", err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, m.Address, bytes.NewReader([]byte(m.Body)))
	if err != nil {
		return "", fmt.Errorf("%w: %w", ErrFinal, err)
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("User-Agent", "Amber-Proof")
	r.Header.Set(webhooks.HeaderWebhookID, id)
	r.Header.Set(webhooks.HeaderWebhookTimestamp, strconv.FormatInt(at.Unix(), 10))
	r.Header.Set(webhooks.HeaderWebhookSignature, signature)
	resp, err := p.client.Do(r)
	if err != nil {
		return "", err
	}
	defer resp.Body.Close()
	_, _ = io.CopyN(io.Discard, resp.Body, 4096) // so that the line can be used again
	switch said := "answered " + resp.Status; {
	case resp.StatusCode/100 == 2:
		return said, nil
	case resp.StatusCode == http.StatusGone:
		return said, ErrFinal
	default:
		return said, errors.New(said)
	}
}

// inProcess has requests to one host answered by a handler of this process.
type inProcess struct {
	host    string
	handler http.Handler
	rest    http.RoundTripper
}

// RoundTrip answers a request.
func (t *inProcess) RoundTrip(r *http.Request) (*http.Response, error) {
	if r.URL.Host != t.host {
		return t.rest.RoundTrip(r)
	}
	w := &answer{header: http.Header{}, status: http.StatusOK}
	t.handler.ServeHTTP(w, r)
	return &http.Response{
		StatusCode: w.status, Status: fmt.Sprintf("%d %s", w.status, http.StatusText(w.status)), Header: w.header, Body: io.NopCloser(&w.body), Request: r,
	}, nil
}

// answer is what a handler of this process answers.
type answer struct {
	header http.Header
	status int
	body   bytes.Buffer
}

func (a *answer) Header() http.Header         { return a.header }
func (a *answer) WriteHeader(status int)      { a.status = status }
func (a *answer) Write(b []byte) (int, error) { return a.body.Write(b) }
