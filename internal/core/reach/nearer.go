package reach

// nearer is what a search changed that looks for what one more link brings nearer.
type nearer struct {
	pages    []was
	revealed []int
}

type was struct{ page, clicks int }

// linked tells which pages one more link brings nearer, and from how many clicks to
// how many. The search holds the clicks without it, and holds them again
// afterwards. Only pages that come nearer are left for others: what leads on from
// one that does not was found before.
func (s *search) linked(from, to int, tell func(page, was, now int)) {
	s.nearer = &nearer{}
	clicks := s.Clicks[from] + 1
	s.reach(to, from, Tile, -1, clicks)
	s.run(clicks + 1)
	for _, p := range s.nearer.pages {
		tell(p.page, p.clicks, s.Clicks[p.page])
	}
	for _, p := range s.nearer.pages {
		s.Clicks[p.page] = p.clicks
	}
	for _, a := range s.nearer.revealed {
		s.revealed[a] = false
	}
	s.nearer = nil
}
