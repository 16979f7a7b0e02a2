package part

import (
	"strings"

	"candlepath/internal/core/readership"
)

// mostNamed is how many people who lose something are named.
const mostNamed = 5

// LossWords tells in a sentence who stops being able to read how many pages; empty where nobody does.
func LossWords(l readership.Loss) string {
	if l.Pages == 0 {
		return ""
	}
	var who []string
	if l.Anyone > 0 {
		who = append(who, "everyone who is not named")
	}
	if n := len(l.People); n > 0 {
		named := l.People[:min(n, mostNamed)]
		more := ""
		if n > len(named) {
			more = " and " + Count(n-len(named), "other", "others")
		}
		who = append(who, Count(n, "person", "people")+" in the studio ("+strings.Join(named, ", ")+more+")")
	}
	return Count(l.Pages, "live page", "live pages") + " can no longer be read by " + strings.Join(who, " and ") + "."
}
