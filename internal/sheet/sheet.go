// Package sheet lays a round out: as a sheet to be printed and signed (PDF), as one picture of
// all that is up (PNG), and as a document for other programs (JSON, see docs/round.md).
package sheet

import "time"

// Form and Version name the document.
const (
	Form    = "amber-proof-round"
	Version = 2
)

// Sheet is a round with all that was said in it.
type Sheet struct {
	Form     string    `json:"form"`
	Version  int       `json:"version"`
	Project  string    `json:"project"`
	Number   int       `json:"number"`
	Kind     string    `json:"kind"` // clay, light, finish, final, other
	Title    string    `json:"title"`
	Due      string    `json:"due"` // a day, as 2031-03-12; empty for none
	Verdict  string    `json:"verdict"`
	Note     string    `json:"note"`   // for those who answer
	Anyway   string    `json:"anyway"` // why it was begun before the round before was approved
	Asked    []string  `json:"asked"`
	Made     time.Time `json:"made"` // when this was written
	Pictures []Picture `json:"pictures"`
}

// Picture is a proof.
type Picture struct {
	Number   int       `json:"number"` // within the round, from 1
	Scene    string    `json:"scene"`
	View     string    `json:"view"`
	Newest   bool      `json:"newest"` // no later one of the round supersedes it
	Verdict  string    `json:"verdict"`
	SHA256   string    `json:"sha256"`
	Slug     string    `json:"slug"`
	Width    int       `json:"width"` // of the frame, pixels
	Height   int       `json:"height"`
	Area     [4]int    `json:"area"` // of the frame that was computed: left, top, right, bottom in pixels
	By       string    `json:"by"`
	At       time.Time `json:"at"`
	Before   int       `json:"before"` // number of the round of the same view before; 0: none
	Parts    []string  `json:"partsChanged"`
	Settings []string  `json:"settingsChanged"`
	Changed  *float64  `json:"pictureChanged"` // share of the picture; null where it cannot be told
	Answers  []Answer  `json:"answers"`
	Remarks  []Remark  `json:"remarks"` // made on it, or on one before and still open
	JPEG     []byte    `json:"-"`       // as it is shown, of the computed area
}

// Answer is what somebody said to a proof.
type Answer struct {
	Name    string    `json:"name"`
	Verdict string    `json:"verdict"`
	Words   string    `json:"words"`
	SHA256  string    `json:"sha256"` // of the proof that was seen
	At      time.Time `json:"at"`
}

// Remark is something said of a place.
type Remark struct {
	Number int     `json:"number"` // within the project
	Round  int     `json:"round"`  // it was made in
	Part   string  `json:"part"`   // of the scene; empty for none
	State  string  `json:"state"`  // open, done, won't do
	Seen   string  `json:"seen"`   // in this picture: visible, hidden, outside, gone, unknown
	X      float64 `json:"x"`      // share of the frame's width
	Y      float64 `json:"y"`
	Lines  []Line  `json:"lines"` // the remark itself first
}

// Line is something said in a remark.
type Line struct {
	Name  string    `json:"name"`
	Words string    `json:"words"`
	State string    `json:"state"` // it was brought to by this; empty: it stayed
	At    time.Time `json:"at"`
}
