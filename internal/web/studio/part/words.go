package part

import (
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
)

func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%s %s", Thousands(n), many)
}

func Thousands(n int) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

func Verb(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

func UpperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// lowerFirst begins words of ours without a capital.
func LowerFirst(s string) string { return strings.ToLower(s[:1]) + s[1:] }

func OrElse(s, usual string) string {
	if s == "" {
		return usual
	}
	return s
}

// sentence makes an error's text a sentence.
func Sentence(err error) string {
	t := []rune(err.Error())
	if len(t) == 0 {
		return ""
	}
	if t[0] >= 'a' && t[0] <= 'z' {
		t[0] -= 'a' - 'A'
	}
	if last := t[len(t)-1]; last != '.' && last != '?' && last != '!' {
		t = append(t, '.')
	}
	return string(t)
}

func PersonName(people []plan.Person, id string) string {
	for _, p := range people {
		if p.ID == id {
			return p.Name
		}
	}
	return "somebody"
}
