// Package ticket holds the rules of tickets: what a ticket says, what is allowed,
// what its defaults are, and how it resolves into one self-contained document
// whose hash is the fingerprint of a run. It is pure: no clock, no I/O.
package ticket

import "amberproof/core/setup"

// Every setting is declared once, here, by its tags: json (its name), label,
// unit, min, max, step, def (default), choices and help. The API, the
// validation and the form are all made from them.

// Ticket is everything a job will do, in six sections.
type Ticket struct {
	Version int            `json:"version" min:"1" max:"1" def:"1" label:"Version" help:"Version of the ticket's form."`
	View    ViewSection    `json:"view" label:"View"`
	Stage   StageSection   `json:"stage" label:"Stage"`
	Surface SurfaceSection `json:"surface" label:"Surface"`
	Quality QualitySection `json:"quality" label:"Quality"`
	Passes  PassSection    `json:"passes" label:"Passes"`
	Output  OutputSection  `json:"output" label:"Output"`
}

// ViewSection is what is looked at, and at what size.
type ViewSection struct {
	Name     string  `json:"name" label:"View" maxlen:"120" help:"The saved view to render. Empty: the first of the scene."`
	Width    int     `json:"width" label:"Width" unit:"px" min:"1" max:"16384" def:"1600" help:"Width of the whole frame."`
	Height   int     `json:"height" label:"Height" unit:"px" min:"1" max:"16384" def:"1600" help:"Height of the whole frame. Pixels are always square."`
	Scale    int     `json:"scale" label:"Scale" unit:"%" choices:"25,50,100" def:"100" help:"Render a test at a fraction of the size; the frame stays the same."`
	Region   Region  `json:"region" label:"Region"`
	Exposure float64 `json:"exposure" label:"Exposure" unit:"EV" min:"-20" max:"20" step:"0.1" def:"0" help:"Brightness for looking and for PNG; EXR stays scene-linear."`
	Lens     Lens    `json:"lens" label:"Lens"`
	Motion   Motion  `json:"motion" label:"Motion"`
	Display  string  `json:"display" label:"Display transform" choices:"filmic,plain" def:"filmic" help:"Filmic rolls highlights off; plain clips at white."`
}

// Lens blurs what is out of focus.
type Lens struct {
	On        bool    `json:"on" label:"Depth of field" def:"false" help:"Blur what is nearer or farther than the focus."`
	FStop     float64 `json:"fStop" label:"Aperture" unit:"f" min:"0.5" max:"128" step:"0.1" def:"8" help:"f-number of a lens before a film 24 mm high: lower is more blur."`
	By        string  `json:"by" label:"Focus on" choices:"point,distance" def:"point" help:"A point of the frame, sharp whatever the view, or a distance from the camera."`
	X         float64 `json:"x" label:"Point, from left" unit:"%" min:"0" max:"100" step:"0.5" def:"50" help:"What is seen at this point of the frame is sharp."`
	Y         float64 `json:"y" label:"Point, from top" unit:"%" min:"0" max:"100" step:"0.5" def:"50" help:"What is seen at this point of the frame is sharp."`
	Distance  float64 `json:"distance" label:"Distance" unit:"m" min:"0.001" max:"100000" step:"0.01" def:"1" help:"Along the view axis."`
	Blades    int     `json:"blades" label:"Blades" min:"0" max:"32" def:"0" help:"Edges of the opening, seen in bright blurred spots. Under 3 it is round."`
	BladeTurn float64 `json:"bladeTurn" label:"Blades turned" unit:"deg" min:"-180" max:"180" step:"1" def:"0" help:"Turn of the opening."`
}

// Motion says when in an animation of the scene the picture is taken.
type Motion struct {
	Animation string  `json:"animation" label:"Animation" maxlen:"200" help:"The scene's animation that places its parts, and views that came with a moving camera. Empty: all stands as it was saved."`
	Moment    float64 `json:"moment" label:"Moment" unit:"s" min:"0" max:"1000000" step:"0.04" def:"0" help:"When in the animation the picture is taken. Before its first key and after its last, parts stand still."`
	Blur      bool    `json:"blur" label:"Motion blur" def:"false" help:"Show what moves while the shutter is open along its way. Lights move too, but for suns."`
	Shutter   float64 `json:"shutter" label:"Shutter" unit:"ms" min:"0" max:"1000000" step:"1" def:"20" help:"How long the shutter is open: half of it before the moment and half after."`
}

