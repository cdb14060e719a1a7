package scenes

import (
	"context"
	"errors"
	"testing"
	"time"

	"amberproof/internal/budget"
)

// Who wants a scene opened or drawn waits for memory and for the easel, and may give
// up waiting.
func TestReadingAndDrawingWaitForTheirTurn(t *testing.T) {
	s := &Service{memory: budget.NewBytes(1 << 20), easel: budget.NewLine(1)}
	leave, err := s.easel.Join().Wait(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	if _, err := s.admitted(ctx, s.easel.Join(), 1); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("two draw at a time: %v", err)
	}
	leave()
	back, err := s.memory.Take(t.Context(), 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel = context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	if _, err := s.admitted(ctx, s.easel.Join(), 1); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("a drawing without memory: %v", err)
	}
	back()
	done, err := s.admitted(t.Context(), s.easel.Join(), 1<<30) // more than there is: all of it
	if err != nil {
		t.Fatal(err)
	}
	done()
	if done, err = s.admitted(t.Context(), s.easel.Join(), 1); err != nil {
		t.Fatal(err)
	}
	done()
}
