package ticket

import (
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"amberproof/core/clay"
	"amberproof/core/setup"
	"amberproof/internal/fault"
)

// Setting describes one field of the ticket: what the form shows and the
// validation holds.
type Setting struct {
	Path    string   `json:"path" doc:"Names from the ticket down, parted by dots; [] stands for any entry of a list"`
	Label   string   `json:"label"`
	Kind    string   `json:"kind" enum:"number,whole,switch,choice,text,list,group"`
	Unit    string   `json:"unit,omitempty"`
	Min     *float64 `json:"min,omitempty"`
	Max     *float64 `json:"max,omitempty"`
	Step    *float64 `json:"step,omitempty"`
	Default any      `json:"default,omitempty"`
	Choices []string `json:"choices,omitempty"`
	Help    string   `json:"help,omitempty"`
	maxLen  int
	most    int // entries of a list
}

// maxListed bounds the lists of a document that do not say more.
const maxListed = 2000

// wordsOf are the words of a field: they stand in its tags, or beside those of the core.
func wordsOf(of reflect.Type, f reflect.StructField) words {
	if w, ok := setupWords[of.Name()+"."+f.Name]; ok && of.PkgPath() == setupPath {
		return w
	}
	return words{f.Tag.Get("label"), f.Tag.Get("help")}
}

var setupPath = reflect.TypeFor[setup.Setup]().PkgPath()

// describe reads the tags of a field of a type.
func describe(of reflect.Type, f reflect.StructField, path string) Setting {
	w := wordsOf(of, f)
	s := Setting{Path: path, Label: w.label, Unit: f.Tag.Get("unit"), Help: w.help}
	num := func(tag string) *float64 {
		if t, ok := f.Tag.Lookup(tag); ok {
			v, err := strconv.ParseFloat(t, 64)
			if err != nil {
				panic(fmt.Sprintf("tag %s of %s: %v", tag, path, err)) // a mistake in this file's sibling, found by any test
			}
			return &v
		}
		return nil
	}
	s.Min, s.Max, s.Step = num("min"), num("max"), num("step")
	if m := num("maxlen"); m != nil {
		s.maxLen = int(*m)
	}
	s.most = maxListed
	if m := num("most"); m != nil {
		s.most = int(*m)
	}
	if c := f.Tag.Get("choices"); c != "" {
		s.Choices = strings.Split(c, ",")
	}
	is := f.Type
	if is.Kind() == reflect.Pointer { // a value that may be absent
		is = is.Elem()
	}
	switch is.Kind() {
	case reflect.Bool:
		s.Kind = "switch"
	case reflect.Int:
		s.Kind = "whole"
	case reflect.Float64:
		s.Kind = "number"
	case reflect.Slice:
		s.Kind = "list"
	case reflect.Struct:
		s.Kind = "group"
	default:
		s.Kind = "text"
	}
	if s.Choices != nil {
		s.Kind = "choice"
	}
	return s
}

// walk visits every field below v with its description; of values that may be absent,
// those that are there.
func walk(v reflect.Value, path string, visit func(s Setting, f reflect.StructField, v reflect.Value)) {
	t := v.Type()
	for i := 0; i < t.NumField(); i++ {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		p := name
		if path != "" {
			p = path + "." + name
		}
		at := v.Field(i)
		if at.Kind() == reflect.Pointer {
			if at.IsNil() {
				continue
			}
			at = at.Elem()
		}
		visit(describe(t, f, p), f, at)
		switch at.Kind() {
		case reflect.Struct:
			walk(at, p, visit)
		case reflect.Slice:
			if at.Type().Elem().Kind() == reflect.Struct {
				for k := 0; k < at.Len(); k++ {
					walk(at.Index(k), fmt.Sprintf("%s[%d]", p, k), visit)
				}
			}
		}
	}
}

