// Package guests lets people without an account look at one round and answer in it, by a link
// that was made for them. What a guest reaches is decided here and nowhere else.
package guests

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"golang.org/x/time/rate"

	lru "github.com/hashicorp/golang-lru/v2"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/review"
	"amberproof/internal/secrets"
	"amberproof/internal/store"
)

// Service is safe for concurrent use.
type Service struct {
	store  *store.Store
	guard  identity.Guard
	review *review.Service
	site   string // under which people reach the server
	tries  *secrets.Tries
	paces  *lru.Cache[int64, *rate.Limiter] // of links
	now    func() time.Time
}

// New makes a service.
func New(st *store.Store, guard identity.Guard, rv *review.Service, site string) *Service {
	paces, _ := lru.New[int64, *rate.Limiter](mostPaces) // it only fails for sizes under 1
	return &Service{st, guard, rv, site, secrets.NewTries(), paces, time.Now}
}

// How much a link may ask for: pictures and news of several pages at once, and no more.
const (
	asksEach, asksAtOnce = 20, 200 // a second, and at once
	mostPaces            = 10000
)

// Limits of links.
const (
	mostDays    = 90
	leastPhrase = 6
	visitLife   = 12 * time.Hour
)

// What a link lets be fetched whole.
const (
	NoOriginals     = "none"
	PlainOriginals  = "plain"
	MarkedOriginals = "marked" // with a watermark that names the guest
)

// Terms are what a link is made with.
type Terms struct {
	Person    int64  `json:"person" doc:"It is for: one of those who are asked in the round"`
	Days      int    `json:"days" minimum:"1" maximum:"90" doc:"It can be used for"`
	Phrase    string `json:"phrase,omitempty" maxLength:"200" doc:"That is asked for besides; empty: none"`
	Originals string `json:"originals" enum:"none,plain,marked" doc:"Whether pictures can be fetched whole; marked: with a watermark"`
	Mail      string `json:"mail,omitempty" enum:",en,de" doc:"Send it to their address, in that language; empty: do not"`
}

// Link is a link as the team sees it.
type Link struct {
	ID        int64     `json:"id"`
	Person    int64     `json:"person"`
	Name      string    `json:"name" doc:"Of the person"`
	Token     string    `json:"token" doc:"Told once, when it is made"`
	Mailed    bool      `json:"mailed" doc:"It was sent to them, told when it is made"`
	Phrase    bool      `json:"phrase" doc:"One is asked for"`
	Originals string    `json:"originals" enum:"none,plain,marked"`
	Created   time.Time `json:"created"`
	Until     time.Time `json:"until"`
	Ended     bool      `json:"ended" doc:"Revoked, or expired"`
	Visits    []Visit   `json:"visits" nullable:"false" doc:"The newest first"`
}

// Visit is a link's being opened.
type Visit struct {
	Name string    `json:"name" doc:"That was given"`
	At   time.Time `json:"at"`
}

