package server

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/gin-gonic/gin"

	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/live"
	"amberproof/internal/scenes"
)

const (
	// mostLive bounds the live pictures that are open at a time.
	mostLive = 16
	// mostAsked bounds a message from a page, in bytes: a ticket and a little more.
	mostAsked = mostBody
	// pauseAfter is how long a page may say nothing before its picture is let go of: one
	// that is looked at says so now and then.
	pauseAfter = 2 * time.Minute
)

// liveRequest is a message from a page: a wish, a point or an area to be read, that the
// picture is to be kept, or that nobody looks.
type liveRequest struct {
	Wish  *live.Wish  `json:"wish"`
	Read  *[2]float64 `json:"read"` // shares of width and height
	Area  *[4]float64 `json:"area"` // shares: left, top, right, bottom
	Pause bool        `json:"pause"`
	Keep  bool        `json:"keep"`
}

// liveAnswer is a message to a page beside frames.
type liveAnswer struct {
	Number  int           `json:"number"`
	Wrong   string        `json:"wrong,omitempty"`
	Reading *live.Reading `json:"reading,omitempty"`
	Area    *live.Area    `json:"area,omitempty"`
	Kept    *scenes.Kept  `json:"kept,omitempty"`
	NotKept string        `json:"notKept,omitempty"` // why
}

// livePicture answers a page's wishes over a web socket. A frame is a message of its
// own: the length of a JSON header (uint32), the header, and pixels of RGBA.
func (s *Server) livePicture(c *gin.Context) {
	select {
	case s.pictured <- struct{}{}:
		defer func() { <-s.pictured }()
	default:
		refuse(c, 503, "Too many live pictures are open at a time; close some.")
		return
	}
	x, err := s.app.Live.Open(c.Request.Context(), identity.From(c.Request.Context()), pathID(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	conn, err := websocket.Accept(c.Writer, c.Request, nil)
	if err != nil {
		return // the answer has been written
	}
	defer conn.CloseNow()
	conn.SetReadLimit(mostAsked)
	ctx, cancel := context.WithCancel(c.Request.Context())
	defer cancel()
	tell := func(m liveAnswer) error {
		ctx, cancel := context.WithTimeout(ctx, sendLimit)
		defer cancel()
		return wsjson.Write(ctx, conn, m)
	}
	go func() {
		defer cancel()
		s.asked(ctx, conn, x, tell)
	}()
	_ = x.Run(ctx, func(f *live.Frame) error {
		ctx, cancel := context.WithTimeout(ctx, sendLimit)
		defer cancel()
		return conn.Write(ctx, websocket.MessageBinary, packed(f))
	}, func(number int, err error) error {
		return tell(liveAnswer{Number: number, Wrong: s.wrong(err)})
	}) // it ends when the page goes
}

// asked takes a page's messages until it goes.
func (s *Server) asked(ctx context.Context, conn *websocket.Conn, x *live.Session, tell func(liveAnswer) error) {
	for {
		wait, cancel := context.WithTimeout(ctx, pauseAfter)
		var m liveRequest
		err := wsjson.Read(wait, conn, &m)
		cancel()
		if err != nil {
			return
		}
		switch {
		case m.Pause:
			x.Want(nil)
		case m.Wish != nil:
			x.Want(m.Wish)
		case m.Read != nil:
			r, ok := x.Read(m.Read[0], m.Read[1])
			if !ok {
				r = live.Reading{Number: -1}
			}
			if tell(liveAnswer{Number: r.Number, Reading: &r}) != nil {
				return
			}
		case m.Area != nil:
			a, ok := x.Measure(m.Area[0], m.Area[1], m.Area[2], m.Area[3])
			if !ok {
				a = live.Area{Number: -1}
			}
			if tell(liveAnswer{Number: a.Number, Area: &a}) != nil {
				return
			}
		case m.Keep:
			var t liveAnswer
			if k, err := x.Keep(ctx); err != nil {
				t.NotKept = s.wrong(err)
			} else {
				t.Kept = &k
			}
			if tell(t) != nil {
				return
			}
		}
	}
}

// wrong is what is wrong with a wish, in words.
func (s *Server) wrong(err error) string {
	var in *fault.Input
	if errors.As(err, &in) && len(in.Faults) > 0 {
		return in.Faults[0].Message
	}
	return s.problem(err).Error()
}

// packed is a frame as it is sent.
func packed(f *live.Frame) []byte {
	head, err := json.Marshal(f)
	if err != nil {
		panic(err) // numbers and a word always marshal
	}
	for len(head)%4 != 0 {
		head = append(head, ' ')
	}
	out := binary.LittleEndian.AppendUint32(make([]byte, 0, 4+len(head)+len(f.Shown)), uint32(len(head)))
	return append(append(out, head...), f.Shown...)
}
