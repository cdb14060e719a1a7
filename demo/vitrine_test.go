package demo_test

import (
	"testing"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/preflight"
	"amberproof/core/scene"
	"amberproof/core/trace"
	"amberproof/demo"
	"amberproof/internal/ticket"
)

func vitrine(t testing.TB) *scene.Scene {
	t.Helper()
	glb, err := demo.Vitrine()
	if err != nil {
		t.Fatal(err)
	}
	s, err := importer.Import(t.Context(), importer.Bundle{demo.VitrineFile: glb}, importer.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// The shop window has the four faults that were planted in it, and no other is found.
func TestFaultsOfTheShopWindow(t *testing.T) {
	s := vitrine(t)
	if len(s.LeftOut) != 1 || s.LeftOut[0].Where != "Stopper" {
		t.Errorf("left out: %v", s.LeftOut)
	}
	found, err := preflight.Run(t.Context(), preflight.Subject{Scene: s, Lamp: ticket.IsLamp(s)}, nil)
	if err != nil {
		t.Fatal(err)
	}
	want := map[preflight.Check]string{preflight.Floats: "Price card", preflight.Through: "Can body", preflight.Doubled: "Hinge plate 1 copy",
		preflight.Bare: "Stopper"}
	for _, f := range found {
		if want[f.Check] != s.Parts[f.Part].Name || f.Check == preflight.Floats && (f.Value < 3.96 || f.Value > 4.04) {
			t.Errorf("found %q", f.Says)
		}
		delete(want, f.Check)
	}
	if len(want) > 0 {
		t.Errorf("not found: %v", want)
	}
}

// In its clay job nothing takes light that its finish lets through, the hardware wears the
// darker clay and the pane keeps its finish; without the rules, the light that the pane and
// the flame would take is foretold.
func TestBlockedLightOfTheShopWindow(t *testing.T) {
	s := vitrine(t)
	surround, err := imageio.ReadSurround(demo.Surround(), imageio.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	views := ticket.ViewsOf(s)
	doc := demo.VitrineTickets(views)[1].Ticket
	blocked := func(tk ticket.Ticket) ([]preflight.Blocked, preflight.Share) {
		r, faults := ticket.Resolve(tk, ticket.Subject{Scene: s}, views)
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		o, covered := r.Uncovered(s, surround)
		w, err := trace.Prepare(t.Context(), s, o)
		if err != nil {
			t.Fatal(err)
		}
		found, all, err := preflight.CheckBlocked(t.Context(), s, ticket.IsLamp(s), w, covered)
		if err != nil {
			t.Fatal(err)
		}
		return found, all
	}
	if found, all := blocked(doc); len(found) > 0 || all.Percent != 0 {
		t.Errorf("with its rules: %+v, %v", found, all)
	}
	second := 0
	for i, covered := range doc.Covered(s) {
		name := s.Parts[i].Name
		if keeps := name == "Pane" || name == "Side pane" || name == "Lamp globe" || name == "Lamp flame"; covered == keeps {
			t.Errorf("%s wears clay: %v", name, covered)
		}
		if len(name) > 7 && name[:7] == "Bracket" {
			second++
		}
	}
	if second != 6 {
		t.Errorf("%d parts of brackets", second)
	}
	doc.Surface.Clay.Rules = []ticket.KeepRule{}
	found, all := blocked(doc)
	if len(found) < 2 || s.Parts[found[0].Part].Name != "Pane" || found[0].Light != "Sun" || found[0].All.Percent < 30 || found[0].All.Error > 2 {
		t.Errorf("without rules: %+v", found)
	}
	if all.Percent < found[0].All.Percent {
		t.Errorf("all take %v, the pane %v", all, found[0].All)
	}
}
