package surface

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"

	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/trace"
)

// head is what a file says beside its planes.
type head struct {
	Camera camera `json:"camera"`
	Window [4]int `json:"window"` // of the frame: left, top, right, bottom in pixels
	Frame  [2]int `json:"frame"`  // pixels
	Parts  []Part `json:"parts"`
}

// camera is where a picture was taken from.
type camera struct {
	World geom.Affine `json:"world"`
	YFov  float32     `json:"yfov"` // radians; 0: orthographic
	YMag  float32     `json:"ymag"` // metres
	Shift [2]float32  `json:"shift"`
}

// headKey is the attribute that holds it.
const headKey = "surfaceMap"

// Write writes a map as OpenEXR: number of the part (from 1), position in metres and normal in
// the world of what is seen first, as front.*, and behind clear parts, as behind.*.
func (m *Map) Write(w io.Writer) error {
	b := m.Window
	h := head{
		Camera: camera{m.Camera.World, m.Camera.YFov, m.Camera.YMag, m.Camera.Shift},
		Window: [4]int{b.Min.X, b.Min.Y, b.Max.X, b.Max.Y}, Frame: [2]int{m.Width, m.Height}, Parts: m.Parts,
	}
	text, err := json.Marshal(h)
	if err != nil {
		return err
	}
	e := &imageio.EXR{Compression: imageio.ZIP, Window: image.Rect(0, 0, m.W, m.H), Display: image.Rect(0, 0, m.W, m.H),
		Text: map[string]string{headKey: string(text)}}
	for name, l := range map[string]*Layer{"front": &m.Front, "behind": &m.Behind} {
		e.Channels = append(e.Channels, imageio.Channel{Name: name + ".part", Type: imageio.Uint, Ints: l.Part})
		for k, axis := range [...]string{"X", "Y", "Z"} {
			at, normal := make([]float32, len(l.At)), make([]float32, len(l.At))
			for i := range l.At {
				at[i], normal[i] = l.At[i].At(k), float32(l.Normal[i][k])/127
			}
			e.Channels = append(e.Channels,
				imageio.Channel{Name: name + ".P." + axis, Type: imageio.Float, Data: at},
				imageio.Channel{Name: name + ".N." + axis, Type: imageio.Half, Data: normal})
		}
	}
	return imageio.WriteEXR(w, e)
}

// limits are those of a file: a grid is never larger.
var limits = imageio.Limits{Pixels: Side * Side, Memory: 256 << 20}

// Read reads what Write wrote.
func Read(b []byte) (*Map, error) {
	e, err := imageio.ReadEXR(b, limits)
	if err != nil {
		return nil, err
	}
	var h head
	d := json.NewDecoder(bytes.NewReader([]byte(e.Text[headKey])))
	if err := d.Decode(&h); err != nil {
		return nil, fmt.Errorf("surface map: %w", err)
	}
	window := image.Rect(h.Window[0], h.Window[1], h.Window[2], h.Window[3])
	if window.Empty() || h.Frame[0] < 1 || h.Frame[1] < 1 || !window.In(image.Rect(0, 0, h.Frame[0], h.Frame[1])) {
		return nil, errors.New("surface map: its window is not in its frame")
	}
	if w, hh := Grid(window); w != e.Window.Dx() || hh != e.Window.Dy() {
		return nil, errors.New("surface map: its grid is not that of its window")
	}
	c := trace.Camera{World: h.Camera.World, YFov: h.Camera.YFov, YMag: h.Camera.YMag, Shift: h.Camera.Shift}
	m := New(c, h.Frame[0], h.Frame[1], window)
	m.SetParts(h.Parts)
	for name, l := range map[string]*Layer{"front": &m.Front, "behind": &m.Behind} {
		if err := l.read(e, name, len(m.Parts)); err != nil {
			return nil, err
		}
	}
	return m, nil
}

func (l *Layer) read(e *imageio.EXR, name string, parts int) error {
	part := e.Channel(name + ".part")
	if part == nil || len(part.Ints) != len(l.Part) {
		return fmt.Errorf("surface map: no channel %s.part", name)
	}
	for i, p := range part.Ints {
		if p > uint32(parts) {
			return fmt.Errorf("surface map: part %d of %d", p, parts)
		}
		l.Part[i] = p
	}
	for k, axis := range [...]string{"X", "Y", "Z"} {
		at, normal := e.Channel(name+".P."+axis), e.Channel(name+".N."+axis)
		if at == nil || normal == nil || len(at.Data) != len(l.At) || len(normal.Data) != len(l.At) {
			return fmt.Errorf("surface map: no channels %s.P.%s and N", name, axis)
		}
		for i := range l.At {
			v := at.Data[i]
			switch k {
			case 0:
				l.At[i].X = v
			case 1:
				l.At[i].Y = v
			case 2:
				l.At[i].Z = v
			}
			l.Normal[i][k] = int8(max(-1, min(1, normal.Data[i])) * 127.001)
		}
	}
	return nil
}
