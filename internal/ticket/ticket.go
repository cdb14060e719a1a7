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
	Scale    int     `json:"scale" label:"Scale" unit:"%" min:"1" max:"400" def:"100" help:"Percent of the frame's size to render at: small for tests, large for prints. What is in the frame stays the same."`
	Region   Region  `json:"region" label:"Region"`
	Exposure float64 `json:"exposure" label:"Exposure" unit:"EV" min:"-20" max:"20" step:"0.1" def:"0" help:"Brightness on screen and in PNG files. EXR files stay scene-linear."`
	Lens     Lens    `json:"lens" label:"Lens"`
	Motion   Motion  `json:"motion" label:"Motion"`
	Display  string  `json:"display" label:"Display transform" choices:"filmic,plain" def:"filmic" help:"Filmic rolls highlights off; plain clips at white."`
}

// Lens blurs what is out of focus.
type Lens struct {
	On        bool    `json:"on" label:"Depth of field" def:"false" help:"Depth of field: blur what is nearer or farther than the focus."`
	FStop     float64 `json:"fStop" label:"Aperture" unit:"f" min:"0.5" max:"128" step:"0.1" def:"8" help:"f-number on a sensor 24 mm high. Lower numbers blur more."`
	By        string  `json:"by" label:"Focus on" choices:"point,distance" def:"point" help:"Focus on a point of the frame, or at a distance from the camera."`
	X         float64 `json:"x" label:"Point, from left" unit:"%" min:"0" max:"100" step:"0.5" def:"50" help:"What is seen at this point of the frame is sharp."`
	Y         float64 `json:"y" label:"Point, from top" unit:"%" min:"0" max:"100" step:"0.5" def:"50" help:"What is seen at this point of the frame is sharp."`
	Distance  float64 `json:"distance" label:"Distance" unit:"m" min:"0.001" max:"100000" step:"0.01" def:"1" help:"Distance from the camera along the view axis."`
	Blades    int     `json:"blades" label:"Blades" min:"0" max:"32" def:"0" help:"Blades of the aperture, seen as the shape of bright blurred spots. Under 3 it is round."`
	BladeTurn float64 `json:"bladeTurn" label:"Blades turned" unit:"deg" min:"-180" max:"180" step:"1" def:"0" help:"Rotation of the aperture."`
}

// Motion says when in an animation of the scene the picture is taken.
type Motion struct {
	Animation string  `json:"animation" label:"Animation" maxlen:"200" help:"The animation that moves parts and cameras. Empty: everything stays as it was saved."`
	Moment    float64 `json:"moment" label:"Moment" unit:"s" min:"0" max:"1000000" step:"0.04" def:"0" help:"Time in the animation at which the picture is taken. Before the first key and after the last, parts do not move."`
	Blur      bool    `json:"blur" label:"Motion blur" def:"false" help:"Motion blur: blur what moves while the shutter is open. Lights move too, except suns."`
	Shutter   float64 `json:"shutter" label:"Shutter" unit:"ms" min:"0" max:"1000000" step:"1" def:"20" help:"How long the shutter is open, centred on the moment."`
}

// Region is a part of the frame, in percent of it.
type Region struct {
	On     bool    `json:"on" label:"Region only" def:"false" help:"Render only a part of the frame. Files keep the whole frame as display window."`
	X      float64 `json:"x" label:"Left" unit:"%" min:"0" max:"100" step:"1" def:"0" help:"Left edge of the region."`
	Y      float64 `json:"y" label:"Top" unit:"%" min:"0" max:"100" step:"1" def:"0" help:"Upper edge of the region."`
	Width  float64 `json:"width" label:"Width" unit:"%" min:"0.1" max:"100" step:"1" def:"100" help:"Width of the region."`
	Height float64 `json:"height" label:"Height" unit:"%" min:"0.1" max:"100" step:"1" def:"100" help:"Height of the region."`
}

// StageSection is what stands around the product.
type StageSection struct {
	Lights      []LightChange         `json:"lights" label:"Lights" nullable:"false" help:"Changes to the scene's lights. A light that is not listed is on at strength 1."`
	Surround    setup.SurroundSetting `json:"surround" label:"Surround"`
	Backing     string                `json:"backing" label:"Backing" choices:"surround,tone,shown,clay,gradient,picture,clear" def:"surround" help:"What is seen behind the scene: the surround, a flat scene-linear tone, a flat tone by its PNG value, the clay's tone, a gradient, a picture, or nothing (transparent). The scene is lit by the surround in any case."`
	Catcher     Catcher               `json:"catcher" label:"Shadow floor"`
	BackingTone float64               `json:"backingTone" label:"Backing tone" min:"0" max:"100" step:"0.05" def:"0.6" help:"Scene-linear grey of the flat backing; 0.18 is mid grey."`
	Shown       int                   `json:"shown" label:"Shown as" unit:"of 255" min:"0" max:"255" step:"1" def:"230" help:"The value that PNG files hold where only the backing is seen, at any exposure and display transform."`
	Gradient    *Gradient             `json:"gradient,omitempty" label:"Gradient"`
	Plate       *Plate                `json:"plate,omitempty" label:"Picture behind"`
}

