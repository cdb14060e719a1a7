package e2e

import (
	"math"
	"sync"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

// benchPart is what a set-up says of a part.
type benchPart struct {
	Part, Name, Group string
	Smooth            int
	Shift             struct{ X, Y, Z float64 }
	Turn              struct{ X, Y, Z float64 }
}

// benchOf is the set-up of the first scene.
func benchOf(s *site) (b struct {
	Centre [3]float64
	Setup  struct {
		Parts []benchPart
		File  struct {
			Up   string
			Size float64
		}
	}
}) {
	s.get("/api/scenes/1", &b)
	return b
}

// dragged drags a handle by so many pixels.
func (p *page) dragged(label string, dx, dy float64) {
	p.t.Helper()
	shape, err := p.find("button[aria-label='" + label + "']").Shape()
	if err != nil {
		p.t.Fatal(err)
	}
	at := shape.OnePointInside()
	p.Mouse.MustMoveTo(at.X, at.Y).MustDown(proto.InputMouseButtonLeft)
	for i := range 5 {
		p.Mouse.MustMoveTo(at.X+dx*float64(i+1)/5, at.Y+dy*float64(i+1)/5)
	}
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
}

// gate stands before requests of a page that match a pattern. There is one for each: of two
// routers either lets through what the other holds.
type gate struct {
	mu   sync.Mutex
	shut chan struct{}
}

func (p *page) gate(pattern string) *gate {
	p.t.Helper()
	g := &gate{shut: make(chan struct{})}
	close(g.shut)
	router := p.HijackRequests()
	router.MustAdd(pattern, func(h *rod.Hijack) {
		g.mu.Lock()
		shut := g.shut
		g.mu.Unlock()
		<-shut
		h.ContinueRequest(&proto.FetchContinueRequest{})
	})
	go router.Run()
	p.t.Cleanup(func() { _ = router.Stop() })
	return g
}

// hold keeps requests from the server until what it returns is called.
func (g *gate) hold() (goOn func()) {
	g.mu.Lock()
	defer g.mu.Unlock()
	shut := make(chan struct{})
	g.shut = shut
	return func() { close(shut) }
}

// Parts are moved by handles as one, called otherwise, put into a group and hidden; the
// file itself is read another way up and smaller.
func TestPartsByHand(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.press(p.see("[data-testid=picked] .ant-segmented-item", "Move"))
	p.dragged("move along y", 3, -60)
	p.see("[data-check=floats]", "Box 2 floats")
	p.saved()
	if c := benchOf(s).Setup.Parts; len(c) != 1 || c[0].Shift.Y < 10 || c[0].Shift.X != 0 || c[0].Shift.Z != 0 {
		t.Fatalf("dragged upwards: %+v", c)
	}
	p.press(p.see("button", "Undo")) // all of a drag is one step
	p.see("h2", "nothing found")
	p.press(p.see("[data-testid=picked] .ant-segmented-item", "Turn"))
	moves := p.gate("*/moved")
	answer := moves.hold()
	p.dragged("turn about y", 40, 0)
	p.see("[data-testid=saved]", "^saving") // what is worked out elsewhere is not saved yet
	answer()
	p.saved()
	// Of two drags whose answers are late the second goes on from the first, and Undo waits
	// for what it takes back.
	once := benchOf(s).Setup.Parts[0].Turn.Y
	answer = moves.hold()
	p.dragged("turn about y", 40, 0)
	p.dragged("turn about y", 40, 0)
	answer()
	p.saved()
	if y := benchOf(s).Setup.Parts[0].Turn.Y; math.Abs(y) < 2.5*math.Abs(once) || math.Abs(y) > 3.5*math.Abs(once) {
		t.Errorf("turned by %v, then two times more, it is turned by %v", once, y)
	}
	answer = moves.hold()
	p.dragged("turn about y", 40, 0)
	p.press(p.see("button", "Undo"))
	p.press(p.see("button", "Undo"))
	p.press(p.see("button", "Undo"))
	answer()
	p.wait("the first turn to be left", func() bool {
		p.saved()
		return benchOf(s).Setup.Parts[0].Turn.Y == once
	})
	if c := benchOf(s).Setup.Parts; len(c) != 1 || math.Abs(c[0].Turn.Y) < 5 || c[0].Turn.X != 0 {
		t.Fatalf("turned: %+v", c)
	}

	p.fill("Name", "Lid")
	p.fill("Group", "Tops")
	p.see(".ant-tree-title", "Tops .1.")
	p.see(".ant-tree-title", "Lid")
	p.saved()
	if c := benchOf(s).Setup.Parts; c[0].Part != "Box 2" || c[0].Name != "Lid" || c[0].Group != "Tops" {
		t.Errorf("named and grouped: %+v", c)
	}
	p.press(p.see("button", "Hide"))
	p.see(".PartTree_mark", "hidden")
	p.press(p.see("button", "Show the 1 part hidden"))

	p.tab("File")
	before := benchOf(s).Centre
	p.fill("Size", "0.1")
	p.option("Upwards", "^Z$")
	p.saved()
	b := benchOf(s)
	if f := b.Setup.File; f.Up != "z" || f.Size != 0.1 {
		t.Errorf("the file is corrected by %+v", f)
	}
	// What was 50 mm above the floor and in its middle lies at its height before it.
	if math.Abs(b.Centre[1]-before[2]/10) > 1e-4 || math.Abs(b.Centre[2]+before[1]/10) > 1e-4 {
		t.Errorf("the middle was at %v and is at %v", before, b.Centre)
	}
}

// Faces of a part become one of their own, wear another finish, and go back again.
func TestFacesAsAPart(t *testing.T) {
	t.Parallel()
	s, p := onBench(t, 0, 0)
	p.press(p.see(".ant-tree-title", "Box 2"))
	p.press(p.see("[data-testid=picked] .ant-segmented-item", "Size"))
	size := p.find("button[aria-label=size]").MustShape().Box()
	p.option("Faces grown by", "up to an edge")
	p.press(p.see("button", "Faces as a part"))
	p.find("[data-testid=asking]")
	// The handle stands beside the middle of what is picked.
	p.Mouse.MustMoveTo(size.X+size.Width/2-78, size.Y+size.Height/2).MustClick(proto.InputMouseButtonLeft)
	p.see("[data-testid=picked] h2", "Box 2, faces")
	p.see("[data-testid=picked]", "2 faces")
	p.option("Wears", "lacquer")
	p.see("[data-testid=finish]", "worn by 1 part")
	p.saved()
	var b struct {
		Parts []struct {
			Key, Finish string
			Faces       int
		}
		Setup struct {
			Sets  []struct{ Part, By string }
			Parts []benchPart
		}
	}
	s.get("/api/scenes/1", &b)
	if len(b.Setup.Sets) != 1 || b.Setup.Sets[0].Part != "Box 2" || len(b.Parts) != 4 || b.Parts[2].Faces != 10 ||
		b.Parts[3].Finish != "lacquer" || b.Parts[2].Finish != "paint" {
		t.Errorf("the scene is %+v", b)
	}
	p.find("canvas[data-live^='1/']") // seen with it
	p.press(p.see("button", "Back to its part"))
	p.saved()
	s.get("/api/scenes/1", &b)
	if len(b.Parts) != 3 || b.Parts[2].Faces != 12 || len(b.Setup.Parts) != 0 {
		t.Errorf("given back, the scene is %+v", b)
	}
	p.press(p.see("button", "Undo"))
	p.see(".ant-tree-title", "Box 2, faces")
}
