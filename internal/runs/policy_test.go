package runs_test

import (
	"errors"
	"testing"

	"amberproof/core/setup"
	"amberproof/internal/accounts"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/jobs"
	"amberproof/internal/live"
	"amberproof/internal/runs"
	"amberproof/internal/scenes"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

// Nobody in particular may do nothing.
func TestEveryUseCaseAsksWhoActs(t *testing.T) {
	a, j := testkit.App(t)
	nobody := identity.Actor{}
	name := "x"
	for what, err := range map[string]error{
		"list runs":      second(a.Runs.List(ctx, nobody, runs.Wanted{})),
		"listen":         third(a.Runs.Listen(nobody)),
		"import line":    second(a.Scenes.Waiting(nobody, "w")),
		"upload":         second(a.Scenes.NewUpload(nobody)),
		"queue":          second(a.Runs.Queue(ctx, nobody)),
		"workers":        second(a.Runs.Workers(nobody)),
		"start":          second(a.Runs.Start(ctx, nobody, j.ID, j.Version)),
		"ask":            second(a.Runs.Ask(ctx, nobody, 1, ticket.Stop)),
		"get":            second(a.Runs.Get(ctx, nobody, 1)),
		"go on":          second(a.Runs.GoOn(ctx, nobody, 1, ticket.Further{})),
		"course":         second(a.Runs.Course(ctx, nobody, 1, 0)),
		"foretell":       second(a.Runs.Foretell(ctx, nobody, 1, ticket.Further{})),
		"place":          a.Runs.Place(ctx, nobody, 1, 0),
		"remove run":     a.Runs.Remove(ctx, nobody, 1, true),
		"deliver":        second(a.Runs.DeliverAgain(ctx, nobody, 1, 1)),
		"file":           second(a.Runs.DeliveredFile(ctx, nobody, 1, 1, "x")),
		"proof":          second(a.Proofs.Open(ctx, nobody, 1, 0)),
		"list jobs":      second(a.Jobs.List(ctx, nobody, jobs.Wanted{})),
		"job":            second(a.Jobs.Get(ctx, nobody, j.ID)),
		"create":         second(a.Jobs.Create(ctx, nobody, j.Scene, "x", nil)),
		"copy":           second(a.Jobs.Copy(ctx, nobody, j.ID, "x")),
		"save":           second(a.Jobs.SaveTicket(ctx, nobody, j.ID, 1, j.Ticket)),
		"compare":        second(a.Jobs.Compare(ctx, nobody, j.ID, j.Ticket, j.Ticket)),
		"rename":         second(a.Jobs.Rename(ctx, nobody, j.ID, "x")),
		"put away":       second(a.Jobs.PutAway(ctx, nobody, j.ID, true)),
		"outlook":        second(a.Jobs.Outlook(ctx, nobody, j.ID)),
		"remove job":     a.Runs.RemoveJob(ctx, nobody, j.ID, true),
		"scenes":         second(a.Scenes.List(ctx, nobody, 0, false)),
		"projects":       second(a.Projects.List(ctx, nobody)),
		"me":             second(a.Accounts.Me(ctx, nobody)),
		"act as":         second(a.Accounts.ActAs(ctx, nobody, 1)),
		"password":       second(a.Accounts.SetPassword(ctx, nobody, "here", "", "long enough for one")),
		"invite":         second(a.Accounts.Invite(ctx, nobody, 1, 1, false)),
		"audit":          second(a.Accounts.Deeds(ctx, nobody, accounts.Asked{})),
		"rename me":      a.Accounts.Rename(ctx, nobody, "x"),
		"make project":   second(a.Projects.Make(ctx, nobody, "x")),
		"ensure project": second(a.Projects.Ensure(ctx, nobody, "x")),
		"change project": second(a.Projects.Change(ctx, nobody, 1, &name, nil)),
		"people":         second(a.Projects.People(ctx, nobody, 1)),
		"join":           second(a.Projects.Join(ctx, nobody, 1, "x", identity.TD)),
		"set role":       second(a.Projects.SetRole(ctx, nobody, 1, 1, identity.TD)),
		"leave":          a.Projects.Leave(ctx, nobody, 1, 1),
		"compare setup":  second(a.Scenes.CompareSetup(ctx, nobody, j.Scene, setup.Setup{}, setup.Setup{})),
		"import":         second(a.Scenes.ImportBundle(ctx, nobody, 1, testkit.Bundle())),
		"surround":       second(a.Scenes.ImportSurround(ctx, nobody, 0, "x.hdr", nil)),
		"rename scene":   second(a.Scenes.Rename(ctx, nobody, j.Scene, "x")),
		"scene away":     second(a.Scenes.PutAway(ctx, nobody, j.Scene, true)),
		"remove scene":   a.Scenes.Remove(ctx, nobody, j.Scene),
		"save view":      second(a.Scenes.SaveView(ctx, nobody, j.Scene, "x", ticket.Camera{YFov: 1})),
		"change view":    second(a.Scenes.ChangeView(ctx, nobody, 1, scenes.ViewChange{Name: &name})),
		"remove view":    a.Scenes.RemoveView(ctx, nobody, 1),
		"library":        second(a.Library.List(ctx, nobody, "clay", 0)),
		"its contents":   second(a.Library.Entry(ctx, nobody, "clay", "x", 1)),
		"keep":           second(a.Library.Keep(ctx, nobody, "clay", "x", 0, []byte("{}"))),
		"its picture":    second(a.Library.Picture(ctx, nobody, "stage", "x", 1)),
		"stage":          second(a.Scenes.Stage(ctx, nobody, j.Scene, scenes.StageNew, nil, nil)),
		"frame":          second(a.Scenes.Frame(ctx, nobody, j.Scene, &scenes.Framing{})),
		"small":          second(a.Live.Small(ctx, nobody, j.Scene, &live.Wish{Width: 64, Height: 64})),
		"ball":           second(a.Live.Ball(ctx, nobody, j.Scene, "x")),
		"stage shown":    second(a.Live.StageShown(ctx, nobody, nil)),
		"surround shown": second(a.Live.SurroundShown(ctx, nobody, "x")),
		"shelf ball":     second(a.Live.ShelfBall(ctx, nobody, setup.Finish{})),
		"keep live":      second(a.Scenes.Keep(ctx, nobody, scenes.KeptWhole{}, nil)),
		"kept":           second(a.Scenes.Kept(ctx, nobody, 1)),
		"list kept":      second(a.Scenes.ListKept(ctx, nobody, j.Scene)),
		"kept picture":   second(a.Scenes.KeptPicture(ctx, nobody, 1)),
		"remove kept":    a.Scenes.RemoveKept(ctx, nobody, 1),
		"library away":   a.Library.PutAway(ctx, nobody, "clay", "x"),
	} {
		if !errors.Is(err, fault.ErrForbidden) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

func second[T any](_ T, err error) error { return err }

func third[T, U any](_ T, _ U, err error) error { return err }
