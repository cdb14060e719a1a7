// Package live answers what somebody changes with a traced picture at once, and
// makes it better for as long as they look: beside runs, and without keeping anything.
package live

import (
	"context"
	"errors"
	"fmt"
	"image"
	"math"
	"runtime"
	"sync"
	"time"

	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/live"
	"amberproof/core/parallel"
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/budget"
	"amberproof/internal/cache"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/scenes"
	"amberproof/internal/ticket"
)

// Service is safe for concurrent use.
type Service struct {
	scenes    *scenes.Service
	memory    *budget.Bytes
	busy      func() bool // whether a run goes
	smallTurn chan struct{}
	balls     *cache.Cache[string, []byte]
	stages    *cache.Cache[string, []byte] // pictures of stages, by what they are
	surrounds *cache.Cache[string, []byte] // pictures of environment pictures, by checksum
	most      float64                      // pixels of a live picture
}

// DefaultPixels is how many pixels a live picture has at most: what a screen can show of
// it beside the ticket.
const DefaultPixels = 1500 * 1000

// New makes a service with a number of bytes for all live pictures together, of so many
// pixels at most. busy tells whether a run goes, beside which they keep to a share of the
// cores.
func New(sc *scenes.Service, memory int64, pixels int, busy func() bool) *Service {
	s := &Service{scenes: sc, memory: budget.NewBytes(memory), busy: busy, smallTurn: make(chan struct{}, 1), most: float64(pixels)}
	s.stages = cache.New(surroundBytes, func(b []byte) int64 { return int64(len(b)) }, s.shownStage)
	s.surrounds = cache.New(surroundBytes, func(b []byte) int64 { return int64(len(b)) }, s.shownSurround)
	s.balls = cache.New(ballBytes, func(b []byte) int64 { return int64(len(b)) }, s.shelfBall)
	return s
}

// Beside a run live pictures take one core of so many.
const besideRun = 2

func (s *Service) workers() int {
	n := runtime.GOMAXPROCS(0)
	if s.busy() {
		return max(1, n/besideRun)
	}
	return n
}

// Frame is a state of the picture that answers a wish.
type Frame struct {
	Number  int     `json:"number"`
	Width   int     `json:"width"` // of the picture, pixels
	Height  int     `json:"height"`
	Pixels  int     `json:"pixels"` // that are sent in a row: one for Scale of the picture's
	Rows    int     `json:"rows"`
	Scale   int     `json:"scale"`
	Samples int     `json:"samples"`
	Clean   bool    `json:"clean"` // noise is taken out
	Done    bool    `json:"done"`
	Millis  float64 `json:"millis"` // since the wish came
	// Shares of the picture at the limits of the display, percent.
	Clipped float64 `json:"clipped"`
	Crushed float64 `json:"crushed"`
	// Histogram is of the picture as displayed: red, green and blue, in thousandths.
	Histogram finish.Histogram `json:"histogram"`
	// Warmth is told of whole pictures only.
	Warmth *Warmth `json:"warmth,omitempty"`
	// Cast is told of whole pictures with clay in them.
	Cast *Cast `json:"cast,omitempty"`
	// Prepared says what had to be made anew for the wish.
	Prepared string `json:"prepared"`

	Shown []byte `json:"-"` // Pixels x Rows x RGBA, as displayed
}

// What had to be made for a wish.
const (
	Nothing  = "nothing"  // only the look
	View     = "view"     // another camera
	Surfaces = "surfaces" // finishes, lights or the surround, and no geometry
	All      = "all"
)

// Bounds of a picture, pixels: what a screen can show of it beside the ticket.
const (
	mostSide  = 2048
	leastSide = 16
	// mostSamples is where a live picture is done: what is to be cleaner is worth a run.
	mostSamples = 64
)

// Session is somebody looking at a scene.
type Session struct {
	s     *Service
	who   identity.Actor
	scene int64

	mu   sync.Mutex
	next *wished
	stop context.CancelFunc // of what is being answered
	wake chan struct{}
	seen *seen // the last step that was shown

	// Of Run alone.
	prepared prepared
	back     func() // gives back the memory of what is prepared
}

type wished struct {
	Wish
	at time.Time
}

// prepared is a world and what it was made of.
type prepared struct {
	key    string
	staged *scene.Scene
	world  *trace.World
}

// seen is a step as it was shown.
type seen struct {
	step    live.Step
	look    finish.Finish
	subject *scene.Scene
	setup   setup.Setup
	of      *ticket.Resolved
	list    []passes.Pass
	number  int
}

// Open begins to look at a scene.
func (s *Service) Open(ctx context.Context, who identity.Actor, sceneID int64) (*Session, error) {
	if _, err := s.scenes.Bench(ctx, who, sceneID); err != nil {
		return nil, err
	}
	return &Session{s: s, who: who, scene: sceneID, wake: make(chan struct{}, 1)}, nil
}

