package passes

import "amberproof/core/film"

// Films are what the passes of a picture are read off.
type Films struct {
	*film.Film
	// Clean is the film that denoise.Order.Run made of it, for denoised passes, and Amount
	// how much of what that took out is to be left out, 0 to 1.
	Clean  *film.Film
	Amount float32
}

// Of are the films of a picture without denoised passes.
func Of(f *film.Film) Films { return Films{Film: f} }

// blend brings values of a denoised pass to the amount, from those of the plain one.
func (f *Films) blend(plain, clean []float32) {
	a := f.Amount
	for i, p := range plain {
		clean[i] = float32((1-a)*p) + float32(a*clean[i]) // exact at both ends
	}
}
