package guests

import (
	"time"

	"golang.org/x/time/rate"
)

// Later has a service believe that it is so many days later.
func Later(s *Service, days int) {
	s.now = func() time.Time { return time.Now().AddDate(0, 0, days) }
}

// Pace is how much a link may ask for: each second, and at once.
func Pace(s *Service, link int64) (each float64, atOnce int) {
	l := s.pace(link)
	return float64(l.Limit()), l.Burst()
}

// Stop lets a link ask for nothing any more.
func Stop(s *Service, link int64) { s.paces.Add(link, rate.NewLimiter(0, 0)) }
