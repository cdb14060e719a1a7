package server

import (
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
)

// idle is how long a request may go without a byte being read or written.
const idle = 60 * time.Second

// patience cuts off who sends or takes nothing for too long. Handlers that move
// much data go on as long as some moves.
func patience(c *gin.Context) {
	w := &patientWriter{ResponseWriter: c.Writer, control: http.NewResponseController(c.Writer)}
	w.extend()
	c.Writer = w
	c.Request.Body = &patientBody{body: c.Request.Body, control: w.control}
}

// patientWriter is an answer whose deadlines move on while bytes go. until is the
// deadline set last: it is moved once a second at most, not at each write.
type patientWriter struct {
	gin.ResponseWriter
	control *http.ResponseController
	until   time.Time
}

// Unwrap lets a ResponseController reach the connection.
func (w *patientWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// extend moves both deadlines on; a writer without deadlines has none to move.
func (w *patientWriter) extend() {
	if now := time.Now(); w.until.Sub(now) < idle-time.Second {
		w.until = now.Add(idle)
		_ = w.control.SetWriteDeadline(w.until)
		_ = w.control.SetReadDeadline(w.until)
	}
}

// Write implements io.Writer.
func (w *patientWriter) Write(b []byte) (int, error) {
	w.extend()
	return w.ResponseWriter.Write(b)
}

// WriteString implements io.StringWriter.
func (w *patientWriter) WriteString(s string) (int, error) {
	w.extend()
	return w.ResponseWriter.WriteString(s)
}

// patientBody is a request's body whose deadline moves on while bytes come.
type patientBody struct {
	body    io.ReadCloser
	control *http.ResponseController
	until   time.Time
}

// Read implements io.Reader.
func (b *patientBody) Read(p []byte) (int, error) {
	if now := time.Now(); b.until.Sub(now) < idle-time.Second {
		b.until = now.Add(idle)
		_ = b.control.SetReadDeadline(b.until) // one without deadlines has none to move
	}
	return b.body.Read(p)
}

// Close implements io.Closer.
func (b *patientBody) Close() error { return b.body.Close() }
