package job

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
)

// maxTicket bounds a ticket's size in bytes.
const maxTicket = 4 << 20

// Decode reads a ticket; what it leaves out has its default. Unknown names are
// faults, so that a misspelt setting cannot be lost in silence.
func Decode(data []byte) (Ticket, []Fault) {
	t := New()
	if len(data) > maxTicket {
		return t, []Fault{{"", fmt.Sprintf("the ticket has %d bytes, at most %d are allowed", len(data), maxTicket)}}
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&t); err != nil {
		return t, []Fault{faultOf(err)}
	}
	if _, err := d.Token(); err != io.EOF {
		return t, []Fault{{"", "the ticket is followed by something else; give one ticket a file"}}
	}
	t.Tidy()
	return t, Check(&t)
}

// Restore reads a ticket that was kept, perhaps by an earlier version: what that
// did not know has its default, and what is no longer known is left out.
func Restore(data []byte) (Ticket, error) {
	t := New()
	err := json.Unmarshal(data, &t)
	t.Tidy()
	return t, err
}

// RestoreResolved reads a resolved ticket that was kept, as Restore does.
func RestoreResolved(data []byte) (Resolved, error) {
	r := Resolved{Ticket: New()}
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

func faultOf(err error) Fault {
	var kind *json.UnmarshalTypeError
	if errors.As(err, &kind) {
		return Fault{kind.Field, fmt.Sprintf("must be a %s, not a %s", kind.Type, kind.Value)}
	}
	return Fault{"", "the ticket cannot be read: " + err.Error()}
}

// Encode writes a ticket for people to read and edit.
func Encode(v any) []byte {
	b, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		panic(err) // plain structs of numbers and text always marshal; NaN is refused by Check
	}
	return append(b, '\n')
}
