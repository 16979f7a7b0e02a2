package account

// Look is how the site is called and looks, and how far its pages may be.
type Look struct {
	Name, Accent, Mark, Foot string
	MostClicks               int
}
