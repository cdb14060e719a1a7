package budget

import (
	"context"
	"errors"
	"reflect"
	"testing"

	"amberproof/internal/fault"
)

func TestBytesAreSharedAndGivenBack(t *testing.T) {
	b := NewBytes(100)
	back, err := b.Take(t.Context(), 70)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.Try(40); !errors.Is(err, fault.ErrBusy) {
		t.Errorf("got %v", err)
	}
	if _, err := b.Try(101); !errors.Is(err, fault.ErrBusy) {
		t.Errorf("got %v", err)
	}
	back()
	back() // twice is harmless
	all, err := b.Take(t.Context(), 1<<40)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := b.Take(ctx, 1); !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
	all()
	if back, err = b.Try(100); err != nil {
		t.Error(err)
	}
	back()
}

func TestALineServesInOrderAndTellsPlaces(t *testing.T) {
	l := NewLine(2)
	var p [5]*Place
	for i := range p {
		p[i] = l.Join()
	}
	for i, want := range []int{-1, -1, 0, 1, 2} {
		if got := p[i].Ahead(); got != want {
			t.Errorf("place %d: %d ahead, want %d", i, got, want)
		}
	}
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := p[3].Wait(gone); !errors.Is(err, context.Canceled) || p[4].Ahead() != 1 {
		t.Errorf("who leaves makes room: %v, %d", err, p[4].Ahead())
	}
	done, err := p[0].Wait(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	done()
	if p[2].Ahead() != -1 || p[4].Ahead() != 0 {
		t.Error("the next was not called")
	}
	// Called and gone in one moment: the turn passes on.
	if done, err := p[2].Wait(gone); err == nil {
		done()
	}
	if _, err := p[4].Wait(t.Context()); err != nil {
		t.Error(err)
	}
}

// The shares add up to what there is, a new one among them too.
func TestSharesAddUp(t *testing.T) {
	for _, all := range []int64{1 << 30, 7<<30 + 12345, 1 << 40} {
		s := reflect.ValueOf(Of(all))
		var sum int64
		for i := range s.NumField() {
			if name := s.Type().Field(i).Name; name != "All" {
				if n := s.Field(i).Int(); n < all/100 {
					t.Errorf("%s has %d of %d", name, n, all)
				}
				sum += s.Field(i).Int()
			}
		}
		if sum != all {
			t.Errorf("they add up to %d of %d", sum, all)
		}
	}
}
