package accounts

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/url"
	"time"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Passkey is a passkey of who acts: Web Authentication, Level 2 (W3C, 2021).
type Passkey struct {
	ID      int64      `json:"id"`
	Name    string     `json:"name"`
	Site    string     `json:"site" doc:"Under which name of the server it is good"`
	Created time.Time  `json:"created"`
	Used    *time.Time `json:"used" doc:"When somebody last signed in by it"`
}

// Limits of passkeys.
const (
	mostPasskeys     = 20 // of a person
	mostCeremonies   = 10_000
	ceremonyLife     = 5 * time.Minute
	mostPasskeyBytes = 32 << 10 // of what an authenticator says
)

var (
	errPasskey = fault.Bad("The passkey was not accepted; try again, or sign in by your password")
	errNoSite  = fault.Bad("Passkeys need a name of the server: on this machine open it as localhost instead of by number")
)

// holder is a person as the package for passkeys knows people.
type holder struct {
	id   int64
	name string
	keys []webauthn.Credential
}

func (h *holder) WebAuthnID() []byte                         { return binary.BigEndian.AppendUint64(nil, uint64(h.id)) }
func (h *holder) WebAuthnName() string                       { return h.name }
func (h *holder) WebAuthnDisplayName() string                { return h.name }
func (h *holder) WebAuthnCredentials() []webauthn.Credential { return h.keys }

// holder reads a person with the passkeys that are good under a site.
func (s *Service) holder(ctx context.Context, person int64, site string) (*holder, error) {
	who, err := s.store.Actor(ctx, person)
	if err != nil {
		return nil, err
	}
	rows, err := s.store.Passkeys(ctx, person)
	h := &holder{id: person, name: who.Name}
	for _, r := range rows {
		var k webauthn.Credential
		if r.Site != site {
			continue
		}
		if err := json.Unmarshal(r.Credential, &k); err != nil {
			return nil, fmt.Errorf("passkey %d: %w", r.ID, err)
		}
		h.keys = append(h.keys, k)
	}
	return h, err
}

// party is the server under the address that a browser has it open at.
func party(origin string) (*webauthn.WebAuthn, error) {
	u, err := url.Parse(origin)
	if err != nil || u.Hostname() == "" || net.ParseIP(u.Hostname()) != nil {
		return nil, errNoSite
	}
	return webauthn.New(&webauthn.Config{RPID: u.Hostname(), RPDisplayName: "Amber Proof", RPOrigins: []string{origin}})
}

// Passkeys lists those of who acts.
func (s *Service) Passkeys(ctx context.Context, who identity.Actor) ([]Passkey, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return nil, err
	}
	rows, err := s.store.Passkeys(ctx, who.ID)
	out := make([]Passkey, len(rows))
	for i, r := range rows {
		out[i] = Passkey{r.ID, r.Name, r.Site, r.Created, r.Used}
	}
	return out, err
}

// RemovePasskey removes one of who acts.
func (s *Service) RemovePasskey(ctx context.Context, who identity.Actor, id int64) error {
	if err := s.guard.Any(who, identity.See); err != nil {
		return err
	}
	return s.store.RemovePasskey(ctx, who.ID, id)
}

// BeginPasskey tells a browser what kind of passkey to make for who acts; their password
// confirms that it is them, and not who found their browser open.
func (s *Service) BeginPasskey(ctx context.Context, who identity.Actor, address, origin, password string) (*protocol.CredentialCreation, error) {
	if err := s.guard.Any(who, identity.See); err != nil {
		return nil, err
	}
	p, err := party(origin)
	if err != nil {
		return nil, err
	}
	c, err := s.store.CredentialsOf(ctx, who.ID)
	if err != nil {
		return nil, err
	}
	if c.Password == "" {
		return nil, fmt.Errorf("set a password first; a passkey stands beside it: %w", fault.ErrState)
	}
	if err := s.confirm(ctx, &c, address, password); err != nil {
		return nil, err
	}
	h, err := s.holder(ctx, who.ID, p.Config.RPID)
	if err != nil {
		return nil, err
	}
	if len(h.keys) >= mostPasskeys {
		return nil, fault.Bad("%d passkeys are enough; remove one first", mostPasskeys)
	}
	// By itself it lets somebody in, so that the authenticator has to know whom it is used by.
	options, data, err := p.BeginRegistration(h, webauthn.WithAuthenticatorSelection(protocol.AuthenticatorSelection{
		ResidentKey: protocol.ResidentKeyRequirementRequired, RequireResidentKey: protocol.ResidentKeyRequired(),
		UserVerification: protocol.VerificationRequired,
	}), webauthn.WithExclusions(webauthn.Credentials(h.keys).CredentialDescriptors()))
	if err != nil {
		return nil, err
	}
	s.ceremonies.Add(data.Challenge, ceremony{*data, s.now().Add(ceremonyLife)})
	return options, nil
}

