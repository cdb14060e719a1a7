package server

import (
	"context"
	"net/http"
	"reflect"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
	"github.com/gin-gonic/gin"

	"amberproof/internal/identity"
	"amberproof/internal/notify"
	"amberproof/internal/runs"
)

const (
	// mostSockets bounds the pages that listen at a time.
	mostSockets = 500
	// sendLimit is how long a page may take to take a message.
	sendLimit = 10 * time.Second
	// beatEvery is how often a silent page is asked whether it is there: one that has gone
	// without a word would hold its place for ever. It is also how long one may listen whose
	// person has signed out or left a project meanwhile.
	beatEvery = 20 * time.Second
)

// liveBody is a message to a page that listens. The first says what is going
// now: whatever the page held to be going before, and is not in it, has ended. Rounds in which
// something has changed are told by number.
type liveBody struct {
	Now    bool            `json:"now"`
	Runs   []runs.Progress `json:"runs"`
	Rounds []notify.News   `json:"rounds"`
}

// live sends news of runs and rounds over a web socket for as long as the page listens.
func (s *Server) live(c *gin.Context) {
	select {
	case s.sockets <- struct{}{}:
		defer func() { <-s.sockets }()
	default:
		refuse(c, http.StatusServiceUnavailable, "Too many pages listen at a time; close some.")
		return
	}
	// From here on nothing is missed: what changes after this moment comes as an event.
	// A slow page is sent the newest of each run and not all there were.
	who := identity.From(c.Request.Context())
	sub, going, err := s.app.Runs.Listen(who)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer sub.Close()
	rounds, err := s.app.Notify.Listen(who)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer rounds.Close()
	conn, err := websocket.Accept(c.Writer, c.Request, nil)
	if err != nil {
		return // the answer has been written
	}
	defer conn.CloseNow()
	ctx := conn.CloseRead(c.Request.Context())
	send := func(m liveBody) bool {
		ctx, cancel := context.WithTimeout(ctx, sendLimit)
		defer cancel()
		return wsjson.Write(ctx, conn, m) == nil
	}
	if !send(liveBody{Now: true, Runs: going}) {
		return
	}
	beat := time.NewTicker(s.beatEvery)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			ping, cancel := context.WithTimeout(ctx, sendLimit)
			err := conn.Ping(ping)
			cancel()
			if err != nil {
				return
			}
			// A page that was cut off comes again, as who it is then.
			look, cancel := context.WithTimeout(context.Background(), sendLimit)
			_, now, err := s.acting(look, c.Request)
			cancel()
			if err != nil || !reflect.DeepEqual(now, who) {
				return
			}
		case <-sub.Wake():
			if all := sub.Take(); len(all) > 0 && !send(liveBody{Runs: all}) {
				return
			}
		case <-rounds.Wake():
			if all := rounds.Take(); len(all) > 0 && !send(liveBody{Rounds: all}) {
				return
			}
		}
	}
}