// Make makes a link to a round for one of those who are asked in it.
func (s *Service) Make(ctx context.Context, who identity.Actor, id int64, t Terms) (Link, error) {
	if err := s.guard.May(ctx, who, identity.EditRounds, identity.RoundKind, id); err != nil {
		return Link{}, err
	}
	r, err := s.store.Round(ctx, id)
	if err != nil {
		return Link{}, err
	}
	i := slices.IndexFunc(r.Asked, func(p store.Person) bool { return p.ID == t.Person })
	switch {
	case i < 0:
		return Link{}, fault.Bad("A link is for one of those who are asked in the round; ask them first")
	case t.Days < 1 || t.Days > mostDays:
		return Link{}, fault.Bad("A link can be used for 1 to %d days", mostDays)
	case t.Phrase != "" && len(strings.TrimSpace(t.Phrase)) < leastPhrase || len(t.Phrase) > secrets.Longest:
		return Link{}, fault.Bad("A pass phrase has %d letters at least", leastPhrase)
	case !slices.Contains([]string{NoOriginals, PlainOriginals, MarkedOriginals}, t.Originals):
		return Link{}, fault.Bad("Originals are none, plain or marked")
	}
	if _, err := s.store.MemberOf(ctx, r.Project, t.Person); err != nil {
		return Link{}, fault.Bad("%s has left the project; take them into it first", r.Asked[i].Name)
	}
	address := ""
	if t.Mail != "" {
		if address, _, err = s.store.Mail(ctx, t.Person); err == nil && address == "" {
			err = fault.Bad("%s has no address; write one beside the name on the page of the project's people, or send the link yourself", r.Asked[i].Name)
		}
		if err != nil {
			return Link{}, err
		}
	}
	row := store.Link{Round: id, Person: t.Person, Originals: t.Originals, Maker: who.ID, Until: s.now().UTC().AddDate(0, 0, t.Days)}
	if t.Phrase != "" {
		if row.Phrase, err = secrets.Hash(ctx, strings.TrimSpace(t.Phrase)); err != nil {
			return Link{}, err
		}
	}
	token, sum := secrets.NewToken()
	if row.ID, err = s.store.AddLink(ctx, sum, row); err != nil {
		return Link{}, err
	}
	if address != "" {
		m, err := s.letter(ctx, who, &r.Round, &row, r.Asked[i].Name, t.Mail, token)
		if err == nil {
			m.Address = address
			err = s.store.AddMessage(ctx, m)
		}
		if err != nil {
			return Link{}, err
		}
	}
	out := s.shown(&row, r.Asked[i].Name)
	out.Token, out.Mailed, out.Created = token, address != "", s.now().UTC()
	return out, nil
}

func (s *Service) shown(l *store.Link, name string) Link {
	return Link{
		ID: l.ID, Person: l.Person, Name: name, Phrase: l.Phrase != "", Originals: l.Originals, Created: l.Created, Until: l.Until,
		Ended: l.Revoked != nil || !l.Until.After(s.now()), Visits: []Visit{},
	}
}

// List lists the links to a round, the newest first, and when each was opened by whom.
func (s *Service) List(ctx context.Context, who identity.Actor, id int64) ([]Link, error) {
	if err := s.guard.May(ctx, who, identity.EditRounds, identity.RoundKind, id); err != nil {
		return nil, err
	}
	rows, err1 := s.store.Links(ctx, id)
	visits, err2 := s.store.Visits(ctx, id)
	people, err3 := s.store.People(ctx)
	out := []Link{}
	for i := range rows {
		k := slices.IndexFunc(people, func(p store.Person) bool { return p.ID == rows[i].Person })
		l := s.shown(&rows[i], people[k].Name)
		for _, v := range visits {
			if v.Link == l.ID {
				l.Visits = append(l.Visits, Visit{v.Name, v.Created})
			}
		}
		out = append(out, l)
	}
	return out, errors.Join(err1, err2, err3)
}

// Revoke ends a link at once, also for those who look by it.
func (s *Service) Revoke(ctx context.Context, who identity.Actor, link int64) error {
	if err := s.guard.May(ctx, who, identity.EditRounds, identity.LinkKind, link); err != nil {
		return err
	}
	return s.store.RevokeLink(ctx, link)
}

// Guest is who looks by a link.
type Guest struct {
	link  store.Link
	actor identity.Actor // a reviewer of the project, by the name that was given
}

// Actor is as whom a guest acts: the one whom the link is for, by the name that was given.
func (g *Guest) Actor() identity.Actor { return g.actor }

// errGone does not tell a link that was revoked from one that never was.
var errGone = fmt.Errorf("this link is no longer good; ask for another one: %w", fault.ErrSignedOut)

// Opened is what the bearer of a link gets.
type Opened struct {
	Session string `json:"session" doc:"To be sent as Authorization: Bearer; empty where a phrase or a name is missing"`
	Phrase  bool   `json:"phrase" doc:"The link asks for a pass phrase besides"`
	Name    string `json:"name" doc:"Of the one whom the link is for"`
}

