package site_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// An editor sends two things for review, with the keyboard; the approver sees what exactly
// changes, remarks at a block, sends one back with a word and approves the other, which then goes
// out; what was sent back does not.
func TestReviewByHand(t *testing.T) {
	site := kit.Site(t, true)
	_, err := site.Pool.Exec(t.Context(), `UPDATE sites SET settings = settings || '{"review": "on", "four-eyes": "on"}'`)
	require.NoError(t, err)
	hours, groups := testkit.EntryID(t, site, "/visitors/opening-hours"), testkit.EntryID(t, site, "/volunteers/wednesday-group")
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/edition")
	tab.MustElementR("h1", "0 of 10 changes")
	tab.MustElementR("button", "Select all").MustClick()
	tab.MustElementR(".next-check", "needs approval before it is published")
	require.True(t, tab.MustElementR("button", "Publish edition").MustProperty("disabled").Bool())
	tab.MustElementR(".next-check a", "Send for review").MustClick()
	tab.MustElementR(".chip.on", "All drafts")
	tab.MustElement("input[name=id]:checked").MustClick()
	tab.MustElementR("#act button", "Send selected").MustClick()
	tab.MustElementR("[role=alert]", "Select at least one item")
	for _, id := range []string{hours, groups} {
		tab.MustElement("input[name=id][value='" + id + "']").MustFocus()
		tab.Keyboard.MustType(input.Space)
	}
	tab.MustElement("#rv-to").MustSelect("Anselm Friis")
	tab.MustElement("#rv-message").MustInput("Before the season begins")
	tab.MustElement("#rv-message").MustType(input.Enter)
	tab.MustElementR("[role=status]", "Sent 2 items for review")
	tab.Go("/studio/edition/review?show=from")
	tab.MustElementR(".review-thing", "in review, sent by Ines Barrow to Anselm Friis")
	require.Empty(t, tab.Problems())

	tab.SignIn("anselm")
	tab.Go("/studio/inbox")
	tab.MustElementR("tbody", "Ines Barrow asked you to review .*Before the season begins")
	tab.MustElementR("tbody a", "Review it").MustClick()
	tab.MustElementR(".chip.on", "Sent to me 3")
	tab.MustElementR(".things a", "Opening hours").MustClick()
	tab.MustElementR(".review-thing h2", "Opening hours")
	tab.MustElementR(".review-facts ins", "half an hour earlier")
	tab.MustElementR(".review-block.review-came", "School groups")
	tab.MustEval(`() => getSelection().selectAllChildren(document.querySelector(".review-came .as-written"))`)
	tab.MustElementR(".review-came summary", "Comment on this").MustClick()
	tab.Until("document.querySelector('.review-came [data-quote]').value.startsWith('School groups may come')")
	tab.MustElement(".review-came textarea").MustInput("From which week on?")
	tab.MustElementR(".review-came button", "^Add comment$").MustClick()
	tab.MustElementR(".review-came .remark", "School groups may come[^]*From which week on")
	tab.MustElementR("a.chip", "Side by side").MustClick()
	tab.MustElementR(".two-sides del", "10–18")
	tab.MustElement("input[name=id][value='" + hours + "']").MustClick()
	tab.MustElementR("#act button", "Send back selected").MustClick()
	tab.MustElementR("[role=alert]", "Say what needs fixing")
	require.True(t, tab.MustElement("input[name=id][value='"+hours+"']").MustProperty("checked").Bool(), "what was ticked stays ticked")
	tab.MustElement("#rv-word").MustInput("Say from when")
	tab.MustElementR(".review-one button", "Send back this one").MustClick()
	tab.MustElementR("[role=status]", "Sent back 1 item")
	tab.MustElementR(".review-thing h2", "Wednesday and Friday groups")
	tab.MustElementR(".review-one button", "Approve this one").MustClick()
	tab.MustElementR("[role=status]", "Approved 1 item")
	tab.MustElementR(".chip.on", "Sent to me 1")

	t.Log("it is given a minute, which is taken away again")
	tab.MustElementR("a.chip", "Approved 1").MustClick()
	tab.MustElement("#rv-zone").MustSelectAllText().MustInput("Europe/London")
	at := tab.MustElement("#rv-at")
	for at2, says := range map[string]string{"2020-01-01T09:00": "has passed", "2031-03-30T01:30": "does not exist"} {
		at.MustEval("(v) => { this.value = v }", at2)
		tab.MustElement("input[name=id]").MustEval("() => { this.checked = true }")
		tab.MustElementR("#act button", "Schedule selected").MustClick()
		tab.MustElementR("[role=alert]", says)
		at = tab.MustElement("#rv-at")
	}
	at.MustEval("(v) => { this.value = v }", "2031-03-30T09:30")
	tab.MustElementR("#act button", "Schedule selected").MustClick()
	tab.MustElementR("[role=status]", "1 change scheduled for 30 March 2031, 09:30 in Europe/London")
	tab.MustElementR("a.chip", "Scheduled 1").MustClick()
	tab.MustElementR(".things .here", "publishes 30 Mar 2031, 08:30 UTC")
	tab.MustElement("input[name=id]").MustClick()
	tab.MustElementR("#act button", "Unschedule selected").MustClick()
	tab.MustElementR("[role=status]", "Unscheduled 1 item")
	require.Empty(t, tab.Problems())

	tab.SignIn("ines")
	tab.Go("/studio/edition/review?show=mine&id=" + hours)
	tab.MustElementR(".things .here", "sent back by Anselm Friis[^]*Say from when")
	tab.MustElementR(".remark summary", "Reply or resolve").MustClick()
	tab.MustElement(".remark textarea").MustInput("From the first of March")
	tab.MustElementR(".remark button", "^Reply$").MustClick()
	tab.MustElementR(".remark .answer", "From the first of March")
	tab.MustElementR(".remark summary", "Reply or resolve").MustClick()
	tab.MustElementR(".remark button", "^Resolve$").MustClick()
	tab.MustElementR(".remark.settled", "resolved")
	require.Empty(t, tab.Problems())

	testkit.PublishOnly(t, site, "The groups have a name", func(aspect string) bool { return aspect == "title" })
	_, body := testkit.AskFor(t, "GET", site.URL+"/volunteers/wednesday-group", nil)
	require.Contains(t, body, "Wednesday and Friday groups")
}