// Region is a part of the frame, in percent of it.
type Region struct {
	On     bool    `json:"on" label:"Region only" def:"false" help:"Compute only a part of the frame; files keep the whole frame as display window."`
	X      float64 `json:"x" label:"Left" unit:"%" min:"0" max:"100" step:"1" def:"0" help:"Left edge of the region."`
	Y      float64 `json:"y" label:"Top" unit:"%" min:"0" max:"100" step:"1" def:"0" help:"Upper edge of the region."`
	Width  float64 `json:"width" label:"Width" unit:"%" min:"0.1" max:"100" step:"1" def:"100" help:"Width of the region."`
	Height float64 `json:"height" label:"Height" unit:"%" min:"0.1" max:"100" step:"1" def:"100" help:"Height of the region."`
}

// StageSection is what stands around the product.
type StageSection struct {
	Lights      []LightChange         `json:"lights" label:"Lights" nullable:"false" help:"Changes to the scene's lights; a light that is not listed is on at strength 1."`
	Surround    setup.SurroundSetting `json:"surround" label:"Surround"`
	Backing     string                `json:"backing" label:"Backing" choices:"surround,tone,shown,clay,gradient,picture,clear" def:"surround" help:"What is seen behind the scene: the surround, one flat tone, a tone by what pictures for looking at will hold, that of the clay, a gradient or a picture over the frame, or nothing (transparent). What lights is the surround in any case."`
	Catcher     Catcher               `json:"catcher" label:"Shadow floor"`
	BackingTone float64               `json:"backingTone" label:"Backing tone" min:"0" max:"100" step:"0.05" def:"0.6" help:"Scene-linear grey of the flat backing; 0.18 is mid grey."`
	Shown       int                   `json:"shown" label:"Shown as" unit:"of 255" min:"0" max:"255" step:"1" def:"230" help:"What PNGs hold where nothing is before the backing, whatever the exposure and the display transform."`
	Gradient    *Gradient             `json:"gradient,omitempty" label:"Gradient"`
	Plate       *Plate                `json:"plate,omitempty" label:"Picture behind"`
}

// Plate is a picture that fills the frame behind the scene, as large as covers it.
type Plate struct {
	Picture  setup.Drawn `json:"picture" label:"Picture"`
	Strength float64     `json:"strength" label:"Strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1" help:"Factor on the picture's light: its white is 1 at strength 1."`
}

// UnmarshalJSON gives what a plate leaves out its default, as a whole ticket does.
func (p *Plate) UnmarshalJSON(b []byte) error {
	type plain Plate
	return overDefaults(b, (*plain)(p))
}

// Gradient is a backing that goes from one colour to another over the frame.
type Gradient struct {
	Top      setup.Colour `json:"top" label:"Top"`
	Foot     setup.Colour `json:"foot" label:"Foot"`
	Strength float64      `json:"strength" label:"Strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1" help:"Factor on both colours: over 1 where a filmic display is to show white."`
	Turn     float64      `json:"turn" label:"Turn" unit:"deg" min:"-360" max:"360" step:"5" def:"0" help:"Against the clock: 90 has the first colour at the left."`
}

// UnmarshalJSON gives what a gradient leaves out its default, as a whole ticket does.
func (g *Gradient) UnmarshalJSON(b []byte) error {
	type plain Gradient
	return overDefaults(b, (*plain)(g))
}

// NewGradient is a gradient as it begins: light at the top, and darker below.
func NewGradient() *Gradient {
	return &Gradient{Top: setup.Colour{R: 0.6, G: 0.6, B: 0.6}, Foot: setup.Colour{R: 0.25, G: 0.25, B: 0.25}, Strength: 1}
}

// Catcher is a floor that shows nothing but the shadows it catches.
type Catcher struct {
	On    bool   `json:"on" label:"Catch shadows" def:"false" help:"The floor shows the backing and, over it, only the shadow that falls on it; reflections still show its finish, and it sends its light on to the product."`
	Parts string `json:"parts" label:"Floor" maxlen:"200" def:"" help:"Pattern over the parts that are the floor. Empty: an endless floor is laid under the product."`
}