// Plate is a picture that fills the frame behind the scene, as large as covers it.
type Plate struct {
	Picture  setup.Drawn `json:"picture" label:"Picture"`
	Strength float64     `json:"strength" label:"Strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1" help:"Factor on the picture. At 1, its white is 1 in scene-linear light."`
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
	Strength float64      `json:"strength" label:"Strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1" help:"Factor on both colours. Above 1, the filmic display can show white."`
	Turn     float64      `json:"turn" label:"Turn" unit:"deg" min:"-360" max:"360" step:"5" def:"0" help:"Counter-clockwise. At 90 the first colour is at the left."`
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
	On    bool   `json:"on" label:"Catch shadows" def:"false" help:"Shadow catcher: the floor shows only the shadow that falls on it, over the backing. Reflections and bounced light still use its finish."`
	Parts string `json:"parts" label:"Floor" maxlen:"200" def:"" help:"Name pattern of the parts that are the floor. Empty: an endless floor is endless floor."`
}

// LightChange switches one light of the scene.
type LightChange struct {
	Name     string  `json:"name" label:"Light" maxlen:"200" help:"Name of the light in the scene."`
	On       bool    `json:"on" label:"On" def:"true" help:"Whether the light shines."`
	Strength float64 `json:"strength" label:"Strength" unit:"x" min:"0" max:"1000" step:"0.05" def:"1" help:"Factor on the light's own strength."`

	Size        float64 `json:"size" label:"Size" unit:"x" min:"0.01" max:"100" step:"0.05" def:"1" help:"Factor on the size of a rectangle, disk or sphere. Larger lights give softer shadows."`
	SizeKeeps   string  `json:"sizeKeeps" label:"At another size keep" choices:"power,brightness" def:"power" help:"When the size changes. Power: the light keeps its total output. Brightness: its surface keeps its luminance."`
	Camera      bool    `json:"camera" label:"Seen by the camera" def:"true" help:"Whether the light itself shows in the picture."`
	Reflections bool    `json:"reflections" label:"Seen in reflections" def:"true" help:"Whether reflections show the light. Off, it lights matte surfaces only."`
	Shadows     bool    `json:"shadows" label:"Casts shadows" def:"true" help:"Off, nothing blocks this light."`
	Reach       float64 `json:"reach" label:"Reach" unit:"m" min:"0" max:"100000" step:"0.1" def:"0" help:"Distance at which the light has faded out. 0: as the scene says."`
	Samples     int     `json:"samples" label:"Samples" min:"1" max:"64" def:"1" help:"Shadow rays for each camera sample at the first surface. Raise it for the light that is noisiest."`
}

// SurfaceSection says what the parts wear.
type SurfaceSection struct {
	Mode string   `json:"mode" label:"Surface" choices:"own,clay,both" def:"own" help:"The scene's own finishes, clay on everything that no rule keeps, or both: two pictures of the same view from the same samples."`
	Clay ClayPlan `json:"clay" label:"Clay"`

	Variant string `json:"variant,omitempty" label:"Variant" maxlen:"120" def:"" help:"A variant of the product that the scene has. Empty: the product as it is set up."`

	Shapes []ShapeRule `json:"shapes" label:"Shapes" nullable:"false" help:"Subdivision and smoothing. The first rule that matches a part decides; other parts keep their shape."`
}

// ShapeRule says how the parts of a pattern are shaped before they are rendered.
type ShapeRule struct {
	Match   string  `json:"match" label:"Parts" maxlen:"200" def:"*" help:"Pattern over a part's name, its group or its place in the tree; * stands for any text and ? for one character."`
	Levels  int     `json:"levels" label:"Subdivide" unit:"times" min:"0" max:"6" def:"0" help:"Subdivision levels. Each level makes four triangles of one; everything is smooth except kept edges."`
	Shading string  `json:"shading" label:"Shading" choices:"saved,smooth,faceted" def:"saved" help:"For parts that are not subdivided: as in the file, smooth except kept edges, or flat faces."`
	Crease  float64 `json:"crease" label:"Keep edges over" unit:"deg" min:"0" max:"180" step:"1" def:"50" help:"Edges and corners that turn by more than this angle stay sharp."`
}

