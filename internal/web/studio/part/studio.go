package part

import (
	"time"
)

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

// moment is how times are shown; a script turns them into the viewer's zone.
type Moment struct{ ISO, Words string }

func At(t time.Time) Moment {
	if t.IsZero() {
		return Moment{}
	}
	return Moment{t.UTC().Format(time.RFC3339), t.UTC().Format("2 Jan 2006, 15:04") + " UTC"}
}
