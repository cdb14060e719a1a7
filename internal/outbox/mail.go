package outbox

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strconv"

	"github.com/wneessen/go-mail"

	"amberproof/internal/store"
)

// Mailer is what brings mail.
type Mailer interface {
	Carrier
	// Keeps says that what was sent stays to be read here: it went nowhere else.
	Keeps() bool
}

// Simulated takes every mail and lets it be read in the outbox.
type Simulated struct{}

// Carry takes a mail.
func (Simulated) Carry(context.Context, *store.Message) (string, error) {
	return "taken by the simulated mailer", nil
}

// Keeps says that mail stays here.
func (Simulated) Keeps() bool { return true }

// SMTP brings mail by a server.
type SMTP struct {
	client *mail.Client
	from   string
}

// NewSMTP makes a mailer of smtp://name@host:port, which has to offer STARTTLS unless it is on
// this machine, or smtps://name@host:port; the password is empty where no name stands in the
// address.
func NewSMTP(address, password, from string) (*SMTP, error) {
	u, err := url.Parse(address)
	if err != nil || u.Hostname() == "" || u.Scheme != "smtp" && u.Scheme != "smtps" || u.Path != "" {
		return nil, fmt.Errorf("the address of the mail server is smtp:// or smtps:// and a name, as smtps://proof@mail.studio.example, and not %q", address)
	}
	if _, secret := u.User.Password(); secret {
		return nil, errors.New("the password of the mail server stands in AMBERPROOF_SMTP_PASSWORD, not in its address")
	}
	if err := mail.NewMsg().From(from); err != nil {
		return nil, fmt.Errorf("the sender of mail is an address, as proof@studio.example, and not %q", from)
	}
	usual := map[string]string{"smtp": "587", "smtps": "465"}[u.Scheme]
	port, err := strconv.Atoi(cmp.Or(u.Port(), usual))
	if err != nil {
		return nil, err
	}
	options := []mail.Option{mail.WithPort(port), mail.WithTimeout(attemptLimit)}
	ip := net.ParseIP(u.Hostname())
	switch {
	case u.Scheme == "smtps":
		options = append(options, mail.WithSSL())
	case u.Hostname() == "localhost" || ip != nil && ip.IsLoopback():
		options = append(options, mail.WithTLSPolicy(mail.TLSOpportunistic))
	default:
		options = append(options, mail.WithTLSPolicy(mail.TLSMandatory))
	}
	if name := u.User.Username(); name != "" {
		options = append(options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(name), mail.WithPassword(password))
	}
	c, err := mail.NewClient(u.Hostname(), options...)
	return &SMTP{c, from}, err
}

// Keeps says that mail goes away.
func (*SMTP) Keeps() bool { return false }

// Carry sends a mail. Sent twice, since the answer was lost, it has the same ID.
func (s *SMTP) Carry(ctx context.Context, m *store.Message) (string, error) {
	out := mail.NewMsg()
	if err := errors.Join(out.From(s.from), out.To(m.Address)); err != nil {
		return "", fmt.Errorf("%w: %w", ErrFinal, err)
	}
	out.Subject(m.Subject)
	out.SetDateWithValue(m.Created)
	out.SetMessageIDWithValue(fmt.Sprintf("message-%d-%d@amberproof", m.ID, m.Created.UnixMilli()))
	out.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834: nothing answers it by itself
	out.SetBodyString(mail.TypeTextPlain, m.Body)
	err := s.client.DialAndSendWithContext(ctx, out)
	var refused *mail.SendError
	if errors.As(err, &refused) && !refused.IsTemp() && refused.ErrorCode() >= 500 {
		return refused.Error(), fmt.Errorf("%w: %w", ErrFinal, err)
	}
	if err != nil {
		return "", err
	}
	return "taken by the mail server", nil
}
