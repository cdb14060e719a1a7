package runs_test

import (
	"bytes"
	"errors"
	"image"
	"math"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"amberproof/core/importer"
	"amberproof/internal/fault"
	"amberproof/internal/proofs"
	"amberproof/internal/runs"
	"amberproof/internal/testkit"
	"amberproof/internal/ticket"
)

func TestARunGoesFromTicketToFiles(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	r := until(t, a, start(t, a, j).ID, ticket.Done)
	d := get(t, a, r.ID)
	_, m := manifest(t, a, r.ID)
	if !m.Complete || m.Fingerprint != d.Fingerprint || m.Fingerprint != m.Resolved.Fingerprint() || len(m.Frames) != 1 ||
		m.Frames[0].Noise == nil || m.Frames[0].Sums == "" {
		t.Fatalf("manifest %+v", m)
	}
	if r.Samples != 16 || r.Least != 16 || r.Noise == nil || r.Seconds <= 0 || r.Share != 1 || r.Deliveries != 1 || len(d.Passes) < 5 {
		t.Errorf("measures %+v", r)
	}
	p, err := a.Proofs.Open(ctx, me, r.ID, 0)
	if err != nil {
		t.Fatal(err)
	}
	look := d.Resolved.Ticket.Finish()
	read, err := a.Proofs.Read(ctx, p, "beauty", 48, 30, look, -1)
	if err != nil || read.Part != "Box" || read.Finish != "Ochre" || read.Wears != "Ochre" || len(read.Display) != 3 || read.Samples != 16 {
		t.Errorf("reading %+v %v", read, err)
	}
	png, err := a.Proofs.PNG(ctx, p, "occlusion", look, 40, -1)
	if err != nil || !bytes.HasPrefix(png, []byte("\x89PNG")) {
		t.Errorf("picture: %v", err)
	}
	if _, err := a.Proofs.Read(ctx, p, "beauty", 96, 0, look, -1); err == nil {
		t.Error("a point outside the picture was read")
	}
	b, err := a.Proofs.Blame(ctx, p, image.Rectangle{}, look)
	if err != nil || b.Noise <= 0 || len(b.Lights) != 2 || math.Abs(sumOf(b.Lights)-100) > 0.5 || sumOf(b.Parts) < 99.9 || sumOf(b.Parts) > 100.1 {
		t.Errorf("blame %+v %v", b, err)
	}
	var ways float64
	for _, s := range b.Sources {
		ways += s.Share
	}
	if len(b.Sources) < 2 || math.Abs(ways-100) > 25 {
		t.Errorf("blame by way adds up to %.1f: %+v", ways, b.Sources)
	}
	if box, err := a.Proofs.Blame(ctx, p, image.Rect(48, 30, 49, 31), look); err != nil || len(box.Parts) != 1 || box.Parts[0].Name != "Box" {
		t.Errorf("blame of a pixel of the box: %+v %v", box, err)
	}
	for _, area := range []image.Rectangle{image.Rect(96, 0, 99, 9), image.Rect(5, 5, 5, 5)} {
		if _, err := a.Proofs.Blame(ctx, p, area, look); err == nil {
			t.Errorf("blame of %v, where no picture is", area)
		}
	}
}

func sumOf(all []proofs.Blamed) (sum float64) {
	for _, b := range all {
		sum += b.Share
	}
	return sum
}

func TestStoppedAndResumedGivesTheSameBytes(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	work(t, a)
	whole := until(t, a, start(t, a, j).ID, ticket.Done)

	stops := []int{1, middle, 10}
	hold.From(stops[0])
	cut := start(t, a, j)
	for k := range stops {
		hold.Reached(t)
		ask(t, a, cut.ID, ticket.Stop)
		until(t, a, cut.ID, ticket.Stopped)
		if hold.Go(); k+1 < len(stops) {
			hold.From(stops[k+1])
		}
		ask(t, a, cut.ID, ticket.Resume)
	}
	until(t, a, cut.ID, ticket.Done)
	if !bytes.Equal(delivered(t, a, whole.ID), delivered(t, a, cut.ID)) {
		t.Fatalf("%d stops show in the file", len(stops))
	}
}

