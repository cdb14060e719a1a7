package server

import (
	"io"
	"net/http"
	"time"
)

// patientBody is a request's body whose deadline moves on while bytes come.
type patientBody struct {
	body    io.ReadCloser
	control *http.ResponseController
	until   time.Time
}

func (b *patientBody) Read(p []byte) (int, error) {
	if now := time.Now(); b.until.Sub(now) < idle-time.Second {
		b.until = now.Add(idle)
		_ = b.control.SetReadDeadline(b.until) // one without deadlines has none to move
	}
	return b.body.Read(p)
}

func (b *patientBody) Close() error { return b.body.Close() }