// setDefault gives v the default of its tag.
func setDefault(f reflect.StructField, v reflect.Value) {
	d, ok := f.Tag.Lookup("def")
	switch v.Kind() {
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 0, 0))
		return
	case reflect.Struct:
		return
	}
	if !ok {
		return
	}
	switch v.Kind() {
	case reflect.Bool:
		v.SetBool(d == "true")
	case reflect.Int:
		n, _ := strconv.Atoi(d)
		v.SetInt(int64(n))
	case reflect.Float64:
		x, _ := strconv.ParseFloat(d, 64)
		v.SetFloat(x)
	case reflect.String:
		v.SetString(d)
	}
}

func defaults(v reflect.Value) {
	walk(v, "", func(_ Setting, f reflect.StructField, v reflect.Value) { setDefault(f, v) })
}

// New is a ticket of defaults: the Proof preset, denoised, own finishes, and a clay
// plan in which clear parts keep their finish.
func New() Ticket {
	var t Ticket
	defaults(reflect.ValueOf(&t).Elem())
	// Not by its tag: tickets that were kept before there was denoising asked for none.
	t.Quality.Denoise.On = true
	t.Surface.Clay.Rules = []KeepRule{{By: "kind", Match: "clear", Parts: []string{}, Do: "keep"}}
	return t
}

// Settings lists every setting of a ticket, and under "setup." those of a set-up;
// entries of lists once with [] for their index.
func Settings() []Setting {
	t := New()
	t.Stage.Gradient, t.Stage.Plate = &Gradient{}, &Plate{}
	present(reflect.ValueOf(&t.Surface.Clay).Elem())
	t.Stage.Lights, t.Surface.Shapes, t.Output.Crops = []LightChange{{}}, []ShapeRule{{}}, []Crop{{}}
	u := setup.Setup{File: &setup.File{}, Parts: []setup.Change{{}}, Finishes: []setup.Finish{{}}, Aside: []setup.Aside{{}}, Sets: []setup.Set{{}},
		Looks: []setup.Variant{{Wears: []setup.Worn{{}}, Colours: []setup.Dyed{{}}}}, Stage: &setup.Stage{Lights: []setup.Light{{}}, Begins: &setup.Begins{}}}
	present(reflect.ValueOf(&u.Finishes[0]).Elem())
	return append(settingsOf(reflect.ValueOf(&t).Elem(), ""), settingsOf(reflect.ValueOf(&u).Elem(), "setup")...)
}

// NewFor is a new ticket for a scene with a set-up: with the surround and the exposure
// that its stage was set with.
func NewFor(u *setup.Setup) Ticket {
	t := New()
	if g := u.Stage; g != nil && g.Begins != nil {
		t.Stage.Surround, t.View.Exposure = g.Begins.Surround, g.Begins.Exposure
	}
	return t
}

// present gives every value of a struct that may be absent a zero one.
func present(v reflect.Value) {
	for i := range v.NumField() {
		if f := v.Field(i); f.Kind() == reflect.Pointer {
			f.Set(reflect.New(f.Type().Elem()))
		}
	}
}

func settingsOf(doc reflect.Value, path string) []Setting {
	var out []Setting
	walk(doc, path, func(s Setting, f reflect.StructField, _ reflect.Value) {
		if s.Kind != "group" && s.Kind != "list" {
			if f.Type.Kind() != reflect.Pointer { // what may be absent is so by default
				z := reflect.New(f.Type).Elem()
				setDefault(f, z)
				s.Default = z.Interface()
			}
		}
		s.Path = strings.ReplaceAll(s.Path, "[0]", "[]")
		out = append(out, s)
	})
	return out
}

