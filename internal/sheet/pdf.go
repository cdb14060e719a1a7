package sheet

import (
	"bytes"
	"fmt"
	"image"
	_ "image/jpeg" // sizes of pictures
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
)

// Papers are what a sheet is printed on.
var Papers = map[string]string{"a4": "A4", "letter": "Letter"}

const (
	margin   = 15.0 // mm
	day      = "2 January 2006"
	dayClock = "2 January 2006, 15:04"
	mostHigh = 0.46 // of the paper's height that a picture takes
)

// page is a sheet that is being laid out.
type page struct {
	*fpdf.Fpdf
	s             *Sheet
	width, height float64 // of the paper, mm
	embedded      map[*typeface]bool
}

// PDF lays the sheet out on paper: "a4" or "letter". Text is text, in faces that are embedded.
func (s *Sheet) PDF(paper string) ([]byte, error) {
	p := &page{Fpdf: fpdf.New("P", "mm", Papers[paper], ""), s: s, embedded: map[*typeface]bool{}}
	p.width, p.height = p.GetPageSize()
	p.SetMargins(margin, margin, margin)
	p.SetAutoPageBreak(true, margin+6)
	p.SetTitle(fmt.Sprintf("%s, round %d: %s", s.Project, s.Number, s.Title), true)
	p.SetCreator("Amber Proof", true)
	p.SetLang("en")
	p.SetCreationDate(s.Made)
	p.SetModificationDate(s.Made)
	p.SetFooterFunc(p.foot)
	p.AddPage()
	p.head()
	n := 0
	for i := range s.Pictures {
		v := &s.Pictures[i]
		if !v.Newest {
			continue
		}
		if n++; n > 1 {
			p.AddPage()
		}
		p.picture(v)
	}
	p.signatures()
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// in sets the face that the next text is in, and embeds it where it was not.
func (p *page) in(f *typeface, style string, size float64) {
	if !p.embedded[f] {
		p.embedded[f] = true
		p.AddUTF8FontFromBytes(f.name, "", f.regular)
		p.AddUTF8FontFromBytes(f.name, "B", f.bold)
	}
	p.SetFont(f.name, style, size)
}

// say writes a paragraph.
func (p *page) say(style string, size float64, tone int, text string) {
	p.write(faces[0], style, size, size*0.46, tone, text)
	p.Ln(size * 0.46)
}

// write writes text from where the page is at, in lines of a height in mm, each letter in a face that has it.
func (p *page) write(first *typeface, style string, size, high float64, tone int, text string) {
	p.SetTextColor(tone, tone, tone)
	for _, s := range stretches(text, first) {
		p.in(s.face, style, size)
		p.Write(high, s.text)
	}
}

const ink, faint = 20, 95 // greys of the print

func (p *page) title(text string) {
	p.Ln(2.5)
	p.say("B", 8.5, faint, text)
	p.Ln(0.5)
}

func (p *page) foot() {
	p.SetY(-margin)
	left := fmt.Sprintf("%s, round %d: %s. Written %s UTC.", p.s.Project, p.s.Number, p.s.Title, p.s.Made.UTC().Format(dayClock))
	p.write(faces[0], "", 7.5, 5, faint, left)
	p.in(faces[0], "", 7.5)
	p.SetX(margin)
	p.CellFormat(0, 5, fmt.Sprint(p.PageNo()), "", 0, "R", false, 0, "")
}

func (p *page) head() {
	s := p.s
	p.say("B", 18, ink, fmt.Sprintf("%s: %s", s.Project, s.Title))
	facts := []string{fmt.Sprintf("Round %d, %s", s.Number, s.Kind), s.Verdict}
	if at, err := time.Parse("2006-01-02", s.Due); err == nil {
		facts = append(facts, "due "+at.Format(day))
	}
	if len(s.Asked) > 0 {
		facts = append(facts, "to be answered by "+strings.Join(s.Asked, ", "))
	}
	p.say("", 10, ink, strings.Join(facts, "  ·  "))
	if s.Anyway != "" {
		p.say("", 9, faint, "Begun before the round before was approved: "+s.Anyway)
	}
	if s.Note != "" {
		p.Ln(1.5)
		p.say("", 10, ink, s.Note)
	}
	p.Ln(3)
}

// picture is a proof with all that was said of it.
func (p *page) picture(v *Picture) {
	p.say("B", 12, ink, v.View+"  ·  "+v.Verdict)
	p.Ln(1)
	p.shown(v)
	p.write(monospaced, "", 7, 3.2, faint, v.Slug+"\nchecksum "+v.SHA256+"\nput up by "+v.By+", "+v.At.UTC().Format(dayClock)+" UTC\n")
	if v.Before > 0 {
		p.title(fmt.Sprintf("Changed since round %d", v.Before))
		lines := append(append([]string{}, v.Parts...), v.Settings...)
		if v.Changed != nil {
			lines = append(lines, fmt.Sprintf("%.1f %% of the picture, by more than its noise explains", 100**v.Changed))
		}
		if len(lines) == 0 {
			lines = []string{"Nothing"}
		}
		for _, l := range lines {
			p.say("", 9, ink, l)
		}
	}
	if len(v.Remarks) > 0 {
		p.title("Remarks")
	}
	for i := range v.Remarks {
		p.remark(&v.Remarks[i])
	}
	p.title("Answers")
	if len(v.Answers) == 0 {
		p.say("", 9, faint, "Nobody has answered yet.")
	}
	for _, a := range v.Answers {
		p.say("B", 9, ink, a.Name+": "+a.Verdict)
		if a.Words != "" {
			p.say("", 9, ink, a.Words)
		}
		p.say("", 7.5, faint, a.At.UTC().Format(dayClock)+" UTC, on checksum "+a.SHA256[:min(12, len(a.SHA256))])
		p.Ln(0.8)
	}
}

// shown draws the frame of a proof, its picture in it and the numbers of its remarks over it.
func (p *page) shown(v *Picture) {
	wide := p.width - 2*margin
	k := min(wide/float64(v.Width), p.height*mostHigh/float64(v.Height)) // mm for each pixel
	w, h := float64(v.Width)*k, float64(v.Height)*k
	x, y := margin, p.GetY()
	if cfg, kind, err := image.DecodeConfig(bytes.NewReader(v.JPEG)); err == nil && kind == "jpeg" && cfg.Width > 0 {
		o := fpdf.ImageOptions{ImageType: "JPG"}
		name := fmt.Sprintf("%d-%s", v.Number, v.SHA256)
		p.RegisterImageOptionsReader(name, o, bytes.NewReader(v.JPEG))
		a := v.Area
		p.ImageOptions(name, x+float64(a[0])*k, y+float64(a[1])*k, float64(a[2]-a[0])*k, float64(a[3]-a[1])*k, false, o, 0, "")
	}
	p.SetDrawColor(faint, faint, faint)
	p.SetLineWidth(0.1)
	p.Rect(x, y, w, h, "D")
	for i := range v.Remarks {
		r := &v.Remarks[i]
		if r.Seen == "visible" {
			p.pin(x+r.X*w, y+r.Y*h, r)
		}
	}
	p.SetXY(margin, y+h+1.5)
}

// pin marks the place of a remark: a ring, and a tag with its number beside it.
func (p *page) pin(x, y float64, r *Remark) {
	p.SetLineWidth(0.9)
	p.SetDrawColor(20, 20, 20)
	p.Circle(x, y, 1.1, "D")
	p.SetLineWidth(0.4)
	p.SetDrawColor(255, 255, 255)
	p.Circle(x, y, 1.1, "D")
	number := fmt.Sprint(r.Number)
	if r.State != "open" {
		number += " " + r.State
	}
	p.in(faces[0], "B", 8)
	w := p.GetStringWidth(number) + 2.4
	p.SetDrawColor(20, 20, 20)
	p.SetLineWidth(0.2)
	if r.State == "open" {
		p.SetFillColor(255, 178, 26)
	} else {
		p.SetFillColor(240, 240, 240)
	}
	p.SetTextColor(20, 20, 20)
	p.SetXY(x+1.4, y-5.2)
	p.CellFormat(w, 4, number, "1", 0, "C", true, 0, "")
}

func (p *page) remark(r *Remark) {
	head := fmt.Sprintf("%d  %s", r.Number, r.Part)
	if r.State != "open" {
		head += "  ·  " + r.State
	}
	if r.Seen != "visible" {
		head += "  ·  " + map[string]string{"hidden": "hidden from here", "outside": "outside of this picture", "gone": "the part is gone"}[r.Seen]
	}
	p.say("B", 9, ink, strings.TrimSuffix(strings.TrimSpace(head), "·"))
	for _, l := range r.Lines {
		words := l.Words
		if l.State != "" {
			words = strings.TrimSpace(l.State + ". " + words)
		}
		p.say("", 9, ink, words)
		p.say("", 7.5, faint, l.Name+", "+l.At.UTC().Format(dayClock)+" UTC")
	}
	p.Ln(0.8)
}

// signatures are lines to sign, one for each who is asked.
func (p *page) signatures() {
	if len(p.s.Asked) == 0 {
		return
	}
	const each = 16.0
	if p.GetY()+10+each*float64(len(p.s.Asked)) > p.height-margin-8 {
		p.AddPage()
	}
	p.title("Signed")
	for _, name := range p.s.Asked {
		y := p.GetY() + 9
		p.SetDrawColor(ink, ink, ink)
		p.SetLineWidth(0.2)
		p.Line(margin, y, margin+85, y)
		p.Line(margin+95, y, p.width-margin, y)
		p.SetXY(margin, y+0.8)
		p.say("", 8, faint, name)
		p.SetXY(margin+95, y+0.8)
		p.say("", 8, faint, "Date")
		p.SetXY(margin, y+each-9)
	}
}
