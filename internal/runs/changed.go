package runs

import (
	"fmt"

	"amberproof/internal/fault"
)

// changed says that a ticket is not the one that was seen.
func changed(seen, is int64) error {
	return fmt.Errorf("the ticket was seen in version %d and is in version %d by now; look at it again before it is run: %w", seen, is, fault.ErrChanged)
}
