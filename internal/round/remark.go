package round

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
)

// MarkKind is the shape of a mark on a picture.
type MarkKind string

// Shapes of marks.
const (
	Spot   MarkKind = "spot"
	Box    MarkKind = "box"
	Stroke MarkKind = "stroke" // drawn freehand
)

// Mark is where in the frame a remark points. Points are shares of the frame's width and height
// from its upper left corner: one of a spot, two opposite corners of a box, two or more of a
// stroke.
type Mark struct {
	Kind   MarkKind     `json:"kind" enum:"spot,box,stroke"`
	Points [][2]float64 `json:"points" nullable:"false" minItems:"1" maxItems:"400"`
}

// UnmarshalJSON refuses points that have not two numbers: a null would be read as a corner.
func (m *Mark) UnmarshalJSON(b []byte) error {
	var raw struct {
		Kind   MarkKind
		Points [][]float64
	}
	if err := json.Unmarshal(b, &raw); err != nil {
		return err
	}
	*m = Mark{Kind: raw.Kind}
	for _, p := range raw.Points {
		if len(p) != 2 {
			return fmt.Errorf("a point has two numbers, and one has %d", len(p))
		}
		m.Points = append(m.Points, [2]float64{p[0], p[1]})
	}
	return nil
}

// mostPoints bounds a stroke.
const mostPoints = 400

// Fault tells what is wrong with a mark.
func (m *Mark) Fault() error {
	n := len(m.Points)
	switch {
	case m.Kind == Spot && n == 1, m.Kind == Box && n == 2, m.Kind == Stroke && n >= 2 && n <= mostPoints:
	case m.Kind != Spot && m.Kind != Box && m.Kind != Stroke:
		return errors.New("a mark is a spot, a box or a stroke")
	default:
		return fmt.Errorf("a spot has one point, a box two, a stroke 2 to %d; this %s has %d", mostPoints, m.Kind, n)
	}
	for _, p := range m.Points {
		for _, v := range p {
			if math.IsNaN(v) || v < 0 || v > 1 {
				return fmt.Errorf("points are shares of the frame, 0 to 1, and one is %v", v)
			}
		}
	}
	return nil
}

// Anchor is the point that a mark is held by: the middle of a box, the middle point of a stroke.
func (m *Mark) Anchor() (x, y float64) {
	if m.Kind == Box {
		a, b := m.Points[0], m.Points[1]
		return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
	}
	p := m.Points[len(m.Points)/2]
	return p[0], p[1]
}

// RemarkState is what became of a remark.
type RemarkState string

// States of remarks.
const (
	Open   RemarkState = "open"
	Done   RemarkState = "done"
	WontDo RemarkState = "won't do" // for a reason that is said
)

// Settle checks that a remark in one state may be brought to another with these words.
func Settle(from, to RemarkState, words string) error {
	switch {
	case to != Open && to != Done && to != WontDo:
		return errors.New("a remark is open, done, or won't do")
	case from == to:
		return fmt.Errorf("it is %s already", to)
	case to == WontDo && words == "":
		return errors.New("say why it is not done")
	}
	return nil
}