func TestStopAndKeepDeliversWhatIsThere(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	r := halted(t, a, j, hold, ticket.Keep, ticket.Kept)
	_, few := manifest(t, a, r.ID)
	if few.Complete || len(few.Files) == 0 || few.Frames[0].Samples >= most {
		t.Errorf("manifest %+v", few)
	}
	// Gone on with, it delivers what it has then, beside what it had: that is kept.
	ask(t, a, r.ID, ticket.Resume)
	until(t, a, r.ID, ticket.Done)
	d := get(t, a, r.ID).Deliveries
	_, all := manifest(t, a, r.ID)
	if len(d) != 2 || !d[0].Complete || d[1].Complete || !all.Complete || all.Frames[0].Samples != most || all.Frames[0].Sums == few.Frames[0].Sums {
		t.Errorf("deliveries %+v, the newest %+v", d, all)
	}
}

// Many clicks at once on a stopped run: one delivery, whole.
func TestKeepingAStoppedRunManyTimesAtOnce(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	j = change(t, a, j, func(k *ticket.Ticket) { k.Output.Layers, k.Output.PNG = "each", "8" })
	r := halted(t, a, j, hold, ticket.Stop, ticket.Stopped)
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			if _, err := a.Runs.Ask(ctx, me, r.ID, ticket.Keep); err != nil && !errors.Is(err, fault.ErrState) {
				t.Error(err)
			}
			if _, err := a.Runs.Ask(ctx, me, r.ID, ticket.Resume); err != nil && !errors.Is(err, fault.ErrState) {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	last := until(t, a, r.ID, ticket.Kept, ticket.Done)
	if last.State == ticket.Kept { // nobody's resume came after it was kept
		ask(t, a, r.ID, ticket.Resume)
	}
	until(t, a, r.ID, ticket.Done)
	for _, d := range get(t, a, r.ID).Deliveries {
		dir, m, err := a.Runs.Delivered(ctx, me, r.ID, d.Number)
		if err != nil {
			t.Fatal(err)
		}
		if d.Complete != m.Complete || d.Complete && m.Frames[0].Samples != most {
			t.Errorf("delivery %d: complete %v, manifest %v with %.1f samples", d.Number, d.Complete, m.Complete, m.Frames[0].Samples)
		}
		for _, f := range m.Files {
			if st, err := os.Stat(filepath.Join(dir, f.Path)); err != nil || st.Size() != f.Bytes {
				t.Errorf("delivery %d: %s: %v", d.Number, f.Path, err)
			}
		}
	}
}

// Keep while a resumed run prepares: what it had is delivered.
func TestKeepWhileAResumedRunPrepares(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	r := halted(t, a, j, hold, ticket.Stop, ticket.Stopped)
	ask(t, a, r.ID, ticket.Resume)
	for { // as soon as it is taken, before it renders
		if _, err := a.Runs.Ask(ctx, me, r.ID, ticket.Keep); err == nil {
			break
		}
	}
	until(t, a, r.ID, ticket.Kept)
	if _, m := manifest(t, a, r.ID); m.Complete || m.Frames[0].Samples <= 0 {
		t.Errorf("manifest %+v", m)
	}
}

func TestACancelledRunIsThrownAway(t *testing.T) {
	a, j, hold := testkit.HeldApp(t)
	r := halted(t, a, j, hold, ticket.Cancel, ticket.Cancelled)
	if _, err := a.Proofs.Open(ctx, me, r.ID, 0); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("its picture is still there: %v", err)
	}
	if got := get(t, a, r.ID).Run; got.Samples != 0 || got.Least != 0 {
		t.Errorf("%+v", got)
	}
	ask(t, a, r.ID, ticket.Resume)
	if until(t, a, r.ID, ticket.Done).Samples != most {
		t.Error("it was not begun anew")
	}
}

