package scene

import (
	"math"
	"testing"

	"amberproof/core/geom"
)

// about is the quaternion of a turn about the Y axis.
func about(degrees float64) [4]float32 {
	s, c := math.Sincos(degrees * math.Pi / 360)
	return [4]float32{0, float32(s), 0, float32(c)}
}

// mobile is an arm that turns by 90 degrees in two seconds about an axis at
// x = 1, with a rider at its end and a stand beside it.
func mobile() *Scene {
	arm, rider := geom.Translate(geom.V(1, 0, 0)), geom.Translate(geom.V(2, 0, 0))
	return &Scene{
		Meshes: []Mesh{cube(0.5)}, Finishes: []Finish{NewFinish("Paper")},
		Objects: []Object{
			{Name: "Arm", Parent: -1, Local: arm, World: arm}, {Name: "Rider", Parent: 0, Local: rider, World: arm.Mul(rider)},
			{Name: "Stand", Parent: -1, Local: geom.Identity(), World: geom.Identity()},
		},
		Parts: []Part{{Name: "Arm", Object: 0}, {Name: "Rider", Object: 1}, {Name: "Stand", Object: 2}},
		Motions: []Motion{{Name: "swing", Moves: []Move{{
			Object: 0, Rest: Place{Shift: geom.V(1, 0, 0), Turn: [4]float32{0, 0, 0, 1}, Scale: geom.Splat(1)},
			Turn: &Curve{Times: []float32{1, 3}, Values: [][4]float32{about(0), about(90)}},
		}}}},
	}
}

func TestAMotionTurnsEvenlyAndCarriesWhatHangsOnIt(t *testing.T) {
	s := mobile()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	if l := s.Motions[0].Length(); l != 3 {
		t.Errorf("it lasts %v s", l)
	}
	// A third of the way: 30 degrees, clockwise seen from below.
	for _, c := range []struct{ moment, degrees float64 }{{0, 0}, {1, 0}, {1 + 2.0/3, 30}, {2, 45}, {3, 90}, {9, 90}} {
		p := s.At(0, float32(c.moment))
		sin, cos := math.Sincos(c.degrees * math.Pi / 180)
		want := geom.V(float32(1+2*cos), 0, float32(-2*sin))
		if got := p.Objects[1].World.Origin(); got.Sub(want).Len() > 1e-6 {
			t.Errorf("at %.2f s the rider is at %v, want %v", c.moment, got, want)
		}
		if p.Objects[2].World != s.Objects[2].World || &p.Meshes[0] != &s.Meshes[0] {
			t.Error("what stands still was touched")
		}
	}
	if s.Objects[1].World.Origin() != geom.V(3, 0, 0) {
		t.Error("the scene itself was changed")
	}
	if !s.Moves(1) || s.Moves(2) {
		t.Error("the rider moves with the arm and the stand does not")
	}
}

func TestCurvesStepAndFollowTheirSpline(t *testing.T) {
	four := func(x float32) [4]float32 { return [4]float32{x} }
	step := Curve{Times: []float32{0, 1}, Values: [][4]float32{four(3), four(5)}, Stepped: true}
	if a, b := step.at(0.99, false)[0], step.at(1, false)[0]; a != 3 || b != 5 {
		t.Errorf("a step gives %v and %v", a, b)
	}
	// The spline of t^3 - 2t between any two keys is that polynomial.
	f := func(x float64) float32 { return float32(x*x*x - 2*x) }
	d := func(x float64) float32 { return float32(3*x*x - 2) }
	c := Curve{}
	for _, x := range []float64{0.5, 2, 2.25} {
		c.Times = append(c.Times, float32(x))
		c.Values, c.In, c.Out = append(c.Values, four(f(x))), append(c.In, four(d(x))), append(c.Out, four(d(x)))
	}
	for _, x := range []float64{0.5, 0.75, 1.3, 1.999, 2.1, 2.25} {
		if got := c.at(float32(x), false)[0]; math.Abs(float64(got-f(x))) > 1e-5 {
			t.Errorf("the spline at %v is %v, want %v", x, got, f(x))
		}
	}
	// Turns take the shorter arc.
	q := Curve{Times: []float32{0, 1}, Values: [][4]float32{about(170), about(-170)}}
	if got, want := q.at(0.5, true), about(180); math.Abs(float64(got[1]*want[1]+got[3]*want[3])) < 0.999999 {
		t.Errorf("half way from 170 to -170 degrees is %v", got)
	}
}

func TestASweepIsAsFineAsItsTurnNeeds(t *testing.T) {
	s := mobile()
	way := s.Sweep(0, 1, 3)
	if len(way) != 2 || way[2] != nil {
		t.Fatalf("%d objects move", len(way))
	}
	n := len(way[1]) - 1
	// A chord of angle a strays from its arc of radius 2 by 2 (1 - cos(a/2)).
	worst := float32(0)
	for k := range 1000 {
		u := (float32(k) + 0.5) / 1000
		i := int(u * float32(n))
		w := way[1][i].Lerp(&way[1][i+1], u*float32(n)-float32(i))
		worst = max(worst, geom.Abs(w.Origin().Sub(geom.V(1, 0, 0)).Len()-2))
	}
	if n < 8 || n > sweepSteps || worst > 2*sweepStray {
		t.Errorf("%d steps stray by %v", n, worst)
	}
	if w := s.Sweep(0, 5, 6); len(w) != 0 {
		t.Error("after its end nothing moves")
	}
	s.Motions[0].Moves[0] = Move{Object: 0, Rest: s.Motions[0].Moves[0].Rest, Shift: &Curve{Times: []float32{0, 9}, Values: [][4]float32{{0}, {9}}}}
	if w := s.Sweep(0, 1, 3); len(w[0]) != 2 {
		t.Errorf("a straight line takes %d places, not two", len(w[0]))
	}
}

func TestCheckRefusesMotionsThatDoNotFit(t *testing.T) {
	for name, spoil := range map[string]func(v *Move){
		"no object":   func(v *Move) { v.Object = 3 },
		"no keys":     func(v *Move) { v.Turn.Times, v.Turn.Values = nil, nil },
		"lengths":     func(v *Move) { v.Turn.Values = v.Turn.Values[:1] },
		"order":       func(v *Move) { v.Turn.Times[1] = 0.5 },
		"equal times": func(v *Move) { v.Turn.Times[1] = 1 },
		"slopes":      func(v *Move) { v.Turn.In = v.Turn.Values },
	} {
		s := mobile()
		spoil(&s.Motions[0].Moves[0])
		if s.Check() == nil {
			t.Errorf("%s: passed", name)
		}
	}
}