// Who may publish sends a small correction out at once: only that page, with what it needs, and
// a sentence why. Where approval is asked it is not possible, and says so.
func TestPublishingOnePageNow(t *testing.T) {
	site := kit.Site(t, true)
	hours := testkit.EntryID(t, site, "/visitors/opening-hours")
	tab := browser.Open(t, site.URL)
	tab.SignIn("anselm")
	t.Log("a draft is scheduled at once, since no review is asked")
	groups := testkit.EntryID(t, site, "/volunteers/wednesday-group")
	tab.Go("/studio/edition/review?show=drafts&id=" + groups)
	tab.MustElementR("#act summary", "Schedule without review").MustClick()
	tab.MustElement("#rv-at").MustEval("() => { this.value = '2031-03-31T09:30' }")
	tab.MustElement("#rv-zone").MustSelectAllText().MustInput("Europe/London")
	tab.MustElementR("#act button", "Schedule selected").MustClick()
	tab.MustElementR("[role=status]", "1 change scheduled for 31 March 2031, 09:30 in Europe/London")
	tab.Go("/studio/pages/" + hours)
	tab.MustElementR("a.btn", "Publish now").MustClick()
	tab.MustElementR("h1", "Publish “Opening hours” now")
	tab.MustElementR("main li", "content edited")
	tab.MustElement("#now-why").MustInput("The gates open earlier")
	tab.MustElementR("button", "Publish now").MustClick()
	tab.MustElementR("main", "The gates open earlier")
	_, body := testkit.AskFor(t, "GET", site.URL+"/visitors/opening-hours", nil)
	require.Contains(t, body, "half an hour earlier")
	var planned int
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM page_spans WHERE from_edition IS NULL`).Scan(&planned))
	require.Equal(t, 1, planned, "the other draft stays")

	t.Log("a page below a new one takes that along, and where approval is asked it has to come first")
	vault := testkit.EntryID(t, site, "/seed-vault")
	tab.Go("/studio/edition/now?id=" + vault)
	tab.MustElementR(".points", "Science")
	_, err := site.Pool.Exec(t.Context(), `UPDATE sites SET settings = settings || '{"review": "on"}'`)
	require.NoError(t, err)
	tab.Go("/studio/edition/now?id=" + vault)
	tab.MustElementR(".points", "needs approval before it is published")
	require.True(t, tab.MustElementR("button", "Publish now").MustProperty("disabled").Bool())
	tab.Go("/studio/edition/now?id=" + hours)
	tab.MustElementR(".empty", "Nothing to publish")
	require.Empty(t, tab.Problems())
}
