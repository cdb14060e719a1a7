package outbox

import (
	"context"
	"time"

	"amberproof/internal/store"
)

// Waits are how long messages wait between attempts.
var Waits = waits

// At has a service believe that it is that time.
func At(s *Service, at time.Time) { s.now = func() time.Time { return at } }

// Bring makes an attempt with each message that is due, of each way one after the other.
func Bring(ctx context.Context, s *Service) error {
	for {
		due, err := s.store.DueMessages(ctx, s.now().UTC())
		if err != nil || len(due) == 0 {
			return err
		}
		for i := range due {
			if err := s.bring(ctx, &due[i]); err != nil {
				return err
			}
		}
	}
}

// Claim is the first half of an attempt, after which the process dies.
func Claim(ctx context.Context, s *Service) error {
	due, err := s.store.DueMessages(ctx, s.now().UTC())
	if err != nil {
		return err
	}
	_, err = s.store.ClaimMessage(ctx, &due[0], s.now().UTC().Add(waits[0]+attemptLimit))
	return err
}

// Reachable tells whether anything is sent to an address.
func Reachable(address string, open bool) error { return reachable(address, open) }

// State is that of a message.
func State(ctx context.Context, s *Service, id int64) (store.Message, error) {
	return s.store.Message(ctx, id)
}
