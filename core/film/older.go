package film

// Films that were kept before tiles became smaller are still shown.
const (
	olderMagic    = "AmberFilm2"
	olderTileSize = 32 // a multiple of TileSize
)

// olderGrid is a film's window in the larger tiles, without sums.
func olderGrid(f *Film) *Film { return grid(f.Window, f.Layout, olderTileSize) }

// loadInto fills a film with the larger tiles of this one, one after the other.
func (k *Keeper) loadInto(f *Film) {
	for i := range k.film.Tiles {
		t := &k.film.Tiles[i]
		t.Sums = NewSums(k.film.Rect(i), f.Layout)
		k.load(i)
		for y := t.Rect.Min.Y; y < t.Rect.Max.Y; y++ {
			for x := t.Rect.Min.X; x < t.Rect.Max.X; x++ {
				to := f.tileAt(x, y)
				to.Samples, to.Stopped = t.Samples, t.Stopped
				from, at := t.place(x, y), to.place(x, y)
				copy(to.Pixel(at), t.Pixel(from))
				if to.Heads != nil {
					to.addCovers(at, t.Sums, from)
				}
			}
		}
		t.Sums = nil
	}
}