// LightChange switches one light of the scene.
type LightChange struct {
	Name     string  `json:"name" label:"Light" maxlen:"200" help:"Name of the light in the scene."`
	On       bool    `json:"on" label:"On" def:"true" help:"Whether the light shines."`
	Strength float64 `json:"strength" label:"Strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1" help:"Factor on the light's own strength."`

	Size        float64 `json:"size" label:"Size" unit:"x" min:"0.01" max:"100" step:"0.05" def:"1" help:"Factor on the lengths of a rectangle, disk or sphere: larger lights give softer shadows."`
	SizeKeeps   string  `json:"sizeKeeps" label:"At another size keep" choices:"power,brightness" def:"power" help:"Power: as much light in all, from a dimmer or brighter surface. Brightness: a surface as bright, giving more or less."`
	Camera      bool    `json:"camera" label:"Seen by the camera" def:"true" help:"Whether the light itself shows in the picture."`
	Reflections bool    `json:"reflections" label:"Seen in reflections" def:"true" help:"Whether gloss and mirrors show the light; off, it lights matte surfaces only."`
	Shadows     bool    `json:"shadows" label:"Casts shadows" def:"true" help:"Off, the light reaches everything that faces it."`
	Reach       float64 `json:"reach" label:"Reach" unit:"m" min:"0" max:"100000" step:"0.1" def:"0" help:"Distance at which the light has faded out. 0: as the scene says."`
	Samples     int     `json:"samples" label:"Samples" min:"1" max:"64" def:"1" help:"Shadow samples for each camera sample where the camera looks: more for the light that is noisiest."`
}

// SurfaceSection says what the parts wear.
type SurfaceSection struct {
	Mode string   `json:"mode" label:"Surface" choices:"own,clay,both" def:"own" help:"The scene's own finishes, clay over everything that no keep rule excepts, or both at once: two pictures of the same view and samples."`
	Clay ClayPlan `json:"clay" label:"Clay"`

	Variant string `json:"variant,omitempty" label:"Variant" maxlen:"120" def:"" help:"Another look of the product, as the scene has it. Empty: as it stands on the bench."`

	Shapes []ShapeRule `json:"shapes" label:"Shapes" nullable:"false" help:"Subdivision and smoothing, in order; the first rule that matches a part decides. Other parts keep the shape they were saved with."`
}

// ShapeRule says how the parts of a pattern are shaped before they are rendered.
type ShapeRule struct {
	Match   string  `json:"match" label:"Parts" maxlen:"200" def:"*" help:"Pattern over a part's name, its group or its place in the tree; * stands for any text and ? for one character."`
	Levels  int     `json:"levels" label:"Subdivide" unit:"times" min:"0" max:"6" def:"0" help:"Rounds the shape: each time makes four triangles of one, and all of it is smooth but for kept edges."`
	Shading string  `json:"shading" label:"Shading" choices:"saved,smooth,faceted" def:"saved" help:"Of parts that are not subdivided: as the file has it, smooth but for kept edges, or every face flat."`
	Crease  float64 `json:"crease" label:"Keep edges over" unit:"deg" min:"0" max:"180" step:"1" def:"50" help:"Edges whose faces turn by more stay sharp, and so do corners of edges that turn by more."`
}

