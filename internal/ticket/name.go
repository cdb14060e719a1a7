package ticket

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"amberproof/core/imageio"
	"amberproof/core/names"
	"amberproof/core/passes"
	"amberproof/internal/fault"
)

// ManifestName is the file name of the manifest within a delivery. No folder
// and no other file may have it.
const ManifestName = "manifest.json"

// mostPath bounds a file's path within its delivery, in bytes.
const mostPath = 1000

// Words a file name template can hold.
var templateWords = []string{"project", "scene", "view", "surface", "variant", "size", "run", "frame", "pass", "date"}

var inBraces = regexp.MustCompile(`\{([^{}]*)\}`)

// checkTemplate says what is wrong with a template, or nothing.
func checkTemplate(t *Ticket) string {
	name := t.Output.Name
	if strings.TrimSpace(name) == "" {
		return "A file name is missing"
	}
	for _, m := range inBraces.FindAllStringSubmatch(name, -1) {
		if !slices.Contains(templateWords, m[1]) {
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
	if !strings.Contains(name, "{pass}") && t.Output.alone() {
		return "Several files would get the same name; add {pass}"
	}
	return ""
}

// Words fills a template.
type Words struct {
	Project, Scene, View string
	Date                 string // year-month-day
	Run, Frame           int
}

// FileName fills the template for one pass; ext without a dot. Whatever the
// words hold, the result is a relative path of names that file systems take,
// but for their length.
func FileName(t *Ticket, w Words, pass, ext string) string {
	size := t.Size()
	fill := map[string]string{
		"project": w.Project, "scene": w.Scene, "view": w.View, "date": w.Date, "surface": t.Surface.Mode, "variant": cmp.Or(t.Surface.Variant, "as set up"),
		"size": fmt.Sprintf("%dx%d", size.X, size.Y), "run": fmt.Sprintf("%03d", w.Run), "frame": fmt.Sprintf("%04d", w.Frame), "pass": pass,
	}
	var segs []string
	for _, s := range strings.Split(t.Output.Name, "/") {
		segs = append(segs, names.Segment(inBraces.ReplaceAllStringFunc(s, func(m string) string { return fill[m[1:len(m)-1]] })))
	}
	return strings.Join(segs, "/") + "." + ext
}

// Planned is one file a run will deliver.
type Planned struct {
	Path   string   `json:"path"`
	Format string   `json:"format" enum:"exr,png"`
	Passes []string `json:"passes" nullable:"false"`
	Crop   string   `json:"crop,omitempty" doc:"That it is cut out as; none: the whole"`
}

// Files lists what a ticket delivers for the given passes, and what is wrong
// with that: names that are too long, are the manifest's, or are those of
// another file or folder to some file system.
func Files(t *Ticket, w Words, list []passes.Pass) ([]Planned, []fault.Fault) {
	var out []Planned
	var all []string
	for _, p := range list {
		all = append(all, p.Key)
	}
	for _, f := range t.Output.Formats() {
		if f.Layers && t.Output.Layers != "each" {
			out = append(out, plan(t, w, f, "layers", all...))
			continue
		}
		for _, k := range all {
			out = append(out, plan(t, w, f, k, k))
		}
	}
	out = append(out, t.cropped(w, all)...)
	return out, checkPaths(out)
}

// Formats are those of the files that a run delivers.
func (o *OutputSection) Formats() (out []*imageio.Format) {
	if o.EXR {
		out = append(out, &imageio.EXRFormat)
	}
	if o.PNG != "none" {
		out = append(out, &imageio.PNGFormat)
	}
	return out
}

// alone tells whether some file holds one pass only.
func (o *OutputSection) alone() bool {
	return slices.ContainsFunc(o.Formats(), func(f *imageio.Format) bool { return !f.Layers || o.Layers == "each" })
}

// plan is a file of some passes under a word for them.
func plan(t *Ticket, w Words, f *imageio.Format, word string, keys ...string) Planned {
	return Planned{Path: FileName(t, w, word, f.Ending), Format: f.Key, Passes: keys}
}

// checkPaths lists at most one fault of each kind.
func checkPaths(files []Planned) []fault.Fault {
	const at = "output.name"
	folders := map[string]bool{names.Fold(ManifestName): true}
	for _, f := range files {
		segs := strings.Split(names.Fold(f.Path), "/")
		for k := 1; k < len(segs); k++ {
			folders[strings.Join(segs[:k], "/")] = true
		}
	}
	var inWay, long string
	var twice Planned
	seen := map[string]bool{}
	for _, f := range files {
		folded := names.Fold(f.Path)
		first, _, _ := strings.Cut(folded, "/")
		switch {
		case slices.ContainsFunc(strings.Split(f.Path, "/"), names.TooLong), len(f.Path) > mostPath:
			long = f.Path
		case seen[folded]:
			twice = f
		case folders[folded], first == names.Fold(ManifestName):
			inWay = f.Path
		}
		seen[folded] = true
	}
	var faults []fault.Fault
	switch {
	case twice.Crop != "":
		faults = append(faults, fault.At("output.crops", fmt.Sprintf("Two files would be called %q; give the crop %q another name", twice.Path, twice.Crop)))
	case twice.Path != "":
		faults = append(faults, fault.At(at, fmt.Sprintf("Two files would be called %q; add {pass}", twice.Path)))
	}
	if inWay != "" {
		faults = append(faults, fault.At(at, fmt.Sprintf("The file %q would be in the way of a folder, or of the "+
			"manifest (%s), of that name; choose another name", inWay, ManifestName)))
	}
	if long != "" {
		faults = append(faults, fault.At(at, fmt.Sprintf("The name %q… is too long for file systems (255 bytes for a "+
			"file or folder, %d in all); shorten it", names.Cut(long, 60), mostPath)))
	}
	return faults
}
