package outbox_test

import (
	"io"
	"mime"
	"mime/quotedprintable"
	"net"
	"net/mail"
	"strings"
	"sync"
	"testing"

	"github.com/emersion/go-smtp"

	"amberproof/internal/outbox"
	"amberproof/internal/store"
)

// postOffice is a mail server of this process.
type postOffice struct {
	mu   sync.Mutex
	got  []string
	says *smtp.SMTPError // to whom a mail is for; nil: takes it
}

func (p *postOffice) NewSession(*smtp.Conn) (smtp.Session, error) { return &visit{office: p}, nil }

type visit struct{ office *postOffice }

func (v *visit) Mail(string, *smtp.MailOptions) error { return nil }

func (v *visit) Rcpt(string, *smtp.RcptOptions) error {
	v.office.mu.Lock()
	defer v.office.mu.Unlock()
	if v.office.says != nil {
		return v.office.says
	}
	return nil
}

func (v *visit) Data(r io.Reader) error {
	b, err := io.ReadAll(r)
	v.office.mu.Lock()
	defer v.office.mu.Unlock()
	v.office.got = append(v.office.got, string(b))
	return err
}

func (v *visit) Reset()        {}
func (v *visit) Logout() error { return nil }

func newOffice(t *testing.T, says *smtp.SMTPError) (*postOffice, outbox.Mailer) {
	t.Helper()
	p := &postOffice{says: says}
	s := smtp.NewServer(p)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = s.Serve(l) }()
	t.Cleanup(func() { _ = s.Close() })
	m, err := outbox.NewSMTP("smtp://"+l.Addr().String(), "", "proof@studio.example")
	if err != nil {
		t.Fatal(err)
	}
	return p, m
}

func letter(h *house, t *testing.T, address string) *store.Message {
	t.Helper()
	m := &store.Message{Project: h.project, Address: address, Subject: "Zwei Bilder für Sie", Body: "Grüße,\n.\n=end\n", Secret: true}
	if err := h.st.AddMessage(ctx, m); err != nil {
		t.Fatal(err)
	}
	return m
}

func TestMailGoesByASMTPServer(t *testing.T) {
	p, mailer := newOffice(t, nil)
	h := open(t, mailer)
	m := letter(h, t, "ann@studio.example")
	h.bring(t)
	if sent := h.is(t, m, store.Sent, 1); sent.Body != "" {
		t.Error("a link that lets somebody in is kept after it was sent")
	}
	if len(p.got) != 1 {
		t.Fatalf("%d mails", len(p.got))
	}
	got, err := mail.ReadMessage(strings.NewReader(p.got[0]))
	if err != nil {
		t.Fatal(err)
	}
	subject, err1 := new(mime.WordDecoder).DecodeHeader(got.Header.Get("Subject"))
	body, err2 := io.ReadAll(quotedprintable.NewReader(got.Body))
	if err1 != nil || err2 != nil || subject != m.Subject || strings.ReplaceAll(string(body), "\r\n", "\n") != m.Body {
		t.Errorf("%q, %q; %v %v", subject, body, err1, err2)
	}
	if got.Header.Get("To") != "<ann@studio.example>" || got.Header.Get("From") != "<proof@studio.example>" || got.Header.Get("Auto-Submitted") == "" {
		t.Errorf("%v", got.Header)
	}
}

func TestMailThatIsRefused(t *testing.T) {
	_, mailer := newOffice(t, &smtp.SMTPError{Code: 550, Message: "no such person"})
	h := open(t, mailer)
	never := letter(h, t, "nobody@studio.example")
	h.bring(t)
	if got := h.is(t, never, store.GivenUp, 1); !strings.Contains(got.Said, "no such person") || got.Body == "" {
		t.Errorf("said %q, body %q", got.Said, got.Body)
	}
	_, mailer = newOffice(t, &smtp.SMTPError{Code: 451, Message: "later"})
	h = open(t, mailer)
	later := letter(h, t, "ann@studio.example")
	h.bring(t)
	h.is(t, later, store.Waiting, 1)
}

func TestTheSimulatedMailerKeepsMail(t *testing.T) {
	h := open(t, outbox.Simulated{})
	m := letter(h, t, "ann@studio.example")
	h.bring(t)
	if got := h.is(t, m, store.Sent, 1); got.Body != m.Body {
		t.Errorf("body %q", got.Body)
	}
}

func TestMailServersOutOfBounds(t *testing.T) {
	for _, address := range []string{"", "mail.studio.example", "http://mail.studio.example", "smtp://a:b@mail.studio.example", "smtp://m:99999999999999999999"} {
		if _, err := outbox.NewSMTP(address, "", "proof@studio.example"); err == nil {
			t.Errorf("%q is taken", address)
		}
	}
	if _, err := outbox.NewSMTP("smtp://mail.studio.example", "", "nobody"); err == nil {
		t.Error("a sender without an address is taken")
	}
}