// ClayPlan is a clay override.
type ClayPlan struct {
	ToneAs      string        `json:"toneAs" label:"Tones as" choices:"reflectance,shown" def:"reflectance" help:"By how much of the light a clay reflects, or by the grey that pictures for looking at show of it in even light of 1 nit at exposure 0."`
	Shown       int           `json:"shown" label:"Clay tone" unit:"of 255" min:"0" max:"255" step:"1" def:"200" help:"Display grey of the clay in even light."`
	SecondShown int           `json:"secondShown" label:"Second tone" unit:"of 255" min:"0" max:"255" step:"1" def:"140" help:"Display grey of the darker clay that rules can give to small parts."`
	ThirdShown  int           `json:"thirdShown" label:"Third tone" unit:"of 255" min:"0" max:"255" step:"1" def:"60" help:"Display grey of one more clay that rules can give."`
	Tone        float64       `json:"tone" label:"Clay tone" min:"0.02" max:"0.95" step:"0.01" def:"0.6" help:"Reflectance of the clay."`
	SecondTone  float64       `json:"secondTone" label:"Second tone" min:"0.02" max:"0.95" step:"0.01" def:"0.28" help:"Reflectance of the darker clay that rules can give to small parts."`
	ThirdTone   float64       `json:"thirdTone,omitempty" label:"Third tone" min:"0" max:"0.95" step:"0.01" def:"0" help:"Reflectance of one more clay that rules can give; black unless it is set."`
	Tint        *setup.Colour `json:"tint,omitempty" label:"Tint"`
	SecondTint  *setup.Colour `json:"secondTint,omitempty" label:"Second tint"`
	ThirdTint   *setup.Colour `json:"thirdTint,omitempty" label:"Third tint"`
	Crevices    *Crevices     `json:"crevices,omitempty" label:"Crevices"`
	Gloss       *Gloss        `json:"gloss,omitempty" label:"Gloss"`
	Lines       *Lines        `json:"lines,omitempty" label:"Edge lines"`
	Light       string        `json:"light" label:"Light of the round" choices:"stage,colourless,even" def:"stage" help:"As the stage is, the stage without the colour of its light, or even light from all sides and no lamp."`
	Only        bool          `json:"only,omitempty" label:"Clay on" def:"false" help:"On everything but what rules keep, or only on what they match."`
	Roughness   float64       `json:"roughness" label:"Roughness" min:"0.05" max:"1" step:"0.01" def:"1" help:"1 is an ideal matte; lower is a plain plastic, to read reflections."`
	Rules       []KeepRule    `json:"rules" label:"Keep rules" nullable:"false" help:"In order; the first that matches a part decides. Parts without a rule wear the clay."`
}

// Gloss is a clear coat over the clay, to read reflections by.
type Gloss struct {
	Amount    float64 `json:"amount" label:"Amount" unit:"%" min:"0" max:"100" step:"5" def:"100" help:"How much of a coat lies over the clay."`
	Roughness float64 `json:"roughness" label:"Of roughness" min:"0" max:"1" step:"0.01" def:"0.1" help:"How rough the coat is; the clay under it keeps its own roughness."`
}

// UnmarshalJSON gives what is left out its default, as a whole ticket does.
func (g *Gloss) UnmarshalJSON(b []byte) error {
	type plain Gloss
	return overDefaults(b, (*plain)(g))
}

// Lines are lines drawn along the edges of what is seen.
type Lines struct {
	Creases    bool    `json:"creases" label:"Creases" def:"true" help:"Where faces of a part meet at more than an angle."`
	Angle      float64 `json:"angle" label:"Creases over" unit:"deg" min:"1" max:"179" step:"1" def:"30" help:"By how much faces must turn for their edge to be a crease."`
	Outlines   bool    `json:"outlines" label:"Outlines" def:"true" help:"Where something else is seen behind."`
	Borders    bool    `json:"borders" label:"Open borders" def:"true" help:"Where a surface ends."`
	Boundaries bool    `json:"boundaries" label:"Part boundaries" def:"true" help:"Where one part touches another."`
	Weight     float64 `json:"weight" label:"Weight" min:"0.05" max:"100" step:"0.05" def:"1" help:"How wide lines are: in pixels, or in thousandths of the picture's height, which looks the same at any size."`
	By         string  `json:"by" label:"Weight in" choices:"pixels,height" def:"pixels" help:"Pixels, or thousandths of the picture's height."`
	Tone       float64 `json:"tone" label:"Line tone" min:"0" max:"1" step:"0.05" def:"0" help:"Scene-linear grey of the lines; 0 is black."`
	Fade       bool    `json:"fade" label:"Darker where closer" def:"false" help:"Lines are lighter at the far end of the product; else all are alike."`
	Through    bool    `json:"through" label:"Through clear parts" def:"true" help:"Also lines of what is seen through smooth clear parts, and in smooth mirrors."`
	As         string  `json:"as" label:"Drawn" choices:"picture,pass" def:"picture" help:"In the picture, or in a pass of their own to lay over it."`
}

// UnmarshalJSON gives what is left out its default, as a whole ticket does.
func (l *Lines) UnmarshalJSON(b []byte) error {
	type plain Lines
	return overDefaults(b, (*plain)(l))
}

