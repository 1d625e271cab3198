package plan

import (
	"errors"
	"fmt"
)

// Denied is a change that is refused: the field of the change that is at fault, and what is wrong,
// in words for the instructor.
type Denied struct{ Field, Say string }

func (d *Denied) Error() string { return d.Field + ": " + d.Say }

// Deny is a refusal of one field of a change, with what was found and what is allowed.
func Deny(field, format string, a ...any) error { return &Denied{field, fmt.Sprintf(format, a...)} }

// Why is what is wrong with a change, without the name of its field.
func Why(err error) string {
	var d *Denied
	if errors.As(err, &d) {
		return d.Say
	}
	return err.Error()
}
