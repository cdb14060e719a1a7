package server

import (
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
)

// idle is how long a request may go without a byte of its body coming, or a byte of its
// answer being taken. Between the two it is worked on, for as long as that takes.
var idle = 60 * time.Second // a test makes it short

// patience cuts off who sends or takes nothing for too long. Handlers that move much data
// go on as long as some moves. While an answer is computed no deadline runs: one that did
// would end the request's context, and the same work would be asked for again.
func patience(c *gin.Context) {
	control := http.NewResponseController(c.Writer)
	c.Writer = &patientWriter{ResponseWriter: c.Writer, control: control}
	b := &patientBody{body: c.Request.Body, control: control}
	if c.Request.ContentLength == 0 || c.Request.Body == http.NoBody {
		b.done()
	} else {
		b.extend()
	}
	c.Request.Body = b
}

// patientWriter is an answer whose deadline moves on while bytes go. until is the
// deadline set last: it is moved once a second at most, not at each write.
type patientWriter struct {
	gin.ResponseWriter
	control *http.ResponseController
	until   time.Time
}

// Unwrap lets a ResponseController reach the connection.
func (w *patientWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

func (w *patientWriter) extend() {
	if now := time.Now(); w.until.Sub(now) < idle-time.Second {
		w.until = now.Add(idle)
		_ = w.control.SetWriteDeadline(w.until) // one without deadlines has none to move
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

// patientBody is a request's body whose deadline moves on while bytes come, and ends with it.
type patientBody struct {
	body    io.ReadCloser
	control *http.ResponseController
	until   time.Time
}

func (b *patientBody) extend() {
	if now := time.Now(); b.until.Sub(now) < idle-time.Second {
		b.until = now.Add(idle)
		_ = b.control.SetReadDeadline(b.until) // one without deadlines has none to move
	}
}

func (b *patientBody) done() { _ = b.control.SetReadDeadline(time.Time{}) }

// Read implements io.Reader.
func (b *patientBody) Read(p []byte) (int, error) {
	b.extend()
	n, err := b.body.Read(p)
	if err == io.EOF { // of one that breaks off, the rest is still waited for no longer than that
		b.done()
	}
	return n, err
}

// Close implements io.Closer.
func (b *patientBody) Close() error { return b.body.Close() }