// Crevices darken the clay softly where it is closed in: in joints, folds and contacts.
type Crevices struct {
	Tone  float64 `json:"tone" label:"Crevice tone" min:"0.02" max:"0.95" step:"0.01" def:"0.2" help:"Reflectance of the clay where nothing is open; other clays are darkened by as much."`
	Reach float64 `json:"reach" label:"Reach" unit:"mm" min:"0.001" max:"1000000" step:"1" def:"10" help:"How far away surfaces still close in."`
}

// UnmarshalJSON gives what is left out its default, as a whole ticket does.
func (c *Crevices) UnmarshalJSON(b []byte) error {
	type plain Crevices
	return overDefaults(b, (*plain)(c))
}

// KeepRule says which parts do not wear the clay.
type KeepRule struct {
	By    string   `json:"by" label:"Match by" choices:"kind,name,group,finish,size,parts" def:"kind" help:"By kind (clear, glowing, mirror, textured), by a pattern over names, groups or finishes, by size, or by hand."`
	Match string   `json:"match" label:"Match" maxlen:"200" help:"Kind, or a pattern where * stands for any text and ? for one character."`
	Below float64  `json:"below,omitempty" label:"Smaller than" unit:"mm" min:"0" max:"1000000" step:"1" def:"0" help:"Parts whose longest side is shorter."`
	Parts []string `json:"parts" label:"Parts" nullable:"false" help:"Parts picked by hand."`
	Do    string   `json:"do" label:"Then" choices:"keep,second,third,shadow,omit" def:"keep" help:"Keep the finish, wear the second or third clay, leave only its shadow, or leave the part out."`
}

// QualitySection is quality against time.
type QualitySection struct {
	Preset       string  `json:"preset" label:"Preset" choices:"scout,check,proof,press,own" def:"proof" help:"Scout, Check, Proof and Press go from rough to final; own when anything below was changed."`
	Least        int     `json:"least" label:"Least samples" unit:"spp" min:"1" max:"65536" def:"32" help:"Samples every pixel gets before it may stop."`
	Most         int     `json:"most" label:"Most samples" unit:"spp" min:"1" max:"65536" def:"512" help:"Samples no pixel goes beyond."`
	Noise        float64 `json:"noise" label:"Noise target" unit:"%" min:"0" max:"100" step:"0.1" def:"1.5" help:"Tiles stop when their noise, in percent of display white, is below this; with denoising, when that is below it which is left once all noise is taken out. 0: never early."`
	Diffuse      int     `json:"diffuse" label:"Diffuse bounces" min:"0" max:"64" def:"3" help:"Bounces between matte surfaces."`
	Glossy       int     `json:"glossy" label:"Glossy bounces" min:"0" max:"64" def:"4" help:"Bounces in reflections."`
	Clear        int     `json:"clear" label:"Clear bounces" min:"0" max:"64" def:"10" help:"Passages through and reflections in clear parts."`
	Clamp        float64 `json:"clamp" label:"Clamp" unit:"nit" min:"0" max:"1000000" step:"0.5" def:"0" help:"Limits single bright samples of indirect light (fireflies). 0: off, unbiased."`
	Filter       string  `json:"filter" label:"Pixel filter" choices:"box,tent,gaussian,mitchell,blackman-harris" def:"blackman-harris" help:"How samples are weighted into pixels."`
	FilterWidth  float64 `json:"filterWidth" label:"Filter width" unit:"px" min:"0.5" max:"8" step:"0.1" def:"3" help:"Full width of the pixel filter."`
	Seed         int     `json:"seed" label:"Seed" min:"0" max:"2147483647" def:"1" help:"Another seed gives another pattern of noise."`
	Denoise      Denoise `json:"denoise" label:"Denoise"`
	ClearShadows string  `json:"clearShadows" label:"Shadows through clear parts" choices:"straight,bent" def:"straight" help:"Straight: light passes panes and shells in a line, clean and quick; what solids turn aside is still bent. Bent: all of it is found bent, and is noisier."`
}

// TakeSparks is what Denoise.Take says where nothing but sparks is to be taken out.
const TakeSparks = "sparks"