// ClayPlan is a clay override.
type ClayPlan struct {
	ToneAs      string        `json:"toneAs" label:"Tones as" choices:"reflectance,shown" def:"reflectance" help:"Set the tone as reflectance, or as the grey that is displayed in even light of 1 nit at exposure 0."`
	Shown       int           `json:"shown" label:"Clay tone" unit:"of 255" min:"0" max:"255" step:"1" def:"200" help:"Displayed grey of the clay in even light."`
	SecondShown int           `json:"secondShown" label:"Second tone" unit:"of 255" min:"0" max:"255" step:"1" def:"140" help:"Displayed grey of the second clay, which rules can give to small parts."`
	ThirdShown  int           `json:"thirdShown" label:"Third tone" unit:"of 255" min:"0" max:"255" step:"1" def:"60" help:"Displayed grey of the third clay."`
	Tone        float64       `json:"tone" label:"Clay tone" min:"0.02" max:"0.95" step:"0.01" def:"0.6" help:"Reflectance of the clay."`
	SecondTone  float64       `json:"secondTone" label:"Second tone" min:"0.02" max:"0.95" step:"0.01" def:"0.28" help:"Reflectance of the second clay, which rules can give to small parts."`
	ThirdTone   float64       `json:"thirdTone,omitempty" label:"Third tone" min:"0" max:"0.95" step:"0.01" def:"0" help:"Reflectance of the third clay."`
	Tint        *setup.Colour `json:"tint,omitempty" label:"Tint"`
	SecondTint  *setup.Colour `json:"secondTint,omitempty" label:"Second tint"`
	ThirdTint   *setup.Colour `json:"thirdTint,omitempty" label:"Third tint"`
	Crevices    *Crevices     `json:"crevices,omitempty" label:"Crevices"`
	Gloss       *Gloss        `json:"gloss,omitempty" label:"Gloss"`
	Lines       *Lines        `json:"lines,omitempty" label:"Edge lines"`
	Light       string        `json:"light" label:"Light of the round" choices:"stage,colourless,even" def:"stage" help:"The stage's light, the same without its colour, or even light from all sides."`
	Only        bool          `json:"only,omitempty" label:"Clay on" def:"false" help:"Clay on everything except what rules keep, or only on what rules match."`
	Roughness   float64       `json:"roughness" label:"Roughness" min:"0.05" max:"1" step:"0.01" def:"1" help:"1 is fully matte. Lower values reflect like plain plastic, to judge highlights."`
	Rules       []KeepRule    `json:"rules" label:"Keep rules" nullable:"false" help:"The first rule that matches a part decides. Parts without a rule wear the clay."`
}

// Gloss is a clear coat over the clay, to read reflections by.
type Gloss struct {
	Amount    float64 `json:"amount" label:"Amount" unit:"%" min:"0" max:"100" step:"5" def:"100" help:"Strength of a clear coat over the clay."`
	Roughness float64 `json:"roughness" label:"Of roughness" min:"0" max:"1" step:"0.01" def:"0.1" help:"Roughness of the coat. The clay under it keeps its own."`
}

// UnmarshalJSON gives what is left out its default, as a whole ticket does.
func (g *Gloss) UnmarshalJSON(b []byte) error {
	type plain Gloss
	return overDefaults(b, (*plain)(g))
}

// Lines are lines drawn along the edges of what is seen.
type Lines struct {
	Creases    bool    `json:"creases" label:"Creases" def:"true" help:"Lines where faces of a part meet at more than an angle."`
	Angle      float64 `json:"angle" label:"Creases over" unit:"deg" min:"1" max:"179" step:"1" def:"30" help:"Angle between faces from which their edge counts as a crease."`
	Outlines   bool    `json:"outlines" label:"Outlines" def:"true" help:"Lines along silhouettes, where something else is seen behind."`
	Borders    bool    `json:"borders" label:"Open borders" def:"true" help:"Lines where a surface ends."`
	Boundaries bool    `json:"boundaries" label:"Part boundaries" def:"true" help:"Lines where one part meets another."`
	Weight     float64 `json:"weight" label:"Weight" min:"0.05" max:"100" step:"0.05" def:"1" help:"Width of the lines. In thousandths of the picture's height they look the same at any size."`
	By         string  `json:"by" label:"Weight in" choices:"pixels,height" def:"pixels" help:"Pixels, or thousandths of the picture's height."`
	Tone       float64 `json:"tone" label:"Line tone" min:"0" max:"1" step:"0.05" def:"0" help:"Scene-linear grey of the lines. 0 is black."`
	Fade       bool    `json:"fade" label:"Darker where closer" def:"false" help:"Make lines lighter towards the far end of the product."`
	Through    bool    `json:"through" label:"Through clear parts" def:"true" help:"Also draw lines of what is seen through clear parts and in mirrors."`
	As         string  `json:"as" label:"Drawn" choices:"picture,pass" def:"picture" help:"In the picture, or in a pass of their own."`
}

