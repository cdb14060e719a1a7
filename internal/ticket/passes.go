package ticket

import (
	"amberproof/core/passes"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// List names the passes that a ticket makes of a scene whose lights are kept
// apart under the names of elements. Lamps of the stage, and what catches
// shadows, get no mask.
func (t *Ticket) List(s *scene.Scene, elements []string) []passes.Pass {
	lamp, catches := IsLamp(s), t.catching(s)
	return passes.List(t.Wanted(), elements, s, func(i int) bool { return lamp(i) || catches(i) })
}

// Wanted are the passes a ticket asks for.
func (t *Ticket) Wanted() passes.Wanted {
	p, c := t.Passes, t.Stage.Catcher
	w := passes.Wanted{
		Denoise: t.Quality.Denoise.On, Sparks: t.Quality.Denoise.SparksAlone(), Catches: c.On, Sources: true,
		Behind: map[string]string{"surround": trace.SurroundName, "tone": trace.BackingName, backShown: trace.BackingName,
			backClay: trace.BackingName, backGradient: trace.BackingName, backPicture: trace.BackingName}[t.Stage.Backing],
	}
	for kind, on := range map[passes.Kind]bool{
		passes.Light: p.Lights, passes.Occlusion: p.Occlusion.On, passes.Normal: p.Normal, passes.Depth: p.Depth, passes.Motion: p.Motion,
		passes.Shadow: p.Shadow && c.On, passes.Lines: t.linesApart(), passes.Clay: t.Surface.Mode == bothSurfaces,
		passes.IDs: p.IDMattes, passes.FinishMask: p.FinishMasks, passes.PartMask: p.PartMasks,
	} {
		if on {
			w.Kinds = append(w.Kinds, kind)
		}
	}
	return w
}
