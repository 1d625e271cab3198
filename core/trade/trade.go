// Package trade holds the words of the trade as types. They are read once, where a document, a
// form, an address or a row comes in, and compared by name everywhere else.
package trade

// Side is a side of the client, or how the sides of an exercise are done.
type Side string

// The sides. An empty Side is one that nobody named.
const (
	None      Side = "none" // the exercise has no sides
	Left      Side = "left"
	Right     Side = "right"
	Each      Side = "each"      // all of one side, then the other
	Alternate Side = "alternate" // in turn
	Even      Side = "even"      // both alike, where a check compared them
)

// BothSides are left and right.
var BothSides = [2]Side{Left, Right}

// One tells whether it is the left or the right.
func (s Side) One() bool { return s == Left || s == Right }

// Other is the right for the left and the left for the right; anything else stays.
func (s Side) Other() Side {
	switch s {
	case Left:
		return Right
	case Right:
		return Left
	}
	return s
}

// ParseSide reads left or right.
func ParseSide(text string) (s Side, ok bool) { return Side(text), Side(text).One() }

// Lying is what a client lies on.
type Lying string

// What a client lies on.
const (
	OnLeft  Lying = "left"
	OnRight Lying = "right"
	OnBack  Lying = "back"
	OnFront Lying = "front"
)

// Other is what is lain on when left and right are changed.
func (l Lying) Other() Lying { return Lying(Side(l).Other()) }

// Side is the side lain on; ok is false on the back and on the front.
func (l Lying) Side() (s Side, ok bool) { return Side(l), l == OnLeft || l == OnRight }

// Position is how a body is placed in an exercise.
type Position string

// The positions, from the floor up.
const (
	Supine      Position = "supine"
	SideLying   Position = "side"
	Prone       Position = "prone"
	AllFours    Position = "all-fours"
	Kneeling    Position = "kneeling"
	HalfKneel   Position = "half-kneeling"
	LongSitting Position = "long-sitting"
	Sitting     Position = "sitting"
	Standing    Position = "standing"
)

// Positions in the order of getting up.
var Positions = []Position{Supine, SideLying, Prone, AllFours, Kneeling, HalfKneel, LongSitting, Sitting, Standing}

// Lies tells whether the trunk lies.
func (p Position) Lies() bool { return p == Supine || p == SideLying || p == Prone }

// Kneels tells whether a knee stands on the ground.
func (p Position) Kneels() bool { return p == AllFours || p == Kneeling || p == HalfKneel }

// Upright tells whether the feet stay below: sitting on something or standing.
func (p Position) Upright() bool { return p == Sitting || p == Standing }

// Surface is what an exercise is done on.
type Surface string

// The surfaces.
const (
	Mat      Surface = "mat"
	Bed      Surface = "bed"
	Chair    Surface = "chair"
	Sofa     Surface = "sofa"
	Counter  Surface = "counter"
	Wall     Surface = "wall"
	Carriage Surface = "spring-carriage"
)

// Surfaces lists them.
var Surfaces = []Surface{Mat, Bed, Chair, Sofa, Counter, Wall, Carriage}

// Role is what an item is for in a session.
type Role string

// The roles.
const (
	Open  Role = "open"
	Main  Role = "main"
	Reset Role = "reset"
	Close Role = "close"
)

// Verdict is what screening says of an exercise for a client.
type Verdict string

// The verdicts, mildest first.
const (
	Suits      Verdict = "suits"
	Adapt      Verdict = "adapt"
	LeaveOut   Verdict = "leave-out"
	ReferFirst Verdict = "refer-first"
)

// Decision is what an exercise does next time.
type Decision string

// The decisions, mildest first.
const (
	Up      Decision = "up"
	Stay    Decision = "stay"
	Cap     Decision = "cap"
	Instead Decision = "instead" // it no longer suits: another exercise of the same main aim
	Down    Decision = "down"
	Rest    Decision = "rest"
	Refer   Decision = "refer"
)

// Clinician is the role of somebody who writes a clearance; the list is data of the limits.
type Clinician string

// Words are a list of words as plain text.
func Words[W ~string](list []W) []string {
	out := make([]string, len(list))
	for i, w := range list {
		out[i] = string(w)
	}
	return out
}

// List are plain words as words of the trade, when somebody has checked them.
func List[W ~string](words []string) []W {
	if words == nil {
		return nil
	}
	out := make([]W, len(words))
	for i, w := range words {
		out[i] = W(w)
	}
	return out
}
