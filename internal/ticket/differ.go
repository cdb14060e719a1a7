package ticket

import (
	"fmt"
	"reflect"
	"strings"
)

// Differences lists what two resolved tickets disagree on, in words.
func Differences(a, b *Resolved) []string {
	out := []string{}
	if a.Scene != b.Scene {
		out = append(out, fmt.Sprintf("scene %s, was %s", b.Scene.Name, a.Scene.Name))
	}
	if !reflect.DeepEqual(a.Setup, b.Setup) {
		out = append(out, setupDifferences(a.setup(), b.setup())...)
	}
	if a.Camera != b.Camera && a.Ticket.View.Name == b.Ticket.View.Name {
		out = append(out, fmt.Sprintf("view %s was moved", b.Ticket.View.Name))
	}
	flat := func(r *Resolved) (order []Setting, value map[string]any) {
		value = map[string]any{}
		walk(reflect.ValueOf(&r.Ticket).Elem(), "", func(s Setting, _ reflect.StructField, v reflect.Value) {
			switch {
			case s.Kind == "group":
			case s.Kind == "list" && v.Type().Elem().Kind() == reflect.Struct:
				value[s.Path] = v.Len()
				order = append(order, s)
			default:
				value[s.Path] = v.Interface()
				order = append(order, s)
			}
		})
		return
	}
	_, was := flat(a)
	order, is := flat(b)
	for _, s := range order {
		old, ok := was[s.Path]
		if !ok || reflect.DeepEqual(old, is[s.Path]) || strings.HasSuffix(s.Path, "sha256") {
			continue
		}
		unit := ""
		if s.Unit != "" {
			unit = " " + s.Unit
		}
		if s.Kind == "list" {
			out = append(out, fmt.Sprintf("%s changed", s.Label))
			continue
		}
		out = append(out, fmt.Sprintf("%s %s%s, was %s%s", s.Label, said(is[s.Path]), unit, said(old), unit))
	}
	return out
}

// said is a setting's value in words.
func said(v any) string {
	switch v {
	case true:
		return "on"
	case false:
		return "off"
	}
	return fmt.Sprint(v)
}