// A run whose files are being written is not removed under the writer's hands, nor its job;
// removed, whoever looks is told.
func TestRemovingWhatIsBeingWritten(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	r, s := until(t, a, start(t, a, j).ID, ticket.Done), until(t, a, start(t, a, j).ID, ticket.Done)
	written := a.Runs.Claim(r.ID)
	if err := a.Runs.Remove(ctx, me, r.ID, true); !errors.Is(err, fault.ErrBusy) {
		t.Errorf("removed meanwhile: %v", err)
	}
	if err := a.Runs.RemoveJob(ctx, me, j.ID, true); !errors.Is(err, fault.ErrBusy) {
		t.Errorf("its job removed meanwhile: %v", err)
	}
	written()
	sub, _, err := a.Runs.Listen(me)
	if err != nil {
		t.Fatal(err)
	}
	defer sub.Close()
	if _, err := a.Proofs.Open(ctx, me, s.ID, 0); err != nil {
		t.Fatal(err)
	}
	if err := a.Runs.RemoveJob(ctx, me, j.ID, true); err != nil {
		t.Fatal(err)
	}
	gone := 0
	for _, e := range sub.Take() {
		if e.State == runs.Removed {
			gone++
		}
	}
	if gone != 2 {
		t.Errorf("%d runs are told to be removed", gone)
	}
	if _, err := a.Proofs.Open(ctx, me, s.ID, 0); !errors.Is(err, fault.ErrNotFound) {
		t.Errorf("a proof of it is still there: %v", err)
	}
}

// A ticket that is not the one that was seen is not run.
func TestWhatRunsIsWhatWasSeen(t *testing.T) {
	a, j := testkit.App(t)
	elsewhere := change(t, a, j, func(k *ticket.Ticket) { k.View.Width = 48 })
	if _, err := a.Runs.Start(ctx, me, j.ID, j.Version); !errors.Is(err, fault.ErrChanged) {
		t.Fatalf("got %v", err)
	}
	mine := j.Ticket
	mine.View.Height = 32
	if _, err := a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, mine); !errors.Is(err, fault.ErrChanged) {
		t.Fatalf("got %v", err)
	}
	both, err := a.Jobs.Compare(ctx, me, j.ID, mine, j.Ticket)
	here, there := strings.Join(both.Mine, "; "), strings.Join(both.Theirs, "; ")
	if err != nil || both.Job.Version != elsewhere.Version || here != "Height 32 px, was 64 px" || there != "Width 48 px, was 96 px" {
		t.Errorf("here %q, there %q, %v", here, there, err)
	}
	if r := start(t, a, elsewhere); r.Width != 48 {
		t.Errorf("it runs at %d", r.Width)
	}
}

// Runs that could only fail at their end are refused at their start.
func TestRunsThatCanOnlyFailAreRefused(t *testing.T) {
	a, j := testkit.App(t)
	for name, want := range map[string]string{
		"manifest.json/{pass}": "in the way", strings.Repeat("{project}{view}", 12) + "{pass}": "too long",
	} {
		j = change(t, a, j, func(k *ticket.Ticket) { k.Output.Name = name })
		var bad *fault.Input
		if _, err := a.Runs.Start(ctx, me, j.ID, j.Version); !errors.As(err, &bad) || len(bad.Faults) == 0 || !strings.Contains(bad.Faults[0].Message, want) {
			t.Errorf("%s: %v", name, err)
		}
		if o, err := a.Jobs.Outlook(ctx, me, j.ID); err != nil || len(o.Faults) == 0 || !strings.Contains(o.Faults[0].Message, want) {
			t.Errorf("%s: the outlook has %v, %v", name, o.Faults, err)
		}
	}
}