// Open lets the bearer of a link in, under the name they give. Without a pass phrase where one
// is asked for, that is told and nothing else; without a name, whom the link is for.
func (s *Service) Open(ctx context.Context, address, token, phrase, name string) (Opened, error) {
	sum := secrets.Sum(token)
	if err := s.tries.Allow(address, "link "+sum); err != nil {
		return Opened{}, err
	}
	l, err := s.store.LinkOf(ctx, sum, s.now().UTC())
	if errors.Is(err, fault.ErrNotFound) {
		return Opened{}, errGone
	}
	if err != nil {
		return Opened{}, err
	}
	if l.Phrase != "" {
		if phrase == "" {
			return Opened{Phrase: true}, nil
		}
		ok, err := secrets.Matches(ctx, strings.TrimSpace(phrase), l.Phrase)
		if err != nil {
			return Opened{}, err
		}
		if !ok {
			return Opened{}, fault.Bad("The pass phrase is wrong")
		}
	}
	s.tries.Forget("link " + sum)
	p, err := s.person(ctx, &l)
	if err != nil {
		return Opened{}, err
	}
	if name = names.Text(name); name == "" {
		return Opened{Phrase: l.Phrase != "", Name: p.Name}, nil
	}
	session, kept := secrets.NewToken()
	v := store.Visit{Link: l.ID, Name: names.Cut(name, 120)}
	if err := s.store.AddVisit(ctx, kept, v, s.now().UTC().Add(visitLife)); err != nil {
		return Opened{}, err
	}
	return Opened{Session: session, Phrase: l.Phrase != "", Name: p.Name}, nil
}

// person is whom a link is for, as long as they are of the project.
func (s *Service) person(ctx context.Context, l *store.Link) (store.Member, error) {
	project, _, err := s.store.Owner(ctx, string(identity.RoundKind), l.Round)
	if err != nil {
		return store.Member{}, err
	}
	m, err := s.store.MemberOf(ctx, project, l.Person)
	if errors.Is(err, fault.ErrNotFound) {
		err = errGone
	}
	return m, err
}

// Enter finds out who looks by what their page keeps; fault.ErrSignedOut once the link has
// ended, a fault.Slow where it asks for too much.
func (s *Service) Enter(ctx context.Context, session string) (*Guest, error) {
	l, name, err := s.store.VisitOf(ctx, secrets.Sum(session), s.now().UTC())
	if errors.Is(err, fault.ErrNotFound) {
		err = errGone
	}
	if err != nil {
		return nil, err
	}
	if !s.pace(l.ID).Allow() {
		return nil, &fault.Slow{Wait: time.Second}
	}
	p, err := s.person(ctx, &l)
	if err != nil {
		return nil, err
	}
	project, _, err := s.store.Owner(ctx, string(identity.RoundKind), l.Round)
	if err != nil {
		return nil, err
	}
	return &Guest{l, identity.Actor{ID: l.Person, Name: called(name, p.Name), Roles: map[int64]identity.Role{project: identity.Reviewer}}}, nil
}

// called is the name that a guest gave, with whose link it is: else anybody could be named in an
// answer by whoever has a link.
func called(given, of string) string {
	if names.Fold(given) == names.Fold(of) {
		return of
	}
	const most = 120 // bytes of a name
	by := " (link of " + names.Cut(of, most/2) + ")"
	return names.Cut(given, most-len(by)) + by
}

// pace is how much a link may ask for.
func (s *Service) pace(link int64) *rate.Limiter {
	if l, ok := s.paces.Get(link); ok {
		return l
	}
	l := rate.NewLimiter(asksEach, asksAtOnce)
	if have, ok, _ := s.paces.PeekOrAdd(link, l); ok {
		return have
	}
	return l
}
