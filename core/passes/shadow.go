package passes

import "amberproof/core/film"

// Shadow is the shadow on a floor that catches shadows: 1 where no light reaches it.
const Shadow Kind = "shadow"

type shadow struct{ grey }

func (shadow) kind() Kind { return Shadow }

func (shadow) needs(*Wanted, []string) []film.Plane { return nil } // kept wherever a floor catches

func (shadow) list(*picture) []Pass {
	return []Pass{{Key: "shadow", Title: "Caught shadow", shown: shadow{}}}
}

func (shadow) form() form { return form{channels: []string{"Y"}} }

func (shadow) value(s *film.Sums, i, _ int, v *values) { v[0] = s.Shadow(i) }
