package live

import (
	"reflect"
	"strings"
	"testing"

	"amberproof/core/importer"
	"amberproof/internal/ticket"
)

// Fields by which the world is the same on purpose. Every other field of a wish or a
// ticket, those of tomorrow too, makes another world.
var sameWorld = map[string]string{
	"wish.Number": "which answer", "wish.Width": "camera", "wish.Height": "camera", "wish.View": "camera", "wish.Camera": "camera",
	"wish.Ticket": "resolved", "wish.Surround": "resolved", "wish.Variant": "resolved", "wish.Surface": "resolved", "wish.Dark": "resolved",
	"View.Name": "camera", "View.Width": "camera", "View.Height": "camera", "View.Scale": "camera", "View.Region": "camera", "View.Lens": "camera",
	"View.Exposure": "look", "View.Display": "look", "Output": "files",
	"Quality.Preset": "runs", "Quality.Least": "runs", "Quality.Most": "runs", "Quality.Noise": "runs", "Quality.Seed": "runs",
}

func TestTheKeyOfAWorldHasEveryField(t *testing.T) {
	v, err := importer.Import(t.Context(), importer.Bundle{"a.obj": []byte("o A\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")}, importer.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	key := func(change func(w *Wish, k *ticket.Ticket)) string {
		w, r := Wish{}, ticket.Resolved{Ticket: ticket.New()}
		change(&w, &r.Ticket)
		s, err := (&answerable{wish: &w, resolved: &r, subject: v}).key()
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	plain := key(func(*Wish, *ticket.Ticket) {})
	fields := 0
	check := func(path string, changed func(i int) string, i int) {
		fields++
		same := false
		for p := path; p != ""; p = p[:max(0, strings.LastIndexByte(p, '.'))] {
			same = same || sameWorld[p] != ""
		}
		if got := changed(i); (got == plain) != same {
			t.Errorf("%s: the same world: %v, on purpose: %v", path, got == plain, same)
		}
	}
	wish := reflect.TypeFor[Wish]()
	for i := range wish.NumField() {
		check("wish."+wish.Field(i).Name, func(i int) string {
			return key(func(w *Wish, _ *ticket.Ticket) { alter(reflect.ValueOf(w).Elem().Field(i)) })
		}, i)
	}
	var each func(path string, typ reflect.Type, index []int)
	each = func(path string, typ reflect.Type, index []int) {
		for i := range typ.NumField() {
			f := typ.Field(i)
			at := append(append([]int(nil), index...), i)
			name := strings.TrimPrefix(path+"."+f.Name, ".")
			if f.Type.Kind() == reflect.Struct {
				each(name, f.Type, at)
				continue
			}
			check(name, func(int) string {
				return key(func(_ *Wish, k *ticket.Ticket) { alter(reflect.ValueOf(k).Elem().FieldByIndex(at)) })
			}, 0)
		}
	}
	each("", reflect.TypeFor[ticket.Ticket](), nil)
	if fields < 100 {
		t.Errorf("only %d fields were looked at", fields)
	}
}

// alter sets a value to another one.
func alter(v reflect.Value) {
	switch v.Kind() {
	case reflect.Bool:
		v.SetBool(!v.Bool())
	case reflect.String:
		v.SetString(v.String() + "x")
	case reflect.Int, reflect.Int64:
		v.SetInt(v.Int() + 3)
	case reflect.Float32, reflect.Float64:
		v.SetFloat(v.Float() + 0.25)
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
	case reflect.Slice:
		if v.Type().Elem().Kind() == reflect.Uint8 {
			v.SetBytes([]byte("1"))
		} else {
			v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		}
	default:
		panic("no other value for a " + v.Type().String())
	}
}
