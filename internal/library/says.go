package library

import (
	"fmt"
	"strings"

	"amberproof/core/setup"
	"amberproof/internal/ticket"
)

// describe says in a line what is in an entry.
func (l *Line) describe(v any) {
	switch v := v.(type) {
	case ticket.QualitySection:
		l.Says = fmt.Sprintf("%d to %d samples · ", v.Least, v.Most)
		if v.Noise > 0 {
			l.Says += fmt.Sprintf("to %g %% noise", v.Noise)
		} else {
			l.Says += "no noise target"
		}
		l.Says += fmt.Sprintf(" · bounces %d / %d / %d", v.Diffuse, v.Glossy, v.Clear)
		if v.Clamp > 0 {
			l.Says += fmt.Sprintf(" · clamp %g nit", v.Clamp)
		}
	case ticket.ClayPlan:
		l.Tones = []float64{v.Tone, v.SecondTone}
		l.Says = fmt.Sprintf("tone %g, second %g · roughness %g · %s", v.Tone, v.SecondTone, v.Roughness, counted(len(v.Rules), "keep rule"))
		if v.Crevices != nil {
			l.Says += fmt.Sprintf(" · crevices to %g mm", v.Crevices.Reach)
		}
		if v.Lines != nil {
			l.Says += " · edge lines"
		}
	case *setup.Stage:
		l.Says = "no backdrop"
		if v.Backdrop.Kind != setup.NoBackdrop {
			l.Says = v.Backdrop.Kind + " backdrop"
		}
		var lights []string
		for i := range v.Lights {
			lights = append(lights, v.Lights[i].Name)
		}
		if len(lights) == 0 {
			lights = []string{"no lights"}
		}
		l.Says += fmt.Sprintf(" · %s · set for %.3g mm", strings.Join(lights, ", "), 2*v.Radius)
	}
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
