package runs

import "amberproof/internal/ticket"

// Claim takes the files of a run in hand, as whoever writes them does.
func (s *Service) Claim(id int64) (release func()) {
	if !s.runner.claim(id) {
		panic("somebody has them")
	}
	return func() { s.runner.release(id) }
}

// SetFrames gives all runs that are started so many frames.
func (s *Service) SetFrames(n int) { s.frames = func(*ticket.Resolved) int { return n } }
