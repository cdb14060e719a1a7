// Package library keeps what is used again and again: named qualities, clay plans and
// stages. The interface refers to an entry by kind and key; a ticket takes its
// contents by value, so that changing the library changes no ticket.
package library

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"amberproof/core/names"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/store"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	store *store.Store
	guard identity.Guard
}

// New makes a service.
func New(st *store.Store, guard identity.Guard) *Service { return &Service{st, guard} }

// Line is something in the library as a list has it, in its newest version.
type Line struct {
	Kind    string     `json:"kind" enum:"quality,clay,stage"`
	Key     string     `json:"key"`
	Version int        `json:"version"`
	Name    string     `json:"name"`
	BuiltIn bool       `json:"builtIn" doc:"Comes with the program and cannot be changed"`
	Help    string     `json:"help"`
	Says    string     `json:"says" doc:"What is in it, in a line"`
	Tones   []float64  `json:"tones,omitempty" doc:"Of a clay plan: the reflectances of its clays"`
	Created *time.Time `json:"created"`
	Project int64      `json:"project" doc:"It is seen by the people of; 0: by the whole studio"`
	Shown   bool       `json:"shown" doc:"Whether there is a picture of it"`
}

// Entry is a version of something in the library, with its contents.
type Entry struct {
	Line
	Body json.RawMessage `json:"body" doc:"A section of a ticket, quality or surface.clay, or the stage of a set-up"`
}

// kinds are what the library holds; check reads a body and lists its faults.
var kinds = map[string]func(body []byte) (any, []fault.Fault){
	"quality": func(body []byte) (any, []fault.Fault) {
		t := ticket.New()
		if f := strict(body, &t.Quality, "quality"); f != nil {
			return nil, f
		}
		t.Tidy()
		return t.Quality, ticket.Check(&t)
	},
	"clay": func(body []byte) (any, []fault.Fault) {
		t := ticket.New()
		t.Surface.Mode = "clay"
		if f := strict(body, &t.Surface.Clay, "surface.clay"); f != nil {
			return nil, f
		}
		t.Tidy()
		return t.Surface.Clay, ticket.Check(&t)
	},
	"stage": func(body []byte) (any, []fault.Fault) { return ticket.DecodeStage(body) },
}

// strict reads a body whose every word must be known: a mistyped one would else be a
// setting left at its default.
func strict(body []byte, to any, path string) []fault.Fault {
	d := json.NewDecoder(bytes.NewReader(body))
	d.DisallowUnknownFields()
	if err := d.Decode(to); err != nil {
		return []fault.Fault{fault.At(path, "It cannot be read: "+err.Error())}
	}
	return nil
}

// mostBody bounds an entry, in bytes.
const mostBody = 1 << 20

// known refuses kinds that the library does not hold.
func known(kind string) error {
	if _, ok := kinds[kind]; !ok {
		return fault.Bad("The library holds quality, clay and stage, not %q", names.Cut(kind, 40))
	}
	return nil
}

// List lists the entries of a kind: those that come with the program, then those
// that were kept, by name: the studio's, and those of one project or of all of who asks.
func (s *Service) List(ctx context.Context, who identity.Actor, kind string, project int64) ([]Line, error) {
	of, err := s.guard.Seen(who)
	if err != nil {
		return nil, err
	}
	if err := known(kind); err != nil {
		return nil, err
	}
	out := []Line{}
	if kind == "quality" {
		for _, p := range ticket.Presets() {
			l := Line{Kind: kind, Key: p.Key, Version: 1, Name: p.Title, BuiltIn: true, Help: p.Help}
			l.describe(p.Quality)
			out = append(out, l)
		}
	}
	rows, err := s.store.Entries(ctx, store.Within(of.Only(project)), kind)
	for _, r := range rows {
		out = append(out, lineOf(&r))
	}
	return out, err
}

// Entry is a version of something that was kept, with its contents.
func (s *Service) Entry(ctx context.Context, who identity.Actor, kind, key string, version int) (Entry, error) {
	r, err := s.entry(ctx, who, identity.See, kind, key, version)
	if err != nil {
		return Entry{}, err
	}
	return entryOf(&r), nil
}

// entry reads a version of something, if somebody may do something to it; 0 is the newest. What
// belongs to a project of others is as if it were not there.
func (s *Service) entry(ctx context.Context, who identity.Actor, do identity.Act, kind, key string, version int) (store.Entry, error) {
	if err := s.guard.Any(who, do); err != nil {
		return store.Entry{}, err
	}
	r, err := s.store.Entry(ctx, kind, key, version)
	if err == nil && r.Project != nil {
		err = s.guard.In(who, do, *r.Project)
	}
	if errors.Is(err, fault.ErrNotFound) {
		err = fmt.Errorf("%s %s: %w", names.Cut(kind, 40), names.Cut(key, 80), fault.ErrNotFound)
	}
	return r, err
}

