package job

import (
	"fmt"
	"image"
	"math"
	"regexp"
	"strings"

	"amberproof/core/passes"
)

// Words a file name template can hold.
var templateWords = []string{"project", "scene", "view", "surface", "size", "run", "pass", "date"}

var inBraces = regexp.MustCompile(`\{([^{}]*)\}`)

// checkTemplate says what is wrong with a template, or nothing.
func checkTemplate(t *Ticket) string {
	name := t.Output.Name
	if strings.TrimSpace(name) == "" {
		return "A file name is missing"
	}
	for _, m := range inBraces.FindAllStringSubmatch(name, -1) {
		known := false
		for _, w := range templateWords {
			known = known || w == m[1]
		}
		if !known {
			return fmt.Sprintf("{%s} is not known; use %s", m[1], strings.Join(templateWords, ", "))
		}
	}
	if rest := inBraces.ReplaceAllString(name, ""); strings.ContainsAny(rest, "{}") {
		return "A brace is not closed"
	}
	for _, seg := range strings.Split(name, "/") {
		if s := strings.TrimSpace(seg); s == "" || s == "." || s == ".." {
			return "A folder in the name is empty, or . or .."
		}
	}
	if !strings.Contains(name, "{pass}") && (t.Output.Layers == "each" || t.Output.PNG != "none") {
		return "Several files would get the same name; add {pass}"
	}
	return ""
}

// Words fills a template.
type Words struct {
	Project, Scene, View, Date string
	Run                        int
}

// FileName fills the template for one pass; ext without a dot. Whatever the
// words hold, the result is a safe relative path.
func FileName(t *Ticket, w Words, pass, ext string) string {
	size := t.Size()
	fill := map[string]string{
		"project": w.Project, "scene": w.Scene, "view": w.View, "date": w.Date, "surface": t.Surface.Mode,
		"size": fmt.Sprintf("%dx%d", size.X, size.Y), "run": fmt.Sprintf("%03d", w.Run), "pass": pass,
	}
	out := inBraces.ReplaceAllStringFunc(t.Output.Name, func(m string) string {
		return safe(fill[m[1:len(m)-1]], true)
	})
	var segs []string
	for _, s := range strings.Split(out, "/") {
		segs = append(segs, safe(s, false))
	}
	return strings.Join(segs, "/") + "." + ext
}

// safe keeps what every file system takes; dots inside names are kept, those of words' own slashes are not.
func safe(s string, word bool) string {
	s = strings.Map(func(r rune) rune {
		switch {
		case r < ' ' || r == 127 || strings.ContainsRune(`\:*?"<>|`, r), r == '/' && word:
			return '_'
		case r == ' ':
			return '_'
		}
		return r
	}, s)
	s = strings.Trim(s, ". ")
	if s == "" {
		return "_"
	}
	return s
}

// Planned is one file a run will deliver.
type Planned struct {
	Path   string   `json:"path"`
	Format string   `json:"format" enum:"exr,png"`
	Passes []string `json:"passes" nullable:"false"`
}

// Files lists what a ticket delivers for the given passes. Two files that
// would get the same name are a fault.
func Files(t *Ticket, w Words, list []passes.Pass) ([]Planned, []Fault) {
	var out []Planned
	var all []string
	for _, p := range list {
		all = append(all, p.Key)
	}
	if t.Output.EXR {
		if t.Output.Layers != "each" {
			out = append(out, Planned{FileName(t, w, "layers", "exr"), "exr", all})
		} else {
			for _, k := range all {
				out = append(out, Planned{FileName(t, w, k, "exr"), "exr", []string{k}})
			}
		}
	}
	if t.Output.PNG != "none" {
		for _, k := range all {
			out = append(out, Planned{FileName(t, w, k, "png"), "png", []string{k}})
		}
	}
	seen := map[string]bool{}
	var faults []Fault
	for _, f := range out {
		key := strings.ToLower(f.Path) // some file systems do not tell case apart
		if seen[key] {
			faults = append(faults, Fault{"output.name", fmt.Sprintf("Two files would be called %q; add {pass}", f.Path)})
		}
		seen[key] = true
	}
	return out, faults
}

// Size is the size of the frame as rendered, scale applied.
func (t *Ticket) Size() image.Point {
	s := float64(t.View.Scale) / 100
	return image.Pt(max(1, int(math.Round(float64(t.View.Width)*s))), max(1, int(math.Round(float64(t.View.Height)*s))))
}

// Window is the part of the frame to compute, in pixels of Size.
func (t *Ticket) Window() image.Rectangle {
	s := t.Size()
	full := image.Rectangle{Max: s}
	r := t.View.Region
	if !r.On {
		return full
	}
	px := func(p float64, n int) int { return int(math.Round(p / 100 * float64(n))) }
	w := image.Rect(px(r.X, s.X), px(r.Y, s.Y), px(r.X+r.Width, s.X), px(r.Y+r.Height, s.Y)).Intersect(full)
	if w.Empty() { // thinner than a pixel: the pixel it lies in
		x, y := min(px(r.X, s.X), s.X-1), min(px(r.Y, s.Y), s.Y-1)
		w = image.Rect(x, y, max(x+1, w.Max.X), max(y+1, w.Max.Y)).Intersect(full)
	}
	return w
}
