package ticket

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
)

// Difference is something that two resolved tickets disagree on.
type Difference struct {
	Topic string // that it is about, as in Topics; empty for none of those
	Words string
}

// Differences lists what two resolved tickets disagree on, in words.
func Differences(a, b *Resolved) []string {
	out := []string{}
	for _, d := range Differing(a, b) {
		out = append(out, d.Words)
	}
	return out
}

// Differing lists what two resolved tickets disagree on, with what each is about.
func Differing(a, b *Resolved) (out []Difference) {
	if a.Scene != b.Scene {
		out = append(out, Difference{"", fmt.Sprintf("scene %s, was %s", b.Scene.Name, a.Scene.Name)})
	}
	if !reflect.DeepEqual(a.Setup, b.Setup) {
		out = append(out, setupDifferences(a.setup(), b.setup())...)
	}
	if a.Camera != b.Camera && a.Ticket.View.Name == b.Ticket.View.Name {
		out = append(out, Difference{topicOf("view.name"), fmt.Sprintf("view %s was moved", b.Ticket.View.Name)})
	}
	return append(out, differ("", &a.Ticket, &b.Ticket, "not set")...)
}

// value is a setting with what it is.
type value struct {
	Setting
	is any
}

// values are the settings of a struct, in order; lists of structs count as one, and values
// that are absent are left out.
func values(of any) (out []value) {
	walk(reflect.ValueOf(of).Elem(), "", func(s Setting, _ reflect.StructField, v reflect.Value) {
		if s.Kind != "group" && !strings.Contains(s.Path, "[") && !strings.HasSuffix(s.Path, "sha256") {
			out = append(out, value{s, v.Interface()})
		}
	})
	return out
}

// differ lists what two structs of one type disagree on, setting by setting, each behind a
// title if there is one. absent is how a value is said that one of them does not have.
func differ(title string, a, b any, absent string) (out []Difference) {
	if title != "" {
		title += ": "
	}
	was := map[string]value{}
	for _, v := range values(a) {
		was[v.Path] = v
	}
	say := func(s *Setting, is, old string) {
		out = append(out, Difference{topicOf(s.Path), fmt.Sprintf("%s%s %s, was %s", title, s.Label, is, old)})
	}
	for _, v := range values(b) {
		old, ok := was[v.Path]
		delete(was, v.Path)
		switch {
		case !ok:
			say(&v.Setting, v.said(), absent)
		case reflect.DeepEqual(old.is, v.is):
		case v.Kind != "list":
			say(&v.Setting, v.said(), old.said())
		default:
			out = append(out, listDiffers(title, &v, old.is)...)
		}
	}
	for _, v := range values(a) { // in their order
		if _, gone := was[v.Path]; gone {
			say(&v.Setting, absent, v.said())
		}
	}
	return out
}

// listDiffers says what of a list is otherwise: of entries with names what of each, where an
// entry that is missing is as one that changes nothing.
func listDiffers(title string, list *value, old any) (out []Difference) {
	is, was := byName(list.is), byName(old)
	if is == nil {
		return []Difference{{topicOf(list.Path), fmt.Sprintf("%s%s changed", title, list.Label)}}
	}
	for _, n := range is.names {
		out = append(out, about(entryOf(list.Path, n), differ(title+n, was.entry(n), is.entry(n), "not set"))...)
	}
	for _, n := range was.names {
		if _, still := is.at[n]; !still {
			out = append(out, about(entryOf(list.Path, n), differ(title+n, was.entry(n), is.entry(n), "not set"))...)
		}
	}
	if len(out) == 0 { // their order, which may matter
		out = append(out, Difference{topicOf(list.Path), fmt.Sprintf("%s%s in another order", title, list.Label)})
	}
	return out
}

// named are the entries of a list by their names.
type named struct {
	names []string
	at    map[string]any // pointers to entries
	kind  reflect.Type
}

// byName is nil for a list whose entries have no names.
func byName(list any) *named {
	v := reflect.ValueOf(list)
	kind := v.Type().Elem()
	if kind.Kind() != reflect.Struct {
		return nil
	}
	if f, ok := kind.FieldByName("Name"); !ok || f.Type.Kind() != reflect.String {
		return nil
	}
	n := &named{at: map[string]any{}, kind: kind}
	for i := range v.Len() {
		name := v.Index(i).FieldByName("Name").String()
		if _, twice := n.at[name]; twice {
			return nil
		}
		e := reflect.New(kind)
		e.Elem().Set(v.Index(i))
		n.names, n.at[name] = append(n.names, name), e.Interface()
	}
	return n
}

// entry is that of a name, or one of the name in which everything is at its default.
func (n *named) entry(name string) any {
	if e, ok := n.at[name]; ok {
		return e
	}
	e := reflect.New(n.kind).Interface()
	word, _ := json.Marshal(name)
	_ = json.Unmarshal(fmt.Appendf(nil, `{"name": %s}`, word), e) // entries fill in their defaults
	return e
}

// said is a setting's value in words, with its unit.
func (v *value) said() string {
	switch v.is {
	case true:
		return "on"
	case false:
		return "off"
	case "":
		return "none"
	}
	if v.Unit != "" {
		return fmt.Sprintf("%v %s", v.is, v.Unit)
	}
	return fmt.Sprint(v.is)
}
