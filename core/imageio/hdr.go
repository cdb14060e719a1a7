package imageio

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

// HDR is a Radiance picture: scene-linear RGB, row by row from the top.
type HDR struct {
	W, H int
	Pix  []float32 // 3 per pixel
}

// ReadHDR reads a Radiance picture (Ward 1991): RGBE or XYZE, flat or run-length
// encoded in the old or the new way, in any of the eight orientations, with its
// exposures and its primaries taken into account.
func ReadHDR(b []byte, lim Limits) (*HDR, error) {
	r := bufio.NewReader(bytes.NewReader(b))
	head, err := readHDRHeader(r)
	if err != nil {
		return nil, err
	}
	o, err := orientationOf(head.size, lim)
	if err != nil {
		return nil, err
	}
	w, h := o.inner, o.outer // as stored
	// A run covers at most 127 bytes with two: a file much shorter than that is
	// refused before memory is taken.
	if len(b) < w*h/256 {
		return nil, formatErr("the file is too short for its %d x %d pixels", w, h)
	}
	if err := lim.allows(int64(o.w)*int64(o.h)*12, len(b)); err != nil {
		return nil, err
	}
	p := &HDR{W: o.w, H: o.h, Pix: make([]float32, w*h*3)}
	row := make([]byte, w*4)
	for y := 0; y < h; y++ {
		if err := readHDRRow(r, row); err != nil {
			return nil, fmt.Errorf("line %d: %w", y+1, err)
		}
		for x := 0; x < w; x++ {
			e := row[x*4+3]
			if e == 0 {
				continue
			}
			// The exponent is shared, with an excess of 128, and mantissas have eight bits; the
			// half is the middle of what was rounded down.
			s := float32(math.Ldexp(1, int(e)-136)) * head.gain
			c := geom.V(float32(row[x*4])+0.5, float32(row[x*4+1])+0.5, float32(row[x*4+2])+0.5).Scale(s)
			if head.toRec709 != nil {
				c = geom.Max3(head.toRec709.Apply(c), geom.Vec3{})
			}
			at := o.at(x, y) * 3
			p.Pix[at], p.Pix[at+1], p.Pix[at+2] = c.X, c.Y, c.Z
		}
	}
	return p, nil
}

// hdrHeader is what a Radiance picture says of itself.
type hdrHeader struct {
	gain     float32        // values are multiplied by it
	toRec709 *colour.Matrix // nil where they are that already
	size     string         // the line that gives size and order
}

func readHDRHeader(r *bufio.Reader) (h hdrHeader, err error) {
	line := func() (string, error) {
		s, err := r.ReadString('\n')
		if err != nil || len(s) > 4096 {
			return "", formatErr("the header is cut short")
		}
		return strings.TrimRight(s, "\r\n"), nil
	}
	first, err := line()
	if err != nil || !strings.HasPrefix(first, "#?") {
		return h, formatErr("not a Radiance picture")
	}
	h.gain = 1
	xyz := false
	primaries := colour.Primaries{} // Rec.709, near enough to what the format once meant
	for {
		s, err := line()
		if err != nil {
			return h, err
		}
		if s == "" {
			break
		}
		key, value, _ := strings.Cut(s, "=")
		switch key {
		case "FORMAT":
			if xyz = value == "32-bit_rle_xyze"; !xyz && value != "32-bit_rle_rgbe" {
				return h, formatErr("Radiance format %q is not supported; save it as 32-bit_rle_rgbe", value)
			}
		case "EXPOSURE": // what values were multiplied by, several times perhaps
			if v, err := strconv.ParseFloat(strings.TrimSpace(value), 32); err == nil && v > 1e-20 && v < 1e20 {
				h.gain /= float32(v)
			}
		case "PRIMARIES":
			if f := strings.Fields(value); len(f) == 8 {
				for i := range f {
					v, err := strconv.ParseFloat(f[i], 32)
					if err != nil {
						return h, formatErr("PRIMARIES %q are no eight numbers", value)
					}
					primaries[i] = float32(v)
				}
			}
		}
	}
	if h.gain-h.gain != 0 {
		return h, formatErr("its exposures have no finite product")
	}
	if h.toRec709, err = radianceColour(xyz, primaries); err != nil {
		return h, err
	}
	h.size, err = line()
	return h, err
}

// orientation is how a picture's lines are stored: the outer axis from line to
// line, the inner within a line.
type orientation struct {
	w, h         int
	outer, inner int
	turned       bool // the outer axis runs along x
	flipX, flipY bool
}

