package scenes

import (
	"context"
	"errors"
	"testing"
	"time"

	"amberproof/internal/budget"
)

// Who wants a scene opened or drawn waits for memory and for a turn to draw, and may give
// up waiting.
func TestReadingAndDrawingWaitForTheirTurn(t *testing.T) {
	s := &Service{memory: budget.NewBytes(1 << 20), drawingLine: budget.NewLine(1)}
	leave, err := s.drawingLine.Join().Wait(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	if _, err := s.admitted(ctx, s.drawingLine.Join(), 1); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("two draw at a time: %v", err)
	}
	leave()
	back, err := s.memory.Take(t.Context(), 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel = context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	if _, err := s.admitted(ctx, s.drawingLine.Join(), 1); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("a drawing without memory: %v", err)
	}
	back()
	done, err := s.admitted(t.Context(), s.drawingLine.Join(), 1<<30) // more than there is: all of it
	if err != nil {
		t.Fatal(err)
	}
	done()
	if done, err = s.admitted(t.Context(), s.drawingLine.Join(), 1); err != nil {
		t.Fatal(err)
	}
	done()
}

// Who has imported gives back its place, its memory, and the word it is asked for by.
func TestATurnIsGivenBack(t *testing.T) {
	s := &Service{memory: budget.NewBytes(100), line: budget.NewLine(1)}
	for range 3 {
		done, err := s.turn(t.Context(), "word", 100)
		if err != nil {
			t.Fatal(err)
		}
		if s.places.by["word"] == nil {
			t.Error("it cannot be asked for")
		}
		done()
		if len(s.places.by) != 0 {
			t.Errorf("%d words are left", len(s.places.by))
		}
	}
}
