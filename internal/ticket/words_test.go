package ticket

import (
	"reflect"
	"testing"

	"amberproof/core/setup"
)

// Every setting of a set-up has a word, and there is no word without its setting.
func TestEverySettingHasItsWords(t *testing.T) {
	used := map[string]bool{}
	seen := map[reflect.Type]bool{}
	var visit func(of reflect.Type)
	visit = func(of reflect.Type) {
		for of.Kind() == reflect.Pointer || of.Kind() == reflect.Slice {
			of = of.Elem()
		}
		if of.Kind() != reflect.Struct || seen[of] {
			return
		}
		seen[of] = true
		for i := range of.NumField() {
			f := of.Field(i)
			if of.PkgPath() == setupPath {
				used[of.Name()+"."+f.Name] = true
				if _, ok := f.Tag.Lookup("label"); ok {
					t.Errorf("%s.%s has its words in the core", of.Name(), f.Name)
				}
			}
			visit(f.Type)
		}
	}
	visit(reflect.TypeFor[Ticket]())
	visit(reflect.TypeFor[setup.Setup]())
	for field := range setupWords {
		if !used[field] {
			t.Errorf("there are words for %s, and no such setting", field)
		}
	}
	for _, s := range Settings() {
		if s.Label == "" && s.Path != "" && !inList(s.Path) {
			t.Errorf("%s has no label", s.Path)
		}
	}
}

// inList tells values that no form shows by themselves: keys and paths of entries.
func inList(path string) bool { return path[len(path)-1] == ']' }