// UnmarshalJSON gives what is left out its default, as a whole ticket does.
func (l *Lines) UnmarshalJSON(b []byte) error {
	type plain Lines
	return overDefaults(b, (*plain)(l))
}

// Crevices darken the clay softly where it is closed in: in joints, folds and contacts.
type Crevices struct {
	Tone  float64 `json:"tone" label:"Crevice tone" min:"0.02" max:"0.95" step:"0.01" def:"0.2" help:"Reflectance of the clay in the deepest crevice. Other clays are darkened by as much."`
	Reach float64 `json:"reach" label:"Reach" unit:"mm" min:"0.001" max:"1000000" step:"1" def:"10" help:"How far away surfaces still count as closing in."`
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
	Preset         string  `json:"preset" label:"Preset" choices:"scout,check,proof,press,own" def:"proof" help:"Scout, Check, Proof and Press go from rough to final. Own: numbers of your own."`
	Least          int     `json:"least" label:"Least samples" unit:"spp" min:"1" max:"65536" def:"32" help:"Samples that every pixel gets."`
	Most           int     `json:"most" label:"Most samples" unit:"spp" min:"1" max:"65536" def:"512" help:"Samples that no pixel goes beyond."`
	Noise          float64 `json:"noise" label:"Noise target" unit:"%" min:"0" max:"100" step:"0.1" def:"1.5" help:"A tile stops when its noise, in percent of display white, is below this; with denoising, when what is left after it is. 0: always take the most samples."`
	Diffuse        int     `json:"diffuse" label:"Diffuse bounces" min:"0" max:"64" def:"3" help:"Bounces between matte surfaces."`
	Glossy         int     `json:"glossy" label:"Glossy bounces" min:"0" max:"64" def:"4" help:"Bounces in reflections."`
	Clear          int     `json:"clear" label:"Clear bounces" min:"0" max:"64" def:"10" help:"Refractions and reflections in clear parts."`
	DiffuseSamples int     `json:"diffuseSamples" label:"Diffuse samples" min:"1" max:"16" def:"1" help:"Diffuse rays followed from the first surface for each camera sample. More clean up light bounced between matte surfaces; each costs time."`
	GlossySamples  int     `json:"glossySamples" label:"Glossy samples" min:"1" max:"16" def:"1" help:"Glossy rays followed from the first surface for each camera sample. More clean up rough reflections; polished ones gain nothing."`
	ClearSamples   int     `json:"clearSamples" label:"Clear samples" min:"1" max:"16" def:"1" help:"Rays followed through the first clear surface for each camera sample. More clean up frosted glass; polished glass gains nothing."`
	Clamp          float64 `json:"clamp" label:"Clamp" unit:"nit" min:"0" max:"1000000" step:"0.5" def:"0" help:"Limits single bright samples of indirect light (fireflies). 0: off, unbiased."`
	Filter         string  `json:"filter" label:"Pixel filter" choices:"box,tent,gaussian,mitchell,blackman-harris" def:"blackman-harris" help:"Reconstruction filter that weights samples into pixels."`
	FilterWidth    float64 `json:"filterWidth" label:"Filter width" unit:"px" min:"0.5" max:"8" step:"0.1" def:"3" help:"Full width of the pixel filter."`
	Seed           int     `json:"seed" label:"Seed" min:"0" max:"2147483647" def:"1" help:"Another seed gives another pattern of noise."`
	Denoise        Denoise `json:"denoise" label:"Denoise"`
	ClearShadows   string  `json:"clearShadows" label:"Shadows through clear parts" choices:"straight,bent" def:"straight" help:"Shadows of clear parts. Straight: light passes thin panes and shells unrefracted, which is quick and clean. Bent: all refraction is traced, which is noisier."`
}

// TakeSparks is what Denoise.Take says where nothing but sparks is to be taken out.
const TakeSparks = "sparks"