// Other names and formats need no new render; other light does.
func TestDeliveringAgainAsTheTicketSaysNow(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	r := until(t, a, start(t, a, j).ID, ticket.Done)
	j = change(t, a, j, func(k *ticket.Ticket) {
		k.Output.Name, k.Output.Layers, k.Passes.PartMasks, k.View.Exposure = "again/{view}_{pass}", "each", true, 1
	})
	if o, err := a.Jobs.Outlook(ctx, me, j.ID); err != nil || o.Served != r.ID {
		t.Errorf("the outlook does not know: %+v %v", o.Served, err)
	}
	d, err := a.Runs.DeliverAgain(ctx, me, r.ID, j.Version)
	if err != nil || len(d.Deliveries) != 2 || d.Run.State != ticket.Done {
		t.Fatalf("%+v %v", d.Deliveries, err)
	}
	if !strings.HasPrefix(d.Deliveries[0].Files[0].Path, "again/") {
		t.Errorf("files %+v", d.Deliveries[0].Files)
	}
	_, m := manifest(t, a, r.ID)
	whole := m.Film
	if m.Resolved.Ticket.View.Exposure != 1 || m.Fingerprint != m.Resolved.Fingerprint() || m.Fingerprint == d.Fingerprint {
		t.Errorf("its manifest %+v", m)
	}
	if again, err := a.Runs.DeliverAgain(ctx, me, r.ID, j.Version); err != nil || len(again.Deliveries) != 2 {
		t.Errorf("the same again makes %d deliveries, %v", len(again.Deliveries), err)
	}
	j = change(t, a, j, func(k *ticket.Ticket) {
		k.View.Region = ticket.Region{On: true, X: 50, Y: 25, Width: 25, Height: 50}
	})
	if o, err := a.Jobs.Outlook(ctx, me, j.ID); err != nil || o.Served != r.ID {
		t.Errorf("the outlook does not know of crops: %+v %v", o.Served, err)
	}
	if d, err = a.Runs.DeliverAgain(ctx, me, r.ID, j.Version); err != nil || len(d.Deliveries) != 3 {
		t.Fatalf("a crop: %+v %v", d.Deliveries, err)
	}
	if told := strings.Join(d.Deliveries[0].Changed, "; "); !strings.Contains(told, "Region only on") || len(d.Deliveries[2].Changed) != 0 {
		t.Errorf("of the crop it is told %q, of the first %v", told, d.Deliveries[2].Changed)
	}
	if _, m := manifest(t, a, r.ID); !m.Resolved.Ticket.View.Region.On || m.Film != whole {
		t.Errorf("the manifest of a crop %+v", m)
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.Quality.Seed = 5 })
	var bad *fault.Input
	if _, err := a.Runs.DeliverAgain(ctx, me, r.ID, j.Version); !errors.As(err, &bad) {
		t.Errorf("other light was delivered: %v", err)
	}
}

func TestTwoRunsQueue(t *testing.T) {
	a, j := testkit.App(t)
	first, second := start(t, a, j), start(t, a, j)
	third := start(t, a, j)
	ask(t, a, third.ID, ticket.Stop)
	if err := a.Runs.Place(ctx, me, second.ID, 0); err != nil {
		t.Fatal(err)
	}
	work(t, a)
	x, y := until(t, a, first.ID, ticket.Done), until(t, a, second.ID, ticket.Done)
	if x.Number != 1 || y.Number != 2 || x.Finished.Before(*y.Finished) {
		t.Errorf("order: %v %v", x.Finished, y.Finished)
	}
	if r := get(t, a, third.ID).Run; r.State != ticket.Stopped {
		t.Errorf("a run stopped while it waited is %s", r.State)
	}
}

