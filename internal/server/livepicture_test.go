package server_test

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"

	"amberproof/internal/live"
)

// A page's wishes are answered with frames whose pixels are as many as their headers
// say; what is wrong is told in words; a point is read.
func TestALivePictureByWebSocket(t *testing.T) {
	s := open(t)
	ctx, cancel := context.WithTimeout(t.Context(), 5*time.Minute) // never waited for by a test that passes
	defer cancel()
	conn, _, err := websocket.Dial(ctx, strings.Replace(s.URL, "http", "ws", 1)+fmt.Sprintf("/api/scenes/%d/live", s.job.Scene), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	conn.SetReadLimit(16 << 20)
	type object = map[string]any
	send := func(m object) {
		t.Helper()
		if err := wsjson.Write(ctx, conn, m); err != nil {
			t.Fatal(err)
		}
	}
	told := func(want string) {
		t.Helper()
		for {
			kind, b, err := conn.Read(ctx)
			if err != nil {
				t.Fatal(err)
			}
			if kind == websocket.MessageText && strings.Contains(string(b), want) {
				return
			}
		}
	}
	send(object{"wish": object{"number": 1, "width": 120, "height": 90}})
	for done := false; !done; {
		kind, b, err := conn.Read(ctx)
		if err != nil || kind != websocket.MessageBinary {
			t.Fatalf("%v: %s, %v", kind, b, err)
		}
		n := int(binary.LittleEndian.Uint32(b))
		var f live.Frame
		if err := json.Unmarshal(b[4:4+n], &f); err != nil {
			t.Fatal(err)
		}
		if f.Number != 1 || len(b)-4-n != f.Pixels*f.Rows*4 {
			t.Fatalf("%+v with %d bytes", f, len(b)-4-n)
		}
		done = f.Scale == 1
	}
	send(object{"read": []float64{0.5, 0.5}})
	told(`"part":"Box"`)
	send(object{})
	send(object{"wish": object{"number": 2, "width": 5, "height": 90}})
	told("16 to 2048 pixels")
	send(object{"pause": true})
	send(object{"wish": object{"number": 3, "width": 120, "height": 90, "view": "nowhere"}})
	told("There is no view")
	if err := conn.Write(ctx, websocket.MessageText, []byte("{not json")); err != nil {
		t.Fatal(err)
	}
	if _, _, err := conn.Read(ctx); err == nil {
		t.Error("what is no message is taken for one")
	}
	if status, _ := s.ask(t, "GET", "/api/scenes/999/live", nil); status != 404 {
		t.Errorf("of a scene that is not there: %d", status)
	}
}

// No more are open at a time than there is room for; one that ends makes room.
func TestLivePicturesAreBounded(t *testing.T) {
	s := open(t)
	url := strings.Replace(s.URL, "http", "ws", 1) + fmt.Sprintf("/api/scenes/%d/live", s.job.Scene)
	var open []*websocket.Conn
	for {
		conn, r, err := websocket.Dial(t.Context(), url, nil)
		if err != nil {
			if r == nil || r.StatusCode != 503 {
				t.Fatal(err)
			}
			break
		}
		if open = append(open, conn); len(open) > 100 {
			t.Fatal("there is no end to it")
		}
	}
	for _, c := range open {
		c.CloseNow()
	}
	for end := time.Now().Add(20 * time.Second); ; time.Sleep(10 * time.Millisecond) {
		if conn, _, err := websocket.Dial(t.Context(), url, nil); err == nil {
			conn.CloseNow()
			return
		} else if time.Now().After(end) {
			t.Fatal(err)
		}
	}
}
