package site

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/trustelem/zxcvbn"
)

// MinPassword is the shortest password accepted, characters; MostPassword the longest, bytes. Nothing is cut.
const (
	MinPassword  = 10
	MostPassword = 1000
)

// leastGuess is the least strength, 0 to 4: below it a password is on the lists of common ones, or nearly (the
// package's own scale: 2 takes more than a million guesses).
const leastGuess = 2

// judged is how much of a password its strength is judged by: more takes long and tells nothing new.
const judged = 72

func longer(password string) string {
	if len(password) > MostPassword {
		return fmt.Sprintf("Password: at most %d characters.", MostPassword)
	}
	return ""
}

// PasswordProblem says what is wrong with a password, empty when nothing is. Others are words it must not be made of:
// the name of the account.
func PasswordProblem(password string, others ...string) string {
	if n := utf8.RuneCountInString(password); n < MinPassword {
		return fmt.Sprintf("Password: at least %d characters.", MinPassword)
	}
	if why := longer(password); why != "" {
		return why
	}
	head := password
	if len(head) > judged {
		head = head[:judged]
	}
	if strings.TrimSpace(password) == "" ||
		zxcvbn.PasswordStrength(head, append(others, "rest bend", "restbend", "pilates")).Score < leastGuess {
		return "Password: this one is too common or too easy to guess. Three or four words that do not belong together are good."
	}
	return ""
}

// NameProblem says what is wrong with a name that people read: empty, too long, or made of what nobody sees.
func NameProblem(name string) string {
	seen := strings.ContainsFunc(name, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsNumber(r) })
	hidden := strings.ContainsFunc(name, func(r rune) bool {
		return r == utf8.RuneError || unicode.IsControl(r) || unicode.In(r, unicode.Cf, unicode.Co)
	})
	switch {
	case !seen || utf8.RuneCountInString(name) > 80:
		return "Name: give one of up to 80 characters."
	case hidden:
		return "Name: it holds characters that nobody sees."
	}
	return ""
}

// AccountProblem says what is wrong with a name and a password.
func AccountProblem(name, password string) string {
	if why := NameProblem(name); why != "" {
		return why
	}
	return PasswordProblem(password, name)
}