// Want has a wish answered in place of the one before, whose work is dropped. nil
// wants nothing until the next, and lets go of all memory.
func (x *Session) Want(w *Wish) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.next = &wished{at: time.Now()}
	if w != nil {
		x.next.Wish = *w
	} else {
		x.next.Number = -1
	}
	if x.stop != nil {
		x.stop()
	}
	select {
	case x.wake <- struct{}{}:
	default:
	}
}

// Run answers wishes until the context ends. send gets every frame in turn; wrong
// is told what is wrong with a wish. An error of either ends it.
func (x *Session) Run(ctx context.Context, send func(*Frame) error, wrong func(number int, err error) error) error {
	defer x.letGo()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-x.wake:
		}
		x.mu.Lock()
		w := x.next
		x.next = nil
		mine, stop := context.WithCancel(ctx)
		x.stop = stop
		x.mu.Unlock()
		if w == nil {
			stop()
			continue
		}
		if w.Number < 0 {
			stop()
			x.letGo()
			continue
		}
		err := x.answer(mine, w, send)
		dropped := mine.Err() != nil
		stop()
		var lost sendError
		switch {
		case err == nil || dropped && ctx.Err() == nil:
		case errors.As(err, &lost):
			return lost.error
		case ctx.Err() != nil:
			return ctx.Err()
		default:
			if err := wrong(w.Number, err); err != nil {
				return err
			}
		}
	}
}

// sendError is an error of who takes the frames.
type sendError struct{ error }

func (x *Session) letGo() {
	x.mu.Lock()
	x.seen = nil
	x.mu.Unlock()
	x.prepared = prepared{}
	if x.back != nil {
		x.back()
		x.back = nil
	}
}

// answer shows a wish's picture until it is done.
func (x *Session) answer(ctx context.Context, w *wished, send func(*Frame) error) (err error) {
	defer parallel.Catch(&err)
	a, err := x.s.resolve(ctx, x.who, x.scene, &w.Wish)
	if err != nil {
		return err
	}
	r, subject := a.resolved, a.subject
	size, err := fit(r.Ticket.Size(), w.Width, w.Height, x.s.most)
	if err != nil {
		return err
	}
	world, made, err := x.prepare(ctx, a, size)
	if err != nil {
		return err
	}
	list := r.Ticket.List(x.prepared.staged, world.Elements())
	look := r.Ticket.Finish()
	var product []image.Point // of whole pictures
	covered := r.Ticket.Covered(x.prepared.staged)
	show := func(s live.Step) error {
		x.mu.Lock()
		x.seen = &seen{s, look, subject, a.setup, r, list, w.Number}
		x.mu.Unlock()
		f := frameOf(&s, list, look)
		f.Number, f.Prepared, f.Width, f.Height = w.Number, made, size.X, size.Y
		if s.Scale == 1 {
			if product == nil {
				product = onProduct(s.World, x.prepared.staged, ticket.IsLamp(x.prepared.staged))
			}
			f.Warmth = warmthOf(&s, product)
			f.Cast = castOf(&s, covered, look)
		}
		f.Millis = float64(time.Since(w.at).Microseconds()) / 1000
		if err := ctx.Err(); err != nil {
			return err // nobody wants it any more
		}
		if err := send(f); err != nil {
			return sendError{err}
		}
		return nil
	}
	o := live.Order{World: world, Workers: x.s.workers, Most: mostSamples}
	if made == Nothing {
		o.From = x.last()
		if err := show(*o.From); err != nil || o.From.Done {
			return err
		}
	}
	return live.Refine(ctx, o, show)
}

// last is the last step that was shown, of the whole size.
func (x *Session) last() *live.Step {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.seen == nil || x.seen.step.Scale != 1 {
		return nil
	}
	s := x.seen.step
	return &s
}

// fit is the size of a frame within a place on the screen.
func fit(frame image.Point, w, h int, most float64) (image.Point, error) {
	if w < leastSide || h < leastSide || w > mostSide || h > mostSide {
		return image.Point{}, fault.Bad("A live picture is from %d to %d pixels wide and high, not %d x %d", leastSide, mostSide, w, h)
	}
	k := min(float64(w)/float64(frame.X), float64(h)/float64(frame.Y))
	if n := k * k * float64(frame.X) * float64(frame.Y); n > most {
		k *= math.Sqrt(most / n)
	}
	return image.Pt(max(1, int(k*float64(frame.X)+0.5)), max(1, int(k*float64(frame.Y)+0.5))), nil
}

