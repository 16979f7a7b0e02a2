package part

func OrElse(s, usual string) string {
	if s == "" {
		return usual
	}
	return s
}
