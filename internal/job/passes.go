package job

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
	return passes.Wanted{
		Lights: p.Lights, Occlusion: p.Occlusion.On, PartMasks: p.PartMasks, FinishMasks: p.FinishMasks, Normal: p.Normal, Depth: p.Depth,
		Motion: p.Motion, Shadow: p.Shadow && c.On, IDs: p.IDMattes,
		Catches: c.On, Behind: map[string]string{"surround": trace.SurroundName, "tone": trace.BackingName}[t.Stage.Backing],
	}
}
