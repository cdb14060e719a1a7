package ticket

import (
	"cmp"
	"slices"

	"amberproof/core/geom"
	"amberproof/core/names"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
)

// cameraNames are the names of a scene's cameras, made unique.
func cameraNames(s *scene.Scene) []string {
	all := make([]string, len(s.Cameras))
	for i, c := range s.Cameras {
		all[i] = cmp.Or(names.Text(c.Name), "Camera")
	}
	return names.Style{Join: " ", Most: MostName}.Unique(all)
}

// MostName is how many bytes the name of a view, a job or a scene may have.
const MostName = 120

// followed is the object of the scene that a camera moves with, or -1.
func followed(s *scene.Scene, c *Camera) int {
	if i := slices.Index(cameraNames(s), c.Follows); i >= 0 && c.Follows != "" {
		return s.Cameras[i].Object
	}
	return -1
}

// Posed is the camera at a moment of an animation, where it follows one.
func (c Camera) Posed(s *scene.Scene, motion int, moment float64) Camera {
	if o := followed(s, &c); o >= 0 {
		c.Matrix = [12]float32(s.At(motion, float32(moment)).Objects[o].World)
	}
	return c
}

// Corrected is a camera of a file's space where a set-up's correction of it, which may
// be nil, puts it.
func (c Camera) Corrected(f *setup.File) Camera {
	w, mag := f.Camera(geom.Affine(c.Matrix), c.YMag)
	c.Matrix, c.YMag = [12]float32(w), mag
	return c
}

// Uncorrected is the way back of Corrected.
func (c Camera) Uncorrected(f *setup.File) Camera {
	w, mag := f.Uncorrected(geom.Affine(c.Matrix), c.YMag)
	c.Matrix, c.YMag = [12]float32(w), mag
	return c
}

// Staged is the scene as the ticket has it stand: its parts placed by the
// animation, to be shaped by the shape rules, with a floor to catch shadows if
// it asks for one. What is the same is shared with s.
func (r *Resolved) Staged(s *scene.Scene) *scene.Scene {
	if len(r.Ticket.Surface.Shapes) > 0 {
		how, _ := r.Ticket.Shapes(s)
		s = s.Reshaped(how)
	}
	m := &r.Ticket.View.Motion
	if at := s.MotionNamed(m.Animation); at >= 0 {
		s = s.At(at, float32(m.Moment))
	}
	if c := &r.Ticket.Stage.Catcher; c.On && c.Parts == "" {
		s = laid(s)
	}
	return s
}

// shutter is the time during which the picture is taken; it is empty where the
// ticket does not ask what moves then.
func (r *Resolved) shutter(s *scene.Scene) (h trace.Shutter) {
	m := &r.Ticket.View.Motion
	at := s.MotionNamed(m.Animation)
	if at < 0 || !m.Blur && !r.Ticket.Passes.Motion {
		return h
	}
	half := float32(m.Shutter / 2000)
	return trace.Shutter{Motion: at, Open: float32(m.Moment) - half, Close: float32(m.Moment) + half, Blur: m.Blur}
}

// cameraWay is where a camera that follows one of the scene is while the shutter is open.
func (r *Resolved) cameraWay(s *scene.Scene) []geom.Affine {
	h := r.shutter(s)
	if o := followed(s, &r.Camera); o >= 0 && h.Close > h.Open {
		return s.Sweep(h.Motion, h.Open, h.Close)[o]
	}
	return nil
}
