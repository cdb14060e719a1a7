package ticket

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"amberproof/core/clay"
	"amberproof/core/colour"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/lights"
	"amberproof/core/noise"
	"amberproof/core/optics"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/trace"
	"amberproof/internal/fault"
)

// Camera is a camera by value.
type Camera struct {
	Matrix [12]float32 `json:"matrix" nullable:"false" doc:"Rows of the 3x4 camera-to-world matrix; the camera looks along -Z"`
	YFov   float32     `json:"yfov" doc:"Vertical field of view in radians; 0 for orthographic"`
	YMag   float32     `json:"ymag" doc:"Half height in metres, orthographic only"`
	ShiftX float32     `json:"shiftX,omitempty" doc:"The frame moved to the right against the lens, percent of its width"`
	ShiftY float32     `json:"shiftY,omitempty" doc:"The frame moved up against the lens, percent of its height"`
	// Follows is set for views that came with a camera that an animation moves.
	Follows string `json:"follows,omitempty" maxLength:"200" doc:"Camera of the file that the view moves with"`
}

// shift is how far the frame is moved to the right and up, in shares of it.
func (c *Camera) shift() [2]float32 { return [2]float32{c.ShiftX / 100, c.ShiftY / 100} }

// View is a named camera.
type View struct {
	Name   string `json:"name"`
	Camera Camera `json:"camera"`
}

// Framed is a view with the shape of a frame, its width over its height.
func (v View) Framed(aspect float32) scene.View {
	return scene.View{Name: v.Name, Camera: geom.Affine(v.Camera.Matrix), YFov: v.Camera.YFov, YMag: v.Camera.YMag, Aspect: aspect, Shift: v.Camera.shift()}
}

// SceneRef names a scene by file and content.
type SceneRef struct {
	Name   string `json:"name"`
	SHA256 string `json:"sha256"`
}

// Resolved is a ticket with nothing left open: the document a run executes.
type Resolved struct {
	Scene SceneRef `json:"scene"`
	// Setup is what was changed on the bench over the scene, by value; nil: nothing.
	Setup  *setup.Setup `json:"setup,omitempty"`
	Camera Camera       `json:"camera"`
	Ticket Ticket       `json:"ticket"`
	// From is set for a picture that goes on from another.
	From *From `json:"from,omitempty"`
}

// Fingerprint is the SHA-256 of the canonical document, in hex. The same
// fingerprint gives the same pixels.
func (r *Resolved) Fingerprint() string {
	b, err := json.Marshal(r)
	if err != nil {
		panic(err) // as in Encode
	}
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}

// ViewsOf are the cameras of a scene as views, with names made unique; a scene
// without cameras gets one that frames it.
func ViewsOf(s *scene.Scene) []View {
	var out []View
	names := cameraNames(s)
	for i, c := range s.Cameras {
		v := View{names[i], Camera{Matrix: [12]float32(s.Objects[c.Object].World), YFov: c.YFov, YMag: c.YMag, ShiftX: 100 * c.Shift[0], ShiftY: 100 * c.Shift[1]}}
		if s.Moves(c.Object) {
			v.Camera.Follows = v.Name
		}
		out = append(out, v)
	}
	if len(out) == 0 {
		b := s.Focus(IsLamp(s))
		const fov = 0.28 // a short telephoto
		d := b.Radius()/float32(math.Sin(fov/2)) + 1e-3
		eye := b.Centre().Add(geom.V(0.35, 0.25, 1).Unit().Scale(d))
		out = append(out, View{"Three-quarter", Camera{Matrix: [12]float32(geom.LookAt(eye, b.Centre(), geom.V(0, 1, 0))), YFov: fov}})
	}
	return out
}

