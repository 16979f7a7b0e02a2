package content

import "time"

// NewsField is the key under which a page keeps the day on which it goes out as news, as
// 2026-11-27. No template has a field of this key.
const NewsField = "news:day"

// NewsDay gives the day on which a page goes out as news; empty: it does not.
func NewsDay(p Page) string {
	day := p.Fields[NewsField]
	if _, err := time.Parse(time.DateOnly, day); err != nil {
		return ""
	}
	return day
}
