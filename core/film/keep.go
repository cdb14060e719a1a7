package film

import (
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"math"
	"os"
	"strconv"
	"strings"
)

// Keeper keeps the tiles of a film in a file as they grow, so that a run that
// is cut off at any moment goes on from there. Each tile has two slots that
// are written in turn; a slot counts only with its checksum right, so a torn
// write loses at most the last unit of that tile.
type Keeper struct {
	f    *os.File
	film *Film
	slot []byte // which slot each tile is written to next
	buf  []byte
	room int64
	base int64
}

const (
	keepMagic  = "AmberFilm3"
	slotHead   = 24 // samples, flags, entries, data bytes, checksum
	coverBytes = 12
)

var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// ErrOtherFilm is returned when a kept film does not belong to the picture.
var ErrOtherFilm = errors.New("the kept film belongs to another picture")

// ErrOtherRevision is returned when a kept film was begun by another revision
// of the renderer: going on with it would mix two pictures.
var ErrOtherRevision = errors.New("the kept film was begun by another revision of the renderer")

const headBytes = 512

// filmHead identifies a film: its picture, and who renders it.
func filmHead(f *Film, key string, revision int) []byte {
	magic := keepMagic
	if f.side == olderTileSize {
		magic = olderMagic
	}
	head := make([]byte, headBytes)
	copy(head, fmt.Sprintf("%s %d %s r%d", magic, len(f.Tiles), key, revision))
	return head
}

// samePicture compares two heads but for the revision; films of before there
// were revisions have none.
func samePicture(a, b []byte) bool {
	cut := func(h []byte) string {
		s := strings.TrimRight(string(h), "\x00")
		if i := strings.LastIndex(s, " r"); i >= 0 {
			s = s[:i]
		}
		return s
	}
	return cut(a) == cut(b)
}

// slotRoom bounds a slot. A pixel rarely shows more than four parts; a tile
// that needs more room keeps its older state and is rendered again after a cut.
func slotRoom(f *Film) int64 {
	l, px := &f.Layout, int64(f.side)*int64(f.side)
	n := slotHead + px*4*int64(l.Channels())
	if l.cover {
		n += px*4 + px*8*coverBytes
	}
	return (n + 511) &^ 511
}

// Keep opens or makes the file at path for f, and fills f with what is kept
// there. key tells pictures apart: a file with another key is ErrOtherFilm, one
// that another revision of the renderer began ErrOtherRevision.
func Keep(path string, f *Film, key string, revision int) (*Keeper, error) {
	file, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, err
	}
	k := newKeeper(file, f)
	head := filmHead(f, key, revision)
	have := make([]byte, headBytes)
	n, err := io.ReadFull(file, have)
	switch {
	case err == io.EOF || err == io.ErrUnexpectedEOF && n < headBytes:
		if _, err := file.WriteAt(head, 0); err != nil {
			return nil, errors.Join(err, file.Close())
		}
		return k, nil
	case err != nil:
		return nil, errors.Join(err, file.Close())
	case samePicture(have, filmHead(olderGrid(f), key, 0)):
		return nil, errors.Join(ErrOtherRevision, file.Close())
	case !samePicture(have, head):
		return nil, errors.Join(ErrOtherFilm, file.Close())
	case string(have) != string(head):
		return nil, errors.Join(ErrOtherRevision, file.Close())
	}
	for i := range f.Tiles {
		k.load(i)
	}
	return k, nil
}

// KeepAs makes a file at path for f as it is, to be kept under key from now on. What is there
// already is lost.
func KeepAs(path string, f *Film, key string, revision int) (*Keeper, error) {
	file, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return nil, err
	}
	k := newKeeper(file, f)
	_, err = file.WriteAt(filmHead(f, key, revision), 0)
	for i := 0; err == nil && i < len(f.Tiles); i++ {
		err = k.Save(i)
	}
	if err != nil {
		return nil, errors.Join(err, file.Close())
	}
	return k, nil
}

// Load fills f with the film kept at path, whatever revision of the renderer
// made it, and returns that revision; films of before there were any have 0.
func Load(path string, f *Film, key string) (revision int, err error) {
	file, err := os.Open(path)
	if err != nil {
		return 0, err
	}
	defer file.Close()
	have := make([]byte, headBytes)
	_, err = io.ReadFull(file, have)
	older := olderGrid(f)
	switch {
	case err != nil:
		return 0, ErrOtherFilm
	case samePicture(have, filmHead(f, key, 0)):
		k := newKeeper(file, f)
		for i := range f.Tiles {
			k.load(i)
		}
	case samePicture(have, filmHead(older, key, 0)):
		newKeeper(file, older).loadInto(f)
	default:
		return 0, ErrOtherFilm
	}
	return revisionOf(have), nil
}

