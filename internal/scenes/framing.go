package scenes

import (
	"cmp"
	"context"
	"math"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/internal/fault"
	"amberproof/internal/identity"
	"amberproof/internal/ticket"
)

// Framing is what is to be done to a camera, in this order; what is absent is left.
type Framing struct {
	Camera ticket.Camera `json:"camera"`
	Aspect float64       `json:"aspect" minimum:"0.05" maximum:"20" doc:"Of the frame, width by height"`
	Focal  *float64      `json:"focal,omitempty" minimum:"0.5" maximum:"5000" doc:"Focal length, mm"`
	Sensor float64       `json:"sensor,omitempty" minimum:"1" maximum:"500" doc:"Height of the sensor that it is told for, mm; 24 without one"`
	Aim    []string      `json:"aim,omitempty" maxItems:"20000" nullable:"false" doc:"Parts, by key, whose middle it is to look at from where it is"`
	Roll   *float64      `json:"roll,omitempty" minimum:"-180" maximum:"180" doc:"Degrees about the line of sight, against the clock; 0 is level"`
	// Upright levels the axis and shifts the frame instead.
	Upright bool `json:"upright,omitempty" doc:"Keep verticals upright: level the axis and shift the frame instead"`
	Fit     *Fit `json:"fit,omitempty"`
}

// Fit has something fill the frame.
type Fit struct {
	Parts  []string `json:"parts,omitempty" maxItems:"20000" nullable:"false" doc:"By key; none: the product"`
	Margin float64  `json:"margin" minimum:"0" maximum:"45" doc:"Left free at each side, percent of the frame's shorter side"`
}

// Framed is a camera and what can be read off it.
type Framed struct {
	Camera ticket.Camera `json:"camera"`
	Focal  float64       `json:"focal" doc:"Focal length on a sensor 24 mm high, mm; 0 of an orthographic camera"`
	Roll   float64       `json:"roll" doc:"Degrees about the line of sight, against the clock; 0 is level"`
}

// Frame works out a camera; nothing is saved.
func (s *Service) Frame(ctx context.Context, who identity.Actor, id int64, f *Framing) (Framed, error) {
	b, err := s.Bench(ctx, who, id)
	if err != nil {
		return Framed{}, err
	}
	if err := CheckCamera(f.Camera); err != nil {
		return Framed{}, err
	}
	v := b.Subject.Scene
	w := ticket.View{Camera: f.Camera}.Framed(float32(f.Aspect))
	if f.Focal != nil {
		w = w.WithFocal(*f.Focal * scene.SensorHeight / cmp.Or(f.Sensor, scene.SensorHeight))
		if w.YFov >= widestFov {
			return Framed{}, fault.Bad("With that lens on that sensor nearly half of all there is would be seen; take a longer lens or a smaller sensor")
		}
	}
	if len(f.Aim) > 0 {
		parts, err := partsOf(v, f.Aim)
		if err != nil {
			return Framed{}, err
		}
		box := geom.EmptyBox()
		for _, i := range parts {
			box = box.Union(v.PartBounds(i))
		}
		if box.Empty() {
			return Framed{}, fault.Bad("What is picked has no shape to look at")
		}
		w = w.AimedAt(box.Centre())
	}
	if f.Roll != nil {
		w = w.Rolled(*f.Roll * math.Pi / 180)
	}
	if f.Upright {
		upright, ok := w.Upright()
		if !ok || upright.YFov >= widestFov || !within(100*upright.Shift[1], mostShift) {
			return Framed{}, fault.Bad("The view looks up or down too steeply for its verticals to be kept upright; move the camera nearer to the height of the product")
		}
		w = upright
	}
	if f.Fit != nil {
		parts, err := partsOf(v, f.Fit.Parts)
		if err != nil {
			return Framed{}, err
		}
		fitted, ok := w.Fitted(v.Corners(parts), f.Fit.Margin/100)
		if !ok {
			return Framed{}, fault.Bad("There is nothing to be fitted into the frame")
		}
		w = fitted
	}
	out := f.Camera
	out.Matrix, out.YFov, out.YMag = [12]float32(w.Camera), w.YFov, w.YMag
	out.ShiftX, out.ShiftY = 100*w.Shift[0], 100*w.Shift[1]
	if err := CheckCamera(out); err != nil {
		return Framed{}, err
	}
	return Framed{out, w.Focal(), w.Roll() * 180 / math.Pi}, nil
}

// partsOf are the parts of keys, or without any the product's that are in the picture.
func partsOf(v *scene.Scene, keys []string) (out []int, err error) {
	if len(keys) == 0 {
		for i, around := range v.Around(ticket.IsLamp(v)) {
			if !around && !v.Parts[i].Out {
				out = append(out, i)
			}
		}
		return out, nil
	}
	all := v.Keys()
	for _, k := range keys {
		i := slices.Index(all, k)
		if i < 0 {
			return nil, fault.Bad("The scene has no part %q", k)
		}
		out = append(out, i)
	}
	return out, nil
}
