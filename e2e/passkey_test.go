package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

// A lead adds a passkey, signs out, signs in by it, and removes it: with an authenticator of the
// browser's own.
func TestSigningInByAPasskey(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "--no-demo")
	s.send("PUT", "/api/me/password", `{"was":"","password":"correct horse battery"}`)
	p := s.page("/")
	p.see("h1, h2", "Sign in")
	p.MustNavigate(strings.Replace(s.url, "127.0.0.1", "localhost", 1) + "/")
	if err := (proto.WebAuthnEnable{}).Call(p); err != nil {
		t.Fatal(err)
	}
	if _, err := (proto.WebAuthnAddVirtualAuthenticator{Options: &proto.WebAuthnVirtualAuthenticatorOptions{
		Protocol: proto.WebAuthnAuthenticatorProtocolCtap2, Transport: proto.WebAuthnAuthenticatorTransportInternal,
		HasResidentKey: true, HasUserVerification: true, IsUserVerified: true, AutomaticPresenceSimulation: true,
	}}).Call(p); err != nil {
		t.Fatal(err)
	}
	p.see("button", "Sign in with a passkey")
	p.find("input[autocomplete=username]").MustInput("Lead")
	p.find("input[autocomplete=current-password]").MustInput("correct horse battery")
	p.press(p.see("button:not(:disabled)", "^Sign in$"))
	menu := func(of string) {
		p.press(p.see("button", "^Lead"))
		p.press(p.see(".ant-popover button", of))
	}
	menu("Passkeys")
	p.find("input[placeholder='Desk computer']").MustInput("Test bench")
	p.find(".ant-modal input[autocomplete=current-password]").MustInput("wrong horse battery")
	p.press(p.see("button:not(:disabled)", "Add a passkey"))
	p.see("[role=alert]", "wrong")
	p.find(".ant-modal input[autocomplete=current-password]").MustSelectAllText().MustInput("correct horse battery")
	p.press(p.see("button:not(:disabled)", "Add a passkey"))
	p.see(".ant-modal", "Test bench for localhost, not used yet")
	accessible("passkeys", axe(t), p)
	p.press(p.find(".ant-modal-close"))
	menu("Sign out")
	p.press(p.see("button", "Sign in with a passkey"))
	menu("Passkeys")
	p.see(".ant-modal", "Test bench for localhost, last used")
	p.press(p.see(".ant-modal button", "Remove"))
	p.gone(".ant-modal b")
	p.press(p.find(".ant-modal-close"))
	menu("Sign out")
	p.press(p.see("button", "Sign in with a passkey"))
	p.see("[role=alert]", "The passkey was not accepted")
}