// Denoise takes the noise that is left out of a second picture beside the plain one.
type Denoise struct {
	On     bool    `json:"on" label:"Denoise" def:"false" help:"Deliver the beauty, and each light kept apart, once more with noise taken out; masks and data stay as they are."`
	Take   string  `json:"take" label:"Take out" choices:"noise,sparks" def:"noise" help:"Noise: grain and sparks, by means of what looks alike. Sparks: only pixels that half of the samples find far brighter than all around; grain stays as it was sampled."`
	Amount float64 `json:"amount" label:"Amount" unit:"%" min:"0" max:"100" step:"5" def:"100" help:"How much of the noise is taken out: 0 leaves the picture as it is. It can be changed without a new render."`
}

// SparksAlone tells whether nothing but sparks is taken out.
func (d *Denoise) SparksAlone() bool { return d.On && d.Take == TakeSparks }

// PassSection says which pictures to make besides the beauty.
type PassSection struct {
	Occlusion    OcclusionPass `json:"occlusion" label:"Ambient occlusion"`
	PartMasks    bool          `json:"partMasks" label:"Masks by part" def:"false" help:"One soft-edged mask for each part."`
	FinishMasks  bool          `json:"finishMasks" label:"Masks by finish" def:"false" help:"One soft-edged mask for each finish."`
	IDMattes     bool          `json:"idMattes" label:"ID mattes" def:"false" help:"All parts and all finishes as hashed IDs with coverage: any mask can be picked from them in compositing. Always 32 bit."`
	MasksThrough bool          `json:"masksThrough" label:"Masks look through" def:"true" help:"Masks show what is seen behind clear parts."`
	Lights       bool          `json:"lights" label:"Lights apart" def:"false" help:"Each light as an element; together they add up to the beauty."`
	Normal       bool          `json:"normal" label:"Normals" def:"false" help:"World-space shading normals."`
	Depth        bool          `json:"depth" label:"Depth" def:"false" help:"Metres along the view axis."`
	Shadow       bool          `json:"shadow" label:"Caught shadow" def:"false" help:"How much of the light does not reach the floor that catches shadows: 1 is black. Nothing without such a floor."`
	Motion       bool          `json:"motion" label:"Motion vectors" def:"false" help:"How far what is seen goes while the shutter is open, in pixels to the right and up: for blurring in compositing. Always 32 bit."`
}

// OcclusionPass is the ambient occlusion pass.
type OcclusionPass struct {
	On      bool    `json:"on" label:"Ambient occlusion" def:"false" help:"How open each point is to its surroundings; multiply it over the beauty."`
	Samples int     `json:"samples" label:"Samples" min:"1" max:"64" def:"1" help:"Occlusion rays for each camera sample."`
	Reach   float64 `json:"reach" label:"Reach" unit:"mm" min:"0.001" max:"1000000" step:"1" def:"60" help:"How far away surfaces still darken."`
	Through bool    `json:"through" label:"Look through" def:"true" help:"See and occlude through clear parts."`
}

// OutputSection is what is delivered.
type OutputSection struct {
	EXR         bool   `json:"exr" label:"OpenEXR" def:"true" help:"Scene-linear files for compositing."`
	Depth       string `json:"depth" label:"Number format" choices:"half,float" def:"half" help:"Half has 16 bits a channel, float 32."`
	Layers      string `json:"layers" label:"Layers" choices:"one,multipart,each" def:"one" help:"All passes as layers of one file, as the parts of one multi-part file, or one file for each pass."`
	Compression string `json:"compression" label:"Compression" choices:"zip,zips,piz,rle,none" def:"zip" help:"All lossless. ZIP packs 16 lines at a time, ZIPS single lines; PIZ is smaller where there is noise; RLE is quick and large."`
	Primaries   string `json:"primaries" label:"Colours" choices:"rec709,acescg" def:"rec709" help:"Primaries of the light in EXR files: Rec.709, or ACEScg. Data passes have none."`
	PNG         string `json:"png" label:"PNG" choices:"none,8,16" def:"8" help:"Display pictures, bits a channel."`
	Name        string `json:"name" label:"File name" maxlen:"200" def:"{project}/{scene}_{view}_{surface}_{size}_r{run}_{pass}" help:"Words in braces are filled in: project, scene, view, surface, variant, size, run, frame, pass, date. A slash makes a folder."`
	Crops       []Crop `json:"crops,omitempty" label:"Crops" most:"40" nullable:"false" help:"Pictures of other shapes cut out of the frame, as PNGs of the beauty beside the whole one."`
}
