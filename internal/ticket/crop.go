package ticket

import (
	"image"
	"math"
	"slices"

	"amberproof/core/imageio"
	"amberproof/core/passes"
)

// Crop is a picture of another shape that is cut out of the frame: the largest that fits,
// or a part of that.
type Crop struct {
	Name string  `json:"name" label:"Name" maxlen:"60" help:"Used in the names of its files."`
	Wide float64 `json:"wide" label:"Wide" min:"0.01" max:"100000" step:"1" def:"1" help:"Width of its shape, in any unit: 16 to 9, or 1080 to 1350."`
	High float64 `json:"high" label:"High" min:"0.01" max:"100000" step:"1" def:"1" help:"Height of its shape."`
	Size float64 `json:"size" label:"Size" unit:"%" min:"1" max:"100" step:"1" def:"100" help:"Percent of the largest crop of this shape that fits the frame."`
	X    float64 `json:"x" label:"From left" unit:"%" min:"0" max:"100" step:"1" def:"50" help:"Horizontal position: 0 is at the left, 50 in the middle, 100 at the right."`
	Y    float64 `json:"y" label:"From top" unit:"%" min:"0" max:"100" step:"1" def:"50" help:"Vertical position: 0 is at the top, 50 in the middle, 100 at the bottom."`
}

// UnmarshalJSON gives what a crop leaves out its default, as a whole ticket does.
func (c *Crop) UnmarshalJSON(b []byte) error {
	type plain Crop
	return overDefaults(b, (*plain)(c))
}

// In is the crop's rectangle in a frame of a size, pixels.
func (c *Crop) In(frame image.Point) image.Rectangle {
	w, h := float64(frame.X), float64(frame.Y)
	if c.Wide*h > c.High*w {
		h = w * c.High / c.Wide
	} else {
		w = h * c.Wide / c.High
	}
	size := image.Pt(
		min(frame.X, max(1, int(math.Round(w*c.Size/100)))),
		min(frame.Y, max(1, int(math.Round(h*c.Size/100)))))
	at := image.Pt(int(math.Round(float64(frame.X-size.X)*c.X/100)), int(math.Round(float64(frame.Y-size.Y)*c.Y/100)))
	return image.Rectangle{Min: at, Max: at.Add(size)}
}

// cropped are the files of the crops: PNGs of the beauty, plain and denoised. Of a region
// there are none.
func (t *Ticket) cropped(w Words, keys []string) (out []Planned) {
	if t.Output.PNG == "none" || t.View.Region.On {
		return nil
	}
	for _, c := range t.Output.Crops {
		for _, k := range []string{"beauty", "beauty.denoised"} {
			if slices.Contains(keys, k) {
				p := plan(t, w, &imageio.PNGFormat, k+"."+passes.Slug(c.Name), k)
				p.Crop = c.Name
				out = append(out, p)
			}
		}
	}
	return out
}

// CropNamed is a crop of the ticket.
func (t *Ticket) CropNamed(name string) *Crop {
	for i := range t.Output.Crops {
		if t.Output.Crops[i].Name == name {
			return &t.Output.Crops[i]
		}
	}
	return nil
}
