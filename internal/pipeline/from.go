package pipeline

import (
	"context"
	"errors"
	"io/fs"
	"os"

	"amberproof/core/film"
	"amberproof/core/render"
	"amberproof/core/trace"
	"amberproof/internal/ticket"
)

// Why a picture cannot go on from another.
var (
	errFromGone    = errors.New("the picture that it goes on from is not there any more; run the ticket from the start")
	errFromChanged = errors.New("the picture that it goes on from has got more samples since; go on from it anew")
)

// begun tells whether there is a film of the frame already.
func (sh *Shot) begun() (bool, error) {
	if sh.FilmFile == "" {
		return false, nil
	}
	_, err := os.Stat(sh.FilmFile)
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	return err == nil, err
}

// takeOver begins the frame's film with all that another has, and decides at once which of its
// tiles stop. The new film is in its place as a whole or not at all.
func (sh *Shot) takeOver(ctx context.Context, from *ticket.From, o render.Order) error {
	if sh.FromFile == "" || sh.FilmFile == "" {
		return errFromGone
	}
	revision, err := film.Load(sh.FromFile, sh.Film, from.Film)
	switch {
	case errors.Is(err, fs.ErrNotExist), errors.Is(err, film.ErrOtherFilm):
		return errFromGone
	case err != nil:
		return err
	case revision != trace.Revision:
		return film.ErrOtherRevision
	case sh.Film.State() != from.State:
		return errFromChanged
	}
	sh.Film.Reopen(from.Rect())
	part := sh.FilmFile + ".part"
	if sh.keeper, err = film.KeepAs(part, sh.Film, sh.Key, trace.Revision); err != nil {
		return err
	}
	o.Keep, o.Settle = sh.keeper, true
	if sh.plan, err = render.NewPlan(ctx, sh.Film, o); err != nil {
		return err
	}
	if err := sh.keeper.Sync(); err != nil {
		return err
	}
	return os.Rename(part, sh.FilmFile)
}
