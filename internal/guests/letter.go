package guests

import (
	"context"
	"strings"
	"time"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// wording is what the mail with a link says, with {names} for what differs.
type wording struct {
	subject, body, phrase string
	day                   func(t time.Time) string
}

var wordings = map[string]wording{
	"en": {
		subject: "{project}: pictures to look at",
		body: "Hello {name},\n\n{by} would like your opinion on pictures of {project}: {round}.\n\n{link}\n\n" +
			"Look at them, remark on whatever you like, and say whether you approve. No account is needed. The link is for you, and good until {until}.\n",
		phrase: "\nThe page asks for a pass phrase, which you are told separately.\n",
		day:    func(t time.Time) string { return t.Format("2 January 2006") },
	},
	"de": {
		subject: "{project}: Bilder zur Ansicht",
		body: "Guten Tag {name},\n\n{by} bittet um Ihre Meinung zu Bildern von {project}: {round}.\n\n{link}\n\n" +
			"Sehen Sie sie an, merken Sie an, was Ihnen auffällt, und sagen Sie, ob Sie zustimmen. Ein Konto ist nicht nötig. " +
			"Der Link ist für Sie und gilt bis zum {until}.\n",
		phrase: "\nDie Seite fragt nach einem Kennwort, das Sie gesondert erhalten.\n",
		day:    func(t time.Time) string { return t.Format("02.01.2006") },
	},
}

// letter is the mail that brings a link to whom it is for.
func (s *Service) letter(ctx context.Context, who identity.Actor, r *store.Round, l *store.Link, name, language, token string) (*store.Message, error) {
	w, ok := wordings[language]
	if !ok {
		return nil, fault.Bad("The mail is in en or de")
	}
	p, err := s.store.Project(ctx, r.Project)
	if err != nil {
		return nil, err
	}
	fill := strings.NewReplacer("{project}", p.Name, "{name}", name, "{by}", who.Name, "{round}", r.Title,
		"{link}", s.site+"/look#"+token, "{until}", w.day(l.Until))
	text := w.body
	if l.Phrase != "" {
		text += w.phrase
	}
	return &store.Message{Project: r.Project, Subject: names.Cut(names.Text(fill.Replace(w.subject)), 200), Body: fill.Replace(text), Secret: true}, nil
}
