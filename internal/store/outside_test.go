package store_test

import (
	"testing"

	"amberproof/internal/store"
	"amberproof/internal/testkit"
)

func TestRowsOfTheFirstFormAreBroughtUp(t *testing.T) {
	store.EmptyDatabase = testkit.Database
	store.MigratesWhatIsThere(t)
}
