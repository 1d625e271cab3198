package catalogue

// Household is what does instead of a prop at home; props that are not here have no
// substitute. Source: common practice.
var Household = map[string]string{
	"mat": "a carpet or a folded blanket", "pillow": "a folded blanket or jacket", "towel": "a folded T-shirt",
	"cushion": "a folded blanket",
	"dowel":   "a broom handle", "dumbbell": "a full water bottle or a light bag",
	"ball": "a rolled-up towel or a firm cushion", "strap": "a long scarf or a belt",
	"bolster": "a firmly rolled blanket",
}

// Comfort tells whether something soft from any household does for a prop: going without it
// is a note, never a reason to leave an exercise out.
func Comfort(kit string) bool { return Has([]string{"towel", "pillow", "cushion", "mat"}, kit) }

// WithHelp are all the props an entry names: what it needs and what helps.
func (v *Version) WithHelp() []string { return append(append([]string{}, v.Kit...), v.Helpful...) }
