package secrets

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"amberproof/internal/fault"
)

func TestAHashMatchesItsPasswordOnly(t *testing.T) {
	ctx := t.Context()
	a, err1 := Hash(ctx, "a lamp in the window")
	b, err2 := Hash(ctx, "a lamp in the window")
	if err1 != nil || err2 != nil || a == b || !strings.HasPrefix(a, "$argon2id$v=19$m=19456,t=2,p=1$") {
		t.Fatal(a, b, err1, err2)
	}
	for password, want := range map[string]bool{
		"a lamp in the window": true, "A lamp in the window": false, "": false, strings.Repeat("x", Longest+1): false,
	} {
		if ok, err := Matches(ctx, password, a); ok != want || err != nil {
			t.Errorf("%.30q: %t %v", password, ok, err)
		}
	}
	if ok, err := Matches(ctx, "", Nobodys); ok || err != nil {
		t.Error(ok, err)
	}
	gone, cancel := context.WithCancel(ctx)
	cancel()
	for range mostHashes {
		hashes <- struct{}{}
	}
	if _, err := Hash(gone, "x"); !errors.Is(err, context.Canceled) {
		t.Error("it waits for who has gone:", err)
	}
	for range mostHashes {
		<-hashes
	}
}

func TestTokens(t *testing.T) {
	a, sum := NewToken()
	b, _ := NewToken()
	if a == b || len(a) < 26 || Sum(a) != sum || len(sum) != 64 {
		t.Error(a, b, sum)
	}
}

// Who tries too often waits, by name or by address; others do not, and who is right begins anew.
func TestTries(t *testing.T) {
	var slow *fault.Slow
	tries := NewTries()
	for range nameAtOnce {
		if err := tries.Allow("here", "mara"); err != nil {
			t.Fatal(err)
		}
	}
	if err := tries.Allow("there", "mara"); !errors.As(err, &slow) || slow.Wait <= 0 || slow.Wait > nameEvery {
		t.Error(err)
	}
	if err := tries.Allow("here", "bo"); err != nil {
		t.Error(err)
	}
	tries.Forget("mara")
	if err := tries.Allow("here", "mara"); err != nil {
		t.Error(err)
	}
	tries = NewTries()
	for i := range addressAtOnce {
		if err := tries.Allow("here", fmt.Sprint(i)); err != nil {
			t.Fatal(err)
		}
	}
	if err := tries.Allow("here", "mara"); !errors.As(err, &slow) || slow.Wait > addressEvery {
		t.Error(err)
	}
	if err := tries.Allow("there", "mara"); err != nil {
		t.Error(err)
	}
}
