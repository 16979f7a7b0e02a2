package unanswered

import "strings"

// MostPatterns is how many patterns a site has at most.
const MostPatterns = 200

// Ignores tells whether a pattern is for an address. A pattern is an address, with a star at its
// beginning, its end or both that stands for anything: "/old/*", "*.php", "*/feed*".
func Ignores(pattern, address string) bool {
	pattern, address = strings.ToLower(pattern), strings.ToLower(address)
	rest, open := strings.CutPrefix(pattern, "*")
	middle, end := strings.CutSuffix(rest, "*")
	switch {
	case open && end:
		return middle != "" && strings.Contains(address, middle)
	case open:
		return rest != "" && strings.HasSuffix(address, rest)
	case end:
		return strings.HasPrefix(address, middle)
	}
	return address == pattern
}

// CleanPattern is a pattern as it is kept; empty where it is none: it is too short to mean
// something, or has a star in its middle.
func CleanPattern(text string) string {
	text = strings.TrimSpace(text)
	bare := strings.TrimSuffix(strings.TrimPrefix(text, "*"), "*")
	if len(bare) < 2 || len(text) > Longest || strings.Contains(bare, "*") || !strings.HasPrefix(text, "*") && !strings.HasPrefix(text, "/") {
		return ""
	}
	return text
}