// Resolve fills a ticket in for a subject and its views, and lists what cannot be.
func Resolve(t Ticket, of Subject, views []View) (Resolved, []fault.Fault) {
	t.Tidy()
	faults := Check(&t)
	r, s := Resolved{Scene: of.Ref, Ticket: t}, of.Scene
	u, known := of.Wearing(t.Surface.Variant)
	if !known {
		faults = append(faults, fault.At("surface.variant", unknownVariant(t.Surface.Variant, of.Setup.Variants(s))))
	}
	if u = u.ForRun(); !u.IsZero() {
		r.Setup = &u
	}
	found := false
	for _, v := range views {
		if v.Name == t.View.Name || t.View.Name == "" {
			r.Ticket.View.Name, r.Camera, found = v.Name, v.Camera, true
			break
		}
	}
	if !found {
		names := make([]string, len(views))
		for i, v := range views {
			names[i] = v.Name
		}
		faults = append(faults, fault.At("view.name", fmt.Sprintf("There is no view %q; there are %s", t.View.Name, strings.Join(names, ", "))))
	}
	if name := t.View.Motion.Animation; name != "" {
		if at := s.MotionNamed(name); at < 0 {
			faults = append(faults, fault.At("view.motion.animation", fmt.Sprintf("The scene has no animation %q", name)))
		} else {
			r.Camera = r.Camera.Posed(s, at, t.View.Motion.Moment)
			if i := s.At(at, float32(t.View.Motion.Moment)).FarOut(); i >= 0 {
				faults = append(faults, fault.At("view.motion.moment",
					fmt.Sprintf("At this moment the animation has %q absurdly far out, over %g m; choose another, or mend the animation",
						s.Parts[i].Name, float64(scene.Reach))))
			}
		}
	}
	faults = append(faults, t.noFloor(s)...)
	for _, name := range u.MissingPictures(s) {
		faults = append(faults, fault.At("setup.finishes", fmt.Sprintf("The picture %q on a finish is not here; take it in again, or take it off", name)))
	}
	if p := t.Stage.Plate; p != nil {
		if p.Picture.Name == "" {
			faults = append(faults, fault.At("stage.plate", "There is no picture behind yet; choose one, or another backing"))
		} else if _, err := p.Picture.Find(s); err != nil {
			faults = append(faults, fault.At("stage.plate", fmt.Sprintf("The picture %q behind is not here; take it in again, or choose another", p.Picture.Name)))
		}
	}
	if len(t.Surface.Shapes) > 0 {
		faults = append(faults, tooMany(r.Staged(s))...)
	}
	lamps := map[string]bool{}
	for _, l := range trace.LampsOf(s) {
		lamps[l.Name] = true
	}
	for i, l := range t.Stage.Lights {
		if !lamps[l.Name] {
			faults = append(faults, fault.At(fmt.Sprintf("stage.lights[%d].name", i), fmt.Sprintf("The scene has no light %q", l.Name)))
		}
	}
	return r, faults
}

// unknownVariant says that a scene has no variant of a name.
func unknownVariant(name string, have []string) string {
	if len(have) == 0 {
		return fmt.Sprintf("There is no variant %q; the scene has none", name)
	}
	return fmt.Sprintf("There is no variant %q; there are %s", name, strings.Join(have, ", "))
}

// Frames is how many frames a run of it has: a still is one.
func (r *Resolved) Frames() int { return 1 }

// Stop is when a picture is clean enough.
func (t *Ticket) Stop() noise.Stop {
	return noise.Stop{Least: t.Quality.Least, Most: t.Quality.Most, Target: t.Quality.Noise}
}

// Finish is what is done to pictures as they are displayed.
func (t *Ticket) Finish() finish.Finish {
	return finish.Finish{Exposure: t.View.Exposure, Transform: colour.Transform(t.View.Display)}
}

// NoiseView is how noise is measured.
func (t *Ticket) NoiseView() noise.View {
	return noise.View{Exposure: t.View.Exposure, Transform: colour.Transform(t.View.Display)}
}

// What Backing says where it is more than a tone.
const (
	backGradient = "gradient"
	backPicture  = "picture"
	backShown    = "shown"
	backClay     = "clay"
)

func (g *Gradient) traced() trace.Gradient {
	light := func(c setup.Colour) geom.Vec3 {
		return geom.V(float32(c.R), float32(c.G), float32(c.B)).Scale(float32(g.Strength))
	}
	return trace.Gradient{Top: light(g.Top), Foot: light(g.Foot), Turn: float32(g.Turn * math.Pi / 180)}
}

// IsLamp tells the parts of a scene that are lamps of the stage.
func IsLamp(s *scene.Scene) func(part int) bool {
	set := map[int]bool{}
	for _, l := range trace.LampsOf(s) {
		if l.Part >= 0 {
			set[l.Part] = true
		}
	}
	return func(part int) bool { return set[part] }
}

// Plan is the clay plan in the core's terms, nil for own finishes alone.
func (t *Ticket) Plan() *clay.Plan {
	if !t.InClay() {
		return nil
	}
	c, tones := t.Surface.Clay, t.tones()
	p := &clay.Plan{Tints: [3]geom.Vec3{hueOf(c.Tint), hueOf(c.SecondTint), hueOf(c.ThirdTint)}, Tone: float32(tones[0]),
		SecondTone: float32(tones[1]), ThirdTone: float32(tones[2]), Roughness: float32(c.Roughness), Only: c.Only}
	if v := c.Crevices; v != nil {
		p.CreviceTone, p.CreviceReach = float32(v.Tone), float32(v.Reach/1000)
	}
	if g := c.Gloss; g != nil {
		p.Gloss = clay.Gloss{Amount: float32(g.Amount / 100), Roughness: float32(g.Roughness)}
	}
	for _, r := range c.Rules {
		p.Rules = append(p.Rules, clay.Rule{By: clay.By(r.By), Match: r.Match, Parts: r.Parts, Below: r.Below / 1000, Do: clay.Do(r.Do)})
	}
	return p
}

// Options are what the tracer needs to render the ticket; s is its scene, staged.
// surround is the environment picture the ticket names, or nil.
func (r *Resolved) Options(s *scene.Scene, surround *imageio.HDR) trace.Options {
	if r.Ticket.Surface.Mode != bothSurfaces {
		return r.options(s, surround, r.Ticket.decisions(s))
	}
	o, twin := r.in("own").Options(s, surround), r.in("clay").Options(s, surround)
	o.Twin = &twin
	o.Layout = r.Ticket.Wanted().Needs(trace.ElementsOf(s, &o))
	return o
}

