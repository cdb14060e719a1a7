package ticket

import (
	"reflect"

	"amberproof/core/trace"
)

// LightAsFound is the entry of a light to which nothing is done.
func LightAsFound(name string) LightChange {
	l := LightChange{}
	defaults(reflect.ValueOf(&l).Elem())
	l.Name = name
	return l
}

// UnmarshalJSON gives what an entry leaves out its default, as a whole ticket does.
func (l *LightChange) UnmarshalJSON(b []byte) error {
	type plain LightChange
	return overDefaults(b, (*plain)(l))
}

func (l *LightChange) setting() trace.LightSetting {
	return trace.LightSetting{
		On: l.On && l.Strength > 0, Strength: float32(l.Strength), Size: float32(l.Size), KeepsPower: l.SizeKeeps == "power",
		Camera: l.Camera, Reflections: l.Reflections, Shadows: l.Shadows, Reach: float32(l.Reach), Samples: l.Samples,
	}
}