// Revision is the revision of the renderer that made the film kept at path.
func Revision(path string) (int, error) {
	file, err := os.Open(path)
	if err != nil {
		return 0, err
	}
	defer file.Close()
	head := make([]byte, headBytes)
	if _, err := io.ReadFull(file, head); err != nil {
		return 0, ErrOtherFilm
	}
	return revisionOf(head), nil
}

// revisionOf reads the renderer's revision out of a head.
func revisionOf(head []byte) int {
	_, r, _ := strings.Cut(strings.TrimRight(string(head), "\x00"), " r")
	n, err := strconv.Atoi(r)
	if err != nil {
		return 0
	}
	return n
}

func newKeeper(file *os.File, f *Film) *Keeper {
	return &Keeper{f: file, film: f, slot: make([]byte, len(f.Tiles)), room: slotRoom(f), base: headBytes}
}

// Close closes the file.
func (k *Keeper) Close() error { return k.f.Close() }

// Sync has all that was saved outlast a crash of the machine.
func (k *Keeper) Sync() error { return k.f.Sync() }

func (k *Keeper) at(tile int, slot byte) int64 {
	return k.base + (int64(tile)*2+int64(slot))*k.room
}

// Save writes a tile's state to the slot not holding its last good one.
func (k *Keeper) Save(tile int) error {
	t := &k.film.Tiles[tile]
	b := append(k.buf[:0], make([]byte, slotHead)...)
	for _, v := range t.Data {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
	}
	for _, h := range t.Heads {
		b = binary.LittleEndian.AppendUint32(b, uint32(h))
	}
	for _, e := range t.Entries {
		b = binary.LittleEndian.AppendUint32(b, e.Part)
		b = binary.LittleEndian.AppendUint32(b, uint32(e.Next))
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(e.Weight))
	}
	k.buf = b
	if int64(len(b)) > k.room {
		return nil
	}
	flags := uint32(0)
	if t.Stopped {
		flags = 1
	}
	binary.LittleEndian.PutUint32(b[0:], uint32(t.Samples))
	binary.LittleEndian.PutUint32(b[4:], flags)
	binary.LittleEndian.PutUint32(b[8:], uint32(len(t.Entries)))
	binary.LittleEndian.PutUint32(b[12:], uint32(len(b)))
	binary.LittleEndian.PutUint32(b[16:], crc32.Checksum(b[slotHead:], castagnoli))
	binary.LittleEndian.PutUint32(b[20:], crc32.Checksum(b[:20], castagnoli))
	if _, err := k.f.WriteAt(b, k.at(tile, k.slot[tile])); err != nil {
		return fmt.Errorf("keeping the film: %w", err)
	}
	k.slot[tile] ^= 1
	return nil
}

// load takes the better of a tile's two slots.
func (k *Keeper) load(tile int) {
	t := &k.film.Tiles[tile]
	var best []byte
	for s := byte(0); s < 2; s++ {
		b := make([]byte, k.room)
		n, _ := k.f.ReadAt(b, k.at(tile, s))
		if n < slotHead || crc32.Checksum(b[:20], castagnoli) != binary.LittleEndian.Uint32(b[20:]) {
			continue
		}
		size := int(binary.LittleEndian.Uint32(b[12:]))
		if size < slotHead || size > n || crc32.Checksum(b[slotHead:size], castagnoli) != binary.LittleEndian.Uint32(b[16:]) {
			continue
		}
		if best == nil || better(b, best) {
			best = b[:size]
			k.slot[tile] = s ^ 1
		}
	}
	if best == nil {
		return
	}
	entries := int(binary.LittleEndian.Uint32(best[8:]))
	if slotHead+4*(len(t.Data)+len(t.Heads))+coverBytes*entries != len(best) {
		return
	}
	t.Samples = int(binary.LittleEndian.Uint32(best))
	t.Stopped = binary.LittleEndian.Uint32(best[4:])&1 == 1
	b := best[slotHead:]
	for i := range t.Data {
		t.Data[i] = math.Float32frombits(binary.LittleEndian.Uint32(b[i*4:]))
	}
	b = b[4*len(t.Data):]
	for i := range t.Heads {
		t.Heads[i] = int32(binary.LittleEndian.Uint32(b[i*4:]))
	}
	b = b[4*len(t.Heads):]
	t.Entries = make([]Cover, entries)
	for i := range t.Entries {
		t.Entries[i] = Cover{
			Part:   binary.LittleEndian.Uint32(b[i*12:]),
			Next:   int32(binary.LittleEndian.Uint32(b[i*12+4:])),
			Weight: math.Float32frombits(binary.LittleEndian.Uint32(b[i*12+8:])),
		}
	}
}

// better reports whether slot a is newer than b: more samples, or as many and stopped.
func better(a, b []byte) bool {
	na, nb := binary.LittleEndian.Uint32(a), binary.LittleEndian.Uint32(b)
	return na > nb || na == nb && binary.LittleEndian.Uint32(a[4:]) > binary.LittleEndian.Uint32(b[4:])
}
