package accounts

import (
	"context"
	"encoding/csv"
	"io"
	"strconv"
	"time"

	"amberproof/core/names"
	"amberproof/internal/identity"
	"amberproof/internal/store"
)

// Deed is a line of the audit trail.
type Deed struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	Person  int64     `json:"person" doc:"0: nobody was signed in"`
	Name    string    `json:"name" doc:"As it was then"`
	Did     string    `json:"did" doc:"Operation of this interface"`
	Kind    string    `json:"kind" doc:"Of the thing it was done to; empty for none"`
	Thing   int64     `json:"thing" doc:"Its number"`
	Project int64     `json:"project" doc:"0: the studio's"`
	Status  int       `json:"status" doc:"Of the answer, as HTTP"`
	Address string    `json:"address"`
}

// Done adds what somebody did to the audit trail.
func (s *Service) Done(ctx context.Context, d Deed) error {
	return s.store.AddDeed(ctx, store.Deed{
		Person: d.Person, Name: names.Cut(d.Name, 120), Did: d.Did, Kind: d.Kind, Thing: d.Thing, Project: d.Project, Status: d.Status, Address: d.Address,
	})
}

// Of finds the project of what something is done to, before it is done: afterwards it may be
// gone. 0 where there is none.
func (s *Service) Of(ctx context.Context, kind string, id int64) int64 {
	if kind == "project" {
		return id
	}
	project, _, err := s.store.Owner(ctx, kind, id)
	if err != nil {
		return 0
	}
	return project
}

// Asked chooses lines of the audit trail; what is zero does not choose.
type Asked struct {
	Project int64 // 0: all that who asks leads, with the studio's own
	Person  int64
	Did     string
	From    time.Time
	To      time.Time
	Before  int64 // number of a line; only earlier ones
}

// deedsAtOnce is how many lines are told at once.
const deedsAtOnce = 200

// Deeds are lines of the audit trail of projects that who asks leads, the newest first.
func (s *Service) Deeds(ctx context.Context, who identity.Actor, a Asked) ([]Deed, error) {
	if err := s.guard.Any(who, identity.EditProject); err != nil {
		return nil, err
	}
	if a.Project != 0 {
		if err := s.guard.In(who, identity.EditProject, a.Project); err != nil {
			return nil, err
		}
	}
	w := store.DeedsWanted{Person: a.Person, Did: a.Did, From: a.From, To: a.To, Before: a.Before, Most: deedsAtOnce, Within: store.Within{All: who.House}}
	for id, role := range who.Roles {
		if role == identity.Lead && (a.Project == 0 || a.Project == id) {
			w.Within.Some = append(w.Within.Some, id)
		}
	}
	rows, err := s.store.Deeds(ctx, w)
	out := make([]Deed, len(rows))
	for i, d := range rows {
		out[i] = Deed{d.ID, d.At, d.Person, d.Name, d.Did, d.Kind, d.Thing, d.Project, d.Status, d.Address}
	}
	return out, err
}

// DeedsCSV writes all lines that Deeds would tell, the newest first, as RFC 4180.
func (s *Service) DeedsCSV(ctx context.Context, who identity.Actor, a Asked, to io.Writer) error {
	all, err := s.Deeds(ctx, who, a)
	if err != nil {
		return err
	}
	w := csv.NewWriter(to)
	if err := w.Write([]string{"number", "time", "person", "name", "did", "kind", "thing", "project", "status", "address"}); err != nil {
		return err
	}
	for len(all) > 0 {
		for _, d := range all {
			n := func(v int64) string { return strconv.FormatInt(v, 10) }
			line := []string{n(d.ID), d.At.UTC().Format(time.RFC3339Nano), n(d.Person), plain(d.Name), d.Did, d.Kind, n(d.Thing), n(d.Project),
				strconv.Itoa(d.Status), d.Address}
			if err := w.Write(line); err != nil {
				return err
			}
		}
		a.Before = all[len(all)-1].ID
		if all, err = s.Deeds(ctx, who, a); err != nil {
			return err
		}
	}
	w.Flush()
	return w.Error()
}

// plain keeps a name from being read as a formula by a spreadsheet.
func plain(name string) string {
	if name != "" && (name[0] == '=' || name[0] == '+' || name[0] == '-' || name[0] == '@') {
		return "'" + name
	}
	return name
}
