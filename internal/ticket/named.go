package ticket

import (
	"amberproof/core/names"
	"amberproof/internal/fault"
)

// NameOf checks a name that a person gave, and tidies it.
func NameOf(what, name string) (string, error) {
	tidy := names.Text(name)
	if tidy == "" || len(tidy) > MostName {
		return "", fault.Bad("%s needs a name of 1 to %d bytes", what, MostName)
	}
	return tidy, nil
}
