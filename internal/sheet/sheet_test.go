package sheet

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os/exec"
	"reflect"
	"strings"
	"testing"
	"time"
)

func made(t *testing.T, pictures int) *Sheet {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 60, 40))
	for i := range img.Pix {
		img.Pix[i] = 200
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		t.Fatal(err)
	}
	at := time.Date(2031, 3, 12, 8, 30, 0, 0, time.UTC)
	s := &Sheet{Form: Form, Version: Version, Project: "Pellwick", Number: 2, Kind: "light", Title: "Light – façade", Due: "2031-03-14", Verdict: "waiting",
		Note:  "The bail is 5 mm now.\nPlease look at the foot.",
		Asked: []string{"Ottilie Harrowgate", "Борис Лампин", "林 琥珀", "램프 서연"}, Made: at}
	share := 0.031
	for i := range pictures {
		s.Pictures = append(s.Pictures, Picture{Number: i + 1, View: fmt.Sprint("View ", i+1),
			Newest: i != 1, Verdict: "changes asked", SHA256: strings.Repeat("ab", 32),
			Slug: "View · 600 × 400 px", Width: 60, Height: 40, Area: [4]int{0, 0, 60, 40}, By: "Mara", At: at, Before: 1, Parts: []string{"Box moved x +2.00 mm"},
			Changed: &share, JPEG: b.Bytes(),
			Answers: []Answer{{"Ottilie Harrowgate", "changes asked", "Brighter, please.", strings.Repeat("ab", 32), at}},
			Remarks: []Remark{
				{7, 1, "Bail", "open", "visible", 0.5, 0.25, []Line{{"Ottilie", "Too thin", "", at}, {"Mara", strings.Repeat("Long words of an answer. ", 60), "", at}}},
				{8, 1, "Foot", "done", "gone", 0, 0, []Line{{"Ottilie", "Floats", "", at}}},
			}})
	}
	return s
}

// What is printed is text that can be found and copied, on the paper asked for, read back by a
// program of others: the newest pictures, one to a page, with all that was said.
func TestPDF(t *testing.T) {
	s := made(t, 3)
	for paper, size := range map[string]string{"a4": "595.28 841.89", "letter": "612.00 792.00"} {
		b, err := s.PDF(paper)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.HasPrefix(b, []byte("%PDF-")) || !bytes.Contains(b, []byte("/MediaBox [0 0 "+size+"]")) {
			t.Errorf("%s: no %s in %.200q", paper, size, b)
		}
		if n := bytes.Count(b, []byte("/FontFile2")); n < 3 {
			t.Errorf("%d faces are embedded", n)
		}
		c := exec.Command("pdftotext", "-layout", "-", "-")
		c.Stdin = bytes.NewReader(b)
		text, err := c.Output()
		if err != nil {
			t.Fatal(err)
		}
		for _, want := range []string{"Pellwick: Light – façade", "due 14 March 2031", "View 1", "View 3", "Box moved x +2.00 mm", "3.1 % of the picture",
			"Brighter, please.",
			"The bail is 5 mm now.", "Please look at the foot.", "Too thin", "the part is gone", "Борис Лампин", "林 琥珀", "램프 서연", "Signed", "checksum abab"} {
			if !strings.Contains(string(text), want) {
				t.Errorf("%s: %q is not there", paper, want)
			}
		}
		if strings.Contains(string(text), "View 2") {
			t.Error("a superseded picture is printed")
		}
	}
	empty := &Sheet{Project: "Pellwick", Title: "Shape", Made: s.Made}
	if b, err := empty.PDF("a4"); err != nil || len(b) < 500 {
		t.Errorf("a round without pictures: %d bytes, %v", len(b), err)
	}
}

// Each letter is in a face that has it, and the stretches make up the text.
func TestFaces(t *testing.T) {
	for text, want := range map[string]string{
		"Bail":                    "text:Bail",
		"Bail – 2 × 3 ≈ Лампа 提灯": "text:Bail – 2 × 3 |other:≈ Лампа |eastern:提灯",
		"램프, thin":                "hangul:램프|text:, thin",
		"とても細い":                   "eastern:とても細い",
		"":                        "",
		"\n a":                    "text:\n a",
	} {
		var got, whole []string
		for _, s := range stretches(text, faces[0]) {
			got, whole = append(got, s.face.name+":"+s.text), append(whole, s.text)
		}
		if strings.Join(got, "|") != want || strings.Join(whole, "") != text {
			t.Errorf("%q is %q", text, got)
		}
	}
	if got := stretches("\U0001FAE0x", monospaced); len(got) != 1 || got[0].face != monospaced {
		t.Errorf("what no face has: %v", got)
	}
}

// The contact sheet has a cell for each picture that is up, with the picture in it.
func TestContact(t *testing.T) {
	for n, across := range map[int]int{1: 1, 3: 2, 7: 4} {
		s := made(t, n)
		b, err := s.Contact()
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(bytes.NewReader(b))
		if err != nil || img.Bounds().Dx() != gap+across*(cell+gap) {
			t.Fatalf("%d pictures: %v %v", n, img.Bounds(), err)
		}
		for k := range across {
			c := color.GrayModel.Convert(img.At(gap+k*(cell+gap)+cell/2, gap+lettersHigh+100)).(color.Gray)
			if c.Y < 190 || c.Y > 210 {
				t.Errorf("%d pictures, cell %d: %v", n, k, c)
			}
		}
	}
	if b, err := (&Sheet{Title: strings.Repeat("A long title ", 50)}).Contact(); err != nil || len(b) == 0 {
		t.Error(err)
	}
}

// The document is read as it was written.
func TestDocument(t *testing.T) {
	s := made(t, 2)
	b, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	var got Sheet
	if err := json.Unmarshal(b, &got); err != nil {
		t.Fatal(err)
	}
	for i := range s.Pictures {
		s.Pictures[i].JPEG = nil
	}
	if !reflect.DeepEqual(&got, s) {
		t.Errorf("%+v", got)
	}
}
