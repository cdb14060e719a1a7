package notify

import (
	"context"
	"time"
)

// Once tells what there is to tell.
func Once(ctx context.Context, s *Service) error { return s.once(ctx) }

// Later has a service believe that it is later by that.
func Later(s *Service, by time.Duration) { s.now = func() time.Time { return time.Now().Add(by) } }
