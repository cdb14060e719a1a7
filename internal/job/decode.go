package job

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
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
