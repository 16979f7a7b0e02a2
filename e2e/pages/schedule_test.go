package pages_test

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// A page is withdrawn at a minute from its facts, dragged to another day, moved by keyboard, and
// kept live again; a freeze is refused as a minute.
func TestTheCalendar(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	lawns := testkit.EntryID(t, site, "/visitors/picnic-lawns")
	tab.Go("/studio/sitemap?at=" + lawns)
	pressPart(tab, "#beside a", "At a minute")
	tab.Until(`document.getElementById("wd-page")?.value === "Picnic lawns"`)
	day := time.Now().UTC().AddDate(0, 0, 8)
	for day.Weekday() != time.Tuesday {
		day = day.AddDate(0, 0, 1)
	}
	date := func(d time.Time) string { return d.Format(time.DateOnly) }
	tab.MustElement("#wd-at").MustInputTime(time.Date(day.Year(), day.Month(), day.Day(), 16, 30, 0, 0, time.Local))
	tab.MustEval(`() => { document.getElementById("wd-zone").value = "Europe/London" }`)
	pressPart(tab, "button", "Schedule withdrawal")
	tab.Until(`document.querySelector("[role=status].fine")?.innerText.includes("The page will be withdrawn at")`)

	tab.Go("/studio/edition/schedule?zone=Europe/London&day=" + date(day))
	item := `document.querySelector('.cal-item[data-id="` + lawns + `"]')`
	at := item
	tab.Until(at + `.closest(".cal-day").dataset.day === "` + date(day) + `"`)
	drag := `() => {
		const item = ` + at + `, to = document.querySelector('.cal-day[data-day="` + date(day.AddDate(0, 0, 2)) + `"]'), dataTransfer = new DataTransfer();
		for (const [on, type] of [[item, "dragstart"], [to, "dragover"], [to, "drop"]]) on.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer }));
	}`
	tab.MustEval(drag)
	tab.Until(at + `.closest(".cal-day").dataset.day === "` + date(day.AddDate(0, 0, 2)) + `" && ` + at + `.dataset.clock === "16:30"`)

	c := testkit.SignIn(t, site, "marta")
	status, body := c.Form("/studio/edition/schedule/freeze", map[string][]string{
		"from": {date(day) + "T08:00"}, "until": {date(day) + "T20:00"}, "zone": {"Europe/London"}, "why": {"Plant fair"},
	})
	require.Less(t, status, 400, string(body))
	tab.Go("/studio/edition/schedule?zone=Europe/London&day=" + date(day))
	tab.Until(`document.querySelector('.cal-day[data-day="` + date(day) + `"] .cal-frozen')?.innerText.includes("Plant fair")`)
	tab.MustEval(`() => { document.querySelector("table.list input[name=at]").value = "` + date(day) + `T10:00" }`)
	pressPart(tab, "table.list button", "Move")
	tab.Until(`document.querySelector("[role=alert]")?.innerText.includes("Plant fair")`)
	pressPart(tab, "table.list button", "Keep live")
	tab.Until(`document.querySelector("[role=status].fine")?.innerText.includes("stays live") && !` + at)

	t.Log("many things of a minute are one line, dragged as one and moved as one from its form")
	places := []string{"/visitors/picnic-lawns", "/visitors/cafe", "/visitors/guided-walks", "/visitors/first-aid/lost-children"}
	for _, place := range places {
		status, body := c.Form("/studio/edition/schedule/withdraw", map[string][]string{
			"page-id": {testkit.EntryID(t, site, place)}, "to": {"gone"}, "at": {date(day.AddDate(0, 0, 1)) + "T10:00"}, "zone": {"Europe/London"},
		})
		require.Less(t, status, 400, string(body))
	}
	all := func(clock string, d time.Time) string {
		return `document.querySelectorAll('.cal-day[data-day="` + date(d) + `"] .cal-minute .cal-item[data-clock="` + clock + `"]').length === 4`
	}
	tab.Go("/studio/edition/schedule?zone=Europe/London&day=" + date(day))
	tab.Until(all("10:00", day.AddDate(0, 0, 1)))
	at = `document.querySelector(".cal-all")`
	drag = strings.Replace(drag, "const item = "+item, "const item = "+at, 1)
	tab.MustEval(drag)
	tab.Until(all("10:00", day.AddDate(0, 0, 2)))
	tab.MustElement(".cal-all").MustFocus()
	testkit.Press(t, tab, input.Enter, input.Tab)
	tab.Until(`document.activeElement.matches(".cal-minute input[name=on]")`)
	tab.MustEval(`() => {
		document.activeElement.value = "` + date(day.AddDate(0, 0, 1)) + `";
		document.querySelector(".cal-minute input[name=clock]").value = "11:15";
	}`)
	testkit.Press(t, tab, input.Enter)
	tab.Until(all("11:15", day.AddDate(0, 0, 1)))
	tab.Until(`document.querySelector("[role=status].fine").innerText.startsWith("4 changes moved to ")`)
}
