package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"

	"amberproof/internal/mariadb"
	"amberproof/internal/pipeline"
	"amberproof/internal/store"
)

// leastDisk is the free space below which a start is refused: the database
// would fail in the middle of something.
const leastDisk = 256 << 20

// openFolder locks a data folder, starts its database and brings that up to date. leave ends
// all of it.
func openFolder(ctx context.Context, dir string) (st *store.Store, db *mariadb.Server, leave func() error, err error) {
	unlock, err := lockFolder(dir)
	if err != nil {
		return nil, nil, nil, err
	}
	leave = func() error { unlock(); return nil }
	defer func() {
		if err != nil {
			err = errors.Join(err, leave())
		}
	}()
	if db, err = mariadb.Start(ctx, filepath.Join(dir, "db"), false, say); err != nil {
		return nil, nil, nil, err
	}
	leave = func() error { defer unlock(); return db.Stop() }
	if st, err = store.Open(ctx, db.DSN("amberproof")); err != nil {
		return nil, nil, nil, err
	}
	leave = func() error { defer unlock(); return errors.Join(st.Close(), db.Stop()) }
	if err = st.Migrate(ctx); err != nil {
		err = fmt.Errorf("bringing the database up to date: %w", err)
	}
	return st, db, leave, err
}

// lockFolder makes the data folder and keeps a second server out of it.
func lockFolder(dir string) (unlock func(), err error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w", dir, err)
	}
	var fs syscall.Statfs_t
	if err := syscall.Statfs(dir, &fs); err == nil {
		if free := int64(fs.Bavail) * fs.Bsize; free < leastDisk {
			return nil, fmt.Errorf("the disk of the data folder %s has only %s left; make room or name another folder with --data", dir, pipeline.Size(free))
		}
	}
	l, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be written: %w", dir, err)
	}
	if err := syscall.Flock(int(l.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		return nil, errors.Join(fmt.Errorf("another Amber Proof is using the data folder %s; end it or name another folder with --data", dir), l.Close())
	}
	return func() { _ = l.Close() }, nil // closing unlocks
}