// Check lists every fault of a ticket by itself: values out of range, words
// that are not choices, and combinations that cannot be.
func Check(t *Ticket) []fault.Fault {
	faults := outOfRange(reflect.ValueOf(t).Elem())
	add := func(path, format string, a ...any) {
		faults = append(faults, fault.At(path, fmt.Sprintf(format, a...)))
	}
	if s := t.Size(); max(s.X, s.Y) > MostSide && max(t.View.Width, t.View.Height) <= MostSide {
		add("view.scale", "At %d %% the frame would be %d x %d px; %d px is the most in either direction", t.View.Scale, s.X, s.Y, MostSide)
	}
	q := &t.Quality
	if q.Least > q.Most {
		add("quality.least", "Least samples (%d) must not be more than most samples (%d)", q.Least, q.Most)
	}
	if r := &t.View.Region; r.On && (r.X+r.Width > 100.0001 || r.Y+r.Height > 100.0001) {
		add("view.region", "The region reaches beyond the frame; left + width and top + height must be at most 100 %%")
	}
	for i, r := range t.Surface.Clay.Rules {
		p := fmt.Sprintf("surface.clay.rules[%d]", i)
		if _, known := clay.Kinds[r.Match]; r.By == "kind" && !known {
			add(p+".match", "Kind must be one of %s, not %q", strings.Join(slices.Sorted(maps.Keys(clay.Kinds)), ", "), r.Match)
		}
		if r.By == "size" && r.Below <= 0 {
			add(p+".below", "A size is missing: below how many millimetres")
		}
		if (r.By == "name" || r.By == "finish" || r.By == "group") && r.Match == "" {
			add(p+".match", "A pattern is missing; * matches everything")
		}
	}
	for i, r := range t.Surface.Shapes {
		if r.Match == "" {
			add(fmt.Sprintf("surface.shapes[%d].match", i), "A pattern is missing; * matches everything")
		}
	}
	seen := map[string]bool{}
	for i, l := range t.Stage.Lights {
		if seen[l.Name] {
			add(fmt.Sprintf("stage.lights[%d].name", i), "The light %q is listed twice", l.Name)
		}
		seen[l.Name] = true
	}
	cut := map[string]bool{}
	for i, c := range t.Output.Crops {
		if c.Name == "" || cut[c.Name] {
			add(fmt.Sprintf("output.crops[%d].name", i), "A crop needs a name that no other has")
		}
		cut[c.Name] = true
	}
	if len(t.Output.Formats()) == 0 {
		add("output", "Nothing would be delivered; switch OpenEXR or PNG on")
	}
	if err := checkTemplate(t); err != "" {
		add("output.name", "%s", err)
	}
	return faults
}

// outOfRange lists the values of a document that its settings' tags do not allow.
func outOfRange(doc reflect.Value) []fault.Fault {
	var faults []fault.Fault
	add := func(path, format string, a ...any) {
		faults = append(faults, fault.At(path, fmt.Sprintf(format, a...)))
	}
	walk(doc, "", func(s Setting, f reflect.StructField, v reflect.Value) {
		switch s.Kind {
		case "whole", "number":
			x := 0.0
			if s.Kind == "whole" {
				x = float64(v.Int())
			} else {
				x = v.Float()
			}
			switch {
			case math.IsNaN(x) || math.IsInf(x, 0):
				add(s.Path, "%s must be a number", s.Label)
			case s.Min != nil && x < *s.Min || s.Max != nil && x > *s.Max:
				add(s.Path, "%s must be between %s and %s, not %s", s.Label, trim(*s.Min, s.Unit), trim(*s.Max, s.Unit), trim(x, s.Unit))
			}
		case "choice":
			have := fmt.Sprint(v.Interface())
			if !slices.Contains(s.Choices, have) {
				add(s.Path, "%s must be one of %s, not %q", s.Label, strings.Join(s.Choices, ", "), have)
			}
		case "text":
			if v.Kind() == reflect.String && (len(v.String()) > s.maxLen || strings.ContainsFunc(v.String(), unicode.IsControl)) {
				add(s.Path, "%s must be at most %d bytes of plain text", s.Label, s.maxLen)
			}
		case "list":
			if v.Len() > s.most {
				add(s.Path, "%s has %d entries, at most %d are allowed", s.Label, v.Len(), s.most)
			}
		}
	})
	return faults
}

func trim(x float64, unit string) string {
	s := strconv.FormatFloat(x, 'f', -1, 64)
	if unit != "" {
		s += " " + unit
	}
	return s
}