// prepare makes the world of a wish, of what is prepared already as far as that is the
// same, and tells what had to be made.
func (x *Session) prepare(ctx context.Context, a *answerable, size image.Point) (*trace.World, string, error) {
	r, subject, surround := a.resolved, a.subject, a.surround
	key, err := a.key()
	if err != nil {
		return nil, "", err
	}
	p := &x.prepared
	if p.world != nil && p.key == key {
		o := r.Options(p.staged, surround)
		last := x.last()
		if last != nil && same(last.World.Options(), &o, size) {
			return last.World, Nothing, nil
		}
		p.world = p.world.Seen(o.Camera, size.X, size.Y)
		return p.world, View, nil
	}
	staged := r.Staged(subject)
	o := r.Options(staged, surround)
	o.Width, o.Height, o.Window, o.Apart = size.X, size.Y, image.Rectangle{Max: size}, true
	back, err := x.s.memory.Try(trace.Forecast(staged, &o))
	if err != nil && x.back != nil { // what was prepared makes way, and nothing of it is taken over
		x.letGo()
		back, err = x.s.memory.Try(trace.Forecast(staged, &o))
	}
	if err != nil {
		return nil, "", fmt.Errorf("there is no memory for this live picture; close another: %w", err)
	}
	w, err := trace.PrepareAgain(ctx, staged, o, p.world)
	if err != nil {
		back()
		return nil, "", err
	}
	made := All
	if p.world != nil && w.SameShapes(p.world) {
		made = Surfaces
	}
	x.letGo()
	x.prepared, x.back = prepared{key, staged, w}, back
	return w, made, nil
}

// same tells whether a picture of a size would be just that of a world.
func same(have, want *trace.Options, size image.Point) bool {
	a, b := have.Camera, want.Camera
	return have.Width == size.X && have.Height == size.Y && a.Way == nil && b.Way == nil &&
		a.World == b.World && a.YFov == b.YFov && a.YMag == b.YMag && a.Shift == b.Shift && a.Aperture == b.Aperture &&
		a.Blades == b.Blades && a.BladeTurn == b.BladeTurn && a.Focus == b.Focus && a.FocusAt == b.FocusAt
}

// frameOf is a step as it is sent.
func frameOf(s *live.Step, list []passes.Pass, look finish.Finish) *Frame {
	f := &Frame{Scale: s.Scale, Samples: s.Samples, Done: s.Done, Clean: s.Clean != nil}
	p, films := beauty(s, list)
	img := look.Shown(p.Picture(films, s.Film.Window))
	f.Pixels, f.Rows, f.Shown = img.Rect.Dx(), img.Rect.Dy(), img.Pix
	c := finish.ClippingOf(img)
	f.Clipped, f.Crushed = 100*c.Clipped, 100*c.Crushed
	f.Histogram = finish.HistogramOf(img)
	return f
}

// beauty is the pass that a step shows, and what it is read off.
func beauty(s *live.Step, list []passes.Pass) (*passes.Pass, passes.Films) {
	key := "beauty"
	if s.Clean != nil {
		key = "beauty.denoised"
	}
	for i := range list {
		if list[i].Key == key {
			return &list[i], passes.Films{Film: s.Film, Clean: s.Clean, Amount: 1}
		}
	}
	panic("live: a ticket without a beauty") // every list has one, twice with denoising
}

// Reading is what lies under a point of the picture.
type Reading struct {
	Number  int        `json:"number"`
	Values  [3]float32 `json:"values"`  // scene-linear
	Display [3]int     `json:"display"` // 0 to 255
	Part    string     `json:"part"`    // its name; empty where nothing is
	Key     string     `json:"key"`     // of the part
	Finish  string     `json:"finish"`
}

// Read tells what lies under a point of the picture, in shares of its width and height
// from the upper left; false before there is one.
func (x *Session) Read(u, v float64) (Reading, bool) {
	x.mu.Lock()
	s := x.seen
	x.mu.Unlock()
	if s == nil || !(u >= 0 && u < 1 && v >= 0 && v < 1) {
		return Reading{}, false
	}
	w := s.step.Film.Window
	px, py := int(u*float64(w.Dx())), int(v*float64(w.Dy()))
	var c geom.Vec3
	from := s.step.Film
	if s.step.Clean != nil {
		from = s.step.Clean
	}
	from.Locked(func() { // it gains samples meanwhile
		sums, i := from.At(px, py)
		c, _ = sums.Light(i)
	})
	r := Reading{Number: s.number, Values: [3]float32{c.X, c.Y, c.Z}}
	r.Display = displayed(c, s.look)
	if part, ok := s.step.World.NewTracer().At(px, py, false); ok && part < len(s.subject.Parts) {
		r.Part, r.Key, r.Finish = s.subject.Titles()[part], s.subject.Keys()[part], s.subject.FinishName(part)
	}
	return r, true
}
