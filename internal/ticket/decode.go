package ticket

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"strings"
	"unicode/utf8"

	"amberproof/internal/fault"
)

// maxTicket bounds a ticket's size in bytes.
const maxTicket = 4 << 20

// Decode reads a ticket; what it leaves out has its default. Unknown names are
// faults, so that a misspelt setting cannot be lost in silence.
func Decode(data []byte) (Ticket, []fault.Fault) {
	t := New()
	if len(data) > maxTicket {
		return t, []fault.Fault{fault.At("", fmt.Sprintf("the ticket has %d bytes, at most %d are allowed", len(data), maxTicket))}
	}
	if faults := fromPreset(data, &t); faults != nil {
		return t, faults
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&t); err != nil {
		return t, []fault.Fault{faultOf(data, err)}
	}
	if _, err := d.Token(); err != io.EOF {
		return t, []fault.Fault{fault.At("", "the ticket is followed by something else; give one ticket a file")}
	}
	t.Tidy()
	return t, Check(&t)
}

// fromPreset gives a ticket the numbers of the preset it names; those that the
// file has beside the name are laid over them. A preset that is not known is a
// fault.
func fromPreset(data []byte, t *Ticket) []fault.Fault {
	var named struct{ Quality struct{ Preset string } }
	if json.Unmarshal(data, &named) != nil {
		return nil // what is wrong is told when all is read
	}
	key := named.Quality.Preset
	if key == "" || key == OwnQuality {
		return nil
	}
	var known []string
	for _, p := range Presets() {
		if p.Key == key {
			t.Quality = p.Quality
			return nil
		}
		known = append(known, p.Key)
	}
	return []fault.Fault{fault.At("quality.preset",
		fmt.Sprintf("There is no preset %q; there are %s, and %s for numbers of one's own", key, strings.Join(known, ", "), OwnQuality))}
}

// before is a ticket as those have it that say nothing of what came later.
func before() Ticket {
	t := New()
	t.Quality.Denoise.On = false
	return t
}

// Restore reads a ticket that was kept, perhaps by an earlier version: what that
// did not know has its default, and what is no longer known is left out.
func Restore(data []byte) (Ticket, error) {
	t := before()
	err := json.Unmarshal(data, &t)
	t.Tidy()
	return t, err
}

// RestoreResolved reads a resolved ticket that was kept, as Restore does.
func RestoreResolved(data []byte) (Resolved, error) {
	r := Resolved{Ticket: before()}
	err := json.Unmarshal(data, &r)
	r.Ticket.Tidy()
	return r, err
}

// overDefaults reads an entry of a list; entry points to a struct without a
// reader of its own. Nothing is changed by what cannot be read.
func overDefaults(b []byte, entry any) error {
	v := reflect.ValueOf(entry).Elem()
	fresh := reflect.New(v.Type())
	defaults(fresh.Elem())
	d := json.NewDecoder(bytes.NewReader(b))
	d.DisallowUnknownFields()
	if err := d.Decode(fresh.Interface()); err != nil {
		return err
	}
	v.Set(fresh.Elem())
	return nil
}

// faultOf says in a person's words what is wrong with a document, and where.
func faultOf(data []byte, err error) fault.Fault {
	var kind *json.UnmarshalTypeError
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &kind):
		return fault.At(kind.Field, fmt.Sprintf("%s: must be %s, not %s", place(data, kind.Offset), needed(kind.Type), given(kind.Value)))
	case errors.As(err, &syntax):
		return fault.At("", fmt.Sprintf("%s: the ticket is not proper JSON: %s", place(data, syntax.Offset), strings.TrimPrefix(syntax.Error(), "json: ")))
	case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
		return fault.At("", place(data, int64(len(data)))+": the ticket ends too early")
	}
	if name, ok := strings.CutPrefix(err.Error(), "json: unknown field "); ok {
		at := int64(bytes.Index(data, []byte(name)) + 1)
		return fault.At("", fmt.Sprintf("%s: there is no setting called %s; `amberproof ticket --new` prints them all", place(data, at), name))
	}
	return fault.At("", "the ticket cannot be read: "+err.Error())
}

// place is where a byte lies: lines and columns count from 1.
func place(data []byte, offset int64) string {
	before := data[:min(max(offset-1, 0), int64(len(data)))]
	line := bytes.Count(before, []byte("\n")) + 1
	column := utf8.RuneCount(before[bytes.LastIndexByte(before, '\n')+1:]) + 1
	return fmt.Sprintf("line %d, column %d", line, column)
}

// needed is what a setting of a type holds, in words.
func needed(t reflect.Type) string {
	switch t.Kind() {
	case reflect.Int, reflect.Int64:
		return "a whole number"
	case reflect.Float64, reflect.Float32:
		return "a number"
	case reflect.Bool:
		return "true or false"
	case reflect.String:
		return "text in quotes"
	case reflect.Slice, reflect.Array:
		return "a list in brackets"
	}
	return "a group of settings in braces"
}

// given is what a document has in its place.
func given(value string) string {
	switch value {
	case "bool":
		return "true or false"
	case "string":
		return "text"
	case "array":
		return "a list"
	case "object":
		return "a group"
	}
	return value // number, or number and its digits
}

// Encode writes a ticket for people to read and edit.
func Encode(v any) []byte {
	b, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		panic(err) // plain structs of numbers and text always marshal; NaN is refused by Check
	}
	return append(b, '\n')
}