// Denoise takes the noise that is left out of a second picture beside the plain one.
type Denoise struct {
	On     bool    `json:"on" label:"Denoise" def:"false" help:"Deliver a denoised beauty, and denoised lights, beside the plain ones. Masks and data are never denoised."`
	Take   string  `json:"take" label:"Take out" choices:"noise,sparks" def:"noise" help:"Noise: grain and sparks. Sparks: only single pixels that are far too bright; grain stays as it was sampled."`
	Amount float64 `json:"amount" label:"Amount" unit:"%" min:"0" max:"100" step:"5" def:"100" help:"How much of the noise is removed. It can be changed without rendering again."`
}

// SparksAlone tells whether nothing but sparks is taken out.
func (d *Denoise) SparksAlone() bool { return d.On && d.Take == TakeSparks }

// PassSection says which pictures to make besides the beauty.
type PassSection struct {
	Occlusion    OcclusionPass `json:"occlusion" label:"Ambient occlusion"`
	PartMasks    bool          `json:"partMasks" label:"Masks by part" def:"false" help:"One anti-aliased mask for each part."`
	FinishMasks  bool          `json:"finishMasks" label:"Masks by finish" def:"false" help:"One anti-aliased mask for each finish."`
	IDMattes     bool          `json:"idMattes" label:"ID mattes" def:"false" help:"All parts and finishes as hashed IDs with coverage, to pick any mask in compositing. Always 32 bit."`
	MasksThrough bool          `json:"masksThrough" label:"Masks look through" def:"true" help:"Masks also show parts seen through clear ones."`
	Lights       bool          `json:"lights" label:"Lights apart" def:"false" help:"One element for each light. Together they add up to the beauty."`
	Normal       bool          `json:"normal" label:"Normals" def:"false" help:"World-space shading normals."`
	Depth        bool          `json:"depth" label:"Depth" def:"false" help:"Metres along the view axis."`
	Shadow       bool          `json:"shadow" label:"Caught shadow" def:"false" help:"The caught shadow as a pass: the share of light that does not reach the floor. 1 is black."`
	Motion       bool          `json:"motion" label:"Motion vectors" def:"false" help:"Motion vectors: pixels to the right and up while the shutter is open, to blur in compositing. Always 32 bit."`
}

// OcclusionPass is the ambient occlusion pass.
type OcclusionPass struct {
	On      bool    `json:"on" label:"Ambient occlusion" def:"false" help:"Ambient occlusion: how open each point is. Multiply it over the beauty."`
	Samples int     `json:"samples" label:"Samples" min:"1" max:"64" def:"1" help:"Occlusion rays for each camera sample."`
	Reach   float64 `json:"reach" label:"Reach" unit:"mm" min:"0.001" max:"1000000" step:"1" def:"60" help:"How far away surfaces still occlude."`
	Through bool    `json:"through" label:"Look through" def:"true" help:"Ignore clear parts: see and occlude through them."`
}

// OutputSection is what is delivered.
type OutputSection struct {
	EXR         bool   `json:"exr" label:"OpenEXR" def:"true" help:"Scene-linear files for compositing."`
	Depth       string `json:"depth" label:"Number format" choices:"half,float" def:"half" help:"Half has 16 bits a channel, float 32."`
	Layers      string `json:"layers" label:"Layers" choices:"one,multipart,each" def:"one" help:"All passes as layers of one file, as the parts of one multi-part file, or one file for each pass."`
	Compression string `json:"compression" label:"Compression" choices:"zip,zips,piz,rle,none" def:"zip" help:"All lossless. ZIP packs 16 lines at a time, ZIPS single lines; PIZ is smaller where there is noise; RLE is quick and large."`
	Primaries   string `json:"primaries" label:"Colours" choices:"rec709,acescg" def:"rec709" help:"Primaries of EXR files: Rec.709 or ACEScg. Data passes have none."`
	PNG         string `json:"png" label:"PNG" choices:"none,8,16" def:"8" help:"Display-referred pictures, in bits per channel."`
	Name        string `json:"name" label:"File name" maxlen:"200" def:"{project}/{scene}_{view}_{surface}_{size}_r{run}_{pass}" help:"Words in braces are replaced: project, scene, view, surface, variant, size, run, frame, pass, date. A slash makes a folder."`
	Crops       []Crop `json:"crops,omitempty" label:"Crops" most:"40" nullable:"false" help:"Other shapes cut out of the frame, as PNG files of the beauty beside the whole one."`
}
