package guests

import "time"

// Later has a service believe that it is so many days later.
func Later(s *Service, days int) {
	s.now = func() time.Time { return time.Now().AddDate(0, 0, days) }
}
