package store

import (
	"context"

	"github.com/alexedwards/argon2id"
	"golang.org/x/sync/semaphore"
)

// argon2 parameters: 19 MiB, two passes, one lane (a current minimum recommendation).
var argon2 = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// MostHashes is how many passwords are hashed at once; the others wait their turn (product default).
const MostHashes = 4

var hashing = semaphore.NewWeighted(MostHashes)

// HashPassword hashes a password for an account.
func HashPassword(ctx context.Context, password string) (hash string, err error) {
	if err := hashing.Acquire(ctx, 1); err != nil {
		return "", err
	}
	defer hashing.Release(1)
	return argon2id.CreateHash(password, argon2)
}

// PasswordIs tells whether a password belongs to a hash. An empty hash takes the same time and is never right.
func PasswordIs(ctx context.Context, password, hash string) (bool, error) {
	const nobody = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"
	if err := hashing.Acquire(ctx, 1); err != nil {
		return false, err
	}
	defer hashing.Release(1)
	if hash == "" {
		_, err := argon2id.ComparePasswordAndHash(password, nobody)
		return false, err
	}
	return argon2id.ComparePasswordAndHash(password, hash)
}
