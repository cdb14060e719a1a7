package ticket

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"reflect"
	"slices"

	"amberproof/core/setup"
)

// Needs names by SHA-256, in hex, all that a picture is made of, for a worker that has to
// fetch what it does not hold.
type Needs struct {
	Ticket   string   `json:"ticket"` // the resolved ticket, set-up and camera in it
	Scene    string   `json:"scene"`
	Setup    string   `json:"setup,omitempty"`    // that is laid over the scene
	Pictures []string `json:"pictures,omitempty"` // on finishes, behind the scene and around it; in order
}

// Needs tells what a picture needs.
func (r *Resolved) Needs() Needs {
	n := Needs{Ticket: r.Fingerprint(), Scene: r.Scene.SHA256}
	if r.Setup != nil {
		b, err := json.Marshal(r.Setup)
		if err != nil {
			panic(err) // as in Encode
		}
		sum := sha256.Sum256(b)
		n.Setup = hex.EncodeToString(sum[:])
	}
	eachPicture(reflect.ValueOf(r), func(sum string) { n.Pictures = append(n.Pictures, sum) })
	slices.Sort(n.Pictures)
	n.Pictures = slices.Compact(n.Pictures)
	return n
}

// eachPicture finds the checksums of all pictures that a document names, wherever they
// stand: what is added to tickets or set-ups cannot be forgotten. Pictures of the shelf
// come with the program and have none.
func eachPicture(v reflect.Value, found func(sum string)) {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			eachPicture(v.Elem(), found)
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			eachPicture(v.Index(i), found)
		}
	case reflect.Struct:
		switch p := v.Interface().(type) {
		case setup.Drawn:
			if p.SHA256 != "" {
				found(p.SHA256)
			}
		case setup.Picture:
			if p.SHA256 != "" {
				found(p.SHA256)
			}
		default:
			for i := range v.NumField() {
				if v.Type().Field(i).IsExported() {
					eachPicture(v.Field(i), found)
				}
			}
		}
	}
}