// orientationOf reads the resolution line, as "-Y 512 +X 1024": the axis that goes from
// line to line first, with its direction and length.
func orientationOf(res string, lim Limits) (o orientation, err error) {
	f := strings.Fields(res)
	bad := formatErr("resolution line %q", res)
	if len(f) != 4 {
		return o, bad
	}
	n1, err1 := strconv.Atoi(f[1])
	n2, err2 := strconv.Atoi(f[3])
	if err1 != nil || err2 != nil || n1 < 1 || n2 < 1 || n1 > exrMaxSide || n2 > exrMaxSide || n1*n2 > lim.Pixels {
		return o, formatErr("size %s x %s is not between 1 x 1 and %d pixels", f[3], f[1], lim.Pixels)
	}
	o.outer, o.inner = n1, n2
	y, x := f[0], f[2]
	o.w, o.h = n2, n1
	if o.turned = f[0] == "+X" || f[0] == "-X"; o.turned {
		x, y = f[0], f[2]
		o.w, o.h = n1, n2
	}
	if (x != "+X" && x != "-X") || (y != "+Y" && y != "-Y") {
		return o, bad
	}
	o.flipX, o.flipY = x == "-X", y == "+Y"
	return o, nil
}

// at is the place in the picture of value x of stored line y.
func (o *orientation) at(x, y int) int {
	if o.turned {
		x, y = y, x
	}
	if o.flipX {
		x = o.w - 1 - x
	}
	if o.flipY {
		y = o.h - 1 - y
	}
	return y*o.w + x
}

// radianceColour is what brings stored colour to Rec.709, or nil.
func radianceColour(xyz bool, p colour.Primaries) (*colour.Matrix, error) {
	switch {
	case xyz:
		// XYZ as primaries, with the even white that the format means.
		p = colour.Primaries{1, 0, 0, 1, 0, 0, 1.0 / 3, 1.0 / 3}
	case p == colour.Primaries{}, p == colour.Rec709:
		return nil, nil
	}
	m, ok := colour.Between(p, colour.Rec709)
	if !ok {
		return nil, formatErr("its PRIMARIES make no sense")
	}
	return &m, nil
}

// readHDRRow reads one stored line of four bytes a pixel. Which of the three codings a
// line has shows only in its first pixel: 2 2 and the width begin the new run-length
// code, in which each of the four planes is coded by itself.
func readHDRRow(r *bufio.Reader, row []byte) error {
	w := len(row) / 4
	short := formatErr("the pixels are cut short")
	var px [4]byte
	if _, err := io.ReadFull(r, px[:]); err != nil {
		return short
	}
	if w >= 8 && w < 32768 && px[0] == 2 && px[1] == 2 && int(px[2])<<8|int(px[3]) == w {
		for k := 0; k < 4; k++ {
			for x := 0; x < w; {
				c, err := r.ReadByte()
				if err != nil {
					return short
				}
				n, run := int(c), false
				if n > 128 {
					n, run = n-128, true
				}
				if n == 0 || x+n > w {
					return formatErr("a run leaves its line")
				}
				var v byte
				for i := 0; i < n; i++ {
					if i == 0 || !run {
						if v, err = r.ReadByte(); err != nil {
							return short
						}
					}
					row[(x+i)*4+k] = v
				}
				x += n
			}
		}
		return nil
	}
	// Flat pixels, or the old run-length code: 1 1 1 n repeats the last pixel.
	shift := 0
	for x := 0; ; {
		if px[0] == 1 && px[1] == 1 && px[2] == 1 && x > 0 {
			n := int(px[3]) << shift
			shift += 8
			if n == 0 || x+n > w || shift > 24 {
				return formatErr("a run leaves its line")
			}
			for ; n > 0; n-- {
				copy(row[x*4:x*4+4], row[x*4-4:x*4])
				x++
			}
		} else {
			copy(row[x*4:], px[:])
			x++
			shift = 0
		}
		if x == w {
			return nil
		}
		if _, err := io.ReadFull(r, px[:]); err != nil {
			return short
		}
	}
}

// WriteHDR writes p flat, without run-length encoding; every reader takes it.
func WriteHDR(w io.Writer, p *HDR) error {
	bw := bufio.NewWriter(w)
	fmt.Fprintf(bw, "#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y %d +X %d\n", p.H, p.W)
	for i := 0; i < p.W*p.H; i++ {
		px := toRGBE(p.Pix[i*3], p.Pix[i*3+1], p.Pix[i*3+2])
		if _, err := bw.Write(px[:]); err != nil {
			return err
		}
	}
	return bw.Flush()
}

// toRGBE shares the exponent of the largest; values below zero have no place in it.
func toRGBE(r, g, b float32) [4]byte {
	m := max(r, g, b)
	if !(m > 1e-32) {
		return [4]byte{}
	}
	_, e := math.Frexp(float64(m))
	s := math.Ldexp(1, 8-e)
	q := func(v float32) byte { return byte(min(255, max(0, float64(v)*s))) }
	return [4]byte{q(r), q(g), q(b), byte(e + 128)}
}
