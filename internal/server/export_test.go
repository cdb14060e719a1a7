package server

import "time"

// BeatEvery sets how often open sockets are looked after.
func (s *Server) BeatEvery(d time.Duration) { s.beatEvery = d }

// Routes are the methods and paths that the server answers.
func (s *Server) Routes() (out []string) {
	for _, r := range s.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}

// AsksOnly tells whether an operation is left out of the audit trail.
func AsksOnly(id string) bool { return asksOnly[id] }