// lineOf is a row as people see it in a list.
func lineOf(r *store.Entry) Line {
	l := Line{Kind: r.Kind, Key: r.Key, Version: r.Version, Name: r.Name, Created: &r.Created, Shown: r.Shown || r.Kind == "stage"}
	if r.Project != nil {
		l.Project = *r.Project
	}
	// What was kept by an earlier version of the program may lack a word of today: it is
	// listed all the same.
	if v, faults := kinds[r.Kind](r.Body); len(faults) == 0 {
		l.describe(v)
	}
	return l
}

func entryOf(r *store.Entry) Entry { return Entry{lineOf(r), r.Body} }

// Keep keeps something under a name, for the people of a project or, with 0, for the whole
// studio: the next version of the entry of that name there, or its first.
func (s *Service) Keep(ctx context.Context, who identity.Actor, kind, name string, project int64, body []byte) (Entry, error) {
	err := s.guard.Any(who, identity.EditLibrary)
	if err == nil && project != 0 {
		err = s.guard.In(who, identity.EditLibrary, project)
	}
	if err != nil {
		return Entry{}, err
	}
	if err := known(kind); err != nil {
		return Entry{}, err
	}
	if name, err = ticket.NameOf("An entry of the library", name); err != nil {
		return Entry{}, err
	}
	if len(body) > mostBody {
		return Entry{}, fault.Bad("An entry of the library has at most %d kB", mostBody>>10)
	}
	v, faults := kinds[kind](body)
	if len(faults) > 0 {
		return Entry{}, &fault.Input{Message: "What is to be kept has faults", Faults: faults}
	}
	key, err := s.keyOf(ctx, kind, name, project)
	if err != nil {
		return Entry{}, err
	}
	tidy, err := json.Marshal(v)
	if err != nil {
		return Entry{}, err
	}
	e, err := s.store.AddEntry(ctx, who.ID, store.Entry{Kind: kind, Key: key, Name: name, Body: tidy, Project: of(project)})
	if err != nil {
		return Entry{}, err
	}
	return entryOf(&e), nil
}

// Picture is what a version of something looks like, a PNG, where one was kept with it:
// fault.ErrNotFound else.
func (s *Service) Picture(ctx context.Context, who identity.Actor, kind, key string, version int) ([]byte, error) {
	if _, err := s.entry(ctx, who, identity.See, kind, key, version); err != nil {
		return nil, err
	}
	return s.store.EntryPicture(ctx, kind, key, version)
}

// mostAlike bounds the entries whose names make one key.
const mostAlike = 100

// of is a project as rows have it: nil is the studio.
func of(project int64) *int64 {
	if project == 0 {
		return nil
	}
	return &project
}

// keyOf is the key of a project's entry of a name, or a free one for a new entry. Two names
// that make one word, as "A-1" and "A 1", are of two entries, and so is one name in two
// projects; two that differ only in writing are of one.
func (s *Service) keyOf(ctx context.Context, kind, name string, project int64) (string, error) {
	word := names.Word(names.Fold(name), 60)
	if kind == "quality" {
		for _, p := range ticket.Presets() {
			if names.Fold(p.Key) == word || word == ticket.OwnQuality {
				return "", fault.Bad("The name %q belongs to the program; choose another", name)
			}
		}
	}
	for n := 1; n <= mostAlike; n++ {
		key := word
		if n > 1 {
			key = fmt.Sprintf("%s_%d", word, n)
		}
		have, err := s.store.Entry(ctx, kind, key, 0)
		if errors.Is(err, fault.ErrNotFound) || err == nil && names.Fold(have.Name) == names.Fold(name) && lineOf(&have).Project == project {
			return key, nil
		}
		if err != nil {
			return "", err
		}
	}
	return "", fault.Bad("There are %d entries with names like %q; choose another", mostAlike, name)
}

// PutAway takes an entry out of the library. Tickets made with it stay as they are.
func (s *Service) PutAway(ctx context.Context, who identity.Actor, kind, key string) error {
	if err := s.guard.Any(who, identity.EditLibrary); err != nil {
		return err
	}
	for _, p := range ticket.Presets() {
		if kind == "quality" && p.Key == key {
			return fmt.Errorf("%s comes with the program: %w", p.Title, fault.ErrState)
		}
	}
	if _, err := s.entry(ctx, who, identity.EditLibrary, kind, key, 0); err != nil {
		return err
	}
	return s.store.PutEntryAway(ctx, kind, key)
}
