// Package secrets keeps what only some may know: it hashes passwords and phrases, draws the
// tokens of links, and slows down who guesses.
package secrets

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"

	"github.com/alexedwards/argon2id"
)

// hashing is argon2id with the least that OWASP advises (Password Storage Cheat Sheet, 2024):
// 19 MiB, two passes.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// mostHashes is how many are hashed at once: each takes memory and a core.
const mostHashes = 2

// Longest is how long a password or a phrase may be, bytes: longer ones match nothing.
const Longest = 200

var hashes = make(chan struct{}, mostHashes)

// inTurn has f run while few others do.
func inTurn(ctx context.Context, f func() error) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case hashes <- struct{}{}:
	}
	defer func() { <-hashes }()
	return f()
}

// Hash is what is kept of a password, in PHC form.
func Hash(ctx context.Context, password string) (hash string, err error) {
	err = inTurn(ctx, func() error {
		hash, err = argon2id.CreateHash(password, hashing)
		return err
	})
	return hash, err
}

// Nobodys is the hash of a password that nobody has: what is compared where there is no such
// person takes the same time.
var Nobodys, _ = argon2id.CreateHash(rand.Text(), hashing)

// Matches tells whether a hash is that of a password.
func Matches(ctx context.Context, password, hash string) (ok bool, err error) {
	if len(password) > Longest {
		return false, nil
	}
	err = inTurn(ctx, func() error {
		ok, err = argon2id.ComparePasswordAndHash(password, hash)
		return err
	})
	return ok, err
}

// NewToken draws a token of 128 bits, and tells the checksum that is kept of it.
func NewToken() (token, sum string) {
	token = rand.Text()
	return token, Sum(token)
}

// Sum is the checksum that is kept of a token: who reads it cannot use it.
func Sum(token string) string {
	h := sha256.Sum256([]byte(token))
	return hex.EncodeToString(h[:])
}