// ceremony is what an authenticator has yet to answer.
type ceremony struct {
	data  webauthn.SessionData
	until time.Time
}

// take takes the ceremony that an answer belongs to: each is answered once.
func (s *Service) take(challenge string) (webauthn.SessionData, error) {
	c, ok := s.ceremonies.Get(challenge)
	if !ok || !s.ceremonies.Remove(challenge) || !c.until.After(s.now()) {
		return c.data, errPasskey
	}
	return c.data, nil
}

// AddPasskey keeps a passkey that a browser has made for who acts.
func (s *Service) AddPasskey(ctx context.Context, who identity.Actor, origin, name string, answer []byte) error {
	if err := s.guard.Any(who, identity.See); err != nil {
		return err
	}
	name, err := ticket.NameOf("A passkey", name)
	if err != nil {
		return err
	}
	p, err := party(origin)
	if err != nil {
		return err
	}
	said, err := protocol.ParseCredentialCreationResponseBytes(answer)
	if err != nil || len(answer) > mostPasskeyBytes {
		return errPasskey
	}
	c, err := s.take(said.Response.CollectedClientData.Challenge)
	if err != nil {
		return err
	}
	h, err := s.holder(ctx, who.ID, p.Config.RPID)
	if err != nil {
		return err
	}
	key, err := p.CreateCredential(h, c, said) // checks that the ceremony was theirs
	if err != nil {
		return errPasskey
	}
	kept, err := json.Marshal(key)
	if err != nil {
		return err
	}
	return s.store.AddPasskey(ctx, store.Passkey{Person: who.ID, Handle: key.ID, Name: name, Site: p.Config.RPID, Credential: kept})
}

// BeginSignIn tells a browser what a passkey has to sign.
func (s *Service) BeginSignIn(_ context.Context, address, origin string) (*protocol.CredentialAssertion, error) {
	p, err := party(origin)
	if err != nil {
		return nil, err
	}
	if err := s.tries.Allow(address, "passkey"+address); err != nil {
		return nil, err
	}
	options, data, err := p.BeginDiscoverableLogin(webauthn.WithUserVerification(protocol.VerificationRequired))
	if err != nil {
		return nil, err
	}
	s.ceremonies.Add(data.Challenge, ceremony{*data, s.now().Add(ceremonyLife)})
	return options, nil
}

// SignInByPasskey signs in whose passkey has signed. An error is the same whether there is no
// such passkey or it signed something else.
func (s *Service) SignInByPasskey(ctx context.Context, address, origin string, answer []byte) (Session, error) {
	p, err := party(origin)
	if err != nil {
		return Session{}, err
	}
	said, err := protocol.ParseCredentialRequestResponseBytes(answer)
	if err != nil || len(answer) > mostPasskeyBytes {
		return Session{}, errPasskey
	}
	c, err := s.take(said.Response.CollectedClientData.Challenge)
	if err != nil {
		return Session{}, err
	}
	var fails error // that is ours
	whose := func(_, user []byte) (webauthn.User, error) {
		if len(user) != 8 {
			return nil, errPasskey
		}
		h, err := s.holder(ctx, int64(binary.BigEndian.Uint64(user)), p.Config.RPID)
		if err != nil && !errors.Is(err, fault.ErrNotFound) {
			fails = err
		}
		return h, err
	}
	user, key, err := p.ValidatePasskeyLogin(whose, c, said)
	if fails != nil {
		return Session{}, fails
	}
	if err != nil || key.Authenticator.CloneWarning {
		return Session{}, errPasskey
	}
	s.tries.Forget("passkey" + address)
	kept, err := json.Marshal(key)
	if err != nil {
		return Session{}, err
	}
	person := user.(*holder).id
	creds, err := s.store.CredentialsOf(ctx, person)
	if err != nil {
		return Session{}, err
	}
	return Session{person, creds.Stamp}, s.store.UsedPasskey(ctx, key.ID, kept)
}
