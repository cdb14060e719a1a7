package proofs

import (
	"context"
	"encoding/csv"
	"io"
	"math"
	"strconv"

	"amberproof/core/film"
	"amberproof/core/noise"
)

// NoiseMap is the noise of every tile of a picture, as its ticket looks at it. Tiles go from the
// left to the right and from the top down; those at the right and lower edge may be smaller.
type NoiseMap struct {
	Side    int        `json:"side" doc:"Of a tile, pixels"`
	Window  [4]int     `json:"window" nullable:"false" doc:"Rendered part of the frame: left, top, right, bottom in pixels"`
	Columns int        `json:"columns"`
	Rows    int        `json:"rows"`
	Target  float64    `json:"target" doc:"Percent of display white; 0: none"`
	Area    [4]int     `json:"area" nullable:"false" doc:"That goes on from another picture, all 0: all of it"`
	Plain   []*float64 `json:"plain" nullable:"false" doc:"Before noise is taken out, percent of display white; null where too few samples tell it"`
	Left    []*float64 `json:"left" nullable:"false" doc:"That the target is about: with denoising, what is left once noise is taken out; null where it is not known"`
	Samples []int      `json:"samples" nullable:"false" doc:"Of each pixel"`
	Settled []bool     `json:"settled" nullable:"false" doc:"Those that get no more samples"`
}

// NoiseMap measures the noise of every tile. Open asked whether p may be seen.
func (s *Service) NoiseMap(ctx context.Context, p *Proof) (NoiseMap, error) {
	f, t := p.Film, &p.Resolved.Ticket
	w := f.Window
	m := NoiseMap{Side: film.TileSize, Window: [4]int{w.Min.X, w.Min.Y, w.Max.X, w.Max.Y}, Columns: f.Cols, Rows: f.Rows, Target: t.Quality.Noise,
		Plain: []*float64{}, Left: []*float64{}, Samples: f.Counts(), Settled: []bool{}}
	if from := p.Resolved.From; from != nil {
		m.Area = from.Area
	}
	var plain []float64
	if err := s.inTurn(ctx, false, func() error { plain = p.plain(); return nil }); err != nil {
		return m, err
	}
	left, err := s.left(ctx, p, plain)
	if err != nil {
		return m, err
	}
	f.Locked(func() {
		for i := range f.Tiles {
			m.Settled = append(m.Settled, f.Tiles[i].Stopped)
		}
	})
	for i := range plain {
		m.Plain, m.Left = append(m.Plain, told(plain[i])), append(m.Left, told(left[i]))
	}
	return m, nil
}

// told is a noise that can be written down, to a thousandth of a percent; nil: none.
func told(n float64) *float64 {
	if math.IsInf(n, 0) || math.IsNaN(n) {
		return nil
	}
	n = math.Round(n*1000) / 1000
	return &n
}

// plain is the noise of the tiles of the film itself.
func (p *Proof) plain() []float64 {
	view := p.Resolved.Ticket.NoiseView()
	out := make([]float64, len(p.Film.Tiles))
	for i := range out {
		p.Film.Locked(func() { out[i] = view.OfTile(&p.Film.Tiles[i]) })
	}
	return out
}

// Judge says what noise is left of the tiles of a frame that is being rendered.
func (p *Proof) Judge(left []float64) { p.judged.Store(&left) }

// Left is the noise of the tiles that the target is about: of a picture that is going, as its plan
// judged it last.
func (s *Service) Left(ctx context.Context, p *Proof) ([]float64, error) {
	var plain []float64
	if !p.Resolved.Ticket.Quality.Denoise.On {
		plain = p.plain()
	}
	return s.left(ctx, p, plain)
}

func (s *Service) left(ctx context.Context, p *Proof, plain []float64) ([]float64, error) {
	d := &p.Resolved.Ticket.Quality.Denoise
	if !d.On {
		return plain, nil
	}
	if s.going(frame{p.Run, p.Frame}) {
		if judged := p.judged.Load(); judged != nil {
			return *judged, nil
		}
		out := make([]float64, len(p.Film.Tiles))
		for i := range out {
			out[i] = math.Inf(1)
		}
		return out, nil
	}
	films, err := s.Films(ctx, p)
	if err != nil {
		return nil, err
	}
	return p.Resolved.Ticket.NoiseView().OfDenoised(p.Film, films.Clean, noise.Taken{Amount: 1, Sparks: d.SparksAlone()}), nil
}

// WriteCSV writes a map as a table with a line for each tile (RFC 4180); what is not known is empty.
func (m *NoiseMap) WriteCSV(to io.Writer) error {
	w := csv.NewWriter(to)
	w.UseCRLF = true
	lines := [][]string{{"left", "top", "right", "bottom", "samples", "settled", "noise_percent", "noise_before_denoising_percent"}}
	number := func(n *float64) string {
		if n == nil {
			return ""
		}
		return strconv.FormatFloat(*n, 'f', -1, 64)
	}
	for i := range m.Samples {
		x, y := m.Window[0]+i%m.Columns*m.Side, m.Window[1]+i/m.Columns*m.Side
		lines = append(lines, []string{
			strconv.Itoa(x), strconv.Itoa(y), strconv.Itoa(min(x+m.Side, m.Window[2])), strconv.Itoa(min(y+m.Side, m.Window[3])),
			strconv.Itoa(m.Samples[i]), strconv.FormatBool(m.Settled[i]), number(m.Left[i]), number(m.Plain[i]),
		})
	}
	return w.WriteAll(lines)
}
