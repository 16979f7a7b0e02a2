package reading

// Hit is one page that a search found.
type Hit struct {
	EntryID string
	Snippet string // matches between the marks \x01 and \x02
	Rank    float64
}