func TestBadScenesLeaveNothingBehind(t *testing.T) {
	dir := t.TempDir()
	a, j := testkit.AppAt(t, testkit.Store(t), dir)
	before, _ := a.Scenes.List(ctx, me, 0, false)
	var b *fault.Input
	if _, err := a.Scenes.ImportBundle(ctx, me, j.Project, importer.Bundle{"x.glb": []byte("not a scene at all, sorry")}); !errors.As(err, &b) {
		t.Fatalf("got %v", err)
	}
	after, _ := a.Scenes.List(ctx, me, 0, false)
	kept, err := os.ReadDir(filepath.Join(dir, "scenes"))
	if err != nil || len(after) != len(before) || len(kept) != 1 {
		t.Errorf("%d scenes, %d files, %v", len(after), len(kept), err)
	}
	if _, err := a.Scenes.ImportSurround(ctx, me, 0, "sky.hdr", []byte("#?RADIANCE\n\nbroken")); !errors.As(err, &b) {
		t.Errorf("got %v", err)
	}
}

func TestFaultsAreToldAndNothingIsSaved(t *testing.T) {
	a, j := testkit.App(t)
	bad := j.Ticket
	bad.Quality.Least = 9999
	var b *fault.Input
	if _, err := a.Jobs.SaveTicket(ctx, me, j.ID, j.Version, bad); !errors.As(err, &b) || len(b.Faults) != 1 {
		t.Fatalf("got %v", err)
	}
	if now, _ := a.Jobs.Get(ctx, me, j.ID); now.Version != j.Version {
		t.Error("it was saved")
	}
	j = change(t, a, j, func(k *ticket.Ticket) { k.Stage.Surround.Picture.Name = "gone.hdr" })
	if o, err := a.Jobs.Outlook(ctx, me, j.ID); err != nil || len(o.Faults) != 1 || !strings.Contains(o.Faults[0].Message, "gone.hdr") {
		t.Errorf("%+v %v", o.Faults, err)
	}
	if _, err := a.Runs.Start(ctx, me, j.ID, j.Version); !errors.As(err, &b) {
		t.Errorf("a run without its picture was started: %v", err)
	}
}

func TestTooLargeAPictureIsRefusedBeforeAnythingIsDone(t *testing.T) {
	a, j := testkit.App(t)
	j = change(t, a, j, func(k *ticket.Ticket) { k.View.Width, k.View.Height, k.Passes.PartMasks = 16384, 16384, true })
	o, err := a.Jobs.Outlook(ctx, me, j.ID)
	if err != nil || o.Memory < 16384*16384*9*4 {
		t.Fatalf("%d bytes told, %v", o.Memory, err)
	}
	if o.Fits != (o.Memory <= o.Free/10*9) {
		t.Fatalf("told that %d bytes fit into %d: %v", o.Memory, o.Free, o.Fits)
	}
	if o.Fits {
		return // a machine with room for it
	}
	if _, err := a.Runs.Start(ctx, me, j.ID, j.Version); err == nil || !strings.Contains(err.Error(), "memory") {
		t.Errorf("got %v", err)
	}
}

func TestOutlookTellsClayAndChanges(t *testing.T) {
	a, j := testkit.App(t)
	work(t, a)
	until(t, a, start(t, a, j).ID, ticket.Done)
	j = change(t, a, j, func(k *ticket.Ticket) {
		k.Surface.Mode = "clay"
		k.Surface.Clay.Rules = []ticket.KeepRule{{By: "finish", Match: "och*", Do: "keep"}, {By: "name", Match: "Chimney", Do: "keep"}}
	})
	o, err := a.Jobs.Outlook(ctx, me, j.ID)
	if err != nil || o.Kept != 1 || len(o.Clay) != 2 || o.RuleHits[0] != 1 || o.Version != j.Version {
		t.Errorf("%+v %v", o, err)
	}
	if len(o.Idle) != 1 || o.Idle[0].Path != "surface.clay.rules[1].match" {
		t.Errorf("idle rules: %+v", o.Idle)
	}
	if got := strings.Join(o.Changed, "; "); !strings.Contains(got, "Surface clay, was own") || o.Served != 0 {
		t.Errorf("changed: %s, served %d", got, o.Served)
	}
}
