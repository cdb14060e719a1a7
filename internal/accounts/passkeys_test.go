package accounts_test

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"testing"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
)

// That a passkey lets its person in is tried with a browser's authenticator, in e2e.

func TestPasskeysThatAreNotAccepted(t *testing.T) {
	h := open(t)
	const origin, secret = "http://localhost:8460", "correct horse battery"
	if _, err := h.Accounts.BeginPasskey(ctx, h.lead, "here", origin, secret); !errors.Is(err, fault.ErrState) {
		t.Errorf("without a password: %v", err)
	}
	if _, err := h.Accounts.SetPassword(ctx, h.lead, "here", "", secret); err != nil {
		t.Fatal(err)
	}
	var bad *fault.Input
	if _, err := h.Accounts.BeginPasskey(ctx, h.lead, "here", origin, "wrong"); !errors.As(err, &bad) {
		t.Errorf("by a wrong password: %v", err)
	}
	for _, by := range []string{"http://127.0.0.1:8460", "http://[::1]:8460", "", "x"} {
		if _, err := h.Accounts.BeginSignIn(ctx, "here", by); !errors.As(err, &bad) {
			t.Errorf("at %q: %v", by, err)
		}
	}
	begun, err := h.Accounts.BeginSignIn(ctx, "here", origin)
	if err != nil {
		t.Fatal(err)
	}
	made, err := h.Accounts.BeginPasskey(ctx, h.lead, "here", origin, secret)
	if err != nil {
		t.Fatal(err)
	}
	if a, b := made.Response.AuthenticatorSelection.UserVerification, begun.Response.UserVerification; a != "required" || b != "required" {
		t.Errorf("whoever has the thing gets in, without being known to it: %q, %q", a, b)
	}
	answer := func(challenge string, user int64) []byte {
		b64 := base64.RawURLEncoding.EncodeToString
		client, _ := json.Marshal(map[string]any{"type": "webauthn.get", "challenge": challenge, "origin": origin})
		handle := make([]byte, 8)
		handle[7] = byte(user)
		return fmt.Appendf(nil, `{"id":%q,"rawId":%q,"type":"public-key","response":{"clientDataJSON":%q,"authenticatorData":%q,"signature":%q,"userHandle":%q}}`,
			b64([]byte("x")), b64([]byte("x")), b64(client), b64(make([]byte, 37)), b64([]byte("x")), b64(handle))
	}
	challenge := begun.Response.Challenge.String()
	for name, a := range map[string][]byte{
		"nothing":             nil,
		"no JSON":             []byte("{"),
		"another challenge":   answer("AAAA", h.lead.ID),
		"whose it is not":     answer(challenge, h.lead.ID),
		"the same once more":  answer(challenge, h.lead.ID),
		"somebody unheard of": answer(challenge, 200),
		"more than it can be": make([]byte, 1<<20),
	} {
		if s, err := h.Accounts.SignInByPasskey(ctx, "here", origin, a); !errors.As(err, &bad) || s.Person != 0 {
			t.Errorf("%s: %v %v", name, s, err)
		}
	}
	if err := h.Accounts.AddPasskey(ctx, h.lead, origin, "Key", []byte(`{"id":"x"}`)); !errors.As(err, &bad) {
		t.Errorf("a passkey that is none: %v", err)
	}
	if err := h.Accounts.RemovePasskey(ctx, h.lead, 7); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("one that is not there: %v", err)
	}
	if all, err := h.Accounts.Passkeys(ctx, h.lead); err != nil || len(all) != 0 {
		t.Errorf("%v %v", all, err)
	}
	if _, err := h.Accounts.Passkeys(ctx, identity.Actor{}); !errors.Is(err, fault.ErrForbidden) {
		t.Errorf("nobody's: %v", err)
	}
}
