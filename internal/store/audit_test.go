package store_test

import (
	"context"
	"database/sql"
	"strings"
	"testing"

	"amberproof/internal/store"
	"amberproof/internal/testkit"
)

// Lines of the audit trail can be neither changed nor removed, by whoever reaches the tables.
func TestTheAuditTrailStays(t *testing.T) {
	ctx := context.Background()
	dsn := testkit.Database(t)
	s, err := store.Open(ctx, dsn)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if err := s.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	if err := s.AddDeed(ctx, store.Deed{Did: "sign-in", Name: "Mara"}); err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, q := range []string{`UPDATE audit SET name = 'somebody else'`, `DELETE FROM audit`} {
		if _, err := db.ExecContext(ctx, q); err == nil || !strings.Contains(err.Error(), "audit trail") {
			t.Errorf("%s: %v", q, err)
		}
	}
	all, err := s.Deeds(ctx, store.DeedsWanted{Within: store.Anywhere, Most: 10})
	if err != nil || len(all) != 1 || all[0].Name != "Mara" {
		t.Errorf("%+v %v", all, err)
	}
}