// in is the resolved ticket with one surface: own or clay.
func (r *Resolved) in(mode string) *Resolved {
	c := *r
	c.Ticket.Surface.Mode = mode
	return &c
}

// Uncovered are options as of Options, but that what would wear clay keeps its own
// finish, and that light goes straight through all that is clear, however rough: what the
// light that clay would block is measured with. covered tells the parts that would wear clay.
func (r *Resolved) Uncovered(s *scene.Scene, surround *imageio.HDR) (o trace.Options, covered []bool) {
	own, covered := clay.Uncovered(r.Ticket.decisions(s))
	o = r.in("clay").options(s, surround, own)
	for i := range o.Finishes {
		if f := &o.Finishes[i]; f.Clear() {
			f.Shadows, f.Roughness, f.MetalRoughTexture = scene.StraightShadows, 0, scene.NoTexture
		}
	}
	return o, covered
}

// Covered tells the parts of a scene that wear clay.
func (t *Ticket) Covered(s *scene.Scene) []bool {
	_, covered := clay.Uncovered(t.decisions(s))
	return covered
}

// decisions are what the ticket's clay plan says of each part; nil without one.
func (t *Ticket) decisions(s *scene.Scene) []clay.Decision {
	if plan := t.Plan(); plan != nil {
		return clay.Resolve(s, plan, IsLamp(s))
	}
	return nil
}

func (r *Resolved) options(s *scene.Scene, surround *imageio.HDR, decisions []clay.Decision) trace.Options {
	t := &r.Ticket
	size := t.Size()
	o := trace.Options{
		Width: size.X, Height: size.Y, Window: t.Window(),
		Camera: r.camera(s), Shutter: r.shutter(s),
		Filter: sampling.FilterKind(t.Quality.Filter), FilterWidth: t.Quality.FilterWidth, Seed: uint32(t.Quality.Seed),
		DiffuseBounces: t.Quality.Diffuse, GlossyBounces: t.Quality.Glossy, ClearBounces: t.Quality.Clear,
		Branches: [3]int{optics.Diffuse: t.Quality.DiffuseSamples, optics.Glossy: t.Quality.GlossySamples, optics.Clear: t.Quality.ClearSamples},
		Clamp:    float32(t.Quality.Clamp), StraightShadows: t.Quality.ClearShadows == "straight",
		AOSamples: t.Passes.Occlusion.Samples, AOReach: float32(t.Passes.Occlusion.Reach / 1000),
		AOSeeThrough: t.Passes.Occlusion.Through, MaskSeeThrough: t.Passes.MasksThrough,
	}
	worn := clay.Dress(s, t.Plan(), decisions, trace.LeftOutOfPicture)
	o.Finishes, o.Overrides, o.Wears, o.Absent, o.Crevices = worn.Finishes, worn.Overrides, worn.Wears, worn.Absent, worn.Crevices
	for i := range s.Parts {
		if s.Parts[i].Out {
			o.Wears[i] = trace.LeftOutOfPicture
		}
	}
	if catches := t.catching(s); t.Stage.Catcher.On {
		for i := range s.Parts {
			o.Catches = append(o.Catches, catches(i))
		}
	}
	change := map[string]LightChange{}
	for _, l := range t.Stage.Lights {
		change[l.Name] = l
	}
	for _, l := range trace.LampsOf(s) {
		set := trace.AsInScene()
		if c, ok := change[l.Name]; ok {
			set = c.setting()
		}
		o.Lamps = append(o.Lamps, set)
	}
	o.Surround = SurroundOf(&t.Stage.Surround, surround)
	o.Backing = map[string]trace.Backing{"surround": trace.BackEnvironment, "tone": trace.BackTone, "clear": trace.BackClear,
		backShown: trace.BackTone, backClay: trace.BackTone, backGradient: trace.BackGradient, backPicture: trace.BackPicture}[t.Stage.Backing]
	if p := t.Stage.Plate; p != nil {
		o.Plate, o.PlateStrength = &scene.Image{}, float32(p.Strength)
		if img, err := p.Picture.Find(s); err == nil { // Resolve refuses a ticket whose picture is gone
			o.Plate = img
		}
	}
	if g := t.Stage.Gradient; g != nil {
		o.Gradient = g.traced()
	}
	o.BackingTone = t.backingTone()
	t.clayLight(&o)
	o.Layout = t.Wanted().Needs(trace.ElementsOf(s, &o))
	return o
}

// SurroundOf is a surround in the core's terms; picture is the one that it names, or nil.
func SurroundOf(su *setup.SurroundSetting, picture *imageio.HDR) trace.Surround {
	o := trace.Surround{On: su.On, Picture: picture, Tone: geom.Splat(float32(su.Tone)), Strength: float32(su.Strength), Turn: float32(su.Turn * math.Pi / 180)}
	if su.Kind == "sky" {
		o.Sky = &lights.Sky{Height: su.Sun * math.Pi / 180, Turbidity: su.Haze}
	}
	return o
}
