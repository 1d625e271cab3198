package store

import "github.com/alexedwards/argon2id"

// argon2 parameters: 19 MiB, two passes, one lane (a current minimum recommendation).
var argon2 = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashPassword hashes a password for an account.
func HashPassword(password string) (string, error) { return argon2id.CreateHash(password, argon2) }
