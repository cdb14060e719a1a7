package imageio

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// HDR is a Radiance picture: scene-linear RGB, row by row from the top.
type HDR struct {
	W, H int
	Pix  []float32 // 3 per pixel
}

// ReadHDR reads a Radiance RGBE picture (Ward 1991), flat or run-length
// encoded in the old or the new way, in the usual top-down orientation.
func ReadHDR(b []byte, lim Limits) (*HDR, error) {
	r := bufio.NewReader(bytes.NewReader(b))
	line := func() (string, error) {
		s, err := r.ReadString('\n')
		if err != nil || len(s) > 4096 {
			return "", formatErr("the header is cut short")
		}
		return strings.TrimRight(s, "\r\n"), nil
	}
	first, err := line()
	if err != nil || !strings.HasPrefix(first, "#?") {
		return nil, formatErr("not a Radiance picture")
	}
	for {
		s, err := line()
		if err != nil {
			return nil, err
		}
		if s == "" {
			break
		}
		if f, ok := strings.CutPrefix(s, "FORMAT="); ok && f != "32-bit_rle_rgbe" {
			return nil, formatErr("Radiance format %q is not supported; save it as 32-bit_rle_rgbe", f)
		}
	}
	res, err := line()
	if err != nil {
		return nil, err
	}
	f := strings.Fields(res)
	if len(f) != 4 || f[0] != "-Y" || f[2] != "+X" {
		return nil, formatErr("resolution line %q; only the orientation -Y H +X W is supported", res)
	}
	h, err1 := strconv.Atoi(f[1])
	w, err2 := strconv.Atoi(f[3])
	if err1 != nil || err2 != nil || w < 1 || h < 1 || w > exrMaxSide || h > exrMaxSide || w*h > lim.Pixels {
		return nil, formatErr("size %s x %s is not between 1 x 1 and %d pixels", f[3], f[1], lim.Pixels)
	}
	// A run covers at most 127 bytes with two: a file much shorter than that is
	// refused before memory is taken.
	if len(b) < w*h/256 {
		return nil, formatErr("the file is too short for its %d x %d pixels", w, h)
	}
	p := &HDR{W: w, H: h, Pix: make([]float32, w*h*3)}
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
			s := float32(math.Ldexp(1, int(e)-136))
			for k := 0; k < 3; k++ {
				p.Pix[(y*w+x)*3+k] = (float32(row[x*4+k]) + 0.5) * s
			}
		}
	}
	return p, nil
}

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
